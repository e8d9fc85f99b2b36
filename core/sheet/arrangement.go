package sheet

import (
	"cmp"
	"math"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// hatching is how a component is hatched: at an angle in radians, with lines so far apart in mm.
type hatching struct{ angle, spacing float64 }

// hatchings are the ways in which components are hatched, so that those which touch differ in sense or in spacing
// (ISO 128-3).
var hatchings = []hatching{{math.Pi / 4, 2.5}, {-math.Pi / 4, 2.5}, {math.Pi / 4, 4}, {-math.Pi / 4, 4},
	{math.Pi / 4, 1.6}, {-math.Pi / 4, 1.6}, {math.Pi / 6, 3}, {-math.Pi / 6, 3}}

// hatching is that of a face in the cut: of a part always the same, of a component one that none beside it has.
func (b *builder) hatching(p *Projection, face int) hatching {
	c := b.projected.Composed
	if c == nil || face >= len(p.CutOf) || p.CutOf[face] < 0 {
		return hatchings[0]
	}
	return hatchings[c.hatched()[c.Of[p.CutOf[face]]]]
}

// hatched are the numbers of the ways in which the components are hatched: each has the first that no other one that
// touches it has before it.
func (c *Composed) hatched() []int {
	out := slices.Repeat([]int{-1}, len(c.Components))
	for i := range out {
		taken := map[int]bool{}
		for _, pair := range c.Beside {
			for side, other := range pair {
				if pair[1-side] == i && other < i {
					taken[out[other]] = true
				}
			}
		}
		for out[i] = 0; taken[out[i]] && out[i] < len(hatchings)-1; out[i]++ {
		}
	}
	return out
}

// arrangement adds to the views of an arrangement sheet the references of its items, the parts list and what is stated
// of the whole.
func (b *builder) arrangement() error {
	if b.number > 0 {
		return nil
	}
	b.motion()
	b.references()
	b.overall()
	b.fits()
	top := b.partsList()
	b.stated(top)
	return nil
}

// Of references of items (ISO 6433): lettering larger than that of dimensions, underlined, at the end of a narrow line
// that ends with a dot on the item. Nothing goes around them, so that they differ from balloons.
const (
	referenceText = 5.0
	referenceRoom = 11.0 // from the middle of one to the next
	referenceGap  = 5.0  // between the texts of two
	referenceOver = 13.0 // over or beside what the view shows
	referenceDot  = 0.7
)

// reference is a reference of an item: where its line ends, and where it stands.
type reference struct {
	number string
	to, at Point
}

// references draws the references of all items. Each is at the first view that shows it, in a row over that view; the
// lines of a row do not cross.
func (b *builder) references() {
	c := b.projected.Composed
	done := map[string]bool{}
	views := slices.Clone(b.sheet.Views)
	slices.SortStableFunc(views, func(a, b exercise.View) int { // sections first: they show most
		switch {
		case a.Cut != nil && b.Cut == nil:
			return -1
		case b.Cut != nil && a.Cut == nil:
			return 1
		}
		return 0
	})
	for _, spec := range views {
		v := b.views[spec.ID]
		if v == nil || spec.Apart {
			continue
		}
		var row []reference
		for i := range c.Components {
			x := &c.Components[i]
			if done[x.Item] {
				continue
			}
			if to, ok := b.pointOn(v, b.projected.Views[spec.ID], i); ok {
				done[x.Item] = true
				row = append(row, reference{number: x.Item, to: to})
			}
		}
		b.in = where{view: spec.ID}
		b.referenceRow(v, row)
		b.in = where{}
	}
}

// referenceRow draws the references of a view in a row over it.
func (b *builder) referenceRow(v *view, row []reference) {
	if len(row) == 0 {
		return
	}
	slices.SortFunc(row, func(a, b reference) int { return cmp.Compare(a.to[0], b.to[0]) })
	middle, room := 0.0, referenceRoom
	for _, r := range row {
		middle += r.to[0] / float64(len(row))
		room = math.Max(room, b.metrics.Width(r.number, referenceText)+referenceGap) // those of levels are long
	}
	width := room * float64(len(row)-1)
	left := math.Max(binding+8, math.Min(middle-width/2, b.out.Width-margin-8-width))
	y := v.box.Max[1] + referenceOver
	if b.label(v) != "" && v.spec.LabelAway == 0 {
		y += 5
	}
	for i := range row {
		row[i].at = Point{left + room*float64(i), y}
	}
	uncrossed(row)
	for _, r := range row {
		half := b.metrics.Width(r.number, referenceText)/2 + 1
		foot := Point{r.at[0], r.at[1] - 1.2}
		b.text(Label, r.number, r.at, referenceText, "middle", 0, "")
		b.add(Item{Class: Dimension, Kind: "run", Width: standards.LineNarrow,
			Points: []Point{{foot[0] - half, foot[1]}, {foot[0] + half, foot[1]}}})
		b.add(Item{Class: Dimension, Kind: "run", Width: standards.LineNarrow, Points: []Point{foot, r.to}})
		var dot []Point
		for k := range 12 {
			dot = append(dot, r.to.add(polar(referenceDot, float64(k)*math.Pi/6)))
		}
		b.add(Item{Class: Dimension, Kind: "fill", Points: dot})
	}
}

// uncrossed lets references change places until no two lines cross: each exchange makes the lines shorter, so that it
// ends.
func uncrossed(row []reference) {
	for changed := true; changed; {
		changed = false
		for i := range row {
			for k := range i {
				a, b := &row[i], &row[k]
				if a.to.distance(a.at)+b.to.distance(b.at) > a.to.distance(b.at)+b.to.distance(a.at)+1e-9 {
					a.at, b.at = b.at, a.at
					changed = true
				}
			}
		}
	}
}

// pointOn is a place within what a view shows of a component: in its cut face, or else on its largest outline.
func (b *builder) pointOn(v *view, p *Projection, component int) (Point, bool) {
	c := b.projected.Composed
	best, longest := Point{}, 0.0
	for k, face := range p.Cut {
		if p.CutOf[k] < 0 || c.Of[p.CutOf[k]] != component {
			continue
		}
		area := v.outline(face)
		dir := polar(1, 0.3)
		normal := Point{-dir[1], dir[0]}
		lo, hi := math.Inf(1), math.Inf(-1)
		for _, q := range area {
			for _, e := range q.extent() {
				lo, hi = math.Min(lo, e.dot(normal)), math.Max(hi, e.dot(normal))
			}
		}
		for _, share := range []float64{0.5, 0.35, 0.65} {
			at := lo + share*(hi-lo) + 1e-7
			for _, s := range area.within(normal, dir, at) {
				if s.to-s.from > longest {
					longest = s.to - s.from
					best = normal.scale(at).add(dir.scale((s.from + s.to) / 2))
				}
			}
		}
	}
	if longest > 0 {
		return best, true
	}
	whole := v.spec.Cut != nil && slices.Contains(v.spec.Cut.Uncut, c.Components[component].ID)
	lo, hi := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, curve := range p.Drawn {
		if curve.Hidden || curve.Smooth || !slices.ContainsFunc(p.Curves[curve.Edge].Of, func(f int) bool {
			return c.Of[f] == component
		}) {
			continue
		}
		for _, piece := range v.window.through(curve) {
			l, h := bounds([]solid.ViewCurve{piece})
			for k := range 2 {
				lo[k], hi[k] = math.Min(lo[k], v.flat(l)[k]), math.Max(hi[k], v.flat(h)[k])
			}
			if from, to, length := ends(piece); length > longest {
				longest, best = length, v.flat([2]float64{(from[0] + to[0]) / 2, (from[1] + to[1]) / 2})
				if piece.Kind == "arc" {
					t := piece.Start + piece.Sweep/2
					best = v.flat([2]float64{piece.Center[0] + piece.Radius*math.Cos(t), piece.Center[1] + piece.Radius*math.Sin(t)})
				}
			}
		}
	}
	if whole && longest > 0 { // within a shaft, and not on its axis, where the centre line is
		return Point{lo[0] + 0.42*(hi[0]-lo[0]), lo[1] + 0.56*(hi[1]-lo[1])}, true
	}
	return best, longest > 0
}

// overall draws how wide, high and deep the whole is, from what its views show.
func (b *builder) overall() {
	for _, spec := range b.sheet.Views {
		v := b.views[spec.ID]
		if v == nil || fromCorner(spec) || spec.Clip.Shows() {
			continue
		}
		b.in = where{view: spec.ID}
		sizes := map[string]map[int]float64{"front": {0: v.box.Min[1] - overallOff, 1: v.box.Min[0] - overallOff},
			"top": {1: v.box.Min[0] - 2*overallOff}}[spec.ID] // beyond the ends of the cutting line
		for axis := range 2 {
			if at, ok := sizes[axis]; ok && !b.movesAtEnd(v, axis) {
				b.extentOf(v, axis, at)
			}
		}
		b.in = where{}
	}
}

// movesAtEnd tells whether the whole ends along an axis of a view in something that moves: how large it is over all
// depends on where that stands.
func (b *builder) movesAtEnd(v *view, axis int) bool {
	const near = 0.05                                                                      // mm on the paper
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)} // of what stands, and moves
	for _, x := range b.projected.Composed.Components {
		k := 0
		if x.Moves {
			k = 1
		}
		for _, p := range x.Box.Corners() {
			at := v.project(p)[axis]
			lo[k], hi[k] = math.Min(lo[k], at), math.Max(hi[k], at)
		}
	}
	return lo[1] < lo[0]-near || hi[1] > hi[0]+near
}

// overallOff is how far a size over all lies from its view, in mm.
const overallOff = 10.0

// extentOf draws one size over all of a view, along an axis of the paper, with its line at a place of the other.
func (b *builder) extentOf(v *view, axis int, at float64) {
	place := func(along, across float64) Point {
		if axis == 0 {
			return Point{along, across}
		}
		return Point{across, along}
	}
	from, to := v.box.Min[axis], v.box.Max[axis]
	near := v.box.Min[1-axis]
	p, q := place(from, at), place(to, at)
	for _, end := range []float64{from, to} {
		b.line("", place(end, near-1), place(end, at-1.5))
	}
	dir := q.sub(p).unit()
	b.line("", p, q)
	b.arrow("", p, dir)
	b.arrow("", q, dir.scale(-1))
	text, _, _ := quantity.SheetFormat(b.ex.LengthUnit()).Round(quantity.Quantity{Value: (to - from) / v.scale,
		Dim: quantity.Length})
	middle := p.add(q).scale(0.5)
	turn := 0.0
	if axis == 1 {
		turn = math.Pi / 2
		middle = middle.sub(Point{1, 0})
	} else {
		middle = middle.add(Point{0, 1})
	}
	b.text(Dimension, "("+text+")", middle, standards.Lettering, "middle", turn, "")
}

// ends are those of a curve of a view, and about how long it is.
func ends(c solid.ViewCurve) (from, to [2]float64, length float64) {
	if c.Kind == "arc" {
		return from, to, math.Abs(c.Sweep) * c.Radius
	}
	from, to = c.Points[0], c.Points[len(c.Points)-1]
	for i := 1; i < len(c.Points); i++ {
		length += math.Hypot(c.Points[i][0]-c.Points[i-1][0], c.Points[i][1]-c.Points[i-1][1])
	}
	return from, to, length
}

// Of the parts list (ISO 7573), in mm: it stands on the title block and is read upwards, its heading at its foot. What
// an assembly in the assembly is made of follows it, its name set in by its level; quantities are those in one of it.
const (
	listRow    = 7.0
	listIndent = 4.0
)

// listColumns are where its columns begin, and their headings.
var listColumns = []field{{0, "Item", ""}, {14, "Quantity", ""}, {32, "Description", ""}, {96, "Material", ""},
	{150, "Mass of one", ""}}

// partsList draws the parts list, and gives how far up it goes.
func (b *builder) partsList() float64 {
	x, y := b.out.Width-margin-blockWidth, margin+blockHeight
	c := b.projected.Composed
	rows := append([]ListLine{{Number: "Item", Quantity: "Quantity", Name: "Description", Material: "Material",
		Mass: "Mass of one"}}, c.Lines...)
	for i, line := range rows {
		foot := y + listRow*float64(i)
		b.rule(Point{x, foot + listRow}, Point{x + blockWidth, foot + listRow}, 0.25)
		for k, text := range []string{line.Number, line.Quantity, line.Name, line.Material, line.Mass} {
			to := blockWidth
			if k+1 < len(listColumns) {
				to = listColumns[k+1].from
				b.rule(Point{x + to, foot}, Point{x + to, foot + listRow}, 0.25)
			}
			sizes := []float64{3, 2.5}
			if i == 0 {
				sizes = []float64{2.5}
			}
			from := listColumns[k].from
			if k == 2 {
				from += listIndent * float64(line.Level)
			}
			lines, size := b.fitted(text, to-from-3, sizes, 1.8)
			b.text(Frame, lines[0], Point{x + from + 1.5, foot + 2}, size, "start", 0, "")
		}
	}
	top := y + listRow*float64(len(rows))
	b.box(x, y, x+blockWidth, top, 0.5)
	return top
}

// stated writes what is stated of the whole, each line at its balloon, in the lower left corner or over the parts list
// where a sheet has no room beside it.
func (b *builder) stated(listTop float64) {
	c := b.projected.Composed
	x, room := binding+8.0, b.out.Width-binding-margin-blockWidth-16
	y := margin + 8.0
	if room < noteRoom {
		x, room, y = b.out.Width-margin-blockWidth+4, blockWidth-8, listTop+8
	}
	const pitch = 8.5
	for i := len(c.Stated) - 1; i >= 0; i-- {
		s := &c.Stated[i]
		at := x + 2*balloonR + 2
		lines, size := b.fitted(s.Text, room-2*balloonR-24, []float64{standards.Lettering, 3, 2.5}, 2.5)
		b.text(Dimension, lines[0], Point{at, y}, size, "start", 0, s.ID)
		b.balloon(&exercise.Characteristic{ID: s.ID, Balloon: s.Balloon}, Point{x + balloonR, y + size/2})
		b.out.Marks[len(b.out.Marks)-1].Text = Point{at + 3 + b.metrics.Width(lines[0], size), y}
		y += pitch
	}
}
