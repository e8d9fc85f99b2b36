package part

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"hammerset/core/quantity"
)

// Edits of the list of steps. Each keeps the rule that a step builds only on
// steps before it, and refuses what would break it with the names of both;
// nothing is removed or moved that the person has not asked for.

// Depends gives, for every step, the steps of the document that it names, in order.
//
// References to steps that are not there are left out: they are the step's
// mistake, and told when it is run.
func (d *Document) Depends() map[string][]string {
	known := map[string]bool{}
	for i := range d.Steps {
		known[d.Steps[i].ID] = true
	}
	out := map[string][]string{}
	for i := range d.Steps {
		out[d.Steps[i].ID] = slices.DeleteFunc(d.Steps[i].Needs(), func(id string) bool {
			return !known[id] || id == d.Steps[i].ID
		})
	}
	return out
}

// Dependents lists the steps that stand on any of the given ones, directly or by
// way of others, in order.
//
// Steps come in order and build on earlier ones only, so that one pass finds all
// that hang on others that hang on these.
func (d *Document) Dependents(ids ...string) []string {
	needs := d.Depends()
	hit := map[string]bool{}
	for _, id := range ids {
		hit[id] = true
	}
	var out []string
	for i := range d.Steps {
		id := d.Steps[i].ID
		if !hit[id] && slices.ContainsFunc(needs[id], func(n string) bool { return hit[n] }) {
			hit[id] = true
			out = append(out, id)
		}
	}
	return out
}

// index finds a step by its id.
func (d *Document) index(id string) (int, error) {
	i := slices.IndexFunc(d.Steps, func(s Step) bool { return s.ID == id })
	if i < 0 {
		return 0, &DocumentError{"/steps", fmt.Sprintf("there is no step %q", id)}
	}
	return i, nil
}

// Move puts a step at another place in the order. It must stay behind what it
// needs and before what needs it; the error says which step is in the way.
//
// A place beyond the end is the end.
func (d *Document) Move(id string, to int) error {
	from, err := d.index(id)
	if err != nil {
		return err
	}
	to = max(0, min(to, len(d.Steps)-1))
	needs := d.Depends()
	for i := to; i < from; i++ {
		if slices.Contains(needs[id], d.Steps[i].ID) {
			return &DocumentError{fmt.Sprintf("/steps/%d", from), fmt.Sprintf("%s cannot come before %s, which it builds on",
				d.Steps[from].Title(), d.Steps[i].Title())}
		}
	}
	for i := from + 1; i <= to; i++ {
		if slices.Contains(needs[d.Steps[i].ID], id) {
			return &DocumentError{fmt.Sprintf("/steps/%d", from), fmt.Sprintf("%s cannot come after %s, which builds on it",
				d.Steps[from].Title(), d.Steps[i].Title())}
		}
	}
	s := d.Steps[from]
	d.Steps = slices.Insert(slices.Delete(slices.Clone(d.Steps), from, from+1), to, s)
	return nil
}

// NeededError is the error of taking away a step that others build on, which are named.
type NeededError struct{ By []string }

func (e *NeededError) Error() string { return "these steps build on it: " + strings.Join(e.By, ", ") }

// Remove takes a step away. What stands on it goes along where that is wanted; else
// it is a NeededError.
//
// With along, everything that builds on the step goes too, in one edit that undo
// takes back whole.
func (d *Document) Remove(id string, along bool) ([]string, error) {
	if _, err := d.index(id); err != nil {
		return nil, err
	}
	gone := d.Dependents(id)
	if len(gone) > 0 && !along {
		var names []string
		for _, g := range gone {
			i, err := d.index(g)
			if err != nil {
				return nil, err
			}
			names = append(names, d.Steps[i].Title())
		}
		return nil, &NeededError{names}
	}
	gone = append(gone, id)
	d.Steps = slices.DeleteFunc(slices.Clone(d.Steps), func(s Step) bool { return slices.Contains(gone, s.ID) })
	return gone, nil
}

// RenameParameter gives a parameter another name, in its table and in every formula
// of the document.
//
// Names in formulas are changed as names, and not as text: d in "d + depth" is
// one of two.
func (d *Document) RenameParameter(from, to string) error {
	if err := quantity.CheckName(to); err != nil {
		return &DocumentError{"/parameters", err.Error()}
	}
	found := false
	for _, p := range d.Parameters {
		if p.Name == to && from != to {
			return &DocumentError{"/parameters", fmt.Sprintf("the name %q is taken", to)}
		}
		found = found || p.Name == from
	}
	if !found {
		return &DocumentError{"/parameters", fmt.Sprintf("there is no parameter %q", from)}
	}
	change := func(f *string) { *f = quantity.Rename(*f, from, to) }
	for i := range d.Parameters {
		p := &d.Parameters[i]
		if p.Name == from {
			p.Name = to
		}
		for _, f := range []*string{&p.Formula, &p.Least, &p.Most} {
			change(f)
		}
	}
	for i := range d.Steps {
		d.Steps[i].visit(&visitor{needs: func(string) {}, size: func(_ Size, f *string) { change(f) }})
	}
	return nil
}

// Users lists what uses a parameter: other parameters, then steps.
//
// A formula that cannot be read uses nothing: it is wrong, and told where it
// stands.
func (d *Document) Users(name string) []string {
	var out []string
	uses := func(f string) bool {
		p, err := quantity.Parse(f)
		return f != "" && err == nil && slices.Contains(p.Names(), name)
	}
	for _, p := range d.Parameters {
		if uses(p.Formula) {
			out = append(out, p.Name)
		}
	}
	for i := range d.Steps {
		if slices.ContainsFunc(d.Steps[i].Formulas(), uses) {
			out = append(out, d.Steps[i].Title())
		}
	}
	return out
}

// Fresh gives an id that no step has yet, with a letter for its kind.
//
// A number that was used and removed comes back, which is why references to what
// is gone are cleared on removal.
func (d *Document) Fresh(kind string) string {
	letter := "z"
	if k := Of(kind); k != nil {
		letter = k.Letter
	}
	for n := 1; ; n++ {
		id := fmt.Sprintf("%s%d", letter, n)
		if _, err := d.index(id); err != nil {
			return id
		}
	}
}

// taker is an operation that takes a sketch: for the lines that it has, which may end in the open,
// or for its regions.
type taker interface {
	takes(sketch string) (lines, regions bool)
}

// takes tells what a step takes of a sketch: its lines (a wall along the curves,
// a path) or its regions. It decides whether an open sketch is a fault.
//
// A wall needs the lines only. Regions that are not chosen are all of them, and
// a sketch may be open then if it is for something else as well.
func (do *Drawn) takes(sketch string) (lines, regions bool) {
	return do.Sketch == sketch && do.Wall != nil, do.Sketch == sketch && do.Wall == nil && do.Regions != nil
}

// takes tells the path, which is lines, from the profile, which is regions.
func (do *Sweep) takes(sketch string) (lines, regions bool) {
	lines, regions = do.Drawn.takes(sketch)
	return lines || do.Path == sketch, regions && do.Path != sketch
}

// takes: a rib follows lines.
func (do *Rib) takes(sketch string) (lines, regions bool) { return do.Sketch == sketch, false }

// takes: a slot follows lines.
func (do *Slot) takes(sketch string) (lines, regions bool) { return do.Sketch == sketch, false }

// DrawnForLines tells whether a sketch is used for its lines alone, which may end in the open: as
// a path, the line of a rib or slot, or the middle of a thin wall.
//
// An open end is a mistake in a profile and no mistake in a path: what the
// sketch is for decides whether the review tells of it.
func (d *Document) DrawnForLines(sketch string) bool {
	used := false
	for i := range d.Steps {
		t, ok := d.Steps[i].Do.(taker)
		if !ok {
			continue
		}
		lines, regions := t.takes(sketch)
		if regions {
			return false
		}
		used = used || lines
	}
	return used
}

// Change is one difference between two states of a model, in words.
type Change struct {
	Step string `json:"step,omitempty"` // empty for parameters and the model itself
	What string `json:"what"`
}

// Changes lists what differs between two documents.
//
// It is told per step and in words, because a list of changed fields says
// nothing to one who looks what a student did between two attempts.
func Changes(before, after *Document) []Change {
	out := []Change{}
	say := func(step, format string, args ...any) {
		out = append(out, Change{step, fmt.Sprintf(format, args...)})
	}
	if before.Name != after.Name {
		say("", "renamed from %s to %s", before.Name, after.Name)
	}
	if before.Unit != after.Unit {
		say("", "unit changed from %s to %s", before.Unit, after.Unit)
	}
	was := map[string]quantity.Parameter{}
	for _, p := range before.Parameters {
		was[p.Name] = p
	}
	for _, p := range after.Parameters {
		old, ok := was[p.Name]
		delete(was, p.Name)
		switch {
		case !ok:
			say("", "parameter %s = %s added", p.Name, p.Formula)
		case old.Formula != p.Formula:
			say("", "parameter %s changed from %s to %s", p.Name, old.Formula, p.Formula)
		case old != p:
			say("", "note or range of parameter %s changed", p.Name)
		}
	}
	for _, p := range before.Parameters {
		if _, ok := was[p.Name]; ok {
			say("", "parameter %s = %s removed", p.Name, p.Formula)
		}
	}
	place := map[string]int{}
	for i := range before.Steps {
		place[before.Steps[i].ID] = i
	}
	last := -1
	for i := range after.Steps {
		s := &after.Steps[i]
		at, ok := place[s.ID]
		if !ok {
			say(s.ID, "%s added", kindAndTitle(s))
			continue
		}
		if at < last {
			say(s.ID, "%s moved to place %d", s.Title(), i+1)
		}
		last = max(last, at)
		delete(place, s.ID)
		for _, w := range stepChanges(&before.Steps[at], s) {
			say(s.ID, "%s: %s", s.Title(), w)
		}
	}
	for i := range before.Steps {
		if _, ok := place[before.Steps[i].ID]; ok {
			say(before.Steps[i].ID, "%s removed", kindAndTitle(&before.Steps[i]))
		}
	}
	if a, b := encoded(before.Solids), encoded(after.Solids); a != b {
		say("", "names or materials of solids changed")
	}
	return out
}

// kindAndTitle calls a step by what it is as well, where its name does not.
func kindAndTitle(s *Step) string {
	if s.Name == "" {
		return s.Title()
	}
	return strings.ReplaceAll(s.Kind, "-", " ") + " " + s.Name
}

// stepChanges compares two states of a step field by field; of a sketch it counts.
//
// Steps are compared as they are stored, field by field: a kind of step that
// comes later needs nothing here.
func stepChanges(a, b *Step) []string {
	var out []string
	fields := func(s *Step) map[string]json.RawMessage {
		m := map[string]json.RawMessage{}
		if err := json.Unmarshal([]byte(encoded(s)), &m); err != nil {
			panic("a step cannot be decoded: " + err.Error())
		}
		return m
	}
	x, y := fields(a), fields(b)
	var keys []string
	for k := range x {
		keys = append(keys, k)
	}
	for k := range y {
		if !slices.Contains(keys, k) {
			keys = append(keys, k)
		}
	}
	slices.Sort(keys)
	for _, k := range keys {
		if string(x[k]) == string(y[k]) {
			continue
		}
		switch k {
		case "entities":
			out = append(out, fmt.Sprintf("geometry changed (%d entities, %d before)", len(b.Sketched().Entities),
				len(a.Sketched().Entities)))
		case "constraints":
			out = append(out, constraintChanges(a.Sketched(), b.Sketched())...)
		case "data":
			out = append(out, "another file")
		case "off":
			out = append(out, map[bool]string{true: "turned off", false: "turned on"}[b.Off])
		default:
			out = append(out, fmt.Sprintf("%s %s, was %s", k, shown(y[k]), shown(x[k])))
		}
	}
	return out
}

// constraintChanges compares the constraints of two states of a sketch. They are
// matched by their ids, which an edit keeps; sizes that changed are told with
// both values, all else is counted, since nobody reads a list of forty
// constraints.
//
// Sizes are told one by one and constraints by number: a size is what a student
// remembers.
func constraintChanges(a, b *Sketch) []string {
	var out []string
	was := map[string]string{}
	for _, k := range a.Constraints {
		was[k.ID] = k.Value
	}
	added, changed := 0, []string{}
	for _, k := range b.Constraints {
		v, ok := was[k.ID]
		delete(was, k.ID)
		if !ok {
			added++
		} else if v != k.Value {
			changed = append(changed, fmt.Sprintf("%s %s, was %s", k.Kind, k.Value, v))
		}
	}
	if added > 0 {
		out = append(out, fmt.Sprintf("%d constraints or sizes added", added))
	}
	if len(was) > 0 {
		out = append(out, fmt.Sprintf("%d constraints or sizes removed", len(was)))
	}
	if len(changed) > 0 {
		out = append(out, "size "+strings.Join(changed, "; "))
	}
	if len(out) == 0 {
		out = append(out, "constraints changed")
	}
	return out
}

// shown is a field's value for reading.
func shown(raw json.RawMessage) string {
	if raw == nil {
		return "nothing"
	}
	var s string
	if json.Unmarshal(raw, &s) == nil {
		return s
	}
	t := strings.NewReplacer(`"`, "", "{", "", "}", "", "[", "", "]", "", ":", " ", ",", ", ").Replace(string(raw))
	if len(t) > 80 {
		t = t[:77] + "…"
	}
	return t
}
