package assembly

import (
	"fmt"
	"math"

	"hammerset/core/address"
	"hammerset/core/partition"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/solve"
)

// Mechanism is an assembly ready to be solved and moved: bodies of rigidly joined components, and the conditions
// of all joints between them.
//
// What is pinned is ground, and does not move. Components that rigid joints hold together are one body: the
// conditions between them never come into the system, which is smaller by six unknowns for each.
type Mechanism struct {
	Document *Document         // laid flat, with what is nested
	Shapes   map[string]*Shape // by part of it

	given  *Document         // as it is written
	shaped map[string]*Shape // by part of that

	joints []*placedJoint // in the order of the document; nil for what is off or at fault
	merged []bool         // of joints: in a body
	faults []Lost
	bodies []body
	bodyOf map[string]int // of components; ground is -1
	within map[string]rigid.Pose
	moves  rigid.Bodies
	system *solve.System
	groups []tied // what each group is of
	bounds []bound
	turns  map[string]float64 // of joints that turn: radians with whole turns, where it was solved last
}

// tied is what a group of the system is of: a joint, or a coupling of two.
type tied struct {
	id    string
	joint *placedJoint // nil of a coupling
}

// body is what moves as one: Components with their poses in it. Its own origin is the middle of what it holds, so
// that turning it moves what is on it as little as can be.
type body struct {
	components []string
	middle     solid.Vec
}

// Lost is a joint or coupling that cannot be made: of a feature that is gone, or of features that its kind does not
// take. A part that cannot be made is told in the same way, without a joint.
type Lost struct {
	Joint  string `json:"joint"`
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

// New makes the mechanism of a document at its poses, with the sizes that the parameters have or are set to.
// Joints that cannot be made are told by Lost and do not count; the rest stands.
func New(d *Document, shapes map[string]*Shape, set map[string]quantity.Quantity) (*Mechanism, error) {
	table, err := d.Table(set)
	if err != nil {
		return nil, err
	}
	given, shaped := d, shapes
	if d, shapes, err = Flat(d, shapes); err != nil {
		return nil, err
	}
	m := &Mechanism{Document: d, Shapes: shapes, given: given, shaped: shaped, within: map[string]rigid.Pose{},
		bodyOf: map[string]int{},
		merged: make([]bool, len(d.Joints))}
	for _, c := range d.Components {
		if m.shapeOf(c.ID) == nil {
			return nil, fmt.Errorf("the component %s has no shape: its part %s is missing", c.Title(), c.Part)
		}
	}
	for _, p := range d.Parts {
		if s := shapes[p.ID]; s != nil && s.Broken != nil {
			m.faults = append(m.faults, Lost{"", fmt.Sprintf("the part %s cannot be made: %s", p.Name, s.Broken.What),
				s.Broken.Remedy})
		}
	}
	reach := m.reach()
	for i := range d.Joints {
		j, lost := m.placed(&d.Joints[i], table, reach)
		if lost != nil {
			m.faults = append(m.faults, *lost)
		}
		m.joints = append(m.joints, j)
	}
	m.merge()
	m.assemble(reach, table)
	return m, nil
}

// Lost lists the joints that could not be made.
func (m *Mechanism) Lost() []Lost { return m.faults }

func (m *Mechanism) shapeOf(component string) *Shape {
	c, ok := m.Document.Component(component)
	if !ok {
		return nil
	}
	return m.Shapes[c.Part]
}

// reach is a typical distance from the middle of a component to its surface.
func (m *Mechanism) reach() float64 {
	sum, n := 0.0, 0
	for _, c := range m.Document.Components {
		if s := m.Shapes[c.Part]; s.Broken == nil {
			sum, n = sum+s.Box.Diagonal()/2, n+1
		}
	}
	return math.Max(1e-3, sum/float64(max(1, n)))
}

// placed finds the features and sizes of a joint.
func (m *Mechanism) placed(j *Joint, table *quantity.Table, reach float64) (*placedJoint, *Lost) {
	if j.Off {
		return nil, nil
	}
	lost := func(what, remedy string) (*placedJoint, *Lost) { return nil, &Lost{j.ID, what, remedy} }
	kind, _ := KindOf(j.Kind)
	p := &placedJoint{Joint: j, kind: kind, reach: reach, sense: 1}
	for _, side := range []struct {
		ref address.Ref
		to  **Feature
	}{{j.A, &p.a}, {j.B, &p.b}} {
		c, ok := m.Document.Component(side.ref.Component)
		if !ok {
			return lost(fmt.Sprintf("the joint %s has lost a component: %s is not in %s any more", m.Document.TitleOf(j),
				side.ref.Component, Root(side.ref.Component)), "pick the feature anew, or put the part right")
		}
		f, ok := m.Feature(side.ref)
		if !ok {
			return lost(fmt.Sprintf("the joint %s has lost a feature: the face or edge of %s that it was on is gone",
				m.Document.TitleOf(j), c.Title()), "pick the feature anew, or put the part right")
		}
		*side.to = f
	}
	var ok bool
	if p.roles, ok = kind.takes(p.a, p.b); !ok {
		return lost(fmt.Sprintf("the joint %s cannot hold %s to %s", m.Document.TitleOf(j), p.a.Words, p.b.Words),
			"a joint of the kind "+kind.Name+" takes "+kind.wanted())
	}
	if j.Sense == Opposed {
		p.sense = -1
	}
	for _, s := range j.Sizes() {
		if s.Text == "" {
			continue
		}
		v, err := table.Eval(s.Text, s.Dim)
		if err != nil {
			return lost(fmt.Sprintf("the %s of the joint %s: %v", s.Name, m.Document.TitleOf(j), err), "put this formula right")
		}
		*map[string]*float64{"offset": &p.offset, "angle": &p.angle, "lead": &p.lead, "distance": &p.distance}[s.Name] = v
	}
	if kind.has("lead") && p.lead == 0 {
		return lost(fmt.Sprintf("the lead of the joint %s is nothing", m.Document.TitleOf(j)),
			"write how far it goes in one turn")
	}
	return p, nil
}

// relative is the pose of the component of a in the coordinates of the component of b that a rigid joint asks for.
func (p *placedJoint) relative() rigid.Pose {
	b := p.b.Frame()
	if p.sense < 0 { // the same X, and Z turned over
		b.Y, b.Z = b.Y.Scale(-1), b.Z.Scale(-1)
	}
	// The angle and the offset are about and along the direction of b itself.
	z := p.b.Frame().Z
	turn := solid.Rotation(b.O, z, p.angle)
	b = solid.Frame{O: b.O.Add(z.Scale(p.offset)), X: turn.Turn(b.X), Y: turn.Turn(b.Y), Z: turn.Turn(b.Z)}
	return rigid.Between(p.a.Frame(), b)
}

// merge makes bodies of components that rigid joints hold together. Poses of the first of each stay, and the others
// follow; where two ways of rigid joints lead to one component, the second is a condition that stays in the system.
func (m *Mechanism) merge() {
	var parts partition.Names
	type link struct {
		to   string
		pose rigid.Pose // of to, in the coordinates of where the link starts
	}
	links := map[string][]link{}
	for _, c := range m.Document.Components { // rigid assemblies stay as they stand in themselves
		if to, ok := m.Document.Component(c.with); c.with != "" && ok && parts.Root(c.ID) != parts.Root(to.ID) {
			parts.Join(c.ID, to.ID)
			r := c.Pose.Then(to.Pose.Inverse())
			links[to.ID] = append(links[to.ID], link{c.ID, r})
			links[c.ID] = append(links[c.ID], link{to.ID, r.Inverse()})
		}
	}
	for i, p := range m.joints {
		if p == nil || !p.kind.Merges || parts.Root(p.A.Component) == parts.Root(p.B.Component) {
			continue
		}
		parts.Join(p.A.Component, p.B.Component)
		r := p.relative()
		links[p.B.Component] = append(links[p.B.Component], link{p.A.Component, r})
		links[p.A.Component] = append(links[p.A.Component], link{p.B.Component, r.Inverse()})
		m.merged[i] = true
	}
	// Pinned components first: they hold the others where they are.
	for _, pinned := range []bool{true, false} {
		for _, c := range m.Document.Components {
			if _, done := m.bodyOf[c.ID]; done || c.Pinned != pinned {
				continue
			}
			n := -1
			if !pinned {
				n = len(m.bodies)
				m.bodies = append(m.bodies, body{})
			}
			m.within[c.ID], m.bodyOf[c.ID] = c.Pose, n
			queue := []string{c.ID}
			for ; len(queue) > 0; queue = queue[1:] {
				at := queue[0]
				if n >= 0 {
					m.bodies[n].components = append(m.bodies[n].components, at)
				}
				for _, l := range links[at] {
					if _, done := m.bodyOf[l.to]; !done {
						m.within[l.to], m.bodyOf[l.to] = l.pose.Then(m.within[at]), n
						queue = append(queue, l.to)
					}
				}
			}
		}
	}
}

// assemble makes the system of conditions.
func (m *Mechanism) assemble(reach float64, table *quantity.Table) {
	m.moves = rigid.Bodies{Count: len(m.bodies), Reach: reach}
	state := make([]float64, m.moves.At(0))
	for i := range m.bodies {
		b := &m.bodies[i]
		for _, c := range b.components {
			box := m.shapeOf(c).Box
			b.middle = b.middle.Add(m.within[c].Apply(box.Min.Add(box.Max).Scale(0.5)).Scale(1 / float64(len(b.components))))
		}
		m.moves.Set(state, i, rigid.Pose{Turn: rigid.Still().Turn, Shift: b.middle})
		for _, c := range b.components {
			p := m.within[c]
			p.Shift = p.Shift.Sub(b.middle)
			m.within[c] = p
		}
	}
	var groups []solve.Group
	for i, p := range m.joints {
		if p != nil && !m.merged[i] {
			m.groups = append(m.groups, tied{p.ID, p})
			groups = append(groups, m.group(p))
		}
	}
	groups = append(groups, m.tieAll(table)...)
	m.system = solve.New(state, m.moves.Plain(0), groups, 2*reach, m.moves)
	m.begin()
}

// tieAll makes the groups of couplings, and the bounds of joints.
func (m *Mechanism) tieAll(table *quantity.Table) (groups []solve.Group) {
	for i := range m.Document.Couplings {
		c := &m.Document.Couplings[i]
		terms, should, lost := m.tie(c, table)
		if lost != nil {
			m.faults = append(m.faults, *lost)
			continue
		}
		m.groups = append(m.groups, tied{id: c.ID})
		groups = append(groups, m.sum(terms, func() float64 { return should }))
	}
	for _, p := range m.joints {
		if p == nil {
			continue
		}
		list, lost := m.boundsOf(p, table)
		if lost != nil {
			m.faults = append(m.faults, *lost)
		}
		m.bounds = append(m.bounds, list...)
	}
	return groups
}

// frame is a feature of a component in the coordinates of its body, or in space where that is ground.
func (m *Mechanism) frame(component string, f *Feature) (int, solid.Frame) {
	return m.bodyOf[component], m.within[component].Place(f.Frame())
}

// group makes the conditions of a joint a group of residuals.
//
// A body turned by a small w about its own axes and shifted by d moves a place p of it by R (w × p) + d and a
// direction v by R (w × v). With the slope g by that vector in space, its slope by w is p × Rᵀg.
func (m *Mechanism) group(p *placedJoint) solve.Group {
	list := p.kind.conditions(p)
	ba, fa := m.frame(p.A.Component, p.a)
	bb, fb := m.frame(p.B.Component, p.b)
	var vars []int
	for _, b := range []int{ba, bb} {
		for k := range rigid.Unknowns {
			if b >= 0 && (b != bb || ba != bb || len(vars) < rigid.Unknowns) {
				vars = append(vars, rigid.Unknowns*b+k)
			}
		}
	}
	n := len(vars)
	var a, b, da, db solid.Frame // of the evaluation that is under way: here, they are made once
	eval := func(state, r, jac []float64) {
		pa, pb := m.pose(state, ba).Transform(), m.pose(state, bb).Transform()
		a, b = pa.Place(&fa), pb.Place(&fb)
		for k, c := range list {
			da, db = solid.Frame{}, solid.Frame{}
			r[k] = c.of(&a, &b, &da, &db)
			if jac == nil {
				continue
			}
			row := jac[k*n : (k+1)*n]
			clear(row)
			if ba >= 0 {
				slope(row[:rigid.Unknowns], &pa, &fa, &da, m.moves.Reach)
			}
			if bb >= 0 {
				slope(row[n-rigid.Unknowns:], &pb, &fb, &db, m.moves.Reach)
			}
		}
	}
	return solve.Group{Vars: vars, Rows: len(list), Eval: eval}
}

// slope adds the derivatives by the six unknowns of a body to a row: local is the frame in the body, and by
// the slope by that frame in space.
func slope(row []float64, p *solid.Transform, local, by *solid.Frame, reach float64) {
	var w solid.Vec
	for _, v := range [4][2]*solid.Vec{{&local.O, &by.O}, {&local.X, &by.X}, {&local.Y, &by.Y}, {&local.Z, &by.Z}} {
		if g := v[1]; g[0] != 0 || g[1] != 0 || g[2] != 0 {
			w = w.Add(v[0].Cross(p.Back(*g)))
		}
	}
	for k := range 3 {
		row[k] += w[k] / reach
		row[3+k] += by.O[k]
	}
}

// pose is that of a body in a state; ground stands still.
func (m *Mechanism) pose(state []float64, body int) rigid.Pose {
	if body < 0 {
		return rigid.Still()
	}
	return m.moves.Pose(state, body)
}

// Together tells whether two components are of one body, or both stand still: they never move against one another.
func (m *Mechanism) Together(a, b string) bool { return m.Body(a) == m.Body(b) }

// Body is the number of the body that a component is of; -1 is ground.
func (m *Mechanism) Body(component string) int { return m.bodyOf[component] }

// Pose is where a component is now.
func (m *Mechanism) Pose(component string) rigid.Pose {
	return m.within[component].Then(m.pose(m.system.State, m.bodyOf[component]))
}

// Placed is the document with all components where they are now, and the whole turns of its joints.
func (m *Mechanism) Placed() *Document {
	out := *m.given
	out.Components = fold(m.given, m.shaped, m.Pose)
	out.Joints = append([]Joint{}, out.Joints...)
	for i := range out.Joints {
		if p := m.joints[i]; p != nil {
			out.Joints[i].State = m.wholeTurns(p)
		}
	}
	for i := range out.Components {
		m.keepTurns(&out.Components[i])
	}
	return &out
}

// keepTurns keeps the whole turns of the joints in a component that moves in itself.
func (m *Mechanism) keepTurns(c *Component) {
	if c.Turns = nil; !c.Moving {
		return
	}
	all := map[string]int{}
	for _, p := range m.joints {
		if p != nil {
			all[p.ID] = m.wholeTurns(p)
		}
	}
	c.Turns = turnsBelow(all, c.ID)
}
