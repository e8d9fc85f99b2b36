package pack

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"
)

func zipped(t *testing.T, files map[string]int64) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, size := range files {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := io.CopyN(w, zeros{}, size); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

func TestBounds(t *testing.T) {
	many := map[string]int64{}
	for i := range MaxFiles + 1 {
		many[fmt.Sprintf("f%d", i)] = 1
	}
	for _, c := range []struct {
		name string
		data []byte
		want string
	}{
		{"a small one", zipped(t, map[string]int64{"a": 1000}), ""},
		{"thirty kB that become thirty MB", zipped(t, map[string]int64{"a": 30 << 20}), "times what is packed"},
		{"many files", zipped(t, many), "at most 500"},
		{"garbage", []byte("PK\x03\x04...."), "not a readable zip"},
	} {
		a, err := Open(c.data)
		if err == nil {
			_, err = a.Read("a")
		}
		if (err == nil) != (c.want == "") || err != nil && !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", c.name, err, c.want)
		}
	}
	// A directory that lies about the size is not believed.
	data := zipped(t, map[string]int64{"a": 8 << 20})
	at := bytes.LastIndex(data, []byte("PK\x01\x02"))
	copy(data[at+24:], []byte{10, 0, 0, 0}) // the unpacked size in the directory
	a, err := Open(data)
	if err == nil {
		_, err = a.Read("a")
	}
	if err == nil {
		t.Error("a file that is larger than its directory says was unpacked")
	}
}
