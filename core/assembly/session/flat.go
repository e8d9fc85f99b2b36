package session

import (
	"errors"
	"fmt"
	"maps"
	"slices"

	"hammerset/core/assembly"
)

// flattening is a document while nested assemblies of it are laid flat: shapes are those of its parts, and given those
// of parts that come out of them.
type flattening struct {
	doc           *assembly.Document
	shapes, given map[string]*assembly.Shape
}

func (s *Session) flattening(doc *assembly.Document) *flattening {
	return &flattening{doc, maps.Clone(s.shapes), map[string]*assembly.Shape{}}
}

// lay puts what a component is made of in its place.
func (f *flattening) lay(x *assembly.Component) error {
	nest := f.shapes[x.Part].Nest
	if nest == nil {
		return fmt.Errorf("%s is no assembly", x.Title())
	}
	parts, err := f.doc.LayFlat(x.ID, nest)
	if err != nil {
		return err
	}
	for inner, now := range parts {
		f.shapes[now], f.given[now] = nest.Shapes[inner], nest.Shapes[inner]
	}
	unused(f.doc)
	return nil
}

// all lays flat whatever is nested, on every level, and tells how many assemblies that were.
func (f *flattening) all() (n int, err error) {
	for ; ; n++ {
		i := slices.IndexFunc(f.doc.Components, func(c assembly.Component) bool {
			return f.shapes[c.Part] != nil && f.shapes[c.Part].Nest != nil
		})
		if i < 0 {
			return n, nil
		}
		if err := f.lay(&f.doc.Components[i]); err != nil {
			return n, err
		}
	}
}

// layFlat puts what an assembly is made of in its place.
func (s *Session) layFlat(doc *assembly.Document, x *assembly.Component) error {
	f := s.flattening(doc)
	if err := f.lay(x); err != nil {
		return err
	}
	s.Give(f.given)
	return nil
}

// layAllFlat puts what all nested assemblies are made of in their places.
func (s *Session) layAllFlat(doc *assembly.Document) (string, error) {
	f := s.flattening(doc)
	n, err := f.all()
	if err != nil {
		return "", err
	}
	if n == 0 {
		return "", errors.New("nothing is nested in this assembly")
	}
	s.Give(f.given)
	return "lay all that is nested flat", nil
}

// unjoined counts the components that no joint of this assembly or of the one that they are in names, and that are not
// pinned: of what is nested, being nested is all that holds them.
func (s *Session) unjoined() int {
	held := map[string]bool{}
	holds(held, s.doc, s.shapes, "", true)
	n := 0
	for _, c := range s.m.Document.Components {
		if !held[c.ID] {
			n++
		}
	}
	return n
}

// holds tells which components of a document joints name or pins hold, and of those nested in it, by their paths. What
// is nested in something that can move is pinned by nothing.
func holds(held map[string]bool, doc *assembly.Document, shapes map[string]*assembly.Shape, at string, still bool) {
	for _, j := range doc.Joints {
		if !j.Off {
			held[at+j.A.Component], held[at+j.B.Component] = true, true
		}
	}
	for _, c := range doc.Components {
		if c.Pinned && still {
			held[at+c.ID] = true
		}
		if shape := shapes[c.Part]; shape != nil && shape.Nest != nil {
			holds(held, shape.Nest.Document, shape.Nest.Shapes, at+c.ID+"/", c.Pinned && still)
		}
	}
}
