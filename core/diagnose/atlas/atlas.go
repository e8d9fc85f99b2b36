// Package atlas holds, for one exercise, what its part would measure under each likely
// mistake, and finds which of them are behind an attempt.
package atlas

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Version counts changes of what an atlas holds and says.
const Version = "atlas/5"

// Figures are whole-part figures by which two solids are told apart. Inner do not
// depend on the pose: volume, area and the principal moments of inertia, largest first.
// Sums are about the axes of the reference: volume, area, three first and six second
// moments of volume; what two mistakes far from each other change adds up in them.
type Figures struct {
	Inner  [5]float64  `json:"inner"`
	Sums   [11]float64 `json:"sums"`
	Solids int         `json:"solids"`
}

// Values are what the characteristics measure, by id, at each of their places, in
// millimetres and radians. A characteristic one of whose faces is not there is left out.
type Values map[string][]float64

// Atlas is the catalogue of one exercise.
type Atlas struct {
	Version string  `json:"version"`
	Key     string  `json:"key"`     // of what it was made from
	Figures Figures `json:"figures"` // of the part as it should be
	Values  Values  `json:"values"`
	Sizes   []Size  `json:"sizes"`
	Entries []Entry `json:"entries"`
	// Elsewhere are mistakes that leave the figures of the whole as they are: something lies
	// elsewhere.
	Elsewhere []Entry `json:"elsewhere"`
}

// Size is one size of the reference: a driving parameter, or a number typed in a step.
// Slopes is how the characteristics change with it, per millimetre or radian.
type Size struct {
	Parameter string       `json:"parameter"`
	Where     string       `json:"where"`
	Dim       quantity.Dim `json:"dim"`
	Nominal   float64      `json:"nominal"`
	Slopes    Values       `json:"slopes"`
	Volume    float64      `json:"volume"` // how the volume changes with it
}

// Entry is one mistake: how the reference is changed by it, what is to be said of it,
// and what the part would measure.
type Entry struct {
	Kind    string  `json:"kind"`
	Step    string  `json:"step"`
	What    string  `json:"what"`
	Cause   string  `json:"cause"`
	Remedy  string  `json:"remedy"`
	Edits   []Edit  `json:"edits"`
	Figures Figures `json:"figures"`
	Values  Values  `json:"values"`
}

// key is the same for the same characteristics of the same reference.
func key(ex *exercise.Exercise, reference *part.Document) (string, error) {
	measured := slices.Clone(ex.Characteristics)
	for i := range measured {
		measured[i].Weight, measured[i].Free = 0, false // what it counts for does not change what it measures
	}
	body, err := json.Marshal([]any{Version, ex.Unit, measured, reference})
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:]), nil
}

// Fits tells whether the atlas was made from this state of the exercise.
func (a *Atlas) Fits(ex *exercise.Exercise, reference *part.Document) bool {
	k, err := key(ex, reference)
	return err == nil && a.Version == Version && a.Key == k
}

// FiguresOf works out the figures of a solid whose pose is laid on the reference's by t.
func FiguresOf(p solid.Props, solids int, t solid.Transform) Figures {
	f := Figures{Solids: solids}
	var j [3][3]float64
	trace := 0.0
	for r := range 3 {
		for c := range 3 {
			j[r][c] = (p.Inertia[r][c] + p.Inertia[c][r]) / 2
		}
		trace += p.Inertia[r][r]
	}
	sym := mat.NewSymDense(3, nil)
	for r := range 3 {
		for c := r; c < 3; c++ {
			sym.SetSym(r, c, j[r][c])
		}
	}
	var eig mat.EigenSym
	f.Inner[0], f.Inner[1] = p.Volume, p.Area
	if eig.Factorize(sym, false) {
		v := eig.Values(nil)
		f.Inner[2], f.Inner[3], f.Inner[4] = v[2], v[1], v[0]
	}
	// The second moments about the middle are those of the inertia tensor turned out:
	// S = trace(J)/2 · 1 - J. They turn with the pose and move with the middle.
	c := t.Apply(p.Centroid)
	f.Sums[0], f.Sums[1] = p.Volume, p.Area
	k := 5
	for r := range 3 {
		f.Sums[2+r] = p.Volume * c[r]
		for q := r; q < 3; q++ {
			s := 0.0
			for a := range 3 {
				for b := range 3 {
					m := -j[a][b]
					if a == b {
						m += trace / 2
					}
					s += t.M[r][a] * m * t.M[q][b]
				}
			}
			f.Sums[k] = s + p.Volume*c[r]*c[q]
			k++
		}
	}
	return f
}

// same tells whether two solids have the same figures whatever their poses.
func (f Figures) same(g Figures) bool {
	if f.Solids != g.Solids {
		return false
	}
	for i := range f.Inner {
		if math.Abs(f.Inner[i]-g.Inner[i]) > agree*math.Abs(g.Inner[i]) {
			return false
		}
	}
	return true
}

// agree is how closely figures agree that are those of one solid: what writing and
// reading a file leaves.
const agree = 3e-6

// maker rebuilds variants of the reference and measures them.
type maker struct {
	r   *part.Rebuilder
	ex  *exercise.Exercise
	doc *part.Document // with all sizes exposed as parameters
}

// variant rebuilds the reference with changes and values; ok is false where that gives no
// sound part.
func (m *maker) variant(ctx context.Context, edits []Edit, set map[string]quantity.Quantity) (Figures, Values, bool, error) {
	doc := m.doc
	if len(edits) > 0 {
		var err error
		if doc, err = Apply(m.doc, edits); err != nil {
			return Figures{}, nil, false, err
		}
	}
	b, err := m.r.Rebuild(ctx, doc, set)
	if ctx.Err() != nil {
		return Figures{}, nil, false, ctx.Err()
	}
	if err != nil || b.Solid == nil || len(b.Failed()) > 0 {
		return Figures{}, nil, false, nil
	}
	g, err := inspect.Describe(m.r.Kernel(), b.Solid.Shape, b.Solid.Names)
	if err != nil {
		return Figures{}, nil, false, err
	}
	if !(g.Props.Volume > 0) {
		return Figures{}, nil, false, nil
	}
	v := Values{}
	for i := range m.ex.Characteristics {
		c := &m.ex.Characteristics[i]
		if inspect.Unplaced(c.Kind) {
			continue
		}
		places, err := inspect.Places(g, c)
		if err != nil {
			continue // a face is gone
		}
		var list []float64
		for _, p := range places {
			x, err := inspect.Measure(g, c, p)
			if err != nil {
				list = nil
				break
			}
			list = append(list, x)
		}
		if list != nil {
			v[c.ID] = list
		}
	}
	return FiguresOf(g.Props, g.Solids, solid.Identity), v, true, nil
}

// step is how far a size is changed to find its slopes: a thousandth of it.
const step = 1e-3

// Build makes the atlas of an exercise from its reference. progress is told how much is
// done, from 0 to 1.
func Build(ctx context.Context, r *part.Rebuilder, ex *exercise.Exercise, reference *part.Document, progress func(float64)) (*Atlas, error) {
	was := r.Brief
	r.Brief = true
	defer func() { r.Brief = was }()
	doc, where, err := Expose(reference)
	if err != nil {
		return nil, err
	}
	m := &maker{r, ex, doc}
	a := &Atlas{Version: Version, Sizes: []Size{}, Entries: []Entry{}, Elsewhere: []Entry{}}
	if a.Key, err = key(ex, reference); err != nil {
		return nil, err
	}
	base, err := r.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	var ok bool
	if a.Figures, a.Values, ok, err = m.variant(ctx, nil, nil); err != nil {
		return nil, err
	}
	if !ok {
		return nil, fmt.Errorf("the reference makes no sound part")
	}
	right, err := describe(r.Kernel(), base.Solid.Shape)
	if err != nil {
		return nil, err
	}
	halves := map[string]solid.Transform{}
	for _, s := range base.Steps {
		if s.Half != nil {
			halves[s.ID] = *s.Half
		}
	}
	list := Mistakes(reference, base.Table, halves)
	driving := base.Table.Driving()
	all := float64(len(driving) + len(list))
	for i, name := range driving {
		progress(float64(i) / all)
		q, _ := base.Table.Lookup(name)
		if q.Dim == quantity.Number || q.Value == 0 {
			continue
		}
		d := step * math.Abs(q.Value)
		fig, v, ok, err := m.variant(ctx, nil, map[string]quantity.Quantity{name: {Value: q.Value + d, Dim: q.Dim}})
		if err != nil {
			return nil, err
		}
		if !ok {
			continue
		}
		s := Size{Parameter: name, Where: where[name], Dim: q.Dim, Nominal: q.Value, Slopes: Values{}, Volume: (fig.Inner[0] - a.Figures.Inner[0]) / d}
		for id, list := range a.Values {
			if len(v[id]) != len(list) {
				continue
			}
			slopes, moves := make([]float64, len(list)), false
			for k := range list {
				slopes[k] = (v[id][k] - list[k]) / d
				moves = moves || math.Abs(slopes[k]) > 1e-6
			}
			if moves {
				s.Slopes[id] = slopes
			}
		}
		a.Sizes = append(a.Sizes, s)
	}
	for i, e := range list {
		progress((float64(len(driving)) + float64(i)) / all)
		f, v, ok, err := m.variant(ctx, e.Edits, nil)
		if err != nil {
			return nil, err
		}
		if !ok {
			continue // no such part
		}
		e.Figures, e.Values = f, v
		if !f.same(a.Figures) {
			a.Entries = append(a.Entries, e)
			continue
		}
		other, err := m.another(ctx, reference, &e, right)
		if err != nil {
			return nil, err
		}
		if other {
			a.Elsewhere = append(a.Elsewhere, e)
		}
	}
	progress(1)
	return a, nil
}

// another tells whether the reference with a mistake in it is another shape, whatever its
// pose.
func (m *maker) another(ctx context.Context, reference *part.Document, e *Entry, right *inspect.Meshed) (bool, error) {
	s, err := Shape(ctx, m.r, reference, e)
	if err != nil {
		return false, err
	}
	wrong, err := describe(m.r.Kernel(), s)
	if err != nil {
		return false, err
	}
	pose, _ := inspect.FindPose(right.Geometry, wrong.Geometry)
	return len(wrong.Strays(right, pose.Transform, inPlace)) > 0, nil
}

// inPlace is how closely a face lies in its place, in millimetres.
const inPlace = 0.01

func describe(k solid.Kernel, s solid.Shape) (*inspect.Meshed, error) {
	g, err := inspect.Describe(k, s, nil)
	if err != nil {
		return nil, err
	}
	return inspect.MeshOf(k, s, g)
}

// Shape rebuilds the reference with a mistake in it.
func Shape(ctx context.Context, r *part.Rebuilder, reference *part.Document, e *Entry) (solid.Shape, error) {
	doc, _, err := Expose(reference)
	if err == nil {
		doc, err = Apply(doc, e.Edits)
	}
	if err != nil {
		return nil, err
	}
	b, err := r.Rebuild(ctx, doc, nil)
	if err != nil {
		return nil, err
	}
	if b.Solid == nil {
		return nil, fmt.Errorf("%s: there is no solid", e.What)
	}
	return b.Solid.Shape, nil
}
