package child

import (
	"context"
	"math"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// sketch places one sketch of a model for editing.
func (w *Worker) sketch(ctx context.Context, req *task.Request) (any, error) {
	doc, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	sk, edges, warning, err := w.checker.Rebuilder.SketchAt(ctx, doc, req.Step)
	if err != nil {
		return nil, err
	}
	out := &task.Placed{Unit: doc.Unit, Parameters: doc.Parameters, Entities: sk.Entities, Constraints: sk.Constraints, Elsewhere: []string{}, Edges: edges}
	if warning != nil {
		out.Warning = warning.Error()
	}
	for i := range doc.Steps {
		s := &doc.Steps[i]
		if s.ID != req.Step {
			out.Elsewhere = append(out.Elsewhere, s.Formulas()...)
			continue
		}
		out.Name = s.Name
		if sk := s.Sketched(); sk != nil && sk.Plane != nil {
			out.Plane = planeWords(doc, sk.Plane)
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

// planeWords names the plane of a sketch as people call it.
func planeWords(doc *part.Document, p *part.PlaneRef) string {
	name := func(id string) string {
		for i := range doc.Steps {
			if s := &doc.Steps[i]; s.ID == id && s.Name != "" {
				return s.Name
			}
		}
		return id
	}
	words := p.Datum
	switch {
	case p.Step != "":
		words = name(p.Step)
	case p.Face != "":
		maker, rest, _ := strings.Cut(p.Face, "/")
		step, _, _ := strings.Cut(maker, ".")
		kind, curve, _ := strings.Cut(rest, ":")
		switch words = kind + " of " + name(step); {
		case kind == "end" || kind == "start" || kind == "floor" || kind == "bottom":
			words = "the " + words
		case curve != "":
			words = kind + " " + curve + " of " + name(step)
		}
	}
	if p.Offset != "" {
		words += ", moved by " + p.Offset
	}
	return words
}

// agreement is how far a stored sketch may be from its solution, relative to its
// size: what is left of a solution written with twelve significant places.
const agreement = 1e-8

// verify reads a model document and solves its sketches as they are stored.
func verify(req *task.Request) (any, error) {
	doc, err := documents.ReadModel(req.File)
	if err != nil {
		return nil, err
	}
	unit, err := quantity.LengthUnit(doc.Unit)
	if err != nil {
		return nil, err
	}
	table, err := quantity.Evaluate(doc.Parameters, unit, nil)
	if err != nil {
		return nil, err
	}
	out := &task.Verified{Name: doc.Name, Steps: []task.StepRow{}, Sketches: []task.SketchSolved{}}
	for i := range doc.Steps {
		s := &doc.Steps[i]
		out.Steps = append(out.Steps, task.StepRow{ID: s.ID, Kind: s.Kind, Name: s.Name})
		drawn := s.Sketched()
		if drawn == nil {
			continue
		}
		row := task.SketchSolved{Step: s.ID}
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
