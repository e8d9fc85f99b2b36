package school

import (
	"context"
	"fmt"
	"testing"
	"time"

	"hammerset/core/gradebook"
	"hammerset/store"
)

// However much there is, a screen asks the database at most eight times: twelve issues and sixty attempts are no more
// questions than one.
func TestScreensAskFewQuestions(t *testing.T) {
	const most = 8
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil, mate := c.people["leader"], c.people["pupil"], c.people["mate"]
	for k := range 12 {
		v, err := database.AddVersion(ctx, store.Version{Title: fmt.Sprint("T", k), Drawing: "1",
			Document: []byte(`{"hammerset":"exercise/3"}`), Prepared: []byte("{}"), CreatedBy: leader.ID}, []byte("reference"))
		if err != nil {
			t.Fatal(err)
		}
		id, err := database.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: c.class, IssuedBy: leader.ID,
			Issued: time.Now().UTC(), Due: time.Now().UTC().Add(time.Hour), Attempts: 9, Results: AtOnce}, false, "")
		if err != nil {
			t.Fatal(err)
		}
		for n := range 5 {
			for _, u := range []Person{pupil, mate}[:1+n%2] {
				if _, _, err := database.HandIn(ctx, id, u.ID, "a", fmt.Appendf(nil, "%d %d %d", k, n, u.ID)); err != nil {
					t.Fatal(err)
				}
			}
		}
	}
	for name, screen := range map[string]func() error{
		"the desk": func() error {
			d, err := s.Desk(ctx, leader)
			if err == nil && (len(d.Due) != 13 || d.Checking != 85 || len(d.Waiting) > 0 || len(d.Stopped) == 0) {
				err = fmt.Errorf("%d issues, %d checking, %d waiting", len(d.Due), d.Checking, len(d.Waiting))
			}
			return err
		},
		"what a student has to do": func() error {
			list, err := s.Home(ctx, pupil)
			if err == nil && (len(list) != 13 || list[12].Left > 9) {
				err = fmt.Errorf("%d tasks", len(list))
			}
			return err
		},
		"how a student stands": func() error { _, err := s.Standings(ctx, pupil); return err },
		"a class":              func() error { _, err := s.Class(ctx, leader, c.class); return err },
		"the gradebook":        func() error { _, err := s.Gradebook(ctx, leader, c.class, gradebook.Last); return err },
		"the classes":          func() error { _, err := s.Classes(ctx, leader); return err },
		"the exercises":        func() error { _, err := s.Exercises(ctx, leader); return err },
	} {
		before, err := database.Asked(ctx)
		if err != nil {
			t.Fatal(err)
		}
		if err := screen(); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		after, err := database.Asked(ctx)
		if n := after - before; err != nil || n > most {
			t.Errorf("%s asks %d questions, %v", name, n, err)
		}
	}
}
