package requirement

import (
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
)

// A characteristic names what its kind goes by, and nothing else.
func TestCheck(t *testing.T) {
	hole, shaft := address.Ref{Component: "c1", Name: "bore"}, address.Ref{Component: "c2", Name: "round"}
	two := []address.Ref{hole, shaft}
	for _, c := range []struct {
		name, kind string
		about      About
		want       string // in the error; empty where there is none
	}{
		{"a distance between two faces", "placement", About{Of: two}, ""},
		{"a distance of one face", "placement", About{Of: two[:1]}, "is of a flat face of each"},
		{"a distance within one component", "placement", About{Of: []address.Ref{hole, hole}}, "both names are of c1"},
		{"a face without a component", "flush", About{Of: []address.Ref{hole, {Name: "top"}}}, "names no component"},
		{"the mobility of the whole", "mobility", About{}, ""},
		{"the mobility of a joint", "mobility", About{Joint: "j1"}, "is of the whole"},
		{"a ratio of two joints", "ratio", About{Joint: "j1", To: "j2"}, ""},
		{"a ratio of one joint", "ratio", About{Joint: "j1"}, "is of two joints"},
		{"a quantity of an item", "quantity", About{Item: "pin"}, ""},
		{"a quantity of an item and a trace", "quantity", About{Item: "pin", Trace: "t1"}, "name just that"},
		{"a path of nothing", "path", About{}, "is of a trace"},
	} {
		t.Run(c.name, func(t *testing.T) {
			err := Of(c.kind).Check(&c.about)
			switch {
			case c.want == "" && err != nil:
				t.Error(err)
			case c.want != "" && (err == nil || !strings.Contains(err.Error(), c.want)):
				t.Errorf("%v, and not %q", err, c.want)
			}
		})
	}
	if Of("colour") != nil {
		t.Error("there is a kind that nobody has declared")
	}
}

// lying is an assembly of which only one relation is known.
type lying struct {
	Standing
	Relation
}

func (l lying) Between(_, _ address.Ref) (Relation, error) { return l.Relation, nil }

// A fit of 25 H7 and g6 has a clearance between 7 and 41 micrometres (ISO 286-2:2010, tables 6 and 4: +21 and 0, −7 and
// −20), whichever of the two is named first; of an interference fit it is negative.
func TestFit(t *testing.T) {
	for _, c := range []struct {
		name        string
		bore, shaft float64 // diameters, mm
		want        float64
	}{
		{"the widest of H7/g6", 25.021, 24.980, 0.041},
		{"the closest of H7/g6", 25, 24.993, 0.007},
		{"the tightest of H7/p6", 25, 25.035, -0.035},
	} {
		for _, first := range []string{"the bore first", "the shaft first"} {
			t.Run(c.name+", "+first, func(t *testing.T) {
				r := Relation{Radius: [2]float64{c.bore / 2, c.shaft / 2}, Hollow: [2]bool{true, false}}
				if first == "the shaft first" {
					r = Relation{Radius: [2]float64{c.shaft / 2, c.bore / 2}, Hollow: [2]bool{false, true}}
				}
				got, err := Of("fit").Measure(lying{Relation: r}, &About{Of: make([]address.Ref, 2)})
				if err != nil || math.Abs(got-c.want) > 1e-9 {
					t.Errorf("%g mm, %v", got, err)
				}
			})
		}
	}
	two := lying{Relation: Relation{Radius: [2]float64{5, 5}, Hollow: [2]bool{true, true}}}
	if _, err := Of("fit").Measure(two, &About{Of: make([]address.Ref, 2)}); err == nil {
		t.Error("two bores are a fit")
	}
}
