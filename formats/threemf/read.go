package threemf

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"path"
	"strconv"
	"strings"

	"hammerset/core/solid"
	"hammerset/formats/pack"
)

// maxBuilt bounds the triangles that a model is built of, counting an object as often as it is
// placed.
const maxBuilt = 2_000_000

// units of a 3MF model in millimetres (core specification, 3.4).
var units = map[string]float64{"": 1, "millimeter": 1, "micron": 0.001, "centimeter": 10, "meter": 1000,
	"inch": 25.4, "foot": 304.8}

type model struct {
	Unit    string   `xml:"unit,attr"`
	Objects []object `xml:"resources>object"`
	Items   []item   `xml:"build>item"`
}

type object struct {
	ID       string `xml:"id,attr"`
	Vertices []struct {
		X float64 `xml:"x,attr"`
		Y float64 `xml:"y,attr"`
		Z float64 `xml:"z,attr"`
	} `xml:"mesh>vertices>vertex"`
	Triangles []struct {
		A int `xml:"v1,attr"`
		B int `xml:"v2,attr"`
		C int `xml:"v3,attr"`
	} `xml:"mesh>triangles>triangle"`
	Components []item `xml:"components>component"`
}

type item struct {
	Object    string `xml:"objectid,attr"`
	Transform string `xml:"transform,attr"`
}

// Is tells whether a zip package holds a 3MF model.
func Is(data []byte) bool {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return false
	}
	for _, f := range z.File {
		if strings.EqualFold(path.Ext(f.Name), ".model") {
			return true
		}
	}
	return false
}

// Read gives what a 3MF package builds as one mesh, in millimetres. The error names the
// place.
func Read(data []byte) (*solid.Mesh, error) {
	z, err := pack.Open(data)
	if err != nil {
		return nil, err
	}
	var text []byte
	for _, name := range z.Names() {
		if strings.EqualFold(path.Ext(name), ".model") {
			if text, err = z.Read(name); err != nil {
				return nil, err
			}
			break
		}
	}
	if text == nil {
		return nil, errors.New("the package holds no 3D model")
	}
	var m model
	if err := xml.Unmarshal(text, &m); err != nil {
		return nil, fmt.Errorf("the 3D model is not readable: %w", err)
	}
	unit, ok := units[m.Unit]
	if !ok {
		return nil, fmt.Errorf("%q is not a unit of 3MF", m.Unit)
	}
	objects := map[string]*object{}
	for i := range m.Objects {
		objects[m.Objects[i].ID] = &m.Objects[i]
	}
	built := 0
	cost := map[string]int{}
	for _, it := range m.Items {
		if built += costOf(objects, it.Object, cost); built > maxBuilt {
			return nil, fmt.Errorf("the model is built of more than %d triangles", maxBuilt)
		}
	}
	w := solid.NewWelder()
	scale := solid.Transform{M: [3]solid.Vec{{unit, 0, 0}, {0, unit, 0}, {0, 0, unit}}}
	for _, it := range m.Items {
		if err := place(w, objects, it, scale, 0); err != nil {
			return nil, err
		}
	}
	return w.Mesh(), nil
}

// costOf counts the triangles and placements of an object, without making them; it ends at the
// bound. One that contains itself is over it.
func costOf(objects map[string]*object, id string, known map[string]int) int {
	if n, ok := known[id]; ok {
		return n
	}
	o := objects[id]
	if o == nil {
		return 1 // said when it is placed
	}
	known[id] = maxBuilt + 1
	n := 1 + len(o.Triangles)
	for _, c := range o.Components {
		if n += costOf(objects, c.Object, known); n > maxBuilt {
			return maxBuilt + 1
		}
	}
	known[id] = n
	return n
}

// place adds an object, or the objects that it is composed of.
func place(w *solid.Welder, objects map[string]*object, it item, outer solid.Transform, depth int) error {
	o := objects[it.Object]
	if o == nil || depth > 16 {
		return fmt.Errorf("the object %q is missing, or contains itself", it.Object)
	}
	own, err := transform(it.Transform)
	if err != nil {
		return err
	}
	t := own.Then(outer)
	for i, tri := range o.Triangles {
		var p [3]solid.Vec
		for k, v := range []int{tri.A, tri.B, tri.C} {
			if v < 0 || v >= len(o.Vertices) {
				return fmt.Errorf("object %s, triangle %d: there is no vertex %d", o.ID, i+1, v)
			}
			q := o.Vertices[v]
			p[k] = t.Apply(solid.Vec{q.X, q.Y, q.Z})
		}
		w.Triangle(p[0], p[1], p[2])
	}
	for _, c := range o.Components {
		if err := place(w, objects, c, t, depth+1); err != nil {
			return err
		}
	}
	return nil
}

// transform reads the twelve numbers of a 3MF transform: a 4 by 3 matrix that is applied
// to row vectors, row by row.
func transform(s string) (solid.Transform, error) {
	t := solid.Identity
	if s == "" {
		return t, nil
	}
	f := strings.Fields(s)
	if len(f) != 12 {
		return t, fmt.Errorf("a transform has twelve numbers, and %q has %d", s, len(f))
	}
	for i, text := range f {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			return t, fmt.Errorf("%q in a transform is no number", text)
		}
		if r := i / 3; r < 3 {
			t.M[i%3][r] = v
		} else {
			t.T[i%3] = v
		}
	}
	return t, nil
}
