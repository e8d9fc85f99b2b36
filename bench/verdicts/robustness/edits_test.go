package robustness

import (
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"

	"hammerset/core/quantity"
)

// edit is a model of the reference's shape that is made in another way, and by what it is charged. Each size of the
// reference is varied three times, and a case that is not followed costs its share of the points for robustness; a
// sketch that is not held, or has something spare, costs its share of those for sketches; a rule of good practice costs
// what it is not kept by. Nothing else costs anything, since the shape is right.
type edit struct {
	exercise string
	kind     string
	words    string
	model    document
	sizes    []string // of the reference, which are not followed; all others are
	sketches []string // by name, which lose their share; all others keep it
	practice []string // the rules that are not kept
	finding  []string // kinds, of which one is found
	says     []string // what its words say, all of them
}

func (e *edit) String() string { return fmt.Sprintf("%s, %s: %s", e.exercise, e.kind, e.words) }

// document is a model document as it lies in its file.
type document map[string]any

func list(v any) []document {
	var out []document
	items, _ := v.([]any)
	for _, x := range items {
		out = append(out, x.(map[string]any))
	}
	return out
}

func (d document) steps() []document { return list(d["steps"]) }

func (d document) text(key string) string {
	s, _ := d[key].(string)
	return s
}

// one is the step, entity or constraint of an id.
func one(all []document, id string) document {
	i := slices.IndexFunc(all, func(d document) bool { return d.text("id") == id })
	return all[i]
}

func (d document) step(id string) document { return one(d.steps(), id) }

// without takes the items of these ids out of a list of a step.
func (d document) without(key string, ids ...string) {
	d[key] = slices.DeleteFunc(d[key].([]any), func(x any) bool {
		return slices.Contains(ids, document(x.(map[string]any)).text("id"))
	})
}

// with puts items into a list, each given in short: "id kind of,of value".
func (d document) with(key string, short ...string) {
	for _, s := range short {
		f := strings.SplitN(s, " ", 4)
		item := map[string]any{"id": f[0], "kind": f[1]}
		var of []any
		for _, x := range strings.Split(f[2], ",") {
			of = append(of, x)
		}
		if item["of"] = of; len(f) == 4 {
			item["value"] = f[3]
		}
		d[key] = append(d[key].([]any), item)
	}
}

// formulas visits every formula of a document with the name of the step or parameter that it stands in.
func (d document) formulas(visit func(at, formula string) string) {
	keys := []string{"value", "length", "total", "diameter", "radius", "distance", "headDiameter", "headDepth",
		"thickness", "count", "offset"}
	var walk func(at string, v any)
	walk = func(at string, v any) {
		switch v := v.(type) {
		case []any:
			for _, x := range v {
				walk(at, x)
			}
		case map[string]any:
			for k, x := range v {
				if s, ok := x.(string); ok && slices.Contains(keys, k) {
					v[k] = visit(at, s)
				} else if !ok {
					walk(at, x)
				}
			}
		}
	}
	for _, p := range list(d["parameters"]) {
		p["value"] = visit(p.text("name"), p.text("value"))
	}
	for _, s := range d.steps() {
		walk(s.text("name"), map[string]any(s))
	}
}

// uses counts the formulas that use a parameter.
func (d document) uses(name string) (n int) {
	d.formulas(func(_, f string) string {
		if quantity.Rename(f, name, "_") != f {
			n++
		}
		return f
	})
	return n
}

// typed writes a number in place of a parameter: in all formulas that use it, or in the k-th alone.
func (d document) typed(name string, k int) (where []string) {
	number := ""
	for _, p := range list(d["parameters"]) {
		if p.text("name") == name {
			number = p.text("value")
		}
	}
	n := -1
	d.formulas(func(at, f string) string {
		by := "(" + number + ")"
		if f == name {
			by = number
		}
		out := quantity.Rename(f, name, by)
		if out == f {
			return f
		}
		if n++; k >= 0 && n != k {
			return f
		}
		where = append(where, at)
		return out
	})
	return where
}

// computed tells that a parameter is worked out from others.
func computed(p document) bool {
	return regexp.MustCompile(`[A-Za-z_]\w*`).FindString(plain(p.text("value"))) != ""
}

// plain is a value without its unit.
func plain(value string) string {
	for _, unit := range []string{" mm", " in", " deg"} {
		value = strings.TrimSuffix(value, unit)
	}
	return value
}

// typedEverywhere types each driving parameter: once, in all its places.
func typedEverywhere(t *task) (out []*edit) {
	for _, p := range list(t.fresh()["parameters"]) {
		name := p.text("name")
		if computed(p) {
			continue
		}
		d := t.fresh()
		where := d.typed(name, -1)
		e := t.edit(d, "typed in all its places", "%s in %s", name, strings.Join(where, ", "))
		e.sizes, e.finding, e.says = []string{name}, []string{"parameter-still", "breaks"}, []string{name,
			plain(p.text("value"))}
		out = append(out, e)
	}
	return out
}

// typedInOnePlace types a parameter in one of several formulas that use it.
func typedInOnePlace(t *task) (out []*edit) {
	for _, p := range list(t.fresh()["parameters"]) {
		name := p.text("name")
		if n := t.fresh().uses(name); n > 1 && !computed(p) {
			for k := range n {
				d := t.fresh()
				where := d.typed(name, k)
				e := t.edit(d, "typed in one place", "%s in %s", name, where[0])
				e.sizes, e.finding, e.says = []string{name}, []string{"differs", "breaks", "half", "parameter-still"},
					[]string{name, plain(p.text("value"))}
				out = append(out, e)
			}
		}
	}
	return out
}

// typedThrough has no parameters at all: the worst that can be handed in.
func typedThrough(t *task) []*edit {
	d := t.fresh()
	var all []string
	for range 3 { // parameters that are worked out from others first come to be numbers
		for _, p := range list(d["parameters"]) {
			d.typed(p.text("name"), -1)
		}
	}
	for _, p := range list(d["parameters"]) {
		if !computed(p) {
			all = append(all, p.text("name"))
		}
	}
	d["parameters"] = []any{}
	e := t.edit(d, "everything typed", "no parameters")
	e.sizes, e.finding, e.says = t.driving(), []string{"parameter-missing"}, []string{all[0]}
	return []*edit{e}
}

// otherNames gives the parameters other names, which is no mistake.
func otherNames(t *task) []*edit {
	d := t.fresh()
	for i, p := range list(d["parameters"]) {
		from, to := p.text("name"), fmt.Sprintf("size_%c", 'a'+i)
		d.formulas(func(_, f string) string { return quantity.Rename(f, from, to) })
		p["name"] = to
	}
	return []*edit{t.edit(d, "no mistake", "other names of the parameters")}
}

// unnamed takes the names of all steps away.
func unnamed(t *task) []*edit {
	d := t.fresh()
	for _, s := range d.steps() {
		delete(s, "name")
	}
	e := t.edit(d, "good practice", "no step has a name")
	e.practice = []string{"names"}
	for _, s := range d.steps() {
		s["name"] = ""
	}
	return []*edit{e}
}

// loose takes the first constraint without a value out of each sketch that has one which holds something: what is
// drawn stays where it is, and can move.
func loose(t *task) (out []*edit) {
	for i, s := range t.fresh().steps() {
		if s.text("kind") != "sketch" || s.text("name") == "rib profile" {
			continue // that is drawn roughly, and would not stay
		}
		for _, k := range list(s["constraints"]) {
			if k.text("value") != "" || k.text("kind") == "coincident" {
				continue
			}
			d := t.fresh()
			at := d.steps()[i]
			at.without("constraints", k.text("id"))
			e := t.edit(d, "a constraint is missing", "%s of %s in %s", k.text("kind"), k["of"], s.text("name"))
			e.sketches, e.finding, e.says = []string{s.text("name")}, []string{"loose"}, []string{s.text("name"),
				"can still move"}
			e.sizes = nil
			out = append(out, e)
			break
		}
	}
	return out
}

// spare gives a length twice in each sketch that has one: at the opposite side of a rectangle, or again.
func spare(t *task) (out []*edit) {
	for i, s := range t.fresh().steps() {
		if s.text("kind") != "sketch" {
			continue
		}
		for _, k := range list(s["constraints"]) {
			if k.text("value") == "" {
				continue
			}
			d := t.fresh()
			again := map[string]any{"id": "again", "kind": k["kind"], "of": k["of"], "value": k["value"]}
			if of := k["of"].([]any); k.text("kind") == "length" && slices.ContainsFunc(list(s["entities"]),
				func(x document) bool { return x.text("id") == "l2" }) && of[0] == "l0" {
				again["of"] = []any{"l2"}
			}
			d.steps()[i]["constraints"] = append(d.steps()[i]["constraints"].([]any), again)
			e := t.edit(d, "something is given twice", "%s of %s in %s", again["kind"], again["of"], s.text("name"))
			e.sketches, e.finding, e.says = []string{s.text("name")}, []string{"spare"}, []string{s.text("name")}
			out = append(out, e)
			break
		}
	}
	return out
}

// twin gives a size a second parameter of the same value, which one of its places uses.
func twin(t *task) (out []*edit) {
	for _, p := range list(t.fresh()["parameters"]) {
		name := p.text("name")
		if n := t.fresh().uses(name); n > 1 && !computed(p) {
			d := t.fresh()
			k, where := -1, ""
			d.formulas(func(at, f string) string {
				to := quantity.Rename(f, name, name+"_too")
				if to != f {
					if k++; k == 0 {
						where = at
						return to
					}
				}
				return f
			})
			d["parameters"] = append([]any{map[string]any{"name": name + "_too", "value": p.text("value")}},
				d["parameters"].([]any)...)
			e := t.edit(d, "two parameters for one size", "%s_too in %s", name, where)
			e.sizes, e.finding, e.says = []string{name}, []string{"differs", "breaks", "half", "parameter-still"},
				[]string{name, name + "_too"}
			out = append(out, e)
		}
	}
	return out
}

// places are the points of a ring, typed one by one.
func places(count int, radius float64, unit, across, along string) (points []any, constraints []string) {
	for i := range count {
		s, c := math.Sincos(2 * math.Pi * float64(i) / float64(count))
		if math.Abs(c) < 1e-9 {
			c = 0
		}
		if math.Abs(s) < 1e-9 {
			s = 0
		}
		x, y := radius*c, radius*s
		p := fmt.Sprintf("q%d", i)
		points = append(points, map[string]any{"id": p, "kind": "point", "at": []any{x, y}})
		for kind, v := range map[string]float64{across: x, along: y} {
			switch line := map[string]string{across: "y-axis", along: "x-axis"}[kind]; {
			case v == 0:
				constraints = append(constraints, fmt.Sprintf("o%d on-curve %s,%s", i, p, line))
			default:
				constraints = append(constraints, fmt.Sprintf("%c%d %s origin,%s %.15g %s", kind[0], i, kind, p, math.Abs(v),
					unit))
			}
		}
	}
	return points, constraints
}
