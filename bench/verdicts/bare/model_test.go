package bare

import (
	"math"
	"slices"

	"hammerset/core/solid"
)

// model is one of the demo's exercises, made of bare solids and not by its reference.
type model struct {
	exercise string
	sizes    []size
	changes  []change
	build    func(s *shop, v variant) solid.Shape
	// truth is what every characteristic measures, in millimetres and radians, in a part that
	// has all its features. Of what is not in it nothing is said.
	truth func(v variant) map[string]float64
}

// size is one size of the sheet: what it is in millimetres or radians, the characteristics of which the first
// states it, and the features it is a size of. Its factors are those it can have without the features
// running into each other.
type size struct {
	name    string
	value   float64
	states  string
	of      string
	factors []float64
}

// change is a mistake that is no size. It is a mistake of one or more features (of), after it some
// characteristics are out, and of others nothing is said. Its finding says something like says.
type change struct {
	kind string // feature, count, side, place or form
	name string
	of   string
	out  string
	open string
	says string
}

// variant is a part with other sizes and changes.
type variant struct {
	size map[string]float64
	did  []string
}

func (v variant) is(name string) bool { return slices.Contains(v.did, name) }

// s is a size; the first letter of its use.
func (v variant) s(name string) float64 {
	x, ok := v.size[name]
	if !ok {
		panic("no size " + name) // of this file
	}
	return x
}

// if true, a, else b.
func pick[T any](yes bool, a, b T) T {
	if yes {
		return a
	}
	return b
}

const inch = 25.4

var degree = math.Pi / 180

// usual are factors that most sizes can have; bold ones are those that can be twice or half as well.
var (
	usual = []float64{0.88, 0.95, 1.06, 1.12}
	bold  = []float64{0.5, 0.88, 0.95, 1.06, 1.12, 2}
	half  = []float64{0.5, 0.88, 0.95, 1.06}
	less  = []float64{0.88, 0.95}
	more  = []float64{1.06, 1.12}
	slim  = []float64{0.95, 1.03}
)

// models are the eight exercises.
func models() []model {
	return []model{bracket(), plate(), block(), cover(), flange(), spindle(), stop(), bend()}
}

// up, down and so on are directions.
var (
	down    = solid.Vec{0, 0, -1}
	up      = solid.Vec{0, 0, 1}
	back    = solid.Vec{0, 1, 0}
	forward = solid.Vec{0, -1, 0}
)

// shifted are places that stand elsewhere.
func shifted(list []solid.Vec, by solid.Vec, yes bool) []solid.Vec {
	if !yes {
		return list
	}
	var out []solid.Vec
	for _, p := range list {
		out = append(out, p.Add(by))
	}
	return out
}

// only leaves the first place out where it is told to, or takes none of them.
func only(list []solid.Vec, none, oneLess bool) []solid.Vec {
	switch {
	case none:
		return nil
	case oneLess:
		return list[1:]
	}
	return list
}
