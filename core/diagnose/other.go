package diagnose

import (
	"math"
	"slices"

	"hammerset/core/characteristic"
	"hammerset/core/report"
)

// Placed counts the characteristics that are measured on a place of the part: how many there are, how many are in, and
// for how many there is nothing.
func Placed(list []report.Characteristic) (asked, right, lost int) {
	for i := range list {
		c := &list[i]
		if characteristic.Of(c.Kind).Unplaced() || c.Verdict == report.Ask {
			continue
		}
		asked++
		switch c.Verdict {
		case report.NotFound:
			lost++
		case report.In:
			right++
		}
	}
	return asked, right, lost
}

// Foreign tells that so few of the characteristics are in that the part may be that of another sheet: at most a fifth.
// Of the 56 pairs of the demo's exercises none has more; of the parts with one to three mistakes (bench/verdicts) none
// has so few that match as badly.
func Foreign(asked, right int) bool { return asked >= 4 && 5*right <= asked }

// Other is the reference of another exercise.
type Other struct {
	Title string
	report.Bulk
}

// asOther is how near the figures must be, relative to those of the other part: what two programs and a rounded size
// differ by, and no two parts that are not alike.
const asOther = 1e-3

// Recognise says in a report of which other exercise an attempt is that nothing explains, where it is of one, and puts
// the findings on a part accordingly.
func Recognise(r *report.Report, others []Other) {
	if r.Assembly != nil {
		recogniseAssembly(r, others)
		return
	}
	if r.Explained || r.Scale != nil {
		return
	}
	measured := map[string]float64{}
	for _, f := range r.Whole {
		if f.Verdict == report.In && f.ID == "volume" {
			return // as far as that goes it is the part of this one
		}
		measured[f.ID] = f.Measured
	}
	near := func(id string, want float64) bool { return want > 0 && math.Abs(measured[id]-want) <= asOther*want }
	for _, o := range others {
		if near("volume", o.Volume) && near("area", o.Area) && near("moments", o.Inertia) {
			r.Another = o.Title
			r.Findings = Findings(r)
			return
		}
	}
}

// recogniseAssembly does so with an assembly of which no part is right.
func recogniseAssembly(r *report.Report, others []Other) {
	right := func(x report.Item) bool { return x.Verdict == report.In }
	is := r.Assembly.Bulk
	if is == nil || slices.ContainsFunc(r.Assembly.Items, right) {
		return
	}
	near := func(is, want float64) bool { return want > 0 && math.Abs(is-want) <= asOther*want }
	for _, o := range others {
		if o.Inertia == 0 && o.Solids == is.Solids && near(is.Volume, o.Volume) && near(is.Area, o.Area) {
			r.Another = o.Title
			return
		}
	}
}
