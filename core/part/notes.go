package part

import (
	"fmt"
	"math"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

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

// Thread is a cosmetic thread on a round face.
type Thread struct {
	Faces  []string `json:"faces,omitempty"`
	Thread string   `json:"thread,omitempty"`
	Length string   `json:"length,omitempty"`
}

func threadKind() *Kind {
	return &Kind{
		Name: "thread", Title: "Thread", What: "a cosmetic thread on a round face", Group: "notes", Letter: "j",
		New: func() Operation { return &Thread{} },
		Fields: []Field{{Path: "faces", Label: "Round face", Kind: asFaces}, {Path: "thread", Label: "Size", Kind: asChoice,
			Options: threadOptions()}, optional(Field{Path: "length", Label: "Length", Kind: asLength})},
	}
}

// threadOptions are the threads of the tables, and none.
func threadOptions() []string { return append([]string{""}, standards.ThreadNames()...) }

func (do *Thread) visit(v *visitor) {
	v.length("length", "length", &do.Length)
	v.faces(do.Faces...)
}

// Text is a note on a face, carried into the sheet.
type Text struct {
	Faces  []string `json:"faces,omitempty"`
	Text   string   `json:"text,omitempty"`
	Height string   `json:"height,omitempty"`
}

func textKind() *Kind {
	return &Kind{
		Name: "text", Title: "Text", What: "a note on a face, carried into the sheet", Group: "notes", Letter: "j",
		New: func() Operation { return &Text{} },
		Fields: []Field{{Path: "faces", Label: "Face", Kind: asFaces}, {Path: "text", Label: "Text", Kind: asText},
			optional(Field{Path: "height", Label: "Height", Kind: asLength})},
	}
}

func (do *Text) visit(v *visitor) {
	v.length("height", "height", &do.Height)
	v.faces(do.Faces...)
}

// noted begins a note on the one face that is named.
func (w *worker) noted(faces []string) (Note, solid.Face, error) {
	if len(faces) != 1 {
		return Note{}, solid.Face{}, because("name one", "a %s stands on one face, and %d are named", w.step.Kind, len(faces))
	}
	face, err := w.face(faces[0])
	return Note{Step: w.step.ID, Kind: w.step.Kind, Face: faces[0], At: face.Centroid, Normal: face.Normal,
		Radius: face.Radius}, face, err
}

// run writes on a face. It is a note for the sheet and makes no geometry,
// because engraved letters are hundreds of faces and no size of the exercise.
func (do *Text) run(w *worker) error {
	n, _, err := w.noted(do.Faces)
	if err != nil {
		return err
	}
	if do.Text == "" {
		return because("type the text", "it says nothing")
	}
	n.Text, n.Size = do.Text, 3.5
	if do.Height != "" {
		if n.Size, err = w.positive("height", do.Height, quantity.Length); err != nil {
			return err
		}
	}
	w.state.notes = append(w.state.notes, n)
	return nil
}

// run fills in a cosmetic thread: its size must go with the diameter, the major one outside, the
// drill inside.
func (do *Thread) run(w *worker) error {
	n, face, err := w.noted(do.Faces)
	if err != nil {
		return err
	}
	if face.Kind != solid.CylinderFace {
		return because("choose a cylinder", "a thread runs on a cylinder, and the %s is a %s", calledFace(n.Face), face.Kind)
	}
	t, err := standards.MetricThread(do.Thread)
	if err != nil {
		return because("", "%v", err)
	}
	n.Text, n.Size = t.Name, t.Major
	want := t.Major
	if face.Hollow {
		want = t.TapDrill()
	}
	if math.Abs(2*face.Radius-want) > 0.3 {
		w.report.Warning = fmt.Sprintf("%s needs a diameter of %s here, and the face has %s", t.Name,
			w.shown(want), w.shown(2*face.Radius))
	}
	if do.Length != "" {
		if n.Length, err = w.positive("length", do.Length, quantity.Length); err != nil {
			return err
		}
	}
	n.Normal, n.At = face.Axis, face.Centroid
	w.state.notes = append(w.state.notes, n)
	return nil
}
