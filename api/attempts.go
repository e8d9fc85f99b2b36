package api

import (
	"context"

	"hammerset/core/report"
	"hammerset/formats/pdf"
	"hammerset/formats/svg"
	"hammerset/school"
	"hammerset/store"
)

func change(k report.Change) Change {
	return Change{Balloon: k.Balloon, Label: k.Label, Before: k.Before, After: k.After, Kind: ChangeKind(k.Kind)}
}

func mark(m school.Mark) Mark {
	out := Mark{Id: m.ID, Label: m.Label, Points: m.Points, MachinePoints: m.MachinePoints, OutOf: m.OutOf,
		Reason:  m.Reason,
		Unshown: given(MarkUnshown(m.Unshown)),
		Ask:     given(m.Ask), ChangedBy: m.ChangedBy, ChangedReason: m.ChangedReason}
	if len(m.Lost) > 0 {
		out.Lost = &m.Lost
	}
	return out
}

func remark(m store.Remark) Remark {
	return Remark{Finding: m.Finding, Text: m.Text, By: m.ByName, At: m.At}
}

// GetAttempt gives an attempt as the asker may see it.
func (s *Server) GetAttempt(ctx context.Context, in GetAttemptRequestObject) (GetAttemptResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.Attempt(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	out := GetAttempt200JSONResponse{Row: attemptRow(d.Row), Staff: d.Staff, Issue: issue(d.Issue),
		Siblings: list(d.Siblings, attemptRow), Report: d.Report,
		SizesOf: given(d.SizesOf), Keys: append([]string{}, d.Keys...),
		ComparedWith: given(d.ComparedWith), Changes: list(d.Changes, change),
		Marks: list(d.Marks, mark), Points: d.Points, OutOf: d.OutOf, Remarks: list(d.Remarks, remark),
		Audit: list(d.Audit, audited), Faces: faces(d.Faces)}
	out.Issue.MayChange = given(d.MayReturn)
	if b := d.Return; b != nil {
		out.Return = &Return{Comment: b.Comment, Points: b.Points, OutOf: b.OutOf, By: b.ByName, At: b.At, Opened: b.Opened}
	}
	return out, nil
}

// GetMarkedSheet draws the sheet with verdicts and measured values.
func (s *Server) GetMarkedSheet(ctx context.Context, in GetMarkedSheetRequestObject) (GetMarkedSheetResponseObject,
	error) {
	ctx, by := asking(ctx)
	sheet, r, err := s.school.MarkedSheet(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	var o svg.Options
	if r != nil {
		o.Verdicts, o.Values = map[string]report.Verdict{}, map[string]string{}
		for _, k := range r.Characteristics {
			o.Verdicts[k.ID], o.Values[k.ID] = k.Verdict, pdf.ValueText(k)
		}
	}
	format := string(value(in.Params.Format))
	if format == "pdf" || format == "dxf" || format == "png" {
		return nil, noFormat(format, "ask for svg, which has the marks, or for the return as PDF")
	}
	return s.sheet(sheet, format, o)
}

// GetAttemptMesh gives the attempt's mesh.
func (s *Server) GetAttemptMesh(ctx context.Context, in GetAttemptMeshRequestObject) (GetAttemptMeshResponseObject,
	error) {
	ctx, by := asking(ctx)
	data, err := s.school.AttemptMesh(ctx, by, in.Id)
	return ready(data), err
}

// GetAttemptCompared gives the attempt beside the reference.
func (s *Server) GetAttemptCompared(ctx context.Context,
	in GetAttemptComparedRequestObject) (GetAttemptComparedResponseObject, error) {
	ctx, by := asking(ctx)
	data, err := s.school.AttemptCompared(ctx, by, in.Id)
	return ready(data), err
}

// GetAttemptFile gives back the file as it was handed in.
func (s *Server) GetAttemptFile(ctx context.Context, in GetAttemptFileRequestObject) (GetAttemptFileResponseObject,
	error) {
	ctx, by := asking(ctx)
	f, err := s.school.AttemptFile(ctx, by, in.Id)
	return file{"application/octet-stream", f.Name, f.Data}, err
}

// GetReturnPDF gives the returned sheet as PDF.
func (s *Server) GetReturnPDF(ctx context.Context, in GetReturnPDFRequestObject) (GetReturnPDFResponseObject, error) {
	ctx, by := asking(ctx)
	r, err := s.school.ReturnOf(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	sent := pdf.Return{Student: r.Attempt.StudentName, Attempt: r.Attempt.Number, Date: r.Return.At,
		Comment: r.Return.Comment,
		Report:  r.Report, Points: r.Return.Points, OutOf: r.Return.OutOf, Changes: r.Changes}
	for _, m := range r.Marks {
		reason := m.Reason
		if m.ChangedReason != nil {
			reason = *m.ChangedReason
		}
		sent.Marks = append(sent.Marks, report.Mark{ID: m.ID, Label: m.Label, Points: m.Points, OutOf: m.OutOf,
			Reason: reason})
	}
	data, err := pdf.Returned(r.Sheet.Drawing, s.font, sent)
	return file{"application/pdf", r.Sheet.Number + " attempt " + r.Attempt.StudentName + ".pdf", data}, err
}

// SetMark changes one mark, with a reason.
func (s *Server) SetMark(ctx context.Context, in SetMarkRequestObject) (SetMarkResponseObject, error) {
	ctx, by := asking(ctx)
	return SetMark204Response{}, s.school.SetMark(ctx, by, in.Id, in.Mark, in.Body.Points, in.Body.Reason)
}

// ReturnAttempt sends the attempt back with a comment.
func (s *Server) ReturnAttempt(ctx context.Context, in ReturnAttemptRequestObject) (ReturnAttemptResponseObject,
	error) {
	ctx, by := asking(ctx)
	return ReturnAttempt204Response{}, s.school.Return(ctx, by, in.Id, in.Body.Comment, value(in.Body.Looked))
}

// TakeBackReturn takes a return back.
func (s *Server) TakeBackReturn(ctx context.Context, in TakeBackReturnRequestObject) (TakeBackReturnResponseObject,
	error) {
	ctx, by := asking(ctx)
	return TakeBackReturn204Response{}, s.school.TakeBack(ctx, by, in.Id)
}

// RecheckAttempt queues the check of an attempt that could not be finished.
func (s *Server) RecheckAttempt(ctx context.Context, in RecheckAttemptRequestObject) (RecheckAttemptResponseObject,
	error) {
	ctx, by := asking(ctx)
	return RecheckAttempt204Response{}, s.school.CheckAgain(ctx, by, in.Id)
}

// FindAttemptReach finds how far an attempt follows the reference.
func (s *Server) FindAttemptReach(ctx context.Context,
	in FindAttemptReachRequestObject) (FindAttemptReachResponseObject, error) {
	ctx, by := asking(ctx)
	found, err := s.school.AttemptReach(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return written(found)
}

// GetAttemptReachProgress says how far that search is.
func (s *Server) GetAttemptReachProgress(ctx context.Context,
	in GetAttemptReachProgressRequestObject) (GetAttemptReachProgressResponseObject, error) {
	ctx, by := asking(ctx)
	p, err := s.school.AttemptReachProgress(ctx, by, in.Id)
	return GetAttemptReachProgress200JSONResponse(running(p)), err
}

func running(p school.Running) ModelProgress {
	return ModelProgress{Running: p.Running, Stage: p.Stage, Done: p.Done}
}
