package assemblies

import (
	"slices"

	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/check"
	"hammerset/core/identify"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// attempt is what was handed in, laid flat: its components where they stand, and the part of each.
type attempt struct {
	Attempt
	doc   *assembly.Document
	made  map[string]*shapes.Made
	mech  *assembly.Mechanism // its own joints
	holds bool                // they can hold together
	parts map[string]*identify.Part
	poses []rigid.Pose
}

// lay lays an attempt flat and solves its own joints.
func lay(k solid.Kernel, in Attempt) (*attempt, error) {
	of := map[string]*assembly.Shape{}
	for id, m := range in.Made {
		of[id] = m.Shape
	}
	m, err := assembly.New(in.Document, of, nil)
	if err != nil {
		return nil, err
	}
	out := &attempt{Attempt: in, mech: m, holds: true, parts: map[string]*identify.Part{}}
	if len(m.Document.Joints) > 0 {
		out.holds = m.Solve().Holds && len(m.Lost()) == 0
	}
	if out.doc, out.made, err = shapes.Flat(in.Document, in.Made); err != nil {
		return nil, err
	}
	for _, c := range out.doc.Components {
		out.poses = append(out.poses, m.Pose(c.ID))
		if out.parts[c.Part] != nil {
			continue
		}
		if out.parts[c.Part], err = described(k, out.made[c.Part]); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// says tells whether the attempt says which joints it has: a document does, even where it has none, and a file of
// solids does not.
func (t *attempt) says() bool {
	return t.Kind == FromDocument || len(t.mech.Document.Joints) > 0
}

// title is what a component of the attempt is called.
func (t *attempt) title(n int) string { return t.doc.Components[n].Title() }

// part is that of a component of the attempt.
func (t *attempt) part(n int) *identify.Part { return t.parts[t.doc.Components[n].Part] }

// found says which component of the attempt stands for which of the reference.
type found struct {
	*key
	att   *attempt
	of    []int               // of each component of the reference, or -1
	way   []identify.Way      // in the attempt
	likes []identify.Likeness // of each component of the attempt to what it is
	kind  []int               // of each component of the attempt, or -1
	// spare are the components of the attempt that stand for none.
	spare []int
}

// latest leaves out of parts that were handed in by themselves those of which a later one is the same item.
func (r *key) latest(att *attempt) {
	var solids []*solid.Geometry
	for i := range att.doc.Components {
		solids = append(solids, att.part(i).Closed)
	}
	kinds := slices.Clone(r.kinds)
	for i := range kinds {
		kinds[i].Quantity = len(solids) // all may be of one kind
	}
	of := identify.Find(kinds, solids).Of
	keep := func(i int) bool { return of[i] < 0 || !slices.Contains(of[i+1:], of[i]) }
	d := *att.doc
	d.Components = nil
	var poses []rigid.Pose
	for i, c := range att.doc.Components {
		if keep(i) {
			d.Components, poses = append(d.Components, c), append(poses, att.poses[i])
			continue
		}
		att.Notes = append(att.Notes, report.IntakeNote{Kind: "earlier",
			What:   c.Title() + " is of an item that was handed in again after it: the later one was checked",
			Remedy: "nothing is to be done"})
	}
	att.doc, att.poses = &d, poses
}

// find finds it out: by what the parts are, and where several are alike by where they are.
func (r *key) find(att *attempt) *found {
	f := &found{key: r, att: att}
	var solids []*solid.Geometry
	for i := range att.doc.Components {
		solids = append(solids, att.part(i).Closed)
	}
	by := identify.Find(r.kinds, solids)
	f.kind, f.likes = by.Of, by.Likeness
	p := &identify.Puzzle{Of: r.kindOf, Empty: by.Missing, Candidates: by.Candidates(len(r.kinds)), Ways: f.ways(by)}
	for i := range r.joints {
		j := &r.joints[i]
		p.Links = append(p.Links, identify.Link{A: j.a, B: j.b, Broken: j.broken})
	}
	placing := p.Solve()
	f.of, f.way = placing.Of, placing.Way
	for c, a := range f.of { // who stands for a component is of its kind after all
		if a >= 0 {
			f.kind[a], f.likes[a] = r.kindOf[c], by.Likes[a][r.kindOf[c]]
		}
	}
	for i := range att.doc.Components {
		if !slices.Contains(f.of, i) {
			f.spare = append(f.spare, i)
		}
	}
	return f
}

// foreign refuses what has nothing of the assembly in it: no attempt is used up by it.
func (f *found) foreign() error {
	if slices.ContainsFunc(f.of, func(a int) bool { return a >= 0 }) {
		return nil
	}
	what := "nothing in it is like any part of this assembly"
	if len(f.att.doc.Components) == 1 {
		what = f.att.doc.Components[0].Title() + " is like no part of this assembly"
	}
	return &check.Unusable{What: what,
		Remedy: "compare it with the sheets; if it belongs to another exercise, hand it in there: no attempt is used up"}
}

func (f *found) bulk() *report.Bulk {
	var parts []*identify.Part
	for i := range f.att.doc.Components {
		parts = append(parts, f.att.part(i))
	}
	return bulk(parts)
}

// ways are those in which components of the attempt can be of a kind, worked out once for each pair of parts.
func (f *found) ways(by identify.Found) func(component, kind int) ([]identify.Way, float64) {
	type pair struct {
		part string
		kind int
	}
	known := map[pair][]identify.Way{}
	return func(component, kind int) ([]identify.Way, float64) {
		key := pair{f.att.doc.Components[component].Part, kind}
		list, have := known[key]
		if !have {
			list = f.told(kind, identify.Ways(f.parts[slices.Index(f.kindOf, kind)], f.att.part(component)))
			known[key] = list
		}
		out := make([]identify.Way, len(list))
		for i, w := range list {
			out[i] = w.At(f.att.poses[component])
		}
		return out, by.Likes[component][kind].Cost
	}
}

// told leaves out of the ways of a kind those that no joint can tell from one before them: all features that joints
// hold on components of that kind are in the same place, and look the same way.
func (f *found) told(kind int, list []identify.Way) []identify.Way {
	var names []string
	held := map[string]bool{} // those that a joint turns as well
	for i := range f.key.joints {
		j := &f.key.joints[i]
		for side, c := range []int{j.a, j.b} {
			if f.kindOf[c] == kind {
				name := []string{j.A.Name, j.B.Name}[side]
				names = append(names, name)
				held[name] = held[name] || slices.ContainsFunc(j.nominal, func(o assembly.Off) bool {
					return o.What == assembly.Held
				})
			}
		}
	}
	var out []identify.Way
	for _, w := range list {
		if !slices.ContainsFunc(out, func(o identify.Way) bool { return sameTo(names, held, &w, &o) }) {
			out = append(out, w)
		}
	}
	return out
}

// sameTo tells whether two ways have some features in the same places.
func sameTo(names []string, held map[string]bool, a, b *identify.Way) bool {
	for _, n := range names {
		fa, okA := a.Shape.Feature(n)
		fb, okB := b.Shape.Feature(n)
		if okA != okB {
			return false
		}
		if !okA {
			continue
		}
		x, y := a.Pose.Place(fa.Frame()), b.Pose.Place(fb.Frame())
		if x.O.Distance(y.O) > samePlace || x.Z.Distance(y.Z) > samePlace || held[n] && !a.Round &&
			x.X.Distance(y.X) > samePlace {
			return false
		}
	}
	return true
}

// shown is where a component of the attempt is shown: the whole is moved so that the base lies where it does in the
// reference; of parts that were handed in by themselves each is laid where it belongs.
func (f *found) shown(n int) rigid.Pose {
	if c := slices.Index(f.of, n); f.att.Apart && c >= 0 {
		return f.att.poses[n].Then(f.way[c].Pose.Inverse()).Then(f.pose(c))
	}
	return f.att.poses[n].Then(f.asInReference())
}

// mesh is that of all components of the attempt where they are shown.
func (f *found) mesh() (*solid.Mesh, error) {
	out := &solid.Mesh{Vertices: []float64{}, Triangles: []int32{}, Faces: []int32{}, Lines: [][]float64{}}
	faces := int32(0)
	for i, c := range f.att.doc.Components {
		m := f.att.made[c.Part].Shape.Mesh.Moved(f.shown(i).Transform())
		first, most := int32(len(out.Vertices)/3), int32(0)
		out.Vertices, out.Lines = append(out.Vertices, m.Vertices...), append(out.Lines, m.Lines...)
		for _, v := range m.Triangles {
			out.Triangles = append(out.Triangles, first+v)
		}
		for _, v := range m.Faces {
			out.Faces = append(out.Faces, faces+v)
			most = max(most, v+1)
		}
		faces += most
	}
	return out, nil
}

// same tells whether what stands for a component of the reference is its very part.
func (f *found) same(c int) bool { return f.likes[f.of[c]].Sameness == identify.Same }

// there tells whether something stands for a component of the reference.
func (f *found) there(c int) bool { return f.of[c] >= 0 }

// called is what a component of the reference is called where it is told of an attempt: as it is in the parts list, and
// where several are of its item, as the attempt calls it as well.
func (f *found) called(c int) string {
	n := 0
	for _, kind := range f.kindOf {
		if kind == f.kindOf[c] {
			n++
		}
	}
	if n == 1 || !f.there(c) {
		return f.title(c)
	}
	return f.title(c) + ", in your assembly " + f.att.title(f.of[c])
}
