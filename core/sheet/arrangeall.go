package sheet

import (
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Whole is an assembly as its arrangement sheet is laid out by itself: the boxes of its components as they stand and as
// they are drawn apart, the axes of its joints, and the components that a cut along them leaves whole.
type Whole struct {
	Box, Apart solid.Box
	Axes       []WholeAxis
	Lengthwise map[string]solid.Vec // by component: the axis of a shaft, pin or bolt
	Lines      int                  // of the parts list
	Stated     int                  // notes
}

// WholeAxis is the axis of a joint, by a round face that it is of.
type WholeAxis struct {
	Of       address.Ref
	At, Axis solid.Vec
}

// Of an arrangement sheet that is laid out by itself, in mm of paper.
const (
	arrangePad  = 16.0 // around views
	arrangeOver = 34.0 // over the section, for the references of its items
	noteLine    = 8.5
)

// ArrangeAssembly lays an arrangement sheet out: a section through the axes of the joints, the view from above, and the
// whole drawn apart. The section stands at the left, under it (or over it, in third angle) the view from above, and at
// the right over the parts list what is drawn apart.
func ArrangeAssembly(ex *exercise.Exercise, w *Whole) exercise.Sheet {
	out := exercise.Sheet{Projection: "first", Views: []exercise.View{}, Marks: []exercise.Mark{}}
	inches := ex.Unit == "in"
	if inches {
		out.Projection = "third"
	}
	size := w.Box.Size()
	list := blockHeight + listRow*float64(w.Lines+1)
	var paper standards.Paper
	var scale standards.Scale
	for _, x := range standards.Papers {
		if strings.HasPrefix(x.Name, "Y14.1") != inches || x.Name == "A4" || x.Name == "Y14.1 A" {
			continue
		}
		paper = x
		width := x.Width - binding - margin - blockWidth - 2*arrangePad
		height := x.Height - 2*margin - arrangeOver - 3*arrangePad - overallOff - noteLine*float64(w.Stated)
		scale = largestIn(width, height, size[0], size[2]+size[1])
		if scale.Factor >= 0.5 && x.Height-2*margin-list > 90 {
			break
		}
	}
	out.Paper, out.Scale = paper.Name, scale.Name
	f := scale.Factor
	middle := w.Box.Min.Add(w.Box.Max).Scale(0.5)
	left := binding + arrangePad + (paper.Width-binding-margin-blockWidth-2*arrangePad)/2 // the middle of the column
	upper := paper.Height - margin - arrangeOver
	front := exercise.View{ID: "front", Kind: "front", Cut: &exercise.Cut{Kind: exercise.FullCut}, Parent: "top",
		Letter: "A", LabelAway: referenceOver + referenceText}
	top := exercise.View{ID: "top", Kind: "top"}
	high, deep := size[2]*f, size[1]*f
	frontMiddle, topMiddle := upper-high/2, upper-high-2*arrangePad-deep/2
	if inches {
		topMiddle, frontMiddle = upper-deep/2, upper-deep-2*arrangePad-arrangeOver/2-high/2
	}
	at := func(x, y float64) [2]float64 { return [2]float64{math.Round(10*x) / 10, math.Round(10*y) / 10} }
	front.At = at(left-middle[0]*f, frontMiddle-middle[2]*f)
	top.At = at(left-middle[0]*f, topMiddle-middle[1]*f)
	front.Cut.Kind, front.Cut.Path = pathThrough(w.Axes)
	if front.Cut.Path == nil { // nothing to cut through
		front.Cut, front.Parent, front.Letter = nil, "", ""
		out.Views = append(out.Views, front, top, w.pictured(paper, list))
		return out
	}
	for id, axis := range w.Lengthwise {
		if axis != (solid.Vec{}) && math.Abs(axis[1]) < 1e-6 {
			front.Cut.Uncut = append(front.Cut.Uncut, id)
		}
	}
	slices.Sort(front.Cut.Uncut)
	out.Views = append(out.Views, top, front, w.pictured(paper, list))
	return out
}

// largestIn is the largest scale in which something fits into a room.
func largestIn(width, height, wide, high float64) standards.Scale {
	var last standards.Scale
	for _, s := range standards.Scales {
		if last = s; wide*s.Factor <= width && high*s.Factor <= height {
			break
		}
	}
	return last
}

// pathThrough is what a section seen from the front goes through: the axes that lie square to the line of sight, in
// steps where they lie one behind the other.
func pathThrough(axes []WholeAxis) (kind string, path []address.Ref) {
	var list []WholeAxis
	for _, a := range axes {
		if math.Abs(a.Axis[1]) > 1e-6 {
			continue
		}
		if math.Abs(a.Axis[0]) > 1e-6 { // it lies across: a step could not pass it
			return exercise.FullCut, []address.Ref{a.Of}
		}
		if !slices.ContainsFunc(list, func(o WholeAxis) bool { return math.Abs(o.At[0]-a.At[0]) < 4 }) {
			list = append(list, a)
		}
	}
	level := map[float64]int{} // how many axes lie in a plane
	best := 0.0
	for _, a := range list {
		y := math.Round(a.At[1]*1e4) / 1e4
		if level[y]++; level[y] > level[best] {
			best = y
		}
	}
	switch {
	case len(list) == 0:
		return exercise.FullCut, nil
	case level[best] == len(list):
		return exercise.FullCut, []address.Ref{list[0].Of}
	}
	for _, a := range list[:min(len(list), 4)] {
		path = append(path, a.Of)
	}
	return exercise.SteppedCut, path
}

// pictured is the whole drawn apart, at the right over the parts list.
func (w *Whole) pictured(paper standards.Paper, list float64) exercise.View {
	v := exercise.View{ID: "apart", Kind: "pictorial", Apart: true}
	f, _ := viewFrame(v.Kind)
	lo, hi := [2]float64{math.Inf(1), math.Inf(1)}, [2]float64{math.Inf(-1), math.Inf(-1)}
	for _, p := range w.Apart.Corners() {
		for k, d := range []solid.Vec{f.X, f.Y} {
			lo[k], hi[k] = math.Min(lo[k], p.Dot(d)), math.Max(hi[k], p.Dot(d))
		}
	}
	left, right := paper.Width-margin-blockWidth, paper.Width-margin
	foot, top := margin+list+arrangePad/2, paper.Height-margin-arrangePad/2
	s := largestIn(right-left-arrangePad, top-foot, hi[0]-lo[0], hi[1]-lo[1])
	v.Scale = s.Name
	for k, mid := range []float64{(left + right) / 2, (foot + top) / 2} {
		v.At[k] = math.Round(10*(mid-(lo[k]+hi[k])/2*s.Factor)) / 10
	}
	return v
}
