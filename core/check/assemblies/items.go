package assemblies

import (
	"context"
	"errors"
	"maps"
	"math"
	"slices"

	"hammerset/core/check"
	"hammerset/core/identify"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// components are those of the reference with what stands for them, and then what stands for none.
func (p *placement) components(single bool) []report.Component {
	var out []report.Component
	wrong := p.wrongParts()
	for c := range p.of {
		x := report.Component{ID: p.component(c).ID, Item: itemNumber(p.Document, p.part(c)), Name: p.component(c).Title()}
		switch a, isWrong := wrong[c]; {
		case p.there(c):
			x.Stands = report.InPlace
			if p.displaced[c] && !single { // parts by themselves lie where they were modelled
				x.Stands = report.Displaced
			}
			pose := p.way[c].Pose
			x.Pose, x.Attempt, x.Called = &pose, p.att.doc.Components[p.of[c]].ID, p.att.title(p.of[c])
		case isWrong:
			x.Stands, x.Attempt, x.Called = report.WrongPart, p.att.doc.Components[a].ID, p.att.title(a)
		case single:
			x.Stands = report.NotYet
		default:
			x.Stands = report.NotThere
		}
		out = append(out, x)
	}
	for _, a := range p.spare {
		if !taken(wrong, a) {
			x := report.Component{Name: p.att.title(a), Stands: p.stray(a), Attempt: p.att.doc.Components[a].ID,
				Called: p.att.title(a)}
			if kind := p.kind[a]; kind >= 0 {
				x.Item = itemNumber(p.Document, p.part(slices.Index(p.kindOf, kind)))
			}
			out = append(out, x)
		}
	}
	return out
}

func taken(m map[int]int, v int) bool { return slices.Contains(slices.Collect(maps.Values(m)), v) }

// stray tells what a component of the attempt is that stands for none of the reference.
func (f *found) stray(a int) string {
	if f.kind[a] < 0 {
		return report.Unknown
	}
	at := func(n int) solid.Vec { return f.att.poses[n].Apply(f.att.part(n).Geometry.Props.Centroid) }
	near := 1e-3 * f.att.part(a).Geometry.Box.Diagonal()
	for n := range f.att.doc.Components {
		if n != a && f.kind[n] == f.kind[a] && at(n).Distance(at(a)) < near {
			return report.Twice
		}
	}
	return report.TooMany
}

// wrongParts are the spare components of the attempt that stand where another item should: by the component of the
// reference that is missing there. They are so where they are that other item throughout, and their joints to what
// stands around hold for the greater part.
func (f *found) wrongParts() map[int]int {
	out := map[int]int{}
	for c := range f.of {
		if f.there(c) {
			continue
		}
		for _, a := range f.spare {
			if taken(out, a) || f.kind[a] < 0 || f.kind[a] == f.kindOf[c] || f.likes[a].Sameness != identify.Same {
				continue
			}
			if f.fitsAt(c, a) {
				out[c] = a
				break
			}
		}
	}
	return out
}

// fitsAt tells whether a component of the attempt stands where one of the reference should.
func (f *found) fitsAt(c, a int) bool {
	for _, w := range identify.Ways(f.parts[c], f.att.part(a)) {
		w = w.At(f.att.poses[a])
		held, asked := 0, 0
		for i := range f.key.joints {
			j := &f.key.joints[i]
			var list []float64
			ok := false
			switch {
			case j.a == c && f.there(j.b):
				list, ok = f.hold(j, &w, &f.way[j.b])
			case j.b == c && f.there(j.a):
				list, ok = f.hold(j, &f.way[j.a], &w)
			}
			if !ok {
				continue
			}
			for _, share := range list {
				asked++
				if share <= 1 {
					held++
				}
			}
		}
		if asked > 0 && 2*held > asked {
			return true
		}
	}
	return false
}

// hold are the conditions of a joint as shares of their limits.
func (f *found) hold(j *joint, a, b *identify.Way) ([]float64, bool) {
	list, ok := j.off(a, b)
	var out []float64
	for _, o := range list {
		out = append(out, math.Abs(o.By)/j.limit(o))
	}
	return out, ok
}

// items are the lines of the parts list, with a check of every variant that the attempt has of them.
func (c *Checker) items(ctx context.Context, p *placement, a *report.OfAssembly, progress func(float64)) ([]report.Item,
	error) {
	var out []report.Item
	var subjects []Subject
	var of [][2]int // item and variant
	line := map[string]int{}
	for n := range p.of {
		part := p.part(n)
		at, have := line[part.ID]
		if !have {
			at = len(out)
			line[part.ID] = at
			x := report.Item{Number: itemNumber(p.Document, part), Name: part.Name, Part: part.ID, Weight: 1,
				Variants: []report.Variant{}}
			if item := p.ex.Assembly.Item(part.ID); item != nil {
				x.Given, x.Weight = item.Given, item.Weighs()
			}
			out = append(out, x)
		}
		x := &out[at]
		x.Wanted++
		if !p.there(n) {
			continue
		}
		x.Found++
		v := p.variant(x, n)
		v.Components = append(v.Components, p.component(n).ID)
		v.Names = append(v.Names, p.att.title(p.of[n]))
	}
	for i := range out {
		for k := range out[i].Variants {
			own, have := p.Exercises[out[i].Part]
			if !have {
				continue
			}
			att, err := p.partAttempt(out[i].Variants[k].Components[0])
			if err != nil {
				return nil, err
			}
			subjects = append(subjects, Subject{out[i].Part, check.Subject{Exercise: own.Exercise, Reference: own.Reference,
				Attempt: att}})
			of = append(of, [2]int{i, k})
		}
	}
	reports, errs := c.Part(ctx, subjects, progress)
	for s, at := range of {
		v := &out[at[0]].Variants[at[1]]
		var unusable *check.Unusable
		switch {
		case errors.As(errs[s], &unusable):
			v.Unusable = unusable.Error()
		case errs[s] != nil:
			return nil, errs[s]
		default:
			v.Report = reports[s]
			if _, modelled := p.att.Parts[p.att.doc.Components[p.of[p.number[v.Components[0]]]].Part]; !modelled {
				// A solid of an assembly lies where it is put, and not where its part was modelled.
				v.Report.Findings = slices.DeleteFunc(v.Report.Findings, func(f report.Finding) bool { return f.Kind == "pose" })
			}
		}
	}
	spare := map[string]int{}
	for _, x := range a.Components {
		if x.ID == "" && x.Item != "" {
			spare[x.Item]++
		}
	}
	for i := range out {
		judgeItem(&out[i], a.Single, spare[out[i].Number])
	}
	return out, nil
}

// variant finds the variant that the component is of, or begins a new one.
func (p *placement) variant(x *report.Item, n int) *report.Variant {
	for i := range x.Variants {
		first := p.number[x.Variants[i].Components[0]]
		if p.same(first) && p.same(n) ||
			p.att.doc.Components[p.of[first]].Part == p.att.doc.Components[p.of[n]].Part || p.kin(first, n) {
			return &x.Variants[i]
		}
	}
	x.Variants = append(x.Variants, report.Variant{Same: p.same(n),
		Mirrored: p.likes[p.of[n]].Sameness == identify.Mirror})
	return &x.Variants[len(x.Variants)-1]
}

// kin tells whether what stands for two components is one and the same solid.
func (f *found) kin(a, b int) bool {
	return identify.Like(f.att.part(f.of[a]).Closed, f.att.part(f.of[b]).Closed).Sameness == identify.Same
}

// partAttempt is the part of a component as an attempt at the exercise of its item.
func (p *placement) partAttempt(component string) (check.Attempt, error) {
	c := p.att.doc.Components[p.of[p.number[component]]]
	if att, ok := p.att.Parts[c.Part]; ok {
		return att, nil
	}
	data, err := p.k.WriteSTEP([]solid.Titled{{Shape: p.att.made[c.Part].Solid, Name: c.Title()}}, c.Title(), solid.AP242)
	return check.Attempt{Name: c.Title(), STEP: data}, err
}

// judgeItem gives an item its verdict.
func judgeItem(x *report.Item, single bool, spare int) {
	x.Verdict = report.In
	wrong, ask := false, false
	for _, v := range x.Variants {
		switch right, unsure := rightVariant(&v); {
		case unsure:
			ask = true
		case !right:
			wrong = true
		}
	}
	switch {
	case x.Found == 0 && single:
		x.Verdict, x.Reason = report.Ask, report.NotYet
	case x.Found == 0:
		x.Verdict, x.Reason = report.NotFound, report.NotThere
	case x.Found < x.Wanted && !single:
		x.Verdict, x.Reason = report.Out, "too few"
	case spare > 0:
		x.Verdict, x.Reason = report.Out, report.TooMany
	case wrong && x.Given:
		x.Verdict, x.Reason = report.Out, "it is not the part that was given"
	case wrong:
		x.Verdict, x.Reason = report.Out, "not as its sheet has it"
	case ask:
		x.Verdict, x.Reason = report.Ask, "a person must look at it"
	}
}

// rightVariant tells whether a solid is as its sheet has it: the very part, or one that is within all limits.
func rightVariant(v *report.Variant) (right, unsure bool) {
	if v.Report == nil {
		return v.Same, false
	}
	if p := v.Report.Pose; v.Report.Scale != nil || v.Mirrored || p != nil && p.Mirrored {
		return false, false
	}
	for _, c := range v.Report.Characteristics {
		unsure = unsure || c.Verdict == report.Ask
		if c.Verdict == report.Out || c.Verdict == report.NotFound {
			return false, false
		}
	}
	for _, f := range v.Report.Whole {
		unsure = unsure || f.Verdict == report.Ask && !f.Extra
		if (f.Verdict == report.Out || f.Verdict == report.NotFound) && !f.Extra {
			return false, false
		}
	}
	return true, unsure && !v.Same
}
