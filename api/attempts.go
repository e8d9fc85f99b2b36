package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/formats/pdf"
	"hammerset/formats/svg"
	"hammerset/store"
)

// exerciseOf reads the exercise that an attempt is judged by: the version that its report is
// against, else that of the issue.
func (s *Server) exerciseOf(ctx context.Context, a store.Attempt, i store.Issue) (*exercise.Exercise, error) {
	id := versionOf(a, i)
	if ex, ok := s.exercises.Load(id); ok {
		return ex.(*exercise.Exercise), nil
	}
	v, err := s.store.Version(ctx, id)
	if err != nil {
		return nil, err
	}
	ex, err := documents.ReadExercise(v.Document)
	if err == nil {
		s.exercises.Store(id, ex) // a version never changes
	}
	return ex, err
}

func versionOf(a store.Attempt, i store.Issue) int64 {
	if a.VersionID != nil {
		return *a.VersionID
	}
	return i.VersionID
}

// checked reads the report of an attempt as the asker may see it, marked by the rubric as it
// is now; nil where there is none to see.
func (s *Server) checked(ctx context.Context, u store.User, a store.Attempt, i store.Issue) (*report.Report, error) {
	if a.Report == nil || !visible(u, a, i) {
		return nil, nil
	}
	ex, err := s.exerciseOf(ctx, a, i)
	if err != nil {
		return nil, err
	}
	r, err := marked(a, i, ex)
	if err != nil || staff(u) {
		return r, err
	}
	return r.Student(), nil
}

// marked reads the report of an attempt and marks it by an exercise's rubric.
func marked(a store.Attempt, i store.Issue, ex *exercise.Exercise) (*report.Report, error) {
	var r report.Report
	if err := json.Unmarshal(a.Report, &r); err != nil {
		return nil, err
	}
	grade.Mark(&r, ex, grade.Circumstances{Late: a.HandedIn.Sub(i.Due), Number: a.Number}).Onto(&r)
	return &r, nil
}

// marks joins the machine's marks with what people decided.
func marks(r *report.Report, changed []store.Mark) (out []Mark, points, outOf float64) {
	by := map[string]store.Mark{}
	for _, m := range changed {
		by[m.Mark] = m
	}
	out = []Mark{}
	for _, m := range r.Marks {
		row := Mark{Id: m.ID, Label: m.Label, Points: m.Points, MachinePoints: m.Points, OutOf: m.OutOf, Reason: m.Reason}
		if m.Ask {
			row.Ask = &m.Ask
		}
		if len(m.Lost) > 0 {
			row.Lost = &m.Lost
		}
		p := m.Points
		if k, ok := by[m.ID]; ok {
			p = k.Points
			row.Points, row.ChangedBy, row.ChangedReason = p, &k.ByName, &k.Reason
		}
		points += p
		outOf += m.OutOf
		out = append(out, row)
	}
	return out, points, outOf
}

// GetAttempt gives an attempt as the asker may see it. Students see marks with
// the return only.
func (s *Server) GetAttempt(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	out, err := s.attempt(ctx, u, a, i)
	if err != nil {
		s.fail(c, err)
		return
	}
	if staff(u) {
		_, p, ok := s.drawn(c, s.store.Version, versionOf(a, i))
		if !ok {
			return
		}
		out.Faces = p.Faces
	}
	c.JSON(http.StatusOK, out)
}

// attempt gathers what a person may see of an attempt.
func (s *Server) attempt(ctx context.Context, u store.User, a store.Attempt, i store.Issue) (*Attempt, error) {
	all, err := s.store.AttemptsOf(ctx, i.ID, a.Student)
	if err != nil {
		return nil, err
	}
	issue, err := s.issue(ctx, i, all)
	if err != nil {
		return nil, err
	}
	out := &Attempt{Row: s.row(a, i, visible(u, a, i)), Issue: issue, Marks: []Mark{}, Changes: []Change{}, Audit: []AuditEntry{},
		Faces: map[string][]Ref{}, Siblings: []AttemptRow{}, Remarks: []Remark{}, Keys: []string{}}
	for _, b := range all {
		out.Siblings = append(out.Siblings, s.row(b, i, visible(u, b, i)))
	}
	r, err := s.checked(ctx, u, a, i)
	if err != nil {
		return nil, err
	}
	if r != nil {
		out.Report = r
		for k := range r.Findings {
			out.Keys = append(out.Keys, r.Findings[k].Key())
		}
		s.compared(ctx, u, a, i, all, out)
		if err := s.marked(ctx, u, a, out); err != nil {
			return nil, err
		}
	}
	return out, s.said(ctx, u, a, out)
}

// compared says what has changed since the last attempt before that was checked.
func (s *Server) compared(ctx context.Context, u store.User, a store.Attempt, i store.Issue, all []store.Attempt, out *Attempt) {
	for _, b := range slices.Backward(all) {
		if b.Number >= a.Number {
			continue
		}
		before, err := s.checked(ctx, u, b, i)
		if err != nil || before == nil {
			continue // the one before that is compared with
		}
		out.ComparedWith = &b.Number
		for _, k := range report.Compare(before, out.Report) {
			out.Changes = append(out.Changes, Change{Balloon: k.Balloon, Label: k.Label, Before: k.Before, After: k.After, Kind: ChangeKind(k.Kind)})
		}
		return
	}
}

// marked gives the marks with what people have changed, or as they were returned. The machine's
// marks are a draft until the return, which a student does not see.
func (s *Server) marked(ctx context.Context, u store.User, a store.Attempt, out *Attempt) error {
	returned := a.State == "returned"
	if !staff(u) && !returned {
		out.Report.Marks, out.Report.Points, out.Report.OutOf = []report.Mark{}, 0, 0
		return nil
	}
	changed, err := s.store.Marks(ctx, a.ID)
	if err != nil {
		return err
	}
	out.Marks, out.Points, out.OutOf = marks(out.Report, changed)
	if !returned {
		return nil
	}
	back, err := s.store.ReturnOf(ctx, a.ID)
	if errors.Is(err, store.ErrNotFound) || err == nil && back.Marks == nil {
		return nil // returned before marks were kept
	}
	if err == nil {
		out.Points, out.OutOf = back.Points, back.OutOf
		err = json.Unmarshal(back.Marks, &out.Marks)
	}
	return err
}

// said adds what people have said of an attempt: remarks, the return and, for staff, what was done.
func (s *Server) said(ctx context.Context, u store.User, a store.Attempt, out *Attempt) error {
	back, err := s.store.ReturnOf(ctx, a.ID)
	switch {
	case err == nil:
		out.Return = &Return{Comment: back.Comment, Points: back.Points, OutOf: back.OutOf, By: back.ByName, At: back.At}
	case !errors.Is(err, store.ErrNotFound):
		return err
	}
	if staff(u) || a.State == "returned" {
		remarks, err := s.store.Remarks(ctx, a.ID)
		if err != nil {
			return err
		}
		for _, m := range remarks {
			out.Remarks = append(out.Remarks, Remark{Finding: m.Finding, Text: m.Text, By: m.ByName, At: m.At})
		}
	}
	if !staff(u) {
		return nil
	}
	trail, err := s.store.Audit(ctx, a.ID)
	for _, e := range trail {
		out.Audit = append(out.Audit, AuditEntry{At: e.At, By: e.Name, Action: e.Action, Detail: e.Detail})
	}
	return err
}

// GetMarkedSheet draws the sheet with verdicts and measured values.
func (s *Server) GetMarkedSheet(c *gin.Context, id Id, params GetMarkedSheetParams) {
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	v, p, ok := s.drawn(c, s.store.Version, versionOf(a, i))
	if !ok {
		return
	}
	r, err := s.checked(c.Request.Context(), user(c), a, i)
	if err != nil {
		s.fail(c, err)
		return
	}
	o := svg.Options{}
	if r != nil {
		o.Verdicts, o.Values = map[string]report.Verdict{}, map[string]string{}
		for _, k := range r.Characteristics {
			o.Verdicts[k.ID], o.Values[k.ID] = k.Verdict, pdf.ValueText(k)
		}
	}
	s.sheet(c, p.Drawing, v.Drawing, format((*string)(params.Format)), o)
}

// GetAttemptMesh gives the attempt's mesh.
func (s *Server) GetAttemptMesh(c *gin.Context, id Id) {
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	if a.Report == nil || !visible(user(c), a, i) {
		s.fail(c, store.ErrNotFound)
		return
	}
	data, err := s.store.Mesh(c.Request.Context(), a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	content(c, "application/json", data)
}

// GetAttemptCompared gives the attempt beside the reference: how far it deviates, and what
// is too much and missing. The reference can be read from it, so that students get it only
// with the released reference.
func (s *Server) GetAttemptCompared(c *gin.Context, id Id) {
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	if a.Report == nil || !visible(user(c), a, i) || !staff(user(c)) && !i.Released {
		s.fail(c, store.ErrNotFound)
		return
	}
	data, err := s.store.Compared(c.Request.Context(), a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	if data == nil {
		data = []byte("{}") // the two do not differ, or were not laid over one another
	}
	content(c, "application/json", data)
}

// GetAttemptFile gives back the file as it was handed in.
func (s *Server) GetAttemptFile(c *gin.Context, id Id) {
	a, _, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	data, err := s.store.File(c.Request.Context(), a.FileSHA)
	if err != nil {
		s.fail(c, err)
		return
	}
	download(c, "application/octet-stream", a.FileName, data)
}

// GetReturnPDF gives the returned sheet as PDF.
func (s *Server) GetReturnPDF(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	back, err := s.store.ReturnOf(ctx, a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	r, err := s.checked(ctx, u, a, i)
	if err != nil || r == nil {
		s.fail(c, errors.Join(err, notFoundUnless(r != nil)))
		return
	}
	v, p, ok := s.drawn(c, s.store.Version, versionOf(a, i))
	if !ok {
		return
	}
	remarks, err := s.store.Remarks(ctx, a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	changed, err := s.store.Marks(ctx, a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	list, _, _ := marks(r, changed)
	if back.Marks != nil {
		if err := json.Unmarshal(back.Marks, &list); err != nil {
			s.fail(c, err)
			return
		}
	}
	for _, m := range remarks {
		back.Comment += "\n\n" + remarkWords(r, m)
	}
	in := pdf.Return{Student: a.StudentName, Attempt: a.Number, Date: back.At, Comment: back.Comment, Report: r, Points: back.Points, OutOf: back.OutOf}
	for _, m := range list {
		reason := m.Reason
		if m.ChangedReason != nil {
			reason = *m.ChangedReason
		}
		in.Marks = append(in.Marks, report.Mark{ID: m.Id, Label: m.Label, Points: float64(m.Points), OutOf: float64(m.OutOf), Reason: reason})
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, a.Student)
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, b := range all {
		if b.Number < a.Number {
			if q, err := s.checked(ctx, u, b, i); err == nil && q != nil {
				in.Changes = report.Compare(q, r)
			}
		}
	}
	data, err := pdf.Returned(p.Drawing, s.font, in)
	if err != nil {
		s.fail(c, err)
		return
	}
	download(c, "application/pdf", v.Drawing+" attempt "+strings.TrimSpace(a.StudentName)+".pdf", data)
}

// SetMark changes one mark, with a reason.
func (s *Server) SetMark(c *gin.Context, id Id, mark string) {
	ctx, u := c.Request.Context(), user(c)
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	var in NewMark
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "")
		return
	}
	r, err := s.checked(ctx, u, a, i)
	if err != nil || r == nil {
		s.fail(c, errors.Join(err, notFoundUnless(r != nil)))
		return
	}
	if a.State == "returned" {
		problem(c, http.StatusConflict, "this attempt is returned already", "marks are changed before the return")
		return
	}
	changed, err := s.store.Marks(ctx, a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	list, _, _ := marks(r, changed)
	for _, m := range list {
		if m.Id != mark {
			continue
		}
		points := math.Round(float64(in.Points)*100) / 100
		least := 0.0
		if m.OutOf == 0 {
			least = math.Min(0, float64(m.MachinePoints)) // what is taken off can be let off
		}
		switch {
		case points < least || points > float64(m.OutOf) || math.IsNaN(points):
			problem(c, http.StatusUnprocessableEntity, "the points must be from "+strings.TrimSuffix(strings.TrimRight(jsonNumber(least), "0"), ".")+" to "+strings.TrimSuffix(strings.TrimRight(jsonNumber(m.OutOf), "0"), "."), "")
		case strings.TrimSpace(in.Reason) == "":
			problem(c, http.StatusUnprocessableEntity, "a changed mark needs a reason", "write one line that the student will see")
		case len(in.Reason) > 900:
			problem(c, http.StatusUnprocessableEntity, "the reason is too long", "write the rest into the comment")
		default:
			if err := s.store.SetMark(ctx, store.Mark{AttemptID: a.ID, Mark: mark, Points: points, Reason: strings.TrimSpace(in.Reason), By: u.ID}, float64(m.Points)); err != nil {
				s.fail(c, err)
				return
			}
			c.Status(http.StatusNoContent)
		}
		return
	}
	s.fail(c, store.ErrNotFound)
}

func jsonNumber(v float64) string {
	b, err := json.Marshal(v)
	if err != nil {
		return "the maximum"
	}
	s := string(b)
	if !strings.Contains(s, ".") {
		s += "."
	}
	return s
}

// ReturnAttempt sends the attempt back with a comment.
func (s *Server) ReturnAttempt(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	a, i, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	var in ReturnAttemptJSONBody
	if err := c.ShouldBindJSON(&in); err != nil || len(in.Comment) > longestComment {
		problem(c, http.StatusBadRequest, "the comment is not readable or too long", "")
		return
	}
	if a.State != "checked" {
		problem(c, http.StatusConflict, "only a checked attempt can be returned, and only once", "")
		return
	}
	r, err := s.checked(ctx, u, a, i)
	if err != nil || r == nil {
		s.fail(c, errors.Join(err, notFoundUnless(r != nil)))
		return
	}
	changed, err := s.store.Marks(ctx, a.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	if in.Looked == nil || !*in.Looked {
		if asks := asked(r, changed); len(asks) > 0 {
			problemOf(c, http.StatusConflict, LookFirst, "the check asks for a look at "+strings.Join(asks, ", "), "look at these, and change a mark where it needs it; then return the attempt")
			return
		}
	}
	if err := s.giveBack(c, a, r, in.Comment); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// asked lists what the check asks a person to look at, marks that somebody has changed apart.
func asked(r *report.Report, changed []store.Mark) []string {
	var out []string
	for k := range r.Characteristics {
		if x := &r.Characteristics[k]; x.Verdict == report.Ask {
			out = append(out, fmt.Sprintf("balloon %d (%s)", x.Balloon, x.Label))
		}
	}
	if list, _, _ := marks(r, changed); len(out) == 0 {
		for _, m := range list {
			if unlooked(m) {
				out = append(out, "the mark for "+strings.ToLower(m.Label))
			}
		}
	} else if !slices.ContainsFunc(list, unlooked) {
		return nil // somebody has been at the marks that hang on it
	}
	return out
}

// RecheckAttempt queues the check of an attempt that could not be finished.
func (s *Server) RecheckAttempt(c *gin.Context, id Id) {
	a, _, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	if err := s.store.Recheck(c.Request.Context(), a.ID, user(c).ID); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}
