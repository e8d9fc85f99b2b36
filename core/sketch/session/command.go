package session

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/review"
)

// Command is one change of a sketch. Which fields count depends on Do; At and To
// are on the screen, in millimetres.
type Command struct {
	Do    string      `json:"do"`
	IDs   []string    `json:"ids,omitempty"`
	ID    string      `json:"id,omitempty"`
	Kind  string      `json:"kind,omitempty"`
	Value string      `json:"value,omitempty"`
	Name  string      `json:"name,omitempty"`
	Note  string      `json:"note,omitempty"`
	At    *sketch.Vec `json:"at,omitempty"`
	To    *sketch.Vec `json:"to,omitempty"`
	Count int         `json:"count,omitempty"`
	On    bool        `json:"on,omitempty"`
	Edge  *Edge       `json:"edge,omitempty"`
}

// Edge is an edge of the solid in the plane of the sketch (millimetres, y upwards)
// that is to be traced.
type Edge struct {
	Faces [2]string  `json:"faces"`
	Kind  string     `json:"kind"`
	A     sketch.Vec `json:"a"`
	B     sketch.Vec `json:"b"`
	C     sketch.Vec `json:"c"`
	R     float64    `json:"r,omitempty"`
	U     sketch.Vec `json:"u"` // half axes of an ellipse
	V     sketch.Vec `json:"v"`
	// Poles are those of a spline with equally spaced knots; it closes where the first
	// is the last.
	Poles []sketch.Vec `json:"poles,omitempty"`
}

// NeedsError says what has to be chosen first.
type NeedsError struct{ What string }

// errStill is given where nothing chosen could move anyway.
var errStill = errors.New("what is chosen does not move: choose something that is drawn in this sketch as well")

func (e *NeedsError) Error() string { return "choose " + e.What + " first" }

// Do carries out a command as one step that can be undone.
func (s *Session) Do(c Command) error {
	switch c.Do {
	case "parameter":
		return s.SetParameter(c.ID, c.Name, c.Value, c.Note)
	case "remove-parameter":
		return s.RemoveParameter(c.Name)
	case "repair":
		return s.repair(c.ID)
	case "repair-all":
		return s.repairAll(c.Kind)
	}
	label := strings.TrimSpace(strings.ReplaceAll(c.Do, "-", " ") + " " + strings.ReplaceAll(c.Kind, "-", " "))
	return s.change(label, func() error { return s.edit(c) })
}

// positive evaluates a size that must be greater than zero (an angle or distance
// may be zero).
func (s *Session) positive(formula string, dim quantity.Dim) (float64, error) {
	v, err := s.draft.Values.Eval(formula, dim)
	if err == nil && v < 0 {
		err = fmt.Errorf("%s is %s: a size is not less than zero; give it from the other side", formula,
			s.number(quantity.Quantity{Value: v, Dim: dim}))
	}
	return v, err
}

// list evaluates values in a row, separated by semicolons.
func (s *Session) list(text string, dims ...quantity.Dim) ([]float64, error) {
	parts := strings.Split(text, ";")
	if len(parts) != len(dims) {
		return nil, fmt.Errorf("give %d values, separated by semicolons", len(dims))
	}
	var out []float64
	for i, p := range parts {
		v, err := s.draft.Values.Eval(strings.TrimSpace(p), dims[i])
		if err != nil {
			return nil, err
		}
		out = append(out, v)
	}
	return out, nil
}

// Spot evaluates a typed place, "across; up" from the origin, and gives it on the
// screen.
func (s *Session) Spot(text string) (sketch.Vec, error) {
	p, err := s.list(text, quantity.Length, quantity.Length)
	if err != nil {
		return sketch.Vec{}, err
	}
	return flip(sketch.Vec{X: p[0], Y: p[1]}), nil
}

// onlySize tells whether a size is the only length that holds the sketch.
func (s *Session) onlySize(id string) bool {
	for _, k := range s.draft.Constraints {
		if dim, size := sketch.Sizes[k.Kind]; k.ID != id && (size && dim == quantity.Length && !k.Driven ||
			k.Kind == "fixed") {
			return false
		}
	}
	return true
}

// size puts a size on a selection. The first length given to a rough sketch
// scales it.
func (s *Session) size(c Command) error {
	d := s.draft
	if c.Kind == otherAngle {
		if c.Kind = "angle"; c.Value != "" {
			c.Value = "180 deg - (" + c.Value + ")"
		}
	}
	dim, ok := sketch.Sizes[c.Kind]
	if !ok {
		return fmt.Errorf("%q is not a size", c.Kind)
	}
	if !s.movable(c.IDs) {
		return errStill
	}
	if c.On { // measured only
		id := d.Constrain(c.Kind, "", c.IDs...)
		d.Constraint(id).Driven = true
		return nil
	}
	v, err := s.positive(c.Value, dim)
	if err != nil {
		return err
	}
	id := d.Constrain(c.Kind, "", c.IDs...)
	d.Constraint(id).Driven = true
	if dim == quantity.Length {
		sys, err := sketch.Compile(d.Sketch, s.unit.Factor, d.Values)
		if err != nil {
			return err
		}
		d.FirstSize(sys.Solution().Measures[id], v)
	}
	k := d.Constraint(id)
	k.Value, k.Driven = c.Value, false
	return nil
}

// home is the place from which the lettering of a size is counted.
func (s *Session) home(k *sketch.Constraint) (sketch.Vec, bool) {
	// Drawn at an offset of zero, the lettering stands at home.
	probe := *k
	probe.At = &[2]float64{}
	l := &layout{s: s, pixel: 1e-6}
	curve := map[string]*sketch.Curve{}
	for i := range s.sol.Curves {
		curve[s.sol.Curves[i].ID] = &s.sol.Curves[i]
	}
	var v SizeView
	if !l.size(&v, &probe, curve) {
		return sketch.Vec{}, false
	}
	return flip(sketch.Vec{X: v.X, Y: v.Y}), true
}

// aboutLast parts a selection into what is changed and the point it is changed
// about, which was chosen last.
func (s *Session) aboutLast(ids []string) (rest []string, centre sketch.Vec, err error) {
	if len(ids) < 2 {
		return nil, centre, &NeedsError{"what is to be changed, and a point last"}
	}
	last := ids[len(ids)-1]
	p, ok := s.sol.Points[last]
	if !ok {
		return nil, centre, &NeedsError{"the point about which it goes last"}
	}
	return ids[:len(ids)-1], p, nil
}

// copies makes a row or a ring. The spacing of a row stays the formula that was
// typed, so that a parameter drives all copies.
func (s *Session) copies(c Command) error {
	if c.Do == "row" {
		p, err := s.list(c.Value, quantity.Number, quantity.Length, quantity.Angle)
		if err != nil {
			return err
		}
		spacing := strings.TrimSpace(strings.Split(c.Value, ";")[1])
		_, err = s.draft.Row(c.IDs, int(p[0]), sketch.Vec{}.Polar(p[1], p[2]), spacing)
		return err
	}
	if len(c.IDs) < 2 {
		return &NeedsError{"what is to be copied, and the centre point last"}
	}
	p, err := s.list(c.Value, quantity.Number, quantity.Angle)
	if err != nil {
		return err
	}
	_, err = s.draft.Ring(c.IDs[:len(c.IDs)-1], int(p[0]), c.IDs[len(c.IDs)-1], p[1])
	return err
}

// unjoin takes the coincident constraints off a point, and gives curves that
// share it points of their own.
func (s *Session) unjoin(id string) error {
	d := s.draft
	n := len(d.Constraints)
	d.Constraints = slices.DeleteFunc(d.Constraints, func(k sketch.Constraint) bool {
		return k.Kind == "coincident" && slices.Contains(k.Of, id)
	})
	at := d.At(id)
	shared := 0
	for i := range d.Entities {
		if !slices.Contains(d.Entities[i].Refs(), id) {
			continue
		}
		if shared++; shared > 1 {
			p := d.Point(at)
			d.Entities[i].Rename(map[string]string{id: p})
		}
	}
	if shared < 2 && n == len(d.Constraints) {
		return errors.New("nothing is joined here")
	}
	return nil
}

// trace adds an entity that follows an edge of the solid. Its points do not move
// in the sketch.
//
// An edge is traced once: a second copy of it could be constrained against the
// first.
func (s *Session) trace(e *Edge) error {
	if e == nil {
		return &NeedsError{"an edge of the solid"}
	}
	d := s.draft
	for _, k := range d.Entities {
		if len(k.Traced) == 2 && k.Traced[0] == e.Faces[0] && k.Traced[1] == e.Faces[1] {
			return fmt.Errorf("%s traces this edge already", s.call(k.ID))
		}
	}
	k := sketch.Entity{Kind: e.Kind, Traced: e.Faces[:], Guide: true}
	switch e.Kind {
	case sketch.KindLine:
		k.From, k.To = d.Point(e.A), d.Point(e.B)
	case sketch.KindCircle:
		k.Center, k.Radius = d.Point(e.C), e.R/s.unit.Factor
	case sketch.KindArc:
		k.Center, k.Start, k.End = d.Point(e.C), d.Point(e.A), d.Point(e.B)
	case sketch.KindEllipse, sketch.KindEllArc:
		k.Center, k.Major, k.Minor = d.Point(e.C), d.Point(e.C.Add(e.U)), d.Point(e.C.Add(e.V))
		if e.Kind == sketch.KindEllArc {
			k.Start, k.End = d.Point(e.A), d.Point(e.B)
		}
	case sketch.KindSpline:
		for i, p := range e.Poles {
			if i > 0 && i == len(e.Poles)-1 && p == e.Poles[0] {
				k.Poles = append(k.Poles, k.Poles[0])
				break
			}
			k.Poles = append(k.Poles, d.Point(p))
		}
	default:
		return fmt.Errorf("an edge of kind %q cannot be traced", e.Kind)
	}
	d.Add(k)
	return nil
}

// find gives the finding with an id.
func (s *Session) find(id string) (review.Finding, error) {
	s.Analyse()
	for _, f := range s.findings {
		if f.ID == id {
			return f, nil
		}
	}
	return review.Finding{}, errors.New("this finding is not there any more")
}

// repair applies one finding's remedy. It is an edit like every other: it is
// undone by one step, and refused when the sketch would no longer solve.
func (s *Session) repair(id string) error {
	f, err := s.find(id)
	if err != nil {
		return err
	}
	return s.change(f.Repair, func() error { return review.Apply(s.draft, f) })
}

// repairAll applies the remedies of all findings of a kind together, each tried
// on the result of the one before.
func (s *Session) repairAll(kind string) error {
	s.Analyse()
	list := s.findings
	return s.change("repair all: "+kind, func() error {
		_, err := review.ApplyAll(s.draft, list, kind)
		return err
	})
}

// Within lists the entities that lie wholly in a box, on the screen.
func (s *Session) Within(a, b sketch.Vec) []string {
	a, b = flip(a), flip(b)
	lo := sketch.Vec{X: math.Min(a.X, b.X), Y: math.Min(a.Y, b.Y)}
	hi := sketch.Vec{X: math.Max(a.X, b.X), Y: math.Max(a.Y, b.Y)}
	in := func(p sketch.Vec) bool { return p.X >= lo.X && p.X <= hi.X && p.Y >= lo.Y && p.Y <= hi.Y }
	out := []string{}
	for i := range s.sol.Curves {
		c := &s.sol.Curves[i]
		from, to := c.Range()
		if !slices.ContainsFunc(c.Samples(from, to, s.sol.System().Scale()/500), func(p sketch.Vec) bool { return !in(p) }) {
			out = append(out, c.ID)
		}
	}
	for _, e := range s.draft.Entities {
		if e.Kind == sketch.KindPoint && in(s.sol.Points[e.ID]) {
			out = append(out, e.ID)
		}
	}
	return out
}

// Nearest is the curve nearest to a place on the screen, "" when there is none.
func (s *Session) Nearest(at sketch.Vec) string {
	at = flip(at)
	id, best := "", math.Inf(1)
	for i := range s.sol.Curves {
		if _, q := s.sol.Curves[i].Nearest(at); q.Distance(at) < best {
			id, best = s.sol.Curves[i].ID, q.Distance(at)
		}
	}
	return id
}

// Where is a place by which an entity can be taken, on the screen.
func (s *Session) Where(id string) (sketch.Vec, bool) {
	if p, ok := s.sol.Points[id]; ok {
		return flip(p), true
	}
	for i := range s.sol.Curves {
		if c := &s.sol.Curves[i]; c.ID == id {
			lo, hi := c.Range()
			return flip(c.Point((lo + hi) / 2)), true
		}
	}
	return sketch.Vec{}, false
}

// Chain lists the curves that join on to one, end to end.
func (s *Session) Chain(id string) []string { return s.draft.Chain(id) }

// Import adds geometry that was read from a file.
func (s *Session) Import(name string, in *sketch.Sketch) error {
	return s.change("import "+name, func() error {
		names := map[string]string{}
		list := slices.Clone(in.Entities)
		sort.SliceStable(list, func(i, j int) bool {
			return list[i].Kind == sketch.KindPoint && list[j].Kind != sketch.KindPoint
		})
		for _, e := range list {
			old := e.ID
			e.ID = ""
			e.Through, e.Poles = slices.Clone(e.Through), slices.Clone(e.Poles)
			e.Rename(names)
			names[old] = s.draft.Add(e)
		}
		return nil
	})
}
