package atlas

import (
	"math"
	"testing"

	"hammerset/core/part"
	"hammerset/core/quantity"
)

// Sizes that change all measures in one ratio cannot be told apart; others can.
func TestSizesThatAreAlike(t *testing.T) {
	width := &Size{Parameter: "width", Slopes: Values{"over": {1}, "pitch": {1, 1}}, Volume: 980}
	for _, c := range []struct {
		other Size
		alike bool
	}{
		{Size{Parameter: "half", Slopes: Values{"over": {2}, "pitch": {2, 2}}, Volume: 1960}, true},
		{Size{Parameter: "back", Slopes: Values{"over": {-1}, "pitch": {-1, -1}}, Volume: -980}, true},
		{Size{Parameter: "width", Slopes: Values{"over": {1}}, Volume: 980}, false},
		{Size{Parameter: "pitch", Slopes: Values{"over": {0}, "pitch": {1, 1}}}, false},
		{Size{Parameter: "bore", Slopes: Values{"over": {1}, "pitch": {1, 1}}, Volume: -400}, false},
	} {
		if width.alike(&c.other) != c.alike || c.other.alike(width) != c.alike {
			t.Errorf("width and %s %v are alike: %v", c.other.Parameter, c.other.Slopes, !c.alike)
		}
	}
}

// A size stands where all that shows it measures as it should, whichever place is which; one that is not shown, or
// not all found, may be anything.
func TestSizesThatStand(t *testing.T) {
	width := &Size{Slopes: Values{"over": {1}, "holes": {0.5, 0.5}}}
	reference := Values{"over": {120}, "holes": {9, 10}, "bore": {24}}
	for _, c := range []struct {
		size     *Size
		measured Values
		stands   bool
	}{
		{width, Values{"over": {120}, "holes": {10, 9}, "bore": {30}}, true},
		{width, Values{"over": {120}, "holes": {9, 10.001}}, false},
		{width, Values{"over": {120}, "holes": {9}}, false},
		{width, Values{"over": {120}}, false},
		{&Size{}, Values{"over": {120}}, false},
	} {
		if got := c.size.Stands(reference, c.measured); got != c.stands {
			t.Errorf("%v measured: stands %v, want %v", c.measured, got, c.stands)
		}
	}
}

// What a size holds stays where it is, unless it is varied itself; what is worked out from others follows them
// and is then changed by so much.
func TestSettings(t *testing.T) {
	length := func(v float64) quantity.Quantity { return quantity.Quantity{Value: v, Dim: quantity.Length} }
	tied := &Size{Parameter: "width", Nominal: 120, Dim: quantity.Length}
	alone := &Size{Parameter: "width", Nominal: 120, Dim: quantity.Length,
		Holds: []Held{{"pitch", quantity.Length, 96}}}
	pitch := &Size{Parameter: "pitch", Nominal: 96, Dim: quantity.Length, Derived: true}
	doc := &part.Document{Unit: "mm", Parameters: []quantity.Parameter{{Name: "width", Formula: "120 mm"},
		{Name: "pitch", Formula: "width - 24 mm"}}}
	f := &finder{maker: maker{doc: doc}}
	for _, c := range []struct {
		name  string
		sizes []*Size
		value map[string]quantity.Quantity
		pitch float64
	}{
		{"tied", []*Size{tied}, map[string]quantity.Quantity{"width": length(121)}, 97},
		{"alone", []*Size{alone}, map[string]quantity.Quantity{"width": length(121)}, 96},
		{"the pitch", []*Size{pitch}, map[string]quantity.Quantity{"pitch": length(98)}, 98},
		{"both", []*Size{tied, pitch}, map[string]quantity.Quantity{"width": length(121), "pitch": length(97)}, 98},
	} {
		table, err := quantity.Evaluate(doc.Parameters, quantity.Millimetre, f.settings(c.sizes, c.value))
		if err != nil {
			t.Fatal(err)
		}
		if q, _ := table.Lookup("pitch"); math.Abs(q.Value-c.pitch) > 1e-12 {
			t.Errorf("%s: the pitch is %g, want %g", c.name, q.Value, c.pitch)
		}
	}
	// Carried, the pitch goes on to follow the width.
	for _, c := range []struct {
		causes []Cause
		at     float64 // of the width, when it is varied then
		pitch  float64
	}{
		{[]Cause{{Size: alone, Value: 121}}, 131, 106},
		{[]Cause{{Size: pitch, Value: 98}, {Size: tied, Value: 121}}, 131, 108},
		{[]Cause{{Size: tied, Value: 121}}, 131, 107},
	} {
		out, err := Carried(doc, c.causes)
		if err != nil {
			t.Fatal(err)
		}
		table, err := quantity.Evaluate(out.Parameters, quantity.Millimetre,
			map[string]quantity.Quantity{"width": length(c.at)})
		if err != nil {
			t.Fatal(err)
		}
		if q, _ := table.Lookup("pitch"); math.Abs(q.Value-c.pitch) > 1e-9 {
			t.Errorf("carried, at a width of %g the pitch is %g, want %g", c.at, q.Value, c.pitch)
		}
	}
}
