package solid

import (
	"cmp"
	"math"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/partition"
)

// Geometry is a solid described: its faces and edges and the figures of the whole, in
// millimetres. Names are those of a reference's faces; nil for an attempt.
type Geometry struct {
	Faces  []Face
	Edges  []Edge
	Names  [][]string
	Props  Props
	Box    Box
	Solids int
	// Threads and Materials are what a model document says beside its shape; Noted tells
	// that it could say it, as a plain file of geometry cannot.
	Threads   []Thread
	Materials []string
	Noted     bool
}

// Describe reads a shape through the kernel. A shape that cannot be described is an error, and
// not a solid without faces.
func Describe(k Kernel, s Shape, names [][]string) (*Geometry, error) {
	return describe(k, s, names, k.Bounds)
}

// DescribeLoosely is Describe with a box that may be larger than the solid, which takes much less time: for
// the many solids that are looked at in a search.
func DescribeLoosely(k Kernel, s Shape, names [][]string) (*Geometry, error) {
	return describe(k, s, names, k.Around)
}

func describe(k Kernel, s Shape, names [][]string, box func(Shape) (Box, error)) (*Geometry, error) {
	p, err := k.Props(s)
	if err != nil {
		return nil, err
	}
	b, err := box(s)
	if err != nil {
		return nil, err
	}
	g := &Geometry{Faces: s.Faces(), Edges: s.Edges(), Names: names, Props: p, Box: b, Solids: s.Solids()}
	g.Join()
	return g, s.Err()
}

// Join notes the angle that faces beside one another on one round surface cover together: many programs write a bore as
// two halves. It is to be asked for again where faces have become round that were of free form.
func (g *Geometry) Join() {
	sets := partition.Of(len(g.Faces))
	for _, e := range g.Edges {
		if e.Kind == LineEdge && len(e.Faces) == 2 && e.Faces[0] != e.Faces[1] &&
			oneRound(&g.Faces[e.Faces[0]], &g.Faces[e.Faces[1]]) {
			sets.Join(e.Faces[0], e.Faces[1])
		}
	}
	covered := map[int]float64{}
	for i := range g.Faces {
		covered[sets.Root(i)] += g.Faces[i].Span
	}
	for i := range g.Faces {
		if f := &g.Faces[i]; f.Span > 0 {
			f.Around = math.Min(2*math.Pi, covered[sets.Root(i)])
		}
	}
}

// oneRound tells whether two faces lie on one cylinder or cone, on the same side of it.
func oneRound(a, b *Face) bool {
	const near = 1e-6 // mm, and radians
	if a.Kind != b.Kind || a.Kind != CylinderFace && a.Kind != ConeFace || a.Hollow != b.Hollow ||
		!a.Axis.Parallel(b.Axis, near) || FromAxis(b.Origin, a.Origin, a.Axis).Norm() > near ||
		math.Abs(a.HalfAngle-b.HalfAngle) > near {
		return false
	}
	along := b.Origin.Sub(a.Origin).Dot(a.Axis)
	return math.Abs(a.Radius+along*math.Tan(a.HalfAngle)-b.Radius) < near
}

// Scaled gives the geometry enlarged by f about the origin.
func (g *Geometry) Scaled(f float64) *Geometry {
	out := *g
	out.Faces = make([]Face, len(g.Faces))
	for i, a := range g.Faces {
		a.Origin, a.Centroid = a.Origin.Scale(f), a.Centroid.Scale(f)
		a.Radius, a.MinorRadius, a.Area = a.Radius*f, a.MinorRadius*f, a.Area*f*f
		a.Bounds = Box{Min: a.Bounds.Min.Scale(f), Max: a.Bounds.Max.Scale(f)}
		out.Faces[i] = a
	}
	out.Edges = make([]Edge, len(g.Edges))
	for i, e := range g.Edges {
		e.A, e.B, e.Mid, e.Center = e.A.Scale(f), e.B.Scale(f), e.Mid.Scale(f), e.Center.Scale(f)
		e.Radius, e.Length = e.Radius*f, e.Length*f
		out.Edges[i] = e
	}
	out.Props.Volume *= f * f * f
	out.Props.Area *= f * f
	out.Props.Centroid = g.Props.Centroid.Scale(f)
	for i := range out.Props.Inertia {
		out.Props.Inertia[i] = g.Props.Inertia[i].Scale(math.Pow(f, 5))
	}
	out.Box = Box{Min: g.Box.Min.Scale(f), Max: g.Box.Max.Scale(f)}
	return &out
}

// Moved gives the geometry after a motion or mirror. The boxes of faces are
// those of their moved corners and so only outer bounds.
func (g *Geometry) Moved(t Transform) *Geometry {
	out := *g
	out.Faces = make([]Face, len(g.Faces))
	for i, a := range g.Faces {
		a.Origin, a.Centroid = t.Apply(a.Origin), t.Apply(a.Centroid)
		a.Axis, a.Normal = t.Turn(a.Axis), t.Turn(a.Normal)
		a.Bounds = movedBox(a.Bounds, t)
		out.Faces[i] = a
	}
	out.Edges = make([]Edge, len(g.Edges))
	for i, e := range g.Edges {
		e.A, e.B, e.Mid, e.Center, e.Axis = t.Apply(e.A), t.Apply(e.B), t.Apply(e.Mid), t.Apply(e.Center), t.Turn(e.Axis)
		if e.Run != nil {
			run := make([]Vec, len(e.Run))
			for k, p := range e.Run {
				run[k] = t.Apply(p)
			}
			e.Run = run
		}
		out.Edges[i] = e
	}
	out.Props.Centroid = t.Apply(g.Props.Centroid)
	out.Box = movedBox(g.Box, t)
	return &out
}

// movedBox is a box around a box that was moved: that of its eight corners. It
// is larger than needed where the move turns.
func movedBox(b Box, t Transform) Box {
	out := Box{Min: Vec{math.Inf(1), math.Inf(1), math.Inf(1)}, Max: Vec{math.Inf(-1), math.Inf(-1), math.Inf(-1)}}
	for _, c := range b.Corners() {
		p := t.Apply(c)
		for k := range 3 {
			out.Min[k], out.Max[k] = math.Min(out.Min[k], p[k]), math.Max(out.Max[k], p[k])
		}
	}
	return out
}

// near parts a name from the place that says which of several faces of that name is meant, as "e1/end@0.25,0.5,1":
// where the middle of the face is in the box around the solid, as shares of its size, so that it is the same face when
// sizes change.
func near(name string) (plain string, at Vec, ok bool) {
	plain, place, found := strings.Cut(name, "@")
	shares := strings.Split(place, ",")
	if !found || len(shares) != 3 {
		return name, at, false
	}
	for k, s := range shares {
		v, err := strconv.ParseFloat(s, 64)
		if err != nil {
			return name, at, false
		}
		at[k] = v
	}
	return plain, at, true
}

// PlainName is a name without the place that says which of several faces is meant.
func PlainName(name string) string {
	plain, _, _ := near(name)
	return plain
}

// Address is how a document names a face: by the first of its names that no other face has; by its first one with the
// place of the face where others have them all. It is empty for a face without a name.
func (g *Geometry) Address(face int) string {
	if face >= len(g.Names) || len(g.Names[face]) == 0 {
		return ""
	}
	for _, n := range g.Names[face] {
		if len(g.Named(n)) == 1 {
			return n
		}
	}
	at := g.Box.Relative(g.Faces[face].Centroid)
	out := g.Names[face][0] + "@"
	for k, v := range at {
		if k > 0 {
			out += ","
		}
		out += strconv.FormatFloat(math.Round(1000*v)/1000, 'f', -1, 64)
	}
	return out
}

// Named lists the faces one of whose names fits a pattern, in which * stands for
// any run of characters. Of those it is the one that is nearest to a place where the pattern says one.
func (g *Geometry) Named(pattern string) []int {
	if plain, at, ok := near(pattern); ok {
		list := g.Named(plain)
		if len(list) < 2 {
			return list
		}
		return []int{slices.MinFunc(list, func(i, j int) int {
			from := func(f int) float64 { return g.Box.Relative(g.Faces[f].Centroid).Distance(at) }
			return cmp.Compare(from(i), from(j))
		})}
	}
	var out []int
	for i, names := range g.Names {
		for _, n := range names {
			if fits(pattern, n) {
				out = append(out, i)
				break
			}
		}
	}
	return out
}

// fits matches a name against a pattern with * wildcards.
func fits(pattern, name string) bool {
	parts := strings.Split(pattern, "*")
	if len(parts) == 1 {
		return pattern == name
	}
	if !strings.HasPrefix(name, parts[0]) {
		return false
	}
	name = name[len(parts[0]):]
	last := parts[len(parts)-1]
	for _, p := range parts[1 : len(parts)-1] {
		i := strings.Index(name, p)
		if i < 0 {
			return false
		}
		name = name[i+len(p):]
	}
	return strings.HasSuffix(name, last)
}

// Neighbours gives for every face the set of faces that share an edge with it.
func (g *Geometry) Neighbours() []map[int]bool {
	out := make([]map[int]bool, len(g.Faces))
	for i := range out {
		out[i] = map[int]bool{}
	}
	for _, e := range g.Edges {
		if len(e.Faces) == 2 {
			out[e.Faces[0]][e.Faces[1]] = true
			out[e.Faces[1]][e.Faces[0]] = true
		}
	}
	return out
}

// Reach is from where to where the edges of a face go along an axis, in millimetres.
func (g *Geometry) Reach(face int, axis Vec) (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, e := range g.Edges {
		if slices.Contains(e.Faces, face) {
			for _, p := range []Vec{e.A, e.B, e.Mid} {
				low, high = math.Min(low, p.Dot(axis)), math.Max(high, p.Dot(axis))
			}
		}
	}
	return low, high
}
