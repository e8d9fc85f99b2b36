package part

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Mistake is something that can be done wrong in a step: what it is and why it is made, in words,
// and the alterations that make it.
type Mistake struct {
	Kind, Step          string
	What, Cause, Remedy string
	Alterations         []Alteration
}

// Mistakes lists what can be done wrong in the steps of a model. halves are the motions by half a
// pitch of its patterns, by step.
//
// Each kind of step lists its own; those that every step shares, being forgotten
// and having wrong sizes, are added here.
func (d *Document) Mistakes(table *quantity.Table, halves map[string]solid.Transform) []Mistake {
	l := &mistakes{document: d, table: table, halves: halves}
	for i := range d.Steps {
		s := &d.Steps[i]
		l.forgotten(s)
		if m, ok := s.Do.(mistaken); ok {
			m.mistakes(l, s)
		}
		kind := s.Declared()
		l.made = l.made || kind != nil && kind.First
		for _, z := range s.Sizes() {
			if !z.Driven {
				l.size(s, z)
			}
		}
	}
	return l.out
}

// mistaken is an operation in which more can be done wrong than to forget it and to take its sizes
// for others.
type mistaken interface {
	mistakes(l *mistakes, s *Step)
}

// mistakes collects what can be done wrong in the steps of a document.
type mistakes struct {
	document *Document
	table    *quantity.Table
	halves   map[string]solid.Transform
	made     bool // a step before has made material
	out      []Mistake
}

// add lists a mistake as the alterations of the document that make it; those
// without a step are of the step itself.
func (l *mistakes) add(kind string, s *Step, what, cause, remedy string, list ...Alteration) {
	for i := range list {
		if list[i].Step == "" {
			list[i].Step = s.ID
		}
	}
	l.out = append(l.out, Mistake{Kind: kind, Step: s.ID, What: what, Cause: cause, Remedy: remedy, Alterations: list})
}

// set is an alteration that puts a value where something else was.
func set(path string, value any) Alteration {
	return Alteration{Do: AlterSet, Path: path, Text: encoded(value)}
}

// Set is the alteration of a step that puts a value where something else was.
func Set(step, path string, value any) Alteration {
	a := set(path, value)
	a.Step = step
	return a
}

// Become is the alteration that a step is of another kind, with fields of its own.
func Become(step, kind string, do Operation) Alteration {
	return Alteration{Step: step, Do: AlterKind, Path: kind, Text: encoded(do)}
}

// Moved is the alteration that the material of a step is somewhere else.
func Moved(step string, by solid.Transform) Alteration { return Set(step, "moved", by) }

// Ended is the alteration that the material of a step ends at a plane; nothing of it is on the side to which
// the normal points.
func Ended(step string, at, normal solid.Vec) Alteration {
	return Set(step, "clipped", Clip{at, normal})
}

// forgotten: a feature is missing, with what stands on it.
//
// What stands on it goes too, as no one can model a hole in a boss that is not
// there.
func (l *mistakes) forgotten(s *Step) {
	if kind := s.Declared(); !l.made || kind == nil || !kind.Feature {
		return
	}
	list := []Alteration{set("off", true)}
	for _, id := range l.document.Dependents(s.ID) {
		off := set("off", true)
		off.Step = id
		list = append(list, off)
	}
	l.add("missing", s, s.Title()+" is missing", "the feature was forgotten", "add it as the sheet shows it", list...)
}

// places: one of several members of a list was forgotten.
//
// One place alone has no others that were made: it is the whole step that is
// missing.
func (l *mistakes) places(s *Step, path string, n int) {
	for k := range n {
		if n > 1 {
			l.add("one-place", s, "one place of "+s.Title()+" is missing", "a place of the note was forgotten",
				"the note covers all the places; add this one",
				Alteration{Do: AlterLeave, Path: fmt.Sprintf("%s.%d", path, k)})
		}
	}
}

// halfPitch: a ring or row begins beside where the sheet has it.
func (l *mistakes) halfPitch(s *Step, list ...Alteration) {
	l.add("half-pitch", s, s.Title()+" begins half a pitch off", "the first one was put beside where the sheet has it",
		"look where the sheet has the first one", list...)
}

// through: a cut goes through that has a depth.
func (l *mistakes) through(s *Step, e *Extent, cause string) {
	l.add("through", s, s.Title()+" goes through", cause, "give the depth that the sheet states",
		set("extent", &Extent{Kind: "through", Start: e.Start, Draft: e.Draft}))
}

// size: a size was doubled or halved, an angle given from another side, a count wrong.
//
// Sizes are altered as formulas, with what was there in parentheses, so that
// everything that hangs on a parameter goes on to hang on it.
func (l *mistakes) size(s *Step, z Size) {
	change := func(kind, text, cause, remedy string) {
		shown := z.Role
		if z.Role == "total" || z.Role == "length along" {
			shown = "size"
		}
		is := map[string]string{"double": "twice as large", "half": "half as large", "complement": "the complement",
			"supplement": "the supplement"}[kind]
		l.add(kind, s, fmt.Sprintf("the %s of %s is %s", shown, s.Title(), is), cause, remedy,
			Alteration{Do: AlterSize, Path: z.Path, Text: text})
	}
	f := "(" + z.Text + ")"
	switch z.Role {
	case "diameter", "head diameter":
		change("double", "2*"+f, "the diameter was doubled: it was taken for a radius",
			"give the diameter that the sheet states")
		change("half", f+"/2", "the radius was typed where the diameter was asked for",
			"give the diameter that the sheet states")
	case "radius":
		change("double", "2*"+f, "the diameter was typed where the radius was asked for", "a radius is half of the diameter")
		change("half", f+"/2", "the radius was halved once too often", "give the radius that the sheet states")
	case "total", "length along", "thickness":
		change("double", "2*"+f, "the total was given on each side", "the total is what the sheet states")
		change("half", f+"/2", "one side was given as the total", "the total is what the sheet states")
	case "count":
		if v, err := l.table.Eval(z.Text, quantity.Number); err == nil {
			l.count(s, z, int(math.Round(v)))
		}
	}
	if z.Dim == quantity.Angle {
		change("complement", "90 deg - "+f, "the angle was given from the other leg (its complement)",
			"look from which line the sheet gives the angle")
		change("supplement", "180 deg - "+f, "the angle was given on the other side of the line (its supplement)",
			"look on which side the sheet gives the angle")
	}
}

// count: a pattern has another number of instances: a few more or less, twice as many, or half.
func (l *mistakes) count(s *Step, z Size, n int) {
	for i, other := range []int{n + 1, n - 1, n + 2, n - 2, 2 * n, n / 2} {
		if other < 2 || i > 3 && (other > n-3 && other < n+3 || i == 5 && n%2 > 0) {
			continue
		}
		off := "the pattern has " + spelled(max(other-n, n-other)) + " too many"
		if other < n {
			off = strings.TrimSuffix(off, "many") + "few"
		}
		l.add("count", s, fmt.Sprintf("%s has %s, and the sheet shows %d", s.Title(),
			quantity.Count(other, "instance", "instances"), n), off, "count the instances on the sheet",
			Alteration{Do: AlterSize, Path: z.Path, Text: fmt.Sprintf("(%s)%+d", z.Text, other-n)})
	}
}

// spelled writes a small number as a word.
func spelled(n int) string {
	if words := []string{"none", "one", "two", "three"}; n < len(words) {
		return words[n]
	}
	return fmt.Sprint(n)
}

// An extrusion runs the other way, or is a solid of its own; a length is given about the plane in
// place of to one side, or the other way about; a cut goes through.
func (do *Extrude) mistakes(l *mistakes, s *Step) {
	e := do.Extent
	if l.made && (e == nil || e.Kind != "symmetric") {
		l.add("direction", s, s.Title()+" runs the other way", "the material was grown, or cut, in the wrong direction",
			"turn its direction round", set("reverse", !do.Reverse))
	}
	if l.made && (do.Result == "" || do.Result == "add") {
		l.add("not-united", s, s.Title()+" is a solid of its own", "bodies that only touch were never united",
			"unite them, so that the part is one solid", set("result", "new"))
	}
	switch {
	case e == nil:
	case e.Kind == "one-side":
		l.add("about-plane", s, s.Title()+" lies on both sides of its plane",
			"the length was given about the plane in place of to one side", "grow it to one side",
			set("extent", &Extent{Kind: "symmetric", Total: e.Length, Start: e.Start, Draft: e.Draft}))
		if do.Result == "cut" {
			l.through(s, e, "the cut is too deep and goes through the wall behind")
		}
	case e.Kind == "symmetric":
		l.add("one-side", s, s.Title()+" lies on one side of its plane",
			"the total was grown to one side in place of about the plane", "grow it about the plane",
			set("extent", &Extent{Kind: "one-side", Length: e.Total, Start: e.Start, Draft: e.Draft}))
	}
}

// A ring of holes begins elsewhere, one of several is missing, another thread was chosen, the head is
// missing or of another form, or the hole goes through.
func (do *Hole) mistakes(l *mistakes, s *Step) {
	if do.Place != nil && do.Place.Circle != nil {
		start := do.Place.Circle.Start
		if start == "" {
			start = "0 deg"
		}
		l.halfPitch(s, set("place.circle.start", "("+start+") + 180 deg/("+do.Place.Circle.Count+")"))
	}
	l.places(s, "at", len(do.At))
	switch plain := set("form", "plain"); do.Form {
	case "counterbore", "spotface":
		l.add("missing", s, "the "+do.Form+" of "+s.Title()+" is missing", "the hole was made plain",
			"give the hole the head that the sheet shows", plain)
		l.add("form", s, s.Title()+" has a countersink",
			"the symbols of countersink and counterbore were taken for one another",
			"give the hole the head that the sheet shows", set("form", "countersink"), set("headAngle", "90 deg"))
	case "countersink":
		l.add("missing", s, "the countersink of "+s.Title()+" is missing", "the hole was made plain",
			"give the hole the head that the sheet shows", plain)
	}
	for _, other := range neighbours(do.Thread) {
		l.add("thread", s, s.Title()+" is for "+other, "another thread was chosen", "give the thread that the sheet states",
			set("thread", other))
	}
	if do.Extent != nil && do.Extent.Kind == "one-side" {
		l.through(s, do.Extent, "the hole is too deep and goes through the wall behind")
	}
}

// mistakes: a place of a slot is forgotten like one of a hole.
func (do *Slot) mistakes(l *mistakes, s *Step) { l.places(s, "at", len(do.At)) }

// neighbours are the next smaller and the next larger thread of the table.
//
// A slip of the eye goes one row up or down in the table.
func neighbours(thread string) []string {
	all := standards.ThreadNames()
	i := slices.Index(all, thread)
	var out []string
	for _, k := range []int{i - 1, i + 1} {
		if i >= 0 && k >= 0 && k < len(all) {
			out = append(out, all[k])
		}
	}
	return out
}

// One of several edges was forgotten, or all of a face were taken.
func (do *Broken) mistakes(l *mistakes, s *Step) {
	l.places(s, "edges", len(do.Edges))
	for _, face := range do.beside() {
		l.add("too-many", s, s.Title()+" is on too many edges", "all edges of a face were taken",
			"look which edges the sheet shows broken, and take no others",
			Alteration{Do: AlterAppend, Path: "edges", Text: encoded(EdgeRef{Around: face})})
	}
}

// beside lists the faces beside the edges that are broken, each once, six at most.
func (do *Broken) beside() []string {
	var out []string
	for _, e := range do.Edges {
		if e.Between == nil {
			continue
		}
		for _, f := range e.Between {
			if !slices.Contains(out, f) && len(out) < 6 {
				out = append(out, f)
			}
		}
	}
	return out
}

// One instance of a row or ring is missing; or it begins half a pitch off: all that it repeats stands
// elsewhere.
func (do *Pattern) mistakes(l *mistakes, s *Step) {
	for _, z := range s.Sizes() {
		v, err := l.table.Eval(z.Text, quantity.Number)
		if z.Role != "count" || err != nil || len(do.Skip) > 0 {
			continue
		}
		n := int(math.Round(v))
		leave := func(list ...Alteration) {
			l.add("one-place", s, "one instance of "+s.Title()+" is missing", "a place of the note was forgotten",
				"the note covers all the places; add this one", list...)
		}
		for k := 2; k <= min(n, mostLeftOut); k++ {
			leave(set("skip", []int{k}))
		}
		if half, ok := l.halves[s.ID]; ok && n > 2 {
			// The first is missing where all stand one further and the last is left out.
			list := []Alteration{set("skip", []int{n})}
			for _, id := range l.document.originals(do.Of) {
				list = append(list, Moved(id, half.Then(half)))
			}
			leave(list...)
		}
	}
	half, ok := l.halves[s.ID]
	if !ok || len(do.Of) == 0 {
		return
	}
	var list []Alteration
	for _, id := range l.document.originals(do.Of) {
		list = append(list, Moved(id, half))
	}
	l.halfPitch(s, list...)
}

// mostLeftOut bounds the instances of a pattern of which each is left out for itself.
const mostLeftOut = 12

// originals lists steps that are repeated, with those that patterns among them repeat.
//
// A pattern of a pattern moves what the inner one repeats.
func (d *Document) originals(of []string) []string {
	var out []string
	for _, id := range of {
		i, err := d.index(id)
		if err != nil || slices.Contains(out, id) {
			continue
		}
		out = append(out, id)
		out = append(out, d.originals(d.Steps[i].Repeated())...)
	}
	return out
}

// encoded writes plain data as JSON.
//
// Only plain structs come here, which have no value that JSON has not.
func encoded(v any) string {
	b, err := json.Marshal(v)
	if err != nil {
		panic("plain data cannot be encoded: " + err.Error()) // cannot happen
	}
	return string(b)
}
