package sheet

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// Offer is a dimension that can be put for what was picked in a view.
type Offer struct {
	ID    string `json:"id"`
	Kind  string `json:"kind"`
	Title string `json:"title"` // of the kind
	Text  string `json:"text"`  // as it would be printed
	Label string `json:"label"`
	Like  int    `json:"like"` // how many other places have the same size, and could be stated with it
	// There is the characteristic that states it already, among the notes; empty where none does.
	There string `json:"there,omitempty"`

	place characteristic.Place
	like  []characteristic.Place
	form  string
	view  *view // that shows it
}

// Place is what the dimension would be measured on.
func (o *Offer) Place() characteristic.Place { return o.place }

// offering finds what can be stated in a view.
type offering struct {
	ex   *exercise.Exercise
	s    *exercise.Sheet
	geo  *solid.Geometry
	v    *view
	p    *Projection
	out  []Offer
	said []string // balloons of those that state it already
}

// Offers are the dimensions that fit what a command has picked, one edge of a view or two, or as many faces of the
// reference itself; those first that the edges mean most directly.
func Offers(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, c Command) ([]Offer, error) {
	o, err := offered(ex, s, p, c)
	if err != nil {
		return nil, err
	}
	return o.out, nil
}

func offered(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, c Command) (*offering, error) {
	if len(c.Faces) > 0 {
		return offeredOn(ex, s, p, c.Faces)
	}
	v, projection, err := p.placedView(s, strings.TrimPrefix(c.Item, "view:"))
	if err != nil {
		return nil, err
	}
	if fromCorner(v.spec) {
		return nil, &Impossible{"a pictorial view shows no size truly", "put the dimension in another view"}
	}
	o := &offering{ex: ex, s: s, geo: p.Geometry, v: v, p: projection}
	var edges []*picked
	for _, q := range c.picks() {
		e, err := v.pick(p.Geometry, projection, q, c.Reach)
		if err != nil {
			return nil, err
		}
		edges = append(edges, e)
	}
	switch len(edges) {
	case 1:
		for _, f := range edges[0].faces {
			o.add([]int{f})
		}
		if ends := v.ends(p.Geometry, projection, edges[0].curve); ends != nil {
			o.add([]int{ends[0]}, []int{ends[1]})
		}
	case 2:
		for _, a := range edges[0].operands(p.Geometry) {
			for _, b := range edges[1].operands(p.Geometry) {
				o.add(a, b)
			}
		}
	default:
		return nil, &Impossible{"a dimension is of one edge or two", "pick them one after the other"}
	}
	if len(o.out) > 0 {
		return o, nil
	}
	if len(o.said) > 0 {
		return nil, &Impossible{"balloon " + o.said[0] + " states it already", "drag that one, or pick something else"}
	}
	if len(edges) == 2 {
		return nil, &Impossible{"no dimension goes between these two in this view",
			"pick two that the view shows edge on or end on, and that are level, upright or at an angle"}
	}
	return nil, &Impossible{"no dimension goes on this edge alone", "pick a second edge"}
}

// offeredOn are the offers for faces of the reference, each in the first view of the sheet that can show it.
func offeredOn(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, faces []address.Ref) (*offering, error) {
	var place characteristic.Place
	for _, ref := range faces {
		what, i, ok := ref.Number()
		if !ok || what != address.Face || i < 0 || i >= len(p.Geometry.Faces) {
			return nil, &Impossible{fmt.Sprintf("%q is no face of the reference", ref), "pick one that is there"}
		}
		place = append(place, []int{i})
	}
	if len(place) > 2 {
		return nil, &Impossible{"a dimension is of one face or two", "pick them one after the other"}
	}
	all := &offering{ex: ex, s: s, geo: p.Geometry}
	for _, spec := range s.Views {
		if fromCorner(spec) || spec.Kind == "detail" {
			continue
		}
		v, projection, err := p.placedView(s, spec.ID)
		if err != nil {
			return nil, err
		}
		o := &offering{ex: ex, s: s, geo: p.Geometry, v: v, p: projection}
		o.add(place...)
		all.said = append(all.said, o.said...)
		for _, x := range o.out {
			if !slices.ContainsFunc(all.out, func(y Offer) bool { return x.ID == y.ID }) {
				all.out = append(all.out, x)
			}
		}
	}
	switch {
	case len(all.out) > 0:
		return all, nil
	case len(all.said) > 0:
		return nil, &Impossible{"balloon " + all.said[0] + " states it already", "drag that one, or pick something else"}
	case len(place) == 2:
		return nil, &Impossible{"no view of this sheet shows a dimension between these two",
			"pick two faces or axes that are parallel, or add a view that shows them"}
	}
	return nil, &Impossible{"no dimension goes on this face alone", "pick a second face"}
}

// add offers what fits a place, if the view can show it.
func (o *offering) add(operands ...[]int) {
	place := characteristic.Place(operands)
	for _, f := range place.Faces() {
		if len(o.geo.Names[f]) == 0 {
			return // nothing that it could be called by in a document
		}
	}
	for _, kind := range characteristic.All() {
		if kind.Proposed == nil || !kind.Proposed(o.geo, place) {
			continue
		}
		form := o.form(kind, place)
		if form == "" {
			continue
		}
		c := &exercise.Characteristic{Kind: kind.Name, Of: [][]address.Ref{o.refs(place)}}
		if there := o.stated(kind, place); there != nil {
			if o.ex.Sheets.Marked()[there.ID] {
				o.said = append(o.said, fmt.Sprint(there.Balloon))
				continue
			}
			c = there
		}
		places, stated, err := check.Nominal(o.geo, o.ex, c)
		if err != nil {
			continue // it cannot be measured, and so not stated
		}
		b := builder{ex: o.ex, geo: o.geo}
		offer := Offer{Kind: kind.Name, Title: kind.Title, There: c.ID, Text: b.printed(c, places, stated),
			place: place, form: form, view: o.v}
		offer.ID = kind.Name + ":" + joined(c.Of[0])
		if c.ID == "" {
			offer.like = o.like(kind, place)
		}
		offer.Like = len(offer.like)
		if !slices.ContainsFunc(o.out, func(x Offer) bool { return x.ID == offer.ID }) {
			o.out = append(o.out, offer)
		}
	}
}

func joined(refs []address.Ref) string {
	var names []string
	for _, r := range refs {
		names = append(names, r.Name)
	}
	return strings.Join(names, ",")
}

// refs names the faces of a place.
func (o *offering) refs(place characteristic.Place) []address.Ref {
	var out []address.Ref
	for _, operand := range place {
		var names []string
		for _, f := range operand {
			names = append(names, o.geo.Address(f))
		}
		out = append(out, address.Ref{Name: strings.Join(names, " & ")})
	}
	return out
}

// stated is the characteristic that states a size of a place.
func (o *offering) stated(kind *characteristic.Kind, place characteristic.Place) *exercise.Characteristic {
	sorted := func(p characteristic.Place) []int {
		faces := slices.Clone(p.Faces())
		slices.Sort(faces)
		return faces
	}
	for i := range o.ex.Characteristics {
		c := &o.ex.Characteristics[i]
		if c.Kind != kind.Name {
			continue
		}
		places, err := inspect.Places(o.geo, c)
		if err == nil && slices.ContainsFunc(places, func(p characteristic.Place) bool {
			return slices.Equal(sorted(p), sorted(place))
		}) {
			return c
		}
	}
	return nil
}

// like are the other places that have the same size of one face, and no characteristic of their own.
func (o *offering) like(kind *characteristic.Kind, place characteristic.Place) []characteristic.Place {
	if len(place) != 1 {
		return nil
	}
	own := o.geo.Faces[place[0][0]]
	size, err := kind.Measure(o.geo, place, characteristic.How{})
	if err != nil {
		return nil
	}
	var out []characteristic.Place
	for i, f := range o.geo.Faces {
		other := characteristic.Place{{i}}
		if i == place[0][0] || f.Kind != own.Kind || f.Hollow != own.Hollow || len(o.geo.Names[i]) == 0 ||
			!f.Axis.Parallel(own.Axis, 1e-6) || f.Kind == solid.CylinderFace && solid.FromAxis(f.Origin, own.Origin, own.Axis).
			Norm() < 1e-6 || !kind.Proposed(o.geo, other) || o.stated(kind, other) != nil {
			continue
		}
		if v, err := kind.Measure(o.geo, other, characteristic.How{}); err == nil && math.Abs(v-size) < 1e-6 {
			out = append(out, other)
		}
	}
	return out
}

// form is how a view shows a size: by extension lines, at a leader, between two rays; empty where it cannot.
func (o *offering) form(kind *characteristic.Kind, place characteristic.Place) string {
	switch kind.Arranged {
	case characteristic.AtSide:
		along, axis, ok := spanned(o.geo, place)
		flat := slices.ContainsFunc(place.Faces(), func(f int) bool { return o.geo.Faces[f].Kind == solid.PlaneFace })
		if !ok || math.Abs(along.Dot(o.v.frame.Z)) > 1e-6 {
			return ""
		}
		// An axis is measured to where it is a point, or to its centre line from a flat face.
		if axis == (solid.Vec{}) || axis.Parallel(o.v.frame.Z, 1e-6) || flat && math.Abs(axis.Dot(o.v.frame.Z)) < 1e-6 {
			return exercise.Linear
		}
	case characteristic.AtCorner:
		f, g := o.geo.Faces[place[0][0]], o.geo.Faces[place[1][0]]
		if f.Normal.Cross(g.Normal).Parallel(o.v.frame.Z, 1e-6) {
			return exercise.Angle
		}
	default:
		f := o.geo.Faces[place[0][0]]
		across := kind.Line == characteristic.Across && math.Abs(f.Axis.Dot(o.v.frame.Z)) < 1e-6
		if across && (f.Axis.Parallel(o.v.frame.X, 1e-6) || f.Axis.Parallel(o.v.frame.Y, 1e-6)) {
			return exercise.Linear
		}
		if !kind.EndOn || f.Kind == solid.SphereFace || f.Axis.Parallel(o.v.frame.Z, 1e-6) {
			return exercise.Leader
		}
	}
	return ""
}

// mark is the dimension of an offer where a person puts it; with no place, below, to the left or above on the right
// of the view, beyond what stands there.
func (o *offering) mark(offer *Offer, of string, at Point) exercise.Mark {
	const least = 8.0 // from the outline, as ISO 129-1 has it for the first line
	m := exercise.Mark{ID: fresh(o.ex.Sheets), Kind: exercise.Dimension, Form: offer.form, Of: []string{of},
		View: o.v.spec.ID, ByHand: at != Point{}}
	if !m.ByHand && offer.form != exercise.Linear {
		step := 9 * float64(o.standing(func(x exercise.Mark) bool { return x.Form == offer.form }))
		at = o.v.box.Max.add(Point{least, least + step})
	}
	b := builder{ex: o.ex, geo: o.geo}
	switch offer.form {
	case exercise.Linear:
		along, _, ok := spanned(o.geo, offer.place)
		if !ok { // across a round face, square to its axis
			along = o.geo.Faces[offer.place[0][0]].Axis.Cross(o.v.frame.Z)
		}
		if !along.Parallel(o.v.frame.X, 1e-6) && !along.Parallel(o.v.frame.Y, 1e-6) {
			m.Side, m.Offset[1] = o.alongside(offer.place, along, at, m.ByHand)
			return m
		}
		axis, sides := 1, [2]string{"below", "above"}
		if !along.Parallel(o.v.frame.X, 1e-6) {
			axis, sides = 0, [2]string{"left", "right"}
		}
		low, high := o.v.box.Min[axis]-at[axis], at[axis]-o.v.box.Max[axis]
		m.Side, m.Offset[1] = sides[0], low
		if high > low {
			m.Side, m.Offset[1] = sides[1], high
		}
		if !m.ByHand {
			n := o.standing(func(x exercise.Mark) bool { return x.Side == sides[0] })
			m.Side, m.Offset[1] = sides[0], least+rowPitch*float64(n)
		}
	case exercise.Angle:
		p, _ := meet(o.geo, offer.place.Faces())
		m.Offset[1] = at.distance(o.v.project(p))
	default:
		f := o.geo.Faces[offer.place[0][0]]
		middle := o.v.project(f.Centroid)
		if f.Kind == solid.CylinderFace {
			middle = o.v.project(f.Origin)
		}
		out := at.sub(middle).unit()
		tip := b.tip(o.v, characteristic.Of(offer.Kind), offer.place, out)
		way := at.sub(tip)
		if way.dot(out) < least {
			way = out.scale(least)
		}
		m.Offset = neat(way)
		return m
	}
	m.Offset[1] = math.Max(least, grid*math.Round(m.Offset[1]/grid))
	return m
}

// alongside is the side of what it measures on which an aligned dimension stands where a person puts it, and how far
// from that.
func (o *offering) alongside(place characteristic.Place, along solid.Vec, at Point, byHand bool) (side string,
	distance float64) {
	const least = 8.0
	if !byHand {
		return exercise.Aligned, least
	}
	dir := o.v.direction(along).unit()
	if dir[0] < 0 {
		dir = dir.scale(-1)
	}
	away := Point{-dir[1], dir[0]}
	low, high := math.Inf(1), math.Inf(-1)
	for _, operand := range place {
		f := o.geo.Faces[operand[0]]
		end := o.v.project(f.Centroid)
		if f.Kind != solid.PlaneFace {
			end = o.v.project(f.Origin)
		}
		low, high = math.Min(low, end.dot(away)), math.Max(high, end.dot(away))
	}
	over, under := at.dot(away)-high, low-at.dot(away)
	neatly := func(v float64) float64 { return math.Max(least, grid*math.Round(v/grid)) }
	if under > over {
		return exercise.AlignedBelow, neatly(under)
	}
	return exercise.Aligned, neatly(over)
}

// standing counts the marks of the view that are of a sort.
func (o *offering) standing(sort func(m exercise.Mark) bool) int {
	n := 0
	for _, m := range o.s.Marks {
		if m.View == o.v.spec.ID && sort(m) {
			n++
		}
	}
	return n
}

// dimension adds what was picked as a characteristic, or takes the one that there is, and its dimension at By.
func (c Command) dimension(ex *exercise.Exercise, s *exercise.Sheet, p *Projected,
	label func(*Offer) string) error {
	o, err := offered(ex, s, p, c)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(o.out, func(x Offer) bool { return x.ID == c.Text })
	if i < 0 {
		return &Impossible{"this dimension does not fit what was picked", "choose one of those that are offered"}
	}
	offer := &o.out[i]
	o.v = offer.view
	id := offer.There
	if id == "" {
		of := [][]address.Ref{o.refs(offer.place)}
		if c.On {
			for _, l := range offer.like {
				of = append(of, o.refs(l))
			}
		}
		id = ex.Add(exercise.Characteristic{Kind: offer.Kind, Label: label(offer), Of: of})
	}
	s.Marks = append(s.Marks, o.mark(offer, id, Point(c.By)))
	return nil
}

// picks are the places that were pointed at.
func (c Command) picks() []Point {
	var out []Point
	for _, p := range c.Picks {
		out = append(out, Point(p))
	}
	return out
}
