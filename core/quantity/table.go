package quantity

import (
	"fmt"
	"maps"
	"regexp"
	"strings"

	"slices"
)

// Parameter is a named size with its formula. Least and Most are formulas of the
// range in which it is meant to be varied; empty where none is given.
type Parameter struct {
	Name    string `json:"name"`
	Formula string `json:"value"`
	Note    string `json:"note,omitempty"`
	Least   string `json:"least,omitempty"`
	Most    string `json:"most,omitempty"`
}

// ParameterError names the parameter at fault.
type ParameterError struct {
	Index int // position in the table
	Name  string
	Err   error
}

func (e *ParameterError) Error() string { return fmt.Sprintf("parameter %q: %v", e.Name, e.Err) }
func (e *ParameterError) Unwrap() error { return e.Err }

// Table is an evaluated parameter table.
type Table struct {
	unit    Unit
	values  map[string]Quantity
	driving []string
	order   []string
}

var nameRule = regexp.MustCompile(`^[\p{L}_][\p{L}\p{Nd}_]*$`)

var functionNames = map[string]bool{"sin": true, "cos": true, "tan": true, "asin": true, "acos": true, "atan": true,
	"atan2": true, "sqrt": true, "hypot": true, "abs": true, "min": true, "max": true, "round": true, "floor": true,
	"ceil": true, "pi": true}

// CheckName says why a name cannot be given to a parameter, or nil.
func CheckName(name string) error {
	if !nameRule.MatchString(name) {
		return fmt.Errorf("a name starts with a letter and has only letters, digits and _")
	}
	if _, isUnit := LookupUnit(name); isUnit {
		return fmt.Errorf("%s is a unit; choose another name", name)
	}
	if functionNames[name] {
		return fmt.Errorf("%s is a function; choose another name", name)
	}
	return nil
}

// Evaluate computes all parameters in the order of their dependence. overrides
// replaces the formulas of the named parameters by values; naming a parameter
// that the table has not is an error. A plain number in a formula that stands
// alone stays a plain number (a count, say): a length is written with its unit.
func Evaluate(params []Parameter, unit Unit, overrides map[string]Quantity) (*Table, error) {
	e := &evaluation{params: params, overrides: overrides, index: map[string]int{}, state: make([]int, len(params)),
		table: &Table{unit: unit, values: map[string]Quantity{}}}
	if err := e.parse(); err != nil {
		return nil, err
	}
	for i := range params {
		if err := e.visit(i); err != nil {
			return nil, err
		}
	}
	for i, p := range params {
		if !slices.ContainsFunc(e.formulas[i].Names(), func(name string) bool { return name != "pi" }) {
			e.table.driving = append(e.table.driving, p.Name)
		}
	}
	return e.table, nil
}

// evaluation is a table under way. Parameters and what their formulas name are a directed graph; it is walked
// depth first, so that every parameter comes after those that it depends on, which is the order of the table.
// A parameter that is met again while it is open closes a circle.
type evaluation struct {
	params    []Parameter
	overrides map[string]Quantity
	formulas  []*Formula
	index     map[string]int // of each name
	state     []int
	path      []string // the names that are open
	table     *Table
}

// States of a parameter in the walk.
const (
	unseen = iota
	opened
	done
)

// parse reads all names and formulas.
func (e *evaluation) parse() error {
	for i, p := range e.params {
		if err := CheckName(p.Name); err != nil {
			return &ParameterError{i, p.Name, err}
		}
		if first, dup := e.index[p.Name]; dup {
			return &ParameterError{i, p.Name, fmt.Errorf("the name is already used by parameter number %d", first+1)}
		}
		e.index[p.Name] = i
		f, err := Parse(p.Formula)
		if err != nil {
			return &ParameterError{i, p.Name, err}
		}
		e.formulas = append(e.formulas, f)
	}
	for name := range e.overrides {
		if _, ok := e.index[name]; !ok {
			return fmt.Errorf("there is no parameter named %q to set", name)
		}
	}
	return nil
}

// visit evaluates a parameter after those that it depends on.
func (e *evaluation) visit(i int) error {
	name := e.params[i].Name
	switch e.state[i] {
	case done:
		return nil
	case opened:
		circle := strings.Join(e.path[slices.Index(e.path, name):], " → ")
		return &ParameterError{i, name, fmt.Errorf("it depends on itself: %s → %s", circle, name)}
	}
	e.state[i] = opened
	e.path = append(e.path, name)
	value, set := e.overrides[name]
	if !set {
		for _, other := range e.formulas[i].Names() {
			if k, ok := e.index[other]; ok {
				if err := e.visit(k); err != nil {
					return err
				}
			}
		}
		var err error
		if value, err = e.formulas[i].Eval(e.table.Lookup); err != nil {
			return &ParameterError{i, name, err}
		}
	}
	e.table.values[name] = value
	e.path = e.path[:len(e.path)-1]
	e.state[i] = done
	e.table.order = append(e.table.order, name)
	return nil
}

// Lookup gives the value of a parameter.
func (t *Table) Lookup(name string) (Quantity, bool) {
	q, ok := t.values[name]
	return q, ok
}

// Driving lists the parameters whose formula names no other parameter, in the
// order of the table: those are the ones a sweep varies.
func (t *Table) Driving() []string { return t.driving }

// Order lists all parameters so that each comes after those it depends on.
func (t *Table) Order() []string { return t.order }

// Unit is the unit of length of the document.
func (t *Table) Unit() Unit { return t.unit }

// Eval computes a formula that stands in a step, where a quantity of dimension
// want is needed.
func (t *Table) Eval(formula string, want Dim) (float64, error) {
	f, err := Parse(formula)
	if err != nil {
		return 0, err
	}
	q, err := f.EvalAs(want, t.unit, t.Lookup)
	return q.Value, err
}

// Settings reads texts that parameters are set to. A plain number takes the dimension that the parameter has, in the
// unit of the table, as its field does.
func (t *Table) Settings(set map[string]string) (map[string]Quantity, error) {
	out := map[string]Quantity{}
	for name, text := range set {
		have, ok := t.Lookup(name)
		if !ok {
			return nil, fmt.Errorf("there is no parameter named %q to set", name)
		}
		v, err := t.Eval(text, have.Dim)
		if err != nil {
			return nil, fmt.Errorf("parameter %s: %w", name, err)
		}
		out[name] = Quantity{Value: v, Dim: have.Dim}
	}
	return out, nil
}

// Names lists the names of formulas, in alphabetical order.
func Names(formulas map[string]string) []string { return slices.Sorted(maps.Keys(formulas)) }
