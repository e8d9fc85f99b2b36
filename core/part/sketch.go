package part

import (
	"fmt"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/called"
)

// Sketch is plane geometry with constraints and sizes.
type Sketch struct {
	Plane       *PlaneRef           `json:"plane,omitempty"`
	Entities    []sketch.Entity     `json:"entities,omitempty"`
	Constraints []sketch.Constraint `json:"constraints,omitempty"`
}

func sketchKind() *Kind {
	return &Kind{
		Name: "sketch", Title: "Sketch", What: "plane geometry with constraints and sizes", Group: "draw", Letter: "s",
		New: func() Operation { return &Sketch{} }, Gives: GivesSketch, Quick: true,
		Fields: []Field{{Path: "plane", Label: "Plane", Kind: asPlane}},
	}
}

// Geometry is the sketch as the solver takes it. It is not to be changed.
func (do *Sketch) Geometry() *sketch.Sketch {
	return &sketch.Sketch{Entities: do.Entities, Constraints: do.Constraints}
}

func (do *Sketch) visit(v *visitor) {
	v.plane("plane", do.Plane)
	for _, e := range do.Entities {
		for _, t := range e.Traced {
			if strings.Contains(t, "/") {
				v.faces(t)
			}
		}
	}
	for i := range do.Constraints {
		c := &do.Constraints[i]
		x := Size{Path: fmt.Sprintf("constraints.%d.value", i), Role: "length", Dim: quantity.Length, Text: c.Value,
			Driven: c.Driven}
		switch c.Kind {
		case "angle":
			x.Role, x.Dim = "angle", quantity.Angle
		case "radius", "diameter":
			x.Role = c.Kind
		}
		v.size(x, &c.Value)
	}
}

// run solves the sketch in its plane and finds its regions. Traced geometry is
// laid anew on the solid as it is now, before anything is solved. A sketch that
// contradicts itself fails here, with the constraints in words, and not at the
// step that would use it.
func (do *Sketch) run(w *worker) error {
	f, err := w.frame(do.Plane)
	if err != nil {
		return err
	}
	sk, err := w.traced(do, f)
	if err != nil {
		return err
	}
	sol, err := sketch.Geometry(sk, w.table.Unit().Factor, w.table)
	if err != nil {
		return because("", "%v", err)
	}
	p := &placed{frame: f, geometry: sk, solution: sol}
	p.regions, w.report.Problems = sketch.Regions(sol.Curves)
	w.report.Sketch, w.report.Regions = sol, len(p.regions)
	if !sol.Solved {
		return because("remove or change one of them", "its constraints contradict each other: %s",
			contradiction(sk, sol))
	}
	w.state.sketches[w.step.ID] = p
	return nil
}

// contradiction puts the constraints of a sketch that cannot hold together into words.
func contradiction(sk *sketch.Sketch, sol *sketch.Solution) string {
	names := called.Geometry(sk, sol)
	var sets []string
	for _, conflict := range sol.Conflicts {
		var said []string
		for _, id := range conflict.Set {
			if k := sk.Constraint(id); k != nil {
				said = append(said, names.Constraint(*k))
			}
		}
		sets = append(sets, strings.Join(said, "; "))
	}
	return strings.Join(sets, ", or: ")
}
