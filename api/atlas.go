package api

import (
	"encoding/json"
	"errors"
	"math"
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/store"
)

// GetAtlas shows the instructor how each mistake would look.
func (s *Server) GetAtlas(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	v, err := s.store.Newest(ctx, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := MistakeAtlas{State: "made"}
	out.Mistakes = []Mistake{}
	data, err := s.store.Atlas(ctx, v.ID, atlas.Version)
	switch {
	case errors.Is(err, store.ErrNotFound):
		reference, err := s.store.File(ctx, v.ReferenceSHA)
		if err != nil {
			s.fail(c, err)
			return
		}
		ref, err := documents.ReadReference(reference)
		if err != nil {
			s.fail(c, err)
			return
		}
		out.State = "waiting"
		if ref.Document == nil {
			out.State = "none"
		}
		c.JSON(http.StatusOK, out)
		return
	case err != nil:
		s.fail(c, err)
		return
	}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		s.fail(c, err)
		return
	}
	var a atlas.Atlas
	if err := json.Unmarshal(data, &a); err != nil {
		s.fail(c, err)
		return
	}
	for _, e := range slices.Concat(a.Entries, a.Elsewhere) {
		m := Mistake{Cause: e.Cause, Kind: e.Kind, Solids: e.Figures.Solids, Step: e.Step, What: e.What,
			Volume: 100 * (e.Figures.Inner[0]/a.Figures.Inner[0] - 1), Changes: []MistakeChange{}}
		for k := range ex.Characteristics {
			x := &ex.Characteristics[k]
			if e.Parameter != "" && x.ID == e.Characteristic {
				m.Balloon = &x.Balloon
			}
			was := a.Values[x.ID]
			if measures := changed(ex, x, was, e.Values[x.ID]); measures != "" {
				sheet := ex.StateOf(x.Declared(), was[0]).Text
				m.Changes = append(m.Changes, MistakeChange{Balloon: x.Balloon, Label: x.Label, Measures: measures, Sheet: sheet})
			}
		}
		out.Mistakes = append(out.Mistakes, m)
	}
	c.JSON(http.StatusOK, out)
}

// changed says what a characteristic measures under a mistake, by its values at all places before
// and after; empty where it stays as it is.
func changed(ex *exercise.Exercise, x *exercise.Characteristic, was, is []float64) string {
	other := func(v float64) bool { return math.Abs(v-was[0]) > 1e-6 }
	switch {
	case len(was) == 0:
		return ""
	case len(is) == 0:
		return "not found"
	case len(is) > len(was):
		// A round face that is cut in two has two places and is one feature.
		if len(was) > 1 || slices.ContainsFunc(is, other) {
			return strconv.Itoa(len(is)) + " places"
		}
		return ""
	case len(is) < len(was):
		return strconv.Itoa(len(is)) + " of " + strconv.Itoa(len(was)) + " places"
	}
	for n := range is {
		if math.Abs(is[n]-was[n]) > 1e-6 {
			return ex.StateOf(x.Declared(), is[n]).Text
		}
	}
	return ""
}
