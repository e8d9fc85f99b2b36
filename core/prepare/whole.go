package prepare

import (
	"context"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/requirement"
	"hammerset/core/check/assemblies"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
)

// Whole is what can be stated of an assembly as a whole: the kinds of characteristics, what they can be about, and what
// those that are there come to.
type Whole struct {
	Kinds      []WholeKind       `json:"kinds"`
	Parts      []Choice          `json:"parts"`
	Components []WholeComponent  `json:"components"`
	Joints     []Choice          `json:"joints"` // those that are driven
	Traces     []Choice          `json:"traces"`
	Stated     map[string]string `json:"stated"` // by characteristic
	// Driving are the parameters of the assembly that a what-if can set.
	Driving []Size `json:"driving"`
	// Made are the parts that have an exercise of their own, and can be made by students.
	Made []string `json:"made"`
}

// Choice is something that can be chosen.
type Choice struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// WholeComponent is a component with the features that can be measured on it.
type WholeComponent struct {
	Choice
	Features []Choice `json:"features"`
}

// WholeKind is a kind of characteristic of the whole, and what it goes by.
type WholeKind struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	On    string `json:"on,omitempty"`
	Dim   string `json:"dim"`            // length, angle or number
	Zero  bool   `json:"zero,omitempty"` // nothing of it is asked for
	// Counts: it is a number of things, which has no tolerance.
	Counts   bool `json:"counts,omitempty"`
	Features bool `json:"features,omitempty"`
	Joint    bool `json:"joint,omitempty"`
	To       bool `json:"to,omitempty"`
	Item     bool `json:"item,omitempty"`
	Trace    bool `json:"trace,omitempty"`
}

// WholeOf lists what can be stated of the assembly of an exercise.
func WholeOf(ctx context.Context, of *assemblies.Checker, ex *exercise.Exercise, ref assemblies.Reference) (*Whole,
	error) {
	shown, err := of.Shown(ctx, ex, ref)
	if err != nil {
		return nil, err
	}
	d := ref.Document
	out := &Whole{Kinds: wholeKinds(), Parts: []Choice{}, Joints: []Choice{}, Traces: []Choice{},
		Stated: map[string]string{}, Made: []string{}, Driving: []Size{}}
	table, err := d.Table(nil)
	if err != nil {
		return nil, err
	}
	for _, name := range table.Driving() {
		for _, p := range d.Parameters {
			if p.Name == name {
				out.Driving = append(out.Driving, Size{Name: name, Text: p.Formula})
			}
		}
	}
	for i := range d.Parts {
		p := &d.Parts[i]
		out.Parts = append(out.Parts, Choice{p.ID, numberOf(*p, i) + " " + p.Name})
		if _, made := ref.Exercises[p.ID]; made {
			out.Made = append(out.Made, p.ID)
		}
	}
	for i := range d.Components {
		c := &d.Components[i]
		x := WholeComponent{Choice{c.ID, c.Title()}, []Choice{}}
		for k := range ref.Made[c.Part].Shape.Features {
			if f := &ref.Made[c.Part].Shape.Features[k]; f.Form == assembly.Plane || f.Form == assembly.Cylinder {
				x.Features = append(x.Features, Choice{address.Ref{Component: c.ID, Name: f.Name}.String(), f.Words})
			}
		}
		out.Components = append(out.Components, x)
	}
	for _, x := range d.Drives {
		j, _ := d.Joint(x.Joint)
		out.Joints = append(out.Joints, Choice{x.Joint, d.TitleOf(j)})
	}
	for i := range d.Traces {
		out.Traces = append(out.Traces, Choice{d.Traces[i].ID, d.Traces[i].Title()})
	}
	for _, s := range shown.Stated {
		text := s.Asked.Text
		if s.Asked.Limits != "" {
			text += " " + s.Asked.Limits
		}
		out.Stated[s.ID] = text
	}
	return out, nil
}

func wholeKinds() []WholeKind {
	var out []WholeKind
	for _, k := range requirement.All() {
		dim := "number"
		switch k.Dim {
		case quantity.Length:
			dim = "length"
		case quantity.Angle:
			dim = "angle"
		}
		out = append(out, WholeKind{Name: k.Name, Title: k.Title, On: k.On, Dim: dim, Zero: k.Zero, Counts: k.Counts,
			Features: k.Needs.Features, Joint: k.Needs.Joint, To: k.Needs.To, Item: k.Needs.Item, Trace: k.Needs.Trace})
	}
	return out
}
