package sheet

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Arrange lays out a sheet by itself: front, top and left view, as far as they are needed, in a standard scale and on a
// paper that they fill well, and a pictorial view. Distances, of flat faces and of axes, stand at the
// left and lower sides of the view that shows both ends, the shorter ones nearer (ISO 129-1);
// diameters, radii, bevels and threads at leaders that end in one column to the right, in the
// order of what they point at, so that none crosses another; depths, counts and spacings with the feature that they
// are of; angles between faces that are seen edge on. What it does not place becomes a note. It is a start that can
// be changed in the exercise document.
func Arrange(ref *solid.Geometry, ex *exercise.Exercise) exercise.Sheet {
	return arrange(ref, ex, stands(ref), nil)
}

// arrange lays out the sheet of a part as it stands, in the projection of the exercise and on a paper of its series.
// margins are what stands at each view, where that is known.
func arrange(ref *solid.Geometry, ex *exercise.Exercise, stands *exercise.Standing,
	margins map[string][4]float64) exercise.Sheet {
	out := exercise.Sheet{Paper: "A3", Projection: "first", Stands: stands}
	if len(ex.Sheets) > 0 {
		out.Paper, out.Projection = cmp.Or(ex.Sheet().Paper, out.Paper), cmp.Or(ex.Sheet().Projection, out.Projection)
	}
	stand, err := standing(ref, &out)
	if err != nil {
		out.Stands, stand = nil, solid.World // two faces of one name: as it lies in its file
	}
	box := boxIn(ref, stand)
	size, middle := box.Size(), box.Min.Add(box.Max).Scale(0.5)
	l := &layout{ref: ref, stand: stand, size: size, middle: stand.Point(middle[0], middle[1], middle[2]),
		views: map[string]solid.Frame{}, sides: map[string][]beside{}, placed: map[string]bool{}}
	for _, v := range []string{"front", "top", "left"} {
		l.views[v], _ = viewOf(v, stand)
	}
	l.collect(ref, ex)
	loose := 0
	for _, c := range ex.Characteristics {
		if !l.placed[c.ID] {
			loose++
		}
	}
	p := &page{layout: l, third: out.Projection == "third", loose: loose, margins: margins}
	out.Marks, p.stack = l.stacked()
	if p.shown = l.enough(l.marked()); len(l.marked()) == 0 { // what is dimensioned by hand has room as well
		for v := range p.shown {
			p.stack[v+" left"], p.stack[v+" below"] = bareRoom, bareRoom
		}
	}
	p.choose(out.Paper)
	out.Paper, out.Scale = p.paper.Name, standards.ScaleOf(p.factor).Name
	out.Marks = append(out.Marks, l.column(p.factor)...)
	for i, x := range l.angles {
		out.Marks = append(out.Marks, exercise.Mark{Form: exercise.Angle, Of: []string{x.id}, View: x.view,
			Offset: [2]float64{0, 18 + 8*float64(i)}})
	}
	for _, x := range l.aligned {
		out.Marks = append(out.Marks, exercise.Mark{Form: exercise.Linear, Of: []string{x.id}, View: x.view, Side: x.side,
			Offset: [2]float64{0, 10 + math.Round(p.factor*x.length)}})
	}
	for i := range out.Marks {
		out.Marks[i].ID, out.Marks[i].Kind = fmt.Sprintf("m%d", i+1), exercise.Dimension
	}
	out.Views = p.viewsAt()
	return out
}

// marked are the views at which something stands.
func (l *layout) marked() map[string]bool {
	out := map[string]bool{}
	for _, list := range l.sides {
		for _, x := range list {
			out[x.view] = true
		}
	}
	for _, x := range slices.Concat(l.angles, l.aligned) {
		out[x.view] = true
	}
	for _, x := range l.leaders {
		out[x.view] = true
	}
	return out
}

// collect says of every characteristic where it stands, by its kind.
func (l *layout) collect(ref *solid.Geometry, ex *exercise.Exercise) {
	later := []*exercise.Characteristic{}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, err := inspect.Places(ref, c)
		if err != nil || len(places) == 0 {
			continue
		}
		switch c.Declared().Arranged {
		case characteristic.AtSide:
			l.distance(c, places[0])
		case characteristic.AtLeader:
			l.leader(c, places)
		case characteristic.AtCorner:
			l.angle(c, places[0])
		case characteristic.AtFeature:
			later = append(later, c)
		}
	}
	for _, c := range later {
		l.with(c)
	}
}

// stacked lays the distances of each side out in rows, the shorter nearer to the view, and says how far the
// rows of a side reach.
func (l *layout) stacked() (dimensions []exercise.Mark, stack map[string]float64) {
	dimensions, stack = []exercise.Mark{}, map[string]float64{}
	for _, side := range []string{"front below", "front left", "top below", "top left", "left below", "left left"} {
		list := l.sides[side]
		slices.SortStableFunc(list, func(a, b beside) int { return cmp.Compare(a.length, b.length) })
		for _, x := range list {
			stack[side] += 12
			dimensions = append(dimensions, exercise.Mark{Form: exercise.Linear, Of: []string{x.id},
				View: x.view, Side: x.side, Offset: [2]float64{0, stack[side]}})
		}
	}
	return dimensions, stack
}

// layout collects what stands where.
type layout struct {
	ref     *solid.Geometry
	stand   solid.Frame
	size    solid.Vec // of the part along the axes of its stand
	middle  solid.Vec // of the part, in the model
	views   map[string]solid.Frame
	sides   map[string][]beside // by view and side
	leaders []pointed
	angles  []beside
	aligned []beside
	placed  map[string]bool
	short   *shortening // of the views
}

// beside is a dimension at the side of a view.
type beside struct {
	id, view, side string
	length         float64
}

// pointed is a note at a leader. The places are round in the view, with a radius, or points;
// sign is -1 for a hollow round, which is pointed at from its inside. Lengths are those of the
// part, from the middle of the view.
type pointed struct {
	id, view string
	at       []Point
	radius   []float64
	place    []int // of each of at: the number of the place, which has two at an outline
	sign     float64
	more     []string
	faces    []int
}

// wide is how far the notes beside a view reach, about: lettering of 3.5 mm and a balloon
// for each value.
func (l *layout) wide(view string) float64 {
	most := 0.0
	for _, x := range l.leaders {
		if x.view == view {
			most = math.Max(most, 9+24*float64(1+len(x.more)))
		}
	}
	return most
}

// Of the column of leaders at the right of a view, in mm of paper.
const (
	leaderPitch = 9.0
	leaderClear = 9.0 // of the view
)

// at are the leaders of a view.
func (l *layout) at(view string) []pointed {
	var list []pointed
	for _, x := range l.leaders {
		if x.view == view {
			x.at = slices.Clone(x.at)
			for i := range x.at {
				x.at[i] = l.short.folded(l, view, x.at[i])
			}
			list = append(list, x)
		}
	}
	return list
}

// columnTop is how high the column of leaders of a view reaches over its middle, and how far over its top. Lines of
// dimension stand below: it begins at the foot of the view, or higher.
func (l *layout) columnTop(view string, factor float64) (top, over float64) {
	high, n := factor*l.half(view)[1], float64(len(l.at(view)))
	top = math.Max(leaderPitch*(n-1)/2, -high+leaderPitch*(n-1)+4)
	return top, math.Max(0, top+8-high)
}

// column gives the leaders of all views, each ending at the right of its view, one below the
// other.
func (l *layout) column(factor float64) []exercise.Mark {
	const pitch = leaderPitch
	var out []exercise.Mark
	for _, view := range []string{"front", "top", "left"} {
		list := l.at(view)
		x := factor*l.half(view)[0] + leaderClear
		top, _ := l.columnTop(view, factor)
		knee := func(slot int) Point { return Point{x, top - pitch*float64(slot)} }
		// From the highest place to the lowest; around one middle the larger circle above.
		slices.SortStableFunc(list, func(a, b pointed) int {
			p, r, _ := a.tip(Point{x, 0}, factor)
			q, u, _ := b.tip(Point{x, 0}, factor)
			if math.Abs(p[1]-q[1]) < 1e-6 {
				return cmp.Compare(u, r)
			}
			return cmp.Compare(q[1], p[1])
		})
		// Leaders that cross change places.
		for range list {
			for i := range list {
				for k := range i {
					if crossing(list[k].line(knee(k), factor), list[i].line(knee(i), factor)) {
						list[k], list[i] = list[i], list[k]
					}
				}
			}
		}
		for i, p := range list {
			at, r, place := p.tip(knee(i), factor)
			d := knee(i).sub(at)
			if len(p.at) > 1 && slices.Contains(p.place[1:], p.place[0]) && math.Abs(at[1]) > math.Abs(knee(i)[1]) {
				d[1] = math.Copysign(4, at[1]) // outwards from an outline
			}
			way := d.unit().scale(d.norm() - p.sign*r)
			out = append(out, exercise.Mark{Form: exercise.Leader, Of: append([]string{p.id}, p.more...), View: view,
				Offset: [2]float64{math.Round(1e3*way[0]) / 1e3, math.Round(1e3*way[1]) / 1e3}, Place: place})
		}
	}
	return out
}

// tip is the place that a leader from a knee points at, the nearest, on the paper, with its
// radius there and its number. Of an outline it is the side towards the leader.
func (p pointed) tip(knee Point, factor float64) (at Point, radius float64, place int) {
	best := math.Inf(1)
	for i := range p.at {
		q, r := p.at[i].scale(factor), p.radius[i]*factor
		d := knee.sub(q)
		away := false // the other side of an outline is the one towards the leader
		for k := range p.at {
			away = away || k != i && p.place[k] == p.place[i] && p.at[k].scale(factor).sub(q).dot(d) > 1e-9
		}
		if dist := d.norm() - r; !away && dist < best {
			at, radius, place, best = q, r, p.place[i], dist
		}
	}
	if place > 0 || len(p.at) == 0 {
		return at, radius, place
	}
	// A knee between the two sides of an outline: the drawing would turn to the other side. The
	// upper one on the right is pointed at from above.
	for i := range p.at {
		if q := p.at[i].scale(factor); place == 0 || q[0] > at[0]+1e-6 || q[0] > at[0]-1e-6 && q[1] > at[1] {
			at, radius, place = q, p.radius[i]*factor, p.place[i]
		}
	}
	return at, radius, place
}

// line is a leader on the paper, from what it points at to its knee.
func (p pointed) line(knee Point, factor float64) [2]Point {
	at, r, _ := p.tip(knee, factor)
	d := knee.sub(at)
	return [2]Point{at.add(d.scale(p.sign * r / math.Max(d.norm(), 1e-9))), knee}
}

// crossing tells whether two lines meet between their ends.
func crossing(p, q [2]Point) bool {
	side := func(a, b, c Point) float64 { return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0]) }
	return side(p[0], p[1], q[0])*side(p[0], p[1], q[1]) < 0 && side(q[0], q[1], p[0])*side(q[0], q[1], p[1]) < 0
}

// half is half of what a view shows, across and up.
func (l *layout) half(view string) Point {
	f, size := l.views[view], l.size
	reach := func(d solid.Vec) float64 {
		v := l.stand.Local(d)
		return (math.Abs(v[0])*size[0] + math.Abs(v[1])*size[1] + math.Abs(v[2])*size[2]) / 2
	}
	half := Point{reach(f.X), reach(f.Y)}
	if axis := l.short.on(l, view); axis >= 0 {
		half[axis] -= (l.short.to - l.short.from) / 2
	}
	return half
}

// distance puts a distance beside the view in which its direction lies along the paper and
// both ends show: faces edge on, axes end on.
func (l *layout) distance(c *exercise.Characteristic, p characteristic.Place) {
	along, axis, ok := spanned(l.ref, p)
	length, err := inspect.Measure(l.ref, c, p)
	if !ok || err != nil {
		return
	}
	round := ""
	if axis != (solid.Vec{}) {
		flat := slices.ContainsFunc(p, func(o []int) bool {
			return len(o) == 1 && l.ref.Faces[o[0]].Kind == solid.PlaneFace
		})
		if round = l.endOn(axis); round == "" && !flat {
			return
		}
	}
	// Of the sides that would do, the one with the fewest so far.
	best, fewest := [2]string{}, math.MaxInt
	for _, s := range [][2]string{{"front", "below"}, {"front", "left"}, {"top", "left"}, {"left", "below"},
		{"top", "below"}, {"left", "left"}} {
		f := l.views[s[0]]
		paper := f.X
		if s[1] == "left" {
			paper = f.Y
		}
		n := len(l.sides[s[0]+" "+s[1]])
		if s[0] == "top" && s[1] == "below" || s[0] == "left" && s[1] == "left" {
			n += 3 // rather in the front view
		}
		if along.Parallel(paper, 1e-6) && (round == "" || round == s[0]) && n < fewest {
			best, fewest = s, n
		}
	}
	if fewest < math.MaxInt {
		k := best[0] + " " + best[1]
		l.sides[k] = append(l.sides[k], beside{c.ID, best[0], best[1], length})
		l.placed[c.ID] = true
		return
	}
	for _, v := range []string{"front", "top", "left"} { // along what it measures
		if math.Abs(along.Dot(l.views[v].Z)) < 1e-6 && (round == "" || round == v) {
			l.aligned = append(l.aligned, l.alongside(c.ID, v, along, p))
			l.placed[c.ID] = true
			return
		}
	}
}

// alongside puts a size along what it measures, over or under it, whichever side its view ends on sooner. Its length is
// how far the corner of the view lies beyond its ends.
func (l *layout) alongside(id, view string, along solid.Vec, p characteristic.Place) beside {
	f, half := l.views[view], l.half(view)
	dir := Point{along.Dot(f.X), along.Dot(f.Y)}.unit()
	if dir[0] < -1e-9 || math.Abs(dir[0]) <= 1e-9 && dir[1] < 0 {
		dir = dir.scale(-1)
	}
	away := Point{-dir[1], dir[0]}
	reach := math.Abs(away[0])*half[0] + math.Abs(away[1])*half[1]
	low, high := math.Inf(1), math.Inf(-1)
	for _, operand := range p {
		at := l.ref.Faces[operand[0]].Locus().At.Sub(l.middle)
		if face := l.ref.Faces[operand[0]]; face.Kind == solid.PlaneFace {
			at = face.Centroid.Sub(l.middle)
		}
		t := Point{at.Dot(f.X), at.Dot(f.Y)}.dot(away)
		low, high = math.Min(low, t), math.Max(high, t)
	}
	over, under := reach-high, reach+low
	if under < over {
		return beside{id, view, exercise.AlignedBelow, math.Max(0, under)}
	}
	return beside{id, view, exercise.Aligned, math.Max(0, over)}
}

// spanned is the direction in which a distance between two faces is measured, and the axis of the round one among them;
// not ok where they are no two flat faces or axes, or on one axis.
func spanned(g *solid.Geometry, p characteristic.Place) (along, axis solid.Vec, ok bool) {
	if len(p) != 2 || len(p[0]) > 2 || len(p[1]) > 2 {
		return along, axis, false
	}
	ends := [2]solid.Face{g.Faces[p[0][0]], g.Faces[p[1][0]]}
	for k, f := range ends {
		if r, ok := rimOf(g, p[k]); ok {
			along = r.Axis
			continue
		}
		if len(p[k]) == 2 { // the line in which two flat faces meet
			_, axis = meet(g, p[k])
			continue
		}
		switch f.Kind {
		case solid.PlaneFace:
			along = f.Normal
		case solid.CylinderFace, solid.ConeFace:
			axis = f.Axis
		case solid.SphereFace, solid.TorusFace: // their centres
		default:
			return along, axis, false
		}
	}
	if along == (solid.Vec{}) {
		if axis == (solid.Vec{}) || len(p[0])+len(p[1]) > 2 {
			return along, axis, false
		}
		along = solid.FromAxis(ends[1].Origin, ends[0].Origin, axis)
		if along.Norm() < 1e-9 {
			return along, axis, false
		}
		along = along.Unit()
	}
	return along, axis, true
}

// endOn is the view in which an axis is a point.
func (l *layout) endOn(axis solid.Vec) string {
	for _, v := range []string{"front", "top", "left"} {
		if axis.Parallel(l.views[v].Z, 1e-6) {
			return v
		}
	}
	return ""
}

// edgeOn is the view in which a flat face is a line.
func (l *layout) edgeOn(normal solid.Vec) string {
	for _, v := range []string{"front", "top", "left"} {
		if math.Abs(normal.Dot(l.views[v].Z)) < 1e-6 {
			return v
		}
	}
	return ""
}

// leader points at a feature in the view that shows its shape.
func (l *layout) leader(c *exercise.Characteristic, places []characteristic.Place) {
	f := l.ref.Faces[places[0][0][0]]
	kind := c.Declared()
	view := ""
	switch {
	case kind.EndOn || f.Kind == solid.CylinderFace:
		view = l.endOn(f.Axis)
	case f.Kind == solid.PlaneFace:
		view = l.edgeOn(f.Normal)
	case f.Kind == solid.SphereFace || f.Kind == solid.OtherFace:
		view = "front"
	default: // cones and rings show their outline from the side
		view = l.edgeOn(f.Axis)
	}
	if view == "" {
		return
	}
	frame := l.views[view]
	x := pointed{id: c.ID, view: view, sign: 1}
	if kind.Inside && f.Kind == solid.CylinderFace && f.Hollow {
		x.sign = -1
	}
	for i, p := range places {
		x.faces = append(x.faces, p.Faces()...)
		g := l.ref.Faces[p[0][0]]
		at, radius := g.Centroid, 0.0
		switch {
		case kind.Ring:
			at, radius = g.Origin, solid.FromAxis(l.ref.Faces[p[1][0]].Origin, g.Origin, g.Axis).Norm()
		case g.Kind == solid.CylinderFace:
			at, radius = g.Origin, g.Radius
		case kind.EndOn && g.Kind == solid.TorusFace:
			at = bent(g)
		}
		d := at.Sub(l.middle)
		on := Point{d.Dot(frame.X), d.Dot(frame.Y)}
		if sides := l.outline(g, frame); len(sides) > 0 {
			x.at, x.radius = append(x.at, sides...), append(x.radius, 0, 0)
			x.place = append(x.place, i+1, i+1)
			continue
		}
		x.at, x.radius = append(x.at, on), append(x.radius, radius)
		x.place = append(x.place, i+1)
	}
	l.leaders = append(l.leaders, x)
	l.placed[c.ID] = true
}

// outline gives the two places at which a round face that is seen from the side is pointed at:
// the middles of its outline on either side.
func (l *layout) outline(f solid.Face, frame solid.Frame) []Point {
	if f.Kind != solid.ConeFace && f.Kind != solid.TorusFace && f.Kind != solid.CylinderFace ||
		f.Axis.Parallel(frame.Z, 1e-6) {
		return nil
	}
	on := func(v solid.Vec) Point { return Point{v.Dot(frame.X), v.Dot(frame.Y)} }
	along := on(f.Axis).unit()
	side := Point{-along[1], along[0]}
	n, mean, reach := 0.0, Point{}, 0.0
	for _, e := range f.Edges {
		if k := l.ref.Edges[e]; k.Kind == solid.CircleEdge {
			mean = mean.add(on(k.Center.Sub(l.middle)))
			reach += k.Radius
			n++
		}
	}
	if n == 0 {
		return nil
	}
	return []Point{mean.add(side.scale(reach)).scale(1 / n), mean.sub(side.scale(reach)).scale(1 / n)}
}

// angle puts an angle between flat faces where both are seen edge on.
func (l *layout) angle(c *exercise.Characteristic, p characteristic.Place) {
	if len(p) != 2 || len(p[0]) > 1 || len(p[1]) > 1 {
		return
	}
	f, g := l.ref.Faces[p[0][0]], l.ref.Faces[p[1][0]]
	if f.Kind != solid.PlaneFace || g.Kind != solid.PlaneFace || f.Normal.Parallel(g.Normal, 1e-6) {
		return
	}
	if v := l.endOn(f.Normal.Cross(g.Normal).Unit()); v != "" {
		l.angles = append(l.angles, beside{id: c.ID, view: v})
		l.placed[c.ID] = true
	}
}

// with puts a value into the note of the feature that it is of.
func (l *layout) with(c *exercise.Characteristic) {
	places, err := inspect.Places(l.ref, c)
	if err != nil {
		return
	}
	for _, p := range places {
		for _, f := range p.Faces() {
			for i := range l.leaders {
				if slices.Contains(l.leaders[i].faces, f) && len(l.leaders[i].more) < 3 {
					l.leaders[i].more = append(l.leaders[i].more, c.ID)
					l.placed[c.ID] = true
					return
				}
			}
		}
	}
}

// Plain is an exercise around a reference alone: nothing is checked yet but the number of
// solids.
func Plain(title, unit, reference string, solids int) *exercise.Exercise {
	return &exercise.Exercise{Hammerset: exercise.Version, Kind: exercise.Part, Title: title, Number: "",
		Task: fmt.Sprintf("Model the part from the sheet. All sizes are in %s.", unitWord(unit)), Unit: unit,
		Reference: reference, Solids: max(1, solids),
		General:         exercise.Tolerance{Kind: "sheet"},
		Characteristics: []exercise.Characteristic{{ID: "solids", Balloon: 1, Kind: "solids", Label: "Number of solids"}},
		Rubric:          exercise.Rubric{Characteristics: 75, WholePart: 25},
		Sheets: []exercise.Sheet{{Paper: standards.Papers[1].Name, Scale: "1:1", Projection: "first",
			Views: []exercise.View{}, Marks: []exercise.Mark{}}}}
}
