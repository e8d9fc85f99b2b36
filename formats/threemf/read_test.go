package threemf

import (
	"archive/zip"
	"bytes"
	"fmt"
	"strings"
	"testing"
)

// A few hundred bytes can place an object ten times in another, and that ten times in the
// next: it is counted before any of it is made.
func TestMultipliedModelIsRefused(t *testing.T) {
	var x strings.Builder
	x.WriteString(`<model unit="millimeter"><resources><object id="0"><mesh><vertices><vertex x="0" y="0" z="0"/>
		<vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/></vertices><triangles><triangle v1="0" v2="1" v3="2"/>
		</triangles></mesh></object>`)
	for i := 1; i <= 14; i++ {
		fmt.Fprintf(&x, `<object id="%d"><components>%s</components></object>`, i,
			strings.Repeat(fmt.Sprintf(`<component objectid="%d"/>`, i-1), 10))
	}
	x.WriteString(`</resources><build><item objectid="14"/></build></model>`)
	circle := `<model><resources><object id="1"><components><component objectid="1"/></components></object></resources>
		<build><item objectid="1"/></build></model>`
	for name, text := range map[string]string{"multiplied": x.String(), "in a circle": circle} {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		w, err := z.Create("3D/3dmodel.model")
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(text)); err != nil {
			t.Fatal(err)
		}
		if err := z.Close(); err != nil {
			t.Fatal(err)
		}
		if _, err := Read(out.Bytes()); err == nil || !strings.Contains(err.Error(), "more than 2000000 triangles") {
			t.Errorf("%s: %v", name, err)
		}
	}
}
