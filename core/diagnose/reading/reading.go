// Package reading reads off an attempt what has become of the features of a part: which end too early,
// stand elsewhere, have another form, or another size in one of their places.
//
// Mistakes that can be counted are in the mistake atlas. A depth, a shift or a head that nobody asked for can be
// anything; but the attempt's faces say what it is, once it lies where the part does and its faces are matched.
// What is read here is only a guess: it counts once the part has been rebuilt with it and is the attempt.
package reading

import (
	"fmt"
	"math"
	"slices"

	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// close is how closely faces lie on one surface, in millimetres; even that of directions, in radians.
const (
	close = 2e-3
	even  = 1e-5
)

// Reader reads an attempt that lies on a part.
type Reader struct {
	Document *part.Document
	Part     *solid.Geometry // rebuilt from the document, with names
	Attempt  *solid.Geometry // laid on the part
	Match    inspect.Matching

	back []int // for each face of the attempt the face of the part that it is matched with, or -1
	own  map[string][]int
	next []map[int]bool // the faces beside each face of the attempt
}

// Mistakes lists what may have become of the features of the part, the surest first.
func (r *Reader) Mistakes() []part.Mistake {
	if len(r.Match.Of) != len(r.Part.Faces) {
		return nil
	}
	r.back = slices.Repeat([]int{-1}, len(r.Attempt.Faces))
	for i, j := range r.Match.Of {
		if j >= 0 {
			r.back[j] = i
		}
	}
	r.own = map[string][]int{}
	for i, names := range r.Part.Names {
		for _, name := range names {
			if step, copied := part.Origin(name); !copied && !slices.Contains(r.own[step], i) {
				r.own[step] = append(r.own[step], i)
			}
		}
	}
	r.next = r.Attempt.Neighbours()
	var out []part.Mistake
	made := false // a step before has made material: the first stands where it stands
	for i := range r.Document.Steps {
		s := &r.Document.Steps[i]
		first := !made
		made = made || len(r.own[s.ID]) > 0
		if first || s.Off || len(r.own[s.ID]) == 0 {
			continue
		}
		switch do := s.Do.(type) {
		case *part.Fillet, *part.Chamfer:
			out = append(out, r.broken(s)...)
		default:
			if hole, ok := do.(*part.Hole); ok {
				out = append(out, r.heads(s, hole)...)
				out = append(out, r.oneOfMany(s, hole)...)
			}
			out = append(out, r.ends(s)...)
			out = append(out, r.elsewhere(s)...)
			out = append(out, r.sunk(s)...)
		}
	}
	return out
}

// of are the steps that made the face of the part with which a face of the attempt is matched.
func (r *Reader) of(j int) []string {
	i := r.back[j]
	if i < 0 {
		return nil
	}
	var out []string
	for _, name := range r.Part.Names[i] {
		step, _ := part.Origin(name)
		out = append(out, step)
	}
	return out
}

// free tells whether a face of the attempt lies on no face of the part that it could be matched with.
func (r *Reader) free(j int) bool {
	return r.back[j] < 0 || !coincide(r.Part.Faces[r.back[j]], r.Attempt.Faces[j])
}

// coincide tells whether two faces lie on one surface and to the same side of it.
func coincide(a, b solid.Face) bool {
	if a.Kind != b.Kind {
		return false
	}
	switch a.Kind {
	case solid.PlaneFace:
		return a.Normal.Angle(b.Normal) < even && math.Abs(b.Centroid.Sub(a.Centroid).Dot(a.Normal)) < close
	case solid.CylinderFace:
		return a.Hollow == b.Hollow && a.Axis.Parallel(b.Axis, even) && math.Abs(a.Radius-b.Radius) < close &&
			solid.FromAxis(b.Origin, a.Origin, a.Axis).Norm() < close
	case solid.ConeFace:
		return a.Hollow == b.Hollow && a.Axis.Parallel(b.Axis, even) && math.Abs(a.HalfAngle-b.HalfAngle) < even &&
			a.Centroid.Distance(b.Centroid) < close && math.Abs(a.Area-b.Area) < 1e-3*a.Area
	case solid.SphereFace:
		return a.Hollow == b.Hollow && a.Origin.Distance(b.Origin) < close && math.Abs(a.Radius-b.Radius) < close
	case solid.TorusFace:
		return a.Hollow == b.Hollow && a.Axis.Parallel(b.Axis, even) && a.Origin.Distance(b.Origin) < close &&
			math.Abs(a.Radius-b.Radius) < close && math.Abs(a.MinorRadius-b.MinorRadius) < close
	}
	return a.Centroid.Distance(b.Centroid) < close && math.Abs(a.Area-b.Area) < 1e-3*a.Area
}

// unit is that of the document.
func (r *Reader) unit() quantity.Unit {
	unit, err := quantity.LengthUnit(r.Document.Unit)
	if err != nil {
		return quantity.Millimetre
	}
	return unit
}

// length writes a length of the attempt in the document's unit.
func (r *Reader) length(mm float64) string { return quantity.FormulaFormat(r.unit()).Length(mm) }

// formula is a length as a formula in millimetres.
func formula(mm float64) string { return fmt.Sprintf("%.9g mm", mm) }
