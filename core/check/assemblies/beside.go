package assemblies

import (
	"context"

	"hammerset/core/assembly"
	"hammerset/core/assembly/contact"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Beside is an attempt beside the reference, for looking at both at once: laid over one another component by component,
// drawn apart, driven together. All stands where the reference does.
type Beside struct {
	// Meshes are of parts, by which components name them.
	Meshes     []*solid.Mesh     `json:"meshes"`
	Components []BesideComponent `json:"components"`
	// Shared is what components in one another share.
	Shared  []*solid.Mesh  `json:"shared"`
	Motions []BesideMotion `json:"motions"`
	Paths   []BesidePath   `json:"paths"`
}

// BesideComponent is a component of the reference with what stands for it, or one of the attempt that stands for none.
type BesideComponent struct {
	Item      string    `json:"item"`
	Title     string    `json:"title"`
	Attempt   *Standing `json:"attempt,omitempty"`
	Reference *Standing `json:"reference,omitempty"`
	Apart     solid.Vec `json:"apart"` // how far it goes when the whole is drawn apart, mm
}

// Standing is a mesh where it stands, as a matrix by columns.
type Standing struct {
	Mesh int         `json:"mesh"`
	At   [16]float64 `json:"at"`
}

// BesideMotion is a drive: at each of its values (degrees or mm) where the components stand, in their order; nothing of
// those that are not there.
type BesideMotion struct {
	Joint     string           `json:"joint"`
	Name      string           `json:"name"`
	Turns     bool             `json:"turns"`
	Values    []float64        `json:"values"`
	Attempt   [][]*[16]float64 `json:"attempt"`
	Reference [][]*[16]float64 `json:"reference"`
}

// BesidePath is what a point traces in both.
type BesidePath struct {
	Name      string      `json:"name"`
	Attempt   []solid.Vec `json:"attempt"`
	Reference []solid.Vec `json:"reference"`
}

// besideSteps are the places of a drive at which both are shown.
const besideSteps = 36

// mostShared is of how many collisions the shared material is shown.
const mostShared = 8

// beside lays the attempt beside the reference.
func (p *placement) beside(ctx context.Context, collisions []report.Collision) (*Beside, error) {
	b := &besides{placement: p, out: &Beside{Meshes: []*solid.Mesh{}, Shared: []*solid.Mesh{}, Motions: []BesideMotion{},
		Paths: []BesidePath{}}, known: map[*assembly.Shape]int{}, to: p.asInReference()}
	apart := map[string]solid.Vec{}
	for _, a := range contact.Find(p.bodies()).Explode() {
		apart[a.Component] = a.By
	}
	for c := range p.of {
		x := BesideComponent{Item: itemNumber(p.Document, p.part(c)), Title: p.component(c).Title(),
			Apart: apart[p.component(c).ID], Reference: b.standing(p.parts[c].Shape, p.pose(c))}
		if n := p.of[c]; n >= 0 {
			x.Attempt = b.standing(p.att.made[p.att.doc.Components[n].Part].Shape, p.shown(n))
		}
		b.out.Components = append(b.out.Components, x)
	}
	for _, n := range p.spare {
		b.out.Components = append(b.out.Components, BesideComponent{Title: p.att.title(n),
			Attempt: b.standing(p.att.made[p.att.doc.Components[n].Part].Shape, p.shown(n))})
	}
	if p.att.Apart {
		return b.out, nil
	}
	if err := b.shared(collisions); err != nil {
		return nil, err
	}
	return b.out, b.motions(ctx)
}

// besides lays an attempt beside the reference.
type besides struct {
	*placement
	out   *Beside
	known map[*assembly.Shape]int
	to    rigid.Pose // from where the attempt lies to where the reference does
}

func (b *besides) standing(s *assembly.Shape, at rigid.Pose) *Standing {
	n, have := b.known[s]
	if !have {
		n = len(b.out.Meshes)
		b.known[s] = n
		b.out.Meshes = append(b.out.Meshes, s.Mesh)
	}
	return &Standing{n, at.Matrix()}
}

// shared adds what components in one another share.
func (b *besides) shared(collisions []report.Collision) error {
	for _, c := range collisions {
		if c.Drive != "" || c.Verdict != report.Out || len(b.out.Shared) >= mostShared {
			continue
		}
		var both [2]solid.Shape
		for i, id := range c.Of {
			n := b.of[b.number[id]]
			s, _, err := b.k.Transform(b.att.made[b.att.doc.Components[n].Part].Solid,
				b.att.poses[n].Then(b.to).Transform())
			if err != nil {
				return err
			}
			both[i] = s
		}
		shared, _, err := b.k.Overlap(both[0], both[1], 1e-4)
		if err != nil || shared == nil {
			continue // it is told in words
		}
		box, err := b.k.Bounds(shared)
		if err != nil {
			continue
		}
		mesh, err := b.k.Mesh(shared, inspect.Deflection(box), inspect.MeshAngle)
		if err != nil {
			continue
		}
		b.out.Shared = append(b.out.Shared, mesh)
	}
	return nil
}

// motions drives both, where the attempt can be driven.
func (b *besides) motions(ctx context.Context) error {
	list, err := b.drives()
	if err != nil {
		return err
	}
	whole := b.ofReference(ctx)
	for _, w := range list {
		should, err := whole.moving()
		if err != nil {
			return err
		}
		is, err := b.standingIn()
		if err != nil {
			return err
		}
		if _, there := is.Document.Joint(w.joint); !there || !is.Solve().Holds {
			continue
		}
		if err := b.drive(w, should, is); err != nil {
			return err
		}
	}
	if len(list) == 0 {
		return nil
	}
	for i := range b.mech.Document.Traces {
		b.path(&b.mech.Document.Traces[i], whole)
	}
	return nil
}

// drive adds one drive.
func (b *besides) drive(w way, should, is *assembly.Mechanism) error {
	j, _ := b.mech.Document.Joint(w.joint)
	ref, err := should.Drive(w.joint)
	if err != nil {
		return err
	}
	att, err := is.Drive(w.joint)
	if err != nil {
		return err
	}
	m := BesideMotion{Joint: w.joint, Name: b.Document.TitleOf(j), Turns: ref.Turns}
	unit := 1.0
	if ref.Turns {
		unit = quantity.Degree.Factor
	}
	for k := range besideSteps + 1 {
		v := w.from + (w.to-w.from)*float64(k)/besideSteps
		ref.To(v, nil)
		att.To(v, nil)
		var of, on []*[16]float64
		for c := range b.of {
			id := b.component(c).ID
			at := should.Pose(id).Matrix()
			on = append(on, &at)
			if n := b.of[c]; n >= 0 {
				own := b.att.poses[n].Then(b.way[c].Pose.Inverse()).Then(is.Pose(id)).Then(b.to).Matrix()
				of = append(of, &own)
			} else {
				of = append(of, nil)
			}
		}
		m.Values, m.Attempt, m.Reference = append(m.Values, v/unit), append(m.Attempt, of), append(m.Reference, on)
	}
	b.out.Motions = append(b.out.Motions, m)
	return nil
}

// path adds what a point traces in both, as far as it can be driven.
func (b *besides) path(t *assembly.Trace, whole *standing) {
	m, err := whole.moving()
	if err != nil {
		return
	}
	base := b.pose(b.base())
	in := func(list []solid.Vec) []solid.Vec {
		out := []solid.Vec{}
		for _, p := range list {
			out = append(out, base.Apply(p))
		}
		return out
	}
	should, err := whole.path(m, t.ID)
	if err != nil {
		return
	}
	x := BesidePath{Name: t.Title(), Reference: in(should), Attempt: []solid.Vec{}}
	if m, err = b.standingIn(); err == nil && m.Solve().Holds {
		if is, err := whole.path(m, t.ID); err == nil {
			x.Attempt = in(is)
		}
	}
	b.out.Paths = append(b.out.Paths, x)
}
