package prepare

import (
	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/core/solid"
)

// Prepared is an exercise made ready to be shown: its sheet, drawn, and its reference as a mesh. Faces lists, for every
// characteristic, the faces of the reference's mesh that it is measured on.
type Prepared struct {
	Drawing *sheet.Drawing           `json:"drawing"`
	Mesh    *solid.Mesh              `json:"mesh"`
	Faces   map[string][]address.Ref `json:"faces"`
	Stated  []Stated                 `json:"stated"`
	Driving []string                 `json:"driving"`
	// Audit tells whether the sheet determines the part; nothing of a version that was prepared before there were audits.
	Audit *Audited `json:"audit,omitempty"`
	// Loose is what the audit found missing, as the check of attempts needs it.
	Loose []exercise.Loose `json:"loose,omitempty"`
	// Items are the parts of an assembly that have exercises of their own; nothing of a version that was prepared before
	// they were told.
	Items []Item `json:"items,omitempty"`
	// Bulk is what the reference comes to; nothing of a version that was prepared before it was told.
	Bulk *report.Bulk `json:"bulk,omitempty"`
	// Possible is how many sets of personal sizes there are.
	Possible int `json:"possible,omitempty"`
}

// Item is a part of an assembly by its id, its number and its name in the parts list.
type Item struct {
	Part   string `json:"part"`
	Number string `json:"number"`
	Name   string `json:"name"`
}

// Stated is a characteristic as the sheet states it.
type Stated struct {
	ID      string `json:"id"`
	Balloon int    `json:"balloon"`
	Label   string `json:"label"`
	Kind    string `json:"kind"`
	Text    string `json:"text"`
	Places  int    `json:"places"`
	Item    string `json:"item,omitempty"` // of an assembly: of whose part it is
}

// Drafted is an exercise while its characteristics are being chosen: the faces that they can
// be picked on, in the order of the mesh, and what each would state.
type Drafted struct {
	Faces  []modeller.FaceRow `json:"faces"`
	Values []DraftValue       `json:"values"`
	Sheet  *exercise.Sheet    `json:"sheet,omitempty"` // laid out by itself, where that was asked for
	// Sheets are those of the exercise with their views placed by their origins; none where they were before.
	Sheets exercise.Sheets `json:"sheets,omitempty"`
	Unit   string          `json:"unit"`
	Solids int             `json:"solids"`
	Audit  *Audited        `json:"audit"` // of the characteristics that are finished
	// Driving are the driving sizes of the reference, with what they are.
	Driving []Size `json:"driving"`
	// WhatIfs says of each of the exercise why it cannot be made; nothing where it can.
	WhatIfs []string `json:"whatIfs"`
	// Personal says what is wrong with the ranges of personal sizes, and Possible how many sets they have.
	Personal string `json:"personal,omitempty"`
	Possible int    `json:"possible,omitempty"`
}

// Size is a driving size of a reference, as it is written.
type Size struct {
	Name string `json:"name"`
	Text string `json:"text"`
}

// Faulty is the first characteristic that cannot be measured, or nil.
func (d *Drafted) Faulty() *DraftValue {
	for i := range d.Values {
		if d.Values[i].Error != "" {
			return &d.Values[i]
		}
	}
	return nil
}

// DraftValue is what a characteristic states on the reference, or why it cannot.
type DraftValue struct {
	ID     string        `json:"id"`
	Text   string        `json:"text"`
	Limits string        `json:"limits"`
	Places int           `json:"places"`
	Faces  []address.Ref `json:"faces"`
	// Called says in words what the names in its first place stand for.
	Called map[string]string `json:"called"`
	// Exact are the distances that the exact place of a position is given by.
	Exact []float64 `json:"exact,omitempty"`
	Error string    `json:"error,omitempty"`
}
