package child

import (
	"context"
	"encoding/json"
	"fmt"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/quantity"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// draft reads a reference and says of every characteristic what it would state. The exercise
// may be unfinished: what is wrong with one characteristic is said of that one.
func (w *Worker) draft(ctx context.Context, req *task.Request) (any, error) {
	var ex exercise.Exercise
	if err := json.Unmarshal(req.Exercise, &ex); err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: "the exercise is not readable: " + err.Error()}
	}
	ref, err := documents.ReadReference(req.Reference)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error(), Remedy: "give a model document or a STEP file of the part"}
	}
	named, _, err := w.checker.Load(ctx, ref)
	if err != nil {
		return nil, &task.Error{Kind: task.Faulty, What: err.Error(), Remedy: "give a model document or a STEP file of the part"}
	}
	k := w.checker.Rebuilder.Kernel()
	geo, err := solid.Describe(k, named.Shape, named.Names)
	if err != nil {
		return nil, err
	}
	out := &task.Drafted{Faces: []task.FaceRow{}, Values: []task.DraftValue{}, Unit: ex.Unit, Solids: geo.Solids}
	if out.Unit == "" {
		out.Unit = "mm"
		if ref.Document != nil {
			out.Unit = ref.Document.Unit
		} else if content, err := k.ReadSTEP(ctx, ref.STEP); err == nil && content.Unit == quantity.Inch.Factor {
			out.Unit = "in"
		}
		ex.Unit = out.Unit
	}
	for i, f := range geo.Faces {
		name := ""
		if len(named.Names[i]) > 0 {
			name = named.Names[i][0]
		}
		out.Faces = append(out.Faces, task.FaceRow{Name: name, Kind: string(f.Kind), Words: faceWords(f, ex.Unit)})
	}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		v := task.DraftValue{ID: c.ID, Faces: []address.Ref{}}
		if err := stated(geo, &ex, c, &v); err != nil {
			v.Error = err.Error()
		}
		out.Values = append(out.Values, v)
	}
	out.Sheet = sheet.Arrange(geo, &ex)
	return out, nil
}

func stated(geo *solid.Geometry, ex *exercise.Exercise, c *exercise.Characteristic, v *task.DraftValue) error {
	kind := c.Declared()
	if kind == nil {
		return fmt.Errorf("%q is not a kind of characteristic", c.Kind)
	}
	if len(c.Of) == 0 && !kind.Whole() {
		return fmt.Errorf("pick %s", kind.On)
	}
	places, s, err := check.Nominal(geo, ex, c)
	if err != nil {
		return err
	}
	v.Text, v.Places = s.Text, max(1, len(places))
	for _, p := range places {
		v.Faces = append(v.Faces, address.Faces(p.Faces())...)
	}
	minus, plus, err := ex.Limits(c, s)
	if err != nil {
		return err
	}
	if kind.Worded() && c.Text == "" {
		return fmt.Errorf("say what the sheet states as the %s", kind.Title)
	}
	if minus > 0 || plus > 0 {
		v.Limits = ex.StateOf(c.Declared(), s.Value-minus).Text + " … " + ex.StateOf(c.Declared(), s.Value+plus).Text
	}
	return nil
}
