package verdicts

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// attempt is one made attempt with what is true of it.
type attempt struct {
	task    *task
	kind    string
	att     check.Attempt
	in      map[string]bool // by characteristic: true within limits at all places; absent where it cannot be said
	mirror  bool
	unit    bool
	mistake []fault // what was done wrong
}

// fault is one mistake that was made: a parameter or a step.
type fault struct {
	parameter string
	step      string // its name
	left      bool   // it is left out
	half      bool   // it begins half a pitch off
	words     string
}

// maker makes attempts.
type maker struct {
	k   solid.Kernel
	reb *part.Rebuilder
	rng *rand.Rand
}

type doc = map[string]any

func parse(data []byte) doc {
	var d doc
	if err := json.Unmarshal(data, &d); err != nil {
		panic(err) // the corpus' own
	}
	return d
}

func steps(d doc) []doc {
	var out []doc
	for _, s := range d["steps"].([]any) {
		out = append(out, s.(doc))
	}
	return out
}

func title(s doc) string {
	if n, ok := s["name"].(string); ok && n != "" {
		return n
	}
	return s["id"].(string)
}

// wrongValue gives a driving parameter another value: a factor, twice, half, or a bit.
func (m *maker) wrongValue(d doc, t *task) (fault, bool) {
	var list []doc
	for _, p := range d["parameters"].([]any) {
		q := p.(doc)
		f, err := quantity.Parse(q["value"].(string))
		if err == nil && len(f.Names()) == 0 && q["wrong"] == nil && strings.ContainsAny(q["value"].(string), "mid") {
			list = append(list, q)
		}
	}
	q := list[m.rng.IntN(len(list))]
	by := []string{"*0.94", "*1.05", "*1.11", "*0.88", "*1.02", "*2", "/2"}[m.rng.IntN(7)]
	q["value"] = "(" + q["value"].(string) + ")" + by
	q["wrong"] = true
	return fault{parameter: q["name"].(string), words: q["name"].(string) + by}, true
}

// leftOut takes a step away with what stands on it.
func (m *maker) leftOut(d doc, t *task) (fault, bool) {
	var list []int
	all := steps(d)
	for i, s := range all {
		switch s["kind"] {
		case "fillet", "chamfer", "hole", "rib", "circular-pattern":
			list = append(list, i)
		case "extrude":
			if s["result"] == "cut" {
				list = append(list, i)
			}
		}
	}
	if len(list) == 0 {
		return fault{}, false
	}
	at := list[m.rng.IntN(len(list))]
	id := all[at]["id"].(string)
	gone := map[string]bool{id: true}
	var keep []any
	for _, s := range all {
		for _, of := range asList(s["of"]) {
			gone[s["id"].(string)] = gone[s["id"].(string)] || gone[of.(string)]
		}
		if !gone[s["id"].(string)] {
			keep = append(keep, s)
		}
	}
	d["steps"] = keep
	return fault{step: title(all[at]), left: true, words: title(all[at]) + " left out"}, true
}

func asList(v any) []any {
	l, _ := v.([]any)
	return l
}

// onePlace forgets one edge or one point of a step.
func (m *maker) onePlace(d doc, t *task) (fault, bool) {
	for range 20 {
		all := steps(d)
		s := all[m.rng.IntN(len(all))]
		for _, key := range []string{"edges", "at"} {
			if l := asList(s[key]); len(l) > 1 && s["kind"] != "point-pattern" {
				i := m.rng.IntN(len(l))
				s[key] = append(slices.Clone(l[:i]), l[i+1:]...)
				return fault{step: title(s), words: "one place of " + title(s)}, true
			}
		}
	}
	return fault{}, false
}

// otherWay turns an extrusion round, or makes a total of one side.
func (m *maker) otherWay(d doc, t *task) (fault, bool) {
	for range 20 {
		all := steps(d)
		i := m.rng.IntN(len(all))
		s := all[i]
		x, ok := s["extent"].(doc)
		if s["kind"] != "extrude" || !ok || i < 2 {
			continue
		}
		switch x["kind"] {
		case "one-side":
			s["reverse"] = s["reverse"] != true
			return fault{step: title(s), words: title(s) + " the other way"}, true
		case "symmetric":
			total := x["total"].(string)
			x["total"] = "2*(" + total + ")"
			return fault{step: title(s), parameter: total, words: title(s) + " twice the total"}, true
		}
	}
	return fault{}, false
}

// wrongCount changes the count of a pattern by one.
func (m *maker) wrongCount(d doc, t *task) (fault, bool) {
	for _, s := range steps(d) {
		if s["kind"] == "circular-pattern" {
			s["count"] = "(" + s["count"].(string) + ")" + []string{"-1", "+1"}[m.rng.IntN(2)]
			return fault{step: title(s), words: "count of " + title(s)}, true
		}
	}
	return fault{}, false
}

// build rebuilds a changed document; false where it makes no sound single part.
func (m *maker) build(ctx context.Context, d doc) (*part.Document, *part.Build, bool) {
	for _, p := range d["parameters"].([]any) {
		delete(p.(doc), "wrong")
	}
	data, err := json.Marshal(d)
	if err != nil {
		panic(err)
	}
	pd, err := part.Read(data)
	if err != nil {
		return nil, nil, false
	}
	b, err := m.reb.Rebuild(ctx, pd, nil)
	if err != nil || b.Solid == nil || len(b.Failed()) > 0 || m.k.Check(b.Solid.Shape) != nil {
		return nil, nil, false
	}
	return pd, b, true
}

// truths measures every characteristic by the names of the faces, which the attempt
// shares with the reference.
func (m *maker) truths(t *task, ref *solid.Geometry, b *part.Build) map[string]bool {
	out := map[string]bool{}
	g, err := solid.Describe(m.k, b.Solid.Shape, b.Solid.Names)
	if err != nil {
		return out
	}
	for i := range t.ex.Characteristics {
		c := &t.ex.Characteristics[i]
		if c.Kind == "solids" {
			out[c.ID] = g.Solids == max(1, t.ex.Solids)
			continue
		}
		want, stated, err := check.Nominal(ref, t.ex, c)
		if err != nil {
			continue
		}
		minus, plus, err := t.ex.Limits(c, stated)
		if err != nil {
			continue
		}
		places, err := inspect.Places(g, c)
		if characteristic.Of(c.Kind).Each() {
			want, places = pieced(ref, want), pieced(g, places)
		}
		ok := err == nil && len(places) == len(want)
		for k, p := range places {
			if !ok {
				break
			}
			if len(p) > 1 && len(p[len(p)-1]) != len(want[k][len(want[k])-1]) {
				ok = false // another number of holes around
				break
			}
			v, err := inspect.Measure(g, c, p)
			ok = ok && err == nil && v-stated.Value >= -minus-1e-6 && v-stated.Value <= plus+1e-6
		}
		out[c.ID] = ok
	}
	return out
}

// pieced takes the pieces into which a feature cuts a round face for one place.
func pieced(g *solid.Geometry, places []characteristic.Place) []characteristic.Place {
	var out []characteristic.Place
	for _, p := range places {
		f := g.Faces[p[0][0]]
		if !slices.ContainsFunc(out, func(q characteristic.Place) bool {
			o := g.Faces[q[0][0]]
			return f.Kind == solid.CylinderFace && o.Kind == f.Kind && o.Hollow == f.Hollow && math.Abs(o.Radius-f.Radius) <
				1e-9 && o.Axis.Parallel(f.Axis, 1e-9) && solid.FromAxis(o.Origin, f.Origin, f.Axis).Norm() < 1e-9
		}) {
			out = append(out, p)
		}
	}
	return out
}

// pose is a random motion.
func (m *maker) pose() solid.Transform {
	axis := solid.Vec{m.rng.NormFloat64(), m.rng.NormFloat64(), m.rng.NormFloat64()}
	return solid.Rotation(solid.Vec{}, axis, m.rng.Float64()*2*math.Pi).
		Then(solid.Translation(solid.Vec{m.rng.NormFloat64() * 80, m.rng.NormFloat64() * 80, 30}))
}

// step writes a solid as a STEP file, moved.
func (m *maker) step(s solid.Shape, t solid.Transform) (check.Attempt, error) {
	moved, _, err := m.k.Transform(s, t)
	if err != nil {
		return check.Attempt{}, err
	}
	data, err := m.k.WriteSTEP([]solid.Titled{{Shape: moved, Name: "attempt"}}, "attempt",
		[]solid.Schema{solid.AP214, solid.AP242}[m.rng.IntN(2)])
	return check.Attempt{Name: "attempt.step", STEP: data}, err
}

// split cuts a solid by a plane through it and joins it again, so that faces stay in
// pieces.
func (m *maker) split(s solid.Shape) (solid.Shape, error) {
	box, err := m.k.Bounds(s)
	if err != nil {
		return nil, err
	}
	mid := box.Min.Add(box.Max).Scale(0.5)
	k := m.rng.IntN(3)
	var n solid.Vec
	n[k] = 1
	a, b, err := m.halves(s, mid.Add(n.Scale(0.07*box.Diagonal()*(m.rng.Float64()-0.5))), n, 2*box.Diagonal())
	if err != nil {
		return nil, err
	}
	out, _, err := m.k.Boolean(solid.Union, a, []solid.Shape{b})
	return out, err
}

// halves cuts a solid by the plane through a place; l is more than its size.
func (m *maker) halves(s solid.Shape, at, n solid.Vec, l float64) (front, back solid.Shape, err error) {
	f := solid.Plane(at, n)
	var loop []solid.Segment
	c := [][2]float64{{-l, -l}, {l, -l}, {l, l}, {-l, l}}
	for i := range c {
		loop = append(loop, solid.Segment{Kind: "line", A: c[i], B: c[(i+1)%4]})
	}
	tool, _, err := m.k.Prism(solid.Profile{Frame: f, Loops: [][]solid.Segment{loop}}, f.Z.Scale(l))
	if err != nil {
		return nil, nil, err
	}
	if front, _, err = m.k.Boolean(solid.Intersection, s, []solid.Shape{tool}); err != nil {
		return nil, nil, err
	}
	back, _, err = m.k.Boolean(solid.Difference, s, []solid.Shape{tool})
	return front, back, err
}

// kinds of attempts with their shares.
var kinds = []struct {
	name  string
	share int
}{{"right, as modelled", 1}, {"right, moved STEP", 2}, {"right, split faces", 1}, {"right, another way", 2},
	{"right, splines", 1}, {"right, other file unit", 1}, {"mirror image", 1}, {"wrong unit", 1}, {"one wrong size", 4},
	{"two wrong sizes", 2}, {"three wrong sizes", 1}, {"one mistake", 4}, {"mistake and wrong size", 2},
	{"two mistakes", 2}}

// make makes an attempt of a kind; false where chance gave no such part.
func (m *maker) make(ctx context.Context, t *task, ref *solid.Geometry, kind string) (*attempt, bool) {
	d := parse(t.data)
	a := &attempt{task: t, kind: kind}
	change := func(f func(doc, *task) (fault, bool)) bool {
		x, ok := f(d, t)
		if ok {
			a.mistake = append(a.mistake, x)
		}
		return ok
	}
	mistake := func() bool {
		return change([]func(doc, *task) (fault, bool){m.leftOut, m.onePlace, m.otherWay, m.wrongCount,
			m.halfPitch}[m.rng.IntN(5)])
	}
	sizes := func(n int) bool {
		for range n {
			if !change(m.wrongValue) {
				return false
			}
		}
		return true
	}
	ok := true
	switch kind {
	case "one wrong size":
		ok = sizes(1)
	case "two wrong sizes":
		ok = sizes(2)
	case "three wrong sizes":
		ok = sizes(3)
	case "one mistake":
		ok = mistake()
	case "mistake and wrong size":
		ok = mistake() && sizes(1)
	case "two mistakes":
		if ok = mistake(); ok {
			ok = mistake() && a.mistake[0].step != a.mistake[1].step
		}
	}
	if !ok || undone(d, a.mistake) || m.turnsOnly(ctx, t, ref, a.mistake) {
		return nil, false
	}
	document, b, ok := m.build(ctx, d)
	if !ok {
		return nil, false
	}
	if b.Solid.Shape.Solids() != 1 {
		return nil, false // an attempt in pieces is told as such and not measured
	}
	for _, l := range t.less {
		p, err1 := b.Table.Eval(l[0], quantity.Length)
		q, err2 := b.Table.Eval(l[1], quantity.Length)
		if err1 != nil || err2 != nil || p >= q {
			return nil, false
		}
	}
	a.in = m.truths(t, ref, b)
	// A mistake that changes nothing is none.
	if len(a.mistake) > 0 {
		p, err := m.k.Props(b.Solid.Shape)
		if err != nil {
			return nil, false
		}
		unchanged := math.Abs(p.Volume/ref.Props.Volume-1) < 1e-7 && math.Abs(p.Area/ref.Props.Area-1) < 1e-7
		if unchanged && (kind != "one mistake" || alike(b.Solid.Shape.Faces(), ref.Faces)) {
			return nil, false
		}
	}
	var err error
	move := m.pose()
	switch kind {
	case "right, as modelled":
		a.att = check.Attempt{Name: "attempt.json", Document: document}
		return a, true
	case "mirror image":
		move = solid.Reflection(solid.Vec{}, solid.Vec{0.3, -1, 0.4}.Unit()).Then(move)
		a.mirror = true
		// A part that is its own mirror image is right.
		a.att, err = m.step(b.Solid.Shape, move)
		return a, err == nil
	case "wrong unit":
		f := []float64{25.4, 1 / 25.4, 10, 0.1}[m.rng.IntN(4)]
		for i := range 3 {
			move.M[i] = move.M[i].Scale(f)
		}
		a.unit = true
		for id := range a.in {
			if c := t.ex.Characteristic(id); characteristic.Of(c.Kind).Dim == quantity.Length {
				a.in[id] = false
			}
		}
	case "right, another way":
		s, ok := m.another(ctx, t, b.Solid.Shape)
		if !ok {
			return nil, false
		}
		a.att, err = m.step(s, move)
		return a, err == nil
	case "right, splines":
		s, err := m.k.(occ.Kernel).Splines(b.Solid.Shape)
		if err != nil || m.k.Check(s) != nil {
			return nil, false // the kernel does not convert every surface
		}
		a.att, err = m.step(s, move)
		return a, err == nil
	case "right, other file unit":
		a.att, err = m.otherUnits(b.Solid.Shape, move)
		return a, err == nil
	case "right, split faces":
		s, err := m.split(b.Solid.Shape)
		if err != nil || s.Solids() != 1 {
			return nil, false
		}
		a.att, err = m.step(s, move)
		return a, err == nil
	}
	if len(a.mistake) > 0 && m.rng.IntN(3) == 0 {
		a.att = check.Attempt{Name: "attempt.json", Document: document}
		return a, true
	}
	a.att, err = m.step(b.Solid.Shape, move)
	return a, err == nil
}

// undone tells whether a mistake stands in a step that another one left out.
func undone(d doc, list []fault) bool {
	for _, f := range list {
		gone := !slices.ContainsFunc(steps(d), func(s doc) bool { return title(s) == f.step })
		if f.step != "" && !f.left && gone {
			return true
		}
	}
	return false
}

// turnsOnly tells whether a ring was begun half a pitch off in a part that is the same then, but turned.
func (m *maker) turnsOnly(ctx context.Context, t *task, ref *solid.Geometry, list []fault) bool {
	if !slices.ContainsFunc(list, func(f fault) bool { return f.half }) {
		return false
	}
	d := parse(t.data)
	m.halfPitch(d, t)
	_, b, ok := m.build(ctx, d)
	return ok && alike(b.Solid.Shape.Faces(), ref.Faces)
}

// alike tells whether the middles of faces lie to one another as those of other faces do: no
// motion changes that.
func alike(a, b []solid.Face) bool {
	distances := func(list []solid.Face) []float64 {
		var out []float64
		for i := range list {
			for k := range i {
				out = append(out, list[i].Centroid.Distance(list[k].Centroid))
			}
		}
		slices.Sort(out)
		return out
	}
	return slices.EqualFunc(distances(a), distances(b), func(x, y float64) bool { return math.Abs(x-y) < 1e-5 })
}

func (a *attempt) String() string {
	var w []string
	for _, f := range a.mistake {
		w = append(w, f.words)
	}
	return fmt.Sprintf("%s, %s (%s)", a.task.name, a.kind, strings.Join(w, "; "))
}
