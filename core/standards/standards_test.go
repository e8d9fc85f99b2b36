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
