package geometry

import (
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/occ"
	"hammerset/test/samples"
)

// oddPose turns by 37 degrees about a skew axis and shifts.
func oddPose() solid.Transform {
	return solid.Rotation(solid.Vec{3, -7, 11}, solid.Vec{1, 2, -0.7}, 37*math.Pi/180).
		Then(solid.Translation(solid.Vec{210.5, -33.25, 17.125}))
}

// Right geometry is right whatever its place, its unit of file and its steps.
func TestRightAttemptsAreIn(t *testing.T) {
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b := demoExercise(t, name)
		for what, att := range map[string]check.Attempt{
			"the reference itself": {Name: "a.json", Document: b.ref.Document},
			"STEP as modelled":     stepAttempt(t, b.ref.Document, solid.Identity, 1),
			"STEP turned by 37°":   stepAttempt(t, b.ref.Document, oddPose(), 1),
			"STEP upside down":     stepAttempt(t, b.ref.Document, solid.Rotation(solid.Vec{}, solid.Vec{1, 0, 0}, math.Pi), 1),
			"STEP half turned": stepAttempt(t, b.ref.Document, solid.Rotation(solid.Vec{}, solid.Vec{0, 0, 1}, math.Pi/2),
				1),
		} {
			r := run(t, b.Parsed, b.ref, att)
			if w := wrong(r); w != "" {
				t.Errorf("%s, %s: %s; pose %+v", name, what, w, r.Pose)
			}
			for _, f := range r.Whole {
				if f.Verdict != report.In {
					t.Errorf("%s, %s: %s is %s (%s)", name, what, f.Label, f.Verdict, f.Text)
				}
			}
			if r.Points != r.OutOf {
				t.Errorf("%s, %s: %g of %g points", name, what, r.Points, r.OutOf)
			}
			// Half a turn about its axis brings the flange with six holes onto itself.
			if asModeled := what == "the reference itself" || what == "STEP as modelled" || name == "gland-flange" &&
				what == "STEP upside down"; r.Pose.AsModeled != asModeled || r.Pose.Mirrored {
				t.Errorf("%s, %s: pose %+v", name, what, r.Pose)
			}
		}
	}
}

// Every reference of the demo has full marks for itself and nothing to say, its STEP turned
// and shifted is right but for the pose that is asked for, and its atlas fits.
func TestDemoReferencesAreRight(t *testing.T) {
	for _, name := range demo.Exercises()[2:] {
		b := demoExercise(t, name)
		if _, err := documents.ReadAtlas(b.Atlas, b.Parsed, b.ref.Document); err != nil {
			t.Errorf("%s: %v (make it anew with hammerset atlas)", name, err)
		}
		r := run(t, b.Parsed, b.ref, check.Attempt{Name: "a.json", Document: b.ref.Document})
		if w := wrong(r); w != "" || len(r.Findings) > 0 || r.Points != r.OutOf {
			t.Errorf("%s: %s, %g of %g points, findings %+v", name, w, r.Points, r.OutOf, r.Findings)
		}
		// a file of geometry says nothing of threads
		want := map[string]string{"pawl-plate": "middle out", "rack-stop": "screw ask"}[name]
		if w := wrong(run(t, b.Parsed, b.ref, stepAttempt(t, b.ref.Document, oddPose(), 1))); w != want {
			t.Errorf("%s in an odd pose: %q, want %q", name, w, want)
		}
	}
}

// Every slip that students of the demo make at steps is checked to the end as a model, varied sizes and all: a
// step that is missing must not stop what is measured at other sizes. What is wrong is told, and not as unknown.
func TestTheDemosSlipsAreCheckedToTheEnd(t *testing.T) {
	list, err := demo.AllReshaped()
	if err != nil || len(list) == 0 {
		t.Fatal(len(list), err)
	}
	for _, s := range list {
		t.Run(s.Exercise+" "+s.Slip, func(t *testing.T) {
			doc, err := documents.ReadModel(s.Model)
			if err != nil {
				t.Fatal(err)
			}
			b := demoExercise(t, s.Exercise)
			r := run(t, b.Parsed, b.ref, check.Attempt{Name: "a.json", Document: doc})
			if len(r.Findings) == 0 || r.Findings[0].Kind == "unknown" || r.Points >= r.OutOf {
				t.Errorf("%g of %g points, findings %+v", r.Points, r.OutOf, r.Findings)
			}
			if len(r.Sweep) == 0 {
				t.Error("no size was varied")
			}
		})
	}
}

// Every wrong size is out at its balloon and nowhere else, as a STEP file in an odd pose and, of most, as a
// model document; the likely cause is the true one.
func TestWrongSizesAreOut(t *testing.T) {
	cases := []struct {
		name, exercise string
		edits          []string
		wrong          string
		cause          string // in the finding of the first characteristic
	}{
		{"radius for diameter", "bearing-bracket", []string{`"diameter": "bore", "headDiameter": "bore + 10 mm"`,
			`"diameter": "bore/2", "headDiameter": "bore + 10 mm"`}, "bore out", "the radius was typed"},
		{"diameter for radius", "bearing-bracket", []string{`"radius": "10 mm"`, `"radius": "20 mm"`}, "corner out",
			"the diameter was typed"},
		{"rib twice as thick", "bearing-bracket", []string{`"total": "web"`, `"total": "2*web"`}, "web out",
			"the total was given on each side"},
		{"complement of the slope", "bearing-bracket", []string{`"value": "180 deg - slope"`, `"value": "90 deg + slope"`,
			`"foot", "value": "36 mm"`, `"foot", "value": "20 mm"`}, "foot out, slope out", "complement"},
		{"one spacing wrong", "bearing-bracket", []string{`"pitch_y", "value": "34 mm"`, `"pitch_y", "value": "36 mm"`},
			"pitch_y out", "neighbouring"},
		{"a hair too thick", "bearing-bracket", []string{`"thick", "value": "14 mm"`, `"thick", "value": "14.03 mm"`},
			"thick out", ""},
		{"three at once", "bearing-bracket", []string{`"bolt", "value": "9 mm"`, `"bolt", "value": "11 mm"`,
			`"wall", "value": "16 mm"`, `"wall", "value": "18 mm"`, `"headDepth": "5 mm"`, `"headDepth": "7 mm"`},
			"bolt out, wall out, proud out, head_deep out", ""},
		{"a hole forgotten", "bearing-bracket", []string{`"at": ["p1", "p2", "p3", "p4"]`, `"at": ["p1", "p2", "p3"]`},
			"bolt not found, pitch_x not found, pitch_y not found", "forgotten"},
		{"no rounds at the foot", "bearing-bracket", []string{`,
    {"id": "f2", "kind": "fillet", "name": "upright foot", "radius": "5 mm", ` +
			`"edges": [{"between": ["e1/end", "e2/end"]}]}`, ""}, "foot_round not found", "forgotten"},
		{"a rounded fraction", "gland-flange", []string{`"groove_wide", "value": "3/16 in"`,
			`"groove_wide", "value": "0.188 in"`}, "groove_wide out", "rounded decimal"},
		{"a wrong count", "gland-flange", []string{`"bolts", "value": "6"`, `"bolts", "value": "5"`},
			"bolt not found, circle out, spacing out", "one too few"},
		{"one hole too many", "gland-flange", []string{`"bolts", "value": "6"`, `"bolts", "value": "7"`},
			"bolt out, circle out, spacing out", "one too many"},
		{"a wrong bolt circle", "gland-flange", []string{`"circle", "value": "3 1/8 in"`, `"circle", "value": "3 in"`},
			"circle out", ""},
		{"off by the flange", "gland-flange", []string{`"pocket_deep", "value": "3/4 in"`,
			`"pocket_deep", "value": "1 3/8 in"`}, "pocket_deep out", "wrong face"},
	}
	for i, c := range cases {
		b := demoExercise(t, c.exercise)
		doc := edited(t, b, c.edits...)
		attempts := []check.Attempt{stepAttempt(t, doc.Document, oddPose(), 1)}
		if i == 0 || c.exercise != "bearing-bracket" { // all sizes of a model are varied, which takes long for this one
			attempts = append(attempts, doc)
		}
		for _, att := range attempts {
			r := run(t, b.Parsed, b.ref, att)
			if w := wrong(r); w != c.wrong {
				t.Errorf("%s (%s): %q, want %q", c.name, att.Name, w, c.wrong)
				continue
			}
			if r.Points >= r.OutOf {
				t.Errorf("%s (%s): full marks", c.name, att.Name)
			}
			cause := ""
			for _, f := range r.Findings {
				if f.Characteristic != "" {
					cause += f.Cause + " "
				}
			}
			if !strings.Contains(cause, c.cause) {
				t.Errorf("%s (%s): the causes are %q", c.name, att.Name, cause)
			}
		}
	}
}

func TestUnitMistakesAreRecognised(t *testing.T) {
	for _, c := range []struct {
		name   string
		scale  float64
		factor float64
	}{{"bearing-bracket", 25.4, 1 / 25.4}, {"bearing-bracket", 0.1, 10}, {"gland-flange", 1 / 25.4, 25.4},
		{"gland-flange", 1000, 0.001}} {
		b := demoExercise(t, c.name)
		r := run(t, b.Parsed, b.ref, stepAttempt(t, b.ref.Document, oddPose(), c.scale))
		if r.Scale == nil || !near(r.Scale.Factor, c.factor, 1e-12) {
			t.Errorf("%s times %g: scale %+v", c.name, c.scale, r.Scale)
			continue
		}
		if r.Findings[0].Kind != "unit" || r.Count(report.NotFound) > 0 {
			t.Errorf("%s times %g: first finding %+v; %s", c.name, c.scale, r.Findings[0], wrong(r))
		}
		for _, k := range r.Characteristics { // lengths are wrong; angles, counts and symmetry are not
			angular := k.Kind == "angle" || k.Kind == "spacing" || k.Kind == "solids" || k.Kind == "symmetric"
			if (k.Verdict == report.In) != angular {
				t.Errorf("%s times %g: %s is %s", c.name, c.scale, k.ID, k.Verdict)
			}
		}
	}
}

// chiral is a part that no motion brings onto its mirror image.
func chiral(t testing.TB) (*exercise.Exercise, check.Reference, *part.Document) {
	d := model(t, "mm", "", outline("s1", xy, 0, 0, 60, 0, 60, 40, 0, 40), extrude("e1", "s1", oneSide("10"), ""),
		outline("s2", `{"face":"e1/end"}`, 0, 0, 12, 0, 12, 25, 0, 25), extrude("e2", "s2", oneSide("14"), ""),
		circles("s3", `{"face":"e1/end"}`, 48, 9, 4), extrude("e3", "s3", `{"kind":"through"}`, `,"result":"cut"`))
	ex := &exercise.Exercise{Hammerset: exercise.Version, Title: "Step block", Unit: "mm", Reference: "r.json", Solids: 1,
		Rubric: exercise.Rubric{Characteristics: 10, WholePart: 10},
		Characteristics: []exercise.Characteristic{{ID: "w", Balloon: 1, Kind: "distance", Label: "Width",
			Of: [][]address.Ref{address.List("e1/side:l1", "e1/side:l3")}}, {ID: "hole", Balloon: 2, Kind: "distance",
			Label: "Hole", Of: [][]address.Ref{address.List("e1/side:l1", "e3/side:c0")}}}}
	return ex, check.Reference{Document: d}, d
}

func TestMirrorImagesAreRecognised(t *testing.T) {
	ex, ref, d := chiral(t)
	mirror := solid.Reflection(solid.Vec{5, 0, 0}, solid.Vec{1, 0, 0})
	for what, move := range map[string]solid.Transform{"mirrored": mirror, "mirrored and turned": mirror.Then(oddPose())} {
		r := run(t, ex, ref, stepAttempt(t, d, move, 1))
		if !r.Pose.Mirrored || r.Findings[0].Kind != "mirror" || wrong(r) != "" {
			t.Errorf("%s: pose %+v, %s", what, r.Pose, wrong(r))
		}
		for _, m := range r.Marks {
			if m.ID == "whole" && m.Points != 0 {
				t.Errorf("%s: %g points for the whole part", what, m.Points)
			}
		}
	}
	if r := run(t, ex, ref, stepAttempt(t, d, oddPose(), 1)); r.Pose.Mirrored || math.Abs(r.Pose.Angle-37) > 1e-6 {
		t.Errorf("only turned: %+v", r.Pose)
	}
}

// The pose that is found is the inverse of the motion that was made (Kabsch 1976:
// for exact directions the fitted rotation is exact).
func TestPoseIsExact(t *testing.T) {
	_, ref, d := chiral(t)
	key, _, err := checker().Load(ctx, ref)
	if err != nil {
		t.Fatal(err)
	}
	k := occ.Kernel{}
	g, err := solid.Describe(k, key.Shape, key.Names)
	if err != nil {
		t.Fatal(err)
	}
	moved, _, err := k.Transform(build(t, d, nil).Solid.Shape, oddPose())
	if err != nil {
		t.Fatal(err)
	}
	a, err := solid.Describe(k, moved, nil)
	if err != nil {
		t.Fatal(err)
	}
	pose, m := inspect.FindPose(g, a)
	for _, p := range []solid.Vec{{}, {60, 40, 10}, {0, 25, 24}} {
		if q := pose.Transform.Apply(oddPose().Apply(p)); q.Distance(p) > 1e-6 {
			t.Errorf("%v comes back to %v", p, q)
		}
	}
	if len(m.Extra) != 0 || pose.Misfit > 1e-6 {
		t.Errorf("misfit %g, extra faces %v", pose.Misfit, m.Extra)
	}
}

// The sweep tells models that follow from those that do not.
func TestSweep(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	for _, c := range []struct {
		name      string
		edits     []string
		parameter string
		outcome   string
		finding   string
	}{
		{"a typed number", []string{`"diameter": "bolt"`, `"diameter": "9 mm"`}, "bolt", report.Still, "parameter-still"},
		{"renamed, same value", []string{`"web"`, `"rib_thickness"`}, "web", report.Follows, ""},
		{"half of it follows", []string{`"value": "width - 24 mm"`, `"value": "96 mm"`}, "width", report.Differs, "differs"},
		{"no such size", []string{`{"name": "web", "value": "10 mm"},`, "", `"total": "web"`, `"total": "10 mm"`}, "web",
			report.Missing, "parameter-missing"},
	} {
		r := run(t, b.Parsed, b.ref, edited(t, b, c.edits...))
		if wrong(r) != "" {
			t.Errorf("%s: %s", c.name, wrong(r))
		}
		kinds := ""
		for _, s := range r.Sweep {
			if s.Parameter == c.parameter && s.Outcome != c.outcome {
				t.Errorf("%s: %+v", c.name, s)
			} else if s.Parameter != c.parameter && s.Outcome != report.Follows {
				t.Errorf("%s: another parameter: %+v", c.name, s)
			}
		}
		for _, f := range r.Findings {
			kinds += f.Kind + " "
		}
		if strings.TrimSpace(kinds) != c.finding {
			t.Errorf("%s: findings %q, want %q", c.name, kinds, c.finding)
		}
	}
}

func TestLooseSketchesAreFound(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	r := run(t, b.Parsed, b.ref, edited(t, b, `{"id": "d10", "kind": "length", "of": ["nose"], "value": "groove_at"}`,
		`{"id": "d10", "kind": "horizontal", "of": ["nose"]}`))
	s := r.Sketches[0]
	if s.Held || s.Freedom != 1 || len(s.Spare) != 1 || len(s.Loose) != 4 || !strings.HasPrefix(s.Loose[0], "corner ") {
		t.Errorf("sketch %+v", s)
	}
	kinds := ""
	for _, f := range r.Findings {
		kinds += f.Kind + " "
	}
	if !strings.Contains(kinds, "loose") || !strings.Contains(kinds, "spare") {
		t.Errorf("findings %s", kinds)
	}
}

// How far the sketch of the flange holds follows from its sizes: the shoulder
// vanishes when D comes down to the hub, the neck when the length comes down to
// flange, groove and nose together, and so on. An attempt whose groove has a typed
// place holds less far, and says so; a student's report has no figure of the
// reference in it.
func TestSketchIntervals(t *testing.T) {
	b := demoExercise(t, "gland-flange")
	inches := func(text string) float64 {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	r := run(t, b.Parsed, b.ref, edited(t, b))
	want := map[string][2]float64{"D": {2.25, 0}, "hub": {1.625, 4}, "long": {0.625 + 0.5 + 0.1875, 0},
		"plate": {0, 2.5 - 0.5 - 0.1875}, "bore": {0, 2.25 - 0.375}, "pocket_deep": {0, 2.5}}
	seen := 0
	for _, i := range r.Sketches[0].Intervals {
		w, ok := want[i.Parameter]
		if !ok {
			continue
		}
		seen++
		if i.Low.Open != (w[0] == 0) || !i.Low.Open && math.Abs(inches(i.Low.Value)-w[0]) > 2e-3*w[0] ||
			i.High.Open != (w[1] == 0) || !i.High.Open && math.Abs(inches(i.High.Value)-w[1]) > 2e-3*w[1] ||
			i.Low.Early || i.High.Early {
			t.Errorf("%s: %+v, want %v", i.Parameter, i, w)
		}
	}
	if seen != len(want) || len(r.Sketches[0].Notes) != 0 {
		t.Errorf("%d intervals, notes %+v", seen, r.Sketches[0].Notes)
	}
	r = run(t, b.Parsed, b.ref, edited(t, b, `{"id": "d10", "kind": "length", "of": ["nose"], "value": "groove_at"}`,
		`{"id": "d10", "kind": "distance", "of": ["g", "y-axis"], "value": "2"}`))
	found := false
	for _, f := range r.Findings {
		found = found || f.Kind == "interval" && strings.Contains(f.What, "below long = 2 ") &&
			strings.Contains(f.What, "the ends of the middle right line meet")
	}
	if !found {
		t.Errorf("the typed place is not found: %+v", r.Findings)
	}
	for _, i := range r.Sketches[0].Intervals {
		if i.Parameter == "long" && (!i.Low.Early || i.Reference == nil) {
			t.Errorf("%+v", i)
		}
	}
	for _, i := range r.Student().Sketches[0].Intervals {
		if i.Reference != nil {
			t.Errorf("a student sees how far the reference holds: %+v", i)
		}
	}
}

// What cannot be checked says what it is and what to do.
func TestUnusableAttempts(t *testing.T) {
	b := demoExercise(t, "bearing-bracket")
	good := stepAttempt(t, b.ref.Document, solid.Identity, 1).STEP
	two := model(t, "mm", "", outline("s1", xy, 0, 0, 9, 0, 9, 9, 0, 9), extrude("e1", "s1", oneSide("5"), ""),
		`{"id":"m1","kind":"mirror","plane":{"datum":"YZ","offset":"30"}}`)
	for _, c := range []struct {
		name string
		att  check.Attempt
		say  string
	}{
		{"truncated STEP", check.Attempt{STEP: good[:len(good)/2]}, ""},
		{"STEP without geometry", check.Attempt{
			STEP: []byte("ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\n" +
				"FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n")}, "no geometry"},
		{"a model without a solid", check.Attempt{Document: model(t, "mm", "", circles("s1", xy, 0, 0, 4))},
			"no step that makes one"},
		{"a model that depends on itself", check.Attempt{Document: &part.Document{Hammerset: part.Version, Unit: "furlong"}},
			"not a unit of length"},
	} {
		_, err := checker().Part(ctx, check.Subject{Exercise: b.Parsed, Reference: b.ref, Attempt: c.att},
			func(string, float64) {})
		u, ok := err.(*check.Unusable)
		if !ok || !strings.Contains(u.What, c.say) || u.Remedy == "" {
			t.Errorf("%s: %v", c.name, err)
		}
	}
	if r := run(t, b.Parsed, b.ref, check.Attempt{Document: two}); !strings.Contains(wrong(r), "one out") ||
		r.Findings[0].Kind != "solids" {
		t.Errorf("two solids: %s, %+v", wrong(r), r.Findings[0])
	}
}

// STEP files that nobody here wrote (Debian's package gmsh-doc, from the demos
// and tutorials of Gmsh): intake finds the solids that their authors speak of.
// as1-tu-203 is the well-known public AS1 assembly (plate, two brackets with
// bolts and nuts, rod with two nuts: 18 solids in all); component8 and tutorial
// t20 are single parts.
func TestForeignSTEP(t *testing.T) {
	dir := "/usr/share/doc/gmsh-doc/doc/gmsh/"
	for _, c := range []struct {
		file   string
		solids int
	}{{dir + "demos/boolean/as1-tu-203.stp.gz", 18}, {dir + "demos/boolean/component8.step.gz", 1},
		{dir + "tutorial/t20_data.step.gz", 1}} {
		data := samples.Unzip(t, c.file)
		content, err := occ.Kernel{}.ReadSTEP(ctx, data)
		if err != nil {
			t.Errorf("%s: %v", c.file, err)
			continue
		}
		if content.Solids != c.solids || content.Unit == 0 || content.Schema == "" {
			t.Errorf("%s: %d solids, unit %g mm, schema %q", c.file, content.Solids, content.Unit, content.Schema)
		}
		p := props(t, content.Shape)
		again, err := occ.Kernel{}.WriteSTEP([]solid.Titled{{Shape: content.Shape, Name: "again"}}, "again", solid.AP214)
		if err != nil {
			t.Fatal(err)
		}
		back, err := occ.Kernel{}.ReadSTEP(ctx, again)
		if err != nil {
			t.Fatal(err)
		}
		// Spline faces are fitted anew on writing, within the file's uncertainty.
		if q := props(t, back.Shape); !near(q.Volume, p.Volume, 2e-3) || p.Volume <= 0 {
			t.Errorf("%s: volume %g, written and read again %g", c.file, p.Volume, q.Volume)
		}
	}
	b := demoExercise(t, "bearing-bracket")
	if _, err := checker().Part(ctx, check.Subject{Exercise: b.Parsed, Reference: b.ref,
		Attempt: check.Attempt{STEP: samples.Unzip(t, samples.AS1)}}, func(string, float64) {}); err ==
		nil || !strings.Contains(err.Error(), "assembly") {
		t.Errorf("an assembly for a part: %v", err)
	}
	r := run(t, b.Parsed, b.ref, check.Attempt{STEP: samples.Unzip(t, dir+"demos/boolean/component8.step.gz")})
	if in := r.Count(report.In); in > 3 { // the number of solids, and sizes that happen to agree
		t.Errorf("another part altogether has %d characteristics in", in)
	}
}

// The public AS1 assembly carries geometric validation properties (ISO 10303-42 and -43: what
// the system that wrote it had measured, to three decimals more than it matters): volume, area
// and centroid of every part and of the whole. What is read here measures the same. The counts
// of faces are those of the file's own records, read as text.
func TestFilesThatSayWhatTheyMeasure(t *testing.T) {
	dir := "/usr/share/doc/gmsh-doc/doc/gmsh/"
	k := occ.Kernel{}
	read := func(file string) (solid.Shape, []string) {
		data := samples.Unzip(t, dir+file)
		content, err := k.ReadSTEP(ctx, data)
		if err != nil {
			t.Fatalf("%s: %v", file, err)
		}
		text := strings.NewReplacer("\r", "", "\n", "", " ", "").Replace(string(data))
		return content.Shape, strings.Split(text, ";")
	}
	for _, file := range []string{"demos/boolean/component8.step.gz", "demos/api/step_boundary_colors.stp.gz"} {
		s, records := read(file)
		faces := 0
		for _, r := range records {
			if strings.Contains(r, "=ADVANCED_FACE(") {
				faces++
			}
		}
		if len(s.Faces()) != faces || faces == 0 {
			t.Errorf("%s: %d faces, the file has %d", file, len(s.Faces()), faces)
		}
	}

	s, records := read("demos/boolean/as1-tu-203.stp.gz")
	type measured struct {
		volume, area float64
		middle       solid.Vec
	}
	byID := map[string]string{}
	for _, r := range records {
		if id, rest, ok := strings.Cut(r, "="); ok {
			byID[id] = rest
		}
	}
	refs := regexp.MustCompile(`#\d+`)
	// A property definition is joined to its value by a PROPERTY_DEFINITION_REPRESENTATION of
	// both; the value's representation has the item with the number.
	published := map[string]*measured{}
	for _, rest := range byID {
		if !strings.HasPrefix(rest, "PROPERTY_DEFINITION_REPRESENTATION(") {
			continue
		}
		of := refs.FindAllString(rest, -1)
		name := regexp.MustCompile(`'(volume|area|centroid)ofshaperep#\d+-(.*?)'`).FindStringSubmatch(byID[of[0]])
		if name == nil {
			continue
		}
		item := byID[refs.FindString(byID[of[1]])]
		if published[name[2]] == nil {
			published[name[2]] = &measured{}
		}
		p := published[name[2]]
		var numbers []float64
		for _, x := range regexp.MustCompile(`-?\d+\.\d*(E[-+]?\d+)?`).FindAllString(item, -1) {
			v, err := strconv.ParseFloat(x, 64)
			if err != nil {
				t.Fatal(err)
			}
			numbers = append(numbers, v)
		}
		switch {
		case name[1] == "volume" && len(numbers) == 1:
			p.volume = numbers[0]
		case name[1] == "area" && len(numbers) == 1:
			p.area = numbers[0]
		case name[1] == "centroid" && len(numbers) == 3:
			p.middle = solid.Vec(numbers)
		default:
			t.Fatalf("%s of %s: %s", name[1], name[2], item)
		}
	}
	if len(published) < 8 {
		t.Fatalf("only %d parts and assemblies say what they measure", len(published))
	}
	parts, err := k.Split(s)
	if err != nil {
		t.Fatal(err)
	}
	count := map[string]int{}
	for _, x := range parts {
		p := props(t, x)
		for name, want := range published {
			if near(p.Volume, want.volume, 5e-4) && near(p.Area, want.area, 5e-4) {
				count[name]++
			}
		}
	}
	for name, n := range map[string]int{"nut": 8, "rod": 1, "bolt": 6, "plate": 1, "l-bracket": 2} {
		if count[name] != n {
			t.Errorf("%d of the solids measure what the %s says, not %d (%v)", count[name], name, n, published[name])
		}
	}
	// The rod is a cylinder, written as two rational splines that are exact: here it measures
	// what the formulas say, m(3r² + h²)/12 and mr²/2 among them (the volume in the file is off
	// by 155 millionths).
	for _, x := range parts {
		p := props(t, x)
		if v := math.Pi * 25 * 200; near(p.Area, 2*math.Pi*5*205, 1e-6) &&
			(!near(p.Volume, v, 1e-9) || !near(trace(p.Inertia), v*(2*(75+40000)/12.0+12.5), 1e-7)) {
			t.Errorf("the rod measures %.6f, %.6f", p.Volume, trace(p.Inertia)/(v*(2*(75+40000)/12.0+12.5)))
		}
	}
	whole, want := props(t, s), published["as1"]
	if want == nil || !near(whole.Volume, want.volume, 5e-6) || !near(whole.Area, want.area, 5e-6) ||
		whole.Centroid.Distance(want.middle) > 1e-3 {
		t.Errorf("the assembly measures %+v, the file says %+v", whole, want)
	}
}

func trace(m [3]solid.Vec) float64 { return m[0][0] + m[1][1] + m[2][2] }

// A reference that is only a STEP file: faces are named by their number.
func TestReferenceFromSTEP(t *testing.T) {
	_, _, d := chiral(t)
	ref := check.Reference{STEP: stepAttempt(t, d, solid.Identity, 1).STEP}
	key, _, err := checker().Load(ctx, ref)
	if err != nil {
		t.Fatal(err)
	}
	hole := ""
	for i, f := range key.Shape.Faces() {
		if f.Kind == solid.CylinderFace {
			hole = key.Names[i][0]
		}
	}
	ex := &exercise.Exercise{Title: "From STEP", Unit: "mm", Solids: 1, Rubric: exercise.Rubric{Characteristics: 10},
		Characteristics: []exercise.Characteristic{{ID: "d", Balloon: 1, Kind: "diameter", Label: "Hole",
			Of: [][]address.Ref{{address.Of(hole)}}}}}
	r := run(t, ex, ref, stepAttempt(t, d, oddPose(), 1))
	if wrong(r) != "" || r.Characteristics[0].NominalText != "8" {
		t.Errorf("%s: %+v", wrong(r), r.Characteristics)
	}
}

// The faces of a STEP reference have the numbers of the faces in its file, in the order in which the shell lists them
// (ISO 10303-42, closed_shell.cfs_faces); one that lies in pieces there has the numbers of all its pieces.
func TestFacesOfASTEPReferenceAreNumberedAsInTheFile(t *testing.T) {
	k := occ.Kernel{}
	_, _, d := chiral(t)
	whole := build(t, d, nil).Solid.Shape
	beyond := build(t, model(t, "mm", "", outline("s1", xy, -10, -10, 30, -10, 30, 60, -10, 60),
		extrude("e1", "s1", oneSide("40"), "")), nil).Solid.Shape
	left, _, err := k.Boolean(solid.Intersection, whole, []solid.Shape{beyond})
	if err != nil {
		t.Fatal(err)
	}
	right, _, err := k.Boolean(solid.Difference, whole, []solid.Shape{beyond})
	if err != nil {
		t.Fatal(err)
	}
	both, _, err := k.Boolean(solid.Union, left, []solid.Shape{right})
	if err != nil {
		t.Fatal(err)
	}
	data, err := k.WriteSTEP([]solid.Titled{{Shape: both, Name: "in pieces"}}, "in pieces", solid.AP214)
	if err != nil {
		t.Fatal(err)
	}
	text := strings.ReplaceAll(string(data), "\n", "")
	entity := func(id string) string {
		return regexp.MustCompile(`#` + id + `\s*=\s*([^;]*);`).FindStringSubmatch(text)[1]
	}
	shell := regexp.MustCompile(`CLOSED_SHELL\s*\('[^']*',\(([^)]*)\)`).FindStringSubmatch(text)[1]
	file := strings.Split(shell, ",")
	round := 0 // the number of the one cylinder
	for i, face := range file {
		of := regexp.MustCompile(`#(\d+),\.[TF]\.\)$`).FindStringSubmatch(entity(strings.Trim(face, "# ")))
		if strings.HasPrefix(entity(of[1]), "CYLINDRICAL") {
			round = i + 1
		}
	}
	key, _, err := checker().Load(ctx, check.Reference{STEP: data})
	if err != nil {
		t.Fatal(err)
	}
	seen, joined := map[string]bool{}, 0
	for i, f := range key.Shape.Faces() {
		if f.Kind == solid.CylinderFace && strings.Join(key.Names[i], " ") != "face:"+strconv.Itoa(round) {
			t.Errorf("the bore is %v, and number %d in the file", key.Names[i], round)
		}
		for _, n := range key.Names[i] {
			if seen[n] {
				t.Errorf("%s is there twice", n)
			}
			seen[n] = true
		}
		if len(key.Names[i]) > 1 {
			joined++
		}
	}
	if len(seen) != len(file) || joined < 4 || round == 0 {
		t.Errorf("%d of the %d faces of the file have a name, %d faces were joined: %v", len(seen), len(file), joined,
			key.Names)
	}
}

func TestISOAndExplicitLimits(t *testing.T) {
	ex, ref, d := chiral(t)
	ex.General = exercise.Tolerance{Kind: "iso2768", Class: "m"}
	ex.Characteristics[1].Tolerance = &exercise.Tolerance{Kind: "limits", Plus: "0.05", Minus: "0.01"}
	r := run(t, ex, ref, check.Attempt{Document: d})
	if w := r.Characteristics[0]; math.Abs(w.Upper-60.3) > 1e-9 || math.Abs(w.Lower-59.7) > 1e-9 {
		t.Errorf("60 mm, class m: %g to %g, ISO 2768-1 gives ± 0.3", w.Lower, w.Upper)
	}
	if h := r.Characteristics[1]; math.Abs(h.Upper-12.05) > 1e-9 || math.Abs(h.Lower-11.99) > 1e-9 {
		t.Errorf("12 +0.05 -0.01: %g to %g", h.Lower, h.Upper)
	}
	// By table 3 an angle goes by its shorter side, by table 2 an outer radius has its own deviations; a fillet is a size.
	g := describe(t, model(t, "mm", "", outline("s1", xz, 0, 0, 60, 0, 60, 30, 8, 30, 0, 22),
		extrude("e1", "s1", `{"kind":"symmetric","total":"30"}`, ""),
		`{"id":"f1","kind":"fillet","edges":[{"between":["e1/side:l1","e1/side:l2"]}],"radius":"4 mm"}`))
	exact := &exercise.Exercise{Unit: "mm", General: exercise.Tolerance{Kind: "iso2768", Class: "m"}}
	for _, c := range []struct {
		kind  string
		faces []string
		want  float64
	}{
		{"angle", []string{"e1/side:l2", "e1/side:l3"}, 30.0 / 60 * math.Pi / 180}, // shorter side 11.3 mm: 30'
		{"angle", []string{"e1/side:l1", "e1/side:l3"}, 30.0 / 60 * math.Pi / 180},
		{"radius", []string{"f1*"}, 0.5},                        // outer, over 3 up to 6 mm
		{"distance", []string{"e1/side:l0", "e1/side:l2"}, 0.2}, // 30 mm
	} {
		x := stating("x", c.kind, c.faces...)
		_, stated, err := check.Nominal(g, exact, &x)
		if err != nil {
			t.Fatal(err)
		}
		if minus, plus, err := exact.Limits(&x, stated); err != nil || math.Abs(plus-c.want) > 1e-12 || minus != plus {
			t.Errorf("%s on %v: -%g +%g, %v; ISO 2768-1 gives %g", c.kind, c.faces, minus, plus, err, c.want)
		}
	}
	if _, err := documents.ReadModel([]byte(`{"hammerset":"model/1"}`)); err == nil {
		t.Error("a document without steps is read")
	}
}
