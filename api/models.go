package api

import (
	"encoding/json"
	"errors"
	"net/http"
	"strings"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"hammerset/core/modeller"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// maxModel bounds a model document that is being worked on.
const maxModel = 8 << 20

func modelRow(m store.Model) ModelRow {
	return ModelRow{Id: m.ID, Name: m.Name, Version: m.Version, Saved: m.Saved, IssueId: m.IssueID, ExerciseId: m.ExerciseID}
}

// ListModels lists the asker's models.
func (s *Server) ListModels(c *gin.Context) {
	list, err := s.store.Models(c.Request.Context(), user(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	out := []ModelRow{}
	for _, m := range list {
		out = append(out, modelRow(m))
	}
	c.JSON(http.StatusOK, out)
}

// CreateModel starts a model: empty, or as a copy of an exercise's reference,
// which only staff may ask for.
func (s *Server) CreateModel(c *gin.Context) {
	ctx, u := c.Request.Context(), user(c)
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 1<<16)
	var in NewModel
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable: "+err.Error(), "")
		return
	}
	name := strings.TrimSpace(in.Name)
	if name == "" || utf8.RuneCountInString(name) > 150 {
		problem(c, http.StatusUnprocessableEntity, "a model needs a name of at most 150 characters", "name it as the sheet names the part")
		return
	}
	m := store.Model{OwnerID: u.ID, Name: name, IssueID: in.IssueId, ExerciseID: in.ExerciseId}
	document, err := json.Marshal(map[string]any{"hammerset": "model/1", "name": name, "unit": in.Unit, "parameters": []any{}, "steps": []any{}})
	if err != nil {
		s.fail(c, err)
		return
	}
	if in.IssueId != nil {
		if _, ok := s.openIssue(c, *in.IssueId); !ok {
			return
		}
	}
	if in.ExerciseId != nil {
		if u.Role != instructor && u.Role != administrator { // it is a copy of the reference
			s.fail(c, store.ErrNotFound)
			return
		}
		if !s.mayChange(c, *in.ExerciseId) {
			return
		}
		v, err := s.store.Newest(ctx, *in.ExerciseId)
		if err == nil {
			document, err = s.store.File(ctx, v.ReferenceSHA)
		}
		if err != nil {
			s.fail(c, err)
			return
		}
		if strings.HasPrefix(string(document[:min(len(document), 64)]), "ISO-10303-21") {
			problem(c, http.StatusUnprocessableEntity, "the reference of this exercise is a STEP file and has no sketches to edit", "model it anew, or edit it where it was made")
			return
		}
	}
	if _, err := s.verify(c, document); err != nil {
		s.fail(c, err)
		return
	}
	m.Document = document
	if m, err = s.store.AddModel(ctx, m); err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, Model{Row: modelRow(m), Document: m.Document})
}

// verify reads a document and solves its sketches, in a child.
func (s *Server) verify(c *gin.Context, document []byte) (*modeller.Verified, error) {
	raw, err := s.kernel.Do(c.Request.Context(), &task.Request{Kind: task.Verify, File: document}, nil)
	if err != nil {
		return nil, err
	}
	var v modeller.Verified
	return &v, json.Unmarshal(raw, &v)
}

// GetModel gives a model of the asker.
func (s *Server) GetModel(c *gin.Context, id Id) {
	m, err := s.store.Model(c.Request.Context(), id, user(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, Model{Row: modelRow(m), Document: m.Document})
}

// SaveModel keeps a changed document, after every sketch of it has been solved
// again.
func (s *Server) SaveModel(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxModel)
	var in ChangedModel
	if err := c.ShouldBindJSON(&in); err != nil {
		var large *http.MaxBytesError
		if errors.As(err, &large) {
			problem(c, http.StatusRequestEntityTooLarge, "the model is larger than the 8 MB that are kept", "take out what is not needed")
			return
		}
		problem(c, http.StatusBadRequest, "the request is not readable: "+err.Error(), "")
		return
	}
	if _, err := s.store.Model(ctx, id, u.ID); err != nil {
		s.fail(c, err)
		return
	}
	v, err := s.verify(c, in.Document)
	if err != nil {
		s.fail(c, err)
		return
	}
	m, err := s.store.SaveModel(ctx, id, u.ID, in.Version, v.Name, in.Document, said(in.What))
	if errors.Is(err, store.ErrStale) {
		problem(c, http.StatusConflict, "this model was changed in another window", "nothing of it was overwritten: reload to see that change, or save yours as a model of its own")
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, SavedModel{Row: modelRow(m), Sketches: v.Sketches})
}

// RemoveModel takes a model away.
func (s *Server) RemoveModel(c *gin.Context, id Id) {
	if err := s.store.RemoveModel(c.Request.Context(), id, user(c).ID); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// task answers with the result of a task on a model of the asker.
func (s *Server) task(c *gin.Context, id int64, req task.Request) {
	m, err := s.store.Model(c.Request.Context(), id, user(c).ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	req.File = m.Document
	raw, err := s.kernel.Do(c.Request.Context(), &req, nil)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Data(http.StatusOK, "application/json", raw)
}

// GetSketch gives a sketch of a model, placed for editing.
func (s *Server) GetSketch(c *gin.Context, id Id, step string) {
	s.task(c, id, task.Request{Kind: task.Sketch, Step: step})
}

// PromoteModel makes a model the reference of its exercise, as a new version.
func (s *Server) PromoteModel(c *gin.Context, id Id) {
	ctx, u := c.Request.Context(), user(c)
	m, err := s.store.Model(ctx, id, u.ID)
	if err != nil {
		s.fail(c, err)
		return
	}
	if m.ExerciseID == nil {
		problem(c, http.StatusConflict, "this model belongs to no exercise", "open the reference of an exercise and change that")
		return
	}
	if !s.mayChange(c, *m.ExerciseID) {
		return
	}
	v, err := s.store.Newest(ctx, *m.ExerciseID)
	if err != nil {
		s.fail(c, err)
		return
	}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		s.fail(c, err)
		return
	}
	if v, err = AddBundle(ctx, s.store, s.kernel, &documents.Bundle{Exercise: v.Document, Reference: m.Document, Parsed: ex}, *m.ExerciseID, u.ID, "the reference worked on"); err != nil {
		s.fail(c, err)
		return
	}
	out, err := s.exercise(c, v)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, out)
}
