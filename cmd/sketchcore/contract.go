//go:build !(js && wasm)

package main

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3gen"

	"hammerset/core/address"
	"hammerset/core/assembly"
	fit "hammerset/core/assembly/session"
	"hammerset/core/sketch"
	"hammerset/core/sketch/session"
)

//go:generate sh -c "go run . contract > ../../web/src/sketch/core/session.json"
//go:generate sh -c "cd ../../web && npm run --silent session-types"

// called is what the interface calls types, where that is not their own name.
var called = map[reflect.Type]string{
	reflect.TypeFor[sketch.Vec]():       "Spot",
	reflect.TypeFor[session.Pick]():     "Hit",
	reflect.TypeFor[session.Document](): "SketchDocument",
	reflect.TypeFor[drawn]():            "Drawn",
	reflect.TypeFor[reach]():            "Reach",
	reflect.TypeFor[end]():              "ReachEnd",
	reflect.TypeFor[imported]():         "Imported",
	reflect.TypeFor[kind]():             "Kind",
	reflect.TypeFor[lists]():            "Lists",
	reflect.TypeFor[fit.Frame]():        "FittingFrame",
	reflect.TypeFor[fit.Command]():      "FittingCommand",
	reflect.TypeFor[fit.Preview]():      "FittingPreview",
	reflect.TypeFor[fit.Moving]():       "FittingMoving",
	reflect.TypeFor[fit.Pose]():         "FittingPose",
	reflect.TypeFor[fit.ComponentRow](): "FittingComponent",
	reflect.TypeFor[fit.GroupRow]():     "FittingGroup",
	reflect.TypeFor[fit.Motion]():       "FittingMotion",
	reflect.TypeFor[fit.Path]():         "FittingPath",
	reflect.TypeFor[fit.Measured]():     "FittingMeasured",
	reflect.TypeFor[fit.Alike]():        "FittingAlike",
	reflect.TypeFor[fit.Drawn]():        "FittingApart",
	reflect.TypeFor[fit.CutRow]():       "FittingCut",
	reflect.TypeFor[fit.Proposed]():     "FittingProposed",
	reflect.TypeFor[fit.Drag]():         "FittingDrag",
	reflect.TypeFor[fit.Finding]():      "FittingFinding",
	reflect.TypeFor[assembly.Table]():   "MotionTable",
	reflect.TypeFor[assembly.Offer]():   "JointOffer",
	reflect.TypeFor[assembly.Joint]():   "AssemblyJoint",
	reflect.TypeFor[assembly.Part]():    "AssemblyPart",
	reflect.TypeFor[assembly.Driving](): "JointRange",
}

// contract describes what calls take and give as the components of an OpenAPI document, of which the types of
// the interface are made. A field that is left out where it is empty is optional; every other is always there.
func contract() ([]byte, error) {
	schemas := openapi3.Schemas{}
	gen := openapi3gen.NewGenerator(
		openapi3gen.CreateComponentSchemas(openapi3gen.ExportComponentSchemasOptions{ExportComponentSchemas: true,
			ExportTopLevelSchema: true}),
		openapi3gen.CreateTypeNameGenerator(func(t reflect.Type) string {
			if name := called[t]; name != "" {
				return name
			}
			return t.Name()
		}),
		openapi3gen.SchemaCustomizer(require))
	for _, v := range []any{session.Frame{}, session.Command{}, session.Preview{}, session.Offer{}, session.Pick{},
		session.Document{}, drawn{}, reach{}, imported{}, lists{}, fit.Frame{}, fit.Command{}, fit.Preview{}, fit.Moving{},
		fit.Motion{}, fit.Measured{}, fit.Alike{}, fit.Drawn{}, fit.CutRow{}, fit.Proposed{}, fit.Drag{}, fit.Plane{},
		fit.Finding{}, assembly.Offer{}} {
		if _, err := gen.NewSchemaRefForValue(v, schemas); err != nil {
			return nil, err
		}
	}
	for _, t := range []reflect.Type{reflect.TypeFor[sketch.Entity](), reflect.TypeFor[sketch.Constraint]()} {
		schemas[t.Name()] = openapi3.NewObjectSchema().WithAnyAdditionalProperties().NewRef() // passed on as they are
	}
	schemas["Ref"] = openapi3.NewStringSchema().NewRef() // written as one text
	doc := openapi3.T{OpenAPI: "3.0.3", Info: &openapi3.Info{Title: "The sketch core", Version: "1"},
		Paths: openapi3.NewPaths(), Components: &openapi3.Components{Schemas: schemas}}
	return json.MarshalIndent(doc, "", " ")
}

// require says which fields of a struct are always there, and how long an array is.
func require(_ string, t reflect.Type, _ reflect.StructTag, schema *openapi3.Schema) error {
	switch t.Kind() {
	case reflect.Array:
		item := openapi3.NewFloat64Schema()
		if t.Elem().Kind() == reflect.String {
			item = openapi3.NewStringSchema()
		}
		n := int64(t.Len())
		*schema = *openapi3.NewArraySchema().WithItems(item).WithMinItems(n).WithMaxItems(n)
		return nil
	case reflect.Struct:
		if t == reflect.TypeFor[address.Ref]() {
			*schema = *openapi3.NewStringSchema()
			return nil
		}
	default:
		return nil
	}
	for _, f := range reflect.VisibleFields(t) {
		name, options, _ := strings.Cut(f.Tag.Get("json"), ",")
		if schema.Properties[name] != nil && !strings.Contains(options, "omitempty") {
			schema.Required = append(schema.Required, name)
		}
	}
	slices.Sort(schema.Required)
	return nil
}
