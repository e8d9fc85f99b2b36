package exercise

import (
	"fmt"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
)

// Loose is a change of the part that the sheet does not hold, in words; where a size would settle it, that size: its
// kind, and its places as of a characteristic.
type Loose struct {
	What string          `json:"what"`
	Kind string          `json:"kind,omitempty"`
	Of   [][]address.Ref `json:"of,omitempty"`
}

// Unstated tells whether a characteristic of a Measuring exercise is a size that the sheet does not state.
func (c *Characteristic) Unstated() bool { return c.Balloon == 0 }

// Measuring is the exercise as it is measured: with the sizes that the sheet does not state, so that what hangs on them
// is known. They have no balloons, and no attempt is judged by them. An exercise that has them already stays as it is.
func (e *Exercise) Measuring() *Exercise {
	if len(e.Loose) == 0 {
		return e
	}
	out := *e
	out.Characteristics = slices.Clone(e.Characteristics)
	for i, l := range e.Loose {
		if kind := characteristic.Of(l.Kind); kind == nil || kind.Whole() || e.Characteristic(LooseID(i)) != nil {
			continue
		}
		out.Characteristics = append(out.Characteristics, Characteristic{ID: LooseID(i), Kind: l.Kind, Label: l.What,
			Of: l.Of, Free: true})
	}
	return &out
}

// LooseID is the id of the characteristic that stands for a loose size, by its number.
func LooseID(i int) string { return fmt.Sprintf("loose:%d", i) }
