package api

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode"

	"github.com/gin-gonic/gin"

	"hammerset/core/desk"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/formats/documents"
	"hammerset/formats/pdf"
	"hammerset/formats/svg"
	"hammerset/kernel/task"
	"hammerset/store"
)

// GetDesk is the instructor's first screen.
func (s *Server) GetDesk(c *gin.Context) {
	ctx, u := c.Request.Context(), user(c)
	out := Desk{Classes: []Class{}, Exercises: []ExerciseRow{}, Waiting: []AttemptRow{}, Due: []Issue{}, Odd: []Oddity{}}
	classes, err := s.store.Classes(ctx, u)
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, k := range classes {
		out.Classes = append(out.Classes, class(k))
	}
	exercises, err := s.store.Exercises(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, e := range exercises {
		out.Exercises = append(out.Exercises, ExerciseRow{Id: e.ExerciseID, Title: e.Title, Number: e.Drawing, Version: e.Number, Issues: e.Issues})
	}
	issues, err := s.store.Issues(ctx, u)
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, i := range issues {
		row, attempts, err := s.counted(ctx, i)
		if err != nil {
			s.fail(c, err)
			return
		}
		out.Due = append(out.Due, row)
		for _, a := range attempts {
			if a.State == "checked" || a.State == "parked" { // not what only the machine has to do
				out.Waiting = append(out.Waiting, s.row(a, i, true))
			} else if a.State == "queued" || a.State == "checking" {
				out.Checking++
			}
		}
		oddities, err := s.oddities(ctx, i, attempts)
		if err != nil {
			s.fail(c, err)
			return
		}
		for _, o := range oddities {
			odd := Oddity{What: o.What, IssueId: o.Issue}
			if o.Why != "" {
				odd.Why = &o.Why
			}
			if o.Attempt != 0 {
				odd.AttemptId = &o.Attempt
			}
			out.Odd = append(out.Odd, odd)
		}
	}
	contentJSON(c, out)
}

// oddities finds what looks odd at an issue. Whole reports are read only when its attempts are
// others than they were.
func (s *Server) oddities(ctx context.Context, i store.Issue, rows []store.Attempt) ([]desk.Oddity, error) {
	var state strings.Builder
	for _, a := range rows {
		report := int64(0)
		if a.ReportID != nil {
			report = *a.ReportID
		}
		fmt.Fprint(&state, a.ID, a.State, report, a.StudentName, ";")
	}
	type seen struct {
		state string
		odd   []desk.Oddity
	}
	if was, ok := s.odd.Load(i.ID); ok && was.(seen).state == state.String() {
		return was.(seen).odd, nil
	}
	attempts, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return nil, err
	}
	var known []desk.Attempt
	for _, a := range attempts {
		d := desk.Attempt{ID: a.ID, Issue: i.ID, Student: a.StudentName, Number: a.Number, File: a.FileSHA, State: a.State, What: a.What}
		if a.Report != nil {
			d.Report = new(report.Report)
			if err := json.Unmarshal(a.Report, d.Report); err != nil {
				return nil, err
			}
		}
		known = append(known, d)
	}
	odd := desk.Odd(known)
	s.odd.Store(i.ID, seen{state.String(), odd})
	return odd, nil
}

func class(k store.Class) Class { return Class{Id: k.ID, Name: k.Name, Students: k.Students} }

// classOf gives a class that the user belongs to, with its students and what is issued to it;
// any other is not found.
func (s *Server) classOf(ctx context.Context, u store.User, id int64) (k store.Class, students []store.User, issues []store.Issue, err error) {
	classes, err := s.store.Classes(ctx, u)
	if err != nil {
		return k, nil, nil, err
	}
	at := slices.IndexFunc(classes, func(k store.Class) bool { return k.ID == id })
	if at < 0 {
		return k, nil, nil, store.ErrNotFound
	}
	if students, err = s.store.Roster(ctx, id); err != nil {
		return k, nil, nil, err
	}
	if issues, err = s.store.Issues(ctx, u); err != nil {
		return k, nil, nil, err
	}
	return classes[at], students, slices.DeleteFunc(issues, func(i store.Issue) bool { return i.ClassID != id }), nil
}

// GetClass gives the roster of a class.
func (s *Server) GetClass(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	k, students, issues, err := s.classOf(ctx, u, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := Roster{Class: class(k)}
	mine := map[int64][]AttemptRow{}
	out.Issues = []Issue{}
	for _, i := range issues {
		row, attempts, err := s.counted(ctx, i)
		if err != nil {
			s.fail(c, err)
			return
		}
		out.Issues = append(out.Issues, row)
		for _, a := range attempts {
			mine[a.Student] = append(mine[a.Student], s.row(a, i, true))
		}
	}
	out.Students = make([]struct {
		Attempts []AttemptRow `json:"attempts"`
		Id       int64        `json:"id"`
		Login    string       `json:"login"`
		Name     string       `json:"name"`
	}, len(students))
	for k, st := range students {
		out.Students[k].Id, out.Students[k].Login, out.Students[k].Name, out.Students[k].Attempts = st.ID, st.Login, st.Name, mine[st.ID]
		if out.Students[k].Attempts == nil {
			out.Students[k].Attempts = []AttemptRow{}
		}
	}
	c.JSON(http.StatusOK, out)
}

// upload reads the file of a multipart request, up to the largest size.
func upload(c *gin.Context) (name string, data []byte, ok bool) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, documents.MaxUpload+1<<20)
	head, err := c.FormFile("file")
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		problem(c, http.StatusRequestEntityTooLarge, fmt.Sprintf("the file is larger than the %d MB that are taken", documents.MaxUpload>>20), "export the one part alone, without imported bodies")
		return "", nil, false
	}
	if err != nil {
		problem(c, http.StatusBadRequest, "the request holds no file", "choose a file")
		return "", nil, false
	}
	f, err := head.Open()
	if err != nil {
		problem(c, http.StatusBadRequest, "the file cannot be read", "choose it again")
		return "", nil, false
	}
	defer f.Close()
	if data, err = io.ReadAll(f); err != nil {
		problem(c, http.StatusBadRequest, "the file was cut short", "choose it again")
		return "", nil, false
	}
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) {
			return '_'
		}
		return r
	}, strings.ToValidUTF8(head.Filename, "_"))
	if r := []rune(name); len(r) > 200 {
		name = string(r[len(r)-200:])
	}
	return name, data, true
}

// ImportExercise takes a zip of open files, or a reference alone.
func (s *Server) ImportExercise(c *gin.Context, params ImportExerciseParams) {
	if params.Exercise != nil && !s.mayChange(c, *params.Exercise) {
		return
	}
	name, data, ok := upload(c)
	if !ok {
		return
	}
	var b *documents.Bundle
	var err error
	if bytes.HasPrefix(data, []byte("PK\x03\x04")) {
		b, err = s.unpacked(c.Request.Context(), data)
	} else if params.Exercise != nil {
		problem(c, http.StatusUnprocessableEntity, "a new version is brought in as the zip of an exercise", "work on the reference here, edit the characteristics, or export the exercise and put the reference in its place")
		return
	} else {
		b, err = s.around(c.Request.Context(), name, data)
	}
	const remedy = "give the zip of an exercise, or the reference alone: a STEP file or a model document"
	var te *task.Error
	if errors.As(err, &te) && te.Kind == task.Faulty {
		problem(c, http.StatusUnprocessableEntity, te.What, remedy)
		return
	}
	if te != nil {
		s.fail(c, err)
		return
	}
	if err != nil {
		problem(c, http.StatusUnprocessableEntity, err.Error(), remedy)
		return
	}
	var exercise int64
	if params.Exercise != nil {
		exercise = *params.Exercise
	}
	v, err := AddBundle(c.Request.Context(), s.store, s.kernel, b, exercise, user(c).ID, "brought in from "+name)
	if err != nil {
		s.fail(c, err)
		return
	}
	out, err := s.exercise(c, v)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, out)
}

// unpacked reads the packed file of an exercise, in a child.
func (s *Server) unpacked(ctx context.Context, data []byte) (*documents.Bundle, error) {
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Unpack, File: data}, nil)
	if err != nil {
		return nil, err
	}
	var out task.Unpacked
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	b := &documents.Bundle{Exercise: out.Exercise, Reference: out.Reference, Atlas: out.Atlas}
	b.Parsed, err = documents.ReadExercise(b.Exercise)
	return b, err
}

// mayChange answers that an exercise is not the asker's to change, where it is not.
func (s *Server) mayChange(c *gin.Context, exercise int64) bool {
	ok, err := s.store.MayChange(c.Request.Context(), user(c), exercise)
	if err != nil {
		s.fail(c, err)
		return false
	}
	if !ok {
		if _, err := s.store.Newest(c.Request.Context(), exercise); err != nil {
			s.fail(c, err)
			return false
		}
		problem(c, http.StatusForbidden, "this exercise is somebody else's, and not issued to a class of yours", "export it and import it as one of your own")
	}
	return ok
}

// GetExercise gives the newest version.
func (s *Server) GetExercise(c *gin.Context, id Id) {
	v, err := s.store.Newest(c.Request.Context(), id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out, err := s.exercise(c, v)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

func (s *Server) exercise(c *gin.Context, v store.Version) (Exercise, error) {
	ctx, u := c.Request.Context(), user(c)
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		return Exercise{}, err
	}
	var p prepare.Prepared
	if err := json.Unmarshal(v.Prepared, &p); err != nil {
		return Exercise{}, err
	}
	out := Exercise{Id: v.ExerciseID, Version: v.Number, Title: v.Title, Number: v.Drawing, Task: ex.Task, Unit: ex.Unit,
		Characteristics: stated(p), Driving: p.Driving, WhatIfs: []string{}, Issues: []Issue{}, Classes: []Class{}, Faces: p.Faces, Trail: []AuditEntry{}}
	if out.Driving == nil {
		out.Driving = []string{}
	}
	if out.Faces == nil {
		out.Faces = map[string][]Ref{}
	}
	for _, w := range ex.WhatIfs {
		out.WhatIfs = append(out.WhatIfs, w.Name)
	}
	for _, r := range []struct {
		label  string
		points float64
	}{{"Characteristics", ex.Rubric.Characteristics}, {"Whole part", ex.Rubric.WholePart}, {"Constraint robustness", ex.Rubric.Robustness}, {"Sketch health", ex.Rubric.Sketches}, {"Good practice", ex.Rubric.Practice}} {
		if r.points > 0 {
			out.Rubric = append(out.Rubric, struct {
				Label  string  `json:"label"`
				Points float64 `json:"points"`
			}{r.label, r.points})
		}
	}
	if out.MayChange, err = s.store.MayChange(ctx, u, v.ExerciseID); err != nil {
		return out, err
	}
	trail, err := s.store.Trail(ctx, v.ExerciseID)
	if err != nil {
		return out, err
	}
	for _, e := range trail {
		out.Trail = append(out.Trail, AuditEntry{At: e.At, By: e.Name, Action: e.Action, Detail: e.Detail})
	}
	issues, err := s.store.IssuesOf(ctx, u, v.ExerciseID)
	if err != nil {
		return out, err
	}
	for _, i := range issues {
		row, _, err := s.counted(ctx, i)
		if err != nil {
			return out, err
		}
		out.Issues = append(out.Issues, row)
	}
	classes, err := s.store.Classes(ctx, u)
	for _, k := range classes {
		out.Classes = append(out.Classes, class(k))
	}
	return out, err
}

func stated(p prepare.Prepared) []Stated {
	out := []Stated{}
	for _, t := range p.Stated {
		out = append(out, Stated{Id: t.ID, Balloon: t.Balloon, Label: t.Label, Kind: t.Kind, Text: t.Text, Places: t.Places})
	}
	return out
}

// ExportExercise gives the exercise as a zip.
func (s *Server) ExportExercise(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	v, ex, ref, ok := s.draftOf(c, id)
	if !ok {
		return
	}
	made, err := s.store.Atlas(ctx, v.ID, atlas.Version)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		s.fail(c, err)
		return
	}
	b := documents.Bundle{Exercise: v.Document, Reference: ref, Parsed: ex, Atlas: made}
	data, err := b.Zip()
	if err != nil {
		s.fail(c, err)
		return
	}
	download(c, "application/zip", v.Drawing+".zip", data)
}

// download answers with a file under a safe name.
func download(c *gin.Context, kind, name string, data []byte) {
	safe := strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`"\/;`, r) || r > 126 {
			return '_'
		}
		return r
	}, name)
	c.Header("Content-Disposition", `attachment; filename="`+safe+`"`)
	c.Data(http.StatusOK, kind, data)
}

// drawn finds a version with its sheet and meshes, or answers that it cannot.
func (s *Server) drawn(c *gin.Context, find func(context.Context, int64) (store.Version, error), id int64) (store.Version, prepare.Prepared, bool) {
	var p prepare.Prepared
	v, err := find(c.Request.Context(), id)
	if err == nil {
		err = json.Unmarshal(v.Prepared, &p)
	}
	if err != nil {
		s.fail(c, err)
		return v, p, false
	}
	return v, p, true
}

// withReference gives a version of an exercise with the file of its reference.
func (s *Server) withReference(c *gin.Context, find func(context.Context, int64) (store.Version, error), id int64) (store.Version, []byte, bool) {
	v, err := find(c.Request.Context(), id)
	var reference []byte
	if err == nil {
		reference, err = s.store.File(c.Request.Context(), v.ReferenceSHA)
	}
	if err != nil {
		s.fail(c, err)
		return v, nil, false
	}
	return v, reference, true
}

// sheet answers with a sheet in one of its formats.
func (s *Server) sheet(c *gin.Context, d *sheet.Drawing, name, format string, o svg.Options) {
	switch format {
	case "pdf":
		data, err := pdf.Sheet(d, s.font)
		if err != nil {
			s.fail(c, err)
			return
		}
		download(c, "application/pdf", name+".pdf", data)
	case "svg":
		download(c, "image/svg+xml", name+".svg", svg.Render(d, s.font, o))
	default:
		o.Live = true
		content(c, "image/svg+xml", svg.Render(d, s.font, o))
	}
}

// GetExerciseSheet draws the sheet of the newest version.
func (s *Server) GetExerciseSheet(c *gin.Context, id Id, params GetExerciseSheetParams) {
	v, p, ok := s.drawn(c, s.store.Newest, id)
	if !ok {
		return
	}
	s.sheet(c, p.Drawing, v.Drawing, format((*string)(params.Format)), svg.Options{})
}

func format(f *string) string {
	if f == nil {
		return "live"
	}
	return *f
}

// GetExerciseMesh gives the mesh of the reference.
func (s *Server) GetExerciseMesh(c *gin.Context, id Id) {
	_, p, ok := s.drawn(c, s.store.Newest, id)
	if !ok {
		return
	}
	contentJSON(c, p.Mesh)
}

// IssueExercise gives the newest version to a class.
func (s *Server) IssueExercise(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	var in NewIssue
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable: "+err.Error(), "")
		return
	}
	switch {
	case in.Attempts < 1 || in.Attempts > 50:
		problem(c, http.StatusUnprocessableEntity, "the number of attempts must be from 1 to 50", "")
		return
	case !in.Due.After(time.Now()):
		problem(c, http.StatusUnprocessableEntity, "the due date has passed", "choose a date to come")
		return
	case in.Results != "at once" && in.Results != "with the return":
		problem(c, http.StatusUnprocessableEntity, "students see results either at once or with the return", "")
		return
	}
	if ok, err := s.inClass(c, in.ClassId); err != nil || !ok {
		s.fail(c, errors.Join(err, notFoundUnless(ok)))
		return
	}
	v, err := s.store.Newest(ctx, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	issueID, err := s.store.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: in.ClassId, IssuedBy: u.ID, Issued: time.Now().UTC(), Due: in.Due.UTC(), Attempts: in.Attempts, Results: string(in.Results)}, in.Again != nil && *in.Again)
	if errors.Is(err, store.ErrIssued) {
		problem(c, http.StatusConflict, "this class has the exercise already", "change the due date of that issue, or issue it once more on purpose")
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	i, err := s.store.Issue(ctx, issueID)
	if err != nil {
		s.fail(c, err)
		return
	}
	row, err := s.issue(ctx, i, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, row)
}

func notFoundUnless(ok bool) error {
	if ok {
		return nil
	}
	return store.ErrNotFound
}

// inClass tells whether the asker belongs to a class; an administrator belongs
// to all.
func (s *Server) inClass(c *gin.Context, id int64) (bool, error) {
	u := user(c)
	if u.Role == administrator {
		return true, nil
	}
	return s.store.Member(c.Request.Context(), id, u.ID)
}
