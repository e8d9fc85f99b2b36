package api

import (
	"bytes"
	"context"
	"encoding/csv"

	"hammerset/core/desk"
	"hammerset/core/quantity"
	"hammerset/formats/table"
	"hammerset/school"
	"hammerset/store"
)

// ListUsers lists all accounts.
func (s *Server) ListUsers(ctx context.Context, _ ListUsersRequestObject) (ListUsersResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Accounts(ctx, by)
	return ListUsers200JSONResponse(list(all, me)), err
}

func slip(in school.Slip) Slip {
	return Slip{Id: in.ID, Name: in.Name, Login: in.Login, Password: in.Password}
}

// AddUser makes an account with a first password.
func (s *Server) AddUser(ctx context.Context, in AddUserRequestObject) (AddUserResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.MakeAccount(ctx, by, in.Body.Name, in.Body.Login, string(in.Body.Role))
	return AddUser201JSONResponse(slip(made)), err
}

// ResetPassword gives somebody a new first password.
func (s *Server) ResetPassword(ctx context.Context, in ResetPasswordRequestObject) (ResetPasswordResponseObject,
	error) {
	ctx, by := asking(ctx)
	made, err := s.school.ResetPassword(ctx, by, in.Id)
	return ResetPassword200JSONResponse(slip(made)), err
}

func class(k store.Class) Class { return Class{Id: k.ID, Name: k.Name, Students: k.Students} }

// AddClass makes a class that the asker belongs to.
func (s *Server) AddClass(ctx context.Context, in AddClassRequestObject) (AddClassResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.MakeClass(ctx, by, in.Body.Name)
	return AddClass201JSONResponse(class(made)), err
}

// Enrol reads a list of students and puts them into a class.
func (s *Server) Enrol(ctx context.Context, in EnrolRequestObject) (EnrolResponseObject, error) {
	ctx, by := asking(ctx)
	out, err := s.school.Enrol(ctx, by, in.Id, in.Body.List, in.Body.Save)
	row := func(r school.EnrolmentRow) EnrolmentRow {
		return EnrolmentRow{Line: r.Line, Name: r.Name, Login: r.Login, State: EnrolmentRowState(r.State), What: r.What}
	}
	return Enrol200JSONResponse{Rows: list(out.Rows, row), Slips: list(out.Slips, slip), Saved: out.Saved}, err
}

// GetDesk is the instructor's first screen.
func (s *Server) GetDesk(ctx context.Context, _ GetDeskRequestObject) (GetDeskResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.Desk(ctx, by)
	exercise := func(v store.VersionRow) ExerciseRow {
		return ExerciseRow{Id: v.ExerciseID, Title: v.Title, Number: v.Drawing, Version: v.Number, Issues: v.Issues}
	}
	odd := func(o desk.Oddity) Oddity {
		return Oddity{What: o.What, Why: given(o.Why), IssueId: o.Issue, AttemptId: given(o.Attempt)}
	}
	return GetDesk200JSONResponse{Classes: list(d.Classes, class), Exercises: list(d.Exercises, exercise),
		Due:     list(d.Due, issue),
		Waiting: list(d.Waiting, attemptRow), Checking: d.Checking, Odd: list(d.Odd, odd)}, err
}

// GetClass gives the roster of a class.
func (s *Server) GetClass(ctx context.Context, in GetClassRequestObject) (GetClassResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.Class(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	out := GetClass200JSONResponse{Class: class(d.Class), Issues: list(d.Issues, issue)}
	out.Students = list(d.Students, func(st store.User) Student {
		return Student{Id: st.ID, Login: st.Login, Name: st.Name, Attempts: list(d.Attempts[st.ID], attemptRow)}
	})
	return out, nil
}

// GetClassPoints gives the points of a class as a table: a student in every row, an issue in
// every two columns; empty where nothing is returned yet.
func (s *Server) GetClassPoints(ctx context.Context, in GetClassPointsRequestObject) (GetClassPointsResponseObject,
	error) {
	ctx, by := asking(ctx)
	d, err := s.school.Points(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	head := []string{"name", "login"}
	for _, i := range d.Issues {
		head = append(head, i.Title, i.Title+", out of")
	}
	rows := [][]string{table.Safe(head)}
	for k, st := range d.Students {
		row := []string{st.Name, st.Login}
		for _, cell := range d.Cells[k] {
			if cell == nil {
				row = append(row, "", "")
				continue
			}
			row = append(row, quantity.FormatPoints(cell.Points), quantity.FormatPoints(cell.OutOf))
		}
		rows = append(rows, table.Safe(row))
	}
	var b bytes.Buffer
	err = csv.NewWriter(&b).WriteAll(rows)
	return file{"text/csv; charset=utf-8", d.Class.Name + " points.csv", b.Bytes()}, err
}
