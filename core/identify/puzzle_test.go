package identify

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// marked is a way that can be told from others: its number is where it lies.
func marked(n int) Way {
	return Way{Pose: rigid.Pose{Turn: rigid.Still().Turn, Shift: solid.Vec{float64(n)}}}
}

func markOf(w *Way) int { return int(w.Pose.Shift[0]) }

// drawn is a puzzle drawn at random: few kinds, as many components of the attempt as are wanted or one fewer, up to
// three ways for each, and links that break for most pairs of ways and hold for those of a hidden placing, but for
// some.
type drawn struct {
	Puzzle
	ways   map[int][]Way
	broken map[[3]int]int // by link and the two ways
}

func draw(r *rand.Rand) *drawn {
	d := &drawn{ways: map[int][]Way{}, broken: map[[3]int]int{}}
	kinds := 1 + r.IntN(3)
	d.Candidates, d.Empty = make([][]int, kinds), make([]int, kinds)
	hidden := []int{} // the way of each component of the reference, or -1
	for c := range 2 + r.IntN(4) {
		kind := r.IntN(kinds)
		d.Of = append(d.Of, kind)
		if r.IntN(8) == 0 {
			d.Empty[kind]++
			hidden = append(hidden, -1)
			continue
		}
		d.Candidates[kind] = append(d.Candidates[kind], 10+c)
		n := 1 + r.IntN(3)
		for w := range n {
			d.ways[10+c] = append(d.ways[10+c], marked(10*c+w))
		}
		hidden = append(hidden, 10*c+r.IntN(n))
	}
	d.Ways = func(component, _ int) ([]Way, float64) { return d.ways[component], 0 }
	for l := range r.IntN(2 * len(d.Of)) {
		a, b := r.IntN(len(d.Of)), r.IntN(len(d.Of))
		if a == b {
			continue
		}
		slip := r.IntN(12) == 0
		d.Links = append(d.Links, Link{A: a, B: b, Broken: func(x, y *Way) int {
			key := [3]int{l, markOf(x), markOf(y)}
			if _, ok := d.broken[key]; !ok {
				d.broken[key] = r.IntN(3)
				if markOf(x) == hidden[a] && markOf(y) == hidden[b] && !slip {
					d.broken[key] = 0
				}
			}
			return d.broken[key]
		}})
	}
	return d
}

// breaks counts what a placing breaks.
func (d *drawn) breaks(of []int, ways []Way) int {
	n := 0
	for _, l := range d.Links {
		if of[l.A] >= 0 && of[l.B] >= 0 {
			n += l.Broken(&ways[l.A], &ways[l.B])
		}
	}
	return n
}

// least tries every placing of the components from the one with the number c on.
func (d *drawn) least(c int, of []int, ways []Way, empty []int) int {
	if c == len(d.Of) {
		return d.breaks(of, ways)
	}
	best := 1 << 30
	kind := d.Of[c]
	for _, a := range d.Candidates[kind] {
		taken := false
		for _, o := range of[:c] {
			taken = taken || o == a
		}
		if taken {
			continue
		}
		for _, w := range d.ways[a] {
			of[c], ways[c] = a, w
			best = min(best, d.least(c+1, of, ways, empty))
		}
	}
	if empty[kind] > 0 {
		of[c] = -1
		empty[kind]--
		best = min(best, d.least(c+1, of, ways, empty))
		empty[kind]++
	}
	return best
}

// Where few conditions are broken, the search finds as good a placing as trying all of them does: one component in one
// place, what it says of broken conditions true, and no more of them.
func TestPuzzleAgainstAllPlacings(t *testing.T) {
	compared := 0
	for seed := range uint64(400) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			d := draw(rand.New(rand.NewPCG(seed, 1)))
			want := d.least(0, make([]int, len(d.Of)), make([]Way, len(d.Of)), append([]int{}, d.Empty...))
			got := d.Solve()
			in, without := map[int]bool{}, 0
			for c, a := range got.Of {
				switch {
				case a < 0:
					without++
				case in[a]:
					t.Fatalf("component %d is in two places: %v", a, got.Of)
				case markOf(&got.Way[c])/10+10 != a:
					t.Fatalf("component %d is placed in a way of another: %d", a, markOf(&got.Way[c]))
				}
				in[a] = true
			}
			empty := 0
			for _, n := range d.Empty {
				empty += n
			}
			if without > empty {
				t.Errorf("%d places are empty where %d may be", without, empty)
			}
			if n := d.breaks(got.Of, got.Way); n != got.Broken {
				t.Errorf("it says that %d conditions are broken, and %d are", got.Broken, n)
			}
			if want <= worse && got.Complete {
				compared++
				if got.Broken != want {
					t.Errorf("%d conditions are broken where %d need be", got.Broken, want)
				}
			}
		})
	}
	if compared < 300 {
		t.Errorf("only %d puzzles could be compared", compared)
	}
}
