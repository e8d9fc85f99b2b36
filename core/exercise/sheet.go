package exercise

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
)

// Sheet is one sheet of an exercise: views of the reference, and what is marked on them. What is drawn is in
// millimetres of paper, from the lower left corner, y up; what is cut or left out of a view is in millimetres of the
// part.
type Sheet struct {
	Paper      string `json:"paper"`
	Scale      string `json:"scale"`
	Projection string `json:"projection"` // first or third
	// Stands says how the part stands where the axes of its file do not say it.
	Stands *Standing `json:"stands,omitempty"`
	Views  []View    `json:"views"`
	Marks  []Mark    `json:"marks"`
}

// Standing is how a part stands: the direction of a face, its normal or axis, that is up, and the one of another that
// looks to the front. A face that looks up as well stands in front of the first; without one any side is the front.
type Standing struct {
	Up    address.Ref `json:"up"`
	Front address.Ref `json:"front,omitzero"`
	// Lying: the first direction is to the right and not up. A turned part lies as it does in the lathe (common
	// practice, no source).
	Lying bool `json:"lying,omitempty"`
}

// View shows the reference from one side. Its kind is one of the principal views (front, back, top, bottom, left,
// right), pictorial or pictorial-back; or auxiliary, which looks squarely at the flat face Square that its parent shows
// edge on; or detail, which shows a piece of its parent again.
type View struct {
	ID     string      `json:"id"`
	Kind   string      `json:"kind"`
	Parent string      `json:"parent,omitempty"` // the view that it is laid out from
	Square address.Ref `json:"square,omitzero"`
	// Origin is the feature whose middle stands at At; without one it is the origin of the model. Nothing else moves when
	// a size changes or an edge is rounded.
	Origin address.Ref `json:"origin,omitzero"`
	At     [2]float64  `json:"at"`
	// Middle: At is the middle of what the view shows. Views of documents before exercise/3 have it.
	Middle    bool    `json:"middle,omitempty"`
	Scale     string  `json:"scale,omitempty"` // its own
	Hidden    bool    `json:"hidden,omitempty"`
	Smooth    bool    `json:"smooth,omitempty"` // tangent edges are drawn, narrow
	Free      bool    `json:"free,omitempty"`   // it is moved by itself: views in line with it do not follow, nor it them
	Letter    string  `json:"letter,omitempty"` // of a section or detail, as its parent shows it
	Label     string  `json:"label,omitempty"`
	LabelAway float64 `json:"labelAway,omitempty"` // more distance of the label from the view
	Clip      *Clip   `json:"clip,omitempty"`
	Breaks    []Break `json:"breaks,omitempty"`
	Cut       *Cut    `json:"cut,omitempty"`
	// Apart: of an arrangement sheet, its components are drawn out of one another.
	Apart bool `json:"apart,omitempty"`
}

// Clip is the piece that a partial view or a detail shows: a circle of Radius, or a rectangle of Size, about a place
// that is counted from the origin of the view.
type Clip struct {
	At     [2]float64  `json:"at"`
	Radius float64     `json:"radius,omitempty"`
	Size   *[2]float64 `json:"size,omitempty"`
}

// Shows tells whether there is a piece that is shown alone.
func (c *Clip) Shows() bool { return c.holds() }

// holds tells whether it is a piece.
func (c *Clip) holds() bool {
	return c != nil && (c.Radius > 0 || c.Size != nil && c.Size[0] > 0 && c.Size[1] > 0)
}

// Break takes a stretch out of a long part, counted from the origin of the view along x or y; what stands beyond comes
// nearer.
type Break struct {
	Along string  `json:"along"`
	From  float64 `json:"from"`
	To    float64 `json:"to"`
}

// Kinds of cuts.
const (
	FullCut    = "full"    // by one plane
	SteppedCut = "stepped" // by parallel planes, one through each feature of the path
	HalfCut    = "half"    // by one plane, and only on one side of the feature's middle
	RemovedCut = "removed" // by one plane, without what stands behind it

	AlignedCut  = "aligned"  // by two planes that meet in the first feature, one turned into the view
	RevolvedCut = "revolved" // as removed, and drawn where it is cut, in the parent
	LocalCut    = "local"    // by one plane, within a piece of the view alone
)

// Cut makes a section of a view. Its planes are square to the line of sight and pass through the middles of the
// features of Path; without any, through the origin of the model.
type Cut struct {
	Kind string        `json:"kind"`
	Path []address.Ref `json:"path,omitempty"`
	Side string        `json:"side,omitempty"` // of a half: left, right, above or below
	// Within is the piece of a local section, counted from the origin of the view.
	Within *Clip `json:"within,omitempty"`
	// Whole are sides of ribs that the cut goes along, which are drawn as if they were not cut.
	Whole []address.Ref `json:"whole,omitempty"`
	// Uncut are, of an arrangement sheet, the components that the cut leaves whole.
	Uncut []string `json:"uncut,omitempty"`
}

// Kinds of marks, and the forms of dimensions and rows.
const (
	Dimension = "dimension"
	Row       = "row" // several dimensions that belong together
	NoteText  = "note"
	Frame     = "frame" // of ISO 1101, at a leader

	SymbolMark = "symbol" // of surface texture (ISO 1302), at a leader to the face of its anchor

	Linear = "linear"
	Leader = "leader"
	Angle  = "angle"

	Aligned      = "aligned"
	AlignedBelow = "aligned-below"

	Chain    = "chain"    // one behind the other on one line
	Baseline = "baseline" // one above the other, all from the first place of the first
	Running  = "running"  // on one line, all from the first place of the first
)

// Symbols of surface texture.
const (
	TextureAny     = "texture"         // however it is made
	TextureRemoved = "texture-removed" // material must be removed
	TextureKept    = "texture-kept"    // no material may be removed
)

// Where the arrows of a linear dimension are, where that is not left to the room between them.
const (
	ArrowsInside  = "inside"
	ArrowsOutside = "outside"
)

// Mark is something that is drawn onto a sheet: a dimension, a row of dimensions, a note, a symbol.
type Mark struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
	Form string `json:"form,omitempty"`
	// Of lists characteristics. Of a dimension the first is drawn, and the values of the others stand in the same
	// note, each under its own balloon.
	Of []string `json:"of,omitempty"`
	// Measures is the kind of characteristic by which a reference size is measured on its Anchors. It is printed in
	// parentheses, has no balloon and is not checked (ISO 129-1: an auxiliary dimension).
	Measures string        `json:"measures,omitempty"`
	Anchors  []address.Ref `json:"anchors,omitempty"`
	// Exact: the reference size stands in a box and not in parentheses; the exact place of a position is given by it
	// (ISO 1101).
	Exact bool   `json:"exact,omitempty"`
	View  string `json:"view,omitempty"`
	// Side of the outline of the view on which a linear dimension or a row stands: above, below, left or right; or
	// aligned, along what it measures, over or under that.
	Side string `json:"side,omitempty"`
	// Offset is, of a linear dimension or row, how far the text is shifted along its line, and how far the line is from
	// the outline; of a leader, the way from what it points at to where the text begins; of an angle, how far the text
	// is shifted upwards, and the radius of the arc; of a note, its place, from the corner of the paper or the origin of
	// its view.
	Offset [2]float64 `json:"offset"`
	// Place is the number of the place that a leader points at; the one farthest along it when 0.
	Place  int    `json:"place,omitempty"`
	Prefix string `json:"prefix,omitempty"`
	Suffix string `json:"suffix,omitempty"`
	Text   string `json:"text,omitempty"`   // of a note or a symbol
	Symbol string `json:"symbol,omitempty"` // of surface texture
	Arrows string `json:"arrows,omitempty"` // of a linear dimension: inside or outside
	ByHand bool   `json:"byHand,omitempty"` // it was put there by a person, and stays when the rest is arranged anew
}

// ReferenceSize tells whether the mark is a size in parentheses, which belongs to no characteristic.
func (m *Mark) ReferenceSize() bool { return m.Measures != "" }

// View finds a view by its id.
func (s *Sheet) View(id string) *View {
	for i := range s.Views {
		if s.Views[i].ID == id {
			return &s.Views[i]
		}
	}
	return nil
}

// checkMarks finds what is wrong with the marks of a sheet that stands at a place of its document; had are the ids of
// the sheets before.
func (s *Sheet) checkMarks(at string, known, had map[string]bool) error {
	for i := range s.Marks {
		m, at := &s.Marks[i], fmt.Sprintf("%s/marks/%d", at, i)
		if m.ID == "" || had[m.ID] {
			return &Error{at + "/id", fmt.Sprintf("the id %q is empty or used twice", m.ID)}
		}
		had[m.ID] = true
		for k, id := range m.Of {
			if !known[id] {
				return &Error{fmt.Sprintf("%s/of/%d", at, k), fmt.Sprintf("there is no characteristic %q", id)}
			}
		}
		if err := m.check(at); err != nil {
			return err
		}
	}
	return nil
}

// check finds what is wrong with a view, after those before it. A parent stands before its children, so that none is
// its own.
func (v *View) check(before []View, at string) error {
	if v.ID == "" || slices.ContainsFunc(before, func(o View) bool { return o.ID == v.ID }) {
		return &Error{at + "/id", fmt.Sprintf("the id %q is empty or used twice", v.ID)}
	}
	needs := v.Kind == "auxiliary" || v.Kind == "detail"
	if (needs || v.Parent != "") && !slices.ContainsFunc(before, func(o View) bool { return o.ID == v.Parent }) {
		return &Error{at + "/parent",
			fmt.Sprintf("there is no view %q before this one that it could be laid out from", v.Parent)}
	}
	if v.Kind == "auxiliary" && v.Square.Name == "" {
		return &Error{at + "/square", "name the flat face that the view looks at squarely"}
	}
	if v.Clip != nil && !v.Clip.holds() {
		return &Error{at + "/clip", "give the piece that is shown a radius or a size"}
	}
	if v.Kind == "detail" && v.Clip == nil {
		return &Error{at + "/clip", "say which piece the detail shows"}
	}
	for k, b := range v.Breaks {
		if b.Along != "x" && b.Along != "y" || !(b.From < b.To) {
			return &Error{fmt.Sprintf("%s/breaks/%d", at, k), "a break goes along x or y, from one place to a higher one"}
		}
	}
	if v.Cut == nil {
		return nil
	}
	return v.Cut.check(at + "/cut")
}

// check finds what is wrong with a cut.
func (c *Cut) check(at string) error {
	switch c.Kind {
	case FullCut, RemovedCut, SteppedCut, AlignedCut, RevolvedCut:
	case LocalCut:
		if !c.Within.holds() {
			return &Error{at + "/within", "give the piece that is cut a radius or a size"}
		}
	case HalfCut:
		if !slices.Contains([]string{"left", "right", "above", "below"}, c.Side) {
			return &Error{at + "/side", "say which half is cut: left, right, above or below"}
		}
	default:
		return &Error{at + "/kind", fmt.Sprintf("%q is not a kind of cut: use full, stepped, half, removed, aligned, "+
			"revolved or local", c.Kind)}
	}
	least, most := 0, 1
	switch c.Kind {
	case SteppedCut:
		least, most = 2, math.MaxInt
	case AlignedCut:
		least, most = 2, 2
	case LocalCut, RevolvedCut:
		least = 1
	}
	if n := len(c.Path); n < least || n > most {
		return &Error{at + "/path", "a stepped cut passes through two features or more, an aligned one through two, a " +
			"local or revolved one through one, any other through one or none"}
	}
	return nil
}

// check finds what is wrong with a mark.
func (m *Mark) check(at string) error {
	forms := map[string][]string{Dimension: {Linear, Leader, Angle}, Row: {Chain, Baseline, Running},
		NoteText: {""}, Frame: {Leader}, SymbolMark: {Leader}}[m.Kind]
	switch {
	case forms == nil:
		return &Error{at + "/kind", fmt.Sprintf("%q is not a kind of mark: use dimension, row, frame, note or symbol",
			m.Kind)}
	case !slices.Contains(forms, m.Form):
		return &Error{at + "/form", fmt.Sprintf("a %s cannot be %q", m.Kind, m.Form)}
	case m.Kind == NoteText:
		return nil
	case m.Arrows != "" && m.Arrows != ArrowsInside && m.Arrows != ArrowsOutside:
		return &Error{at + "/arrows", fmt.Sprintf("%q is no place of arrows: use inside or outside", m.Arrows)}
	case m.Kind == SymbolMark && !slices.Contains([]string{TextureAny, TextureRemoved, TextureKept}, m.Symbol):
		return &Error{at + "/symbol", fmt.Sprintf("%q is no symbol: use texture, texture-removed or texture-kept", m.Symbol)}
	case m.Kind == SymbolMark && len(m.Anchors) != 1:
		return &Error{at + "/anchors", "name the one face that the symbol is of"}
	case m.Kind == SymbolMark:
		return nil
	case m.Kind == Row && len(m.Of) < 2:
		return &Error{at + "/of", "a row needs two characteristics or more"}
	case !m.ReferenceSize() && len(m.Of) == 0:
		return &Error{at + "/of", "name the characteristic, or say how a size in parentheses is measured"}
	case m.ReferenceSize() && (len(m.Of) > 0 || m.Kind == Row):
		return &Error{at + "/measures", "a size in parentheses is of no characteristic, and in no row"}
	case m.ReferenceSize() && (characteristic.Of(m.Measures) == nil || characteristic.Of(m.Measures).Whole()):
		return &Error{at + "/measures", fmt.Sprintf("%q cannot be drawn as a size in parentheses", m.Measures)}
	case m.ReferenceSize() && len(m.Anchors) == 0:
		return &Error{at + "/anchors", "name the faces that the size in parentheses is measured on"}
	}
	return nil
}
