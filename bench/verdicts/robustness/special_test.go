package robustness

import "strings"

// weaker is an edit of one exercise: what is done, and the sizes that are not followed by it. says is in the finding.
type weaker struct {
	exercise, kind, words string
	do                    func(d document)
	sizes, says           string // words, and parts of the finding, with a bar between
}

const (
	offset  = "a plane at a typed height"
	depth   = "a typed depth for through"
	side    = "grown to one side"
	hangs   = "hangs on what it should not"
	stays   = "stays where it should follow"
	oneWay  = "one of several by itself"
	openEnd = "no mistake"
)

// parameter gives a parameter another formula.
func parameter(name, formula string) func(document) {
	return func(d document) {
		for _, p := range list(d["parameters"]) {
			if p.text("name") == name {
				p["value"] = formula
				// What is worked out may stand before what it is worked out from.
			}
		}
	}
}

// constraint gives a constraint of a sketch another formula.
func constraint(sketch, id, formula string) func(document) {
	return func(d document) { one(list(d.step(sketch)["constraints"]), id)["value"] = formula }
}

// replaced takes constraints of a sketch away and puts others there.
func replaced(sketch, away string, by ...string) func(document) {
	return func(d document) {
		s := d.step(sketch)
		s.without("constraints", strings.Fields(away)...)
		s.with("constraints", by...)
	}
}

func plane(sketch, datum, height string) func(document) {
	return func(d document) { d.step(sketch)["plane"] = map[string]any{"datum": datum, "offset": height} }
}

func extent(step, kind, key, length string) func(document) {
	return func(d document) { d.step(step)["extent"] = map[string]any{"kind": kind, key: length} }
}

// apart makes a second step of the places of a step from the k-th on, with another value of a size.
func apart(step, places string, k int, size, value string) func(document) {
	return func(d document) {
		s := d.step(step)
		copied := map[string]any{}
		for key, v := range s {
			copied[key] = v
		}
		all := s[places].([]any)
		s[places], copied[places] = all[:k], all[k:]
		copied["id"], copied[size] = step+"b", value
		copied["name"] = s.text("name") + " too"
		d["steps"] = append(d["steps"].([]any), copied)
	}
}

// ring puts holes of a typed ring in the place of a circular pattern.
func ring(sketch, hole, pattern string, count int, radius float64, unit, across, along string) func(document) {
	return func(d document) {
		s := d.step(sketch)
		points, constraints := places(count, radius, unit, across, along)
		s["entities"], s["constraints"] = points, []any{}
		s.with("constraints", constraints...)
		var at []any
		for _, p := range points {
			at = append(at, p.(map[string]any)["id"])
		}
		d.step(hole)["at"] = at
		d.without("steps", pattern)
	}
}

const across, along = "horizontal-distance", "vertical-distance"

func specials() []weaker {
	return []weaker{
		{"pawl-plate", offset, "hole places", plane("s2", "XY", "12 mm"), "t", "12 mm in hole places"},
		{"pawl-plate", offset, "pocket outline", plane("s3", "XY", "12 mm"), "t", "12 mm in pocket outline"},
		{"pawl-plate", depth, "corner holes", extent("h1", "one-side", "length", "12 mm"), "t", "12 mm in corner holes"},
		{"pawl-plate", side, "plate outline", replaced("s1", "om", "hx "+across+" p0,origin 48 mm",
			"hy "+along+" p0,origin 29 mm"), "w h", "48 mm in plate outline"},
		{"pawl-plate", hangs, "spacing across on the width", parameter("px", "w - 20 mm"), "w",
			"spacing across|should stay"},
		{"pawl-plate", hangs, "pocket's depth on the thickness", parameter("deep", "t - 7 mm"), "t", "Pocket, depth|stay"},
		{"pawl-plate", hangs, "pocket's height on the spacing", parameter("ph", "py - 16 mm"), "py", "Pocket, height|stay"},
		{"pawl-plate", hangs, "holes on the thickness", parameter("d", "t - 5 mm"), "t", "Corner holes|stay"},
		{"pawl-plate", oneWay, "a round", apart("f1", "edges", 3, "radius", "8 mm"), "r", "8 mm in corners too"},
		{"pawl-plate", oneWay, "a hole", apart("h1", "at", 3, "diameter", "7 mm"), "d", "7 mm in corner holes too"},
		{"pawl-plate", openEnd, "the middle is fixed", replaced("s1", "om", "om fixed m"), "", ""},
		{"rack-stop", depth, "bore", extent("e4", "one-side", "length", "12 mm"), "ut top up", "12 mm in bore"},
		{"rack-stop", offset, "upright outline", plane("s2", "XY", "10 mm"), "t", "10 mm in upright outline"},
		{"rack-stop", hangs, "bore's height on the upright's", parameter("up", "uh - 16 mm"), "uh", "Bore|stay"},
		{"rack-stop", hangs, "screw's places on one another", parameter("sx", "sy + 1 mm"), "sy",
			"screw|stay|sx = sy + 1 mm"},
		{"rack-stop", hangs, "web's thickness on the base's", parameter("web", "t - 3 mm"), "t", "Web|stay"},
		{"rack-stop", stays, "screw place", constraint("s5", "oxp", "24 mm"), "w sx", "24 mm in screw place"},
		{"hand-hole-cover", stays, "bolt circle typed out", ring("s4", "h1", "p1", 6, 46, "mm", across, along), "n pcd",
			"bolt place"},
		{"hand-hole-cover", depth, "bore", extent("e3", "one-side", "length", "24 mm"), "t high", "24 mm in bore"},
		{"hand-hole-cover", offset, "hub outline", plane("s2", "XY", "10 mm"), "t", "10 mm in hub outline"},
		{"hand-hole-cover", hangs, "hub's foot on the rim", parameter("foot", "2*rim"), "rim", "foot|stay"},
		{"hand-hole-cover", hangs, "bore on the hub", parameter("bore", "hub - 30 mm"), "hub", "Bore|stay"},
		{"guide-block", stays, "groove's middle", constraint("s2", "oym", "1 3/16 in"), "h gd",
			"1 3/16 in in groove section"},
		{"guide-block", depth, "groove", extent("e2", "symmetric", "total", "2 1/4 in"), "d", "2 1/4 in in groove"},
		{"guide-block", stays, "spacing along", constraint("s3", "dy", "1 1/4 in"), "d", "1 1/4 in in hole places"},
		{"guide-block", hangs, "spacing across on the width", parameter("px", "w - 3/4 in"), "w", "stay"},
		{"guide-block", oneWay, "a chamfer", apart("c1", "edges", 1, "distance", "1/8 in"), "cut",
			"1/8 in in edge chamfers too"},
		{"bearing-bracket", stays, "boss", parameter("boss", "44 mm"), "bore", "oss|follow|44 mm in parameter boss"},
		{"bearing-bracket", stays, "spacing across", parameter("pitch_x", "96 mm"), "width", "follow"},
		{"bearing-bracket", stays, "upright's width", parameter("cheek", "56 mm"), "bore", "Upright|follow"},
		{"bearing-bracket", depth, "bore", extent("h1", "one-side", "length", "24 mm"), "wall", "24 mm in bore"},
		{"bearing-bracket", side, "upright outline", replaced("s2", "k2 d1", "hx "+across+" p1,origin 28 mm",
			"d1 length foot cheek", "k8 on-curve p2,x-axis"), "bore", "28 mm in upright outline"},
		{"drain-bend", stays, "bolt circle typed out", ring("s3", "h1", "c1", 4, 29, "mm", across, along), "pcd",
			"bolt place"},
		{"drain-bend", depth, "bolt hole", extent("h1", "one-side", "length", "9 mm"), "ft", "9 mm in bolt hole"},
		{"drain-bend", hangs, "bend on the height", parameter("bend", "up - 20 mm"), "up", "bend|stay"},
		{"gland-flange", stays, "pocket", parameter("pocket", "1 5/8 in"), "bore", "ocket|follow"},
		{"gland-flange", stays, "groove", parameter("groove", "2 in"), "hub", "roove|follow"},
		{"gland-flange", stays, "bolt circle typed out", ring("s2", "h1", "c1", 6, 1.5625, "in", across, along),
			"circle bolts", "bolt place"},
		{"winch-spindle", hangs, "neck's length on the pin's place", parameter("nl", "at - 7 mm"), "at", "eck|stay"},
		{"winch-spindle", hangs, "chamfer on the neck", parameter("c", "nl - 3.5 mm"), "nl", "hamfer|stay"},
		{"winch-spindle", depth, "pin hole", extent("e2", "symmetric", "total", "30 mm"), "d1", "30 mm in pin hole"},
		{"winch-spindle", stays, "radius typed", constraint("s1", "dd0", "15 mm"), "d1", "15 mm in half of the section"},
	}
}

// special are the edits that are made for one exercise alone.
func special(t *task) (out []*edit) {
	for _, w := range specials() {
		if w.exercise != t.name {
			continue
		}
		d := t.fresh()
		w.do(d)
		e := t.edit(d, w.kind, "%s", w.words)
		e.sizes = strings.Fields(w.sizes)
		if w.says != "" {
			e.finding = []string{"differs", "breaks", "half", "parameter-still", "parameter-missing"}
			e.says = strings.Split(w.says, "|")
		}
		out = append(out, e)
	}
	return out
}
