package api

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"hammerset/core/report"
	"hammerset/formats/table"
	"hammerset/store"
)

// ChangeIssue changes until when an issue is to be handed in.
func (s *Server) ChangeIssue(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in ChangeIssueJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the date is not readable", "choose a date and a time")
		return
	}
	if in.Due.Before(i.Issued) || in.Due.After(time.Now().AddDate(5, 0, 0)) {
		problem(c, http.StatusUnprocessableEntity, "the due date lies before the issue or years ahead", "choose another date")
		return
	}
	if err := s.store.SetDue(c.Request.Context(), i.ID, in.Due.UTC(), user(c).ID); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// WithdrawIssue takes an issue back while nothing was handed in.
func (s *Server) WithdrawIssue(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	err := s.store.Withdraw(c.Request.Context(), i.ID, user(c).ID)
	if errors.Is(err, store.ErrHandedIn) {
		problem(c, http.StatusConflict, "something was handed in already, so that the issue stays", "change its due date instead")
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// GrantFurther gives a student one attempt more.
func (s *Server) GrantFurther(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in GrantFurtherJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "")
		return
	}
	roster, err := s.store.Roster(ctx, i.ClassID)
	if err == nil && !slices.ContainsFunc(roster, func(u store.User) bool { return u.ID == in.Student }) {
		err = store.ErrNotFound
	}
	if err == nil {
		err = s.store.Further(ctx, i.ID, in.Student, 1, user(c).ID)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// right lists the attempts of an issue that are to be returned and have everything right: the
// newest of their students, every characteristic in and full marks; a hint that costs nothing does
// not hold them back.
func (s *Server) right(c *gin.Context, i store.Issue) ([]store.Attempt, error) {
	ctx := c.Request.Context()
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return nil, err
	}
	var out []store.Attempt
	for _, a := range newest(all) {
		if a.State != "checked" {
			continue
		}
		r, err := s.checked(ctx, user(c), a, i)
		if err != nil {
			return nil, err
		}
		if r == nil || r.Count(report.In) != len(r.Characteristics) {
			continue
		}
		changed, err := s.store.Marks(ctx, a.ID)
		if err != nil {
			return nil, err
		}
		list, points, outOf := marks(r, changed)
		if points == outOf && !slices.ContainsFunc(list, unlooked) {
			out = append(out, a)
		}
	}
	return out, nil
}

// unlooked tells whether a mark waits for a person's look.
func unlooked(m Mark) bool { return m.Ask != nil && *m.Ask && m.ChangedBy == nil }

// GetRight lists the attempts that are to be returned and have everything right.
func (s *Server) GetRight(c *gin.Context, id Id) {
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	list, err := s.right(c, i)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := []AttemptRow{}
	for _, a := range list {
		out = append(out, s.row(a, i, true))
	}
	c.JSON(http.StatusOK, out)
}

// ReturnRight returns those attempts with everything right that the asker has looked at.
func (s *Server) ReturnRight(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	i, ok := s.openIssue(c, id)
	if !ok {
		return
	}
	var in ReturnRightJSONBody
	if err := c.ShouldBindJSON(&in); err != nil || len(in.Comment) > longestComment {
		problem(c, http.StatusBadRequest, "the request is not readable, or the comment too long", "")
		return
	}
	list, err := s.right(c, i)
	if err != nil {
		s.fail(c, err)
		return
	}
	n := 0
	for _, a := range list {
		if !slices.Contains(in.Attempts, a.ID) {
			continue
		}
		r, err := s.checked(ctx, user(c), a, i)
		if err == nil {
			err = s.giveBack(c, a, r, in.Comment)
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) { // somebody else returned it meanwhile
			s.fail(c, err)
			return
		}
		if err == nil {
			n++
		}
	}
	c.JSON(http.StatusOK, gin.H{"returned": n})
}

// longestComment is in bytes.
const longestComment = 20000

// giveBack returns an attempt with its marks as they are now.
func (s *Server) giveBack(c *gin.Context, a store.Attempt, r *report.Report, comment string) error {
	ctx := c.Request.Context()
	changed, err := s.store.Marks(ctx, a.ID)
	if err != nil {
		return err
	}
	list, points, outOf := marks(r, changed)
	kept, err := json.Marshal(list)
	if err != nil {
		return err
	}
	return s.store.AddReturn(ctx, store.Return{AttemptID: a.ID, Marks: kept, Comment: strings.TrimSpace(comment), Points: points, OutOf: outOf, By: user(c).ID, At: time.Now()})
}

// TakeBackReturn takes a return back.
func (s *Server) TakeBackReturn(c *gin.Context, id Id) {
	a, _, ok := s.openAttempt(c, id)
	if !ok {
		return
	}
	err := s.store.TakeBack(c.Request.Context(), a.ID, user(c).ID)
	if errors.Is(err, store.ErrWentOn) {
		problem(c, http.StatusConflict, "the student has handed in again since, so that the return stays", "say what is to be changed with the next return")
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// GetClassPoints gives the points of a class as a table: a student in every row, an issue in
// every column; empty where nothing is returned yet.
func (s *Server) GetClassPoints(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	k, students, issues, err := s.classOf(ctx, u, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	head := []string{"name", "login"}
	type cell struct{ points, outOf string }
	cells := map[int64]map[int64]cell{}
	var columns []int64
	for _, i := range issues {
		columns = append(columns, i.ID)
		head = append(head, i.Title, i.Title+", out of")
		attempts, err := s.store.AttemptRows(ctx, i.ID, 0)
		if err != nil {
			s.fail(c, err)
			return
		}
		cells[i.ID] = map[int64]cell{}
		for _, a := range attempts { // the last that was returned counts
			if a.Points != nil {
				cells[i.ID][a.Student] = cell{table.Number(*a.Points), table.Number(*a.OutOf)}
			}
		}
	}
	var b strings.Builder
	w := csv.NewWriter(&b)
	rows := [][]string{head}
	for _, st := range students {
		row := []string{st.Name, st.Login}
		for _, i := range columns {
			row = append(row, cells[i][st.ID].points, cells[i][st.ID].outOf)
		}
		rows = append(rows, row)
	}
	for _, r := range rows {
		if err := w.Write(table.Safe(r)); err != nil {
			s.fail(c, err)
			return
		}
	}
	w.Flush()
	download(c, "text/csv; charset=utf-8", fmt.Sprintf("%s points.csv", k.Name), []byte(b.String()))
}
