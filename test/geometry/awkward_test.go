package geometry

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/solid"
	"hammerset/formats/lettering"
	"hammerset/formats/stl"
	"hammerset/kernel/occ"
)

// Files in other units: the reader converts what the file states, so a part
// written in centimetres or metres is right when its numbers are, and a file
// whose unit was mixed up is recognised as such.
func TestFilesInOtherUnits(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	mm := stepAttempt(t, b.ref.Document, oddPose(), 1).STEP
	if !bytes.Contains(mm, []byte("SI_UNIT(.MILLI.,.METRE.)")) {
		t.Fatal("the STEP file does not state millimetres as expected")
	}
	for unit, c := range map[string]struct {
		scale  float64 // of the numbers in the file
		stated float64 // unit that is reported, mm
		factor float64 // of a mix-up, 0 for none
	}{
		".CENTI.": {0.1, 10, 0}, // right numbers in centimetres
		"$":       {0.001, 1000, 0},
		".MICRO.": {1, 0.001, 1000}, // millimetre numbers declared as micrometres
	} {
		data := stepAttempt(t, b.ref.Document, oddPose(), c.scale).STEP
		data = bytes.ReplaceAll(data, []byte("SI_UNIT(.MILLI.,.METRE.)"), []byte("SI_UNIT("+unit+",.METRE.)"))
		r := run(t, b.Parsed, b.ref, check.Attempt{Name: "units.step", STEP: data})
		if r.Attempt.FileUnit != c.stated {
			t.Errorf("%s: the file's unit is taken as %g mm", unit, r.Attempt.FileUnit)
		}
		switch {
		case c.factor == 0 && (r.Scale != nil || wrong(r) != ""):
			t.Errorf("%s: scale %+v, %s", unit, r.Scale, wrong(r))
		case c.factor != 0 && (r.Scale == nil || !near(r.Scale.Factor, c.factor, 1e-9)):
			t.Errorf("%s: scale %+v", unit, r.Scale)
		}
	}
}

// A STEP file of 30 MB, most of it comments, is read and checked like any other.
func TestLargeFile(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	data := stepAttempt(t, b.ref.Document, oddPose(), 1).STEP
	pad := bytes.Repeat([]byte("/* "+strings.Repeat("padding ", 15)+"*/\n"), 30<<20/126)
	data = bytes.Replace(data, []byte("DATA;\n"), append([]byte("DATA;\n"), pad...), 1)
	if len(data) < 29<<20 {
		t.Fatalf("only %d bytes", len(data))
	}
	if r := run(t, b.Parsed, b.ref, check.Attempt{Name: "large.step", STEP: data}); wrong(r) != "" {
		t.Errorf("%s", wrong(r))
	}
}

// Partners of parameters: by name in any case, by a value that only one has,
// never by a value that two have or of another dimension.
func TestPartners(t *testing.T) {
	table := func(p ...string) *quantity.Table {
		var list []quantity.Parameter
		for i := 0; i+1 < len(p); i += 2 {
			list = append(list, quantity.Parameter{Name: p[i], Formula: p[i+1]})
		}
		out, err := quantity.Evaluate(list, quantity.Millimetre, nil)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	ref := table("width", "40 mm", "bore", "12 mm", "holes", "12", "wall", "3 mm", "inner", "bore - wall",
		"tilt", "12 deg")
	att := table("Width", "41 mm", "hole_d", "12 mm", "n", "12", "a", "3 mm", "b", "3 mm")
	want := map[string]string{"width": "Width name", "bore": "hole_d value", "holes": "n value", "wall": " none",
		"tilt": " none"}
	got := (&robust.Sweeper{}).Pairs(ref, att)
	if len(got) != len(want) {
		t.Errorf("%+v", got)
	}
	for _, p := range got {
		if s := p.Attempt + " " + p.Match; s != want[p.Reference] {
			t.Errorf("%s goes with %q, want %q", p.Reference, s, want[p.Reference])
		}
	}
}

// A model with wrong sizes still shows which of its parameters drive nothing and
// which drive what they should.
func TestSweepBesideWrongSizes(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	r := run(t, b.Parsed, b.ref, edited(t, b, `"headDepth": "5 mm"`, `"headDepth": "10 mm"`, `"total": "web"`,
		`"total": "2*web"`, `"diameter": "bolt"`, `"diameter": "9 mm"`))
	for _, s := range r.Sweep {
		want := report.Follows
		if s.Parameter == "bolt" {
			want = report.Still
		}
		if s.Outcome != want {
			t.Errorf("%+v, want %s", s, want)
		}
	}
}

// A model that breaks where the reference stands, and one that ends where the
// reference ends too, are told apart.
func TestBreakingIsTold(t *testing.T) {
	params := `{"name":"size","value":"40 mm"},{"name":"gap","value":"SPACE"}`
	steps := func(radius string) []string {
		return []string{constrained(outline("s1", xy, -20, -20, 20, -20, 20, 20, -20, 20), `{"id":"a","kind":"symmetric",
	"of":["p0","p2","origin"]},{"id":"b","kind":"horizontal","of":["l0"]},{"id":"c","kind":"vertical","of":["l1"]},
	{"id":"d","kind":"horizontal","of":["l2"]},{"id":"e","kind":"vertical","of":["l3"]},{"id":"f","kind":"length",
	"of":["l0"],"value":"size"},{"id":"g","kind":"length","of":["l1"],"value":"40"}`),
			extrude("e1", "s1", oneSide("10"), ""), `{"id":"f1","kind":"fillet","radius":"` + radius +
				`","edges":[{"between":["e1/side:l0","e1/side:l1"]},{"between":["e1/side:l0","e1/side:l3"]}]}`}
	}
	ref := model(t, "mm", strings.Replace(params, "SPACE", "5 mm", 1), steps("0.47*size")...)
	att := model(t, "mm", strings.Replace(params, "SPACE", "5 mm", 1), steps("18.8 mm")...)
	s := &robust.Sweeper{Rebuilder: part.NewRebuilder(occ.Kernel{}), Exercise: demoExercise(t, "bearing-bracket").Parsed,
		Reference: ref, Attempt: att}
	rows, err := s.Run(ctx, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]string{}
	for _, r := range rows {
		got[r.Parameter+quantity.FormatDecimal(r.Percent, 0)] = r.Outcome
	}
	for key, want := range map[string]string{"size-10": report.Breaks, "size10": report.Differs, "size25": report.Differs,
		"gap10": report.Follows} {
		if got[key] != want {
			t.Errorf("%s: %s, want %s", key, got[key], want)
		}
	}
	again, err := (&robust.Sweeper{Rebuilder: part.NewRebuilder(occ.Kernel{}), Exercise: s.Exercise, Reference: ref,
		Attempt: ref}).Run(ctx, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range again {
		if r.Outcome != report.Follows {
			t.Errorf("the reference against itself: %+v", r)
		}
	}
}

// Lettering: widths add up, grow with the height, and every sign that a sheet
// uses has a shape.
func TestLettering(t *testing.T) {
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	if w := f.Width("AB", 3.5); !near(w, f.Width("A", 3.5)+f.Width("B", 3.5), 1e-12) ||
		!near(f.Width("AB", 7), 2*w, 1e-12) {
		t.Errorf("width %g", w)
	}
	for _, sign := range "⌀⌴↧°×±/–R0123456789" {
		if len(f.Outline(string(sign), 3.5)) == 0 {
			t.Errorf("%c has no shape", sign)
		}
	}
	top := 0.0
	for _, s := range f.Outline("H", 3.5) {
		for _, p := range s.Points[:s.Count] {
			top = max(top, p[1])
		}
	}
	if !near(top, 3.5, 1e-6) { // ISO 3098: the height of lettering is that of the capitals
		t.Errorf("capitals are %g high, want 3.5", top)
	}
}

// STL: the normals of a cube's facets point outwards, along the axes.
func TestSTL(t *testing.T) {
	b := build(t, model(t, "mm", "", outline("s", xy, 0, 0, 10, 0, 10, 10, 0, 10), extrude("e", "s", oneSide("10"), "")),
		nil)
	m, err := occ.Kernel{}.Mesh(b.Solid.Shape, 0.1, 0.2)
	if err != nil {
		t.Fatal(err)
	}
	if len(m.Triangles) != 36 || len(m.Lines) != 12 || len(m.Faces) != 12 {
		t.Fatalf("%d corners of triangles, %d lines", len(m.Triangles), len(m.Lines))
	}
	at := func(i int32) solid.Vec { return solid.Vec(m.Vertices[3*i : 3*i+3]) }
	for i := 0; i < 36; i += 3 {
		p, q, r := at(m.Triangles[i]), at(m.Triangles[i+1]), at(m.Triangles[i+2])
		n := q.Sub(p).Cross(r.Sub(p)).Unit()
		middle := p.Add(q).Add(r).Scale(1.0 / 3).Sub(solid.Vec{5, 5, 5})
		if n.Dot(middle) < 4.99 {
			t.Errorf("facet %d looks inwards: %v at %v", i/3, n, middle)
		}
	}
	if data := stl.Write(m); len(data) != 84+50*12 || data[80] != 12 {
		t.Errorf("STL of %d bytes", len(data))
	}
}

// A turned ring that comes in pieces, as parts do that were made by mirrors and patterns of a
// sector, becomes whole: one face for each of its surfaces (plane, cylinder, cone),
// however many pieces there are, with the volume of the theorem of Pappus.
func TestPiecesOfATurnedPartBecomeOne(t *testing.T) {
	k := occ.Kernel{}
	at := solid.Frame{X: solid.Vec{1, 0, 0}, Y: solid.Vec{0, 0, 1}, Z: solid.Vec{0, -1, 0}}
	line := func(x0, y0, x1, y1 float64) solid.Segment {
		return solid.Segment{Kind: "line", A: [2]float64{x0, y0}, B: [2]float64{x1, y1}}
	}
	section := solid.Profile{Frame: at,
		Loops: [][]solid.Segment{{line(10, 0, 26, 0), line(26, 0, 30, 4), line(30, 4, 30, 20), line(30, 20, 10, 20),
			line(10, 20, 10, 0)}}}
	area, middle := 20.0*20-8, (20*20*20-8*(30-4.0/3))/(20*20-8.0)
	for _, n := range []int{2, 3, 4, 5, 8} {
		sector, _, err := k.Revolve(section, solid.Vec{}, solid.Vec{0, 0, 1}, 2*math.Pi/float64(n))
		if err != nil {
			t.Fatal(err)
		}
		var rest []solid.Shape
		for i := 1; i < n; i++ {
			s, _, err := k.Transform(sector, solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, 2*math.Pi*float64(i)/float64(n)))
			if err != nil {
				t.Fatal(err)
			}
			rest = append(rest, s)
		}
		whole, _, err := k.Boolean(solid.Union, sector, rest)
		if err != nil {
			t.Fatal(err)
		}
		before := len(whole.Faces())
		simple, h, _, err := k.Simplify(whole)
		if err != nil {
			t.Fatal(err)
		}
		if p := props(t, simple); len(simple.Faces()) != 5 || !near(p.Volume, 2*math.Pi*middle*area, 1e-9) || len(h) != 5 {
			t.Errorf("%d pieces: %d faces become %d with %d origins, volume %g, not %g", n, before, len(simple.Faces()), len(h),
				p.Volume, 2*math.Pi*middle*area)
		}
		from := 0
		for _, list := range h {
			from += len(list)
		}
		if from != before {
			t.Errorf("%d pieces: of %d faces %d are accounted for", n, before, from)
		}
	}
}

// An oval flange of full circles and the lines that touch them, with a hub flush with its middle
// circle: the geometry library cannot unite the hub's cylinder with both sides at once. What can
// be united is, the rest stays in pieces, is as sound and as heavy as it should be, and is spoken
// of once: not by every step after it, not as a weakness, and not in the report of a check.
func TestHubFlushWithAnOvalFlange(t *testing.T) {
	const R, e, a = 29.0, 14.0, 45.0
	s := (R - e) / a
	c := math.Sqrt(1 - s*s)
	parts := []string{pt("m", 0, 0), pt("n0", a, 0), pt("n1", -a, 0)}
	for i, q := range [][2]float64{{1, 1}, {-1, 1}, {-1, -1}, {1, -1}} {
		from, to := fmt.Sprint("a", i), fmt.Sprint("b", i)
		parts = append(parts, pt(from, q[0]*R*s, q[1]*R*c), pt(to, q[0]*(a+e*s), q[1]*e*c), ln(fmt.Sprint("t", i), from, to))
	}
	for i, r := range []float64{R, e, e} {
		parts = append(parts, fmt.Sprintf(`{"id":"c%d","kind":"circle","center":%q,"radius":%v}`, i,
			[]string{"m", "n0", "n1"}[i], r))
	}
	b := build(t, model(t, "mm", "", curves("s1", xy, parts...), extrude("e1", "s1", oneSide("8"), ""),
		circles("s2", `{"face":"e1/end"}`, 0, 0, R), extrude("e2", "s2", oneSide("20"), ""),
		circles("s3", `{"face":"e2/end"}`, 0, 0, 9), cut("e3", "s3", `{"kind":"through"}`, ""),
		`{"id":"f1","kind":"chamfer","distance":"1","edges":[{"around":"e2/end"}]}`), nil)
	phi := math.Asin(s)
	oval := 2*R*R*phi + e*e*(math.Pi-2*phi) + 2*(R+e)*math.Sqrt(a*a-(R-e)*(R-e))
	ring := func(middle, area float64) float64 { return 2 * math.Pi * middle * area } // Pappus
	want := oval*8 + math.Pi*R*R*20 - math.Pi*81*28 - ring(R-1.0/3, 0.5) - ring(9+1.0/3, 0.5)
	if v := props(t, b.Solid.Shape).Volume; !near(v, want, 1e-9) {
		t.Errorf("the volume is %v, not %v", v, want)
	}
	if n := len(b.Solid.Faces("e2/side:c0")); n != 1 {
		t.Errorf("the hub has %d round sides", n)
	}
	if sides := b.Solid.Faces("e1/side:c0"); len(sides) > 2 {
		t.Errorf("the middle circle has %d faces", len(sides))
	}
	notes := 0
	for _, s := range b.Steps {
		if s.Note != "" {
			notes++
		}
		if s.Warning != "" || s.Hint != nil {
			t.Errorf("%s: %s %v", s.ID, s.Warning, s.Hint)
		}
	}
	if notes > 1 {
		t.Errorf("%d steps speak of it", notes)
	}
}
