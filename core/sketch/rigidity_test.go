package sketch

import (
	"fmt"
	"math"
	"math/rand"
	"strings"
	"testing"
)

// framework is points joined by bars of the length that they have.
func framework(t *testing.T, xy []float64, bars [][2]int) *Solution {
	t.Helper()
	var cons strings.Builder
	for i, b := range bars {
		d := math.Hypot(xy[2*b[0]]-xy[2*b[1]], xy[2*b[0]+1]-xy[2*b[1]+1])
		cons.WriteString(con(fmt.Sprintf("d%d", i), "distance", fmt.Sprintf("%.17g", d), fmt.Sprintf("p%d", b[0]),
			fmt.Sprintf("p%d", b[1])))
	}
	sol, err := Solve(read(t, sketchDoc(pts(xy...), cons.String())), 1, table(t))
	if err != nil || !sol.Solved {
		t.Fatalf("the framework: %v, conflicts %v", err, sol.Conflicts)
	}
	return sol
}

// pebbleGame counts the independent bars among n points of the plane: Jacobs and
// Hendrickson, An algorithm for two-dimensional rigidity percolation (1997),
// which decides Laman's count (1970). Every point has two pebbles; a bar is
// independent when two pebbles can be brought to each of its ends, and then takes
// one.
func pebbleGame(n int, bars [][2]int) int {
	free := make([]int, n)
	for i := range free {
		free[i] = 2
	}
	out := make([][]int, n) // bars covered by a pebble of the point, as the other end
	var fetch func(v int, seen []bool) bool
	fetch = func(v int, seen []bool) bool {
		seen[v] = true
		for k, w := range out[v] {
			if seen[w] {
				continue
			}
			if free[w] > 0 || fetch(w, seen) {
				if free[w] > 0 {
					free[w]--
					out[w] = append(out[w], v)
					out[v] = append(out[v][:k:k], out[v][k+1:]...)
					free[v]++
					return true
				}
			}
		}
		return false
	}
	independent := 0
	for _, b := range bars {
		gather := func() bool {
			for free[b[0]]+free[b[1]] < 4 {
				seen := make([]bool, n)
				v, other := b[0], b[1]
				if free[v] == 2 {
					v, other = other, v
				}
				seen[other] = true
				if !fetch(v, seen) {
					return false
				}
			}
			return true
		}
		if gather() {
			independent++
			free[b[0]]--
			out[b[0]] = append(out[b[0]], b[1])
		}
	}
	return independent
}

func TestFreedomAgainstThePebbleGame(t *testing.T) {
	rng := rand.New(rand.NewSource(21))
	rigid, loose, spare := 0, 0, 0
	for trial := range 300 {
		n := 4 + rng.Intn(9)
		xy := make([]float64, 2*n)
		for i := range xy {
			xy[i] = 100 * rng.Float64()
		}
		var bars [][2]int
		want := int(float64(2*n-3) * (0.7 + 0.5*rng.Float64()))
		for a := range n {
			for b := range a {
				bars = append(bars, [2]int{b, a})
			}
		}
		rng.Shuffle(len(bars), func(i, j int) { bars[i], bars[j] = bars[j], bars[i] })
		bars = bars[:min(want, len(bars))]
		sol := framework(t, xy, bars)
		independent := pebbleGame(n, bars)
		if sol.Freedom != 2*n-independent || len(sol.Spare) != len(bars)-independent || sol.Infinitesimal != 0 {
			t.Errorf("trial %d: %d points, bars %v: freedom %d (%d infinitesimal), %d spare; the pebble game finds %d "+
				"independent bars", trial, n, bars, sol.Freedom, sol.Infinitesimal, len(sol.Spare), independent)
		}
		if sol.Freedom == 3 {
			rigid++
		} else {
			loose++
		}
		spare += len(sol.Spare)
	}
	if rigid < 30 || loose < 100 || spare < 30 {
		t.Errorf("%d rigid, %d loose, %d spare bars: the frameworks are too uniform", rigid, loose, spare)
	}
}

// Frameworks whose pose matters. K3,3 is rigid but for points on a conic, where
// it has an infinitesimal motion (Bolker and Roth 1980). Two triangles joined by
// three bars have one when the bars meet in a point (Desargues' configuration),
// and really move when the triangles are congruent and the bars parallel and
// equal.
func TestSpecialFrameworks(t *testing.T) {
	k33 := [][2]int{{0, 1}, {0, 3}, {0, 5}, {2, 1}, {2, 3}, {2, 5}, {4, 1}, {4, 3}, {4, 5}}
	prism := [][2]int{{0, 1}, {1, 2}, {2, 0}, {3, 4}, {4, 5}, {5, 3}, {0, 3}, {1, 4}, {2, 5}}
	var conic, off []float64
	for i, a := range []float64{0.2, 1.1, 2.3, 3.4, 4.4, 5.6} {
		conic = append(conic, 50+40*math.Cos(a), 30+25*math.Sin(a))
		off = append(off, 50+(40+float64(3*i%7))*math.Cos(a), 30+(25-float64(i))*math.Sin(a))
	}
	triangle := []float64{10, 0, 0, 14, -9, -6}
	desargues := append([]float64(nil), triangle...)
	congruent := append([]float64(nil), triangle...)
	general := append([]float64(nil), triangle...)
	for i, f := range []float64{2.1, 1.7, 2.6} {
		desargues = append(desargues, f*triangle[2*i], f*triangle[2*i+1])
		congruent = append(congruent, triangle[2*i]+30, triangle[2*i+1]+11)
		general = append(general, f*triangle[2*i]+float64(5*i), f*triangle[2*i+1]-float64(i*i))
	}
	for _, c := range []struct {
		name                   string
		xy                     []float64
		bars                   [][2]int
		freedom, infinitesimal int
	}{
		{"K3,3", off, k33, 3, 0},
		{"K3,3 on a conic", conic, k33, 3, 1},
		{"two triangles and three bars", general, prism, 3, 0},
		{"the bars meet in a point", desargues, prism, 3, 1},
		{"parallel equal bars", congruent, prism, 4, 0},
		{"a point between two others, held tight", []float64{0, 0, 10, 0, 20, 0}, [][2]int{{0, 1}, {1, 2}, {0, 2}}, 3, 1},
	} {
		sol := framework(t, c.xy, c.bars)
		if sol.Freedom != c.freedom || sol.Infinitesimal != c.infinitesimal {
			t.Errorf("%s: freedom %d and %d infinitesimal, want %d and %d", c.name, sol.Freedom, sol.Infinitesimal, c.freedom,
				c.infinitesimal)
		}
	}
}

// A motion keeps every constraint and moves what it is asked for.
func TestMotionIsFollowed(t *testing.T) {
	sol, err := Solve(read(t, strings.Replace(roughRectangle(""), con("w", "length", "40", "b"), "", 1)), 1, table(t))
	if err != nil || sol.Freedom != 1 {
		t.Fatal(err, sol.Freedom)
	}
	frames := sol.Motion("p1", 12, 2)
	if len(frames) != 12 {
		t.Fatalf("%d frames", len(frames))
	}
	lo, hi := math.Inf(1), math.Inf(-1)
	for _, f := range frames {
		b, r := f[0], f[1]
		if math.Abs(b.A.Y-b.B.Y) > 1e-7 || math.Abs(r.A.X-r.B.X) > 1e-7 || math.Abs(r.A.Distance(r.B)-25) > 1e-7 {
			t.Errorf("a frame breaks the constraints: %v %v", b, r)
		}
		lo, hi = math.Min(lo, b.B.X), math.Max(hi, b.B.X)
	}
	if hi-lo < 1 {
		t.Errorf("p1 moves by %g only", hi-lo)
	}
	if sol.Motion("nothing", 12, 2) != nil {
		t.Error("a motion of nothing")
	}
}

// Dragging keeps all constraints at every frame, follows where it can and stays
// where it cannot.
func TestDrag(t *testing.T) {
	sol, err := Solve(read(t, strings.Replace(roughRectangle(""), con("w", "length", "40", "b"), "", 1)), 1, table(t))
	if err != nil {
		t.Fatal(err)
	}
	d := sol.System().NewDrag("p2")
	from := sol.Points["p2"]
	for i := range 40 {
		at := Vec{15 + float64(i), 12.5 + 8*math.Sin(float64(i))}
		if !d.To(from, at) {
			t.Fatalf("frame %d is not solved", i)
		}
		now := d.Solution()
		p := now.Points["p2"]
		if math.Abs(p.Y-12.5) > 1e-7 || math.Abs(p.X-at.X) > 0.05*at.X {
			t.Errorf("frame %d: the corner is at %v, pulled to %v", i, p, at)
		}
		if q := now.Points["p0"]; !q.near(p.Scale(-1), 1e-7) {
			t.Errorf("frame %d: the opposite corner is at %v", i, q)
		}
	}
	if sol.System().NewDrag(Origin) != nil {
		t.Error("the origin can be dragged")
	}
}
