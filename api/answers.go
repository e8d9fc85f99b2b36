package api

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"hammerset/formats/documents"
	"hammerset/formats/dxf/sheets"
	"hammerset/formats/pdf"
	"hammerset/formats/png"
	"hammerset/formats/svg"
	"hammerset/school"
)

// list describes every one of a list. There is always a list, if an empty one.
func list[A, B any](in []A, describe func(A) B) []B {
	out := make([]B, 0, len(in))
	for _, x := range in {
		out = append(out, describe(x))
	}
	return out
}

// given is a field that is left out where it is empty.
func given[T comparable](v T) *T {
	var none T
	if v == none {
		return nil
	}
	return &v
}

// value is a field that may be left out.
func value[T any](p *T) T {
	if p == nil {
		var none T
		return none
	}
	return *p
}

// ready is an answer that is JSON already, as the kernel or the database gave it.
type ready json.RawMessage

// written is an answer of a value that the core describes.
func written(v any) (ready, error) {
	data, err := json.Marshal(v)
	return ready(data), err
}

func (r ready) write(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/json")
	_, err := w.Write(r)
	return err
}

func (r ready) VisitTryPartResponse(w http.ResponseWriter) error            { return r.write(w) }
func (r ready) VisitSweepAssemblyResponse(w http.ResponseWriter) error      { return r.write(w) }
func (r ready) VisitVaryAssemblyResponse(w http.ResponseWriter) error       { return r.write(w) }
func (r ready) VisitFindCollisionsResponse(w http.ResponseWriter) error     { return r.write(w) }
func (r ready) VisitPutPartResponse(w http.ResponseWriter) error            { return r.write(w) }
func (r ready) VisitMeasurePartResponse(w http.ResponseWriter) error        { return r.write(w) }
func (r ready) VisitEditModelResponse(w http.ResponseWriter) error          { return r.write(w) }
func (r ready) VisitLookOverResponse(w http.ResponseWriter) error           { return r.write(w) }
func (r ready) VisitFindReachResponse(w http.ResponseWriter) error          { return r.write(w) }
func (r ready) VisitGetSketchResponse(w http.ResponseWriter) error          { return r.write(w) }
func (r ready) VisitCompareVersionsResponse(w http.ResponseWriter) error    { return r.write(w) }
func (r ready) VisitListStepFormsResponse(w http.ResponseWriter) error      { return r.write(w) }
func (r ready) VisitFindAttemptReachResponse(w http.ResponseWriter) error   { return r.write(w) }
func (r ready) VisitGetAttemptMeshResponse(w http.ResponseWriter) error     { return r.write(w) }
func (r ready) VisitGetAttemptComparedResponse(w http.ResponseWriter) error { return r.write(w) }
func (r ready) VisitGetExerciseMeshResponse(w http.ResponseWriter) error    { return r.write(w) }
func (r ready) VisitGetIssueReferenceResponse(w http.ResponseWriter) error  { return r.write(w) }

// file is an answer that is kept under a name, or shown where it has none.
type file struct {
	kind, name string
	data       []byte
}

func (f file) write(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", f.kind)
	if f.name != "" {
		w.Header().Set("Content-Disposition",
			mime.FormatMediaType("attachment", map[string]string{"filename": plain(f.name)}))
	}
	_, err := w.Write(f.data)
	return err
}

// plain is a name without what would lead a browser out of its folder.
func plain(name string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(`"\/;`, r) {
			return '_'
		}
		return r
	}, name)
}

func (f file) VisitExportExerciseResponse(w http.ResponseWriter) error    { return f.write(w) }
func (f file) VisitGetExerciseSheetResponse(w http.ResponseWriter) error  { return f.write(w) }
func (f file) VisitGetIssueSheetResponse(w http.ResponseWriter) error     { return f.write(w) }
func (f file) VisitGetGivenPartsResponse(w http.ResponseWriter) error     { return f.write(w) }
func (f file) VisitGetMarkedSheetResponse(w http.ResponseWriter) error    { return f.write(w) }
func (f file) VisitGetAttemptFileResponse(w http.ResponseWriter) error    { return f.write(w) }
func (f file) VisitGetReturnPDFResponse(w http.ResponseWriter) error      { return f.write(w) }
func (f file) VisitGetGradebookFileResponse(w http.ResponseWriter) error  { return f.write(w) }
func (f file) VisitGetAssemblyBundleResponse(w http.ResponseWriter) error { return f.write(w) }
func (f file) VisitExportAssemblyResponse(w http.ResponseWriter) error    { return f.write(w) }
func (f file) VisitExportModelResponse(w http.ResponseWriter) error       { return f.write(w) }

// sheet is a sheet in one of its formats.
func (s *Server) sheet(in school.Sheet, format string, o svg.Options) (file, error) {
	switch format {
	case "pdf":
		data, err := pdf.Sheet(in.Drawing, s.font)
		return file{"application/pdf", in.Number + ".pdf", data}, err
	case "dxf":
		return file{"image/vnd.dxf", in.Number + ".dxf", sheets.Write(in.Drawing, s.font)}, nil
	case "png":
		data, err := png.Sheet(in.Drawing, s.font)
		return file{"image/png", in.Number + ".png", data}, err
	case "svg":
		return file{"image/svg+xml", in.Number + ".svg", svg.Render(in.Drawing, s.font, o)}, nil
	}
	if format != "" && format != "live" {
		return file{}, noFormat(format, "ask for svg, pdf, dxf or png")
	}
	o.Live = true
	return file{"image/svg+xml", "", svg.Render(in.Drawing, s.font, o)}, nil
}

// noFormat refuses a format that a sheet is not drawn in.
func noFormat(format, remedy string) error {
	return &school.Refusal{Kind: school.Faulty, What: fmt.Sprintf("this sheet is not drawn as %q", format), Remedy: remedy}
}

// keeps tells whether a browser may keep an answer and ask about it by its content: lists that are asked for
// again and again, and what is large.
func keeps(c *gin.Context) bool {
	path := c.FullPath()
	switch path {
	case "/api/desk", "/api/home", "/api/issues/:id", "/api/issues/:id/reference":
		return true
	}
	for _, end := range []string{"/sheet", "/mesh", "/compared"} {
		if strings.HasSuffix(path, end) {
			return true
		}
	}
	return false
}

// kept answers that nothing has changed where the browser has the same already.
func kept(c *gin.Context) {
	if c.Request.Method != http.MethodGet || !keeps(c) {
		c.Next()
		return
	}
	held := &holding{ResponseWriter: c.Writer, status: http.StatusOK}
	c.Writer = held
	c.Next()
	c.Writer = held.ResponseWriter
	if held.status == http.StatusOK {
		sum := sha256.Sum256(held.body.Bytes())
		tag := hex.EncodeToString(sum[:12])
		c.Header("ETag", `"`+tag+`"`)
		c.Header("Cache-Control", "private, no-cache")
		if strings.Contains(c.GetHeader("If-None-Match"), tag) { // packing adds to the tag
			c.Status(http.StatusNotModified)
			return
		}
	}
	c.Status(held.status)
	_, _ = c.Writer.Write(held.body.Bytes()) // nobody listens any more
}

// holding holds an answer back.
type holding struct {
	gin.ResponseWriter
	status int
	body   bytes.Buffer
}

func (h *holding) WriteHeader(status int)            { h.status = status }
func (h *holding) WriteHeaderNow()                   {}
func (h *holding) Write(p []byte) (int, error)       { return h.body.Write(p) }
func (h *holding) WriteString(s string) (int, error) { return h.body.WriteString(s) }
func (h *holding) Status() int                       { return h.status }
func (h *holding) Size() int                         { return h.body.Len() }
func (h *holding) Written() bool                     { return h.body.Len() > 0 }

// longestFileName is in letters.
const longestFileName = 200

// upload reads the files of a multipart request: the field "file", and those of other fields by field.
func upload(r *multipart.Reader) (f school.File, others map[string][]byte, err error) {
	others, has := map[string][]byte{}, false
	for {
		p, err := r.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return f, nil, cutShort(err)
		}
		data, err := io.ReadAll(p)
		if err != nil {
			return f, nil, cutShort(err)
		}
		if p.FormName() == "file" {
			f, has = school.File{Name: fileName(p.FileName()), Data: data}, true
		} else if p.FileName() != "" {
			others[p.FormName()] = data
		}
	}
	if !has {
		return f, nil, noFile()
	}
	return f, others, nil
}

func cutShort(err error) error {
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		return tooLarge(body{documents.MaxUpload, "the file is larger than the %d MB that are taken",
			"export the one part alone, without imported bodies"})
	}
	return &school.Refusal{Kind: school.Unreadable, What: "the file was cut short",
		Remedy: fmt.Sprintf("choose it again (%v)", err)}
}

// fileName is the name of a file as it is kept.
func fileName(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return '_'
		}
		return r
	}, strings.ToValidUTF8(name, "_"))
	if r := []rune(name); len(r) > longestFileName {
		name = string(r[len(r)-longestFileName:])
	}
	return name
}
