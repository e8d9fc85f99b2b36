// Package prepare makes exercises ready to be shown: the sheet drawn, the reference as a mesh, and
// what each characteristic states.
package prepare

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"sort"
	"strings"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/personal"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/core/words"
)

// Exercise draws the sheet of an exercise and makes the mesh of its reference.
//
// Everything that a student gets to see of the reference is made here and
// nowhere else: the sheet, a mesh without names, and the stated values.
func Exercise(ctx context.Context, checker *check.Checker, ex *exercise.Exercise, ref check.Reference,
	m sheet.Metrics) (*Prepared, error) {
	named, build, err := checker.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	k := checker.Rebuilder.Kernel()
	out := &Prepared{Faces: map[string][]address.Ref{}, Driving: []string{}}
	var notes []part.Note
	if build != nil {
		notes = build.Notes
	}
	projected, err := sheet.Project(ctx, k, ex.Sheets, named, nil)
	if err != nil {
		return nil, err
	}
	drawn, err := sheet.LayOutSet(ex, projected, m, notes...)
	if err != nil {
		return nil, err
	}
	out.Drawing = sheet.Stacked(drawn)
	geo := projected.Geometry
	_, moments := geo.Props.Principal()
	out.Bulk = &report.Bulk{Solids: geo.Solids, Volume: geo.Props.Volume, Area: geo.Props.Area, Inertia: moments[0]}
	if out.Mesh, err = k.Mesh(named.Shape, inspect.Deflection(geo.Box), inspect.MeshAngle); err != nil {
		return nil, err
	}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		places, stated, err := check.Nominal(geo, ex, c)
		if err != nil {
			return nil, err
		}
		if _, _, err := ex.Limits(c, stated); err != nil {
			return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
		}
		out.Faces[c.ID] = []address.Ref{}
		for _, p := range places {
			out.Faces[c.ID] = append(out.Faces[c.ID], address.Faces(p.Faces())...)
		}
		out.Stated = append(out.Stated, Stated{ID: c.ID, Balloon: c.Balloon, Label: c.Label, Kind: c.Kind, Text: stated.Text,
			Places: max(1, len(places))})
	}
	sort.Slice(out.Stated, func(i, j int) bool { return out.Stated[i].Balloon < out.Stated[j].Balloon })
	if build != nil {
		out.Driving = build.Table.Driving()
	}
	if out.Audit, err = auditSeen(ex, projected, Called(named.Names, geo, ref.Document.Titles(), ex.Unit)); err != nil {
		return nil, err
	}
	out.Audit.crowded(drawn, m)
	out.Loose = out.Audit.loose()
	out.Possible, err = possible(ex, ref)
	return out, err
}

// possible is how many sets of personal sizes an exercise has, 0 where it has no ranges for them.
func possible(ex *exercise.Exercise, ref check.Reference) (int, error) {
	if len(ex.Personal) == 0 {
		return 0, nil
	}
	if ref.Document == nil {
		return 0, &personal.Error{What: "a STEP file has no driving sizes that could be drawn for each student",
			Remedy: "take the ranges out, or take a model as the reference"}
	}
	space, err := personal.New(ex, ref.Document.Parameters, ref.Document.Unit, 0)
	if err != nil {
		return 0, err
	}
	return space.Possible(), nil
}

// Draft says of every characteristic what it would state on a reference. The exercise may be
// unfinished: what is wrong with one characteristic is said of that one.
//
// Characteristics of a draft are worked out one by one, so that an unfinished
// one does not hide what the others state. With arrange its sheet is laid out anew, of those that are finished.
func Draft(ctx context.Context, c *check.Checker, ex exercise.Exercise, ref check.Reference, m sheet.Metrics,
	arrange bool, progress Progress) (*Drafted, error) {
	named, build, err := c.Load(ctx, ref)
	if err != nil {
		return nil, &modeller.Refused{What: err.Error(), Remedy: "give a model document or a STEP file of the part"}
	}
	k := c.Rebuilder.Kernel()
	geo, err := check.Described(k, named)
	if err != nil {
		return nil, err
	}
	out := &Drafted{Faces: []modeller.FaceRow{}, Values: []DraftValue{}, Unit: ex.Unit, Solids: geo.Solids,
		Driving: []Size{}, WhatIfs: []string{}}
	if build != nil {
		for _, p := range ref.Document.Parameters {
			if slices.Contains(build.Table.Driving(), p.Name) {
				out.Driving = append(out.Driving, Size{p.Name, p.Formula})
			}
		}
	}
	for _, w := range ex.WhatIfs {
		fault, err := whatIf(ctx, c, ref, build, w)
		if err != nil {
			return nil, err
		}
		out.WhatIfs = append(out.WhatIfs, fault)
	}
	if out.Possible, err = possible(&ex, ref); err != nil {
		out.Personal = err.Error()
	}
	if out.Unit == "" {
		out.Unit = "mm"
		if ref.Document != nil {
			out.Unit = ref.Document.Unit
		} else if content, err := k.ReadSTEP(ctx, ref.STEP); err == nil && content.Unit == quantity.Inch.Factor {
			out.Unit = "in"
		}
		ex.Unit = out.Unit
	}
	called := Called(named.Names, geo, ref.Document.Titles(), ex.Unit)
	namer := words.NewNamer(ref.Document.Titles(), ex.Unit)
	for i, f := range geo.Faces {
		out.Faces = append(out.Faces, modeller.FaceRow{Name: geo.Address(i), Kind: string(f.Kind), Words: called[i]})
	}
	sound := ex // without characteristics that are not finished
	sound.Characteristics = nil
	for i := range ex.Characteristics {
		one := &ex.Characteristics[i]
		v := DraftValue{ID: one.ID, Faces: []address.Ref{}, Called: map[string]string{}}
		for k := 0; len(one.Of) > 0 && k < len(one.Of[0]); k++ {
			name := one.Of[0][k].Name
			v.Called[name] = pickCalled(geo, namer, name)
		}
		if one.Declared() != nil && one.Declared().From != nil && len(one.Of) > 0 {
			if exact, err := inspect.ExactPlace(geo, one); err == nil {
				one.Exact, v.Exact = exact, exact
			}
		}
		if err := stated(geo, &ex, one, &v); err != nil {
			v.Error = err.Error()
		} else {
			sound.Characteristics = append(sound.Characteristics, *one)
		}
		out.Values = append(out.Values, v)
	}
	if arrange {
		out.Sheet, err = Arranged(ctx, k, sound, named, m, progress)
	} else {
		out.Sheets, err = settled(ctx, k, ex.Sheets, named)
	}
	if err != nil {
		return nil, err
	}
	out.Audit, err = Audit(geo, &sound, called, nil)
	return out, err
}

// settled are the sheets of which an earlier program has placed views by their middles, with all placed by their
// origins; nil where there are none.
func settled(ctx context.Context, k solid.Kernel, set exercise.Sheets, ref *part.Named) (exercise.Sheets, error) {
	if !slices.ContainsFunc(set.Views(), func(v exercise.View) bool { return v.Middle }) {
		return nil, nil
	}
	set = slices.Clone(set)
	for n := range set {
		set[n].Views = slices.Clone(set[n].Views)
	}
	projected, err := sheet.Project(ctx, k, set, ref, nil)
	if err != nil {
		return nil, err
	}
	return set, sheet.Settle(set, projected)
}

// AuditOf audits the sheets of an exercise against its reference.
func AuditOf(ctx context.Context, c *check.Checker, ex *exercise.Exercise, ref check.Reference,
	m sheet.Metrics) (*Audited, error) {
	named, build, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	projected, err := sheet.Project(ctx, c.Rebuilder.Kernel(), ex.Sheets, named, nil)
	if err != nil {
		return nil, err
	}
	var notes []part.Note
	if build != nil {
		notes = build.Notes
	}
	drawn, err := sheet.LayOutSet(ex, projected, m, notes...)
	if err != nil {
		return nil, err
	}
	out, err := auditSeen(ex, projected, Called(named.Names, projected.Geometry, ref.Document.Titles(), ex.Unit))
	if err == nil {
		out.crowded(drawn, m)
	}
	return out, err
}

// auditSeen audits sheets whose views have been projected.
func auditSeen(ex *exercise.Exercise, projected *sheet.Projected, called []string) (*Audited, error) {
	seen, err := projected.Seen(ex.Sheets)
	if err != nil {
		return nil, err
	}
	return Audit(projected.Geometry, ex, called, seen)
}

// pickCalled says what a name on a sheet stands for: a face, every face of a pattern, or the line in
// which two flat faces meet.
//
// Two faces joined by an ampersand stand for their common line, which is a
// theoretical edge: where two flats would meet if the corner were not rounded.
func pickCalled(geo *solid.Geometry, namer *words.Namer, name string) string {
	if a, b, ok := strings.Cut(name, " & "); ok {
		return "line where the " + pickCalled(geo, namer, a) + " meets the " + pickCalled(geo, namer, b)
	}
	var face solid.Face
	if found := geo.Named(name); len(found) > 0 {
		face = geo.Faces[found[0]]
	}
	return namer.Face(solid.PlainName(name), face)
}

// The order is that in which the editor asks: kind, place, text, limits.
func stated(geo *solid.Geometry, ex *exercise.Exercise, c *exercise.Characteristic, v *DraftValue) error {
	kind := c.Declared()
	if kind == nil {
		return fmt.Errorf("%q is not a kind of characteristic", c.Kind)
	}
	if len(c.Of) == 0 && !kind.Whole() {
		return fmt.Errorf("pick %s", kind.On)
	}
	if c.Stated != "" {
		if _, err := ex.Printed(c); err != nil {
			return err
		}
	}
	places, s, err := check.Nominal(geo, ex, c)
	var unstated *check.Unstated
	if errors.As(err, &unstated) {
		return unstated.Why // beside the characteristic, which needs no naming there
	}
	if err != nil {
		return err
	}
	v.Text, v.Places = s.Text, max(1, len(places))
	for _, p := range places {
		v.Faces = append(v.Faces, address.Faces(p.Faces())...)
	}
	minus, plus, err := ex.Limits(c, s)
	if err != nil {
		return err
	}
	if kind.Worded() && c.Text == "" {
		return fmt.Errorf("say what the sheet states as the %s", kind.Title)
	}
	if minus > 0 || plus > 0 {
		v.Limits = ex.StateOf(c.Declared(), s.Value-minus).Text + " … " + ex.StateOf(c.Declared(), s.Value+plus).Text
	}
	return nil
}

// whatIf says in words why a what-if cannot be made of a reference; nothing where it can.
func whatIf(ctx context.Context, c *check.Checker, ref check.Reference, build *part.Build,
	w exercise.WhatIf) (string, error) {
	switch {
	case build == nil:
		return "a STEP file has no driving sizes that could be changed: leave it out, or take a model as the reference", nil
	case strings.TrimSpace(w.Name) == "":
		return "give it a name", nil
	case len(w.Set) == 0:
		return "say which driving size is changed", nil
	}
	set := map[string]quantity.Quantity{}
	for _, name := range slices.Sorted(maps.Keys(w.Set)) {
		was, ok := build.Table.Lookup(name)
		if !ok || !slices.Contains(build.Table.Driving(), name) {
			return fmt.Sprintf("the reference has no driving size %q: choose one that it has", name), nil
		}
		v, err := build.Table.Eval(w.Set[name], was.Dim)
		if err != nil {
			return fmt.Sprintf("%s: %v", name, err), nil
		}
		set[name] = quantity.Quantity{Value: v, Dim: was.Dim}
	}
	b, err := c.Rebuilder.Rebuild(ctx, ref.Document, set)
	if err != nil {
		return "", err
	}
	if b.Solid == nil || len(b.Failed()) > 0 {
		return "the reference cannot be rebuilt with these sizes: take others", nil
	}
	return "", nil
}
