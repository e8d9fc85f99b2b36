package atlas

import (
	"fmt"
	"slices"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
)

// Expose gives a copy of a reference in which every size that a step types, as a number or as a formula, is a
// parameter of its own, with where each stands. A size that is one parameter's and nobody else's stays as it is:
// it has that one's value.
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
	uses := map[string]int{} // of a parameter's name alone
	for i := range out.Steps {
		for _, size := range out.Steps[i].Sizes() {
			uses[strings.TrimSpace(size.Text)]++
		}
	}
	for i := range out.Steps {
		s := &out.Steps[i]
		for _, size := range s.Sizes() {
			f, err := quantity.Parse(size.Text)
			if size.Driven || size.Dim == quantity.Number || err != nil {
				continue
			}
			name := typedName(i, size.Path)
			text, ok := size.Text, true
			if len(f.Names()) > 0 {
				ok = uses[strings.TrimSpace(text)] > 1 || where[strings.TrimSpace(text)] == ""
			} else {
				text, ok = asParameter(plain, size, d.Unit)
			}
			if !ok {
				continue
			}
			added := append(slices.Clone(out.Parameters), quantity.Parameter{Name: name, Formula: text})
			table, err := quantity.Evaluate(added, unit, nil)
			if err != nil {
				continue // a plain number beside a length, which only a step takes for one
			}
			if q, _ := table.Lookup(name); q.Dim != size.Dim {
				continue
			}
			out.Parameters = added
			s.SetSize(size.Path, name)
			where[name] = size.Role + " of " + s.Title()
		}
	}
	return out, where, nil
}

// asParameter writes a number that is typed in a step as a parameter has it: a bare number is of the
// document's unit, or in degrees, and as a parameter it says so. Nothing has no size.
func asParameter(plain *quantity.Table, size part.Size, unit string) (text string, ok bool) {
	if v, err := plain.Eval(size.Text, size.Dim); err != nil || v == 0 {
		return "", false
	}
	text = size.Text
	if size.Dim == quantity.Angle && !strings.ContainsAny(text, "drg") {
		text += " deg"
	}
	if _, err := plain.Eval(size.Text, quantity.Number); err == nil && size.Dim == quantity.Length {
		text = fmt.Sprintf("(%s) * 1 %s", text, unit)
	}
	return text, true
}

// typedName is the name of the parameter in place of a number that is typed in a step.
func typedName(step int, path string) string {
	return fmt.Sprintf("typed_%d_%s", step+1, strings.ReplaceAll(path, ".", "_"))
}

// retype changes the formula of a size that Expose gave a name, or of a parameter. It tells whether
// there is such a size.
func retype(d *part.Document, name string, change func(formula string) string) bool {
	for i := range d.Parameters {
		if p := &d.Parameters[i]; p.Name == name {
			p.Formula = change(p.Formula)
			return true
		}
	}
	for i := range d.Steps {
		for _, size := range d.Steps[i].Sizes() {
			if typedName(i, size.Path) == name {
				return d.Steps[i].SetSize(size.Path, change(size.Text))
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
