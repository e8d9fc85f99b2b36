package sheet

import (
	"context"
	"fmt"
	"slices"

	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/solid"
)

// Composed is what an arrangement sheet shows: components, which lie in one geometry one after the other, and what its
// parts list and its notes say.
type Composed struct {
	Components []Composite `json:"components"`
	Of         []int       `json:"of"`     // the component of each face of the geometry
	Beside     [][2]int    `json:"beside"` // components that touch
	Lines      []ListLine  `json:"lines"`
	Stated     []Stated    `json:"stated"`
	// Curves are what points trace, Fits those of holes and shafts, and Ends components where they stand at the ends of
	// drives.
	Curves [][]solid.Vec `json:"curves,omitempty"`
	Fits   []Fitted      `json:"fits,omitempty"`
	Ends   []solid.Shape `json:"-"`
}

// Fitted is a fit of a hole and a shaft by their tolerance classes (ISO 286-1), as H7/g6, at a place of its axis.
type Fitted struct {
	Classes  string    `json:"classes"`
	Diameter float64   `json:"diameter"`
	At       solid.Vec `json:"at"`
	Axis     solid.Vec `json:"axis"`
}

// Composite is a component of an arrangement sheet: the number of its item, and how far it goes when the whole is drawn
// apart, in mm.
type Composite struct {
	ID    string    `json:"id"`
	Item  string    `json:"item"`
	Apart solid.Vec `json:"apart"`
	// Moves tells whether it moves against the base, and Box where it stands.
	Moves bool      `json:"moves,omitempty"`
	Box   solid.Box `json:"box"`
}

// ListLine is a line of a parts list (ISO 7573).
type ListLine struct {
	Number   string `json:"number"`
	Quantity string `json:"quantity"`
	Name     string `json:"name"`
	Material string `json:"material"`
	Mass     string `json:"mass"`
	Level    int    `json:"level,omitempty"` // how deep it is nested
}

// Stated is a characteristic of the whole as a sheet states it in a note, at its balloon.
type Stated struct {
	ID      string `json:"id"`
	Balloon int    `json:"balloon"`
	Text    string `json:"text"`
}

// PlacedPart is a component's solid where it stands, with the names of its faces.
type PlacedPart struct {
	Shape solid.Shape
	Names [][]string
}

// ProjectAssembly has the kernel project components for the views of a set of arrangement sheets, but for those that
// are known already, by their ids. Faces are called by their names in their components, as c2#e1/end.
func ProjectAssembly(ctx context.Context, k solid.Kernel, set exercise.Sheets, list []PlacedPart, c *Composed,
	known map[string]*Projection) (*Projected, error) {
	ref, err := compose(k, list, c)
	if err != nil {
		return nil, err
	}
	geo, err := solid.Describe(k, ref.Shape, ref.Names)
	if err != nil {
		return nil, err
	}
	out := &Projected{Geometry: geo, Views: map[string]*Projection{}, Composed: c}
	for n := range set {
		for i := range set[n].Views {
			spec := &set[n].Views[i]
			if out.Views[spec.ID] = known[spec.ID]; known[spec.ID] != nil {
				continue
			}
			if err := ctx.Err(); err != nil {
				return nil, err
			}
			p := projecting{kernel: k, geo: geo, others: out.Views, spec: spec, stand: solid.World, parts: list, composed: c}
			if out.Views[spec.ID], err = p.project(ref.Shape); err != nil {
				return nil, fmt.Errorf("view %s: %w", spec.ID, err)
			}
			if err := p.ends(out.Views[spec.ID]); err != nil {
				return nil, fmt.Errorf("view %s: %w", spec.ID, err)
			}
		}
	}
	return out, nil
}

// compose puts components side by side, and says of each face whose it is.
func compose(k solid.Kernel, list []PlacedPart, c *Composed) (*part.Named, error) {
	var shapes []solid.Shape
	for _, x := range list {
		shapes = append(shapes, x.Shape)
	}
	all, history, err := k.Compound(shapes)
	if err != nil {
		return nil, err
	}
	out := &part.Named{Shape: all, Names: make([][]string, len(history))}
	c.Of = make([]int, len(history))
	for i, from := range history {
		if len(from) == 0 {
			return nil, fmt.Errorf("the kernel does not say of which component face %d is", i)
		}
		c.Of[i] = from[0].Operand
		for _, name := range list[from[0].Operand].Names[from[0].Index] {
			out.Names[i] = append(out.Names[i], c.Components[from[0].Operand].ID+"#"+name)
		}
	}
	return out, nil
}

// first is the number of the first face of a component in the whole.
func (c *Composed) first(component int) int { return slices.Index(c.Of, component) }

// drawnApart are the components moved out of one another.
func (p *projecting) drawnApart() (solid.Shape, error) {
	var shapes []solid.Shape
	for i, x := range p.parts {
		s, _, err := p.kernel.Transform(x.Shape, solid.Translation(p.composed.Components[i].Apart))
		if err != nil {
			return nil, err
		}
		shapes = append(shapes, s)
	}
	all, _, err := p.kernel.Compound(shapes)
	return all, err
}

// ends projects components where they stand at the ends of drives into a view of the whole.
func (p *projecting) ends(to *Projection) error {
	if fromCorner(*p.spec) || p.spec.Cut != nil {
		return nil
	}
	for _, s := range p.composed.Ends {
		curves, err := p.kernel.View(s, to.Frame)
		if err != nil {
			return err
		}
		for _, c := range curves {
			if !c.Hidden && !c.Smooth {
				to.Ends = append(to.Ends, c)
			}
		}
	}
	return nil
}

// uncut tells whether a component is left whole by the cut of the view, as shafts, pins, keys, balls and bolts are that
// lie lengthwise in it (ISO 128-3).
func (p *projecting) uncut(component int) bool {
	return p.composed != nil && p.spec.Cut != nil && slices.Contains(p.spec.Cut.Uncut, p.composed.Components[component].ID)
}

// toCut is what the cut of the view goes through, and for each face of that which face of the whole it is; nothing
// where it is the whole.
func (p *projecting) toCut(shape solid.Shape) (solid.Shape, []int, error) {
	if p.composed == nil || len(p.spec.Cut.Uncut) == 0 {
		return shape, nil, nil
	}
	var list []solid.Shape
	var which []int
	for i, x := range p.parts {
		if !p.uncut(i) {
			list, which = append(list, x.Shape), append(which, i)
		}
	}
	if len(list) == 0 {
		return nil, nil, fmt.Errorf("all components are left whole by the cut: let it go through one of them")
	}
	cut, history, err := p.kernel.Compound(list)
	if err != nil {
		return nil, nil, err
	}
	index := make([]int, len(history))
	for i, from := range history {
		index[i] = p.composed.first(which[from[0].Operand]) + from[0].Index
	}
	return cut, index, nil
}

// withWhole puts what is left whole back to what a cut has left.
func (p *projecting) withWhole(one *piece) error {
	if p.composed == nil || len(p.spec.Cut.Uncut) == 0 {
		return nil
	}
	list, which := []solid.Shape{one.shape}, []int{-1}
	for i, x := range p.parts {
		if p.uncut(i) {
			list, which = append(list, x.Shape), append(which, i)
		}
	}
	all, history, err := p.kernel.Compound(list)
	if err != nil {
		return err
	}
	out := piece{shape: all, faces: one.faces, of: one.of, from: make([][]int, len(history)),
		inCut: make([]bool, len(history)), wall: make([]bool, len(history))}
	for i, from := range history {
		if from[0].Operand == 0 {
			k := from[0].Index
			out.from[i], out.inCut[i], out.wall[i] = one.from[k], one.inCut[k], one.wall[k]
		} else {
			out.from[i] = []int{p.composed.first(which[from[0].Operand]) + from[0].Index}
		}
	}
	*one = out
	return nil
}

// whose is a face of the reference that has an edge with a face that lies in a cut, or -1.
func (p *piece) whose(face int, faces []solid.Face) int {
	for i, f := range faces {
		if i == face || len(p.from[i]) == 0 {
			continue
		}
		for _, e := range f.Edges {
			if slices.Contains(faces[face].Edges, e) {
				return p.from[i][0]
			}
		}
	}
	return -1
}
