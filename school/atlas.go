package school

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"slices"
	"strconv"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/store"
)

// AtlasState says whether a version has its mistake atlas.
type AtlasState string

const (
	AtlasMade    AtlasState = "made"
	AtlasWaiting AtlasState = "waiting" // for a worker that is free
	AtlasNone    AtlasState = "none"    // the reference has no steps
)

// Mistake is one that students could make, and how it would look.
type Mistake struct {
	Cause, Kind, Step, What string
	Solids                  int
	Volume                  float64 // change in percent
	Balloon                 int     // of the dimension that was read wrongly; 0 for a mistake of a step
	Changes                 []MistakeChange
}

// MistakeChange is what a characteristic measures under a mistake.
type MistakeChange struct {
	Balloon                int
	Label, Sheet, Measures string
}

// Atlas shows how each mistake at the newest version of an exercise would look.
func (s *School) Atlas(ctx context.Context, by Person, id int64) (AtlasState, []Mistake, error) {
	if err := s.may(ctx, by, ReadAtlas, row{exercise: id}); err != nil {
		return "", nil, err
	}
	v, err := s.store.Newest(ctx, id)
	if err != nil {
		return "", nil, err
	}
	data, err := s.store.Atlas(ctx, v.Measured, atlas.Version)
	if errors.Is(err, ErrNotFound) {
		state, err := s.withoutAtlas(ctx, v)
		return state, nil, err
	}
	if err != nil {
		return "", nil, err
	}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		return "", nil, err
	}
	if ex.Kind == exercise.Assembly {
		return AtlasMade, nil, nil // there is one for each part, and none of the whole
	}
	var a atlas.Atlas
	if err := json.Unmarshal(data, &a); err != nil {
		return "", nil, err
	}
	var out []Mistake
	for _, e := range slices.Concat(a.Entries, a.Elsewhere) {
		out = append(out, mistake(ex, &a, e))
	}
	return AtlasMade, out, nil
}

// withoutAtlas tells a version whose atlas is to come from one that gets none.
func (s *School) withoutAtlas(ctx context.Context, v store.Version) (AtlasState, error) {
	reference, err := s.store.File(ctx, v.ReferenceSHA)
	if err != nil {
		return "", err
	}
	if has, err := hasAtlas(v, reference); err != nil || !has {
		return AtlasNone, err
	}
	return AtlasWaiting, nil
}

func mistake(ex *exercise.Exercise, a *atlas.Atlas, e atlas.Entry) Mistake {
	m := Mistake{Cause: e.Cause, Kind: e.Kind, Solids: e.Figures.Solids, Step: e.Step, What: e.What,
		Volume: 100 * (e.Figures.Inner[0]/a.Figures.Inner[0] - 1)}
	for k := range ex.Characteristics {
		x := &ex.Characteristics[k]
		if e.Parameter != "" && x.ID == e.Characteristic {
			m.Balloon = x.Balloon
		}
		was := a.Values[x.ID]
		if measures := changed(ex, x, was, e.Values[x.ID]); measures != "" {
			sheet := ex.StatedOf(x, was[0]).Text
			m.Changes = append(m.Changes, MistakeChange{Balloon: x.Balloon, Label: x.Label, Measures: measures, Sheet: sheet})
		}
	}
	return m
}

// changed says what a characteristic measures under a mistake, by its values at all places before
// and after; empty where it stays as it is.
func changed(ex *exercise.Exercise, x *exercise.Characteristic, was, is []float64) string {
	other := func(v float64) bool { return math.Abs(v-was[0]) > 1e-6 }
	switch {
	case len(was) == 0:
		return ""
	case len(is) == 0:
		return "not found"
	case len(is) > len(was):
		// A round face that is cut in two has two places and is one feature.
		if len(was) > 1 || slices.ContainsFunc(is, other) {
			return strconv.Itoa(len(is)) + " places"
		}
		return ""
	case len(is) < len(was):
		return strconv.Itoa(len(is)) + " of " + strconv.Itoa(len(was)) + " places"
	}
	for n := range is {
		if math.Abs(is[n]-was[n]) > 1e-6 {
			return ex.StateOf(x.Declared(), is[n]).Text
		}
	}
	return ""
}
