package prepare

import (
	"context"
	"fmt"
	"strings"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/modeller"
	"hammerset/core/quantity"
)

// Bind gives an exercise whose names are those of its reference. The faces of a STEP file are told by their prints,
// which the exercise has from then on: in a file that was written anew they are found under their new numbers. Where
// that is not clear the error is a *modeller.Refused that lists what is doubtful or lost. The exercise itself stays as
// it is.
func Bind(ctx context.Context, c *check.Checker, ex exercise.Exercise, ref check.Reference) (*exercise.Exercise,
	error) {
	prints := ex.Prints
	ex.Prints = nil
	if ref.Document != nil { // its names persist
		return &ex, nil
	}
	_, geo, _, err := described(ctx, c, ref)
	if err != nil {
		return nil, err
	}
	out := &ex
	if was, found, same := inspect.FindPrints(prints, geo); !same {
		b := &rebinder{was: was, is: geo, faces: found, printed: true,
			out: &Rebound{Bindings: []Binding{}, Changes: []Restated{}}}
		b.called = Called(was.Names, was, nil, ex.Unit)
		if out = b.rebound(ex, nil); len(b.out.Bindings) > 0 {
			return nil, unclear(b.out.Bindings)
		}
	}
	for _, name := range out.Names() {
		if list := geo.Named(name); len(list) > 0 && !strings.Contains(name, "*") {
			if out.Prints == nil {
				out.Prints = map[string]exercise.Print{}
			}
			out.Prints[name] = inspect.PrintOf(geo, list[0])
		}
	}
	return out, nil
}

// unclear says which faces of an exchanged reference are not surely those that the exercise was bound to.
func unclear(list []Binding) error {
	const most = 5
	var said []string
	for _, x := range list[:min(len(list), most)] {
		said = append(said, fmt.Sprintf("%s (%s)", x.Label, x.What))
	}
	if more := len(list) - most; more > 0 {
		said = append(said, fmt.Sprintf("%d more", more))
	}
	return &modeller.Refused{What: fmt.Sprintf("the reference is another one than that to whose faces the exercise is "+
		"bound, and %s not surely found on it: %s", quantity.Count(len(list), "thing is", "things are"),
		strings.Join(said, "; ")),
		Remedy: "bring the exercise in with its former reference, and then put this one under it with “Other reference”: " +
			"there each of them can be looked at and confirmed"}
}
