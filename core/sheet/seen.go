package sheet

import (
	"hammerset/core/exercise"
)

// Seen tells of the faces of the reference which show in a view of a set of sheets as a visible edge or outline. What a
// view shows from a corner counts for nothing, since no size is read there (ISO 5456-3).
func (p *Projected) Seen(set exercise.Sheets) (map[int]bool, error) {
	out := map[int]bool{}
	for _, spec := range set.Views() {
		if fromCorner(spec) {
			continue
		}
		v, _, err := placed(&set[set.On(spec.ID)], spec, p.Views)
		if err != nil {
			return nil, err
		}
		for _, c := range p.Views[spec.ID].Curves {
			if c.Hidden || c.Smooth || len(v.window.through(c.ViewCurve)) == 0 {
				continue
			}
			for _, f := range c.Of {
				out[f] = true
			}
		}
	}
	return out, nil
}
