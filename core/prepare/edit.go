package prepare

import (
	"context"
	"encoding/json"
	"errors"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/sheet"
)

// Editor draws sheets that are worked on. It keeps what was projected last, since most of what is done to a sheet
// changes nothing that the kernel has to say.
type Editor struct {
	Checker *check.Checker
	Metrics sheet.Metrics

	key       string // of what was projected
	projected *sheet.Projected
	notes     []part.Note
}

// Edited is a sheet after a command, as it is drawn then.
type Edited struct {
	Sheet   exercise.Sheet `json:"sheet"`
	Drawing *sheet.Drawing `json:"drawing"`
	// Touching says in words what runs through texts and balloons.
	Touching []string `json:"touching"`
	// Loose are the characteristics that stand among the notes, since no mark is of them.
	Loose []string `json:"loose"`
}

// Edit carries out a command on the sheet of an exercise, or none, and draws it. Reference is what the key of its
// reference is. The error is a *modeller.Refused where the command cannot be carried out.
func (e *Editor) Edit(ctx context.Context, ex *exercise.Exercise, ref check.Reference, reference string,
	c *sheet.Command) (*Edited, error) {
	s := ex.Sheet()
	if err := e.project(ctx, s, ref, reference); err != nil {
		return nil, err
	}
	d, err := sheet.LayOut(ex, s, e.projected, e.Metrics, e.notes...)
	if err != nil {
		return nil, err
	}
	if c != nil {
		if err := e.apply(ctx, ex, c, d); err != nil {
			return nil, err
		}
		if d, err = sheet.LayOut(ex, s, e.projected, e.Metrics, e.notes...); err != nil {
			return nil, err
		}
	}
	out := &Edited{Sheet: *s, Drawing: d, Touching: []string{}, Loose: []string{}}
	for _, t := range d.Touching(e.Metrics) {
		out.Touching = append(out.Touching, t.String())
	}
	marked := map[string]bool{}
	for _, m := range s.Marks {
		for _, id := range m.Of {
			marked[id] = true
		}
	}
	for _, x := range ex.Characteristics {
		if !marked[x.ID] {
			out.Loose = append(out.Loose, x.ID)
		}
	}
	return out, nil
}

func (e *Editor) apply(ctx context.Context, ex *exercise.Exercise, c *sheet.Command, d *sheet.Drawing) error {
	s := ex.Sheet()
	if err := sheet.Settle(s, e.projected); err != nil {
		return err
	}
	if c.Do == sheet.Clear {
		return sheet.Untangle(ctx, ex, s, e.projected, e.Metrics)
	}
	err := c.Apply(ex, s, e.projected.Geometry, d)
	var impossible *sheet.Impossible
	if errors.As(err, &impossible) {
		return &modeller.Refused{What: impossible.What, Remedy: impossible.Remedy}
	}
	return err
}

// project has the kernel project the views, unless it has projected the same last.
func (e *Editor) project(ctx context.Context, s *exercise.Sheet, ref check.Reference, reference string) error {
	views, err := json.Marshal(projectedFrom(s))
	if err != nil {
		return err
	}
	key := reference + string(views)
	if e.projected != nil && e.key == key {
		return nil
	}
	named, build, err := e.Checker.Load(ctx, ref)
	if err != nil {
		return err
	}
	e.projected, e.notes = nil, nil
	if build != nil {
		e.notes = build.Notes
	}
	p, err := sheet.Project(ctx, e.Checker.Rebuilder.Kernel(), s, named)
	if err != nil {
		return err
	}
	e.key, e.projected = key, p
	return nil
}

// projectedFrom is what of the views of a sheet counts for how they are projected.
func projectedFrom(s *exercise.Sheet) []exercise.View {
	var out []exercise.View
	for _, v := range s.Views {
		out = append(out, exercise.View{ID: v.ID, Kind: v.Kind, Parent: v.Parent, Square: v.Square, Origin: v.Origin,
			Cut: v.Cut})
	}
	return out
}
