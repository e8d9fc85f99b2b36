package called

import (
	"fmt"

	"hammerset/core/quantity"
	"hammerset/core/sketch"
)

// Constraint puts a constraint or size into words, with the geometry as it is called.
func (n *Names) Constraint(k sketch.Constraint) string {
	called := n.All(k.Of)
	of := quantity.List(called, 6)
	one := len(k.Of) == 1
	if k.Value != "" || k.Driven {
		what := map[string]string{"length": "the length of", "distance": "the distance of",
			"horizontal-distance": "the horizontal distance of", "vertical-distance": "the vertical distance of",
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
			return called[0] + " lies on " + called[1]
		}
	case "horizontal", "vertical":
		if one {
			return of + " is " + k.Kind
		}
		return fmt.Sprintf("%s stand in a %s", of, map[string]string{"horizontal": "level line",
			"vertical": "plumb line"}[k.Kind])
	case "tangent":
		return of + " are tangent"
	case "equal":
		return of + " are equal"
	case "symmetric":
		if len(k.Of) == 3 {
			return fmt.Sprintf("%s and %s are symmetric about %s", called[0], called[1], called[2])
		}
	case "midpoint":
		return fmt.Sprintf("%s is the middle of %s", called[0], quantity.List(called[1:], 3))
	case "fixed":
		return of + " is fixed"
	}
	return of + " are " + k.Kind
}
