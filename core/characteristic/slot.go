package characteristic

import (
	"fmt"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// slotLength is the length of a slot over its two round ends.
func slotLength() *Kind {
	return between(Kind{
		Name: "slot-length", Title: "slot, length over all", On: "the two round ends", Dim: quantity.Length,
	}, func(_ *solid.Geometry, a, b solid.Locus, first, last solid.Face, _ How) (float64, error) {
		d, err := apart(a, b)
		if err != nil || !round(first) || !round(last) {
			return 0, fmt.Errorf("the ends of the slot are not two parallel rounds")
		}
		return d + first.Radius + last.Radius, nil
	})
}
