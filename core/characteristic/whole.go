package characteristic

import (
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// solids is how many solids there are.
func solids() *Kind {
	return &Kind{
		Name: "solids", Title: "number of solids", Dim: quantity.Number, Scope: WholePart,
		OfWhole: func(w Whole) float64 { return float64(w.Solids) },
	}
}

// mass is that of the whole part, in grams, to four significant figures in g or kg.
func mass() *Kind {
	return &Kind{
		Name: "mass", Title: "mass", Dim: quantity.Number, Scope: WholePart,
		OfWhole: func(w Whole) float64 { return w.Density * w.Volume },
		Density: true, Power: 3, Rounded: true,
		Remedy: "check the sizes, and what is missing or too much",
		Stated: func(v float64) Stated {
			unit, word := 1.0, " g"
			if v >= 1000 {
				unit, word = 1000, " kg"
			}
			places := 3 - int(math.Floor(math.Log10(math.Max(v/unit, 1e-9))))
			last := math.Pow(10, float64(places))
			r := math.Round(v/unit*last) / last
			return Stated{Text: quantity.FormatDecimal(r, max(0, places)) + word, Value: r * unit, Half: unit / last / 2}
		},
		Shown: func(v float64) string {
			if v >= 1000 {
				return quantity.FormatDecimal(v/1000, 4) + " kg"
			}
			return quantity.FormatDecimal(v, 3) + " g"
		},
	}
}

// material is what the part is to be made of.
func material() *Kind {
	return &Kind{
		Name: "material", Title: "material", Dim: quantity.Number, Scope: WholePart, State: Text,
		Said: func(g *solid.Geometry, _ int) []string { return g.Materials },
	}
}

// thread is what a round face is to be threaded with.
func thread() *Kind {
	return &Kind{
		Name: "thread", Title: "thread", On: "round faces", Dim: quantity.Number, Scope: EachFace, State: Text,
		Said: func(g *solid.Geometry, face int) []string {
			if t, ok := g.ThreadOn(face); ok {
				return []string{t}
			}
			return nil
		},
		Arranged: AtLeader,
	}
}
