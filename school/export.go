package school

import (
	"archive/zip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"path"
	"strings"
	"time"
	"unicode"

	"hammerset/core/gradebook"
	"hammerset/store"
)

// ExportClass writes a class with everything as a zip, file by file: who is in it, and of every exercise the sheet's
// own bundle and all that was handed in, with its report and its return. Tables are what writes the gradebook.
func (s *School) ExportClass(ctx context.Context, by Person, class int64,
	tables func(Gradebook) (map[string][]byte, error)) (name string, write func(io.Writer) error, err error) {
	book, err := s.Gradebook(ctx, by, class, gradebook.Last)
	if err != nil {
		return "", nil, err
	}
	_, _, issues, err := s.class(ctx, by, class)
	if err != nil {
		return "", nil, err
	}
	first, err := tables(book)
	if err != nil {
		return "", nil, err
	}
	return book.Class.Name, func(w io.Writer) error {
		e := &exporting{ctx: ctx, school: s, zip: zip.NewWriter(w), used: map[string]bool{}}
		for _, name := range []string{"roster.csv", "gradebook.csv", "gradebook.xlsx"} {
			if data, ok := first[name]; ok {
				e.put(name, data)
			}
		}
		for _, i := range issues {
			e.issue(i)
		}
		if e.err != nil {
			return e.err
		}
		return e.zip.Close()
	}, nil
}

// exporting is a class that is being written.
type exporting struct {
	ctx    context.Context
	school *School
	zip    *zip.Writer
	used   map[string]bool
	err    error
}

// put writes a file, under another name where there is one of that name.
func (e *exporting) put(name string, data []byte) {
	if e.err != nil {
		return
	}
	for n := 2; e.used[name]; n++ {
		ext := path.Ext(name)
		name = fmt.Sprintf("%s (%d)%s", strings.TrimSuffix(name, ext), n, ext)
	}
	e.used[name] = true
	w, err := e.zip.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Deflate, Modified: time.Now()})
	if err == nil {
		_, err = w.Write(data)
	}
	e.err = err
}

// issue writes an exercise as it was issued, and what was handed in.
func (e *exporting) issue(i store.Issue) {
	if e.err != nil {
		return
	}
	folder := safeName(strings.TrimSpace(i.Drawing+" "+i.Title)) + fmt.Sprintf(" (%d)/", i.ID)
	v, err := e.school.store.Version(e.ctx, i.VersionID)
	if err != nil {
		e.err = err
		return
	}
	e.put(folder+"exercise.json", v.Document)
	attempts, err := e.school.store.RowsOf(e.ctx, []int64{i.ID}, 0)
	if err != nil {
		e.err = err
		return
	}
	for _, a := range attempts[i.ID] {
		e.attempt(folder, i, a.ID)
	}
}

// attempt writes an attempt as it was handed in, its report and its return.
func (e *exporting) attempt(folder string, i store.Issue, id int64) {
	if e.err != nil {
		return
	}
	a, err := e.school.store.Attempt(e.ctx, id)
	if err != nil {
		e.err = err
		return
	}
	folder += fmt.Sprintf("%s/attempt %d/", safeName(a.StudentName), a.Number)
	data, err := e.school.store.File(e.ctx, a.FileSHA)
	if err != nil {
		e.err = err
		return
	}
	e.put(folder+safeName(a.FileName), data)
	if a.Report == nil {
		return
	}
	r, err := e.school.checked(e.ctx, true, a, i)
	if err != nil {
		e.err = err
		return
	}
	e.json(folder+"report.json", r)
	if a.Points == nil {
		return
	}
	back, err := e.school.store.ReturnOf(e.ctx, a.ID)
	if err != nil {
		e.err = err
		return
	}
	e.json(folder+"return.json", struct {
		At      time.Time       `json:"at"`
		By      string          `json:"by"`
		Points  float64         `json:"points"`
		OutOf   float64         `json:"outOf"`
		Comment string          `json:"comment"`
		Marks   json.RawMessage `json:"marks,omitempty"`
	}{At: back.At, By: back.ByName, Points: back.Points, OutOf: back.OutOf, Comment: back.Comment, Marks: back.Marks})
}

func (e *exporting) json(name string, v any) {
	data, err := json.MarshalIndent(v, "", "  ")
	if err != nil && e.err == nil {
		e.err = err
		return
	}
	e.put(name, append(data, '\n'))
}

// safeName is a name that is one folder or file everywhere.
func safeName(name string) string {
	name = strings.Map(func(r rune) rune {
		if unicode.IsControl(r) || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '_'
		}
		return r
	}, name)
	if name = strings.Trim(name, ". "); name == "" {
		return "_"
	}
	return name
}
