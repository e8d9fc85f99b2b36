package clash

import (
	"math"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
)

// Memo remembers what pairs of shapes are to one another where they lie, unless they are in one another: of an assembly
// whose sizes are varied one by one, most pairs lie as they did. The zero Memo is ready for use.
type Memo struct {
	known map[memoKey][]lying
	count int
}

// memoKey is a pair of shapes, with the fit that is stated of them.
type memoKey struct {
	a, b *assembly.Shape
	fit  string
}

// lying is what two shapes are to one another at one pose of the second in the first; nil where they are free.
type lying struct {
	pose rigid.Pose
	pair *Pair
}

// Bounds of a memo.
const (
	mostKnown = 20000
	sameTurn  = 1e-14 // of the cosine of half the turn from one to the other
	sameShift = 1e-6  // mm
)

func keyOf(l *Looker, a, b *Placed) memoKey {
	return memoKey{a.Shape, b.Shape, l.Stated[[2]string{a.ID, b.ID}] + l.Stated[[2]string{b.ID, a.ID}]}
}

// find gives what is known of two components.
func (m *Memo) find(l *Looker, a, b *Placed) (*Pair, bool) {
	at := b.Pose.Then(a.Pose.Inverse())
	for _, x := range m.known[keyOf(l, a, b)] {
		if !near(x.pose, at) {
			continue
		}
		if x.pair == nil {
			return nil, true
		}
		out := *x.pair
		out.A, out.B = a.ID, b.ID
		return &out, true
	}
	return nil, false
}

// keep keeps what two components are to one another. Who asks again of what is in one another is to read of that as it
// is called there.
func (m *Memo) keep(l *Looker, a, b *Placed, p *Pair) {
	if p != nil && (p.Kind == Collision || p.Kind == Ask) {
		return
	}
	if m.known == nil || m.count >= mostKnown {
		m.known, m.count = map[memoKey][]lying{}, 0
	}
	key := keyOf(l, a, b)
	m.known[key] = append(m.known[key], lying{b.Pose.Then(a.Pose.Inverse()), p})
	m.count++
}

// near tells whether two poses are one.
func near(a, b rigid.Pose) bool {
	p, q := a.Turn, b.Turn
	dot := p.Real*q.Real + p.Imag*q.Imag + p.Jmag*q.Jmag + p.Kmag*q.Kmag
	return 1-math.Abs(dot) < sameTurn && a.Shift.Distance(b.Shift) < sameShift
}
