package school

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"hammerset/store"
)

// A question is seen by who asked it and by staff; when it is answered all students of the issue read both, without the
// name, and are told. Who is not of the class sees nothing of it.
func TestQuestions(t *testing.T) {
	ctx := context.Background()
	c := gather(t)
	s := New(database, nil)
	pupil, mate, helper := c.people["pupil"], c.people["mate"], c.people["helper"]
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	seen := func(p Person) string {
		t.Helper()
		d, err := s.IssueDetail(ctx, p, c.issue.ID)
		must(err)
		var out []string
		for _, q := range d.Questions {
			out = append(out, fmt.Sprintf("%s: %s (%s, mine %v)", q.Text, q.Answer, q.StudentName, q.Mine))
		}
		return strings.Join(out, "; ")
	}
	must(s.Ask(ctx, pupil, c.issue.ID, "", " Is the hole through? "))
	must(s.Ask(ctx, pupil, c.issue.ID, "", "Is the hole through?")) // a second click
	for who, want := range map[string]string{"pupil": "Is the hole through?:  (, mine true)", "mate": "",
		"helper": "Is the hole through?:  (pupil, mine false)"} {
		if got := seen(c.people[who]); got != want {
			t.Errorf("before it is answered the %s sees %q, want %q", who, got, want)
		}
	}
	list, err := database.Questions(ctx, c.issue.ID)
	must(err)
	var refusal *Refusal
	if err := s.Answer(ctx, mate, c.issue.ID, list[0].ID, "yes"); !errors.As(err, &refusal) {
		t.Errorf("a student answers: %v", err)
	}
	if err := s.Answer(ctx, c.people["stranger"], c.issue.ID, list[0].ID, "yes"); !errors.Is(err, ErrNotFound) {
		t.Errorf("a stranger answers: %v", err)
	}
	if err := s.Answer(ctx, helper, c.issue.ID, list[0].ID+1000, "yes"); !errors.Is(err, ErrNotFound) {
		t.Errorf("a question of no issue is answered: %v", err)
	}
	must(s.Answer(ctx, helper, c.issue.ID, list[0].ID, "Yes, all the way."))
	if got := seen(mate); got != "Is the hole through?: Yes, all the way. (, mine false)" {
		t.Errorf("the mate reads %q", got)
	}
	for _, bad := range []struct{ characteristic, text string }{{"", "  "}, {"", strings.Repeat("x", 1001)},
		{"nothing", "where?"}} {
		if err := s.Ask(ctx, pupil, c.issue.ID, bad.characteristic, bad.text); !errors.As(err, &refusal) {
			t.Errorf("%+v is asked: %v", bad, err)
		}
	}
	for n := range mostOpen + 1 {
		err = s.Ask(ctx, mate, c.issue.ID, "", fmt.Sprint("question ", n))
	}
	if !errors.As(err, &refusal) || refusal.Kind != TooMany {
		t.Errorf("no end of questions: %v", err)
	}
	must(s.Tell(ctx, time.Now()))
	for who, kind := range map[string]string{"pupil": store.ToldAnswered, "mate": store.ToldAnswered,
		"helper": store.ToldAsked} {
		list, _, err := database.Messages(ctx, c.people[who].ID)
		must(err)
		found := false
		for _, m := range list {
			found = found || m.Kind == kind
		}
		if !found {
			t.Errorf("the %s is not told that it was %s", who, kind)
		}
	}
}
