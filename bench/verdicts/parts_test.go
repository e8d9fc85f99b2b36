package verdicts

import (
	"fmt"
	"strings"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/demo"
	"hammerset/formats/documents"
)

// task is one exercise of the corpus.
type task struct {
	name string
	ex   *exercise.Exercise
	ref  check.Reference
	data []byte      // the reference as it would be handed in
	less [][2]string // formulas of which the first stays the smaller one: else names and places part
}

// rect is a sketch of a rectangle w by h (formulas; now gives their values) whose middle
// lies at x, y from the origin of its plane.
func rect(id, plane, w, h string, now [2]float64, x, y string, at [2]float64) string {
	a, b := now[0]/2, now[1]/2
	p := func(k int, dx, dy float64) string {
		return fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%g,%g]}`, k, at[0]+dx, at[1]+dy)
	}
	e := []string{p(0, -a, -b), p(1, a, -b), p(2, a, b), p(3, -a, b), fmt.Sprintf(`{"id":"m","kind":"point","at":[%g,
	%g]}`, at[0], at[1])}
	for k := range 4 {
		e = append(e, fmt.Sprintf(`{"id":"l%d","kind":"line","from":"p%d","to":"p%d"}`, k, k, (k+1)%4))
	}
	k := []string{`{"id":"k0","kind":"horizontal","of":["l0"]}`, `{"id":"k1","kind":"vertical","of":["l1"]}`,
		`{"id":"k2","kind":"horizontal","of":["l2"]}`, `{"id":"k3","kind":"vertical","of":["l3"]}`,
		`{"id":"k4","kind":"symmetric","of":["p0","p2","m"]}`, size("d0", "length", w, "l0"), size("d1", "length", h, "l1")}
	k = append(k, place("m", x, y, at)...)
	return sketch(id, plane, e, k)
}

// place ties a point to the origin, or at distances from it.
func place(p, x, y string, at [2]float64) []string {
	axis := func(id, kind, along, across string, v string, now float64) string {
		if now == 0 {
			return fmt.Sprintf(`{"id":%q,"kind":"on-curve","of":[%q,%q]}`, id, p, across)
		}
		return size(id, kind, v, "origin", p)
	}
	if at == [2]float64{} {
		return []string{fmt.Sprintf(`{"id":"o%s","kind":"coincident","of":[%q,"origin"]}`, p, p)}
	}
	return []string{axis("ox"+p, "horizontal-distance", "x-axis", "y-axis", x, at[0]),
		axis("oy"+p, "vertical-distance", "y-axis", "x-axis", y, at[1])}
}

func size(id, kind, value string, of ...string) string {
	return fmt.Sprintf(`{"id":%q,"kind":%q,"of":["%s"],"value":%q}`, id, kind, strings.Join(of, `","`), value)
}

func sketch(id, plane string, entities, constraints []string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"sketch","name":%q,"plane":%s,"entities":[%s],"constraints":[%s]}`, id,
		id+" outline", plane, strings.Join(entities, ","), strings.Join(constraints, ","))
}

// circles is a sketch of circles about one point, by diameters.
func circles(id, plane, x, y string, at [2]float64, dia ...any) string {
	e := []string{fmt.Sprintf(`{"id":"m","kind":"point","at":[%g,%g]}`, at[0], at[1])}
	k := place("m", x, y, at)
	for i := 0; i+1 < len(dia); i += 2 {
		c := fmt.Sprintf("c%d", i/2)
		e = append(e, fmt.Sprintf(`{"id":%q,"kind":"circle","center":"m","radius":%g}`, c, dia[i+1].(float64)/2))
		k = append(k, size("d"+c, "diameter", dia[i].(string), c))
	}
	return sketch(id, plane, e, k)
}

// spot is a sketch of one point.
func spot(id, plane, x, y string, at [2]float64) string {
	return sketch(id, plane, []string{fmt.Sprintf(`{"id":"p","kind":"point","at":[%g,%g]}`, at[0], at[1])},
		place("p", x, y, at))
}

// corners is a sketch of four points px by py about the origin.
func corners(id, plane, px, py string, now [2]float64) string {
	a, b := now[0]/2, now[1]/2
	var e []string
	for i, q := range [][2]float64{{-a, -b}, {a, -b}, {a, b}, {-a, b}} {
		e = append(e, fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%g,%g]}`, i, q[0], q[1]))
	}
	return sketch(id, plane, e, []string{`{"id":"k0","kind":"symmetric","of":["p0","p1","y-axis"]}`,
		`{"id":"k1","kind":"symmetric","of":["p3","p2","y-axis"]}`, `{"id":"k2","kind":"symmetric","of":["p0","p3",
	"x-axis"]}`,
		size("dx", "horizontal-distance", px, "p0", "p1"), size("dy", "vertical-distance", py, "p0", "p3")})
}

// half is half of the section of a turned part on the x axis: diameters and lengths.
func half(id string, steps ...any) string {
	var e, k []string
	n, x := 0, 0.0
	point := func(x, y float64) string {
		e = append(e, fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%g,%g]}`, n, x, y))
		n++
		return fmt.Sprintf("p%d", n-1)
	}
	line := func(id, a, b string) {
		e = append(e, fmt.Sprintf(`{"id":%q,"kind":"line","from":%q,"to":%q}`, id, a, b))
	}
	first := point(0, 0)
	last := first
	for i := 0; i+3 < len(steps); i += 4 {
		d, dv, l, lv := steps[i].(string), steps[i+1].(float64), steps[i+2].(string), steps[i+3].(float64)
		j := i / 4
		a := point(x, dv/2)
		line(fmt.Sprintf("v%d", j), last, a)
		x += lv
		b := point(x, dv/2)
		line(fmt.Sprintf("h%d", j), a, b)
		k = append(k, fmt.Sprintf(`{"id":"kv%d","kind":"vertical","of":["v%d"]}`, j, j),
			fmt.Sprintf(`{"id":"kh%d","kind":"horizontal","of":["h%d"]}`, j, j),
			size(fmt.Sprintf("dd%d", j), "distance", "("+d+")/2", a, "x-axis"), size(fmt.Sprintf("dl%d", j), "length", l,
				fmt.Sprintf("h%d", j)))
		last = b
	}
	end := point(x, 0)
	line("end", last, end)
	line("axis", end, first)
	k = append(k, `{"id":"ke","kind":"vertical","of":["end"]}`, `{"id":"ka","kind":"horizontal","of":["axis"]}`,
		fmt.Sprintf(`{"id":"ko","kind":"coincident","of":[%q,"origin"]}`, first))
	return sketch(id, `{"datum":"XZ"}`, e, k)
}

func extrude(id, sk, name, extent, more string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"extrude","name":%q,"sketch":%q,"regions":"all","extent":%s%s}`, id, name,
		sk, extent, more)
}

func one(l string) string { return fmt.Sprintf(`{"kind":"one-side","length":%q}`, l) }

const (
	through = `{"kind":"through"}`
	onXY    = `{"datum":"XY"}`
	onTop   = `{"face":"e1/end"}`
)

// char is one characteristic; places are separated by commas, operands by semicolons.
func char(id, kind, of, parameter string) exercise.Characteristic {
	c := exercise.Characteristic{ID: id, Kind: kind, Label: id, Parameter: parameter}
	for _, p := range strings.Split(of, ",") {
		c.Of = append(c.Of, address.List(strings.Split(strings.TrimSpace(p), ";")...))
	}
	return c
}

func params(list ...string) string {
	var out []string
	for i := 0; i+1 < len(list); i += 2 {
		out = append(out, fmt.Sprintf(`{"name":%q,"value":%q}`, list[i], list[i+1]))
	}
	return strings.Join(out, ",")
}

// tasks are the exercises of the corpus: the demo's two and six of its own.
func tasks() ([]task, error) {
	var out []task
	for _, name := range []string{"bearing-bracket", "gland-flange"} {
		b, err := demo.Bundle(name)
		if err != nil {
			return nil, err
		}
		ref, err := documents.ReadReference(b.Reference)
		if err != nil {
			return nil, err
		}
		out = append(out, task{name: name, ex: b.Parsed, ref: ref, data: b.Reference})
	}
	var failed error
	add := func(name, unit, parameters string, steps []string, chars ...exercise.Characteristic) {
		ex := &exercise.Exercise{Hammerset: exercise.Version, Kind: exercise.Part, Sheets: []exercise.Sheet{{}}, Title: name,
			Unit: unit, Reference: "reference.json", Solids: 1, Rubric: exercise.Rubric{Characteristics: 80, WholePart: 20},
			Characteristics: chars}
		for i := range ex.Characteristics {
			ex.Characteristics[i].Balloon = i + 1
		}
		data := []byte(fmt.Sprintf(`{"hammerset":"model/1","name":%q,"unit":%q,"parameters":[%s],"steps":[%s]}`, name, unit,
			parameters, strings.Join(steps, ",")))
		ref, err := documents.ReadReference(data)
		if err == nil {
			err = ex.Check()
		}
		if err != nil {
			failed = fmt.Errorf("%s: %w", name, err)
			return
		}
		out = append(out, task{name: name, ex: ex, ref: ref, data: data})
	}
	add("pawl plate", "mm", params("w", "96 mm", "h", "58 mm", "t", "12 mm", "px", "76 mm", "py", "38 mm", "d", "7 mm",
		"pw", "40 mm", "ph", "22 mm", "deep", "5 mm", "r", "8 mm"), []string{
		rect("s1", onXY, "w", "h", [2]float64{96, 58}, "", "", [2]float64{}), extrude("e1", "s1", "plate", one("t"), ""),
		corners("s2", onTop, "px", "py", [2]float64{76, 38}), `{"id":"h1","kind":"hole","name":"corner holes","sketch":"s2",
	"at":["p0","p1","p2","p3"],"diameter":"d"}`,
		rect("s3", onTop, "pw", "ph", [2]float64{40, 22}, "", "", [2]float64{}), extrude("e2", "s3", "pocket", one("deep"),
			`,"result":"cut"`),
		`{"id":"f1","kind":"fillet","name":"corners","radius":"r","edges":[{"between":["e1/side:l0","e1/side:l1"]},
	{"between":["e1/side:l1","e1/side:l2"]},{"between":["e1/side:l2","e1/side:l3"]},{"between":["e1/side:l3",
	"e1/side:l0"]}]}`},
		char("width", "distance", "e1/side:l1;e1/side:l3", "w"), char("height", "distance", "e1/side:l0;e1/side:l2", "h"),
		char("thickness", "distance", "e1/start;e1/end", "t"), char("holes", "diameter", "h1.*/bore", "d"),
		char("pitch across", "distance", "h1.p0/bore;h1.p1/bore,h1.p3/bore;h1.p2/bore", "px"),
		char("pitch along", "distance", "h1.p0/bore;h1.p3/bore,h1.p1/bore;h1.p2/bore", "py"),
		char("pocket width", "distance", "e2/side:l1;e2/side:l3", "pw"),
		char("pocket height", "distance", "e2/side:l0;e2/side:l2", "ph"), char("pocket depth", "distance", "e2/end;e1/end",
			"deep"), char("corners", "radius", "f1/round*", "r"))
	add("winch spindle", "mm", params("d1", "30 mm", "l1", "24 mm", "d2", "44 mm", "l2", "36 mm", "neck", "22 mm", "nl",
		"5 mm", "d3", "26 mm", "l3", "28 mm", "pin", "8 mm", "at", "12 mm", "c", "1.5 mm"), []string{
		half("s1", "d1", 30.0, "l1", 24.0, "d2", 44.0, "l2", 36.0, "neck", 22.0, "nl", 5.0, "d3", 26.0, "l3", 28.0),
		`{"id":"r1","kind":"revolve","name":"body","sketch":"s1","regions":"all","axis":{"line":"x-axis"}}`,
		circles("s2", `{"datum":"XY"}`, "at", "", [2]float64{12, 0}, "pin", 8.0),
		extrude("e2", "s2", "pin hole", `{"kind":"through","both":true}`, `,"result":"cut"`),
		`{"id":"c1","kind":"chamfer","name":"end chamfers","distance":"c","edges":[{"between":["r1/side:v0","r1/side:h0"]},
	{"between":["r1/side:h3","r1/side:end"]}]}`},
		char("first", "diameter", "r1/side:h0", "d1"), char("first length", "distance", "r1/side:v0;r1/side:v1", "l1"),
		char("collar", "diameter", "r1/side:h1", "d2"), char("collar length", "distance", "r1/side:v1;r1/side:v2", "l2"),
		char("neck", "diameter", "r1/side:h2", "neck"), char("neck length", "distance", "r1/side:v2;r1/side:v3", "nl"),
		char("last", "diameter", "r1/side:h3", "d3"), char("last length", "distance", "r1/side:v3;r1/side:end", "l3"),
		char("pin", "diameter", "e2/side:c0", "pin"), char("pin from end", "distance", "e2/side:c0;r1/side:v0", "at"),
		char("chamfers", "chamfer", "c1/bevel*", "c"))
	add("rack stop", "mm", params("w", "70 mm", "d", "52 mm", "t", "10 mm", "uw", "46 mm", "ut", "12 mm", "uh", "40 mm",
		"web", "7 mm", "foot", "22 mm", "top", "30 mm", "bore", "14 mm", "up", "24 mm"), []string{
		rect("s1", onXY, "w", "d", [2]float64{70, 52}, "", "", [2]float64{}), extrude("e1", "s1", "base", one("t"), ""),
		rect("s2", onTop, "uw", "ut", [2]float64{46, 12}, "", "(d-ut)/2", [2]float64{0, 20}),
		extrude("e2", "s2", "upright", one("uh"), ""),
		sketch("s3", `{"datum":"YZ"}`, []string{`{"id":"a","kind":"point","at":[-8,10]}`, `{"id":"b","kind":"point","at":[14,
	40]}`, `{"id":"l","kind":"line","from":"a","to":"b"}`},
			[]string{size("da", "horizontal-distance", "foot", "a", "b"), size("ya", "vertical-distance", "t", "origin", "a"),
				size("xb", "horizontal-distance", "d/2-ut", "origin", "b"), size("yb", "vertical-distance", "top", "a", "b")}),
		`{"id":"b1","kind":"rib","name":"web","sketch":"s3","thickness":"web","reverse":true}`,
		circles("s4", `{"face":"e2/side:l2"}`, "", "t+up", [2]float64{0, 34}, "bore", 14.0),
		extrude("e4", "s4", "bore", through, `,"result":"cut"`)},
		char("width", "distance", "e1/side:l1;e1/side:l3", "w"), char("depth", "distance", "e1/side:l0;e1/side:l2", "d"),
		char("base", "distance", "e1/start;e1/end", "t"), char("upright width", "distance", "e2/side:l1;e2/side:l3", "uw"),
		char("upright thickness", "distance", "e2/side:l0;e2/side:l2", "ut"),
		char("upright height", "distance", "e1/end;e2/end", "uh"), char("web", "distance", "b1/start;b1/end", "web"),
		char("bore", "diameter", "e4/side:c0", "bore"), char("bore height", "distance", "e4/side:c0;e1/end", "up"))
	add("drain bend", "mm", params("od", "34 mm", "id", "26 mm", "up", "60 mm", "bend", "40 mm", "out", "50 mm", "fd",
		"78 mm", "ft", "9 mm", "pcd", "58 mm", "bolt", "8 mm"), []string{
		sketch("s0", `{"datum":"XZ"}`, []string{`{"id":"a","kind":"point","at":[0,0]}`, `{"id":"b","kind":"point","at":[0,
	60]}`, `{"id":"m","kind":"point","at":[40,60]}`, `{"id":"c","kind":"point","at":[40,100]}`, `{"id":"e","kind":"point",
	"at":[90,100]}`,
			`{"id":"l1","kind":"line","from":"a","to":"b"}`, `{"id":"q","kind":"arc","center":"m","start":"c","end":"b"}`,
			`{"id":"l2","kind":"line","from":"c","to":"e"}`},
			[]string{`{"id":"k0","kind":"coincident","of":["a","origin"]}`, `{"id":"k1","kind":"vertical","of":["l1"]}`,
				`{"id":"k2","kind":"horizontal","of":["l2"]}`, `{"id":"t1","kind":"tangent","of":["l1","q"]}`,
				`{"id":"t2","kind":"tangent","of":["l2","q"]}`,
				size("d1", "length", "up", "l1"), size("d2", "radius", "bend", "q"), size("d3", "length", "out", "l2")}),
		circles("s1", onXY, "", "", [2]float64{}, "od", 34.0, "id", 26.0), `{"id":"w1","kind":"sweep","name":"pipe",
	"sketch":"s1","regions":"all","path":"s0"}`,
		circles("s2", onXY, "", "", [2]float64{}, "fd", 78.0, "od", 34.0), extrude("e2", "s2", "flange", one("ft"), ""),
		spot("s3", `{"face":"e2/end"}`, "pcd/2", "", [2]float64{29, 0}), `{"id":"h1","kind":"hole","name":"bolt hole",
	"sketch":"s3","at":["p"],"diameter":"bolt"}`,
		`{"id":"c1","kind":"circular-pattern","name":"bolt circle","of":["h1"],"axis":{"datum":"Z"},"count":"4"}`},
		char("outside", "diameter", "w1/side:c0~l2", "od"), char("inside", "diameter", "w1/side:c1~l2", "id"),
		char("flange", "diameter", "e2/side:c0", "fd"), char("flange thickness", "distance", "e2/start;e2/end", "ft"),
		char("bolts", "diameter", "*h1.p/bore", "bolt"), char("bolt circle", "bolt-circle", "e2/side:c0;*h1.p/bore", "pcd"),
		char("reach", "distance", "w1/end;e2/side:c0", ""), char("rise", "distance", "e2/start;w1/side:c0~l2", ""))
	add("hand-hole cover", "mm", params("D", "120 mm", "t", "10 mm", "hub", "50 mm", "high", "14 mm", "bore", "20 mm",
		"pcd", "92 mm", "bolt", "9 mm", "n", "6", "rim", "2 mm", "foot", "4 mm"), []string{
		circles("s1", onXY, "", "", [2]float64{}, "D", 120.0), extrude("e1", "s1", "disc", one("t"), ""),
		circles("s2", onTop, "", "", [2]float64{}, "hub", 50.0), extrude("e2", "s2", "hub", one("high"), ""),
		circles("s3", `{"face":"e2/end"}`, "", "", [2]float64{}, "bore", 20.0),
		extrude("e3", "s3", "bore", through, `,"result":"cut"`), spot("s4", onTop, "pcd/2", "", [2]float64{46, 0}),
		`{"id":"h1","kind":"hole","name":"bolt hole","form":"counterbore","headDiameter":"16 mm","headDepth":"4 mm",
	"sketch":"s4","at":["p"],"diameter":"bolt"}`, `{"id":"p1","kind":"circular-pattern","name":"bolt circle","of":["h1"],
	"axis":{"datum":"Z"},"count":"n"}`,
		`{"id":"f1","kind":"fillet","name":"hub foot","radius":"foot","edges":[{"between":["e1/end","e2/side:c0"]}]}`,
		`{"id":"c1","kind":"chamfer","name":"rim chamfer","distance":"rim","edges":[{"between":["e1/start","e1/side:c0"]}]}`},
		char("cover", "diameter", "e1/side:c0", "D"), char("thickness", "distance", "e1/start;e1/end", "t"),
		char("hub", "diameter", "e2/side:c0", "hub"), char("hub height", "distance", "e1/end;e2/end", "high"),
		char("bore", "diameter", "e3/side:c0", "bore"),
		char("bolts", "diameter", "*h1.p/bore", "bolt"), char("bolt circle", "bolt-circle", "e3/side:c0;*h1.p/bore", "pcd"),
		char("spacing", "spacing", "e3/side:c0;*h1.p/bore", ""), char("head", "diameter", "*h1.p/head", ""),
		char("foot", "radius", "f1/round*", "foot"), char("rim", "chamfer", "c1/bevel*", "rim"))
	add("guide block", "in", params("w", "3 1/2 in", "d", "2 1/4 in", "h", "1 1/2 in", "gw", "1 1/8 in", "gd", "5/8 in",
		"hole", "3/8 in", "px", "2 3/4 in", "cut", "1/8 in"), []string{
		rect("s1", onXY, "w", "d", [2]float64{3.5, 2.25}, "", "", [2]float64{}), extrude("e1", "s1", "block", one("h"), ""),
		rect("s2", `{"datum":"XZ"}`, "gw", "gd", [2]float64{1.125, 0.625}, "", "h - gd/2", [2]float64{0, 1.1875}),
		extrude("e2", "s2", "groove", `{"kind":"through","both":true}`, `,"result":"cut"`),
		corners("s3", `{"face":"e1/start"}`, "px", "d - 1 in", [2]float64{2.75, 1.25}),
		`{"id":"h1","kind":"hole","name":"holes","sketch":"s3","at":["p0","p1","p2","p3"],"diameter":"hole"}`,
		`{"id":"c1","kind":"chamfer","name":"edge chamfers","distance":"cut","edges":[{"between":["e1/end","e1/side:l1"]},
	{"between":["e1/end","e1/side:l3"]}]}`},
		char("width", "distance", "e1/side:l1;e1/side:l3", "w"), char("depth", "distance", "e1/side:l0;e1/side:l2", "d"),
		char("height", "distance", "e1/start;e1/end", "h"), char("groove", "distance", "e2/side:l1;e2/side:l3", "gw"),
		char("groove depth", "distance", "e2/side:l0;e1/end", "gd"),
		char("holes", "diameter", "h1.*/bore", "hole"),
		char("pitch", "distance", "h1.p0/bore;h1.p1/bore,h1.p3/bore;h1.p2/bore", "px"),
		char("bevels", "chamfer", "c1/bevel*", "cut"))
	for i := range out {
		switch out[i].name {
		case "drain bend":
			out[i].less = [][2]string{{"id", "od"}}
		case "rack stop":
			out[i].less = [][2]string{{"up", "uh"}}
		case "guide block":
			out[i].less = [][2]string{{"px + hole", "w"}}
		}
	}
	return out, failed
}
