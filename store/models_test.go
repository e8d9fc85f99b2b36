package store

import (
	"context"
	"errors"
	"fmt"
	"testing"
)

// Every save of a model is a state that stays; a stale save changes nothing; the
// oldest states go when there are too many, and all of them with the model.
func TestVersionsOfAModel(t *testing.T) {
	_, people := school(t, 2)
	ctx := context.Background()
	m, err := shared.AddModel(ctx, Model{OwnerID: people[0], Name: "pawl", Document: []byte(`"v1"`)})
	if err != nil {
		t.Fatal(err)
	}
	for v := 1; v <= keepVersions+5; v++ {
		if m, err = shared.SaveModel(ctx, m.ID, people[0], v, "pawl", fmt.Appendf(nil, `"v%d"`, v+1),
			fmt.Sprint("change ", v)); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := shared.SaveModel(ctx, m.ID, people[0], 3, "pawl", []byte(`"late"`), "late"); !errors.Is(err, ErrStale) {
		t.Errorf("a stale save: %v", err)
	}
	if _, err := shared.SaveModel(ctx, m.ID, people[1], m.Version, "pawl", []byte(`"theirs"`), "theirs"); !errors.Is(err,
		ErrNotFound) {
		t.Errorf("somebody else's save: %v", err)
	}
	list, err := shared.ModelVersions(ctx, m.ID, people[0])
	if err != nil || len(list) != keepVersions || list[0].Version != keepVersions+6 ||
		list[0].What != fmt.Sprint("change ", keepVersions+5) {
		t.Fatalf("%d versions, the newest %+v, %v", len(list), list[0], err)
	}
	v, err := shared.ModelVersion(ctx, m.ID, people[0], 100)
	if err != nil || string(v.Document) != `"v100"` {
		t.Errorf("version 100 is %s, %v", v.Document, err)
	}
	if _, err := shared.ModelVersion(ctx, m.ID, people[1], 100); !errors.Is(err, ErrNotFound) {
		t.Errorf("somebody else's version: %v", err)
	}
	if _, err := shared.ModelVersion(ctx, m.ID, people[0], 2); !errors.Is(err, ErrNotFound) {
		t.Errorf("a version that was let go: %v", err)
	}
	if err := shared.RemoveModel(ctx, m.ID, people[0]); err != nil {
		t.Fatal(err)
	}
	if list, err := shared.ModelVersions(ctx, m.ID, people[0]); err != nil || len(list) != 0 {
		t.Errorf("after removing there are %d versions, %v", len(list), err)
	}
}
