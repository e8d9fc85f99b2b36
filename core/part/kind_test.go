package part

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"hammerset/core/quantity"
)

// What a field of each kind holds in a document, when it says that it builds on the step b1.
var held = map[string]string{
	asLength: `"7 mm"`, asAngle: `"7 deg"`, asNumber: `"7"`, asFlag: `true`, asText: `"words"`, asSkip: `[2]`,
	asFile:   `"ISO-10303-21;"`,
	asSketch: `"b1"`, asSketches: `["b1"]`, asPath: `"b1"`, asRegions: `"all"`, asSpots: `["p1"]`, asLines: `["l1"]`,
	asSpot: `"p1"`,
	asFace: `"b1/end"`, asFaces: `["b1/end"]`, asEdge: `{"around":"b1/end"}`, asEdges: `[{"between":["b1/end",
	"b1/start"]}]`,
	asPlane: `{"face":"b1/end"}`, asPlanes: `[{"step":"b1"},{"face":"b1/end"}]`, asAxis: `{"edge":{"around":"b1/end"}}`,
	asPoints: `[{"corner":["b1/end","b1/start","b1/side:l1"]}]`, asSteps: `["b1"]`, asSolid: `["b1"]`, asSolids: `["b1"]`,
}

// Kinds of fields that name steps.
var naming = []string{asSketch, asSketches, asPath, asFace, asFaces, asEdge, asEdges, asPlane, asPlanes, asAxis,
	asPoints, asSteps, asSolid, asSolids}

// filled is a step of a kind with a field in it, as a document has it. What a path leads through
// is made on the way.
func filled(t *testing.T, kind *Kind, f Field) *Step {
	t.Helper()
	value := held[f.Kind]
	if f.Kind == asChoice {
		value = fmt.Sprintf("%q", f.Options[len(f.Options)-1])
	}
	if value == "" {
		t.Fatalf("%s: nothing is known of fields of kind %q", f.Path, f.Kind)
	}
	names := strings.Split(f.Path, ".")
	for i := len(names) - 1; i >= 0; i-- {
		switch {
		case names[i] == "0":
			value = "[" + value + ",{}]"
		case names[i] == "1":
			value = "[{}," + value + "]"
		default:
			value = fmt.Sprintf("{%q:%s}", names[i], value)
		}
	}
	s := &Step{}
	text := fmt.Sprintf(`{"id":"x1","kind":%q,%s`, kind.Name, value[1:])
	if err := s.strictly([]byte(text)); err != nil {
		t.Fatalf("%s: the step has no field %s: %v", kind.Name, f.Path, err)
	}
	return s
}

// Every kind of step says all that is to be said of it: its words, its form, and of every field
// what is in it. Whoever leaves a part out reads here what is missing.
func TestEveryKindOfStepIsWhole(t *testing.T) {
	schema, err := os.ReadFile("../../docs/formats/model.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	dims := map[string]quantity.Dim{asLength: quantity.Length, asAngle: quantity.Angle, asNumber: quantity.Number}
	seen := map[string]bool{}
	for _, k := range All() {
		if seen[k.Name] || k.Name == "" || k.Title == "" || k.What == "" || k.Group == "" || len(k.Letter) != 1 ||
			k.New == nil || len(k.Fields) == 0 {
			t.Errorf("the declaration of %q is not whole, or stands twice", k.Name)
			continue
		}
		seen[k.Name] = true
		if !strings.Contains(string(schema), fmt.Sprintf("%q", k.Name)) {
			t.Errorf("%s: docs/formats/model.schema.json does not have the kind", k.Name)
		}
		paths := map[string]bool{}
		for _, f := range k.Fields {
			paths[f.Path] = true
			s := filled(t, k, f)
			if f.Label == "" {
				t.Errorf("%s: the field %s has no label", k.Name, f.Path)
			}
			var fields map[string]any
			if err := json.Unmarshal([]byte(encoded(s)), &fields); err != nil || fields[strings.Split(f.Path, ".")[0]] == nil {
				t.Errorf("%s: %s is lost: %s, %v", k.Name, f.Path, encoded(s), err)
			}
			if first := strings.Split(f.Path, ".")[0]; !strings.Contains(string(schema), fmt.Sprintf("%q", first)) {
				t.Errorf("%s: docs/formats/model.schema.json does not have the field %s", k.Name, first)
			}
			if dim, sized := dims[f.Kind]; sized {
				sizes := s.Sizes()
				if len(sizes) != 1 || sizes[0].Path != f.Path || sizes[0].Dim != dim || sizes[0].Role == "" {
					t.Errorf("%s: its visit does not tell of the size %s: %+v", k.Name, f.Path, sizes)
				}
				if !s.SetSize(f.Path, "9") || s.Formulas()[0] != "9" {
					t.Errorf("%s: the size %s cannot be changed", k.Name, f.Path)
				}
			} else if len(s.Sizes()) > 0 {
				t.Errorf("%s: %s is no formula, and its visit tells of one", k.Name, f.Path)
			}
			if slices.Contains(naming, f.Kind) != slices.Contains(s.Needs(), "b1") {
				t.Errorf("%s: its visit tells wrongly what %s builds on: %v", k.Name, f.Path, s.Needs())
			}
			// A field counts with another that is in the form.
			if other, _, _ := strings.Cut(f.When, "="); other != "" &&
				!slices.ContainsFunc(k.Fields, func(o Field) bool { return o.Path == other }) {
				t.Errorf("%s: %s counts with %s, which the form does not have", k.Name, f.Path, other)
			}
		}
		if k.Main != "" && !paths[k.Main] {
			t.Errorf("%s: the form has no %s, which is to be typed first", k.Name, k.Main)
		}
	}
}
