package assemblies

import (
	"context"
	"errors"
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/requirement"
	"hammerset/core/identify"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// standing is an assembly as requirements are measured on it, by the names of the reference: the reference itself, or
// what stands for it in an attempt.
type standing struct {
	*key
	ways   map[string]*identify.Way            // where the components stand, and their features
	solids map[string]placedSolid              // of the components
	moving func() (*assembly.Mechanism, error) // the mechanism on these parts, its joints solved
	moves  func() (int, error)
	lies   func() (int, error) // how many collisions
	grams  func() (float64, error)
	// centre is the centre of mass in the coordinates of the base, with the joints where they stand in the reference, and
	// should what it is there.
	centre, should func() (solid.Vec, error)
	unlisted       func() (int, error)
	paths          map[string][]solid.Vec // of the reference, by trace; nil on the reference itself
}

// placedSolid is a solid where it stands.
type placedSolid struct {
	solid solid.Shape
	at    rigid.Pose
}

// errMissing tells of a component that is not there.
func (s *standing) missing(component string) error {
	return fmt.Errorf("%s is not there", s.title(s.number[component]))
}

// Count is how many components there are of a part.
func (s *standing) Count(part string) int {
	n := 0
	for i := range s.mech.Document.Components {
		c := &s.mech.Document.Components[i]
		if c.Part == part && s.ways[c.ID] != nil {
			n++
		}
	}
	return n
}

// Mobility is the number of freedoms, without idle spins.
func (s *standing) Mobility() (int, error) { return s.moves() }

// Between tells how two features lie to one another.
func (s *standing) Between(a, b address.Ref) (r requirement.Relation, err error) {
	var placed [2]*assembly.Feature
	for i, ref := range []address.Ref{a, b} {
		w := s.ways[ref.Component]
		if w == nil {
			return r, s.missing(ref.Component)
		}
		f, ok := w.Shape.Feature(ref.Name)
		if !ok {
			return r, fmt.Errorf("%s has not the face or edge that it is measured on", s.title(s.number[ref.Component]))
		}
		placed[i] = f.Placed(w.Pose.Apply, w.Pose.Rotate)
		r.Radius[i], r.Hollow[i] = f.Radius, f.Hollow
	}
	fa, fb := placed[0].Frame(), placed[1].Frame()
	d := fa.O.Sub(fb.O)
	r.Angle = fa.Z.Angle(fb.Z)
	r.Beside, r.Along = solid.FromAxis(fa.O, fb.O, fb.Z).Norm(), d.Dot(fb.Z)
	return r, nil
}

// Gap is the least distance between two components.
func (s *standing) Gap(a, b string) (float64, error) {
	return s.gapAt(a, b, func(id string) (rigid.Pose, error) {
		p, ok := s.solids[id]
		if !ok {
			return rigid.Pose{}, s.missing(id)
		}
		return p.at, nil
	})
}

// Collisions is how many pairs of components are in one another.
func (s *standing) Collisions() (int, error) { return s.lies() }

// drive is the mechanism with a joint that the reference drives, and over which range.
func (s *standing) drive(joint string) (*assembly.Mechanism, *assembly.Drive, way, error) {
	w, err := s.driven(joint)
	if err != nil {
		return nil, nil, w, err
	}
	m, err := s.moving()
	if err != nil {
		return nil, nil, w, err
	}
	d, err := m.Drive(joint)
	return m, d, w, err
}

// Range is over which a joint can be driven.
func (s *standing) Range(joint string) (float64, error) {
	w, err := s.driven(joint)
	if err != nil {
		return 0, err
	}
	m, err := s.moving()
	if err != nil {
		return 0, err
	}
	from, to, err := reach(m, w)
	return to - from, err
}

// Ratio is how fast a joint goes for each unit of another one, where that is the same all the way.
func (s *standing) Ratio(joint, to string) (float64, error) {
	_, d, w, err := s.drive(joint)
	if err != nil {
		return 0, err
	}
	rec := d.Record(w.from, w.to, pathSteps, nil)
	for k, c := range rec.Columns {
		if c.Joint != to {
			continue
		}
		first, last := rec.Moments[0], rec.Moments[len(rec.Moments)-1]
		if last.Value == first.Value {
			return 0, errors.New("the joint cannot be driven")
		}
		return (last.At[k] - first.At[k]) / (last.Value - first.Value), nil
	}
	return 0, fmt.Errorf("the joint %q does not move with %q", to, joint)
}

// Trace is how far the path of a point lies from that of the reference.
func (s *standing) Trace(trace string) (float64, error) {
	if s.paths == nil {
		return 0, nil
	}
	m, err := s.moving()
	if err != nil {
		return 0, err
	}
	path, err := s.path(m, trace)
	if err != nil {
		return 0, err
	}
	return assembly.PathApart(path, s.paths[trace]), nil
}

// Mass is that of all components in grams, by the densities of the reference.
func (s *standing) Mass() (float64, error) { return s.grams() }

// way is over which range the reference drives a joint: radians or mm.
type way struct {
	joint    string
	from, to float64
}

// drives are those of the reference.
func (r *key) drives() ([]way, error) {
	table, err := r.mech.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	var out []way
	for _, x := range r.mech.Document.Drives {
		d, err := r.mech.Drive(x.Joint)
		if err != nil {
			return nil, err
		}
		dim := quantity.Length
		if d.Turns {
			dim = quantity.Angle
		}
		w := way{joint: x.Joint}
		if w.from, err = table.Eval(x.From, dim); err != nil {
			return nil, err
		}
		if w.to, err = table.Eval(x.To, dim); err != nil {
			return nil, err
		}
		out = append(out, w)
	}
	return out, nil
}

// driven is the drive of a joint.
func (r *key) driven(joint string) (way, error) {
	list, err := r.drives()
	if err != nil {
		return way{}, err
	}
	for _, w := range list {
		if w.joint == joint {
			return w, nil
		}
	}
	return way{}, fmt.Errorf("the reference does not say over which range the joint %q is driven", joint)
}

// reach drives a joint over its range and back, and tells how far it went both ways. The mechanism is left at the end.
func reach(m *assembly.Mechanism, w way) (from, to float64, err error) {
	d, err := m.Drive(w.joint)
	if err != nil {
		return 0, 0, err
	}
	d.To(w.from, nil)
	from = d.Value()
	d.To(w.to, nil)
	return from, d.Value(), nil
}

// pathSteps are those of a path that is compared.
const pathSteps = 144

// path is what a point traces over the first drive, in the coordinates of the base component.
func (s *standing) path(m *assembly.Mechanism, trace string) ([]solid.Vec, error) {
	list, err := s.drives()
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, errors.New("the reference drives no joint, so that no point traces anything")
	}
	for i := range s.mech.Document.Traces {
		t := &s.mech.Document.Traces[i]
		if t.ID != trace {
			continue
		}
		p, err := m.Point(t.Of)
		if err != nil {
			return nil, err
		}
		d, err := m.Drive(list[0].joint)
		if err != nil {
			return nil, err
		}
		base := m.Pose(s.component(s.base()).ID).Inverse()
		var out []solid.Vec
		for _, moment := range d.Record(list[0].from, list[0].to, pathSteps, []assembly.Point{p}).Moments {
			out = append(out, base.Apply(moment.Places[0]))
		}
		if len(out) < 4 {
			return nil, errors.New("the mechanism cannot be driven far enough to trace a path")
		}
		return out, nil
	}
	return nil, fmt.Errorf("the reference has no trace %q", trace)
}

// base is the component that stands still.
func (r *key) base() int {
	for i := range r.mech.Document.Components {
		if r.mech.Document.Components[i].Pinned {
			return i
		}
	}
	return 0
}

// ofReference is the reference as requirements are measured on it.
func (r *key) ofReference(ctx context.Context) *standing {
	s := &standing{key: r, ways: map[string]*identify.Way{}, solids: map[string]placedSolid{}}
	for i := range r.mech.Document.Components {
		c := &r.mech.Document.Components[i]
		s.ways[c.ID] = &identify.Way{Shape: r.parts[i].Shape, Pose: r.pose(i)}
		s.solids[c.ID] = placedSolid{r.Made[c.Part].Solid, r.pose(i)}
	}
	s.moving = func() (*assembly.Mechanism, error) {
		m, err := assembly.New(r.mech.Document, r.mech.Shapes, nil)
		if err == nil {
			m.Solve()
		}
		return m, err
	}
	s.moves = func() (int, error) { return r.freedom(), nil }
	s.lies = func() (int, error) {
		n := 0
		pairs, err := r.clashes(ctx)
		for _, p := range pairs {
			if p.Kind == clash.Collision {
				n++
			}
		}
		return n, err
	}
	s.centre = func() (solid.Vec, error) { return s.centreIn(r.mech, r.density) }
	s.should = s.centre
	s.unlisted = func() (int, error) { return 0, nil }
	s.grams = func() (float64, error) {
		sum := 0.0
		for i := range r.mech.Document.Components {
			density, err := r.density(i)
			if err != nil {
				return 0, err
			}
			sum += density * r.parts[i].Geometry.Props.Volume
		}
		return sum, nil
	}
	return s
}

// density is that of a component in g/mm³.
func (r *key) density(n int) (float64, error) {
	p := r.part(n)
	density := r.Made[p.ID].Shape.Density
	if p.Density != "" {
		table, err := r.mech.Document.Table(nil)
		if err != nil {
			return 0, err
		}
		if density, err = table.Eval(p.Density, quantity.Number); err != nil {
			return 0, fmt.Errorf("the density of %s: %w", p.Name, err)
		}
	}
	if density == 0 {
		return 0, fmt.Errorf("nothing says what %s is made of", p.Name)
	}
	return density * 1e-6, nil // kg/m³
}

// freedom is the mobility of the reference without idle spins.
func (r *key) freedom() int {
	var list []int
	for i := range r.kindOf {
		list = append(list, i)
	}
	f := &found{key: r, of: make([]int, len(r.kindOf))}
	return f.ofMechanism(r.mech).all(r.base(), list, r.size()).dim()
}

// size is a typical size of a part.
func (r *key) size() float64 {
	sum := 0.0
	for _, p := range r.parts {
		sum += p.Geometry.Box.Diagonal() / 2
	}
	return math.Max(1e-3, sum/float64(len(r.parts)))
}

// clashes is how the components of the reference lie to one another.
func (r *key) clashes(ctx context.Context) ([]clash.Pair, error) {
	if r.lies != nil {
		return r.lies, nil
	}
	var list []clash.Placed
	for i := range r.mech.Document.Components {
		c := &r.mech.Document.Components[i]
		list = append(list, clash.Placed{ID: c.ID, Title: c.Title(), Pose: r.pose(i), Shape: r.parts[i].Shape,
			Solid: r.Made[c.Part].Solid, Soft: r.part(i).Soft})
	}
	pairs, err := r.looker().All(ctx, list, func(float64) {})
	if err != nil {
		return nil, err
	}
	r.lies = append([]clash.Pair{}, pairs...)
	return r.lies, nil
}

// looker looks at components with the fits that the joints of the reference state.
func (r *key) looker() *clash.Looker {
	l := &clash.Looker{Kernel: r.k, Stated: map[[2]string]string{}}
	for _, j := range r.joints {
		if j.Fit != "" {
			l.Stated[[2]string{j.Joint.A.Component, j.Joint.B.Component}] = j.Fit
		}
	}
	return l
}
