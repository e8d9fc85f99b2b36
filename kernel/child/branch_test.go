package child

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"gonum.org/v1/gonum/num/quat"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/check/assemblies"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
)

// plateModel is a plate 5 mm thick of an outline, with round holes of some radii through it.
func plateModel(name, outline string, holes [][3]float64) string {
	var points, circles []string
	for i, h := range holes {
		points = append(points, fmt.Sprintf(`{"id":"m%d","kind":"point","at":[%g,%g]}`, i, h[0], h[1]))
		circles = append(circles, fmt.Sprintf(`{"id":"h%d","kind":"circle","center":"m%d","radius":%g}`, i, i, h[2]))
	}
	return fmt.Sprintf(`{"hammerset":"model/1","name":%q,"unit":"mm","parameters":[],"steps":[
		{"id":"s1","kind":"sketch","plane":{"datum":"XY"},"entities":[%s],"constraints":[]},
		{"id":"e1","kind":"extrude","sketch":"s1","regions":"all","extent":{"kind":"one-side","length":"5 mm"}},
		{"id":"s2","kind":"sketch","plane":{"datum":"XY"},"entities":[%s],"constraints":[]},
		{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","result":"cut","extent":{"kind":"through","both":true}}]}`,
		name, outline, strings.Join(append(points, circles...), ","))
}

// strapModel is a bar with a hole at each end, so far apart.
func strapModel(name string, length float64) string {
	corner := func(id string, x, y float64) string {
		return fmt.Sprintf(`{"id":%q,"kind":"point","at":[%g,%g]}`, id, x, y)
	}
	line := func(id, from, to string) string {
		return fmt.Sprintf(`{"id":%q,"kind":"line","from":%q,"to":%q}`, id, from, to)
	}
	return plateModel(name, strings.Join([]string{corner("a", -8, -8), corner("b", length+8, -8), corner("c", length+8, 8),
		corner("d", -8, 8), line("ab", "a", "b"), line("bc", "b", "c"), line("cd", "c", "d"), line("da", "d", "a")}, ","),
		[][3]float64{{0, 0, 3}, {length, 0, 3}})
}

// at is a feature of a component: the rim of one of its holes in its lower or upper face.
func at(component, face string, hole int) address.Ref {
	return address.Ref{Component: component, Name: fmt.Sprintf("e1/%s & e2/side:h%d", face, hole)}
}

// lying is a pose in the plane: turned by degrees, and shifted.
func lying(degrees, x, y, z float64) rigid.Pose {
	half := degrees * math.Pi / 360
	return rigid.Pose{Turn: quat.Number{Real: math.Cos(half), Kmag: math.Sin(half)}, Shift: solid.Vec{x, y, z}}
}

// puts begins an assembly of parts by their models; each is there once, named for its part.
func puts(names []string, models map[string]string, poses []rigid.Pose) (*assembly.Document, map[string][]byte) {
	d, files := &assembly.Document{Hammerset: assembly.Version, Name: "assembly", Unit: "mm"}, map[string][]byte{}
	for i, name := range names {
		part := strings.TrimRight(name, "0123456789")
		if _, have := d.Part(part); !have {
			files[part+".json"] = []byte(models[part])
			d.Parts = append(d.Parts, assembly.Part{ID: part, Name: part, File: part + ".json",
				SHA256: documents.Sum(files[part+".json"]), Number: fmt.Sprint(len(d.Parts) + 1)})
		}
		d.Components = append(d.Components, assembly.Component{ID: name, Name: name, Part: part, Pinned: i == 0,
			Pose: poses[i]})
	}
	return d, files
}

// begun is the exercise that is begun from an assembly, for handing in at.
func begun(t *testing.T, d *assembly.Document, files map[string][]byte) *handing {
	t.Helper()
	w := worker(t)
	data, err := json.Marshal(d)
	if err != nil {
		t.Fatal(err)
	}
	out, err := do[task.Begun](t, w, task.Request{Kind: task.BeginAssembly, Assembly: data, Files: files})
	if err != nil {
		t.Fatal(err)
	}
	ex, err := documents.ReadExercise(out.Exercise)
	if err != nil {
		t.Fatal(err)
	}
	ref, err := documents.ReadAssemblyReference(ex, out.Reference)
	if err != nil {
		t.Fatal(err)
	}
	if data, err = json.Marshal(ref.Document); err != nil {
		t.Fatal(err)
	}
	once, err := json.Marshal(madeOnce{Bears: assemblies.Bears{"": {}}, Of: documents.Sum(data)})
	if err != nil {
		t.Fatal(err)
	}
	return &handing{t, w, &documents.Bundle{Exercise: out.Exercise, Reference: out.Reference, Parsed: ex}, ref, once}
}

// handIn hands an assembly in, as its bundle.
func (h *handing) handIn(d *assembly.Document, files map[string][]byte) *report.Report {
	h.t.Helper()
	data, err := documents.PackAssembly(d, files)
	if err != nil {
		h.t.Fatal(err)
	}
	return h.check("attempt.zip", data)
}

// A four-bar linkage closes in two ways. Wherever it is driven within the way of the reference it is in; put together
// in the other way it is out, unless either will do.
func TestTheOtherBranch(t *testing.T) {
	const base, crank, coupler, rocker = 100.0, 30, 90, 60
	models := map[string]string{"base": strapModel("base", base), "crank": strapModel("crank", crank),
		"coupler": strapModel("coupler", coupler), "rocker": strapModel("rocker", rocker)}
	linkage := func(angle, side float64) (*assembly.Document, map[string][]byte) {
		// Where the coupler and the rocker meet: two circles about the end of the crank and of the base.
		x, y := crank*math.Cos(angle*math.Pi/180), crank*math.Sin(angle*math.Pi/180)
		far := math.Hypot(base-x, -y)
		along := (coupler*coupler - rocker*rocker + far*far) / (2 * far)
		off := side * math.Sqrt(coupler*coupler-along*along)
		ux, uy := (base-x)/far, -y/far
		px, py := x+along*ux-off*uy, y+along*uy+off*ux
		deg := func(dx, dy float64) float64 { return math.Atan2(dy, dx) * 180 / math.Pi }
		d, files := puts([]string{"base", "crank", "rocker", "coupler"}, models, []rigid.Pose{lying(0, 0, 0, 0),
			lying(angle, 0, 0, 5), lying(deg(px-base, py), base, 0, 5), lying(deg(px-x, py-y), x, y, 10)})
		joint := func(id, a string, holeA int, b string, holeB int) {
			d.Joints = append(d.Joints, assembly.Joint{ID: id, Kind: "revolute", A: at(a, "start", holeA),
				B: at(b, "end", holeB)})
		}
		joint("j1", "crank", 0, "base", 0)
		joint("j2", "rocker", 0, "base", 1)
		joint("j3", "coupler", 0, "crank", 1)
		joint("j4", "coupler", 1, "rocker", 1)
		d.Drives = []assembly.Driving{{Joint: "j1", From: "0 deg", To: "360 deg"}}
		return d, files
	}
	d, files := linkage(60, 1)
	h := begun(t, d, files)
	motion := func(angle, side float64) report.Motion {
		t.Helper()
		d, files := linkage(angle, side)
		r := h.handIn(d, files)
		if len(r.Assembly.Motion) != 1 || verdicts(r) != "in in in in" {
			t.Fatalf("crank at %g: items %s, motion %v", angle, verdicts(r), r.Assembly.Motion)
		}
		return r.Assembly.Motion[0]
	}
	for _, angle := range []float64{60, 5, 140, 260} {
		if m := motion(angle, 1); m.Verdict != report.In {
			t.Errorf("driven to %g degrees: %s, %s", angle, m.Verdict, m.Reason)
		}
		if m := motion(angle, -1); m.Verdict != report.Out || !strings.Contains(m.Reason, "the other of the two ways") {
			t.Errorf("the other way, at %g degrees: %s, %s", angle, m.Verdict, m.Reason)
		}
	}
	h.b.Parsed.Assembly.Branch = exercise.AnyBranch
	data, err := json.Marshal(h.b.Parsed)
	if err != nil {
		t.Fatal(err)
	}
	h.b.Exercise = data
	if m := motion(60, -1); m.Verdict != report.In {
		t.Errorf("either way will do, and the other is %s: %s", m.Verdict, m.Reason)
	}
}

// A flange that is turned by a pitch of its holes is out where a dowel hole tells it, and that it is a pitch is said; a
// flange without one looks the same, and nothing is found.
func TestTurnedByAPitch(t *testing.T) {
	for _, c := range []struct {
		name   string
		dowel  bool
		angle  string
		turned bool
	}{{"with a dowel hole", true, "60 deg", true}, {"with a dowel hole, by two", true, "120 deg", true},
		{"without one", false, "60 deg", false}, {"without one, by half a pitch", false, "30 deg", true}} {
		holes := [][3]float64{{0, 0, 10}}
		for k := range 6 {
			holes = append(holes, [3]float64{25 * math.Cos(float64(k)*math.Pi/3), 25 * math.Sin(float64(k)*math.Pi/3), 4})
		}
		if c.dowel {
			holes = append(holes, [3]float64{33 * math.Cos(0.4), 33 * math.Sin(0.4), 2})
		}
		models := map[string]string{"flange": plateModel("flange",
			`{"id":"m","kind":"point","at":[0,0]},{"id":"o","kind":"circle","center":"m","radius":40}`, holes)}
		flanges := func(angle string) (*assembly.Document, map[string][]byte) {
			d, files := puts([]string{"flange1", "flange2"}, models, []rigid.Pose{lying(0, 0, 0, 0), lying(0, 0, 0, 5)})
			d.Joints = []assembly.Joint{{ID: "j1", Kind: "rigid", A: at("flange2", "start", 0), B: at("flange1", "end", 0),
				Angle: angle}}
			return d, files
		}
		d, files := flanges("")
		h := begun(t, d, files)
		if list := wrongIn(h.handIn(d, files)); len(list) > 0 {
			t.Errorf("%s, as it should be: %v", c.name, list)
		}
		list := wrongIn(h.handIn(flanges(c.angle)))
		switch {
		case !c.turned && len(list) > 0:
			t.Errorf("%s: %v", c.name, list)
		case c.turned && (len(list) == 0 || list[0].Kind != "turned"):
			t.Errorf("%s: %v", c.name, list)
		case c.turned && c.dowel && !strings.Contains(list[0].Cause, "of a pattern of"):
			t.Errorf("%s: nothing says that it is a pitch: %v", c.name, list[0])
		}
	}
}

// wrongIn are the findings but for advice on sketches, which are not held here.
func wrongIn(r *report.Report) []report.Finding {
	return slices.DeleteFunc(slices.Clone(r.Findings), func(f report.Finding) bool { return f.Step != "" })
}
