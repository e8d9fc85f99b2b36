package prepare

import (
	"context"
	"fmt"

	"hammerset/core/assembly"
	"hammerset/core/assembly/requirement"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/sheet"
)

// ItemOf is a part of an assembly that becomes the item of an exercise: what its own exercise is named for its
// reference, and that reference as it is in the assembly.
type ItemOf struct {
	Part      *assembly.Part
	Folder    string
	File      string // of the reference, in the folder
	Unit      string
	Reference check.Reference
}

// OfAssembly is an exercise that was begun from an assembly, with those of its parts by their ids, and what their
// sheets leave open.
type OfAssembly struct {
	Exercise *exercise.Exercise
	Items    map[string]*exercise.Exercise
	Left     map[string][]Finding
}

// BeginAssembly makes an exercise of an assembly: of each part one of its own, with a sheet that states all of it, and
// for the whole what any such sheet states: how many there are of each item, how it moves, and that nothing is in
// anything.
func BeginAssembly(ctx context.Context, c *check.Checker, doc *assembly.Document, list []ItemOf, m sheet.Metrics,
	progress Progress) (*OfAssembly, error) {
	ex := sheet.Plain(doc.Name, doc.Unit, exercise.ReferenceOfAssembly, 0)
	ex.Kind, ex.Solids, ex.Characteristics = exercise.Assembly, 0, []exercise.Characteristic{}
	ex.Task = "Model the parts from their sheets, and put them together as on the arrangement sheet."
	ex.Rubric = exercise.Rubric{PartsMade: 50, Placement: 20, Joints: 15, Motion: 5, Whole: 10}
	out := &OfAssembly{Exercise: ex, Items: map[string]*exercise.Exercise{}, Left: map[string][]Finding{}}
	whole := &exercise.OfAssembly{Items: []exercise.Item{}, Characteristics: wholeOf(doc)}
	ex.Assembly = whole
	for i := range list {
		x := &list[i]
		progress("drawing the sheets of the parts", float64(i)/float64(len(list)))
		own := sheet.Plain(x.Part.Name, x.Unit, x.File, 1)
		own.Number, own.Material = x.Part.Number, materialOf(x)
		own.Rubric = exercise.Rubric{Characteristics: 65, WholePart: 15, Robustness: 10, Sketches: 10}
		p, err := Propose(ctx, c, own, x.Reference, m, func(string, float64) {})
		if err != nil {
			return nil, fmt.Errorf("the part %s: %w", x.Part.Name, err)
		}
		out.Items[x.Part.ID] = p.Exercise
		if len(p.Left) > 0 {
			out.Left[x.Part.ID] = p.Left
		}
		whole.Items = append(whole.Items, exercise.Item{Part: x.Part.ID, Exercise: x.Folder + "/exercise.json"})
	}
	return out, ex.Check()
}

// materialOf is what the part of an item is made of, as the assembly says or else its model.
func materialOf(x *ItemOf) string {
	if x.Part.Material != "" || x.Reference.Document == nil {
		return x.Part.Material
	}
	for _, s := range x.Reference.Document.Solids {
		if s.Material != "" {
			return s.Material
		}
	}
	return ""
}

// wholeOf are the characteristics that an exercise of an assembly begins with.
func wholeOf(doc *assembly.Document) []exercise.Requirement {
	var out []exercise.Requirement
	add := func(id, kind, label string, about requirement.About) {
		out = append(out, exercise.Requirement{ID: id, Balloon: len(out) + 1, Kind: kind, Label: label, About: about})
	}
	for i := range doc.Parts {
		p := &doc.Parts[i]
		n := 0
		for _, c := range doc.Components {
			if c.Part == p.ID {
				n++
			}
		}
		if n > 0 {
			add("quantity_"+p.ID, "quantity", fmt.Sprintf("Quantity of %s", p.Name), requirement.About{Item: p.ID})
		}
	}
	add("mobility", "mobility", "Mobility", requirement.About{})
	add("interference", "interference", "Nothing in anything", requirement.About{})
	for _, x := range doc.Drives {
		j, _ := doc.Joint(x.Joint)
		of := "travel"
		if kind, ok := assembly.KindOf(j.Kind); ok && kind.Turns() {
			of = "turn"
		}
		add("range_"+x.Joint, of, "Range of "+doc.TitleOf(j), requirement.About{Joint: x.Joint})
	}
	for _, t := range doc.Traces {
		if len(doc.Drives) > 0 {
			add("path_"+t.ID, "path", "Path of "+t.Title(), requirement.About{Trace: t.ID})
		}
	}
	return out
}

// UnitOf is the unit of a reference: that of its model document, or millimetres.
func UnitOf(ref check.Reference) string {
	if ref.Document != nil {
		return ref.Document.Unit
	}
	return quantity.Millimetre.Symbol
}
