package modeller

import (
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/sketch"
	"hammerset/core/solid"
)

// Modelled is a rebuilt model for the modeller. Lengths are in millimetres.
type Modelled struct {
	Unit       string          `json:"unit"`
	Parameters []ParameterRow  `json:"parameters"`
	Steps      []ModelStep     `json:"steps"`
	Solids     []SolidRow      `json:"solids"`
	Mesh       *solid.Mesh     `json:"mesh,omitempty"`
	Faces      []FaceRow       `json:"faces"`
	Edges      []EdgeRow       `json:"edges"`
	Corners    []CornerRow     `json:"corners"`
	Sketches   []SketchPicture `json:"sketches"`
	Planes     []PlanePicture  `json:"planes"`
	Notes      []NoteRow       `json:"notes"`
	Box        *solid.Box      `json:"box,omitempty"`
	Handle     *Handle         `json:"handle,omitempty"`
}

// ParameterRow is a parameter with its value. Number is in the document's unit, in
// degrees, or plain, as Dim says.
type ParameterRow struct {
	Name    string   `json:"name"`
	Text    string   `json:"text"`
	Number  float64  `json:"number"`
	Dim     string   `json:"dim"`
	Driving bool     `json:"driving"`
	Users   []string `json:"users"`
}

// ModelStep is a step with what came of it.
type ModelStep struct {
	ID      string   `json:"id"`
	Kind    string   `json:"kind"`
	Name    string   `json:"name"`
	Title   string   `json:"title"` // what it is called: by its name, or by its kind where it has none
	Off     bool     `json:"off"`
	Failed  bool     `json:"failed"`
	Message string   `json:"message"`
	Remedy  string   `json:"remedy"`
	Needs   []string `json:"needs"`
	Freedom int      `json:"freedom"` // of a sketch
	Regions int      `json:"regions"` // of a sketch
	Gives   string   `json:"gives"`   // what later steps can take of it; see part.Kind
	Repeats bool     `json:"repeats"` // a mirror or pattern can repeat it
}

// SolidRow is a solid with its figures. Mass is in kilograms, 0 without a material.
type SolidRow struct {
	Of       string    `json:"of"`
	Name     string    `json:"name"`
	Material string    `json:"material"`
	Density  float64   `json:"density"`
	Volume   float64   `json:"volume"`
	Area     float64   `json:"area"`
	Mass     float64   `json:"mass"`
	Centroid solid.Vec `json:"centroid"`
	Box      solid.Box `json:"box"`
	Lumps    int       `json:"lumps"`
}

// FaceRow is a face of the mesh: the name to refer to it by, and its kind.
type FaceRow struct {
	Name  string `json:"name"`
	Kind  string `json:"kind"`
	Solid string `json:"solid"`
	Words string `json:"words"`
}

// EdgeRow is an edge: how to refer to it, and its run of points.
type EdgeRow struct {
	Ref   *part.EdgeRef `json:"ref,omitempty"`
	Kind  string        `json:"kind"`
	Run   []float64     `json:"run"`
	Words string        `json:"words"`
	Index int           `json:"index"`
}

// CornerRow is a vertex.
type CornerRow struct {
	Ref   *part.PointRef `json:"ref,omitempty"`
	At    solid.Vec      `json:"at"`
	Index int            `json:"index"`
}

// SketchPicture is a placed sketch, for showing and picking.
type SketchPicture struct {
	Step    string          `json:"step"`
	Curves  []CurvePicture  `json:"curves"`
	Points  []PointPicture  `json:"points"`
	Regions []RegionPicture `json:"regions"`
	Frame   solid.Frame     `json:"frame"`
}

// CurvePicture is a curve of a sketch in space.
type CurvePicture struct {
	ID    string    `json:"id"`
	Words string    `json:"words"`
	Guide bool      `json:"guide"`
	Kind  string    `json:"kind"`
	Run   []float64 `json:"run"`
}

// PointPicture is a point of a sketch in space.
type PointPicture struct {
	ID    string    `json:"id"`
	Words string    `json:"words"`
	At    solid.Vec `json:"at"`
}

// RegionPicture is a region in the plane of its sketch: the outer boundary and the
// holes as runs of coordinates, and the entities that bound it.
type RegionPicture struct {
	Bounds []string    `json:"bounds"`
	Words  string      `json:"words"`
	Loops  [][]float64 `json:"loops"`
}

// PlanePicture is the plane of a plane step.
type PlanePicture struct {
	Step  string      `json:"step"`
	Frame solid.Frame `json:"frame"`
}

// NoteRow is a cosmetic note on a face.
type NoteRow struct {
	Step string    `json:"step"`
	Text string    `json:"text"`
	At   solid.Vec `json:"at"`
}

// Handle is where the main size of the step being edited can be pulled: from a place
// along a direction. Path is where the size stands in the step; Scale is how much it grows
// with a millimetre of pull, in millimetres or, with Angle, in degrees.
type Handle struct {
	Path  string    `json:"path"`
	At    solid.Vec `json:"at"`
	Along solid.Vec `json:"along"`
	Scale float64   `json:"scale"`
	Angle bool      `json:"angle"`
}

// Measured is what one or two picks measure.
type Measured struct {
	Rows []MeasuredRow `json:"rows"`
	From *solid.Vec    `json:"from,omitempty"` // ends of the distance
	To   *solid.Vec    `json:"to,omitempty"`
}

// MeasuredRow is one figure, in millimetres and inches or in degrees.
type MeasuredRow struct {
	Label string `json:"label"`
	First string `json:"first"`
	Other string `json:"other,omitempty"`
}

// Command is a change of a document that follows rules.
type Command struct {
	Do    string `json:"do"` // move, remove, rename, import-parameters or fresh
	ID    string `json:"id,omitempty"`
	To    int    `json:"to,omitempty"`
	Along bool   `json:"along,omitempty"`
	Name  string `json:"name,omitempty"`
	Kind  string `json:"kind,omitempty"`
	Text  string `json:"text,omitempty"`
}

// Edited is a changed document.
type Edited struct {
	Document *part.Document `json:"document"`
	Said     string         `json:"said"`
	ID       string         `json:"id,omitempty"`
}

// Looked is what looking a model over found.
type Looked struct {
	Findings []LookFinding `json:"findings"`
}

// LookFinding is one finding, at a step.
type LookFinding struct {
	Step   string `json:"step"`
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

// Reached is the interval of a parameter in which the model holds, in the unit of
// ParameterRow.Number. Why says what ends it; the ends are open where nothing does.
type Reached struct {
	Name  string  `json:"name"`
	At    float64 `json:"at"`
	Least End     `json:"least"`
	Most  End     `json:"most"`
}

// End is one end of an interval.
type End struct {
	At    float64 `json:"at"`
	Found bool    `json:"found"` // the model ends here; else the search does
	Why   string  `json:"why"`
}

// Exported is a file.
type Exported struct {
	Name string      `json:"name"`
	Data []byte      `json:"data,omitempty"`
	Mesh *solid.Mesh `json:"mesh,omitempty"`
}

// Rebuilt is the result of rebuilding a model.
type Rebuilt struct {
	Parameters []Value       `json:"parameters"`
	Steps      []report.Step `json:"steps"`
	Volume     float64       `json:"volume"`
	Area       float64       `json:"area"`
	Centroid   solid.Vec     `json:"centroid"`
	Box        solid.Box     `json:"box"`
	Solids     int           `json:"solids"`
	Faces      int           `json:"faces"`
	Unit       string        `json:"unit"`
	STEP       []byte        `json:"step,omitempty"`
	Mesh       *solid.Mesh   `json:"mesh,omitempty"`
}

// Placed is a sketch ready for editing: its traced entities lie where the edges
// are that they follow. Elsewhere lists the formulas of the model's other steps;
// Edges are those of the solid before it that can be traced.
type Placed struct {
	Unit        string               `json:"unit"`
	Name        string               `json:"name"`
	Plane       string               `json:"plane"`
	Parameters  []quantity.Parameter `json:"parameters"`
	Entities    []sketch.Entity      `json:"entities"`
	Constraints []sketch.Constraint  `json:"constraints"`
	Elsewhere   []string             `json:"elsewhere"`
	Edges       []part.Traceable     `json:"edges"`
	Warning     string               `json:"warning,omitempty"`
}

// Verified is a model document that was read, with each of its sketches solved.
type Verified struct {
	Name     string         `json:"name"`
	Steps    []StepRow      `json:"steps"`
	Sketches []SketchSolved `json:"sketches"`
}

// StepRow is a step in a list.
type StepRow struct {
	ID   string `json:"id"`
	Kind string `json:"kind"`
	Name string `json:"name"`
}

// SketchSolved compares a sketch as it is stored with its solution. Off is how far
// the farthest point is from where it is stored, in millimetres.
type SketchSolved struct {
	Step    string  `json:"step"`
	Solved  bool    `json:"solved"`
	Freedom int     `json:"freedom"`
	Off     float64 `json:"off"`
	Point   string  `json:"point,omitempty"`
	Agrees  bool    `json:"agrees"`
	Error   string  `json:"error,omitempty"`
}

// Value is a parameter with its value in words.
type Value struct {
	Name string `json:"name"`
	Text string `json:"text"`
}
