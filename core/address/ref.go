// Package address says where geometry is: one written address for a face, an edge or a corner,
// in exercises, reports, prepared data and picks alike.
package address

import (
	"encoding/json"
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// Ref is the address of geometry: Name is its name in its part, and Component is the path to the
// part through the components of an assembly, the outermost first, with a slash between two.
// Without a component the part itself is meant. It is written "c2/c1#h1.p3/bore", and without a
// component "h1.p3/bore"; no name has a # of its own.
//
// A name is a persistent name of core/part, with the place that says which of several faces is meant where they share
// it (solid.Geometry.Address), a pattern of such names where the context allows one,
// or the number of a face, edge or corner in a solid that does not change ("face:7"), as in a file
// that was handed in.
type Ref struct {
	Component string
	Name      string
}

// What a numbered name counts.
const (
	Face   = "face"
	Edge   = "edge"
	Corner = "corner"
)

// numbered is the form of a numbered name. The number of an import's face ("i1/face:7") belongs
// to a persistent name, which is why nothing may stand before the word.
var numbered = regexp.MustCompile(`^(face|edge|corner):(0|[1-9][0-9]{0,8})$`)

// Of addresses geometry of the part itself by its name.
func Of(name string) Ref { return Ref{Name: name} }

// List addresses several of the part itself.
func List(names ...string) []Ref {
	out := make([]Ref, len(names))
	for i, n := range names {
		out[i] = Of(n)
	}
	return out
}

// Numbered addresses a face, edge or corner of the part itself by its number, counted from 0.
func Numbered(what string, i int) Ref { return Of(what + ":" + strconv.Itoa(i)) }

// Faces addresses faces of the part itself by their numbers.
func Faces(list []int) []Ref {
	out := make([]Ref, len(list))
	for i, f := range list {
		out[i] = Numbered(Face, f)
	}
	return out
}

// Parse reads a written address.
func Parse(text string) (Ref, error) {
	component, name, found := strings.Cut(text, "#")
	if !found {
		component, name = "", text
	}
	switch {
	case name == "":
		return Ref{}, fmt.Errorf("the address %q names no geometry: write a name such as h1.p3/bore, or c2#h1.p3/bore of "+
			"the component c2", text)
	case strings.Contains(name, "#"):
		return Ref{}, fmt.Errorf("the address %q has more than one #, which parts the component from the name", text)
	case found && (component == "" || strings.Contains("/"+component+"/", "//")):
		return Ref{}, fmt.Errorf("the address %q has an empty component: write c2#%s, or %s of the part itself",
			text, name, name)
	}
	return Ref{Component: component, Name: name}, nil
}

// String writes the address as Parse reads it.
func (r Ref) String() string {
	if r.Component == "" {
		return r.Name
	}
	return r.Component + "#" + r.Name
}

// Number reads a numbered name: what it counts and the number.
func (r Ref) Number() (what string, i int, ok bool) {
	m := numbered.FindStringSubmatch(r.Name)
	if m == nil {
		return "", 0, false
	}
	i, err := strconv.Atoi(m[2])
	return m[1], i, err == nil
}

// Inside is the address as it is written one assembly further out, in which the component holds
// what it was written for.
func (r Ref) Inside(component string) Ref {
	if r.Component != "" {
		component += "/" + r.Component
	}
	return Ref{Component: component, Name: r.Name}
}

// MarshalText writes the address.
func (r Ref) MarshalText() ([]byte, error) { return []byte(r.String()), nil }

// UnmarshalJSON reads a written address, or a whole number, by which reports and prepared data
// written before there were addresses name a face.
func (r *Ref) UnmarshalJSON(data []byte) error {
	var i int
	if json.Unmarshal(data, &i) == nil {
		if i < 0 {
			return fmt.Errorf("%d is not the number of a face", i)
		}
		*r = Numbered(Face, i)
		return nil
	}
	var text string
	if err := json.Unmarshal(data, &text); err != nil {
		return fmt.Errorf("an address of geometry is a text such as h1.p3/bore: %w", err)
	}
	var err error
	*r, err = Parse(text)
	return err
}
