package geometry

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os/exec"
	"testing"

	"hammerset/core/solid"
	"hammerset/formats/stl"
	"hammerset/kernel/occ"
)

// Volumes and centres of mass from the tables of solids that every engineering
// handbook has (Dubbel, Machinery's Handbook: mensuration of solids); the torus
// by Pappus' theorem. The formulas are written out beside each case.
func TestHandbookVolumes(t *testing.T) {
	hexagon := func(flats float64) []float64 {
		var out []float64
		for i := range 6 {
			a := math.Pi/6 + float64(i)*math.Pi/3
			out = append(out, flats/math.Sqrt(3)*math.Cos(a), flats/math.Sqrt(3)*math.Sin(a))
		}
		return out
	}
	cap := `{"id":"s","kind":"sketch","plane":{"datum":"XZ"},"entities":[
		{"id":"o","kind":"point","at":[0,0]},{"id":"a","kind":"point","at":[0,6]},{"id":"b","kind":"point","at":[8,6]},
	{"id":"c","kind":"point","at":[0,10]},
		{"id":"base","kind":"line","from":"a","to":"b"},{"id":"dome","kind":"arc","center":"o","start":"b","end":"c"},
	{"id":"axis","kind":"line","from":"c","to":"a"}]}`
	cases := []struct {
		name   string
		steps  []string
		volume float64
		centre solid.Vec
	}{
		{"prism a b h", []string{outline("s", xy, 0, 0, 40, 0, 40, 25, 0, 25), extrude("e", "s", oneSide("12"), "")},
			40 * 25 * 12, solid.Vec{20, 12.5, 6}},
		{"cylinder π r² h", []string{circles("s", xy, 0, 0, 7.5), extrude("e", "s", oneSide("31"), "")},
			math.Pi * 7.5 * 7.5 * 31, solid.Vec{0, 0, 15.5}},
		{"tube π (R² − r²) h", []string{circles("s", xy, 0, 0, 10, 0, 0, 6),
			extrude("e", "s", `{"kind":"symmetric","total":"20"}`, "")}, math.Pi * (100 - 36) * 20, solid.Vec{}},
		// π h (R² + R r + r²) / 3; centre at h (R² + 2 R r + 3 r²) / (4 (R² + R r + r²))
		{"cone frustum", []string{outline("s", xz, 0, 0, 9, 0, 4, 15, 0, 15), revolve("r", "s", "y-axis", "")},
			math.Pi * 15 * (81 + 36 + 16) / 3, solid.Vec{0, 0, 15 * (81 + 72 + 48) / (4.0 * (81 + 36 + 16))}},
		{"torus 2 π² R r²", []string{circles("s", xz, 20, 0, 6), revolve("r", "s", "y-axis", "")},
			2 * math.Pi * math.Pi * 20 * 36, solid.Vec{}},
		// π h² (3 R − h) / 3 with R = 10, h = 4; centre at 3 (2R − h)² / (4 (3R − h)) from the middle of the sphere
		{"spherical cap", []string{cap, revolve("r", "s", "y-axis", "")}, math.Pi * 16 * (30 - 4) / 3,
			solid.Vec{0, 0, 3.0 * 16 * 16 / (4 * 26)}},
		// √3/2 s² h over flats s
		{"hexagonal prism", []string{outline("s", xy, hexagon(19)...), extrude("e", "s", oneSide("8"), "")},
			math.Sqrt(3) / 2 * 19 * 19 * 8, solid.Vec{0, 0, 4}},
		// half a torus: the same by angle; centre of a ring sector (2/π)(R + r²/(4R)) for a half ring
		{"half torus", []string{circles("s", xz, 20, 0, 6), revolve("r", "s", "y-axis", `,"extent":{"kind":"one-side",
	"length":"180 deg"}`)}, math.Pi * math.Pi * 20 * 36, solid.Vec{0, 2 / math.Pi * (20 + 36.0/80), 0}},
	}
	for _, c := range cases {
		b := build(t, model(t, "mm", "", c.steps...), nil)
		p := props(t, b.Solid.Shape)
		if !near(p.Volume, c.volume, 1e-9) {
			t.Errorf("%s: volume %.12g, handbook %.12g", c.name, p.Volume, c.volume)
		}
		centre := c.centre
		if c.name == "half torus" { // the sense of the turn is the kernel's
			centre[1] = math.Copysign(centre[1], p.Centroid[1])
		}
		if p.Centroid.Distance(centre) > 1e-7 {
			t.Errorf("%s: centre of mass %v, handbook %v", c.name, p.Centroid, centre)
		}
	}
}

// Moments of inertia of a cylinder: m r²/2 about its axis, m (3 r² + h²)/12
// across (any handbook of mechanics).
func TestHandbookInertia(t *testing.T) {
	const r, h = 8.0, 30.0
	p := props(t, build(t, model(t, "mm", "", circles("s", xy, 5, -3, r), extrude("e", "s", oneSide("30"), "")),
		nil).Solid.Shape)
	m := math.Pi * r * r * h
	if !near(p.Inertia[2][2], m*r*r/2, 1e-9) || !near(p.Inertia[0][0], m*(3*r*r+h*h)/12, 1e-9) {
		t.Errorf("inertia %v", p.Inertia)
	}
}

// A solid built here and the same built with a general-purpose mesh boolean
// library (manifold-3d of the npm registry, run under Node): a plate with four
// holes, a boss and a bore. Inscribed polygons with n sides make every circle's
// area smaller by the factor sin(2π/n)/(2π/n), so the volumes agree within that.
func TestAgainstMeshBooleans(t *testing.T) {
	d := model(t, "mm", "",
		outline("s1", xy, -40, -25, 40, -25, 40, 25, -40, 25), extrude("e1", "s1", oneSide("12"), ""),
		circles("s2", `{"face":"e1/end"}`, 0, 0, 16), extrude("e2", "s2", oneSide("18"), ""),
		circles("s3", `{"face":"e2/end"}`, 0, 0, 9), extrude("e3", "s3", `{"kind":"through"}`, `,"result":"cut"`),
		circles("s4", `{"face":"e1/end"}`, -30, -17, 4, 30, -17, 4, 30, 17, 4, -30, 17, 4),
		extrude("e4", "s4", `{"kind":"through"}`, `,"result":"cut"`))
	b := build(t, d, nil)
	const sides = 720
	script := fmt.Sprintf(`
import Module from "manifold-3d";
const m = await Module(); m.setup();
const { Manifold } = m;
let p = Manifold.cube([80, 50, 12]).translate([-40, -25, 0]).add(Manifold.cylinder(30, 16, 16, %d));
p = p.subtract(Manifold.cylinder(50, 9, 9, %d).translate([0, 0, -5]));
for (const [x, y] of [[-30, -17], [30, -17], [30, 17], [-30, 17]]) p = p.subtract(Manifold.cylinder(40, 4, 4,
	%d).translate([x, y, -5]));
console.log(JSON.stringify({ volume: p.volume(), area: p.surfaceArea(), genus: p.genus() }));`, sides, sides, sides)
	cmd := exec.Command("node", "--input-type=module", "-e", script)
	cmd.Dir = "../../web"
	out, err := cmd.Output()
	if err != nil {
		t.Fatalf("manifold-3d: %v %s", err, stderr(err))
	}
	var other struct {
		Volume, Area float64
		Genus        int
	}
	if err := json.Unmarshal(bytes.TrimSpace(out), &other); err != nil {
		t.Fatal(err)
	}
	x := 2 * math.Pi / sides
	facet := 1 - math.Sin(x)/x
	p := props(t, b.Solid.Shape)
	if !near(p.Volume, other.Volume, facet) || !near(p.Area, other.Area, 2*facet+1e-4) || other.Genus != 5 {
		t.Errorf("here volume %.9g area %.9g; there %+v", p.Volume, p.Area, other)
	}
	// The mesh that is exported encloses the same volume, by the divergence theorem.
	m, err := occ.Kernel{}.Mesh(b.Solid.Shape, 0.01, 0.05)
	if err != nil {
		t.Fatal(err)
	}
	sum := 0.0
	at := func(i int32) solid.Vec { return solid.Vec(m.Vertices[3*i : 3*i+3]) }
	for i := 0; i+2 < len(m.Triangles); i += 3 {
		sum += at(m.Triangles[i]).Dot(at(m.Triangles[i+1]).Cross(at(m.Triangles[i+2]))) / 6
	}
	if !near(sum, p.Volume, 1e-3) {
		t.Errorf("the mesh encloses %g, the solid %g", sum, p.Volume)
	}
	if n := len(stl.Write(m)); n != 84+50*len(m.Triangles)/3 {
		t.Errorf("STL of %d bytes for %d triangles", n, len(m.Triangles)/3)
	}
}

func stderr(err error) string {
	if e, ok := err.(*exec.ExitError); ok {
		return string(e.Stderr)
	}
	return ""
}
