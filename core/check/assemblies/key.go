package assemblies

import (
	"errors"
	"fmt"
	"math"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/shapes"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/identify"
	"hammerset/core/inspect"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Reference is the key of an exercise of this kind: the assembly with its parts as they are made, and the exercises of
// those parts that students make, by the ids of the parts.
type Reference struct {
	Document  *assembly.Document
	Made      map[string]*shapes.Made
	Exercises map[string]PartExercise
	// Maker makes its parts at other sizes; nil where it has none.
	Maker Maker
	// Bears is how far its sizes can be varied; nil where that is not known yet.
	Bears Bears
}

// PartExercise is the exercise of a part by itself.
type PartExercise struct {
	Exercise  *exercise.Exercise
	Reference check.Reference
}

// key is a reference as attempts are held against it: with its joints solved, its components by number, and parts that
// are the same solid as one kind.
type key struct {
	Reference
	ex     *exercise.Exercise
	k      solid.Kernel
	mech   *assembly.Mechanism
	number map[string]int // of components
	parts  []*identify.Part
	kinds  []identify.Item
	kindOf []int // of components
	joints []joint
	// lies is how the components lie to one another there.
	lies []clash.Pair
	// known is how it bears other sizes, and others what it is in the what-ifs.
	known  Bears
	others map[string]*key
}

// joint is a joint of the reference with the numbers of its components.
type joint struct {
	assembly.Asking
	a, b    int
	nominal []assembly.Off // what it comes to in the reference: a turn may hold at the angle and at its other side
}

// newKey lays a reference out.
func newKey(k solid.Kernel, ex *exercise.Exercise, ref Reference) (*key, error) {
	for _, p := range ref.Document.Parts {
		if m := ref.Made[p.ID]; m == nil || m.Solid == nil {
			return nil, fmt.Errorf("the part %s of the reference is an assembly itself: lay it flat there", p.Name)
		}
	}
	out := &key{Reference: ref, ex: ex, k: k, number: map[string]int{}, known: ref.Bears}
	m, err := out.solved()
	if err != nil {
		return nil, err
	}
	out.mech = m
	known := map[*shapes.Made]int{} // kinds
	for i, c := range m.Document.Components {
		made := ref.Made[c.Part]
		out.number[c.ID] = i
		part, err := described(k, made)
		if err != nil {
			return nil, err
		}
		kind, have := known[made]
		if !have {
			kind = out.kindLike(part)
			known[made] = kind
		}
		out.parts = append(out.parts, part)
		out.kindOf = append(out.kindOf, kind)
		out.kinds[kind].Quantity++
	}
	for i := range m.Document.Joints {
		if err := out.ask(&m.Document.Joints[i]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// solved is the mechanism of the reference where its joints hold, each with the sense in which it stands: conditions
// alone would hold the other way round as well.
func (r *key) solved() (*assembly.Mechanism, error) {
	of := map[string]*assembly.Shape{}
	for id, m := range r.Made {
		of[id] = m.Shape
	}
	m, err := assembly.New(r.Document, of, nil)
	if err != nil {
		return nil, fmt.Errorf("the reference: %w", err)
	}
	if lost := m.Lost(); len(lost) > 0 {
		return nil, fmt.Errorf("the reference: %s; %s", lost[0].What, lost[0].Remedy)
	}
	if !m.Solve().Holds {
		return nil, errors.New("the reference: its joints cannot hold together: open it in the fitting screen and put it " +
			"right")
	}
	d := m.Placed()
	for i := range d.Joints {
		if sense, ok := m.Facing(d.Joints[i].ID); ok {
			d.Joints[i].Sense = sense
		}
	}
	if m, err = assembly.New(d, of, nil); err != nil {
		return nil, fmt.Errorf("the reference: %w", err)
	}
	m.Solve()
	return m, nil
}

// described is a part as it is told from others.
func described(k solid.Kernel, made *shapes.Made) (*identify.Part, error) {
	g, err := solid.Describe(k, made.Solid, nil)
	if err != nil {
		return nil, err
	}
	if err := inspect.Recognise(g, k, made.Solid, inspect.Exact(0)); err != nil {
		return nil, err
	}
	g.Join()
	return &identify.Part{Shape: made.Shape, Geometry: g, Closed: g.Closed(), Corners: made.Solid.Vertices()}, nil
}

// kindLike is the kind of a part, which is a new one where no other is the same solid.
func (r *key) kindLike(p *identify.Part) int {
	for i := range r.kinds {
		if identify.Like(r.kinds[i].Part, p.Closed).Sameness == identify.Same {
			return i
		}
	}
	r.kinds = append(r.kinds, identify.Item{Part: p.Closed})
	return len(r.kinds) - 1
}

// ask keeps a joint with what it comes to in the reference.
func (r *key) ask(j *assembly.Joint) error {
	if j.Off {
		return nil
	}
	a, ok := r.mech.Asking(j.ID)
	if !ok {
		return fmt.Errorf("the reference: the joint %s cannot be made", r.Document.TitleOf(j))
	}
	out := joint{Asking: a, a: r.number[j.A.Component], b: r.number[j.B.Component]}
	of, on := a.Features()
	out.nominal, _ = a.Off(of, on, r.mech.Pose(j.A.Component), r.mech.Pose(j.B.Component))
	r.joints = append(r.joints, out)
	return nil
}

// component is a component of the reference by its number.
func (r *key) component(n int) *assembly.Component { return &r.mech.Document.Components[n] }

// part is the part of a component.
func (r *key) part(n int) *assembly.Part {
	p, _ := r.mech.Document.Part(r.component(n).Part)
	return p
}

// title is what a component is called, with the number of its item.
func (r *key) title(n int) string {
	p := r.part(n)
	return fmt.Sprintf("%s (item %s)", r.component(n).Title(), itemNumber(r.Document, p))
}

// itemNumber is the number of a part in the parts list.
func itemNumber(d *assembly.Document, p *assembly.Part) string {
	if p.Number != "" {
		return p.Number
	}
	for i := range d.Parts {
		if d.Parts[i].ID == p.ID {
			return fmt.Sprint(i + 1)
		}
	}
	return "?"
}

// pose is where a component stands in the reference.
func (r *key) pose(n int) rigid.Pose { return r.mech.Pose(r.component(n).ID) }

// Limits of conditions, where a fit allows no more.
const (
	lengthLimit = 0.01 // mm
	angleLimit  = 0.01 * math.Pi / 180
)

// limit is by how much a condition may be off. A shaft may lie anywhere in its bore where the joint states a fit.
func (j *joint) limit(o assembly.Off) float64 {
	if o.Angle {
		return angleLimit
	}
	of, on := j.Features()
	if o.What == assembly.Coaxial && j.Fit != "" && of.Hollow != on.Hollow {
		return math.Max(lengthLimit, math.Abs(of.Radius-on.Radius))
	}
	return lengthLimit
}

// off is what two ways come to by a joint, less what the reference comes to. ok is false where one of them has not the
// feature that the joint is on.
func (j *joint) off(a, b *identify.Way) (list []assembly.Off, ok bool) {
	of, okA := a.Shape.Feature(j.A.Name)
	on, okB := b.Shape.Feature(j.B.Name)
	if !okA || !okB {
		return nil, false
	}
	if list, ok = j.Off(of, on, a.Pose, b.Pose); !ok || len(list) != len(j.nominal) {
		return nil, false
	}
	for i := range list {
		o := &list[i]
		o.By -= j.nominal[i].By
		if o.Angle {
			o.By = math.Remainder(o.By, 2*math.Pi)
		}
		if o.What == assembly.Held && (a.Round || b.Round) {
			o.By = 0
		}
	}
	return list, true
}

// broken counts the conditions of a joint that are off.
func (j *joint) broken(a, b *identify.Way) int {
	list, ok := j.off(a, b)
	if !ok {
		return 0
	}
	n := 0
	for _, o := range list {
		if math.Abs(o.By) > j.limit(o) {
			n++
		}
	}
	return n
}
