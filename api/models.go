package api

import (
	"bytes"
	"context"
	"encoding/csv"

	"hammerset/core/part"
	"hammerset/core/standards"
	"hammerset/formats/documents"
	"hammerset/formats/stl"
	"hammerset/formats/table"
	"hammerset/formats/threemf"
	"hammerset/school"
	"hammerset/store"
)

func modelRow(m store.Model) ModelRow {
	return ModelRow{Id: m.ID, Name: m.Name, Version: m.Version, Saved: m.Saved, IssueId: m.IssueID,
		ExerciseId: m.ExerciseID}
}

func model(m store.Model) Model { return Model{Row: modelRow(m), Document: m.Document} }

// ListModels lists the asker's models.
func (s *Server) ListModels(ctx context.Context, _ ListModelsRequestObject) (ListModelsResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Models(ctx, by)
	return ListModels200JSONResponse(list(all, modelRow)), err
}

// CreateModel starts a model: empty, or as a copy of an exercise's reference.
func (s *Server) CreateModel(ctx context.Context, in CreateModelRequestObject) (CreateModelResponseObject, error) {
	ctx, by := asking(ctx)
	b := in.Body
	m, err := s.school.StartModel(ctx, by, school.ModelStart{Name: b.Name, Unit: string(b.Unit), Issue: b.IssueId,
		Exercise: b.ExerciseId})
	return CreateModel201JSONResponse(model(m)), err
}

// GetModel gives a model of the asker.
func (s *Server) GetModel(ctx context.Context, in GetModelRequestObject) (GetModelResponseObject, error) {
	ctx, by := asking(ctx)
	m, err := s.school.Model(ctx, by, in.Id)
	return GetModel200JSONResponse(model(m)), err
}

// SaveModel keeps a changed document, after every sketch of it has been solved again.
func (s *Server) SaveModel(ctx context.Context, in SaveModelRequestObject) (SaveModelResponseObject, error) {
	ctx, by := asking(ctx)
	m, v, err := s.school.SaveModel(ctx, by, in.Id, in.Body.Version, in.Body.Document, value(in.Body.What))
	if err != nil {
		return nil, err
	}
	return SaveModel200JSONResponse{Row: modelRow(m), Sketches: v.Sketches}, nil
}

// RemoveModel takes a model away.
func (s *Server) RemoveModel(ctx context.Context, in RemoveModelRequestObject) (RemoveModelResponseObject, error) {
	ctx, by := asking(ctx)
	return RemoveModel204Response{}, s.school.RemoveModel(ctx, by, in.Id)
}

// ListVersions lists the kept states of a model.
func (s *Server) ListVersions(ctx context.Context, in ListVersionsRequestObject) (ListVersionsResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Versions(ctx, by, in.Id)
	return ListVersions200JSONResponse(list(all, modelVersion)), err
}

func modelVersion(v store.SavedState) ModelVersion {
	return ModelVersion{Version: v.Version, Saved: v.Saved, What: v.What}
}

// GetVersion gives a kept state of a model.
func (s *Server) GetVersion(ctx context.Context, in GetVersionRequestObject) (GetVersionResponseObject, error) {
	ctx, by := asking(ctx)
	m, err := s.school.Version(ctx, by, in.Id, in.Version)
	return GetVersion200JSONResponse(model(m)), err
}

// CompareVersions says what changed between two kept states.
func (s *Server) CompareVersions(ctx context.Context, in CompareVersionsRequestObject) (CompareVersionsResponseObject,
	error) {
	ctx, by := asking(ctx)
	data, err := s.school.CompareVersions(ctx, by, in.Id, in.Params.From, in.Params.To)
	return ready(data), err
}

// GetSketch gives a sketch of a model, placed for editing.
func (s *Server) GetSketch(ctx context.Context, in GetSketchRequestObject) (GetSketchResponseObject, error) {
	ctx, by := asking(ctx)
	data, err := s.school.Sketch(ctx, by, in.Id, in.Step)
	return ready(data), err
}

// PromoteModel makes a model the reference of its exercise, as a new version.
func (s *Server) PromoteModel(ctx context.Context, in PromoteModelRequestObject) (PromoteModelResponseObject, error) {
	ctx, by := asking(ctx)
	e, err := s.school.Promote(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return PromoteModel201JSONResponse(exerciseOf(e)), nil
}

// ListStepForms gives the forms of all kinds of steps.
func (s *Server) ListStepForms(context.Context, ListStepFormsRequestObject) (ListStepFormsResponseObject, error) {
	materials := list(standards.Materials, func(m standards.Material) string { return m.Name })
	return written(map[string]any{"forms": part.Forms(), "materials": materials})
}

// trial is the state of a model that a request brings along.
func trial(in *TryModel) school.Trial {
	return school.Trial{Document: in.Document, Until: value(in.Until), Set: value(in.Set), Picks: value(in.Picks),
		Name: value(in.Name), Command: in.Command}
}

// TryPart rebuilds a state of a model.
func (s *Server) TryPart(ctx context.Context, in TryPartRequestObject) (TryPartResponseObject, error) {
	ctx, by := asking(ctx)
	data, err := s.school.Rebuild(ctx, by, in.Id, trial(in.Body))
	return ready(data), err
}

// MeasurePart measures one or two picks.
func (s *Server) MeasurePart(ctx context.Context, in MeasurePartRequestObject) (MeasurePartResponseObject, error) {
	ctx, by := asking(ctx)
	data, err := s.school.Measure(ctx, by, in.Id, trial(in.Body))
	return ready(data), err
}

// EditModel changes a state of a model by a command.
func (s *Server) EditModel(ctx context.Context, in EditModelRequestObject) (EditModelResponseObject, error) {
	ctx, by := asking(ctx)
	data, err := s.school.Edit(ctx, by, in.Id, trial(in.Body))
	return ready(data), err
}

// FindReach finds the interval of a parameter.
func (s *Server) FindReach(ctx context.Context, in FindReachRequestObject) (FindReachResponseObject, error) {
	ctx, by := asking(ctx)
	found, err := s.school.Reach(ctx, by, in.Id, trial(in.Body))
	if err != nil {
		return nil, err
	}
	return written(found)
}

// LookOver gives the findings of sketches and steps.
func (s *Server) LookOver(ctx context.Context, in LookOverRequestObject) (LookOverResponseObject, error) {
	ctx, by := asking(ctx)
	found, err := s.school.LookOver(ctx, by, in.Id, trial(in.Body))
	if err != nil {
		return nil, err
	}
	return written(found.Findings)
}

// GetModelProgress says how far the task on a model is.
func (s *Server) GetModelProgress(ctx context.Context,
	in GetModelProgressRequestObject) (GetModelProgressResponseObject, error) {
	ctx, by := asking(ctx)
	p, err := s.school.ModelProgress(ctx, by, in.Id)
	return GetModelProgress200JSONResponse(running(p)), err
}

func look(l school.Look) Look { return Look{Had: l.Had, May: l.May, Left: l.Left, At: l.At} }

// GetHad says what the last look at a model found.
func (s *Server) GetHad(ctx context.Context, in GetHadRequestObject) (GetHadResponseObject, error) {
	ctx, by := asking(ctx)
	l, err := s.school.Had(ctx, by, in.Id)
	return GetHad200JSONResponse(look(l)), err
}

// LookHad looks which characteristics a saved model has already.
func (s *Server) LookHad(ctx context.Context, in LookHadRequestObject) (LookHadResponseObject, error) {
	ctx, by := asking(ctx)
	l, err := s.school.LookHad(ctx, by, in.Id)
	return LookHad200JSONResponse(look(l)), err
}

// ExportModel gives a model as a file.
func (s *Server) ExportModel(ctx context.Context, in ExportModelRequestObject) (ExportModelResponseObject, error) {
	ctx, by := asking(ctx)
	switch format := in.Params.Format; format {
	case "json", "csv":
		m, err := s.school.Model(ctx, by, in.Id)
		if err != nil {
			return nil, err
		}
		if format == "json" {
			return file{part.MediaType, m.Name + ".json", m.Document}, nil
		}
		data, err := parameters(m.Document)
		return file{"text/csv; charset=utf-8", m.Name + " parameters.csv", data}, err
	case "ap214", "ap242", "stl", "3mf":
		m, out, err := s.school.ExportModel(ctx, by, in.Id, format)
		if err != nil {
			return nil, err
		}
		switch format {
		case "stl":
			return file{"model/stl", m.Name + ".stl", stl.Write(out.Mesh)}, nil
		case "3mf":
			data, err := threemf.Write(out.Mesh, m.Name)
			return file{"model/3mf", m.Name + ".3mf", data}, err
		}
		return file{"model/step", m.Name + ".step", out.Data}, nil
	}
	return nil, &school.Refusal{Kind: school.Unreadable, What: in.Params.Format + " is no format of a model",
		Remedy: "ask for ap214, ap242, stl, 3mf, json or csv"}
}

// parameters writes the parameters of a model as a table.
func parameters(document []byte) ([]byte, error) {
	doc, err := documents.ReadModel(document)
	if err != nil {
		return nil, err
	}
	rows := [][]string{{"name", "formula", "note", "least", "most"}}
	for _, p := range doc.Parameters {
		rows = append(rows, table.Safe([]string{p.Name, p.Formula, p.Note, p.Least, p.Most}))
	}
	var b bytes.Buffer
	err = csv.NewWriter(&b).WriteAll(rows)
	return b.Bytes(), err
}
