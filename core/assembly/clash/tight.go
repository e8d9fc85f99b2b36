package clash

import (
	"fmt"
	"math"

	"hammerset/core/assembly"
	"hammerset/core/standards"
)

// coreSlack is how far a hole may be off the core of a thread: between the core of the thread itself and the drill
// before tapping, and a little more, in mm.
const coreSlack = 0.05

// ringsOnly is by how much more than the rings between shafts and bores two components may share, as a share of these.
const ringsOnly = 0.02

// tight tells whether all that two components share are shafts that are larger than their bores on purpose, and says
// so: pressed in within a stated fit, or screwed in.
func (l *Looker) tight(p *Pair, a, b *Placed) bool {
	rings := 0.0
	kind, what := "", ""
	for _, f := range p.Fits {
		if f.Clearance > -sameRound {
			continue
		}
		bore, shaft := f.Diameter, f.Diameter-f.Clearance
		rings += math.Pi / 4 * (shaft*shaft - bore*bore) * f.reach
		if f.thread[1] != "" && screwed(&f) {
			kind, what = Thread, fmt.Sprintf("%s and %s are screwed together: %s in a hole ⌀%.4g", a.Title, b.Title,
				f.thread[1], bore)
			continue
		}
		fit, most := l.stated(a, b, bore)
		if fit == "" || -f.Clearance > most+sameRound {
			return false
		}
		kind, what = PressFit, fmt.Sprintf("%s and %s are pressed together: the shaft (⌀%.5g) is %.3g mm larger than "+
			"the bore (⌀%.5g), and %s lets it be up to %.3g mm larger", a.Title, b.Title, shaft, -f.Clearance, bore, fit, most)
	}
	if kind == "" || p.Volume > (1+ringsOnly)*rings {
		return false
	}
	p.Kind, p.What = kind, what
	return true
}

// stated is the fit that a joint of two components states, and by how much the shaft may be larger than a bore at most.
func (l *Looker) stated(a, b *Placed, bore float64) (fit string, most float64) {
	if fit = l.Stated[[2]string{a.ID, b.ID}]; fit == "" {
		fit = l.Stated[[2]string{b.ID, a.ID}]
	}
	hole, shaft, ok := assembly.Fit(fit)
	if !ok {
		return "", 0
	}
	least, _, err := standards.Fit(hole, bore)
	if err != nil {
		return "", 0
	}
	_, largest, err := standards.Fit(shaft, bore)
	if err != nil {
		return "", 0
	}
	return fit, largest - least
}

// screwed tells whether a shaft with a thread lies in a hole of the core size of that thread: from its minor diameter
// (d - 1.0825 P, ISO 724) to the drill before tapping (d - P).
func screwed(f *Fit) bool {
	t, err := standards.MetricThread(f.thread[1])
	if err != nil || f.thread[0] != "" && f.thread[0] != f.thread[1] {
		return false
	}
	return f.Diameter > t.Core()-coreSlack && f.Diameter < t.TapDrill()+coreSlack
}
