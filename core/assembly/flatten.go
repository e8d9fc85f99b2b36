package assembly

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/quantity"
	"hammerset/core/rigid"
)

// LayFlat puts what a nested assembly is made of in its place: its components, joints, couplings and traces are the
// document's own then, where they stand, and it is kept as a group. What joins the nested assembly to others joins its
// components; sizes of it are worked out, since its parameters go with it. Ids begin with that of the component that
// it was. parts tells which part of the document each of its parts is now.
func (d *Document) LayFlat(component string, n *Nest) (parts map[string]string, err error) {
	i := slices.IndexFunc(d.Components, func(c Component) bool { return c.ID == component })
	if i < 0 {
		return nil, fmt.Errorf("there is no component %q", component)
	}
	d.asGroup(&d.Components[i])
	c := d.Components[i]
	table, err := n.Document.Table(nil)
	if err != nil {
		return nil, err
	}
	flat, _, err := Flat(n.Document, n.Shapes)
	if err != nil {
		return nil, err
	}
	l := laying{d, n.Document, &c, table, map[string]string{}}
	if err := l.parts(); err != nil {
		return nil, err
	}
	l.groups()
	inner := fold(n.Document, n.Shapes, func(path string) rigid.Pose {
		x, _ := flat.Component(path)
		if moved, ok := c.Inner[path]; ok && c.Moving {
			return moved
		}
		return x.Pose
	})
	for k := range inner {
		x := &inner[k]
		if c.Turns != nil {
			x.Turns = turnsBelow(c.Turns, x.ID)
		}
		x.ID, x.Part, x.Name = l.id(x.ID), l.part[x.Part], c.Title()+": "+x.Title()
		x.Pose, x.Pinned, x.In = x.Pose.Then(c.Pose), x.Pinned && c.Pinned, l.inGroup(x.In)
		if _, taken := d.Component(x.ID); taken {
			return nil, fmt.Errorf("there is a component %q already: it is in the way of one of %s", x.ID, c.Title())
		}
	}
	d.Components = slices.Replace(d.Components, i, i+1, inner...)
	if n := len(d.Components); n > MaxComponents {
		return nil, fmt.Errorf("laid flat, there would be %d components, and at most %d are taken", n, MaxComponents)
	}
	used := map[string]bool{}
	for _, c := range d.Components {
		used[c.Part] = true
	}
	if n := len(used); n > MaxParts {
		return nil, fmt.Errorf("laid flat, there would be %d parts, and at most %d are taken", n, MaxParts)
	}
	l.outward()
	return l.part, l.ties()
}

// turnsBelow are those of the joints in one component.
func turnsBelow(turns map[string]int, component string) map[string]int {
	var out map[string]int
	for id, n := range turns {
		if rest, ok := strings.CutPrefix(id, component+"/"); ok {
			if out == nil {
				out = map[string]int{}
			}
			out[rest] = n
		}
	}
	return out
}

// laying is a nested assembly while it is laid flat.
type laying struct {
	doc, inner *Document
	was        *Component
	table      *quantity.Table // of the nested assembly
	part       map[string]string
}

func (l *laying) id(inner string) string { return l.was.ID + "-" + inner }

// parts puts in the parts that are not there yet; one is there where it is of the same file, solid and sizes.
func (l *laying) parts() error {
	for _, p := range l.inner.Parts {
		values, err := p.given(l.table)
		if err != nil {
			return err
		}
		if p.Values = nil; len(values) > 0 {
			p.Values = map[string]string{}
			for name, q := range values {
				p.Values[name] = q.Formula()
			}
		}
		if err := workOut(l.table, dimensioned{&p.Density, quantity.Number}); err != nil {
			return fmt.Errorf("the density of %s: %w", p.Name, err)
		}
		l.part[p.ID] = l.have(p)
	}
	return nil
}

// content is the same for parts that are the same: of one file, solid and sizes, made of one material.
func (p *Part) content() string {
	return fmt.Sprintln(p.SHA256, p.Solid, p.Material, p.Density, p.Soft, quantity.Names(p.Values), p.Values)
}

// kind is the same for parts that are the same, as the kind of a group.
func (p *Part) kind() string {
	if p.SHA256 == "" {
		return p.ID // it is told from others by nothing else
	}
	sum := sha256.Sum256([]byte(p.content()))
	return "k" + hex.EncodeToString(sum[:6])
}

// have is the id of a part in the document, which is put in where it is not there.
func (l *laying) have(p Part) string {
	for i := range l.doc.Parts {
		if o := &l.doc.Parts[i]; o.content() == p.content() {
			return o.ID
		}
	}
	// Files that are held by their content have one name for one content.
	p.File = "part-" + p.SHA256[:min(8, len(p.SHA256))] + path.Ext(p.File)
	p.ID = l.was.ID + "-" + p.ID
	if like := l.doc.groupOf(p.kind()); like != nil {
		p.Number = like.Number // one of these was laid flat before
	} else if g := l.doc.group(l.was.In); g == nil {
		p.Number = l.doc.freeNumber("", len(l.doc.Parts)+1)
	} else if own := g.Number + "." + p.Number; p.Number != "" && l.doc.numberFree(own) {
		p.Number = own // as it is numbered in the nested assembly
	} else {
		p.Number = l.doc.freeNumber(g.Number+".", 1)
	}
	l.doc.Parts = append(l.doc.Parts, p)
	return p.ID
}

// outward writes what is said of the nested assembly from outside anew: "c2/c1" is "c2-c1" then.
func (l *laying) outward() {
	at := l.was.ID + "/"
	again := func(component *string) {
		if rest, ok := strings.CutPrefix(*component, at); ok {
			*component = l.id(rest)
		}
	}
	for i := range l.doc.Joints {
		again(&l.doc.Joints[i].A.Component)
		again(&l.doc.Joints[i].B.Component)
	}
	for i := range l.doc.Traces {
		again(&l.doc.Traces[i].Of.Component)
	}
	l.doc.Prints = renamed(l.doc.Prints, again)
	for i := range l.doc.Apart {
		again(&l.doc.Apart[i].Component)
	}
}

// renamed are prints of addresses whose components have other names.
func renamed(prints map[string]Print, again func(component *string)) map[string]Print {
	out := maps.Clone(prints)
	for text, p := range prints {
		if r, err := address.Parse(text); err == nil {
			delete(out, text)
			again(&r.Component)
			out[r.String()] = p
		}
	}
	return out
}

// ties brings the joints, couplings and traces of the nested assembly out of it.
func (l *laying) ties() error {
	joints, couplings, err := tiesOf(l.inner, l.table, l.id)
	if err != nil {
		return err
	}
	l.doc.printsWith(l.inner, l.id)
	for i := range joints {
		if n, ok := l.was.Turns[l.inner.Joints[i].ID]; ok {
			joints[i].State = n
		}
	}
	l.doc.Joints, l.doc.Couplings = append(l.doc.Joints, joints...), append(l.doc.Couplings, couplings...)
	for _, x := range l.inner.Drives {
		if err := workOut(l.table, x.formulas(l.inner)...); err != nil {
			return fmt.Errorf("a drive: %w", err)
		}
		x.Joint = l.id(x.Joint)
		l.doc.Drives = append(l.doc.Drives, x)
	}
	for _, t := range l.inner.Traces {
		t.ID, t.Of.Component = l.id(t.ID), l.id(t.Of.Component)
		l.doc.Traces = append(l.doc.Traces, t)
	}
	return nil
}
