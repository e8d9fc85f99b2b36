// Package api serves the interface and its contract: sign-in, roles, and every
// route of openapi.yaml. It decides who may see what; the rules of the job are
// in core.
package api

//go:generate go tool oapi-codegen -config oapi.yaml openapi.yaml

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Kernel carries out tasks; kernel/pool does.
type Kernel interface {
	Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error)
	// Spread carries out tasks that belong together, Size at a time.
	Spread(ctx context.Context, reqs []*task.Request, progress func(task.Progress)) ([]json.RawMessage, error)
	Size() int
}

// Server implements ServerInterface on the store and the kernel.
type Server struct {
	store    *store.Store
	kernel   Kernel
	font     *lettering.Font
	sessions *scs.SessionManager
	log      *slog.Logger
	models   running
	hashing  chan struct{} // a place for each password that is hashed at the same time
	recent   recent
	odd      sync.Map // what looks odd at an issue, by its attempts as they are: []desk.Oddity
	// exercises keeps the exercises of versions, by id: an *exercise.Exercise each.
	exercises sync.Map
}

// New makes the handler of the whole application; dist is the built interface.
func New(st *store.Store, kernel Kernel, dist fs.FS, log *slog.Logger) (http.Handler, error) {
	font, err := lettering.Load()
	if err != nil {
		return nil, err
	}
	sm := scs.New()
	sm.Store = st.Sessions()
	sm.Lifetime = 12 * time.Hour
	sm.Cookie.Name = "hammerset"
	sm.Cookie.HttpOnly = true
	sm.Cookie.SameSite = http.SameSiteLaxMode
	s := &Server{store: st, kernel: kernel, font: font, sessions: sm, log: log, hashing: make(chan struct{}, atOnce)}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.MaxMultipartMemory = 8 << 20
	r.Use(s.recovery, s.headers, tidy, bounded)
	RegisterHandlersWithOptions(r, s, GinServerOptions{BaseURL: "/api", Middlewares: []MiddlewareFunc{s.authorise},
		ErrorHandler: func(c *gin.Context, err error, code int) { problem(c, code, err.Error(), "") }})
	r.NoRoute(s.interfaceFiles(dist))
	// Writing requests must come from our own pages (Sec-Fetch-Site or Origin).
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(http.StatusForbidden)
		_ = json.NewEncoder(w).Encode(Problem{What: "the request came from another site"})
	}))
	packed, err := gzhttp.NewWrapper(gzhttp.MinSize(1<<10), gzhttp.ExceptContentTypes([]string{"application/gzip", "application/zip", "model/3mf", "image/png", "application/pdf", "application/wasm"}))
	if err != nil {
		return nil, err
	}
	return guard.Handler(s.session(packed(sm.LoadAndSave(r)), r)), nil
}

// tidy removes what a large upload has put into the temporary folder. (The library removes it
// from the request that it has made, and the sessions give us a copy of that.)
func tidy(c *gin.Context) {
	defer func() {
		if m := c.Request.MultipartForm; m != nil {
			_ = m.RemoveAll() // it may be gone
		}
	}()
	c.Next()
}

// maxBody bounds every request that is no upload.
const maxBody = 16 << 20

func bounded(c *gin.Context) {
	if !strings.HasPrefix(c.GetHeader("Content-Type"), "multipart/") {
		c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxBody)
	}
	c.Next()
}

// content answers with data that the browser may keep and ask about by its content.
func content(c *gin.Context, kind string, data []byte) {
	sum := sha256.Sum256(data)
	tag := `"` + hex.EncodeToString(sum[:12]) + `"`
	c.Header("ETag", tag)
	c.Header("Cache-Control", "private, no-cache")
	if strings.Contains(c.GetHeader("If-None-Match"), strings.Trim(tag, `"`)) {
		c.Status(http.StatusNotModified)
		return
	}
	c.Data(http.StatusOK, kind, data)
}

// contentJSON is content of a value.
func contentJSON(c *gin.Context, v any) {
	data, err := json.Marshal(v)
	if err != nil {
		problem(c, http.StatusInternalServerError, "something went wrong on the server", "try again; nothing was lost")
		return
	}
	content(c, "application/json; charset=utf-8", data)
}

// session keeps the streaming route out of the middleware that buffers; it loads
// its session itself.
func (s *Server) session(buffered, plain http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !strings.HasSuffix(r.URL.Path, "/events") {
			buffered.ServeHTTP(w, r)
			return
		}
		token := ""
		if c, err := r.Cookie(s.sessions.Cookie.Name); err == nil {
			token = c.Value
		}
		ctx, err := s.sessions.Load(r.Context(), token)
		if err != nil {
			http.Error(w, "the session cannot be read", http.StatusInternalServerError)
			return
		}
		plain.ServeHTTP(w, r.WithContext(ctx))
	})
}

func (s *Server) recovery(c *gin.Context) {
	defer func() {
		if v := recover(); v != nil {
			s.log.Error("panic", "path", c.Request.URL.Path, "value", v)
			problem(c, http.StatusInternalServerError, "something went wrong on the server", "try again; nothing was lost")
			c.Abort()
		}
	}()
	c.Next()
}

func (s *Server) headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; connect-src 'self' blob: data:; worker-src 'self' blob:; frame-ancestors 'none'; base-uri 'none'; form-action 'self'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		h.Set("Cache-Control", "no-store")
	}
	c.Next()
}

// interfaceFiles serves the built interface; every path that is no file is a
// page of it.
func (s *Server) interfaceFiles(dist fs.FS) gin.HandlerFunc {
	files := http.FileServerFS(dist)
	return func(c *gin.Context) {
		p := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if p == "healthz" {
			s.healthz(c)
			return
		}
		if p == "api" || strings.HasPrefix(p, "api/") {
			problem(c, http.StatusNotFound, "there is no such address", "")
			return
		}
		if _, err := fs.Stat(dist, p); p == "" || err != nil {
			c.Request.URL.Path = "/"
			c.Header("Cache-Control", "no-cache")
		} else if strings.HasPrefix(p, "assets/") {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		files.ServeHTTP(c.Writer, c.Request)
	}
}

// healthz says whether the server can do its work: the database answers.
func (s *Server) healthz(c *gin.Context) {
	c.Header("Cache-Control", "no-store")
	if err := s.store.Ping(c.Request.Context()); err != nil {
		c.String(http.StatusServiceUnavailable, "the database does not answer\n")
		return
	}
	c.String(http.StatusOK, "ok\n")
}

func problem(c *gin.Context, status int, what, remedy string) { problemOf(c, status, "", what, remedy) }

// problemOf answers with a problem that the interface has an answer of its own to.
func problemOf(c *gin.Context, status int, code ProblemCode, what, remedy string) {
	p := Problem{What: what}
	if remedy != "" {
		p.Remedy = &remedy
	}
	if code != "" {
		p.Code = &code
	}
	c.AbortWithStatusJSON(status, p)
}

// fail answers with an error: those that the asker can do something about in
// words, others without detail.
func (s *Server) fail(c *gin.Context, err error) {
	var te *task.Error
	var fault *documents.Fault
	switch {
	case errors.Is(err, store.ErrNotFound):
		problem(c, http.StatusNotFound, "this is not there, or not yours to see", "")
	case errors.Is(err, store.ErrRunning):
		problem(c, http.StatusConflict, err.Error(), "wait for it, or drop it")
	case errors.Is(err, store.ErrUsedUp):
		problem(c, http.StatusConflict, "all attempts at this exercise are used", "ask your instructor for another")
	case errors.As(err, &te) && te.Kind == task.Needed:
		problemOf(c, http.StatusUnprocessableEntity, BuildsOnIt, te.What, te.Remedy)
	case errors.As(err, &te):
		problem(c, http.StatusUnprocessableEntity, te.What, te.Remedy)
	case errors.As(err, &fault):
		problem(c, http.StatusUnprocessableEntity, fault.Error(), "put this place right and try again")
	case errors.Is(err, context.Canceled):
		c.Abort()
	default:
		s.log.Error("request", "path", c.Request.URL.Path, "error", err)
		problem(c, http.StatusInternalServerError, "something went wrong on the server", "try again; nothing was lost")
	}
}
