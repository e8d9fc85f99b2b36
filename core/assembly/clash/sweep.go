package clash

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Swept is an interval of a drive, in radians or mm, in which two components collide, or in which it is not proved that
// they do not.
type Swept struct {
	A    string  `json:"a"`
	B    string  `json:"b"`
	Kind string  `json:"kind"` // Collision or Ask
	From float64 `json:"from"`
	To   float64 `json:"to"`
}

// Bounds of a sweep.
const (
	coarse = 72   // equal steps that are looked at first
	finest = 1000 // part of the way to which ends of intervals are found
	still  = 1e-7 // mm: two that go no further do not move against one another
	beyond = 0.37 // of the way: where faces still touch that touch at the beginning, a joint keeps them so
)

// Sweep drives a joint from one value to another and looks for collisions on the way, on the meshes less how far they
// lie off the solids. Faces that a joint keeps in contact are left out, and all others of their components are looked
// at. to is where the drive ended: before its end where the mechanism could not follow.
//
// It is conservative advancement (B. Mirtich, Impulse-based dynamic simulation of rigid body systems, 1996): between
// two states no place of one component comes further to the other than the way of the farthest corner of its box. Where
// the gaps at both ends together are more than that, nothing happens between; else the interval is halved, down to a
// thousandth of the way.
func Sweep(ctx context.Context, m *assembly.Mechanism, joint string, from, to float64,
	progress func(done float64)) (list []Swept, ended float64, err error) {
	d, err := m.Drive(joint)
	if err != nil {
		return nil, 0, err
	}
	d.To(from, nil)
	s := &sweep{m: m, d: d, finest: math.Abs(to-d.Value()) / finest}
	before, first, start := s.poses(), touching(m), d.Value()
	d.To(start+(to-start)*beyond, nil)
	later := touching(m)
	d.To(start, nil)
	s.pairs = pairsOf(m, func(k touch) bool { return first[k] && later[k] })
	at := start
	for k := range coarse {
		if err := ctx.Err(); err != nil {
			return nil, 0, err
		}
		progress(float64(k) / coarse)
		stopped := d.To(start+(to-start)*float64(k+1)/coarse, nil)
		next, now := d.Value(), s.poses()
		if next != at {
			s.between(at, next, before, now, s.pairs)
			d.To(next, nil)
		}
		at, before = next, now
		if stopped {
			break
		}
	}
	return s.found(), at, nil
}

// sweep is one on its way.
type sweep struct {
	m      *assembly.Mechanism
	d      *assembly.Drive
	finest float64
	pairs  []*sweptPair
}

// sweptPair are two components that move against one another.
type sweptPair struct {
	a, b    int // in the document
	meshes  between
	corners [2][]solid.Vec // of the boxes of a and of b
	hits    []Swept
	known   map[float64]measured // gaps, by the value of the drive
}

// measured is a gap as far as it was looked for.
type measured struct{ gap, enough float64 }

// touch is a contact of two faces.
type touch struct{ a, b, faceA, faceB string }

func touching(m *assembly.Mechanism) map[touch]bool {
	var list []contact.Body
	for _, c := range m.Document.Components {
		list = append(list, contact.Body{ID: c.ID, Pose: m.Pose(c.ID), Shape: m.Shapes[c.Part]})
	}
	out := map[touch]bool{}
	for _, c := range contact.Find(list).Contacts {
		out[touch{c.A, c.B, c.FaceA, c.FaceB}] = true
	}
	return out
}

// pairsOf lists the pairs of components that can move against one another, with the faces that are left out.
func pairsOf(m *assembly.Mechanism, kept func(touch) bool) []*sweptPair {
	trees := map[string]*triangles{}
	for id, shape := range m.Shapes {
		if shape.Mesh != nil && len(shape.Mesh.Triangles) > 0 {
			trees[id] = placed(shape.Mesh, func(p solid.Vec) solid.Vec { return p })
		}
	}
	list := m.Document.Components
	var out []*sweptPair
	for i := range list {
		for j := i + 1; j < len(list); j++ {
			a, b := &list[i], &list[j]
			if trees[a.Part] == nil || trees[b.Part] == nil || m.Together(a.ID, b.ID) || soft(m, a) || soft(m, b) {
				continue
			}
			x, y := m.Shapes[a.Part], m.Shapes[b.Part]
			p := &sweptPair{a: i, b: j, corners: [2][]solid.Vec{x.Box.Corners(), y.Box.Corners()},
				known: map[float64]measured{}}
			p.meshes = between{a: trees[a.Part], b: trees[b.Part], slack: x.Deflection + y.Deflection + fuzzy,
				leftOut: map[[2]int32]bool{}, beside: map[[2]int32]bool{}}
			for _, f := range x.Features {
				for _, g := range y.Features {
					if len(f.Faces) > 0 && len(g.Faces) > 0 && kept(touch{a.ID, b.ID, f.Name, g.Name}) {
						p.leaveOut(neighbours(x, &f), neighbours(y, &g))
					}
				}
			}
			out = append(out, p)
		}
	}
	return out
}

func soft(m *assembly.Mechanism, c *assembly.Component) bool {
	p, _ := m.Document.Part(c.Part)
	return p.Soft
}

// neighbours lists a face and those that it has an edge with; the face is first.
func neighbours(s *assembly.Shape, face *assembly.Feature) []*assembly.Feature {
	out := []*assembly.Feature{face}
	for i := range s.Features {
		a, b, edge := strings.Cut(s.Features[i].Name, " & ")
		if !edge || len(s.Features[i].Lines) == 0 || a != face.Name && b != face.Name {
			continue
		}
		for _, name := range []string{a, b} {
			if f, ok := s.Feature(name); ok && name != face.Name {
				out = append(out, f)
			}
		}
	}
	return out
}

// leaveOut leaves out the first face of each list, which touch one another, and puts the others beside them.
func (p *sweptPair) leaveOut(a, b []*assembly.Feature) {
	for i, f := range a {
		for j, g := range b {
			into := p.meshes.beside
			if i == 0 && j == 0 {
				into = p.meshes.leftOut
			}
			for _, x := range f.Faces {
				for _, y := range g.Faces {
					into[[2]int32{int32(x), int32(y)}] = true
				}
			}
		}
	}
}

// poses are those of all components now.
func (s *sweep) poses() []rigid.Pose {
	out := make([]rigid.Pose, len(s.m.Document.Components))
	for i, c := range s.m.Document.Components {
		out[i] = s.m.Pose(c.ID)
	}
	return out
}

// between looks at an interval between two states.
func (s *sweep) between(t0, t1 float64, p0, p1 []rigid.Pose, pairs []*sweptPair) {
	var left []*sweptPair
	for _, p := range pairs {
		r0, r1 := p0[p.a].Then(p0[p.b].Inverse()), p1[p.a].Then(p1[p.b].Inverse())
		way := p.way(r0, r1)
		enough := way + 2*p.meshes.slack
		g0 := p.gap(t0, r0, enough)
		if g0 >= enough || way < still && g0 > -p.meshes.slack {
			continue
		}
		g1 := p.gap(t1, r1, enough)
		switch {
		case g0+g1 >= enough:
		case g0 < -p.meshes.slack && g1 < -p.meshes.slack:
			p.hits = append(p.hits, Swept{Kind: Collision, From: t0, To: t1})
		case math.Abs(t1-t0) > s.finest*(1+1e-9):
			left = append(left, p)
		case g0 < -p.meshes.slack || g1 < -p.meshes.slack:
			p.hits = append(p.hits, Swept{Kind: Collision, From: t0, To: t1})
		default:
			p.hits = append(p.hits, Swept{Kind: Ask, From: t0, To: t1})
		}
	}
	if len(left) == 0 {
		return
	}
	s.d.To(t0, nil)
	middle := (t0 + t1) / 2
	if s.d.To(middle, nil) {
		for _, p := range left {
			p.hits = append(p.hits, Swept{Kind: Ask, From: t0, To: t1})
		}
		return
	}
	p := s.poses()
	s.between(t0, middle, p0, p, left)
	s.between(middle, t1, p, p1, left)
}

// gap is how far the two are apart, at most enough, with one laid to the other.
func (p *sweptPair) gap(at float64, lay rigid.Pose, enough float64) float64 {
	if m, ok := p.known[at]; ok && (m.gap < m.enough || m.enough >= enough) {
		return math.Min(m.gap, enough)
	}
	x := p.meshes
	x.lay = lay
	g := x.gap(enough)
	p.known[at] = measured{g, enough}
	return g
}

// way is how far a place of the one can go against the other between two states: the way of the farthest corner of its
// box, along an arc where it turns. Either may be the one that counts as moving.
func (p *sweptPair) way(from, to rigid.Pose) float64 {
	least := math.Inf(1)
	for side, list := range p.corners {
		if side == 1 {
			from, to = from.Inverse(), to.Inverse()
		}
		most := 0.0
		for _, c := range list {
			most = math.Max(most, from.Apply(c).Distance(to.Apply(c)))
		}
		least = math.Min(least, most)
	}
	if half := from.Inverse().Then(to).Angle() / 2; half > 1e-6 {
		least *= half / math.Sin(half)
	}
	return least
}

// found lists what was found, intervals that follow on one another as one. What is not proved for a moment beside a
// collision belongs to it: its end is known to so much.
func (s *sweep) found() []Swept {
	out := []Swept{}
	for _, p := range s.pairs {
		for i := range p.hits {
			h := &p.hits[i]
			h.A, h.B = s.m.Document.Components[p.a].ID, s.m.Document.Components[p.b].ID
			h.From, h.To = math.Min(h.From, h.To), math.Max(h.From, h.To)
		}
		slices.SortStableFunc(p.hits, func(x, y Swept) int { return cmp.Compare(x.From, y.From) })
		list := s.joined(p.hits, func(x, y *Swept) bool { return x.Kind == y.Kind })
		out = append(out, s.joined(list, func(x, y *Swept) bool {
			short := func(h *Swept) bool { return h.Kind == Collision || h.To-h.From < moment*s.finest }
			return (x.Kind == Collision || y.Kind == Collision) && short(x) && short(y)
		})...)
	}
	return out
}

// moment is how many of the finest parts of the way are a moment.
const moment = 10

// joined joins intervals that follow on one another and belong together.
func (s *sweep) joined(list []Swept, together func(x, y *Swept) bool) []Swept {
	var out []Swept
	for _, h := range list {
		n := len(out) - 1
		if n >= 0 && h.From-out[n].To < s.finest/2 && together(&out[n], &h) {
			out[n].To = math.Max(out[n].To, h.To)
			if h.Kind == Collision {
				out[n].Kind = Collision
			}
			continue
		}
		out = append(out, h)
	}
	return out
}
