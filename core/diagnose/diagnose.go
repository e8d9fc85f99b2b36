// Package diagnose puts into words what a check found: where, what, what is
// likely behind it and what to do. It uses nothing that the sheet does not
// state.
package diagnose

import (
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"

	"hammerset/core/characteristic"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// Findings are what a student reads. Each says where, what, why and what to do,
// claims no more than was found ("certain", "likely", "possible"), and tells
// nothing that the sheet does not state: the reference stays unknown.

// Findings gives the findings of a report, sorted by what to put right first.
//
// Identifiers follow the order of urgency: f1 is what to put right first.
func Findings(r *report.Report) []report.Finding {
	d := &doctor{r: r}
	d.another()
	d.whole()
	d.steps()
	if r.Another != "" { // what differs from another part is of no use to anybody
		d.sketches()
	} else {
		d.causes()
		d.characteristics()
		d.sketches()
		d.sweep()
		d.whatIfs()
	}
	for i := range d.out {
		d.out[i].ID = fmt.Sprintf("f%d", i+1)
	}
	return append([]report.Finding{}, d.out...)
}

// doctor collects findings; rank holds the urgency of each, lowest first.
type doctor struct {
	r      *report.Report
	out    []report.Finding
	rank   []int
	solids bool // their number is told
}

// add puts a finding behind those of its rank. The rank is the order in which a
// student should put things right: what makes all else wrong (the unit, a mirror
// image) comes before sizes, and advice comes last. The same finding is told
// once.
func (d *doctor) add(rank int, f report.Finding) {
	if slices.ContainsFunc(d.out, func(x report.Finding) bool { return reflect.DeepEqual(x, f) }) {
		return // the two ends of one line say the same
	}
	at := len(d.out)
	for at > 0 && d.rank[at-1] > rank {
		at--
	}
	d.out = append(d.out[:at], append([]report.Finding{f}, d.out[at:]...)...)
	d.rank = append(d.rank[:at], append([]int{rank}, d.rank[at:]...)...)
}

// another tells that the file may be that of another exercise: hardly anything that the sheet states is there,
// and no mistake explains it.
func (d *doctor) another() {
	remedy := "look whether this is the model of this sheet, and hand in that one"
	if d.r.Another != "" {
		d.add(0, report.Finding{Kind: "another-part", Where: "the whole part",
			What:   "it has the volume, the surface area and the moments of inertia of another exercise's part",
			Cause:  fmt.Sprintf("it is the file of the exercise %q", d.r.Another),
			Remedy: remedy, Sure: "likely"})
		return
	}
	asked, right, lost := Placed(d.r.Characteristics)
	pieces := slices.ContainsFunc(d.r.Whole, func(f report.Figure) bool {
		return f.ID == "solids" && f.Verdict != report.In
	})
	if d.r.Explained || d.r.Scale != nil || pieces || !Foreign(asked, right) {
		return // in pieces, or in another unit, hardly anything can be found
	}
	what := fmt.Sprintf("of the %d sizes on the sheet %d are right, and for %d the model has nothing", asked, right, lost)
	d.add(0, report.Finding{Kind: "another-part", Where: "the whole part", What: what,
		Cause:  "it may be the file of another exercise",
		Remedy: remedy, Sure: "possible"})
}

// whole tells what is wrong with all of the part at once. A wrong unit or a
// mirror image is told alone and for certain, because every dimension would be
// wrong by it; a pose that was not asked for is a hint.
//
// A pose that was not asked for costs nothing, and is told last.
func (d *doctor) whole() {
	r := d.r
	if s := r.Scale; s != nil {
		d.add(0, report.Finding{Kind: "unit", Where: "the whole part", What: s.Words, Cause: "the unit of the model was " +
			"not the sheet's", Remedy: fmt.Sprintf("set the unit to %s before the first sketch and give the sizes again",
			unitName(r.Unit)), Sure: "certain"})
	}
	if p := r.Pose; p != nil {
		if p.Mirrored {
			d.add(0, report.Finding{Kind: "mirror", Where: "the whole part", What: "only the mirror image of the model fits " +
				"the sheet", Cause: "a view was read from the wrong side",
				Remedy: "check how the views are arranged against the projection symbol, then mirror the model", Sure: "certain"})
		} else if !p.AsModeled && r.Another == "" {
			d.add(8, report.Finding{Kind: "pose", Where: "the whole part", What: p.Words, Cause: "modelled on another plane " +
				"or away from the origin", Remedy: "the sizes are right; next time, choose the sketch plane that gives the " +
				"pictorial view of the sheet", Sure: "certain"})
		}
	}
	for _, f := range r.Whole {
		if f.ID == "solids" && f.Verdict != report.In {
			x := report.Finding{Kind: "solids", Where: "the whole part", What: "it consists of " + f.Text,
				Remedy: "unite them, so that the part is one solid", Sure: "certain"}
			d.solids = true
			for _, c := range r.Characteristics {
				if c.Kind == "solids" && c.Verdict == report.Out {
					x.Characteristic, x.Balloon, x.Where = c.ID, c.Balloon, c.Label
				}
			}
			for _, n := range r.Attempt.Notes {
				switch n.Kind {
				case "copy", "left-over", "touch", "overlap", "apart":
					x.What, x.Remedy = x.What+"; "+n.What, n.Remedy
				}
			}
			d.add(1, x)
		}
	}
	for _, f := range r.Whole {
		if f.ID == "places" && f.Verdict != report.In && len(r.Causes) == 0 {
			d.add(2, report.Finding{Kind: "places", Where: "the whole part", What: "every dimension agrees, yet the shape " +
				"differs: of its faces, " + f.Text, Cause: "a feature stands on another side, or a ring of holes begins elsewhere",
				Remedy: "compare the model with every view of the sheet and check where each feature is", Sure: "certain"})
		}
	}
	for _, n := range r.Attempt.Notes {
		switch n.Kind {
		case "mesh":
			d.add(0, report.Finding{Kind: n.Kind, Where: "the file", What: n.What, Remedy: n.Remedy, Sure: "certain"})
		case "gap", "surfaces", "curves", "stated":
			d.add(6, report.Finding{Kind: n.Kind, Where: "the file", What: n.What, Remedy: n.Remedy, Sure: "certain"})
		}
	}
	if r.Attempt.Shells > 0 {
		d.add(1, report.Finding{Kind: "shells", Where: "the file", What: "it holds " + quantity.Count(r.Attempt.Shells,
			"open surface", "open surfaces") + " beside the solid", Remedy: "export the solid alone", Sure: "certain"})
	}
}

// unitName is a unit written out.
func unitName(u string) string {
	return map[string]string{"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches"}[u]
}

// steps tells of steps that failed, before everything that may come of them, and
// of those that warn.
//
// A warning has a rank behind the sizes: the part may be right in spite of it.
func (d *doctor) steps() {
	for _, s := range d.r.Steps {
		rank, kind := 1, "step"
		if !s.Failed {
			rank, kind = 6, "step-warning"
		}
		d.add(rank, report.Finding{Kind: kind, Step: s.ID, Where: "step " + label(s.ID, s.Name), What: s.Message,
			Remedy: "open this step and put it right", Sure: "certain"})
	}
}

// label is what something is called, by its name or else its id.
func label(id, name string) string {
	if name == "" {
		return id
	}
	return name
}

// same tells whether two measures agree to a millionth of a millimetre or to the
// last figure that a reader would type.
func same(a, b float64) bool { return characteristic.Same(a, b) }

// causes puts into findings what is behind the attempt and shows at no characteristic
// by itself. The others are told at theirs, below.
//
// Where causes do not explain all it is said so: a student who corrects what is
// named should not think that the part is right then.
func (d *doctor) causes() {
	for i := range d.r.Causes {
		c := &d.r.Causes[i]
		if c.Characteristic != "" {
			continue
		}
		f := report.Finding{Kind: "mistake", Where: "the part", What: c.What + d.hang(c), Cause: c.Cause,
			Remedy: c.Remedy, Sure: c.Sure}
		if len(c.Also) > 0 {
			f.Balloon = c.Also[0]
			for k := range d.r.Characteristics {
				if x := &d.r.Characteristics[k]; x.Balloon == f.Balloon {
					f.Characteristic, f.Where = x.ID, x.Label
				}
			}
		}
		d.add(2, f)
	}
	d.rest()
}

// rest tells that what was found does not explain the part, and where it differs beside that.
func (d *doctor) rest() {
	if d.r.Explained || !d.r.Sought && len(d.r.Causes) == 0 || d.r.Scale != nil || d.right() {
		return
	}
	f := report.Finding{Where: "the part"}
	where := d.differs()
	if d.r.Difference != nil {
		f.Faces = d.r.Difference.Faces
	}
	switch {
	case len(d.r.Causes) == 0 && !d.told():
		f.Kind, f.What, f.Sure = "unknown", "every dimension agrees, yet the part is another one"+where, "possible"
		f.Remedy = "compare it with every view of the sheet, starting at the first step"
		d.add(2, f)
	case d.foreign(): // everything differs
	case len(d.r.Causes) > 0 || where != "":
		f.Kind, f.What, f.Sure = "unknown-rest", "what was found does not explain all of the difference"+where, "likely"
		f.Remedy = "correct what is named here, then compare the part with every view of the sheet"
		d.add(4, f)
	}
}

// foreign tells that the part was taken for that of another exercise.
func (d *doctor) foreign() bool {
	return slices.ContainsFunc(d.out, func(f report.Finding) bool { return f.Kind == "another-part" })
}

// right tells whether everything that counts is in: then there is nothing to say.
func (d *doctor) right() bool {
	for i := range d.r.Characteristics {
		if v := d.r.Characteristics[i].Verdict; v != report.In && v != report.Ask {
			return false
		}
	}
	for _, f := range d.r.Whole {
		if !f.Extra && f.Verdict == report.Out {
			return false
		}
	}
	return true
}

// told tells whether a feature or size that is out is told by itself; the mass follows from the shape, and the
// datum planes from how the part was placed.
func (d *doctor) told() bool {
	return slices.ContainsFunc(d.r.Characteristics, func(c report.Characteristic) bool {
		kind := characteristic.Of(c.Kind)
		return (c.Verdict == report.Out || c.Verdict == report.NotFound) && !c.Behind && !kind.Density && !kind.Datum
	})
}

// differs says where the part differs from the sheet's, in words.
func (d *doctor) differs() string {
	switch x := d.r.Difference; {
	case x == nil || len(x.Missing)+len(x.Extra) == 0:
		return ""
	case len(x.Missing) == 0:
		return ": what is not on the sheet is " + quantity.List(x.Extra, 4)
	case len(x.Extra) == 0:
		return ": what is missing is " + quantity.List(x.Missing, 4)
	default:
		return ": in the place of " + quantity.List(x.Missing, 4) + " it has " + quantity.List(x.Extra, 4)
	}
}

// hang lists the balloons that depend on a cause.
//
// It spares one from correcting what will follow by itself.
func (d *doctor) hang(c *report.Cause) string {
	var list []string
	for _, b := range c.Also {
		list = append(list, fmt.Sprint(b))
	}
	switch len(list) {
	case 0:
		return ""
	case 1:
		return "; balloon " + list[0] + " depends on it"
	}
	return "; balloons " + quantity.List(list, len(list)) + " depend on it"
}

// characteristics tells of each characteristic that is not in, unless a mistake
// that was found explains it: then it is told with that mistake, and once.
// Missing places of a note are counted apart from wrong ones, because they have
// another cause.
//
// A mesh has no sizes; that is told once and not for every balloon.
func (d *doctor) characteristics() {
	for i := range d.r.Characteristics {
		c := &d.r.Characteristics[i]
		if c.Verdict == report.In || c.Behind || d.solids && c.Kind == "solids" {
			continue
		}
		f := report.Finding{Characteristic: c.ID, Balloon: c.Balloon, Where: c.Label, Sure: "possible"}
		switch c.Verdict {
		case report.NotFound:
			f.Kind, f.What, f.Sure = "not-found", reasonOr(c.Reason, "the model has nothing that matches it"), "likely"
			f.Cause, f.Remedy = "the feature is missing, or is another shape", "add it as the sheet shows it"
			if n := missing(c); n > 0 && n < len(c.Places) {
				f.What = fmt.Sprintf("%d of %d places are missing", n, len(c.Places))
				f.Cause = "a place of the note was forgotten, or the pattern has the wrong count"
				f.Remedy = fmt.Sprintf("the note asks for %d; add the missing ones", len(c.Places))
				if out := wrongPlaces(c) - n; out > 0 && !d.rightInUnit(c) {
					f.What += fmt.Sprintf("; where it is there, the sheet states %s and the model measures %s", c.NominalText,
						c.MeasuredText)
				}
			}
			d.add(2, f)
			continue
		case report.Ask:
			if mesh := d.r.Attempt.Kind; mesh == "stl" || mesh == "3mf" {
				continue // told once for all
			}
			f.Kind, f.What, f.Remedy, f.Sure = "ask", reasonOr(c.Reason, "this could not be measured"),
				"your instructor will check it", "possible"
			d.add(7, f)
			continue
		}
		f.Kind = "size"
		if c.Measured == nil {
			f.What, f.Remedy, f.Sure = c.Reason, "make it as the sheet shows it", "certain"
			if c.MeasuredText != "" {
				f.What = fmt.Sprintf("the sheet states %s, the model says %s", c.NominalText, c.MeasuredText)
			}
			d.add(3, f)
			continue
		}
		if c.Surplus != 0 && (wrongPlaces(c) == 0 || d.rightInUnit(c)) {
			f.What, f.Remedy, f.Sure = c.Reason, "make as many as the sheet asks for", "certain"
			d.add(3, f)
			continue
		}
		f.What = fmt.Sprintf("the sheet states %s, the model measures %s", c.NominalText, c.MeasuredText)
		if d.r.Scale != nil && c.Reason != "" {
			f.What += "; " + c.Reason
		}
		if k := wrongPlaces(c); len(c.Places) > 1 {
			f.What += fmt.Sprintf(" (%d of %d places)", k, len(c.Places))
		}
		d.behind(&f, c)
		rank := 3
		if f.Cause == "" && characteristic.Of(c.Kind).Density {
			rank = 5 // a mass follows from the shape, whatever is told of that
		}
		d.add(rank, f)
	}
}

// behind tells with a size what is behind it: what the search found, or else what its number says.
func (d *doctor) behind(f *report.Finding, c *report.Characteristic) {
	f.Cause, f.Remedy, f.Sure = d.cause(c)
	for k := range d.r.Causes {
		if x := &d.r.Causes[k]; x.Characteristic == c.ID {
			f.What += d.hang(x)
			if x.Cause != "" {
				f.Cause, f.Remedy, f.Sure = x.Cause, x.Remedy, x.Sure
			}
		}
	}
}

// rightInUnit tells that a characteristic is within its limits with the unit put right.
func (d *doctor) rightInUnit(c *report.Characteristic) bool {
	if d.r.Scale == nil || c.Measured == nil {
		return false
	}
	v := *c.Measured * math.Pow(d.r.Scale.Factor, float64(characteristic.Of(c.Kind).Grows()))
	slack := 1e-6 * math.Max(1, math.Abs(c.Nominal))
	return v >= c.Lower-slack && v <= c.Upper+slack
}

// reasonOr is a reason, or what is said without one.
func reasonOr(reason, otherwise string) string {
	if reason != "" {
		return reason
	}
	return otherwise
}

// missing counts the places of a note at which nothing was found.
func missing(c *report.Characteristic) int {
	n := 0
	for _, p := range c.Places {
		if p.Verdict == report.NotFound {
			n++
		}
	}
	return n
}

// wrongPlaces counts the places of a note that are not in, missing ones among
// them.
func wrongPlaces(c *report.Characteristic) int {
	n := 0
	for _, p := range c.Places {
		if p.Verdict != report.In {
			n++
		}
	}
	return n
}

// cause looks for the usual mistakes (see the practice notes: radius for
// diameter, total for each side, a neighbour's value, the wrong face, the
// complement of an angle).
//
// It is looked for from the special to the general: slips of the kind, a wrong
// unit, the neighbour's value, the wrong face, a rounded fraction. A number that
// agrees with another on the sheet to the last figure is likely to be that one,
// never certain.
func (d *doctor) cause(c *report.Characteristic) (cause, remedy, sure string) {
	m, n := *c.Measured, c.Nominal
	kind := characteristic.Of(c.Kind)
	for _, slip := range kind.Slips {
		if slip.Shows(m, n) {
			return slip.Cause, strings.ReplaceAll(slip.Remedy, "%s", c.NominalText), slip.Sure
		}
	}
	if kind.Dim == quantity.Length && (same(m, n*25.4) || same(m, n/25.4)) {
		return "this one size was entered in the wrong unit", fmt.Sprintf("enter %s %s", c.NominalText, d.r.Unit), "likely"
	}
	for _, o := range d.r.Characteristics {
		if o.ID != c.ID && o.Kind == c.Kind && same(m, o.Nominal) && !same(n, o.Nominal) {
			return fmt.Sprintf("the value of a neighbouring dimension (balloon %d, %s) was read", o.Balloon, o.NominalText),
				fmt.Sprintf("enter %s here", c.NominalText), "likely"
		}
	}
	if kind.Chained {
		for _, o := range d.r.Characteristics {
			if o.ID != c.ID && characteristic.Of(o.Kind).Chained && same(math.Abs(m-n), o.Nominal) {
				return fmt.Sprintf("measured from the wrong face: it is off by exactly the size at balloon %d (%s)", o.Balloon,
					o.NominalText), fmt.Sprintf("check from which face the sheet measures %s", c.NominalText), "likely"
			}
		}
	}
	if c.Deviation != nil && math.Abs(*c.Deviation) < 0.02*math.Abs(n) && d.r.Unit == "in" && kind.Dim == quantity.Length {
		in := m / 25.4
		if same(in*1000, math.Round(in*1000)) || same(in*100, math.Round(in*100)) {
			return "a rounded decimal was entered instead of the fraction", fmt.Sprintf("enter the fraction %s", c.NominalText),
				"likely"
		}
	}
	if kind.Remedy != "" {
		return "", kind.Remedy, "possible"
	}
	return "", fmt.Sprintf("set it to %s, then check the sizes that depend on it", c.NominalText), "possible"
}

// sketches tells how sound the sketches are. What is loose and what contradicts
// is told by itself; what is only weak is told together, and no more than three
// things of it, since a student with twenty hints reads none.
//
// The findings of a sketch that is drawn for its lines alone do not include open
// ends.
func (d *doctor) sketches() {
	for _, s := range d.r.Sketches {
		f := report.Finding{Step: s.Step, Where: "sketch " + label(s.Step, s.Name), Sure: "certain"}
		if s.Freedom > 0 {
			f.Kind = "loose"
			f.What = fmt.Sprintf("%s left: %s can still move", quantity.Count(s.Freedom, "freedom is", "freedoms are"),
				quantity.List(s.Loose, 6))
			f.Cause = "a size or a constraint is missing"
			f.Remedy = "pull at these points and add what should hold them"
			d.add(4, f)
		}
		var weak []report.Note
		for _, n := range s.Notes {
			f.Kind, f.What, f.Cause, f.Remedy = n.Kind, n.What, "", n.Remedy
			switch {
			case n.Quality:
				weak = append(weak, n)
			case n.Kind == "conflict" || n.Kind == "folded":
				d.add(1, f)
			case n.Kind == "spare":
				f.Cause = "a condition was given twice; edits may clash there"
				d.add(5, f)
			case n.Kind != "loose":
				f.Kind = "profile"
				d.add(5, f)
			}
		}
		if len(weak) > 0 {
			var what []string
			for _, n := range weak[:min(3, len(weak))] {
				what = append(what, n.What)
			}
			f.Kind, f.What, f.Cause, f.Remedy = "sketch-quality", strings.Join(what, "; "),
				"it looks right today and gives way when sizes change", "in the sketch, "+weak[0].Remedy
			if n := len(weak) - 3; n > 0 {
				f.What += fmt.Sprintf("; and %d more of this kind", n)
			}
			d.add(7, f)
		}
		for _, i := range s.Intervals {
			if d.proved(i.Parameter) {
				continue // why the sketch ends early is told there
			}
			var what []string
			if i.Low.Early {
				what = append(what, fmt.Sprintf("below %s = %s the sketch ends: %s", i.Parameter, i.Low.Value, i.Low.Why))
			}
			if i.High.Early {
				what = append(what, fmt.Sprintf("above %s = %s the sketch ends: %s", i.Parameter, i.High.Value, i.High.Why))
			}
			if len(what) > 0 {
				f.Kind, f.What, f.Cause, f.Remedy, f.Sure = "interval", strings.Join(what, "; ")+"; the part itself holds further",
					"something in this sketch does not follow the size, or is held by the wrong thing", "vary "+i.Parameter+
						" in the sketch and see what does not follow", "likely"
				d.add(6, f)
			}
		}
	}
}

// whatIfs tells what did not follow in the files for other sizes.
func (d *doctor) whatIfs() {
	for _, w := range d.r.WhatIfs {
		f := report.Finding{Kind: "what-if", Where: "what-if " + w.Name, What: w.Detail, Sure: "certain"}
		if len(w.Balloons) > 0 {
			f.Balloon = w.Balloons[0]
		}
		switch w.Outcome {
		case report.Missing:
			f.Remedy = "give the part these sizes, export it, and hand it in beside the part"
		case report.Differs:
			f.Cause, f.Remedy = "a number was typed where a size should follow",
				"change the size in the model and look what stays behind"
		case report.Breaks:
			f.Remedy = "export the part with these sizes again"
		default:
			continue
		}
		d.add(6, f)
	}
}
