// Package pack reads zip files that strangers have made, of which what they unpack to is bounded before
// anything of it is made, and writes our own.
package pack

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"path"
	"strings"
)

// Bounds of a packed file.
const (
	MaxFiles = 500
	MaxFile  = 64 << 20  // of one file, in bytes
	MaxAll   = 256 << 20 // of all together
	MaxRatio = 100       // of what comes out to what is there
	small    = 1 << 20   // so much may come out of anything
)

// Archive is a packed file whose directory has been read.
type Archive struct {
	files []*zip.File
	left  int64
}

// Open reads the directory of a packed file. Folders, hidden files and what some systems add
// by themselves are left out.
func Open(data []byte) (*Archive, error) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		return nil, fmt.Errorf("this is not a readable zip file (packed): %w", err)
	}
	if len(z.File) > MaxFiles {
		return nil, fmt.Errorf("the packed file holds %d files, and at most %d are taken", len(z.File), MaxFiles)
	}
	a := &Archive{left: min(MaxAll, max(small, MaxRatio*int64(len(data))))}
	all := uint64(0)
	for _, f := range z.File {
		if f.FileInfo().IsDir() || strings.HasPrefix(path.Base(f.Name), ".") || strings.HasPrefix(f.Name, "__MACOSX/") {
			continue
		}
		all += f.UncompressedSize64
		if f.UncompressedSize64 > MaxFile || all > uint64(a.left) {
			return nil, a.tooMuch(f.Name)
		}
		a.files = append(a.files, f)
	}
	return a, nil
}

func (a *Archive) tooMuch(name string) error {
	return fmt.Errorf("%s makes the packed file unpack to more than is taken (%d MB a file, %d MB in all, and %d times "+
		"what is packed)", name, MaxFile>>20, MaxAll>>20, MaxRatio)
}

// Names lists the files in their order.
func (a *Archive) Names() []string {
	out := make([]string, len(a.files))
	for i, f := range a.files {
		out[i] = f.Name
	}
	return out
}

// Read unpacks a file. What a directory says of its size is not believed.
func (a *Archive) Read(name string) ([]byte, error) {
	for _, f := range a.files {
		if f.Name != name {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, fmt.Errorf("%s in the packed file cannot be opened: %w", name, err)
		}
		defer r.Close()
		most := min(a.left, MaxFile)
		body, err := io.ReadAll(io.LimitReader(r, most+1))
		if err != nil {
			return nil, fmt.Errorf("%s in the packed file is damaged: %w", name, err)
		}
		if int64(len(body)) > most {
			return nil, a.tooMuch(name)
		}
		a.left -= int64(len(body))
		return body, nil
	}
	return nil, fmt.Errorf("the packed file holds no %s", name)
}

// File is a file to be packed.
type File struct {
	Name string
	Body []byte
}

// Write packs files in their order. The same files give the same bytes: they carry no dates.
func Write(list []File) ([]byte, error) {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range list {
		w, err := z.Create(f.Name)
		if err != nil {
			return nil, err
		}
		if _, err := w.Write(f.Body); err != nil {
			return nil, err
		}
	}
	if err := z.Close(); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}
