package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Whole is what an exercise asks of an assembly as a whole, as it can be changed, with what can be stated of it.
type Whole struct {
	Version  int // the number of the version that this is
	Exercise *exercise.Exercise
	Can      *prepare.Whole
}

// WholeChange is what is changed of it. Version is that of which it was changed.
type WholeChange struct {
	Version  int                  `json:"version"`
	Title    string               `json:"title"`
	Task     string               `json:"task"`
	Assembly *exercise.OfAssembly `json:"assembly"`
	Rubric   *exercise.Rubric     `json:"rubric"`
	// WhatIfs are sizes at which the attempts are looked at as well, and WhatIfFiles asks for a file for each with STEP.
	WhatIfs     []exercise.WhatIf `json:"whatIfs"`
	WhatIfFiles bool              `json:"whatIfFiles"`
	// Uncut are the components that sections leave whole.
	Uncut []string `json:"uncut"`
}

// Uncut are the components that the sections of an arrangement leave whole.
func (w *Whole) Uncut() []string {
	out := []string{}
	for _, s := range w.Exercise.Sheets {
		for _, v := range s.Views {
			if v.Cut != nil {
				out = append(out, v.Cut.Uncut...)
			}
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// leaveWhole has all sections of an arrangement leave some components whole.
func leaveWhole(ex *exercise.Exercise, components []string) {
	for i := range ex.Sheets {
		for k := range ex.Sheets[i].Views {
			if cut := ex.Sheets[i].Views[k].Cut; cut != nil {
				cut.Uncut = slices.Clone(components)
			}
		}
	}
}

// Whole gives what an exercise asks of an assembly as a whole.
func (s *School) Whole(ctx context.Context, by Person, id int64) (*Whole, error) {
	v, ex, reference, err := s.newest(ctx, by, ReadDraft, id)
	if err != nil {
		return nil, err
	}
	if ex.Kind != exercise.Assembly {
		return nil, refuse(Faulty, "this exercise is of one part", "edit it under Edit")
	}
	can, err := ask[*prepare.Whole](ctx, s, &task.Request{Kind: task.Whole, Exercise: v.Document, Reference: reference})
	return &Whole{v.Number, ex, can}, err
}

// SaveWhole keeps what is changed of it as a new version. The sheets are drawn anew.
func (s *School) SaveWhole(ctx context.Context, by Person, id int64, c WholeChange) (store.Version, error) {
	v, ex, reference, err := s.newest(ctx, by, ChangeExercise, id)
	switch {
	case err != nil:
		return v, err
	case ex.Kind != exercise.Assembly || c.Assembly == nil || c.Rubric == nil:
		return v, refuse(Faulty, "this exercise is of one part", "edit it under Edit")
	case c.Version != v.Number:
		return v, refuse(Conflict, fmt.Sprintf("version %d was saved meanwhile, and this was made of version %d", v.Number,
			c.Version), "look at that version first; what you have typed stays on the page")
	}
	was := map[string]string{}
	for _, x := range ex.Assembly.Items {
		was[x.Part] = x.Exercise
	}
	for i := range c.Assembly.Items { // which exercise a part has is no matter of this page
		x := &c.Assembly.Items[i]
		x.Exercise = was[x.Part]
	}
	ex.Title, ex.Task, ex.Assembly, ex.Rubric = strings.TrimSpace(c.Title), c.Task, c.Assembly, *c.Rubric
	leaveWhole(ex, c.Uncut)
	ex.WhatIfs, ex.WhatIfFiles = c.WhatIfs, c.WhatIfFiles && len(c.WhatIfs) > 0
	if err := ex.Check(); err != nil {
		var e *exercise.Error
		if errors.As(err, &e) {
			return v, refuse(Faulty, e.Error(), "put that right and save again")
		}
		return v, refuse(Faulty, err.Error(), "put that right and save again")
	}
	b, err := bundled(ex, reference)
	if err != nil {
		return v, err
	}
	saved, err := s.AddBundle(ctx, by.ID, b, id, "what is asked of the whole")
	if err != nil {
		return saved, err
	}
	// What was found out once of the reference is still true, as that stays.
	if made, err := s.store.Atlas(ctx, v.Measured, atlas.Version); err == nil {
		return saved, s.store.KeepAtlas(ctx, saved, atlas.Version, made)
	} else if !errors.Is(err, ErrNotFound) {
		return saved, err
	}
	return saved, nil
}
