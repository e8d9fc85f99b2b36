package api

import (
	"context"

	"hammerset/core/stock"
	"hammerset/school"
	"hammerset/store"
)

func assemblyRow(a store.Assembly) AssemblyRow {
	return AssemblyRow{Id: a.ID, Name: a.Name, Version: a.Version, Saved: a.Saved}
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
	a, err := s.school.StartAssembly(ctx, by, value(in.Body.Name), string(value(in.Body.Unit)), value(in.Body.Bundle))
	return CreateAssembly201JSONResponse{Row: assemblyRow(a), Document: a.Document}, err
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
	a, err := s.school.SaveAssembly(ctx, by, in.Id, in.Body.Version, in.Body.Document)
	return SaveAssembly200JSONResponse(assemblyRow(a)), err
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
	part := school.NewPart{Model: b.ModelId, Assembly: b.AssemblyId,
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

// GetNewerParts lists what has a newer version.
func (s *Server) GetNewerParts(ctx context.Context, in GetNewerPartsRequestObject) (GetNewerPartsResponseObject,
	error) {
	ctx, by := asking(ctx)
	list, err := s.school.NewerParts(ctx, by, in.Id)
	out := GetNewerParts200JSONResponse{}
	for _, n := range list {
		out = append(out, NewerPart{Sha256: n.SHA256, Name: n.Name, ModelId: n.Model, AssemblyId: n.Assembly})
	}
	return out, err
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
