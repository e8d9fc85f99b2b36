package api

import (
	"context"
	"errors"
	"io"
	"maps"
	"net/http"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"hammerset/formats/documents"
	"hammerset/formats/svg"
	"hammerset/store"
)

// issue describes an issue with the counts of its attempts.
func (s *Server) issue(ctx context.Context, i store.Issue, attempts []store.Attempt) (Issue, error) {
	out := Issue{Id: i.ID, ExerciseId: i.ExerciseID, Title: i.Title, Number: i.Drawing, Version: i.Version, ClassId: i.ClassID, ClassName: i.ClassName,
		Issued: i.Issued, Due: i.Due, Attempts: i.Attempts, Results: Results(i.Results), Released: i.Released}
	students, err := s.store.Roster(ctx, i.ClassID)
	if err != nil {
		return out, err
	}
	out.Students = len(students)
	seen := map[int64]bool{}
	for _, a := range attempts {
		if !seen[a.Student] {
			seen[a.Student] = true
			out.HandedIn++
		}
		switch a.State {
		case "checked":
			out.Waiting++
		case "returned":
			out.Returned++
		}
	}
	return out, nil
}

// counted describes an issue with all its attempts.
func (s *Server) counted(ctx context.Context, i store.Issue) (Issue, []store.Attempt, error) {
	attempts, err := s.store.AttemptRows(ctx, i.ID, 0)
	if err != nil {
		return Issue{}, nil, err
	}
	row, err := s.issue(ctx, i, attempts)
	return row, attempts, err
}

// row describes an attempt; results are in it where the asker may see them.
func (s *Server) row(a store.Attempt, i store.Issue, results bool) AttemptRow {
	out := AttemptRow{Id: a.ID, IssueId: a.IssueID, Title: i.Title, Student: a.StudentName, Number: a.Number, FileName: a.FileName, HandedIn: a.HandedIn, Late: a.Late, State: AttemptState(a.State)}
	if a.What != "" {
		out.What, out.Remedy = &a.What, &a.Remedy
	}
	if results {
		out.In, out.Of = a.In, a.Of
	}
	out.Points, out.OutOf = a.Points, a.OutOf
	return out
}

// visible tells whether the asker may see the results of an attempt.
func visible(u store.User, a store.Attempt, i store.Issue) bool {
	return staff(u) || a.State == "returned" || i.Results == "at once"
}

// openIssue finds an issue that the asker may see: one of the asker's classes.
func (s *Server) openIssue(c *gin.Context, id int64) (store.Issue, bool) {
	i, err := s.store.Issue(c.Request.Context(), id)
	if err == nil {
		var ok bool
		if ok, err = s.inClass(c, i.ClassID); err == nil && !ok {
			err = store.ErrNotFound
		}
	}
	if err != nil {
		s.fail(c, err)
		return i, false
	}
	return i, true
}

// countedUp counts the attempts that use one up.
func countedUp(attempts []store.Attempt) int {
	n := 0
	for _, a := range attempts {
		if a.State != "unusable" {
			n++
		}
	}
	return n
}

// GetHome lists what a student has to do.
func (s *Server) GetHome(c *gin.Context) {
	ctx, u := c.Request.Context(), user(c)
	issues, err := s.store.Issues(ctx, u)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := []Task{}
	for _, i := range issues {
		mine, err := s.store.AttemptRows(ctx, i.ID, u.ID)
		if err != nil {
			s.fail(c, err)
			return
		}
		row, err := s.issue(ctx, i, mine)
		if err != nil {
			s.fail(c, err)
			return
		}
		further, err := s.store.FurtherOf(ctx, i.ID)
		if err != nil {
			s.fail(c, err)
			return
		}
		t := Task{Issue: row, Attempts: []AttemptRow{}, Left: max(0, i.Attempts+further[u.ID]-countedUp(mine))}
		for _, a := range mine {
			t.Attempts = append(t.Attempts, s.row(a, i, visible(u, a, i)))
		}
		out = append(out, t)
	}
	contentJSON(c, out)
}

// GetIssue gives an issue with the attempts that the asker may see.
func (s *Server) GetIssue(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	v, p, ok := s.drawn(c, s.store.Version, i.VersionID)
	if !ok {
		return
	}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		s.fail(c, err)
		return
	}
	only := u.ID
	if staff(u) {
		only = 0
	}
	attempts, err := s.store.AttemptRows(ctx, id, only)
	if err != nil {
		s.fail(c, err)
		return
	}
	row, err := s.issue(ctx, i, attempts)
	if err != nil {
		s.fail(c, err)
		return
	}
	further, err := s.store.FurtherOf(ctx, i.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := IssueDetail{Issue: row, Task: ex.Task, Unit: ex.Unit, Attempts: []AttemptRow{}, Missing: []string{}, Characteristics: stated(p), Left: max(0, i.Attempts+further[u.ID]-countedUp(attempts))}
	if u.Role == instructor || u.Role == administrator {
		may := true
		out.Issue.MayChange = &may
	}
	out.WhatIfs = []AskedWhatIf{}
	if ex.WhatIfFiles {
		for _, w := range ex.WhatIfs {
			var sizes []string
			for _, name := range slices.Sorted(maps.Keys(w.Set)) {
				sizes = append(sizes, name+" = "+w.Set[name])
			}
			out.WhatIfs = append(out.WhatIfs, AskedWhatIf{Name: w.Name, Sizes: strings.Join(sizes, ", ")})
		}
	}
	have := map[int64]bool{}
	for _, a := range attempts {
		have[a.Student] = true
		line := s.row(a, i, visible(u, a, i))
		if staff(u) {
			line.StudentId = &a.Student
		}
		out.Attempts = append(out.Attempts, line)
	}
	if staff(u) {
		students, err := s.store.Roster(ctx, i.ClassID)
		if err != nil {
			s.fail(c, err)
			return
		}
		for _, st := range students {
			if !have[st.ID] {
				out.Missing = append(out.Missing, st.Name)
			}
		}
	}
	contentJSON(c, out)
}

// ReleaseReference lets students see the reference, or no longer.
func (s *Server) ReleaseReference(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in ReleaseReferenceJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "")
		return
	}
	if err := s.store.Release(c.Request.Context(), i.ID, in.Released, user(c).ID); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// GetIssueSheet draws the sheet as issued.
func (s *Server) GetIssueSheet(c *gin.Context, id Id, params GetIssueSheetParams) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	v, p, ok := s.drawn(c, s.store.Version, i.VersionID)
	if !ok {
		return
	}
	s.sheet(c, p.Drawing, v.Drawing, format((*string)(params.Format)), svg.Options{})
}

// GetIssueReference gives the reference's mesh: to staff, and to students once
// it is released.
func (s *Server) GetIssueReference(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	if !staff(user(c)) && !i.Released {
		problem(c, http.StatusForbidden, "the reference is not released", "")
		return
	}
	_, p, ok := s.drawn(c, s.store.Version, i.VersionID)
	if !ok {
		return
	}
	contentJSON(c, p.Mesh)
}

// HandIn takes a student's file. It is kept whatever it is; what cannot be
// checked is said by the check.
func (s *Server) HandIn(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	name, data, ok := upload(c)
	if !ok {
		return
	}
	ctx := c.Request.Context()
	if name, data, ok = s.withWhatIfs(c, name, data); !ok {
		return
	}
	attempt, already, err := s.store.HandIn(ctx, i.ID, user(c).ID, name, data)
	if err != nil {
		s.fail(c, err)
		return
	}
	a, err := s.store.Attempt(ctx, attempt)
	if err != nil {
		s.fail(c, err)
		return
	}
	row := s.row(a, i, false)
	if already {
		row.Already = &already
		c.JSON(http.StatusOK, row)
		return
	}
	c.JSON(http.StatusCreated, row)
}

// withWhatIfs packs the files for what-ifs that came with the part together with it.
func (s *Server) withWhatIfs(c *gin.Context, name string, data []byte) (string, []byte, bool) {
	files := map[string][]byte{}
	for field, list := range c.Request.MultipartForm.File {
		what, ok := strings.CutPrefix(field, "what-if:")
		if !ok || len(list) == 0 {
			continue
		}
		f, err := list[0].Open()
		if err != nil {
			problem(c, http.StatusBadRequest, "the file for "+what+" cannot be read", "choose it again")
			return "", nil, false
		}
		body, err := io.ReadAll(f)
		f.Close()
		if err != nil {
			problem(c, http.StatusBadRequest, "the file for "+what+" was cut short", "choose it again")
			return "", nil, false
		}
		files[what] = body
	}
	if len(files) == 0 {
		return name, data, true
	}
	if !strings.HasPrefix(strings.TrimSpace(string(data[:min(len(data), 100)])), "ISO-10303-21") {
		problem(c, http.StatusUnprocessableEntity, "files for what-ifs go with a STEP file, and the part is none", "hand in the part as STEP, or a model document alone: its sizes are varied in the check")
		return "", nil, false
	}
	packed, err := documents.Pack(data, files)
	if err != nil {
		s.fail(c, err)
		return "", nil, false
	}
	return strings.TrimSuffix(name, filepath.Ext(name)) + ".zip", packed, true
}

// openAttempt finds an attempt that the asker may see: a student's own, or one
// of a class that the asker teaches.
func (s *Server) openAttempt(c *gin.Context, id int64) (store.Attempt, store.Issue, bool) {
	ctx, u := c.Request.Context(), user(c)
	a, err := s.store.Attempt(ctx, id)
	if err == nil && !staff(u) && a.Student != u.ID {
		err = store.ErrNotFound
	}
	if err != nil {
		s.fail(c, err)
		return a, store.Issue{}, false
	}
	i, ok := s.openIssue(c, a.IssueID)
	return a, i, ok
}

// FollowAttempt streams the progress of a check until it has ended.
func (s *Server) FollowAttempt(c *gin.Context, id Id) {
	a, _, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	ctx := c.Request.Context()
	events := newStream(c)
	tick := time.NewTicker(200 * time.Millisecond)
	defer tick.Stop()
	var told Progress
	for {
		a, err := s.store.Attempt(ctx, a.ID)
		if err != nil {
			return
		}
		p := Progress{State: AttemptState(a.State), Stage: a.State}
		if a.State == "queued" || a.State == "checking" {
			j, err := s.store.JobOf(ctx, a.ID)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return
			}
			p.Stage, p.Done = j.Stage, j.Progress
		}
		if p != told {
			told = p
			events.say("progress", p)
		} else if events.quiet() != nil {
			return
		}
		if p.State != "queued" && p.State != "checking" {
			return
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
