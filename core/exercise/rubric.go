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
	// Of an assembly: its parts by the weights of the items, how they are placed, what joints leave, how it moves.
	PartsMade float64 `json:"parts,omitempty"`
	Placement float64 `json:"placement,omitempty"`
	Joints    float64 `json:"joints,omitempty"`
	Motion    float64 `json:"motion,omitempty"`
	Whole     float64 `json:"whole,omitempty"`
	// Late takes a share off for every day after the due date that has begun, Repeats for
	// every attempt after the first.
	Late    *Deduction `json:"late,omitempty"`
	Repeats *Deduction `json:"repeats,omitempty"`
	Caps    []Cap      `json:"caps,omitempty"`
	// Unshown says what becomes of the points of a part that an attempt gives nothing to judge by, as the sketches of a
	// STEP file: Scaled where it is empty.
	Unshown string `json:"unshown,omitempty"`
}

// What becomes of the points for what an attempt cannot show.
const (
	Scaled   = "scaled"  // as much of them as of the rest
	Nothing  = "nothing" // they are lost
	ByPerson = "person"  // a person gives them
)

// RubricPart is a part of a rubric: what it is for, and its points.
type RubricPart struct {
	ID, Label string
	Points    float64
}

// Parts lists the parts of a rubric for a kind of exercise in the order in which they are told.
func (r Rubric) Parts(kind string) []RubricPart {
	if kind == Assembly {
		return []RubricPart{
			{"parts", "Parts", r.PartsMade},
			{"placement", "Placement", r.Placement},
			{"joints", "Joints", r.Joints},
			{"motion", "Motion", r.Motion},
			{"whole", "The whole", r.Whole},
			{"robustness", "Robustness", r.Robustness},
			{"practice", "Good practice", r.Practice},
		}
	}
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
	// Of an assembly.
	CapMissing   = "missing item" // an item is not there, or not as often as it should be
	CapCollision = "collision"    // components are in one another
	CapRigid     = "rigid"        // what should move cannot
)

// CapFaults lists the faults that a cap can be for in a kind of exercise, with their words.
func CapFaults(kind string) []struct{ When, Words string } {
	if kind == Assembly {
		return []struct{ When, Words string }{
			{CapUnit, "it is in the wrong unit"}, {CapMissing, "an item is missing"},
			{CapCollision, "components are in one another"}, {CapRigid, "what should move cannot"},
		}
	}
	return []struct{ When, Words string }{
		{CapUnit, "the part is in the wrong unit"}, {CapMirror, "it is the mirror image"},
		{CapSolids, "it is not as many solids as asked for"}, {CapNotFound, "a feature is missing"},
		{CapFailed, "a step fails, or the solid is not sound"},
	}
}

// Total is the sum of all points that a kind of exercise gives.
func (r Rubric) Total(kind string) float64 {
	sum := 0.0
	for _, p := range r.Parts(kind) {
		sum += p.Points
	}
	return sum
}

// Check finds what is wrong in a rubric of a kind of exercise.
func (r Rubric) Check(kind string) error {
	for name, v := range map[string]float64{"characteristics": r.Characteristics, "wholePart": r.WholePart,
		"robustness": r.Robustness, "sketches": r.Sketches, "practice": r.Practice, "parts": r.PartsMade,
		"placement": r.Placement, "joints": r.Joints, "motion": r.Motion, "whole": r.Whole} {
		if !(v >= 0 && v <= 10000) {
			return &Error{"/rubric/" + name, "points are from 0 to 10000"}
		}
	}
	if r.Total(kind) <= 0 {
		return &Error{"/rubric", "the rubric gives no points"}
	}
	for name, d := range map[string]*Deduction{"late": r.Late, "repeats": r.Repeats} {
		if d != nil && !(d.Each >= 0 && d.Each <= 100 && d.Most >= d.Each && d.Most <= 100) {
			return &Error{"/rubric/" + name, "take from 0 to 100 percent off each time, and at most as much or more in all"}
		}
	}
	if !slices.Contains([]string{"", Scaled, Nothing, ByPerson}, r.Unshown) {
		return &Error{"/rubric/unshown", "what an attempt cannot show is scaled, nothing, or for a person"}
	}
	for i, c := range r.Caps {
		at := fmt.Sprintf("/rubric/caps/%d", i)
		known := slices.ContainsFunc(CapFaults(kind), func(f struct{ When, Words string }) bool { return f.When == c.When })
		if !known {
			return &Error{at + "/when", fmt.Sprintf("%q is not a fault that a cap can be for", c.When)}
		}
		if !(c.Percent >= 0 && c.Percent <= 100) {
			return &Error{at + "/percent", "a cap leaves from 0 to 100 percent"}
		}
	}
	return nil
}
