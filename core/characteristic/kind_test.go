package characteristic

import (
	"encoding/json"
	"math"
	"os"
	"regexp"
	"slices"
	"testing"
)

// Every kind is declared whole: it has a measure of its own sort and words for people, and the
// schema of exercises has it.
func TestDeclarations(t *testing.T) {
	data, err := os.ReadFile("../../docs/formats/exercise.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	var schema struct {
		Defs struct {
			Characteristic struct {
				Properties struct{ Kind struct{ Enum []string } }
			}
		} `json:"$defs"`
	}
	if err := json.Unmarshal(data, &schema); err != nil {
		t.Fatal(err)
	}
	var names, titles []string
	for _, k := range All() {
		names, titles = append(names, k.Name), append(titles, k.Title)
		how := map[bool]int{true: 1}
		if n := how[k.Measure != nil] + how[k.OfWhole != nil] + how[k.Said != nil]; n != 1 {
			t.Errorf("%s is measured in %d ways", k.Name, n)
		}
		if k.Whole() != (k.On == "") || k.Whole() && k.Measure != nil || !k.Whole() && k.OfWhole != nil ||
			k.Worded() != (k.Said != nil) {
			t.Errorf("%s: what it is measured on does not fit how it is measured", k.Name)
		}
		if k.Zero() && k.Print == nil {
			t.Errorf("%s states no number and prints nothing", k.Name)
		}
		if !regexp.MustCompile(`^[a-z][a-z ,-]+$`).MatchString(k.Title) {
			t.Errorf("%s is called %q", k.Name, k.Title)
		}
		for _, s := range k.Slips {
			if s.Cause == "" || !regexp.MustCompile(`%s`).MatchString(s.Remedy) || s.Sure != "likely" && s.Sure != "possible" {
				t.Errorf("%s has half a slip: %+v", k.Name, s)
			}
		}
		if Of(k.Name) == nil || Of(k.Name).Title != k.Title {
			t.Errorf("%s is not found by its name", k.Name)
		}
	}
	if !slices.IsSorted(titles) {
		t.Errorf("not in the order of their titles: %q", titles)
	}
	slices.Sort(names)
	slices.Sort(schema.Defs.Characteristic.Properties.Kind.Enum)
	if !slices.Equal(names, schema.Defs.Characteristic.Properties.Kind.Enum) {
		t.Errorf("declared are %q, and in the schema %q", names, schema.Defs.Characteristic.Properties.Kind.Enum)
	}
	if Of("roundness") != nil {
		t.Error("a kind that there is not is found")
	}
}

// The usual mistakes show at the values that they make, in the report's millimetres and degrees.
func TestSlips(t *testing.T) {
	for _, c := range []struct {
		kind              string
		measured, nominal float64
		sure              string // of the first slip that shows; empty where none does
	}{
		{"diameter", 48, 24, "likely"}, {"diameter", 12, 24, "likely"}, {"radius", 10, 5, "likely"},
		{"bolt-circle", 30, 60, "likely"},
		{"distance", 140, 70, "possible"}, {"distance", 35, 70, "possible"}, {"angle", 52, 38, "likely"},
		{"angle", 142, 38, "likely"},
		{"depth", 10, 5, ""}, {"diameter", 24.1, 24, ""}, {"spacing", 30, 60, ""},
	} {
		sure := ""
		for _, s := range Of(c.kind).Slips {
			if s.Shows(c.measured, c.nominal) {
				sure = s.Sure
				break
			}
		}
		if sure != c.sure {
			t.Errorf("%s %g for %g: %q, want %q", c.kind, c.measured, c.nominal, sure, c.sure)
		}
	}
}

// Rates of tapers and slopes are angles: the cones of ISO 1119:1998, table 1 (from memory), and the pitch of a roof.
func TestRates(t *testing.T) {
	degrees := func(d, m, s float64) float64 { return (d + m/60 + s/3600) * math.Pi / 180 }
	for _, c := range []struct {
		kind  string
		angle float64
		text  string
	}{
		{"taper", degrees(18, 55, 28.7), "1:3"}, {"taper", degrees(11, 25, 16.3), "1:5"},
		{"taper", degrees(5, 43, 29.3), "1:10"}, {"taper", degrees(2, 51, 51.1), "1:20"},
		{"taper", degrees(1, 8, 45.2), "1:50"}, {"taper", degrees(90, 0, 0), "1:0.5"},
		{"taper", degrees(16, 35, 39.4), "1:3.4"}, // 7:24, which is 1:3.42857
		{"slope", degrees(45, 0, 0), "1:1"}, {"slope", math.Atan(0.125), "1:8"}, {"slope", math.Atan(3.0 / 100), "1:33.3"},
	} {
		s := Of(c.kind).Stated(c.angle)
		if s.Text != c.text || math.Abs(s.Value-c.angle) > s.Half+degrees(0, 0, 0.06) {
			t.Errorf("%s of %.6f is stated as %s, which is %.6f within %.6f", c.kind, c.angle, s.Text, s.Value, s.Half)
		}
	}
}
