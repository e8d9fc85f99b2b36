package solid

import (
	"errors"
	"testing"
)

func TestPatternsOfNames(t *testing.T) {
	for _, c := range []struct {
		pattern, name string
		fits          bool
	}{
		{"h2.*/bore", "h2.p1/bore", true}, {"h2.*/bore", "h2.p1/head", false}, {"*", "anything", true},
		{"f1/round*", "f1/round(a|b)", true},
		{"f1/round*", "f10/round(a|b)", false}, {"a*b*c", "a-b-c", true}, {"a*b*c", "a-c-b", false}, {"a*a", "a", false},
		{"exact", "exact", true}, {"exact", "exactly", false},
	} {
		if fits(c.pattern, c.name) != c.fits {
			t.Errorf("%q on %q", c.pattern, c.name)
		}
	}
}

// broken is a shape whose faces cannot be described.
type broken struct{ Shape }

func (broken) Err() error    { return errors.New("the faces of the solid cannot be described") }
func (broken) Faces() []Face { return nil }
func (broken) Edges() []Edge { return nil }
func (broken) Solids() int   { return 1 }

type figures struct{ Kernel }

func (figures) Props(Shape) (Props, error) { return Props{Volume: 1}, nil }
func (figures) Bounds(Shape) (Box, error)  { return Box{}, nil }

// A shape that cannot be described is an error, and not a solid without faces.
func TestBrokenDescription(t *testing.T) {
	if g, err := Describe(figures{}, broken{}, nil); err == nil {
		t.Errorf("it is described as %+v", g)
	}
}
