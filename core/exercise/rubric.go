package exercise

import (
	"fmt"
	"slices"
)

// Rubric gives the points of each part of the check, what is taken off, and the most that
// certain faults leave.
type Rubric struct {
	Characteristics float64 `json:"characteristics"`
	WholePart       float64 `json:"wholePart"`
	Robustness      float64 `json:"robustness"`
	Sketches        float64 `json:"sketches"`
	Practice        float64 `json:"practice,omitempty"`
	// Late takes a share off for every day after the due date that has begun, Repeats for
	// every attempt after the first.
	Late    *Deduction `json:"late,omitempty"`
	Repeats *Deduction `json:"repeats,omitempty"`
	Caps    []Cap      `json:"caps,omitempty"`
}

// RubricPart is a part of a rubric: what it is for, and its points.
type RubricPart struct {
	ID, Label string
	Points    float64
}

// Parts lists the parts of a rubric in the order in which they are told.
func (r Rubric) Parts() []RubricPart {
	return []RubricPart{
		{"characteristics", "Characteristics", r.Characteristics},
		{"whole", "Whole part", r.WholePart},
		{"robustness", "Constraint robustness", r.Robustness},
		{"sketches", "Sketch health", r.Sketches},
		{"practice", "Good practice", r.Practice},
	}
}

// Deduction takes Each percent of all points off, again and again up to Most percent.
type Deduction struct {
	Each float64 `json:"each"`
	Most float64 `json:"most"`
}

// Cap leaves at most Percent of all points where a fault is there.
type Cap struct {
	When    string  `json:"when"`
	Percent float64 `json:"percent"`
}

// Faults of a cap.
const (
	CapUnit     = "unit"      // the part is in the wrong unit
	CapMirror   = "mirror"    // the mirror image was modelled
	CapSolids   = "solids"    // it is not as many solids as asked for
	CapNotFound = "not found" // a feature is missing
	CapFailed   = "failed"    // a step fails, or the solid is not sound
)

// CapFaults lists the faults that a cap can be for, with their words.
func CapFaults() []struct{ When, Words string } {
	return []struct{ When, Words string }{
		{CapUnit, "the part is in the wrong unit"}, {CapMirror, "it is the mirror image"},
		{CapSolids, "it is not as many solids as asked for"}, {CapNotFound, "a feature is missing"},
		{CapFailed, "a step fails, or the solid is not sound"},
	}
}

// Total is the sum of all points.
func (r Rubric) Total() float64 {
	return r.Characteristics + r.WholePart + r.Robustness + r.Sketches + r.Practice
}

// Check finds what is wrong in a rubric.
func (r Rubric) Check() error {
	for name, v := range map[string]float64{"characteristics": r.Characteristics, "wholePart": r.WholePart,
		"robustness": r.Robustness, "sketches": r.Sketches, "practice": r.Practice} {
		if !(v >= 0 && v <= 10000) {
			return &Error{"/rubric/" + name, "points are from 0 to 10000"}
		}
	}
	if r.Total() <= 0 {
		return &Error{"/rubric", "the rubric gives no points"}
	}
	for name, d := range map[string]*Deduction{"late": r.Late, "repeats": r.Repeats} {
		if d != nil && !(d.Each >= 0 && d.Each <= 100 && d.Most >= d.Each && d.Most <= 100) {
			return &Error{"/rubric/" + name, "take from 0 to 100 percent off each time, and at most as much or more in all"}
		}
	}
	for i, c := range r.Caps {
		at := fmt.Sprintf("/rubric/caps/%d", i)
		known := slices.ContainsFunc(CapFaults(), func(f struct{ When, Words string }) bool { return f.When == c.When })
		if !known {
			return &Error{at + "/when", fmt.Sprintf("%q is not a fault that a cap can be for", c.When)}
		}
		if !(c.Percent >= 0 && c.Percent <= 100) {
			return &Error{at + "/percent", "a cap leaves from 0 to 100 percent"}
		}
	}
	return nil
}
