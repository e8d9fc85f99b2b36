package alike

import (
	"fmt"
	"strings"
	"testing"
)

func model(name string, points ...[2]float64) []byte {
	var at []string
	for _, p := range points {
		at = append(at, fmt.Sprintf(`{"id":"p","kind":"point","at":[%g,%g]}`, p[0], p[1]))
	}
	return []byte(`{"hammerset":"model/1","name":"x","parameters":[{"name":"width","value":"5 mm"},{"name":"` + name +
		`","value":"1 mm"}],"steps":[{"id":"s1","kind":"sketch","entities":[` + strings.Join(at, ",") +
		`]},{"id":"` + name + `","kind":"extrude","name":"body"}]}`)
}

// rig is the document of an assembly whose components stand at places along x.
func rig(name string, places ...float64) []byte {
	var list []string
	for i, x := range places {
		list = append(list, fmt.Sprintf(`{"id":"c%d","name":%q,"pose":{"shift":[%g,0,12]}}`, i, name, x))
	}
	return []byte(`{"hammerset":"assembly/1","components":[` + strings.Join(list, ",") +
		`],"joints":[{"id":"j1","kind":"rigid"}]}`)
}

func stepFile(stamp, author, extra string) []byte {
	return []byte("ISO-10303-21;\nHEADER;\nFILE_NAME('o''x.step',\n '" + stamp + "',('" + author +
		"'),('school'),'p','s','');\nENDSEC;\nDATA;\n" +
		"#1=PRODUCT('part','part','',(#2));\n#2=CARTESIAN_POINT('',(0.,0.,0.));\n" +
		extra + "ENDSEC;\n")
}

// Two are worth a look for what nobody else has, and not for what a class has in common or what chance gives.
func TestPairs(t *testing.T) {
	odd := [][2]float64{{12.3471, -3.2181}, {7.0013, 20}, {0.3333, 4.4444}}
	round := [][2]float64{{10, 20.25}, {25.4, 12.7}, {0.005 * 2, 3}}
	for _, c := range []struct {
		name string
		of   [][]byte
		want string
	}{
		{"the same odd places", [][]byte{model("a", odd...), model("b", round...), model("c", odd...), model("d")},
			"0 and 2: both have a point at 0.3333, 4.4444, a point at 12.3471, -3.2181, a point at 7.0013, 20; so has nobody " +
				"else of 4. 2 more that both have are common in the class"},
		{"places that sizes give", [][]byte{model("a", round...), model("b", round...), model("c"), model("d")}, ""},
		{"what the whole class has", [][]byte{model("a", odd...), model("b", odd...), model("c", odd...), model("d", odd...)},
			""},
		{"one place and a name", [][]byte{model("stoker", odd[0]), model("stoker", odd[0]), model("c"), model("d")}, ""},
		{"a time to the second", [][]byte{stepFile("2026-10-01T10:00:01", "ada", ""),
			stepFile("2026-10-01T10:00:01", "bram", "#3=PLANE('',#4);\n"),
			stepFile("2026-10-02T10:00:01", "cleo", "#3=LINE('',#4,#5);\n")},
			"0 and 1: both have the time stamp 2026-10-01T10:00:01; so has nobody else of 3. 1 more that both have " +
				"are common in the class"},
		{"an author and the same entities", [][]byte{stepFile("1", "ada", "#3=PLANE('',#4);\n"),
			stepFile("2", "ada", "#9=PLANE('',#4);\n"), stepFile("3", "cleo", ""), stepFile("4", "dov", "")},
			"0 and 1: both have the author “ada”, all entities of the file in the same order; so has nobody else of 4. " +
				"1 more that both have are common in the class"},
		{"an assembly put together alike", [][]byte{rig("sticky", 7.1234, 8.0123, 1.2345), rig("lever", 20, 30),
			rig("sticky", 7.1234, 8.0123, 1.2345), rig("arm", 1.5, 2, 3), rig("handle", 3)},
			"0 and 2: both have a point at 1.2345, 0, 12, a point at 7.1234, 0, 12, a point at 8.0123, 0, 12, the name " +
				"“sticky”; so has nobody else of 5. 1 more that both have are common in the class"},
		{"two alone", [][]byte{model("a", odd...), model("a", odd...)}, ""},
		{"no model at all", [][]byte{[]byte("{broken"), []byte("solid x"), nil}, ""},
	} {
		var of [][]Trait
		for _, data := range c.of {
			of = append(of, Of(data))
		}
		var said []string
		for _, p := range Pairs(of) {
			said = append(said, fmt.Sprintf("%d and %d: %s", p.A, p.B, p.Why(len(of))))
		}
		if got := strings.Join(said, "\n"); got != c.want {
			t.Errorf("%s:\n%s, want\n%s", c.name, got, c.want)
		}
	}
}

// Of several files that were handed in together each trait counts once.
func TestOfAll(t *testing.T) {
	one := rig("lever", 7.1234)
	if got, want := OfAll([][]byte{one, model("lever", [2]float64{0.3333, 4}), one}), len(Of(one))+4; len(got) != want {
		t.Errorf("%d traits, want %d: %v", len(got), want, got)
	}
}
