package sheet

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// each carries a command out on every one of the items that it names, all or none.
func (c Command) each(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, d *Drawing,
	label func(*Offer) string) error {
	was := slices.Clone(ex.Sheets)
	for n := range was {
		was[n].Views, was[n].Marks = slices.Clone(was[n].Views), slices.Clone(was[n].Marks)
	}
	items := strings.Fields(c.Item)
	if c.Do == Move {
		items = c.together(s, items)
	}
	for _, item := range items {
		one := c
		one.Item = item
		if (c.Do == Remove || c.Do == Onto) && !onSheet(s, item) { // it went with what it was laid out from
			continue
		}
		if err := one.Apply(ex, s, p, d, label); err != nil {
			copy(ex.Sheets, was)
			return err
		}
	}
	return nil
}

// onSheet tells whether an item is on a sheet.
func onSheet(s *exercise.Sheet, item string) bool {
	what, id, _ := strings.Cut(item, ":")
	return what == "view" && s.View(id) != nil ||
		what == "mark" && slices.ContainsFunc(s.Marks, func(m exercise.Mark) bool { return m.ID == id })
}

// together moves views that are moved at once, each by as much, and gives what is left to be moved: marks of other
// views. The marks of a view go with it.
func (c Command) together(s *exercise.Sheet, items []string) (left []string) {
	for i := range s.Views {
		if v := &s.Views[i]; slices.Contains(items, "view:"+v.ID) {
			v.At = neat([2]float64{v.At[0] + c.By[0], v.At[1] + c.By[1]})
		}
	}
	for _, m := range s.Marks {
		if slices.Contains(items, "mark:"+m.ID) && (m.View == "" || !slices.Contains(items, "view:"+m.View)) {
			left = append(left, "mark:"+m.ID)
		}
	}
	return left
}

// inParentheses makes a dimension a size in parentheses (ISO 129-1: an auxiliary dimension): it is read and not
// checked, and its characteristic goes.
func inParentheses(ex *exercise.Exercise, s *exercise.Sheet, geo *solid.Geometry, i int) error {
	m := s.Marks[i]
	switch {
	case m.ReferenceSize():
		return &Impossible{"this size stands in parentheses already", "remove it and dimension it anew to have it checked"}
	case m.Kind != exercise.Dimension || len(m.Of) != 1:
		return &Impossible{"only a dimension of one size can stand in parentheses", "give the size a dimension of its own"}
	case len(ex.Characteristics) == 1:
		return &Impossible{"an exercise checks one thing at least", "add another before"}
	}
	id := m.Of[0]
	c := ex.Characteristic(id)
	places, err := inspect.Places(geo, c)
	if err != nil {
		return err
	}
	if len(places) == 0 || c.Declared().Counts || c.Declared().Worded() {
		return &Impossible{"only a size can stand in parentheses", "remove it, or leave it as it is"}
	}
	m.Measures, m.Of, m.Anchors, m.Place = c.Kind, nil, nil, 0
	for _, operand := range places[0] {
		var names []string
		for _, f := range operand {
			if len(geo.Names[f]) == 0 {
				return &Impossible{"a face that it is measured on has no name", "remove it, or leave it as it is"}
			}
			names = append(names, geo.Address(f))
		}
		m.Anchors = append(m.Anchors, address.Ref{Name: strings.Join(names, " & ")})
	}
	s.Marks[i] = m
	ex.Characteristics = slices.DeleteFunc(slices.Clone(ex.Characteristics), func(x exercise.Characteristic) bool {
		return x.ID == id
	})
	ex.Sheets.Drop(func(gone string) bool { return gone == id })
	return nil
}

// number gives the first size of a mark a balloon, and the one that had it that of the size.
func number(ex *exercise.Exercise, m *exercise.Mark, text string) error {
	n, err := strconv.Atoi(strings.TrimSpace(text))
	if err != nil || n < 1 || n > 999 || len(m.Of) == 0 {
		return &Impossible{fmt.Sprintf("%q is no number of a balloon", text), "write a whole number from 1 to 999"}
	}
	list := slices.Clone(ex.Characteristics)
	own := slices.IndexFunc(list, func(x exercise.Characteristic) bool { return x.ID == m.Of[0] })
	if has := slices.IndexFunc(list, func(x exercise.Characteristic) bool { return x.Balloon == n }); has >= 0 {
		list[has].Balloon = list[own].Balloon
	}
	list[own].Balloon = n
	ex.Characteristics = list
	return nil
}

// shorten takes the stretch between two picks out of a view, along the way from one to the other; without picks the
// view is shown whole again.
func (c Command) shorten(s *exercise.Sheet, p *Projected, id string) error {
	spec, q := s.View(id), c.picks()
	if len(q) == 0 {
		spec.Breaks = nil
		return nil
	}
	v, _, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	const least = 3.0 // mm of paper
	axis, along := 0, "x"
	if d := q[1].sub(q[0]); math.Abs(d[1]) > math.Abs(d[0]) {
		axis, along = 1, "y"
	}
	from, to := math.Min(q[0][axis], q[1][axis]), math.Max(q[0][axis], q[1][axis])
	switch {
	case len(q) != 2 || to-from < least:
		return &Impossible{"no stretch is marked", "draw from where the part breaks off to where it goes on"}
	case len(spec.Breaks) > 0 || spec.Clip != nil || fromCorner(*spec):
		return &Impossible{"this view cannot be shortened as it is", "show it whole first, or shorten another view"}
	case from <= v.box.Min[axis]+least || to >= v.box.Max[axis]-least:
		return &Impossible{"both ends of the part must stay", "draw the stretch between them"}
	}
	low, high := v.plane(Point{from, from}), v.plane(Point{to, to})
	spec.Breaks = []exercise.Break{{Along: along, From: neatly(low[axis] - v.window.origin[axis]),
		To: neatly(high[axis] - v.window.origin[axis])}}
	return nil
}

// squareTo adds the view that looks squarely at the slanting face whose edge was picked.
func (c Command) squareTo(set exercise.Sheets, s *exercise.Sheet, p *Projected, id string) error {
	v, projection, err := p.placedView(s, id)
	if err != nil {
		return err
	}
	q := c.picks()
	if len(q) != 1 {
		return &Impossible{"no line is picked", "click the line of a slanting face"}
	}
	e, err := v.pick(p.Geometry, projection, q[0], c.Reach)
	if err != nil {
		return err
	}
	for _, f := range e.faces {
		face := p.Geometry.Faces[f]
		if face.Kind != solid.PlaneFace || math.Abs(face.Normal.Dot(v.frame.Z)) > 1e-6 || len(p.Geometry.Names[f]) == 0 ||
			face.Normal.Parallel(v.frame.X, 1e-6) || face.Normal.Parallel(v.frame.Y, 1e-6) {
			continue
		}
		s.Views = append(s.Views, exercise.View{ID: freshView(set, "auxiliary"), Kind: "auxiliary", Parent: id,
			Scale: v.spec.Scale, Square: address.Ref{Name: p.Geometry.Address(f)}})
		return nil
	}
	return &Impossible{"no slanting flat face is seen edge on there", "click the line of a face that stands at a slant"}
}

// step has a section go through one more feature as well, of which a line was picked in the view that it is cut from.
func (c Command) step(set exercise.Sheets, s *exercise.Sheet, p *Projected, id string) error {
	section := s.View(id)
	switch {
	case section.Cut == nil || set.View(section.Parent) == nil:
		return &Impossible{"only a section that is cut across a view can be stepped", "draw a cutting line across a view"}
	case section.Cut.Kind != exercise.FullCut && section.Cut.Kind != exercise.SteppedCut:
		return &Impossible{"only a section right through is stepped", "cut it right through first"}
	}
	v, projection, err := p.placedView(&set[set.On(section.Parent)], section.Parent)
	if err != nil {
		return err
	}
	q := c.picks()
	if len(q) != 1 {
		return &Impossible{"no line is picked", "click a line of the feature that the cut is to go through as well"}
	}
	e, err := v.pick(p.Geometry, projection, q[0], c.Reach)
	if err != nil {
		return err
	}
	stand, err := standing(p.Geometry, s)
	if err != nil {
		return err
	}
	f, ok := viewOf(section.Kind, stand)
	if !ok {
		return &Impossible{"only a section in a principal view is stepped", "cut a principal view"}
	}
	along := f.X
	if v.frame.Z.Parallel(f.X, 1e-9) {
		along = f.Y
	}
	face := steppedTo(p.Geometry, e.faces)
	if face < 0 {
		return &Impossible{"no feature has its line there", "click a line of a hole or of a face"}
	}
	pr := projecting{geo: p.Geometry}
	middle, err := pr.middle(address.Ref{Name: p.Geometry.Address(face)})
	if err != nil {
		return err
	}
	cut := *section.Cut
	for _, ref := range cut.Path {
		had, err := pr.middle(ref)
		if err != nil {
			return err
		}
		if math.Abs(had.Sub(middle).Dot(along)) < 1e-6 {
			return &Impossible{"the cut goes through a feature in line with this one already",
				"click one that stands beside it"}
		}
	}
	cut.Kind = exercise.SteppedCut
	cut.Path = append(slices.Clone(cut.Path), address.Ref{Name: p.Geometry.Address(face)})
	section.Cut = &cut
	return nil
}

// steppedTo is the face of those that an edge is of through whose middle a cut goes: a round one rather than a flat
// one.
func steppedTo(g *solid.Geometry, faces []int) int {
	best := -1
	for _, f := range faces {
		if len(g.Names[f]) > 0 && (best < 0 || g.Faces[best].Kind == solid.PlaneFace) {
			best = f
		}
	}
	return best
}
