package assemblies

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
	"hammerset/kernel/task"
)

// draft is an attempt that is made from the documents of the reference.
type draft struct {
	c     *corpus
	t     *tasked
	doc   *assembly.Document
	files map[string][]byte
}

// begin begins with the reference itself.
func (c *corpus) begin(t *tasked) *draft {
	var doc assembly.Document
	if err := json.Unmarshal(asJSON(t.read.Document), &doc); err != nil {
		panic(err)
	}
	files := map[string][]byte{}
	for name, data := range t.read.Files {
		files[name] = data
	}
	return &draft{c, t, &doc, files}
}

// shapes makes the parts.
func (d *draft) shapes(ctx context.Context) (map[string]*assembly.Shape, error) {
	out := map[string]*assembly.Shape{}
	for _, p := range d.doc.Parts {
		raw, err := d.c.w.Do(ctx, &task.Request{Kind: task.Feature, Assembly: asJSON(d.doc), File: d.files[p.File],
			Part: p.ID}, func(string, float64) {})
		if err != nil {
			return nil, err
		}
		s, ok := raw.(*assembly.Shape)
		if !ok || s.Broken != nil {
			return nil, errNot
		}
		out[p.ID] = s
	}
	return out, nil
}

// solve brings the components to where the joints hold.
func (d *draft) solve(ctx context.Context) (*assembly.Mechanism, error) {
	of, err := d.shapes(ctx)
	if err != nil {
		return nil, err
	}
	m, err := assembly.New(d.doc, of, nil)
	if err != nil {
		return nil, err
	}
	if len(m.Lost()) > 0 || !m.Solve().Holds {
		return nil, errNot
	}
	d.doc = m.Placed()
	return m, nil
}

// bundle is the draft as a file.
func (d *draft) bundle() ([]byte, error) {
	for i := range d.doc.Parts {
		d.doc.Parts[i].SHA256 = documents.Sum(d.files[d.doc.Parts[i].File])
	}
	return documents.PackAssembly(d.doc, d.files)
}

// step is the draft as a STEP file with its structure.
func (d *draft) step(ctx context.Context) ([]byte, error) {
	format := []string{"ap214", "ap242"}[d.c.rng.IntN(2)]
	raw, err := d.c.w.Do(ctx, &task.Request{Kind: task.ExportAssembly, Assembly: asJSON(d.doc), Files: d.files,
		Name: format},
		func(string, float64) {})
	if err != nil {
		return nil, err
	}
	return raw.(*modeller.Exported).Data, nil
}

// flat is the draft as a STEP file of nothing but solids, moved and in another order.
func (d *draft) flat(ctx context.Context) ([]byte, error) {
	data, err := d.step(ctx)
	if err != nil {
		return nil, err
	}
	k := occ.Kernel{}
	content, err := k.ReadSTEP(ctx, data)
	if err != nil {
		return nil, err
	}
	list, err := k.Split(content.Shape)
	if err != nil {
		return nil, err
	}
	return d.c.written(list)
}

// written writes solids as one file, moved together, in another order and without names.
func (c *corpus) written(list []solid.Shape) ([]byte, error) {
	k := occ.Kernel{}
	at := c.anywhere(200).Transform()
	c.rng.Shuffle(len(list), func(i, j int) { list[i], list[j] = list[j], list[i] })
	var out []solid.Titled
	for i, s := range list {
		moved, _, err := k.Transform(s, at)
		if err != nil {
			return nil, err
		}
		out = append(out, solid.Titled{Shape: moved, Name: fmt.Sprintf("body %d", i+1)})
	}
	return k.WriteSTEP(out, "attempt", solid.AP214)
}

// anywhere is a random pose.
func (c *corpus) anywhere(reach float64) rigid.Pose {
	r := c.rng
	axis := solid.Vec{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}
	p, err := rigid.Of(solid.Rotation(solid.Vec{}, axis, r.Float64()*2*math.Pi))
	if err != nil {
		panic(err) // a rotation is a motion
	}
	p.Shift = solid.Vec{r.Float64(), r.Float64(), r.Float64()}.Scale(reach)
	return p
}

// handedIn is the draft as a file of one of three forms; one with joints where joints are what is wrong.
func (d *draft) handedIn(ctx context.Context, joints bool) (*attempt, error) {
	a := &attempt{name: "attempt.zip"}
	var err error
	switch n := d.c.rng.IntN(4); {
	case joints || n < 2:
		a.file, err = d.bundle()
	case n == 2:
		a.name = "attempt.step"
		a.file, err = d.step(ctx)
	default:
		a.name = "attempt.step"
		a.file, err = d.flat(ctx)
	}
	return a, err
}

// number is that of the item of a component of the reference.
func (d *draft) number(component string) string {
	c, _ := d.t.read.Document.Component(component)
	p, _ := d.t.read.Document.Part(c.Part)
	return p.Number
}

// turnsOver tells whether a component's part looks the same from the other side.
func turnsOver(s *assembly.Shape, axis solid.Vec) bool {
	if s.Symmetry == nil {
		return false
	}
	return slices.ContainsFunc(s.Symmetry.Turns, func(t rigid.Pose) bool { return t.Rotate(axis).Dot(axis) < -0.999 })
}

// ofDocuments are the kinds that are made from documents.
func ofDocuments() []kindOfAttempt {
	doc := func(name string, joints bool, change func(ctx context.Context, d *draft) (*attempt, error)) kindOfAttempt {
		return kindOfAttempt{name, func(ctx context.Context, c *corpus, t *tasked) (*attempt, error) {
			d := c.begin(t)
			truth, err := change(ctx, d)
			if err != nil {
				return nil, err
			}
			a, err := d.handedIn(ctx, joints)
			if err != nil {
				return nil, err
			}
			truth.name, truth.file = a.name, a.file
			return truth, nil
		}}
	}
	return []kindOfAttempt{
		doc("right", false, asItIs), doc("right, elsewhere", false, elsewhere), doc("right, renamed", false, renamed),
		doc("missing", false, missing), doc("too many", false, tooMany), doc("two in one place", false, twice),
		doc("wrong way round", false, wrongWay), doc("shifted", false, shifted), doc("offset", false, wrongOffset),
		doc("rigid", true, rigidly), doc("slides", true, slides), doc("forgotten", true, forgotten),
		doc("untied", true, untied), doc("wrong size", false, wrongSize), doc("wrong part", false, wrongPart),
		doc("the other way", false, inTheOtherWay), doc("turned by a pitch", false, byAPitch),
		doc("size and missing", false, both(wrongSize, missing)), doc("size and shifted", false, both(wrongSize, shifted)),
	}
}

func asItIs(ctx context.Context, d *draft) (*attempt, error) {
	_, err := d.solve(ctx)
	return &attempt{}, err
}

// elsewhere drives the mechanism somewhere else, and the whole lies anywhere.
func elsewhere(ctx context.Context, d *draft) (*attempt, error) {
	m, err := d.solve(ctx)
	if err != nil {
		return nil, err
	}
	for _, j := range d.doc.Joints {
		drive, err := m.Drive(j.ID)
		if err != nil {
			continue
		}
		if by := d.c.rng.Float64()*2 - 1; drive.Turns { // not so far that an eye meets its fork
			drive.To(drive.Value()+by, nil)
		}
	}
	d.doc = m.Placed()
	at := d.c.anywhere(300)
	for i := range d.doc.Components {
		d.doc.Components[i].Pose = d.doc.Components[i].Pose.Then(at)
	}
	return &attempt{}, nil
}

// renamed has other names and another order.
func renamed(ctx context.Context, d *draft) (*attempt, error) {
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	for i := range d.doc.Parts {
		d.doc.Parts[i].Name, d.doc.Parts[i].Number = fmt.Sprintf("part %d", 9-i), ""
	}
	for i := range d.doc.Components {
		d.doc.Components[i].Name = fmt.Sprintf("thing %d", (i*7)%11)
	}
	d.c.rng.Shuffle(len(d.doc.Components), func(i, j int) {
		d.doc.Components[i], d.doc.Components[j] = d.doc.Components[j], d.doc.Components[i]
	})
	return &attempt{}, nil
}

// without takes a component out with its joints.
func (d *draft) without(id string) {
	d.doc.Components = slices.DeleteFunc(d.doc.Components, func(c assembly.Component) bool { return c.ID == id })
	d.doc.Joints = slices.DeleteFunc(d.doc.Joints, func(j assembly.Joint) bool {
		return j.A.Component == id || j.B.Component == id
	})
	d.doc.Drives = slices.DeleteFunc(d.doc.Drives, func(x assembly.Driving) bool {
		_, ok := d.doc.Joint(x.Joint)
		return !ok
	})
	d.doc.Traces = slices.DeleteFunc(d.doc.Traces, func(x assembly.Trace) bool { return x.Of.Component == id })
}

// loose is a component that is not pinned.
func (d *draft) loose() *assembly.Component {
	for {
		if c := &d.doc.Components[d.c.rng.IntN(len(d.doc.Components))]; !c.Pinned {
			return c
		}
	}
}

func missing(ctx context.Context, d *draft) (*attempt, error) {
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	if len(d.doc.Components) == 2 {
		return nil, errNot // a part by itself is one that is handed in by itself
	}
	id := d.loose().ID
	number := d.number(id)
	d.without(id)
	// Which of several equal ones is missing cannot be told: its joints may be those of another one.
	var alike []string
	was, _ := d.t.read.Document.Component(id)
	for _, c := range d.t.read.Document.Components {
		if c.Part == was.Part {
			alike = append(alike, c.ID)
		}
	}
	return &attempt{first: []string{"missing item"}, item: number, wrong: []string{"item " + number},
		may: either(touching(d.t.read.Document, alike...), prefixed("whole quantity", "free"))}, nil
}

func tooMany(ctx context.Context, d *draft) (*attempt, error) {
	m, err := d.solve(ctx)
	if err != nil {
		return nil, err
	}
	c := *d.loose()
	number := d.number(c.ID)
	c.ID, c.Name = "more", "one more"
	c.Pose = c.Pose.Then(rigid.Pose{Turn: rigid.Still().Turn, Shift: solid.Vec{500, 100, 0}})
	if m != nil {
		d.doc.Components = append(d.doc.Components, c)
	}
	return &attempt{first: []string{"too many"}, item: number, wrong: []string{"item " + number}}, nil
}

func twice(ctx context.Context, d *draft) (*attempt, error) {
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	c := *d.loose()
	number := d.number(c.ID)
	c.ID, c.Name = "more", "again"
	d.doc.Components = append(d.doc.Components, c)
	return &attempt{first: []string{"two in one place"}, item: number, wrong: []string{"item " + number}}, nil
}

// leaf picks a joint at whose a component nothing else hangs, or at whose b component.
func (d *draft) leaf(ok func(j *assembly.Joint, leaf string) bool) (*assembly.Joint, string, error) {
	order := d.c.rng.Perm(len(d.doc.Joints))
	for _, n := range order {
		j := &d.doc.Joints[n]
		for _, id := range []string{j.A.Component, j.B.Component} {
			c, _ := d.doc.Component(id)
			hangs := 0
			for _, o := range d.doc.Joints {
				if o.A.Component == id || o.B.Component == id {
					hangs++
				}
			}
			if hangs == 1 && !c.Pinned && ok(j, id) {
				return j, id, nil
			}
		}
	}
	return nil, "", errNot
}

func wrongWay(ctx context.Context, d *draft) (*attempt, error) {
	m, err := d.solve(ctx)
	if err != nil {
		return nil, err
	}
	of, err := d.shapes(ctx)
	if err != nil {
		return nil, err
	}
	j, id, err := d.leaf(func(j *assembly.Joint, leaf string) bool {
		c, _ := d.doc.Component(leaf)
		f, ok := m.Feature(j.A)
		if leaf == j.B.Component {
			f, ok = m.Feature(j.B)
		}
		return ok && !turnsOver(of[c.Part], f.Axis)
	})
	if err != nil {
		return nil, err
	}
	if sense, ok := m.Facing(j.ID); !ok {
		return nil, errNot
	} else if j.Sense = assembly.Opposed; sense == assembly.Opposed {
		j.Sense = assembly.Same
	}
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	return &attempt{first: []string{"wrong way round", "wrong side"}, item: d.number(id),
		wrong: []string{"placed " + j.ID}, may: touching(d.t.read.Document, id)}, nil
}

func shifted(ctx context.Context, d *draft) (*attempt, error) {
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	j, id, err := d.leaf(func(j *assembly.Joint, _ string) bool {
		k, _ := assembly.KindOf(j.Kind)
		return slices.Contains(k.Sizes, "offset") && j.Offset == "" && len(k.Takes) > 0 && k.Pair()
	})
	if err != nil {
		return nil, err
	}
	j.Offset = fmt.Sprintf("%g mm", []float64{6, 8, -7, 10.5}[d.c.rng.IntN(4)])
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	return &attempt{first: []string{"shifted", "shifted by a thickness"}, item: d.number(id),
		wrong: []string{"placed " + j.ID}, may: touching(d.t.read.Document, id)}, nil
}

func wrongOffset(ctx context.Context, d *draft) (*attempt, error) {
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	j, id, err := d.leaf(func(j *assembly.Joint, _ string) bool { return j.Offset != "" })
	if err != nil {
		return nil, err
	}
	if j.Offset = "-(" + j.Offset + ")"; strings.HasPrefix(j.Offset, "-(-") {
		j.Offset = strings.TrimSuffix(j.Offset[3:], ")")
	}
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	return &attempt{first: []string{"offset of the wrong sign"}, item: d.number(id), wrong: []string{"placed " + j.ID},
		may: touching(d.t.read.Document, id)}, nil
}

// freedom is the mobility of the draft as it is.
func (d *draft) freedom(ctx context.Context) (int, error) {
	m, err := d.solve(ctx)
	if err != nil {
		return 0, err
	}
	return m.Mobility().Freedom, nil
}

// onJoints are keys that a wrong joint can change: what joints leave, and how it moves.
func onJoints(key string) bool {
	return strings.HasPrefix(key, "free ") || key == "mobility" || key == "whole mobility"
}

func rigidly(ctx context.Context, d *draft) (*attempt, error) {
	m, err := d.solve(ctx)
	if err != nil {
		return nil, err
	}
	var list []int
	for i, j := range d.doc.Joints {
		if j.Kind == "revolute" && (d.t.name != "lifting-block") && j.ID != "j1" || j.Kind == "revolute" &&
			d.t.name == "paddle-lift" {
			list = append(list, i)
		}
	}
	if len(list) == 0 {
		return nil, errNot
	}
	j := &d.doc.Joints[list[d.c.rng.IntN(len(list))]]
	stands, ok := m.AsItStands(assembly.Joint{ID: j.ID, Kind: "rigid", A: j.A, B: j.B})
	if !ok {
		return nil, errNot
	}
	*j = stands
	d.doc.Drives = nil
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	return &attempt{first: []string{"rigid where it should move"}, wrong: []string{"free " + j.ID, "mobility"},
		may: onJoints}, nil
}

func slides(ctx context.Context, d *draft) (*attempt, error) {
	before, err := d.freedom(ctx)
	if err != nil {
		return nil, err
	}
	var list []int
	for i, j := range d.doc.Joints {
		if j.Kind == "revolute" {
			list = append(list, i)
		}
	}
	if len(list) == 0 {
		return nil, errNot
	}
	j := &d.doc.Joints[list[d.c.rng.IntN(len(list))]]
	j.Kind, j.Offset = "cylindrical", ""
	after, err := d.freedom(ctx)
	if err != nil || after == before {
		return nil, errNot
	}
	return &attempt{first: []string{"moves where it should be held", "joint of another kind", "joint forgotten"},
		wrong: []string{"free " + j.ID, "mobility"}, may: onJoints}, nil
}

func forgotten(ctx context.Context, d *draft) (*attempt, error) {
	before, err := d.freedom(ctx)
	if err != nil {
		return nil, err
	}
	n := d.c.rng.IntN(len(d.doc.Joints))
	j := d.doc.Joints[n]
	d.doc.Joints = slices.Delete(d.doc.Joints, n, n+1)
	d.doc.Drives = nil
	after, err := d.freedom(ctx)
	if err != nil || after == before {
		return nil, errNot
	}
	return &attempt{first: []string{"joint forgotten", "moves where it should be held"},
		wrong: []string{"free " + j.ID, "mobility"}, may: onJoints}, nil
}

// wrongSize gives one part another size.
func wrongSize(ctx context.Context, d *draft) (*attempt, error) {
	p := &d.doc.Parts[d.c.rng.IntN(len(d.doc.Parts))]
	item := d.t.read.Exercises[p.ID]
	if item == nil {
		return nil, errNot
	}
	doc, err := part.Read(d.files[p.File])
	if err != nil || len(doc.Parameters) == 0 {
		return nil, errNot
	}
	q := &doc.Parameters[d.c.rng.IntN(len(doc.Parameters))]
	table, err := doc.Table(nil)
	if err != nil {
		return nil, err
	}
	v, _ := table.Lookup(q.Name)
	factor := []float64{0.9, 1.1, 1.25}[d.c.rng.IntN(3)]
	q.Formula = quantity.Quantity{Value: math.Round(v.Value*factor*100) / 100, Dim: v.Dim}.Formula()
	d.files[p.File] = asJSON(doc)
	p.Values, p.SHA256 = nil, documents.Sum(d.files[p.File])
	for i := range d.doc.Parts { // the sizes of the others stay
		d.doc.Parts[i].Values = nil
	}
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	first := []string{"part"}
	for _, x := range d.t.given() {
		if x == p.ID {
			first = []string{"given part altered"}
		}
	}
	return &attempt{first: first, item: p.Number, wrong: []string{"item " + p.Number},
		may: prefixed("placed", "free", "mobility", "collision", "motion", "whole path", "whole range", "whole mobility",
			"whole interference")}, nil
}

// untied has a number in place of a formula that ties the size of a part to that of the assembly, or in place of all
// formulas that do, so that the size is there and nothing hangs on it.
func untied(ctx context.Context, d *draft) (*attempt, error) {
	table, err := d.doc.Table(nil)
	if err != nil {
		return nil, err
	}
	for _, n := range d.c.rng.Perm(len(d.doc.Parts)) {
		p := &d.doc.Parts[n]
		for _, name := range slices.Sorted(maps.Keys(p.Values)) {
			f, err := quantity.Parse(p.Values[name])
			if err != nil || len(f.Names()) != 1 {
				continue
			}
			v, err := table.Eval(p.Values[name], quantity.Length)
			if err != nil {
				continue
			}
			size, all := f.Names()[0], d.c.rng.IntN(2) == 0
			for k := range d.doc.Parts {
				for n, text := range d.doc.Parts[k].Values {
					if &d.doc.Parts[k] == p && n == name || all && text == size {
						d.doc.Parts[k].Values[n] = quantity.Quantity{Value: v, Dim: quantity.Length}.Formula()
					}
				}
			}
			_, err = d.solve(ctx)
			return &attempt{first: []string{"does not follow"}, wrong: []string{"varied " + size}}, err
		}
	}
	return nil, errNot
}

// given are the parts that students are given.
func (t *tasked) given() []string {
	var out []string
	ex, err := documents.ReadExercise(t.ex)
	if err != nil {
		return nil
	}
	for _, x := range ex.Assembly.Items {
		if x.Given {
			out = append(out, x.Part)
		}
	}
	return out
}

// wrongPart puts a similar part in the place of another one.
func wrongPart(ctx context.Context, d *draft) (*attempt, error) {
	if d.t.name != "lifting-block" {
		return nil, errNot
	}
	c, _ := d.doc.Component("b3")
	c.Part = "bush"
	if _, err := d.solve(ctx); err != nil {
		return nil, err
	}
	return &attempt{first: []string{"wrong part"}, item: d.number("b3"), wrong: []string{"item " + d.number("b3")},
		may: either(touching(d.t.read.Document, "b1", "b2", "b3"), prefixed("item", "whole quantity"))}, nil
}

// both makes two mistakes at once.
func both(a, b func(context.Context, *draft) (*attempt, error)) func(context.Context, *draft) (*attempt, error) {
	return func(ctx context.Context, d *draft) (*attempt, error) {
		x, err := a(ctx, d)
		if err != nil {
			return nil, err
		}
		y, err := b(ctx, d)
		if err != nil {
			return nil, err
		}
		if x.item == y.item { // of what is missing no size can be told
			return nil, errNot
		}
		x.second, x.other, x.wrong = y.first, y.item, append(x.wrong, y.wrong...)
		x.may = either(x.may, y.may)
		x.wrong = slices.DeleteFunc(x.wrong, func(k string) bool { return strings.HasPrefix(k, "placed") && x.may(k) })
		return x, nil
	}
}
