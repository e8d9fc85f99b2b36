package geometry

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// Parts of every symmetry, whose inertia says nothing of their pose (cube, ball, disc, ring) or
// leaves many choices (three-fold about an edge or a diagonal), lie on the reference face by
// face after any motion; what has a hand is known from its mirror image, and what has none is
// not taken for one. With a wrong size or a missing feature, all the other faces do.
func TestPosesOfSymmetricParts(t *testing.T) {
	k := occ.Kernel{}
	r := rand.New(rand.NewPCG(12, 3))
	cube := func(side string, more ...string) *part.Document {
		return model(t, "mm", mm("a", side),
			append([]string{constrained(outline("s1", xy, -20, -20, 20, -20, 20, 20, -20, 20), `{"id":"k0","kind":"horizontal",
	"of":["l0"]},{"id":"k1","kind":"vertical","of":["l1"]},{"id":"k2","kind":"horizontal","of":["l2"]},{"id":"k3",
	"kind":"vertical","of":["l3"]},{"id":"k4","kind":"symmetric","of":["p0","p2","origin"]},{"id":"d0","kind":"length",
	"of":["l0"],"value":"40 mm"},{"id":"d1","kind":"length","of":["l1"],"value":"40 mm"}`),
				extrude("e1", "s1", `{"kind":"symmetric","total":"a"}`, "")}, more...)...)
	}
	disc := func(height string, more ...string) *part.Document {
		return model(t, "mm", "", append([]string{circles("s1", xy, 0, 0, 25), extrude("e1", "s1", oneSide(height), "")},
			more...)...)
	}
	at := func(n int, radius, size, turn float64) string {
		var xyr []float64
		for i := range n {
			s, c := math.Sincos(2*math.Pi*float64(i)/float64(n) + turn)
			xyr = append(xyr, radius*c, radius*s, size)
		}
		return circles("s2", `{"face":"e1/end"}`, xyr...)
	}
	top := `{"face":"e1/end"}`
	corner := func(x, y float64) []string { // a hole near a corner of one face: the cube has a hand
		return []string{circles("s2", top, x, y, 4), cut("e2", "s2", oneSide("9"), ""),
			circles("s3", `{"face":"e1/side:l1"}`, 8, 3, 3), cut("e3", "s3", oneSide("12"), "")}
	}
	chamfered := `{"id":"c1","kind":"chamfer","edges":[` + between("e1/end", "e1/side:l0") + `,` +
		between("e1/end", "e1/side:l1") + `,` + between("e1/side:l0", "e1/side:l1") + `],"distance":"5"}`
	star := func(size float64) []string { return []string{at(3, 15, size, 0), cut("e2", "s2", oneSide("6"), "")} }
	handed := []string{at(3, 15, 4, 0), cut("e2", "s2", oneSide("6"), ""),
		circles("s3", top, 12*math.Cos(0.5), 12*math.Sin(0.5), 2), cut("e3", "s3", oneSide("4"), "")}
	for _, c := range []struct {
		name    string
		ref     *part.Document
		hand    bool
		wrong   *part.Document // the same with something wrong
		astray  int            // faces of wrong that lie elsewhere, at most
		missing int            // faces of the reference that it lacks
	}{
		{"cube", cube("40 mm"), false, cube("44 mm"), 2, 0},
		{"cube with a hand", cube("40 mm", corner(9, 5)...), true, cube("40 mm", corner(9, 7)...), 2, 0},
		{"cube with one corner bevelled", cube("40 mm", chamfered), false, cube("40 mm"), 0, 4},
		{"disc", disc("12"), false, disc("15"), 1, 0},
		{"ring", disc("12", circles("s2", top, 0, 0, 10), cut("e2", "s2", through, "")), false,
			disc("12", circles("s2", top, 0, 0, 12), cut("e2", "s2", through, "")), 1, 0},
		{"three-fold", disc("12", star(4)...), false, disc("12", star(5)...), 3, 0},
		{"three-fold with a hand", disc("12", handed...), true, disc("14", handed...), 5, 0},
		{"ball", model(t, "mm", "", curves("s1", xz, pt("m", 0, 0), pt("a", 0, -15), pt("b", 0, 15), arc("q", "m", "a", "b"),
			ln("l", "a", "b")), revolve("r1", "s1", "y-axis", "")), false, nil, 0, 0},
	} {
		describe := func(d *part.Document, m solid.Transform) *inspect.Meshed {
			s, _, err := k.Transform(build(t, d, nil).Solid.Shape, m)
			if err != nil {
				t.Fatal(err)
			}
			g, err := solid.Describe(k, s, nil)
			if err != nil {
				t.Fatal(err)
			}
			mesh, err := inspect.MeshOf(k, s, g)
			if err != nil {
				t.Fatal(err)
			}
			return mesh
		}
		ref := describe(c.ref, solid.Identity)
		for n := range 6 {
			axis := solid.Vec{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}
			move := solid.Rotation(solid.Vec{}, axis, 2*math.Pi*r.Float64()).
				Then(solid.Translation(solid.Vec{50 * r.NormFloat64(), 50 * r.NormFloat64(), 20}))
			mirrored := n%3 == 2
			if mirrored {
				move = solid.Reflection(solid.Vec{3, 1, 0}, solid.Vec{1, 2, -1}.Unit()).Then(move)
			}
			att := describe(c.ref, move)
			pose, _ := inspect.FindPose(ref.Geometry, att.Geometry)
			if off := att.Strays(ref, pose.Transform, 1e-4); len(off) > 0 || pose.Mirrored != (mirrored && c.hand) {
				t.Errorf("%s, motion %d: faces %v lie elsewhere, mirrored %v", c.name, n, off, pose.Mirrored)
			}
			if c.wrong == nil || mirrored {
				continue
			}
			if att = describe(c.wrong, move); len(att.Faces) != len(ref.Faces)-c.missing {
				t.Fatalf("%s: %d faces", c.name, len(att.Faces))
			}
			pose, match := inspect.FindPose(ref.Geometry, att.Geometry)
			laid := pose.Transform.Then(solid.Translation(inspect.Settle(ref.Geometry, att.Moved(pose.Transform), match)))
			lost := 0
			for _, j := range match.Of {
				if j < 0 {
					lost++
				}
			}
			if off := att.Strays(ref, laid, 1e-4); len(off) > c.astray || pose.Mirrored || lost != c.missing {
				t.Errorf("%s, something wrong, motion %d: faces %s lie elsewhere, %d without a partner, mirrored %v", c.name, n,
					fmt.Sprint(off), lost, pose.Mirrored)
			}
		}
	}
}

// How far a part reaches along the axes, worked out from its edges in any pose, is the box of the kernel:
// of whole circles and arcs either way round, and of parts that are joined from pieces.
func TestExtentInEveryPose(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	k := occ.Kernel{}
	arcs := `{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"entities":[{"id":"a","kind":"point","at":[0,0]},{"id":"b",
	"kind":"point","at":[30,0]},{"id":"m","kind":"point","at":[30,12]},{"id":"c","kind":"point","at":[30,24]},{"id":"d",
	"kind":"point","at":[0,24]},{"id":"n","kind":"point","at":[0,12]},{"id":"l1","kind":"line","from":"a","to":"b"},
	{"id":"r","kind":"arc","center":"m","start":"b","end":"c"},{"id":"l2","kind":"line","from":"c","to":"d"},{"id":"q",
	"kind":"arc","center":"n","start":"a","end":"d"}]}`
	half := build(t, model(t, "mm", "", arcs, extrude("e1", "s1", oneSide("8"), "")), nil).Solid.Shape
	parts := map[string]solid.Shape{"arcs out and in": half,
		"disc": build(t, model(t, "mm", "", circles("s1", xy, 3, 4, 20), extrude("e1", "s1", oneSide("5"), "")),
			nil).Solid.Shape}
	mirrored, _, err := k.Transform(half, solid.Reflection(solid.Vec{15, 12, 0}, solid.Vec{0, 0, 1}))
	if err != nil {
		t.Fatal(err)
	}
	if parts["pieces"], _, err = k.Boolean(solid.Union, half, []solid.Shape{mirrored}); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"winch-spindle", "gland-flange", "pawl-plate"} {
		b := demoExercise(t, name)
		key, _, err := checker().Load(ctx, b.ref)
		if err != nil {
			t.Fatal(err)
		}
		parts[name] = key.Shape
	}
	for name, s := range parts {
		for range 6 {
			moved, _, err := k.Transform(s,
				solid.Rotation(solid.Vec{}, solid.Vec{r.NormFloat64(), r.NormFloat64(), r.NormFloat64()}, 6*r.Float64()))
			if err != nil {
				t.Fatal(err)
			}
			g, err := solid.Describe(k, moved, nil)
			if err != nil {
				t.Fatal(err)
			}
			if off := g.Extent().Sub(g.Box.Max.Sub(g.Box.Min)).Norm(); off > 1e-4 {
				t.Errorf("%s: %v, the kernel's box is %v", name, g.Extent(), g.Box.Max.Sub(g.Box.Min))
			}
		}
	}
}

// The box of a part with faces of a torus (a bend, a round about a hub) is that of its surface, in odd poses too:
// places all over it reach as far as the box, and none farther.
func TestBoxOfRoundedParts(t *testing.T) {
	k := occ.Kernel{}
	for _, name := range []string{"drain-bend", "hand-hole-cover"} {
		whole := build(t, demoExercise(t, name).ref.Document, nil).Solid.Shape
		for _, move := range []solid.Transform{solid.Identity, oddPose(), oddPose().Then(oddPose())} {
			s, _, err := k.Transform(whole, move)
			if err != nil {
				t.Fatal(err)
			}
			for i, f := range s.Faces() {
				if f.Kind != solid.TorusFace {
					continue
				}
				points, _, err := k.Sample(s, i, 120)
				if err != nil {
					t.Fatal(err)
				}
				low, high := points[0], points[0]
				for _, p := range points {
					for c := range 3 {
						low[c], high[c] = math.Min(low[c], p[c]), math.Max(high[c], p[c])
					}
				}
				// Between two of 120 places on a full turn the surface rises by less than R (1 - cos 1.5 deg).
				rise := (f.Radius + f.MinorRadius) * (1 - math.Cos(1.5*math.Pi/180))
				for c := range 3 {
					if d := low[c] - f.Bounds.Min[c]; d < -1e-9 || d > 2*rise {
						t.Errorf("%s: the box of face %d begins %g before the surface", name, i, d)
					}
					if d := f.Bounds.Max[c] - high[c]; d < -1e-9 || d > 2*rise {
						t.Errorf("%s: the box of face %d ends %g behind the surface", name, i, d)
					}
				}
			}
		}
	}
}
