package school

import (
	"context"
	"errors"
	"slices"
	"testing"
	"time"

	"hammerset/core/gradebook"
	"hammerset/store"
)

// What is issued to a group goes to whoever comes into it while it is open, by whatever name; who leaves it keeps it.
// Faulty groups are refused.
func TestGroups(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil, mate := c.people["leader"], c.people["pupil"], c.people["mate"]
	set := func(was, name string, people ...Person) error {
		var ids []int64
		for _, p := range people {
			ids = append(ids, p.ID)
		}
		return s.SetGroup(ctx, leader, c.class, was, store.Group{Name: name, Students: ids})
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	must(set("", " early   shift ", mate))
	must(set("", "late shift", pupil))
	for what, err := range map[string]error{"a name twice": set("", "late shift", mate), "no name": set("", " ", mate),
		"nobody": set("", "empty", []Person{}...), "one who is no student": set("", "staff", c.people["helper"]),
		"a group that is gone": set("night shift", "night", mate), "the name of another": set("early shift",
			"late shift", mate), "by an assistant": s.SetGroup(ctx, c.people["helper"], c.class, "",
			store.Group{Name: "own", Students: []int64{mate.ID}})} {
		var refusal *Refusal
		if !errors.As(err, &refusal) {
			t.Errorf("%s: %v", what, err)
		}
	}
	issue := func(groups ...string) (int64, error) {
		o := Order{Class: c.class, Groups: groups}
		if err := s.ofGroups(ctx, &o); err != nil {
			return 0, err
		}
		return database.AddIssue(ctx, store.Issue{VersionID: c.issue.VersionID, ClassID: c.class, IssuedBy: leader.ID,
			Issued: time.Now().UTC(), Due: time.Now().UTC().Add(time.Hour), Attempts: 1, Results: AtOnce,
			Groups: o.Groups}, true, "", o.Students...)
	}
	if _, err := issue("no such shift"); err == nil {
		t.Error("issued to a group that there is not")
	}
	first, err := issue("early shift")
	must(err)
	closed, err := issue("early shift")
	must(err)
	must(s.CloseIssue(ctx, leader, closed, true))
	// reads tells who of the two sees which of both issues.
	reads := func() (out []bool) {
		for _, i := range []int64{first, closed} {
			for _, p := range []Person{pupil, mate} {
				_, err := s.issue(ctx, p, ReadIssue, i)
				out = append(out, err == nil)
			}
		}
		return out
	}
	if got := reads(); !slices.Equal(got, []bool{false, true, false, true}) {
		t.Errorf("pupil and mate read %v", got)
	}
	must(set("early shift", "morning", mate, pupil))
	if got := reads(); !slices.Equal(got, []bool{true, true, false, true}) {
		t.Errorf("after both are in the group they read %v", got)
	}
	must(set("morning", "morning", pupil))
	if got := reads(); !slices.Equal(got, []bool{true, true, false, true}) {
		t.Errorf("after one has left it they read %v", got)
	}
	d, err := s.IssueDetail(ctx, leader, first)
	if err != nil || !slices.Equal(d.Groups, []string{"morning"}) || len(d.Students) != 2 {
		t.Errorf("it is for %v, %d students, %v", d.Groups, len(d.Students), err)
	}
	must(set("morning", "morning"))
	if d, err = s.IssueDetail(ctx, leader, first); err != nil || len(d.Groups) > 0 || len(d.Students) != 2 {
		t.Errorf("after its group ended it is for %v, %d students, %v", d.Groups, len(d.Students), err)
	}
	k, err := s.Class(ctx, leader, c.class)
	if err != nil || len(k.Groups) != 1 || k.Groups[0].Name != "late shift" {
		t.Errorf("the groups are %v, %v", k.Groups, err)
	}

	// Who has left keeps a row in the gradebook for what was handed in, and is in no mean.
	must(database.Leave(ctx, c.class, pupil.ID, leader.ID))
	if err := set("", "late shift", mate); err != nil {
		t.Errorf("of a group whose students have all left the name is not free: %v", err)
	}
	book, err := s.Gradebook(ctx, leader, c.class, gradebook.Last)
	must(err)
	if len(book.Students) != 1 || len(book.Left) != 1 || book.Left[0].ID != pupil.ID || book.Left[0].Until == nil {
		t.Fatalf("in the book are %d, and %d who left", len(book.Students), len(book.Left))
	}
	states := map[gradebook.State]int{}
	for _, cell := range book.LeftBook.Cells[0] {
		states[cell.State]++
	}
	if states[gradebook.Waiting] != 1 || states[gradebook.NotFor] != len(book.Issues)-1 {
		t.Errorf("of who left it has %v of %d", states, len(book.Issues))
	}
}

// To whom an exercise is not missing: who came when it was due already. Who was there, left and comes again comes to
// nothing new.
func TestJoiningLate(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil, other := c.people["leader"], c.people["pupil"], c.people["stranger"]
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	start := time.Now().UTC().Truncate(time.Millisecond)
	issue := func(due time.Duration) int64 {
		t.Helper()
		id, err := database.AddIssue(ctx, store.Issue{VersionID: c.issue.VersionID, ClassID: c.class, IssuedBy: leader.ID,
			Issued: start.Add(-48 * time.Hour), Due: start.Add(due), Attempts: 1, Results: AtOnce}, true, "")
		must(err)
		return id
	}
	over, open, later := issue(-24*time.Hour), issue(24*time.Hour), issue(48*time.Hour)
	member := store.Membership{ClassID: c.class, UserID: other.ID, Role: store.Student}
	must(database.Join(ctx, member, leader.ID))
	must(database.Leave(ctx, c.class, pupil.ID, leader.ID))
	member.UserID = pupil.ID
	must(database.Join(ctx, member, leader.ID))
	// What is to do comes first, the soonest due before the others; what is over follows, the latest due first.
	home := func(p Person) (ids []int64) {
		t.Helper()
		tasks, err := s.Home(ctx, p)
		must(err)
		for _, x := range tasks {
			if x.ToDo != (x.Issue.ID != over || p.ID == pupil.ID) || x.Before != (x.Issue.ID == over && p.ID == other.ID) {
				t.Errorf("%s at %d: to do %v, before %v", p.Login, x.Issue.ID, x.ToDo, x.Before)
			}
			if x.Issue.ID != c.issue.ID {
				ids = append(ids, x.Issue.ID)
			}
		}
		return ids
	}
	if got := home(other); !slices.Equal(got, []int64{open, later, over}) {
		t.Errorf("the one who came has %v", got)
	}
	if got := home(pupil); !slices.Equal(got, []int64{over, open, later}) {
		t.Errorf("the one who came again has %v", got)
	}
	must(s.CloseIssue(ctx, leader, over, true))
	must(s.CloseIssue(ctx, leader, open, true))
	// cell is that of a student at an issue.
	cell := func(p Person, issue int64) gradebook.State {
		t.Helper()
		book, err := s.Gradebook(ctx, leader, c.class, gradebook.Last)
		must(err)
		row := slices.IndexFunc(book.Students, func(x Person) bool { return x.ID == p.ID })
		column := slices.IndexFunc(book.Issues, func(x store.Issue) bool { return x.ID == issue })
		if row < 0 || column < 0 {
			t.Fatalf("%s is not in the book", p.Login)
		}
		return book.Book.Cells[row][column].State
	}
	for _, x := range []struct {
		of    Person
		issue int64
		want  gradebook.State
	}{{other, over, gradebook.Before}, {other, open, gradebook.Missing}, {pupil, over, gradebook.Missing},
		{pupil, open, gradebook.Missing}} {
		if got := cell(x.of, x.issue); got != x.want {
			t.Errorf("%s at %d: %s, and not %s", x.of.Login, x.issue, got, x.want)
		}
	}
	due := start.Add(24 * time.Hour)
	must(s.Extend(ctx, leader, over, other.ID, Extension{Due: &due}))
	if got := cell(other, over); got != gradebook.Missing {
		t.Errorf("with time of their own it is %s", got)
	}
}
