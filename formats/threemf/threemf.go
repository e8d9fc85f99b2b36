// Package threemf reads and writes triangle meshes as 3MF (3D Manufacturing Format, core
// specification 1.3, also ISO/IEC 25422): a zip package with an XML model.
package threemf

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"fmt"
	"strconv"

	"hammerset/core/solid"
)

const types = `<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
	<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
	<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>`

const relations = `<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
	<Relationship Target="/3D/3dmodel.model" Id="rel0"
		Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>`

// Write gives the mesh as a 3MF package, in millimetres. Vertices in one place
// become one, so that the mesh is closed where its faces meet.
func Write(m *solid.Mesh, name string) ([]byte, error) {
	var model bytes.Buffer
	var title bytes.Buffer
	if err := xml.EscapeText(&title, []byte(name)); err != nil {
		return nil, err
	}
	fmt.Fprintf(&model, `<?xml version="1.0" encoding="UTF-8"?>
<model unit="millimeter" xml:lang="en" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">
	<metadata name="Title">%s</metadata><resources><object id="1" type="model" name="%s"><mesh><vertices>`,
		title.String(), title.String())
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
			fmt.Fprintf(&model, `<vertex x="%s" y="%s" z="%s"/>`, key[0], key[1], key[2])
		}
		at[i] = n
	}
	model.WriteString(`</vertices><triangles>`)
	for t := 0; t+2 < len(m.Triangles); t += 3 {
		a, b, c := at[m.Triangles[t]], at[m.Triangles[t+1]], at[m.Triangles[t+2]]
		if a != b && b != c && c != a { // one of no area is left out
			fmt.Fprintf(&model, `<triangle v1="%d" v2="%d" v3="%d"/>`, a, b, c)
		}
	}
	model.WriteString(`</triangles></mesh></object></resources><build><item objectid="1"/></build></model>`)
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range []struct {
		name string
		data []byte
	}{{"[Content_Types].xml", []byte(types)}, {"_rels/.rels", []byte(relations)}, {"3D/3dmodel.model", model.Bytes()}} {
		w, err := z.Create(f.name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(f.data); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
