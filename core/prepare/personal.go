package prepare

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/sheet"
	"hammerset/core/solid"
)

// Personal is an exercise at one student's own sizes, or why it cannot be had at these.
type Personal struct {
	Refused   string             `json:"refused,omitempty"`
	Exercise  *exercise.Exercise `json:"exercise,omitempty"`
	Reference *part.Document     `json:"reference,omitempty"`
	Prepared  *Prepared          `json:"prepared,omitempty"`
	// Values are what the sheet states, by characteristics, as reports have it: in mm, degrees or as numbers.
	Values map[string]float64 `json:"values,omitempty"`
}

// AtSizes makes an exercise at other driving sizes, given by formulas, and prepares it. It is refused where the
// reference cannot be rebuilt, has other faces, or where its sheet leaves open or shows worse what the plain one does
// not; what-ifs are formulas over these sizes, and must change something.
func AtSizes(ctx context.Context, c *check.Checker, ex *exercise.Exercise, ref check.Reference, sizes map[string]string,
	m sheet.Metrics) (*Personal, error) {
	plain, err := Exercise(ctx, c, ex, ref, m)
	if err != nil {
		return nil, err
	}
	was, _, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	doc := *ref.Document
	doc.Parameters = slices.Clone(doc.Parameters)
	for i := range doc.Parameters {
		if formula, ok := sizes[doc.Parameters[i].Name]; ok {
			doc.Parameters[i].Formula = formula
		}
	}
	own := check.Reference{Document: &doc}
	named, build, err := c.Load(ctx, own)
	if err != nil {
		return &Personal{Refused: err.Error()}, nil
	}
	if !slices.Equal(namesOf(was), namesOf(named)) {
		return &Personal{Refused: "the part has other faces at these sizes"}, nil
	}
	at, err := restated(c.Rebuilder.Kernel(), ex, was, named)
	if err != nil {
		return &Personal{Refused: err.Error()}, nil
	}
	for _, w := range at.WhatIfs {
		fault, err := whatIf(ctx, c, own, build, w)
		if err != nil {
			return nil, err
		}
		if fault == "" && !changesSomething(build.Table, w) {
			fault = "it changes nothing at these sizes"
		}
		if fault != "" {
			return &Personal{Refused: fmt.Sprintf("the what-if “%s”: %s", w.Name, fault)}, nil
		}
	}
	prepared, err := Exercise(ctx, c, at, own, m)
	if err != nil {
		return &Personal{Refused: err.Error()}, nil
	}
	if worse := worse(plain.Audit, prepared.Audit); worse != "" {
		return &Personal{Refused: worse}, nil
	}
	out := &Personal{Exercise: at, Reference: &doc, Prepared: prepared, Values: map[string]float64{}}
	geo, err := check.Described(c.Rebuilder.Kernel(), named)
	for i := range at.Characteristics {
		x := &at.Characteristics[i]
		if _, stated, err := check.Nominal(geo, at, x); err == nil && !x.Declared().Worded() {
			out.Values[x.ID] = check.Shown(x, stated.Value)
		}
	}
	return out, err
}

// namesOf are the names of all faces, sorted.
func namesOf(n *part.Named) []string {
	var out []string
	for _, names := range n.Names {
		out = append(out, strings.Join(names, " "))
	}
	slices.Sort(out)
	return out
}

// restated is an exercise on a reference of other sizes: exact places are those of that reference, and what is printed
// otherwise than it rounds stays so only where its value does.
func restated(k solid.Kernel, ex *exercise.Exercise, was, is *part.Named) (*exercise.Exercise, error) {
	before, err := check.Described(k, was)
	if err != nil {
		return nil, err
	}
	after, err := check.Described(k, is)
	if err != nil {
		return nil, err
	}
	at := *ex
	at.Characteristics = slices.Clone(ex.Characteristics)
	at.Personal = nil
	for i := range at.Characteristics {
		x := &at.Characteristics[i]
		if x.Declared().From != nil {
			if x.Exact, err = inspect.ExactPlace(after, x); err != nil {
				return nil, err
			}
		}
		if x.Stated == "" {
			continue
		}
		plain := *x
		plain.Stated = ""
		_, old, err := check.Nominal(before, ex, &plain)
		if err != nil {
			return nil, err
		}
		_, now, err := check.Nominal(after, ex, &plain)
		if err != nil {
			return nil, err
		}
		if old.Text != now.Text {
			x.Stated = ""
		}
	}
	return &at, nil
}

// changesSomething tells whether a what-if makes another part.
func changesSomething(table *quantity.Table, w exercise.WhatIf) bool {
	for name, formula := range w.Set {
		was, _ := table.Lookup(name)
		if v, err := table.Eval(formula, was.Dim); err == nil && v != was.Value {
			return true
		}
	}
	return false
}

// worse says what a sheet leaves open, or shows ill, more often than the plain one; nothing where there is nothing.
func worse(plain, own *Audited) string {
	count := func(a *Audited) map[string]int {
		out := map[string]int{}
		for _, f := range a.Findings {
			if f.Open() || f.Kind == "crowded" {
				out[f.Kind]++
			}
		}
		return out
	}
	before, after := count(plain), count(own)
	for _, kind := range slices.Sorted(maps.Keys(after)) {
		if after[kind] > before[kind] {
			for _, f := range own.Findings {
				if f.Kind == kind && !slices.ContainsFunc(plain.Findings, func(p Finding) bool { return p.What == f.What }) {
					return "the sheet at these sizes: " + f.What
				}
			}
			return "the sheet at these sizes is worse than the plain one"
		}
	}
	return ""
}
