package assemblies

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// Ranks of findings: what to put right first comes first.
const (
	firstItems = iota
	firstParts
	firstPlaces
	firstJoints
	firstCollisions
	firstMotion
	firstWhole
	firstVaried
	advice
)

// teller collects findings.
type teller struct {
	*placement
	r    *report.Report
	list []ranked
}

type ranked struct {
	report.Finding
	rank int
}

func (t *teller) add(rank int, f report.Finding) {
	if f.Sure == "" {
		f.Sure = "certain"
	}
	t.list = append(t.list, ranked{f, rank})
}

// findings puts into words what there is to put right, what to fix first first. What follows from something else is not
// told by itself.
func (p *placement) findings(r *report.Report) []report.Finding {
	t := &teller{placement: p, r: r}
	t.items()
	if !r.Assembly.Single {
		t.places()
		t.joints()
		t.collisions()
		t.motion()
		t.whole()
		t.varied()
		t.whatIfs()
	}
	slices.SortStableFunc(t.list, func(a, b ranked) int { return cmp.Compare(a.rank, b.rank) })
	out := []report.Finding{}
	for i, f := range t.list {
		f.ID = fmt.Sprintf("f%d", i+1)
		out = append(out, f.Finding)
	}
	return out
}

// items tells what is missing, too many or another part, and what the parts' own checks have to say.
func (t *teller) items() {
	missing := map[string][]string{}
	for _, c := range t.r.Assembly.Components {
		where := fmt.Sprintf("item %s, %s", c.Item, c.Name)
		switch c.Stands {
		case report.NotThere:
			missing[c.Item] = append(missing[c.Item], c.Name)
		case report.WrongPart:
			is := "?"
			for _, n := range t.spare {
				if t.att.doc.Components[n].ID == c.Attempt && t.kind[n] >= 0 {
					is = t.title(slices.Index(t.kindOf, t.kind[n]))
				}
			}
			t.add(firstItems, report.Finding{Kind: "wrong part", Item: c.Item, Where: where,
				What:   fmt.Sprintf("in its place stands %s, which is %s", c.Called, is),
				Remedy: "put the right one of the two in: compare their sizes with the parts list"})
		case report.Twice:
			t.add(firstItems, report.Finding{Kind: "two in one place", Item: c.Item, Where: c.Name,
				What: "it lies in the same place as another one of its kind", Remedy: "take one of the two out"})
		case report.TooMany:
			t.add(firstItems, report.Finding{Kind: "too many", Item: c.Item, Where: c.Name,
				What: "it is one more than the parts list has of item " + c.Item, Remedy: "take it out"})
		case report.Unknown:
			t.add(firstItems, report.Finding{Kind: "unknown part", Where: c.Name,
				What: "it is like none of the items of the parts list", Remedy: "take it out, or compare it with its sheet"})
		}
	}
	for i := range t.r.Assembly.Items {
		x := &t.r.Assembly.Items[i]
		where := fmt.Sprintf("item %s, %s", x.Number, x.Name)
		if list := missing[x.Number]; len(list) > 0 {
			t.add(firstItems, report.Finding{Kind: "missing item", Item: x.Number, Where: where,
				What:   fmt.Sprintf("%d of %d in the parts list %s there", x.Found, x.Wanted, isAre(x.Found)),
				Remedy: "put in " + quantity.Count(len(list), "more", "more")})
		}
		for k := range x.Variants {
			t.variant(x, &x.Variants[k], where)
		}
	}
}

func isAre(n int) string {
	if n == 1 {
		return "is"
	}
	return "are"
}

// variant tells what is wrong with a solid that stands for an item.
func (t *teller) variant(x *report.Item, v *report.Variant, where string) {
	if len(x.Variants) > 1 {
		where += " (" + quantity.List(v.Names, 4) + ")"
	}
	right, _ := rightVariant(v)
	switch {
	case x.Given && !right:
		t.add(firstItems, report.Finding{Kind: "given part altered", Item: x.Number, Where: where,
			What: "it is not the part that was given", Remedy: "put the given part in again, and leave it as it is"})
		return
	case v.Unusable != "":
		t.add(firstItems, report.Finding{Kind: "part unusable", Item: x.Number, Where: where,
			What: "it could not be checked: " + v.Unusable, Remedy: "put that right and hand it in again"})
		return
	case v.Report == nil && !v.Same:
		what := "it is not the part that the parts list names"
		if v.Mirrored {
			what = "it is the mirror image of the part"
		}
		t.add(firstParts, report.Finding{Kind: "other part", Item: x.Number, Where: where, What: what,
			Remedy: "compare it with its sheet"})
		return
	case v.Report == nil:
		return
	}
	rank := firstParts
	if right {
		rank = advice
	}
	for _, f := range v.Report.Findings {
		f.Item = x.Number
		if f.Characteristic != "" {
			f.Characteristic = x.Number + "/" + f.Characteristic
		}
		f.Where = where + ": " + f.Where
		t.add(rank, f)
	}
}

// places tells which components are displaced: once for each group that joints hold together, by what the joint asks
// for that is off by most.
func (t *teller) places() {
	told := map[int]bool{0: true}
	t.changed(told)
	for _, pass := range []bool{true, false} { // those against the base first
		for i := range t.placement.joints {
			j := &t.placement.joints[i]
			ga, gb := t.group[j.a], t.group[j.b]
			if !j.out || j.skewed || ga == gb || (ga != 0 && gb != 0) == pass {
				continue
			}
			moved, still := j.a, j.b
			if ga == 0 || gb != 0 && told[ga] {
				moved, still = j.b, j.a
			}
			if told[t.group[moved]] {
				continue
			}
			told[t.group[moved]] = true
			t.outOfPlace(j, moved, still)
		}
	}
	for i := range t.placement.joints {
		if j := &t.placement.joints[i]; j.out && !j.skewed && t.group[j.a] == t.group[j.b] {
			if moved, still, ok := t.blame(j); ok {
				t.outOfPlace(j, moved, still)
				continue
			}
			t.add(firstPlaces, report.Finding{Kind: "joint open", Where: t.Document.TitleOf(j.Joint),
				What:   fmt.Sprintf("%s and %s do not meet as they should: %s", t.called(j.a), t.called(j.b), t.offWords(j)),
				Remedy: "bring the two together at this joint, and see which size keeps them apart"})
		}
	}
}

// changed tells of two components that have changed places: each fits where the other should be.
func (t *teller) changed(told map[int]bool) {
	for ga := 1; ga < len(t.groups); ga++ {
		for gb := ga + 1; gb < len(t.groups); gb++ {
			if len(t.groups[ga]) != 1 || len(t.groups[gb]) != 1 || told[ga] || told[gb] {
				continue
			}
			a, b := t.groups[ga][0], t.groups[gb][0]
			if t.kindOf[a] == t.kindOf[b] || !t.fitsAt(a, t.of[b]) || !t.fitsAt(b, t.of[a]) {
				continue
			}
			told[ga], told[gb] = true, true
			t.add(firstPlaces, report.Finding{Kind: "changed places", Item: itemNumber(t.Document, t.part(a)),
				Where: t.called(a) + " and " + t.called(b), What: "each of the two stands where the other one should",
				Remedy: "change them: compare their sizes with the parts list"})
		}
	}
}

// outOfPlace tells of one component that is not where its joint to another one has it.
func (t *teller) outOfPlace(j *judged, moved, still int) {
	f := report.Finding{Where: t.called(moved), Item: itemNumber(t.Document, t.part(moved))}
	if list := t.with(moved); len(list) > 0 {
		f.Where += ", with " + quantity.List(list, 3)
	}
	by := map[assembly.What]float64{}
	for _, o := range j.off {
		if math.Abs(o.By) > j.limit(o) {
			by[o.What] = o.By
		}
	}
	length := quantity.MeasuredFormat(t.ex.LengthUnit()).Length
	angle := quantity.MeasuredFormat(t.ex.LengthUnit()).Angle
	other := t.title(still)
	seated, isSeated := by[assembly.Seated]
	turned, isTurned := by[assembly.Held]
	switch {
	case has(by, assembly.Facing) && isSeated:
		f.Kind, f.What = "wrong side", fmt.Sprintf("it is the wrong way round against %s, and %s from its seat", other,
			length(math.Abs(seated)))
		f.Remedy = "turn it round, and seat it on the other side"
	case has(by, assembly.Facing):
		f.Kind, f.What = "wrong way round", "it is the wrong way round against "+other
		f.Remedy = "turn it round: look on the sheet which of its faces points where"
	case isTurned:
		f.Kind, f.What = "turned", fmt.Sprintf("it is turned by %s about its axis against %s", angle(math.Abs(turned)), other)
		f.Remedy = "turn it until it stands as on the sheet"
		if n := 2 * math.Pi / math.Abs(turned); math.Abs(n-math.Round(n)) < 1e-3 && n > 1.5 && n < 40 {
			f.Cause, f.Sure = fmt.Sprintf("one pitch of a pattern of %d", int(math.Round(n))), "likely"
		}
	case isSeated:
		f.Kind, f.What = "shifted", fmt.Sprintf("it is %s from where %s has its seat, along the axis",
			length(math.Abs(seated)), other)
		f.Remedy = "seat it: face on face, or at the distance on the sheet"
		t.behindShift(&f, j, seated, moved, still)
	case has(by, assembly.Coaxial):
		f.Kind, f.What = "off the axis", fmt.Sprintf("it is %s off the axis of %s", length(math.Abs(by[assembly.Coaxial])),
			other)
		f.Remedy = "join the two along one axis"
	default:
		f.Kind, f.What = "displaced", fmt.Sprintf("it does not stand to %s as on the sheet: %s", other, t.offWords(j))
		f.Remedy = "join it again, and look at the sheet"
	}
	t.add(firstPlaces, f)
}

func has(by map[assembly.What]float64, what assembly.What) bool { _, ok := by[what]; return ok }

// behindShift looks for what a shift is as much as: twice an offset whose sign is wrong, or the thickness of a part.
func (t *teller) behindShift(f *report.Finding, j *judged, by float64, moved, still int) {
	if offset := j.Sized("offset"); math.Abs(offset) > lengthLimit {
		switch {
		case math.Abs(math.Abs(by)-2*math.Abs(offset)) <= 2*lengthLimit:
			f.Kind, f.Cause, f.Sure = "offset of the wrong sign", "the offset has the wrong sign", "likely"
			return
		case math.Abs(math.Abs(by)-math.Abs(offset)) <= 2*lengthLimit:
			f.Cause, f.Sure = "the offset was left out", "likely"
			return
		}
	}
	order := []int{moved, still}
	for c := range t.of {
		if c != moved && c != still {
			order = append(order, c)
		}
	}
	for _, c := range order {
		if t.thick(c, math.Abs(by)) {
			f.Kind, f.Sure = "shifted by a thickness", "likely"
			f.Cause = fmt.Sprintf("that is as much as %s is thick: it was seated on the wrong face", t.title(c))
			return
		}
	}
}

// thick tells whether two flat faces of a part that look away from one another are so far apart.
func (t *teller) thick(c int, by float64) bool {
	g := t.parts[c].Geometry
	for i, a := range g.Faces {
		for _, b := range g.Faces[:i] {
			if a.Kind == solid.PlaneFace && b.Kind == solid.PlaneFace && a.Normal.Dot(b.Normal) < -0.999999 &&
				math.Abs(a.Centroid.Sub(b.Centroid).Dot(a.Normal)-by) <= lengthLimit {
				return true
			}
		}
	}
	return false
}

// with are the other components that are displaced together with one.
func (t *teller) with(c int) []string {
	var out []string
	for _, o := range t.groups[t.group[c]] {
		if o != c {
			out = append(out, t.component(o).Title())
		}
	}
	return out
}

// offWords says by how much the conditions of a joint are off.
func (t *teller) offWords(j *judged) string {
	var out []string
	f := quantity.MeasuredFormat(t.ex.LengthUnit())
	for _, o := range j.off {
		if math.Abs(o.By) <= j.limit(o) {
			continue
		}
		by := f.Length(math.Abs(o.By))
		if o.Angle {
			by = f.Angle(math.Abs(o.By))
		}
		out = append(out, map[assembly.What]string{
			assembly.Parallel: "they lean by %s to one another", assembly.Coaxial: "their axes are %s apart",
			assembly.Seated: "they are %s apart along the axis", assembly.Held: "one is turned by %s",
			assembly.Meeting: "their centres are %s apart", assembly.Screwed: "one is %s from where the thread has it",
			assembly.Running: "the point is %s off the curve", assembly.Distant: "the distance is off by %s",
			assembly.Angled: "the angle is off by %s", assembly.Touching: "they are %s from touching",
			assembly.Facing: "one is the wrong way round (%s)"}[o.What])
		out[len(out)-1] = fmt.Sprintf(out[len(out)-1], by)
	}
	return strings.Join(out, ", ")
}

// joints tells which joints leave something else free than they should. Where one holds what should move, others in its
// loop cannot move either: those whose own joints are right are not told.
func (t *teller) joints() {
	told := false
	for i := range t.r.Assembly.Joints {
		x := &t.r.Assembly.Joints[i]
		if x.Verdict != report.Out || x.Behind {
			continue
		}
		told = true
		f := report.Finding{Where: x.Name, What: fmt.Sprintf("between %s and %s there should be %s, and there is %s",
			x.Titles[0], x.Titles[1], freely(x.Wanted), freely(x.Found))}
		switch {
		case x.Found == "held":
			f.Kind = "rigid where it should move"
			f.Remedy = "take the joint off that holds them, and use one that lets them move"
		case x.Direct == "":
			f.Kind, f.Remedy = "joint forgotten", "join the two"
		default:
			f.Kind, f.Remedy = "joint of another kind", "use a joint that leaves just this"
			if strings.HasPrefix(x.Reason, "it can move") {
				f.Kind = "moves where it should be held"
			}
		}
		t.add(firstJoints, f)
	}
	if m := t.r.Assembly.Mobility; m != nil && m.Verdict == report.Out && !told && len(t.list) == 0 {
		t.add(firstJoints, report.Finding{Kind: "mobility", Where: "the whole",
			What: fmt.Sprintf("it has %s, and should have %d: %s", quantity.Count(m.Found, "freedom", "freedoms"), m.Wanted,
				m.Reason),
			Remedy: "look at each joint: what does it hold, and what should it leave free?"})
	}
}

// freely is a freedom in a sentence.
func freely(words string) string {
	if words == "held" {
		return "no freedom"
	}
	return words
}

func (t *teller) collisions() {
	for _, c := range t.r.Assembly.Collisions {
		if c.ChargedIn == "" && c.Verdict == report.Out {
			t.add(firstCollisions, report.Finding{Kind: "collision", Where: c.Titles[0] + " and " + c.Titles[1], What: c.What,
				Remedy: "move one of them, or put the size right that brings them together"})
		}
	}
}

func (t *teller) motion() {
	for _, m := range t.r.Assembly.Motion {
		if m.Verdict != report.In && m.ChargedIn == "" {
			t.add(firstMotion, report.Finding{Kind: "motion", Where: m.Name, What: m.Reason,
				Remedy: "drive it by hand, and see where it stops or goes another way"})
		}
	}
}

// varied tells of sizes that the assembly does not bear to be changed.
func (t *teller) varied() {
	for _, x := range t.r.Assembly.Varied {
		if x.Verdict == report.Out && x.ChargedIn == "" {
			t.add(firstVaried, report.Finding{Kind: "does not follow", Item: x.Item, Where: x.Attempt + " = " + x.At,
				What: x.Reason + ", which does not happen to the reference", Remedy: x.Remedy})
		}
	}
}

// whatIfs tells of what-ifs that the assembly does not follow.
func (t *teller) whatIfs() {
	for _, w := range t.r.WhatIfs {
		if w.Outcome != report.Follows {
			t.add(firstVaried, report.Finding{Kind: "what-if", Where: "what-if " + w.Name, What: w.Detail,
				Remedy: "give the parameters of the assembly these sizes, and see what does not follow"})
		}
	}
}

// whole tells of characteristics of the whole behind which nothing else is told.
func (t *teller) whole() {
	for i := range t.r.Characteristics {
		c := &t.r.Characteristics[i]
		if c.Verdict == report.In || c.Verdict == report.Ask || c.ChargedIn != "" {
			continue
		}
		what := c.Reason
		if c.MeasuredText != "" {
			what = fmt.Sprintf("it should be %s and is %s", cmp.Or(c.NominalText, "0"), c.MeasuredText)
		}
		t.add(firstWhole, report.Finding{Kind: "whole", Characteristic: c.ID, Balloon: c.Balloon, Where: c.Label, What: what,
			Remedy: t.ex.Assembly.Requirement(c.ID).Declared().Remedy})
	}
}
