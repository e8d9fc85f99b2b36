// Package assemblies checks attempts at an assembly: which component is which, how they are placed, what their joints
// leave free, whether they are in one another, how they move, and each part by itself.
//
// What was handed in, with joints or without, is brought to one form: the reference's own document on the parts of the
// attempt. A joint of the reference then asks the same of the student's faces as of its own, whatever joints the
// student made, whichever way the whole lies and wherever the mechanism stands.
package assemblies

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"hammerset/core/alike"
	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/assembly/vary"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/identify"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// What an attempt came as.
const (
	FromDocument = "assembly" // a bundle, with its joints
	FromSolids   = "step"     // a file of solids, perhaps with their structure
	FromParts    = "model"    // parts by themselves
)

// Attempt is an assembly that was handed in, with its parts as they are made.
type Attempt struct {
	Name     string
	Kind     string // what it came as
	Document *assembly.Document
	Made     map[string]*shapes.Made
	// Parts are what was handed in of each part of the document, where that is a model document: it is checked as such,
	// and other parts by their solids.
	Parts map[string]check.Attempt
	Notes []report.IntakeNote
	// Apart: parts were handed in by themselves, and nothing says how they lie to one another. Of several that are the
	// same item the last counts.
	Apart bool
	// Maker makes its parts at other sizes; nil of what has none.
	Maker Maker
	// WhatIfs are files of it at other sizes, by the names of the what-ifs.
	WhatIfs map[string]Attempt
}

// Maker makes the parts of an assembly at other sizes.
type Maker interface {
	vary.Maker
	Made(ctx context.Context, d *assembly.Document) (map[string]*shapes.Made, error)
}

// Stages of a check of an assembly, as told to the progress function.
const (
	Identifying = "telling the components apart"
	Placing     = "looking at the joints"
	Colliding   = "looking for collisions"
	Moving      = "moving it"
	Varying     = "varying its sizes"
	Parts       = "checking the parts"
)

// Checker checks assemblies on one kernel.
type Checker struct {
	Kernel solid.Kernel
	// Part checks the parts of an attempt by themselves: a report for each, or why there is none.
	Part func(ctx context.Context, list []Subject, progress func(done float64)) ([]*report.Report, []error)
	// known is the reference that was laid out last: many attempts in turn are checked against one.
	known struct {
		ref *assembly.Document
		ex  *exercise.Exercise
		key *key
	}
}

// Subject is a part of an attempt, as an attempt at the exercise of a part of the reference.
type Subject struct {
	Part string // in the reference
	check.Subject
}

// Outcome is a report on an assembly, with the meshes of its components where they stand.
type Outcome struct {
	Report *report.Report `json:"report"`
	// AttemptMesh are all components of the attempt where they stand, the whole brought to where the reference is.
	AttemptMesh *solid.Mesh `json:"attemptMesh"`
	// Compared is the attempt beside the reference.
	Compared *Beside `json:"compared,omitempty"`
	// Traits are what other files may have in common with this one.
	Traits []alike.Trait `json:"traits,omitempty"`
}

// keyOf lays a reference out, or gives it as it was laid out before.
func (c *Checker) keyOf(ex *exercise.Exercise, ref Reference) (*key, error) {
	if c.known.key != nil && c.known.ref == ref.Document && c.known.ex == ex {
		return c.known.key, nil
	}
	k, err := newKey(c.Kernel, ex, ref)
	if err == nil {
		c.known.ref, c.known.ex, c.known.key = ref.Document, ex, k
	}
	return k, err
}

// bulk is what components come to together.
func bulk(parts []*identify.Part) *report.Bulk {
	out := &report.Bulk{}
	for _, p := range parts {
		out.Solids += p.Closed.Solids
		out.Volume += p.Closed.Props.Volume
		out.Area += p.Closed.Props.Area
	}
	return out
}

var errNotHeld = errors.New("its joints do not hold together where it stands")

// Check checks an attempt.
func (c *Checker) Check(ctx context.Context, ex *exercise.Exercise, ref Reference, in Attempt,
	progress func(stage string, done float64)) (*Outcome, error) {
	progress(Identifying, 0)
	r, err := c.keyOf(ex, ref)
	if err != nil {
		return nil, err
	}
	att, err := lay(c.Kernel, in)
	if err != nil {
		return nil, &check.Unusable{What: "the assembly cannot be read: " + err.Error(),
			Remedy: "put this right and hand it in again"}
	}
	if err := r.unite(att); err != nil {
		return nil, err
	}
	att.Apart = att.Apart || len(att.doc.Components) == 1 && len(r.kindOf) > 1
	if att.Apart {
		r.latest(att)
	}
	f := r.find(att)
	if err := f.foreign(); err != nil {
		return nil, err
	}
	progress(Placing, 0)
	p := f.place()
	out := &report.Report{Hammerset: report.Version, Checker: report.Checker, Exercise: ex.Title, Unit: ex.Unit,
		Attempt: report.Attempt{Kind: in.Kind, Name: in.Name, Notes: att.Notes, Components: len(att.doc.Components),
			Solids: len(att.doc.Components)},
		Characteristics: []report.Characteristic{}, Whole: []report.Figure{}, Steps: []report.Step{},
		Sketches: []report.Sketch{}, Sweep: []report.Sweep{}, Causes: []report.Cause{},
		Assembly: &report.OfAssembly{Collisions: []report.Collision{}, Motion: []report.Motion{},
			Varied: []report.Varied{}}}
	a := out.Assembly
	if a.Single = att.Apart; !a.Single {
		a.Bulk = f.bulk()
	}
	a.Components = p.components(a.Single)
	progress(Parts, 0)
	if a.Items, err = c.items(ctx, p, a, func(d float64) { progress(Parts, d) }); err != nil {
		return nil, err
	}
	a.Joints, a.Mobility = []report.Joint{}, nil
	if !a.Single {
		if err := c.together(ctx, p, out, progress); err != nil {
			return nil, err
		}
	}
	out.Practice = practice(att.doc)
	out.Findings = p.findings(out)
	out.Characteristics = append(out.Characteristics, a.OfItems()...)
	progress(check.Marking, 0)
	grade.Mark(out, ex, grade.Circumstances{Number: 1}).Onto(out)
	o := &Outcome{Report: out}
	if o.AttemptMesh, err = p.mesh(); err == nil {
		o.Compared, err = p.beside(ctx, a.Collisions)
	}
	return o, err
}

// practice judges rules of good practice that an assembly shows (common practice, no published source): its parts have
// names that say something of them.
func practice(d *assembly.Document) []report.Practice {
	called := 0
	for i := range d.Parts {
		if d.Parts[i].Called() {
			called++
		}
	}
	n := len(d.Parts)
	if n == 0 {
		return nil
	}
	return []report.Practice{{ID: "names", Label: "Parts have names", Share: float64(called) / float64(n),
		Detail: fmt.Sprintf("%d of %d parts have no name of their own", n-called, n)}}
}

// together judges what there is to say of the whole.
func (c *Checker) together(ctx context.Context, p *placement, out *report.Report,
	progress func(stage string, done float64)) error {
	a := out.Assembly
	var err error
	if a.Joints, a.Mobility, err = p.reported(); err != nil {
		return err
	}
	progress(Colliding, 0)
	if a.Collisions, err = p.collisions(ctx, func(d float64) { progress(Colliding, d) }); err != nil {
		return err
	}
	progress(Moving, 0)
	var hits []report.Collision
	if a.Motion, hits, err = p.motions(ctx, func(d float64) { progress(Moving, d) }); err != nil {
		return err
	}
	if out.WhatIfs, err = p.whatIfs(ctx); err != nil {
		return err
	}
	progress(Varying, 0)
	if a.Varied, err = p.varied(ctx, func(d float64) { progress(Varying, d) }); err != nil {
		return err
	}
	standing := slices.Clone(a.Collisions)
	a.Collisions = append(a.Collisions, hits...)
	out.Characteristics, err = p.characteristics(ctx, standing, a.Mobility, a.Joints)
	return err
}
