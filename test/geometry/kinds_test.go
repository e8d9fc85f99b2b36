package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/formats/lettering"
	"hammerset/kernel/occ"
)

// TestKindsOfCharacteristics checks a plate with a row of blind holes, a sunk hole, a
// tapped hole, a slot and a bored boss against every kind of characteristic: right as a
// model, and as STEP in an odd pose (where the pose asked for is amiss and what a file of
// geometry cannot say is a question), and wrong in one thing at a time.
func TestKindsOfCharacteristics(t *testing.T) {
	made := func(edits ...string) *part.Document {
		text := strings.NewReplacer(append([]string{"WIDE", "100"}, edits...)...)
		steps := []string{
			outline("s1", xy, -50, -30, 50, -30, 50, 30, -50, 30), extrude("e1", "s1", oneSide("12"), ""),
			curves("s2", `{"face":"e1/end"}`, pt("a", -40, -20), pt("b", -20, -20), pt("c", 0, -20), pt("d", 20, -20),
				pt("s", 40, 20), pt("t", -40, 20)),
			`{"id":"h1","kind":"hole","sketch":"s2","at":["a","b","c","d"],"diameter":"6","extent":{"kind":"one-side",
	"length":"8"},"tipAngle":"118 deg"}`,
			`{"id":"h2","kind":"hole","form":"countersink","sketch":"s2","at":["s"],"diameter":"6","headDiameter":"12",
	"headAngle":"90 deg"}`,
			`{"id":"h3","kind":"hole","form":"tapped","sketch":"s2","at":["t"],"thread":"M8"}`,
			curves("s3", `{"face":"e1/end"}`, pt("f", -20, 20), pt("g", 10, 20), ln("l", "f", "g")),
			`{"id":"t1","kind":"slot","sketch":"s3","at":["l"],"width":"8"}`,
			circles("s4", `{"face":"e1/end"}`, 20, 0, 9), extrude("e2", "s4", oneSide("10"), ""),
			circles("s5", `{"face":"e2/end"}`, 20, 0, 5), extrude("e3", "s5", `{"kind":"through"}`, `,"result":"cut"`)}
		for i := range steps {
			steps[i] = text.Replace(steps[i])
		}
		d := model(t, "mm", "", steps...)
		d.Solids = []part.SolidNote{{Of: "e1", Material: text.Replace("Gunmetal")}}
		return d
	}
	k := func(id, kind string, of ...string) exercise.Characteristic {
		c := exercise.Characteristic{ID: id, Kind: kind, Label: id}
		if len(of) > 0 {
			c.Of = [][]address.Ref{address.List(of...)}
		}
		return c
	}
	bored := func(x float64) string {
		return fmt.Sprintf(`{"id":"m0","kind":"point","at":[%g,0]},{"id":"c0","kind":"circle","center":"m0","radius":5`, x)
	}
	mass := (100*60*12 + math.Pi*(81*10-25*22) - 4*math.Pi*(9*8+27/math.Tan(59*math.Pi/180)/3) - math.Pi*9*12 -
		math.Pi*(6*6*6-3*3*3)/3 + math.Pi*9*3 - math.Pi*3.375*3.375*12 - (30*8+math.Pi*16)*12) * 8.8 / 1000
	ex := &exercise.Exercise{Hammerset: exercise.Version, Kind: exercise.Part, Sheets: []exercise.Sheet{{}},
		Title: "Quoin plate", Unit: "mm", Reference: "r.json", Solids: 1, Density: "8.8",
		Rubric: exercise.Rubric{Characteristics: 10},
		Characteristics: []exercise.Characteristic{
			k("row", "pitch", "h1.*/bore"), k("holes", "count", "h1.*/bore"), k("deep", "depth", "e1/end", "h1.a/bore"),
			k("sunk", "cone-angle", "h2.s/sink"), k("slot", "slot-length", "t1.l/first", "t1.l/last"),
			k("wall", "wall", "e2/side:c0", "e3/side:c0"), k("true", "concentric", "e2/side:c0", "e3/side:c0"),
			k("even", "symmetric", "e1/side:l1", "e1/side:l3", "h1.b/bore", "h1.d/bore", "h1.c/bore"),
			k("flat", "parallel", "e1/start", "e2/end"), k("upright", "perpendicular", "e1/start", "e1/side:l0"),
			k("base", "datum", "e1/start"), k("middle", "datum", "e1/side:l1", "e1/side:l3"),
			k("tap", "thread", "h3.t/bore"), k("stuff", "material"), k("mass", "mass"), k("fit", "diameter", "e3/side:c0")}}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		c.Balloon = i + 1
		switch c.ID {
		case "even": // the plate about the slot's middle would be off; its flanks are even about the plate's
			c.Of = [][]address.Ref{address.List("e1/side:l0", "e1/side:l2", "e2/side:c0")}
		case "base":
			c.Datum = "XY"
		case "middle":
			c.Datum = "YZ"
		case "tap":
			c.Text = "M8"
		case "stuff":
			c.Text = "Gunmetal"
		case "fit":
			c.Tolerance = &exercise.Tolerance{Kind: "iso286", Class: "H7"}
		}
	}
	if err := ex.Check(); err != nil {
		t.Fatal(err)
	}
	ref := check.Reference{Document: made()}
	right := run(t, ex, ref, check.Attempt{Name: "a.json", Document: made()})
	if w := wrong(right); w != "" {
		t.Fatalf("a right model: %s", w)
	}
	for id, want := range map[string]float64{"row": 20, "holes": 4, "deep": 8, "sunk": 90, "slot": 38, "wall": 4,
		"base": 0, "mass": mass} {
		if c := right.Characteristics[ex.Characteristic(id).Balloon-1]; c.Measured == nil || !near(*c.Measured, want, 1e-6) {
			t.Errorf("%s measures %v, not %g", id, c.Measured, want)
		}
	}
	if w := wrong(run(t, ex, ref, stepAttempt(t, made(), oddPose(), 1))); w != "base out, middle out, tap ask, stuff ask" {
		t.Errorf("a right STEP in an odd pose: %s", w)
	}
	for _, c := range []struct {
		name, wrong string
		edits       []string
	}{
		{"one hole of the row shifted", "row out", []string{`"at":[-20,-20]`, `"at":[-19.5,-20]`}},
		{"one hole too few", "row out, holes out", []string{`"b","c","d"]`, `"b","c"]`}},
		{"too deep", "deep out", []string{`"length":"8"`, `"length":"9"`}},
		{"another sink", "sunk out", []string{`"headAngle":"90 deg"`, `"headAngle":"100 deg"`}},
		{"a longer slot", "slot out", []string{`"at":[10,20]`, `"at":[11,20]`}},
		{"a thin wall off its middle", "wall out, true out", []string{bored(20), bored(20.5)}},
		{"the boss off the middle", "even out", []string{`"at":[20,0]`, `"at":[20,1]`}},
		{"another thread", "tap out", []string{"M8", "M10"}},
		{"another material", "stuff out", []string{"Gunmetal", "Cast iron"}},
		{"shifted from the datum", "middle out", []string{"[-50,", "[-48,", "[50,", "[52,", "[-40,", "[-38,", "[-20,-",
			"[-18,-", "[0,-", "[2,-", "[20,-", "[22,-", "[40,", "[42,", "[-20,20", "[-18,20", "[10,20", "[12,20",
			"[20,0", "[22,0"}},
		{"a tight bore", "fit out", []string{`"radius":5`, `"radius":4.99`}},
		{"a bore within its fit", "", []string{`"radius":5`, `"radius":5.005`}},
	} {
		t.Run(c.name, func(t *testing.T) {
			r := run(t, ex, ref, check.Attempt{Name: "a.json", Document: made(c.edits...)})
			var got []string
			for _, x := range r.Characteristics {
				if x.Verdict != report.In && x.ID != "mass" {
					got = append(got, fmt.Sprintf("%s %s", x.ID, x.Verdict))
				}
			}
			if w := strings.Join(got, ", "); w != c.wrong {
				t.Errorf("%q, want %q", w, c.wrong)
			}
			for _, f := range r.Findings {
				if f.What == "" || f.Remedy == "" {
					t.Errorf("a finding says nothing: %+v", f)
				}
			}
		})
	}
}

// Every kind that is declared can be measured, stated, arranged, drawn with its balloon, and told
// in a finding: on a flange with a bevelled, rounded boss, holes around it, and a flat.
func TestEveryKindIsDrawnAndTold(t *testing.T) {
	flange := func(R, boss, hole string) *part.Document {
		return model(t, "mm", "",
			circles("s1", xy, 0, 0, 40), extrude("e1", "s1", oneSide("10"), ""),
			outline("s2", `{"face":"e1/end"}`, 36, -50, 60, -50, 60, 50, 36, 50), cut("e2", "s2", `{"kind":"through"}`, ""),
			outline("s6", `{"face":"e1/end"}`, -38, -50, -60, -50, -60, 50, -35, 50),
			cut("e5", "s6", `{"kind":"through"}`, ""),
			strings.Replace(circles("s3", `{"face":"e1/end"}`, 0, 0, 15), `"radius":15`, `"radius":`+boss, 1),
			extrude("e3", "s3", oneSide("20"), ""),
			circles("s4", `{"face":"e3/end"}`, 0, 0, 8), cut("e4", "s4", `{"kind":"through"}`, ""),
			`{"id":"f1","kind":"fillet","radius":"`+R+`","edges":[{"between":["e3/side:c0","e1/end"]}]}`,
			`{"id":"b1","kind":"chamfer","distance":"1","edges":[{"between":["e3/side:c0","e3/end"]}]}`,
			curves("s5", `{"face":"e1/end"}`, pt("a", -28, 0), pt("b", 14, 24.248711), pt("c", 14, -24.248711)),
			`{"id":"h1","kind":"hole","form":"countersink","sketch":"s5","at":["a","b","c"],"diameter":"`+hole+
				`","headDiameter":"9","headAngle":"90 deg"}`)
	}
	on := map[string][]string{
		"distance": {"e1/start", "e3/end"}, "diameter": {"h1.*/bore"}, "radius": {"f1/round*"}, "bend": {"f1/round*"},
		"chamfer": {"b1/bevel*"},
		"depth":   {"e1/end", "h1.a/bore"}, "wall": {"e1/start", "e1/end"}, "slot-length": {"h1.a/bore", "h1.b/bore"},
		"key-depth":   {"e2/side:l3", "e4/side:c0"},
		"bolt-circle": {"e4/side:c0", "h1.*/bore"}, "pitch": {"h1.a/bore", "h1.b/bore"}, "angle": {"e1/start", "e2/side:l3"},
		"cone-angle": {"h1.*/sink"}, "taper": {"h1.*/sink"}, "rim": {"h1.a/sink", "e1/end"},
		"slope":      {"e5/side:l3", "e2/side:l3"},
		"arc-length": {"e1/side:c0"},
		"spacing":    {"e4/side:c0", "h1.*/bore"}, "start-angle": {"e4/side:c0", "e2/side:l3", "h1.*/bore"},
		"count":     {"h1.*/bore"},
		"symmetric": {"h1.b/bore", "h1.c/bore", "e4/side:c0"}, "concentric": {"e3/side:c0", "e4/side:c0"},
		"position": {"h1.b/bore", "e4/side:c0", "e2/side:l3"},
		"parallel": {"e1/start", "e3/end"}, "perpendicular": {"e1/start", "e2/side:l3"},
		"datum": {"e1/start"}, "thread": {"h1.*/bore"}, "material": nil, "mass": nil, "solids": nil,
	}
	ex := &exercise.Exercise{Hammerset: exercise.Version, Kind: exercise.Part, Sheets: []exercise.Sheet{{}},
		Title: "Pump flange", Unit: "mm", Reference: "r.json", Solids: 1, Density: "7.85",
		Rubric: exercise.Rubric{Characteristics: 10}}
	for i, k := range characteristic.All() {
		of, ok := on[k.Name]
		if !ok {
			t.Errorf("there is no %s in this test: say what it is measured on", k.Name)
			continue
		}
		c := exercise.Characteristic{ID: k.Name, Balloon: i + 1, Kind: k.Name, Label: k.Title}
		if of != nil {
			c.Of = [][]address.Ref{address.List(of...)}
		}
		if k.Worded() {
			c.Text = "Gunmetal"
		}
		if k.Datum {
			c.Datum = "XY"
		}
		if k.From != nil {
			c.Exact = []float64{28, 22}
		}
		ex.Characteristics = append(ex.Characteristics, c)
	}
	if err := ex.Check(); err != nil {
		t.Fatal(err)
	}
	doc := flange("3", "15", "5")
	b := build(t, doc, nil)
	geo, err := solid.Describe(occ.Kernel{}, b.Solid.Shape, b.Solid.Names)
	if err != nil {
		t.Fatal(err)
	}
	ex.Sheets = []exercise.Sheet{sheet.Arrange(geo, ex)}
	arranged := map[string]bool{}
	for _, m := range ex.Sheet().Marks {
		for _, id := range m.Of {
			arranged[id] = true
		}
	}
	f, err := lettering.Load()
	if err != nil {
		t.Fatal(err)
	}
	drawn, err := sheet.Draw(ctx, occ.Kernel{}, ex, b.Solid, f, b.Notes...)
	if err != nil {
		t.Fatal(err)
	}
	balloons := map[string]bool{}
	for _, m := range drawn.Marks {
		balloons[m.Characteristic] = true
	}
	// Everything is amiss on a plain block in its place: each kind is told by its label.
	block := model(t, "mm", "", outline("s1", xy, 0, 0, 9, 0, 9, 9, 0, 9), extrude("e1", "s1", oneSide("5"), ""),
		`{"id":"m1","kind":"mirror","plane":{"datum":"YZ","offset":"30"}}`)
	r := run(t, ex, check.Reference{Document: doc}, check.Attempt{Name: "a.json", Document: block})
	told := ""
	for _, f := range r.Findings {
		told += f.Where + ": " + f.What + "\n"
	}
	for i, k := range characteristic.All() {
		asNote := k.Arranged == characteristic.AsNote
		if !balloons[k.Name] || arranged[k.Name] == asNote {
			t.Errorf("%s is drawn: %v; in a view: %v", k.Name, balloons[k.Name], arranged[k.Name])
		}
		row := r.Characteristics[i]
		right := row.Verdict == report.In && (k.Dim == quantity.Angle || k.Datum) // a block is square too
		if row.NominalText == "" || !right && !strings.Contains(told, k.Title) {
			t.Errorf("%s states %q, is %s on a block, and is told: %v", k.Name, row.NominalText, row.Verdict,
				strings.Contains(told, k.Title))
		}
	}
}
