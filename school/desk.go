package school

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"hammerset/core/desk"
	"hammerset/core/report"
	"hammerset/store"
)

// Desk is the first thing that staff sees.
type Desk struct {
	Classes  []store.Class
	Due      []Issue
	Waiting  []Waiting // for a person, by issue
	Checking int       // attempts that the machine is at
	Odd      []desk.Oddity
	Stopped  []store.Stop // where the asker has stopped
}

// Waiting is what waits for a person at an issue: the newest attempts of its students that are to be returned, or
// cannot be checked.
type Waiting struct {
	Issue   Issue
	Count   int
	Right   int // everything that is checked is in
	Asks    int // the check asks for a look, or knows no cause
	Parked  int // the check could not be finished
	Late    int
	Oldest  time.Time // handed in
	Attempt int64     // to begin with: the first that a person is needed for, or else the first
}

// Desk gathers what staff has to do in its classes.
func (s *School) Desk(ctx context.Context, by Person) (out Desk, err error) {
	if err := s.may(ctx, by, ReadDesk, row{}); err != nil {
		return out, err
	}
	if out.Classes, err = s.taught(ctx, by); err != nil {
		return out, err
	}
	issues, err := s.store.Issues(ctx, by, store.Instructor, store.Assistant)
	if err != nil {
		return out, err
	}
	if out.Stopped, err = s.store.Stopped(ctx, by.ID); err != nil {
		return out, err
	}
	briefs, err := s.briefs(ctx, issues)
	if err != nil {
		return out, err
	}
	for _, i := range issues {
		list := briefs[i.ID]
		row := summed(i, list)
		out.Due = append(out.Due, row)
		w := waitsAt(row, list)
		if w.Count > 0 && !i.Practice {
			out.Waiting = append(out.Waiting, w)
		}
		for _, a := range list {
			if a.State == "queued" || a.State == "checking" {
				out.Checking++
			}
		}
		odd, err := s.oddities(ctx, i, list)
		if err != nil {
			return out, err
		}
		out.Odd = append(out.Odd, odd...)
	}
	slices.SortFunc(out.Waiting, func(a, b Waiting) int { return a.Oldest.Compare(b.Oldest) })
	return out, nil
}

// briefs gives the attempts at issues with what lists need of their reports.
func (s *School) briefs(ctx context.Context, issues []store.Issue) (map[int64][]store.Brief, error) {
	all, err := s.store.Briefs(ctx, idsOf(issues))
	out := map[int64][]store.Brief{}
	for _, b := range all {
		out[b.IssueID] = append(out[b.IssueID], b)
	}
	return out, err
}

func idsOf(issues []store.Issue) []int64 {
	var ids []int64
	for _, i := range issues {
		ids = append(ids, i.ID)
	}
	return ids
}

// summed is an issue with the counts of its attempts.
func summed(i store.Issue, list []store.Brief) Issue {
	return tallied(i, list, func(a store.Brief) (int64, string) { return a.Student, a.State })
}

// waitsAt sums up what waits for a person among the attempts at an issue, in the order of their students.
func waitsAt(i Issue, list []store.Brief) Waiting {
	out := Waiting{Issue: i}
	needed := false
	for k, a := range list {
		newest := k+1 == len(list) || list[k+1].Student != a.Student
		if !newest || a.State != "checked" && a.State != "parked" {
			continue
		}
		out.Count++
		needs := a.State == "parked"
		if needs {
			out.Parked++
		}
		var d desk.Digest
		if a.Digest != nil && json.Unmarshal(a.Digest, &d) == nil && (d.Asks > 0 || d.Unclear) {
			out.Asks++
			needs = true
		}
		if a.State == "checked" && a.In != nil && a.Of != nil && *a.In == *a.Of {
			out.Right++
		}
		if a.Late {
			out.Late++
		}
		if out.Oldest.IsZero() || a.HandedIn.Before(out.Oldest) {
			out.Oldest = a.HandedIn
		}
		if out.Attempt == 0 || needs && !needed {
			out.Attempt, needed = a.ID, needs
		}
	}
	return out
}

// looked is what looked odd at an issue in a state of its attempts.
type looked struct {
	state string
	odd   []desk.Oddity
}

// oddities finds what looks odd at an issue, anew only when its attempts are others than they were.
func (s *School) oddities(ctx context.Context, i store.Issue, list []store.Brief) ([]desk.Oddity, error) {
	var state strings.Builder
	for _, a := range list {
		report := int64(0)
		if a.ReportID != nil {
			report = *a.ReportID
		}
		fmt.Fprint(&state, a.ID, a.State, report, a.StudentName, ";")
	}
	if was, ok := s.odd.Load(i.ID); ok && was.(looked).state == state.String() {
		return was.(looked).odd, nil
	}
	var known []desk.Attempt
	for _, a := range list {
		d := desk.Attempt{ID: a.ID, Issue: i.ID, Student: a.StudentName, Number: a.Number, File: a.FileSHA,
			State: a.State, What: a.What}
		var err error
		if d.Digest, err = s.digest(ctx, a); err != nil {
			return nil, err
		}
		known = append(known, d)
	}
	odd := desk.Odd(known)
	s.odd.Store(i.ID, looked{state.String(), odd})
	return odd, nil
}

// digest is what lists need of the report of an attempt; nil where there is none. Of a report from before digests were
// kept it is made.
func (s *School) digest(ctx context.Context, a store.Brief) (*desk.Digest, error) {
	if a.ReportID == nil {
		return nil, nil
	}
	var d desk.Digest
	if a.Digest != nil {
		return &d, json.Unmarshal(a.Digest, &d)
	}
	data, err := s.store.ReportOf(ctx, *a.ReportID)
	if err != nil {
		return nil, err
	}
	var r report.Report
	if err := json.Unmarshal(data, &r); err != nil {
		return nil, err
	}
	made := desk.DigestOf(&r)
	if data, err = json.Marshal(made); err != nil {
		return nil, err
	}
	return made, s.store.KeepDigest(ctx, *a.ReportID, data)
}

// ClassDetail is a class with its students and all that they handed in.
type ClassDetail struct {
	Class    store.Class
	Leads    bool           // the asker may change it
	Members  []store.Member // everybody, also those who have left
	Students []Person
	Groups   []store.Group
	Attempts map[int64][]Attempt // by student
	Issues   []Issue
	// Withdrawn are the issues that were taken back.
	Withdrawn []store.Issue
}

// withdrawn takes the issues that were taken back out of a list.
func withdrawn(issues *[]store.Issue) (out []store.Issue) {
	*issues = slices.DeleteFunc(*issues, func(i store.Issue) bool {
		if i.Withdrawn != nil {
			out = append(out, i)
		}
		return i.Withdrawn != nil
	})
	return out
}

// Class gives the roster of a class.
func (s *School) Class(ctx context.Context, by Person, id int64) (ClassDetail, error) {
	out := ClassDetail{Attempts: map[int64][]Attempt{}}
	k, students, issues, err := s.class(ctx, by, id)
	if err != nil {
		return out, err
	}
	out.Class, out.Students, out.Leads = k, students, s.may(ctx, by, ChangeClass, row{class: id}) == nil
	if out.Members, err = s.store.Members(ctx, id); err != nil {
		return out, err
	}
	if out.Groups, err = s.store.Groups(ctx, id); err != nil {
		return out, err
	}
	out.Withdrawn = withdrawn(&issues)
	rows, err := s.store.RowsOf(ctx, idsOf(issues), 0)
	if err != nil {
		return out, err
	}
	for _, i := range issues {
		out.Issues = append(out.Issues, counts(i, rows[i.ID]))
		for _, a := range rows[i.ID] {
			out.Attempts[a.Student] = append(out.Attempts[a.Student], seen(true, a, i))
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
	if k, err = s.store.Class(ctx, id); err != nil {
		return k, nil, nil, err
	}
	if students, err = s.store.Roster(ctx, id); err != nil {
		return k, nil, nil, err
	}
	issues, err = s.store.IssuesIn(ctx, id)
	return k, students, issues, err
}
