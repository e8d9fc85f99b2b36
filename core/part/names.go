package part

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"hammerset/core/solid"
)

// Named is a solid whose faces carry names. A face that was joined from several
// has all their names, sorted.
type Named struct {
	Shape solid.Shape
	Names [][]string
	// Pieces is set where faces that lie on one surface could not be joined.
	Pieces bool
	// File is set where it was read from a file; Uncertainty is how closely what touches there really touches, in mm.
	File        bool
	Uncertainty float64
}

// namer gives the names of a result face that came from an edge or vertex of an
// operand, or is a cap.
type namer func(src solid.Source) string

// carry names the faces of a result: a face that came from faces of the operands
// has their names, others are named by made.
func carry(result solid.Shape, h solid.History, operands []*Named, made namer) *Named {
	out := &Named{Shape: result, Names: make([][]string, len(h))}
	for _, o := range operands {
		out.Pieces = out.Pieces || o.Pieces
	}
	for i, sources := range h {
		var names, fresh []string
		for _, src := range sources {
			if src.Kind == solid.FromFace && src.Operand < len(operands) {
				names = append(names, operands[src.Operand].Names[src.Index]...)
			} else if made != nil && src.Kind != solid.FromFace {
				if n := made(src); n != "" {
					fresh = append(fresh, n)
				}
			}
		}
		if len(names) == 0 {
			names = fresh
		}
		sort.Strings(names)
		out.Names[i] = slices.Compact(names)
	}
	return out
}

// renamed gives every face name a prefix, for mirrored and patterned copies.
func (n *Named) renamed(prefix string) *Named {
	out := &Named{Shape: n.Shape, Names: make([][]string, len(n.Names))}
	for i, names := range n.Names {
		for _, s := range names {
			out.Names[i] = append(out.Names[i], prefix+s)
		}
	}
	return out
}

// Faces lists the faces that carry a name.
func (n *Named) Faces(name string) []int {
	var out []int
	for i, names := range n.Names {
		if slices.Contains(names, name) {
			out = append(out, i)
		}
	}
	return out
}

// Origin is the step that made a face of a name, and tells whether the face is on a copy of what that step
// made.
func Origin(name string) (step string, copied bool) {
	head, _, _ := strings.Cut(name, "/")
	if i := strings.LastIndexByte(head, ':'); i >= 0 {
		head, copied = head[i+1:], true
	}
	step, _, _ = strings.Cut(head, ".")
	return step, copied
}

// goneError says that a reference does not resolve any more.
func goneError(face string) error {
	return because("pick another face",
		"the %s is not there any more: an earlier step no longer makes it, or a later one removed it",
		calledFace(face))
}

// edges resolves edge references. Seams and smooth edges are left out, since
// nothing can be rounded there.
func (n *Named) edges(refs []EdgeRef, box solid.Box) ([]int, error) {
	var out []int
	all := n.Shape.Edges()
	for _, r := range refs {
		var found []int
		label := calledEdge{r.Around}
		switch {
		case r.Between != nil:
			label = calledEdge(*r.Between)
			a, b := n.Faces(r.Between[0]), n.Faces(r.Between[1])
			for k, list := range [][]int{a, b} {
				if len(list) == 0 {
					return nil, goneError(r.Between[k])
				}
			}
			for i, e := range all {
				if len(e.Faces) == 2 && (slices.Contains(a, e.Faces[0]) && slices.Contains(b, e.Faces[1]) ||
					slices.Contains(a, e.Faces[1]) && slices.Contains(b, e.Faces[0])) {
					found = append(found, i)
				}
			}
		case r.Around != "":
			a := n.Faces(r.Around)
			if len(a) == 0 {
				return nil, goneError(r.Around)
			}
			for i, e := range all {
				if len(e.Faces) == 2 && (slices.Contains(a, e.Faces[0]) || slices.Contains(a, e.Faces[1])) && !e.Smooth {
					found = append(found, i)
				}
			}
		default:
			return nil, fmt.Errorf("an edge is named by \"between\" two faces or \"around\" one")
		}
		if len(found) == 0 {
			return nil, because("pick another edge", "the %s is not there any more: its faces do not meet", label)
		}
		if r.Near != nil {
			best, bestD := found[0], math.Inf(1)
			for _, i := range found {
				if d := box.Relative(all[i].Mid).Distance(solid.Vec(*r.Near)); d < bestD {
					best, bestD = i, d
				}
			}
			found = []int{best}
		}
		out = append(out, found...)
	}
	sort.Ints(out)
	return slices.Compact(out), nil
}

// edgeName names an edge by all names of the faces it lies between.
func (n *Named) edgeName(edge int) string {
	var parts []string
	for _, f := range n.Shape.Edges()[edge].Faces {
		parts = append(parts, strings.Join(n.Names[f], "+"))
	}
	sort.Strings(parts)
	return strings.Join(parts, "|")
}

// calledEdge speaks of an edge by the faces that it lies between.
func (n *Named) calledEdge(edge int) calledEdge {
	var out calledEdge
	for k, f := range n.Shape.Edges()[edge].Faces {
		if k < len(out) && len(n.Names[f]) > 0 {
			out[k] = n.Names[f][0]
		}
	}
	return out
}
