package api

import (
	"context"
	"maps"
	"slices"
	"strings"

	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/formats/svg"
	"hammerset/school"
	"hammerset/store"
)

// issue describes an issue with the counts of its attempts.
func issue(i school.Issue) Issue {
	out := Issue{Id: i.ID, ExerciseId: i.ExerciseID, Title: i.Title, Number: i.Drawing, Version: i.Version,
		ClassId:   i.ClassID,
		ClassName: i.ClassName, Issued: i.Issued, Due: i.Due, Attempts: i.Attempts, Results: Results(i.Results),
		Released: i.Released, Opens: i.Opens, Closed: i.Closed, Withdrawn: i.Withdrawn,
		Practice: given(i.Practice), Personal: given(i.Personal),
		Zone: given(i.Zone), Students: i.Students, HandedIn: i.HandedIn, Waiting: i.Waiting, Returned: i.Returned}
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
	i, err := s.school.Issue(ctx, by, in.Id, school.Order{Class: b.ClassId, Opens: b.Opens, Due: b.Due,
		Attempts: b.Attempts,
		Practice: value(b.Practice), Personal: value(b.Personal), Students: value(b.Students),
		Groups:  value(b.Groups),
		Results: string(b.Results), Again: value(b.Again), Knowing: value(b.Knowing)})
	return IssueExercise201JSONResponse(issue(i)), err
}

// GetDrawingProgress says how far sizes are drawn for the students of an issue that is being made.
func (s *Server) GetDrawingProgress(ctx context.Context,
	in GetDrawingProgressRequestObject) (GetDrawingProgressResponseObject, error) {
	ctx, by := asking(ctx)
	p, err := s.school.PersonalProgress(ctx, by, in.Id)
	return GetDrawingProgress200JSONResponse{Running: p.Running, Stage: p.Stage, Done: p.Done}, err
}

// ChangeIssue changes the terms of an issue.
func (s *Server) ChangeIssue(ctx context.Context, in ChangeIssueRequestObject) (ChangeIssueResponseObject, error) {
	ctx, by := asking(ctx)
	t := in.Body
	return ChangeIssue204Response{}, s.school.ChangeTerms(ctx, by, in.Id, store.Terms{Due: t.Due, Opens: t.Opens,
		Attempts: t.Attempts, Results: string(t.Results)})
}

// WithdrawIssue takes an issue back.
func (s *Server) WithdrawIssue(ctx context.Context, in WithdrawIssueRequestObject) (WithdrawIssueResponseObject,
	error) {
	ctx, by := asking(ctx)
	return WithdrawIssue204Response{}, s.school.Withdraw(ctx, by, in.Id, value(in.Params.Anyway))
}

// BringBackIssue issues again what was withdrawn.
func (s *Server) BringBackIssue(ctx context.Context, in BringBackIssueRequestObject) (BringBackIssueResponseObject,
	error) {
	ctx, by := asking(ctx)
	return BringBackIssue204Response{}, s.school.BringBack(ctx, by, in.Id)
}

// CloseIssue ends handing in, or begins it again.
func (s *Server) CloseIssue(ctx context.Context, in CloseIssueRequestObject) (CloseIssueResponseObject, error) {
	ctx, by := asking(ctx)
	return CloseIssue204Response{}, s.school.CloseIssue(ctx, by, in.Id, in.Body.Closed)
}

// ExtendIssue changes what one student has of the own at an issue.
func (s *Server) ExtendIssue(ctx context.Context, in ExtendIssueRequestObject) (ExtendIssueResponseObject, error) {
	ctx, by := asking(ctx)
	return ExtendIssue204Response{}, s.school.Extend(ctx, by, in.Id, in.Person, school.Extension{Due: in.Body.Due,
		More: in.Body.More, Excused: in.Body.Excused})
}

func issuedTo(x school.IssuedTo) IssuedTo {
	return IssuedTo{Id: x.ID, Name: x.Name, Extension: Extension{Due: x.Own.Due, More: x.Own.More,
		Excused: x.Own.Excused}, Variant: given(x.Variant), Sizes: given(x.Sizes)}
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
		return Task{Issue: issue(t.Issue), Attempts: list(t.Attempts, attemptRow), Left: t.Left, ToDo: t.ToDo,
			Excused: given(t.Excused), Before: given(t.Before)}
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
	out := GetIssue200JSONResponse{Issue: issue(d.Issue), Staff: d.Staff, Kind: IssueDetailKind(d.Document.Kind),
		Task: d.Document.Task, Unit: d.Document.Unit,
		Attempts: list(d.Attempts, attemptRow),
		Missing:  append([]string{}, d.Missing...), Characteristics: list(d.Stated, stated), Left: d.Left,
		WhatIfs: []AskedWhatIf{}, Notices: list(d.Notices, func(n store.Notice) SheetNotice {
			return SheetNotice{At: n.At, Revision: given(n.Revision), Text: n.Text}
		}), Questions: list(d.Questions, question)}
	if d.Document.Assembly != nil {
		out.Given = given(d.Document.Assembly.Gives())
	}
	out.Issue.MayChange = given(d.MayChange)
	if d.Document.WhatIfFiles {
		out.WhatIfs = list(d.Document.WhatIfs, whatIf)
	}
	out.Excused, out.Unshown = given(d.Excused), given(grade.Beforehand(d.Document))
	if d.Staff {
		students := list(d.Students, issuedTo)
		out.Students = &students
		if len(d.Groups) > 0 {
			out.Groups = &d.Groups
		}
		for k := range out.Attempts {
			out.Attempts[k].StudentId = &d.Attempts[k].Student
		}
	}
	return out, nil
}

func question(q school.Question) Question {
	return Question{Id: q.ID, Balloon: given(q.Balloon), Text: q.Text, At: q.Asked, Mine: q.Mine,
		Student: given(q.StudentName), Answer: given(q.Answer), By: q.ByName}
}

// AskQuestion asks a question of an issued sheet.
func (s *Server) AskQuestion(ctx context.Context, in AskQuestionRequestObject) (AskQuestionResponseObject, error) {
	ctx, by := asking(ctx)
	return AskQuestion204Response{}, s.school.Ask(ctx, by, in.Id, value(in.Body.Characteristic), in.Body.Text)
}

// AnswerQuestion answers a question.
func (s *Server) AnswerQuestion(ctx context.Context, in AnswerQuestionRequestObject) (AnswerQuestionResponseObject,
	error) {
	ctx, by := asking(ctx)
	return AnswerQuestion204Response{}, s.school.Answer(ctx, by, in.Id, in.Question, in.Body.Answer)
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
	sheet, err := s.school.IssueSheet(ctx, by, in.Id, value(in.Params.Student))
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
	if err := s.school.MayHandIn(ctx, by, in.Id); err != nil {
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
	a, already, err := s.school.HandIn(ctx, by, in.Id, f, whatIfs, value(in.Params.Anyway))
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
