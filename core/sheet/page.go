package sheet

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// page is where the views of an arranged sheet stand, in rows and columns: the front view with the one from above under
// it and the one from the left at its right in first angle, over it and at its left in third angle (ISO 5456-2); and a
// pictorial view where they leave room for it.
type page struct {
	*layout
	third bool
	stack map[string]float64 // how far the rows of dimensions of a side of a view reach, in mm of paper
	loose int                // notes
	shown map[string]bool    // the views that it has
	// margins are what stands at each view where that is known, at its left, right, over it and under it, in mm of paper.
	margins map[string][4]float64

	// What is being tried.
	paper  standards.Paper
	factor float64
	over   map[string]float64 // how far the notes of each view reach over its top
}

// Of an arranged sheet, in mm of paper.
const (
	pagePad      = 10.0 // within the frame, and between what stands at two views
	besideAngle  = 14.0 // what stands at a view in its corners, or along a slant
	bareRoom     = 24.0 // at a view that nothing stands at yet
	pictorialMin = 25.0 // of a pictorial view
	noteRow      = 8.0
)

// band is a row or a column of views: where it begins, and how much of it stands before and behind its views.
type band struct {
	views         []string
	before, after float64
	size          float64 // of the views
	at            float64 // where the views begin
}

func (b *band) all() float64 { return b.before + b.size + b.after }

// choose finds the paper, in the series of another one, and the scale with which the views fill a sheet well.
func (p *page) choose(series string) {
	inches := strings.HasPrefix(series, "Y14.1")
	best, paper, factor := math.Inf(1), p.paper, 0.0
	var short *shortening
	var papers []standards.Paper
	for _, x := range standards.Papers {
		if strings.HasPrefix(x.Name, "Y14.1") == inches {
			papers = append(papers, x)
		}
	}
	options := []*shortening{nil}
	if s := p.plainStretch(); s != nil {
		options = append(options, s)
	}
	for _, o := range options {
		p.short = o
		for i, x := range papers {
			p.paper = x
			s, ok := p.largest()
			if !ok && i < len(papers)-1 {
				continue
			}
			if !ok {
				s = p.crowded()
			}
			cost := p.used() + handling(i, s.Factor)
			if o != nil {
				cost += interrupted
			}
			if cost < best {
				best, paper, factor, short = cost, x, s.Factor, o
			}
		}
	}
	p.paper, p.short = paper, short
	p.try(factor)
}

// interrupted is what it costs to leave a stretch of a long part out: the part is not seen as it is.
const interrupted = 0.08

// handling is what a paper and a scale cost: large papers are unhandy, and what is drawn small is ill to read.
func handling(paper int, factor float64) float64 {
	cost := 0.03 * float64(paper) * float64(paper)
	if factor < 1 {
		cost += 0.12 * math.Log2(1/factor)
	} else {
		cost += 0.02 * math.Log2(factor)
	}
	return cost
}

// used is how far the share of the paper that the views take is from what fills a sheet well.
func (p *page) used() float64 {
	const least, most = 0.42, 0.75
	taken := 0.0
	for v := range p.shown {
		b := p.beside(v)
		half := p.half(v)
		taken += (b[0] + 2*p.factor*half[0] + b[1]) * (b[2] + 2*p.factor*half[1] + b[3])
	}
	if s, r, ok := p.pictorial(); ok {
		w, h := p.pictured()
		taken += math.Min(s.Factor*w*s.Factor*h, (r.Max[0]-r.Min[0])*(r.Max[1]-r.Min[1]))
	}
	free := (p.paper.Width-binding-margin)*(p.paper.Height-2*margin) - blockWidth*blockHeight
	share := taken / free
	return math.Max(0, least-share) + 2*math.Max(0, share-most)
}

// try takes a scale.
func (p *page) try(factor float64) {
	p.factor, p.over = factor, map[string]float64{}
	for v := range p.shown {
		_, p.over[v] = p.columnTop(v, factor)
	}
}

// largest finds the largest scale in which the views fit the paper, with what stands beside them, and tries it.
func (p *page) largest() (s standards.Scale, ok bool) {
	for _, s = range standards.Scales {
		p.try(s.Factor)
		columns, rows := p.bands()
		width, height := 0.0, 0.0
		for i := range columns {
			width += columns[i].all() + pagePad
		}
		for i := range rows {
			height += rows[i].all() + pagePad
		}
		if width+pagePad <= p.paper.Width-binding-margin && height+p.foot(columns) <= p.paper.Height-margin {
			return s, true
		}
	}
	return s, false
}

// crowded is the largest scale in which the views alone take a part of the largest paper, for what has more sizes than
// any paper has room for beside them.
func (p *page) crowded() standards.Scale {
	const part = 0.5
	var last standards.Scale
	for _, last = range standards.Scales {
		p.try(last.Factor)
		columns, rows := p.bands()
		width, height := 0.0, 0.0
		for i := range columns {
			width += columns[i].size
		}
		for i := range rows {
			height += rows[i].size
		}
		if width <= part*p.paper.Width && height <= part*p.paper.Height {
			break
		}
	}
	return last
}

// beside is what stands at a view, in mm of paper: at its left, right, over it and under it.
func (p *page) beside(view string) [4]float64 {
	if known, ok := p.margins[view]; ok {
		return known
	}
	out := [4]float64{p.stack[view+" left"], p.wide(view), p.over[view], p.stack[view+" below"]}
	corner := func(list []beside) bool {
		return slices.ContainsFunc(list, func(x beside) bool { return x.view == view })
	}
	if corner(p.angles) || corner(p.aligned) {
		for k := range out {
			out[k] = math.Max(out[k], besideAngle)
		}
	}
	return out
}

// bands are the columns of the page from the left to the right, and its rows from the top to the foot.
func (p *page) bands() (columns, rows []band) {
	columns, rows = []band{{views: []string{"front", "top"}}, {views: []string{"left"}}},
		[]band{{views: []string{"front", "left"}}, {views: []string{"top"}}}
	if p.third {
		slices.Reverse(columns)
		slices.Reverse(rows)
	}
	fill := func(list []band, axis int) []band {
		for i := range list {
			b := &list[i]
			b.views = slices.DeleteFunc(b.views, func(v string) bool { return !p.shown[v] })
			for _, v := range b.views {
				at := p.beside(v)
				b.before, b.after = math.Max(b.before, at[2*axis]), math.Max(b.after, at[2*axis+1])
				b.size = math.Max(b.size, 2*p.factor*p.half(v)[axis])
			}
		}
		return slices.DeleteFunc(list, func(b band) bool { return len(b.views) == 0 })
	}
	return fill(columns, 0), fill(rows, 1)
}

// foot is what is kept free at the foot of the paper: for the notes at the left, and for the title block where the
// views above reach over it.
func (p *page) foot(columns []band) float64 {
	narrow := p.paper.Width-binding-margin-blockWidth < noteRoom
	width := binding + pagePad
	for i := range columns {
		width += columns[i].all() + pagePad
	}
	out := margin + pagePad
	if narrow || width > p.paper.Width-margin-blockWidth {
		out = margin + blockHeight + pagePad
	}
	switch {
	case p.loose > 0 && narrow:
		out += noteGap + noteRow*float64(p.loose)
	case p.loose > 0:
		out = math.Max(out, margin+28+noteRow*float64(p.loose)+pagePad)
	}
	return out
}

// spread gives the bands their places. What is left of the paper goes between them.
func (p *page) spread() (columns, rows []band) {
	columns, rows = p.bands()
	const most = 25.0 // of what is left between two
	free := p.paper.Width - binding - margin - pagePad
	for i := range columns {
		free -= columns[i].all() + pagePad
	}
	gap := math.Min(most, math.Max(0, free/float64(len(columns)+1)))
	x := binding + pagePad + gap
	for i := range columns {
		b := &columns[i]
		b.at = x + b.before
		x = b.at + b.size + b.after + pagePad + gap
	}
	free = p.paper.Height - margin - p.foot(columns)
	for i := range rows {
		free -= rows[i].all() + pagePad
	}
	gap = math.Min(most, math.Max(0, free/float64(len(rows)+1)))
	y := p.paper.Height - margin - pagePad - gap
	for i := range rows {
		b := &rows[i]
		b.at = y - b.before
		y = b.at - b.size - b.after - pagePad - gap
	}
	return columns, rows
}

// viewsAt places the views.
func (p *page) viewsAt() []exercise.View {
	columns, rows := p.spread()
	// A view stands where its origin, that of the model, comes to lie.
	place := func(id string, middle, shift Point, factor float64) [2]float64 {
		f, _ := viewOf(id, p.stand)
		return [2]float64{middle[0] - factor*(p.middle.Dot(f.X)+shift[0]),
			middle[1] - factor*(p.middle.Dot(f.Y)+shift[1])}
	}
	var out []exercise.View
	for _, id := range []string{"front", "top", "left"} {
		if !p.shown[id] {
			continue
		}
		var middle Point
		for _, c := range columns {
			if slices.Contains(c.views, id) {
				middle[0] = c.at + c.size/2
			}
		}
		for _, r := range rows {
			if slices.Contains(r.views, id) {
				middle[1] = r.at - r.size/2
			}
		}
		breaks, shift := p.short.breaks(p.layout, id, p.factor)
		out = append(out, exercise.View{ID: id, Kind: id, At: place(id, middle, shift, p.factor), Hidden: true,
			Breaks: breaks})
	}
	if scale, room, ok := p.pictorial(); ok {
		middle := room.Min.add(room.Max).scale(0.5)
		out = append(out, exercise.View{ID: "pictorial", Kind: "pictorial", Scale: scale.Name,
			At: place("pictorial", middle, Point{}, scale.Factor)})
	}
	return out
}

// pictured is how wide and how high the part is in the pictorial view, at full size: that looks along (1, -1, 1).
func (p *page) pictured() (width, height float64) {
	flat := p.size[0] + p.size[1]
	return flat / math.Sqrt2, (flat + 2*p.size[2]) / math.Sqrt(6)
}

// pictorial is the largest scale, up to that of the sheet, in which the pictorial view has room, and where.
func (p *page) pictorial() (s standards.Scale, room Extent, ok bool) {
	width, height := p.pictured()
	rooms := p.rooms()
	for _, s = range standards.Scales {
		if s.Factor > p.factor {
			continue
		}
		if s.Factor*math.Max(width, height) < pictorialMin {
			break
		}
		for _, r := range rooms {
			if s.Factor*width <= r.Max[0]-r.Min[0] && s.Factor*height <= r.Max[1]-r.Min[1] {
				return s, r, true
			}
		}
	}
	return s, room, false
}

// rooms are the rectangles that the views leave free, the largest first: at the right of all, and in the corner between
// the columns and the rows.
func (p *page) rooms() []Extent {
	columns, rows := p.spread()
	block := margin + blockHeight + pagePad
	right, top := p.paper.Width-margin-pagePad, p.paper.Height-margin-pagePad
	behind := func(b band) float64 { return b.at + b.size + b.after + pagePad }
	under := func(b band) float64 { return b.at - b.size - b.after - pagePad }
	out := []Extent{{Point{behind(columns[len(columns)-1]), block}, Point{right, top}}}
	if len(columns) == 2 && len(rows) == 2 {
		if p.third {
			second := columns[1]
			out = append(out, Extent{Point{binding + pagePad, rows[1].at + rows[1].before + pagePad},
				Point{second.at - second.before - pagePad, top}})
		} else {
			out = append(out, Extent{Point{behind(columns[0]), block}, Point{right, under(rows[0])}})
		}
	}
	area := func(e Extent) float64 { return math.Max(0, e.Max[0]-e.Min[0]) * math.Max(0, e.Max[1]-e.Min[1]) }
	slices.SortStableFunc(out, func(a, b Extent) int { return cmp.Compare(area(b), area(a)) })
	return out
}

// enough are the views that are needed: those at which something stands, and of the others those that show what no
// other one does. A plain rectangle shows nothing, nor does a second side of a turned part.
func (l *layout) enough(marked map[string]bool) map[string]bool {
	out := map[string]bool{"front": true, "top": true, "left": true}
	if len(marked) == 0 { // it is dimensioned by hand
		return out
	}
	for _, v := range []string{"left", "top"} {
		if !marked[v] && (l.plain(v) || l.second(v, out)) {
			delete(out, v)
		}
	}
	return out
}

// plain tells whether every edge of the part lies on the border of a view.
func (l *layout) plain(view string) bool {
	f, half := l.views[view], l.half(view)
	for _, e := range l.ref.Edges {
		if e.Seam || e.Degenerate {
			continue
		}
		for _, at := range e.Places() {
			d := at.Sub(l.middle)
			if half[0]-math.Abs(d.Dot(f.X)) > 1e-6*l.size.Norm() && half[1]-math.Abs(d.Dot(f.Y)) > 1e-6*l.size.Norm() {
				return false
			}
		}
	}
	return true
}

// second tells whether a view shows a turned part from the side, as another one does that is shown.
func (l *layout) second(view string, shown map[string]bool) bool {
	axis, ok := turned(l.ref)
	if !ok || math.Abs(axis.Dot(l.views[view].Z)) > 1e-6 {
		return false
	}
	for v := range shown {
		if v != view && math.Abs(axis.Dot(l.views[v].Z)) < 1e-6 {
			return true
		}
	}
	return false
}

// turned is the axis that all faces of a part are round about, if there is one.
func turned(g *solid.Geometry) (axis solid.Vec, ok bool) {
	var at solid.Vec
	for _, f := range g.Faces {
		if f.Kind == solid.CylinderFace || f.Kind == solid.ConeFace || f.Kind == solid.TorusFace {
			axis, at, ok = f.Axis, f.Origin, true
			break
		}
	}
	for _, f := range g.Faces {
		switch f.Kind {
		case solid.PlaneFace:
			ok = ok && f.Normal.Parallel(axis, 1e-6)
		case solid.SphereFace:
			ok = ok && solid.FromAxis(f.Origin, at, axis).Norm() < 1e-6
		case solid.CylinderFace, solid.ConeFace, solid.TorusFace:
			ok = ok && f.Axis.Parallel(axis, 1e-6) && solid.FromAxis(f.Origin, at, axis).Norm() < 1e-6
		default:
			ok = false
		}
	}
	return axis, ok
}
