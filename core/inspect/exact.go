package inspect

import (
	"fmt"
	"math"

	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// ExactPlace gives the distances, in mm, by which the exact place of a characteristic is given on the reference, from
// each of its operands after the first; none where it has no exact place.
func ExactPlace(ref *solid.Geometry, c *exercise.Characteristic) ([]float64, error) {
	from := c.Declared().From
	if from == nil {
		return nil, nil
	}
	places, err := Places(ref, c)
	if err != nil {
		return nil, err
	}
	if len(places) != 1 || len(places[0]) < 2 {
		return nil, fmt.Errorf("its exact place is one, given from one face or axis or from two")
	}
	var out []float64
	for _, operand := range places[0][1:] {
		d, err := from.Measure(ref, characteristic.Place{places[0][0], operand}, characteristic.How{})
		if err != nil {
			return nil, err
		}
		out = append(out, math.Round(1e6*d)/1e6) // a millionth, below what any check tells apart
	}
	return out, nil
}
