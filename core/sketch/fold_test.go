package sketch

import (
	"fmt"
	"math"
	"math/rand"
	"strings"
	"testing"

	"hammerset/core/quantity"
)

// convex is a convex polygon held by the directions of its sides and the lengths
// of all but the last two, which close it. Its first length is the parameter a.
type convex struct {
	lengths []float64
	dirs    []Vec
}

// closing gives the lengths of the last two sides when the first has length a:
// the sides add up to nothing.
func (k *convex) closing(a float64) (float64, float64) {
	n := len(k.lengths)
	sum := k.dirs[0].Scale(a)
	for i := 1; i < n-2; i++ {
		sum = sum.Add(k.dirs[i].Scale(k.lengths[i]))
	}
	u, v := k.dirs[n-2], k.dirs[n-1]
	return v.Cross(sum) / u.Cross(v), sum.Cross(u) / u.Cross(v)
}

func randomConvex(rng *rand.Rand) *convex {
	for {
		n := 4 + rng.Intn(5)
		k := &convex{lengths: make([]float64, n), dirs: make([]Vec, n)}
		turns, sum := make([]float64, n), 0.0
		for i := range turns {
			turns[i] = 0.6 + rng.Float64()
			sum += turns[i]
		}
		heading := 0.0
		for i := range n {
			k.lengths[i], k.dirs[i] = 15+30*rng.Float64(), Vec{math.Cos(heading), math.Sin(heading)}
			heading += turns[i] / sum * 2 * math.Pi
		}
		if k.lengths[n-2], k.lengths[n-1] = k.closing(k.lengths[0]); k.lengths[n-2] > 8 && k.lengths[n-1] > 8 {
			return k
		}
	}
}

func (k *convex) sketch(t *testing.T) *Sketch {
	n := len(k.lengths)
	var e, c strings.Builder
	var xy []float64
	p := Vec{}
	for i := range n {
		xy = append(xy, p.X, p.Y)
		p = p.Add(k.dirs[i].Scale(k.lengths[i]))
		e.WriteString(line(fmt.Sprintf("l%d", i), fmt.Sprintf("p%d", i), fmt.Sprintf("p%d", (i+1)%n)))
	}
	c.WriteString(con("o", "coincident", "", "p0", "origin") + con("x", "horizontal", "", "l0") +
		con("d0", "length", "a", "l0"))
	for i := 1; i < n-2; i++ {
		c.WriteString(con(fmt.Sprintf("d%d", i), "length", fmt.Sprintf("%.15g", k.lengths[i]), fmt.Sprintf("l%d", i)))
	}
	for i := 1; i < n; i++ {
		turn := math.Atan2(k.dirs[i-1].Cross(k.dirs[i]), k.dirs[i-1].Dot(k.dirs[i]))
		c.WriteString(con(fmt.Sprintf("t%d", i), "angle", fmt.Sprintf("%.15g rad", turn), fmt.Sprintf("l%d", i-1),
			fmt.Sprintf("l%d", i)))
	}
	return read(t, sketchDoc(pts(xy...)+e.String(), c.String()))
}

// A size changed by up to a factor of five folds nothing over. Where the sides
// still close, which elementary geometry tells, the polygon is found with every
// side in its direction; where they do not, that is said, with how far the size
// got: to where the first of the closing sides has shrunk to nothing.
func TestSizesByFiveDoNotFold(t *testing.T) {
	rng := rand.New(rand.NewSource(8))
	found, ended := 0, 0
	for trial := range 20 {
		k := randomConvex(rng)
		n, first := len(k.lengths), k.lengths[0]
		s := k.sketch(t)
		for _, f := range []float64{5, 2.2, 0.5, 0.2} {
			tab := table(t, quantity.Parameter{Name: "a", Formula: fmt.Sprintf("%.15g mm", f*first)})
			sol, err := Geometry(s, 1, tab)
			if err != nil {
				t.Fatal(err)
			}
			u, v := k.closing(f * first)
			if u > 1 && v > 1 {
				found++
				if !sol.Solved || sol.Folded {
					t.Errorf("trial %d, times %g: solved %v, folded %v, reached %g; the closing sides would be %g and %g", trial, f,
						sol.Solved, sol.Folded, sol.Reached, u, v)
					continue
				}
				for i := range n {
					if d := sol.Curves[i].B.Sub(sol.Curves[i].A).Unit(); d.Dot(k.dirs[i]) < 1-1e-9 {
						t.Errorf("trial %d, times %g: side %d has turned to %v from %v", trial, f, i, d, k.dirs[i])
					}
				}
				if l := sol.Curves[n-1].A.Distance(sol.Curves[n-1].B); math.Abs(l-v) > 1e-6 {
					t.Errorf("trial %d, times %g: the last side is %g, want %g", trial, f, l, v)
				}
			} else if u < -1 || v < -1 {
				ended++
				u0, v0 := k.lengths[n-2], k.lengths[n-1]
				want := math.Inf(1)
				for _, w := range [][2]float64{{u0, u}, {v0, v}} {
					if w[1] < 0 {
						want = math.Min(want, w[0]/(w[0]-w[1]))
					}
				}
				if sol.Solved && !sol.Folded || !sol.Solved && math.Abs(sol.Reached-want) > 0.02 {
					t.Errorf("trial %d, times %g: solved %v, folded %v, got %g of the way; the shape ends at %g", trial, f, sol.Solved,
						sol.Folded, sol.Reached, want)
				}
			}
		}
	}
	if found < 20 || ended < 20 {
		t.Errorf("%d found, %d ended", found, ended)
	}
}
