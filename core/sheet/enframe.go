package sheet

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// enframe stands a characteristic that is among the notes in a frame, at a view that shows its face, with the first
// letter that no other datum has; those with one datum face share a letter.
func (c Command) enframe(ex *exercise.Exercise, s *exercise.Sheet, p *Projected) error {
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool { return x.ID == c.Text })
	if i < 0 || ex.Characteristics[i].Declared().Symbol == characteristic.NoSymbol {
		return &Impossible{"only coaxial, symmetric, parallel, perpendicular and a position stand in a frame",
			"leave it among the notes"}
	}
	ex.Characteristics = slices.Clone(ex.Characteristics)
	x := &ex.Characteristics[i]
	if x.Declared().Symbol.Leans() && x.Zone == "" {
		x.Zone = zoneText(ex, 0.1)
	}
	if len(x.Datums) == 0 {
		x.Datums = lettersFor(ex, x)
	}
	return p.frameOf(ex, s, x)
}

// zoneText is the width of a zone in the unit of the sheet, to its third decimal.
func zoneText(ex *exercise.Exercise, mm float64) string {
	return strconv.FormatFloat(math.Round(1e3*mm/ex.LengthUnit().Factor)/1e3, 'f', -1, 64)
}

// datumFaces are the operands of a characteristic that its datums are on, in the order of its letters.
func datumFaces(x *exercise.Characteristic) []address.Ref {
	place := x.Of[0]
	if x.Declared().From != nil {
		return place[1:]
	}
	return place[len(place)-1:]
}

// lettersFor are letters for the datums of a characteristic: that of its face where it has one, or the next that is
// free.
func lettersFor(ex *exercise.Exercise, x *exercise.Characteristic) []string {
	taken := map[string]string{} // faces, by the letter
	for k := range ex.Characteristics {
		o := &ex.Characteristics[k]
		if len(o.Of) == 0 {
			continue
		}
		faces := datumFaces(o)
		for i, l := range o.Datums {
			if i < len(faces) {
				taken[l] = faces[i].Name
			} else if taken[l] == "" {
				taken[l] = "another"
			}
		}
	}
	var out []string
	for _, face := range datumFaces(x) {
		letter := ""
		for _, l := range datumLetters {
			if had, has := taken[string(l)]; has && had == face.Name || !has && letter == "" {
				if letter = string(l); has {
					break
				}
			}
		}
		taken[letter] = face.Name
		out = append(out, letter)
	}
	return out
}

// frameOf puts the frame of a characteristic at a view that shows its face squarely.
func (p *Projected) frameOf(ex *exercise.Exercise, s *exercise.Sheet, x *exercise.Characteristic) error {
	places, err := inspect.Places(p.Geometry, x)
	if err != nil || len(places) == 0 {
		return &Impossible{fmt.Sprintf("“%s” is bound to no face", x.Label), "bind it to its faces first"}
	}
	f := p.Geometry.Faces[places[0][0][0]]
	for _, v := range s.Views {
		projection := p.Views[v.ID]
		if projection == nil || fromCorner(v) || v.Kind == "detail" {
			continue
		}
		along := math.Abs(f.Normal.Dot(projection.Frame.Z)) // 0: a flat face is seen edge on
		if f.Kind != solid.PlaneFace {
			along = math.Abs(f.Axis.Dot(projection.Frame.Z))
		}
		if along > 1e-6 && (f.Kind == solid.PlaneFace || along < 1-1e-6) {
			continue
		}
		if x.Declared().Symbol == characteristic.Position && along < 0.5 {
			continue // its datums are seen where the axis is a point
		}
		s.Marks = append(s.Marks, exercise.Mark{ID: fresh(ex.Sheets), Kind: exercise.Frame, Form: exercise.Leader,
			Of: []string{x.ID}, View: v.ID, Offset: [2]float64{14, 14}})
		return nil
	}
	return &Impossible{"no view of this sheet shows the face squarely", "add a view that does"}
}

// datums gives the frame of a mark other letters, the first of which are those of its own datums.
func (c Command) datums(ex *exercise.Exercise, m *exercise.Mark) error {
	letters := strings.FieldsFunc(strings.ToUpper(c.Text), func(r rune) bool { return r == ',' || r == ' ' || r == '|' })
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool {
		return m.Kind == exercise.Frame && x.ID == m.Of[0]
	})
	if i < 0 {
		return &Impossible{"only a frame has datums", "choose a frame"}
	}
	own := len(datumFaces(&ex.Characteristics[i]))
	if len(letters) < own || len(letters) > 3 {
		return &Impossible{fmt.Sprintf("a frame like this has %d to 3 datums", own), "write their letters, such as A, B"}
	}
	for k, l := range letters {
		if len(l) != 1 || !strings.Contains(datumLetters, l) || slices.Contains(letters[:k], l) {
			return &Impossible{fmt.Sprintf("“%s” is no letter of a datum, or stands there twice", l),
				"write letters such as A, B, without I, O and Q"}
		}
	}
	ex.Characteristics = slices.Clone(ex.Characteristics)
	ex.Characteristics[i].Datums = letters
	return nil
}

// positioned makes a position of the distances by which one hole is placed: that of a mark, and another one of the
// sheet from a face at an angle to the first. They stand in boxes from then on and are exact; what is checked is the
// position, in a frame.
func (p *Projected) positioned(ex *exercise.Exercise, s *exercise.Sheet, mark int, label func(*Offer) string) error {
	kind := characteristic.Framed(characteristic.Position)
	hole, from, ok := p.placing(ex, &s.Marks[mark], kind, -1)
	if !ok {
		return &Impossible{"a position is made of a distance of one hole from a face or an axis",
			"choose such a dimension, of one place alone"}
	}
	operand, err := inspect.Operand(p.Geometry, hole)
	if err != nil {
		return err
	}
	of, marks := []address.Ref{hole, from}, []int{mark}
	for i := range s.Marks {
		_, other, ok := p.placing(ex, &s.Marks[i], kind, operand[0])
		if !ok || i == mark || len(of) > 2 {
			continue
		}
		x := exercise.Characteristic{Kind: kind.Name, Of: [][]address.Ref{{hole, from, other}}, Exact: []float64{0, 0}}
		if place, err := inspect.Places(p.Geometry, &x); err == nil && len(place) == 1 {
			if _, err := kind.Measure(p.Geometry, place[0], x.How()); err == nil {
				of, marks = append(of, other), append(marks, i)
			}
		}
	}
	x := exercise.Characteristic{Kind: kind.Name, Of: [][]address.Ref{of}, Zone: zoneText(ex, 0.2)}
	if x.Exact, err = inspect.ExactPlace(p.Geometry, &x); err != nil {
		return err
	}
	var place characteristic.Place
	for _, ref := range of {
		if operand, err = inspect.Operand(p.Geometry, ref); err != nil {
			return err
		}
		place = append(place, operand)
	}
	x.Label, x.Datums = label(&Offer{Kind: kind.Name, place: place}), lettersFor(ex, &x)
	var gone []string
	for k, i := range marks {
		m := &s.Marks[i]
		gone = append(gone, m.Of...)
		m.Of, m.Measures, m.Exact, m.Anchors = nil, kind.From.Name, true, []address.Ref{hole, of[k+1]}
	}
	ex.Characteristics = slices.DeleteFunc(slices.Clone(ex.Characteristics), func(o exercise.Characteristic) bool {
		return slices.Contains(gone, o.ID)
	})
	id := ex.Add(x)
	return p.frameOf(ex, s, ex.Characteristic(id))
}

// placing tells whether a mark is the distance of a hole, which may be given, from something else, at one place.
func (p *Projected) placing(ex *exercise.Exercise, m *exercise.Mark, kind *characteristic.Kind,
	given int) (hole, from address.Ref, ok bool) {
	if m.Kind != exercise.Dimension || m.Form != exercise.Linear || len(m.Of) != 1 {
		return hole, from, false
	}
	x := ex.Characteristic(m.Of[0])
	places, err := inspect.Places(p.Geometry, x)
	if err != nil || len(places) != 1 || x.Kind != kind.From.Name || len(x.Of[0]) != 2 {
		return hole, from, false
	}
	for k, operand := range places[0] {
		f := p.Geometry.Faces[operand[0]]
		if f.Kind == solid.CylinderFace && (given < 0 && f.Hollow || operand[0] == given) {
			return x.Of[0][k], x.Of[0][1-k], true
		}
	}
	return hole, from, false
}

// zone gives the frame of a mark another width.
func (c Command) zone(ex *exercise.Exercise, m *exercise.Mark) error {
	ex.Characteristics = slices.Clone(ex.Characteristics)
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool {
		return m.Kind == exercise.Frame && x.ID == m.Of[0]
	})
	if i < 0 {
		return &Impossible{"only a frame has a zone", "choose a frame"}
	}
	x := &ex.Characteristics[i]
	x.Zone = strings.TrimSpace(c.Text)
	if x.Zone == "" && !x.Declared().Symbol.Leans() {
		return nil
	}
	if _, _, err := ex.Limits(x, characteristic.Stated{Leg: 1}); err != nil || x.Zone == "" {
		return &Impossible{fmt.Sprintf("%q is no width of a zone", c.Text), "write a number such as 0.05"}
	}
	return nil
}
