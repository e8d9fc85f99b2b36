package section

import (
	"math"
	"testing"

	"hammerset/core/solid"
)

// tube is a closed mesh of a square tube along z, from 0 to 40: outside 2a wide, inside 2b.
func tube(a, b float64) *solid.Mesh {
	w := solid.NewWelder()
	ring := func(r, z float64) [4]solid.Vec {
		return [4]solid.Vec{{r, r, z}, {-r, r, z}, {-r, -r, z}, {r, -r, z}}
	}
	quad := func(p, q, r, s solid.Vec) { w.Triangle(p, q, r); w.Triangle(p, r, s) }
	low, high, inLow, inHigh := ring(a, 0), ring(a, 40), ring(b, 0), ring(b, 40)
	for k := range 4 {
		n := (k + 1) % 4
		quad(low[k], low[n], high[n], high[k])
		quad(inLow[n], inLow[k], inHigh[k], inHigh[n])
		quad(high[k], high[n], inHigh[n], inHigh[k])
		quad(low[n], low[k], inLow[k], inLow[n])
	}
	return w.Mesh()
}

// A cut has the area, the outline and the length of hatching of the face that it makes, across and along, through
// corners too; and the hatching lies in it.
func TestCutOfATube(t *testing.T) {
	const a, b = 10.0, 6.0
	for _, c := range []struct {
		name       string
		plane      solid.Frame
		area, edge float64
	}{
		{"across", solid.Plane(solid.Vec{0, 0, 17}, solid.Vec{0, 0, 1}), 4 * (a*a - b*b), 8 * (a + b)},
		{"along", solid.Plane(solid.Vec{1, 0, 0}, solid.Vec{1, 0, 0}), 2 * (a - b) * 40, 2 * 2 * (a - b + 40)},
		{"along an inner wall", solid.Plane(solid.Vec{b + 1e-7, 0, 0}, solid.Vec{1, 0, 0}), 2 * a * 40, 2 * (2*a + 40)},
		{"along its diagonal", solid.Plane(solid.Vec{}, solid.Vec{1, -1, 0}.Unit()), 2 * math.Sqrt2 * (a - b) * 40,
			4 * (math.Sqrt2*(a-b) + 40)},
		{"beside it", solid.Plane(solid.Vec{12, 0, 0}, solid.Vec{1, 0, 0}), 0, 0},
	} {
		shift := solid.Vec{5, -3, 2}
		c.plane.O = c.plane.O.Add(shift)
		h := Hatch{Angle: 0.6, Spacing: 0.05}
		cut := Of(tube(a, b), func(p solid.Vec) solid.Vec { return p.Add(shift) }, c.plane, h)
		area, edge, lines := 0.0, 0.0, 0.0
		for i := 0; i < len(cut.Fill); i += 3 {
			area += cut.Fill[i+1].Sub(cut.Fill[i]).Cross(cut.Fill[i+2].Sub(cut.Fill[i])).Norm() / 2
		}
		for i := 0; i < len(cut.Outline); i += 2 {
			edge += cut.Outline[i].Distance(cut.Outline[i+1])
		}
		for i := 0; i < len(cut.Hatch); i += 2 {
			lines += cut.Hatch[i].Distance(cut.Hatch[i+1])
		}
		if math.Abs(area-c.area) > 1e-6*1e3 || math.Abs(edge-c.edge) > 1e-6*1e3 {
			t.Errorf("%s: area %g and outline %g, not %g and %g", c.name, area, edge, c.area, c.edge)
		}
		// Lines so far apart fill the area, to the accuracy of a sum.
		if spacing := math.Max(h.Spacing, spread(cut.Outline, c.plane,
			h)/mostLines); math.Abs(lines*spacing-c.area) > 0.02*c.area {
			t.Errorf("%s: the hatching is %g long, and %g apart", c.name, lines, spacing)
		}
	}
}

// spread is how far an outline goes across the hatching.
func spread(outline []solid.Vec, plane solid.Frame, h Hatch) float64 {
	across := plane.Y.Scale(math.Cos(h.Angle)).Sub(plane.X.Scale(math.Sin(h.Angle)))
	low, high := math.Inf(1), math.Inf(-1)
	for _, p := range outline {
		low, high = math.Min(low, p.Dot(across)), math.Max(high, p.Dot(across))
	}
	return math.Max(0, high-low)
}

// Components that touch are hatched otherwise (ISO 128-3), those that do not may be alike.
func TestHatchesDifferWhereComponentsTouch(t *testing.T) {
	touch := [][2]int{{0, 1}, {1, 2}, {0, 2}, {2, 3}, {4, 3}, {0, 3}, {1, 3}}
	h := Hatches(6, touch, 2)
	for _, p := range touch {
		if h[p[0]] == h[p[1]] {
			t.Errorf("%d and %d are hatched alike: %v", p[0], p[1], h[p[0]])
		}
	}
	if h[5] != h[0] {
		t.Errorf("one by itself is hatched %v, and the first %v", h[5], h[0])
	}
}
