package clash

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/num/quat"

	"hammerset/core/assembly"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// posed is a pose turned about the z axis by an angle in degrees, and shifted.
func posed(degrees float64, shift solid.Vec) rigid.Pose {
	half := degrees * math.Pi / 360
	return rigid.Pose{Turn: quat.Number{Real: math.Cos(half), Kmag: math.Sin(half)}, Shift: shift}
}

// What two components are to one another is known wherever both are moved together, of equal parts under any name, and
// not where they lie otherwise or another fit is stated. What is in one another is looked at again each time.
func TestMemo(t *testing.T) {
	shaft, bore := &assembly.Shape{}, &assembly.Shape{}
	at := posed(20, solid.Vec{1, 2, 3})
	pair := func(a, b string, together rigid.Pose, beside rigid.Pose) (*Placed, *Placed) {
		return &Placed{ID: a, Shape: shaft, Pose: together}, &Placed{ID: b, Shape: bore, Pose: beside.Then(together)}
	}
	far := posed(37, solid.Vec{-400, 12.5, 80})
	for _, c := range []struct {
		name     string
		kept     *Pair
		together rigid.Pose
		beside   rigid.Pose
		fit      string
		known    bool
	}{
		{"as it was", &Pair{Kind: Contact}, rigid.Still(), at, "", true},
		{"moved together", &Pair{Kind: Contact}, far, at, "", true},
		{"free, moved together", nil, far, at, "", true},
		{"turned a little", &Pair{Kind: Contact}, rigid.Still(), posed(20.001, solid.Vec{1, 2, 3}), "", false},
		{"shifted a little", &Pair{Kind: Contact}, rigid.Still(), posed(20, solid.Vec{1, 2, 3.001}), "", false},
		{"turned all the way round", &Pair{Kind: Contact}, rigid.Still(), posed(380, solid.Vec{1, 2, 3}), "", true},
		{"with another fit", &Pair{Kind: PressFit}, rigid.Still(), at, "H7/p6", false},
		{"in one another", &Pair{Kind: Collision}, rigid.Still(), at, "", false},
		{"not worked out", &Pair{Kind: Ask}, rigid.Still(), at, "", false},
	} {
		m, l := &Memo{}, &Looker{Stated: map[[2]string]string{}}
		a, b := pair("c1", "c2", rigid.Still(), at)
		m.keep(l, a, b, c.kept)
		x, y := pair("d7", "d8", c.together, c.beside)
		if c.fit != "" {
			l.Stated[[2]string{"d8", "d7"}] = c.fit
		}
		got, known := m.find(l, x, y)
		if known != c.known {
			t.Errorf("%s: known is %t", c.name, known)
		}
		if known && c.kept != nil && (got == nil || got.A != "d7" || got.B != "d8" || got.Kind != c.kept.Kind) {
			t.Errorf("%s: it is %v", c.name, got)
		}
	}
	// It does not grow without end.
	m, l := &Memo{}, &Looker{}
	for i := range mostKnown + 5 {
		a, b := pair("c1", "c2", rigid.Still(), posed(0, solid.Vec{float64(i), 0, 0}))
		m.keep(l, a, b, nil)
	}
	if m.count > mostKnown {
		t.Errorf("%d pairs are kept", m.count)
	}
}
