package standards

import (
	"math"
	"testing"
)

// ISO 2768-1:1989, tables 1 to 3, at the ends of their ranges (values from
// memory, checked against the way the tables are printed: a nominal size equal
// to the upper end belongs to the range).
func TestISO2768(t *testing.T) {
	for _, c := range []struct {
		f       func(Class, float64) (float64, error)
		class   Class
		nominal float64
		want    float64
	}{
		{Linear, "f", 3, 0.05}, {Linear, "m", 3, 0.1}, {Linear, "m", 3.01, 0.1}, {Linear, "m", 6.01, 0.2},
		{Linear, "m", 30, 0.2}, {Linear, "m", 30.5, 0.3},
		{Linear, "m", 120, 0.3}, {Linear, "m", 400, 0.5}, {Linear, "c", 30, 0.5}, {Linear, "c", 31, 0.8},
		{Linear, "v", 6, 0.5}, {Linear, "v", 4000, 8}, {Linear, "f", 2000, 0.5}, {Linear, "m", 1000, 0.8},
		{BrokenEdge, "f", 3, 0.2}, {BrokenEdge, "m", 6, 0.5}, {BrokenEdge, "c", 7, 2}, {BrokenEdge, "v", 2, 0.4},
		{Angular, "f", 10, 1}, {Angular, "m", 50, 0.5}, {Angular, "c", 50, 1}, {Angular, "v", 401, 1.0 / 3},
		{Angular, "m", 120, 1.0 / 3},
	} {
		if got, err := c.f(c.class, c.nominal); err != nil || got != c.want {
			t.Errorf("class %s, %g: %g, %v; want %g", c.class, c.nominal, got, err, c.want)
		}
	}
	for _, c := range []struct {
		class   Class
		nominal float64
	}{{"v", 2}, {"f", 3000}, {"m", 0.4}, {"m", 5000}, {"x", 10}} {
		if v, err := Linear(c.class, c.nominal); err == nil {
			t.Errorf("class %s, %g gives %g and should give none", c.class, c.nominal, v)
		}
	}
}

// ISO 216: the sides of an A sheet are as 1 to √2 and halving one gives the next, within a millimetre; A0 has a square
// metre. In inches two of a size make the next but one as high: 8.5 by 11, 11 by 17, 17 by 22, 22 by 34, 34 by 44.
func TestPapers(t *testing.T) {
	near := func(a, b float64) bool { return math.Abs(a-b) <= 1 }
	for i := 1; i < len(Papers); i++ {
		small, large := Papers[i-1], Papers[i]
		if small.Height > small.Width { // A4 stands upright
			small.Width, small.Height = small.Height, small.Width
		}
		if large.Name == "Y14.1 A" {
			if a := small.Width * small.Height / 1e6; math.Abs(a-1) > 0.001 {
				t.Errorf("%s has %g m²", small.Name, a)
			}
			continue
		}
		if !near(large.Height, small.Width) || !near(large.Width/2, small.Height) {
			t.Errorf("half of %s is not %s", large.Name, small.Name)
		}
	}
}

// Holes and keyways against what the standards have in common: clearance grows
// from fine to coarse, heads fit their counterbores, a tap drill leaves the pitch,
// and the ranges of the keys join. Single values are from memory.
func TestFastenersAndKeys(t *testing.T) {
	last := Thread{}
	for _, name := range ThreadNames() {
		x, err := MetricThread(name)
		if err != nil {
			t.Fatal(err)
		}
		if !(x.Major < x.Fine && x.Fine < x.Medium && x.Medium < x.Coarse && x.Coarse < x.CapHead &&
			x.CapHead < x.Counterbore && x.Pitch < x.Major/3) {
			t.Errorf("%+v does not grow from thread to head", x)
		}
		if x.Major <= last.Major || x.Medium <= last.Medium || x.Counterbore <= last.Counterbore || x.Pitch < last.Pitch {
			t.Errorf("%s is not larger than %s", x.Name, last.Name)
		}
		last = x
	}
	m8, _ := MetricThread(" m8 ")
	medium, err := m8.Clearance("")
	if err != nil || medium != 9 || m8.TapDrill() != 6.75 || m8.CapHead != 13 || m8.FlatHead != 17.92 {
		t.Errorf("M8: %+v, %v", m8, err)
	}
	if _, err := m8.Clearance("loose"); err == nil {
		t.Error("an unknown fit is taken")
	}
	if _, err := MetricThread("M7"); err == nil {
		t.Error("an unknown thread is taken")
	}
	for i, k := range keys {
		if i > 0 && k.Over != keys[i-1].To {
			t.Errorf("the range of shafts ends at %g and goes on at %g", keys[i-1].To, k.Over)
		}
		// The key fills the two keyways but for a small play at its top.
		if play := k.Shaft + k.Hub - k.Height; play < 0.1 || play > 0.5 {
			t.Errorf("a key of %g high in keyways of %g and %g", k.Height, k.Shaft, k.Hub)
		}
	}
	if k, err := ParallelKey(30); err != nil || k.Width != 8 || k.Shaft != 4 || k.Hub != 3.3 {
		t.Errorf("a shaft of 30: %+v, %v", k, err)
	}
	if _, err := ParallelKey(5); err == nil {
		t.Error("a key for a shaft of 5 mm")
	}
}

// ISO 286-2:2010: limit deviations of the classes in common use, in micrometres (values
// from memory of tables 2 to 32). The rule for the grades themselves is ISO 286-1, 4.1:
// from IT6 on every fifth step is ten times as coarse.
func TestISO286(t *testing.T) {
	for _, c := range []struct {
		class      string
		nominal    float64
		low, above float64
	}{
		{"H7", 25, 0, 21}, {"H7", 3, 0, 10}, {"H7", 3.01, 0, 12}, {"H8", 50, 0, 39}, {"H11", 80, 0, 190}, {"H6", 500, 0, 40},
		{"g6", 25, -20, -7}, {"f7", 25, -41, -20}, {"h6", 120, -22, 0}, {"h9", 10, -36, 0}, {"e8", 45, -89, -50},
		{"d9", 18, -93, -50}, {"c11", 45, -290, -130},
		{"js6", 30, -6.5, 6.5}, {"JS9", 16, -21.5, 21.5}, {"k6", 25, 2, 15}, {"k6", 3, 0, 6}, {"m6", 25, 8, 21},
		{"n6", 25, 15, 28}, {"p6", 25, 22, 35}, {"r6", 70, 43, 62}, {"s6", 60, 53, 72},
		{"K7", 16, -12, 6}, {"K7", 5, -9, 3}, {"M7", 16, -18, 0}, {"N7", 16, -23, -5}, {"P7", 16, -29, -11},
		{"P9", 5, -42, -12}, {"N9", 5, -30, 0}, {"S7", 25, -48, -27}, {"F8", 30, 20, 53}, {"G7", 30, 7, 28},
		{"D10", 12, 50, 120}, {"P7", 2, -16, -6},
	} {
		lo, hi, err := Fit(c.class, c.nominal)
		if err != nil || math.Abs(1000*lo-c.low) > 1e-6 || math.Abs(1000*hi-c.above) > 1e-6 {
			t.Errorf("%g %s: %g to %g, %v; want %g to %g", c.nominal, c.class, 1000*lo, 1000*hi, err, c.low, c.above)
		}
	}
	for _, bad := range []string{"", "7", "H", "Q7", "H4", "H99", "hH7", "K9"} {
		if lo, hi, err := Fit(bad, 20); err == nil {
			t.Errorf("%q gives %g to %g and should give none", bad, lo, hi)
		}
	}
	if _, _, err := Fit("H7", 501); err == nil {
		t.Error("a size above the table has a fit")
	}
	for _, size := range []float64{3, 10, 30, 120, 500} {
		for grade := 6; grade <= 8; grade++ {
			fine, _ := ITGrade(grade, size)
			coarse, _ := ITGrade(grade+5, size)
			if math.Abs(coarse/fine-10) > 0.3 {
				t.Errorf("%g mm: IT%d is %g times IT%d", size, grade+5, coarse/fine, grade)
			}
		}
	}
}
