package assembly

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// Group is what was an assembly of its own before its document was laid flat: the components that are in it, and the
// groups that are. Groups of one kind are alike, and are one line of the parts list (ISO 7573), whose own lines come
// one level deeper; they hold nothing together. The kind is that of the part that was nested there, so that what is
// laid flat later is of the same.
type Group struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Kind   string `json:"kind"`
	Number string `json:"number"`
	In     string `json:"in,omitempty"`
}

// asGroup makes a group of a component that is an assembly and is about to be laid flat. Its parts are numbered after
// it: those of 3 are 3.1, 3.2, but for one that has a number already since it stands elsewhere too.
func (d *Document) asGroup(c *Component) {
	d.NumberParts()
	p, _ := d.Part(c.Part)
	g := Group{ID: c.ID, Name: p.Name, Kind: p.kind(), Number: p.Number, In: c.In}
	if like := d.groupOf(g.Kind); like != nil {
		g.Name, g.Number = like.Name, like.Number
	}
	d.Groups = append(d.Groups, g)
	c.In = c.ID
}

// EndGroup lets what is in a group stand by itself, in what the group was in.
func (d *Document) EndGroup(id string) error {
	g := d.group(id)
	if g == nil {
		return fmt.Errorf("there is no group %q", id)
	}
	out := func(in *string) {
		if *in == id {
			*in = g.In
		}
	}
	for i := range d.Components {
		out(&d.Components[i].In)
	}
	for i := range d.Groups {
		out(&d.Groups[i].In)
	}
	d.Groups = slices.DeleteFunc(d.Groups, func(g Group) bool { return g.ID == id })
	return nil
}

// NameGroup names a group, and all of its kind, which are one line of the parts list.
func (d *Document) NameGroup(id, name string) error {
	g := d.group(id)
	if g == nil {
		return fmt.Errorf("there is no group %q", id)
	}
	for i := range d.Groups {
		if like := &d.Groups[i]; like.Kind == g.Kind {
			like.Name = name
		}
	}
	return nil
}

// TidyGroups takes groups away in which nothing is left. One that is no longer like the first of its kind gets a kind
// and a number of its own: a line of the parts list counts what is alike.
func (d *Document) TidyGroups() {
	kinds := map[string]Group{} // by the kind that they had and by what is in them
	first := map[string]bool{}
	for i := len(d.Groups) - 1; i >= 0; i-- { // what is in a group stands after it
		if len(d.within(d.Groups[i].ID)) == 0 {
			d.Groups = slices.Delete(d.Groups, i, i+1)
		}
	}
	// From the innermost to the outermost; of the groups of one level those that come first keep what they have.
	for _, level := range d.levels() {
		for _, i := range level {
			g := &d.Groups[i]
			was, key := g.Kind, fmt.Sprintln(g.Kind, d.within(g.ID))
			if like, have := kinds[key]; have {
				g.Kind, g.Number = like.Kind, like.Number
				continue
			}
			if first[was] {
				g.Kind, g.Number = d.freeKind(was), d.freeNumber(d.numberBefore(g.In), 1)
			}
			first[was], kinds[key] = true, *g
		}
	}
}

// within are the kinds of parts and of groups that stand in a group, in order.
func (d *Document) within(group string) []string {
	var out []string
	for _, c := range d.Components {
		if c.In == group {
			p, _ := d.Part(c.Part)
			out = append(out, p.kind())
		}
	}
	for _, g := range d.Groups {
		if g.In == group {
			out = append(out, g.Kind)
		}
	}
	slices.Sort(out)
	return out
}

// levels are the places of the groups by how deep they are, the deepest first.
func (d *Document) levels() [][]int {
	depth := map[string]int{}
	var out [][]int
	for i, g := range d.Groups {
		n := 0
		if g.In != "" {
			n = depth[g.In] + 1
		}
		depth[g.ID] = n
		for len(out) <= n {
			out = append(out, nil)
		}
		out[n] = append(out[n], i)
	}
	slices.Reverse(out)
	return out
}

// numberBefore is what numbers in a group begin with.
func (d *Document) numberBefore(group string) string {
	if g := d.group(group); g != nil {
		return g.Number + "."
	}
	return ""
}

// freeKind is a kind that no group has, after another one.
func (d *Document) freeKind(like string) string {
	for n := 2; ; n++ {
		kind := fmt.Sprintf("%s-%d", like, n)
		if d.groupOf(kind) == nil {
			return kind
		}
	}
}

// NumberParts gives numbers to parts that have none.
func (d *Document) NumberParts() {
	for i := range d.Parts {
		if p := &d.Parts[i]; p.Number == "" {
			p.Number = d.freeNumber("", i+1)
		}
	}
}

// freeNumber is the first number after what it begins with that no part and no group has.
func (d *Document) freeNumber(before string, from int) string {
	for ; ; from++ {
		if number := before + fmt.Sprint(from); d.numberFree(number) {
			return number
		}
	}
}

// numberFree tells whether no part and no group has a number.
func (d *Document) numberFree(number string) bool {
	return !slices.ContainsFunc(d.Parts, func(p Part) bool { return p.Number == number }) &&
		!slices.ContainsFunc(d.Groups, func(g Group) bool { return g.Number == number })
}

// group is a group by its id, nil where there is none.
func (d *Document) group(id string) *Group {
	i := slices.IndexFunc(d.Groups, func(g Group) bool { return g.ID == id })
	if i < 0 {
		return nil
	}
	return &d.Groups[i]
}

// groupOf is the first group of a kind, nil where there is none.
func (d *Document) groupOf(kind string) *Group {
	i := slices.IndexFunc(d.Groups, func(g Group) bool { return g.Kind == kind })
	if i < 0 {
		return nil
	}
	return &d.Groups[i]
}

// groups puts in the groups of a nested assembly, which stand in the one that it is in itself.
func (l *laying) groups() {
	for _, g := range l.inner.Groups {
		g.ID, g.In = l.id(g.ID), l.inGroup(g.In)
		if like := l.doc.groupOf(g.Kind); like != nil {
			g.Name, g.Number = like.Name, like.Number
		} else if outer := l.doc.group(l.was.In); outer != nil {
			g.Number = outer.Number + "." + g.Number
		}
		l.doc.Groups = append(l.doc.Groups, g)
	}
}

// inGroup is the group of the document that stands for one of the nested assembly.
func (l *laying) inGroup(inner string) string {
	if inner == "" {
		return l.was.In
	}
	return l.id(inner)
}

// checkGroups sees that what is in a group names one, and that groups are declared before what is in them.
func (d *Document) checkGroups() error {
	groups := map[string]bool{}
	for i, g := range d.Groups {
		at := fmt.Sprintf("/groups/%d", i)
		if g.In != "" && !groups[g.In] {
			return &Fault{at + "/in", fmt.Sprintf("there is no group %q before this one", g.In),
				"name a group that stands before it"}
		}
		if err := once(groups, g.ID, at+"/id", "group"); err != nil {
			return err
		}
	}
	for i, c := range d.Components {
		if c.In != "" && !groups[c.In] {
			return &Fault{fmt.Sprintf("/components/%d/in", i), fmt.Sprintf("there is no group %q", c.In),
				"name a group of this document"}
		}
	}
	return nil
}

// row is what a line of the parts list counts: a part, or groups of one kind.
type row struct {
	part  *Part
	group *Group // the first of its kind
	count int
}

// rows are what stands in one group, or in none, in the order of their numbers.
func (d *Document) rows(in string) []row {
	var out []row
	for i := range d.Parts {
		p := &d.Parts[i]
		count := 0
		for _, c := range d.Components {
			if c.Part == p.ID && c.In == in {
				count++
			}
		}
		if count > 0 {
			out = append(out, row{part: p, count: count})
		}
	}
	for i := range d.Groups {
		g := &d.Groups[i]
		if g.In != in {
			continue
		}
		if k := slices.IndexFunc(out, func(x row) bool { return x.kind() == g.Kind }); k >= 0 {
			out[k].count++
		} else {
			out = append(out, row{group: g, count: 1})
		}
	}
	if len(d.Groups) > 0 {
		slices.SortStableFunc(out, func(a, b row) int { return compareNumbers(a.number(), b.number()) })
	}
	return out
}

// kind is the same for what is alike: a nested assembly, and a group that one was.
func (r row) kind() string {
	if r.group != nil {
		return r.group.Kind
	}
	return r.part.kind()
}

func (r row) number() string {
	if r.group != nil {
		return r.group.Number
	}
	return r.part.Number
}

// compareNumbers orders numbers of items: 2 before 3.1 before 10.
func compareNumbers(a, b string) int {
	return slices.CompareFunc(strings.Split(a, "."), strings.Split(b, "."), func(x, y string) int {
		return cmp.Or(cmp.Compare(len(x), len(y)), cmp.Compare(x, y))
	})
}
