package identify

import (
	"cmp"
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
	// Complete: nothing that could be as good was left out.
	Complete bool
}

// Bounds of the search: so many placings are gone on with at a time, and no one that breaks so many more conditions
// than the best of them.
const (
	widest = 400
	worse  = 3
)

// Solve finds the placing with the fewest broken conditions: components in an order in which each has a joint to one
// before it, and at each of them all placings of those before it are gone on with that break few (a beam search;
// B. Lowerre, The Harpy speech recognition system, 1976). An assembly that is symmetric but for one bolt is so not
// decided before that bolt.
func (p *Puzzle) Solve() Placing {
	order := p.order()
	beam := []*partial{{empty: slices.Clone(p.Empty)}}
	complete := true
	for _, c := range order {
		var next []*partial
		for _, before := range beam {
			next = append(next, p.onward(before, c)...)
		}
		slices.SortStableFunc(next, func(a, b *partial) int { return cmp.Compare(a.cost, b.cost) })
		keep := 0
		for keep < len(next) && keep < widest && next[keep].cost <= next[0].cost+worse {
			keep++
		}
		if keep == widest && keep < len(next) && next[keep].cost <= next[0].cost+worse {
			complete = false
		}
		beam = next[:keep]
	}
	out := Placing{Of: slices.Repeat([]int{-1}, len(p.Of)), Way: make([]Way, len(p.Of)), Complete: complete}
	if len(beam) > 0 {
		out.Broken = beam[0].broken
		for x := beam[0]; x.before != nil; x = x.before {
			out.Of[x.of], out.Way[x.of] = x.component, x.way
		}
	}
	return out
}

// partial is a placing of some components: the last of them, and those before it.
type partial struct {
	before    *partial
	of        int // of the reference
	component int // of the attempt, or -1
	way       Way
	empty     []int // how many of each kind may still stay without
	broken    int
	cost      float64
}

// at is what stands for a component of the reference, nil where nothing does, or it is not placed yet.
func (x *partial) at(c int) *partial {
	for ; x.before != nil; x = x.before {
		if x.of == c {
			if x.component < 0 {
				return nil
			}
			return x
		}
	}
	return nil
}

// has tells whether a component of the attempt is placed.
func (x *partial) has(component int) bool {
	for ; x.before != nil; x = x.before {
		if x.component == component {
			return true
		}
	}
	return false
}

// onward are the placings with one more component of the reference.
func (p *Puzzle) onward(before *partial, c int) []*partial {
	kind := p.Of[c]
	type other struct {
		of    *partial
		link  *Link
		first bool
	}
	var others []other
	for i := range p.Links {
		l := &p.Links[i]
		switch {
		case l.A == c:
			if o := before.at(l.B); o != nil {
				others = append(others, other{o, l, true})
			}
		case l.B == c:
			if o := before.at(l.A); o != nil {
				others = append(others, other{o, l, false})
			}
		}
	}
	var out []*partial
	for _, a := range p.Candidates[kind] {
		if before.has(a) {
			continue
		}
		ways, cost := p.Ways(a, kind)
		for i := range ways {
			broken := 0
			for _, o := range others {
				if o.first {
					broken += o.link.Broken(&ways[i], &o.of.way)
				} else {
					broken += o.link.Broken(&o.of.way, &ways[i])
				}
			}
			out = append(out, &partial{before: before, of: c, component: a, way: ways[i], empty: before.empty,
				broken: before.broken + broken, cost: before.cost + float64(broken) + cost})
		}
	}
	if before.empty[kind] > 0 {
		left := slices.Clone(before.empty)
		left[kind]--
		out = append(out, &partial{before: before, of: c, component: -1, empty: left, broken: before.broken,
			cost: before.cost})
	}
	return out
}

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
