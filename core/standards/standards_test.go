package standards

import "testing"

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
		{Linear, "f", 3, 0.05}, {Linear, "m", 3, 0.1}, {Linear, "m", 3.01, 0.1}, {Linear, "m", 6.01, 0.2}, {Linear, "m", 30, 0.2}, {Linear, "m", 30.5, 0.3},
		{Linear, "m", 120, 0.3}, {Linear, "m", 400, 0.5}, {Linear, "c", 30, 0.5}, {Linear, "c", 31, 0.8}, {Linear, "v", 6, 0.5}, {Linear, "v", 4000, 8}, {Linear, "f", 2000, 0.5}, {Linear, "m", 1000, 0.8},
		{BrokenEdge, "f", 3, 0.2}, {BrokenEdge, "m", 6, 0.5}, {BrokenEdge, "c", 7, 2}, {BrokenEdge, "v", 2, 0.4},
		{Angular, "f", 10, 1}, {Angular, "m", 50, 0.5}, {Angular, "c", 50, 1}, {Angular, "v", 401, 1.0 / 3}, {Angular, "m", 120, 1.0 / 3},
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

// ISO 216: the sides of an A sheet are as 1 to √2 and halving one gives the next,
// within a millimetre.
func TestPapers(t *testing.T) {
	for i := 1; i < len(Papers); i++ {
		small, large := Papers[i-1], Papers[i]
		if d := large.Height - small.Width; d < -1 || d > 1 {
			t.Errorf("%s and %s do not share a side", small.Name, large.Name)
		}
		if d := large.Width/2 - small.Height; d < -1 || d > 1 {
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
		if !(x.Major < x.Fine && x.Fine < x.Medium && x.Medium < x.Coarse && x.Coarse < x.CapHead && x.CapHead < x.Counterbore && x.Pitch < x.Major/3) {
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
