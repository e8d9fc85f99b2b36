package stl

import (
	"bufio"
	"bytes"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"hammerset/core/solid"
)

// Binary tells whether the length of a file is that of the number of facets in its 81st to
// 84th byte.
func Binary(data []byte) bool {
	return len(data) >= 84 && uint64(len(data)) == 84+50*uint64(binary.LittleEndian.Uint32(data[80:]))
}

// Read gives the triangles of an STL file, binary or text, in the file's own unit, which
// it does not state. Corners in one place are one vertex. The error names the facet or
// line.
func Read(data []byte) (*solid.Mesh, error) {
	w := solid.NewWelder()
	if Binary(data) {
		for n := range (len(data) - 84) / 50 {
			var p [3]solid.Vec
			for k := range 9 {
				v := float64(math.Float32frombits(binary.LittleEndian.Uint32(data[84+50*n+12+4*k:])))
				if math.IsNaN(v) || math.IsInf(v, 0) {
					return nil, fmt.Errorf("facet %d has a corner that is no number", n+1)
				}
				p[k/3][k%3] = v
			}
			w.Triangle(p[0], p[1], p[2])
		}
		return w.Mesh(), nil
	}
	lines := bufio.NewScanner(bytes.NewReader(data))
	lines.Buffer(nil, 1<<16)
	var p []solid.Vec
	for n := 1; lines.Scan(); n++ {
		f := strings.Fields(lines.Text())
		if len(f) == 0 {
			continue
		}
		switch strings.ToLower(f[0]) {
		case "vertex":
			if len(f) != 4 {
				return nil, fmt.Errorf("line %d: a vertex has three coordinates, and this one %d", n, len(f)-1)
			}
			var v solid.Vec
			for k := range 3 {
				x, err := strconv.ParseFloat(f[k+1], 64)
				if err != nil || math.IsNaN(x) || math.IsInf(x, 0) {
					return nil, fmt.Errorf("line %d: %q is no number", n, f[k+1])
				}
				v[k] = x
			}
			p = append(p, v)
		case "endfacet":
			if len(p) != 3 {
				return nil, fmt.Errorf("line %d: a facet has three corners, and this one %d", n, len(p))
			}
			w.Triangle(p[0], p[1], p[2])
			p = p[:0]
		}
	}
	if err := lines.Err(); err != nil {
		return nil, err
	}
	if len(p) > 0 {
		return nil, errors.New("the file is cut short within a facet")
	}
	return w.Mesh(), nil
}
