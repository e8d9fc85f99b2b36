package session

import (
	"cmp"
	"errors"
	"fmt"
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
)

// Needed is a change that waits until parts are made at its sizes. The assembly stays as it was; the change is done
// once it is asked for again with their shapes.
type Needed struct {
	Document *assembly.Document
	Parts    []string
}

func (n *Needed) Error() string {
	return "these parts have to be made at other sizes first: " + quantity.List(n.Parts, len(n.Parts))
}

// shapesOf finds the shapes of all parts of a document at its sizes. The error is a *Needed where some were never made.
func (s *Session) shapesOf(doc *assembly.Document) (map[string]*assembly.Shape, error) {
	table, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	out, need := map[string]*assembly.Shape{}, &Needed{Document: doc}
	for i := range doc.Parts {
		p := &doc.Parts[i]
		key, err := p.At(table)
		if err != nil {
			return nil, err
		}
		if given := s.given[p.ID]; given != nil {
			s.made[key] = given
		}
		if out[p.ID] = s.made[key]; out[p.ID] == nil {
			need.Parts = append(need.Parts, p.ID)
		}
	}
	if len(need.Parts) > 0 {
		return nil, need
	}
	return out, nil
}

// shape is that of a part that is there or about to be put in; nil where there is none.
func (s *Session) shape(part string) *assembly.Shape {
	return cmp.Or(s.shapes[part], s.given[part], s.made[part])
}

// SizeRow is a size of the assembly, or of one of its parts: Own is what the part itself says, and Set what the
// assembly sets it to, if anything.
type SizeRow struct {
	Name  string `json:"name"`
	Own   string `json:"own,omitempty"`
	Set   string `json:"set"`
	Value string `json:"value"`
	Note  string `json:"note,omitempty"`
}

// PartRow is a part with the sizes that can be set.
type PartRow struct {
	Part  assembly.Part `json:"part"`
	Sizes []SizeRow     `json:"sizes"`
	// Made is the material that the part itself says, where it says one.
	Made string `json:"made,omitempty"`
}

// sizes adds the sizes to a picture.
func (s *Session) sizes(out *Frame) error {
	table, err := s.doc.Table(nil)
	if err != nil {
		return err
	}
	shown := func(q quantity.Quantity) string {
		text := quantity.BoardFormat(table.Unit()).Text(q)
		if q.Dim == quantity.Length {
			text += " " + table.Unit().Symbol
		}
		return text
	}
	for _, p := range s.doc.Parameters {
		q, _ := table.Lookup(p.Name)
		out.Sizes = append(out.Sizes, SizeRow{Name: p.Name, Set: p.Formula, Value: shown(q), Note: p.Note})
	}
	for _, p := range s.doc.Parts {
		row := PartRow{Part: p, Sizes: []SizeRow{}, Made: s.shapes[p.ID].Material}
		for _, x := range s.shapes[p.ID].Sizes {
			r := SizeRow{Name: x.Name, Own: x.Formula, Set: p.Values[x.Name], Note: x.Note}
			if f, err := quantity.Parse(r.Set); r.Set != "" && err == nil {
				if q, err := f.Eval(table.Lookup); err == nil {
					r.Value = shown(q)
				}
			}
			row.Sizes = append(row.Sizes, r)
		}
		// What the assembly sets and the part has no more is shown too, so that it can be taken out.
		for _, name := range quantity.Names(p.Values) {
			if !slices.ContainsFunc(row.Sizes, func(r SizeRow) bool { return r.Name == name }) {
				row.Sizes = append(row.Sizes, SizeRow{Name: name, Set: p.Values[name]})
			}
		}
		out.Parts = append(out.Parts, row)
	}
	return nil
}

// resize adds, changes or takes away a size of the assembly. Name is what it was called; a size with another name is
// called so in every formula.
func resize(doc *assembly.Document, c Command) (string, error) {
	i := slices.IndexFunc(doc.Parameters, func(p quantity.Parameter) bool { return p.Name == c.Name })
	if c.Do == "remove-size" {
		if i < 0 {
			return "", fmt.Errorf("there is no size %q", c.Name)
		}
		doc.Parameters = slices.Delete(doc.Parameters, i, i+1)
		return "remove " + c.Name, nil
	}
	if c.Size == nil {
		return "", errors.New("there is no size to set")
	}
	if i < 0 {
		if c.Size.Name == "" {
			c.Size.Name = free("size", len(doc.Parameters), func(name string) bool {
				return slices.ContainsFunc(doc.Parameters, func(p quantity.Parameter) bool { return p.Name == name })
			})
		}
		doc.Parameters = append(doc.Parameters, *c.Size)
		return "add " + c.Size.Name, nil
	}
	was := doc.Parameters[i].Name
	doc.Parameters[i] = *c.Size
	if c.Size.Name != was {
		doc.Formulas(func(f *string) { *f = quantity.Rename(*f, was, c.Size.Name) })
	}
	return "change " + c.Size.Name, nil
}

// changePart changes what the assembly says of a part: its name and number, its sizes and what it is made of.
func changePart(doc *assembly.Document, c Command) (string, error) {
	p, ok := doc.Part(c.ID)
	if !ok || c.Part == nil {
		return "", fmt.Errorf("there is no part %q", c.ID)
	}
	was := *p
	*p = *c.Part
	p.ID, p.File, p.SHA256, p.Solid = was.ID, was.File, was.SHA256, was.Solid
	return "change " + p.Name, nil
}

// renew puts a newer version of a part in the place of one.
func renew(doc *assembly.Document, c Command) (string, error) {
	was, ok := doc.Part(c.ID)
	if !ok || c.Part == nil {
		return "", fmt.Errorf("there is no part %q", c.ID)
	}
	name := was.Name
	doc.Renew(c.ID, c.Part)
	return "take the newer version of " + name, nil
}
