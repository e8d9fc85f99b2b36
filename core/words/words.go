// Package words calls geometry by what it is, for people.
package words

import (
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// length writes a length in the unit of a document.
func length(mm float64, unit string) string {
	u, err := quantity.LengthUnit(unit)
	if err != nil {
		u = quantity.Millimetre
	}
	return quantity.FormulaFormat(u).Length(mm)
}

// Kind says what a face is, without its size.
func Kind(f solid.Face) string {
	switch f.Kind {
	case solid.PlaneFace:
		return "flat face"
	case solid.CylinderFace:
		if f.Hollow {
			return "bore"
		}
		return "cylinder"
	case solid.ConeFace:
		return "cone"
	case solid.SphereFace:
		return "sphere"
	case solid.TorusFace:
		return "torus"
	}
	return "free face"
}

// Face says what a face is, with its size in the unit of the document.
func Face(f solid.Face, unit string) string {
	switch what := Kind(f); f.Kind {
	case solid.CylinderFace:
		return what + ", diameter " + length(2*f.Radius, unit)
	case solid.ConeFace:
		return what + ", " + quantity.FormulaFormat(quantity.Degree).Angle(2*f.HalfAngle)
	case solid.SphereFace:
		return what + ", radius " + length(f.Radius, unit)
	case solid.TorusFace:
		return what + ", radius " + length(f.MinorRadius, unit)
	default:
		return what
	}
}

// Edge says what an edge is, with its size in the unit of the document.
func Edge(e solid.Edge, unit string) string {
	switch e.Kind {
	case solid.LineEdge:
		return "straight edge, " + length(e.Length, unit)
	case solid.CircleEdge:
		return "round edge, radius " + length(e.Radius, unit)
	}
	return "curved edge, " + length(e.Length, unit)
}
