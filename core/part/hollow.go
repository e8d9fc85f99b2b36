package part

import (
	"fmt"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// shell leaves walls of a thickness, inwards or (reversed) outwards, and takes the
// named faces away. Without faces the solid becomes hollow and stays closed.
func (w *worker) shell() error {
	t, err := w.positive("thickness", w.step.Thickness, quantity.Length)
	if err != nil {
		return err
	}
	by := -t
	if w.step.Reverse {
		by = t
	}
	i, err := w.onlySolid()
	if err != nil {
		return err
	}
	n := w.state.bodies[i].Named
	open, err := w.facesOf(i)
	if err != nil {
		return err
	}
	edges := n.Shape.Edges()
	for _, f := range open {
		for _, e := range n.Shape.Faces()[f].Edges {
			if d, ok := along(edges[e], n.Shape.Faces()[f]); ok && w.report.Handle == nil {
				if w.step.Reverse {
					d = d.Scale(-1)
				}
				w.pulled("thickness", edges[e].Mid.Add(d.Scale(t)), d, 1)
			}
		}
	}
	inner := func(src solid.Source) string {
		if src.Kind == solid.BesideFace && len(n.Names[src.Index]) > 0 {
			return fmt.Sprintf("%s/inside(%s)", w.step.ID, n.Names[src.Index][0])
		}
		return ""
	}
	trouble := func(err error) error {
		return because("make the wall thinner than the smallest inner radius and half the narrowest place", "walls of %s do not fit: %v", w.shown(t), err)
	}
	if len(open) == 0 {
		shape, h, err := w.kernel.Offset(n.Shape, by)
		if err == nil {
			err = w.sound(shape)
		}
		if err != nil {
			return trouble(err)
		}
		moved := carry(shape, h, nil, inner)
		base, tool := n, moved
		if w.step.Reverse {
			base, tool = moved, n
		}
		result, _, err := w.boolean(solid.Difference, base, []*Named{tool})
		if err != nil {
			return err
		}
		w.put(i, result)
		return nil
	}
	shape, h, err := w.kernel.Shell(n.Shape, open, by)
	if err == nil {
		err = w.sound(shape)
	}
	if err != nil {
		return trouble(err)
	}
	w.put(i, carry(shape, h, []*Named{n}, inner))
	// The rim is what neither was there nor runs beside a face.
	for k, names := range w.state.bodies[i].Names {
		if len(names) == 0 {
			w.state.bodies[i].Names[k] = []string{w.step.ID + "/rim"}
		}
	}
	return nil
}

// onlySolid is the solid that a step works on: the named one, or the only one.
func (w *worker) onlySolid() (int, error) {
	if len(w.state.bodies) == 0 {
		return 0, because("put the step after the one that makes the solid", "there is no solid yet")
	}
	list, err := w.named(w.step.Solids)
	if err != nil {
		return 0, err
	}
	switch {
	case len(list) == 1:
		return list[0], nil
	case len(list) > 1:
		return 0, because("name one", "this step works on one solid, and %d are named", len(list))
	case len(w.step.Faces) > 0:
		for i, b := range w.state.bodies {
			if len(b.Faces(unqualified(w.step.Faces[0]))) > 0 {
				return i, nil
			}
		}
		return 0, goneError("the face", w.step.Faces[0])
	case len(w.state.bodies) > 1:
		return 0, because("name the solid", "there are %d solids here", len(w.state.bodies))
	}
	return 0, nil
}

// facesOf resolves the step's faces on one solid.
func (w *worker) facesOf(body int) ([]int, error) {
	var out []int
	for _, name := range w.step.Faces {
		list := w.state.bodies[body].Faces(unqualified(name))
		if len(list) == 0 {
			return nil, goneError("the face", name)
		}
		out = append(out, list...)
	}
	return out, nil
}

// shown writes a length in the document's unit.
func (w *worker) shown(mm float64) string {
	u := w.table.Unit()
	return quantity.FormatDecimal(mm/u.Factor, 4) + " " + u.Symbol
}

// draft tilts faces about a neutral plane.
func (w *worker) draft() error {
	f, err := w.frame(w.step.Plane)
	if err != nil {
		return err
	}
	if w.step.Reverse {
		f = solid.Plane(f.O, f.Z.Scale(-1))
	}
	angle, err := w.positive("angle", w.step.Angle, quantity.Angle)
	if err != nil {
		return err
	}
	if len(w.step.Faces) == 0 {
		return because("name the faces to tilt", "it has no faces")
	}
	i, err := w.onlySolid()
	if err != nil {
		return err
	}
	faces, err := w.facesOf(i)
	if err != nil {
		return err
	}
	n := w.state.bodies[i].Named
	shape, h, err := w.kernel.Draft(n.Shape, faces, f, angle)
	if err == nil {
		err = w.sound(shape)
	}
	if err != nil {
		return because("tilt all faces of a tangent chain together, or make the angle smaller", "the faces cannot be tilted by %s deg: %v", quantity.FormatDecimal(angle*180/3.141592653589793, 3), err)
	}
	w.put(i, carry(shape, h, []*Named{n}, nil))
	return nil
}

// imported reads a STEP file as the first solids of the part.
func (w *worker) imported() error {
	if w.step.Data == "" {
		return because("choose a STEP file", "it holds no file")
	}
	c, err := w.kernel.ReadSTEP(w.ctx, []byte(w.step.Data))
	if err != nil {
		return because("export the part again as STEP", "the file cannot be read: %v", err)
	}
	if c.Shape == nil || c.Solids == 0 {
		return because("export the part as a solid", "the file holds no solid (%d open shells, %d curves)", c.Shells, c.Wires)
	}
	pieces, err := w.kernel.Split(c.Shape)
	if err != nil {
		return err
	}
	for k, p := range pieces {
		if err := w.kernel.Check(p); err != nil {
			return because("repair it where it was made", "solid %d of the file is not sound: %v", k+1, err)
		}
		n := &Named{Shape: p}
		for i := range p.Faces() {
			name := fmt.Sprintf("%s/face:%d", w.step.ID, i+1)
			if len(pieces) > 1 {
				name = fmt.Sprintf("%s/%d.face:%d", w.step.ID, k+1, i+1)
			}
			n.Names = append(n.Names, []string{name})
		}
		w.found(n)
	}
	return nil
}

// Note is a thread or a text on a face: nothing of the solid, but carried into the
// sheet. At is a place on the face, Normal its direction there; Radius is that of a
// round face.
type Note struct {
	Step   string
	Kind   string // thread or text
	Face   string
	Text   string
	At     solid.Vec
	Normal solid.Vec
	Radius float64
	Size   float64 // major diameter of a thread, height of the lettering
	Length float64 // of a thread, 0 for all of the face
}

// note carries out a thread or text step.
func (w *worker) note() error {
	if len(w.step.Faces) != 1 {
		return because("name one", "a %s stands on one face, and %d are named", w.step.Kind, len(w.step.Faces))
	}
	face, err := w.face(w.step.Faces[0])
	if err != nil {
		return err
	}
	n := Note{Step: w.step.ID, Kind: w.step.Kind, Face: w.step.Faces[0], Text: w.step.Text, At: face.Centroid, Normal: face.Normal, Radius: face.Radius}
	if w.step.Kind == "text" {
		if n.Text == "" {
			return because("type the text", "it says nothing")
		}
		n.Size = 3.5
		if w.step.Height != "" {
			if n.Size, err = w.positive("height", w.step.Height, quantity.Length); err != nil {
				return err
			}
		}
	} else if err := w.thread(&n, face); err != nil {
		return err
	}
	w.state.notes = append(w.state.notes, n)
	return nil
}
