package geometry

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"testing"

	"hammerset/core/part"
	"hammerset/core/solid"
	"hammerset/kernel/occ"
)

// The corpus of edits: each states what references must do after it. A line of
// want is "face x=12" (every face of that name lies there; the axis of a round one),
// "face gone", or "step fails: words". None may move silently.
func TestCorpusOfEdits(t *testing.T) {
	// A plate of w by 30, h thick, its middle on the origin; p0..p3 from lower left.
	plate := constrained(outline("s1", xy, -20, -15, 20, -15, 20, 15, -20, 15), `{"id":"k1","kind":"symmetric","of":["p0",
	"p2","origin"]},{"id":"k2","kind":"horizontal","of":["l0"]},{"id":"k3","kind":"vertical","of":["l1"]},{"id":"k4",
	"kind":"horizontal","of":["l2"]},{"id":"k5","kind":"vertical","of":["l3"]},{"id":"d1","kind":"length","of":["l0"],
	"value":"w"},{"id":"d2","kind":"length","of":["l1"],"value":"d"}`)
	body := []string{plate, extrude("e1", "s1", oneSide("h"), "")}
	with := func(more ...string) []string { return append(append([]string{}, body...), more...) }
	before := func(more ...string) []string { return append(append([]string{}, more...), body...) }
	at := func(x, y float64) string { return pt("m", x, y) }
	drill := func(x, y float64, more string) []string {
		return []string{curves("s2", `{"face":"e1/end"}`, at(x, y)), `{"id":"h1","kind":"hole","sketch":"s2","at":["m"],
	"diameter":"4"` + more + `}`}
	}
	row := func(n string, skip string) string {
		return `{"id":"n1","kind":"linear-pattern","of":["h1"],"axis":{"datum":"X"},"count":"` + n +
			`","spacing":"8"` + skip + `}`
	}
	groove := []string{outline("s5", `{"face":"e1/end"}`, -4, -40, 4, -40, 4, 40, -4, 40),
		cut("e5", "s5", oneSide("5"), "")}
	onTop := curves("s9", `{"face":"e1/end"}`, at(0, 0))
	round := func(id, a, b, r, more string) string {
		return `{"id":"` + id + `","kind":"fillet","radius":"` + r + `","edges":[{"between":["` + a + `","` + b +
			`"]` + more + `}]}`
	}
	cat := func(lists ...[]string) []string {
		var out []string
		for _, l := range lists {
			out = append(out, l...)
		}
		return out
	}
	boss := []string{circles("s3", `{"face":"e1/end"}`, 0, 0, 6), extrude("e3", "s3", oneSide("10"), "")}
	with5 := func(k string) string { // the plate's outline with a corner cut off
		return constrained(outline("s1", xy, -20, -15, 20, -15, 20, 5, 10, 15, -20, 15), k)
	}
	turned := func(more ...string) []string {
		return append([]string{outline("s1", xz, 5, 0, 20, 0, 20, 10, 10, 10, 10, 30, 5, 30),
			revolve("r1", "s1", "y-axis", "")}, more...)
	}
	for _, c := range []struct {
		name  string
		set   string
		steps []string
		want  string
	}{
		// Sizes change.
		{"wider", "w=70", with(), "e1/side:l1 x=35; e1/side:l3 x=-35; e1/end z=20"},
		{"narrower", "w=8", with(), "e1/side:l1 x=4; e1/side:l3 x=-4"},
		{"thicker", "h=55", with(onTop), "e1/end z=55; e1/start z=0"},
		{"a hole with its plate", "h=33", with(drill(5, 3, "")...), "h1.m/bore x=5; h1.m/bore y=3"},
		{"a blind hole keeps its bottom", "h=40", with(drill(5, 3, `,"extent":{"kind":"one-side","length":"6"}`)...),
			"h1.m/bottom z=34"},
		{"the depth reaches the other side", "h=5", with(drill(5, 3, `,"extent":{"kind":"one-side","length":"6"}`)...),
			"h1.m/bottom gone; h1.m/bore x=5"},
		{"a boss on a thicker plate", "h=31", with(boss...), "e3/end z=41; e3/side:c0 x=0"},
		{"a boss wider than its plate", "d=8", with(boss...), "e3/end z=30; e1/side:l2 y=4; e3/side:c0 y=0"},
		{"a round that grows", "w=60", with(round("f1", "e1/side:l1", "e1/side:l2", "w/10", "")),
			"f1/round(e1/side:l1|e1/side:l2) x=24; f1/round(e1/side:l1|e1/side:l2) y=9"},
		{"a round that does not fit any more", "d=6", with(round("f1", "e1/side:l1", "e1/side:l2", "8", "")),
			"step f1 fails: largest that fits; e1/side:l1 x=20"},
		// Sides are added and taken away.
		{"a side added", "", []string{with5(""), extrude("e1", "s1", oneSide("h"), "")},
			"e1/side:l1 x=20; e1/side:l3 y=15; e1/side:l4 x=-20"},
		{"a round on a side that was taken away", "", []string{outline("s1", xy, -20, -15, 20, -15, 0, 15),
			extrude("e1", "s1", oneSide("h"), ""), round("f1", "e1/side:l2", "e1/side:l3", "2", "")},
			`step f1 fails: the side of extrude 1 is not there any more`},
		{"a sketch on a side that was taken away", "", []string{outline("s1", xy, -20, -15, 20, -15, 0, 15),
			extrude("e1", "s1", oneSide("h"), ""), curves("s9", `{"face":"e1/side:l3"}`, at(0, 0))},
			`step s9 fails: the side of extrude 1 is not there any more`},
		{"two sides that no longer meet", "", []string{with5(""), extrude("e1", "s1", oneSide("h"), ""),
			round("f1", "e1/side:l1", "e1/side:l3", "2", "")},
			"step f1 fails: extrude 1 is not there any more: its faces do not meet"},
		{"two sides that still meet", "", []string{with5(""), extrude("e1", "s1", oneSide("h"), ""),
			round("f1", "e1/side:l3", "e1/side:l4", "2", "")},
			"f1/round(e1/side:l3|e1/side:l4) x=-18; f1/round(e1/side:l3|e1/side:l4) y=13"},
		// A hole moves across an edge.
		{"a hole inside", "", with(drill(10, 0, "")...), "h1.m/bore x=10"},
		{"a hole across the side", "", with(drill(20, 0, "")...), "h1.m/bore x=20; e1/side:l1 x=20"},
		{"a hole across the corner", "", with(drill(20, 15, "")...),
			"h1.m/bore x=20; h1.m/bore y=15; e1/side:l1 x=20; e1/side:l2 y=15"},
		{"a hole off the plate", "", with(drill(30, 0, "")...), "h1.m/bore gone; e1/side:l1 x=20"},
		{"a round at a corner that a hole took", "",
			with(append(drill(20, 15, ""), round("f1", "e1/side:l1", "e1/side:l2", "1", ""))...),
			"step f1 fails: extrude 1 is not there any more: its faces do not meet"},
		{"a round beside a hole across the side", "",
			with(append(drill(20, 0, ""), round("f1", "e1/side:l1", "e1/side:l2", "1", ""))...),
			"f1/round(e1/side:l1|e1/side:l2) x=19; h1.m/bore x=20"},
		{"a groove that opens the side, the side in two", "",
			with(outline("s5", `{"face":"e1/end"}`, 10, -3, 40, -3, 40, 3, 10, 3), cut("e5", "s5", through, "")),
			"e1/side:l1 x=20; e5/side:l3 x=10"},
		{"a sketch on a side in two pieces", "", with(outline("s5", `{"face":"e1/end"}`, 10, -3, 40, -3, 40, 3, 10, 3),
			cut("e5", "s5", through, ""), curves("s9", `{"face":"e1/side:l1"}`, at(0, 0)),
			`{"id":"p9","kind":"plane","plane":{"face":"e1/side:l1","offset":"2"}}`), "e1/side:l1 x=20"},
		// Patterns.
		{"the third of three", "", with(append(drill(-15, 0, ""), row("3", ""))...),
			"n1.3:h1.m/bore x=1; n1.2:h1.m/bore x=-7"},
		{"the third of five", "", with(append(drill(-15, 0, ""), row("5", ""))...),
			"n1.3:h1.m/bore x=1; n1.5:h1.m/bore x=17"},
		{"the third of two", "", with(append(drill(-15, 0, ""), row("2", ""))...),
			"n1.3:h1.m/bore gone; n1.2:h1.m/bore x=-7"},
		{"a row of one", "", with(append(drill(-15, 0, ""), row("1", ""))...), "h1.m/bore x=-15; n1.2:h1.m/bore gone"},
		{"one left out", "", with(append(drill(-15, 0, ""), row("4", `,"skip":[2]`))...),
			"n1.2:h1.m/bore gone; n1.3:h1.m/bore x=1; n1.4:h1.m/bore x=9"},
		{"a place left out that is not there", "", with(append(drill(-15, 0, ""), row("3", `,"skip":[7]`))...),
			"step n1 fails: no instance 7; h1.m/bore x=-15"},
		{"the row runs off the plate", "", with(append(drill(-15, 0, ""), row("7", ""))...),
			"n1.4:h1.m/bore x=9; n1.7:h1.m/bore gone"},
		{"the step that is repeated is gone", "", with(row("3", "")), "step n1 fails: does nothing that could be repeated"},
		{"the repeated hole is turned off", "", with(append(drill(-15, 0, `,"off":true`), row("3", ""))...),
			"step n1 fails: is turned off"},
		{"a pattern of a pattern", "", with(append(drill(-15, -8, ""), row("2", ""), `{"id":"n2","kind":"linear-pattern",
	"of":["h1","n1"],"axis":{"datum":"Y"},"count":"2","spacing":"16"}`)...),
			"n2.2:h1.m/bore y=8; n2.2:n1.2:h1.m/bore x=-7; n2.2:n1.2:h1.m/bore y=8"},
		{"mirrored", "", with(append(drill(-15, 4, ""), `{"id":"m1","kind":"mirror","of":["h1"],"plane":{"datum":"YZ"}}`)...),
			"m1:h1.m/bore x=15; m1:h1.m/bore y=4"},
		{"around", "", cat([]string{circles("s1", xy, 0, 0, 20), extrude("e1", "s1", oneSide("h"), "")},
			[]string{circles("s2", `{"face":"e1/end"}`, 14, 0, 2), cut("e2", "s2", through, "")},
			[]string{`{"id":"n1","kind":"circular-pattern","of":["e2"],"axis":{"face":"e1/side:c0"},"count":"4"}`}),
			"n1.2:e2/side:c0 y=14; n1.3:e2/side:c0 x=-14; n1.4:e2/side:c0 y=-14"},
		{"around, another count", "", cat([]string{circles("s1", xy, 0, 0, 20), extrude("e1", "s1", oneSide("h"), "")},
			[]string{circles("s2", `{"face":"e1/end"}`, 14, 0, 2), cut("e2", "s2", through, "")},
			[]string{`{"id":"n1","kind":"circular-pattern","of":["e2"],"axis":{"face":"e1/side:c0"},"count":"2"}`}),
			"n1.2:e2/side:c0 x=-14; n1.3:e2/side:c0 gone"},
		{"a row of rounded bosses", "", with(circles("s3", `{"face":"e1/end"}`, -12, 0, 3),
			extrude("e3", "s3", oneSide("4"), ""), round("f1", "e3/end", "e3/side:c0", "1", ""),
			`{"id":"n1","kind":"linear-pattern","of":["e3","f1"],"axis":{"datum":"X"},"count":"3","spacing":"10"}`),
			"n1.2:e3/end z=24; n1.3:e3/side:c0 x=8; f1/round(e3/end|e3/side:c0) x=-12"},
		{"a boss of the row off the plate takes its round along", "", with(circles("s3", `{"face":"e1/end"}`, -12, 0, 3),
			extrude("e3", "s3", oneSide("4"), ""), round("f1", "e1/end", "e3/side:c0", "1", ""),
			`{"id":"n1","kind":"linear-pattern","of":["e3","f1"],"axis":{"datum":"X"},"count":"5","spacing":"10"}`),
			"step n1 fails: should break is not there; e3/end z=24"},
		// Steps inserted earlier.
		{"a hole drilled before the boss", "",
			with(cat(drill(12, 0, ""), boss, []string{round("f1", "e3/end", "e3/side:c0", "1", "")})...),
			"e3/end z=30; f1/round(e3/end|e3/side:c0) x=0; h1.m/bore x=12"},
		{"another solid before", "", before(circles("s0", xy, 0, 0, 4), extrude("e0", "s0", oneSide("2"), "")),
			"e1/side:l1 x=20; e1/end z=20; e0/end gone"},
		{"a round before the sketch on top", "", with(round("f0", "e1/side:l0", "e1/side:l1", "3", ""), onTop,
			round("f1", "e1/side:l2", "e1/side:l3", "2", "")), "e1/end z=20; f1/round(e1/side:l2|e1/side:l3) x=-18"},
		{"a shell before", "", with(`{"id":"l1","kind":"shell","faces":["e1/start"],"thickness":"2"}`, onTop,
			round("f1", "e1/side:l2", "e1/side:l3", "1", "")),
			"e1/end z=20; l1/inside(e1/end) z=18; f1/round(e1/side:l2|e1/side:l3) x=-19"},
		{"a draft before", "", with(`{"id":"d0","kind":"draft","faces":["e1/side:l1"],"plane":{"datum":"XY"},
	"angle":"5 deg"}`, round("f1", "e1/side:l2", "e1/side:l3", "2", "")),
			"f1/round(e1/side:l2|e1/side:l3) x=-18; e1/side:l3 x=-20"},
		{"the boss is turned off", "",
			with(cat([]string{boss[0], extrude("e3", "s3", oneSide("10"), `,"off":true`)},
				[]string{round("f1", "e3/end", "e3/side:c0", "1", "")})...), "step f1 fails: is turned off; e1/end z=20"},
		{"a step before fails", "", with(cat([]string{boss[0], extrude("e3", "s3", oneSide("0"), "")},
			[]string{round("f1", "e3/end", "e3/side:c0", "1", "")})...),
			"step e3 fails: greater than zero; step f1 fails: which failed; e1/end z=20"},
		// Regions.
		{"all material, with a hole in it", "", []string{circles("s1", xy, 0, 0, 20, 0, 0, 5),
			extrude("e1", "s1", oneSide("h"), "")}, "e1/side:c0 x=0; e1/side:c1 y=0"},
		{"a region that a line splits", "",
			[]string{curves("s1", xy, pt("a", -20, -15), pt("b", 20, -15), pt("c", 20, 15), pt("d", -20, 15), pt("e", -30, 0),
				pt("f", 30, 0), ln("l0", "a", "b"), ln("l1", "b", "c"), ln("l2", "c", "d"), ln("l3", "d", "a"), ln("x", "e", "f")),
				`{"id":"e1","kind":"extrude","sketch":"s1","regions":[["l0","l1","l2","l3"]],"extent":{"kind":"one-side",
	"length":"h"}}`}, "step e1 fails: no region bounded by the lower line, the right line, the upper"},
		{"the half that holds a point", "",
			[]string{curves("s1", xy, pt("a", -20, -15), pt("b", 20, -15), pt("c", 20, 15), pt("d", -20, 15), pt("e", -30, 0),
				pt("f", 30, 0), pt("q", 3, 8), ln("l0", "a", "b"), ln("l1", "b", "c"), ln("l2", "c", "d"), ln("l3", "d", "a"),
				ln("x", "e", "f")), `{"id":"e1","kind":"extrude","sketch":"s1","regions":{"holding":["q"]},
	"extent":{"kind":"one-side","length":"h"}}`}, "e1/side:x y=0; e1/side:l2 y=15; e1/side:l0 gone"},
		{"the half bounded by the line", "",
			[]string{curves("s1", xy, pt("a", -20, -15), pt("b", 20, -15), pt("c", 20, 15), pt("d", -20, 15), pt("e", -30, 0),
				pt("f", 30, 0), ln("l0", "a", "b"), ln("l1", "b", "c"), ln("l2", "c", "d"), ln("l3", "d", "a"), ln("x", "e", "f")),
				`{"id":"e1","kind":"extrude","sketch":"s1","regions":[["l0","l1","l3","x"]],"extent":{"kind":"one-side",
	"length":"h"}}`}, "e1/side:x y=0; e1/side:l0 y=-15; e1/side:l2 gone"},
		{"a point that left every region", "",
			[]string{curves("s1", xy, pt("m", 0, 0), pt("q", 50, 0), `{"id":"c","kind":"circle","center":"m","radius":9}`),
				`{"id":"e1","kind":"extrude","sketch":"s1","regions":{"holding":["q"]},"extent":{"kind":"one-side","length":"h"}}`},
			"step e1 fails: lies in no region any more"},
		{"a circle that two lines cut", "",
			[]string{curves("s1", xy, pt("m", 0, 0), pt("a", -15, 0), pt("b", 15, 0), `{"id":"c","kind":"circle","center":"m",
	"radius":9}`, ln("x", "a", "b")), extrude("e1", "s1", oneSide("h"), "")}, "e1/side:c x=0; e1/end z=20"},
		// Rounds swallow edges and faces.
		{"a round takes half a face, the face stays in place", "", with(round("f0", "e1/end", "e1/side:l1", "10", ""),
			curves("s9", `{"face":"e1/side:l1"}`, at(0, 0))), "e1/side:l1 x=20; f0/round(e1/end|e1/side:l1) x=10"},
		{"two rounds swallow the top", "w=30", with(`{"id":"f0","kind":"fillet","radius":"15","edges":[{"between":["e1/end",
	"e1/side:l1"]},{"between":["e1/end","e1/side:l3"]}]}`, onTop), `step f0 fails: does not fit; e1/end z=20`},
		{"an edge that a round has taken", "", with(round("f0", "e1/end", "e1/side:l1", "4", ""),
			round("f1", "e1/end", "e1/side:l1", "1", "")),
			"step f1 fails: extrude 1 is not there any more: its faces do not meet"},
		{"the edge beside a round", "", with(round("f0", "e1/end", "e1/side:l1", "4", ""),
			round("f1", "e1/end", "e1/side:l3", "1", "")), "f1/round(e1/end|e1/side:l3) x=-19"},
		{"a bevel on what a cut removed", "", with(outline("s6", `{"face":"e1/end"}`, 0, -40, 40, -40, 40, 40, 0, 40),
			cut("e6", "s6", through, ""), `{"id":"c1","kind":"chamfer","distance":"1","edges":[{"between":["e1/end",
	"e1/side:l1"]}]}`), `step c1 fails: the side of extrude 1 is not there any more; e6/side:l3 x=0`},
		// Splits and ties.
		{"a split top, both halves", "", with(groove...), "e1/end z=20; e5/end z=15; e5/side:l1 x=4; e5/side:l3 x=-4"},
		{"a sketch on a split top", "h=26", with(append(groove, onTop)...), "e1/end z=26; e5/end z=21"},
		{"the right one of two edges", "",
			with(append(groove, round("f1", "e1/end", "e1/side:l0", "1", `,"near":[0.9,0,1]`))...),
			"f1/round(e1/end|e1/side:l0) y=-14"},
		{"the right one of two edges, wider", "w=90",
			with(append(groove, round("f1", "e1/end", "e1/side:l0", "1", `,"near":[0.9,0,1]`))...),
			"f1/round(e1/end|e1/side:l0) x>4"},
		{"the left one of two edges, wider", "w=90",
			with(append(groove, round("f1", "e1/end", "e1/side:l0", "1", `,"near":[0.1,0,1]`))...),
			"f1/round(e1/end|e1/side:l0) x<-4"},
		{"the groove closes again", "",
			with(append(groove[:1:1], cut("e5", "s5", oneSide("5"), `,"off":true`), round("f1", "e1/end", "e1/side:l0", "1",
				""))...), "f1/round(e1/end|e1/side:l0) x=0"},
		// Turned parts and planes.
		{"a turned shoulder", "", turned(`{"id":"c1","kind":"chamfer","distance":"1","edges":[{"between":["r1/side:l1",
	"r1/side:l2"]}]}`), "r1/side:l1 x=0; r1/side:l2 z=10; r1/side:l4 z=30"},
		{"a groove turned into it", "", turned(outline("s2", xz, 16, 4, 25, 4, 25, 6, 16, 6),
			revolve("r2", "s2", "y-axis", `,"result":"cut"`), `{"id":"c1","kind":"chamfer","distance":"1",
	"edges":[{"between":["r1/side:l1","r1/side:l2"]}]}`), "r2/side:l0 z=4; r2/side:l2 z=6; r1/side:l2 z=10"},
		{"a plane that follows its face", "h=44", with(`{"id":"p1","kind":"plane","plane":{"face":"e1/end","offset":"6"}}`,
			circles("s3", `{"step":"p1"}`, 0, 0, 3), `{"id":"e3","kind":"extrude","sketch":"s3","regions":"all","reverse":true,
	"extent":{"kind":"to-face","face":"e1/end"}}`), "e3/start z=50; e1/end z=44"},
		{"a plane midway stays midway", "w=64", with(`{"id":"p1","kind":"plane","form":"midway",
	"planes":[{"face":"e1/side:l1"},{"datum":"YZ"}]}`, circles("s3", `{"step":"p1"}`, 0, 10, 2), cut("e3", "s3",
			throughBoth, "")), "e3/side:c0 z=10; e1/side:l1 x=32"},
		{"a plane on a face that is gone", "", with(`{"id":"p1","kind":"plane","plane":{"face":"e7/end","offset":"6"}}`,
			circles("s3", `{"step":"p1"}`, 0, 0, 3)),
			`step p1 fails: the end of e7 is not there any more; step s3 fails: which failed`},
		{"a corner that moves with its sizes", "w=50", with(`{"id":"q1","kind":"point","points":[{"corner":["e1/end",
	"e1/side:l1","e1/side:l2"]}]}`, `{"id":"q2","kind":"point","points":[{"at":["0","0","0"]}]}`, `{"id":"a1",
	"kind":"axis","points":[{"step":"q1"},{"step":"q2"}]}`), "e1/side:l1 x=25"},
		{"a corner that a round took", "", with(round("f0", "e1/side:l1", "e1/side:l2", "3", ""),
			`{"id":"q1","kind":"point","points":[{"corner":["e1/end","e1/side:l1","e1/side:l2"]}]}`),
			"step q1 fails: do not meet in a corner any more"},
		{"up to a face that rose", "h=35", with(circles("s3", `{"datum":"XY","offset":"60 mm"}`, 0, 0, 4),
			`{"id":"e3","kind":"extrude","sketch":"s3","regions":"all","reverse":true,"extent":{"kind":"to-face",
	"face":"e1/end"}}`), "e3/start z=60; e1/end z=35"},
		{"up to a face that rose past the sketch", "h=70", with(circles("s3", `{"datum":"XY","offset":"60 mm"}`, 0, 0, 4),
			`{"id":"e3","kind":"extrude","sketch":"s3","regions":"all","reverse":true,"extent":{"kind":"to-face",
	"face":"e1/end"}}`), "step e3 fails: lies behind the sketch; e1/end z=70"},
		// Several solids.
		{"a name on two solids", "", with(circles("s3", xy, 30, 0, 5), extrude("e3", "s3", oneSide("20"), `,"result":"new"`),
			circles("s4", `{"datum":"XY","offset":"40 mm"}`, 0, 0, 2, 30, 0, 2), cut("e4", "s4", through, ""),
			curves("s9", `{"face":"e3/end"}`, at(0, 0))), "e3/end z=20; e1/end z=20"},
		{"a face of the other solid after a union", "",
			with(circles("s3", xy, 20, 0, 5), extrude("e3", "s3", oneSide("30"), `,"result":"new"`),
				`{"id":"u1","kind":"union","solids":["e1"],"with":["e3"]}`, curves("s9", `{"face":"e3/end"}`, at(0, 0))),
			"e3/end z=30; e1/end z=20"},
		{"a solid that was united away", "",
			with(circles("s3", xy, 20, 0, 5), extrude("e3", "s3", oneSide("30"), `,"result":"new"`),
				`{"id":"u1","kind":"union","solids":["e1"],"with":["e3"]}`, `{"id":"u2","kind":"difference","solids":["e1"],
	"with":["e3"]}`), `step u2 fails: no solid of extrude 3; e3/end z=30`},
	} {
		t.Run(c.name, func(t *testing.T) {
			values := map[string]string{"w": "40", "d": "30", "h": "20"}
			if name, v, ok := strings.Cut(c.set, "="); ok {
				values[name] = v
			}
			d := model(t, "mm", mm("w", values["w"]+" mm", "d", values["d"]+" mm", "h", values["h"]+" mm"), c.steps...)
			b, err := part.NewRebuilder(occ.Kernel{}).Rebuild(ctx, d, nil)
			if err != nil {
				t.Fatal(err)
			}
			failing := map[string]string{}
			for _, f := range b.Failed() {
				failing[f.ID] = f.Err.Error()
			}
			for _, w := range strings.Split(c.want, "; ") {
				if id, words, ok := strings.Cut(w, " fails: "); ok {
					id = strings.TrimPrefix(id, "step ")
					if !strings.Contains(failing[id], words) {
						t.Errorf("step %s says %q and should say %q", id, failing[id], words)
					}
					delete(failing, id)
					continue
				}
				stays(t, b, w)
			}
			for _, why := range failing {
				t.Error(why)
			}
		})
	}
}

// stays checks a line such as "e1/end z=20", "f1/round(...) x>4" or "e1/end gone".
func stays(t *testing.T, b *part.Build, line string) {
	t.Helper()
	at := strings.LastIndexByte(line, ' ')
	name, what := line[:at], line[at+1:]
	var list []int
	if b.Solid != nil {
		list = b.Solid.Faces(name)
	}
	if what == "gone" {
		if len(list) > 0 {
			t.Errorf("%s is still there", name)
		}
		return
	}
	if len(list) == 0 {
		t.Errorf("%s is gone", name)
		return
	}
	axis := strings.IndexByte("xyz", what[0])
	want, err := strconv.ParseFloat(what[2:], 64)
	if err != nil {
		t.Fatal(fmt.Errorf("%s: %w", line, err))
	}
	for _, i := range list {
		f := b.Solid.Shape.Faces()[i]
		got := f.Origin[axis]
		switch f.Kind {
		case solid.PlaneFace, solid.OtherFace:
			got = f.Centroid[axis]
		case solid.CylinderFace:
			if math.Abs(f.Axis[axis]) > 0.9 {
				got = f.Centroid[axis] // along the axis: the middle
			}
		}
		good := math.Abs(got-want) < 1e-6
		switch what[1] {
		case '>':
			good = f.Centroid[axis] > want
		case '<':
			good = f.Centroid[axis] < want
		}
		if !good {
			t.Errorf("%s lies at %c = %g, want %s", name, what[0], got, what)
		}
	}
}
