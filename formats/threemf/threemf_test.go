package threemf

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"io"
	"testing"

	"hammerset/core/solid"
)

// A tetrahedron whose faces have corners of their own comes out as one closed mesh
// of four corners: every edge is run once each way, as the core specification asks
// of a manifold object.
func TestMeshIsClosed(t *testing.T) {
	corners := []solid.Vec{{0, 0, 0}, {10, 0, 0}, {0, 10, 0}, {0, 0, 10}}
	m := &solid.Mesh{}
	for _, f := range [][3]int{{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}, {1, 1, 2}} { // the last has no area
		for _, k := range f {
			m.Triangles = append(m.Triangles, int32(len(m.Vertices)/3))
			m.Vertices = append(m.Vertices, corners[k][:]...)
		}
	}
	data, err := Write(m, `pawl <"plate"> & more`)
	if err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	parts := map[string][]byte{}
	for _, f := range z.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		if parts[f.Name], err = io.ReadAll(r); err != nil {
			t.Fatal(err)
		}
	}
	for _, name := range []string{"[Content_Types].xml", "_rels/.rels", "3D/3dmodel.model"} {
		if err := xml.Unmarshal(parts[name], new(struct{ XMLName xml.Name })); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	var model struct {
		Unit   string `xml:"unit,attr"`
		Object []struct {
			Name     string `xml:"name,attr"`
			Vertices []struct {
				X float64 `xml:"x,attr"`
			} `xml:"mesh>vertices>vertex"`
			Triangles []struct {
				A int `xml:"v1,attr"`
				B int `xml:"v2,attr"`
				C int `xml:"v3,attr"`
			} `xml:"mesh>triangles>triangle"`
		} `xml:"resources>object"`
	}
	if err := xml.Unmarshal(parts["3D/3dmodel.model"], &model); err != nil {
		t.Fatal(err)
	}
	o := model.Object[0]
	if model.Unit != "millimeter" || o.Name != `pawl <"plate"> & more` || len(o.Vertices) != 4 || len(o.Triangles) != 4 {
		t.Errorf("%s, %q: %d corners, %d triangles", model.Unit, o.Name, len(o.Vertices), len(o.Triangles))
	}
	runs := map[[2]int]int{}
	for _, f := range o.Triangles {
		for _, e := range [][2]int{{f.A, f.B}, {f.B, f.C}, {f.C, f.A}} {
			runs[e]++
		}
	}
	for e, n := range runs {
		if n != 1 || runs[[2]int{e[1], e[0]}] != 1 {
			t.Errorf("the edge %v is run %d times, back %d times", e, n, runs[[2]int{e[1], e[0]}])
		}
	}
}
