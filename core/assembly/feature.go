package assembly

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Form is the form of a feature.
type Form string

// Forms of features.
const (
	Plane    Form = "plane"
	Cylinder Form = "cylinder"
	Cone     Form = "cone"
	Sphere   Form = "sphere"
	Torus    Form = "torus"
	Line     Form = "line"
	Circle   Form = "circle"
	Corner   Form = "corner"
	Bent     Form = "curve" // an edge that is neither straight nor round
)

// Feature is a face, edge or corner of a part as plain geometry, in the coordinates of the part. At is the
// middle of a flat face, of a straight edge, or of a round face along its axis; the centre of a ball and of a
// round edge. Axis is the outward normal of a flat face, and of a round edge that of a flat face it bounds; else
// the direction of the axis or edge.
type Feature struct {
	Name      string    `json:"name"`
	Also      []string  `json:"also,omitempty"` // other names of a face that was joined from several
	Form      Form      `json:"form"`
	Words     string    `json:"words"` // what it is called
	At        solid.Vec `json:"at"`
	Axis      solid.Vec `json:"axis"`
	Radius    float64   `json:"radius,omitempty"`
	Minor     float64   `json:"minor,omitempty"`     // of a torus
	HalfAngle float64   `json:"halfAngle,omitempty"` // of a cone
	Hollow    bool      `json:"hollow,omitempty"`    // a bore or a socket
	Length    float64   `json:"length,omitempty"`    // along the axis
	Thread    string    `json:"thread,omitempty"`    // that is cut into it, as M8
	// Points are places at about equal lengths along a curve, its ends among them.
	Points []solid.Vec `json:"points,omitempty"`
	// Faces are those of the mesh that it is, and Lines its runs, where it is an edge.
	Faces []int `json:"faces,omitempty"`
	Lines []int `json:"lines,omitempty"`
}

// Frame is the feature as a frame: at its place, with its direction as Z. X depends on the direction alone.
func (f *Feature) Frame() solid.Frame {
	if f.Axis == (solid.Vec{}) {
		return solid.Frame{O: f.At, X: solid.World.X, Y: solid.World.Y, Z: solid.World.Z}
	}
	frame := solid.Plane(f.At, f.Axis.Unit())
	frame.O = f.At
	return frame
}

// Shape is a part in its own coordinates, as far as an assembly needs it.
type Shape struct {
	Features []Feature   `json:"features"`
	Box      solid.Box   `json:"box"`
	Props    solid.Props `json:"props"` // of density one
	Material string      `json:"material,omitempty"`
	Density  float64     `json:"density"` // kg/m³, 0 where no material says it
	Mesh     *solid.Mesh `json:"mesh,omitempty"`
	// Deflection is how far the mesh lies from the solid at most, in millimetres.
	Deflection float64 `json:"deflection"`
	Solids     int     `json:"solids"`
	// Symmetry is how the part can be moved onto itself.
	Symmetry *Symmetry `json:"symmetry,omitempty"`
	// Nest is what the part is made of, where it is an assembly itself.
	Nest *Nest `json:"nest,omitempty"`
	// Broken says why the part could not be made: then the shape has nothing else.
	Broken *Broken `json:"broken,omitempty"`
	Unit   string  `json:"unit"` // that the part was made in
	// Sizes are the parameters that drive the model document that it is of, as they are written there.
	Sizes []quantity.Parameter `json:"sizes,omitempty"`

	byName map[string]int
}

// Symmetry is how a part can be moved onto itself: by some turns, and where Axis is given by any turn about it, through
// At. It is in core/inspect how they are found.
type Symmetry struct {
	Turns []rigid.Pose `json:"turns,omitempty"`
	At    *solid.Vec   `json:"at,omitempty"`
	Axis  *solid.Vec   `json:"axis,omitempty"`
}

// Broken is a part that cannot be made, with what to do.
type Broken struct {
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

// Feature finds a feature by its name.
func (s *Shape) Feature(name string) (*Feature, bool) {
	if s.byName == nil {
		s.byName = make(map[string]int, len(s.Features))
		for i := range s.Features {
			for _, also := range s.Features[i].Also {
				s.byName[also] = i
			}
		}
		for i := range s.Features {
			s.byName[s.Features[i].Name] = i
		}
	}
	i, ok := s.byName[name]
	if !ok {
		return nil, false
	}
	return &s.Features[i], true
}

// With is the shape with other features and another box around them.
func (s *Shape) With(features []Feature, box solid.Box) *Shape {
	out := *s
	out.Features, out.Box, out.byName = features, box, nil
	return &out
}

// Named describes the features of a solid. Faces are called by their names, edges by the two faces that they lie
// between ("A & B") and corners by the three that meet in them, each in alphabetical order; what has no name of
// its own is left out, and so is what has no plain form. words are what the faces are called, in their order.
func Named(g *solid.Geometry, faces, words []string, corners []solid.Vec) []Feature {
	var out []Feature
	words = slices.Clone(words)
	for i, name := range faces { // pieces of one face are not told apart by numbers
		if slices.Contains(faces[:i], name) || slices.Contains(faces[i+1:], name) {
			words[i], _, _ = strings.Cut(words[i], " (")
		}
	}
	for i := range g.Faces {
		if x, ok := ofFace(g, i); ok && faces[i] != "" {
			x.Name, x.Words, x.Faces = faces[i], words[i], []int{i}
			if g.Names != nil {
				x.Also = slices.DeleteFunc(slices.Clone(g.Names[i]), func(n string) bool { return n == x.Name })
			}
			out = append(out, x)
		}
	}
	at := map[string][]string{} // the faces around each corner
	line := -1                  // of the mesh: seams and apexes have none
	for _, e := range g.Edges {
		if !e.Seam && !e.Degenerate {
			line++
		}
		if len(e.Faces) != 2 || e.Seam || e.Degenerate || faces[e.Faces[0]] == "" || faces[e.Faces[1]] == "" {
			continue
		}
		for _, end := range []solid.Vec{e.A, e.B} {
			for _, f := range e.Faces {
				if key := place(end); !slices.Contains(at[key], faces[f]) {
					at[key] = append(at[key], faces[f])
				}
			}
		}
		if x, ok := ofEdge(g, e); ok {
			x.Name = joint(faces[e.Faces[0]], faces[e.Faces[1]])
			x.Lines = []int{line}
			x.Words = "the edge between " + words[e.Faces[0]] + " and " + words[e.Faces[1]]
			out = append(out, x)
		}
	}
	for _, v := range corners {
		if list := at[place(v)]; len(list) >= 3 {
			slices.Sort(list)
			out = append(out, Feature{Name: joint(list[:3]...), Form: Corner, Words: "a corner", At: v})
		}
	}
	return unique(out)
}

func joint(names ...string) string {
	slices.Sort(names)
	return strings.Join(names, " & ")
}

func place(v solid.Vec) string {
	return fmt.Sprintf("%.5f %.5f %.5f", v[0]+0, v[1]+0, v[2]+0)
}

// unique makes one feature of those that have one name and lie on one surface, as the two halves of a bore that a slot
// parts; where they lie on several, no joint can tell them apart, and they are left out.
func unique(list []Feature) []Feature {
	var out []Feature
	at := map[string]int{}
	count := map[string]float64{}
	gone := map[string]bool{}
	for _, f := range list {
		i, have := at[f.Name]
		if !have {
			at[f.Name] = len(out)
			count[f.Name] = 1
			out = append(out, f)
			continue
		}
		if !out[i].united(&f, count[f.Name]) {
			gone[f.Name] = true
		}
		out[i].Faces, out[i].Lines = append(out[i].Faces, f.Faces...), append(out[i].Lines, f.Lines...)
		count[f.Name]++
	}
	return slices.DeleteFunc(out, func(f Feature) bool { return gone[f.Name] })
}

// united takes another piece of the same surface into a feature that is made of so many already, and tells whether it
// is one.
func (f *Feature) united(other *Feature, pieces float64) bool {
	const same = 1e-6
	if f.Form != other.Form || math.Abs(f.Radius-other.Radius) > same || math.Abs(f.Minor-other.Minor) > same ||
		f.Hollow != other.Hollow {
		return false
	}
	d := other.At.Sub(f.At)
	switch f.Form {
	case Plane:
		if !f.Axis.Parallel(other.Axis, same) || f.Axis.Dot(other.Axis) < 0 || math.Abs(d.Dot(f.Axis)) > same {
			return false
		}
		f.At = f.At.Add(d.Scale(1 / (pieces + 1)))
	case Cylinder, Line: // a line that something parts is one line
		if !f.Axis.Parallel(other.Axis, same) || solid.FromAxis(other.At, f.At, f.Axis).Norm() > same {
			return false
		}
		along := d.Dot(f.Axis)
		low, high := math.Min(-f.Length/2, along-other.Length/2), math.Max(f.Length/2, along+other.Length/2)
		f.At, f.Length = f.At.Add(f.Axis.Scale((low+high)/2)), high-low
	case Sphere, Torus, Cone, Circle:
		return d.Norm() <= same
	default:
		return false
	}
	return true
}

// ofFace is a face as a feature, without its name.
func ofFace(g *solid.Geometry, face int) (Feature, bool) {
	f := g.Faces[face]
	x := Feature{At: f.Centroid, Axis: f.Axis, Radius: f.Radius, Hollow: f.Hollow}
	switch f.Kind {
	case solid.PlaneFace:
		x.Form, x.Axis, x.Radius = Plane, f.Normal, 0
	case solid.CylinderFace, solid.ConeFace:
		x.Form = Cylinder
		if f.Kind == solid.ConeFace {
			x.Form, x.HalfAngle = Cone, f.HalfAngle
		}
		low, high := g.Reach(face, f.Axis)
		axis := f.Origin.Dot(f.Axis)
		x.At, x.Length = f.Origin.Add(f.Axis.Scale((low+high)/2-axis)), high-low
	case solid.SphereFace:
		x.Form, x.At, x.Axis = Sphere, f.Origin, solid.Vec{}
	case solid.TorusFace:
		x.Form, x.At, x.Minor = Torus, f.Origin, f.MinorRadius
	default:
		return x, false
	}
	return x, true
}

// ofEdge is an edge as a feature, without its name. A round edge points out of a flat face that it bounds.
func ofEdge(g *solid.Geometry, e solid.Edge) (Feature, bool) {
	switch e.Kind {
	case solid.LineEdge:
		along := e.B.Sub(e.A)
		return Feature{Form: Line, At: e.Mid, Axis: along.Unit(), Length: along.Norm()}, true
	case solid.CircleEdge:
		x := Feature{Form: Circle, At: e.Center, Axis: e.Axis, Radius: e.Radius}
		for _, f := range e.Faces {
			if face := g.Faces[f]; face.Kind == solid.PlaneFace && math.Abs(face.Normal.Dot(e.Axis)) > 0.999999 {
				x.Axis = face.Normal
			}
		}
		for _, f := range e.Faces {
			if face := g.Faces[f]; face.Kind == solid.CylinderFace && face.Hollow {
				x.Hollow = true
			}
		}
		return x, true
	}
	return bentFeature(e.Run)
}
