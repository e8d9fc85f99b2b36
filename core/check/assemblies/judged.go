package assemblies

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/assembly/clash"
	"hammerset/core/assembly/requirement"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// reported are the joints as the report has them, and the mobility.
func (p *placement) reported() ([]report.Joint, *report.Mobility, error) {
	own := p.att.says()
	m, err := p.standingIn()
	if err != nil {
		return nil, nil, err
	}
	holds := m.Solve().Holds
	should := p.ofMechanism(m)
	if !holds {
		should = p.inReference()
	}
	is := should
	if own {
		is = p.ofAttempt()
	}
	out := []report.Joint{}
	for i := range p.joints {
		j := &p.joints[i]
		x := report.Joint{ID: j.ID, Name: p.Document.TitleOf(j.Joint), Kind: j.Joint.Kind,
			Of: [2]string{p.component(j.a).ID, p.component(j.b).ID}, Titles: [2]string{p.called(j.a), p.called(j.b)},
			Conditions: []report.Condition{}}
		p.placed(j, &x)
		if j.there {
			p.freed(j, &x, should, is, own)
		}
		out = append(out, x)
	}
	if own {
		if err := p.causes(out, m); err != nil {
			return nil, nil, err
		}
	}
	return out, p.mobility(should, is, own), nil
}

// placed judges what a joint asks for.
func (p *placement) placed(j *judged, x *report.Joint) {
	x.Placed = report.In
	switch {
	case !p.there(j.a) || !p.there(j.b):
		x.Placed, x.Reason, x.ChargedIn = report.NotFound, "what it is between is not there", inParts
	case !j.there:
		x.Placed, x.Reason, x.ChargedIn = report.NotFound, "a face or edge that it is on is not there", inParts
	case j.out:
		x.Placed = report.Out
		switch {
		case j.skewed:
			x.ChargedIn = inParts
		case j.again:
			x.ChargedIn = inPlacement
		}
	}
	format := quantity.MeasuredFormat(p.ex.LengthUnit())
	for _, o := range j.off {
		c := report.Condition{What: string(o.What), Deviation: o.By, Limit: j.limit(o), Angle: o.Angle, Verdict: report.In}
		if math.Abs(o.By) > c.Limit {
			c.Verdict = report.Out
		}
		if c.Text = format.Length(math.Abs(o.By)); o.Angle {
			c.Text = format.Angle(math.Abs(o.By))
			c.Deviation, c.Limit = o.By/quantity.Degree.Factor, c.Limit/quantity.Degree.Factor
		}
		x.Conditions = append(x.Conditions, c)
	}
	if j.skewed {
		x.Reason = "a feature that it is on is in a wrong place in its part, which is told there"
	}
}

// Parts of a rubric in which something may be charged.
const (
	inParts     = "parts"
	inPlacement = "placement"
	inJoints    = "joints"
	inMotion    = "motion"
)

// freed judges what a joint leaves free, where the attempt has joints of its own.
func (p *placement) freed(j *judged, x *report.Joint, should, is *freedoms, own bool) {
	reach := p.size()
	want, idle := should.relative(j.b, j.a, reach)
	x.Wanted = freedomWords(want.without(idle))
	switch {
	case !own && p.ex.Assembly.Unsaid != "":
		x.Verdict, x.Reason = report.Ask, "a file of solids does not say which joints it has"
		return
	case !own:
		return // not counted
	}
	have, spins := is.relative(j.b, j.a, reach)
	want, have = want.without(idle), have.without(spins)
	x.Found, x.Verdict = freedomWords(have), report.In
	switch more, less := !have.in(want), !want.in(have); {
	case more && less:
		x.Verdict, x.Reason = report.Out, "it moves otherwise than it should"
	case more:
		x.Verdict, x.Reason = report.Out, "it can move where it should be held"
	case less:
		x.Verdict, x.Reason = report.Out, "it is held where it should move"
	}
}

// causes tells of joints that leave something else free than they should which of them only follow from others: where
// one holds what should move, the others in its loop cannot move either. Those of which the attempt's own joints
// between the two components, taken by themselves, leave what the reference's joints between them leave are not to
// blame.
func (p *placement) causes(list []report.Joint, m *assembly.Mechanism) error {
	blamed := false
	reach := p.size()
	direct := make([]bool, len(list))
	for i := range list {
		x, j := &list[i], &p.joints[i]
		if x.Verdict != report.Out {
			continue
		}
		ids := [2]string{p.component(j.a).ID, p.component(j.b).ID}
		ref, _, err := alone(m.Document, m.Shapes, ids, nil)
		if err != nil {
			return err
		}
		own := [2]string{p.att.doc.Components[p.of[j.a]].ID, p.att.doc.Components[p.of[j.b]].ID}
		att, n, err := alone(p.att.mech.Document, p.att.mech.Shapes, own, p.att.mech)
		if err != nil {
			return err
		}
		f := p.ofMechanism(ref)
		want, idle := f.relative(j.b, j.a, reach)
		g := p.ofAttempt()
		g.motions = att.Motions()
		have, spins := g.relative(j.b, j.a, reach)
		want, have = want.without(idle), have.without(spins)
		if n > 0 {
			x.Direct = freedomWords(have)
		}
		direct[i] = n > 0 && have.in(want) && want.in(have)
		blamed = blamed || !direct[i]
	}
	for i := range list {
		list[i].Behind = list[i].Verdict == report.Out && blamed && direct[i]
	}
	return nil
}

// alone is the mechanism of two components with the joints between them, where they stand in another one or in the
// document, and how many joints that are.
func alone(d *assembly.Document, shapes map[string]*assembly.Shape, ids [2]string, at *assembly.Mechanism) (
	*assembly.Mechanism, int, error) {
	two := *d
	two.Components, two.Joints, two.Couplings, two.Drives, two.Traces = nil, nil, nil, nil, nil
	for _, id := range ids {
		c, _ := d.Component(id)
		x := *c
		if x.Pinned = false; at != nil {
			x.Pose = at.Pose(id)
		}
		two.Components = append(two.Components, x)
	}
	for _, j := range d.Joints {
		a, b := j.A.Component, j.B.Component
		if !j.Off && (a == ids[0] && b == ids[1] || a == ids[1] && b == ids[0]) {
			two.Joints = append(two.Joints, j)
		}
	}
	m, err := assembly.New(&two, shapes, nil)
	if err != nil {
		return nil, 0, err
	}
	return m, len(two.Joints), nil
}

// inReference are the motions of the reference itself: what the joints should leave where those of the attempt cannot
// hold where it stands.
func (p *placement) inReference() *freedoms {
	f := p.ofMechanism(p.mech)
	f.id = func(c int) (string, bool) { return p.component(c).ID, true }
	return f
}

// mobility compares the freedoms of the whole.
func (p *placement) mobility(should, is *freedoms, own bool) *report.Mobility {
	var list []int
	base := -1
	for c := range p.of {
		if p.there(c) {
			list = append(list, c)
			if base < 0 || p.component(c).Pinned {
				base = c
			}
		}
	}
	if base < 0 {
		return &report.Mobility{Wanted: p.freedom(), Verdict: report.NotFound, Reason: "none of its items was found"}
	}
	out := &report.Mobility{Wanted: p.freedom(), Verdict: report.In}
	out.Found = should.all(base, list, p.size()).dim()
	if own {
		out.Found = is.all(base, list, p.size()).dim()
	}
	switch {
	case own && !p.att.holds:
		out.Verdict, out.Reason = report.Out, "the joints of the assembly contradict one another"
	case out.Found < out.Wanted:
		out.Verdict, out.Reason = report.Out, "it can move less than it should"
	case out.Found > out.Wanted:
		out.Verdict, out.Reason = report.Out, "it can move more than it should"
	}
	if len(list) < len(p.of) && out.Verdict == report.Out {
		out.Reason += ", with components missing"
	}
	return out
}

// collisions are those of the attempt that the reference has not.
func (p *placement) collisions(ctx context.Context, progress func(float64)) ([]report.Collision, error) {
	var list []clash.Placed
	to := p.asInReference()
	number := map[string]int{} // of the reference
	for i, c := range p.att.doc.Components {
		made := p.att.made[c.Part]
		soft := false
		for n, of := range p.of {
			if of == i {
				number[c.ID], soft = n, p.part(n).Soft
			}
		}
		list = append(list, clash.Placed{ID: c.ID, Title: c.Title(), Pose: p.att.poses[i].Then(to), Shape: made.Shape,
			Solid: made.Solid, Soft: soft})
	}
	l := p.looker()
	for pair, fit := range maps.Clone(l.Stated) { // which goes by the names of the reference
		a, b := p.of[p.number[pair[0]]], p.of[p.number[pair[1]]]
		if a >= 0 && b >= 0 {
			l.Stated[[2]string{p.att.doc.Components[a].ID, p.att.doc.Components[b].ID}] = fit
		}
	}
	p.look(l, number)
	pairs, err := l.All(ctx, list, progress)
	if err != nil {
		return nil, err
	}
	out := []report.Collision{}
	for _, x := range pairs {
		a, okA := number[x.A]
		b, okB := number[x.B]
		if !okA || !okB || x.Kind != clash.Collision && x.Kind != clash.Ask {
			continue // what stands for nothing is told by itself
		}
		known, err := p.clashes(ctx)
		if err != nil {
			return nil, err
		}
		if p.inBoth(known, &x, a, b) {
			continue
		}
		c := report.Collision{Of: [2]string{p.component(a).ID, p.component(b).ID},
			Titles: [2]string{p.called(a), p.called(b)}, Volume: x.Volume, Depth: x.Depth, At: x.At, Verdict: report.Out,
			What: fmt.Sprintf("%s and %s are in one another: they share %.4g mm³, about %s deep", p.called(a), p.called(b),
				x.Volume, quantity.MeasuredFormat(p.ex.LengthUnit()).Length(x.Depth))}
		if x.Kind == clash.Ask {
			c.Verdict, c.What = report.Ask, x.What
		} else if c.ChargedIn, err = p.behind(ctx, x, a, b); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, nil
}

// inBoth tells whether the reference has a collision of the same two components, of about the same size.
func (p *placement) inBoth(known []clash.Pair, x *clash.Pair, a, b int) bool {
	ia, ib := p.component(a).ID, p.component(b).ID
	for _, k := range known {
		if (k.A == ia && k.B == ib || k.A == ib && k.B == ia) && k.Kind == x.Kind {
			return x.Volume <= 1.05*k.Volume
		}
	}
	return false
}

// behind tells where a collision is charged that follows from something else: from a component that is displaced, or
// from a part that is not as it should be, with the reference's part in whose place there would be none.
func (p *placement) behind(ctx context.Context, x clash.Pair, a, b int) (string, error) {
	switch {
	case p.spoilt(a) || p.spoilt(b):
		return inParts, nil
	case p.displaced[a] || p.displaced[b]:
		return inPlacement, nil
	}
	if p.same(a) && p.same(b) {
		return "", nil
	}
	var list []clash.Placed
	to := p.asInReference()
	for _, c := range []int{a, b} {
		id := p.component(c).ID
		list = append(list, clash.Placed{ID: id, Title: p.title(c), Pose: p.way[c].Pose.Then(to), Shape: p.parts[c].Shape,
			Solid: p.Made[p.component(c).Part].Solid})
	}
	pairs, err := p.looker().All(ctx, list, func(float64) {})
	if err != nil {
		return "", err
	}
	for _, y := range pairs {
		if y.Kind == clash.Collision && y.Volume > 0.5*x.Volume {
			return "", nil
		}
	}
	return inParts, nil
}

// characteristics judges those of the whole.
func (p *placement) characteristics(ctx context.Context, collisions []report.Collision,
	mobility *report.Mobility, joints []report.Joint) ([]report.Characteristic, error) {
	out := []report.Characteristic{}
	if len(p.ex.Assembly.Characteristics) == 0 {
		return out, nil
	}
	ref := p.ofReference(ctx)
	att, err := p.standing(ctx, collisions, mobility)
	if err != nil {
		return nil, err
	}
	for i := range p.ex.Assembly.Characteristics {
		c := &p.ex.Assembly.Characteristics[i]
		kind := c.Declared()
		row := report.Characteristic{ID: c.ID, Balloon: c.Balloon, Kind: c.Kind, Label: c.Label, Weight: c.Weighs(),
			Places: []report.Place{}}
		nominal, err := 0.0, error(nil)
		if !kind.Zero {
			nominal, err = kind.Measure(ref, &c.About)
		}
		if err != nil {
			return nil, fmt.Errorf("balloon %d, %s, on the reference: %w", c.Balloon, c.Label, err)
		}
		stated, err := p.ex.Asked(c, nominal)
		if err != nil {
			return nil, err
		}
		row.Nominal, row.NominalText = stated.Value, stated.Text
		row.Lower, row.Upper, row.LimitsText = stated.Lower, stated.Upper, stated.Limits
		place := report.Place{}
		v, err := kind.Measure(att, &c.About)
		var unsettled *requirement.Unsettled
		switch {
		case errors.As(err, &unsettled):
			row.Verdict, row.Reason = report.Ask, unsettled.What
		case err != nil:
			row.Verdict, row.Reason = report.NotFound, err.Error()
		default:
			dev := v - row.Nominal
			row.Measured, row.Deviation, place.Measured = &v, &dev, &v
			row.MeasuredText, row.DeviationText = stated.Write(v), stated.Write(dev)
			row.Verdict = report.Out
			if v >= row.Lower-1e-9 && v <= row.Upper+1e-9 {
				row.Verdict = report.In
			}
		}
		if row.Verdict != report.In && row.Verdict != report.Ask {
			row.ChargedIn = p.chargedIn(c, collisions, joints)
		}
		place.Verdict = row.Verdict
		row.Places = append(row.Places, place)
		out = append(out, inDegrees(row, kind.Dim))
	}
	return out, nil
}

// chargedIn is where what is behind a characteristic of the whole counts: with the parts that it hangs on, or with how
// they are placed.
func (p *placement) chargedIn(q *exercise.Requirement, collisions []report.Collision, joints []report.Joint) string {
	a := &q.About
	on := func(c int) string {
		switch {
		case !p.there(c) || !p.same(c):
			return inParts
		case p.displaced[c]:
			return inPlacement
		}
		return ""
	}
	if a.Item != "" {
		return inParts
	}
	for _, r := range a.Of {
		if in := on(p.number[r.Component]); in != "" {
			return in
		}
	}
	if len(a.Of) > 0 {
		return ""
	}
	for c := range p.of {
		if in := on(c); in != "" {
			return in
		}
	}
	for _, x := range collisions {
		if x.ChargedIn != "" {
			return x.ChargedIn
		}
	}
	if q.Kind == "interference" && len(collisions) > 0 {
		return inMotion // with the collisions themselves
	}
	if q.Kind == "mobility" && slices.ContainsFunc(joints, func(j report.Joint) bool { return j.Verdict == report.Out }) {
		return inJoints // with the joint that is to blame
	}
	return ""
}

// inDegrees writes the figures of an angle in degrees, as reports have them.
func inDegrees(c report.Characteristic, dim quantity.Dim) report.Characteristic {
	if dim != quantity.Angle {
		return c
	}
	deg := func(v float64) float64 { return v / quantity.Degree.Factor }
	c.Nominal, c.Lower, c.Upper = deg(c.Nominal), deg(c.Lower), deg(c.Upper)
	for _, v := range []**float64{&c.Measured, &c.Deviation} {
		if *v != nil {
			x := deg(**v)
			*v = &x
		}
	}
	for i := range c.Places {
		c.Places[i].Measured = c.Measured
	}
	return c
}
