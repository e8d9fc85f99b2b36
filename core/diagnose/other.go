package diagnose

import (
	"math"

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

// Other is the part of another exercise: its volume, surface area and largest moment of inertia at density one, in
// powers of millimetres.
type Other struct {
	Title                 string
	Volume, Area, Inertia float64
}

// asOther is how near the figures must be, relative to those of the other part: what two programs and a rounded size
// differ by, and no two parts that are not alike.
const asOther = 1e-3

// Recognise says in a report whose part an attempt is that nothing explains, where it is that of another exercise, and
// puts the findings accordingly.
func Recognise(r *report.Report, others []Other) {
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
