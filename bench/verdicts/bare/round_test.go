package bare

import (
	"math"

	"hammerset/core/solid"
)

// counts are rings with another number of holes, evenly spaced.
func counts(of, name, out, open, says string, list ...string) []change {
	var all []change
	for _, n := range list {
		all = append(all, change{"count", n + " " + name, of, out, open, says})
	}
	return all
}

// number is how many holes a ring has.
func (v variant) number(n int, name string) int {
	for i := 2; i <= 12; i++ {
		if v.is(words[i] + " " + name) {
			return i
		}
	}
	return n
}

var words = []string{2: "two", 3: "three", 4: "four", 5: "five", 6: "six", 7: "seven", 8: "eight", 12: "twelve", 9: "",
	10: "", 11: ""}

func cover() model {
	const note = "bolts head"
	return model{exercise: "hand-hole-cover",
		sizes: []size{{"D", 120, "cover", "disc", more}, {"t", 10, "thick", "disc", usual}, {"hub", 50, "hub", "hub", slim},
			{"high", 14, "high", "hub", usual}, {"bore", 20, "bore", "bore", half}, {"pcd", 92, "circle", "ring", slim},
			{"bolt", 9, "bolts", "bolts", less}, {"head", 16, "head", "heads", slim}, {"head_d", 4, "head_d", "heads", half},
			{"foot", 4, "foot", "foot", half}, {"rim", 2, "rim", "rim", bold}},
		changes: append([]change{
			{"feature", "no heads", "heads", "head head_d", "", "counterbore.*missing"},
			{"side", "heads below", "heads", "head_d", "head", "counterbore.*(side|below|bottom|other)"},
			{"form", "heads conical", "heads", "head head_d", "", "countersink|cone|conical"},
			{"feature", "no bolts", "heads bolts ring", note + " head_d circle spacing count", "",
				"bolt (hole|circle).*missing"},
			{"count", "one bolt missing", "heads bolts ring", note + " head_d count spacing", "circle", "one.*missing"},
			{"feature", "no foot", "foot", "foot", "", "foot.*missing"},
			{"form", "foot bevelled", "foot", "foot", "", "chamfer|bevel"},
			{"feature", "no rim", "rim", "rim", "", "rim.*missing"},
			{"side", "rim above", "rim", "", "rim", "rim|chamfer"},
			{"form", "rim round", "rim", "rim", "", "round|fillet"},
			{"side", "bore blind", "bore", "", "", "bore.*(through|blind|deep)"},
			{"side", "bolts blind", "bolts", "", "", "bolt (hole|circle).*(through|blind|deep)"},
			{"place", "bore aside", "bore", "", "circle spacing", "bore stands"},
			{"feature", "extra hole", "extra", "", "bolts", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
		}, counts("heads bolts ring", "bolts", note+" count spacing", "circle head_d", "pattern has", "three", "five",
			"eight", "twelve")...),
		build: func(s *shop, v variant) solid.Shape {
			r, t, h := v.s("D")/2, v.s("t"), v.s("hub")/2
			o := from(0, 0)
			switch rim := v.s("rim"); {
			case v.is("no rim") || v.is("rim above"):
				o.to(r, 0)
			case v.is("rim round"):
				o.to(r-rim, 0).arc(r-rim, rim, r, rim)
			default:
				o.to(r-rim, 0).to(r, rim)
			}
			if v.is("rim above") {
				o.to(r, t-v.s("rim")).to(r-v.s("rim"), t)
			} else {
				o.to(r, t)
			}
			switch q := v.s("foot"); {
			case v.is("no foot"):
				o.to(h, t)
			case v.is("foot bevelled"):
				o.to(h+q, t).to(h, t+q)
			default:
				o.to(h+q, t).arc(h+q, t+q, h, t+q)
			}
			b := s.turned(o.to(h, t+v.s("high")).to(0, t+v.s("high")))
			deep := pick(v.is("bore blind"), t, t+v.s("high")+1)
			at := []solid.Vec{{pick(v.is("bore aside"), 2.0, 0), 0, t + v.s("high")}}
			tools := s.drill(at, down, hole{d: v.s("bore"), deep: deep})
			bolt := hole{d: v.s("bolt"), deep: pick(v.is("bolts blind"), 7, t+1)}
			if !v.is("no heads") && !v.is("heads below") {
				bolt.head, bolt.sunk, bolt.conical = v.s("head"), v.s("head_d"), v.is("heads conical")
			}
			places := ring(v.number(6, "bolts"), v.s("pcd"), t)
			places = only(places, v.is("no bolts"), v.is("one bolt missing"))
			tools = append(tools, s.drill(places, down, bolt)...)
			if v.is("heads below") {
				tools = append(tools, s.drill(shifted(places, solid.Vec{0, 0, -t}, true), up,
					hole{d: v.s("head"), deep: v.s("head_d")})...)
			}
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{0, 34, t}}, down, hole{d: 5, deep: t + 1})...)
			}
			return s.cut(b, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"cover": v.s("D"), "thick": v.s("t"), "hub": v.s("hub"), "high": v.s("high"),
				"bore": v.s("bore"), "bolts": v.s("bolt"), "head": v.s("head"), "head_d": v.s("head_d"), "circle": v.s("pcd"),
				"spacing": 60 * degree, "count": 6, "foot": v.s("foot"), "rim": v.s("rim"), "one": 1}
		},
	}
}

func flange() model {
	return model{exercise: "gland-flange",
		sizes: []size{{"D", 4 * inch, "D", "plate", more}, {"plate", 0.625 * inch, "plate", "plate", usual},
			{"long", 2.5 * inch, "long", "hub", more}, {"hub", 2.25 * inch, "hub", "hub", slim},
			{"bore", 1.25 * inch, "bore", "bore", half}, {"pocket", 1.625 * inch, "pocket", "pocket", slim},
			{"pocket_deep", 0.75 * inch, "pocket_deep", "pocket", half}, {"groove", 2 * inch, "groove", "groove", slim},
			{"groove_wide", 0.1875 * inch, "groove_wide", "groove", bold}, {"groove_at", 0.5 * inch, "groove_at", "groove",
				usual},
			{"bolt", 0.375 * inch, "bolt", "bolts", half}, {"circle", 3.125 * inch, "circle", "bolts", slim},
			{"nose", 0.125 * inch, "nose", "nose", bold}, {"rim", 0.0625 * inch, "rim", "rim", bold}},
		changes: append([]change{
			{"feature", "no pocket", "pocket", "pocket pocket_deep", "", "pocket"},
			{"side", "pocket far", "pocket", "pocket_deep", "pocket", "pocket"},
			{"feature", "no groove", "groove", "groove groove_wide groove_at", "", "groove.*missing"},
			{"feature", "no nose", "nose", "nose", "", "nose.*missing"},
			{"form", "nose round", "nose", "nose", "", "round|fillet"},
			{"feature", "no rims", "rim", "rim", "", "chamfers.*missing"},
			{"count", "one rim missing", "rim", "rim", "", "(one|1 of 2).*missing"},
			{"form", "rims round", "rim", "rim", "", "round|fillet"},
			{"feature", "no bolts", "bolts", "bolt circle spacing", "", "bolt (hole|circle).*missing"},
			{"count", "one bolt missing", "bolts", "bolt spacing", "circle", "one.*missing"},
			{"side", "bolts blind", "bolts", "", "", "bolt (hole|circle).*(through|blind|deep)"},
			{"side", "bore blind", "bore", "", "", "bore.*(through|blind|deep)|closes a bore"},
			{"feature", "extra groove", "extra", "", "groove", "not on the sheet|extra"},
			{"feature", "extra hole", "extra", "", "", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
		}, counts("bolts", "bolts", "bolt spacing", "circle", "pattern has", "three", "five", "eight", "twelve")...),
		build: func(s *shop, v variant) solid.Shape {
			r, p, l, h := v.s("D")/2, v.s("plate"), v.s("long"), v.s("hub")/2
			o := from(v.s("bore")/2, 0)
			q := v.s("rim")
			corner := func(x, y, dx, dy, ex, ey, q float64, none, round bool) {
				switch {
				case none:
					o.to(x, y)
				case round:
					o.to(x+dx*q, y+dy*q).arc(x+(dx+ex)*q, y+(dy+ey)*q, x+ex*q, y+ey*q)
				default:
					o.to(x+dx*q, y+dy*q).to(x+ex*q, y+ey*q)
				}
			}
			corner(r, 0, -1, 0, 0, 1, q, v.is("no rims"), v.is("rims round"))
			corner(r, p, 0, -1, -1, 0, q, v.is("no rims") || v.is("one rim missing"), v.is("rims round"))
			o.to(h, p)
			if v.is("extra groove") {
				o.to(h, p+8).to(h-2, p+8).to(h-2, p+12).to(h, p+12)
			}
			if !v.is("no groove") {
				a, g := l-v.s("groove_at"), v.s("groove")/2
				o.to(h, a-v.s("groove_wide")).to(g, a-v.s("groove_wide")).to(g, a).to(h, a)
			}
			corner(h, l, 0, -1, -1, 0, v.s("nose"), v.is("no nose"), v.is("nose round"))
			o.to(v.s("bore")/2, l)
			b := s.turned(o)
			if v.is("bore blind") {
				b = s.union(b, s.rod(solid.Vec{0, 0, l - 8}, solid.Vec{0, 0, 8}, v.s("bore")+0.5))
			}
			bolt := hole{d: v.s("bolt"), deep: pick(v.is("bolts blind"), p*0.7, p+1)}
			at := only(ring(v.number(6, "bolts"), v.s("circle"), 0), v.is("no bolts"), v.is("one bolt missing"))
			tools := s.drill(at, up, bolt)
			pocket := hole{d: v.s("pocket"), deep: v.s("pocket_deep")}
			switch {
			case v.is("pocket far"):
				tools = append(tools, s.drill([]solid.Vec{{0, 0, l}}, down, pocket)...)
			case !v.is("no pocket"):
				tools = append(tools, s.drill([]solid.Vec{{}}, up, pocket)...)
			}
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{0, 33, 0}}, up, hole{d: 4, deep: p + 1})...)
			}
			return s.cut(b, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"D": v.s("D"), "plate": v.s("plate"), "long": v.s("long"), "hub": v.s("hub"),
				"bore": v.s("bore"), "pocket": v.s("pocket"), "pocket_deep": v.s("pocket_deep"), "groove": v.s("groove"),
				"groove_wide": v.s("groove_wide"), "groove_at": v.s("groove_at"), "bolt": v.s("bolt"), "circle": v.s("circle"),
				"spacing": 60 * degree, "nose": v.s("nose"), "rim": v.s("rim"), "one": 1}
		},
	}
}

func spindle() model {
	return model{exercise: "winch-spindle",
		sizes: []size{{"d1", 30, "first", "journal", slim}, {"l1", 24, "first_l", "journal", usual},
			{"d2", 44, "collar", "collar", usual}, {"l2", 36, "collar_l", "collar", bold}, {"neck", 22, "neck", "neck", slim},
			{"nl", 5, "neck_l", "neck", bold}, {"d3", 26, "last", "seat", slim}, {"l3", 28, "last_l", "seat", bold},
			{"pin", 8, "pin", "pin", half}, {"at", 12, "pin_at", "pin", slim}, {"c", 1.5, "bevels", "bevels", half}},
		changes: []change{
			{"feature", "no pin", "pin", "pin pin_at", "", "pin hole.*missing"},
			{"side", "pin blind", "pin", "", "", "pin hole.*(through|blind|deep|side)"},
			{"place", "pin aside", "pin", "", "", "pin hole stands 2"},
			{"side", "pin in the seat", "pin", "pin_at", "pin", "pin hole"},
			{"feature", "no bevels", "bevels", "bevels", "", "chamfers.*missing"},
			{"count", "one bevel missing", "bevels", "bevels", "", "(one|1 of 2).*missing"},
			{"form", "bevels round", "bevels", "bevels", "", "round|fillet"},
			{"feature", "no neck", "neck seat", "neck neck_l", "last_l", "neck"},
			{"feature", "extra hole", "extra", "", "", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
			{"feature", "extra groove", "extra", "", "collar collar_l", "not on the sheet|extra"},
		},
		build: func(s *shop, v variant) solid.Shape {
			a, b, c := v.s("l1"), v.s("l1")+v.s("l2"), v.s("c")
			n := b + v.s("nl")
			l := n + v.s("l3")
			o := from(0, 0)
			switch r := v.s("d1") / 2; {
			case v.is("no bevels") || v.is("one bevel missing"):
				o.to(r, 0)
			case v.is("bevels round"):
				o.to(r-c, 0).arc(r-c, c, r, c)
			default:
				o.to(r-c, 0).to(r, c)
			}
			o.to(v.s("d1")/2, a).to(v.s("d2")/2, a)
			if v.is("extra groove") {
				o.to(v.s("d2")/2, a+10).to(v.s("d2")/2-3, a+10).to(v.s("d2")/2-3, a+14).to(v.s("d2")/2, a+14)
			}
			o.to(v.s("d2")/2, b)
			if v.is("no neck") {
				o.to(v.s("d3")/2, b)
			} else {
				o.to(v.s("neck")/2, b).to(v.s("neck")/2, n).to(v.s("d3")/2, n)
			}
			switch r := v.s("d3") / 2; {
			case v.is("no bevels"):
				o.to(r, l)
			case v.is("bevels round"):
				o.to(r, l-c).arc(r-c, l-c, r-c, l)
			default:
				o.to(r, l-c).to(r-c, l)
			}
			out := s.turned(o.to(0, l))
			if v.is("no pin") {
				return out
			}
			z := pick(v.is("pin in the seat"), l-v.s("at"), v.s("at"))
			deep := pick(v.is("pin blind"), 25, v.s("d1")+30)
			at := []solid.Vec{{pick(v.is("pin aside"), 2.0, 0), -25, z}}
			tools := s.drill(at, back, hole{d: v.s("pin"), deep: deep})
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{0, 0, l}}, down, hole{d: 5, deep: 12})...)
			}
			return s.cut(out, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"first": v.s("d1"), "first_l": v.s("l1"), "collar": v.s("d2"), "collar_l": v.s("l2"),
				"neck": v.s("neck"), "neck_l": v.s("nl"), "last": v.s("d3"), "last_l": v.s("l3"), "pin": v.s("pin"),
				"pin_at": v.s("at"), "bevels": v.s("c"), "true": 0, "one": 1}
		},
	}
}

func bend() model {
	return model{exercise: "drain-bend",
		sizes: []size{{"od", 34, "outside", "pipe", slim}, {"id", 26, "inside", "pipe", half}, {"fd", 78, "flange",
			"flange", more},
			{"ft", 9, "flange_t", "flange", usual}, {"bolt", 8, "bolts", "bolts", half}, {"pcd", 58, "circle", "bolts", slim},
			{"reach", 90, "reach", "outlet", usual}, {"rise", 100, "rise", "outlet", usual}, {"bend", 40, "bend", "bend", slim}},
		changes: append([]change{
			{"feature", "no flange", "flange bolts", "flange flange_t bolts circle", "reach rise", "flange.*missing"},
			{"feature", "no bolts", "bolts", "bolts circle", "", "bolt (hole|circle).*missing"},
			{"count", "one bolt missing", "bolts", "bolts", "circle", "one.*missing"},
			{"side", "bolts blind", "bolts", "", "", "bolt (hole|circle).*(through|blind|deep)"},
			{"place", "bolts half a pitch on", "bolts", "", "", "bolt (hole|circle).*(half|begin)"},
			{"feature", "pipe solid", "pipe", "inside", "", "missing|inside|solid"},
			{"form", "bolts with heads", "bolts", "", "bolts", "head|counterbore|not on the sheet"},
			{"feature", "extra hole", "extra", "", "", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
		}, counts("bolts", "bolts", "bolts", "circle", "pattern has", "three", "five", "six", "eight")...),
		build: func(s *shop, v variant) solid.Shape {
			r, up1 := v.s("bend"), v.s("rise")-v.s("bend")
			run := func(d float64) solid.Shape {
				at := raised(flat, up1)
				elbow := s.about(at, circle(d), solid.Vec{r, 0, up1}, solid.Vec{0, 1, 0}, math.Pi/2)
				return s.union(elbow, s.rod(solid.Vec{}, up.Scale(up1), d),
					s.rod(solid.Vec{r, 0, v.s("rise")}, solid.Vec{v.s("reach") - r, 0, 0}, d))
			}
			b := run(v.s("od"))
			if !v.is("no flange") {
				b = s.union(b, s.rod(solid.Vec{}, up.Scale(v.s("ft")), v.s("fd")))
			}
			if !v.is("pipe solid") {
				b = s.cut(b, run(v.s("id")))
			}
			if v.is("no flange") || v.is("no bolts") {
				return b
			}
			h := hole{d: v.s("bolt"), deep: pick(v.is("bolts blind"), 6, v.s("ft")+1)}
			if v.is("bolts with heads") {
				h.head, h.sunk = 12, 3
			}
			at := only(ring(v.number(4, "bolts"), v.s("pcd"), 0), false, v.is("one bolt missing"))
			if v.is("bolts half a pitch on") {
				turn := solid.Rotation(solid.Vec{}, up, math.Pi/4)
				for i := range at {
					at[i] = turn.Apply(at[i])
				}
			}
			tools := s.drill(shifted(at, up.Scale(v.s("ft")), true), down, h)
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{20, 20, 9}}, down, hole{d: 5, deep: 10})...)
			}
			return s.cut(b, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"outside": v.s("od"), "inside": v.s("id"),
				"flange": v.s("fd"), "flange_t": v.s("ft"), "bolts": v.s("bolt"), "circle": v.s("pcd"), "reach": v.s("reach"),
				"rise": v.s("rise"), "bend": v.s("bend"), "one": 1}
		},
	}
}
