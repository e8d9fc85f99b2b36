package identify

import (
	"cmp"
	"math"
	"slices"
)

// Puzzle asks which component of an attempt stands for which one of the reference. Parts that are alike can change
// places, and symmetric ones can be turned: it is the joints that tell.
type Puzzle struct {
	// Of is the kind of each component of the reference; components of one kind are the same part.
	Of []int
	// Candidates are the components of the attempt that can be of a kind, and Empty is how many of it stay without one.
	Candidates [][]int
	Empty      []int
	Links      []Link
	// Ways are those in which a component of the attempt can be of a kind, where it stands, and what it costs that it is
	// not the very part.
	Ways func(component, kind int) (ways []Way, cost float64)
}

// Link is a joint between two components of the reference. Broken counts what it asks for and does not get.
type Link struct {
	A, B   int
	Broken func(a, b *Way) int
}

// Placing is a solution: for each component of the reference that of the attempt, or -1, and the way in which it is.
type Placing struct {
	Of     []int
	Way    []Way
	Broken int
	// Complete: nothing better was left to be tried.
	Complete bool

	cost float64
}

// mostTries bounds the placings that are tried. The first that is tried is the one that is best at each component.
const mostTries = 20000

// worse is by how much more a placing of one component may break than its best one and still be tried.
const worse = 2

// Solve finds the placing with the fewest broken conditions, by branch and bound: components in an order in which each
// has a joint to one before it, the likeliest first, and nothing further where as much is broken as in the best so far.
func (p *Puzzle) Solve() Placing {
	s := &search{Puzzle: p, order: p.order(), used: map[int]bool{}, empty: slices.Clone(p.Empty)}
	s.now = Placing{Of: slices.Repeat([]int{-1}, len(p.Of)), Way: make([]Way, len(p.Of))}
	s.best = Placing{Of: slices.Clone(s.now.Of), Way: make([]Way, len(p.Of)), cost: math.Inf(1)}
	s.placed = make([]bool, len(p.Of))
	s.from(0)
	s.best.Complete = s.tries < mostTries
	return s.best
}

// search is a puzzle on its way.
type search struct {
	*Puzzle
	order     []int
	used      map[int]bool
	empty     []int
	placed    []bool
	now, best Placing
	tries     int
}

// try is a component of the attempt for one of the reference.
type try struct {
	component int
	way       Way
	broken    int
	cost      float64
}

// from places the components from one on in the order.
func (s *search) from(n int) {
	if n == len(s.order) {
		if s.now.cost < s.best.cost {
			s.best.Of, s.best.Way = slices.Clone(s.now.Of), slices.Clone(s.now.Way)
			s.best.Broken, s.best.cost = s.now.Broken, s.now.cost
		}
		return
	}
	c := s.order[n]
	list := s.triesOf(c)
	for _, t := range list {
		if s.tries++; s.tries > mostTries {
			return
		}
		if s.now.cost+t.cost >= s.best.cost-1e-9 || t.broken > list[0].broken+worse {
			break
		}
		s.put(c, t, 1)
		s.from(n + 1)
		s.put(c, t, -1)
	}
	if kind := s.Of[c]; s.empty[kind] > 0 {
		s.empty[kind]--
		s.placed[c] = true
		s.from(n + 1)
		s.placed[c] = false
		s.empty[kind]++
	}
}

// put puts a component in (1) or takes it out again (-1).
func (s *search) put(c int, t try, sign int) {
	s.used[t.component], s.placed[c] = sign > 0, sign > 0
	s.now.Broken += sign * t.broken
	s.now.cost += float64(sign) * t.cost
	if s.now.Of[c], s.now.Way[c] = -1, (Way{}); sign > 0 {
		s.now.Of[c], s.now.Way[c] = t.component, t.way
	}
}

// triesOf lists what a component of the reference can be, the best first.
func (s *search) triesOf(c int) []try {
	var out []try
	for _, a := range s.Candidates[s.Of[c]] {
		if s.used[a] {
			continue
		}
		ways, cost := s.Ways(a, s.Of[c])
		for i := range ways {
			broken := 0
			for _, l := range s.Links {
				switch {
				case l.A == c && s.there(l.B):
					broken += l.Broken(&ways[i], &s.now.Way[l.B])
				case l.B == c && s.there(l.A):
					broken += l.Broken(&s.now.Way[l.A], &ways[i])
				}
			}
			out = append(out, try{a, ways[i], broken, float64(broken) + cost})
		}
	}
	slices.SortStableFunc(out, func(a, b try) int { return cmp.Compare(a.cost, b.cost) })
	return out
}

// there tells whether a component of the reference is placed and stands for one of the attempt.
func (s *search) there(c int) bool { return s.placed[c] && s.now.Of[c] >= 0 }

// order is one in which every component comes after one that it has a joint with, as far as there is any: first one of
// which there are few of its kind and which has many joints.
func (p *Puzzle) order() []int {
	few := map[int]int{}
	for _, kind := range p.Of {
		few[kind]++
	}
	links := make([]int, len(p.Of))
	for _, l := range p.Links {
		links[l.A]++
		links[l.B]++
	}
	var out []int
	in := make([]bool, len(p.Of))
	for len(out) < len(p.Of) {
		best, bestKey := -1, [3]int{}
		for c := range p.Of {
			if in[c] {
				continue
			}
			to := 0
			for _, l := range p.Links {
				if l.A == c && in[l.B] || l.B == c && in[l.A] {
					to++
				}
			}
			if key := [3]int{to, -few[p.Of[c]], links[c]}; best < 0 || slices.Compare(key[:], bestKey[:]) > 0 {
				best, bestKey = c, key
			}
		}
		out, in[best] = append(out, best), true
	}
	return out
}
