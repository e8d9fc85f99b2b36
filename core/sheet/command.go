package sheet

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"
	"unicode/utf8"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Command is one thing that a person does to a sheet. Item is what it is done to, "mark:m3" or "view:front", or several
// of these with spaces between them.
type Command struct {
	Do string `json:"do"`
	// Sheet is the number of the sheet in its set, from 0.
	Sheet int        `json:"sheet,omitempty"`
	Item  string     `json:"item,omitempty"`
	By    [2]float64 `json:"by,omitzero"` // in millimetres of paper
	Text  string     `json:"text,omitempty"`
	On    bool       `json:"on,omitempty"`
	// Tolerance is of a size alone.
	Tolerance *exercise.Tolerance `json:"tolerance,omitempty"`
	// Picks are places of the paper that were pointed at in the view, and Reach is how far an edge may be from them, in
	// mm.
	Picks [][2]float64 `json:"picks,omitempty"`
	Reach float64      `json:"reach,omitempty"`
	// Faces are those of the reference that were picked on itself, by number.
	Faces []address.Ref `json:"faces,omitempty"`
}

// What can be done to a sheet.
const (
	Move     = "move"       // a mark or a view, By
	Flip     = "flip"       // a mark to the other side; a section to be looked at from there
	Remove   = "remove"     // a mark; a view, with those that are laid out from it
	Drop     = "drop"       // the characteristic Text from the exercise
	Put      = "put"        // the characteristic Text onto a view, if it has no mark
	Write    = "write"      // Text into a note; with no item a new note at By
	Enframe  = "frame"      // the characteristic Text in a frame of ISO 1101
	ZoneOf   = "zone"       // of the frame of a mark: Text
	DatumsOf = "datums"     // of the frame of a mark: the letters in Text
	Placed   = "position"   // a distance of a hole with the other one: both exact, and a position in a frame
	Arrows   = "arrows"     // of a linear mark: outside, inside, or by themselves where Text is empty
	Symbol   = "symbol"     // of surface texture with Text, on the face whose line was picked; of a mark: which, Text
	Freely   = "free"       // have a view moved by itself, or not, as On says
	SeenFrom = "seen"       // a view from the side Text, at which nothing stands yet
	Smooth   = "smooth"     // show the tangent edges of a view, or not, as On says
	HideEdge = "hidden"     // show the hidden edges of a view, or not, as On says
	ScaleTo  = "scale"      // a view, or the sheet, in the scale Text
	PaperOf  = "paper"      // the sheet on the paper Text
	Projects = "projection" // the views laid out in the projection Text, first or third
	NewSheet = "add-sheet"  // one more sheet at the end of the set
	EndSheet = "end-sheet"  // the sheet goes, with what is on it
	Onto     = "onto"       // a view onto the sheet with the number Text, from 1, with those that are laid out from it
	Tolerate = "tolerance"  // the first size of a mark, by Tolerance; with none by the sheet's own
	Affix    = "affix"      // Text before or, with On, behind the sizes of a mark
	Clear    = "untangle"   // move the marks that are touched; done by Untangle

	Aside    = "parentheses" // a dimension into parentheses: it is read and no longer checked
	Number   = "number"      // of the balloon of a mark: Text
	Shorten  = "shorten"     // a view between two picks; with none it is whole again
	SquareTo = "square"      // a new view, square to the slanting face whose edge was picked

	Merge       = "merge"     // a leader into the note of another, the mark Text
	Renumber    = "renumber"  // the balloons, as they are read on the sheet
	Show        = "show"      // a new view of the kind Text
	CutAcross   = "section"   // a view, along the line between two picks
	StepTo      = "step"      // a section as well through the feature whose line was picked where it is cut
	CutAs       = "cut"       // a section: Text is how, or which half: left, right, above, below
	BreakOut    = "local"     // a piece of a view, in the circle about the first pick through the second
	LeaveWhole  = "whole"     // the rib that was picked in a section, or cut it again
	Enlarge     = "detail"    // of a view, in the circle about the first pick through the second
	DimensionOf = "dimension" // the offer Text for the picks in a view or the faces, By; with On at all places of its size
	State       = "state"     // the characteristic labelled Text that the audit proposes; done by who audits
	Propose     = "propose"   // all that is missing, as State does it; done by who audits
	AskFor      = "offers"    // which dimensions fit the picks in a view: nothing is done
)

// Impossible is a command that cannot be carried out, with what to do.
type Impossible struct{ What, Remedy string }

func (e *Impossible) Error() string { return e.What + "; " + e.Remedy }

// grid is the distance that places are rounded to when they are moved by hand, in mm.
const grid = 0.5

// Apply carries out a command on a sheet that has been projected and drawn. Label gives a new characteristic its label.
func (c Command) Apply(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, d *Drawing,
	label func(*Offer) string) error {
	if strings.Contains(c.Item, " ") {
		return c.each(ex, s, p, d, label)
	}
	what, id, _ := strings.Cut(c.Item, ":")
	mark := slices.IndexFunc(s.Marks, func(m exercise.Mark) bool { return what == "mark" && m.ID == id })
	view := slices.IndexFunc(s.Views, func(v exercise.View) bool { return what == "view" && v.ID == id })
	switch {
	case c.Do == Renumber:
		renumber(ex, s, d)
		return nil
	case c.Item == "":
		return c.onSheet(ex, s, p, label)
	case mark >= 0:
		return c.atMark(ex, s, p, mark, d.Handles[id], label)
	case view >= 0:
		return c.atView(ex, s, p, view, label)
	}
	return &Impossible{fmt.Sprintf("there is no %s on the sheet", c.Item), "choose what is there"}
}

// atMark carries out a command on a mark, which is held so.
func (c Command) atMark(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, mark int, h Handle,
	label func(*Offer) string) error {
	switch c.Do {
	case Merge:
		return merge(ex, s, p.Geometry, mark, c.Text)
	case Tolerate:
		return c.tolerate(ex, &s.Marks[mark])
	case Aside:
		return inParentheses(ex, s, p.Geometry, mark)
	case ZoneOf:
		return c.zone(ex, &s.Marks[mark])
	case DatumsOf:
		return c.datums(ex, &s.Marks[mark])
	case Placed:
		return p.positioned(ex, s, mark, label)
	case Number:
		return number(ex, &s.Marks[mark], c.Text)
	}
	return c.onMark(s, mark, h)
}

// atView carries out a command on a view.
func (c Command) atView(ex *exercise.Exercise, s *exercise.Sheet, p *Projected, view int,
	label func(*Offer) string) error {
	id := s.Views[view].ID
	switch c.Do {
	case CutAcross:
		return c.cutAcross(ex.Sheets, s, p, id)
	case Enlarge:
		return c.enlarge(ex.Sheets, s, p, id)
	case DimensionOf:
		return c.dimension(ex, s, p, label)
	case Shorten:
		return c.shorten(s, p, id)
	case Symbol:
		return c.symbolAt(ex, s, p, id)
	case SquareTo:
		return c.squareTo(ex.Sheets, s, p, id)
	case BreakOut:
		return c.breakOut(s, p, id)
	case LeaveWhole:
		return c.leaveWhole(s, p, id)
	case StepTo:
		return c.step(ex.Sheets, s, p, id)
	case Remove:
		return removeView(ex.Sheets, id)
	case Onto:
		return c.onto(ex.Sheets, id)
	}
	return c.onView(ex.Sheets, s, view)
}

// onSheet carries out a command on the sheet itself.
func (c Command) onSheet(ex *exercise.Exercise, s *exercise.Sheet, p *Projected,
	label func(*Offer) string) error {
	switch c.Do {
	case Put:
		return put(ex, s, p.Geometry, c.Text)
	case Enframe:
		return c.enframe(ex, s, p)
	case Write:
		s.Marks = append(s.Marks, exercise.Mark{ID: fresh(ex.Sheets), Kind: exercise.NoteText, Offset: neat(c.By),
			Text: c.Text, ByHand: true})
	case ScaleTo:
		return rescale(&s.Scale, c.Text)
	case PaperOf:
		if !slices.ContainsFunc(standards.Papers, func(p standards.Paper) bool { return p.Name == c.Text }) {
			return &Impossible{fmt.Sprintf("%q is not a size of paper", c.Text), "use A4 to A0, or Y14.1 A to E"}
		}
		s.Paper = c.Text
	case Projects:
		return p.reproject(s, c.Text)
	case Show:
		return c.show(ex.Sheets, s)
	case Drop:
		return c.drop(ex)
	case DimensionOf:
		return c.dimension(ex, s, p, label)
	case NewSheet:
		return addSheet(ex)
	case EndSheet:
		return c.endSheet(ex)
	default:
		return c.unknown()
	}
	return nil
}

// drop takes a characteristic out of the exercise, with what is drawn of it.
func (c Command) drop(ex *exercise.Exercise) error {
	gone := func(x exercise.Characteristic) bool { return x.ID == c.Text }
	if !slices.ContainsFunc(ex.Characteristics, gone) {
		return &Impossible{fmt.Sprintf("there is no characteristic %q", c.Text), "choose one that is there"}
	}
	if len(ex.Characteristics) == 1 {
		return &Impossible{"an exercise checks one thing at least", "add another before you remove this one"}
	}
	if x := ex.Characteristic(c.Text); x.Declared().From != nil { // the boxes that its exact place is given by go with it
		for n := range ex.Sheets {
			s := &ex.Sheets[n]
			s.Marks = slices.DeleteFunc(slices.Clone(s.Marks), func(m exercise.Mark) bool {
				return m.Exact && len(m.Anchors) == 2 && m.Anchors[0] == x.Of[0][0] &&
					slices.Contains(x.Of[0][1:], m.Anchors[1])
			})
		}
	}
	ex.Characteristics = slices.DeleteFunc(slices.Clone(ex.Characteristics), gone)
	ex.Sheets.Drop(func(id string) bool { return id == c.Text })
	return nil
}

// unknown says that there is no such command for such an item.
func (c Command) unknown() error {
	return &Impossible{fmt.Sprintf("%q cannot be done to %q", c.Do, c.Item), "choose something else"}
}

// onMark carries out a command on a mark.
func (c Command) onMark(s *exercise.Sheet, i int, h Handle) error {
	switch m := &s.Marks[i]; {
	case c.Do == Move:
		moveMark(m, c.By, h)
		if !c.On {
			snap(s, m)
		}
	case c.Do == Flip:
		return flip(m)
	case c.Do == Remove:
		s.Marks = slices.Delete(s.Marks, i, i+1)
	case c.Do == Write && (m.Kind == exercise.NoteText || m.Kind == exercise.SymbolMark):
		m.Text = c.Text
	case c.Do == Symbol && m.Kind == exercise.SymbolMark &&
		slices.Contains([]string{exercise.TextureAny, exercise.TextureRemoved, exercise.TextureKept}, c.Text):
		m.Symbol = c.Text
	case c.Do == Arrows && m.Form == exercise.Linear &&
		slices.Contains([]string{"", exercise.ArrowsInside, exercise.ArrowsOutside}, c.Text):
		m.Arrows = c.Text
	case c.Do == Affix && (m.Kind == exercise.NoteText || m.Kind == exercise.SymbolMark):
		return c.unknown()
	case c.Do == Affix && c.On:
		m.Suffix = spaced("", c.Text)
	case c.Do == Affix:
		m.Prefix = spaced(c.Text, "")
	default:
		return c.unknown()
	}
	return nil
}

// spaced is a word before or behind a size with the space between them; a symbol of one or two letters, such as SR, has
// none.
func spaced(before, behind string) string {
	switch before, behind = strings.TrimSpace(before), strings.TrimSpace(behind); {
	case utf8.RuneCountInString(before) > 2:
		return before + " "
	case behind != "":
		return " " + behind
	}
	return before
}

// tolerate gives the first size of a mark a tolerance of its own, or takes it away.
func (c Command) tolerate(ex *exercise.Exercise, m *exercise.Mark) error {
	i := slices.IndexFunc(ex.Characteristics, func(x exercise.Characteristic) bool {
		return len(m.Of) > 0 && x.ID == m.Of[0]
	})
	if i < 0 {
		return &Impossible{"only a size that is checked has a tolerance", "choose a dimension with a balloon"}
	}
	ex.Characteristics = slices.Clone(ex.Characteristics)
	x := &ex.Characteristics[i]
	x.Tolerance = c.Tolerance
	if _, _, err := ex.Limits(x, characteristic.Stated{Value: 10}); err != nil {
		return &Impossible{err.Error(), "write a class such as H7, or deviations such as 0.1"}
	}
	return nil
}

// reproject lays the views out in another projection, on the same piece of the paper: those over the front view change
// places with those under it, and those at its sides as well (ISO 5456-2).
func (p *Projected) reproject(s *exercise.Sheet, to string) error {
	if to != "first" && to != "third" {
		return &Impossible{fmt.Sprintf("%q is not a projection", to), "choose first or third angle"}
	}
	front := slices.IndexFunc(s.Views, func(v exercise.View) bool { return v.Kind == "front" && !fromCorner(v) })
	if to == s.Projection {
		return nil
	}
	var boxes []Extent
	var group []int // the principal views, which change places about the middle of all of them
	all := Extent{Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}}
	for i, v := range s.Views {
		if _, principal := viewFrame(v.Kind); front < 0 || !principal || fromCorner(v) {
			continue
		}
		placed, _, err := p.placedView(s, v.ID)
		if err != nil {
			return err
		}
		group, boxes = append(group, i), append(boxes, placed.box)
		for k := range 2 {
			all.Min[k], all.Max[k] = math.Min(all.Min[k], placed.box.Min[k]), math.Max(all.Max[k], placed.box.Max[k])
		}
	}
	for n, i := range group {
		middle := boxes[n].Min.add(boxes[n].Max).scale(0.5)
		for axis := range 2 {
			// As far from the other end as it was from one.
			s.Views[i].At[axis] += all.Min[axis] + all.Max[axis] - 2*middle[axis]
		}
	}
	s.Projection = to
	return nil
}

// mostInNote is how many sizes one note has at most: a bore, what it is sunk by and how deep, and its thread.
const mostInNote = 4

// merge puts the sizes of a leader into the note of another one in its view, if they are of one hole.
func merge(ex *exercise.Exercise, s *exercise.Sheet, geo *solid.Geometry, i int, into string) error {
	k := slices.IndexFunc(s.Marks, func(m exercise.Mark) bool { return m.ID == into })
	if k < 0 || k == i {
		return &Impossible{"there is no such note on the sheet", "choose another one"}
	}
	from, to := s.Marks[i], &s.Marks[k]
	leads := func(m exercise.Mark) bool {
		return m.Kind == exercise.Dimension && m.Form == exercise.Leader && !m.ReferenceSize()
	}
	if !leads(from) || !leads(*to) || from.View != to.View {
		return &Impossible{"only sizes at leaders of one view stand in one note", "choose two such"}
	}
	if len(from.Of)+len(to.Of) > mostInNote {
		return &Impossible{fmt.Sprintf("a note has %d sizes at most", mostInNote), "leave some at a leader of their own"}
	}
	if !sunk(ex, geo, to.Of[0], from.Of[0]) {
		return &Impossible{"a note is of one hole: what follows its size sinks it, and is larger and on its axis",
			"put the size of the sunk place into the note of the hole"}
	}
	to.Of = append(slices.Clone(to.Of), from.Of...)
	s.Marks = slices.Delete(s.Marks, i, i+1)
	return nil
}

// sunk tells whether a second size is of a place by which the hole of a first is sunk: behind its size it is printed
// so.
func sunk(ex *exercise.Exercise, geo *solid.Geometry, hole, place string) bool {
	var ends [2]solid.Face
	for k, id := range []string{hole, place} {
		places, err := inspect.Places(geo, ex.Characteristic(id))
		if err != nil || len(places) == 0 {
			return false
		}
		if ends[k] = geo.Faces[places[0][0][0]]; ends[k].Kind != solid.CylinderFace || !ends[k].Hollow {
			return false
		}
	}
	a, b := ends[0], ends[1]
	return b.Radius > a.Radius && a.Axis.Parallel(b.Axis, 1e-6) && solid.FromAxis(b.Origin, a.Origin, a.Axis).Norm() < 1e-4
}

// renumber numbers the balloons as a sheet is read: view by view, each from the top to the foot and from left to right,
// and what stands among the notes last. A characteristic keeps its id, by which everything else knows it.
func renumber(ex *exercise.Exercise, s *exercise.Sheet, d *Drawing) {
	const line = 12.0 // balloons that stand in one line, in mm
	view, at := map[string]int{}, map[string]Point{}
	for _, m := range s.Marks {
		for _, id := range m.Of {
			view[id] = 1 + slices.IndexFunc(s.Views, func(v exercise.View) bool { return v.ID == m.View })
		}
	}
	for _, m := range d.Marks {
		at[m.Characteristic] = m.At
	}
	order := make([]int, len(ex.Characteristics))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := ex.Characteristics[a].ID, ex.Characteristics[b].ID
		late := func(id string) int { // notes after all views
			if view[id] == 0 {
				return len(s.Views) + 1
			}
			return view[id]
		}
		return cmp.Or(cmp.Compare(late(x), late(y)), cmp.Compare(-math.Round(at[x][1]/line), -math.Round(at[y][1]/line)),
			cmp.Compare(at[x][0], at[y][0]))
	})
	list := slices.Clone(ex.Characteristics)
	for n, i := range order {
		list[i].Balloon = n + 1
	}
	ex.Characteristics = list
}

// onView carries out a command on a view.
func (c Command) onView(set exercise.Sheets, s *exercise.Sheet, i int) error {
	switch c.Do {
	case Move:
		if cut := s.Views[i].Cut; cut != nil && cut.Kind == exercise.RevolvedCut {
			return &Impossible{"a section that is turned into its view stands where it is cut",
				"move the view, or cut the section as one that stands by itself"}
		}
		moveView(s, i, c.By)
	case HideEdge:
		s.Views[i].Hidden = c.On
	case Smooth:
		s.Views[i].Smooth = c.On
	case Freely:
		s.Views[i].Free = c.On
	case ScaleTo:
		return rescale(&s.Views[i].Scale, c.Text)
	case SeenFrom:
		return c.seenFrom(set, &s.Views[i])
	case Flip:
		return turn(&s.Views[i])
	case CutAs:
		return c.cutAs(set, &s.Views[i])
	default:
		return c.unknown()
	}
	return nil
}

// seenFrom has a view look from another side. What stands at it, or is taken from it, is of what it shows now.
func (c Command) seenFrom(set exercise.Sheets, v *exercise.View) error {
	_, known := viewFrame(c.Text)
	_, principal := viewFrame(v.Kind)
	switch {
	case !known:
		return &Impossible{fmt.Sprintf("%q is no side to look from", c.Text), "choose one of the list"}
	case !principal || v.Cut != nil:
		return &Impossible{"this view is taken from another one", "remove it, and take it anew"}
	case slices.ContainsFunc(set.Views(), func(o exercise.View) bool { return o.Parent == v.ID }):
		return &Impossible{"other views are taken from this one", "remove those first, or add a view from the other side"}
	case slices.ContainsFunc(set.Marks(), func(m exercise.Mark) bool { return m.View == v.ID }):
		return &Impossible{"something stands at this view", "remove it first, or add a view from the other side"}
	}
	v.Kind, v.Label, v.Breaks, v.Clip = c.Text, "", nil, nil
	return nil
}

// neat is a place on the grid.
func neat(p [2]float64) [2]float64 {
	return [2]float64{grid * math.Round(p[0]/grid), grid * math.Round(p[1]/grid)}
}

// fresh is an id that no mark has.
func fresh(set exercise.Sheets) string {
	marks := set.Marks()
	for n := len(marks) + 1; ; n++ {
		id := fmt.Sprintf("m%d", n)
		if !slices.ContainsFunc(marks, func(m exercise.Mark) bool { return m.ID == id }) {
			return id
		}
	}
}

// moveMark moves a mark as it is held: along its line and away from what it measures, or freely. What was moved by hand
// stays there.
func moveMark(m *exercise.Mark, by [2]float64, h Handle) {
	m.ByHand = true
	if h.Out == (Point{}) {
		m.Offset = neat([2]float64{m.Offset[0] + by[0], m.Offset[1] + by[1]})
		return
	}
	p := Point(by)
	if along := p.dot(h.Along); math.Abs(along) >= grid/2 {
		m.Offset[0] = grid * math.Round((h.Shift+along)/grid)
		if m.Offset[0] == 0 {
			m.Offset[0] = grid / 8 // 0 stands for a text that finds its place by itself
		}
	}
	m.Offset[1] = math.Max(grid, grid*math.Round((m.Offset[1]+p.dot(h.Out))/grid))
}

// snapping is how near a line must come to that of another dimension to be put in line with it, in mm.
const snapping = 1.2

// snap puts a dimension that was moved on the line of another one at the same side of its view, if it comes near.
func snap(s *exercise.Sheet, m *exercise.Mark) {
	for _, o := range s.Marks {
		if o.ID == m.ID || o.View != m.View || o.Form != m.Form || o.Side != m.Side || m.Form != exercise.Linear {
			continue
		}
		if math.Abs(o.Offset[1]-m.Offset[1]) < snapping {
			m.Offset[1] = o.Offset[1]
			return
		}
	}
}

// moveView moves a view, and with it those that stand in line with it: under or over it along, beside it up and down.
func moveView(s *exercise.Sheet, i int, by [2]float64) {
	inLine := func(v exercise.View) bool {
		_, principal := viewFrame(v.Kind)
		return principal && !fromCorner(v) && !v.Free
	}
	was := s.Views[i]
	now := neat([2]float64{was.At[0] + by[0], was.At[1] + by[1]})
	for k := range s.Views {
		v := &s.Views[k]
		for axis := range 2 {
			if k == i || inLine(was) && inLine(*v) && math.Abs(v.At[axis]-was.At[axis]) < 1e-6 {
				v.At[axis] += now[axis] - was.At[axis]
			}
		}
	}
}

// flip puts a mark on the other side of its view, or of what it points at.
func flip(m *exercise.Mark) error {
	opposite := map[string]string{"above": "below", "below": "above", "left": "right", "right": "left",
		exercise.Aligned: exercise.AlignedBelow, exercise.AlignedBelow: exercise.Aligned}
	switch {
	case m.Form == exercise.Leader:
		m.Offset[0] = -m.Offset[0]
	case opposite[m.Side] != "":
		m.Side = opposite[m.Side]
	default:
		return &Impossible{"it has no other side", "drag it to where it should be"}
	}
	m.ByHand = true
	return nil
}

// put draws a characteristic where an arranged sheet has it, if the sheet has such a view.
func put(ex *exercise.Exercise, s *exercise.Sheet, geo *solid.Geometry, id string) error {
	c := ex.Characteristic(id)
	switch {
	case c == nil:
		return &Impossible{fmt.Sprintf("there is no characteristic %q", id), "add it first"}
	case ex.Sheets.Marked()[id]:
		return &Impossible{fmt.Sprintf("“%s” stands at a mark already", c.Label), "drag that one"}
	}
	arranged := arrange(geo, ex, s.Stands, nil)
	for _, m := range arranged.Marks {
		if !slices.Contains(m.Of, id) {
			continue
		}
		i := slices.IndexFunc(s.Views, func(v exercise.View) bool { return v.Kind == m.View })
		if i < 0 {
			return &Impossible{fmt.Sprintf("“%s” is read in the %s view, which this sheet does not have", c.Label, m.View),
				"lay the sheet out anew, or leave it among the notes"}
		}
		m.ID, m.View, m.Of = fresh(ex.Sheets), s.Views[i].ID, []string{id}
		s.Marks = append(s.Marks, m)
		return nil
	}
	return &Impossible{fmt.Sprintf("“%s” stands among the notes: no view shows it as a dimension", c.Label),
		"leave it there"}
}

// rescale puts another scale in the place of one.
func rescale(scale *string, name string) error {
	if _, err := scaleFactor(name); err != nil {
		return &Impossible{err.Error(), "choose one of 10:1 to 1:20"}
	}
	*scale = name
	return nil
}
