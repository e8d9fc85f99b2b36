package sketch

import (
	"fmt"
	"math"
	"testing"
)

// Apollonius of Perga: eight circles touch three given ones. A solution touches
// each from outside (s = +1: |c - c_i| = r + r_i) or holds it inside (s = -1:
// |c - c_i| = r - r_i). Subtracting the conditions pairwise leaves linear
// equations in the centre with r as parameter, and a quadratic for r. Each
// solution is reached from a start near it, with the sides that it has.
func TestApollonius(t *testing.T) {
	given := [3]struct{ x, y, r float64 }{{0, 0, 3}, {14, 1, 2.5}, {5, 12, 4}}
	reached := 0
	for mask := range 8 {
		var s [3]float64
		for i := range s {
			s[i] = 1
			if mask>>i&1 == 1 {
				s[i] = -1
			}
		}
		// 2(x_i - x_0)x + 2(y_i - y_0)y = |c_i|² - |c_0|² - r_i² + r_0² - 2 r (s_i r_i - s_0 r_0)
		var a, b [2]float64
		var k, m [2]float64 // right side k + m r
		for i := range 2 {
			g, o := given[i+1], given[0]
			a[i], b[i] = 2*(g.x-o.x), 2*(g.y-o.y)
			k[i] = g.x*g.x + g.y*g.y - o.x*o.x - o.y*o.y - g.r*g.r + o.r*o.r
			m[i] = -2 * (s[i+1]*g.r - s[0]*o.r)
		}
		det := a[0]*b[1] - a[1]*b[0]
		// x = px + qx r, y = py + qy r
		px, qx := (k[0]*b[1]-k[1]*b[0])/det, (m[0]*b[1]-m[1]*b[0])/det
		py, qy := (a[0]*k[1]-a[1]*k[0])/det, (a[0]*m[1]-a[1]*m[0])/det
		o := given[0]
		A := qx*qx + qy*qy - 1
		B := 2 * ((px-o.x)*qx + (py-o.y)*qy - s[0]*o.r)
		C := (px-o.x)*(px-o.x) + (py-o.y)*(py-o.y) - o.r*o.r
		for _, sign := range []float64{1, -1} {
			r := (-B + sign*math.Sqrt(B*B-4*A*C)) / (2 * A)
			if !(r > 0) {
				continue // the same circle with the other signs
			}
			x, y := px+qx*r, py+qy*r
			doc := sketchDoc(pts(o.x, o.y, given[1].x, given[1].y, given[2].x, given[2].y, x+0.05*r, y-0.04*r)+
				fmt.Sprintf(`{"id":"c0","kind":"circle","center":"p0","radius":%g},{"id":"c1","kind":"circle","center":"p1",
	"radius":%g},{"id":"c2","kind":"circle","center":"p2","radius":%g},{"id":"w","kind":"circle","center":"p3",
	"radius":%g},`, o.r, given[1].r, given[2].r, 1.03*r),
				con("f0", "fixed", "", "p0")+con("f1", "fixed", "", "p1")+con("f2", "fixed", "", "p2")+
					con("r0", "radius", fmt.Sprint(o.r), "c0")+con("r1", "radius", fmt.Sprint(given[1].r), "c1")+
					con("r2", "radius", fmt.Sprint(given[2].r), "c2")+
					con("t0", "tangent", "", "c0", "w")+con("t1", "tangent", "", "c1", "w")+con("t2", "tangent", "", "c2", "w"))
			sol, err := Solve(read(t, doc), 1, table(t))
			if err != nil || !sol.Held() {
				t.Fatalf("signs %v: %v, freedom %d, conflicts %v", s, err, sol.Freedom, sol.Conflicts)
			}
			w := sol.Curves[3]
			if math.Abs(w.Radius-r) > 1e-8*r || !w.Center.near(Vec{x, y}, 1e-8*r) {
				t.Errorf("signs %v: found %v radius %g, closed form (%g, %g) radius %g", s, w.Center, w.Radius, x, y, r)
			}
			reached++
		}
	}
	if reached != 8 {
		t.Errorf("%d of the eight circles", reached)
	}
}

// A four-bar linkage against Freudenstein's equation (1955):
// k1 cos ψ − k2 cos φ + k3 = cos(φ − ψ) with k1 = d/a, k2 = d/c,
// k3 = (a² − b² + c² + d²)/(2 a c), for crank a, coupler b, rocker c, ground d.
// The sketch is driven by the crank's angle step by step.
func TestFourBarAgainstFreudenstein(t *testing.T) {
	const a, b, c, d = 3.0, 8.0, 6.0, 9.0
	at := []float64{0, 0, a * math.Cos(0.5), a * math.Sin(0.5), 7.5, 6, d, 0}
	for step := range 30 {
		phi := 0.5 + 0.08*float64(step)
		doc := sketchDoc(pts(at...)+line("crank", "p0", "p1")+line("coupler", "p1", "p2")+line("rocker", "p2", "p3"),
			con("f0", "fixed", "", "p0")+con("f3", "fixed", "", "p3")+con("a", "length", fmt.Sprint(a), "crank")+
				con("b", "length", fmt.Sprint(b), "coupler")+con("c", "length", fmt.Sprint(c), "rocker")+
				con("phi", "angle", fmt.Sprintf("%.15g rad", phi), "x-axis", "crank"))
		sol, err := Solve(read(t, doc), 1, table(t))
		if err != nil || !sol.Held() {
			t.Fatalf("φ = %g: %v, freedom %d, conflicts %v", phi, err, sol.Freedom, sol.Conflicts)
		}
		p1, p2 := sol.Points["p1"], sol.Points["p2"]
		psi := math.Atan2(p2.Y, p2.X-d)
		k1, k2, k3 := d/a, d/c, (a*a-b*b+c*c+d*d)/(2*a*c)
		if e := k1*math.Cos(psi) - k2*math.Cos(phi) + k3 - math.Cos(phi-psi); math.Abs(e) > 1e-9 {
			t.Errorf("φ = %g, ψ = %g: Freudenstein's equation is off by %g", phi, psi, e)
		}
		if p2.Y < 0 {
			t.Fatalf("φ = %g: the linkage folded over", phi)
		}
		copy(at[2:], []float64{p1.X, p1.Y, p2.X, p2.Y})
	}
}

// The linkage of Peaucellier and Lipkin (1864) draws a straight line: a rhombus
// of side s held by two bars l at O, its near corner led on a circle through O
// about M. The far corner stays at x = (l² − s²)/(2 |OM|).
func TestPeaucellierLipkin(t *testing.T) {
	const l, s, m = 9.0, 6.0, 2.5
	want := (l*l - s*s) / (2 * m)
	for step := range 13 {
		turn := -0.6 + 0.1*float64(step) // of the crank about M
		near := Vec{m + m*math.Cos(turn), m * math.Sin(turn)}
		u := near.Scale(1 / near.Norm())
		n := Vec{-u.Y, u.X}
		mid := near.Norm() + 1.7 // rough: the solver finds the rest
		up, down := u.Scale(mid).Add(n.Scale(5)), u.Scale(mid).Sub(n.Scale(5))
		far := u.Scale(mid + 2)
		doc := sketchDoc(pts(m, 0, near.X, near.Y, up.X, up.Y, down.X, down.Y, far.X, far.Y)+line("crank", "p0", "p1"),
			con("f", "fixed", "", "p0")+con("k", "length", fmt.Sprint(m), "crank")+
				con("turn", "angle", fmt.Sprintf("%.15g rad", math.Abs(turn)), "x-axis", "crank")+
				con("l1", "distance", fmt.Sprint(l), "origin", "p2")+con("l2", "distance", fmt.Sprint(l), "origin", "p3")+
				con("s1", "distance", fmt.Sprint(s), "p1", "p2")+con("s2", "distance", fmt.Sprint(s), "p1", "p3")+
				con("s3", "distance", fmt.Sprint(s), "p4", "p2")+con("s4", "distance", fmt.Sprint(s), "p4", "p3"))
		if math.Abs(turn) < 1e-9 {
			continue // an angle of zero has no side to keep
		}
		sol, err := Solve(read(t, doc), 1, table(t))
		if err != nil || !sol.Solved || sol.Freedom != 0 {
			t.Fatalf("turn %g: %v, freedom %d, conflicts %v", turn, err, sol.Freedom, sol.Conflicts)
		}
		if x := sol.Points["p4"].X; math.Abs(x-want) > 1e-8 {
			t.Errorf("turn %g: the pen is at x = %.10g, the line at %.10g", turn, x, want)
		}
	}
}

// The regular pentagon by its equal sides and diagonals: diagonal to side is the
// golden ratio (Euclid XIII.8).
func TestPentagonsGoldenRatio(t *testing.T) {
	var xy []float64
	e, c := "", ""
	for i := range 5 {
		a := math.Pi/2 + float64(i)*2*math.Pi/5 + 0.1*float64(i%2)
		xy = append(xy, 8*math.Cos(a), 9*math.Sin(a))
		e += line(fmt.Sprintf("s%d", i), fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", (i+1)%5)) + line(fmt.Sprintf("d%d", i),
			fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", (i+2)%5))
		if i > 0 {
			c += con(fmt.Sprintf("es%d", i), "equal", "", "s0", fmt.Sprintf("s%d", i))
		}
		if i == 1 || i == 2 {
			c += con(fmt.Sprintf("ed%d", i), "equal", "", "d0", fmt.Sprintf("d%d", i))
		}
	}
	sol, err := Solve(read(t, sketchDoc(pts(xy...)+e, c+con("side", "length", "10", "s0"))), 1, table(t))
	if err != nil || !sol.Solved || sol.Freedom != 3 { // it may still be moved and turned
		t.Fatalf("%v: freedom %d, conflicts %v", err, sol.Freedom, sol.Conflicts)
	}
	golden := (1 + math.Sqrt(5)) / 2
	for _, k := range sol.Curves {
		want := 10.0
		if k.ID[0] == 'd' {
			want *= golden
		}
		if l := k.A.Distance(k.B); math.Abs(l-want) > 1e-8 {
			t.Errorf("%s is %.10g long, want %.10g", k.ID, l, want)
		}
	}
}

// Malfatti's circles: three circles in a triangle, each touching the two others
// and two sides. With semiperimeter s, inradius r and the distances d, e, f of the
// incentre from the corners, the radius at the first corner is
// r/(2(s-a)) · (s - r + d - e - f), and so on round (Schellbach; values worked
// out from the formula).
func TestMalfatti(t *testing.T) {
	p := [3]Vec{{0, 0}, {21, 2}, {6, 15}}
	side := func(i int) float64 { return p[(i+1)%3].Distance(p[(i+2)%3]) }
	s := (side(0) + side(1) + side(2)) / 2
	area := p[1].Sub(p[0]).Cross(p[2].Sub(p[0])) / 2
	r := area / s
	in := p[0].Scale(side(0)).Add(p[1].Scale(side(1))).Add(p[2].Scale(side(2))).Scale(1 / (2 * s))
	d := [3]float64{in.Distance(p[0]), in.Distance(p[1]), in.Distance(p[2])}
	doc, cons := pts(p[0].X, p[0].Y, p[1].X, p[1].Y, p[2].X, p[2].Y), ""
	for i := range 3 {
		c := p[i].Add(in.Sub(p[i]).Scale(0.7))
		doc += fmt.Sprintf(`{"id":"m%d","kind":"point","at":[%g,%g]},{"id":"c%d","kind":"circle","center":"m%d","radius":2},`,
			i, c.X, c.Y, i, i) + line(fmt.Sprintf("s%d", i), fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", (i+1)%3))
		cons += con(fmt.Sprintf("f%d", i), "fixed", "", fmt.Sprintf("p%d", i)) + con(fmt.Sprintf("t%d", i), "tangent", "",
			fmt.Sprintf("c%d", i), fmt.Sprintf("c%d", (i+1)%3)) +
			con(fmt.Sprintf("u%d", i), "tangent", "", fmt.Sprintf("c%d", i), fmt.Sprintf("s%d", i)) + con(fmt.Sprintf("v%d", i),
			"tangent", "", fmt.Sprintf("c%d", i), fmt.Sprintf("s%d", (i+2)%3))
	}
	sol, err := Solve(read(t, sketchDoc(doc, cons)), 1, table(t))
	if err != nil || !sol.Held() {
		t.Fatalf("%v, freedom %d, conflicts %v", err, sol.Freedom, sol.Conflicts)
	}
	for i := range 3 {
		want := r / (2 * (s - side(i))) * (s - r + d[i] - d[(i+1)%3] - d[(i+2)%3])
		for _, c := range sol.Curves {
			if c.ID == fmt.Sprintf("c%d", i) && math.Abs(c.Radius-want) > 1e-8*want {
				t.Errorf("radius %d is %g, want %g", i, c.Radius, want)
			}
		}
	}
}

// The regular heptadecagon in a circle of radius 1: Gauss (Disquisitiones
// Arithmeticae, 1801, art. 365) gives cos(2π/17) in square roots. It is drawn
// roughly and made regular by equal sides.
func TestHeptadecagon(t *testing.T) {
	r17 := math.Sqrt(17)
	gauss := (-1 + r17 + math.Sqrt(34-2*r17) + 2*math.Sqrt(17+3*r17-math.Sqrt(34-2*r17)-2*math.Sqrt(34+2*r17))) / 16
	const n = 17
	e, cons := "", con("lay", "horizontal", "", "p0", "origin")+con("R", "radius", "100", "rim")
	var xy []float64
	for i := range n {
		a := 2 * math.Pi * (float64(i) + 0.2*math.Sin(float64(3*i))) / n
		xy = append(xy, 95*math.Cos(a), 104*math.Sin(a))
		e += line(fmt.Sprintf("s%d", i), fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", (i+1)%n))
		cons += con(fmt.Sprintf("on%d", i), "on-curve", "", fmt.Sprintf("p%d", i), "rim")
		if i > 0 {
			cons += con(fmt.Sprintf("eq%d", i), "equal", "", "s0", fmt.Sprintf("s%d", i))
		}
	}
	sol, err := Solve(read(t, sketchDoc(pts(xy...)+`{"id":"rim","kind":"circle","center":"origin","radius":99,
	"guide":true},`+e, cons)), 1, table(t))
	if err != nil || !sol.Held() {
		t.Fatalf("%v, freedom %d, conflicts %v", err, sol.Freedom, sol.Conflicts)
	}
	if p := sol.Points["p1"]; math.Abs(p.X/100-gauss) > 1e-9 || p.Y < 0 {
		t.Errorf("the second corner is at %v, cos(2π/17) = %g", p, gauss)
	}
}

// A natural spline through points of a straight line is the line; through points
// at equal distances it has the poles that the tridiagonal system of the theory
// gives (de Boor, A Practical Guide to Splines, 1978: the second derivatives M
// of the natural interpolant at equal steps solve M[i-1]+4M[i]+M[i+1] =
// 6(y[i-1]-2y[i]+y[i+1])).
func TestNaturalSpline(t *testing.T) {
	y := []float64{0, 3, -1, 4, 2}
	var xy []float64
	for i, v := range y {
		xy = append(xy, float64(10*i), v)
	}
	sol, err := Solve(read(t, sketchDoc(pts(xy...)+`{"id":"s","kind":"spline","through":["p0","p1","p2","p3","p4"]},`,
		"")), 1, table(t))
	if err != nil || sol.Freedom != 10 {
		t.Fatalf("%v, freedom %d", err, sol.Freedom)
	}
	m := make([]float64, len(y)) // by Gauss-Seidel: diagonally dominant
	for range 200 {
		for i := 1; i < len(y)-1; i++ {
			m[i] = (6*(y[i-1]-2*y[i]+y[i+1]) - m[i-1] - m[i+1]) / 4
		}
	}
	c := sol.Curves[0]
	for i := range len(y) - 1 {
		for _, f := range []float64{0, 0.25, 0.5, 0.9} {
			want := m[i]*math.Pow(1-f, 3)/6 + m[i+1]*f*f*f/6 + (y[i]-m[i]/6)*(1-f) + (y[i+1]-m[i+1]/6)*f
			if p := c.Point(float64(i) + f); math.Abs(p.Y-want) > 1e-8 || math.Abs(p.X-10*(float64(i)+f)) > 1e-8 {
				t.Errorf("at %g: %v, want height %g", float64(i)+f, p, want)
			}
		}
	}
}
