package geometry

import (
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"

	"hammerset/core/diagnose"
	"hammerset/core/exercise"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/kernel/occ"
)

// strap is a plate of w by 30 with its middle (or its left end) on the origin, a
// bore of d in the middle, t thick; every size by the given formula.
func strap(t *testing.T, params, w, d, thick string, centred bool, drill string) *part.Document {
	t.Helper()
	tie := `{"id":"k1","kind":"symmetric","of":["p0","p2","origin"]}`
	if !centred {
		tie = `{"id":"k1","kind":"coincident","of":["p0","origin"]}`
	}
	place := curves("s2", `{"face":"e1/end"}`, pt("m", 1, 1))
	if centred {
		place = constrained(place, `{"id":"k","kind":"coincident","of":["m","origin"]}`)
	} else {
		place = constrained(place, `{"id":"k","kind":"horizontal-distance","of":["origin","m"],"value":"`+w+
			`/2"},{"id":"l","kind":"vertical-distance","of":["origin","m"],"value":"15 mm"}`)
	}
	return model(t, "mm", params,
		constrained(outline("s1", xy, -20, -15, 20, -15, 20, 15, -20, 15),
			tie+`,{"id":"k2","kind":"horizontal","of":["l0"]},{"id":"k3","kind":"vertical","of":["l1"]},{"id":"k4",
				"kind":"horizontal","of":["l2"]},{"id":"k5","kind":"vertical","of":["l3"]},{"id":"d1","kind":"length",
				"of":["l0"],"value":"`+w+`"},{"id":"d2","kind":"length","of":["l1"],"value":"30 mm"}`),
		extrude("e1", "s1", oneSide(thick), ""), place, holeAt("h1", "s2", `"m"`, `,"diameter":"`+d+`"`+drill))
}

// How far a model follows the reference, against places that follow from the
// geometry: a bore of diameter d parts the plate of 30 where d reaches 30; a cut with a
// typed depth stops following where the plate grows past it; a typed size does not
// follow at all.
func TestHowFarAModelFollows(t *testing.T) {
	sizes := mm("w", "40 mm", "d", "16 mm", "t", "10 mm")
	ref := strap(t, sizes, "w", "d", "t", true, "")
	ex := &exercise.Exercise{Title: "Strap", Unit: "mm", Solids: 1,
		WhatIfs: []exercise.WhatIf{{Name: "long and thick", Set: map[string]string{"w": "60 mm", "t": "14 mm"}},
			{Name: "a wide bore", Set: map[string]string{"d": "20 mm"}}}}
	for _, c := range []struct {
		name  string
		att   *part.Document
		param string
		match string
		low   float64 // shares; what ends there is told by the words
		high  float64
		why   string
		ifs   string
	}{
		{"as it should be", strap(t, sizes, "w", "d", "t", true, ""), "w", "name", -0.5, 1, "", "follows follows"},
		{"the bore parts it, as it parts the part", strap(t, sizes, "w", "d", "t", true, ""), "d", "name", -0.5, 30.0/16 - 1,
			"the part itself ends", "follows follows"},
		{"a typed depth", strap(t, sizes, "w", "d", "t", true, `,"extent":{"kind":"one-side","length":"12 mm"}`), "t", "name",
			-0.5, 0.2, "volume", "differs follows"},
		{"a typed diameter", strap(t, sizes, "w", "16 mm", "t", true, ""), "d", "name", 0, 0, "nothing changes",
			"follows still"},
		{"other names", strap(t, mm("length", "40 mm", "bore", "16 mm", "plate", "10 mm"), "length", "bore", "plate", true,
			""), "w", "value", -0.5, 1, "", "follows follows"},
		{"two of one value, told apart by what they do",
			strap(t, mm("ten", "10 mm", "depth", "10 mm", "w", "40 mm", "d", "16 mm"), "w", "d", "depth", true, ""), "t",
			"value and effect", -0.5, 1, "", "follows follows"},
		{"no such size", strap(t, mm("w", "40 mm"), "w", "16 mm", "11 mm - 1 mm", true, ""), "t", "none", 0, 0,
			"no parameter", "missing missing"},
	} {
		s := &robust.Sweeper{Rebuilder: part.NewRebuilder(occ.Kernel{}), Exercise: ex, Reference: ref, Attempt: c.att,
			Cache: &robust.Cache{}}
		rows, together, err := s.Follow(ctx, robust.Share{}, func(float64) {})
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		for _, r := range rows {
			if r.Parameter != c.param {
				continue
			}
			// Closed in on to a thousandth of the value.
			if r.Match != c.match || math.Abs(r.Low.Share-c.low) > 2e-3 || math.Abs(r.High.Share-c.high) > 2e-3 ||
				!strings.Contains(r.High.Why+r.Low.Why, c.why) {
				t.Errorf("%s: %+v", c.name, r)
			}
		}
		// Dealt out to several, it comes to the same.
		var shares []robust.FollowedAll
		for i := range 3 {
			rows, together, err := s.Follow(ctx, robust.Share{Index: i, Of: 3}, func(float64) {})
			if err != nil {
				t.Fatalf("%s: share %d: %v", c.name, i, err)
			}
			shares = append(shares, robust.FollowedAll{Parameters: rows, WhatIfs: together})
		}
		if all := robust.JoinFollowed(shares); len(shares[2].Parameters) != len(rows)/3 ||
			!reflect.DeepEqual(all, robust.FollowedAll{Parameters: rows, WhatIfs: together}) {
			t.Errorf("%s: shares come to %+v, the whole to %+v", c.name, all, rows)
		}
		got := ""
		for _, w := range together {
			got += w.Outcome + " "
		}
		if strings.TrimSpace(got) != c.ifs {
			t.Errorf("%s: what-ifs %s, want %s", c.name, got, c.ifs)
		}
	}
}

// The interval that the reference states for a parameter is the one that is searched.
func TestFollowKeepsToTheStatedInterval(t *testing.T) {
	sizes := mm("d", "16 mm", "t", "10 mm")
	ref := strap(t, `{"name":"w","value":"40 mm","least":"32 mm","most":"44 mm"},`+sizes, "w", "d", "t", true, "")
	s := &robust.Sweeper{Rebuilder: part.NewRebuilder(occ.Kernel{}), Exercise: &exercise.Exercise{Title: "Strap",
		Unit: "mm", Solids: 1}, Reference: ref, Attempt: ref}
	rows, _, err := s.Follow(ctx, robust.Share{}, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	if w := rows[0]; w.Parameter != "w" || math.Abs(w.Low.Share+0.2) > 1e-9 || math.Abs(w.High.Share-0.1) > 1e-9 ||
		w.Low.Ends || w.High.Ends {
		t.Errorf("%+v", w)
	}
}

// A part that is right at every value and yet slides: its end is on the origin where
// the reference has its middle. The check says so as a finding, and takes nothing off.
func TestAPartThatSlides(t *testing.T) {
	sizes := mm("w", "40 mm", "d", "16 mm", "t", "10 mm")
	ex := &exercise.Exercise{Title: "Strap", Unit: "mm", Solids: 1}
	s := &robust.Sweeper{Rebuilder: part.NewRebuilder(occ.Kernel{}), Exercise: ex,
		Reference: strap(t, sizes, "w", "d", "t", true, ""), Attempt: strap(t, sizes, "w", "d", "t", false, "")}
	rows, err := s.Run(ctx, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range rows {
		if r.Outcome != report.Follows || strings.Contains(r.Detail, "slides") != (r.Parameter == "w") {
			t.Errorf("%+v", r)
		}
	}
}

// Two halves of which one is held by a typed number: the finding says so and where the
// number stands. A part that has no other half, or whose reference loses it as well, is
// not blamed for it.
func TestAHalfThatDoesNotFollow(t *testing.T) {
	ex := &exercise.Exercise{Title: "Plate", Unit: "mm", Solids: 1}
	plate := func(left, right string, turn float64) *part.Document {
		s, c := math.Sincos(turn)
		p := func(x, y float64) []float64 { return []float64{c*x - s*y, s*x + c*y} }
		var at []float64
		for _, q := range [][2]float64{{-20, -15}, {20, -15}, {20, 15}, {-20, 15}} {
			at = append(at, p(q[0], q[1])...)
		}
		rules := `{"id":"k1","kind":"symmetric","of":["p0","p3","g"]},{"id":"k2","kind":"symmetric","of":["p1","p2","g"]},
	{"id":"k3","kind":"parallel","of":["l1","l3"]},
			{"id":"d0","kind":"distance","of":["origin","l3"],"value":"` + left + `"},{"id":"d1","kind":"distance",
	"of":["origin","l1"],"value":"` + right + `"},{"id":"d2","kind":"length","of":["l1"],"value":"30 mm"},{"id":"k4",
	"kind":"coincident","of":["o","origin"]},{"id":"k5","kind":"angle","of":["x-axis","g"],
	"value":"` + quantity.FormatDecimal(turn*180/math.Pi, 3) + ` deg"}`
		if turn == 0 {
			rules = strings.Replace(rules, `"kind":"angle","of":["x-axis","g"],"value":"0 deg"`,
				`"kind":"horizontal","of":["g"]`, 1)
		}
		sk := strings.Replace(outline("s1", xy, at...), `"entities":[`, `"entities":[`+
			strings.Join([]string{pt("o", 0, 0), pt("h", 30*c, 30*s), `{"id":"g","kind":"line","from":"o","to":"h",
	"guide":true}`}, ",")+`,`, 1)
		return model(t, "mm", mm("w", "40 mm"), constrained(sk, rules), extrude("e1", "s1", oneSide("8"), ""),
			circles("s2", xy, 0, 0, 6), extrude("e2", "s2", `{"kind":"through"}`, `,"result":"cut","reverse":true`))
	}
	for _, c := range []struct {
		name     string
		ref, att *part.Document
		half     bool
		typed    string
	}{
		{"both follow", plate("w/2", "w/2", 0), plate("w/2", "w/2", 0.4), false, ""},
		{"one is typed", plate("w/2", "w/2", 0), plate("w/2", "20 mm", 0), true, "20 mm in sketch 1"},
		{"one is typed, and the part is turned", plate("w/2", "w/2", 0), plate("w/2", "20 mm", 37*math.Pi/180), true,
			"20 mm in sketch 1"},
		{"the part itself grows on one side only", plate("w/2", "20 mm", 0), plate("w/2", "w/2", 0), false, ""},
	} {
		s := &robust.Sweeper{Rebuilder: part.NewRebuilder(occ.Kernel{}), Exercise: ex, Reference: c.ref, Attempt: c.att}
		rows, err := s.Run(ctx, func(float64) {})
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range rows { // one of the changes is looked into
			if r.Percent == 10 && ((r.Half != "") != c.half || c.typed != "" && !slices.Contains(r.Typed, c.typed)) {
				t.Errorf("%s: %+v", c.name, r)
			}
		}
		rep := &report.Report{Sweep: rows}
		rep.Findings = diagnose.Findings(rep)
		if got := slices.ContainsFunc(rep.Findings, func(f report.Finding) bool {
			return f.Kind == "half" && strings.Contains(f.Cause, c.typed)
		}); got != c.half {
			t.Errorf("%s: findings %+v", c.name, rep.Findings)
		}
	}
}

// How far a model holds by itself ends where its geometry does.
func TestHowFarAModelHolds(t *testing.T) {
	sizes := mm("w", "40 mm", "d", "16 mm", "t", "10 mm", "n", "3")
	d := strap(t, sizes, "w", "d", "t", true, "")
	r := part.NewRebuilder(occ.Kernel{})
	least, most, err := robust.Hold(ctx, r, d, "d", 8, 40, robust.Share{}, func(float64) {})
	if err == nil {
		low, _, err1 := robust.Hold(ctx, r, d, "d", 8, 40, robust.Share{Index: 0, Of: 2}, func(float64) {})
		_, high, err2 := robust.Hold(ctx, r, d, "d", 8, 40, robust.Share{Index: 1, Of: 2}, func(float64) {})
		if err1 != nil || err2 != nil || low != least || high != most {
			t.Errorf("shares find %+v to %+v, %v %v", low, high, err1, err2)
		}
	}
	if err != nil || least.Found || least.At != 8 || !most.Found || math.Abs(most.At-30) > 0.05 ||
		!strings.Contains(most.Why, "solids") {
		t.Errorf("the bore holds from %+v to %+v, %v", least, most, err)
	}
	// A row of n holes 12 apart on a plate of 40: whole numbers only are tried.
	row := model(t, "mm", sizes, append(base(), circles("s2", `{"face":"e1/end"}`, 6, 15, 2),
		holeAt("h1", "s2", `"m0"`, `,"diameter":"6"`), `{"id":"n1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},
	"count":"n","spacing":"12"}`)...)
	least, most, err = robust.Hold(ctx, r, row, "n", 1, 12, robust.Share{}, func(float64) {})
	if err != nil || least.At != 1 || most.At != math.Trunc(most.At) || most.Found {
		t.Errorf("the row holds from %+v to %+v, %v", least, most, err)
	}
	if _, _, err := robust.Hold(ctx, r, d, "zz", 0, 1, robust.Share{}, func(float64) {}); err == nil {
		t.Error("a parameter that is not there is varied")
	}
	cancelled, stop := cancelled()
	defer stop()
	if _, _, err := robust.Hold(cancelled, r, d, "w", 10, 90, robust.Share{}, func(float64) {}); err == nil {
		t.Error("a cancelled search ends without an error")
	}
}

// Outlines of cylinders and sections with the plane of a sketch are traced, and
// follow.
func TestTracedOutlinesAndSectionsFollow(t *testing.T) {
	d := model(t, "mm", mm("r", "12 mm"),
		constrained(circles("s1", xy, 0, 0, 12), `{"id":"k","kind":"coincident","of":["m0","origin"]},{"id":"d",
	"kind":"radius","of":["c0"],"value":"r"}`), extrude("e1", "s1", oneSide("40"), ""),
		curves("s2", xz, pt("a", -12, 0), pt("b", -12, 40), `{"id":"t","kind":"line","from":"a","to":"b","guide":true,
	"traced":["left","e1/side:c0"]}`, pt("c", 5, 10), pt("e", 5, 20), `{"id":"q","kind":"line","from":"c","to":"e",
	"guide":true,"traced":["right","e1/side:c0"]}`),
		curves("s3", `{"datum":"XY","offset":"15 mm"}`, pt("m", 0, 0), `{"id":"c","kind":"circle","center":"m","radius":12,
	"traced":["section","e1/side:c0"]}`), `{"id":"e3","kind":"extrude","sketch":"s3","regions":"all",
	"extent":{"kind":"one-side","length":"60"}}`)
	for _, r := range []float64{12, 20} {
		b := build(t, d, map[string]quantity.Quantity{"r": {Value: r, Dim: quantity.Length}})
		_, sol, _, _ := b.PlacedSketch("s2")
		// Left of the axis seen along the normal of XZ (towards -y): at x = -r.
		if a, e := sol.Points["a"], sol.Points["b"]; math.Abs(a.X+r) > 1e-9 || math.Abs(e.X+r) > 1e-9 ||
			math.Abs(math.Abs(a.Y-e.Y)-40) > 1e-9 {
			t.Errorf("r = %g: the left outline runs from %v to %v", r, a, e)
		}
		if c := sol.Points["c"]; math.Abs(c.X-r) > 1e-9 {
			t.Errorf("r = %g: the right outline is at %v", r, c)
		}
		if v := props(t, b.Solid.Shape).Volume; !near(v, math.Pi*r*r*75, 1e-9) {
			t.Errorf("r = %g: volume %g", r, v)
		}
	}
	gone, err := d.Altered(nil)
	if err != nil {
		t.Fatal(err)
	}
	gone.Steps[3].Sketched().Plane = &part.PlaneRef{Datum: "XY", Offset: "90 mm"}
	b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, gone, nil)
	if err != nil || len(b.Failed()) == 0 || !strings.Contains(b.Failed()[0].Err.Error(),
		"does not cut the round side of extrude 1") {
		t.Errorf("a section that is gone: %v %v", err, b.Failed())
	}
}
