package sheet

import (
	"math"
	"testing"

	"hammerset/core/solid"
)

// A hidden line is drawn where no visible one lies on it, whichever way round both run and however they are divided;
// what only crosses it, or runs beside it, covers nothing.
func TestVisibleLinesCoverHiddenOnes(t *testing.T) {
	line := func(hidden bool, points ...[2]float64) solid.ViewCurve {
		return solid.ViewCurve{Kind: "line", Hidden: hidden, Points: points}
	}
	arc := func(hidden bool, r, start, sweep float64) solid.ViewCurve {
		return solid.ViewCurve{Kind: "arc", Hidden: hidden, Center: [2]float64{3, 4}, Radius: r, Start: start, Sweep: sweep}
	}
	long := line(true, [2]float64{0, 0}, [2]float64{30, 40}) // 50 mm
	round := arc(true, 10, 0.5, 2*math.Pi)
	for name, x := range map[string]struct {
		hidden  solid.ViewCurve
		visible []solid.ViewCurve
		left    []float64 // lengths, or sweeps
	}{
		"nothing on it":      {long, nil, []float64{50}},
		"the same backwards": {long, []solid.ViewCurve{line(false, [2]float64{30, 40}, [2]float64{0, 0})}, nil},
		"two halves": {long, []solid.ViewCurve{line(false, [2]float64{0, 0}, [2]float64{15, 20}, [2]float64{33,
			44})}, nil},
		"the middle":         {long, []solid.ViewCurve{line(false, [2]float64{6, 8}, [2]float64{12, 16})}, []float64{10, 30}},
		"across it":          {long, []solid.ViewCurve{line(false, [2]float64{0, 40}, [2]float64{30, 0})}, []float64{50}},
		"beside it":          {long, []solid.ViewCurve{line(false, [2]float64{1, 0}, [2]float64{31, 40})}, []float64{50}},
		"a hidden one on it": {long, []solid.ViewCurve{line(true, [2]float64{90, 0}, [2]float64{99, 0})}, []float64{50, 9}},
		"half of a circle":   {round, []solid.ViewCurve{arc(false, 10, -1, math.Pi)}, []float64{math.Pi}},
		"all of a circle":    {round, []solid.ViewCurve{arc(false, 10, 3, -2*math.Pi)}, nil},
		"another circle":     {round, []solid.ViewCurve{arc(false, 9, 0, 2*math.Pi)}, []float64{2 * math.Pi}},
		"an arc, both its ends": {arc(true, 10, 1, 2), []solid.ViewCurve{arc(false, 10, 0.5, 1), arc(false, 10, 2.5, 1)},
			[]float64{1}},
	} {
		var left []float64
		for _, c := range uncovered(append([]solid.ViewCurve{x.hidden}, x.visible...)) {
			switch {
			case !c.Hidden:
			case c.Kind == "arc":
				left = append(left, c.Sweep)
			default:
				a, b := c.Points[0], c.Points[len(c.Points)-1]
				left = append(left, math.Hypot(b[0]-a[0], b[1]-a[1]))
			}
		}
		same := len(left) == len(x.left)
		for i := range min(len(left), len(x.left)) {
			same = same && math.Abs(left[i]-x.left[i]) < 1e-9
		}
		if !same {
			t.Errorf("%s: %v is left, not %v", name, left, x.left)
		}
	}
	// A bent run stays one where nothing covers it, and is two where its middle is covered.
	bent := line(true, [2]float64{0, 0}, [2]float64{10, 0}, [2]float64{20, 5}, [2]float64{30, 5})
	if got := uncovered([]solid.ViewCurve{bent}); len(got) != 1 || len(got[0].Points) != 4 {
		t.Errorf("a bent run alone: %+v", got)
	}
	middle := line(false, [2]float64{10, 0}, [2]float64{20, 5})
	if got := uncovered([]solid.ViewCurve{bent, middle}); len(got) != 3 {
		t.Errorf("a bent run with its middle covered: %+v", got)
	}
}
