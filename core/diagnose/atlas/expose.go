package atlas

import (
	"fmt"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Expose gives a copy of a reference in which every size that is typed as a number is a
// driving parameter of its own, with where each stands.
func Expose(d *part.Document) (*part.Document, map[string]string, error) {
	out, err := d.Altered(nil)
	if err != nil {
		return nil, nil, err
	}
	unit, err := quantity.LengthUnit(d.Unit)
	if err != nil {
		return nil, nil, err
	}
	plain, err := quantity.Evaluate(nil, unit, nil)
	if err != nil {
		return nil, nil, err
	}
	where := map[string]string{}
	for _, p := range d.Parameters {
		where[p.Name] = "parameter " + p.Name
	}
	for i := range out.Steps {
		s := &out.Steps[i]
		for _, size := range s.Sizes() {
			f, err := quantity.Parse(size.Text)
			if size.Driven || size.Dim == quantity.Number || err != nil || len(f.Names()) > 0 {
				continue
			}
			if v, err := plain.Eval(size.Text, size.Dim); err != nil || v == 0 {
				continue
			}
			name := typedName(i, size.Path)
			text := size.Text
			if size.Dim == quantity.Angle && !strings.ContainsAny(text, "drg") {
				text += " deg"
			}
			if size.Dim == quantity.Length {
				// A bare number is of the document's unit; as a parameter it says so.
				text = fmt.Sprintf("(%s) * 1 %s", text, d.Unit)
				if _, err := plain.Eval(size.Text, quantity.Number); err != nil {
					text = size.Text
				}
			}
			out.Parameters = append(out.Parameters, quantity.Parameter{Name: name, Formula: text})
			s.SetSize(size.Path, name)
			where[name] = size.Role + " of " + s.Title()
		}
	}
	return out, where, nil
}

// typedName is the name of the parameter in place of a number that is typed in a step.
func typedName(step int, path string) string {
	return fmt.Sprintf("typed_%d_%s", step+1, strings.ReplaceAll(path, ".", "_"))
}

// setTyped types a number in place of the one that Expose gave a name.
func setTyped(d *part.Document, name, text string) bool {
	for i := range d.Steps {
		for _, size := range d.Steps[i].Sizes() {
			if typedName(i, size.Path) == name {
				return d.Steps[i].SetSize(size.Path, text)
			}
		}
	}
	return false
}

// mistakes lists the mistakes that can be made on the steps of a reference, without their figures.
func mistakes(d *part.Document, table *quantity.Table, halves map[string]solid.Transform) []Entry {
	var out []Entry
	for _, m := range d.Mistakes(table, halves) {
		out = append(out, Entry{Kind: m.Kind, Step: m.Step, What: m.What, Cause: m.Cause, Remedy: m.Remedy,
			Alterations: m.Alterations})
	}
	return out
}
