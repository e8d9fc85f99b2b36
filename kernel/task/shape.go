package task

import (
	"cmp"
	"encoding/json"
	"errors"

	"hammerset/core/assembly"
)

// Shape is the result of a Feature task. Where the part cannot be made it is a shape without anything that says why, so
// that the rest of the assembly stands; an error that is not of the part stays one.
func Shape(p *assembly.Part, raw json.RawMessage, err error) (json.RawMessage, error) {
	var te *Error
	if err == nil || !errors.As(err, &te) || te.Kind == Killed {
		return raw, err
	}
	return json.Marshal(Unmade(p, te))
}

// Unmade is the shape of a part that cannot be made.
func Unmade(p *assembly.Part, why *Error) *assembly.Shape {
	return &assembly.Shape{Features: []assembly.Feature{}, Broken: &assembly.Broken{What: why.What,
		Remedy: cmp.Or(why.Remedy, "put the part "+p.Name+" right, or replace it")}}
}
