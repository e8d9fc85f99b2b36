package check

import (
	"fmt"
	"slices"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/inspect"
	"hammerset/core/report"
	"hammerset/core/words"
)

// differs says in words which faces of the attempt lie elsewhere than any of the reference's, and which of that
// one's the attempt has not. Of those it says what they are, and no size: the sheet has the sizes
// that a student may know.
func (r *frame) differs(known, mine *inspect.Meshed) *report.Difference {
	out := &report.Difference{Missing: []string{}, Extra: []string{}}
	var missing, extra []string
	for _, f := range known.Strays(mine, r.pose.Transform.Inverse(), atlas.InPlace) {
		missing = append(missing, words.Kind(r.ref.Faces[f]))
	}
	for _, f := range mine.Strays(known, r.pose.Transform, atlas.InPlace) {
		extra = append(extra, words.Face(r.att.Faces[f], r.ex.Unit))
	}
	out.Missing, out.Extra = counted(missing), counted(extra)
	return out
}

// counted joins equal words: "2 times: flat face".
func counted(list []string) []string {
	out := []string{}
	slices.Sort(list)
	for len(list) > 0 {
		n := 1
		for n < len(list) && list[n] == list[0] {
			n++
		}
		what := "a " + list[0]
		if n > 1 {
			what = fmt.Sprintf("%d × %s", n, list[0])
		}
		out, list = append(out, what), list[n:]
	}
	return out
}
