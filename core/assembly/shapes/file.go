package shapes

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"path"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/inspect"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Packer writes an assembly with the files of its parts as the file of a part, the same content always alike.
type Packer func(*assembly.Document, map[string][]byte) ([]byte, error)

// Assembly reads a STEP file as an assembly: a part for each solid of each product, with a file of its own, and a
// component for each place that it has. Equal solids of one kind are one part, and an assembly in the assembly is a
// part that is an assembly itself. Such a file brings no joints; the first component is pinned. A product that is
// placed mirrored is a part of its own, since no motion leads there; so is what is in an assembly that is placed
// mirrored.
//
// What the file only names is looked for in the other files that came with it, and nowhere else. What has no solid, and
// what is in a file that did not come, is left out, and the note of the document names it.
func (m *Maker) Assembly(ctx context.Context, data []byte, name string, others map[string][]byte,
	pack Packer) (*assembly.Document, map[string][]byte, error) {
	r := &reading{ctx: ctx, k: m.Rebuilder.Kernel(), pack: pack, others: map[string][]byte{}}
	for other, data := range others {
		r.others[plain(other)] = data
	}
	f, err := r.open(data)
	if err != nil {
		return nil, nil, err
	}
	doc, files, err := r.level(f, name, f.whole(), solid.Identity, 0)
	switch {
	case err != nil:
		return nil, nil, err
	case len(doc.Components) == 0:
		return nil, nil, &Error{"the STEP file holds no solid", "export the solids, and not their surfaces"}
	case r.placed > assembly.MaxComponents:
		return nil, nil, &Error{fmt.Sprintf("the STEP file holds %d placed solids, and at most %d are taken", r.placed,
			assembly.MaxComponents), "export a part of the assembly"}
	}
	doc.Note = r.left()
	return doc, files, doc.Check()
}

// reading is a STEP file while it becomes an assembly, with the files that came with it.
type reading struct {
	ctx     context.Context
	k       solid.Kernel
	pack    Packer
	others  map[string][]byte // by their plain names
	opened  map[string]*stepFile
	known   []*equal
	empty   []string // products without a solid
	missing []string // files that did not come
	within  []string // the files that are being gone through, the outermost first
	placed  int
	visited int
}

// mostVisited bounds the components of all levels, against files that name one another again and again.
const mostVisited = 10000

// stepFile is one of the files.
type stepFile struct {
	*solid.Content
	below map[int][]int   // what each component of the file is made of
	of    map[int][]piece // the solids of each part of the file
}

// plain is the name of a file without the folders that it is in, which others may write otherwise.
func plain(name string) string {
	return strings.ToLower(path.Base(strings.ReplaceAll(name, `\`, "/")))
}

func (r *reading) open(data []byte) (*stepFile, error) {
	c, err := r.k.ReadSTEP(r.ctx, data)
	if err != nil {
		return nil, err
	}
	f := &stepFile{c, map[int][]int{}, map[int][]piece{}}
	for i, x := range c.Tree {
		f.below[x.Parent] = append(f.below[x.Parent], i)
	}
	return f, nil
}

// whole are the components that the file is about: those at its roots, or what its one assembly is made of.
func (f *stepFile) whole() []int {
	nodes := f.below[-1]
	if len(nodes) == 1 && f.Tree[nodes[0]].Part < 0 && f.Tree[nodes[0]].File == "" {
		return f.below[nodes[0]]
	}
	return nodes
}

// other is a file that came along, opened once; nil where it did not come.
func (r *reading) other(name string) (*stepFile, error) {
	key := plain(name)
	if f, ok := r.opened[key]; ok {
		return f, nil
	}
	data, ok := r.others[key]
	if !ok {
		if !slices.Contains(r.missing, name) {
			r.missing = append(r.missing, name)
		}
		return nil, nil
	}
	f, err := r.open(data)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	if r.opened == nil {
		r.opened = map[string]*stepFile{}
	}
	r.opened[key] = f
	return f, nil
}

// left says what was left out.
func (r *reading) left() string {
	var list []string
	if len(r.empty) > 0 {
		list = append(list, "Left out, since it has no solid: "+strings.Join(r.empty, ", "))
	}
	if len(r.missing) > 0 {
		list = append(list, "Left out, since the file did not come along: "+strings.Join(r.missing, ", ")+
			". Pack it with the others, and open them together")
	}
	return strings.Join(list, ". ")
}

// piece is a solid as a part of its own, and where it lies in the product that it is of.
type piece struct {
	part assembly.Part
	data []byte
	at   rigid.Pose
}

// equal is a solid that others may be equal to.
type equal struct {
	piece
	geometry *solid.Geometry
}

// level makes an assembly of some components of the file. onward leads to where its coordinates stand for those of the
// file: what mirrors cannot be the pose of a component, and goes on to those that it is made of.
func (r *reading) level(f *stepFile, name string, nodes []int, onward solid.Transform, depth int) (*assembly.Document,
	map[string][]byte, error) {
	if depth > assembly.MaxDepth {
		return nil, nil, &Error{fmt.Sprintf("%s is nested in more than %d assemblies", name, assembly.MaxDepth),
			"lay some of them flat in the program that it comes from"}
	}
	l := &laid{files: map[string][]byte{}, named: map[string]int{},
		doc: &assembly.Document{Hammerset: assembly.Version, Name: name, Unit: "mm", Parts: []assembly.Part{},
			Components: []assembly.Component{}, Joints: []assembly.Joint{}}}
	for _, n := range nodes {
		if r.visited++; r.visited > mostVisited {
			return nil, nil, &Error{"the STEP files hold more components than are read", "export a part of the assembly"}
		}
		x := f.Tree[n]
		at := x.Place.Then(onward)
		if x.Part >= 0 {
			if err := r.place(f, l, x, at); err != nil {
				return nil, nil, err
			}
			continue
		}
		called := cmp.Or(x.Name, "assembly")
		var err error
		if x.File != "" {
			err = r.elsewhere(l, x, called, at, depth)
		} else {
			err = r.nest(f, l, called, f.below[n], at, depth)
		}
		if err != nil {
			return nil, nil, err
		}
	}
	if len(l.doc.Components) > 0 {
		l.doc.Components[0].Pinned = true
	}
	return l.doc, l.files, nil
}

// elsewhere puts in what is in another file, where it is placed: a part, or an assembly.
func (r *reading) elsewhere(l *laid, x solid.Component, called string, at solid.Transform, depth int) error {
	f, err := r.other(x.File)
	if f == nil || err != nil {
		return err
	}
	if slices.Contains(r.within, plain(x.File)) {
		return &Error{fmt.Sprintf("the file %s is in itself, by way of the files that it names", x.File),
			"export the assembly anew"}
	}
	r.within = append(r.within, plain(x.File))
	defer func() { r.within = r.within[:len(r.within)-1] }()
	nodes := f.whole()
	if len(nodes) == 1 && f.Tree[nodes[0]].Part >= 0 {
		part := f.Tree[nodes[0]]
		return r.place(f, l, part, part.Place.Then(at))
	}
	return r.nest(f, l, called, nodes, at, depth)
}

// nest puts in an assembly of some components of a file, where it is placed.
func (r *reading) nest(f *stepFile, l *laid, called string, nodes []int, at solid.Transform, depth int) error {
	inner := solid.Identity
	if at.Det() < 0 {
		called, inner, at = called+", mirrored", at, solid.Identity
	}
	doc, files, err := r.level(f, called, nodes, inner, depth+1)
	if err != nil || len(doc.Components) == 0 { // what has no solid is named already
		return err
	}
	data, err := r.pack(doc, files)
	if err != nil {
		return err
	}
	pose, err := rigid.Of(at)
	if err != nil {
		return err
	}
	l.put(piece{Kept(data, ".zip", called, 0), data, rigid.Still()}, pose)
	return nil
}

// laid is one level of the file.
type laid struct {
	doc   *assembly.Document
	files map[string][]byte
	named map[string]int
}

// put puts a component of a part in.
func (l *laid) put(p piece, at rigid.Pose) {
	if _, have := l.doc.Part(p.part.ID); !have {
		p.part.Number = fmt.Sprint(len(l.doc.Parts) + 1)
		l.doc.Parts, l.files[p.part.File] = append(l.doc.Parts, p.part), p.data
	}
	name := p.part.Name
	if l.named[name]++; l.named[name] > 1 {
		name = fmt.Sprintf("%s %d", name, l.named[name])
	}
	l.doc.Components = append(l.doc.Components, assembly.Component{ID: fmt.Sprintf("c%d", len(l.doc.Components)+1),
		Name: name, Part: p.part.ID, Pose: at})
}

// place puts in the solids of a part of the file where it is placed.
func (r *reading) place(f *stepFile, l *laid, x solid.Component, at solid.Transform) error {
	file := f.Parts[x.Part]
	name := cmp.Or(file.Name, x.Name, "part")
	pieces, known := f.of[x.Part]
	if mirrored := at.Det() < 0; !known || mirrored {
		shape := file.Shape
		if mirrored {
			var err error
			if shape, _, err = r.k.Transform(shape, at); err != nil {
				return err
			}
			at = solid.Identity
		}
		var err error
		if pieces, err = r.pieces(name, shape); err != nil {
			return err
		}
		for i := range pieces {
			if file.Colour != nil && pieces[i].part.Colour == "" {
				pieces[i].part.Colour = assembly.ColourOf(*file.Colour)
			}
		}
		if !mirrored {
			f.of[x.Part] = pieces
		}
	}
	if len(pieces) == 0 && !slices.Contains(r.empty, name) {
		r.empty = append(r.empty, name)
	}
	pose, err := rigid.Of(at)
	if err != nil {
		return err
	}
	r.placed += len(pieces)
	for _, p := range pieces {
		l.put(p, p.at.Then(pose))
	}
	return nil
}

// pieces makes a part of every solid of a shape, with a file of its own. One that is equal to an earlier one is that,
// elsewhere.
func (r *reading) pieces(name string, shape solid.Shape) ([]piece, error) {
	list, err := r.k.Split(shape)
	if err != nil {
		return nil, err
	}
	var out []piece
	for _, s := range list {
		g, err := solid.Describe(r.k, s, nil)
		if err != nil {
			return nil, err
		}
		if p, ok := r.again(name, g); ok {
			out = append(out, p)
			continue
		}
		data, err := r.k.WriteSTEP([]solid.Titled{{Shape: s, Name: name}}, name, solid.AP242)
		if err != nil {
			return nil, err
		}
		p := piece{Kept(data, ".step", name, 0), data, rigid.Still()}
		r.known, out = append(r.known, &equal{p, g}), append(out, p)
	}
	return out, nil
}

// sameFigure is the share by which figures of equal solids differ at most.
const sameFigure = 1e-6

// kindOf is the name of a part without a number at its end, by which programs tell copies apart.
func kindOf(name string) string {
	return strings.ToLower(strings.TrimRight(name, " _.-:()0123456789"))
}

// again finds the earlier solid of the same kind that one is equal to, and the motion from that one to it. Parts that
// are called otherwise stay their own, however alike they are: a parts list tells them apart.
func (r *reading) again(name string, g *solid.Geometry) (piece, bool) {
	like := func(a, b float64) bool { return math.Abs(a-b) <= sameFigure*math.Abs(b) }
	for _, e := range r.known {
		if kindOf(e.part.Name) != kindOf(name) || len(e.geometry.Faces) != len(g.Faces) ||
			!like(g.Props.Volume, e.geometry.Props.Volume) || !like(g.Props.Area, e.geometry.Props.Area) {
			continue
		}
		pose, _ := inspect.FindPose(g, e.geometry)
		if pose.Mirrored || !inspect.Congruent(g, e.geometry, pose.Transform) {
			continue
		}
		if at, err := rigid.Of(pose.Transform); err == nil {
			return piece{e.part, e.data, at}, true
		}
	}
	return piece{}, false
}
