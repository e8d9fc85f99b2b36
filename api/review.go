package api

import (
	"context"

	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/school"
	"hammerset/store"
)

// GetClassView lays the attempts of a class beside one another.
func (s *Server) GetClassView(ctx context.Context, in GetClassViewRequestObject) (GetClassViewResponseObject, error) {
	ctx, by := asking(ctx)
	v, err := s.school.ClassView(ctx, by, in.Id)
	attempt := func(a school.ClassAttempt) ClassAttempt {
		return ClassAttempt{Row: attemptRow(a.Row), Verdicts: a.Verdicts, Measured: a.Measured, Points: a.Points,
			OutOf: a.OutOf,
			Keys:  append([]string{}, a.Keys...), Needs: a.Needs}
	}
	group := func(g school.FindingGroup) FindingGroup {
		return FindingGroup{Key: g.Key, Balloon: given(max(0, g.Balloon)), Where: g.Where, What: g.What,
			Cause:  given(g.Cause),
			Remedy: g.Remedy, Attempts: g.Attempts, Each: g.Each, Open: g.Open}
	}
	return GetClassView200JSONResponse{Issue: issue(v.Issue), Characteristics: list(v.Stated, stated),
		Attempts: list(v.Attempts, attempt), Groups: list(v.Groups, group)}, err
}

// SetRemark writes one remark on a finding of several attempts.
func (s *Server) SetRemark(ctx context.Context, in SetRemarkRequestObject) (SetRemarkResponseObject, error) {
	ctx, by := asking(ctx)
	n, err := s.school.SetRemark(ctx, by, in.Id, in.Body.Attempts, in.Body.Finding, in.Body.Text)
	return SetRemark200JSONResponse{Attempts: n}, err
}

// GetRight lists the attempts that are to be returned and have everything right.
func (s *Server) GetRight(ctx context.Context, in GetRightRequestObject) (GetRightResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Right(ctx, by, in.Id)
	return GetRight200JSONResponse(list(all, attemptRow)), err
}

// ReturnRight returns those of them that the asker has looked at.
func (s *Server) ReturnRight(ctx context.Context, in ReturnRightRequestObject) (ReturnRightResponseObject, error) {
	ctx, by := asking(ctx)
	n, err := s.school.ReturnRight(ctx, by, in.Id, in.Body.Attempts, in.Body.Comment)
	return ReturnRight200JSONResponse{Returned: n}, err
}

// GetRubric gives the rubric of an issue and what it comes to.
func (s *Server) GetRubric(ctx context.Context, in GetRubricRequestObject) (GetRubricResponseObject, error) {
	ctx, by := asking(ctx)
	v, err := s.school.Rubric(ctx, by, in.Id)
	return GetRubric200JSONResponse(rubric(v)), err
}

// TryRubric shows what another rubric would give, and makes it the issue's where that is
// asked for.
func (s *Server) TryRubric(ctx context.Context, in TryRubricRequestObject) (TryRubricResponseObject, error) {
	ctx, by := asking(ctx)
	b := in.Body
	v, err := s.school.TryRubric(ctx, by, in.Id, school.RubricChange{Rubric: b.Rubric, Weights: b.Weights}, b.Apply)
	return TryRubric200JSONResponse(rubric(v)), err
}

// capFaults are the faults that a cap can be for in a kind of exercise.
func capFaults(kind string) []CapFault {
	out := []CapFault{}
	for _, f := range exercise.CapFaults(kind) {
		out = append(out, CapFault{When: f.When, Words: f.Words})
	}
	return out
}

func rubric(v school.RubricView) RubricView {
	out := RubricView{Title: v.Issue.Title + ", " + v.Issue.ClassName, Rubric: v.Rubric, Kind: v.Kind,
		Rows: list(v.Rows, rubricRow)}
	out.Faults = capFaults(v.Kind)
	out.Worths = list(v.Worths, func(w grade.Worth) FaultWorth {
		return FaultWorth{Fault: w.Fault, Costs: w.Costs, Leaves: w.Leaves, OutOf: w.OutOf}
	})
	out.Weights = list(v.Weights, func(x school.Weight) Weight {
		return Weight{Id: x.ID, Balloon: x.Balloon, Label: x.Label, Weight: x.Weight}
	})
	return out
}

func rubricRow(r school.RubricRow) RubricRow {
	a := r.Attempt
	out := RubricRow{Attempt: a.ID, Student: a.StudentName, Number: a.Number, Returned: a.State == "returned",
		Before: r.Before, BeforeOutOf: r.BeforeOutOf, After: r.After, AfterOutOf: r.AfterOutOf}
	for _, m := range r.Marks {
		out.Marks = append(out.Marks, RubricMark{Label: m.Label, OutOf: m.OutOf, Points: m.Points})
	}
	return out
}

// GetRecheck lists the versions that an issue could be checked against, and what a re-check
// that is under way would change.
func (s *Server) GetRecheck(ctx context.Context, in GetRecheckRequestObject) (GetRecheckResponseObject, error) {
	ctx, by := asking(ctx)
	r, err := s.school.RecheckOf(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	out := GetRecheck200JSONResponse{Title: r.Issue.Title + ", " + r.Issue.ClassName, Exercise: r.Issue.ExerciseID,
		Current: r.Issue.Version,
		Rows:    list(r.Rows, recheckRow)}
	out.Versions = list(r.Versions, func(v store.VersionRow) ExerciseVersion {
		return ExerciseVersion{Alike: v.Alike, Created: v.Created, Id: v.ID, Number: v.Number}
	})
	if r.Against != 0 {
		out.Against, out.Done, out.All = &r.Against, &r.Done, &r.All
	}
	return out, nil
}

func recheckRow(r school.RecheckRow) RecheckRow {
	a := r.Attempt
	out := RecheckRow{Attempt: a.ID, Student: a.StudentName, Number: a.Number, State: r.State, Reason: given(r.Reason),
		Changes: list(r.Changes, change)}
	if r.Before != nil {
		out.Before = &r.Before.Points
	}
	if r.After != nil {
		out.After, out.OutOf = &r.After.Points, &r.After.OutOf
	}
	return out
}

// StartRecheck checks all attempts of an issue against another version, beside their own.
func (s *Server) StartRecheck(ctx context.Context, in StartRecheckRequestObject) (StartRecheckResponseObject, error) {
	ctx, by := asking(ctx)
	return StartRecheck204Response{}, s.school.StartRecheck(ctx, by, in.Id, in.Body.Version)
}

// EndRecheck applies a re-check, or drops it.
func (s *Server) EndRecheck(ctx context.Context, in EndRecheckRequestObject) (EndRecheckResponseObject, error) {
	ctx, by := asking(ctx)
	return EndRecheck204Response{}, s.school.EndRecheck(ctx, by, in.Id, in.Body.Apply, value(in.Body.Text))
}

// ReviseIssueSheet puts an issue on another version of its sheet.
func (s *Server) ReviseIssueSheet(ctx context.Context,
	in ReviseIssueSheetRequestObject) (ReviseIssueSheetResponseObject, error) {
	ctx, by := asking(ctx)
	return ReviseIssueSheet204Response{}, s.school.ReviseSheet(ctx, by, in.Id, in.Body.Version, value(in.Body.Text))
}

// ListOwnRemarks lists what the asker has said of a finding before.
func (s *Server) ListOwnRemarks(ctx context.Context, in ListOwnRemarksRequestObject) (ListOwnRemarksResponseObject,
	error) {
	ctx, by := asking(ctx)
	all, err := s.school.OwnRemarks(ctx, by, in.Id, value(in.Params.Finding))
	return ListOwnRemarks200JSONResponse(list(all, func(r store.OwnRemark) OwnRemark {
		return OwnRemark{Text: r.Text, Here: r.Here}
	})), err
}

// ForgetOwnRemark takes something out of what is offered to the asker.
func (s *Server) ForgetOwnRemark(ctx context.Context, in ForgetOwnRemarkRequestObject) (ForgetOwnRemarkResponseObject,
	error) {
	ctx, by := asking(ctx)
	return ForgetOwnRemark204Response{}, s.school.ForgetRemark(ctx, by, in.Id, value(in.Params.Finding), in.Body.Forget)
}
