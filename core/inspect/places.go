package inspect

import (
	"fmt"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/solid"
)

// Places resolves the places of a characteristic on the reference. A pattern
// that fits several faces makes one place of each where the characteristic has a
// single operand, and belongs to one place where it is measured over all (a bolt
// circle).
func Places(ref *solid.Geometry, c *exercise.Characteristic) ([]characteristic.Place, error) {
	kind := characteristic.Of(c.Kind)
	var out []characteristic.Place
	for _, refs := range c.Of {
		var operands [][]int
		names := make([]string, len(refs))
		for i, r := range refs {
			if r.Component != "" {
				return nil, fmt.Errorf("characteristic %s: %q is not a face of one part", c.ID, r)
			}
			names[i] = r.Name
		}
		for _, n := range names {
			list, err := faces(ref, n)
			if err != nil {
				return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
			}
			if !strings.Contains(n, "*") && !strings.Contains(n, "&") && len(list) > 1 && len(names) > 1 {
				list = []int{largest(ref, list)}
			}
			operands = append(operands, list)
		}
		switch {
		case kind.Each():
			for _, o := range operands {
				for _, f := range o {
					out = append(out, characteristic.Place{{f}})
				}
			}
		case kind.Scope == characteristic.Together:
			out = append(out, operands)
		default:
			out = append(out, each(operands, names)...)
		}
	}
	return out, nil
}

// faces are the faces that a name of a characteristic stands for: those that a pattern fits, or the two whose common
// line it names.
func faces(ref *solid.Geometry, name string) ([]int, error) {
	if a, b, ok := strings.Cut(name, "&"); ok {
		fa, fb := ref.Named(strings.TrimSpace(a)), ref.Named(strings.TrimSpace(b))
		if len(fa) == 0 || len(fb) == 0 {
			return nil, fmt.Errorf("the reference has no faces %q", name)
		}
		return []int{largest(ref, fa), largest(ref, fb)}, nil
	}
	list := ref.Named(name)
	if len(list) == 0 {
		return nil, fmt.Errorf("the reference has no face %q", name)
	}
	return list, nil
}

// Operand is what one address stands for on the reference: one face, the largest where several have the name, or the
// two whose common line it names.
func Operand(ref *solid.Geometry, at address.Ref) ([]int, error) {
	name := at.Name
	if at.Component != "" { // in an assembly faces are called with their components
		name = at.String()
	}
	list, err := faces(ref, name)
	if err != nil || strings.Contains(at.Name, "&") {
		return list, err
	}
	return []int{largest(ref, list)}, nil
}

// each makes a place of every face of an operand whose pattern fits several.
func each(operands [][]int, names []string) []characteristic.Place {
	for i, o := range operands {
		if len(o) < 2 || !strings.Contains(names[i], "*") || strings.Contains(names[i], "&") {
			continue
		}
		var out []characteristic.Place
		for _, f := range o {
			one := append([][]int(nil), operands...)
			one[i] = []int{f}
			out = append(out, each(one, names)...)
		}
		return out
	}
	return []characteristic.Place{operands}
}

func largest(g *solid.Geometry, list []int) int {
	best := list[0]
	for _, i := range list[1:] {
		if g.Faces[i].Area > g.Faces[best].Area {
			best = i
		}
	}
	return best
}

// Measure gives the value of a characteristic at one place of a geometry, in mm, radians or a
// plain number. The error says in words what cannot be measured.
func Measure(g *solid.Geometry, c *exercise.Characteristic, p characteristic.Place) (float64, error) {
	kind := characteristic.Of(c.Kind)
	if kind.Measure == nil {
		return 0, fmt.Errorf("%q is measured on no face", c.Kind)
	}
	return kind.Measure(g, p, c.How())
}
