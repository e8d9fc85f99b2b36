// Package threemf reads and writes triangle meshes as 3MF (3D Manufacturing Format, core
// specification 1.3, also ISO/IEC 25422): a zip package with an XML model.
package threemf

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"strconv"
	"strings"

	"hammerset/core/solid"
	"hammerset/formats/pack"
)

const types = `<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
	<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
	<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>`

const relations = `<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
	<Relationship Target="/3D/3dmodel.model" Id="rel0"
		Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>`

// Object is a mesh with a name, in millimetres; Item is an object where it is placed, with the name of that use.
type Object struct {
	Name string
	Mesh *solid.Mesh
}

// Item is a placed object.
type Item struct {
	Object int
	Name   string
	Place  solid.Transform
}

// Write gives the mesh as a 3MF package.
func Write(m *solid.Mesh, name string) ([]byte, error) {
	return WriteAll([]Object{{name, m}}, []Item{{0, name, solid.Identity}}, name)
}

// WriteAll gives objects where they are placed as a 3MF package. Vertices in one place become one, so that a mesh is
// closed where its faces meet.
func WriteAll(objects []Object, items []Item, title string) ([]byte, error) {
	var model bytes.Buffer
	fmt.Fprintf(&model, `<?xml version="1.0" encoding="UTF-8"?>
<model unit="millimeter" xml:lang="en" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">
	<metadata name="Title">%s</metadata><resources>`, escaped(title))
	for i, o := range objects {
		fmt.Fprintf(&model, `<object id="%d" type="model" name="%s"><mesh>`, i+1, escaped(o.Name))
		writeMesh(&model, o.Mesh)
		model.WriteString(`</mesh></object>`)
	}
	model.WriteString(`</resources><build>`)
	for _, x := range items {
		fmt.Fprintf(&model, `<item objectid="%d" partnumber="%s"%s/>`, x.Object+1, escaped(x.Name), placed(x.Place))
	}
	model.WriteString(`</build></model>`)
	return pack.Write([]pack.File{{Name: "[Content_Types].xml", Body: []byte(types)}, {Name: "_rels/.rels",
		Body: []byte(relations)}, {Name: "3D/3dmodel.model", Body: model.Bytes()}})
}

func escaped(text string) string {
	var out bytes.Buffer
	_ = xml.EscapeText(&out, []byte(text)) // a buffer does not fail
	return out.String()
}

// placed is the attribute of a placement: a 4 by 3 matrix that is applied to row vectors, row by row.
func placed(t solid.Transform) string {
	if t == solid.Identity {
		return ""
	}
	var list []string
	for k := range 4 {
		for r := range 3 {
			v := t.T[r]
			if k < 3 {
				v = t.M[r][k]
			}
			list = append(list, strconv.FormatFloat(v, 'g', -1, 64))
		}
	}
	return fmt.Sprintf(` transform="%s"`, strings.Join(list, " "))
}

func writeMesh(model *bytes.Buffer, m *solid.Mesh) {
	model.WriteString(`<vertices>`)
	index := map[[3]string]int{}
	at := make([]int, len(m.Vertices)/3)
	for i := range at {
		var key [3]string
		for k := range 3 {
			key[k] = strconv.FormatFloat(m.Vertices[3*i+k], 'f', 6, 64)
			if key[k] == "-0.000000" {
				key[k] = "0.000000"
			}
		}
		n, ok := index[key]
		if !ok {
			n = len(index)
			index[key] = n
			fmt.Fprintf(model, `<vertex x="%s" y="%s" z="%s"/>`, key[0], key[1], key[2])
		}
		at[i] = n
	}
	model.WriteString(`</vertices><triangles>`)
	for t := 0; t+2 < len(m.Triangles); t += 3 {
		a, b, c := at[m.Triangles[t]], at[m.Triangles[t+1]], at[m.Triangles[t+2]]
		if a != b && b != c && c != a { // one of no area is left out
			fmt.Fprintf(model, `<triangle v1="%d" v2="%d" v3="%d"/>`, a, b, c)
		}
	}
	model.WriteString(`</triangles>`)
}
