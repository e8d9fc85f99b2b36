package identify

import (
	"hammerset/core/inspect"
	"hammerset/core/solid"
)

// Item is a line of the parts list of a reference: a part, and how often it is there.
type Item struct {
	Part     *solid.Geometry
	Quantity int
}

// Unknown is the cost from which on a solid is taken for none of the items.
const Unknown = 0.6

// within is how much less one item must cost than the next so that it is meant for certain by what the solid is.
const within = 0.05

// Found is what an attempt has of the items.
type Found struct {
	Kin []Kin
	// Of are the numbers of the items that the solids are, or -1.
	Of []int
	// Likeness is that of each solid to its item.
	Likeness []Likeness
	// Likes are those of each solid to every item.
	Likes [][]Likeness
	// Doubtful are the solids that could by what they are be of another item as well: where they are has to decide.
	Doubtful []int
	Missing  []int // of each item how many there are too few
	TooMany  []int // solids that are an item of which there are enough
}

// Find gives each solid to an item, so that all together cost as little as can be and no item has more than it wants.
// Solids for which nothing is left, and that are one of the items all the same, are too many.
func Find(items []Item, solids []*solid.Geometry) Found {
	f := Found{Kin: Group(solids), Of: make([]int, len(solids)), Likeness: make([]Likeness, len(solids)),
		Missing: make([]int, len(items))}
	likes := make([][]Likeness, len(solids)) // by item
	f.Likes = likes
	for _, kin := range f.Kin {
		row := make([]Likeness, len(items))
		for i := range items {
			row[i] = Like(items[i].Part, solids[kin.Members[0]])
		}
		for _, m := range kin.Members {
			likes[m] = row
		}
	}
	var places []int // the item of each place that is to be taken
	for i, item := range items {
		f.Missing[i] = item.Quantity
		for range item.Quantity {
			places = append(places, i)
		}
	}
	table := costs(places, likes)
	for s, place := range inspect.Assign(table)[:len(solids)] {
		f.Of[s] = -1
		if place < len(places) && table[s][place] < Unknown {
			f.Of[s] = places[place]
			f.Missing[places[place]]--
		}
	}
	for s, row := range likes {
		best := cheapest(row)
		switch {
		case f.Of[s] >= 0:
			f.Likeness[s] = row[f.Of[s]]
			if rival(row, f.Of[s]) {
				f.Doubtful = append(f.Doubtful, s)
			}
		case best >= 0 && row[best].Cost < Unknown:
			f.Of[s], f.Likeness[s] = best, row[best]
			f.TooMany = append(f.TooMany, s)
		}
	}
	return f
}

// Candidates lists for each of so many items the solids that can be it: those that are it by what they are, and those
// of which it is doubtful.
func (f *Found) Candidates(items int) [][]int {
	out := make([][]int, items)
	for s, row := range f.Likes {
		for i := range row {
			if of := f.Of[s]; of == i || of >= 0 && row[i].Cost < Unknown &&
				row[i].Cost < row[of].Cost+within && !another(row, i) {
				out[i] = append(out[i], s)
			}
		}
	}
	return out
}

// costs is a square table of what each solid costs at each place. Behind the places there is one for each solid that is
// unknown, and behind the solids a row for each place that stays empty, which costs nothing.
func costs(places []int, likes [][]Likeness) [][]float64 {
	n := len(places) + len(likes)
	out := make([][]float64, n)
	for s := range out {
		out[s] = make([]float64, n)
		if s >= len(likes) {
			continue
		}
		for k := range out[s] {
			out[s][k] = Unknown
			if k < len(places) && !another(likes[s], places[k]) {
				out[s][k] = likes[s][places[k]].Cost
			}
		}
	}
	return out
}

// another tells whether a solid is the very part of some item, and not of this one: then it is no other with a wrong
// size.
func another(row []Likeness, than int) bool {
	for i := range row {
		if i != than && row[i].Sameness == Same && row[than].Sameness != Same {
			return true
		}
	}
	return false
}

// cheapest is the item that costs least, or -1 without any.
func cheapest(row []Likeness) int {
	best := -1
	for i := range row {
		if best < 0 || row[i].Cost < row[best].Cost {
			best = i
		}
	}
	return best
}

// rival tells whether another item costs hardly more than one, or less.
func rival(row []Likeness, than int) bool {
	for i := range row {
		if i != than && row[i].Cost < row[than].Cost+within {
			return true
		}
	}
	return false
}
