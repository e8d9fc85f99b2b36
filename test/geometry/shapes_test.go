package geometry

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// shape is an invented part of the Canal Works, with its volume worked out by hand
// where it has a closed form (0 where it has none).
type shape struct {
	name   string
	unit   string
	params string
	steps  []string
	solids int
	volume float64
	vary   map[string]float64 // parameters that are changed, and that must not break it
}

func mm(params ...string) string {
	var out []string
	for i := 0; i+1 < len(params); i += 2 {
		out = append(out, fmt.Sprintf(`{"name":%q,"value":%q}`, params[i], params[i+1]))
	}
	return strings.Join(out, ",")
}

func cut(id, sketch, extent, more string) string {
	return extrude(id, sketch, extent, `,"result":"cut"`+more)
}

const through = `{"kind":"through"}`
const throughBoth = `{"kind":"through","both":true}`

func symmetric(total string) string { return fmt.Sprintf(`{"kind":"symmetric","total":%q}`, total) }

func holeAt(id, sketch, points, more string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"hole","sketch":%q,"at":[%s]%s}`, id, sketch, points, more)
}

func between(a, b string) string { return fmt.Sprintf(`{"between":[%q,%q]}`, a, b) }

func wholeParts() []shape {
	cyl := func(d, h float64) float64 { return math.Pi * d * d / 4 * h }
	hexagon := func(flats float64) float64 { return math.Sqrt(3) / 2 * flats * flats }
	rectangle := func(id, plane string, x0, y0, x1, y1 float64) string {
		return outline(id, plane, x0, y0, x1, y0, x1, y1, x0, y1)
	}
	polygonAt := func(id, plane string, n int, x, y, corner, turn float64) string {
		var xy []float64
		for k := range n {
			a := turn + 2*math.Pi*float64(k)/float64(n)
			xy = append(xy, x+corner*math.Cos(a), y+corner*math.Sin(a))
		}
		return outline(id, plane, xy...)
	}
	var out []shape
	add := func(s shape) {
		if s.unit == "" {
			s.unit = "mm"
		}
		if s.solids == 0 {
			s.solids = 1
		}
		out = append(out, s)
	}

	// 1: a hanger: a bar extruded to both sides of its sketch, an arm from another
	// plane that runs into it by tangent arcs, and every edge rounded.
	add(shape{name: "1 sluice hanger", steps: []string{
		rectangle("s1", xz, -40, 0, 40, 16), extrude("e1", "s1", symmetric("30"), ""),
		curves("s2", `{"datum":"XZ","offset":"-15 mm"}`, pt("a", 17, 16), pt("d", 9, 24), pt("e", 9, 60), pt("f", -9, 60),
			pt("g", -9, 24), pt("h", -17, 16), pt("i", -17, 10), pt("j", 17, 10), pt("m", 17, 24), pt("n", -17, 24),
			arc("r1", "m", "d", "a"), ln("l1", "d", "e"), ln("l2", "e", "f"), ln("l3", "f", "g"), arc("r2", "n", "h", "g"),
			ln("l4", "h", "i"), ln("l5", "i", "j"), ln("l6", "j", "a")),
		extrude("e2", "s2", oneSide("30"), ""), `{"id":"f1","kind":"fillet","all":true,"radius":"1.5"}`}})

	// 2: a heel-post link: two unequal eyes joined by tangent lines, all from D.
	tangent := func(D float64) float64 { // area of the hull of two circles, radii D and D/2, 3 D apart
		a := math.Asin(0.5 * D / (3 * D))
		return 1.5*D*3*D*math.Cos(a) + D*D*(math.Pi+2*a)/2 + D*D/4*(math.Pi-2*a)/2
	}
	add(shape{name: "2 heel-post link", params: mm("D", "20 mm"), vary: map[string]float64{"D": 34}, steps: []string{
		constrained(curves("s1", xy, pt("m", 0, 0), pt("n", 58, 1), pt("a", 4, 19), pt("b", 61, 9), pt("c", 60, -9),
			pt("d", 3, -19), arc("r1", "m", "a", "d"), arc("r2", "n", "c", "b"), ln("l1", "a", "b"), ln("l2", "c", "d")),
			`{"id":"k0","kind":"coincident","of":["m","origin"]},{"id":"k1","kind":"horizontal","of":["m","n"]},{"id":"d1",
	"kind":"radius","of":["r1"],"value":"D"},{"id":"d2","kind":"radius","of":["r2"],"value":"D/2"},{"id":"d3",
	"kind":"distance","of":["m","n"],"value":"3*D"},{"id":"t1","kind":"tangent","of":["l1","r1"]},{"id":"t2",
	"kind":"tangent","of":["l1","r2"]},{"id":"t3","kind":"tangent","of":["l2","r1"]},{"id":"t4","kind":"tangent",
	"of":["l2","r2"]}`),
		extrude("e1", "s1", symmetric("D/2"), ""), `{"id":"h1","kind":"hole","diameter":"D","place":{"face":"e1/end",
	"centered":[` + between("e1/end", "e1/side:r1") + `]}}`,
		`{"id":"h2","kind":"hole","diameter":"D/2","place":{"face":"e1/end","centered":[` + between("e1/end", "e1/side:r2") +
			`]}}`},
		volume: (tangent(20) - math.Pi*100 - math.Pi*25) * 10})

	// 3: an upright on a base with a web rib from one line and a concentric boss.
	add(shape{name: "3 rack bracket", steps: []string{
		rectangle("s1", xy, -30, 0, 30, 50), extrude("e1", "s1", oneSide("10"), ""),
		rectangle("s2", xz, -20, 10, 20, 60), extrude("e2", "s2", oneSide("10"), `,"reverse":true`),
		circles("s3", `{"face":"e2/end"}`, 0, 42, 9), extrude("e3", "s3", oneSide("6"), ""),
		curves("s4", yz, pt("a", 40, 10), pt("b", 10, 30), ln("l", "a", "b")), `{"id":"b1","kind":"rib","sketch":"s4",
	"thickness":"8"}`,
		`{"id":"h1","kind":"hole","diameter":"8","place":{"face":"e3/end","centered":[` + between("e3/end", "e3/side:c0") +
			`]}}`},
		volume: 60*50*10 + 40*50*10 + cyl(18, 6) + 30*20/2*8 - cyl(8, 16)})

	// 4: a symmetric plate in which every equal size is given once.
	add(shape{name: "4 pawl plate", params: mm("pitch", "60 mm", "hole", "8 mm"),
		vary: map[string]float64{"pitch": 74, "hole": 5}, steps: []string{
			rectangle("s1", xy, -50, -30, 50, 30), extrude("e1", "s1", symmetric("12"), ""),
			constrained(circles("s2", `{"face":"e1/end"}`, -29, 14, 4, 31, 16, 4, 30, -15, 4, -30, -14, 4),
				`{"id":"k1","kind":"symmetric","of":["m0","m1","y-axis"]},{"id":"k2","kind":"symmetric","of":["m0","m3","x-axis"]},
	{"id":"k3","kind":"symmetric","of":["m1","m2","x-axis"]},{"id":"q1","kind":"equal","of":["c0","c1"]},{"id":"q2",
	"kind":"equal","of":["c1","c2"]},{"id":"q3","kind":"equal","of":["c2","c3"]},{"id":"d1","kind":"diameter","of":["c0"],
	"value":"hole"},{"id":"d2","kind":"horizontal-distance","of":["m0","m1"],"value":"pitch"},{"id":"d3",
	"kind":"vertical-distance","of":["m0","m3"],"value":"pitch/2"}`),
			cut("e2", "s2", through, "")}, volume: 100*60*12 - 4*cyl(8, 12)})

	// 5: a turned spindle with ring grooves, an end domed by an arc centred on the
	// axis, a cross hole, and inner bosses by mirror.
	add(shape{name: "5 paddle spindle", steps: []string{
		curves("s1", xz, pt("o", 0, -40), pt("a", 20, -40), pt("b", 20, -20), pt("c", 17, -20), pt("d", 17, -14),
			pt("e", 20, -14), pt("f", 20, 14), pt("g", 17, 14), pt("h", 17, 20), pt("i", 20, 20), pt("j", 20, 40),
			pt("k", 0, 60), pt("n", 0, 40),
			ln("l1", "o", "a"), ln("l2", "a", "b"), ln("l3", "b", "c"), ln("l4", "c", "d"), ln("l5", "d", "e"),
			ln("l6", "e", "f"), ln("l7", "f", "g"), ln("l8", "g", "h"), ln("l9", "h", "i"), ln("l10", "i", "j"),
			arc("r1", "n", "j", "k"), ln("l11", "k", "o")),
		revolve("r1", "s1", "y-axis", ""), circles("s2", xz, 0, 0, 7), cut("e2", "s2", throughBoth, ""),
		circles("s3", `{"datum":"XZ","offset":"-14 mm"}`, 0, 0, 9, 0, 0, 5), `{"id":"e3","kind":"extrude","sketch":"s3",
	"regions":"all","extent":{"kind":"one-side","length":"10"}}`,
		`{"id":"m1","kind":"mirror","of":["e3"],"plane":{"datum":"XZ"}}`}})

	// 6: a cover and its base, two named solids, with holes where guide lines cross
	// and hexagon pockets over two of them.
	guides := `{"id":"g1","kind":"line","from":"a","to":"b","guide":true},{"id":"g2","kind":"line","from":"c","to":"d",
	"guide":true},{"id":"g3","kind":"line","from":"e","to":"f","guide":true}`
	add(shape{name: "6 gauge box", solids: 2, steps: []string{
		rectangle("s1", xy, -40, -20, 40, 20), extrude("e1", "s1", oneSide("10"), ""),
		extrude("e2", "s1", `{"kind":"one-side","length":"6","start":"10"}`, `,"result":"new"`),
		curves("s2", `{"datum":"XY","offset":"16 mm"}`, pt("a", -40, 0), pt("b", 40, 0), pt("c", -25, -20), pt("d", -25, 20),
			pt("e", 25, -20), pt("f", 25, 20), pt("p", -25, 0), pt("q", 25, 0), guides,
			`{"id":"z","kind":"point","at":[0,0]}`), holeAt("h1", "s2", `"p","q"`, `,"diameter":"6"`),
		polygonAt("s3", `{"datum":"XY","offset":"16 mm"}`, 6, -25, 0, 10/math.Sqrt(3), math.Pi/6),
		cut("e3", "s3", oneSide("3"), `,"solids":["e2"]`),
		`{"id":"n1","kind":"linear-pattern","of":["e3"],"axis":{"datum":"X"},"count":"2","spacing":"50"}`},
		volume: 80*40*16 - 2*cyl(6, 16) - 2*(hexagon(10)-math.Pi*9)*3})

	// 7: undercuts turned about the axis of an edge, rounded, and repeated around a
	// cylinder together with their rounds.
	add(shape{name: "7 capstan drum", steps: []string{
		circles("s1", xy, 0, 0, 40), extrude("e1", "s1", oneSide("30"), ""), circles("s2", `{"face":"e1/end"}`, 26, 0, 6),
		cut("e2", "s2", oneSide("12"), ""),
		rectangle("s3", xz, 26, 20, 34, 24), `{"id":"r1","kind":"revolve","sketch":"s3","regions":"all","result":"cut",
	"axis":{"edge":` + between("e1/end", "e2/side:c0") + `}}`,
		`{"id":"f1","kind":"fillet","radius":"1","edges":[` + between("e1/end", "e2/side:c0") + `]}`,
		`{"id":"n1","kind":"circular-pattern","of":["e2","r1","f1"],"axis":{"face":"e1/side:c0"},"count":"6"}`}})

	// 8: a prism whose openings are in the same sketch, triangular and round.
	add(shape{name: "8 spy-hole block", steps: []string{
		curves("s1", xy, pt("a", -30, -20), pt("b", 30, -20), pt("c", 30, 20), pt("d", -30, 20), ln("l1", "a", "b"),
			ln("l2", "b", "c"), ln("l3", "c", "d"), ln("l4", "d", "a"), pt("t1", -20, -10), pt("t2", 0, -10), pt("t3", -10, 10),
			ln("l5", "t1", "t2"), ln("l6", "t2", "t3"), ln("l7", "t3", "t1"), pt("m", 17, 0),
			`{"id":"c1","kind":"circle","center":"m","radius":8}`),
		extrude("e1", "s1", oneSide("25"), "")}, volume: (60*40 - 20*20/2 - math.Pi*64) * 25})

	// 9: a frame, half of it drawn about a diagonal and mirrored; the inner radius by
	// formula from the outer one and the wall.
	add(shape{name: "9 lamp frame", params: mm("outer", "20 mm", "wall", "6 mm"),
		vary: map[string]float64{"outer": 30, "wall": 4}, steps: []string{
			constrained(curves("s1", xy, pt("a", 0, -50), pt("b", 30, -50), pt("c", 50, -30), pt("m", 30, -30), pt("e", 50, 50),
				pt("f", 44, 44), pt("g", 44, -30), pt("h", 30, -44), pt("i", -44, -44), pt("j", -50, -50),
				ln("l1", "j", "b"), arc("r1", "m", "b", "c"), ln("l2", "c", "e"), ln("l3", "e", "f"), ln("l4", "f", "g"),
				arc("r2", "m", "h", "g"), ln("l5", "h", "i"), ln("l6", "i", "j")),
				`{"id":"k1","kind":"horizontal","of":["l1"]},{"id":"k2","kind":"vertical","of":["l2"]},{"id":"k3","kind":"vertical",
	"of":["l4"]},{"id":"k4","kind":"horizontal","of":["l5"]},{"id":"t1","kind":"tangent","of":["l1","r1"]},{"id":"t2",
	"kind":"tangent","of":["l2","r1"]},{"id":"t3","kind":"tangent","of":["l4","r2"]},{"id":"t4","kind":"tangent",
	"of":["l5","r2"]},{"id":"d1","kind":"radius","of":["r1"],"value":"outer"},{"id":"d2","kind":"radius","of":["r2"],
	"value":"outer - wall"},{"id":"x1","kind":"horizontal-distance","of":["origin","c"],"value":"50 mm"},{"id":"x2",
	"kind":"vertical-distance","of":["b","origin"],"value":"50 mm"},{"id":"x3","kind":"horizontal-distance","of":["origin",
	"e"],"value":"50 mm"},{"id":"x4","kind":"vertical-distance","of":["origin","e"],"value":"50 mm"},{"id":"x5",
	"kind":"horizontal-distance","of":["f","e"],"value":"wall"},{"id":"x6","kind":"vertical-distance","of":["f","e"],
	"value":"wall"},{"id":"x7","kind":"horizontal-distance","of":["j","origin"],"value":"50 mm"},{"id":"x8",
	"kind":"vertical-distance","of":["j","i"],"value":"wall"},{"id":"x9","kind":"horizontal-distance","of":["j","i"],
	"value":"wall"}`),
			extrude("e1", "s1", oneSide("8"), ""), `{"id":"p1","kind":"plane","form":"angled","plane":{"datum":"XZ"},
	"axis":{"datum":"Z"},"angle":"45 deg"}`, `{"id":"m1","kind":"mirror","of":["e1"],"plane":{"step":"p1"}}`},
		volume: (100*100 - 88*88 - 2*(1-math.Pi/4)*(20*20-14*14)) * 8})

	// 10: a bent hollow pipe between two flanges with counterbored bolt patterns.
	flange := func(id, plane, face string) []string {
		return []string{circles(id+"s", plane, 0, 0, 30), `{"id":"` + id + `","kind":"extrude","sketch":"` + id +
			`s","regions":"all","extent":{"kind":"one-side","length":"8"}}`,
			`{"id":"h` + id + `","kind":"hole","form":"counterbore","diameter":"6","headDiameter":"10","headDepth":"4",
				"place":{"face":"` + id + `/` + face + `","circle":{"about":` + between(id+"/"+face, id+"/side:c0") + `,
				"diameter":"46","count":"4","start":"45 deg"}}}`}
	}
	pipe := append(flange("a", xy, "start"), circles("s1", xy, 0, 0, 12), curves("s2", xz, pt("a", 0, 0), pt("b", 0, 40),
		pt("c", 30, 70), pt("m", 30, 40), pt("d", 70, 70), ln("l1", "a", "b"), arc("r", "m", "c", "b"), ln("l2", "c", "d")),
		`{"id":"w1","kind":"sweep","sketch":"s1","path":"s2"}`)
	pipe = append(pipe, circles("bs", `{"datum":"YZ","offset":"70 mm"}`, 0, 70, 30), `{"id":"b","kind":"extrude",
	"sketch":"bs","regions":"all","extent":{"kind":"one-side","length":"8"}}`,
		`{"id":"hb","kind":"hole","extent":{"kind":"one-side","length":"8"},"form":"counterbore","diameter":"6",
	"headDiameter":"10","headDepth":"4","place":{"face":"b/end","circle":{"about":`+between("b/end", "b/side:c0")+`,
	"diameter":"46","count":"4"}}}`,
		circles("s3", xy, 0, 0, 9), curves("s5", xz, pt("a", 0, 0), pt("b", 0, 40), pt("c", 30, 70), pt("m", 30, 40),
			pt("d", 78, 70), ln("l1", "a", "b"), arc("r", "m", "c", "b"), ln("l2", "c", "d")),
		`{"id":"w2","kind":"sweep","sketch":"s3","path":"s5","result":"cut"}`)
	run := 40 + 30*math.Pi/2 + 40
	add(shape{name: "10 drain bend", steps: pipe, volume: math.Pi*144*(run-8) + 2*cyl(60, 8) - math.Pi*81*(run+8) -
		8*(cyl(6, 4)+cyl(10, 4))})

	// 11 is built twice in its own test: by one history and from solids.

	// 12: a thin-walled box with windows mirrored about its middle and a snap lip.
	add(shape{name: "12 fuse box", params: mm("wall", "2 mm"), vary: map[string]float64{"wall": 1.2}, steps: []string{
		rectangle("s1", xy, -40, -25, 40, 25), extrude("e1", "s1", oneSide("30"), ""),
		`{"id":"l1","kind":"shell","faces":["e1/end"],"thickness":"wall"}`,
		rectangle("s2", xz, 15, 8, 30, 20), `{"id":"e2","kind":"extrude","sketch":"s2","regions":"all","result":"cut",
	"extent":{"kind":"one-side","length":"40"},"reverse":true}`,
		`{"id":"p1","kind":"plane","form":"midway","planes":[{"face":"e1/side:l1"},{"face":"e1/side:l3"}]}`,
		`{"id":"m1","kind":"mirror","of":["e2"],"plane":{"step":"p1"}}`,
		curves("s3", yz, pt("a", 25, 26), pt("b", 27, 28), pt("c", 25, 28), ln("l1", "a", "b"), ln("l2", "b", "c"),
			ln("l3", "c", "a")), extrude("e3", "s3", symmetric("20"), "")},
		volume: 80*50*30 - 76*46*28 - 2*15*12*2 + 2*2/2*20})

	// 13: a base with end arcs, lugs extruded up to a face, a slot and cross holes.
	add(shape{name: "13 strap anchor", steps: []string{
		curves("s1", xy, pt("a", -30, -20), pt("b", 30, -20), pt("c", 30, 20), pt("d", -30, 20), pt("m", 30, 0),
			pt("n", -30, 0), ln("l1", "a", "b"), arc("r1", "m", "b", "c"), ln("l2", "c", "d"), arc("r2", "n", "d", "a")),
		extrude("e1", "s1", oneSide("8"), ""),
		rectangle("s2", `{"datum":"XY","offset":"40 mm"}`, -14, -20, 14, -12), `{"id":"e2","kind":"extrude","sketch":"s2",
	"regions":"all","reverse":true,"extent":{"kind":"to-face","face":"e1/end"}}`,
		`{"id":"m1","kind":"mirror","of":["e2"],"plane":{"datum":"XZ"}}`, circles("s3", xz, 0, 28, 5),
		cut("e3", "s3", throughBoth, ""),
		curves("s4", `{"face":"e1/end"}`, pt("a", -8, 0), pt("b", 8, 0), ln("l", "a", "b")),
		`{"id":"t1","kind":"slot","sketch":"s4","at":["l"],"width":"10"}`},
		volume: (60*40+math.Pi*400)*8 + 2*28*8*32 - 2*cyl(10, 8) - (16*10+math.Pi*25)*8})

	// 14: a rounded triangular plate with corner holes and a bolt circle, and its
	// turned bush as a second solid.
	side := 60 * math.Sqrt(3)
	var tri []string
	for k := range 3 {
		a := math.Pi/2 + 2*math.Pi*float64(k)/3
		tri = append(tri, pt(fmt.Sprintf("m%d", k), 60*math.Cos(a), 60*math.Sin(a)))
		for j, d := range []float64{-math.Pi / 3, math.Pi / 3} {
			tri = append(tri, pt(fmt.Sprintf("p%d%d", k, j), 60*math.Cos(a)+14*math.Cos(a+d), 60*math.Sin(a)+14*math.Sin(a+d)))
		}
	}
	for k := range 3 {
		tri = append(tri, arc(fmt.Sprintf("r%d", k), fmt.Sprintf("m%d", k), fmt.Sprintf("p%d0", k), fmt.Sprintf("p%d1", k)),
			ln(fmt.Sprintf("l%d", k), fmt.Sprintf("p%d1", k), fmt.Sprintf("p%d0", (k+1)%3)))
	}
	add(shape{name: "14 bollard foot and bush", solids: 2, steps: []string{
		curves("s1", xy, tri...), extrude("e1", "s1", oneSide("10"), ""), `{"id":"h1","kind":"hole","diameter":"10",
	"place":{"face":"e1/end","centered":[` + between("e1/end", "e1/side:r0") + `,` + between("e1/end", "e1/side:r1") + `,
	` + between("e1/end", "e1/side:r2") + `]}}`,
		circles("s2", `{"face":"e1/end"}`, 0, 0, 15), cut("e2", "s2", through, ""),
		`{"id":"h2","kind":"hole","diameter":"5","place":{"face":"e1/end","circle":{"about":` +
			between("e1/end", "e2/side:c0") + `,"diameter":"42","count":"6"}}}`,
		outline("s3", xz, 10, 0, 15, 0, 15, 10, 22, 10, 22, 14, 10, 14), `{"id":"r1","kind":"revolve","sketch":"s3",
	"regions":"all","axis":{"line":"y-axis"},"result":"new"}`},
		volume: (math.Sqrt(3)/4*side*side+3*side*14+math.Pi*196-3*math.Pi*25-math.Pi*225-6*math.Pi*6.25)*10 +
			math.Pi*(225-100)*10 + math.Pi*(484-100)*4})

	// 15: a lever with two hubs, a tapered tangent arm, blends and a long slot.
	add(shape{name: "15 windlass lever", steps: []string{
		circles("s1", xy, 0, 0, 20), extrude("e1", "s1", symmetric("30"), ""), circles("s2", xy, 120, 0, 12),
		extrude("e2", "s2", symmetric("20"), ""),
		constrained(curves("s3", xy, pt("m", 0, 0), pt("n", 120, 0), pt("a", 1, 17), pt("b", 121, 9), pt("c", 121, -9),
			pt("d", 1, -17), arc("r1", "m", "a", "d"), arc("r2", "n", "c", "b"), ln("l1", "a", "b"), ln("l2", "c", "d")),
			`{"id":"f1","kind":"fixed","of":["m"]},{"id":"f2","kind":"fixed","of":["n"]},{"id":"d1","kind":"radius","of":["r1"],
	"value":"17 mm"},{"id":"d2","kind":"radius","of":["r2"],"value":"9 mm"},{"id":"t1","kind":"tangent","of":["l1","r1"]},
	{"id":"t2","kind":"tangent","of":["l1","r2"]},{"id":"t3","kind":"tangent","of":["l2","r1"]},{"id":"t4",
	"kind":"tangent","of":["l2","r2"]}`),
		extrude("e3", "s3", symmetric("10"), ""), `{"id":"f1","kind":"fillet","radius":"2","edges":[` +
			between("e1/side:c0", "e3/end") + `,` + between("e1/side:c0", "e3/start") + `]}`,
		curves("s4", xy, pt("a", 40, 0), pt("b", 90, 0), ln("l", "a", "b")), `{"id":"t1","kind":"slot","sketch":"s4",
	"at":["l"],"width":"8"}`,
		`{"id":"t2","kind":"slot","sketch":"s4","at":["l"],"width":"8","reverse":true}`,
		circles("s5", xy, 0, 0, 10, 120, 0, 6), cut("e5", "s5", throughBoth, "")}})

	// 16: a turned ring in inches with a V-groove, a notch and small edge breaks.
	inch := 25.4 * 25.4 * 25.4
	ring := math.Pi*(4-2.25)*0.75 - 2*math.Pi*(2-0.125/3)*0.125*0.125 - 2*math.Pi*(1.5+1.0/96+2-1.0/96)/2048 -
		0.25*(segmentStrip(2, 0.125)-segmentStrip(1.5, 0.125))
	add(shape{name: "16 packing ring", unit: "in", steps: []string{
		outline("s1", xz, 1.5, 0, 2, 0, 2, 0.25, 1.875, 0.375, 2, 0.5, 2, 0.75, 1.5, 0.75), revolve("r1", "s1", "y-axis", ""),
		`{"id":"c1","kind":"chamfer","distance":"1/32 in","edges":[` + between("r1/side:l5", "r1/side:l6") + `,` +
			between("r1/side:l4", "r1/side:l5") + `]}`,
		rectangle("s2", xy, -0.125, 1.4, 0.125, 2.1), cut("e2", "s2", oneSide("0.25"), `,"reverse":true`)},
		volume: ring * inch})

	// 17: a stepped block with a square opening and two mirrored triangular ribs.
	add(shape{name: "17 stop block", steps: []string{
		outline("s1", xz, -40, 0, 40, 0, 40, 10, 10, 10, 10, 40, -10, 40, -10, 10, -40, 10),
		extrude("e1", "s1", symmetric("40"), ""),
		rectangle("s2", xz, -6, 16, 6, 28), cut("e2", "s2", throughBoth, ""),
		curves("s3", xz, pt("a", 30, 10), pt("b", 10, 30), ln("l", "a", "b")), `{"id":"b1","kind":"rib","sketch":"s3",
	"thickness":"6"}`,
		`{"id":"m1","kind":"mirror","of":["b1"],"plane":{"datum":"YZ"}}`}, volume: (80*10+20*30-144)*40 + 2*20*20/2*6})

	// 18: a fork with a hub, a keyway and two lugs by mirror.
	add(shape{name: "18 shifting fork", steps: []string{
		circles("s1", xy, 0, 0, 25), extrude("e1", "s1", symmetric("40"), ""), circles("s2", `{"face":"e1/end"}`, 0, 0, 15),
		cut("e2", "s2", through, ""),
		`{"id":"k1","kind":"keyway","faces":["e2/side:c0","e1/end"]}`,
		rectangle("s3", `{"datum":"XY","offset":"10 mm"}`, -60, -8, -20, 8), extrude("e3", "s3", oneSide("6"), ""),
		`{"id":"m1","kind":"mirror","of":["e3"],"plane":{"datum":"XY"}}`},
		// The keyway for a bore of 30: 8 wide, 3.3 deep at the crown; what lies within
		// the bore is taken off already. Each lug reaches into the hub up to x = -24.
		volume: (math.Pi*(625-225)-keywayArea(15, 8, 3.3))*40 + 2*6*(16*60-segmentStrip(25, 8))})

	// 19: a wheel from a half section, with sectors cut out around and a stepped stud.
	add(shape{name: "19 hand wheel", steps: []string{
		outline("s1", xz, 8, 0, 20, 0, 20, 6, 50, 6, 50, 0, 60, 0, 60, 16, 50, 16, 50, 10, 20, 10, 20, 24, 8, 24),
		revolve("r1", "s1", "y-axis", ""),
		curves("s2", `{"datum":"XY","offset":"16 mm"}`, pt("m", 0, 0), pt("a", 26*math.Cos(0.3), -26*math.Sin(0.3)),
			pt("b", 44*math.Cos(0.3), -44*math.Sin(0.3)), pt("c", 44*math.Cos(0.3), 44*math.Sin(0.3)),
			pt("d", 26*math.Cos(0.3), 26*math.Sin(0.3)), ln("l1", "a", "b"), arc("r1", "m", "b", "c"), ln("l2", "c", "d"),
			arc("r2", "m", "a", "d")),
		cut("e2", "s2", through, ""), `{"id":"n1","kind":"circular-pattern","of":["e2"],"axis":{"datum":"Z"},"count":"5"}`,
		circles("s3", `{"datum":"XY","offset":"16 mm"}`, 55, 0, 4), extrude("e3", "s3", oneSide("12"), ""),
		circles("s4", `{"face":"e3/end"}`, 55, 0, 2.5), extrude("e4", "s4", oneSide("8"), "")},
		volume: math.Pi*(400-64)*24 + math.Pi*(2500-400)*4 + math.Pi*(3600-2500)*16 - 5*0.3*(44*44-26*26)*4 +
			cyl(8, 12) + cyl(5, 8)})

	// 20: a forked rod end that goes from square to octagonal to round, with blends.
	square20 := rectangle("s1", xy, -15, -15, 15, 15)
	add(shape{name: "20 tie-rod fork", steps: []string{
		square20, extrude("e1", "s1", oneSide("40"), ""), rectangle("s2", xz, -6, -1, 6, 28),
		cut("e2", "s2", throughBoth, ""), circles("s3", yz, 0, 14, 5), cut("e3", "s3", throughBoth, ""),
		polygonAt("s4", `{"datum":"XY","offset":"40 mm"}`, 4, 0, 0, 15*math.Sqrt2, math.Pi/4),
		polygonAt("s5", `{"datum":"XY","offset":"55 mm"}`, 8, 0, 0, 14/math.Cos(math.Pi/8), math.Pi/8),
		`{"id":"o1","kind":"loft","sections":["s4","s5"],"ruled":true}`,
		polygonAt("s6", `{"datum":"XY","offset":"55 mm"}`, 8, 0, 0, 14/math.Cos(math.Pi/8), math.Pi/8),
		circles("s7", `{"datum":"XY","offset":"70 mm"}`, 0, 0, 10), `{"id":"o2","kind":"loft","sections":["s6","s7"],
	"ruled":true}`,
		circles("s8", `{"datum":"XY","offset":"70 mm"}`, 0, 0, 10), extrude("e8", "s8", oneSide("50"), ""),
		`{"id":"f1","kind":"fillet","radius":"2","edges":[` + between("e1/side:l1", "e1/start") + `,` +
			between("e1/side:l3", "e1/start") + `]}`}})

	// 21: an equilateral prism with a through bore.
	add(shape{name: "21 scale prism", params: mm("side", "60 mm"), vary: map[string]float64{"side": 90}, steps: []string{
		constrained(outline("s1", xy, -29, -17, 30, -17, 0, 34), `{"id":"q1","kind":"equal","of":["l0","l1"]},{"id":"q2",
	"kind":"equal","of":["l1","l2"]},{"id":"k1","kind":"horizontal","of":["l0"]},{"id":"d1","kind":"length","of":["l0"],
	"value":"side"},{"id":"k2","kind":"horizontal-distance","of":["p0","origin"],"value":"side/2"},{"id":"k3",
	"kind":"vertical-distance","of":["p0","origin"],"value":"side/sqrt(12)"}`),
		extrude("e1", "s1", symmetric("100"), ""), circles("s2", `{"face":"e1/end"}`, 0, 0, 10),
		cut("e2", "s2", through, "")},
		volume: (math.Sqrt(3)/4*3600 - math.Pi*100) * 100})
	return out
}

// keywayArea is what a keyway takes off a hub beyond its bore of radius r: width b,
// depth t above the crown.
func keywayArea(r, b, t float64) float64 {
	a := math.Asin(b / 2 / r)
	return b*(r+t) - (r*r*a + b/2*r*math.Cos(a))
}

// segmentStrip is the area of the strip |y| < h between x = 0 and a circle of radius
// r about the origin.
func segmentStrip(r, h float64) float64 {
	a := math.Asin(h / r)
	return r*r*a + h*r*math.Cos(a)
}

func TestShapesOfTheTrade(t *testing.T) {
	closed := 0
	for _, s := range wholeParts() {
		d := model(t, s.unit, s.params, s.steps...)
		r := part.NewRebuilder(occ.Kernel{})
		b, err := r.Rebuild(ctx, d, nil)
		if err != nil {
			t.Errorf("%s: %v", s.name, err)
			continue
		}
		for _, f := range b.Failed() {
			t.Errorf("%s: %v", s.name, f.Err)
		}
		if b.Solid == nil {
			continue
		}
		if n := b.Solid.Shape.Solids(); n != s.solids || len(b.Bodies) != s.solids {
			t.Errorf("%s: %d solids in %d bodies, want %d", s.name, n, len(b.Bodies), s.solids)
		}
		if err := (occ.Kernel{}).Check(b.Solid.Shape); err != nil {
			t.Errorf("%s: %v", s.name, err)
		}
		v := props(t, b.Solid.Shape).Volume
		if s.volume != 0 {
			closed++
			if !near(v, s.volume, 1e-9) {
				t.Errorf("%s: volume %.10g, want %.10g", s.name, v, s.volume)
			}
		}
		for i, names := range b.Solid.Names {
			if len(names) == 0 {
				f := b.Solid.Shape.Faces()[i]
				t.Errorf("%s: face %d (%s at %v) has no name", s.name, i, f.Kind, f.Centroid)
			}
		}
		for name, to := range s.vary {
			q, err := r.Rebuild(ctx, d, map[string]quantity.Quantity{name: {Value: to, Dim: quantity.Length}})
			if err != nil || len(q.Failed()) > 0 {
				t.Errorf("%s with %s = %g: %v %v", s.name, name, to, err, q.Failed())
			}
		}
	}
	if closed < 14 {
		t.Errorf("only %d volumes are checked against closed forms", closed)
	}
}

// 11: a gland flange with six sides, ribs and counterbores around, once as one
// history on one solid and once from solids that are united and subtracted: both are
// the same part.
func TestOneFlangeTwoWays(t *testing.T) {
	var hex []float64
	for k := range 6 {
		a := math.Pi/6 + float64(k)*math.Pi/3
		hex = append(hex, 40*math.Cos(a), 40*math.Sin(a))
	}
	hexagon := func(id, plane string) string { return outline(id, plane, hex...) }
	bolts := func(face, top, rim string) string {
		return `{"id":"h1","kind":"hole","form":"counterbore","diameter":"5","headDiameter":"8","headDepth":"3",
			"place":{"face":"` + face + `","circle":{"about":` + between(top, rim) + `,"diameter":"56","count":"6",
			"start":"30 deg"}}}`
	}
	history := build(t, model(t, "mm", "",
		outline("s1", xz, 8, 0, 45, 0, 45, 10, 18, 10, 18, 40, 8, 40), revolve("r1", "s1", "y-axis", ""),
		hexagon("s2", xy), extrude("e2", "s2", oneSide("60"), `,"result":"intersect"`),
		curves("s3", xz, pt("a", 32, 10), pt("b", 18, 34), ln("l", "a", "b")), `{"id":"b1","kind":"rib","sketch":"s3",
	"thickness":"5"}`,
		`{"id":"n1","kind":"circular-pattern","of":["b1"],"axis":{"datum":"Z"},"count":"6"}`,
		bolts("r1/side:l2", "r1/side:l4", "r1/side:l3")), nil)
	solids := build(t, model(t, "mm", "",
		circles("s1", xy, 0, 0, 45), extrude("e1", "s1", oneSide("10"), ""), hexagon("s2", xy),
		extrude("e2", "s2", oneSide("20"), `,"result":"new"`), `{"id":"u1","kind":"intersection","solids":["e1"],
	"with":["e2"]}`,
		circles("s3", xy, 0, 0, 18), extrude("e3", "s3", oneSide("40"), `,"result":"new"`),
		`{"id":"u2","kind":"union","solids":["e1"],"with":["e3"]}`,
		outline("s4", xz, 8.5, 9, 32+7.0/12, 9, 16, 10+16*12.0/7, 8.5, 10+16*12.0/7),
		extrude("e4", "s4", symmetric("5"), `,"result":"new"`),
		`{"id":"n4","kind":"circular-pattern","solids":["e4"],"axis":{"datum":"Z"},"count":"6","result":"new"}`,
		`{"id":"u3","kind":"union","solids":["e1"],"with":["e4","n4","n4.2","n4.3","n4.4","n4.5"]}`,
		circles("s5", xy, 0, 0, 8), extrude("e5", "s5", oneSide("50"), `,"result":"new"`),
		`{"id":"u4","kind":"difference","solids":["e1"],"with":["e5"]}`,
		bolts("e1/end", "e3/end", "e3/side:c0")), nil)
	a, b := props(t, history.Solid.Shape), props(t, solids.Solid.Shape)
	if !near(a.Volume, b.Volume, 1e-9) || !near(a.Area, b.Area, 1e-9) || a.Centroid.Distance(b.Centroid) > 1e-7 {
		t.Errorf("one history %.10g mm³ %.10g mm², from solids %.10g mm³ %.10g mm²", a.Volume, a.Area, b.Volume, b.Area)
	}
	rest, _, err := occ.Kernel{}.Boolean(1, history.Solid.Shape, []solid.Shape{solids.Solid.Shape})
	if err != nil {
		t.Fatal(err)
	}
	if rest.Solids() > 0 {
		if v := props(t, rest).Volume; v > 1e-6 {
			t.Errorf("the two differ by %g mm³", v)
		}
	}
}
