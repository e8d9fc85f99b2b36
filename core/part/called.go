package part

import (
	"fmt"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/words"
	"strconv"
)

// What the text of an error speaks of stands in it by name until the step has failed: only then is it
// known on what solids, and it is put into words.
type (
	calledFace string    // the persistent name of a face
	calledEdge [2]string // the names of the faces that an edge lies between; a seam has only the first
	calledStep string    // the id of a step

	calledEdges []calledEdge
)

// Titles calls the steps, by their ids: by their names, or by what they do where they have none.
func (d *Document) Titles() map[string]string {
	out := map[string]string{}
	if d == nil {
		return out
	}
	for i := range d.Steps {
		out[d.Steps[i].ID] = d.Steps[i].Title()
	}
	return out
}

// number is what tells a step without a name from others of its kind: the number in the id that steps are given
// when they are made, or the whole of an id that somebody has made up.
func number(id, letter string) string {
	n, ok := strings.CutPrefix(id, letter)
	if _, err := strconv.Atoi(n); !ok || err != nil {
		return id
	}
	return n
}

// worded writes the text of an error with everything that it speaks of in words.
func (w *worker) worded(e *StepError, called *words.Namer) string {
	if e.format == "" {
		return e.Why
	}
	args := make([]any, len(e.args))
	for i, arg := range e.args {
		switch arg := arg.(type) {
		case calledFace:
			args[i] = w.calledFace(string(arg), called)
		case calledEdge:
			args[i] = w.calledEdge(arg, called)
		case calledEdges:
			args[i] = w.calledEdges(arg, called)
		case calledStep:
			args[i] = called.Step(string(arg))
		case *StepError:
			args[i] = w.worded(arg, called)
		default:
			args[i] = arg
		}
	}
	return fmt.Sprintf(e.format, args...)
}

// calledFace calls a face by what it is on the solids as they are, or by its name alone where it is gone.
func (w *worker) calledFace(name string, called *words.Namer) string {
	for _, b := range w.state.bodies {
		if found := b.Faces(name); len(found) > 0 {
			return called.Face(name, b.Shape.Faces()[found[0]])
		}
	}
	return called.Face(name, solid.Face{})
}

// calledEdge calls an edge by the faces it lies between, as its reference does;
// a closed one by the face that it runs around.
func (w *worker) calledEdge(e calledEdge, called *words.Namer) string {
	if e[1] == "" {
		return "edge of the " + w.calledFace(e[0], called)
	}
	return "edge between the " + w.calledFace(e[0], called) + " and the " + w.calledFace(e[1], called)
}

// calledEdges lists edges; of many the first four.
func (w *worker) calledEdges(list calledEdges, called *words.Namer) string {
	out := make([]string, len(list))
	for i, e := range list {
		out[i] = "the " + w.calledEdge(e, called)
	}
	return quantity.List(out, 4)
}
