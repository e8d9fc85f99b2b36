package words

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/solid"
)

// Namer calls the geometry of a model by what it is and by the step that makes it: the top of the
// base, the bore of the boss. Persistent names are what it goes by, and are not for people.
type Namer struct {
	titles map[string]string // of steps, by their ids
	unit   string
}

// NewNamer makes a namer for a model with the titles of its steps, by their ids; a file of another
// program has none. Sizes are told in a unit of length.
func NewNamer(titles map[string]string, unit string) *Namer {
	return &Namer{titles: titles, unit: unit}
}

// Faces calls faces by their names and shapes, in the same order. Those that come to the same words
// are numbered.
//
// Sizes are told beside the words where a face is round, as "bore of boss, ⌀9",
// since two bores of one step are told apart by them; what is alike even then is
// numbered.
func (n *Namer) Faces(names []string, faces []solid.Face) []string {
	out := make([]string, len(faces))
	count := map[string]int{}
	for i, f := range faces {
		out[i] = n.Face(names[i], f)
		if size := size(f, n.unit); size != "" {
			out[i] += ", " + size
		}
		count[out[i]]++
	}
	seen := map[string]int{}
	for i, words := range out {
		if count[words] > 1 {
			seen[words]++
			out[i] = fmt.Sprintf("%s (%d)", words, seen[words])
		}
	}
	return out
}

// size is what a round face measures.
func size(f solid.Face, unit string) string {
	_, after, _ := strings.Cut(Face(f, unit), ", ")
	return after
}

// Face calls a face, without its size.
//
// The name of a copy is that of the original with the step that copied it
// before:
//
//	lp1.3:h1.p1/bore
//
// is "bore of hole 1, place 3 of linear pattern 1".
func (n *Namer) Face(name string, f solid.Face) string {
	name, _, _ = strings.Cut(name, "@")
	if strings.Contains(name, "*") { // a pattern of names, whose flat faces look various ways
		if f.Kind == solid.PlaneFace {
			f = solid.Face{}
		}
		return "every " + n.Face(strings.NewReplacer(".*", "", ":*", "", "*", "").Replace(name), f)
	}
	maker, rest, ok := strings.Cut(name, "/")
	if !ok { // a face of a file, by its number
		if f.Kind == solid.PlaneFace {
			return Kind(f) + " facing " + looks(f.Normal)
		}
		return Kind(f)
	}
	// A copy has the step that copied it before its name, with its number where there are several.
	if copied, of, ok := strings.Cut(maker, ":"); ok {
		by, number, several := strings.Cut(copied, ".")
		words := n.Face(of+"/"+rest, f)
		if several {
			return fmt.Sprintf("%s, place %s of %s", words, number, n.Step(by))
		}
		return words + ", copied by " + n.Step(by)
	}
	step, _, _ := strings.Cut(maker, ".")
	return feature(rest, f) + " of " + n.Step(step)
}

// Step calls a step, by its id.
//
// An id without a title is one that somebody made up in a document, and says
// something.
func (n *Namer) Step(step string) string {
	if t := n.titles[step]; t != "" {
		return t
	}
	return step
}

// feature says what a face is to the step that makes it, from the second half of its name.
func feature(rest string, f solid.Face) string {
	kind := rest
	if i := strings.IndexAny(rest, ":(~"); i >= 0 {
		kind = rest[:i]
	}
	switch kind {
	case "sink":
		return "countersink"
	case "head", "floor", "bottom", "tip", "rim", "corner", "bore", "round", "bevel":
		return kind
	case "inside":
		return "inside of the wall"
	case "left", "right", "first", "last", "near", "far":
		return kind + " end"
	case "face":
		_, number, _ := strings.Cut(rest, ":")
		return "face " + number
	case "start", "end":
		if where := facing(f); where != "" {
			return where
		}
		return kind
	}
	return side(f)
}

// side says which side of a body a face is.
func side(f solid.Face) string {
	switch f.Kind {
	case solid.PlaneFace:
		if where := facing(f); where != "" {
			return where
		}
		return turned(f.Normal) + " side"
	case solid.CylinderFace:
		if f.Hollow {
			return "bore"
		}
		return "round side"
	case solid.ConeFace:
		return "conical side"
	case solid.SphereFace:
		return "spherical side"
	case solid.TorusFace:
		return "ring-shaped side"
	case "": // it is gone, and only its name is known
		return "side"
	}
	return "curved side"
}

// facing is where a flat face looks, where that is along an axis of the model; the front is as the
// front view shows it.
func facing(f solid.Face) string {
	if f.Kind != solid.PlaneFace {
		return ""
	}
	for axis, words := range [3][2]string{{"left side", "right side"}, {"front", "back"}, {"underside", "top"}} {
		if math.Abs(f.Normal[axis]) > 1-1e-6 {
			if f.Normal[axis] < 0 {
				return words[0]
			}
			return words[1]
		}
	}
	return ""
}

// clearly is how much of a normal points a way for it to be said, about 12 degrees.
const clearly = 0.2

// looks says which way a normal looks, on its own: up, front right, or down and right.
func looks(normal solid.Vec) string {
	across := strings.TrimPrefix(turned(normal), "slanting")
	up := ""
	switch {
	case normal[2] > clearly:
		up = "up"
	case normal[2] < -clearly:
		up = "down"
	}
	if across = strings.TrimSpace(across); up != "" && across != "" {
		return up + " and " + across
	}
	return up + across
}

// turned says which way a normal looks that lies along no axis: front right, or slanting right where it
// also looks up or down.
func turned(normal solid.Vec) string {
	var ways []string
	if math.Abs(normal[2]) > clearly {
		ways = append(ways, "slanting")
	}
	for _, axis := range []struct {
		k          int
		less, more string
	}{{1, "front", "back"}, {0, "left", "right"}} {
		switch v := normal[axis.k]; {
		case v < -clearly:
			ways = append(ways, axis.less)
		case v > clearly:
			ways = append(ways, axis.more)
		}
	}
	return strings.Join(ways, " ")
}

// Edge calls an edge by its shape and by the faces that it lies between, as Face calls them.
func (n *Namer) Edge(e solid.Edge, sides ...string) string {
	words := Edge(e, n.unit)
	if len(sides) == 2 {
		words += ", between the " + sides[0] + " and the " + sides[1]
	}
	return words
}
