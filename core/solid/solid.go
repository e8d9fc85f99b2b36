package solid

import "context"

// SurfaceKind is the geometric kind of a face.
type SurfaceKind string

// Kinds of surfaces.
const (
	PlaneFace    SurfaceKind = "plane"
	CylinderFace SurfaceKind = "cylinder"
	ConeFace     SurfaceKind = "cone"
	SphereFace   SurfaceKind = "sphere"
	TorusFace    SurfaceKind = "torus"
	OtherFace    SurfaceKind = "other"
)

// Face describes one face of a solid. Normal is the outward normal in the
// middle of the face; Axis is the direction of a cylinder, cone or torus (of no
// particular sense) and the outward normal of a plane. Radius is that of a
// cylinder or sphere, the major radius of a torus, the radius of a cone at
// Origin. Hollow is set where the material is outside the curvature: a bore, a
// socket, the inside of a fillet.
type Face struct {
	Kind        SurfaceKind
	Origin      Vec
	Axis        Vec
	Normal      Vec
	Radius      float64
	MinorRadius float64 // of a torus
	HalfAngle   float64 // of a cone
	Hollow      bool
	Area        float64
	Centroid    Vec
	Bounds      Box
	Span        float64 // angle covered around the axis, radians
	Around      float64 // and by those beside it on the same surface together (Geometry.Join)
	Edges       []int   // edges on the boundary
}

// CurveKind is the geometric kind of an edge.
type CurveKind string

// Kinds of curves.
const (
	LineEdge   CurveKind = "line"
	CircleEdge CurveKind = "circle"
	OtherEdge  CurveKind = "other"
)

// Edge describes one edge of a solid. Smooth is set where the two faces meet
// without a corner, Seam where a closed face meets itself.
type Edge struct {
	Kind       CurveKind
	A, B       Vec
	Mid        Vec
	Center     Vec
	Axis       Vec
	Radius     float64
	Length     float64
	Faces      []int
	Seam       bool
	Smooth     bool
	Degenerate bool // without length: an apex
	// Run are points at about equal lengths along it, its ends among them. Only sections have it,
	// where they are neither straight nor round; see Kernel.Along.
	Run []Vec
}

// Mesh is a triangulation: three coordinates a vertex, three indices a
// triangle, and for each triangle the face it lies on. Lines are the edges as
// runs of points, for drawing.
type Mesh struct {
	Vertices  []float64   `json:"vertices"`
	Triangles []int32     `json:"triangles"`
	Faces     []int32     `json:"faces"`
	Lines     [][]float64 `json:"lines"`
}

// Segment is one boundary piece of a plane profile: a line from A to B, an arc
// from A through Mid to B, the circle about Center with the given radius, a piece
// of an ellipse Center + U cos t + V sin t, or a piece of a cubic B-spline. Lo and
// Hi are the parameters between which it lies; it runs from Lo to Hi when Forward
// (a circle then runs counter-clockwise). V is square to U, to its left.
type Segment struct {
	Kind      string // line, arc, circle, ellipse or spline
	A, B, Mid [2]float64
	Center    [2]float64
	Radius    float64
	Forward   bool
	U, V      [2]float64
	Lo, Hi    float64
	Poles     [][2]float64
	Knots     []float64
}

// Profile is a plane area: an outer loop and holes.
type Profile struct {
	Frame Frame
	Loops [][]Segment // the first is the outer boundary
}

// SourceKind says what kind of sub-shape of an operand a face came from.
type SourceKind int

// Kinds of sources. CapStart and CapEnd are the first and last section of a
// prism, revolution, sweep or loft; BesideFace is the inner side of a wall along a
// face.
const (
	FromFace SourceKind = iota
	FromEdge
	FromVertex
	CapStart
	CapEnd
	BesideFace
)

// Source is where a result face came from: sub-shape Index of operand Operand.
// For profiles the edges are numbered through all loops in order; for sweeps
// Operand is the piece of the path.
type Source struct {
	Operand int
	Kind    SourceKind
	Index   int
}

// History lists for every face of a result what it came from.
type History [][]Source

// Operation is a boolean operation.
type Operation int

// Boolean operations.
const (
	Union Operation = iota
	Difference
	Intersection
)

// Shape is a kernel's solid (or several). It is immutable.
//
// It is described where something is first asked of it. Where that fails, what was asked for comes
// empty and Err says why: whoever has used a description looks at it before the result counts.
type Shape interface {
	Err() error
	Faces() []Face
	Surface(face int) Face // one face without its edges, where not all are needed
	Edges() []Edge
	Vertices() []Vec
	Solids() int
}

// Bevel is a chamfer of one edge: First on Face and Second on the other face, or
// First on both where Face is negative.
type Bevel struct {
	Edge, Face    int
	First, Second float64
}

// Path is what a profile is moved along: pieces in a plane that follow one
// another, or a helix.
type Path struct {
	Frame  Frame
	Pieces []Segment
	Closed bool
	Helix  *Helix
}

// Helix runs about the z axis of its frame, from the x axis upwards.
type Helix struct {
	Radius, Pitch, Turns float64
	Left                 bool
}

// PickKind says what a Pick is.
type PickKind int

// Kinds of picks.
const (
	PickFace PickKind = iota
	PickEdge
	PickVertex
	PickWhole
)

// Pick is a part of a shape, to be measured from.
type Pick struct {
	Shape Shape
	Kind  PickKind
	Index int
}

// Titled is a shape with the name that it has in a file.
type Titled struct {
	Shape Shape
	Name  string
}

// Schema is an application protocol of ISO 10303.
type Schema int

// Schemas in which solids are written.
const (
	AP214 Schema = iota
	AP242
)

// SchemaOf finds a schema by its name in small letters.
func SchemaOf(name string) (Schema, bool) {
	s, ok := map[string]Schema{"ap214": AP214, "ap242": AP242}[name]
	return s, ok
}

// ViewCurve is one curve of a projected view, in the coordinates of the view
// plane (x to the right, y up).
type ViewCurve struct {
	Hidden  bool
	Smooth  bool // a tangent edge
	Outline bool // a silhouette
	Kind    string
	Points  [][2]float64 // two ends of a line, or a run of points
	Center  [2]float64   // of an arc
	Radius  float64
	Start   float64 // angles of an arc, counter-clockwise from Start by Sweep
	Sweep   float64
	Edge    int // of the shape, that it is a picture of, or -1
	Face    int // of the shape, whose silhouette it is, or -1
}

// Content is what a STEP file holds. Unit is the length of the file's own unit
// in millimetres, 0 when the file does not say; the shape is in millimetres.
type Content struct {
	Shape      Shape
	Solids     int
	Shells     int // open shells and single faces outside solids
	Wires      int // curves outside faces
	Components int // components of an assembly, 0 for a single part
	Schema     string
	Unit       float64
	// Loose has the faces outside solids, nil without any; Uncertainty is how closely what
	// meets in the file does so, in millimetres, 0 where it does not say.
	Loose       Shape
	Uncertainty float64
	Names       []string // of the products
	Colours     int
	// Tree is how the file is put together: each component after the one that it is in, those at
	// the roots without one. Parts are what its leaves are, one for all the places of a part.
	Tree  []Component
	Parts []FilePart
}

// Component is a product at a place in a file. Parent and Part are places in the lists of Content, -1
// for none: a root has no parent, and what is made of others is no part. Occurrence is what it is
// called at this place; Place leads from its own coordinates to those of its parent. File is the file that
// it is in, where this one only names it: then it is no part here.
type Component struct {
	Name, Occurrence string
	File             string
	Parent, Part     int
	Place            Transform
}

// FilePart is a part of a file in its own coordinates. Volume and Area are what the program that
// wrote the file says of it (validation properties, ISO 10303-41), in mm³ and mm², 0 where it says
// nothing.
type FilePart struct {
	Name         string
	Shape        Shape
	Colour       *[3]float64 // red, green and blue from 0 to 1
	Volume, Area float64
}

// Kernel is a solid-geometry kernel. All methods give a new shape and leave
// their operands alone; an operation that cannot be done is an error in words.
type Kernel interface {
	Prism(p Profile, along Vec) (Shape, History, error)
	Revolve(p Profile, origin, axis Vec, angle float64) (Shape, History, error)
	Boolean(op Operation, a Shape, tools []Shape) (Shape, History, error)
	// Differ gives what a solid has beyond another, and what the other has beyond it; what
	// coincides may lie apart by fuzzy.
	Differ(a, b Shape, fuzzy float64) (more, less Shape, err error)
	// Overlap gives what two solids share and both as one, from one intersection, with the same fuzzy.
	Overlap(a, b Shape, fuzzy float64) (shared, whole Shape, err error)
	// Sew gives the solids of the shells that faces close to, nil for none, and how many
	// edges stay open.
	Sew(s Shape, tolerance float64) (solids Shape, open int, err error)
	Sweep(p Profile, path Path, keepDirections bool) (Shape, History, error)
	Loft(sections []Profile, ruled bool) (Shape, History, error)
	Fillet(s Shape, edges []int, radii []float64) (Shape, History, error)
	Chamfer(s Shape, bevels []Bevel) (Shape, History, error)
	Shell(s Shape, open []int, thickness float64) (Shape, History, error)
	Offset(s Shape, distance float64) (Shape, History, error)
	Draft(s Shape, faces []int, neutral Frame, angle float64) (Shape, History, error)
	Compound(list []Shape) (Shape, History, error)
	Section(s Shape, plane Frame) ([]Edge, error)
	// Along gives points at about equal lengths along an edge, its ends among them.
	Along(s Shape, edge int) ([]Vec, error)
	// Sample gives n by n places of the surface of a face, within its bounds, with the outward
	// normals there.
	Sample(s Shape, face, n int) (points, normals []Vec, err error)
	Distance(a, b Pick) (distance float64, onA, onB Vec, err error)
	Transform(s Shape, t Transform) (Shape, History, error)
	// Simplify joins neighbouring faces that lie on one surface; whole tells that none stayed in
	// pieces.
	Simplify(s Shape) (simple Shape, h History, whole bool, err error)
	Props(s Shape) (Props, error)
	Bounds(s Shape) (Box, error)
	// Around is a box around a shape that may be larger than it: cheaper, and never a size.
	Around(s Shape) (Box, error)
	Check(s Shape) error
	Mesh(s Shape, deflection, angle float64) (*Mesh, error)
	View(s Shape, f Frame) ([]ViewCurve, error)
	Split(s Shape) ([]Shape, error)
	ReadSTEP(ctx context.Context, data []byte) (*Content, error)
	WriteSTEP(list []Titled, title string, schema Schema) ([]byte, error)
	// WriteAssembly writes products made of products: the first is the whole.
	WriteAssembly(products []Product, title string, schema Schema) ([]byte, error)
}
