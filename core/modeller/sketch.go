package modeller

import (
	"context"
	"math"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/words"
	"strings"
)

// Sketch places one sketch of a model for editing.
//
// Formulas elsewhere are told along, so that the editor knows which parameters
// are used and does not offer to delete them. Lists are empty and not absent:
// the interface draws them as they come.
func (m *Modeller) Sketch(ctx context.Context, doc *part.Document, step string) (*Placed, error) {
	sk, edges, warning, err := m.Rebuilder.SketchAt(ctx, doc, step)
	if err != nil {
		return nil, err
	}
	out := &Placed{Unit: doc.Unit, Parameters: doc.Parameters, Entities: sk.Entities, Constraints: sk.Constraints,
		Elsewhere: []string{}, Edges: edges}
	if warning != nil {
		out.Warning = warning.Error()
	}
	for i := range doc.Steps {
		s := &doc.Steps[i]
		if s.ID != step {
			out.Elsewhere = append(out.Elsewhere, s.Formulas()...)
			continue
		}
		out.Name = doc.Titles()[s.ID]
		if sk := s.Sketched(); sk != nil && sk.Plane != nil {
			out.Plane = plane(doc, sk.Plane)
		}
	}
	if out.Edges == nil {
		out.Edges = []part.Traceable{}
	}
	if out.Parameters == nil {
		out.Parameters = []quantity.Parameter{}
	}
	if out.Entities == nil {
		out.Entities = []sketch.Entity{}
	}
	if out.Constraints == nil {
		out.Constraints = []sketch.Constraint{}
	}
	return out, nil
}

// agreement is how far a stored sketch may be from its solution, relative to its
// size: what is left of a solution written with twelve significant places.
const agreement = 1e-8

// Verify solves the sketches of a model as they are stored.
//
// A stored sketch says where its points are, and solving it must give the same
// places: else whoever opens the document sees another part than the one who
// stored it.
func Verify(doc *part.Document) (*Verified, error) {
	table, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	unit := table.Unit()
	out := &Verified{Name: doc.Name, Steps: []StepRow{}, Sketches: []SketchSolved{}}
	for i := range doc.Steps {
		s := &doc.Steps[i]
		out.Steps = append(out.Steps, StepRow{ID: s.ID, Kind: s.Kind, Name: s.Name})
		drawn := s.Sketched()
		if drawn == nil {
			continue
		}
		row := SketchSolved{Step: s.ID}
		sol, err := sketch.Solve(drawn.Geometry(), unit.Factor, table)
		if err != nil {
			row.Error = err.Error()
			out.Sketches = append(out.Sketches, row)
			continue
		}
		row.Solved, row.Freedom = sol.Solved, sol.Freedom
		for _, e := range drawn.Entities {
			if e.Kind != sketch.KindPoint || !sol.Solved {
				continue
			}
			at := sketch.Vec{X: e.At[0] * unit.Factor, Y: e.At[1] * unit.Factor}
			if d := sol.Points[e.ID].Distance(at); d > row.Off {
				row.Off, row.Point = d, e.ID
			}
		}
		row.Agrees = !sol.Solved || row.Off <= math.Max(agreement*sol.System().Scale(), 1e-9)
		out.Sketches = append(out.Sketches, row)
	}
	return out, nil
}

// plane names the plane of a sketch as people call it.
//
// It is said as a person would: "the end of base, moved by 5".
func plane(doc *part.Document, p *part.PlaneRef) string {
	name := words.NewNamer(doc.Titles(), doc.Unit).Step
	called := p.Datum
	switch {
	case p.Step != "":
		called = name(p.Step)
	case p.Face != "":
		maker, rest, _ := strings.Cut(p.Face, "/")
		step, _, _ := strings.Cut(maker, ".")
		kind, curve, _ := strings.Cut(rest, ":")
		switch called = kind + " of " + name(step); {
		case kind == "end" || kind == "start" || kind == "floor" || kind == "bottom":
			called = "the " + called
		case curve != "":
			called = "a " + called
		}
	}
	if p.Offset != "" {
		called += ", moved by " + p.Offset
	}
	return called
}
