package assembly

import (
	"fmt"
	"math"
)

// ColourOf writes a colour, red, green and blue from 0 to 1, as documents do.
func ColourOf(rgb [3]float64) string {
	out := "#"
	for _, v := range rgb {
		out += fmt.Sprintf("%02x", int(math.Round(255*math.Min(1, math.Max(0, v)))))
	}
	return out
}

// RGB is the colour of a part, nil of one that has none.
func (p *Part) RGB() *[3]float64 {
	var v [3]int
	if n, err := fmt.Sscanf(p.Colour, "#%02x%02x%02x", &v[0], &v[1], &v[2]); err != nil || n != 3 {
		return nil
	}
	return &[3]float64{float64(v[0]) / 255, float64(v[1]) / 255, float64(v[2]) / 255}
}
