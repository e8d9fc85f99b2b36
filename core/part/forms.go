package part

// Field is one entry of a step's form: what is asked, where it stands in the step,
// and what kind of thing it is. When names a field and the values of it with which
// this one counts, as "form=counterbore|spotface".
type Field struct {
	Path     string   `json:"path"`
	Label    string   `json:"label"`
	Kind     string   `json:"kind"`
	Options  []string `json:"options,omitempty"`
	When     string   `json:"when,omitempty"`
	Optional bool     `json:"optional,omitempty"`
	Hint     string   `json:"hint,omitempty"`
	Default  string   `json:"default,omitempty"`
	First    string   `json:"first,omitempty"` // of a formula: what a new step begins with
	// Own is the path of a size that every member of a list can have for itself, where that of
	// the step does not suit it.
	Own string `json:"own,omitempty"`
}

// Form is the form of one kind of step. Main is the path of the size that is typed
// first.
type Form struct {
	Kind    string  `json:"kind"`
	Title   string  `json:"title"`
	What    string  `json:"what"`
	Group   string  `json:"group"`
	Main    string  `json:"main,omitempty"`
	Fields  []Field `json:"fields"`
	Repeats bool    `json:"repeats,omitempty"`
	Gives   string  `json:"gives,omitempty"`
	Quick   bool    `json:"quick,omitempty"`
}

// Kinds of fields: length, angle and number are formulas; the others name things.
const (
	asLength   = "length"
	asAngle    = "angle"
	asNumber   = "number"
	asChoice   = "choice"
	asFlag     = "flag"
	asText     = "text"
	asSketch   = "sketch"   // the id of a sketch
	asSketches = "sketches" // several, in order
	asPath     = "path"     // a sketch or helix
	asRegions  = "regions"
	asSpots    = "spots" // points of the step's sketch
	asLines    = "lines" // lines and arcs of the step's sketch
	asSpot     = "spot"  // one point of the step's sketch
	asFace     = "face"
	asFaces    = "faces"
	asEdge     = "edge"
	asEdges    = "edges"
	asPlane    = "plane"
	asPlanes   = "planes"
	asAxis     = "axis"
	asPoints   = "points"
	asSteps    = "steps"
	asSolid    = "solid"
	asSolids   = "solids"
	asSkip     = "skip" // numbers of instances
	asFile     = "file"
)

// optional makes a field that may be left empty.
func optional(f Field) Field { f.Optional = true; return f }

// reverseField turns the direction around.
func reverseField() Field { return Field{Path: "reverse", Label: "Other direction", Kind: asFlag} }

// axisField asks for an axis: one of the model, of an edge or face, or a line of
// a sketch.
func axisField() Field { return Field{Path: "axis", Label: "Axis", Kind: asAxis} }

// spanFields asks for the sizes of an extent, which are lengths or angles.
func spanFields(dim string) []Field {
	return []Field{
		{Path: "extent.length", Label: "Length", Kind: dim, When: "extent.kind=one-side"},
		{Path: "extent.total", Label: "Total", Kind: dim, When: "extent.kind=symmetric", Hint: "both sides together"},
		{Path: "extent.forward", Label: "Forward", Kind: dim, When: "extent.kind=two-sides"},
		{Path: "extent.backward", Label: "Backward", Kind: dim, When: "extent.kind=two-sides"},
	}
}

// Forms lists the forms of all kinds of steps, in the order in which a part is
// usually made.
func Forms() []Form {
	var out []Form
	for _, k := range All() {
		out = append(out, Form{Kind: k.Name, Title: k.Title, What: k.What, Group: k.Group, Main: k.Main, Fields: k.Fields,
			Repeats: k.Repeats, Gives: k.Gives, Quick: k.Quick})
	}
	return out
}
