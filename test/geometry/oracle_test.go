package geometry

import (
	"fmt"
	"math"
	"math/rand"
	"strings"
	"testing"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// truth measures every characteristic of an attempt by the names of its faces,
// which the attempt shares with the reference: an oracle that knows nothing of
// poses and matching.
func truth(t testing.TB, ex *exercise.Exercise, ref *solid.Geometry, b *part.Build) map[string][]float64 {
	t.Helper()
	g, err := solid.Describe(occ.Kernel{}, b.Solid.Shape, b.Solid.Names)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string][]float64{}
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		if c.Kind == "solids" {
			continue
		}
		places, err := inspect.Places(g, c)
		if err != nil {
			continue // a face is gone
		}
		for _, p := range places {
			if v, err := inspect.Measure(g, c, p); err == nil {
				out[c.ID] = append(out[c.ID], v)
			}
		}
	}
	return out
}

// Random wrong sizes, up to four at once, handed in as STEP in random poses: the
// check says of every characteristic what the oracle says.
func TestVerdictsAgreeWithNames(t *testing.T) {
	rng := rand.New(rand.NewSource(20261124))
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b := demoExercise(t, name)
		table, err := quantity.Evaluate(b.ref.Document.Parameters, quantity.Millimetre, nil)
		if err != nil {
			t.Fatal(err)
		}
		key, _, err := checker().Load(ctx, b.ref)
		if err != nil {
			t.Fatal(err)
		}
		ref, err := solid.Describe(occ.Kernel{}, key.Shape, key.Names)
		if err != nil {
			t.Fatal(err)
		}
		judged, agreed := 0, 0
		for trial := range 14 {
			set := map[string]quantity.Quantity{}
			var said []string
			for range 1 + trial%4 {
				p := table.Driving()[rng.Intn(len(table.Driving()))]
				q, _ := table.Lookup(p)
				if q.Dim == quantity.Number {
					continue // another count is another part: tested elsewhere
				}
				q.Value *= []float64{0.93, 0.98, 1.001, 1.02, 1.06, 1.11}[rng.Intn(6)]
				set[p] = q
				said = append(said, fmt.Sprintf("%s=%.4g", p, q.Value))
			}
			built, err := checker().Rebuilder.Rebuild(ctx, b.ref.Document, set)
			if err != nil {
				t.Fatal(err)
			}
			if len(built.Failed()) > 0 {
				continue // two corners have met
			}
			want := truth(t, b.Parsed, ref, built)
			axis := solid.Vec{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
			move := solid.Rotation(solid.Vec{}, axis, rng.Float64()*2*math.Pi).
				Then(solid.Translation(solid.Vec{rng.NormFloat64() * 100, rng.NormFloat64() * 100, 50}))
			moved, _, err := occ.Kernel{}.Transform(built.Solid.Shape, move)
			if err != nil {
				t.Fatal(err)
			}
			data, err := occ.Kernel{}.WriteSTEP([]solid.Titled{{Shape: moved, Name: "random"}}, "random", solid.AP242)
			if err != nil {
				t.Fatal(err)
			}
			r := run(t, b.Parsed, b.ref, check.Attempt{Name: "random.step", STEP: data})
			for _, c := range r.Characteristics {
				values := want[c.ID]
				if len(values) == 0 || len(values) != len(c.Places) {
					continue
				}
				in := true
				for _, v := range values {
					if characteristic.Of(c.Kind).Dim == quantity.Angle {
						v /= quantity.Degree.Factor
					}
					in = in && v >= c.Lower-1e-6 && v <= c.Upper+1e-6
				}
				judged++
				switch {
				case in == (c.Verdict == report.In):
					agreed++
				case c.Verdict == report.In:
					t.Errorf("%s with %s: %s is in and should not be: %v, limits %s", name, strings.Join(said, " "), c.ID,
						values, c.LimitsText)
				default:
					t.Errorf("%s with %s: %s is %s (%s) and measures %v, limits %s", name, strings.Join(said, " "), c.ID, c.Verdict,
						c.MeasuredText, values, c.LimitsText)
				}
			}
		}
		t.Logf("%s: %d of %d verdicts agree", name, agreed, judged)
		if judged < 100 {
			t.Errorf("%s: only %d verdicts were compared", name, judged)
		}
	}
}

// The same part made in other ways is the same part: one sketch with the holes
// in it, a block and cuts, half and a mirror, separate extrusions united.
func TestWaysOfWorking(t *testing.T) {
	ex := &exercise.Exercise{Title: "Plate", Unit: "mm", Solids: 1, Rubric: exercise.Rubric{Characteristics: 10,
		WholePart: 10}, Characteristics: []exercise.Characteristic{
		{ID: "w", Balloon: 1, Kind: "distance", Label: "Width",
			Of: [][]address.Ref{address.List("e1/side:l1", "e1/side:l3")}},
		{ID: "t", Balloon: 2, Kind: "distance", Label: "Thickness", Of: [][]address.Ref{address.List("e1/start", "e1/end")}},
		{ID: "d", Balloon: 3, Kind: "diameter", Label: "Holes", Of: [][]address.Ref{address.List("e2/side:c*")}},
		{ID: "p", Balloon: 4, Kind: "distance", Label: "Spacing",
			Of: [][]address.Ref{address.List("e2/side:c0", "e2/side:c1")}},
	}}
	plate := outline("s1", xy, -30, -20, 30, -20, 30, 20, -30, 20)
	through := `{"kind":"through"}`
	ref := check.Reference{Document: model(t, "mm", "", plate, extrude("e1", "s1", oneSide("8"), ""),
		circles("s2", `{"face":"e1/end"}`, -18, 0, 5, 18, 0, 5), extrude("e2", "s2", through, `,"result":"cut"`))}
	holes := strings.TrimSuffix(strings.Split(circles("x", xy, -18, 0, 5, 18, 0, 5), `"entities":[`)[1], "]}")
	for name, steps := range map[string][]string{
		"holes in the first sketch": {strings.Replace(plate, `"entities":[`, `"entities":[`+holes+",", 1),
			extrude("a", "s1", oneSide("8"), "")},
		"about the middle plane": {plate, extrude("a", "s1", `{"kind":"symmetric","total":"8"}`, ""),
			circles("s2", xy, -18, 0, 5, 18, 0, 5), extrude("b", "s2", `{"kind":"through","both":true}`, `,"result":"cut"`)},
		"half and a mirror": {outline("s1", xy, 0, -20, 30, -20, 30, 20, 0, 20),
			extrude("a", "s1", oneSide("8"), ""), circles("s2", xy, 18, 0, 5),
			extrude("b", "s2", `{"kind":"through","both":true}`, `,"result":"cut"`),
			`{"id":"m","kind":"mirror","plane":{"datum":"YZ"}}`},
		"two blocks united": {outline("s1", xy, -30, -20, 5, -20, 5, 20, -30, 20),
			extrude("a", "s1", oneSide("8"), ""), outline("s2", xy, 5, -20, 30, -20, 30, 20, 5, 20),
			extrude("b", "s2", oneSide("8"), ""), circles("s3", xy, -18, 0, 5, 18, 0, 5),
			extrude("c", "s3", `{"kind":"through","both":true}`, `,"result":"cut"`)},
		"drilled and repeated": {plate, extrude("a", "s1", oneSide("8"), ""),
			circles("s2", `{"face":"a/end"}`, -18, 0, 5), `{"id":"h","kind":"hole","sketch":"s2","at":["m0"],"diameter":"10"}`,
			`{"id":"r","kind":"linear-pattern","of":["h"],"axis":{"datum":"X"},"count":"2","spacing":"36"}`},
		"on another plane, off origin": {outline("s1", `{"datum":"YZ","offset":"13"}`, 0, 0, 60, 0, 60, 40, 0, 40),
			extrude("a", "s1", oneSide("8"), ""), circles("s2", `{"face":"a/end"}`, 12, 20, 5, 48, 20, 5),
			extrude("b", "s2", through, `,"result":"cut"`)},
		"cut from the other side": {plate, extrude("a", "s1", oneSide("8"), ""), circles("s2", xy, -18, 0, 5, 18, 0, 5),
			extrude("b", "s2", through, `,"result":"cut","reverse":true`)},
	} {
		r := run(t, ex, ref, check.Attempt{Document: model(t, "mm", "", steps...)})
		if w := wrong(r); w != "" || r.Whole[1].Verdict != report.In {
			t.Errorf("%s: %s; volume %s", name, w, r.Whole[1].Deviation)
		}
	}
}
