package part

import (
	"fmt"
	"math"
	"strings"

	"hammerset/core/quantity"
)

// Finding is something to say of a step that stands: what makes the model weak.
type Finding struct {
	Step, Kind, What, Remedy string
}

// Hint is what a step says of itself that stands and is weak.
type Hint struct{ Kind, What, Remedy string }

// String is the hint with its remedy.
func (h *Hint) String() string { return h.What + "; " + h.Remedy }

// Kinds of findings.
const (
	FindFailed  = "failed"
	FindWarning = "warning"
	FindThrough = "typed-through"
	FindOneSide = "through-one-side"
	FindNumber  = "number-for-parameter"
	FindUnused  = "unused-parameter"
	FindUnnamed = "unnamed"
	FindLumps   = "several-solids"
	FindOff     = "turned-off"
)

// Advice looks a model over without knowing what it should be: failed steps, cuts
// that go through by a typed depth, numbers where a parameter has that value,
// parameters that nothing uses, names that were never given.
func Advice(d *Document, b *Build) []Finding {
	var out []Finding
	say := func(step, kind, remedy, format string, args ...any) {
		out = append(out, Finding{step, kind, fmt.Sprintf(format, args...), remedy})
	}
	unnamed := []string{}
	for i, s := range b.Steps {
		step := &d.Steps[i]
		switch {
		case s.Off:
			say(s.ID, FindOff, "turn it on, or take it out", "%s is turned off", step.Title())
		case s.Err != nil:
			say(s.ID, FindFailed, s.Err.Remedy, "%s fails: %s", step.Title(), s.Err.Why)
		case s.Warning != "":
			say(s.ID, FindWarning, "", "%s: %s", step.Title(), s.Warning)
		}
		if s.Hint != nil {
			say(s.ID, s.Hint.Kind, s.Hint.Remedy, "%s: %s", step.Title(), s.Hint.What)
		}
		if step.Name == "" {
			unnamed = append(unnamed, step.ID)
		}
		for _, f := range step.Formulas() {
			if s.Kind == "sketch" {
				break // sketches are looked over by themselves
			}
			if name := parameterOf(f, b.Table); name != "" {
				say(s.ID, FindNumber, fmt.Sprintf("type %s, or a formula of it, in its place", name),
					"%s has the number %s where the parameter %s has that value", step.Title(), f, name)
			}
		}
	}
	if len(unnamed) > 0 && len(d.Steps) > 2 {
		say(unnamed[0], FindUnnamed, "name each step after what it makes", "steps without a name: %s",
			strings.Join(unnamed, ", "))
	}
	for _, p := range d.Parameters {
		if len(d.Users(p.Name)) == 0 {
			say("", FindUnused, "use it where its size is meant, or take it out", "nothing uses the parameter %s", p.Name)
		}
	}
	for _, body := range b.Bodies {
		if n := body.Shape.Solids(); n > 1 {
			say("", FindLumps, "let the pieces overlap by more than a face, or unite them",
				"%s is in %d pieces that do not hang together", body.ID, n)
		}
	}
	return out
}

// parameterOf finds the driving parameter that has the value of a plain number with
// or without a unit, of its dimension; small round numbers are too common to tell.
func parameterOf(formula string, t *quantity.Table) string {
	f, err := quantity.Parse(formula)
	if formula == "" || err != nil || len(f.Names()) > 0 {
		return ""
	}
	for _, name := range t.Driving() {
		q, _ := t.Lookup(name)
		if q.Dim == quantity.Number {
			continue
		}
		v, err := t.Eval(formula, q.Dim)
		if err == nil && q.Value != 0 && math.Abs(v-q.Value) < 1e-9*math.Abs(q.Value) {
			return name
		}
	}
	return ""
}
