package api

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/robust"
	"hammerset/core/standards"
	"hammerset/formats/documents"
	"hammerset/formats/stl"
	"hammerset/formats/table"
	"hammerset/formats/threemf"
	"hammerset/kernel/task"
	"hammerset/store"
)

// said is what a version is listed with.
func said(what *string) string {
	if what == nil || strings.TrimSpace(*what) == "" {
		return "changed"
	}
	return strings.ToValidUTF8((*what)[:min(len(*what), 190)], "")
}

// running holds the progress of tasks on models that run now, by model.
type running struct {
	mu   sync.Mutex
	list map[int64]ModelProgress
}

func (r *running) set(id int64, p ModelProgress) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.list == nil {
		r.list = map[int64]ModelProgress{}
	}
	r.list[id] = p
}

func (r *running) clear(id int64) {
	r.mu.Lock()
	defer r.mu.Unlock()
	delete(r.list, id)
}

func (r *running) get(id int64) ModelProgress {
	r.mu.Lock()
	defer r.mu.Unlock()
	return r.list[id]
}

// try reads the state of a model that a request brings along, of a model of the
// asker.
func (s *Server) try(c *gin.Context, id int64) (TryModel, bool) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxModel)
	var in TryModel
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable: "+err.Error(), "")
		return in, false
	}
	if _, err := s.store.Model(c.Request.Context(), id, user(c).ID); err != nil {
		s.fail(c, err)
		return in, false
	}
	return in, true
}

// run carries out a task on a state of a model and keeps its progress.
func (s *Server) run(ctx context.Context, id int64, kind string, in TryModel) (json.RawMessage, error) {
	s.models.set(id, ModelProgress{Running: true})
	defer s.models.clear(id)
	return s.kernel.Do(ctx, request(id, kind, in), func(p task.Progress) {
		s.models.set(id, ModelProgress{Stage: p.Stage, Done: p.Done, Running: true})
	})
}

// request is a task on a state of a model.
func request(id int64, kind string, in TryModel) *task.Request {
	req := &task.Request{Kind: kind, File: in.Document, Keep: fmt.Sprint(id)}
	if in.Until != nil {
		req.Until = *in.Until
	}
	if in.Set != nil {
		req.Set = *in.Set
	}
	if in.Picks != nil {
		req.Picks = *in.Picks
	}
	if in.Name != nil {
		req.Name = *in.Name
	}
	req.Command = in.Command
	return req
}

// spread carries out a task in so many shares, keeps its progress under key, and reads
// what came of each.
func spread[T any](ctx context.Context, s *Server, key int64, req *task.Request, shares int) ([]T, error) {
	var reqs []*task.Request
	for i := range shares {
		one := *req
		one.Share = robust.Share{Index: i, Of: shares}
		reqs = append(reqs, &one)
	}
	s.models.set(key, ModelProgress{Running: true})
	defer s.models.clear(key)
	raw, err := s.kernel.Spread(ctx, reqs, func(p task.Progress) {
		s.models.set(key, ModelProgress{Stage: p.Stage, Done: p.Done, Running: true})
	})
	if err != nil {
		return nil, err
	}
	out := make([]T, len(raw))
	for i, r := range raw {
		if err := json.Unmarshal(r, &out[i]); err != nil {
			return nil, fmt.Errorf("the kernel's answer: %w", err)
		}
	}
	return out, nil
}

func (s *Server) answer(c *gin.Context, id int64, kind string) {
	in, ok := s.try(c, id)
	if !ok {
		return
	}
	raw, err := s.run(c.Request.Context(), id, kind, in)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Data(http.StatusOK, "application/json", raw)
}

// ListStepForms gives the forms of all kinds of steps.
func (s *Server) ListStepForms(c *gin.Context) {
	materials := []string{}
	for _, m := range standards.Materials {
		materials = append(materials, m.Name)
	}
	c.JSON(http.StatusOK, gin.H{"forms": part.Forms(), "materials": materials})
}

// TryPart rebuilds a state of a model.
func (s *Server) TryPart(c *gin.Context, id Id) { s.answer(c, id, task.Model) }

// MeasurePart measures one or two picks.
func (s *Server) MeasurePart(c *gin.Context, id Id) { s.answer(c, id, task.Measure) }

// EditModel changes a state of a model by a command.
func (s *Server) EditModel(c *gin.Context, id Id) { s.answer(c, id, task.Edit) }

// FindReach finds the interval of a parameter, both ends at once.
func (s *Server) FindReach(c *gin.Context, id Id) {
	in, ok := s.try(c, id)
	if !ok {
		return
	}
	ends, err := spread[modeller.Reached](c.Request.Context(), s, id, request(id, task.Reach, in), 2)
	if err != nil {
		s.fail(c, err)
		return
	}
	ends[0].Most = ends[1].Most
	c.JSON(http.StatusOK, ends[0])
}

// LookOver gives the findings of sketches and steps.
func (s *Server) LookOver(c *gin.Context, id Id) {
	in, ok := s.try(c, id)
	if !ok {
		return
	}
	raw, err := s.run(c.Request.Context(), id, task.Look, in)
	var out modeller.Looked
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, out.Findings)
}

// GetModelProgress says how far the task on a model is.
func (s *Server) GetModelProgress(c *gin.Context, id Id) {
	if _, err := s.store.Model(c.Request.Context(), id, user(c).ID); err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, s.models.get(id))
}

// ListVersions lists the kept states of a model.
func (s *Server) ListVersions(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	if _, err := s.store.Model(ctx, id, u.ID); err != nil {
		s.fail(c, err)
		return
	}
	list, err := s.store.ModelVersions(ctx, id, u.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := []ModelVersion{}
	for _, v := range list {
		out = append(out, ModelVersion{Version: v.Version, Saved: v.Saved, What: v.What})
	}
	c.JSON(http.StatusOK, out)
}

// GetVersion gives a kept state of a model.
func (s *Server) GetVersion(c *gin.Context, id Id, version int) {
	ctx, u := c.Request.Context(), user(c)
	m, err := s.store.Model(ctx, id, u.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	v, err := s.store.ModelVersion(ctx, id, u.ID, version)
	if err != nil {
		s.fail(c, err)
		return
	}
	row := modelRow(m)
	row.Version, row.Saved = v.Version, v.Saved
	c.JSON(http.StatusOK, Model{Row: row, Document: v.Document})
}

// CompareVersions says what changed between two kept states.
func (s *Server) CompareVersions(c *gin.Context, id Id, params CompareVersionsParams) {
	ctx, u := c.Request.Context(), user(c)
	var documents [2][]byte
	for i, n := range []int{params.From, params.To} {
		v, err := s.store.ModelVersion(ctx, id, u.ID, n)
		if err != nil {
			s.fail(c, err)
			return
		}
		documents[i] = v.Document
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Changes, File: documents[1], Other: documents[0]}, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Data(http.StatusOK, "application/json", raw)
}

// ExportModel gives a model as a file.
func (s *Server) ExportModel(c *gin.Context, id Id, params ExportModelParams) {
	ctx := c.Request.Context()
	m, err := s.store.Model(ctx, id, user(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	send := func(suffix, kind string, data []byte) {
		c.Header("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": m.Name + suffix}))
		c.Data(http.StatusOK, kind, data)
	}
	format := string(params.Format)
	switch format {
	case "json":
		send(".json", part.MediaType, m.Document)
		return
	case "csv":
		doc, err := documents.ReadModel(m.Document)
		if err != nil {
			s.fail(c, err)
			return
		}
		var b bytes.Buffer
		w := csv.NewWriter(&b)
		rows := [][]string{{"name", "formula", "note", "least", "most"}}
		for _, p := range doc.Parameters {
			rows = append(rows, table.Safe([]string{p.Name, p.Formula, p.Note, p.Least, p.Most}))
		}
		if err := w.WriteAll(rows); err != nil {
			s.fail(c, err)
			return
		}
		send(" parameters.csv", "text/csv; charset=utf-8", b.Bytes())
		return
	case "ap214", "ap242", "stl", "3mf":
	default:
		problem(c, http.StatusBadRequest, fmt.Sprintf("%q is no format of a model", format), "ask for ap214, ap242, stl, 3mf, json or csv")
		return
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Export, File: m.Document, Name: format, Keep: fmt.Sprint(id)}, nil)
	var out modeller.Exported
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	switch format {
	case "stl":
		send(".stl", "model/stl", stl.Write(out.Mesh))
	case "3mf":
		data, err := threemf.Write(out.Mesh, m.Name)
		if err != nil {
			s.fail(c, err)
			return
		}
		send(".3mf", "model/3mf", data)
	default:
		send(".step", "model/step", out.Data)
	}
}

// reachKey keeps the progress of attempts apart from that of models.
func reachKey(attempt int64) int64 { return -attempt }

// FindAttemptReach finds how far an attempt follows the reference.
func (s *Server) FindAttemptReach(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	v, reference, ok := s.withReference(c, s.store.Version, i.VersionID)
	if !ok {
		return
	}
	file, err := s.store.File(ctx, a.FileSHA)
	if err != nil {
		s.fail(c, err)
		return
	}
	key := reachKey(id)
	// Two shares for each child: they take unequally long.
	shares, err := spread[robust.FollowedAll](ctx, s, key, &task.Request{Kind: task.Follow, Exercise: v.Document, Reference: reference, Name: a.FileName, File: file, Keep: fmt.Sprintf("exercise %d", v.ID)}, 2*s.kernel.Size())
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, robust.JoinFollowed(shares))
}

// GetAttemptReachProgress says how far that search is.
func (s *Server) GetAttemptReachProgress(c *gin.Context, id Id) {
	if _, _, ok := s.openAttempt(c, id); ok {
		c.JSON(http.StatusOK, s.models.get(reachKey(id)))
	}
}

// looksADay is how often a student may ask within a day which characteristics a model has, for
// each exercise: enough to look something over, too few to try out a size that is not on the sheet.
const looksADay = 4

// looking finds a model whose exercise gives its results at once, and the looks at it so far.
func (s *Server) looking(c *gin.Context, id int64) (m store.Model, i store.Issue, looks []store.Look, ok bool) {
	ctx, u := c.Request.Context(), user(c)
	m, err := s.store.Model(ctx, id, u.ID)
	if err != nil {
		s.fail(c, err)
		return m, i, nil, false
	}
	if m.IssueID == nil {
		c.JSON(http.StatusOK, Look{Had: []string{}})
		return m, i, nil, false
	}
	if i, ok = s.openIssue(c, *m.IssueID); !ok {
		return m, i, nil, false
	}
	if i.Results != string(AtOnce) {
		c.JSON(http.StatusOK, Look{Had: []string{}})
		return m, i, nil, false
	}
	if looks, err = s.store.Looks(ctx, u.ID, i.ID); err != nil {
		s.fail(c, err)
		return m, i, nil, false
	}
	return m, i, looks, true
}

// looked answers with the last look and how many are left.
func looked(c *gin.Context, looks []store.Look) {
	out := Look{Had: []string{}, May: true, Left: looksADay}
	for k, l := range looks { // the newest first
		if k == 0 {
			if err := json.Unmarshal(l.Had, &out.Had); err != nil {
				out.Had = []string{}
			}
			out.At = &looks[0].At
		}
		if time.Since(l.At) < 24*time.Hour {
			out.Left = max(0, out.Left-1)
		}
	}
	c.JSON(http.StatusOK, out)
}

// GetHad says what the last look at a model found.
func (s *Server) GetHad(c *gin.Context, id Id) {
	if _, _, looks, ok := s.looking(c, id); ok {
		looked(c, looks)
	}
}

// LookHad looks which characteristics a saved model has already. It answers for exercises whose
// results are given at once, and there a few times a day; the same model again costs nothing.
func (s *Server) LookHad(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	m, i, looks, ok := s.looking(c, id)
	if !ok {
		return
	}
	sum := sha256.Sum256(m.Document)
	sha := hex.EncodeToString(sum[:])
	today := 0
	for _, l := range looks {
		if l.Document == sha {
			looked(c, append([]store.Look{l}, slices.DeleteFunc(looks, func(x store.Look) bool { return x.Document == sha })...))
			return
		}
		if time.Since(l.At) < 24*time.Hour {
			today++
		}
	}
	if today >= looksADay {
		problem(c, http.StatusTooManyRequests, fmt.Sprintf("%d looks within a day are used", looksADay), "measure for yourself against the sheet, or hand in")
		return
	}
	v, reference, ok := s.withReference(c, s.store.Version, i.VersionID)
	if !ok {
		return
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Had, Exercise: v.Document, Reference: reference, File: m.Document, Keep: fmt.Sprint(id)}, nil)
	if err == nil {
		err = s.store.KeepLook(ctx, u.ID, i.ID, sha, raw)
	}
	if err == nil {
		looks, err = s.store.Looks(ctx, u.ID, i.ID)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	looked(c, looks)
}
