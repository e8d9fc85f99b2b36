package api

import (
	"context"

	"hammerset/core/stock"
	"hammerset/school"
	"hammerset/store"
)

func assemblyRow(a store.Assembly) AssemblyRow {
	return AssemblyRow{Id: a.ID, Name: a.Name, Version: a.Version, Saved: a.Saved, IssueId: a.IssueID,
		ExerciseId: a.ExerciseID}
}

// ListAssemblies lists the asker's assemblies.
func (s *Server) ListAssemblies(ctx context.Context, _ ListAssembliesRequestObject) (ListAssembliesResponseObject,
	error) {
	ctx, by := asking(ctx)
	all, err := s.school.Assemblies(ctx, by)
	return ListAssemblies200JSONResponse(list(all, assemblyRow)), err
}

// CreateAssembly starts an assembly, or takes one in from its bundle.
func (s *Server) CreateAssembly(ctx context.Context, in CreateAssemblyRequestObject) (CreateAssemblyResponseObject,
	error) {
	ctx, by := asking(ctx)
	a, err := s.school.StartAssembly(ctx, by, school.AssemblyStart{Name: value(in.Body.Name),
		Unit: string(value(in.Body.Unit)), Bundle: value(in.Body.Bundle), Issue: in.Body.IssueId,
		Exercise: in.Body.ExerciseId})
	return CreateAssembly201JSONResponse{Row: assemblyRow(a), Document: a.Document}, err
}

// MakeExerciseOfAssembly makes an exercise of an assembly.
func (s *Server) MakeExerciseOfAssembly(ctx context.Context,
	in MakeExerciseOfAssemblyRequestObject) (MakeExerciseOfAssemblyResponseObject, error) {
	ctx, by := asking(ctx)
	e, err := s.school.ExerciseOfAssembly(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return MakeExerciseOfAssembly201JSONResponse(exerciseOf(e)), nil
}

// GetAssembly gives an assembly of the asker.
func (s *Server) GetAssembly(ctx context.Context, in GetAssemblyRequestObject) (GetAssemblyResponseObject, error) {
	ctx, by := asking(ctx)
	a, err := s.school.Assembly(ctx, by, in.Id)
	return GetAssembly200JSONResponse{Row: assemblyRow(a), Document: a.Document}, err
}

// SaveAssembly keeps a changed document.
func (s *Server) SaveAssembly(ctx context.Context, in SaveAssemblyRequestObject) (SaveAssemblyResponseObject, error) {
	ctx, by := asking(ctx)
	c := school.AssemblyChange{Version: in.Body.Version, Document: in.Body.Document, What: value(in.Body.What)}
	for _, m := range value(in.Body.Models) {
		c.Models = append(c.Models, school.ModelState{Model: m.Id, Version: m.Version, SHA256: m.Sha256})
	}
	a, models, err := s.school.SaveAssembly(ctx, by, in.Id, c)
	return SaveAssembly200JSONResponse{Row: assemblyRow(a), Models: list(models, modelRow)}, err
}

// EditPart keeps a model that is edited in its place, and its assembly.
func (s *Server) EditPart(ctx context.Context, in EditPartRequestObject) (EditPartResponseObject, error) {
	ctx, by := asking(ctx)
	m := in.Body.Model
	a, saved, verified, err := s.school.EditPart(ctx, by, in.Id, school.EditedPart{Component: in.Body.Component,
		AssemblyVersion: in.Body.Version, Model: m.Id, Version: m.Version, Document: m.Document, What: value(m.What)})
	if err != nil {
		return nil, err
	}
	return EditPart200JSONResponse{Version: a.Version, Model: SavedModel{Row: modelRow(saved),
		Sketches: verified.Sketches}}, nil
}

// MakeModelOfPart makes a model of a part.
func (s *Server) MakeModelOfPart(ctx context.Context,
	in MakeModelOfPartRequestObject) (MakeModelOfPartResponseObject, error) {
	ctx, by := asking(ctx)
	m, err := s.school.ModelOfPart(ctx, by, in.Id, in.Body.Sha256)
	return MakeModelOfPart201JSONResponse(modelRow(m)), err
}

// ListAssemblyVersions lists the kept states of an assembly.
func (s *Server) ListAssemblyVersions(ctx context.Context,
	in ListAssemblyVersionsRequestObject) (ListAssemblyVersionsResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.AssemblyVersions(ctx, by, in.Id)
	return ListAssemblyVersions200JSONResponse(list(all, modelVersion)), err
}

// GetAssemblyVersion gives a kept state of an assembly.
func (s *Server) GetAssemblyVersion(ctx context.Context,
	in GetAssemblyVersionRequestObject) (GetAssemblyVersionResponseObject, error) {
	ctx, by := asking(ctx)
	a, err := s.school.AssemblyVersion(ctx, by, in.Id, in.Version)
	return GetAssemblyVersion200JSONResponse{Row: assemblyRow(a), Document: a.Document}, err
}

// RemoveAssembly takes an assembly away.
func (s *Server) RemoveAssembly(ctx context.Context, in RemoveAssemblyRequestObject) (RemoveAssemblyResponseObject,
	error) {
	ctx, by := asking(ctx)
	return RemoveAssembly204Response{}, s.school.RemoveAssembly(ctx, by, in.Id)
}

// MakeShapes makes parts at their sizes.
func (s *Server) MakeShapes(ctx context.Context, in MakeShapesRequestObject) (MakeShapesResponseObject, error) {
	ctx, by := asking(ctx)
	shapes, err := s.school.Shapes(ctx, by, in.Id, in.Body.Document, value(in.Body.Parts))
	return MakeShapes200JSONResponse(shapes), err
}

// GetStock lists the standard parts.
func (s *Server) GetStock(_ context.Context, _ GetStockRequestObject) (GetStockResponseObject, error) {
	return GetStock200JSONResponse(stock.Kinds()), nil
}

// PutPart makes parts of a model or a file.
func (s *Server) PutPart(ctx context.Context, in PutPartRequestObject) (PutPartResponseObject, error) {
	ctx, by := asking(ctx)
	b := in.Body
	part := school.NewPart{Model: b.ModelId, Assembly: b.AssemblyId, Exercise: b.ExerciseId,
		File: school.File{Name: value(b.Name), Data: value(b.File)}}
	if b.Stock != nil {
		part.Stock = &school.Stock{Kind: b.Stock.Kind, Size: b.Stock.Size, Length: value(b.Stock.Length)}
	}
	data, err := s.school.PutPart(ctx, by, in.Id, part)
	return ready(data), err
}

// FindCollisions tells how components lie to one another.
func (s *Server) FindCollisions(ctx context.Context, in FindCollisionsRequestObject) (FindCollisionsResponseObject,
	error) {
	ctx, by := asking(ctx)
	data, err := s.school.Collisions(ctx, by, in.Id, in.Body.Document)
	return ready(data), err
}

// SweepAssembly looks for collisions while a joint is driven.
func (s *Server) SweepAssembly(ctx context.Context, in SweepAssemblyRequestObject) (SweepAssemblyResponseObject,
	error) {
	ctx, by := asking(ctx)
	b := in.Body
	data, err := s.school.Sweep(ctx, by, in.Id, b.Document, b.Joint, [2]float64{b.From, b.To})
	return ready(data), err
}

// GetPartSources lists what parts came from.
func (s *Server) GetPartSources(ctx context.Context, in GetPartSourcesRequestObject) (GetPartSourcesResponseObject,
	error) {
	ctx, by := asking(ctx)
	all, err := s.school.PartSources(ctx, by, in.Id)
	return GetPartSources200JSONResponse(list(all, func(f store.PartSource) PartSource {
		return PartSource{Sha256: f.SHA256, Name: f.Name, ModelId: f.Model, AssemblyId: f.Assembly, Version: f.Version,
			Newest: f.Newest}
	})), err
}

// GetAssemblyProgress says how far the task on an assembly is.
func (s *Server) GetAssemblyProgress(ctx context.Context,
	in GetAssemblyProgressRequestObject) (GetAssemblyProgressResponseObject, error) {
	ctx, by := asking(ctx)
	p, err := s.school.AssemblyProgress(ctx, by, in.Id)
	return GetAssemblyProgress200JSONResponse(running(p)), err
}

// VaryAssembly finds out how an assembly bears other sizes.
func (s *Server) VaryAssembly(ctx context.Context, in VaryAssemblyRequestObject) (VaryAssemblyResponseObject, error) {
	ctx, by := asking(ctx)
	data, err := s.school.VaryAssembly(ctx, by, in.Id, in.Body.Document)
	return ready(data), err
}

// GetAssemblyBundle gives an assembly with the files of its parts.
func (s *Server) GetAssemblyBundle(ctx context.Context,
	in GetAssemblyBundleRequestObject) (GetAssemblyBundleResponseObject, error) {
	ctx, by := asking(ctx)
	name, data, err := s.school.AssemblyBundle(ctx, by, in.Id)
	return file{"application/zip", name + ".zip", data}, err
}

// ExportAssembly gives an assembly in another format.
func (s *Server) ExportAssembly(ctx context.Context, in ExportAssemblyRequestObject) (ExportAssemblyResponseObject,
	error) {
	ctx, by := asking(ctx)
	name, data, err := s.school.ExportAssembly(ctx, by, in.Id, in.Params.Format)
	switch in.Params.Format {
	case "stl":
		return file{"model/stl", name + ".stl", data}, err
	case "3mf":
		return file{"model/3mf", name + ".3mf", data}, err
	}
	return file{"model/step", name + ".step", data}, err
}
