package sheet

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// letters name sections and details; I, O and Q are left out, since they are taken for numbers (ISO 128-3).
const letters = "ABCDEFGHJKLMNPRSTUVWXYZ"

// freshLetter is a letter that no view has.
func freshLetter(set exercise.Sheets) string {
	views := set.Views()
	for _, l := range letters {
		if !slices.ContainsFunc(views, func(v exercise.View) bool { return v.Letter == string(l) }) {
			return string(l)
		}
	}
	return "AA"
}

// freshView is an id that no view has.
func freshView(set exercise.Sheets, kind string) string {
	id := kind
	for n := 2; set.View(id) != nil; n++ {
		id = fmt.Sprintf("%s-%d", kind, n)
	}
	return id
}

// show adds a view from a side.
func (c Command) show(set exercise.Sheets, s *exercise.Sheet) error {
	if _, ok := viewFrame(c.Text); !ok {
		return &Impossible{fmt.Sprintf("%q is not a side to look from", c.Text), "choose one of the list"}
	}
	v := exercise.View{ID: freshView(set, c.Text), Kind: c.Text}
	if fromCorner(v) {
		v.Scale = s.Scale
	}
	s.Views = append(s.Views, v)
	return nil
}

// cutAcross adds the section along a line that was drawn across a view. It passes through the middle of the feature
// that lies nearest to the line: a cut is held by features, so that it goes with them.
func (c Command) cutAcross(set exercise.Sheets, s *exercise.Sheet, p *Projected, id string) error {
	v, _, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	q := c.picks()
	if len(q) != 2 || q[0].distance(q[1]) < 2 {
		return &Impossible{"no cutting line is drawn", "draw it from one side of the view to the other"}
	}
	if v.spec.Cut != nil || fromCorner(v.spec) || v.spec.Kind == "detail" {
		return &Impossible{"a section is cut from a view that shows the whole part squarely",
			"draw the line across such a view"}
	}
	axis := 1 // the coordinate that the line has
	if d := q[1].sub(q[0]); math.Abs(d[0]) < math.Abs(d[1]) {
		axis = 0
	}
	sight := []solid.Vec{v.frame.X, v.frame.Y}[axis]
	stand, err := standing(p.Geometry, s)
	if err != nil {
		return err
	}
	kind := ""
	for _, k := range []string{"front", "top", "left", "right", "bottom", "back"} { // the usual ones first
		if f, _ := viewOf(k, stand); kind == "" && f.Z.Parallel(sight, 1e-6) {
			kind = k
		}
	}
	if kind == "" {
		return &Impossible{"no principal view looks square to this line", "cut one of the principal views"}
	}
	face, err := p.nearLine(v, axis, q)
	if err != nil {
		return err
	}
	s.Views = append(s.Views, exercise.View{ID: freshView(set, "section"), Kind: kind, Parent: id,
		Letter: freshLetter(set), Scale: v.spec.Scale, Cut: &exercise.Cut{Kind: exercise.FullCut,
			Path: []address.Ref{{Name: p.Geometry.Address(face)}}}})
	return nil
}

// nearLine is the feature whose middle lies nearest to a level or upright line on a view: a round one rather than a
// flat one, and in the stretch of the line rather than beyond it.
func (p *Projected) nearLine(v *view, axis int, q []Point) (int, error) {
	const reach = 5.0 // mm of paper
	at := (q[0][axis] + q[1][axis]) / 2
	best, nearest := -1, math.Inf(1)
	for i, middle := range p.features() {
		f := p.Geometry.Faces[i]
		m := v.project(middle)
		d := math.Abs(m[axis] - at)
		if d > reach || m[axis] < v.box.Min[axis]+0.5 || m[axis] > v.box.Max[axis]-0.5 {
			continue // too far, or along the outline, where there is nothing to cut
		}
		if f.Kind != solid.CylinderFace && f.Kind != solid.ConeFace || f.Around < math.Pi {
			d += reach
		}
		if u := m[1-axis]; u < math.Min(q[0][1-axis], q[1][1-axis]) || u > math.Max(q[0][1-axis], q[1][1-axis]) {
			d += 2 * reach
		}
		if d < nearest-1e-6 {
			best, nearest = i, d
		}
	}
	if best < 0 {
		return 0, &Impossible{"no feature of the part has its middle near this line",
			"draw the line through the middle of a hole or of a face: the cut is held there"}
	}
	return best, nil
}

// enlarge adds the detail inside a circle that was drawn on a view, in the largest scale in which it stays within
// 70 mm.
func (c Command) enlarge(set exercise.Sheets, s *exercise.Sheet, p *Projected, id string) error {
	v, _, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	q := c.picks()
	if len(q) != 2 || q[0].distance(q[1]) < 2 {
		return &Impossible{"no circle is drawn", "draw it from its middle outwards"}
	}
	if v.spec.Kind == "detail" {
		return &Impossible{"a detail is not taken from a detail", "draw the circle on the view itself"}
	}
	middle, radius := v.plane(q[0]), q[0].distance(q[1])/v.scale
	d := exercise.View{ID: freshView(set, "detail"), Kind: "detail", Parent: id, Letter: freshLetter(set),
		Hidden: v.spec.Hidden, Clip: &exercise.Clip{Radius: neatly(radius),
			At: [2]float64{neatly(middle[0] - v.window.origin[0]), neatly(middle[1] - v.window.origin[1])}}}
	for _, scale := range standards.Scales {
		if scale.Factor > v.scale && 2*radius*scale.Factor <= 70 {
			d.Scale = scale.Name
			break
		}
	}
	if d.Scale == "" {
		return &Impossible{"the circle is too large to be drawn larger", "draw it around less"}
	}
	s.Views = append(s.Views, d)
	return nil
}

func neatly(v float64) float64 { return math.Round(10*v) / 10 }

// Stand puts a new view where there is room for it: a principal view where projection has it, any other near its
// parent, in line with others where that can be.
func Stand(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, id string, m Metrics) error {
	without := *s
	without.Views = slices.DeleteFunc(slices.Clone(s.Views), func(v exercise.View) bool { return v.ID == id })
	d, err := LayOut(ex, &without, p, m)
	if err != nil {
		return err
	}
	spec := s.View(id)
	v, _, err := placed(s, *spec, p.Views)
	if err != nil {
		return err
	}
	const clear, step = 12.0, 5.0
	box := Extent{v.box.Min.sub(Point{clear, clear}).sub(Point(spec.At)), v.box.Max.add(Point{clear, clear + 8}).
		sub(Point(spec.At))}
	// The origin of a part can lie far from it: what is seen of a view is where its middle is.
	rel := v.box.Min.add(v.box.Max).scale(0.5).sub(Point(spec.At))
	taken := d.taken(m)
	levels := [2][]float64{}
	for axis := range 2 {
		for at := 0.0; at < math.Max(d.Width, d.Height); at += step {
			levels[axis] = append(levels[axis], at-rel[axis])
		}
	}
	side, of := besideOf(s, spec)
	near := Point{d.Width / 2, d.Height / 2}
	for _, o := range []*exercise.View{s.View(spec.Parent), of} {
		if o == nil {
			continue
		}
		beside, _, err := placed(s, *o, p.Views)
		if err != nil {
			return err
		}
		near = beside.box.Min.add(beside.box.Max).scale(0.5)
	}
	for _, o := range without.Views {
		for axis := range 2 {
			levels[axis] = append(levels[axis], o.At[axis])
		}
	}
	best, least := spec.At, math.Inf(1)
	for _, x := range levels[0] {
		for _, y := range levels[1] {
			at := Point{x, y}
			here := Extent{box.Min.add(at), box.Max.add(at)}
			middle := at.add(rel)
			cost := middle.distance(near) / 10
			if here.Min[0] < binding || here.Min[1] < margin || here.Max[0] > d.Width-margin || here.Max[1] > d.Height-margin {
				cost += 500
			}
			for _, t := range taken {
				if here.Overlaps(t) {
					cost += 20
				}
			}
			if of != nil && !(side.inLine(Point(of.At), at) && side.beyond(near, middle)) {
				cost += 5000
			} else if of == nil && !slices.ContainsFunc(without.Views, func(o exercise.View) bool {
				return inLine(spec, &o, at)
			}) {
				cost += 15
			}
			if cost < least-1e-9 {
				best, least = at, cost
			}
		}
	}
	spec.At = best
	return nil
}

// toSide is where projection has a view: along a direction of the paper from another.
type toSide struct{ along Point }

// inLine tells whether the origins of two views are in line along it.
func (t toSide) inLine(from, at Point) bool {
	d := at.sub(from)
	return math.Abs(d[0]*t.along[1]-d[1]*t.along[0]) < 1e-6
}

// beyond tells whether the middle of one view is that way from that of another.
func (t toSide) beyond(from, at Point) bool { return at.sub(from).dot(t.along) > 1 }

// besideOf says from which view, and in which direction, a plain principal view is laid out: in first angle projection
// what is seen from the left stands to the right of the front view, in third angle to the left (ISO 5456-2).
func besideOf(s *exercise.Sheet, spec *exercise.View) (toSide, *exercise.View) {
	first := map[string]Point{"top": {0, -1}, "bottom": {0, 1}, "left": {1, 0}, "right": {-1, 0}, "back": {1, 0}}
	along, ok := first[spec.Kind]
	front := s.View("front")
	if !ok || spec.Cut != nil || front == nil || front.Kind != "front" {
		return toSide{}, nil
	}
	if s.Projection == "third" && spec.Kind != "back" {
		along = along.scale(-1)
	}
	return toSide{along}, front
}

// inLine tells whether a view at a place stands in line with another that has the same width or height.
func inLine(spec, o *exercise.View, at Point) bool {
	f, ok := viewFrame(spec.Kind)
	g, other := viewFrame(o.Kind)
	if !ok || !other || fromCorner(*spec) || fromCorner(*o) || spec.Scale != o.Scale {
		return false
	}
	return f.X == g.X && math.Abs(at[0]-o.At[0]) < 1e-6 || f.Y == g.Y && math.Abs(at[1]-o.At[1]) < 1e-6
}
