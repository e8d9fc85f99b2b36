package school

import (
	"context"
	"errors"
	"fmt"
	"testing"
	"time"

	"hammerset/store"
)

// An issue is there for a student from when it opens, for whom it is, until it is closed, but for whom it was extended;
// whoever is late is late by the own time; what is withdrawn is there for its instructors alone, and can come back.
func TestTermsOfAnIssue(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil, mate := c.people["leader"], c.people["pupil"], c.people["mate"]
	id := c.issue.ID
	in := func(h int) *time.Time { at := time.Now().UTC().Add(time.Duration(h) * time.Hour); return &at }
	var sent int
	// what is how a student stands to the issue now: not there, or what comes of handing in.
	what := func(by Person) string {
		sent++
		a, _, err := s.HandIn(ctx, by, id, File{"a.step", fmt.Appendf(nil, "file %d", sent)}, nil, false)
		var refusal *Refusal
		switch {
		case errors.Is(err, ErrNotFound):
			return "not there"
		case errors.As(err, &refusal):
			return refusal.What
		case err != nil:
			return err.Error()
		case a.Late:
			return "late"
		}
		return "in time"
	}
	terms := store.Terms{Due: *in(1), Attempts: 20, Results: WithTheReturn}
	if err := s.ChangeTerms(ctx, leader, id, terms); err != nil {
		t.Fatal(err)
	}
	const closed = "this exercise is closed"
	for _, step := range []struct {
		name        string
		do          func() error
		pupil, mate string
	}{
		{"as issued", func() error { return nil }, "in time", "in time"},
		{"opens later", func() error {
			terms.Opens = in(1)
			terms.Due = *in(2)
			return s.ChangeTerms(ctx, leader, id, terms)
		}, "not there", "not there"},
		{"open, and due before", func() error {
			terms.Opens, terms.Due = nil, c.issue.Issued.Add(time.Millisecond)
			return s.ChangeTerms(ctx, leader, id, terms)
		}, "late", "late"},
		{"the pupil gets more time", func() error {
			return s.Extend(ctx, leader, id, pupil.ID, Extension{Due: in(3)})
		}, "in time", "late"},
		{"closed", func() error { return s.CloseIssue(ctx, leader, id, true) }, "in time", closed},
		{"fewer attempts", func() error {
			return s.Extend(ctx, leader, id, pupil.ID, Extension{Due: in(3), More: -20})
		}, "all attempts at this exercise are used", closed},
		{"open again, as everybody", func() error {
			return errors.Join(s.CloseIssue(ctx, leader, id, false), s.Extend(ctx, leader, id, pupil.ID, Extension{}))
		}, "late", "late"},
		{"withdrawn", func() error { return s.Withdraw(ctx, leader, id, true) }, "not there", "not there"},
		{"brought back", func() error { return s.BringBack(ctx, leader, id) }, "late", "late"},
	} {
		if err := step.do(); err != nil {
			t.Fatalf("%s: %v", step.name, err)
		}
		if got := what(pupil); got != step.pupil {
			t.Errorf("%s: the pupil is told %q, and not %q", step.name, got, step.pupil)
		}
		if got := what(mate); got != step.mate {
			t.Errorf("%s: the mate is told %q, and not %q", step.name, got, step.mate)
		}
	}
	// An extension says anew of what was handed in whether it was late.
	before, err := database.AttemptRows(ctx, id, mate.ID)
	if err == nil {
		err = s.Extend(ctx, leader, id, mate.ID, Extension{Due: in(3), Excused: true})
	}
	if err != nil {
		t.Fatal(err)
	}
	after, err := database.AttemptRows(ctx, id, mate.ID)
	if last := len(after) - 1; err != nil || !before[last].Late || after[last].Late || !after[last].Due.After(time.Now()) {
		t.Errorf("late before: %v, after: %v, due %v, %v", before[last].Late, after[last].Late, after[last].Due, err)
	}
	var refusal *Refusal
	for name, e := range map[string]error{
		"opens after it is due": s.ChangeTerms(ctx, leader, id, store.Terms{Due: *in(1), Opens: in(2),
			Attempts: 1, Results: AtOnce}),
		"no attempts":            s.ChangeTerms(ctx, leader, id, store.Terms{Due: *in(1), Results: AtOnce}),
		"due before it was":      s.ChangeTerms(ctx, leader, id, store.Terms{Due: *in(-9), Attempts: 1, Results: AtOnce}),
		"more than fifty in all": s.Extend(ctx, leader, id, mate.ID, Extension{More: 31}),
	} {
		if !errors.As(e, &refusal) || refusal.Kind != Faulty {
			t.Errorf("%s: %v", name, e)
		}
	}
	if err := s.Extend(ctx, leader, id, c.people["stranger"].ID, Extension{}); !errors.Is(err, ErrNotFound) {
		t.Errorf("a student of another class is extended: %v", err)
	}
}

// What is for some students alone is not there for the others, and counts them alone.
func TestForSomeStudents(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil, mate := c.people["leader"], c.people["pupil"], c.people["mate"]
	id, err := database.AddIssue(ctx, store.Issue{VersionID: c.issue.VersionID, ClassID: c.class, IssuedBy: leader.ID,
		Issued: time.Now().UTC(), Due: time.Now().UTC().Add(time.Hour), Attempts: 3, Results: AtOnce,
		Practice: true}, true, "",
		mate.ID)
	if err != nil {
		t.Fatal(err)
	}
	i, err := database.Issue(ctx, id)
	if err != nil || i.Students != 1 || !i.Practice {
		t.Errorf("for %d students, practice %v, %v", i.Students, i.Practice, err)
	}
	for who, want := range map[string]error{"pupil": ErrNotFound, "mate": nil, "leader": nil, "helper": nil} {
		if _, err := s.issue(ctx, c.people[who], ReadIssue, id); !errors.Is(err, want) {
			t.Errorf("the %s: %v", who, err)
		}
	}
	home, err := s.Home(ctx, pupil)
	if err != nil || len(home) != 1 {
		t.Errorf("the pupil has %d things to do, %v", len(home), err)
	}
	if err := s.Extend(ctx, leader, id, pupil.ID, Extension{More: 1}); err == nil {
		t.Error("extended for whom it is not")
	}
}

// Extra time of a student goes with every due date, also with one that is changed and at what is issued later; an
// extension that somebody gave stays as it is.
func TestExtraTime(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil := c.people["leader"], c.people["pupil"]
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	// after is how many hours after the others the pupil hands in.
	after := func(issue int64) int {
		t.Helper()
		i, err := database.Issue(ctx, issue)
		must(err)
		own, err := database.OwnAt(ctx, issue)
		must(err)
		if own[pupil.ID].Due == nil {
			return 0
		}
		return int(own[pupil.ID].Due.Sub(i.Due).Hours())
	}
	var refusal *Refusal
	if err := s.SetExtraTime(ctx, c.people["helper"], c.class, pupil.ID, 5); !errors.As(err, &refusal) {
		t.Errorf("an assistant gives extra time: %v", err)
	}
	if err := s.SetExtraTime(ctx, leader, c.class, c.people["helper"].ID, 5); !errors.Is(err, ErrNotFound) {
		t.Errorf("an assistant gets extra time: %v", err)
	}
	if err := s.SetExtraTime(ctx, leader, c.class, pupil.ID, -1); !errors.As(err, &refusal) {
		t.Errorf("less than nothing: %v", err)
	}
	must(s.SetExtraTime(ctx, leader, c.class, pupil.ID, 48))
	if got := after(c.issue.ID); got != 48 {
		t.Errorf("%d hours after the others", got)
	}
	later := c.issue.Due.Add(24 * time.Hour)
	must(s.ChangeTerms(ctx, leader, c.issue.ID, store.Terms{Due: later, Attempts: 3, Results: WithTheReturn}))
	if got := after(c.issue.ID); got != 48 {
		t.Errorf("with another due date %d hours after the others", got)
	}
	second, err := database.AddIssue(ctx, store.Issue{VersionID: c.issue.VersionID, ClassID: c.class, IssuedBy: leader.ID,
		Issued: time.Now().UTC(), Due: later, Attempts: 1, Results: WithTheReturn}, true, "")
	must(err)
	if got := after(second); got != 48 {
		t.Errorf("at the next issue %d hours after the others", got)
	}
	given := later.Add(3 * time.Hour)
	must(s.Extend(ctx, leader, second, pupil.ID, Extension{Due: &given}))
	must(s.SetExtraTime(ctx, leader, c.class, pupil.ID, 10))
	if first, next := after(c.issue.ID), after(second); first != 10 || next != 3 {
		t.Errorf("with ten hours it is %d, and %d where an extension was given", first, next)
	}
	must(s.SetExtraTime(ctx, leader, c.class, pupil.ID, 0))
	if first, next := after(c.issue.ID), after(second); first != 0 || next != 3 {
		t.Errorf("without it is %d, and %d where an extension was given", first, next)
	}
}
