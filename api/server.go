// Package api serves the interface and its contract: it reads requests, has the school carry them out for the
// person who asks, and writes the answers. Handlers are functions from a request to an answer or an error, as
// openapi.yaml has them; what an error is answered with is decided in one place.
package api

//go:generate go tool oapi-codegen -config oapi.yaml openapi.yaml

import (
	"encoding/json"
	"io/fs"
	"log/slog"
	"net/http"
	"path"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"
	"github.com/klauspost/compress/gzhttp"

	"hammerset/formats/documents"
	"hammerset/formats/lettering"
	"hammerset/school"
)

// Server implements StrictServerInterface on the school.
type Server struct {
	school   *school.School
	font     *lettering.Font
	sessions *scs.SessionManager
	log      *slog.Logger
}

// New makes the handler of the whole application; sessions is where those who are signed in are kept, and
// dist the built interface.
func New(sc *school.School, sessions scs.Store, dist fs.FS, log *slog.Logger) (http.Handler, error) {
	font, err := lettering.Load()
	if err != nil {
		return nil, err
	}
	sm := scs.New()
	sm.Store = sessions
	sm.Lifetime = 12 * time.Hour
	sm.Cookie.Name = "hammerset"
	sm.Cookie.HttpOnly = true
	sm.Cookie.SameSite = http.SameSiteLaxMode
	s := &Server{school: sc, font: font, sessions: sm, log: log}
	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.Use(s.recovery, headers, bounded, kept)
	strict := NewStrictHandlerWithOptions(s, nil, StrictGinServerOptions{
		RequestErrorHandlerFunc: s.unreadable, HandlerErrorFunc: s.fail, ResponseErrorHandlerFunc: s.fail})
	RegisterHandlersWithOptions(r, strict, GinServerOptions{BaseURL: "/api", Middlewares: []MiddlewareFunc{s.signedIn},
		ErrorHandler: func(c *gin.Context, err error, code int) { problem(c, code, err.Error(), "") }})
	r.NoRoute(s.interfaceFiles(dist))
	// Writing requests must come from our own pages (Sec-Fetch-Site or Origin).
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(http.StatusForbidden)
		_ = json.NewEncoder(w).Encode(Problem{What: "the request came from another site"})
	}))
	packed, err := gzhttp.NewWrapper(gzhttp.MinSize(1<<10), gzhttp.ExceptContentTypes([]string{
		"application/gzip", "application/zip", "model/3mf", "image/png", "application/pdf", "application/wasm"}))
	if err != nil {
		return nil, err
	}
	return guard.Handler(s.session(packed(sm.LoadAndSave(r)), r)), nil
}

// body bounds what a request brings along, and says what to do about more.
type body struct {
	most         int64
	what, remedy string
}

// bodies are the bounds of requests that bring more or less than others.
func bodies(c *gin.Context) body {
	switch route := c.Request.Method + " " + c.FullPath(); {
	case strings.HasPrefix(c.GetHeader("Content-Type"), "multipart/"):
		return body{documents.MaxUpload + 1<<20, "the file is larger than the %d MB that are taken",
			"export the one part alone, without imported bodies"}
	case strings.HasPrefix(route, "PUT /api/models/"), strings.HasPrefix(route, "POST /api/models/"):
		return body{8 << 20, "the model is larger than the %d MB that are kept", "take out what is not needed"}
	case route == "POST /api/session", route == "PUT /api/session/password", c.FullPath() == "/api/session/mail":
		return body{4 << 10, "the request is too large", "give what is asked for alone"}
	}
	return body{16 << 20, "the request is larger than the %d MB that are taken", "do it in parts"}
}

func bounded(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, bodies(c).most)
	c.Next()
}

// session keeps the streaming routes out of the middleware that buffers; it loads their
// session itself.
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
		w.Header().Set("X-Accel-Buffering", "no")
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

// contentPolicy lets pages load what the server ships, and nothing else.
const contentPolicy = "default-src 'self'; script-src 'self' 'wasm-unsafe-eval'; img-src 'self' data: blob:; " +
	"style-src 'self' 'unsafe-inline'; connect-src 'self' blob: data:; worker-src 'self' blob:; " +
	"frame-ancestors 'none'; base-uri 'none'; form-action 'self'"

func headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentPolicy)
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
		if secret, ok := strings.CutPrefix(p, "calendar/"); ok {
			s.calendar(c, strings.TrimSuffix(secret, ".ics"))
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

// healthz says whether the server can do its work.
func (s *Server) healthz(c *gin.Context) {
	c.Header("Cache-Control", "no-store")
	if err := s.school.Ready(c.Request.Context()); err != nil {
		c.String(http.StatusServiceUnavailable, "the database does not answer\n")
		return
	}
	c.String(http.StatusOK, "ok\n")
}
