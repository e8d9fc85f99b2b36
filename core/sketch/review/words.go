package review

import (
	"fmt"
	"strings"

	"hammerset/core/sketch"
)

// list writes names as people do: a, b and c; at most n of them.
func list(names []string, n int) string {
	switch {
	case len(names) == 0:
		return "nothing"
	case len(names) == 1:
		return names[0]
	case len(names) > n:
		return strings.Join(names[:n], ", ") + fmt.Sprintf(" and %d more", len(names)-n)
	}
	return strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1]
}

// Say puts a constraint or size into words.
func Say(s *sketch.Sketch, k sketch.Constraint) string {
	of := list(k.Of, 6)
	one := len(k.Of) == 1
	if k.Value != "" || k.Driven {
		what := map[string]string{"length": "the length of", "distance": "the distance of", "horizontal-distance": "the horizontal distance of", "vertical-distance": "the vertical distance of",
			"radius": "the radius of", "diameter": "the diameter of", "angle": "the angle of"}[k.Kind]
		if k.Driven {
			return fmt.Sprintf("%s %s is measured", what, of)
		}
		return fmt.Sprintf("%s %s is %s", what, of, k.Value)
	}
	switch k.Kind {
	case "coincident":
		return of + " are one point"
	case "on-curve":
		if len(k.Of) == 2 {
			return k.Of[0] + " lies on " + k.Of[1]
		}
	case "horizontal", "vertical":
		if one {
			return of + " is " + k.Kind
		}
		return fmt.Sprintf("%s stand in a %s", of, map[string]string{"horizontal": "level line", "vertical": "plumb line"}[k.Kind])
	case "tangent":
		return of + " are tangent"
	case "equal":
		return of + " are equal"
	case "symmetric":
		if len(k.Of) == 3 {
			return fmt.Sprintf("%s and %s are symmetric about %s", k.Of[0], k.Of[1], k.Of[2])
		}
	case "midpoint":
		return fmt.Sprintf("%s is the middle of %s", k.Of[0], list(k.Of[1:], 3))
	case "fixed":
		return of + " is fixed"
	}
	return of + " are " + k.Kind
}

func (r *reviewer) say(ids []string) string {
	var out []string
	for _, id := range ids {
		if k := r.d.Constraint(id); k != nil {
			out = append(out, Say(r.d.Sketch, *k))
		}
	}
	return strings.Join(out, "; ")
}
