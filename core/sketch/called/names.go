// Package called says what the geometry of a sketch is called for people.
package called

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"hammerset/core/sketch"
)

// Names are of the picture as it is: the left circle is the one on the left now.
// They are for reading and never stored; what is stored goes by ids.

// Names calls the geometry of a sketch by what it is and where it is in the picture: the left circle, the
// upper right corner, the lower end of the right line. The ids that the sketch goes by are not for people.
type Names struct{ names map[string]string }

// Geometry names the geometry of a sketch as it stands in a solution.
//
// Closed curves lie at their centre and others at their middle, where the eye
// looks for them. Guide lines are named among themselves.
func Geometry(s *sketch.Sketch, sol *sketch.Solution) *Names {
	n := &Names{names: map[string]string{
		sketch.Origin: "the origin", sketch.XAxis: "the x axis", sketch.YAxis: "the y axis",
	}}
	kinds := map[string][]placed{}
	for i := range sol.Curves {
		curve := &sol.Curves[i]
		kind := curve.Kind
		if curve.Guide {
			kind = "guide " + kind
		}
		lo, hi := curve.Range()
		at, size := curve.Point((lo+hi)/2), 0.0
		if curve.Closed() {
			at, size = curve.Center, curve.Radius
		}
		kinds[kind] = append(kinds[kind], placed{curve.ID, at, size})
	}
	ends, centers := uses(s)
	for i := range s.Entities {
		e := &s.Entities[i]
		kind := "point"
		switch {
		case e.Kind != sketch.KindPoint || centers[e.ID] != "" || len(ends[e.ID]) == 1:
			continue
		case len(ends[e.ID]) > 1:
			kind = "corner"
		}
		kinds[kind] = append(kinds[kind], placed{e.ID, sol.Points[e.ID], 0})
	}
	for kind, list := range kinds {
		n.place(kind, list)
	}
	// Ends and centres are called after their curves, which have their names by now.
	for i := range sol.Curves {
		c := &sol.Curves[i]
		for _, p := range endsOf(s.Entity(c.ID)) {
			if len(ends[p]) == 1 && centers[p] == "" {
				n.names[p] = "the " + end(c, sol.Points[p]) + " end of " + n.Of(c.ID)
			}
		}
	}
	for p, of := range centers {
		n.names[p] = "the centre of " + n.Of(of)
	}
	return n
}

// Of calls one entity, point or axis.
func (n *Names) Of(id string) string {
	if name := n.names[id]; name != "" {
		return name
	}
	return id
}

// All calls several.
func (n *Names) All(ids []string) []string {
	out := make([]string, len(ids))
	for i, id := range ids {
		out[i] = n.Of(id)
	}
	return out
}

// uses tells what each point is to the curves: an end of some, or the centre of one.
func uses(s *sketch.Sketch) (ends map[string][]string, centers map[string]string) {
	ends, centers = map[string][]string{}, map[string]string{}
	for i := range s.Entities {
		e := &s.Entities[i]
		if e.Center != "" && centers[e.Center] == "" {
			centers[e.Center] = e.ID
		}
		for _, p := range endsOf(e) {
			ends[p] = append(ends[p], e.ID)
		}
	}
	return ends, centers
}

// endsOf lists the points in which an entity ends.
func endsOf(e *sketch.Entity) []string {
	var out []string
	for _, p := range []string{e.From, e.To, e.Start, e.End} {
		if p != "" {
			out = append(out, p)
		}
	}
	return out
}

// end says which end of a curve lies at a place: the one at the left or right where the ends lie side by side,
// the lower or upper one else.
func end(c *sketch.Curve, at sketch.Vec) string {
	other := c.A
	if at.Distance(c.A) < at.Distance(c.B) {
		other = c.B
	}
	return towards(at.Sub(other))
}

// towards is the main direction of a vector.
func towards(v sketch.Vec) string {
	if math.Abs(v.X) >= math.Abs(v.Y) {
		return map[bool]string{true: "right", false: "left"}[v.X > 0]
	}
	return map[bool]string{true: "upper", false: "lower"}[v.Y > 0]
}

// placed is something of a kind, where it is in the picture.
type placed struct {
	id   string
	at   sketch.Vec
	size float64
}

// place names everything of one kind by where it is among the others.
//
// Up to nine of a kind are told by the thirds of their common box; what would
// have one name is counted, by rows from the top, as one reads.
func (n *Names) place(kind string, list []placed) {
	if len(list) == 1 {
		n.names[list[0].id] = "the " + kind
		return
	}
	xs, ys := make([]float64, len(list)), make([]float64, len(list))
	for i, p := range list {
		xs[i], ys[i] = p.at.X, p.at.Y
	}
	slices.Sort(xs)
	slices.Sort(ys)
	last := len(list) - 1
	lo, hi := sketch.Vec{X: xs[0], Y: ys[0]}, sketch.Vec{X: xs[last], Y: ys[last]}
	where := make([]string, len(list))
	count := map[string]int{}
	for i, p := range list {
		where[i] = side(p.at, xs, ys, 0.15*lo.Distance(hi))
		if where[i] == "" {
			where[i] = cell(p.at, lo, hi)
		}
		count[where[i]]++
	}
	if lo.Distance(hi) == 0 && len(list) == 2 && list[0].size != list[1].size {
		inner := 0
		if list[1].size < list[0].size {
			inner = 1
		}
		where[inner], where[1-inner] = "inner", "outer"
		count = map[string]int{"inner": 1, "outer": 1}
	}
	// As one reads: by rows from the top, each from the left.
	order := make([]int, len(list))
	for i := range order {
		order[i] = i
	}
	row := func(i int) float64 { return math.Round(10 * (hi.Y - list[i].at.Y) / (hi.Y - lo.Y + 1e-12)) }
	sort.SliceStable(order, func(i, j int) bool {
		a, b := order[i], order[j]
		if row(a) != row(b) {
			return row(a) < row(b)
		}
		return list[a].at.X < list[b].at.X
	})
	for nth, i := range order {
		name := "the " + where[i] + " " + kind
		if count[where[i]] > 1 {
			name = fmt.Sprintf("%s %d of %d", kind, nth+1, len(list))
		}
		n.names[list[i].id] = name
	}
}

// side says on which side of all others one lies, by a margin that the eye sees at once. Each of xs and ys is
// sorted.
func side(at sketch.Vec, xs, ys []float64, margin float64) string {
	last := len(xs) - 1
	switch {
	case at.X < xs[1]-margin:
		return "left"
	case at.X > xs[last-1]+margin:
		return "right"
	case at.Y > ys[last-1]+margin:
		return "upper"
	case at.Y < ys[1]-margin:
		return "lower"
	}
	return ""
}

// cell is the place in a box, divided into thirds each way.
func cell(at, lo, hi sketch.Vec) string {
	third := func(v, lo, hi float64, names [3]string) string {
		if hi-lo < 1e-9 {
			return names[1]
		}
		return names[min(2, int(3*(v-lo)/(hi-lo)))]
	}
	across := third(at.X, lo.X, hi.X, [3]string{"left", "", "right"})
	up := third(at.Y, lo.Y, hi.Y, [3]string{"lower", "", "upper"})
	switch {
	case up == "" && across == "":
		return "middle"
	case up == "":
		return "middle " + across
	case across == "":
		return up + " middle"
	}
	return up + " " + across
}
