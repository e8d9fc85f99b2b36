package assemblies

import (
	"context"
	"errors"
	"fmt"
	"math"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/requirement"
	"hammerset/core/identify"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// standingIn is the mechanism of the reference on the parts of the attempt, where these stand: its joints on the
// features that stand for those of the reference. Without what is missing.
func (f *found) standingIn() (*assembly.Mechanism, error) {
	ref := f.mech.Document
	d := *ref
	d.Parts, d.Components, d.Joints, d.Couplings, d.Drives, d.Traces = nil, nil, nil, nil, nil, nil
	of := map[string]*assembly.Shape{}
	in := map[string]bool{}
	for c := range f.of {
		if !f.there(c) {
			continue
		}
		x, p := *f.component(c), *f.part(c)
		p.ID = x.ID
		x.Part, x.Pose = x.ID, f.way[c].Pose
		d.Parts, d.Components = append(d.Parts, p), append(d.Components, x)
		of[x.ID], in[x.ID] = f.way[c].Shape, true
	}
	joints := map[string]bool{}
	for _, j := range ref.Joints {
		a, okA := f.number[j.A.Component]
		b, okB := f.number[j.B.Component]
		if !okA || !okB || !in[j.A.Component] || !in[j.B.Component] || j.Off {
			continue
		}
		_, hasA := f.way[a].Shape.Feature(j.A.Name)
		_, hasB := f.way[b].Shape.Feature(j.B.Name)
		if hasA && hasB {
			d.Joints, joints[j.ID] = append(d.Joints, j), true
		}
	}
	for _, c := range ref.Couplings {
		if joints[c.A] && joints[c.B] {
			d.Couplings = append(d.Couplings, c)
		}
	}
	for _, x := range ref.Drives {
		if joints[x.Joint] {
			d.Drives = append(d.Drives, x)
		}
	}
	for _, t := range ref.Traces {
		if in[t.Of.Component] {
			d.Traces = append(d.Traces, t)
		}
	}
	return assembly.New(&d, of, nil)
}

// ofAttempt is the attempt as requirements are measured on it.
func (p *placement) standing(ctx context.Context, collisions []report.Collision, mobility *report.Mobility) (*standing,
	error) {
	s := &standing{key: p.key, ways: map[string]*identify.Way{}, solids: map[string]placedSolid{},
		paths: map[string][]solid.Vec{}}
	whole := p.ofReference(ctx)
	for i := range p.mech.Document.Traces {
		t := p.mech.Document.Traces[i].ID
		m, err := whole.moving()
		if err != nil {
			return nil, err
		}
		if path, err := whole.path(m, t); err == nil {
			s.paths[t] = path
		}
	}
	for c := range p.of {
		if !p.there(c) {
			continue
		}
		id := p.component(c).ID
		s.ways[id] = &p.way[c]
		n := p.of[c]
		s.solids[id] = placedSolid{p.att.made[p.att.doc.Components[n].Part].Solid, p.att.poses[n]}
	}
	s.moving = func() (*assembly.Mechanism, error) {
		m, err := p.standingIn()
		if err != nil {
			return nil, err
		}
		if !m.Solve().Holds {
			return nil, errNotHeld
		}
		return m, nil
	}
	s.moves = func() (int, error) {
		if mobility.Verdict == report.Out && mobility.Found == mobility.Wanted { // joints that contradict one another
			return 0, errors.New(mobility.Reason)
		}
		return mobility.Found, nil
	}
	s.lies = func() (int, error) {
		for _, c := range collisions {
			if c.Verdict == report.Ask {
				return 0, &requirement.Unsettled{What: c.What}
			}
		}
		return len(collisions), nil
	}
	s.should = whole.centre
	s.centre = func() (solid.Vec, error) {
		m, err := s.moving()
		if err != nil {
			return solid.Vec{}, err
		}
		p.bring(m)
		return s.centreIn(m, p.density)
	}
	s.unlisted = p.unlisted
	s.grams = func() (float64, error) {
		sum := 0.0
		for c := range p.of {
			if !p.there(c) {
				continue
			}
			density, err := p.density(c)
			if err != nil {
				return 0, err
			}
			sum += density * p.att.part(p.of[c]).Geometry.Props.Volume
		}
		return sum, nil
	}
	return s, nil
}

// motions drives what the reference drives, on the parts of the attempt.
func (p *placement) motions(ctx context.Context, progress func(float64)) ([]report.Motion, []report.Collision, error) {
	out, hits := []report.Motion{}, []report.Collision{}
	list, err := p.drives()
	if err != nil {
		return nil, nil, err
	}
	for i, w := range list {
		progress(float64(i) / float64(len(list)))
		j, _ := p.mech.Document.Joint(w.joint)
		d, err := p.mech.Drive(w.joint)
		if err != nil {
			return nil, nil, err
		}
		unit := 1.0
		if d.Turns {
			unit = quantity.Degree.Factor
		}
		is := report.Motion{Joint: w.joint, Name: p.Document.TitleOf(j), Turns: d.Turns, From: w.from / unit, To: w.to / unit}
		more, err := p.motion(ctx, w, unit, &is)
		if err != nil {
			return nil, nil, err
		}
		out, hits = append(out, is), append(hits, more...)
	}
	return out, hits, nil
}

// motion carries one drive out.
func (p *placement) motion(ctx context.Context, w way, unit float64, is *report.Motion) ([]report.Collision, error) {
	m, err := p.standingIn()
	if err != nil {
		return nil, err
	}
	if _, there := m.Document.Joint(w.joint); !there {
		is.Verdict, is.Reason, is.ChargedIn = report.NotFound, "what it is between is not there", inParts
		return nil, nil
	}
	if !m.Solve().Holds {
		is.Verdict, is.Reason = report.Out, "its joints do not hold together, so that it cannot be driven"
		is.ChargedIn = p.behindParts(inPlacement)
		return nil, nil
	}
	ref, err := p.ofReference(ctx).moving()
	if err != nil {
		return nil, err
	}
	wantFrom, wantTo, err := reach(ref, w)
	if err != nil {
		return nil, err
	}
	from, to, err := reach(m, w)
	if err != nil {
		return nil, err
	}
	is.From, is.To, is.Reached, is.Verdict = wantFrom/unit, wantTo/unit, to/unit, report.In
	slack := math.Max(1e-3*math.Abs(wantTo-wantFrom), 1e-6)
	if math.Abs((to-from)-(wantTo-wantFrom)) > slack {
		is.Verdict, is.Reason = report.Out, "it stops on the way"
		is.ChargedIn = p.behindParts("")
	}
	if p.branches(m) {
		is.Verdict, is.Reason = report.Out, "it is put together in the other of the two ways in which its joints can close"
	}
	return p.swept(ctx, w, unit)
}

// behindParts is where something is charged that follows from parts of other sizes, or else what is given.
func (f *found) behindParts(otherwise string) string {
	if f.otherParts() {
		return inParts
	}
	return otherwise
}

// otherParts tells whether a component is not the very part that it stands for.
func (f *found) otherParts() bool {
	for c := range f.of {
		if f.there(c) && !f.same(c) {
			return true
		}
	}
	return false
}

// swept looks for collisions on the way that the reference has not.
func (p *placement) swept(ctx context.Context, w way, unit float64) ([]report.Collision, error) {
	m, err := p.standingIn()
	if err != nil {
		return nil, err
	}
	m.Solve()
	hits, _, err := clash.Sweep(ctx, m, w.joint, w.from, w.to, func(float64) {})
	if err != nil || len(hits) == 0 {
		return nil, err
	}
	ref, err := p.ofReference(ctx).moving()
	if err != nil {
		return nil, err
	}
	known, _, err := clash.Sweep(ctx, ref, w.joint, w.from, w.to, func(float64) {})
	if err != nil {
		return nil, err
	}
	var out []report.Collision
	for _, h := range hits {
		a, b := p.number[h.A], p.number[h.B]
		was := hitIn(known, h)
		if was == clash.Collision || was == h.Kind {
			continue
		}
		at := h.From / unit
		text := quantity.FormatDecimal(at, 1) + map[bool]string{true: "°", false: " mm"}[unit != 1]
		j, _ := p.mech.Document.Joint(w.joint)
		c := report.Collision{Of: [2]string{h.A, h.B}, Titles: [2]string{p.called(a), p.called(b)},
			Verdict: report.Out, Drive: w.joint, From: at, ChargedIn: p.behindParts(""),
			What: fmt.Sprintf("%s and %s run into one another as %s goes to %s", p.called(a), p.called(b),
				p.Document.TitleOf(j), text)}
		if h.Kind == clash.Ask || was == clash.Ask {
			c.Verdict, c.ChargedIn = report.Ask, ""
			c.What = fmt.Sprintf("%s and %s come so near one another as %s goes to %s that it is not proved that they "+
				"stay apart", p.called(a), p.called(b), p.Document.TitleOf(j), text)
		}
		out = append(out, c)
	}
	return out, nil
}

// hitIn is what a list has of the same two components: a collision, a doubt, or nothing.
func hitIn(list []clash.Swept, h clash.Swept) string {
	kind := ""
	for _, k := range list {
		if (k.A == h.A && k.B == h.B || k.A == h.B && k.B == h.A) && kind != clash.Collision {
			kind = k.Kind
		}
	}
	return kind
}

// Bounds within which a joint stands where it does in the reference, once the mechanism is brought there.
const (
	sameTurn  = 0.1  // radians
	sameSlide = 0.03 // of the size of a part
)

// free is a joint that moves, with where it stands in the reference: radians or mm. A part that is symmetric about the
// axis looks the same at some further turns.
type free struct {
	joint   string
	turns   bool
	should  float64
	further []float64
}

// left is how far the joint has to go to stand as in the reference.
func (x *free) left(m *assembly.Mechanism) float64 {
	turn, slide, _ := m.Coordinate(x.joint)
	if !x.turns {
		return x.should - slide
	}
	least := math.Inf(1)
	for _, f := range x.further {
		if by := math.Remainder(x.should+f-turn, 2*math.Pi); math.Abs(by) < math.Abs(least) {
			least = by
		}
	}
	return least
}

// alike are the turns about a joint at which one of its two parts looks the same.
func (p *placement) alike(j *judged) []float64 {
	out := []float64{0}
	of, on := j.Features()
	for side, c := range []int{j.a, j.b} {
		s := p.parts[c].Shape.Symmetry
		if s == nil {
			continue
		}
		axis := []*assembly.Feature{of, on}[side].Frame().Z
		for _, t := range s.Turns {
			about := solid.Vec{t.Turn.Imag, t.Turn.Jmag, t.Turn.Kmag}
			if about.Norm() > 1e-9 && about.Unit().Parallel(axis, 1e-6) {
				out = append(out, t.Angle(), -t.Angle())
			}
		}
	}
	return out
}

// branches tells whether the mechanism, brought to where the joints of the reference stand, has joints that stand
// elsewhere: then it is in another branch. Where parts have other sizes that cannot be told.
func (p *placement) branches(m *assembly.Mechanism) bool {
	return p.ex.Assembly.Branch == "" && !p.otherParts() && !p.bring(m)
}

// bring brings a mechanism to where the joints of the reference stand, and tells whether all of them stand there then.
func (p *placement) bring(m *assembly.Mechanism) bool {
	var list []free
	for i := range p.joints {
		j := &p.joints[i]
		turns, slides := j.Moves()
		if !j.there || !turns && !slides {
			continue
		}
		turn, slide, _ := p.mech.Coordinate(j.ID)
		switch {
		case turns && !p.way[j.a].Round && !p.way[j.b].Round:
			list = append(list, free{j.ID, true, turn, p.alike(j)})
		case slides && !turns:
			list = append(list, free{j.ID, false, slide, []float64{0}})
		}
	}
	off := func(x free) float64 {
		by := math.Abs(x.left(m))
		if x.turns {
			return by / sameTurn
		}
		return by / (sameSlide * p.size())
	}
	for range len(list) {
		worst := -1
		for i, x := range list {
			if off(x) > 1 && (worst < 0 || off(x) > off(list[worst])) {
				worst = i
			}
		}
		if worst < 0 {
			return true
		}
		d, err := m.Drive(list[worst].joint)
		if err != nil {
			return true // nothing tells that it is elsewhere
		}
		d.To(d.Value()+list[worst].left(m), nil)
	}
	for _, x := range list {
		if off(x) > 1 {
			return false
		}
	}
	return true
}
