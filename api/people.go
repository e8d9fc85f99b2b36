package api

import (
	"context"

	"hammerset/core/desk"
	"hammerset/school"
	"hammerset/store"
)

// ListUsers lists all accounts.
func (s *Server) ListUsers(ctx context.Context, _ ListUsersRequestObject) (ListUsersResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Accounts(ctx, by)
	return ListUsers200JSONResponse(list(all, func(a school.Account) Account {
		return Account{Id: a.ID, Login: a.Login, Name: a.Name, Administrator: a.Administrator, Teaches: a.Teaches,
			Classes: append([]string{}, a.Classes...), Ended: a.Ended}
	})), err
}

func slip(in school.Slip) Slip {
	return Slip{Id: in.ID, Name: in.Name, Login: in.Login, Password: in.Password}
}

// AddUser makes an account with a first password.
func (s *Server) AddUser(ctx context.Context, in AddUserRequestObject) (AddUserResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.MakeAccount(ctx, by, school.Person{Name: in.Body.Name, Login: in.Body.Login,
		Administrator: value(in.Body.Administrator), Teaches: value(in.Body.Teaches)})
	return AddUser201JSONResponse(slip(made)), err
}

// ResetPassword gives somebody a new first password.
func (s *Server) ResetPassword(ctx context.Context, in ResetPasswordRequestObject) (ResetPasswordResponseObject,
	error) {
	ctx, by := asking(ctx)
	made, err := s.school.ResetPassword(ctx, by, in.Id)
	return ResetPassword200JSONResponse(slip(made)), err
}

func class(k store.Class) Class {
	return Class{Id: k.ID, Name: k.Name, Year: k.Year, Zone: k.Zone, Students: k.Students, Archived: k.Archived,
		Leads: given(k.Role != nil && *k.Role == store.Instructor)}
}

func termed(id int64, in ClassTerms) store.Class {
	return store.Class{ID: id, Name: in.Name, Year: in.Year, Zone: in.Zone}
}

// ListClasses lists the classes that the asker teaches or helps in.
func (s *Server) ListClasses(ctx context.Context, _ ListClassesRequestObject) (ListClassesResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Classes(ctx, by)
	return ListClasses200JSONResponse(list(all, class)), err
}

// AddClass makes a class that the asker belongs to.
func (s *Server) AddClass(ctx context.Context, in AddClassRequestObject) (AddClassResponseObject, error) {
	ctx, by := asking(ctx)
	made, err := s.school.MakeClass(ctx, by, termed(0, *in.Body))
	return AddClass201JSONResponse(class(made)), err
}

// ChangeClass gives a class another name, school year or time zone.
func (s *Server) ChangeClass(ctx context.Context, in ChangeClassRequestObject) (ChangeClassResponseObject, error) {
	ctx, by := asking(ctx)
	return ChangeClass204Response{}, s.school.ChangeClass(ctx, by, termed(in.Id, *in.Body))
}

// ArchiveClass puts a class away, or brings it back.
func (s *Server) ArchiveClass(ctx context.Context, in ArchiveClassRequestObject) (ArchiveClassResponseObject, error) {
	ctx, by := asking(ctx)
	return ArchiveClass204Response{}, s.school.ArchiveClass(ctx, by, in.Id, in.Body.Archived)
}

// AddMember makes somebody a member of a class.
func (s *Server) AddMember(ctx context.Context, in AddMemberRequestObject) (AddMemberResponseObject, error) {
	ctx, by := asking(ctx)
	return AddMember204Response{}, s.school.Join(ctx, by, in.Id, in.Body.Login, string(in.Body.Role))
}

// EndMembership takes somebody out of a class.
func (s *Server) EndMembership(ctx context.Context, in EndMembershipRequestObject) (EndMembershipResponseObject,
	error) {
	ctx, by := asking(ctx)
	return EndMembership204Response{}, s.school.Leave(ctx, by, in.Id, in.Person)
}

// EndAccount ends an account, or brings it back.
func (s *Server) EndAccount(ctx context.Context, in EndAccountRequestObject) (EndAccountResponseObject, error) {
	ctx, by := asking(ctx)
	return EndAccount204Response{}, s.school.EndAccount(ctx, by, in.Id, in.Body.Ended)
}

// ForgetUser deletes a student.
func (s *Server) ForgetUser(ctx context.Context, in ForgetUserRequestObject) (ForgetUserResponseObject, error) {
	ctx, by := asking(ctx)
	return ForgetUser204Response{}, s.school.Forget(ctx, by, in.Id)
}

// Enrol reads a list of students and puts them into a class.
func (s *Server) Enrol(ctx context.Context, in EnrolRequestObject) (EnrolResponseObject, error) {
	ctx, by := asking(ctx)
	out, err := s.school.Enrol(ctx, by, in.Id, school.List{Text: value(in.Body.List), File: value(in.Body.File),
		Platform: value(in.Body.Platform), Class: value(in.Body.Class), Whole: value(in.Body.Whole)}, in.Body.Save)
	row := func(r school.EnrolmentRow) EnrolmentRow {
		return EnrolmentRow{Line: r.Line, Name: r.Name, Login: r.Login, State: EnrolmentRowState(r.State), What: r.What}
	}
	answer := Enrol200JSONResponse{Rows: list(out.Rows, row), Slips: list(out.Slips, slip), Saved: out.Saved}
	if out.Classes != nil {
		classes := list(out.Classes, func(c school.ListedClass) ListedClass {
			return ListedClass{Id: c.ID, Title: c.Title, Students: c.Students}
		})
		answer.Classes = &classes
	}
	return answer, err
}

// GetDesk is the instructor's first screen.
func (s *Server) GetDesk(ctx context.Context, _ GetDeskRequestObject) (GetDeskResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.Desk(ctx, by)
	odd := func(o desk.Oddity) Oddity {
		return Oddity{What: o.What, Why: given(o.Why), IssueId: o.Issue, AttemptId: given(o.Attempt), OtherId: given(o.Other)}
	}
	waiting := func(w school.Waiting) Waiting {
		return Waiting{IssueId: w.Issue.ID, Title: w.Issue.Title, ClassName: w.Issue.ClassName, Count: w.Count,
			Right: w.Right, Asks: w.Asks, Parked: w.Parked, Late: w.Late, Oldest: w.Oldest, AttemptId: w.Attempt}
	}
	stop := func(x store.Stop) Stop {
		return Stop{At: x.At, Kind: StopKind(x.Kind), Id: x.ID, Title: x.Title, Student: given(x.Of)}
	}
	return GetDesk200JSONResponse{Stopped: list(d.Stopped, stop), Classes: list(d.Classes, class), Due: list(d.Due, issue),
		Waiting: list(d.Waiting, waiting), Checking: d.Checking, Odd: list(d.Odd, odd)}, err
}

// GetClass gives the roster of a class.
func (s *Server) GetClass(ctx context.Context, in GetClassRequestObject) (GetClassResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.Class(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	out := GetClass200JSONResponse{Class: class(d.Class), Issues: list(d.Issues, issue)}
	out.Class.Leads = given(d.Leads)
	out.Groups = list(d.Groups, func(g store.Group) ClassGroup { return ClassGroup{Name: g.Name, Students: g.Students} })
	out.Withdrawn = list(d.Withdrawn, func(i store.Issue) Issue { return issue(school.Issue{Issue: i}) })
	out.Members = list(d.Members, func(m store.Member) Member {
		return Member{Id: m.UserID, Name: m.Name, Login: m.Login, Role: Role(m.Role), From: m.From, Until: m.Until,
			Extra: given(m.Extra)}
	})
	out.Students = list(d.Students, func(st store.User) Student {
		return Student{Id: st.ID, Login: st.Login, Name: st.Name, Attempts: list(d.Attempts[st.ID], attemptRow)}
	})
	return out, nil
}

// SetGroup makes a group of a class, or changes one.
func (s *Server) SetGroup(ctx context.Context, in SetGroupRequestObject) (SetGroupResponseObject, error) {
	ctx, by := asking(ctx)
	g := store.Group{Name: in.Body.Name, Students: in.Body.Students}
	return SetGroup204Response{}, s.school.SetGroup(ctx, by, in.Id, value(in.Body.Was), g)
}

// SetExtraTime changes how many hours after the others a student hands in.
func (s *Server) SetExtraTime(ctx context.Context, in SetExtraTimeRequestObject) (SetExtraTimeResponseObject, error) {
	ctx, by := asking(ctx)
	return SetExtraTime204Response{}, s.school.SetExtraTime(ctx, by, in.Id, in.Person, in.Body.Extra)
}
