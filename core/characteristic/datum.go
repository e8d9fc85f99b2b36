package characteristic

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// datum is the distance of a place, or of the middle of two, from a datum plane of the model's
// own axes.
func datum() *Kind {
	k := &Kind{
		Name: "datum", Title: "place on a datum plane", On: "a face, or two for their middle",
		Dim: quantity.Length, Datum: true,
		Print: func(s Stated, how How) string {
			if s.Value == 0 {
				return "on " + how.Datum
			}
			return s.Text + " from " + how.Datum
		},
	}
	k.Measure = func(g *solid.Geometry, p Place, how How) (float64, error) {
		n, ok := DatumPlane(how.Datum)
		if !ok {
			return 0, fmt.Errorf("%q is not a datum plane: use XY, YZ or XZ", how.Datum)
		}
		if len(p) > 2 {
			return 0, fmt.Errorf("%s is measured on %s", k.Title, k.On)
		}
		sum := 0.0
		for _, at := range located(g, p) {
			if at.Kind == solid.PlaneLocus && !at.Dir.Parallel(n, square) || at.Kind == solid.LineLocus &&
				math.Abs(at.Dir.Dot(n)) > square {
				return 0, &Amiss{"it does not lie along the " + how.Datum + " plane"}
			}
			sum += at.At.Dot(n) / float64(len(p))
		}
		return math.Abs(sum), nil
	}
	return k
}

// DatumPlane gives the normal of a datum plane; not ok where the name is none.
func DatumPlane(name string) (normal solid.Vec, ok bool) {
	switch name {
	case "XY":
		return solid.Vec{0, 0, 1}, true
	case "YZ":
		return solid.Vec{1, 0, 0}, true
	case "XZ":
		return solid.Vec{0, 1, 0}, true
	}
	return normal, false
}
