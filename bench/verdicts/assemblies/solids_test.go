package assemblies

import (
	"context"
	"math"
	"math/rand/v2"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// works is an attempt that is made of bare solids: boxes and cylinders where they stand, by figures that are worked out
// here and nowhere else.
type works struct {
	list []work
	off  map[string]float64 // sizes that are not as they should be
	err  error
	rng  *rand.Rand
}

// work is a solid of it: the component of the reference that it is, and the axis on which it is joined.
type work struct {
	id    string
	shape solid.Shape
	at    solid.Vec
	axis  solid.Vec
	leaf  bool // nothing is joined to it but what holds it
	same  bool // it looks the same from the other side
	hand  bool // its mirror image is another part
}

// size is a size of the attempt.
func (w *works) size(name string, v float64) float64 {
	if f, ok := w.off[name]; ok {
		return v * f
	}
	return v
}

func (w *works) put(x work) { w.list = append(w.list, x) }

// box is a block about a middle, of sizes along the axes, with its lowest face at z.
func (w *works) box(x, y, z, long, wide, high float64) solid.Shape {
	k := occ.Kernel{}
	c := [][2]float64{{-long / 2, -wide / 2}, {long / 2, -wide / 2}, {long / 2, wide / 2}, {-long / 2, wide / 2}}
	var loop []solid.Segment
	for i, a := range c {
		loop = append(loop, solid.Segment{Kind: "line", A: a, B: c[(i+1)%4], Forward: true})
	}
	return w.prism(k, loop, solid.Vec{x, y, z}, high)
}

// rod is a cylinder along z.
func (w *works) rod(x, y, z, diameter, high float64) solid.Shape {
	loop := []solid.Segment{{Kind: "circle", Radius: diameter / 2, Lo: 0, Hi: 2 * math.Pi, Forward: true}}
	return w.prism(occ.Kernel{}, loop, solid.Vec{x, y, z}, high)
}

func (w *works) prism(k occ.Kernel, loop []solid.Segment, at solid.Vec, high float64) solid.Shape {
	frame := solid.World
	frame.O = at
	out, _, err := k.Prism(solid.Profile{Frame: frame, Loops: [][]solid.Segment{loop}}, solid.Vec{0, 0, high})
	if err != nil && w.err == nil {
		w.err = err
	}
	return out
}

func (w *works) all(op solid.Operation, a solid.Shape, tools ...solid.Shape) solid.Shape {
	if w.err != nil {
		return a
	}
	out, _, err := occ.Kernel{}.Boolean(op, a, tools)
	if err == nil {
		out, _, _, err = occ.Kernel{}.Simplify(out)
	}
	if err != nil && w.err == nil {
		w.err = err
	}
	return out
}

func (w *works) less(a solid.Shape, tools ...solid.Shape) solid.Shape {
	return w.all(solid.Difference, a, tools...)
}

func (w *works) plus(a solid.Shape, tools ...solid.Shape) solid.Shape {
	return w.all(solid.Union, a, tools...)
}

// turned is a solid turned about an axis along z.
func (w *works) turned(s solid.Shape, x, y, by float64) solid.Shape {
	return w.moved(s, solid.Rotation(solid.Vec{x, y, 0}, solid.Vec{0, 0, 1}, by))
}

func (w *works) moved(s solid.Shape, t solid.Transform) solid.Shape {
	if w.err != nil {
		return s
	}
	out, _, err := occ.Kernel{}.Transform(s, t)
	if err != nil && w.err == nil {
		w.err = err
	}
	return out
}

var up = solid.Vec{0, 0, 1}

// tackle is the tackle joint: a fork and an eye on a pin with its collar.
func tackle(r *rand.Rand) *works {
	w := &works{rng: r}
	return w
}

func (w *works) tackle() {
	gap, cheek := 16.0, w.size("1 cheek", 8)
	bore := w.size("1 bore", 12)
	fork := w.less(w.box(-15, 0, -gap/2-cheek, 62, 32, gap+2*cheek), w.box(1, 0, -gap/2, 38, 40, gap),
		w.rod(0, 0, -30, bore, 60))
	w.put(work{id: "c1", shape: fork, axis: up})
	turn := w.rng.Float64()*2 - 1
	// The eye is as thick as the gap less one, about the middle of the gap.
	eye := w.plus(w.rod(0, 0, -7.5, w.size("2 head", 30), 15), w.box(35, 0, -7.5, 70, 18, 15))
	eye = w.less(eye, w.rod(0, 0, -30, w.size("2 bore", 12), 60))
	w.put(work{id: "c2", shape: w.turned(eye, 0, 0, turn), axis: up, leaf: true, same: true})
	top := gap/2 + cheek
	long := w.size("3 length", 42)
	pin := w.plus(w.rod(0, 0, top, w.size("3 head", 18), 5), w.rod(0, 0, top-long, 12, long))
	w.put(work{id: "c3", shape: pin, axis: up})
	end := top - long
	collar := w.less(w.rod(0, 0, end+4, w.size("4 outer", 20), 6), w.rod(0, 0, end-10, 12, 30))
	w.put(work{id: "c4", shape: collar, axis: up, leaf: true, same: true, at: solid.Vec{0, 0, end}})
}

// paddle is the paddle lift: a crank that swings a lever by a pin in its slot.
func paddle(r *rand.Rand) *works { return &works{rng: r} }

func (w *works) paddle() {
	apart := w.size("1 apart", 100)
	frame := w.plus(w.box(0, 0, 0, 200, 60, w.size("1 thick", 10)), w.rod(-apart/2, 0, 5, 16, 13),
		w.rod(apart/2, 0, 5, w.size("1 shoulder", 28), 15), w.rod(apart/2, 0, 5, 16, 23))
	if _, ok := w.off["1 thick"]; ok {
		w.err = errNot // what stands on the plate would have to go with it
	}
	frame = w.less(frame, w.rod(-85, 18, -5, 9, 40), w.rod(80, -20, -5, 9, 40))
	w.put(work{id: "c1", shape: frame, axis: up, hand: true})
	angle := w.rng.Float64() * 2 * math.Pi
	radius := w.size("2 radius", 30)
	crank := w.less(w.rod(-apart/2, 0, 10, w.size("2 disc", 80), 8), w.rod(-apart/2, 0, 0, 16, 40),
		w.rod(-apart/2+radius, 0, 0, 10, 40))
	w.put(work{id: "c2", shape: w.turned(crank, -apart/2, 0, angle), axis: up, at: solid.Vec{-apart / 2, 0, 10}})
	x, y := -apart/2+radius*math.Cos(angle), radius*math.Sin(angle)
	w.put(work{id: "c3", shape: w.rod(x, y, 10, 10, w.size("3 length", 18)), axis: up, at: solid.Vec{x, y, 10},
		same: true})
	// The lever lies from its stud towards the pin.
	swing := math.Atan2(y, x-apart/2)
	at := apart / 2
	lever := w.less(w.box(at+70, 0, 20, w.size("4 long", 180), w.size("4 wide", 30), 8), w.rod(at, 0, 0, 16, 40),
		w.box(at+100, 0, 0, 90, 10, 40), w.rod(at+152, 0, 0, w.size("4 link", 8), 40))
	w.put(work{id: "c4", shape: w.turned(lever, at, 0, swing), axis: up, at: solid.Vec{at, 0, 20}, leaf: true, same: true})
}

// block is the lifting block: two cheeks, held apart by bushes on bolts with ring nuts.
func block(r *rand.Rand) *works { return &works{rng: r} }

func (w *works) block() {
	places := [][2]float64{{40, 5}, {-25, 30}, {-30, -20}}
	cheek := func(z float64) solid.Shape {
		s := w.box(0, 0, z, w.size("1 long", 120), 90, 6)
		for i, p := range places {
			x := p[0]
			if i == 0 {
				x = w.size("1 place", x)
			}
			s = w.less(s, w.rod(x, p[1], z-10, w.size("1 hole", 12), 30))
		}
		return s
	}
	w.put(work{id: "c1", shape: cheek(0), axis: up})
	length := w.size("2 length", 30)
	if w.off["2 length"] != 0 {
		w.err = errNot // bushes of two lengths hold no plate
	}
	w.put(work{id: "c2", shape: cheek(6 + length), axis: up})
	for i, p := range places {
		n := string(rune('1' + i))
		outer := w.size("2 outer", 22)
		if i == 2 {
			outer = w.size("3 outer", 26)
		}
		w.put(work{id: "b" + n, shape: w.less(w.rod(p[0], p[1], 6, outer, length), w.rod(p[0], p[1], 0, 12, 60)),
			axis: up, at: solid.Vec{p[0], p[1], 6}, same: true, leaf: i > 0})
		w.put(work{id: "s" + n, shape: w.plus(w.rod(p[0], p[1], -8, w.size("4 head", 20), 8),
			w.rod(p[0], p[1], -1, 12, w.size("4 length", 54)+1)), axis: up, at: solid.Vec{p[0], p[1], 0}, leaf: i != 1})
		w.put(work{id: "n" + n, shape: w.less(w.rod(p[0], p[1], 12+length, w.size("5 outer", 18), 10),
			w.rod(p[0], p[1], 0, 12, 80)), axis: up, at: solid.Vec{p[0], p[1], 42}, leaf: true, same: true})
	}
}

// drawer is the curve drawer: two sliders in crossed grooves carry a bar whose end draws an ellipse. It is in inches.
func drawer(r *rand.Rand) *works { return &works{rng: r} }

func (w *works) drawer() {
	const in = 25.4
	base := w.less(w.box(0, 0, 0, 7*in, 7*in, w.size("1 thick", 0.75*in)), w.box(0, 0, 0.5*in, 8*in, 0.5*in, in),
		w.box(0, 0, 0.5*in, 0.5*in, 8*in, in))
	if w.off["1 thick"] != 0 {
		w.err = errNot // the grooves would not be as deep
	}
	w.put(work{id: "c1", shape: base, axis: up})
	angle := w.rng.Float64() * 2 * math.Pi
	near := w.size("3 near", 1.5*in)
	x, y := -near*math.Cos(angle), -near*math.Sin(angle)
	// The first slider is at (x, 0) and the second at (0, y'): the bar leads from the one to the other at the angle.
	slider := func(x, y float64) solid.Shape {
		return w.plus(w.box(x, y, 0.5*in, w.size("2 long", in), 0.5*in, w.size("2 high", 0.375*in)),
			w.rod(x, y, 0.7*in, w.size("2 stud", 0.25*in), 0.425*in))
	}
	if w.off["2 high"] != 0 {
		w.err = errNot // the stud would not be as long
	}
	first, second := solid.Vec{x, 0, 0}, solid.Vec{0, near*math.Sin(angle) + 0*y, 0}
	w.put(work{id: "c2", shape: slider(first[0], first[1]), axis: up})
	w.put(work{id: "c3", shape: w.turned(slider(second[0], second[1]), second[0], second[1], math.Pi/2), axis: up})
	bar := w.less(w.box(1.5*in, 0, 0.875*in, w.size("3 long", 4*in), 0.75*in, 0.25*in), w.rod(0, 0, 0, 0.25*in, 60),
		w.rod(near, 0, 0, 0.25*in, 60), w.rod(w.size("3 far", 3*in), 0, 0, 0.125*in, 60))
	bar = w.turned(bar, 0, 0, math.Atan2(second[1]-first[1], second[0]-first[0]))
	w.put(work{id: "c4", shape: w.moved(bar, solid.Translation(first)), axis: up, leaf: true, same: true,
		at: first.Add(solid.Vec{0, 0, 0.875 * in})})
}

// sizesOf are the sizes of each assembly that can be made wrong, by the number of the item and a name.
func sizesOf(name string) []string {
	return map[string][]string{
		"tackle-joint":  {"1 bore", "2 head", "2 bore", "3 head", "3 length", "4 outer"},
		"paddle-lift":   {"1 apart", "1 shoulder", "2 radius", "2 disc", "3 length", "4 long", "4 wide", "4 link"},
		"lifting-block": {"1 long", "1 place", "1 hole", "2 outer", "3 outer", "4 head", "4 length", "5 outer"},
		"curve-drawer":  {"2 long", "2 stud", "3 near", "3 long", "3 far"},
		"linkage":       {"1 wide", "2 wide", "3 wide", "4 wide"},
		"flanges":       {"1 outer", "1 bore"},
	}[name]
}

// build builds the attempt.
func (w *works) build(name string) error {
	map[string]func(){"tackle-joint": w.tackle, "paddle-lift": w.paddle, "lifting-block": w.block,
		"curve-drawer": w.drawer, "linkage": func() { w.linkage(1) }, "flanges": w.flanges}[name]()
	return w.err
}

// file is the attempt as a file of solids.
func (w *works) file(c *corpus) ([]byte, error) {
	if w.err != nil {
		return nil, w.err
	}
	var list []solid.Shape
	for _, x := range w.list {
		list = append(list, x.shape)
	}
	return c.written(list)
}

// pick picks a work for which something can be done.
func (w *works) pick(ok func(x *work) bool) (*work, error) {
	var list []*work
	for i := range w.list {
		if ok(&w.list[i]) {
			list = append(list, &w.list[i])
		}
	}
	if len(list) == 0 {
		return nil, errNot
	}
	return list[w.rng.IntN(len(list))], nil
}

// ofSolids are the kinds that are made of bare solids.
func ofSolids() []kindOfAttempt {
	bare := func(name string, change func(d *draft, w *works) (*attempt, error)) kindOfAttempt {
		return kindOfAttempt{"solids: " + name, func(_ context.Context, c *corpus, t *tasked) (*attempt, error) {
			w := t.bare(c.rng)
			a, err := change(c.begin(t), w)
			if err != nil {
				return nil, err
			}
			a.name = "attempt.step"
			a.file, err = w.file(c)
			return a, err
		}}
	}
	built := func(name string, change func(d *draft, w *works) (*attempt, error)) kindOfAttempt {
		return bare(name, func(d *draft, w *works) (*attempt, error) {
			if err := w.build(d.t.name); err != nil {
				return nil, err
			}
			return change(d, w)
		})
	}
	return []kindOfAttempt{
		built("right", func(*draft, *works) (*attempt, error) { return &attempt{}, nil }),
		built("missing", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.id != "c1" && len(w.list) > 2 })
			if err != nil {
				return nil, err
			}
			id := x.id
			w.list = slices.DeleteFunc(w.list, func(x work) bool { return x.id == id })
			return d.gone(id), nil
		}),
		built("twice", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(*work) bool { return true })
			if err != nil {
				return nil, err
			}
			w.put(*x)
			n := d.number(x.id)
			return &attempt{first: []string{"two in one place"}, item: n, wrong: []string{"item " + n}}, nil
		}),
		built("shifted", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.leaf && x.id != "c2" })
			if err != nil {
				return nil, err
			}
			by := []float64{6, 8, -10, 13.5}[w.rng.IntN(4)]
			x.shape = w.moved(x.shape, solid.Translation(x.axis.Scale(by)))
			return d.out(x.id, "shifted", "shifted by a thickness", "offset of the wrong sign"), nil
		}),
		built("off the axis", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.leaf })
			if err != nil {
				return nil, err
			}
			x.shape = w.moved(x.shape, solid.Translation(solid.Vec{3, 1, 0}))
			return d.out(x.id, "off the axis", "displaced"), nil
		}),
		built("wrong way round", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.leaf && !x.same })
			if err != nil {
				return nil, err
			}
			x.shape = w.moved(x.shape, solid.Rotation(x.at, solid.Vec{1, 0, 0}, math.Pi))
			return d.out(x.id, "wrong way round", "wrong side"), nil
		}),
		built("mirrored", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.hand })
			if err != nil {
				return nil, err
			}
			x.shape = w.moved(x.shape, solid.Reflection(solid.Vec{}, solid.Vec{0, 1, 0}))
			a := d.out(x.id, "part", "mirror")
			a.wrong = []string{"item " + a.item}
			return a, nil
		}),
		built("in inches", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.id != "c1" })
			if err != nil {
				return nil, err
			}
			t := solid.Identity
			for k := range t.M {
				t.M[k] = t.M[k].Scale(25.4)
			}
			t.T = x.at.Scale(1 - 25.4)
			x.shape = w.moved(x.shape, t)
			a := d.out(x.id, "part")
			a.wrong = []string{"item " + a.item}
			return a, nil
		}),
		built("changed places", func(d *draft, w *works) (*attempt, error) {
			if d.t.name != "lifting-block" {
				return nil, errNot
			}
			at := func(id string) int { return slices.IndexFunc(w.list, func(x work) bool { return x.id == id }) }
			a, b := &w.list[at("b1")], &w.list[at("b3")]
			by := b.at.Sub(a.at)
			a.shape, b.shape = w.moved(a.shape, solid.Translation(by)), w.moved(b.shape, solid.Translation(by.Scale(-1)))
			return &attempt{first: []string{"changed places", "wrong part"}, may: either(
				touching(d.t.read.Document, "b1", "b2", "b3"), prefixed("item 2", "item 3", "whole quantity"))}, nil
		}),
		built("holes out of line", func(d *draft, w *works) (*attempt, error) {
			// One of two equal plates has a hole elsewhere: it is the plate that is wrong, and the other one is right.
			if d.t.name != "lifting-block" {
				return nil, errNot
			}
			x, err := w.pick(func(x *work) bool { return x.id == "c1" || x.id == "c2" })
			if err != nil {
				return nil, err
			}
			off := &works{rng: w.rng, off: map[string]float64{"1 place": []float64{0.9, 1.05, 1.1}[w.rng.IntN(3)]}}
			if err := off.build(d.t.name); err != nil {
				return nil, err
			}
			x.shape = off.list[slices.IndexFunc(off.list, func(o work) bool { return o.id == x.id })].shape
			return wrongPartOf("part", "1"), nil
		}),
		built("given part drilled", func(d *draft, w *works) (*attempt, error) {
			given := d.t.given()
			x, err := w.pick(func(x *work) bool {
				c, _ := d.t.read.Document.Component(x.id)
				return slices.Contains(given, c.Part)
			})
			if err != nil {
				return nil, err
			}
			b, err := occ.Kernel{}.Bounds(x.shape)
			if err != nil {
				return nil, err
			}
			mid := b.Min.Add(b.Max).Scale(0.5)
			x.shape = w.less(x.shape, w.moved(w.rod(0, 0, -100, 2.5, 200), solid.Rotation(solid.Vec{}, solid.Vec{1, 0, 0},
				math.Pi/2).Then(solid.Translation(solid.Vec{b.Max[0] - 2, 0, mid[2]}))))
			return wrongPartOf("given part altered", d.number(x.id)), w.err
		}),
		bare("size and off the axis", func(d *draft, w *works) (*attempt, error) {
			size := wrongSizeOf(d, w)
			if err := w.build(d.t.name); err != nil {
				return nil, err
			}
			x, err := w.pick(func(x *work) bool { return x.leaf && d.number(x.id) != size.item })
			if err != nil {
				return nil, err
			}
			x.shape = w.moved(x.shape, solid.Translation(solid.Vec{3, 1, 0}))
			out := d.out(x.id, "off the axis", "displaced", "shifted")
			size.second, size.other, size.may = out.first, out.item, either(size.may, out.may)
			return size, nil
		}),
		built("missing and wrong way round", func(d *draft, w *works) (*attempt, error) {
			x, err := w.pick(func(x *work) bool { return x.leaf && !x.same })
			if err != nil {
				return nil, err
			}
			x.shape = w.moved(x.shape, solid.Rotation(x.at, solid.Vec{1, 0, 0}, math.Pi))
			turned := d.out(x.id, "wrong way round", "wrong side")
			id := x.id
			y, err := w.pick(func(y *work) bool { return y.id != "c1" && d.number(y.id) != turned.item && y.leaf })
			if err != nil {
				return nil, err
			}
			gone := d.gone(y.id)
			w.list = slices.DeleteFunc(w.list, func(o work) bool { return o.id == y.id && o.id != id })
			gone.second, gone.other, gone.may = turned.first, turned.item, either(gone.may, turned.may)
			return gone, nil
		}),
		bare("the other way", func(d *draft, w *works) (*attempt, error) {
			if d.t.name != "linkage" {
				return nil, errNot
			}
			w.linkage(-1)
			return otherWay(), w.err
		}),
		built("turned by a pitch", func(d *draft, w *works) (*attempt, error) {
			if d.t.name != "flanges" {
				return nil, errNot
			}
			x := &w.list[1]
			x.shape = w.turned(x.shape, 0, 0, float64(1+w.rng.IntN(5))*math.Pi/3)
			return turnedByAPitch(d), w.err
		}),
		bare("wrong size", func(d *draft, w *works) (*attempt, error) {
			a := wrongSizeOf(d, w)
			return a, w.build(d.t.name)
		}),
	}
}

// wrongSizeOf has a part made with a wrong size when it is built.
func wrongSizeOf(d *draft, w *works) *attempt {
	list := sizesOf(d.t.name)
	name := list[w.rng.IntN(len(list))]
	w.off = map[string]float64{name: []float64{0.9, 1.1, 1.2}[w.rng.IntN(3)]}
	n := name[:1]
	for _, c := range d.t.read.Document.Components {
		if d.number(c.ID) == n && slices.Contains(d.t.given(), c.Part) {
			return wrongPartOf("given part altered", n)
		}
	}
	return wrongPartOf("part", n)
}

// wrongPartOf is an attempt in which a part of an item is wrong, and what follows from that.
func wrongPartOf(first, item string) *attempt {
	return &attempt{first: []string{first}, item: item, wrong: []string{"item " + item}, may: prefixed("placed",
		"mobility", "collision", "motion", "whole path", "whole range", "whole mobility", "whole interference")}
}

// gone is an attempt from which a component is missing.
func (d *draft) gone(id string) *attempt {
	n := d.number(id)
	was, _ := d.t.read.Document.Component(id)
	var alike []string
	for _, c := range d.t.read.Document.Components {
		if c.Part == was.Part {
			alike = append(alike, c.ID)
		}
	}
	return &attempt{first: []string{"missing item"}, item: n, wrong: []string{"item " + n},
		may: either(touching(d.t.read.Document, alike...), prefixed("whole quantity"))}
}

// out is an attempt in which a component is out of place.
func (d *draft) out(id string, first ...string) *attempt {
	return &attempt{first: first, item: d.number(id), may: touching(d.t.read.Document, alikeTo(d.t.read.Document, id)...)}
}

// alikeTo are the components of one part.
func alikeTo(doc *assembly.Document, id string) []string {
	was, _ := doc.Component(id)
	var out []string
	for _, c := range doc.Components {
		if c.Part == was.Part {
			out = append(out, c.ID)
		}
	}
	return out
}
