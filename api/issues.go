package api

import (
	"context"
	"maps"
	"slices"
	"strings"

	"hammerset/core/exercise"
	"hammerset/formats/svg"
	"hammerset/school"
	"hammerset/store"
)

// issue describes an issue with the counts of its attempts.
func issue(i school.Issue) Issue {
	out := Issue{Id: i.ID, ExerciseId: i.ExerciseID, Title: i.Title, Number: i.Drawing, Version: i.Version,
		ClassId:   i.ClassID,
		ClassName: i.ClassName, Issued: i.Issued, Due: i.Due, Attempts: i.Attempts, Results: Results(i.Results),
		Released: i.Released, Students: i.Students, HandedIn: i.HandedIn, Waiting: i.Waiting, Returned: i.Returned}
	if i.NoticeAt != nil {
		out.Revised = &SheetNotice{At: *i.NoticeAt, Revision: given(value(i.NoticeRevision)), Text: value(i.NoticeText)}
	}
	return out
}

// attemptRow describes an attempt in a list.
func attemptRow(a school.Attempt) AttemptRow {
	out := AttemptRow{Id: a.ID, IssueId: a.IssueID, Title: a.Title, Student: a.StudentName, Number: a.Number,
		FileName: a.FileName,
		HandedIn: a.HandedIn, Late: a.Late, State: AttemptState(a.State), In: a.In, Of: a.Of, Points: a.Points,
		OutOf: a.OutOf}
	if a.What != "" {
		out.What, out.Remedy = &a.What, &a.Remedy
	}
	return out
}

// IssueExercise gives the newest version to a class.
func (s *Server) IssueExercise(ctx context.Context, in IssueExerciseRequestObject) (IssueExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	b := in.Body
	i, err := s.school.Issue(ctx, by, in.Id, school.Order{Class: b.ClassId, Due: b.Due, Attempts: b.Attempts,
		Results: string(b.Results), Again: value(b.Again), Knowing: value(b.Knowing)})
	return IssueExercise201JSONResponse(issue(i)), err
}

// ChangeIssue changes until when an issue is to be handed in.
func (s *Server) ChangeIssue(ctx context.Context, in ChangeIssueRequestObject) (ChangeIssueResponseObject, error) {
	ctx, by := asking(ctx)
	return ChangeIssue204Response{}, s.school.ChangeDue(ctx, by, in.Id, in.Body.Due)
}

// WithdrawIssue takes an issue back while nothing was handed in.
func (s *Server) WithdrawIssue(ctx context.Context, in WithdrawIssueRequestObject) (WithdrawIssueResponseObject,
	error) {
	ctx, by := asking(ctx)
	return WithdrawIssue204Response{}, s.school.Withdraw(ctx, by, in.Id)
}

// GrantFurther gives a student one attempt more.
func (s *Server) GrantFurther(ctx context.Context, in GrantFurtherRequestObject) (GrantFurtherResponseObject, error) {
	ctx, by := asking(ctx)
	return GrantFurther204Response{}, s.school.GrantFurther(ctx, by, in.Id, in.Body.Student)
}

// ReleaseReference lets students see the reference, or no longer.
func (s *Server) ReleaseReference(ctx context.Context,
	in ReleaseReferenceRequestObject) (ReleaseReferenceResponseObject, error) {
	ctx, by := asking(ctx)
	return ReleaseReference204Response{}, s.school.Release(ctx, by, in.Id, in.Body.Released)
}

// GetHome lists what a student has to do.
func (s *Server) GetHome(ctx context.Context, _ GetHomeRequestObject) (GetHomeResponseObject, error) {
	ctx, by := asking(ctx)
	tasks, err := s.school.Home(ctx, by)
	task := func(t school.Task) Task {
		return Task{Issue: issue(t.Issue), Attempts: list(t.Attempts, attemptRow), Left: t.Left}
	}
	return GetHome200JSONResponse(list(tasks, task)), err
}

// GetIssue gives an issue with the attempts that the asker may see.
func (s *Server) GetIssue(ctx context.Context, in GetIssueRequestObject) (GetIssueResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.IssueDetail(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	out := GetIssue200JSONResponse{Issue: issue(d.Issue), Kind: IssueDetailKind(d.Document.Kind),
		Task: d.Document.Task, Unit: d.Document.Unit,
		Attempts: list(d.Attempts, attemptRow),
		Missing:  append([]string{}, d.Missing...), Characteristics: list(d.Stated, stated), Left: d.Left,
		WhatIfs: []AskedWhatIf{}, Notices: list(d.Notices, func(n store.Notice) SheetNotice {
			return SheetNotice{At: n.At, Revision: given(n.Revision), Text: n.Text}
		})}
	if d.Document.Assembly != nil {
		out.Given = given(d.Document.Assembly.Gives())
	}
	out.Issue.MayChange = given(d.MayChange)
	if d.Document.WhatIfFiles {
		out.WhatIfs = list(d.Document.WhatIfs, whatIf)
	}
	if school.Staff(by) {
		for k := range out.Attempts {
			out.Attempts[k].StudentId = &d.Attempts[k].Student
		}
	}
	return out, nil
}

func whatIf(w exercise.WhatIf) AskedWhatIf {
	var sizes []string
	for _, name := range slices.Sorted(maps.Keys(w.Set)) {
		sizes = append(sizes, name+" = "+w.Set[name])
	}
	return AskedWhatIf{Name: w.Name, Sizes: strings.Join(sizes, ", ")}
}

// GetIssueSheet draws the sheet as issued.
func (s *Server) GetIssueSheet(ctx context.Context, in GetIssueSheetRequestObject) (GetIssueSheetResponseObject,
	error) {
	ctx, by := asking(ctx)
	sheet, err := s.school.IssueSheet(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return s.sheet(sheet, string(value(in.Params.Format)), svg.Options{})
}

// GetGivenParts packs the parts that the students of an issue are given.
func (s *Server) GetGivenParts(ctx context.Context, in GetGivenPartsRequestObject) (GetGivenPartsResponseObject,
	error) {
	ctx, by := asking(ctx)
	name, data, err := s.school.IssueGiven(ctx, by, in.Id)
	return file{"application/zip", name, data}, err
}

// GetIssueReference gives the reference's mesh.
func (s *Server) GetIssueReference(ctx context.Context,
	in GetIssueReferenceRequestObject) (GetIssueReferenceResponseObject, error) {
	ctx, by := asking(ctx)
	mesh, err := s.school.IssueReference(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return written(mesh)
}

// whatIfField is how the field of the file for a what-if begins; its name follows.
const whatIfField = "what-if:"

// HandIn takes a student's file, and with it those for what-ifs.
func (s *Server) HandIn(ctx context.Context, in HandInRequestObject) (HandInResponseObject, error) {
	ctx, by := asking(ctx)
	if err := school.Allowed(by, school.HandIn); err != nil {
		return nil, err // before a large file is read
	}
	f, others, err := upload(in.Body)
	if err != nil {
		return nil, err
	}
	whatIfs := map[string][]byte{}
	for field, data := range others {
		if name, ok := strings.CutPrefix(field, whatIfField); ok {
			whatIfs[name] = data
		}
	}
	a, already, err := s.school.HandIn(ctx, by, in.Id, f, whatIfs)
	if err != nil {
		return nil, err
	}
	row := attemptRow(a)
	if already {
		row.Already = &already
		return HandIn200JSONResponse(row), nil
	}
	return HandIn201JSONResponse(row), nil
}
