package sketch

import (
	"fmt"
	"math"
	"testing"
)

// Every constraint, on every sensible pair of kinds, means what it says: from a
// rough start it is solved, and a check that shares nothing with the solver's
// equations, by sampled points and elementary geometry, finds it true.
func TestConstraintsMeanWhatTheySay(t *testing.T) {
	const base = `{"id":"p0","kind":"point","at":[2,1]},{"id":"p1","kind":"point","at":[31,5]},{"id":"p2","kind":"point",
	"at":[6,22]},{"id":"p3","kind":"point","at":[34,28]},{"id":"p4","kind":"point","at":[15,41]},{"id":"p5","kind":"point",
	"at":[52,14]},` +
		`{"id":"p6","kind":"point","at":[60,21]},{"id":"p7","kind":"point","at":[50,25]},{"id":"p8","kind":"point","at":[-22,
	10]},{"id":"p9","kind":"point","at":[-8,13]},{"id":"p10","kind":"point","at":[-24,19]},` +
		`{"id":"q0","kind":"point","at":[-20,-30]},{"id":"q1","kind":"point","at":[-6,-28]},{"id":"q2","kind":"point",
	"at":[-22,-21]},{"id":"s0","kind":"point","at":[70,0]},{"id":"s1","kind":"point","at":[78,9]},{"id":"s2",
	"kind":"point","at":[88,-3]},{"id":"s3","kind":"point","at":[99,6]},` +
		`{"id":"l0","kind":"line","from":"p0","to":"p1"},{"id":"l1","kind":"line","from":"p2","to":"p3"},{"id":"l2",
	"kind":"line","from":"p0","to":"p4"},{"id":"c0","kind":"circle","center":"p4","radius":9},{"id":"c1","kind":"circle",
	"center":"p3","radius":5},` +
		`{"id":"a0","kind":"arc","center":"p5","start":"p6","end":"p7"},{"id":"e0","kind":"ellipse","center":"p8",
	"major":"p9","minor":"p10"},{"id":"e1","kind":"ellipse","center":"q0","major":"q1","minor":"q2"},{"id":"s",
	"kind":"spline","through":["s0","s1","s2","s3"]},{"id":"t","kind":"line","from":"s3","to":"p5"},`
	at := func(s *Solution, id string) Vec { return s.Points[id] }
	curve := func(s *Solution, id string) *Curve {
		for i := range s.Curves {
			if s.Curves[i].ID == id {
				return &s.Curves[i]
			}
		}
		t.Fatalf("no curve %s", id)
		return nil
	}
	dir := func(s *Solution, id string) Vec { c := curve(s, id); return c.B.Sub(c.A).Unit() }
	off := func(s *Solution, p Vec, line string) float64 {
		c := curve(s, line)
		return dir(s, line).Cross(p.Sub(c.A))
	}
	// whole is a curve without ends, sampled.
	whole := func(s *Solution, id string) []Vec {
		c := *curve(s, id)
		if c.Kind == KindArc {
			c.Kind = KindCircle
		}
		lo, hi := c.Range()
		var out []Vec
		for i := range 7200 {
			out = append(out, c.Point(lo+(hi-lo)*float64(i)/7200))
		}
		return out
	}
	// touches: the least distance between two curves is nothing, and where they
	// meet they do not cross: one stays on one side of the other there.
	touches := func(a, b string) func(s *Solution) float64 {
		return func(s *Solution) float64 {
			c := *curve(s, b)
			if c.Kind == KindArc {
				c.Kind = KindCircle
			}
			long := c
			if c.Kind == KindLine {
				v := c.B.Sub(c.A).Scale(50)
				long.A, long.B = c.A.Sub(v), c.B.Add(v)
			}
			lo, hi := math.Inf(1), math.Inf(-1)
			for _, p := range whole(s, a) {
				var d float64
				if c.Kind == KindLine {
					d = c.B.Sub(c.A).Unit().Cross(p.Sub(c.A))
				} else {
					u := p.Sub(c.Center)
					switch c.Kind {
					case KindCircle:
						d = u.Norm() - c.Radius
					default:
						d = (math.Hypot(u.Dot(c.U)/c.U.Dot(c.U), u.Dot(c.V)/c.V.Dot(c.V)) - 1) * c.U.Norm()
					}
				}
				lo, hi = math.Min(lo, d), math.Max(hi, d)
			}
			return math.Min(math.Abs(lo), math.Abs(hi)) // an extreme of the distance is zero
		}
	}
	mirrored := func(s *Solution, p, q Vec, line string) float64 {
		c := curve(s, line)
		u := dir(s, line)
		d := p.Sub(c.A)
		return c.A.Add(u.Scale(2 * d.Dot(u))).Sub(d).Distance(q)
	}
	con := func(kind, value string, of ...string) Constraint {
		return Constraint{ID: "k", Kind: kind, Of: of, Value: value}
	}
	for i, c := range []struct {
		Constraint
		off func(s *Solution) float64 // how untrue it is
		tol float64
	}{
		{con("coincident", "", "p1", "p5"), func(s *Solution) float64 { return at(s, "p1").Distance(at(s, "p5")) }, 1e-9},
		{con("on-curve", "", "p3", "l0"), func(s *Solution) float64 { return off(s, at(s, "p3"), "l0") }, 1e-7},
		{con("on-curve", "", "p0", "c0"), func(s *Solution) float64 {
			return at(s, "p0").Distance(at(s, "p4")) - curve(s, "c0").Radius
		}, 1e-7},
		{con("on-curve", "", "p0", "e0"), func(s *Solution) float64 {
			_, q := curve(s, "e0").Nearest(at(s, "p0"))
			return q.Distance(at(s, "p0"))
		}, 1e-6},
		{con("on-curve", "", "p1", "s"), func(s *Solution) float64 {
			_, q := curve(s, "s").Nearest(at(s, "p1"))
			return q.Distance(at(s, "p1"))
		}, 1e-6},
		{con("on-curve", "", "p1", "x-axis"), func(s *Solution) float64 { return at(s, "p1").Y }, 1e-8},
		{con("horizontal", "", "l0"), func(s *Solution) float64 { return dir(s, "l0").Y }, 1e-8},
		{con("vertical", "", "p0", "p4"), func(s *Solution) float64 { return at(s, "p0").X - at(s, "p4").X }, 1e-8},
		{con("parallel", "", "l0", "l1", "l2"), func(s *Solution) float64 {
			return math.Hypot(dir(s, "l0").Cross(dir(s, "l1")), dir(s, "l1").Cross(dir(s, "l2")))
		}, 1e-8},
		{con("perpendicular", "", "l0", "l1"), func(s *Solution) float64 { return dir(s, "l0").Dot(dir(s, "l1")) }, 1e-8},
		{con("perpendicular", "", "l0", "c1"), func(s *Solution) float64 { return off(s, at(s, "p3"), "l0") }, 1e-7},
		{con("tangent", "", "l0", "c0"), touches("c0", "l0"), 1e-4},
		{con("tangent", "", "l0", "a0"), touches("a0", "l0"), 1e-4},
		{con("tangent", "", "c0", "c1"), touches("c0", "c1"), 1e-4},
		{con("tangent", "", "a0", "c1"), touches("a0", "c1"), 1e-4},
		{con("tangent", "", "l0", "e0"), touches("e0", "l0"), 1e-4},
		{con("tangent", "", "c0", "e0"), touches("c0", "e0"), 1e-4},
		{con("tangent", "", "e0", "e1"), touches("e0", "e1"), 1e-4},
		{con("tangent", "", "s", "t"), func(s *Solution) float64 {
			c := curve(s, "s")
			_, hi := c.Range()
			return c.Tangent(hi).Unit().Cross(dir(s, "t"))
		}, 1e-7},
		{con("tangent", "", "l0", "l2"), nil, 0},
		{con("concentric", "", "c0", "a0", "e0"), func(s *Solution) float64 {
			return at(s, "p4").Distance(at(s, "p5")) + at(s, "p4").Distance(at(s, "p8"))
		}, 1e-7},
		{con("collinear", "", "l0", "l1"), func(s *Solution) float64 {
			return math.Hypot(off(s, at(s, "p2"), "l0"), off(s, at(s, "p3"), "l0"))
		}, 1e-7},
		{con("collinear", "", "p0", "p2", "p3", "p5"), func(s *Solution) float64 {
			return math.Hypot(off(s, at(s, "p0"), "l1"), off(s, at(s, "p5"), "l1"))
		}, 1e-6},
		{con("equal", "", "l0", "l1", "l2"), func(s *Solution) float64 {
			l := func(id string) float64 { c := curve(s, id); return c.A.Distance(c.B) }
			return math.Abs(l("l0")-l("l1")) + math.Abs(l("l1")-l("l2"))
		}, 1e-7},
		{con("equal", "", "c0", "c1", "a0"), func(s *Solution) float64 {
			return math.Abs(curve(s, "c0").Radius-curve(s, "c1").Radius) + math.Abs(curve(s, "c1").Radius-curve(s, "a0").Radius)
		}, 1e-7},
		{con("equal", "", "e0", "e1"), func(s *Solution) float64 {
			a, b := curve(s, "e0"), curve(s, "e1")
			return math.Abs(a.U.Norm()-b.U.Norm()) + math.Abs(a.V.Norm()-b.V.Norm())
		}, 1e-7},
		{con("symmetric", "", "p1", "p3", "l2"), func(s *Solution) float64 {
			return mirrored(s, at(s, "p1"), at(s, "p3"), "l2")
		}, 1e-7},
		{con("symmetric", "", "p1", "p3", "p5"), func(s *Solution) float64 {
			return at(s, "p1").Midpoint(at(s, "p3")).Distance(at(s, "p5"))
		}, 1e-8},
		{con("symmetric", "", "l0", "l1", "y-axis"), func(s *Solution) float64 {
			a, b := curve(s, "l0"), curve(s, "l1")
			f := func(v Vec) Vec { return Vec{-v.X, v.Y} }
			return math.Min(f(a.A).Distance(b.A)+f(a.B).Distance(b.B), f(a.A).Distance(b.B)+f(a.B).Distance(b.A))
		}, 1e-7},
		{con("symmetric", "", "c0", "c1", "l0"), func(s *Solution) float64 {
			return mirrored(s, at(s, "p4"), at(s, "p3"), "l0") + math.Abs(curve(s, "c0").Radius-curve(s, "c1").Radius)
		}, 1e-7},
		{con("symmetric", "", "c0", "c1", "p5"), func(s *Solution) float64 {
			return at(s, "p4").Midpoint(at(s, "p3")).Distance(at(s, "p5")) +
				math.Abs(curve(s, "c0").Radius-curve(s, "c1").Radius)
		}, 1e-7},
		{con("midpoint", "", "p5", "l1"), func(s *Solution) float64 {
			return at(s, "p2").Midpoint(at(s, "p3")).Distance(at(s, "p5"))
		}, 1e-8},
		{con("midpoint", "", "p5", "p0", "p3"), func(s *Solution) float64 {
			return at(s, "p0").Midpoint(at(s, "p3")).Distance(at(s, "p5"))
		}, 1e-8},
		{con("midpoint", "", "p3", "a0"), func(s *Solution) float64 {
			c := curve(s, "a0")
			return math.Abs(at(s, "p3").Distance(c.A)-at(s, "p3").Distance(c.B)) +
				math.Abs(at(s, "p3").Distance(c.Center)-c.Radius)
		}, 1e-7},
		{con("fixed", "", "p3"), func(s *Solution) float64 { return at(s, "p3").Distance(Vec{34, 28}) }, 1e-9},
		{con("length", "40", "l0"), func(s *Solution) float64 { return at(s, "p0").Distance(at(s, "p1")) - 40 }, 1e-8},
		{con("length", "31", "a0"), func(s *Solution) float64 {
			c := curve(s, "a0")
			lo, hi := c.Range()
			sum, last := 0.0, c.Point(lo)
			for k := 1; k <= 20000; k++ { // by chords
				p := c.Point(lo + (hi-lo)*float64(k)/20000)
				sum, last = sum+p.Distance(last), p
			}
			return sum - 31
		}, 1e-5},
		{con("distance", "17", "p3", "l0"), func(s *Solution) float64 { return math.Abs(off(s, at(s, "p3"), "l0")) - 17 },
			1e-7},
		{con("distance", "4", "p0", "c0"), func(s *Solution) float64 {
			return math.Abs(at(s, "p0").Distance(at(s, "p4"))-curve(s, "c0").Radius) - 4
		}, 1e-7},
		{con("distance", "6", "l0", "c0"), func(s *Solution) float64 {
			return math.Abs(off(s, at(s, "p4"), "l0")) - curve(s, "c0").Radius - 6
		}, 1e-7},
		{con("distance", "3", "c0", "c1"), func(s *Solution) float64 {
			return at(s, "p3").Distance(at(s, "p4")) - curve(s, "c0").Radius - curve(s, "c1").Radius - 3
		}, 1e-7},
		{con("horizontal-distance", "50", "p0", "p3"), func(s *Solution) float64 {
			return math.Abs(at(s, "p0").X-at(s, "p3").X) - 50
		}, 1e-8},
		{con("vertical-distance", "9", "l1"), func(s *Solution) float64 { return math.Abs(at(s, "p2").Y-at(s, "p3").Y) - 9 },
			1e-8},
		{con("radius", "12", "a0"), func(s *Solution) float64 {
			return curve(s, "a0").A.Distance(curve(s, "a0").Center) - 12
		}, 1e-8},
		{con("diameter", "12", "c0"), func(s *Solution) float64 { return curve(s, "c0").Radius - 6 }, 1e-8},
		{con("angle", "70 deg", "l0", "l2"), func(s *Solution) float64 {
			return math.Acos(dir(s, "l0").Dot(dir(s, "l2"))) - 70*math.Pi/180
		}, 1e-8},
		{con("angle", "95 deg", "a0"), func(s *Solution) float64 {
			lo, hi := curve(s, "a0").Range()
			return hi - lo - 95*math.Pi/180
		}, 1e-8},
	} {
		name := fmt.Sprint(i, " ", c.Kind, " ", c.Of)
		s := read(t, sketchDoc(base, ""))
		s.Constraints = []Constraint{c.Constraint}
		sol, err := Solve(s, 1, table(t))
		if c.off == nil {
			if err == nil {
				t.Errorf("%s is taken", name)
			}
			continue
		}
		if err != nil || !sol.Solved {
			t.Errorf("%s: %v, conflicts %v", name, err, sol)
			continue
		}
		if d := c.off(sol); math.Abs(d) > c.tol || math.IsNaN(d) {
			t.Errorf("%s is off by %g", name, d)
		}
		// The ends that a curve is made on stay on it.
		for _, a := range []string{"p6", "p7"} {
			if k := curve(sol, "a0"); math.Abs(at(sol, a).Distance(k.Center)-k.Radius) > 1e-7 {
				t.Errorf("%s: the arc's end %s leaves it", name, a)
			}
		}
		if e := curve(sol, "e0"); math.Abs(e.U.Dot(e.V)) > 1e-6 {
			t.Errorf("%s: the half axes are not square to one another", name)
		}
	}
}
