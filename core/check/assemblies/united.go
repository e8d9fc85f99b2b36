package assemblies

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/assembly/shapes"
	"hammerset/core/identify"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// Bounds of what is united.
const (
	touching   = 1e-4 // mm between solids that touch
	ofOneSize  = 1e-4 // by which, as a share, the volumes of what is united differ from that of the item
	mostUnions = 5000 // that are looked at
)

// uniting looks for solids of an attempt that are an item only together: some programs write a part as the bodies that
// it was built of. What is an item by itself stays so, and only what is that item exactly, as one, is united.
type uniting struct {
	*key
	att    *attempt
	pieces []int // components that are none of the items by themselves
	beside map[int][]int
	looked int
}

// unite unites what is an item only together, where no joints of the attempt are on the pieces.
func (r *key) unite(att *attempt) error {
	if len(att.mech.Document.Joints) > 0 {
		return nil
	}
	u := &uniting{key: r, att: att, beside: map[int][]int{}}
	wanted := make([]int, len(r.kinds))
	for i := range r.kinds {
		wanted[i] = r.kinds[i].Quantity
	}
	for c := range att.doc.Components {
		known := slices.IndexFunc(r.kinds, func(x identify.Item) bool {
			return identify.Like(x.Part, att.part(c).Closed).Sameness != identify.Other
		})
		if known < 0 {
			u.pieces = append(u.pieces, c)
		} else {
			wanted[known]--
		}
	}
	if len(u.pieces) < 2 {
		return nil
	}
	if err := u.touch(); err != nil {
		return err
	}
	gone := map[int]bool{}
	for kind := range wanted {
		for ; wanted[kind] > 0; wanted[kind]-- {
			set, made := u.find(kind, gone)
			if set == nil {
				break
			}
			if err := u.put(set, made); err != nil {
				return err
			}
			for _, c := range set {
				gone[c] = true
			}
		}
	}
	if err := u.products(wanted, gone); err != nil {
		return err
	}
	u.remove(gone)
	return nil
}

// products unites the touching bodies of one product that are like an item together, and less like any by themselves:
// it is that item with a wrong size.
func (u *uniting) products(wanted []int, gone map[int]bool) error {
	for _, c := range u.pieces {
		if gone[c] {
			continue
		}
		set := u.ofProduct(c, gone)
		if len(set) < 2 {
			continue
		}
		made, err := u.one(set)
		if err != nil {
			continue // what cannot be united stays as it came
		}
		whole, err := described(u.k, made)
		if err != nil {
			return err
		}
		alone := math.Inf(1)
		for _, x := range set {
			alone = math.Min(alone, u.cheapest(wanted, u.att.part(x)))
		}
		if cost := u.cheapest(wanted, whole); cost >= alone || cost >= identify.Unknown {
			continue
		}
		if err := u.put(set, made); err != nil {
			return err
		}
		for _, x := range set {
			gone[x] = true
		}
	}
	return nil
}

// ofProduct are the pieces of one product that hang together with one of them. The bodies of a product are parts of one
// name.
func (u *uniting) ofProduct(first int, gone map[int]bool) []int {
	named := func(c int) string {
		p, _ := u.att.doc.Part(u.att.doc.Components[c].Part)
		return p.Name
	}
	set := []int{first}
	for i := 0; i < len(set); i++ {
		for _, n := range u.beside[set[i]] {
			if !gone[n] && !slices.Contains(set, n) && named(n) == named(first) {
				set = append(set, n)
			}
		}
	}
	return set
}

// cheapest is what taking a solid for one of the items costs of which some are still wanted.
func (u *uniting) cheapest(wanted []int, p *identify.Part) float64 {
	least := math.Inf(1)
	for kind, n := range wanted {
		if n > 0 {
			least = math.Min(least, identify.Like(u.kinds[kind].Part, p.Closed).Cost)
		}
	}
	return least
}

// placed is a solid of the attempt where it stands.
func (u *uniting) placed(c int) (solid.Shape, error) {
	s, _, err := u.k.Transform(u.att.made[u.att.doc.Components[c].Part].Solid, u.att.poses[c].Transform())
	return s, err
}

// touch finds out which pieces touch one another.
func (u *uniting) touch() error {
	at := map[int]solid.Shape{}
	box := map[int]solid.Box{}
	for _, c := range u.pieces {
		var err error
		if at[c], err = u.placed(c); err != nil {
			return err
		}
		if box[c], err = u.k.Around(at[c]); err != nil {
			return err
		}
	}
	for i, a := range u.pieces {
		for _, b := range u.pieces[i+1:] {
			if !near(box[a], box[b]) {
				continue
			}
			d, _, _, err := u.k.Distance(solid.Pick{Shape: at[a], Kind: solid.PickWhole}, solid.Pick{Shape: at[b],
				Kind: solid.PickWhole})
			if err != nil {
				return err
			}
			if d <= touching {
				u.beside[a], u.beside[b] = append(u.beside[a], b), append(u.beside[b], a)
			}
		}
	}
	return nil
}

// near tells whether two boxes touch.
func near(a, b solid.Box) bool {
	for k := range 3 {
		if a.Min[k] > b.Max[k]+touching || b.Min[k] > a.Max[k]+touching {
			return false
		}
	}
	return true
}

// find finds pieces that hang together and are an item as one; none where there are none.
func (u *uniting) find(kind int, gone map[int]bool) ([]int, *shapes.Made) {
	want := u.kinds[kind].Part.Props.Volume
	volume := func(c int) float64 { return u.att.part(c).Geometry.Props.Volume }
	var made *shapes.Made
	var grow func(set, barred []int, sum float64) []int
	// Every set that hangs together is grown once: what was left out of it before is barred.
	grow = func(set, barred []int, sum float64) []int {
		if u.looked++; u.looked > mostUnions || sum > want*(1+ofOneSize) {
			return nil
		}
		if len(set) > 1 && math.Abs(sum-want) <= ofOneSize*want {
			if m := u.is(kind, set); m != nil {
				made = m
				return set
			}
		}
		barred = slices.Clone(barred)
		for _, c := range set {
			for _, n := range u.beside[c] {
				if gone[n] || slices.Contains(set, n) || slices.Contains(barred, n) {
					continue
				}
				if found := grow(append(slices.Clone(set), n), barred, sum+volume(n)); found != nil {
					return found
				}
				barred = append(barred, n)
			}
		}
		return nil
	}
	var barred []int
	for _, c := range u.pieces {
		if gone[c] {
			continue
		}
		if set := grow([]int{c}, barred, volume(c)); set != nil {
			return set, made
		}
		barred = append(barred, c)
	}
	return nil, nil
}

// is makes one part of several pieces where that is an item exactly; nil where it is not, or they cannot be united.
func (u *uniting) is(kind int, set []int) *shapes.Made {
	m, err := u.one(set)
	if err != nil {
		return nil
	}
	p, err := described(u.k, m)
	if err != nil || identify.Like(u.kinds[kind].Part, p.Closed).Sameness == identify.Other {
		return nil
	}
	return m
}

// one makes one part of several pieces, in the coordinates of the whole.
func (u *uniting) one(set []int) (*shapes.Made, error) {
	var list []solid.Shape
	for _, c := range set {
		s, err := u.placed(c)
		if err != nil {
			return nil, err
		}
		list = append(list, s)
	}
	s, _, err := u.k.Boolean(solid.Union, list[0], list[1:])
	if err != nil {
		return nil, err
	}
	if s, _, _, err = u.k.Simplify(s); err != nil {
		return nil, err
	}
	maker := &shapes.Maker{Rebuilder: part.NewRebuilder(u.k)}
	return maker.Solid(s)
}

// put puts a part that was united into the attempt.
func (u *uniting) put(set []int, made *shapes.Made) error {
	d := *u.att.doc
	first := d.Components[set[0]]
	var names []string
	for _, c := range set {
		names = append(names, u.att.title(c))
	}
	id := first.ID + "+"
	d.Parts = append(slices.Clone(d.Parts), assembly.Part{ID: id, Name: first.Title()})
	d.Components = append(slices.Clone(d.Components), assembly.Component{ID: id, Name: first.Title(), Part: id,
		Pinned: first.Pinned, Pose: rigid.Still()})
	u.att.doc, u.att.poses, u.att.made[id] = &d, append(u.att.poses, rigid.Still()), made
	var err error
	if u.att.parts[id], err = described(u.k, made); err != nil {
		return err
	}
	u.att.Notes = append(u.att.Notes, report.IntakeNote{Kind: "united",
		What:   fmt.Sprintf("%s are one part only together: they were united", strings.Join(names, ", ")),
		Remedy: "unite the " + quantity.Count(len(set), "body", "bodies") + " in your program"})
	return nil
}

// remove takes the pieces out that are united.
func (u *uniting) remove(gone map[int]bool) {
	if len(gone) == 0 {
		return
	}
	d := *u.att.doc
	d.Components = nil
	var poses []rigid.Pose
	for i, c := range u.att.doc.Components {
		if !gone[i] {
			d.Components, poses = append(d.Components, c), append(poses, u.att.poses[i])
		}
	}
	u.att.doc, u.att.poses = &d, poses
}
