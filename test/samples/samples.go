// Package samples finds the public files that tests are held against, in Debian's gmsh-doc and netgen-doc and in a
// package of npm.
package samples

import (
	"compress/gzip"
	"io"
	"os"
	"testing"
)

// Folder is where gmsh-doc has its examples.
const Folder = "/usr/share/doc/gmsh-doc/doc/gmsh/"

// AS1 is the public AS1 assembly.
const AS1 = Folder + "demos/boolean/as1-tu-203.stp.gz"

// Screw is the countersunk screw of netgen-doc, with a raised head.
const Screw = "/usr/share/doc/netgen/examples/screw.step"

// Interchange has parts that several programs have written for one another to read (the test rounds of the CAx
// Interoperability Forum), as npm's occt-import-js ships them; a path from a folder of tests.
const Interchange = "../../web/node_modules/occt-import-js/test/testfiles/cax-if/"

// Unzip reads a file that is packed with gzip.
func Unzip(t testing.TB, path string) []byte {
	t.Helper()
	f, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		t.Fatal(err)
	}
	data, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	return data
}
