package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/kernel/occ"
)

// curve is a sketch from entities given as JSON.
func curves(id, plane string, entities ...string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"sketch","plane":%s,"entities":[%s]}`, id, plane, strings.Join(entities, ","))
}

func pt(id string, x, y float64) string {
	return fmt.Sprintf(`{"id":%q,"kind":"point","at":[%v,%v]}`, id, x, y)
}

func ln(id, from, to string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"line","from":%q,"to":%q}`, id, from, to)
}

func arc(id, center, start, end string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"arc","center":%q,"start":%q,"end":%q}`, id, center, start, end)
}

// Every kind of step against a volume worked out by hand: prisms, cylinders, cones,
// the frustum of a pyramid (Heron), Pappus' second theorem for what is turned or
// swept along arcs, and a helical sweep as area times the turns about the axis.
func TestNewStepsAgainstClosedForms(t *testing.T) {
	const block = 40 * 30 * 20
	pipe := []string{
		circles("s1", xy, 0, 0, 6, 0, 0, 4),
		curves("s2", xz, pt("a", 0, 0), pt("b", 0, 30), pt("c", 25, 55), pt("m", 25, 30), pt("d", 60, 55), ln("l1", "a", "b"),
			arc("r", "m", "c", "b"), ln("l2", "c", "d")),
		`{"id":"w1","kind":"sweep","sketch":"s1","path":"s2"}`}
	area := math.Pi * (36 - 16)
	frustum := func(a, b, h float64) float64 { return h / 3 * (a*a + a*b + b*b) }
	square := func(id, plane string, a float64) string {
		return outline(id, plane, -a/2, -a/2, a/2, -a/2, a/2, a/2, -a/2, a/2)
	}
	cases := []struct {
		name   string
		steps  []string
		volume float64
		rel    float64
	}{
		{"a bent pipe", pipe, area * (30 + math.Pi/2*25 + 35), 1e-9},
		{"a spring", []string{`{"id":"x1","kind":"helix","axis":{"datum":"Z"},"diameter":"40","pitch":"8","turns":"3.5"}`,
			circles("s1", xz, 20, 0, 2), `{"id":"w1","kind":"sweep","sketch":"s1","path":"x1"}`}, math.Pi * 4 * 2 * math.Pi *
			20 * 3.5, 1e-3},
		{"moved without turning", []string{square("s1", xy, 6), curves("s2", xz, pt("a", 0, 0), pt("b", 20, 30),
			ln("l", "a", "b")), `{"id":"w1","kind":"sweep","sketch":"s1","path":"s2","keep":true}`}, 36 * 30, 1e-9},
		{"a loft between squares", []string{square("s1", xy, 20), square("s2", `{"datum":"XY","offset":"15"}`, 10),
			`{"id":"o1","kind":"loft","sections":["s1","s2"],"ruled":true}`}, frustum(20, 10, 15), 1e-9},
		{"tapered sides", []string{square("s1", xy, 20), `{"id":"e1","kind":"extrude","sketch":"s1","regions":"all",
	"extent":{"kind":"one-side","length":"10","draft":"10 deg"}}`}, frustum(20, 20-20*math.Tan(math.Pi/18), 10), 1e-9},
		{"tapered to both sides", []string{square("s1", xy, 20), `{"id":"e1","kind":"extrude","sketch":"s1","regions":"all",
	"extent":{"kind":"symmetric","total":"20","draft":"10 deg"}}`}, 2 * frustum(20, 20-20*math.Tan(math.Pi/18), 10), 1e-9},
		{"a drafted block", append(base(), `{"id":"d1","kind":"draft","faces":["e1/side:l1"],"plane":{"datum":"XY"},
	"angle":"5 deg"}`), block - 20*20*math.Tan(math.Pi/36)/2*30, 1e-9},
		{"a wall along an open line",
			[]string{curves("s1", xy, pt("a", 0, 0), pt("b", 30, 0), pt("c", 30, 20), ln("l1", "a", "b"), ln("l2", "b", "c")),
				`{"id":"e1","kind":"extrude","sketch":"s1","wall":{"thickness":"4","side":"left"},"extent":{"kind":"one-side",
	"length":"10"}}`}, (30*4 + 16*4) * 10, 1e-9},
		{"a wall about a circle", []string{circles("s1", xy, 0, 0, 10), `{"id":"e1","kind":"extrude","sketch":"s1",
	"wall":{"thickness":"2","side":"left"},"extent":{"kind":"one-side","length":"10"}}`}, math.Pi * (100 - 64) * 10, 1e-9},
		{"a wall about a box", []string{square("s1", xy, 20), `{"id":"e1","kind":"extrude","sketch":"s1",
	"wall":{"thickness":"2","side":"right"},"extent":{"kind":"one-side","length":"10"}}`}, (24*24 - 20*20) * 10, 1e-9},
		{"an open box", append(base(), `{"id":"h1","kind":"shell","faces":["e1/end"],"thickness":"3"}`),
			block - 34*24*17, 1e-9},
		{"a closed hollow box", append(base(), `{"id":"h1","kind":"shell","thickness":"3"}`), block - 34*24*14, 1e-9},
		{"walls grown outwards", append(base(), `{"id":"h1","kind":"shell","faces":["e1/end"],"thickness":"3",
	"reverse":true}`), 46*36*23 - block, 1e-9},
		{"a rib in a corner", []string{outline("s1", xz, 0, 0, 40, 0, 40, 5, 5, 5, 5, 30, 0, 30),
			extrude("e1", "s1", `{"kind":"symmetric","total":"20"}`, ""),
			curves("s2", xz, pt("a", 25, 5), pt("b", 5, 20), ln("l", "a", "b")), `{"id":"r1","kind":"rib","sketch":"s2",
	"thickness":"4"}`}, (40*5+25*5)*20 + 20*15/2*4, 1e-9},
		{"a rib whose line ends short", []string{outline("s1", xz, 0, 0, 40, 0, 40, 5, 5, 5, 5, 30, 0, 30),
			extrude("e1", "s1", `{"kind":"symmetric","total":"20"}`, ""),
			curves("s2", xz, pt("a", 20, 8.75), pt("b", 10, 16.25), ln("l", "a", "b")),
			`{"id":"r1","kind":"rib","sketch":"s2","thickness":"4"}`}, (40*5+25*5)*20 + 20*15/2*4, 1e-9},
		{"up to the next wall", []string{outline("s1", xz, 0, 0, 40, 0, 40, 30, 30, 30, 30, 5, 10, 5, 10, 30, 0, 30),
			extrude("e1", "s1", `{"kind":"symmetric","total":"20"}`, ""),
			circles("s2", `{"face":"e1/side:l5"}`, 0, 15, 3), extrude("e2", "s2", `{"kind":"to-next"}`, "")}, (40*5+2*10*25)*20 +
			math.Pi*9*20, 1e-9},
		{"a cut through the first wall only", []string{outline("s1", xz, 0, 0, 40, 0, 40, 30, 30, 30, 30, 5, 10, 5, 10, 30, 0,
			30), extrude("e1", "s1", `{"kind":"symmetric","total":"20"}`, ""),
			circles("s2", `{"datum":"YZ"}`, 0, 15, 3), extrude("e2", "s2", `{"kind":"to-next"}`,
				`,"result":"cut","reverse":true`)}, (40*5+2*10*25)*20 - math.Pi*9*10, 1e-9},
		{"begun away from the sketch", append(base(), circles("s2", `{"face":"e1/end"}`, 20, 15, 3),
			`{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","result":"cut","extent":{"kind":"one-side","length":"4",
	"start":"10"}}`), block - math.Pi*9*4, 1e-9},
		{"bevels of two distances", append(base(), `{"id":"c1","kind":"chamfer","distance":"2","second":"5",
	"edges":[{"between":["e1/end","e1/side:l0"],"first":"e1/end"}]}`), block - 40*2*5/2, 1e-9},
		{"a bevel by its angle", append(base(), `{"id":"c1","kind":"chamfer","distance":"4","angle":"30 deg",
	"edges":[{"between":["e1/end","e1/side:l0"]}]}`), block - 40*4*4*math.Tan(math.Pi/6)/2, 1e-9},
		{"two radii in one step", append(base(), `{"id":"f1","kind":"fillet","radius":"5","edges":[{"between":["e1/side:l0",
	"e1/side:l1"]},{"between":["e1/side:l2","e1/side:l3"],"radius":"8"}]}`), block - 20*(25+64)*(1-math.Pi/4), 1e-9},
		{"every edge of a cube", []string{square("s1", xy, 20), extrude("e1", "s1", oneSide("20"), ""),
			`{"id":"f1","kind":"fillet","all":true,"radius":"3"}`}, 14*14*14 + 6*14*14*3 + 12*14*math.Pi*9/4 + 4.0/3*math.Pi*27,
			1e-9},
		{"a clearance hole by thread", append(base(), circles("s2", `{"face":"e1/end"}`, 20, 15, 3),
			`{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"thread":"M8"}`), block - math.Pi*4.5*4.5*20, 1e-9},
		{"a counterbore by thread", append(base(), circles("s2", `{"face":"e1/end"}`, 20, 15, 3),
			`{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"form":"counterbore","thread":"M6","fit":"fine"}`),
			block - math.Pi*3.2*3.2*14 - math.Pi*5.5*5.5*6, 1e-9},
		{"a tapped blind hole with its point", append(base(), circles("s2", `{"face":"e1/end"}`, 20, 15, 3),
			`{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"form":"tapped","thread":"M8","extent":{"kind":"one-side",
	"length":"12"},"tipAngle":"118 deg"}`),
			block - math.Pi*3.375*3.375*(12+3.375/math.Tan(59*math.Pi/180)/3), 1e-9},
		{"a hole from two edges", append(base(), `{"id":"h1","kind":"hole","diameter":"6","place":{"face":"e1/end",
	"from":[{"edge":{"between":["e1/end","e1/side:l0"]},"distance":"8"},{"edge":{"between":["e1/end","e1/side:l1"]},
	"distance":"9"}]}}`), block - math.Pi*9*20, 1e-9},
		{"a bolt circle about a rim", []string{circles("s1", xy, 0, 0, 30), extrude("e1", "s1", oneSide("5"), ""),
			`{"id":"h1","kind":"hole","diameter":"6","place":{"face":"e1/end","circle":{"about":{"between":["e1/end",
	"e1/side:c0"]},"diameter":"40","count":"6","start":"15 deg"}}}`}, math.Pi*900*5 - 6*math.Pi*9*5, 1e-9},
		{"concentric to a rim", []string{circles("s1", xy, 12, 7, 30), extrude("e1", "s1", oneSide("5"), ""),
			`{"id":"h1","kind":"hole","diameter":"6","place":{"face":"e1/end","centered":[{"between":["e1/end",
	"e1/side:c0"]}]}}`}, math.Pi * (900 - 9) * 5, 1e-9},
		{"a slot", append(base(), curves("s2", `{"face":"e1/end"}`, pt("a", 10, 15), pt("b", 30, 15), ln("l", "a", "b")),
			`{"id":"t1","kind":"slot","sketch":"s2","at":["l"],"width":"6","extent":{"kind":"one-side","length":"8"}}`),
			block - (20*6+math.Pi*9)*8, 1e-9},
		{"a curved slot", append(base(), curves("s2", `{"face":"e1/end"}`, pt("m", 20, 5), pt("a", 30, 5), pt("b", 20, 15),
			arc("r", "m", "a", "b")), `{"id":"t1","kind":"slot","sketch":"s2","at":["r"],"width":"4"}`),
			block - (math.Pi/4*(144-64)+math.Pi*4)*20, 1e-9},
		{"two rows of holes with one left out", append(base(), circles("s2", `{"face":"e1/end"}`, 5, 5, 2),
			`{"id":"h1","kind":"hole","sketch":"s2","at":["m0"],"diameter":"4"}`,
			`{"id":"r1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},"count":"4","spacing":"10",
	"axis2":{"datum":"Y"},"count2":"3","spacing2":"10","skip":[6]}`), block - 11*math.Pi*4*20, 1e-9},
		{"at the points of a sketch",
			append(base(), curves("s2", `{"face":"e1/end"}`, pt("a", 6, 6), pt("b", 34, 7), pt("c", 21, 22)),
				`{"id":"h1","kind":"hole","sketch":"s2","at":["a"],"diameter":"4"}`,
				`{"id":"r1","kind":"point-pattern","of":["h1"],"sketch":"s2","from":"a","at":["b","c"]}`),
			block - 3*math.Pi*4*20, 1e-9},
		{"a boss with its round, four times", append(base(), circles("s2", `{"face":"e1/end"}`, 10, 8, 4),
			extrude("e2", "s2", oneSide("6"), ""), `{"id":"f1","kind":"fillet","radius":"1.5","edges":[{"between":["e2/end",
	"e2/side:c0"]}]}`,
			`{"id":"r1","kind":"linear-pattern","of":["e2","f1"],"axis":{"datum":"X"},"count":"2","spacing":"20",
	"axis2":{"datum":"Y"},"count2":"2","spacing2":"14"}`), block + 4*roundedBoss(4, 6, 1.5), 1e-9},
		{"two solids united", append(base(), circles("s2", xy, 40, 15, 8),
			extrude("e2", "s2", oneSide("20"), `,"result":"new"`), `{"id":"u1","kind":"union","solids":["e1"],"with":["e2"]}`),
			block + math.Pi*64/2*20, 1e-9},
		{"one solid taken from another", append(base(), circles("s2", xy, 20, 15, 8),
			extrude("e2", "s2", oneSide("30"), `,"result":"new"`), `{"id":"u1","kind":"difference","solids":["e1"],
	"with":["e2"]}`), block - math.Pi*64*20, 1e-9},
		{"what two solids share", append(base(), circles("s2", xy, 40, 15, 8),
			extrude("e2", "s2", oneSide("30"), `,"result":"new"`), `{"id":"u1","kind":"intersection","solids":["e1"],
	"with":["e2"]}`), math.Pi * 64 / 2 * 20, 1e-9},
		{"a solid taken away and kept", append(base(), circles("s2", xy, 20, 15, 8),
			extrude("e2", "s2", oneSide("20"), `,"result":"new"`), `{"id":"u1","kind":"difference","solids":["e1"],"with":["e2"],
	"keep":true}`), block, 1e-9},
		{"a solid copied around", append(base(), `{"id":"r1","kind":"circular-pattern","solids":["e1"],"axis":{"datum":"Z"},
	"count":"4","result":"new"}`), 4 * block, 1e-9},
		{"what holds a point", []string{circles("s1", xy, 0, 0, 10, 6, 0, 8), `{"id":"e1","kind":"extrude","sketch":"s1",
	"regions":{"holding":["m0"]},"extent":{"kind":"one-side","length":"2"}}`}, 2 * lens(10, 8, 6), 1e-9},
		{"on a plane midway", append(base(), `{"id":"p1","kind":"plane","form":"midway","planes":[{"face":"e1/side:l1"},
	{"face":"e1/side:l3"}]}`, `{"id":"m1","kind":"mirror","plane":{"step":"p1"}}`), block, 1e-9},
		{"on a plane at an angle", append(base(), `{"id":"p1","kind":"plane","form":"angled","plane":{"face":"e1/end"},
	"axis":{"edge":{"between":["e1/end","e1/side:l1"]}},"angle":"-30 deg"}`,
			square("s2", `{"step":"p1"}`, 200), `{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","result":"cut",
	"reverse":true,"extent":{"kind":"one-side","length":"100"}}`),
			block - 40*40*math.Tan(math.Pi/6)/2*30 + math.Pow(math.Max(0, 40*math.Tan(math.Pi/6)-20),
				2)/math.Tan(math.Pi/6)/2*30, 1e-9},
	}
	for _, c := range cases {
		b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, model(t, "mm", "", c.steps...), nil)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		for _, f := range b.Failed() {
			t.Errorf("%s: %v", c.name, f.Err)
		}
		if b.Solid == nil {
			continue
		}
		if err := (occ.Kernel{}).Check(b.Solid.Shape); err != nil {
			t.Errorf("%s: %v", c.name, err)
		}
		if v := props(t, b.Solid.Shape).Volume; !near(v, c.volume, c.rel) {
			t.Errorf("%s: volume %.10g, want %.10g", c.name, v, c.volume)
		}
		for i, names := range b.Solid.Names {
			if len(names) == 0 {
				f := b.Solid.Shape.Faces()[i]
				t.Errorf("%s: face %d (%s at %v) has no name", c.name, i, f.Kind, f.Centroid)
			}
		}
	}
}

// roundedBoss is a cylinder whose upper edge is rounded: Pappus for what the round
// takes away, a square less a quarter circle.
func roundedBoss(r, h, f float64) float64 {
	a := f * f * (1 - math.Pi/4)
	// The centroid of the spandrel from the corner, by subtraction of moments.
	c := (f*f*f/2 - math.Pi*f*f/4*(f-4*f/(3*math.Pi))) / a
	return math.Pi*r*r*h - 2*math.Pi*(r-c)*a
}

// lens is the area that two circles have in common.
func lens(r, s, d float64) float64 {
	return r*r*math.Acos((d*d+r*r-s*s)/(2*d*r)) + s*s*math.Acos((d*d+s*s-r*r)/(2*d*s)) -
		math.Sqrt((-d+r+s)*(d+r-s)*(d-r+s)*(d+r+s))/2
}
