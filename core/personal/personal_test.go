package personal

import (
	"fmt"
	"testing"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
)

func bracket(ranges ...exercise.Range) (*exercise.Exercise, []quantity.Parameter) {
	return &exercise.Exercise{Unit: "mm", Personal: ranges, General: exercise.Tolerance{Kind: "iso2768", Class: "m"},
			Characteristics: []exercise.Characteristic{{ID: "a", Balloon: 1, Kind: "distance", Parameter: "width"}}},
		[]quantity.Parameter{{Name: "width", Formula: "50 mm"}, {Name: "height", Formula: "20 mm"},
			{Name: "holes", Formula: "4"}, {Name: "half", Formula: "width / 2"}}
}

// Any two sets that are drawn differ in two sizes by more than both may deviate, none comes twice, and there are as
// many as are said to be possible: levels of all ranges but the longest, multiplied (the Singleton bound for a
// distance of two, R. C. Singleton, IEEE Trans. Inf. Theory 10, 1964, from memory).
func TestAnyTwoSetsDifferInTwoSizes(t *testing.T) {
	width := exercise.Range{Parameter: "width", Least: "40 mm", Most: "60 mm", Step: "0.5 mm"}
	height := exercise.Range{Parameter: "height", Least: "15 mm", Most: "25 mm", Step: "1 mm"}
	holes := exercise.Range{Parameter: "holes", Least: "3", Most: "6", Step: "1"}
	for _, c := range []struct {
		ranges   []exercise.Range
		possible int
	}{
		{[]exercise.Range{width, height}, 11},        // width is ±0.3 (ISO 2768-m): 21 levels of 41 values
		{[]exercise.Range{height, width, holes}, 44}, // 11 × 4
		{[]exercise.Range{holes, height}, 4},
	} {
		ex, params := bracket(c.ranges...)
		for seed := range uint64(3) {
			s, err := New(ex, params, "mm", seed)
			if err != nil {
				t.Fatal(err)
			}
			if s.Possible() != c.possible {
				t.Fatalf("%d sets are possible, want %d", s.Possible(), c.possible)
			}
			table := func(set map[string]string, name string, dim quantity.Dim) float64 {
				of, err := quantity.Evaluate(params, quantity.Millimetre, nil)
				if err != nil {
					t.Fatal(err)
				}
				v, err := of.Eval(set[name], dim)
				if err != nil {
					t.Fatal(err)
				}
				return v
			}
			for i := range c.possible {
				for k := range i {
					a, b, differ := s.Draw(i), s.Draw(k), 0
					for _, r := range c.ranges {
						dim, least := quantity.Length, 0.02
						switch r.Parameter {
						case "holes":
							dim, least = quantity.Number, 0
						case "width":
							least = 0.6
						}
						d := table(a, r.Parameter, dim) - table(b, r.Parameter, dim)
						if d > least+1e-9 || -d > least+1e-9 {
							differ++
						}
					}
					if differ < 2 || !s.Apart(a, b) || s.Apart(a, a) {
						t.Fatalf("seed %d: %v and %v differ in %d sizes", seed, a, b, differ)
					}
				}
			}
			if fmt.Sprint(s.Draw(0)) != fmt.Sprint(s.Draw(c.possible)) {
				t.Error("counted around, the first comes again")
			}
		}
	}
}

func TestRangesThatCannotBeDrawnFrom(t *testing.T) {
	height := exercise.Range{Parameter: "height", Least: "15 mm", Most: "25 mm", Step: "1 mm"}
	for _, c := range []struct {
		ranges []exercise.Range
		want   string
	}{
		{[]exercise.Range{height}, "two sheets must differ in two sizes, and fewer have a range"},
		{[]exercise.Range{height, {Parameter: "half", Least: "1 mm", Most: "2 mm", Step: "1 mm"}},
			`the reference has no driving size "half"`},
		{[]exercise.Range{height, {Parameter: "width", Least: "50 mm", Most: "50.5 mm", Step: "0.1 mm"}},
			"width: its values lie within what the sheet lets it deviate"},
		{[]exercise.Range{height, {Parameter: "width", Least: "40 mm", Most: "60 mm", Step: "0 mm"}},
			"width: the step is not more than nothing"},
		{[]exercise.Range{height, {Parameter: "width", Least: "60 mm", Most: "40 mm", Step: "1 mm"}},
			"width: the range has one value alone"},
		{[]exercise.Range{height, {Parameter: "width", Least: "40 mm", Most: "60 mm", Step: "1 um"}}, "width: "},
		{[]exercise.Range{height, {Parameter: "width", Least: "40 mm", Most: "60 mm", Step: "0.001 mm"}},
			"width: the range has more than 1000 values"},
	} {
		ex, params := bracket(c.ranges...)
		_, err := New(ex, params, "mm", 1)
		said, ok := err.(*Error)
		if !ok || len(said.What) < len(c.want) || said.What[:len(c.want)] != c.want || said.Remedy == "" {
			t.Errorf("%v: %v, want %s", c.ranges, err, c.want)
		}
	}
}
