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
	return json.Marshal(&assembly.Shape{Features: []assembly.Feature{}, Broken: &assembly.Broken{What: te.What,
		Remedy: cmp.Or(te.Remedy, "put the part "+p.Name+" right, or replace it")}})
}
