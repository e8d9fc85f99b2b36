// Package stl reads and writes triangle meshes as STL.
package stl

import (
	"bytes"
	"encoding/binary"

	"hammerset/core/solid"
)

// Write gives the mesh as binary STL, in the mesh's unit.
func Write(m *solid.Mesh) []byte {
	var b bytes.Buffer
	b.Write(make([]byte, 80))
	n := len(m.Triangles) / 3
	put := func(v any) { _ = binary.Write(&b, binary.LittleEndian, v) } // a buffer does not fail
	put(uint32(n))
	at := func(i int32) solid.Vec { return solid.Vec(m.Vertices[3*i : 3*i+3]) }
	for t := range n {
		p, q, r := at(m.Triangles[3*t]), at(m.Triangles[3*t+1]), at(m.Triangles[3*t+2])
		for _, v := range []solid.Vec{q.Sub(p).Cross(r.Sub(p)).Unit(), p, q, r} {
			put([3]float32{float32(v[0]), float32(v[1]), float32(v[2])})
		}
		put(uint16(0))
	}
	return b.Bytes()
}
