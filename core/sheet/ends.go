package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// What a view shows of itself beside the part: where pieces of it are left out, and where others are taken from it.
const (
	cutOver   = 6.0 // of a cutting line beyond the outline
	cutThick  = 5.0 // of the wide end of a cutting line
	cutCorner = 2.5 // of each wide leg where it goes from one plane to the next
	cutArrow  = 7.0 // of the arrow that shows the line of sight
	letter    = 5.0 // height of the letters of sections and details, larger than the other lettering (ISO 128-3)
	sheetNote = 2.5 // height of the number of the sheet on which a view stands
	breakOver = 2.0 // of a break line beyond the outline
	zigzag    = 1.2 // half of the height of its zigzag
)

// ends draws the limits of the view, and in it the cutting lines and circles of the views that are laid out from it.
func (b *builder) ends(v *view, p *Projection) {
	if c := v.spec.Clip; c != nil {
		at := [2]float64{v.window.origin[0] + c.At[0], v.window.origin[1] + c.At[1]}
		if c.Size == nil {
			b.add(Item{Class: Thin, Kind: "arc", Centre: v.flat(at), Radius: c.Radius * v.scale, Sweep: 2 * math.Pi,
				Width: standards.LineNarrow})
		} else {
			for k := range 2 {
				b.breakLine(v, p, k, at[k]-c.Size[k]/2)
				b.breakLine(v, p, k, at[k]+c.Size[k]/2)
			}
		}
	}
	for _, x := range v.spec.Breaks {
		k := axisOf(x)
		b.breakLine(v, p, k, v.window.origin[k]+x.From)
		b.breakLine(v, p, k, v.window.origin[k]+x.To)
	}
	for _, child := range b.set().Views() {
		if child.Parent != v.spec.ID || child.Letter == "" {
			continue
		}
		q := b.projected.Views[child.ID]
		switch {
		case child.Kind == "detail":
			b.circled(v, &child, v.local(q.Origin))
		case q.whole() && math.Abs(v.frame.Z.Dot(q.Frame.Z)) < 1e-9:
			b.cuttingLine(v, &child, q)
		}
	}
}

// set is the set that the sheet is one of.
func (b *builder) set() exercise.Sheets {
	if b.number < 0 {
		return exercise.Sheets{*b.sheet}
	}
	return b.ex.Sheets
}

// lettered writes the letter of a view that is taken from this one, its middle at the first of some places at which
// nothing runs through it. The number of its sheet stands under it where that is another (common practice, no source).
// It is written once the dimensions are drawn, since there is more room for them than for a letter.
func (b *builder) lettered(child *exercise.View, places ...Point) {
	sheet := b.set().On(child.ID)
	in := b.in
	b.last = append(b.last, func() {
		b.in = in
		var best []Item
		for _, middle := range places {
			texts := []Item{{Class: Label, Kind: "text", Text: child.Letter, Height: letter, Anchor: "middle",
				Points: []Point{middle.sub(Point{0, letter / 2})}}}
			if sheet != max(0, b.number) {
				texts = append(texts, Item{Class: Label, Kind: "text", Text: fmt.Sprintf("sheet %d", sheet+1),
					Height: sheetNote, Anchor: "middle", Points: []Point{middle.sub(Point{0, letter/2 + sheetNote + 1})}})
			}
			free := !slices.ContainsFunc(texts, func(it Item) bool { return !b.isFree(it) })
			if best == nil || free {
				best = texts
			}
			if free {
				break
			}
		}
		for _, it := range best {
			b.add(it)
		}
	})
}

// circled draws the circle of a detail in its parent, with its letter above on the right, or at the next place around
// the circle.
func (b *builder) circled(v *view, child *exercise.View, origin [2]float64) {
	c := child.Clip
	at, r := v.paper([2]float64{origin[0] + c.At[0], origin[1] + c.At[1]}), 0.0
	if r = c.Radius; c.Size != nil {
		r = math.Hypot(c.Size[0], c.Size[1]) / 2
	}
	r *= v.scale
	b.add(Item{Class: Thin, Kind: "arc", Centre: at, Radius: r, Sweep: 2 * math.Pi, Width: standards.LineNarrow})
	half := Point{b.metrics.Width(child.Letter, letter) / 2, letter / 2}
	var places []Point // of the middle of the letter
	for k := range 8 {
		angle := (1 + 2*float64(k) - 7*float64(k/4)) * math.Pi / 4 // the corners first
		places = append(places, at.add(polar(r+1+half.norm(), angle)))
	}
	b.lettered(child, places...)
}

// breakLine draws where a view is broken off, across the outline that the part has there: a narrow line with a zigzag
// (ISO 128-2, type 01.1).
func (b *builder) breakLine(v *view, p *Projection, axis int, at float64) {
	lo, hi := math.Inf(1), math.Inf(-1)
	edge := bound{axis: axis, at: at}
	for _, c := range p.Curves {
		if c.Hidden {
			continue
		}
		see := func(x float64) { lo, hi = math.Min(lo, x), math.Max(hi, x) }
		if c.Kind == "arc" {
			for _, a := range edge.angles(c.Center, c.Radius) {
				if onSweep(c.ViewCurve, a) {
					see([2]float64{c.Center[0] + c.Radius*math.Cos(a), c.Center[1] + c.Radius*math.Sin(a)}[1-axis])
				}
			}
			continue
		}
		for i := 1; i < len(c.Points); i++ {
			a, q := c.Points[i-1], c.Points[i]
			for _, t := range edge.crossings(a, q) {
				if t >= 0 && t <= 1 {
					see(a[1-axis] + t*(q[1-axis]-a[1-axis]))
				}
			}
		}
	}
	if lo >= hi {
		return // nothing of the part is there
	}
	var from, to [2]float64
	from[axis], to[axis], from[1-axis], to[1-axis] = at, at, lo, hi
	a, z := v.paper(from), v.paper(to)
	along := z.sub(a).unit()
	across := Point{-along[1], along[0]}
	a, z = a.sub(along.scale(breakOver)), z.add(along.scale(breakOver))
	mid := a.add(z).scale(0.5)
	on := func(u, h float64) Point { return mid.add(along.scale(u * zigzag)).add(across.scale(h * zigzag)) }
	b.add(Item{Class: Thin, Kind: "run", Width: standards.LineNarrow,
		Points: []Point{a, on(-0.5, 0), on(-0.25, 1), on(0.25, -1), on(0.5, 0), z}})
}

// onSweep tells whether an angle lies on an arc.
func onSweep(c solid.ViewCurve, angle float64) bool {
	start, sweep := forwards(c)
	return ahead(start, angle) <= sweep
}

// cuttingLine draws where a section cuts: a narrow long-dashed dotted line, wide at its ends and where it changes its
// direction, with arrows along the line of sight and the letter at each (ISO 128-3).
func (b *builder) cuttingLine(v *view, child *exercise.View, q *Projection) {
	var points []Point
	for _, c := range q.Planes {
		at, d := v.project(c.At), v.direction(c.Along)
		low, high := v.box.through(at, d) // from outline to outline and a little over
		from, to := at.add(d.scale(low-cutOver)), at.add(d.scale(high+cutOver))
		if end := v.project(c.At.Add(c.Along.Scale(c.From))); end.sub(at).dot(d) > low-cutOver {
			from = end
		}
		if end := v.project(c.At.Add(c.Along.Scale(c.To))); end.sub(at).dot(d) < high+cutOver {
			to = end
		}
		for _, to := range []Point{from, to} {
			if n := len(points); n == 0 || points[n-1].distance(to) > 1e-6 {
				points = append(points, to)
			}
		}
	}
	b.add(Item{Class: Centre, Kind: "run", Points: points, Width: standards.LineNarrow, Dash: []float64{8, 1, 0.5, 1}})
	wide := func(p, q Point) {
		b.add(Item{Class: Visible, Kind: "run", Points: []Point{p, q}, Width: standards.LineWide})
	}
	last := len(points) - 1
	for i, p := range points {
		for _, n := range []int{i - 1, i + 1} {
			if n < 0 || n > last {
				continue
			}
			length := cutCorner
			if i == 0 || i == last {
				length = cutThick
			}
			d := points[n].sub(p)
			wide(p, p.add(d.unit().scale(math.Min(length, d.norm()))))
		}
	}
	ends := map[int]float64{0: -1, last: 1}
	if child.Cut.Kind == exercise.HalfCut { // a half ends at the middle without an arrow
		if child.Cut.Side == "left" || child.Cut.Side == "below" {
			delete(ends, last)
		} else {
			delete(ends, 0)
		}
	}
	for _, i := range []int{0, last} {
		out, ok := ends[i]
		if !ok {
			continue
		}
		c := q.Planes[0]
		if i == last {
			c = q.Planes[len(q.Planes)-1]
		}
		along, sight := v.direction(c.Along), v.direction(c.Sight)
		tip := points[i]
		tail := tip.add(sight.scale(cutArrow))
		b.arrow("", tip, sight)
		b.line("", tip, tail)
		b.lettered(child, tail.add(along.scale(3.5*out)), tail.add(sight.scale(4)), tip.add(along.scale(4.5*out)),
			tail.add(along.scale(-3.5*out)), tail.add(along.scale(8*out)), tail.add(sight.scale(9)),
			tail.add(along.scale(14*out)), tail.add(along.scale(3.5*out)).add(sight.scale(6)))
	}
}

// through is where a line through a place inside a rectangle leaves it, counted along its direction.
func (e Extent) through(at, d Point) (low, high float64) {
	low, high = math.Inf(-1), math.Inf(1)
	for k := range 2 {
		if math.Abs(d[k]) < 1e-9 {
			continue
		}
		a, b := (e.Min[k]-at[k])/d[k], (e.Max[k]-at[k])/d[k]
		low, high = math.Max(low, math.Min(a, b)), math.Min(high, math.Max(a, b))
	}
	return low, high
}
