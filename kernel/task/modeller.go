package task

import (
	"hammerset/core/part"
	"hammerset/core/robust"
	"hammerset/core/solid"
)

// Kinds of tasks of the modeller.
const (
	Model   = "model"   // rebuild a model with all that can be picked in it
	Measure = "measure" // measure one or two picks
	Edit    = "edit"    // move, remove, rename: changes that follow rules
	Changes = "changes" // what differs between two states
	Look    = "look"    // the findings of sketches and steps
	Reach   = "reach"   // the interval of a parameter in which the model holds
	Export  = "export"  // STEP, or a mesh
	Follow  = "follow"  // how far an attempt follows the reference
	Had     = "had"     // the characteristics that a model has already
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
	Guide bool      `json:"guide"`
	Kind  string    `json:"kind"`
	Run   []float64 `json:"run"`
}

// PointPicture is a point of a sketch in space.
type PointPicture struct {
	ID string    `json:"id"`
	At solid.Vec `json:"at"`
}

// RegionPicture is a region in the plane of its sketch: the outer boundary and the
// holes as runs of coordinates, and the entities that bound it.
type RegionPicture struct {
	Bounds []string    `json:"bounds"`
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

// FollowedAll is how far an attempt follows the reference.
type FollowedAll struct {
	Parameters []robust.Followed `json:"parameters"`
	WhatIfs    []robust.Together `json:"whatIfs"`
}

// JoinFollowed puts the shares of an answer together, in the order of the shares:
// parameters and what-ifs were dealt out one by one.
func JoinFollowed(shares []FollowedAll) FollowedAll {
	var rows [][]robust.Followed
	var together [][]robust.Together
	for _, s := range shares {
		rows, together = append(rows, s.Parameters), append(together, s.WhatIfs)
	}
	return FollowedAll{Parameters: collect(rows), WhatIfs: collect(together)}
}

// collect takes back what was dealt out one by one.
func collect[T any](hands [][]T) []T {
	out := []T{}
	for i := 0; ; i++ {
		before := len(out)
		for _, h := range hands {
			if i < len(h) {
				out = append(out, h[i])
			}
		}
		if len(out) == before {
			return out
		}
	}
}

// Exported is a file.
type Exported struct {
	Name string      `json:"name"`
	Data []byte      `json:"data,omitempty"`
	Mesh *solid.Mesh `json:"mesh,omitempty"`
}
