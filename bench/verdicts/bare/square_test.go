package bare

import (
	"math"

	"hammerset/core/solid"
)

func plate() model {
	return model{exercise: "pawl-plate",
		sizes: []size{{"w", 96, "width", "plate", usual}, {"h", 58, "height", "plate", more},
			{"t", 12, "thick", "plate", usual}, {"d", 7, "holes", "holes", half}, {"px", 76, "pitch_x", "holes", usual},
			{"py", 38, "pitch_y", "holes", slim}, {"pw", 40, "pocket_w", "pocket", half},
			{"ph", 22, "pocket_h", "pocket", half}, {"deep", 5, "pocket_d", "pocket", bold}, {"r", 8, "corner", "corners",
				half}},
		changes: []change{
			{"feature", "no holes", "holes", "holes pitch_x pitch_y", "", "corner holes.*(missing|not there)"},
			{"count", "one hole missing", "holes", "holes pitch_x pitch_y", "", "(one|1 of 4).*missing"},
			{"feature", "no pocket", "pocket", "pocket_w pocket_h pocket_d", "", "pocket.*missing"},
			{"feature", "corners sharp", "corners", "corner", "", "corners.*missing"},
			{"count", "one corner sharp", "corners", "corner", "", "(one|1 of 4).*missing"},
			{"form", "corners bevelled", "corners", "corner", "", "chamfer|bevel"},
			{"side", "pocket through", "pocket", "pocket_d", "", "pocket.*through"},
			{"side", "holes blind", "holes", "", "", "corner holes.*(through|blind|deep)"},
			{"place", "pocket aside", "pocket", "", "", "pocket stands 3"},
			{"place", "holes aside", "holes", "", "", "corner holes stands? 2"},
			{"form", "holes slotted", "holes", "", "holes pitch_x pitch_y", "slot|long"},
			{"form", "holes with heads", "holes", "", "holes", "head|counterbore|not on the sheet"},
			{"feature", "extra hole", "extra", "", "", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
			{"feature", "extra boss", "extra", "", "pocket_d", "not on the sheet.*(cylind|round)|extra.*boss"},
		},
		build: func(s *shop, v variant) solid.Shape {
			sharp := pick(v.is("one corner sharp"), []int{0}, nil)
			r := pick(v.is("corners sharp"), 0, v.s("r"))
			b := s.prism(flat, rectangle(0, 0, v.s("w"), v.s("h"), r, v.is("corners bevelled"), sharp...), v.s("t"))
			x := pick(v.is("pocket aside"), 3.0, 0)
			z := v.s("t") - v.s("deep")
			deep := pick(v.is("pocket through"), v.s("t"), v.s("deep"))
			if v.is("pocket through") {
				z = 0
			}
			var tools []solid.Shape
			if !v.is("no pocket") {
				tools = append(tools, s.box(x-v.s("pw")/2, x+v.s("pw")/2, -v.s("ph")/2, v.s("ph")/2, z, z+deep))
			}
			h := hole{d: v.s("d"), deep: pick(v.is("holes blind"), v.s("t")/2, v.s("t")+1)}
			if v.is("holes slotted") {
				h.long = 4
			}
			if v.is("holes with heads") {
				h.head, h.sunk = 11, 2
			}
			at := only(grid(v.s("px"), v.s("py"), v.s("t")), v.is("no holes"), v.is("one hole missing"))
			tools = append(tools, s.drill(shifted(at, solid.Vec{2, 0, 0}, v.is("holes aside")), down, h)...)
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{30, 0, v.s("t")}}, down, hole{d: 5, deep: v.s("t") + 1})...)
			}
			b = s.cut(b, tools...)
			if v.is("extra boss") {
				b = s.union(b, s.rod(solid.Vec{30, 0, v.s("t") - 1}, up.Scale(5), 8))
			}
			return b
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"width": v.s("w"), "height": v.s("h"), "thick": v.s("t"), "holes": v.s("d"),
				"pitch_x": v.s("px"), "pitch_y": v.s("py"), "pocket_w": v.s("pw"), "pocket_h": v.s("ph"),
				"pocket_d": v.s("deep"), "corner": v.s("r"), "one": 1}
		},
	}
}

func block() model {
	return model{exercise: "guide-block",
		sizes: []size{{"w", 3.5 * inch, "width", "block", more}, {"d", 2.25 * inch, "depth", "block", usual},
			{"h", 1.5 * inch, "height", "block", usual}, {"gw", 1.125 * inch, "groove", "groove", half},
			{"gd", 0.625 * inch, "groove_d", "groove", half}, {"hole", 0.375 * inch, "holes", "holes", half},
			{"px", 2.75 * inch, "pitch", "holes", usual[:3]}, {"py", 1.25 * inch, "pitch_y", "holes", usual},
			{"cut", 0.125 * inch, "bevels", "bevels", half}},
		changes: []change{
			{"feature", "no groove", "groove", "groove groove_d even", "", "groove.*missing"},
			{"feature", "no holes", "holes", "holes pitch pitch_y", "", "holes.*missing"},
			{"count", "one hole missing", "holes", "holes pitch pitch_y", "", "(one|1 of 4).*missing"},
			{"feature", "no bevels", "bevels", "bevels", "", "chamfers.*missing"},
			{"count", "one bevel missing", "bevels", "bevels", "", "(one|1 of 2).*missing"},
			{"form", "bevels round", "bevels", "bevels", "", "round|fillet"},
			{"side", "groove short", "groove", "", "", "groove.*(short|through|stops|end)"},
			{"side", "groove below", "groove bevels", "", "groove groove_d even bevels", "(groove|chamfer)"},
			{"place", "groove aside", "groove", "even", "", "[Gg]roove.*(stands|middle)"},
			{"side", "holes blind", "holes", "", "", "holes.*(through|blind|deep)"},
			{"place", "holes aside", "holes", "", "", "holes stands?"},
			{"form", "holes sunk", "holes", "", "holes", "counter|sunk|head|not on the sheet"},
			{"side", "bevels below", "bevels groove", "", "groove groove_d even bevels", "(groove|chamfer)"},
			{"feature", "extra groove", "extra", "", "", "not on the sheet|extra"},
		},
		build: func(s *shop, v variant) solid.Shape {
			w, d, h := v.s("w"), v.s("d"), v.s("h")
			b := s.box(-w/2, w/2, -d/2, d/2, 0, h)
			x := pick(v.is("groove aside"), 2.0, 0)
			low, high := pick(v.is("groove below"), 0, h-v.s("gd")), pick(v.is("groove below"), v.s("gd"), h)
			var tools []solid.Shape
			if !v.is("no groove") {
				end := pick(v.is("groove short"), d/2-9, d/2)
				tools = append(tools, s.box(x-v.s("gw")/2, x+v.s("gw")/2, -d/2, end, low, high))
			}
			hl := hole{d: v.s("hole"), deep: pick(v.is("holes blind"), h/2, h+1)}
			if v.is("holes sunk") {
				hl.head, hl.conical = 16, true
			}
			at := only(grid(v.s("px"), v.s("py"), 0), v.is("no holes"), v.is("one hole missing"))
			tools = append(tools, s.drill(shifted(at, solid.Vec{0, 3, 0}, v.is("holes aside")), up, hl)...)
			c := v.s("cut")
			z, dz := pick(v.is("bevels below"), 0, h), pick(v.is("bevels below"), c, -c)
			for i, sx := range []float64{1, -1} {
				if v.is("no bevels") || v.is("one bevel missing") && i == 0 {
					continue
				}
				x := sx * w / 2
				o := from(x, z).to(x-sx*c, z)
				if v.is("bevels round") {
					o.arc(x-sx*c, z+dz, x, z+dz)
				} else {
					o.to(x, z+dz)
				}
				tools = append(tools, s.prism(raised(front, -d/2-1), o.close(), d+2))
			}
			if v.is("extra groove") {
				tools = append(tools, s.box(-w/2, -w/2+4, -d/2, d/2, h/2-3, h/2+3))
			}
			return s.cut(b, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"width": v.s("w"), "depth": v.s("d"), "height": v.s("h"), "groove": v.s("gw"),
				"groove_d": v.s("gd"), "holes": v.s("hole"), "pitch": v.s("px"), "pitch_y": v.s("py"),
				"bevels": v.s("cut"), "even": 0, "one": 1}
		},
	}
}

func stop() model {
	return model{exercise: "rack-stop",
		sizes: []size{{"w", 70, "width", "base", more}, {"d", 52, "depth", "base", more}, {"t", 10, "base", "base", usual},
			{"uw", 46, "up_w", "upright", usual}, {"ut", 12, "up_t", "upright", less}, {"uh", 40, "up_h", "upright", usual},
			{"web", 7, "web", "web", bold}, {"foot", 22, "foot", "web", less}, {"top", 15, "rise", "web", less},
			{"bore", 14, "bore", "bore", half}, {"up", 24, "bore_h", "bore", slim},
			{"sx", 11, "screw_x", "screw", usual}, {"sy", 10, "screw_y", "screw", usual}},
		changes: []change{
			{"feature", "no web", "web", "web foot rise", "", "web.*missing"},
			{"feature", "no bore", "bore", "bore bore_h", "", "bore.*missing"},
			{"feature", "no screw", "screw", "screw_x screw_y", "screw", "screw hole.*missing"},
			{"side", "bore blind", "bore", "", "", "bore.*(through|blind|deep)"},
			{"side", "screw blind", "screw", "", "screw", "screw.*(through|blind|deep)"},
			{"side", "screw left", "screw", "", "screw screw_x", "screw|mirror"},
			{"place", "web aside", "web", "", "", "web stands"},
			{"place", "bore aside", "bore", "", "", "bore stands"},
			{"place", "upright aside", "upright", "", "", "upright stands"},
			{"form", "bore slotted", "bore", "", "bore bore_h", "slot|long|not on the sheet"},
			{"feature", "extra hole", "extra", "", "", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
		},
		build: func(s *shop, v variant) solid.Shape {
			w, d, t, ut := v.s("w"), v.s("d"), v.s("t"), v.s("ut")
			b := s.box(-w/2, w/2, -d/2, d/2, 0, t)
			ux := pick(v.is("upright aside"), 3.0, 0)
			parts := []solid.Shape{s.box(ux-v.s("uw")/2, ux+v.s("uw")/2, d/2-ut, d/2, t, t+v.s("uh"))}
			if !v.is("no web") {
				y, x := d/2-ut, pick(v.is("web aside"), 4.0, 0)
				o := from(y, t).to(y-v.s("foot"), t).to(y, t+v.s("top"))
				parts = append(parts, s.prism(raised(side, x-v.s("web")/2), o.close(), v.s("web")))
			}
			b = s.union(b, parts...)
			var tools []solid.Shape
			if !v.is("no bore") {
				at := []solid.Vec{{pick(v.is("bore aside"), 2.5, 0), d / 2, t + v.s("up")}}
				h := hole{d: v.s("bore"), deep: pick(v.is("bore blind"), ut/2, ut+1), long: pick(v.is("bore slotted"), 6.0, 0)}
				tools = append(tools, s.drill(at, forward, h)...)
			}
			if !v.is("no screw") {
				x := pick(v.is("screw left"), -1.0, 1) * (w/2 - v.s("sx"))
				tools = append(tools, s.drill([]solid.Vec{{x, -d/2 + v.s("sy"), t}}, down, hole{d: 5,
					deep: pick(v.is("screw blind"), t/2, t+1)})...)
			}
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{-24, -8, t}}, down, hole{d: 6, deep: t + 1})...)
			}
			return s.cut(b, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"width": v.s("w"), "depth": v.s("d"), "base": v.s("t"), "up_w": v.s("uw"),
				"up_t": v.s("ut"), "up_h": v.s("uh"), "web": v.s("web"), "foot": v.s("foot"), "rise": v.s("top"),
				"bore": v.s("bore"), "bore_h": v.s("up"), "screw_x": v.s("sx"), "screw_y": v.s("sy"), "square": 0, "one": 1}
		},
	}
}

func bracket() model {
	return model{exercise: "bearing-bracket",
		sizes: []size{{"width", 120, "width", "base", more}, {"depth", 70, "depth", "base", more},
			{"thick", 14, "thick", "base", slim}, {"corner", 10, "corner", "corners", half},
			{"bolt", 9, "bolt", "bolts", half}, {"pitch_x", 96, "pitch_x", "bolts", slim}, {"pitch_y", 34, "pitch_y",
				"bolts", slim},
			{"margin", 20, "margin", "bolts", slim}, {"wall", 16, "wall", "upright", slim}, {"cheek", 56, "cheek", "upright",
				slim}, {"height", 64, "height", "upright", usual}, {"boss", 44, "boss", "boss", slim},
			{"proud", 24, "proud", "boss", slim}, {"bore", 24, "bore", "bore", half}, {"head", 34, "head", "head", slim},
			{"head_deep", 5, "head_deep", "head", half}, {"web", 10, "web", "rib", bold}, {"foot", 36, "foot", "rib", slim},
			{"slope", 38 * degree, "slope", "rib", slim}, {"foot_round", 5, "foot_round", "foot", half}},
		changes: []change{
			{"feature", "no boss", "boss head", "boss proud", "head head_deep", "boss.*missing"},
			{"feature", "no head", "head", "head head_deep", "", "counterbore.*missing"},
			{"feature", "no rib", "rib", "web foot slope", "", "rib.*missing"},
			{"feature", "no foot", "foot", "foot_round", "", "foot.*missing"},
			{"feature", "corners sharp", "corners", "corner", "", "corners.*missing"},
			{"count", "one corner sharp", "corners", "corner", "", "(one|1 of 4).*missing"},
			{"feature", "no bolts", "bolts", "bolt pitch_x pitch_y margin", "", "bolt holes.*missing"},
			{"count", "one bolt missing", "bolts", "bolt pitch_x pitch_y", "margin", "(one|1 of 4).*missing"},
			{"form", "corners bevelled", "corners", "corner", "", "chamfer|bevel"},
			{"form", "head conical", "head", "head head_deep", "", "countersink|cone|conical"},
			{"form", "bolts slotted", "bolts", "", "bolt pitch_x pitch_y margin", "slot|long|not on the sheet"},
			{"side", "head at the back", "head", "head_deep", "head", "counterbore.*(side|back|other)"},
			{"side", "bore blind", "bore", "", "", "bore.*(through|blind|deep)"},
			{"side", "bolts blind", "bolts", "", "", "bolt holes.*(through|blind|deep)"},
			{"place", "rib aside", "rib", "", "", "rib stands 6"},
			{"place", "bolts aside", "bolts", "", "", "bolt holes stands? 3"},
			{"feature", "extra hole", "extra", "", "", "not on the sheet.*(hole|bore|cylind)|extra.*(hole|bore)"},
		},
		build: func(s *shop, v variant) solid.Shape {
			w, d, t, wall := v.s("width"), v.s("depth"), v.s("thick"), v.s("wall")
			sharp := pick(v.is("one corner sharp"), []int{1}, nil)
			r := pick(v.is("corners sharp"), 0, v.s("corner"))
			b := s.prism(flat, rectangle(0, -d/2, w, d, r, v.is("corners bevelled"), sharp...), t)
			c, h := v.s("cheek")/2, v.s("height")
			o := from(-c, 0).to(c, 0).to(c, h).arc(0, h, 0, h+c).arc(0, h, -c, h)
			add := []solid.Shape{s.prism(front, o.close(), wall)}
			proud := pick(v.is("no boss"), wall, v.s("proud"))
			if !v.is("no boss") {
				add = append(add, s.rod(solid.Vec{0, -wall / 2, h}, forward.Scale(proud-wall/2), v.s("boss")))
			}
			if !v.is("no rib") {
				x := pick(v.is("rib aside"), 6.0, 0)
				o := from(-wall, t).to(-wall-v.s("foot"), t).to(-wall, t+v.s("foot")*math.Tan(v.s("slope")))
				add = append(add, s.prism(raised(side, x-v.s("web")/2), o.close(), v.s("web")))
			}
			if q := v.s("foot_round"); !v.is("no foot") {
				o := from(-wall, t).to(-wall-q, t).arc(-wall-q, t+q, -wall, t+q)
				add = append(add, s.prism(raised(side, -c), o.close(), 2*c))
			}
			b = s.union(b, add...)
			bore := hole{d: v.s("bore"), deep: pick(v.is("bore blind"), 15, proud+1)}
			if !v.is("no head") && !v.is("head at the back") {
				bore.head, bore.sunk, bore.conical = v.s("head"), v.s("head_deep"), v.is("head conical")
			}
			tools := s.drill([]solid.Vec{{0, -proud, h}}, back, bore)
			if v.is("head at the back") {
				tools = append(tools, s.drill([]solid.Vec{{0, 0, h}}, forward, hole{d: v.s("head"), deep: v.s("head_deep")})...)
			}
			bolt := hole{d: v.s("bolt"), deep: pick(v.is("bolts blind"), t/2, t+1), long: pick(v.is("bolts slotted"), 4.0, 0)}
			y := solid.Vec{0, -v.s("margin") - v.s("pitch_y")/2, t}
			at := only(shifted(grid(v.s("pitch_x"), v.s("pitch_y"), 0), y, true), v.is("no bolts"), v.is("one bolt missing"))
			tools = append(tools, s.drill(shifted(at, solid.Vec{3, 0, 0}, v.is("bolts aside")), down, bolt)...)
			if v.is("extra hole") {
				tools = append(tools, s.drill([]solid.Vec{{28, -58, t}}, down, hole{d: 6, deep: t + 1})...)
			}
			return s.cut(b, tools...)
		},
		truth: func(v variant) map[string]float64 {
			return map[string]float64{"width": v.s("width"), "depth": v.s("depth"), "thick": v.s("thick"),
				"corner": v.s("corner"), "bolt": v.s("bolt"), "pitch_x": v.s("pitch_x"),
				"pitch_y": v.s("pitch_y"), "margin": v.s("margin"), "wall": v.s("wall"), "cheek": v.s("cheek"),
				"height": v.s("height"), "middle": 0, "boss": v.s("boss"), "proud": v.s("proud"), "bore": v.s("bore"),
				"head": v.s("head"), "head_deep": v.s("head_deep"), "web": v.s("web"), "foot": v.s("foot"),
				"slope": v.s("slope"), "foot_round": v.s("foot_round"), "one": 1}
		},
	}
}
