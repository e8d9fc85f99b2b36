package quantity

import (
	"fmt"
	"regexp"
	"strings"
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
	"atan2": true, "sqrt": true, "hypot": true, "abs": true, "min": true, "max": true, "round": true, "floor": true, "ceil": true, "pi": true}

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
	t := &Table{unit: unit, values: map[string]Quantity{}}
	index := map[string]int{}
	formulas := make([]*Formula, len(params))
	for i, p := range params {
		if err := CheckName(p.Name); err != nil {
			return nil, &ParameterError{i, p.Name, err}
		}
		if first, dup := index[p.Name]; dup {
			return nil, &ParameterError{i, p.Name, fmt.Errorf("the name is already used by parameter number %d", first+1)}
		}
		index[p.Name] = i
		f, err := Parse(p.Formula)
		if err != nil {
			return nil, &ParameterError{i, p.Name, err}
		}
		formulas[i] = f
	}
	for name := range overrides {
		if _, ok := index[name]; !ok {
			return nil, fmt.Errorf("there is no parameter named %q to set", name)
		}
	}
	const (
		unseen = iota
		open
		done
	)
	state := make([]int, len(params))
	var path []string
	var visit func(i int) error
	visit = func(i int) error {
		name := params[i].Name
		switch state[i] {
		case done:
			return nil
		case open:
			return &ParameterError{i, name, fmt.Errorf("it depends on itself: %s → %s", strings.Join(path[indexOf(path, name):], " → "), name)}
		}
		state[i] = open
		path = append(path, name)
		if q, set := overrides[name]; set {
			t.values[name] = q
		} else {
			for _, dep := range formulas[i].Names() {
				if k, ok := index[dep]; ok {
					if err := visit(k); err != nil {
						return err
					}
				}
			}
			q, err := formulas[i].Eval(t.Lookup)
			if err != nil {
				return &ParameterError{i, name, err}
			}
			t.values[name] = q
		}
		path = path[:len(path)-1]
		state[i] = done
		t.order = append(t.order, name)
		return nil
	}
	for i := range params {
		if err := visit(i); err != nil {
			return nil, err
		}
	}
	for i, p := range params {
		uses := 0
		for _, n := range formulas[i].Names() {
			if n != "pi" {
				uses++
			}
		}
		if uses == 0 {
			t.driving = append(t.driving, p.Name)
		}
	}
	return t, nil
}

func indexOf(list []string, s string) int {
	for i, x := range list {
		if x == s {
			return i
		}
	}
	return 0
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
