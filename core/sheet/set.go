package sheet

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/exercise"
)

// family is a view with those that are laid out from it, on whichever sheet they stand.
func family(set exercise.Sheets, id string) map[string]bool {
	out := map[string]bool{id: true}
	for _, v := range set.Views() { // parents stand first
		if out[v.Parent] {
			out[v.ID] = true
		}
	}
	return out
}

// removeView takes a view off its sheet, with those that are laid out from it. What was dimensioned in them goes among
// the notes.
func removeView(set exercise.Sheets, id string) error {
	gone := family(set, id)
	if len(gone) == len(set.Views()) {
		return &Impossible{"a set of sheets has one view at least", "add another before you remove this one"}
	}
	for n := range set {
		take(&set[n], gone)
	}
	return nil
}

// take takes views off a sheet, with what is marked in them.
func take(s *exercise.Sheet, ids map[string]bool) (views []exercise.View, marks []exercise.Mark) {
	leave := exercise.Sheet{Views: []exercise.View{}, Marks: []exercise.Mark{}}
	for _, v := range s.Views {
		if ids[v.ID] {
			views = append(views, v)
		} else {
			leave.Views = append(leave.Views, v)
		}
	}
	for _, m := range s.Marks {
		if ids[m.View] {
			marks = append(marks, m)
		} else {
			leave.Marks = append(leave.Marks, m)
		}
	}
	s.Views, s.Marks = leave.Views, leave.Marks
	return views, marks
}

// addSheet adds a sheet to the set, like the last one but bare.
func addSheet(ex *exercise.Exercise) error {
	n := len(ex.Sheets)
	if n >= exercise.MostSheets {
		return &Impossible{fmt.Sprintf("a set has %d sheets at most", exercise.MostSheets), "take a larger paper"}
	}
	s := ex.Sheets[n-1]
	s.Views, s.Marks = []exercise.View{}, []exercise.Mark{}
	ex.Sheets = append(slices.Clone(ex.Sheets), s)
	return nil
}

// endSheet takes a sheet out of the set, with its views and those that are laid out from them.
func (c Command) endSheet(ex *exercise.Exercise) error {
	set := slices.Clone(ex.Sheets)
	if len(set) == 1 {
		return &Impossible{"a set has one sheet at least", "lay this one out anew instead"}
	}
	gone := map[string]bool{}
	for _, v := range set[c.Sheet].Views {
		for id := range family(set, v.ID) {
			gone[id] = true
		}
	}
	if len(gone) == len(set.Views()) {
		return &Impossible{"all views are on this sheet", "put one onto another sheet before"}
	}
	for n := range set {
		take(&set[n], gone)
	}
	ex.Sheets = slices.Delete(set, c.Sheet, c.Sheet+1)
	return nil
}

// onto moves a view onto another sheet of the set, with those that are laid out from it and stand with it. A section or
// a detail may stand on a later sheet than what it is taken from.
func (c Command) onto(set exercise.Sheets, id string) error {
	to, err := strconv.Atoi(strings.TrimSpace(c.Text))
	if to--; err != nil || to < 0 || to >= len(set) || to == c.Sheet {
		return &Impossible{fmt.Sprintf("“%s” is no other sheet of this set", c.Text), "choose one of the list"}
	}
	if parent := set.View(id).Parent; parent != "" && set.On(parent) > to {
		return &Impossible{"what this view is taken from stands on a later sheet",
			"put that one onto an earlier sheet before"}
	}
	if cut := set.View(id).Cut; cut != nil && cut.Kind == exercise.RevolvedCut {
		return &Impossible{"a section that is turned into its view stays with it", "put that one onto the other sheet"}
	}
	moving := family(set, id)
	var views []exercise.View
	var marks []exercise.Mark
	for n := range set {
		if n == c.Sheet || n <= to { // what stands on a later one may stay there
			v, m := take(&set[n], moving)
			views, marks = append(views, v...), append(marks, m...)
		}
	}
	set[to].Views, set[to].Marks = append(set[to].Views, views...), append(set[to].Marks, marks...)
	return nil
}
