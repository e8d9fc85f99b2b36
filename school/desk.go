package school

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/desk"
	"hammerset/core/report"
	"hammerset/store"
)

// Desk is the first thing that staff sees.
type Desk struct {
	Classes   []store.Class
	Exercises []store.VersionRow
	Due       []Issue
	Waiting   []Attempt // for a person
	Checking  int       // attempts that the machine is at
	Odd       []desk.Oddity
}

// Desk gathers what staff has to do in its classes.
func (s *School) Desk(ctx context.Context, by Person) (out Desk, err error) {
	if err := Allowed(by, ReadDesk); err != nil {
		return out, err
	}
	if out.Classes, err = s.store.Classes(ctx, by); err != nil {
		return out, err
	}
	if out.Exercises, err = s.store.Exercises(ctx); err != nil {
		return out, err
	}
	issues, err := s.store.Issues(ctx, by)
	if err != nil {
		return out, err
	}
	for _, i := range issues {
		row, attempts, err := s.counted(ctx, i)
		if err != nil {
			return out, err
		}
		out.Due = append(out.Due, row)
		for _, a := range attempts {
			switch a.State {
			case "checked", "parked":
				out.Waiting = append(out.Waiting, seen(by, a, i))
			case "queued", "checking":
				out.Checking++
			}
		}
		odd, err := s.oddities(ctx, i, attempts)
		if err != nil {
			return out, err
		}
		out.Odd = append(out.Odd, odd...)
	}
	return out, nil
}

// looked is what looked odd at an issue in a state of its attempts.
type looked struct {
	state string
	odd   []desk.Oddity
}

// oddities finds what looks odd at an issue. Whole reports are read only when its attempts are
// others than they were.
func (s *School) oddities(ctx context.Context, i store.Issue, rows []store.Attempt) ([]desk.Oddity, error) {
	var state strings.Builder
	for _, a := range rows {
		report := int64(0)
		if a.ReportID != nil {
			report = *a.ReportID
		}
		fmt.Fprint(&state, a.ID, a.State, report, a.StudentName, ";")
	}
	if was, ok := s.odd.Load(i.ID); ok && was.(looked).state == state.String() {
		return was.(looked).odd, nil
	}
	attempts, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return nil, err
	}
	var known []desk.Attempt
	for _, a := range attempts {
		d := desk.Attempt{ID: a.ID, Issue: i.ID, Student: a.StudentName, Number: a.Number, File: a.FileSHA,
			State: a.State, What: a.What}
		if a.Report != nil {
			d.Report = new(report.Report)
			if err := json.Unmarshal(a.Report, d.Report); err != nil {
				return nil, err
			}
		}
		known = append(known, d)
	}
	odd := desk.Odd(known)
	s.odd.Store(i.ID, looked{state.String(), odd})
	return odd, nil
}

// ClassDetail is a class with its students and all that they handed in.
type ClassDetail struct {
	Class    store.Class
	Students []Person
	Attempts map[int64][]Attempt // by student
	Issues   []Issue
}

// Class gives the roster of a class.
func (s *School) Class(ctx context.Context, by Person, id int64) (ClassDetail, error) {
	out := ClassDetail{Attempts: map[int64][]Attempt{}}
	k, students, issues, err := s.class(ctx, by, id)
	if err != nil {
		return out, err
	}
	out.Class, out.Students = k, students
	for _, i := range issues {
		row, attempts, err := s.counted(ctx, i)
		if err != nil {
			return out, err
		}
		out.Issues = append(out.Issues, row)
		for _, a := range attempts {
			out.Attempts[a.Student] = append(out.Attempts[a.Student], seen(by, a, i))
		}
	}
	return out, nil
}

// class gives a class with its students and what is issued to it.
func (s *School) class(ctx context.Context, by Person, id int64) (k store.Class, students []Person,
	issues []store.Issue, err error) {
	if err = s.may(ctx, by, ReadClass, row{class: id}); err != nil {
		return k, nil, nil, err
	}
	classes, err := s.store.Classes(ctx, by)
	at := slices.IndexFunc(classes, func(k store.Class) bool { return k.ID == id })
	if err = foundIf(at >= 0, err); err != nil {
		return k, nil, nil, err
	}
	if students, err = s.store.Roster(ctx, id); err != nil {
		return k, nil, nil, err
	}
	if issues, err = s.store.Issues(ctx, by); err != nil {
		return k, nil, nil, err
	}
	return classes[at], students, slices.DeleteFunc(issues, func(i store.Issue) bool { return i.ClassID != id }), nil
}

// Points is the book of a class: for every student, in the order of the students, the points of each
// issue as they were returned last; nil where nothing is returned yet.
type Points struct {
	Class    store.Class
	Students []Person
	Issues   []store.Issue
	Cells    [][]*Cell // by student, then by issue
}

// Cell is what an attempt was returned with.
type Cell struct{ Points, OutOf float64 }

// Points gives the points of a class.
func (s *School) Points(ctx context.Context, by Person, id int64) (out Points, err error) {
	if out.Class, out.Students, out.Issues, err = s.class(ctx, by, id); err != nil {
		return out, err
	}
	line := map[int64]int{}
	for k, st := range out.Students {
		line[st.ID] = k
		out.Cells = append(out.Cells, make([]*Cell, len(out.Issues)))
	}
	for n, i := range out.Issues {
		attempts, err := s.store.AttemptRows(ctx, i.ID, 0)
		if err != nil {
			return out, err
		}
		for _, a := range attempts { // the last that was returned counts
			if k, ok := line[a.Student]; ok && a.Points != nil {
				out.Cells[k][n] = &Cell{*a.Points, *a.OutOf}
			}
		}
	}
	return out, nil
}
