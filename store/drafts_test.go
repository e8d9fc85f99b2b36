package store

import (
	"context"
	"errors"
	"fmt"
	"testing"
)

// A draft goes from state to state, back and ahead; what was undone is gone once something else is done. A change that
// was made of another revision is refused and changes nothing, also of a draft that was let go meanwhile.
func TestDrafts(t *testing.T) {
	ctx := context.Background()
	issue, people := school(t, 1)
	v, err := shared.Version(ctx, versionOf(t, issue))
	if err != nil {
		t.Fatal(err)
	}
	change := func(revision int64, by int64, name string) DraftChange {
		return DraftChange{ExerciseID: v.ExerciseID, Revision: revision, By: by, Name: name}
	}
	now := func(want string, undo, redo int) Draft {
		t.Helper()
		d, err := shared.Draft(ctx, v.ExerciseID)
		if err != nil {
			t.Fatal(err)
		}
		if string(d.Document) != want || d.Undo != undo || d.Redo != redo {
			t.Fatalf("it is %s with %d before and %d after it; want %s, %d and %d", d.Document, d.Undo, d.Redo, want, undo,
				redo)
		}
		return d
	}
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	state := func(text string) DraftDocument { return DraftDocument{Document: []byte(text)} }
	stale := func(err error) {
		t.Helper()
		if !errors.Is(err, ErrStale) {
			t.Fatalf("%v, and not stale", err)
		}
	}
	if _, err := shared.Draft(ctx, v.ExerciseID); !errors.Is(err, ErrNotFound) {
		t.Fatalf("a draft before anything was done: %v", err)
	}
	must(shared.BeginDraft(ctx, change(0, people[0], "a"), 1, []byte("0"), state("1")))
	stale(shared.BeginDraft(ctx, change(0, people[0], "b"), 1, []byte("0"), state("x")))
	first := now("1", 1, 0)
	must(shared.ChangeDraft(ctx, change(first.Revision, people[0], "b"), state("2")))
	stale(shared.ChangeDraft(ctx, change(first.Revision, people[0], "c"), state("x")))
	second := now("2", 2, 0)
	must(shared.GoInDraft(ctx, change(second.Revision, people[0], "undo"), -1))
	back := now("1", 1, 1)
	must(shared.GoInDraft(ctx, change(back.Revision, people[0], "redo"), 1))
	ahead := now("2", 2, 0)
	if err := shared.GoInDraft(ctx, change(ahead.Revision, people[0], "redo"), 1); !errors.Is(err, ErrNotFound) {
		t.Errorf("there is nothing ahead: %v", err)
	}
	must(shared.GoInDraft(ctx, change(ahead.Revision, people[0], "undo"), -1))
	must(shared.ChangeDraft(ctx, change(now("1", 1, 1).Revision, people[0], "d"), DraftDocument{[]byte("3"), []byte("f")}))
	third := now("3", 2, 0)
	if string(third.Filled) != "f" || string(back.Filled) != "" {
		t.Errorf("what is filled in is %q, and was %q", third.Filled, back.Filled)
	}

	// Another hand goes on with it, and that is noted.
	must(shared.TakeDraft(ctx, change(third.Revision, people[1], "take")))
	stale(shared.ChangeDraft(ctx, change(third.Revision, people[0], "e"), state("x")))
	taken := now("3", 2, 0)
	if taken.By != people[1] || taken.Last != "take" {
		t.Errorf("it is in the hand of %d by %q", taken.By, taken.Last)
	}
	trail, err := shared.Trail(ctx, v.ExerciseID)
	if err != nil || len(trail) == 0 || trail[0].Action != "draft" {
		t.Errorf("the trail has %+v, %v", trail, err)
	}

	// The states before the last hundred are forgotten.
	for i := range mostStates + 20 {
		d, err := shared.DraftState(ctx, v.ExerciseID)
		must(err)
		must(shared.ChangeDraft(ctx, change(d.Revision, people[1], fmt.Sprint(i)), state(fmt.Sprint("state ", i))))
	}
	last := now(fmt.Sprintf("state %d", mostStates+19), mostStates, 0)

	// A version ends the draft that it is made of, and none that was changed meanwhile.
	next := Version{ExerciseID: v.ExerciseID, Title: "T", Drawing: "1", Document: []byte(`{"next":1}`),
		Prepared: []byte("{}"), CreatedBy: people[1], Ends: last.Revision - 1}
	_, err = shared.AddVersion(ctx, next, []byte("reference"))
	stale(err)
	if n, err := shared.NewestNumber(ctx, v.ExerciseID); err != nil || n != v.Number {
		t.Errorf("a version of a stale draft was kept: %d, %v", n, err)
	}
	next.Ends = last.Revision
	made, err := shared.AddVersion(ctx, next, []byte("reference"))
	must(err)
	if _, err := shared.Draft(ctx, v.ExerciseID); !errors.Is(err, ErrNotFound) {
		t.Errorf("the draft is still there: %v", err)
	}
	if x, err := shared.VersionNumbered(ctx, v.ExerciseID, made.Number); err != nil || x.ID != made.ID {
		t.Errorf("version %d is %+v, %v", made.Number, x.ID, err)
	}

	// No revision comes twice.
	must(shared.BeginDraft(ctx, change(0, people[0], "again"), made.Number, []byte("0"), state("1")))
	again := now("1", 1, 0)
	for _, old := range []int64{first.Revision, second.Revision, third.Revision, last.Revision} {
		if again.Revision == old {
			t.Errorf("revision %d comes again", old)
		}
	}
	stale(shared.DropDraft(ctx, v.ExerciseID, last.Revision))
	must(shared.DropDraft(ctx, v.ExerciseID, again.Revision))
	stale(shared.DropDraft(ctx, v.ExerciseID, again.Revision))
}
