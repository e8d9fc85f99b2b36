// Package partition keeps things in sets that are joined two at a time: what hangs together by
// edges, coincidences or shared unknowns. It is the disjoint-set forest with path halving
// (R. E. Tarjan and J. van Leeuwen, "Worst-case analysis of set union algorithms", Journal of the
// ACM 31, 1984): n operations take little more than n steps.
package partition

// Numbers is a partition of the numbers 0 to n - 1.
type Numbers struct{ parent []int }

// Of makes a partition of n numbers, each in a set of its own.
func Of(n int) *Numbers {
	p := &Numbers{make([]int, n)}
	for i := range p.parent {
		p.parent[i] = i
	}
	return p
}

// Root is the number that stands for the set of i.
func (p *Numbers) Root(i int) int {
	for p.parent[i] != i {
		p.parent[i] = p.parent[p.parent[i]]
		i = p.parent[i]
	}
	return i
}

// Join puts the set of b into that of a, whose root stays.
func (p *Numbers) Join(a, b int) { p.parent[p.Root(b)] = p.Root(a) }

// Names is a partition of names; one that was never joined is in a set of its own. The zero value
// is ready for use.
type Names struct{ parent map[string]string }

// Root is the name that stands for the set of a name.
func (p *Names) Root(name string) string {
	for {
		up, ok := p.parent[name]
		if !ok || up == name {
			return name
		}
		if further, ok := p.parent[up]; ok {
			p.parent[name] = further
		}
		name = up
	}
}

// Join puts the set of b into that of a, whose root stays.
func (p *Names) Join(a, b string) {
	a, b = p.Root(a), p.Root(b)
	if a == b {
		return
	}
	if p.parent == nil {
		p.parent = map[string]string{}
	}
	p.parent[b] = a
}
