package contact

import (
	"math"

	"hammerset/core/assembly"
)

// Misaligned are two holes that open on faces which lie on one another, and whose axes are By mm out of line.
type Misaligned struct {
	A, B         string // components
	FaceA, FaceB string
	By           float64
}

// Bounds of holes that are meant to line up.
const (
	alikeHoles = 1.3 // times as large one may be, as a hole for a screw is than the one that it is screwed into
	mouths     = 3.0 // mm that are left between them at most, where one is sunk or bevelled
)

// OutOfLine finds the holes of components that lie on one another which are square to that face, of nearly one size,
// and overlap, and which do not have one axis: a pin or screw cannot go through both. A hole that lines up with another
// one of the same component is where it is meant to be.
func (s *Set) OutOfLine() []Misaligned {
	var out []Misaligned
	told := map[[2]string]bool{}
	for _, c := range s.Contacts {
		if key := [2]string{c.A, c.B}; c.Kind == FaceOnFace && !told[key] {
			told[key] = true
			out = append(out, misaligned(s.body(c.A), s.body(c.B), s.face(c.B, c.FaceB))...)
		}
	}
	return out
}

// body finds a component.
func (s *Set) body(id string) *body {
	for _, b := range s.bodies {
		if b.ID == id {
			return b
		}
	}
	return nil
}

// misaligned are the holes of two components that are out of line at a face on which they lie on one another.
func misaligned(a, b *body, at *face) []Misaligned {
	var out []Misaligned
	for i := range a.faces {
		x := &a.faces[i]
		if !x.opens(at) {
			continue
		}
		nearest, least := -1, math.Inf(1)
		for k := range b.faces {
			y := &b.faces[k]
			if !y.opens(at) || x.Radius > alikeHoles*y.Radius || y.Radius > alikeHoles*x.Radius {
				continue
			}
			d := y.at.Sub(x.at)
			if e := d.Sub(at.axis.Scale(d.Dot(at.axis))).Norm(); e < least {
				nearest, least = k, e
			}
		}
		if nearest >= 0 && least > apart && least < math.Max(x.Radius, b.faces[nearest].Radius) {
			out = append(out, Misaligned{a.ID, b.ID, x.Name, b.faces[nearest].Name, least})
		}
	}
	return out
}

// opens tells whether it is a hole square to a flat face that ends near it.
func (f *face) opens(at *face) bool {
	if f.Form != assembly.Cylinder || !f.Hollow || !f.axis.Parallel(at.axis, oneAngle) {
		return false
	}
	from := f.at.Sub(at.at).Dot(at.axis)
	return math.Abs(math.Abs(from)-f.Length/2) < mouths
}
