package check

import (
	"fmt"
	"math"

	"hammerset/core/diagnose"
	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// coarse is how far the figures of a mesh may be from those of the part that it stands for
// before they are certainly another's: round faces are cut off by their chords.
const coarse = 0.01

// ofMesh compares the figures of the whole part with those of a mesh, which has no faces
// to measure: every size is for a person to look at.
func (r *run) ofMesh(att Attempt) (*Outcome, error) {
	m := att.Mesh
	r.report.Attempt.Name, r.report.Attempt.Kind = att.Name, att.MeshKind
	if len(m.Triangles) == 0 {
		return nil, &Unusable{"the mesh holds no triangles", "export the part and not an empty document; better as STEP"}
	}
	if n := m.Open(); n > 0 {
		return nil, &Unusable{fmt.Sprintf("the mesh is not closed: %d of its edges do not lie between two triangles", n), "export the solid as STEP, or a closed mesh"}
	}
	if att.MeshKind == "stl" {
		unit, err := quantity.LengthUnit(r.ex.Unit)
		if err != nil {
			return nil, err
		}
		for i := range m.Vertices {
			m.Vertices[i] *= unit.Factor
		}
	}
	p := m.Props()
	if !(p.Volume > 0) {
		return nil, &Unusable{"the mesh encloses no volume: its triangles face inwards", "export the solid as STEP, or a mesh whose triangles face outwards"}
	}
	r.att = &solid.Geometry{Props: p, Box: m.Box(), Solids: m.Pieces()}
	r.report.Attempt.Solids = r.att.Solids
	r.unit()
	for i := range r.ex.Characteristics {
		c := &r.ex.Characteristics[i]
		row, err := r.unmeasured(c)
		if err != nil {
			return nil, err
		}
		r.report.Characteristics = append(r.report.Characteristics, *row)
	}
	r.roughly()
	r.note("mesh", "it is a mesh, which has no faces to measure: only figures of the whole part were compared", "hand in the solid as STEP (AP203, AP214 or AP242)")
	diagnose.Diagnose(r.report)
	grade.Mark(r.report, r.ex, grade.Circumstances{Number: 1}).Onto(r.report)
	return &Outcome{Report: r.report, AttemptMesh: m}, nil
}

// unmeasured is the row of a characteristic that a mesh cannot show.
func (r *run) unmeasured(c *exercise.Characteristic) (*report.Characteristic, error) {
	if kind := c.Declared(); kind.Whole() && !kind.Worded() && !kind.Density {
		return r.characteristic(c)
	}
	_, stated, err := Nominal(r.ref, r.ex, c)
	if err != nil {
		return nil, err
	}
	minus, plus, err := r.ex.Limits(c, stated)
	if err != nil {
		return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
	}
	row := &report.Characteristic{ID: c.ID, Balloon: c.Balloon, Kind: c.Kind, Label: c.Label, Weight: c.Weighs(), Verdict: report.Ask, Reason: "a mesh has no faces to measure", Places: []report.Place{},
		Nominal: shown(c, stated.Value), NominalText: stated.Text, Lower: shown(c, stated.Value-minus), Upper: shown(c, stated.Value+plus), LimitsText: stated.Text}
	return row, nil
}

// roughly compares the whole-part figures of a mesh: in where they agree as exactly as a
// solid's must, ask where a mesh of the part may have them, out beyond that.
func (r *run) roughly() {
	r.whole(nil)
	kept := r.report.Whole[:0]
	for _, f := range r.report.Whole {
		switch f.ID {
		case "volume", "area", "moments":
			if f.Verdict == report.Out && math.Abs(f.Measured / *f.Reference - 1) < coarse {
				f.Verdict = report.Ask
			}
			kept = append(kept, f)
		case "solids":
			kept = append(kept, f)
		}
	}
	r.report.Whole = kept
}
