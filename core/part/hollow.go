package part

import (
	"fmt"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Shell leaves walls of a thickness, inwards or (reversed) outwards, and takes the
// named faces away. Without faces the solid becomes hollow and stays closed.
type Shell struct {
	Faces     []string `json:"faces,omitempty"`
	Thickness string   `json:"thickness,omitempty"`
	Reverse   bool     `json:"reverse,omitempty"`
	Solids    []string `json:"solids,omitempty"`
}

// No pattern of it can be made: a part is hollow once.
func shellKind() *Kind {
	return &Kind{
		Name: "shell", Title: "Shell", What: "hollow, with walls of one thickness", Group: "edges", Letter: "l",
		Main: "thickness",
		New:  func() Operation { return &Shell{} }, Feature: true,
		Fields: []Field{optional(Field{Path: "faces", Label: "Open faces", Kind: asFaces}),
			{Path: "thickness", Label: "Thickness", Kind: asLength}, {Path: "reverse", Label: "Walls outwards", Kind: asFlag},
			optional(Field{Path: "solids", Label: "Solid", Kind: asSolid})},
	}
}

// The open faces are named, so that what makes them cannot be deleted unnoticed.
func (do *Shell) visit(v *visitor) {
	v.length("thickness", "thickness", &do.Thickness)
	v.faces(do.Faces...)
	v.solids(do.Solids...)
}

// run hollows a solid. With open faces the kernel's shell takes them away and
// leaves walls; without any, the solid is offset inwards and the smaller one is
// cut out, which gives a closed hollow. Faces of the inside are named after
// those that they run beside.
//
// An inner face is called by the outer one that it runs beside,
//
//	sh1/inside(e1/side:l1)
//
// so that a wall thickness can be measured between the two by their names.
func (do *Shell) run(w *worker) error {
	t, err := w.positive("thickness", do.Thickness, quantity.Length)
	if err != nil {
		return err
	}
	by := -t
	if do.Reverse {
		by = t
	}
	i, err := w.onlySolid(do.Solids, do.Faces)
	if err != nil {
		return err
	}
	n := w.state.bodies[i].Named
	open, err := w.facesOf(i, do.Faces)
	if err != nil {
		return err
	}
	edges := n.Shape.Edges()
	for _, f := range open {
		for _, e := range n.Shape.Faces()[f].Edges {
			if d, ok := along(edges[e], n.Shape.Faces()[f]); ok && w.report.Handle == nil {
				if do.Reverse {
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
		return because("make the wall thinner than the smallest inner radius and half the narrowest place",
			"walls of %s do not fit: %v", w.shown(t), err)
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
		if do.Reverse {
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

// onlySolid is the solid that a step works on: the named one, that of the first of its faces, or
// the only one.
//
// With several solids and nothing named, guessing would hollow the wrong one: it
// asks.
func (w *worker) onlySolid(solids, faces []string) (int, error) {
	if len(w.state.bodies) == 0 {
		return 0, because("put the step after the one that makes the solid", "there is no solid yet")
	}
	list, err := w.named(solids)
	if err != nil {
		return 0, err
	}
	switch {
	case len(list) == 1:
		return list[0], nil
	case len(list) > 1:
		return 0, because("name one", "this step works on one solid, and %d are named", len(list))
	case len(faces) > 0:
		for i, b := range w.state.bodies {
			if len(b.Faces(unqualified(faces[0]))) > 0 {
				return i, nil
			}
		}
		return 0, goneError(faces[0])
	case len(w.state.bodies) > 1:
		return 0, because("name the solid", "there are %d solids here", len(w.state.bodies))
	}
	return 0, nil
}

// facesOf resolves faces on one solid.
//
// A name may stand for several faces, if a later step has cut one in pieces, and
// all of them are meant.
func (w *worker) facesOf(body int, faces []string) ([]int, error) {
	var out []int
	for _, name := range faces {
		list := w.state.bodies[body].Faces(unqualified(name))
		if len(list) == 0 {
			return nil, goneError(name)
		}
		out = append(out, list...)
	}
	return out, nil
}

// shown writes a length in the document's unit.
func (w *worker) shown(mm float64) string {
	return quantity.FormulaFormat(w.table.Unit()).Length(mm)
}

// calledPlace writes where something lies, in the document's unit.
func calledPlace(unit quantity.Unit, at ...float64) string {
	as := quantity.BoardFormat(unit)
	list := make([]string, len(at))
	for i, v := range at {
		list[i] = as.Length(v)
	}
	return strings.Join(list, ", ") + " " + unit.Symbol
}

// degrees writes an angle.
func degrees(rad float64) string { return quantity.FormulaFormat(quantity.Degree).Angle(rad) }

// Draft tilts faces about a neutral plane.
type Draft struct {
	Faces   []string  `json:"faces,omitempty"`
	Plane   *PlaneRef `json:"plane,omitempty"`
	Angle   string    `json:"angle,omitempty"`
	Reverse bool      `json:"reverse,omitempty"`
	Solids  []string  `json:"solids,omitempty"`
}

// The neutral plane is asked after the faces, because a face may be that plane.
func draftKind() *Kind {
	return &Kind{
		Name: "draft", Title: "Draft", What: "faces tilted about a plane", Group: "edges", Letter: "d", Main: "angle",
		New: func() Operation { return &Draft{} }, Feature: true,
		Fields: []Field{{Path: "faces", Label: "Faces", Kind: asFaces},
			{Path: "plane", Label: "Neutral plane", Kind: asPlane}, {Path: "angle", Label: "Angle", Kind: asAngle},
			reverseField()},
	}
}

// The plane is told as a whole: its offset may be a formula of its own.
func (do *Draft) visit(v *visitor) {
	v.angle("angle", "angle", &do.Angle)
	v.plane("plane", do.Plane)
	v.faces(do.Faces...)
	v.solids(do.Solids...)
}

// run tilts faces about the line in which they cross the neutral plane, which
// keeps its size there: a mould needs the parting line to stay. Faces that are
// tangent to one another have to be tilted together.
//
// The angle counts from the pull direction, the plane's normal. With a positive
// one the faces lean inwards above the plane, which lets the part out of its
// mould.
func (do *Draft) run(w *worker) error {
	f, err := w.frame(do.Plane)
	if err != nil {
		return err
	}
	if do.Reverse {
		f = solid.Plane(f.O, f.Z.Scale(-1))
	}
	angle, err := w.positive("angle", do.Angle, quantity.Angle)
	if err != nil {
		return err
	}
	if len(do.Faces) == 0 {
		return because("name the faces to tilt", "it has no faces")
	}
	i, err := w.onlySolid(do.Solids, do.Faces)
	if err != nil {
		return err
	}
	faces, err := w.facesOf(i, do.Faces)
	if err != nil {
		return err
	}
	n := w.state.bodies[i].Named
	shape, h, err := w.kernel.Draft(n.Shape, faces, f, angle)
	if err == nil {
		err = w.sound(shape)
	}
	if err != nil {
		return because("tilt all faces of a tangent chain together, or make the angle smaller",
			"the faces cannot be tilted by %s: %v", degrees(angle), err)
	}
	w.put(i, carry(shape, h, []*Named{n}, nil))
	return nil
}
