package bare

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
)

// task is a model beside the exercise that it is handed in to.
type task struct {
	model
	ex     *exercise.Exercise
	ref    check.Reference
	limits map[string][2]float64 // by characteristic: the smallest and the largest value that is in
}

func tasks() ([]*task, error) {
	var out []*task
	for _, m := range models() {
		b, err := demo.Bundle(m.exercise)
		if err != nil {
			return nil, err
		}
		t := &task{model: m, ex: b.Parsed, limits: map[string][2]float64{}}
		if t.ref, err = documents.ReadReference(b.Reference); err != nil {
			return nil, err
		}
		if t.ref.Atlas, err = documents.ReadAtlas(b.Atlas, b.Parsed, t.ref.Document); err != nil {
			return nil, err
		}
		for id, v := range m.truth(m.right()) {
			c := t.ex.Characteristic(id)
			if c == nil {
				return nil, fmt.Errorf("%s has no characteristic %s", m.exercise, id)
			}
			minus, plus, err := t.ex.Limits(c, t.ex.StateOf(c.Declared(), v))
			if err != nil {
				return nil, err
			}
			t.limits[id] = [2]float64{v - minus, v + plus}
		}
		out = append(out, t)
	}
	return out, nil
}

// right has all sizes in the middle of their limits, and no change.
func (m *model) right() variant {
	v := variant{size: map[string]float64{}}
	for _, z := range m.sizes {
		v.size[z.name] = z.value
	}
	return v
}

// fault is one thing that is done wrong in an attempt: a size or a change.
type fault struct {
	kind  string
	size  *size
	value float64
	*change
}

// of are the features that it is a fault of.
func (f *fault) of() string {
	if f.size != nil {
		return f.size.of
	}
	return f.change.of
}

func (f *fault) String() string {
	if f.size != nil {
		return fmt.Sprintf("%s %.4g", f.size.name, f.value)
	}
	return f.name
}

// attempt is one made attempt with what is true of it.
type attempt struct {
	task   *task
	kind   string
	faults []*fault
	v      variant
	att    check.Attempt
	moved  solid.Transform
	pieces bool            // handed in as touching halves or copies: the number of solids is not the sheet's
	in     map[string]bool // absent where nothing is said
}

func (a *attempt) String() string {
	var w []string
	for _, f := range a.faults {
		w = append(w, f.String())
	}
	return fmt.Sprintf("%s, %s (%s)", a.task.exercise, a.kind, strings.Join(w, "; "))
}

// maker makes attempts of one seed.
type maker struct {
	k   solid.Kernel
	rng *rand.Rand
}

// with is an attempt with faults in it.
func (t *task) with(kind string, faults []*fault) *attempt {
	a := &attempt{task: t, kind: kind, faults: slices.Clone(faults), v: t.right(), in: map[string]bool{}}
	for _, f := range faults {
		if f.size != nil {
			a.v.size[f.size.name] = f.value
		} else {
			a.v.did = append(a.v.did, f.name)
		}
	}
	for id, v := range t.truth(a.v) {
		a.in[id] = v >= t.limits[id][0]-1e-9 && v <= t.limits[id][1]+1e-9
	}
	for _, f := range faults {
		if f.change == nil {
			continue
		}
		for _, id := range strings.Fields(f.out) {
			a.in[id] = false
		}
		for _, id := range strings.Fields(f.open) {
			delete(a.in, id)
		}
	}
	return a
}

// sized is a size with a wrong value.
func (m *maker) sized(t *task) *fault {
	z := &t.sizes[m.rng.IntN(len(t.sizes))]
	return &fault{kind: "size", size: z, value: z.value * z.factors[m.rng.IntN(len(z.factors))]}
}

// near is a size at a share of its limit, to either side: below one it is in, above one out.
func (m *maker) near(t *task, share float64) *fault {
	for {
		z := &t.sizes[m.rng.IntN(len(t.sizes))]
		id := strings.Fields(z.states)[0]
		l := t.limits[id]
		nominal := t.truth(t.right())[id]
		var off float64
		if m.rng.IntN(2) == 0 {
			off = (l[1] - nominal) * share
		} else {
			off = (l[0] - nominal) * share
		}
		if math.Abs(off) > 1e-6 {
			return &fault{kind: "size", size: z, value: z.value + off}
		}
	}
}

// changed is a change of a kind; nil where the part has none.
func (m *maker) changed(t *task, kind string) *fault {
	var list []*change
	for i := range t.changes {
		if t.changes[i].kind == kind {
			list = append(list, &t.changes[i])
		}
	}
	if len(list) == 0 {
		return nil
	}
	return &fault{kind: kind, change: list[m.rng.IntN(len(list))]}
}

// any is a size or a change, sizes as often as all changes.
func (m *maker) any(t *task) *fault {
	if m.rng.IntN(2) == 0 {
		return m.sized(t)
	}
	c := &t.changes[m.rng.IntN(len(t.changes))]
	return &fault{kind: c.kind, change: c}
}

// apart tells whether a fault shows beside others: it is at other features, and other characteristics
// show it.
func apart(list []*fault, f *fault) bool {
	shows := func(f *fault) []string {
		if f.size != nil {
			return strings.Fields(f.size.states)
		}
		return strings.Fields(f.out + " " + f.open)
	}
	for _, o := range list {
		for _, of := range strings.Fields(o.of()) {
			if slices.Contains(strings.Fields(f.of()), of) {
				return false
			}
		}
		for _, id := range shows(o) {
			if slices.Contains(shows(f), id) {
				return false
			}
		}
	}
	return true
}

// several are faults that show beside one another; nil where chance gave none.
func (m *maker) several(t *task, n int) []*fault {
	var out []*fault
	for range 40 {
		if f := m.any(t); apart(out, f) {
			if out = append(out, f); len(out) == n {
				return out
			}
		}
	}
	return nil
}

var errNone = errors.New("there is no such part")

// made makes the solid of an attempt and writes it as a file: moved, and in some other form where its kind
// says so.
func (m *maker) made(ctx context.Context, a *attempt) error {
	s := &shop{k: m.k}
	body := a.task.build(s, a.v)
	if a.kind != "right, split" && (a.kind != "right" || m.rng.IntN(2) == 0) {
		body = s.tidy(body)
	}
	if s.err != nil || m.k.Check(body) != nil || body.Solids() != 1 {
		return errNone
	}
	box, err := m.k.Bounds(body)
	if err != nil {
		return err
	}
	var beside solid.Shape
	if a.kind == "right, split" || a.kind == "right, halves" {
		n := solid.Vec{}
		n[m.rng.IntN(2)] = 1
		mid := box.Min.Add(box.Max).Scale(0.5).Add(n.Scale((m.rng.Float64() - 0.5) * 0.2 * box.Diagonal()))
		far := 2 * box.Diagonal()
		f := solid.Plane(mid, n)
		tool := s.prism(f, rectangle(0, 0, far, far, 0, false), far)
		one := s.try(func() (solid.Shape, solid.History, error) {
			return m.k.Boolean(solid.Intersection, body, []solid.Shape{tool})
		})
		two := s.cut(body, tool)
		if a.kind == "right, split" {
			body = s.union(one, two)
		} else {
			body, beside = one, two
			a.pieces, a.in["one"] = true, false
		}
		// A half in two pieces would be written as an assembly, which is no part.
		if s.err != nil || beside != nil && (body.Solids() != 1 || beside.Solids() != 1) {
			return errNone
		}
	}
	a.moved = a.motion(m)
	move := a.moved
	list := []solid.Titled{{Shape: s.moved(body, move), Name: "attempt"}}
	if beside != nil {
		list = append(list, solid.Titled{Shape: s.moved(beside, move), Name: "its other half"})
	}
	if s.err != nil {
		return errNone
	}
	data, err := m.k.WriteSTEP(list, "attempt", solid.AP214)
	a.att = check.Attempt{Name: "attempt.step", STEP: data}
	return err
}

// motion is how an attempt is moved: into an awkward pose, and as an image or in another unit where its kind
// says so.
func (a *attempt) motion(m *maker) solid.Transform {
	move := m.pose()
	switch a.kind {
	case "mirror image":
		move = solid.Reflection(solid.Vec{}, solid.Vec{0.3, -1, 0.4}.Unit()).Then(move)
	case "wrong unit":
		f := []float64{25.4, 1 / 25.4, 10, 0.1}[m.rng.IntN(4)]
		for i := range 3 {
			move.M[i] = move.M[i].Scale(f)
		}
		for id := range a.in {
			kind := a.task.ex.Characteristic(id).Declared()
			if kind.Dim == characteristic.Of("distance").Dim && !kind.Zero() { // nothing is nothing in every unit
				a.in[id] = false
			}
		}
	}
	return move
}

// pose is an awkward one.
func (m *maker) pose() solid.Transform {
	axis := solid.Vec{m.rng.NormFloat64(), m.rng.NormFloat64(), m.rng.NormFloat64()}
	return solid.Rotation(solid.Vec{}, axis, m.rng.Float64()*2*math.Pi).
		Then(solid.Translation(solid.Vec{m.rng.NormFloat64() * 80, m.rng.NormFloat64() * 80, 30}))
}

// kinds of attempts with their shares.
var kinds = []struct {
	name  string
	share int
}{{"right", 2}, {"right, split", 1}, {"right, halves", 1}, {"mirror image", 1}, {"wrong unit", 1},
	{"within the limits", 3},
	{"just outside", 2}, {"size", 6}, {"feature", 4}, {"count", 3}, {"side", 4}, {"place", 3}, {"form", 4},
	{"two", 4}, {"three", 2}}

// faultsOf are what an attempt of a kind has wrong.
func (m *maker) faultsOf(t *task, kind string) ([]*fault, bool) {
	switch kind {
	case "right", "right, split", "right, halves", "mirror image", "wrong unit":
		return nil, true
	case "within the limits":
		var out []*fault
		for range 1 + m.rng.IntN(3) {
			f := m.near(t, 0.5+0.45*m.rng.Float64())
			if !slices.ContainsFunc(out, func(o *fault) bool { return o.size == f.size }) {
				out = append(out, f)
			}
		}
		return out, true
	case "just outside":
		return []*fault{m.near(t, 1.1+0.9*m.rng.Float64())}, true
	case "size":
		return []*fault{m.sized(t)}, true
	case "two", "three":
		list := m.several(t, pick(kind == "two", 2, 3))
		return list, list != nil
	}
	f := m.changed(t, kind)
	return []*fault{f}, f != nil
}

// kind is one by chance, by its share.
func (m *maker) kind() string {
	all := 0
	for _, x := range kinds {
		all += x.share
	}
	n := m.rng.IntN(all)
	for _, x := range kinds {
		if n < x.share {
			return x.name
		}
		n -= x.share
	}
	return kinds[0].name
}
