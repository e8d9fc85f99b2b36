package sheet

import "math"

// Used is the share of the free area of a sheet, within its frame and beside its title block, that views with what
// stands at them and notes take.
func (d *Drawing) Used(m Metrics) float64 {
	const cell = 2.0 // mm
	free := Extent{Point{binding, margin}, Point{d.Width - margin, d.Height - margin}}
	taken := append(d.blocks(m), d.titleBlock())
	columns, rows := int((free.Max[0]-free.Min[0])/cell), int((free.Max[1]-free.Min[1])/cell)
	all, used := 0, 0
	for i := range columns * rows {
		at := free.Min.add(Point{cell * (float64(i%columns) + 0.5), cell * (float64(i/columns) + 0.5)})
		here := Extent{at, at.add(Point{1, 1})}
		if here.Overlaps(d.titleBlock()) {
			continue
		}
		all++
		for _, t := range taken {
			if here.Overlaps(t) {
				used++
				break
			}
		}
	}
	return float64(used) / float64(all)
}

// titleBlock is the rectangle of the title block.
func (d *Drawing) titleBlock() Extent {
	return Extent{Point{d.Width - margin - blockWidth, margin}, Point{d.Width - margin, margin + blockHeight}}
}

// blocks are the rectangles around each view with all that stands at it, and around each note.
func (d *Drawing) blocks(m Metrics) []Extent {
	views := map[string]int{}
	var out []Extent
	for _, it := range d.Items {
		e, ok := it.extent(m)
		if !ok {
			continue
		}
		i, known := views[it.View]
		if it.View == "" || !known {
			views[it.View] = len(out)
			out = append(out, e)
			continue
		}
		for k := range 2 {
			out[i].Min[k], out[i].Max[k] = math.Min(out[i].Min[k], e.Min[k]), math.Max(out[i].Max[k], e.Max[k])
		}
	}
	return out
}

// taken are the rectangles that a drawing fills.
func (d *Drawing) taken(m Metrics) []Extent {
	out := []Extent{d.titleBlock()}
	for _, it := range d.Items {
		if e, ok := it.extent(m); ok {
			out = append(out, e)
		}
	}
	return out
}

// extent is the rectangle that an item fills; frame and hatching fill none.
func (it Item) extent(m Metrics) (Extent, bool) {
	switch {
	case it.Class == Frame || it.Class == Hatch:
		return Extent{}, false
	case it.Kind == "text":
		return textExtent(it, m), true
	case it.Kind == "arc":
		r := Point{it.Radius, it.Radius}
		return Extent{it.Centre.sub(r), it.Centre.add(r)}, true
	}
	e := Extent{it.Points[0], it.Points[0]}
	for _, p := range it.Points {
		for k := range 2 {
			e.Min[k], e.Max[k] = math.Min(e.Min[k], p[k]), math.Max(e.Max[k], p[k])
		}
	}
	e.Max = e.Max.add(Point{0.2, 0.2}) // a level or upright line has an extent as well
	return e, true
}
