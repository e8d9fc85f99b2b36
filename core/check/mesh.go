package check

import (
	"fmt"
	"math"

	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// coarse is how far the figures of a mesh may be from those of the part that it stands for
// before they are certainly another's: round faces are cut off by their chords.
const coarse = 0.01

// ofMesh compares the figures of the whole part with those of a mesh, which has no faces
// to measure: every size is for a person to look at.
//
// STL states no unit, so that its numbers are in the sheet's; 3MF states one.
// The mean error of chords is about a hundredth of the volume for coarse meshes,
// so that less than that is for a person to decide.
func (r *frame) ofMesh(att Attempt) (*Outcome, error) {
	m := att.Mesh
	if len(m.Triangles) == 0 {
		return nil, &Unusable{"the mesh holds no triangles", "export the part and not an empty document; better as STEP"}
	}
	if n := m.Open(); n > 0 {
		return nil, &Unusable{fmt.Sprintf("the mesh is not closed: %d of its edges do not lie between two triangles", n),
			"export the solid as STEP, or a closed mesh"}
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
		return nil, &Unusable{"the mesh encloses no volume: its triangles face inwards",
			"export the solid as STEP, or a mesh whose triangles face outwards"}
	}
	geo := &solid.Geometry{Props: p, Box: m.Box(), Solids: m.Pieces()}
	var scale *report.Scale
	if list := unitMistakes(r.ref, geo, nearUnit); len(list) > 0 {
		scale = list[0]
	}
	f := *r // a mesh has no faces by which it could be placed
	if f.att = geo; scale != nil {
		f.scale = scale.Factor
	}
	var rows []row
	for i := range r.ex.Characteristics {
		c := &r.ex.Characteristics[i]
		w, err := f.unmeasured(c)
		if err != nil {
			return nil, err
		}
		rows = append(rows, *w)
	}
	rows, left := stated(rows)
	figures := f.roughly()
	if scale == nil {
		figures = unsettled(r.ex, left, figures)
	}
	attempt := report.Attempt{Name: att.Name, Kind: att.MeshKind, Solids: geo.Solids,
		Notes: []report.IntakeNote{{Kind: "mesh",
			What:   "it is a mesh, which has no faces to measure: only figures of the whole part were compared",
			Remedy: "hand in the solid as STEP (AP203, AP214 or AP242)"}}}
	out := &report.Report{Hammerset: report.Version, Checker: report.Checker, Exercise: r.ex.Title, Unit: r.ex.Unit,
		Attempt: attempt, Scale: scale,
		Characteristics: reported(rows), Whole: figures, Steps: []report.Step{}, Sketches: []report.Sketch{},
		Sweep: []report.Sweep{}, Causes: []report.Cause{}}
	finished(out, r.ex)
	return &Outcome{Report: out, AttemptMesh: m, Trace: traced(rows)}, nil
}

// unmeasured is the row of a characteristic that a mesh cannot show.
//
// Volume and the number of solids can be told of a mesh, and are.
func (r *frame) unmeasured(c *exercise.Characteristic) (*row, error) {
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
	w := &row{Characteristic: report.Characteristic{ID: c.ID, Balloon: c.Balloon, Kind: c.Kind, Label: c.Label,
		Weight: c.Weighs(), Verdict: report.Ask, Reason: "a mesh has no faces to measure", Places: []report.Place{},
		Nominal: Shown(c, stated.Value), NominalText: stated.Text, Lower: Shown(c, stated.Value-minus),
		Upper: Shown(c, stated.Value+plus), LimitsText: stated.Text}}
	return w.first(), nil
}

// roughly compares the whole-part figures of a mesh: in where they agree as exactly as a
// solid's must, ask where a mesh of the part may have them, out beyond that.
//
// Centroids are left out: a mesh is not placed on the reference.
func (r *frame) roughly() []report.Figure {
	var kept []report.Figure
	for _, f := range r.figures(nil, nil) {
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
	return kept
}
