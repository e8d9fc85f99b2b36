package api

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"path/filepath"
	"slices"
	"sort"
	"strings"
	"unicode"

	"github.com/gin-gonic/gin"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// around begins an exercise around a reference alone: its views are laid out, and nothing is
// checked yet but the number of solids.
func (s *Server) around(ctx context.Context, name string, data []byte) (*documents.Bundle, error) {
	file := "reference.step"
	if trimmed := strings.TrimSpace(string(data[:min(len(data), 64)])); strings.HasPrefix(strings.TrimPrefix(trimmed, "\ufeff"), "{") {
		file = "reference.json"
	}
	title := strings.TrimSpace(strings.NewReplacer("_", " ", "-", " ").Replace(strings.TrimSuffix(filepath.Base(name), filepath.Ext(name))))
	if title == "" {
		title = "New exercise"
	}
	if r := []rune(title); unicode.IsLower(r[0]) {
		title = string(unicode.ToUpper(r[0])) + string(r[1:])
	}
	ex := sheet.Plain(title, "", file, 1)
	drafted, err := s.drafted(ctx, ex, data)
	if err != nil {
		return nil, err
	}
	ex = sheet.Plain(title, drafted.Unit, file, drafted.Solids)
	ex.Sheets = []exercise.Sheet{drafted.Sheet}
	return bundled(ex, data)
}

// bundled writes an exercise down beside its reference.
func bundled(ex *exercise.Exercise, reference []byte) (*documents.Bundle, error) {
	doc, err := json.MarshalIndent(ex, "", "  ")
	if err != nil {
		return nil, err
	}
	parsed, err := documents.ReadExercise(doc)
	return &documents.Bundle{Exercise: doc, Reference: reference, Parsed: parsed}, err
}

func (s *Server) drafted(ctx context.Context, ex *exercise.Exercise, reference []byte) (*prepare.Drafted, error) {
	doc, err := json.Marshal(ex)
	if err != nil {
		return nil, err
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Draft, Exercise: doc, Reference: reference}, nil)
	if err != nil {
		return nil, err
	}
	var out prepare.Drafted
	return &out, json.Unmarshal(raw, &out)
}

// draftOf is the newest version of an exercise as it is being worked on.
func (s *Server) draftOf(c *gin.Context, id int64) (store.Version, *exercise.Exercise, []byte, bool) {
	v, reference, ok := s.withReference(c, s.store.Newest, id)
	if !ok {
		return v, nil, nil, false
	}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		s.fail(c, err)
		return v, nil, nil, false
	}
	return v, ex, reference, true
}

func (s *Server) draftView(c *gin.Context, v store.Version, ex *exercise.Exercise, d *prepare.Drafted) {
	out := Draft{Title: ex.Title, Number: ex.Number, Task: ex.Task, Material: ex.Material, Density: ex.Density, General: ex.General, Unit: ex.Unit, Version: v.Number, Characteristics: ex.Characteristics, Dimensioned: len(ex.Sheet().Dimensions)}
	for i, f := range d.Faces {
		out.Faces = append(out.Faces, struct {
			Kind  string `json:"kind"`
			Name  string `json:"name"`
			Ref   Ref    `json:"ref"`
			Words string `json:"words"`
		}{f.Kind, f.Name, address.Numbered(address.Face, i), f.Words})
	}
	for _, x := range d.Values {
		row := struct {
			Called map[string]string `json:"called"`
			Error  *string           `json:"error,omitempty"`
			Faces  []Ref             `json:"faces"`
			Id     string            `json:"id"`
			Limits string            `json:"limits"`
			Places int               `json:"places"`
			Text   string            `json:"text"`
		}{Called: x.Called, Faces: x.Faces, Id: x.ID, Limits: x.Limits, Places: x.Places, Text: x.Text}
		if x.Error != "" {
			row.Error = &x.Error
		}
		out.Values = append(out.Values, row)
	}
	for _, k := range characteristic.All() {
		out.Kinds = append(out.Kinds, struct {
			Kind  string `json:"kind"`
			On    string `json:"on"`
			Text  bool   `json:"text"`
			Title string `json:"title"`
		}{k.Name, k.On, k.Worded(), k.Title})
	}
	sort.Slice(out.Kinds, func(i, k int) bool { return out.Kinds[i].Title < out.Kinds[k].Title })
	c.JSON(http.StatusOK, out)
}

// GetDraft gives the characteristics of the newest version, and the faces of its reference.
func (s *Server) GetDraft(c *gin.Context, id Id) {
	v, ex, reference, ok := s.draftOf(c, id)
	if !ok {
		return
	}
	d, err := s.drafted(c.Request.Context(), ex, reference)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.draftView(c, v, ex, d)
}

// TryDraft says what other characteristics would state, and keeps them as a new version
// where that is asked for.
func (s *Server) TryDraft(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	if !s.mayChange(c, id) {
		return
	}
	v, ex, reference, ok := s.draftOf(c, id)
	if !ok {
		return
	}
	var in NewDraft
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the characteristics are not readable: "+err.Error(), "")
		return
	}
	if what := tooLong(in.Title, in.Number); what != "" {
		problem(c, http.StatusUnprocessableEntity, what, "shorten it")
		return
	}
	ex.Title, ex.Number, ex.Task, ex.Characteristics = strings.TrimSpace(in.Title), strings.TrimSpace(in.Number), in.Task, in.Characteristics
	if in.Material != nil {
		ex.Material = *in.Material
	}
	if in.Density != nil {
		ex.Density = *in.Density
	}
	if in.General != nil {
		ex.General = *in.General
	}
	d, err := s.drafted(ctx, ex, reference)
	if err != nil {
		s.fail(c, err)
		return
	}
	if !in.Save {
		s.draftView(c, v, ex, d)
		return
	}
	for _, x := range d.Values {
		if x.Error != "" {
			problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%s: %s", x.ID, x.Error), "put this characteristic right, or remove it")
			return
		}
	}
	if in.Arrange {
		ex.Sheets = []exercise.Sheet{d.Sheet}
	} else {
		// What is no longer there is no longer dimensioned.
		there := func(id string) bool { return ex.Characteristic(id) != nil }
		ex.Sheet().Dimensions = slices.DeleteFunc(ex.Sheet().Dimensions, func(x exercise.Dim) bool { return !there(x.Characteristic) })
		for i := range ex.Sheet().Dimensions {
			m := &ex.Sheet().Dimensions[i].More
			*m = slices.DeleteFunc(*m, func(id string) bool { return !there(id) })
		}
	}
	b, err := bundled(ex, reference)
	if err != nil {
		s.fail(c, err)
		return
	}
	if v, err = AddBundle(ctx, s.store, s.kernel, b, v.ExerciseID, user(c).ID, "characteristics edited"); err != nil {
		s.fail(c, err)
		return
	}
	s.draftView(c, v, b.Parsed, d)
}
