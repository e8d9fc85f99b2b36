package assemblies

import (
	"context"
	"fmt"
	"math"
	"slices"

	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/contact"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
)

// Unstated is something that no sheet of the set says of where a component is, or that is wrong with the reference
// itself: then it Contradicts what every sheet says.
type Unstated struct {
	What, Remedy string
	Contradicts  bool
}

// Unstated tells which component's place the sheets of an exercise leave open. What touches another component along a
// joint is read from the drawing to be where it touches; any other size of a joint must be stated of the whole.
func (c *Checker) Unstated(ctx context.Context, ex *exercise.Exercise, ref Reference) ([]Unstated, error) {
	r, err := c.keyOf(ex, ref)
	if err != nil {
		return nil, err
	}
	var out []Unstated
	pairs, err := r.clashes(ctx)
	if err != nil {
		return nil, err
	}
	for _, p := range pairs {
		if p.Kind == clash.Collision {
			out = append(out, Unstated{Contradicts: true, What: "in the reference " + p.What, Remedy: p.Remedy +
				": whoever models it as it is drawn has the same collision"})
		}
	}
	touching := contact.Find(r.bodies())
	joined := map[string]bool{}
	for i := range r.joints {
		j := &r.joints[i]
		joined[j.Joint.A.Component], joined[j.Joint.B.Component] = true, true
		more, err := r.openIn(j, touching)
		if err != nil {
			return nil, err
		}
		out = append(out, more...)
	}
	for _, x := range r.mech.Document.Components {
		if !joined[x.ID] && !x.Pinned {
			out = append(out, Unstated{What: "no joint holds " + x.Title() + ", so that nothing is asked of where it is",
				Remedy: "join it to another component in the fitting screen, and make the exercise anew"})
		}
	}
	return out, nil
}

// openIn lists the sizes of a joint that no sheet says.
func (r *key) openIn(j *joint, touching *contact.Set) ([]Unstated, error) {
	table, err := r.mech.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	var out []Unstated
	for _, x := range j.Joint.Sizes() {
		if x.Text == "" {
			continue
		}
		v, err := table.Eval(x.Text, x.Dim)
		if err != nil {
			return nil, err
		}
		if v == 0 || r.states(j, x.Dim) || x.Dim == quantity.Angle && r.looksTheSame(j, v) ||
			x.Dim == quantity.Length && r.stopped(j, touching) {
			continue
		}
		format := quantity.MeasuredFormat(r.ex.LengthUnit())
		text := format.Length(v)
		if x.Dim == quantity.Angle {
			text = format.Angle(v)
		}
		out = append(out, Unstated{What: fmt.Sprintf("no sheet says the %s of %s, which is %s: %s and %s touch nothing there",
			x.Name, r.Document.TitleOf(j.Joint), text, r.title(j.a), r.title(j.b)), Remedy: "state it as a characteristic of " +
			"the whole (placement, or angle)"})
	}
	return out, nil
}

// states tells whether a characteristic of the whole states a size between the two components of a joint, or of the
// joint itself.
func (r *key) states(j *joint, dim quantity.Dim) bool {
	return slices.ContainsFunc(r.ex.Assembly.Characteristics, func(q exercise.Requirement) bool {
		if kind := q.Declared(); kind.Dim != dim || kind.Zero {
			return false
		}
		if q.Joint == j.ID {
			return true
		}
		if len(q.Of) != 2 {
			return false
		}
		a, b := q.Of[0].Component, q.Of[1].Component
		return a == j.Joint.A.Component && b == j.Joint.B.Component ||
			a == j.Joint.B.Component && b == j.Joint.A.Component
	})
}

// stopped tells whether both components of a joint touch something along it: one another, or what lies between them.
func (r *key) stopped(j *joint, touching *contact.Set) bool {
	_, on := j.Features()
	along := r.mech.Pose(j.Joint.B.Component).Rotate(on.Frame().Z)
	for _, id := range []string{j.Joint.A.Component, j.Joint.B.Component} {
		held := touching.Around(id, nil)
		if held.Free(along) && held.Free(along.Scale(-1)) {
			return false
		}
	}
	return true
}

// looksTheSame tells whether a turn by an angle about a joint brings one of its parts onto itself.
func (r *key) looksTheSame(j *joint, angle float64) bool {
	f := &found{key: r}
	for _, c := range []int{j.a, j.b} {
		s := r.parts[c].Shape.Symmetry
		if s == nil {
			continue
		}
		if s.Axis != nil {
			return true
		}
		if slices.ContainsFunc(f.turns(c), func(t rigid.Pose) bool {
			return math.Abs(math.Abs(t.Angle())-math.Abs(angle)) < angleLimit
		}) {
			return true
		}
	}
	return false
}

// bodies are the components of the reference as contacts are looked for between them.
func (r *key) bodies() []contact.Body {
	var out []contact.Body
	for i := range r.mech.Document.Components {
		x := r.component(i)
		out = append(out, contact.Body{ID: x.ID, Title: x.Title(), Pose: r.pose(i), Shape: r.Made[x.Part].Shape,
			Pinned: x.Pinned})
	}
	return out
}
