package solve

import "slices"

// Smallest reduces members that do not hold together to a smallest set that still does not: one
// from which no member can be left out. holds tells whether some of them hold together. Halves are
// left out while the rest still contradicts itself, then smaller parts (U. Junker, QuickXplain, 2004).
func Smallest(members []int, holds func(some []int) bool) []int {
	var explain func(background, candidates []int, added bool) []int
	explain = func(background, candidates []int, added bool) []int {
		if added && !holds(background) {
			return nil
		}
		if len(candidates) == 1 {
			return candidates
		}
		half := len(candidates) / 2
		a, b := candidates[:half], candidates[half:]
		second := explain(slices.Concat(background, a), b, len(a) > 0)
		first := explain(slices.Concat(background, second), a, len(second) > 0)
		return slices.Concat(first, second)
	}
	if len(members) == 0 {
		return nil
	}
	return explain(nil, members, false)
}
