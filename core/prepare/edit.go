package prepare

import (
	"context"
	"errors"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/sheet"
	"hammerset/core/solid"
)

// Editor draws sheets that are worked on. It keeps what was projected last, since most of what is done to a sheet
// changes nothing that the kernel has to say.
type Editor struct {
	Checker *check.Checker
	Metrics sheet.Metrics

	reference string // the key of what was projected
	laying    *Laying
	named     *part.Named
}

// Edited is a sheet after a command, as it is drawn then, and the set that it is one of.
type Edited struct {
	Sheets exercise.Sheets `json:"sheets"`
	// On is the number of the sheet that is drawn, from 0.
	On      int            `json:"on"`
	Drawing *sheet.Drawing `json:"drawing"`
	// Touching says in words what runs through texts and balloons.
	Touching []string `json:"touching"`
	// Loose are the characteristics that stand among the notes, since no mark is of them.
	Loose []string `json:"loose"`
	// Characteristics are those of the exercise: some commands add to them.
	Characteristics []exercise.Characteristic `json:"characteristics"`
	// Audit says whether the sheet determines the part as it is now.
	Audit *Audited `json:"audit"`
	// Faces are those of the reference that each characteristic is measured on.
	Faces map[string][]address.Ref `json:"faces"`
	// Placing are the characteristics of which a position can be made: distances of an axis.
	Placing []string `json:"placing"`
	// Offers answers what was asked for.
	Offers []sheet.Offer `json:"offers,omitempty"`
	// Key tells what the sheet was laid out from; Laying is that, where who asks has not got it yet.
	Key    string  `json:"key"`
	Laying *Laying `json:"laying,omitempty"`
}

// Edit carries out a command on a sheet of an exercise, or none on the sheet of its number, and draws it; progress is
// told how far what takes long is. Reference is what the key of its reference is, and has the key of what whoever asks
// lays sheets out from already. The error is a *modeller.Refused where the command cannot be carried out.
func (e *Editor) Edit(ctx context.Context, ex *exercise.Exercise, ref check.Reference, reference, has string,
	c *sheet.Command, progress Progress) (*Edited, error) {
	if err := e.project(ctx, ex, ref, reference); err != nil {
		return nil, err
	}
	// A sheet that another window has taken out of the set meanwhile is not there any more.
	c.Sheet = max(0, min(c.Sheet, len(ex.Sheets)-1))
	d, err := e.laying.draw(ex, c.Sheet)
	if err != nil {
		return nil, err
	}
	var offers []sheet.Offer
	if c.Do != "" {
		if offers, err = e.apply(ctx, ex, c, d, progress); err != nil {
			return nil, refused(err)
		}
		if err := e.project(ctx, ex, ref, reference); err != nil {
			return nil, err
		}
		if err := e.laying.stand(ex, c); err != nil {
			return nil, err
		}
		c.Sheet = shown(ex.Sheets, c)
		if d, err = e.laying.draw(ex, c.Sheet); err != nil {
			return nil, err
		}
	}
	out := &Edited{Sheets: ex.Sheets, On: c.Sheet, Drawing: d, Touching: []string{}, Loose: []string{},
		Characteristics: ex.Characteristics, Offers: offers, Faces: map[string][]address.Ref{}, Placing: []string{},
		Key: e.laying.key}
	if has != e.laying.key {
		out.Laying = e.laying
	}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, err := inspect.Places(e.laying.Projected.Geometry, c)
		if err != nil {
			continue // told with the characteristic
		}
		for _, p := range places {
			out.Faces[c.ID] = append(out.Faces[c.ID], address.Faces(p.Faces())...)
		}
		if c.Kind == characteristic.Framed(characteristic.Position).From.Name && e.ofAxis(places) {
			out.Placing = append(out.Placing, c.ID)
		}
	}
	if out.Audit, err = e.audit(ex); err != nil {
		return nil, err
	}
	e.moves(out.Audit, &ex.Sheets[c.Sheet])
	for _, t := range d.Touching(e.Metrics) {
		out.Touching = append(out.Touching, t.String())
	}
	marked := ex.Sheets.Marked()
	for _, x := range ex.Characteristics {
		if !marked[x.ID] {
			out.Loose = append(out.Loose, x.ID)
		}
	}
	return out, nil
}

// ofAxis tells whether one of the faces that a distance is measured on is round about an axis.
func (e *Editor) ofAxis(places []characteristic.Place) bool {
	return slices.ContainsFunc(places, func(p characteristic.Place) bool {
		return slices.ContainsFunc(p.Faces(), func(f int) bool {
			return e.laying.Projected.Geometry.Faces[f].Kind == solid.CylinderFace
		})
	})
}

// moves says of what is missing how it would be seen to move on a sheet.
func (e *Editor) moves(a *Audited, s *exercise.Sheet) {
	const most = 5 // mm of paper
	for i := range a.Findings {
		f := &a.Findings[i]
		if f.Motion == nil || len(f.Faces) == 0 {
			continue
		}
		_, face, _ := f.Faces[0].Number()
		arm := e.laying.Projected.Geometry.Faces[face].Centroid.Sub(f.Motion.At)
		f.Moves = e.laying.Projected.Shifts(s, f.Motion.Shift.Add(f.Motion.Turn.Cross(arm)), most)
	}
}

// apply carries out a command, or answers it.
func (e *Editor) apply(ctx context.Context, ex *exercise.Exercise, c *sheet.Command,
	d *sheet.Drawing, progress Progress) ([]sheet.Offer, error) {
	if err := sheet.Settle(ex.Sheets, e.laying.Projected); err != nil {
		return nil, err
	}
	s := &ex.Sheets[c.Sheet]
	switch c.Do {
	case sheet.Clear:
		return nil, sheet.Untangle(ctx, ex, s, e.laying.Projected, e.Metrics, progress.clearing)
	case sheet.AskFor:
		offers, err := sheet.Offers(ex, s, e.laying.Projected, *c)
		for i := range offers {
			offers[i].Label = e.laying.label(&offers[i])
		}
		return offers, err
	case sheet.Propose:
		return nil, e.propose(ctx, ex, s, progress)
	case sheet.State:
		marks := len(s.Marks)
		if err := e.state(ex, s, c.Text); err != nil {
			return nil, err
		}
		return nil, e.laying.fit(ctx, ex, s, marks)
	}
	return nil, e.laying.apply(ctx, ex, c, d)
}

// propose adds all that the sheet lacks, and draws it: where nothing was drawn before the sheet is laid out anew, else
// each size stands where an arranged sheet has it, and what is in the way is cleared.
func (e *Editor) propose(ctx context.Context, ex *exercise.Exercise, s *exercise.Sheet, progress Progress) error {
	bare := len(ex.Sheets) == 1 && len(s.Marks) == 0
	if _, err := complete(ctx, e.laying.Projected.Geometry, ex, e.laying.Called, progress, func(id string) error {
		if bare {
			return nil
		}
		return e.put(ex, s, id)
	}); err != nil {
		return err
	}
	if bare {
		arranged, err := Arranged(ctx, e.Checker.Rebuilder.Kernel(), *ex, e.named, e.Metrics, progress)
		if err != nil {
			return err
		}
		*s = *arranged
		return nil
	}
	return sheet.Untangle(ctx, ex, s, e.laying.Projected, e.Metrics, progress.clearing)
}

// audit finds whether the sheet determines the part.
func (e *Editor) audit(ex *exercise.Exercise) (*Audited, error) {
	return auditSeen(ex, e.laying.Projected, e.laying.Called)
}

// state adds the characteristic that a finding proposes, by its label, and draws it where a sheet that is laid out by
// itself has it; what no view shows stands among the notes.
func (e *Editor) state(ex *exercise.Exercise, s *exercise.Sheet, label string) error {
	audited, err := e.audit(ex)
	if err != nil {
		return err
	}
	for _, f := range audited.Findings {
		if f.Add == nil || f.Add.Label != label {
			continue
		}
		id := ex.Add(exercise.Characteristic{Kind: f.Add.Kind, Label: f.Add.Label, Of: f.Add.Of})
		return e.put(ex, s, id)
	}
	return &sheet.Impossible{What: "this is not missing any more", Remedy: "choose what is"}
}

// put draws a characteristic where an arranged sheet has it; what no view shows stands among the notes.
func (e *Editor) put(ex *exercise.Exercise, s *exercise.Sheet, id string) error {
	err := sheet.Command{Do: sheet.Put, Text: id}.Apply(ex, s, e.laying.Projected, nil, e.laying.label)
	var impossible *sheet.Impossible
	if errors.As(err, &impossible) {
		return nil
	}
	return err
}

// refused makes what cannot be done to a sheet an error that says so to the person.
func refused(err error) error {
	var impossible *sheet.Impossible
	if errors.As(err, &impossible) {
		return &modeller.Refused{What: impossible.What, Remedy: impossible.Remedy}
	}
	return err
}

// project has the kernel project the views, but for those that it projected alike last.
func (e *Editor) project(ctx context.Context, ex *exercise.Exercise, ref check.Reference, reference string) error {
	var known map[string]*sheet.Projection
	if e.laying != nil && e.reference == reference {
		if known = e.laying.known(ex.Sheets); len(known) == len(ex.Sheets.Views()) {
			return nil
		}
	}
	named, build, err := e.Checker.Load(ctx, ref)
	if err != nil {
		return err
	}
	e.laying = nil
	var notes []part.Note
	if build != nil {
		notes = build.Notes
	}
	p, err := sheet.Project(ctx, e.Checker.Rebuilder.Kernel(), ex.Sheets, named, known)
	if err != nil {
		return err
	}
	e.reference, e.named = reference, named
	e.laying = &Laying{Sheets: sheet.Counting(ex.Sheets), Projected: p, Notes: notes,
		Called: Called(named.Names, p.Geometry, ref.Document.Titles(), ex.Unit), Metrics: e.Metrics}
	return e.laying.sign(reference)
}
