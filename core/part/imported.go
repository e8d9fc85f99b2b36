package part

import "fmt"

// Import reads a STEP file as the first solids of the part.
type Import struct {
	Data string `json:"data,omitempty"` // the file, as text
}

func importKind() *Kind {
	return &Kind{
		Name: "import", Title: "STEP solid", What: "a solid from a file, to begin with", Group: "solids", Letter: "i",
		New: func() Operation { return &Import{} }, Fields: []Field{{Path: "data", Label: "STEP file", Kind: asFile}},
	}
}

func (do *Import) visit(*visitor) {}

// run takes solids from a STEP file. Its faces have nothing to be named after
// but their number in the file, so that references to them are as good as the
// file is stable.
func (do *Import) run(w *worker) error {
	if do.Data == "" {
		return because("choose a STEP file", "it holds no file")
	}
	c, err := w.kernel.ReadSTEP(w.ctx, []byte(do.Data))
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
