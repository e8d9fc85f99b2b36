package exercise

import (
	"fmt"
	"slices"
)

// MostSheets is how many sheets a set has at most.
const MostSheets = 20

// Sheets are the sheets of one exercise, which are numbered as one set. An id of a view or a mark is of one sheet only,
// and a section or a detail may stand on a later sheet than the view that it is taken from.
type Sheets []Sheet

// On is the number of the sheet that has a view, from 0; -1 where none has it.
func (s Sheets) On(view string) int {
	return slices.IndexFunc(s, func(x Sheet) bool { return x.View(view) != nil })
}

// View finds a view by its id, on whichever sheet it stands.
func (s Sheets) View(id string) *View {
	if n := s.On(id); n >= 0 {
		return s[n].View(id)
	}
	return nil
}

// Views are those of all sheets, in order.
func (s Sheets) Views() []View {
	var out []View
	for i := range s {
		out = append(out, s[i].Views...)
	}
	return out
}

// Marks are those of all sheets, in order.
func (s Sheets) Marks() []Mark {
	var out []Mark
	for i := range s {
		out = append(out, s[i].Marks...)
	}
	return out
}

// Marked are the characteristics that stand at a mark.
func (s Sheets) Marked() map[string]bool {
	out := map[string]bool{}
	for _, m := range s.Marks() {
		for _, id := range m.Of {
			out[id] = true
		}
	}
	return out
}

// Dimensioned counts the dimensions and rows.
func (s Sheets) Dimensioned() int {
	n := 0
	for _, m := range s.Marks() {
		if m.Kind != NoteText && m.Kind != SymbolMark {
			n++
		}
	}
	return n
}

// Drop takes characteristics off the sheets; a mark that is of no other goes with them.
func (s Sheets) Drop(gone func(id string) bool) {
	for n := range s {
		x := &s[n]
		x.Marks = slices.DeleteFunc(x.Marks, func(m Mark) bool {
			return len(m.Of) > 0 && !slices.ContainsFunc(m.Of, func(id string) bool { return !gone(id) })
		})
		for i := range x.Marks {
			x.Marks[i].Of = slices.DeleteFunc(slices.Clone(x.Marks[i].Of), gone)
		}
	}
}

// check finds what is wrong with the sheets; known are the characteristics.
func (s Sheets) check(known map[string]bool) error {
	var before []View // on this sheet and those before it
	marks := map[string]bool{}
	for n := range s {
		at := fmt.Sprintf("/sheets/%d", n)
		for i := range s[n].Views {
			if err := s[n].Views[i].check(before, fmt.Sprintf("%s/views/%d", at, i)); err != nil {
				return err
			}
			if v := &s[n].Views[i]; v.Cut != nil && v.Cut.Kind == RevolvedCut && s[n].View(v.Parent) == nil {
				return &Error{fmt.Sprintf("%s/views/%d/parent", at, i),
					"a revolved section stands on the sheet of the view that it is cut from"}
			}
			before = append(before, s[n].Views[i])
		}
		if err := s[n].checkMarks(at, known, marks); err != nil {
			return err
		}
	}
	return nil
}
