package assembly

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/mat"

	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/core/solve"
)

// Mobility says what can move. Freedom is the number of independent motions that can be followed; Instant that of
// motions that begin, to first order, where the mechanism stands now: it is more where parts can only start to move,
// and at a change point, where the mechanism can go on in several ways.
type Mobility struct {
	Freedom int `json:"freedom"`
	Instant int `json:"instant"`
	// Counted is what counting gives: six for each body less what the joints take (Grübler and Kutzbach). Reason
	// says why it is another number.
	Counted int      `json:"counted"`
	Reason  string   `json:"reason,omitempty"`
	Loose   []Loose  `json:"loose"`
	Repeats []Repeat `json:"repeats,omitempty"`
	// Branches are the ways in which it can go on at a change point.
	Branches []Branch `json:"branches,omitempty"`
}

// Branch is one of the ways in which a mechanism can go on at a change point: how joints turn (radians) or slide (mm)
// in it to one another, the one that goes most by 1 or -1.
type Branch struct {
	Rates []Rate `json:"rates"`
}

// Rate is how fast a joint goes. A joint that stands still is left out.
type Rate struct {
	Joint string  `json:"joint"`
	Turns bool    `json:"turns"`
	By    float64 `json:"by"`
}

// Loose is a component that can move, with a base of its motions.
type Loose struct {
	Component string  `json:"component"`
	Freedom   int     `json:"freedom"`
	Twists    []Twist `json:"twists"`
}

// Twist is the beginning of a motion, as every motion of a body begins: a turn about an axis and a shift along it
// (M. Chasles, 1830). Turn and Shift are directions, or nothing where it only shifts or only turns; At is a place of
// the axis near the component, or its middle where it only shifts.
type Twist struct {
	At    solid.Vec `json:"at"`
	Turn  solid.Vec `json:"turn"`
	Shift solid.Vec `json:"shift"`
}

// Repeat is a joint some of whose conditions follow from those of others.
type Repeat struct {
	Joint      string   `json:"joint"`
	Conditions int      `json:"conditions"`
	With       []string `json:"with"`
}

// Mobility analyses the mechanism where it stands; it must be solved.
func (m *Mechanism) Mobility() Mobility {
	out := Mobility{Counted: rigid.Unknowns * len(m.bodies)}
	for k := range m.system.Groups {
		out.Counted -= m.system.Groups[k].Rows
	}
	loose := map[int][][]float64{} // by body: the six numbers of each motion
	for _, c := range m.system.Components(m.system.All()) {
		all := m.system.MotionsOf(c, m.system.State)
		out.Instant += all.Freedom()
		finite := m.system.Finite(c, all)
		n := m.followed(c, all, finite)
		out.Freedom += n
		if n == 1 && all.Freedom() > 1 {
			out.Branches = append(out.Branches, m.branches(c, all)...)
		}
		for _, d := range all.Dependent {
			out.Repeats = m.repeat(out.Repeats, d)
		}
		if len(finite) == all.Freedom() {
			finite = all.Null() // the same motions, to the last digit
		}
		for _, v := range finite {
			for b := range m.bodies {
				six, own := make([]float64, rigid.Unknowns), false
				for k := range six {
					if i, ok := all.Place(rigid.Unknowns*b + k); ok {
						six[k], own = v[i], true
					}
				}
				if own {
					loose[b] = append(loose[b], six)
				}
			}
		}
	}
	for b := range m.bodies {
		twists, n := m.twists(b, loose[b])
		for _, c := range m.bodies[b].components {
			if n > 0 {
				out.Loose = append(out.Loose, Loose{Component: c, Freedom: n, Twists: twists})
			}
		}
	}
	out.Reason = m.reason(&out)
	return out
}

// followed counts the motions of a component that can be followed: the rank not here, where it may be less by
// chance, but where a step along each of the motions leads. At a change point it is the freedom of a branch.
func (m *Mechanism) followed(c solve.Component, here *solve.Motions, finite [][]float64) int {
	n := min(here.Freedom(), len(finite))
	if n == 0 || len(c.Groups) == 0 {
		return n
	}
	before := append([]float64(nil), m.system.State...)
	defer copy(m.system.State, before)
	for _, v := range finite {
		d := make([]float64, len(v))
		for i := range d {
			d[i] = 1e-2 * m.system.Scale * v[i]
		}
		copy(m.system.State, before)
		m.system.Push(here, d)
		if m.system.Small(m.system.SettleWhole(c, iterations)) {
			n = min(n, m.system.MotionsOf(c, m.system.State).Freedom())
		}
	}
	return n
}

// still is how slow a joint goes, against the one that goes most, that is told to stand still.
const still = 0.02

// branches tells the ways in which a component can go on; nothing where there is only one after all.
func (m *Mechanism) branches(c solve.Component, all *solve.Motions) []Branch {
	directions := m.system.Branches(c, all)
	if len(directions) < 2 {
		return nil
	}
	before := append([]float64(nil), m.system.State...)
	defer copy(m.system.State, before)
	var out []Branch
	for _, v := range directions {
		for i := range v {
			v[i] *= 1e-4 * m.system.Scale
		}
		copy(m.system.State, before)
		m.system.Push(all, v)
		var b Branch
		most := 0.0
		for _, p := range m.joints {
			if p == nil || len(p.kind.motions) == 0 {
				continue
			}
			x := coordinate{m, p, p.kind.motions[0]}
			by := x.now(m.system.State) - x.now(before)
			b.Rates = append(b.Rates, Rate{p.ID, x.motion == turning, by})
			most = math.Max(most, math.Abs(by)*x.length())
		}
		for i := range b.Rates {
			b.Rates[i].By /= most
			if p, _ := m.joint(b.Rates[i].Joint); b.Rates[i].Turns {
				b.Rates[i].By *= p.reach
			}
		}
		b.Rates = slices.DeleteFunc(b.Rates, func(r Rate) bool { return math.Abs(r.By) < still })
		out = append(out, b)
	}
	return out
}

// Ways says the ways in which a mechanism can go on at a change point, in words; nothing where there are none.
func (x *Mobility) Ways(d *Document) []string {
	var out []string
	for _, b := range x.Branches {
		var list []string
		for _, r := range b.Rates[:min(len(b.Rates), mostRates)] {
			j, ok := d.Joint(r.Joint)
			if !ok {
				continue
			}
			unit := " mm"
			if r.Turns {
				unit = "°"
			}
			list = append(list, fmt.Sprintf("%s by %s%s", d.TitleOf(j), strings.Replace(fmt.Sprintf("%.2g", r.By), "-", "−", 1),
				unit))
		}
		out = append(out, strings.Join(list, ", "))
	}
	return out
}

// mostRates is how many joints of a branch are told.
const mostRates = 6

// repeat adds a condition that follows from others.
func (m *Mechanism) repeat(list []Repeat, d solve.Dependency) []Repeat {
	joint := m.groups[d.Row.Group].id
	i := slices.IndexFunc(list, func(r Repeat) bool { return r.Joint == joint })
	if i < 0 {
		i, list = len(list), append(list, Repeat{Joint: joint})
	}
	list[i].Conditions++
	for _, w := range d.With {
		if other := m.groups[w.Group].id; other != joint && !slices.Contains(list[i].With, other) {
			list[i].With = append(list[i].With, other)
		}
	}
	return list
}

// twists reduces motions of a body to a base of them.
func (m *Mechanism) twists(body int, motions [][]float64) ([]Twist, int) {
	if len(motions) == 0 {
		return nil, 0
	}
	a := mat.NewDense(rigid.Unknowns, len(motions), nil)
	for j, v := range motions {
		a.SetCol(j, v)
	}
	var svd mat.SVD
	if !svd.Factorize(a, mat.SVDThinU) {
		return nil, 0
	}
	var u mat.Dense
	svd.UTo(&u)
	p := m.moves.Pose(m.system.State, body)
	var out []Twist
	for k, sv := range svd.Values(nil) {
		if sv < 1e-6 {
			break
		}
		w := p.Rotate(solid.Vec{u.At(0, k), u.At(1, k), u.At(2, k)}.Scale(1 / m.moves.Reach))
		out = append(out, twist(p.Shift, w, solid.Vec{u.At(3, k), u.At(4, k), u.At(5, k)}, m.moves.Reach))
	}
	return out, len(out)
}

// twist finds the axis of a motion that turns by w and shifts the middle by d.
func twist(middle, w, d solid.Vec, reach float64) Twist {
	const little = 0.02 // of a motion: not shown
	if w.Norm()*reach < little*d.Norm() {
		return Twist{At: middle, Shift: d.Unit()}
	}
	axis := w.Unit()
	out := Twist{At: middle.Add(w.Cross(d).Scale(1 / w.Dot(w))), Turn: axis}
	if along := d.Dot(axis); math.Abs(along) > little*w.Norm()*reach {
		out.Shift = axis.Scale(math.Copysign(1, along))
	}
	return out
}

// reason says why counting gives another number than there are freedoms.
func (m *Mechanism) reason(x *Mobility) string {
	if x.Counted == x.Freedom {
		return ""
	}
	n := 0
	for _, r := range x.Repeats {
		n += r.Conditions
	}
	switch {
	case x.Instant > x.Freedom && x.Freedom == 0:
		return "parts can start to move and cannot go on"
	case x.Instant > x.Freedom:
		return "it stands where it can go on in several ways"
	case n == 1:
		return "one condition follows from others"
	}
	return fmt.Sprintf("%d conditions follow from others", n)
}
