package stock

import (
	"fmt"
	"strings"
)

// Sketches stand about the origin and are held by the names of sizes; what is written roughly is solved when the
// document is rebuilt.

// circle is a sketch of a circle about the origin.
func circle(id, diameter string) string {
	return sketch(id, `{"id":"m","kind":"point","at":[0,0]},{"id":"c0","kind":"circle","center":"m","radius":5}`,
		fmt.Sprintf(`{"id":"k0","kind":"coincident","of":["m","origin"]},
{"id":"d0","kind":"diameter","of":["c0"],"value":%q}`, diameter))
}

// hexagon is a sketch of a regular hexagon about the origin, with two corners on the x axis.
func hexagon(id, flats string) string {
	return sketch(id, points([][2]float64{{6, 0}, {3, 5}, {-3, 5}, {-6, 0}, {-3, -5}, {3, -5}}), fmt.Sprintf(
		`{"id":"k0","kind":"symmetric","of":["p0","p3","y-axis"]},{"id":"k1","kind":"symmetric","of":["p1","p2","y-axis"]},
{"id":"k2","kind":"symmetric","of":["p5","p4","y-axis"]},{"id":"k3","kind":"symmetric","of":["p1","p5","x-axis"]},
{"id":"k4","kind":"on-curve","of":["p0","x-axis"]},
{"id":"d0","kind":"vertical-distance","of":["p5","p1"],"value":%[1]q},
{"id":"d1","kind":"horizontal-distance","of":["p3","p0"],"value":"2*%[1]s/sqrt(3)"},
{"id":"d2","kind":"horizontal-distance","of":["p2","p1"],"value":"%[1]s/sqrt(3)"}`, flats))
}

// rectangle is a sketch of a rectangle about the origin.
func rectangle(id, long, wide string) string {
	return sketch(id, points([][2]float64{{-9, -3}, {9, -3}, {9, 3}, {-9, 3}}), fmt.Sprintf(
		`{"id":"k0","kind":"symmetric","of":["p0","p1","y-axis"]},{"id":"k1","kind":"symmetric","of":["p3","p2","y-axis"]},
{"id":"k2","kind":"symmetric","of":["p0","p3","x-axis"]},
{"id":"d0","kind":"horizontal-distance","of":["p0","p1"],"value":%q},
{"id":"d1","kind":"vertical-distance","of":["p0","p3"],"value":%q}`, long, wide))
}

// points are corners with the lines from each to the next.
func points(at [][2]float64) string {
	var out []string
	for i, p := range at {
		out = append(out, fmt.Sprintf(`{"id":"p%d","kind":"point","at":[%g,%g]}`, i, p[0], p[1]))
	}
	for i := range at {
		out = append(out, fmt.Sprintf(`{"id":"l%d","kind":"line","from":"p%[1]d","to":"p%d"}`, i, (i+1)%len(at)))
	}
	return strings.Join(out, ",")
}

const plane = `"plane":{"datum":"XY"}`

func sketch(id, entities, constraints string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"sketch",%s,"entities":[%s],"constraints":[%s]}`, id, plane, entities, constraints)
}

// on is a sketch on a face.
func on(sketch, face string) string {
	return strings.Replace(sketch, plane, fmt.Sprintf(`"plane":{"face":%q}`, face), 1)
}

func extrude(id, of, length, more string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"extrude","sketch":%q,"regions":"all","extent":{"kind":"one-side","length":%q}%s}`,
		id, of, length, more)
}

func through(id, of string) string {
	return fmt.Sprintf(`{"id":%q,"kind":"extrude","sketch":%q,"regions":"all","extent":{"kind":"through","both":true},
"result":"cut"}`, id, of)
}

func thread(face, size string) string {
	return fmt.Sprintf(`{"id":"t1","kind":"thread","faces":[%q],"thread":%q}`, face, size)
}
