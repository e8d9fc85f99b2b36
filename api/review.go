package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"net/http"
	"sort"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/store"
)

// newest keeps of every student the attempt that counts: the last one that could be
// checked, or else the last.
func newest(list []store.Attempt) []store.Attempt {
	best := map[int64]int{}
	for i, a := range list {
		k, ok := best[a.Student]
		if !ok || (a.Report != nil) != (list[k].Report != nil) && a.Report != nil || (a.Report != nil) == (list[k].Report != nil) && a.Number > list[k].Number {
			best[a.Student] = i
		}
	}
	var out []store.Attempt
	for i, a := range list {
		if best[a.Student] == i {
			out = append(out, a)
		}
	}
	return out
}

// GetClassView lays the attempts of a class beside one another: the verdict and measure of
// every characteristic, and what was found in several of them.
func (s *Server) GetClassView(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	_, p, ok := s.drawn(c, s.store.Version, i.VersionID)
	if !ok {
		return
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		s.fail(c, err)
		return
	}
	issue, err := s.issue(ctx, i, all)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := ClassView{Issue: issue, Characteristics: stated(p), Attempts: []ClassAttempt{}, Groups: []FindingGroup{}}
	groups := map[string]*FindingGroup{}
	for _, a := range newest(all) {
		row := ClassAttempt{Row: s.row(a, i, true), Verdicts: map[string]string{}, Measured: map[string]string{}, Keys: []string{}}
		r, err := s.checked(ctx, user(c), a, i)
		if err != nil {
			s.fail(c, err)
			return
		}
		if r != nil {
			changed, err := s.store.Marks(ctx, a.ID)
			if err != nil {
				s.fail(c, err)
				return
			}
			if _, row.Points, row.OutOf = marks(r, changed); a.Points != nil { // as it was returned
				row.Points, row.OutOf = *a.Points, *a.OutOf
			}
			for _, k := range r.Characteristics {
				row.Verdicts[k.ID], row.Measured[k.ID] = string(k.Verdict), k.MeasuredText
			}
			for k := range r.Findings {
				f := &r.Findings[k]
				key := f.Key()
				g := groups[key]
				if g == nil {
					g = &FindingGroup{Key: key, Where: f.Where, What: f.What, Remedy: f.Remedy, Attempts: []int64{}}
					if f.Balloon > 0 {
						g.Balloon = &f.Balloon
					}
					if f.Cause != "" {
						g.Cause = &f.Cause
					}
					groups[key] = g
				}
				if n := len(g.Attempts); n > 0 && g.Attempts[n-1] == a.ID {
					continue
				}
				g.Attempts = append(g.Attempts, a.ID)
				if a.State == "checked" {
					g.Open++
				}
				row.Keys = append(row.Keys, key)
			}
		}
		out.Attempts = append(out.Attempts, row)
	}
	for _, g := range groups {
		out.Groups = append(out.Groups, *g)
	}
	sort.Slice(out.Groups, func(i, k int) bool {
		a, b := &out.Groups[i], &out.Groups[k]
		if len(a.Attempts) != len(b.Attempts) {
			return len(a.Attempts) > len(b.Attempts)
		}
		return a.Key < b.Key
	})
	c.JSON(http.StatusOK, out)
}

// SetRemark writes one remark on a finding of several attempts.
func (s *Server) SetRemark(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in NewRemark
	if err := c.ShouldBindJSON(&in); err != nil || len(in.Text) > 4000 || len(in.Finding) > 200 || len(in.Attempts) == 0 || len(in.Attempts) > 1000 {
		problem(c, http.StatusBadRequest, "the remark is not readable, or too long", "write less than 4000 letters")
		return
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		s.fail(c, err)
		return
	}
	here := map[int64]bool{}
	for _, a := range all {
		here[a.ID] = true
	}
	for _, a := range in.Attempts {
		if !here[a] {
			s.fail(c, store.ErrNotFound)
			return
		}
	}
	n, err := s.store.SetRemark(ctx, in.Attempts, in.Finding, strings.TrimSpace(in.Text), user(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	if n == 0 {
		problem(c, http.StatusConflict, "these attempts are returned already", "a remark is written before the return")
		return
	}
	c.JSON(http.StatusOK, gin.H{"attempts": n})
}

// remarkWords is a remark as the return has it.
func remarkWords(r *report.Report, m store.Remark) string {
	for k := range r.Findings {
		if f := &r.Findings[k]; f.Key() == m.Finding {
			if f.Balloon > 0 {
				return fmt.Sprintf("Balloon %d: %s", f.Balloon, m.Text)
			}
			return f.Where + ": " + m.Text
		}
	}
	return m.Text
}

// rubricView is what a rubric gives for the attempts of an issue, beside what they have.
func (s *Server) rubricView(ctx context.Context, i store.Issue, now, then *exercise.Exercise) (*RubricView, error) {
	out := &RubricView{Title: i.Title + ", " + i.ClassName, Rubric: then.Rubric, Weights: []Weight{}, Rows: []RubricRow{}}
	for _, f := range exercise.CapFaults() {
		out.Faults = append(out.Faults, struct {
			When  string `json:"when"`
			Words string `json:"words"`
		}{f.When, f.Words})
	}
	for k := range then.Characteristics {
		x := &then.Characteristics[k]
		out.Weights = append(out.Weights, Weight{Id: x.ID, Balloon: x.Balloon, Label: x.Label, Weight: x.Weighs()})
	}
	sort.Slice(out.Weights, func(a, b int) bool { return out.Weights[a].Balloon < out.Weights[b].Balloon })
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return nil, err
	}
	for _, a := range newest(all) {
		if a.Report == nil {
			continue
		}
		changed, err := s.store.Marks(ctx, a.ID)
		if err != nil {
			return nil, err
		}
		row := RubricRow{Attempt: a.ID, Student: a.StudentName, Number: a.Number, Returned: a.State == "returned"}
		row.Marks = row.Marks[:0]
		for k, ex := range []*exercise.Exercise{now, then} {
			r, err := marked(a, i, ex)
			if err != nil {
				return nil, err
			}
			list, points, outOf := marks(r, changed)
			if k == 0 {
				row.Before, row.BeforeOutOf = points, outOf
				continue
			}
			row.After, row.AfterOutOf = points, outOf
			for _, m := range list {
				row.Marks = append(row.Marks, struct {
					Label  string  `json:"label"`
					OutOf  float64 `json:"outOf"`
					Points float64 `json:"points"`
				}{m.Label, m.OutOf, m.Points})
			}
		}
		if row.Returned && a.Points != nil {
			row.Before, row.BeforeOutOf = *a.Points, *a.OutOf
			row.After, row.AfterOutOf = row.Before, row.BeforeOutOf
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// GetRubric gives the rubric of an issue and what it comes to.
func (s *Server) GetRubric(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	ex, err := s.exerciseOf(ctx, store.Attempt{}, i)
	if err != nil {
		s.fail(c, err)
		return
	}
	out, err := s.rubricView(ctx, i, ex, ex)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

// TryRubric shows what another rubric would give, and makes it the issue's where that is
// asked for. What is measured does not change, so the checks stand.
func (s *Server) TryRubric(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in NewRubric
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the rubric is not readable: "+err.Error(), "")
		return
	}
	v, err := s.store.Version(ctx, i.VersionID)
	if err != nil {
		s.fail(c, err)
		return
	}
	was, err := documents.ReadExercise(v.Document)
	if err != nil {
		s.fail(c, err)
		return
	}
	doc, err := withRubric(v.Document, in)
	if err != nil {
		problem(c, http.StatusUnprocessableEntity, err.Error(), "put this right in the rubric")
		return
	}
	is, err := documents.ReadExercise(doc)
	if err != nil {
		problem(c, http.StatusUnprocessableEntity, err.Error(), "put this right in the rubric")
		return
	}
	out, err := s.rubricView(ctx, i, was, is)
	if err != nil {
		s.fail(c, err)
		return
	}
	if in.Apply {
		reference, err := s.store.File(ctx, v.ReferenceSHA)
		if err != nil {
			s.fail(c, err)
			return
		}
		next, err := s.store.AddVersion(ctx, store.Version{ExerciseID: v.ExerciseID, Title: v.Title, Drawing: v.Drawing, Document: doc, Prepared: v.Prepared, CreatedBy: user(c).ID}, reference)
		if err == nil {
			err = s.store.Revise(ctx, i.ID, next, user(c).ID, "a new rubric, as version "+fmt.Sprint(next.Number))
		}
		if err != nil {
			s.fail(c, err)
			return
		}
	}
	c.JSON(http.StatusOK, out)
}

// withRubric puts a rubric and weights into an exercise document, and leaves all else of it
// as it is.
func withRubric(document []byte, in NewRubric) ([]byte, error) {
	var doc map[string]json.RawMessage
	if err := json.Unmarshal(document, &doc); err != nil {
		return nil, err
	}
	var err error
	if doc["rubric"], err = json.Marshal(in.Rubric); err != nil {
		return nil, err
	}
	var list []map[string]any
	if err := json.Unmarshal(doc["characteristics"], &list); err != nil {
		return nil, err
	}
	for _, c := range list {
		id, _ := c["id"].(string) // the document was read with its schema
		w, ok := in.Weights[id]
		if !ok {
			continue
		}
		if math.IsNaN(w) || w < 0 || w > 1000 {
			return nil, fmt.Errorf("the weight of %s must be from 0 to 1000", id)
		}
		delete(c, "free")
		delete(c, "weight")
		switch w {
		case 0:
			c["free"] = true
		case 1:
		default:
			c["weight"] = w
		}
	}
	if doc["characteristics"], err = json.Marshal(list); err != nil {
		return nil, err
	}
	return json.Marshal(doc)
}

// GetRecheck lists the versions that an issue could be checked against, and what a re-check
// that is under way would change.
func (s *Server) GetRecheck(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	versions, err := s.store.VersionsOf(ctx, i.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := RecheckView{Title: i.Title + ", " + i.ClassName, Exercise: i.ExerciseID, Current: i.Version, Rows: []RecheckRow{}}
	for _, v := range versions {
		out.Versions = append(out.Versions, struct {
			Created time.Time `json:"created"`
			Id      int64     `json:"id"`
			Number  int       `json:"number"`
		}{v.Created, v.ID, v.Number})
	}
	run, err := s.store.RecheckOf(ctx, i.ID)
	if errors.Is(err, store.ErrNotFound) {
		c.JSON(http.StatusOK, out)
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	if err := s.rechecked(ctx, user(c), i, run, &out); err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, out)
}

// rechecked fills in what a re-check has come to.
func (s *Server) rechecked(ctx context.Context, u store.User, i store.Issue, run store.RecheckRun, out *RecheckView) error {
	v, err := s.store.Version(ctx, run.VersionID)
	if err != nil {
		return err
	}
	then, err := documents.ReadExercise(v.Document)
	if err != nil {
		return err
	}
	list, err := s.store.RecheckedOf(ctx, i.ID, run.VersionID, report.Checker)
	if err != nil {
		return err
	}
	done, all := 0, len(list)
	for _, k := range list {
		a, err := s.store.Attempt(ctx, k.AttemptID)
		if err != nil {
			return err
		}
		row := RecheckRow{Attempt: a.ID, Student: a.StudentName, Number: a.Number, State: k.State, Changes: []Change{}}
		if k.State == "done" || k.State == "parked" {
			done++
		}
		if k.Reason != "" {
			row.Reason = &k.Reason
		}
		before, err := s.checked(ctx, u, a, i)
		if err != nil {
			return err
		}
		if before != nil {
			p := before.Points
			row.Before = &p
		}
		if k.Report != nil {
			b := a
			b.Report = k.Report
			after, err := marked(b, i, then)
			if err != nil {
				return err
			}
			p, o := after.Points, after.OutOf
			row.After, row.OutOf = &p, &o
			if before != nil {
				for _, x := range report.Compare(before, after) {
					if x.Kind != "still wrong" || x.Before != x.After {
						row.Changes = append(row.Changes, Change{Balloon: x.Balloon, Label: x.Label, Before: x.Before, After: x.After, Kind: ChangeKind(x.Kind)})
					}
				}
			}
		}
		out.Rows = append(out.Rows, row)
	}
	out.Against, out.Done, out.All = &run.Number, &done, &all
	return nil
}

// StartRecheck checks all attempts of an issue against another version, beside their own.
func (s *Server) StartRecheck(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in StartRecheckJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "")
		return
	}
	if in.Version == i.VersionID {
		problem(c, http.StatusConflict, "the attempts are checked against this version already", "correct the reference first, as a new version of the exercise")
		return
	}
	if err := s.store.StartRecheck(c.Request.Context(), i.ID, in.Version, user(c).ID); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// EndRecheck applies a re-check, or drops it.
func (s *Server) EndRecheck(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in EndRecheckJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "")
		return
	}
	if err := s.store.EndRecheck(c.Request.Context(), i.ID, user(c).ID, in.Apply); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}
