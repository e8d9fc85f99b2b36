package sheets

import (
	"testing"

	"hammerset/core/sheet"
)

// A dimension line runs square to its extension lines, level, upright or at a slant; without any from end to end.
func TestDimensionLinesAreSquareToTheirExtensionLines(t *testing.T) {
	for _, c := range []struct {
		name string
		span sheet.Span
		want float64
	}{
		{"level, below", sheet.Span{From: sheet.Point{0, 0}, To: sheet.Point{30, 4}, At: sheet.Point{30, -12}}, 0},
		{"upright, at the left", sheet.Span{From: sheet.Point{0, 0}, To: sheet.Point{3, 40}, At: sheet.Point{-9, 40}}, 90},
		{"at a slant", sheet.Span{From: sheet.Point{0, 0}, To: sheet.Point{10, 10}, At: sheet.Point{0, 20}}, 45},
		{"at a slant, under it", sheet.Span{From: sheet.Point{0, 0}, To: sheet.Point{10, 10}, At: sheet.Point{20, 0}}, 45},
		{"between the ends", sheet.Span{From: sheet.Point{0, 5}, To: sheet.Point{0, 25}, At: sheet.Point{0, 25}}, 90},
	} {
		if got := along(c.span); got != c.want {
			t.Errorf("%s: %g degrees, not %g", c.name, got, c.want)
		}
	}
}
