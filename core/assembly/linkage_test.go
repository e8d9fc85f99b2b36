package assembly

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/rigid"
	"hammerset/core/solid"
)

// linkage is an assembly for tests, made of parts that are nothing but features: everything is made where it is.
type linkage struct {
	t   testing.TB
	doc *Document
	of  map[string]*Shape
}

func newLinkage(t testing.TB) *linkage {
	return &linkage{t: t, doc: &Document{Hammerset: Version, Name: "a linkage", Unit: "mm"}, of: map[string]*Shape{}}
}

// body adds a component with a part of its own; the first is pinned.
func (l *linkage) body() string {
	id := fmt.Sprintf("c%d", len(l.doc.Components)+1)
	l.doc.Parts = append(l.doc.Parts, Part{ID: id, Name: id, File: id + ".json"})
	l.doc.Components = append(l.doc.Components, Component{ID: id, Part: id, Pose: rigid.Still(),
		Pinned: len(l.doc.Components) == 0})
	l.of[id] = &Shape{Box: solid.Box{Min: solid.Vec{-20, -20, -20}, Max: solid.Vec{20, 20, 20}}}
	return id
}

// feature adds a feature to a body, where it stands in space.
func (l *linkage) feature(body string, f Feature) address.Ref {
	s := l.of[body]
	f.Name = fmt.Sprintf("f%d", len(s.Features))
	s.Features, s.byName = append(s.Features, f), nil
	return address.Ref{Component: body, Name: f.Name}
}

// joint joins a feature of two bodies at one place.
func (l *linkage) joint(kind, a, b string, f Feature) *Joint {
	return l.join(kind, l.feature(a, f), l.feature(b, f))
}

func (l *linkage) join(kind string, a, b address.Ref) *Joint {
	l.doc.Joints = append(l.doc.Joints, Joint{ID: fmt.Sprintf("j%d", len(l.doc.Joints)+1), Kind: kind, A: a, B: b})
	return &l.doc.Joints[len(l.doc.Joints)-1]
}

func (l *linkage) mechanism() *Mechanism {
	l.t.Helper()
	if err := l.doc.Check(); err != nil {
		l.t.Fatal(err)
	}
	m, err := New(l.doc, l.of, nil)
	if err != nil {
		l.t.Fatal(err)
	}
	if len(m.Lost()) > 0 {
		l.t.Fatal(m.Lost())
	}
	return m
}

func bore(at, along solid.Vec) Feature {
	return Feature{Form: Cylinder, At: at, Axis: along.Unit(), Radius: 4, Words: "a bore"}
}

// slotted is a plane linkage: bars between places, each pair with a revolute across the plane, the first bar pinned.
func bars(t testing.TB, places map[string]solid.Vec, list ...string) *linkage {
	l := newLinkage(t)
	held := map[byte]string{}
	for _, ends := range list {
		c := l.body()
		for k := range ends {
			if other, ok := held[ends[k]]; ok {
				l.joint("revolute", c, other, bore(places[ends[k:k+1]], solid.Vec{0, 0, 1}))
			} else {
				held[ends[k]] = c
			}
		}
	}
	return l
}

// The pairs of ISO 3952-1 leave the freedoms that every book of mechanics gives them (Reuleaux's lower pairs), and
// their derivatives are those of the retraction, at any pose.
func TestJointsLeaveTheirFreedoms(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	features := map[role]Feature{
		point: {Form: Corner}, axis: bore(solid.Vec{}, solid.Vec{0, 0, 1}), flat: {Form: Plane, Axis: solid.Vec{0, 0, 1}},
		straight: {Form: Line, Axis: solid.Vec{0, 0, 1}}, ring: {Form: Circle, Axis: solid.Vec{0, 0, 1}, Radius: 7},
		rod: bore(solid.Vec{}, solid.Vec{0, 0, 1}), ball: {Form: Sphere, Radius: 5}, bent: viviani(),
	}
	frees := map[string]int{"revolute": 1, "cylindrical": 2, "prismatic": 1, "rigid": 0, "planar": 3, "spherical": 3,
		"helical": 1, "universal": 2, "pin in slot": 4, "point on curve": 4, "flush": 3, "angle": 5, "parallel": 4,
		"parallel axis and flat": 5, "distance flat and flat": 3, "distance point and flat": 5, "distance axis and flat": 4,
		"distance point and point": 5, "distance point and axis": 5, "distance axis and axis": 3, "tangent rod and flat": 4,
		"tangent ball and flat": 5, "tangent rod and rod": 3, "tangent ball and rod": 5, "tangent ball and ball": 5}
	names := []string{"point", "axis", "flat", "straight", "ring", "rod", "ball", "bent"}
	for _, k := range kinds() {
		for _, pair := range k.Takes {
			name := fmt.Sprintf("%s %s and %s", k.Name, names[pair[0]], names[pair[1]])
			l := newLinkage(t)
			ground, moving := l.body(), l.body()
			at := solid.Transform{M: solid.Rotation(solid.Vec{}, solid.Vec{1, 2, 3}, 0.7).M, T: solid.Vec{5, -3, 8}}
			placed := func(f Feature) Feature {
				f.At, f.Axis, f.Points = at.Apply(f.At), at.Turn(f.Axis), slices.Clone(f.Points)
				for i := range f.Points {
					f.Points[i] = at.Apply(f.Points[i])
				}
				return f
			}
			j := l.join(k.Name, l.feature(moving, placed(features[pair[0]])), l.feature(ground, placed(features[pair[1]])))
			for _, s := range k.Sizes {
				*map[string]*string{"offset": &j.Offset, "angle": &j.Angle, "lead": &j.Lead, "distance": &j.Distance}[s] =
					map[string]string{"offset": "3", "angle": "40 deg", "lead": "6", "distance": "11"}[s]
			}
			l.doc.Components[1].Pose.Shift = solid.Vec{1.5, -2, 2.5}
			m := l.mechanism()
			if k.Name == "rigid" {
				if len(m.bodies) != 0 {
					t.Errorf("%s: %d bodies are left", name, len(m.bodies))
				}
				continue
			}
			derivatives(t, name, m, rng)
			if s := m.Solve(); !s.Holds {
				t.Errorf("%s is not solved: %+v", name, s)
				continue
			}
			want, ok := frees[name]
			if !ok {
				if want, ok = frees[k.Name]; !ok {
					t.Errorf("nobody has said what %s leaves", name)
				}
			}
			a, b := features[pair[0]], features[pair[1]]
			if o := k.offer(&a, &b, false); o.Frees != want {
				t.Errorf("%s is offered as leaving %d freedoms", name, o.Frees)
			}
			if got := m.Mobility(); got.Freedom != want || got.Instant != want || got.Counted != want {
				t.Errorf("%s leaves %d freedoms (%d to first order, %d counted), not %d", name, got.Freedom, got.Instant,
					got.Counted, want)
			}
		}
	}
}

// derivatives compares those of all groups with central differences, at a random pose nearby.
func derivatives(t testing.TB, name string, m *Mechanism, rng *rand.Rand) {
	t.Helper()
	s := m.system
	keep := append([]float64(nil), s.State...)
	defer copy(s.State, keep)
	vars, d := make([]int, s.Unknowns()), make([]float64, s.Unknowns())
	for i := range vars {
		vars[i], d[i] = i, 2*rng.NormFloat64()
	}
	m.moves.Move(s.State, keep, vars, d)
	base := append([]float64(nil), s.State...)
	for _, g := range s.Groups {
		jac, plus, minus := make([]float64, g.Rows*len(g.Vars)), make([]float64, g.Rows), make([]float64, g.Rows)
		g.Eval(base, plus, jac)
		const h = 1e-5
		for i, v := range g.Vars {
			m.moves.Move(s.State, base, []int{v}, []float64{h})
			g.Eval(s.State, plus, nil)
			m.moves.Move(s.State, base, []int{v}, []float64{-h})
			g.Eval(s.State, minus, nil)
			copy(s.State, base)
			for k := range g.Rows {
				if want := (plus[k] - minus[k]) / (2 * h); math.Abs(want-jac[k*len(g.Vars)+i]) > 1e-6 {
					t.Errorf("%s: row %d by unknown %d: %g, and the residual moves by %g", name, k, v, jac[k*len(g.Vars)+i], want)
				}
			}
		}
	}
}

// Mobility is that of the books, where counting fails too: the plane four-bar, Bennett's and Sarrus' linkages are
// over-held and move; a bar between two pins in its line can only start to move; a parallelogram laid flat can go on
// in two ways (J. M. McCarthy and G. S. Soh, Geometric Design of Linkages, 2011, chapters 2 and 11).
func TestMobilityOfLinkages(t *testing.T) {
	flatly := map[string]solid.Vec{"a": {0, 0, 0}, "b": {40, 0, 0}, "c": {45, 30, 0}, "d": {-5, 25, 0}, "e": {20, 60, 0},
		"x": {60, 0, 0}, "m": {25, 0, 0}, "n": {20, 0, 0}, "p": {60, 0, 0}}
	for _, c := range []struct {
		name                      string
		make                      func() *linkage
		freedom, instant, counted int
	}{
		{"four-bar", func() *linkage { return bars(t, flatly, "ab", "bc", "cd", "da") }, 1, 1, -2},
		{"triangle", func() *linkage { return bars(t, flatly, "ab", "bc", "ca") }, 0, 0, -3},
		{"five-bar", func() *linkage { return bars(t, flatly, "ab", "bc", "ce", "ed", "da") }, 2, 2, -1},
		{"a bar in the line of two pins", func() *linkage { return bars(t, flatly, "ax", "am", "mx") }, 0, 1, -3},
		{"a parallelogram laid flat", func() *linkage { return bars(t, flatly, "ab", "bp", "pn", "na") }, 1, 2, -2},
		{"Bennett's linkage", func() *linkage { return bennett(t, 0.6) }, 1, 1, -2},
		{"Sarrus' linkage", func() *linkage { return sarrus(t) }, 1, 1, 0},
		{"nothing joined", func() *linkage { l := newLinkage(t); l.body(); l.body(); l.body(); return l }, 12, 12, 12},
	} {
		m := c.make().mechanism()
		if s := m.Solve(); !s.Holds || s.Left > 1e-6 {
			t.Errorf("%s does not hold: %+v", c.name, s)
			continue
		}
		got := m.Mobility()
		if got.Freedom != c.freedom || got.Instant != c.instant || got.Counted != c.counted {
			t.Errorf("%s: %d freedoms, %d to first order, %d counted, not %d, %d and %d (%s)", c.name, got.Freedom, got.Instant,
				got.Counted, c.freedom, c.instant, c.counted, got.Reason)
		}
		if (got.Reason == "") != (got.Freedom == got.Counted) {
			t.Errorf("%s: %d freedoms and %d counted, for the reason %q", c.name, got.Freedom, got.Counted, got.Reason)
		}
		if (len(got.Loose) > 0) != (got.Freedom > 0) {
			t.Errorf("%s: %d freedoms, and %d components are loose", c.name, got.Freedom, len(got.Loose))
		}
	}
}

// The parallelogram laid flat goes on as a parallelogram, both cranks alike, or crosses over: with the frame twice as
// long as the cranks the far one then turns back three times as fast. (The length of the coupler to second order, with
// cranks of 20 on a frame of 40: (w₂ - w₁)(w₂ + 3 w₁) = 0.)
func TestBranchesAtAChangePoint(t *testing.T) {
	m := bars(t, map[string]solid.Vec{"a": {0, 0, 0}, "b": {40, 0, 0}, "n": {20, 0, 0}, "p": {60, 0, 0}}, "ab", "bp", "pn",
		"na").mechanism()
	if !m.Solve().Holds {
		t.Fatal("it does not hold")
	}
	x := m.Mobility()
	var ratios []float64
	for _, b := range x.Branches {
		by := map[string]float64{}
		for _, r := range b.Rates {
			by[r.Joint] = r.By
		}
		ratios = append(ratios, by["j1"]/by["j4"]) // of the cranks, which are both joined to the frame
	}
	slices.Sort(ratios)
	if len(ratios) != 2 || math.Abs(ratios[0]+3) > 1e-3 || math.Abs(ratios[1]-1) > 1e-3 {
		t.Errorf("the cranks turn as %v", ratios)
	}
	if ways := x.Ways(m.Document); len(ways) != 2 || !strings.Contains(strings.Join(ways, "\n"), " by −0.33°") {
		t.Errorf("in words: %q", ways)
	}
}

// bennett is the linkage of G. T. Bennett (A new mechanism, Engineering 76, 1903): four bars of lengths a, b, a, b
// whose axes are twisted by angles α, β, α, β with sin α / a = sin β / b. It is laid out by the loop that closes:
// each bar leads along its length and twists about it, each joint turns about its axis; the angles θ and φ of
// neighbouring joints have tan(θ/2) tan(φ/2) = sin((β+α)/2) / sin((β-α)/2).
func bennett(t testing.TB, theta float64) *linkage {
	const a, b, alpha = 40.0, 60.0, 0.5
	beta := math.Asin(b / a * math.Sin(alpha))
	phi := 2 * math.Atan(math.Sin((beta+alpha)/2)/math.Sin((beta-alpha)/2)/math.Tan(theta/2))
	l := newLinkage(t)
	at := rigid.Still()
	var axes [4]Feature
	for i, bar := range [][3]float64{{theta, a, alpha}, {phi, b, beta}, {-theta, a, alpha}, {-phi, b, beta}} {
		axes[i] = bore(at.Shift, at.Rotate(solid.Vec{0, 0, 1}))
		turn := must(t, solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, bar[0]))
		twist := must(t, solid.Rotation(solid.Vec{}, solid.Vec{1, 0, 0}, bar[2]))
		twist.Shift = solid.Vec{bar[1], 0, 0}
		at = twist.Then(turn).Then(at)
	}
	if d := at.Shift.Norm(); d > 1e-9 || at.Angle() > 1e-9 {
		t.Fatalf("the loop does not close: %g mm and %g", d, at.Angle())
	}
	for range 4 {
		l.body()
	}
	for i := range axes {
		l.joint("revolute", fmt.Sprintf("c%d", i+1), fmt.Sprintf("c%d", (i+3)%4+1), axes[i])
	}
	return l
}

func must(t testing.TB, m solid.Transform) rigid.Pose {
	p, err := rigid.Of(m)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// sarrus is the linkage of P. F. Sarrus (1853): a plate led straight up by two pairs of hinged plates at right
// angles to one another. Six bodies and six revolutes count to nothing, and it moves.
func sarrus(t testing.TB) *linkage {
	l := newLinkage(t)
	base, top := l.body(), l.body()
	for _, side := range []struct{ out, along solid.Vec }{{solid.Vec{1, 0, 0}, solid.Vec{0, 1, 0}}, {solid.Vec{0, 1, 0},
		solid.Vec{1, 0, 0}}} {
		low, high := l.body(), l.body()
		at := func(r, z float64) Feature { return bore(side.out.Scale(r).Add(solid.Vec{0, 0, z}), side.along) }
		l.joint("revolute", low, base, at(20, 0))
		l.joint("revolute", high, low, at(45, 15))
		l.joint("revolute", top, high, at(20, 30))
	}
	return l
}

// A joint that is made as its components stand moves nothing, however they are turned and slid to one another.
func TestJointsAsTheyStand(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	axial, level := bore(solid.Vec{}, solid.Vec{0, 0, 1}), Feature{Form: Plane, Axis: solid.Vec{0, 0, 1}}
	for kind, f := range map[string]Feature{"revolute": axial, "cylindrical": axial, "prismatic": axial, "rigid": axial,
		"helical": axial, "planar": level, "flush": level} {
		for range 20 {
			l := newLinkage(t)
			ground, moving := l.body(), l.body()
			about := must(t, solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, 6*rng.Float64()-3))
			if rng.IntN(2) == 0 {
				about = about.Then(must(t, solid.Rotation(solid.Vec{}, solid.Vec{1, 0, 0}, math.Pi)))
			}
			if kind != "flush" { // which has no offset
				about.Shift = solid.Vec{0, 0, 20*rng.Float64() - 10}
			}
			l.doc.Components[1].Pose = about
			j := Joint{ID: "j", Kind: kind, A: l.feature(moving, f), B: l.feature(ground, f)}
			if kind == "helical" {
				j.Lead = "1.25 mm"
			}
			j, ok := l.mechanism().AsItStands(j)
			if !ok {
				t.Fatalf("%s cannot be made", kind)
			}
			l.doc.Joints = append(l.doc.Joints, j)
			m := l.mechanism()
			if s := m.Solve(); !s.Holds {
				t.Errorf("%s does not hold: %+v", kind, s)
			}
			if by := m.Pose(moving).Then(about.Inverse()); by.Angle() > 1e-7 || by.Shift.Norm() > 1e-7 {
				t.Errorf("%s as it stands (%+v) moves by %v", kind, j, by)
				break
			}
		}
	}
}

// viviani is a curve that lies in no plane: where a ball and a cylinder of half its size that touches its middle meet
// (V. Viviani, 1692).
func viviani() Feature {
	var places []solid.Vec
	for k := range 257 {
		sin, cos := math.Sincos(math.Pi * (float64(k)/256 - 0.5))
		places = append(places, solid.Vec{6 * (1 + cos), 6 * sin, 0}.Add(solid.Vec{0, 0, 12 * math.Sqrt(0.5*(1-cos))}))
	}
	f, _ := bentFeature(places)
	return f
}

// A point is led along an ellipse, as the edge of a pipe that is cut aslant: it stays on it to the accuracy of the
// places that are known of it, and where it stands follows from x²/a² + y²/b² = 1.
func TestPointOnAnEllipse(t *testing.T) {
	const a, b = 30.0, 18.0
	var places []solid.Vec
	for k := range 257 {
		sin, cos := math.Sincos(2 * math.Pi * float64(k) / 256)
		places = append(places, solid.Vec{a * cos, b * sin, 4})
	}
	edge, _ := bentFeature(places)
	l := newLinkage(t)
	ground, slide, block := l.body(), l.body(), l.body()
	x, y := solid.Vec{1, 0, 0}, solid.Vec{0, 1, 0}
	// A slide along x, and a block in it along y: the point of the block is on the ellipse.
	sliding := l.join("prismatic", l.feature(slide, bore(solid.Vec{}, x)), l.feature(ground, bore(solid.Vec{}, x)))
	l.join("prismatic", l.feature(block, bore(solid.Vec{}, y)), l.feature(slide, bore(solid.Vec{}, y)))
	l.join("point on curve", l.feature(block, Feature{Form: Corner, At: solid.Vec{0, 0, 4}}), l.feature(ground, edge))
	l.doc.Components[1].Pose.Shift = solid.Vec{12, 0, 0}
	l.doc.Components[2].Pose.Shift = solid.Vec{12, 15, 0}
	m := l.mechanism()
	if !m.Solve().Holds {
		t.Fatal("it is not solved")
	}
	if n := m.Mobility().Freedom; n != 1 {
		t.Errorf("%d freedoms", n)
	}
	drive, err := m.Drive(sliding.ID)
	if err != nil {
		t.Fatal(err)
	}
	for _, to := range []float64{-25, 29, 3} {
		if drive.To(to, nil) {
			t.Errorf("it stops before %g", to)
		}
		at := m.Pose(l.doc.Components[2].ID).Apply(solid.Vec{0, 0, 4})
		if want := b * math.Sqrt(1-to*to/(a*a)); math.Abs(at[1]-want) > 1e-6*a || math.Abs(at[0]-to) > 1e-9 {
			t.Errorf("at %g it stands at %v, not %g", to, at, want)
		}
	}
}
