package sheet

import (
	"fmt"
	"math"

	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Arrange lays out a sheet by itself: front, top and left view in the largest standard scale
// that fits an A3, a pictorial view, distances between faces square to the views at their
// sides, and round features at leaders. What it does not place becomes a note. It is a start
// that can be changed in the exercise document.
func Arrange(ref *inspect.Geometry, ex *exercise.Exercise) exercise.Sheet {
	const left, top, right, gap = 62.0, 268.0, 268.0, 52.0
	size := ref.Box.Size()
	out := exercise.Sheet{Paper: "A3", Projection: "first", Dimensions: []exercise.Dim{}, Notes: []exercise.Note{}}
	placed := map[string]bool{}
	stack := map[string]float64{} // by view and side: how far the last dimension line is away
	angles := map[string]int{}
	tilts := []float64{40, 140, -40, -140, 65, 115}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, err := inspect.Places(ref, c)
		if err != nil || len(places) == 0 {
			continue
		}
		f := ref.Faces[places[0][0][0]]
		switch c.Kind {
		case "distance", "wall":
			if f.Kind != solid.PlaneFace || len(places[0][0]) > 1 {
				continue
			}
			for _, s := range []struct {
				axis       solid.Vec
				view, side string
			}{{solid.Vec{1, 0, 0}, "front", "below"}, {solid.Vec{0, 0, 1}, "front", "left"}, {solid.Vec{0, 1, 0}, "top", "left"}} {
				if !f.Normal.Parallel(s.axis, 1e-6) {
					continue
				}
				k := s.view + s.side
				stack[k] += 12
				out.Dimensions = append(out.Dimensions, exercise.Dim{Characteristic: c.ID, View: s.view, Kind: "linear", Side: s.side, Away: stack[k]})
				placed[c.ID] = true
			}
		case "diameter", "radius", "bolt-circle":
			view := ""
			for v, axis := range map[string]solid.Vec{"top": {0, 0, 1}, "front": {0, 1, 0}} {
				if f.Axis.Parallel(axis, 1e-6) && (f.Kind == solid.CylinderFace || c.Kind == "bolt-circle") {
					view = v
				}
			}
			n := angles[view]
			if view == "" || n >= len(tilts) {
				continue
			}
			angles[view]++
			out.Dimensions = append(out.Dimensions, exercise.Dim{Characteristic: c.ID, View: view, Kind: "leader", Angle: tilts[n], Away: 22 + 6*float64(n/4)})
			placed[c.ID] = true
		}
	}
	loose := 0
	for _, c := range ex.Characteristics {
		if !placed[c.ID] {
			loose++
		}
	}
	bottom := math.Min(150, 60+8*float64(loose)) + stack["topbelow"]
	width, height := right-left, top-bottom
	least := standards.Scales[len(standards.Scales)-1]
	out.Scale = least.Name
	factor := least.Factor
	for _, s := range standards.Scales {
		if s.Factor*(size[0]+size[1])+gap <= width && s.Factor*(size[2]+size[1])+gap+stack["frontbelow"] <= height {
			out.Scale, factor = s.Name, s.Factor
			break
		}
	}
	front := [2]float64{left + factor*size[0]/2, top - factor*size[2]/2}
	out.Views = []exercise.View{
		{ID: "front", Direction: "front", At: front, Hidden: true},
		{ID: "top", Direction: "top", At: [2]float64{front[0], front[1] - factor*size[2]/2 - gap - stack["frontbelow"]/2 - factor*size[1]/2}, Hidden: true},
		{ID: "left", Direction: "left", At: [2]float64{front[0] + factor*size[0]/2 + gap + factor*size[1]/2, front[1]}, Hidden: true},
		{ID: "pictorial", Direction: "pictorial", At: [2]float64{345, 150}, Scale: pictorial(size)},
	}
	return out
}

// pictorial is the largest scale in which the pictorial view takes no more than 110 mm.
func pictorial(size solid.Vec) string {
	for _, s := range standards.Scales {
		if s.Factor*size.Norm() <= 110 {
			return s.Name
		}
	}
	return standards.Scales[len(standards.Scales)-1].Name
}

// Plain is an exercise around a reference alone: nothing is checked yet but the number of
// solids.
func Plain(title, unit, reference string, solids int) *exercise.Exercise {
	return &exercise.Exercise{Hammerset: exercise.Version, Title: title, Number: "", Task: fmt.Sprintf("Model the part from the sheet. All sizes are in %s.", unitWord(unit)), Unit: unit, Reference: reference, Solids: max(1, solids),
		General: exercise.Tolerance{Kind: "sheet"}, Characteristics: []exercise.Characteristic{{ID: "solids", Balloon: 1, Kind: "solids", Label: "Number of solids"}},
		Rubric: exercise.Rubric{Characteristics: 75, WholePart: 25}, Sheet: exercise.Sheet{Paper: standards.Papers[1].Name, Scale: "1:1", Projection: "first", Views: []exercise.View{}, Dimensions: []exercise.Dim{}}}
}
