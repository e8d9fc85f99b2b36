package school

import (
	"context"
	"slices"

	"hammerset/store"
)

// Roles of people.
const (
	student       = "student"
	assistant     = "assistant"
	instructor    = "instructor"
	administrator = "administrator"
)

// Roles lists all roles there are.
func Roles() []string { return []string{student, assistant, instructor, administrator} }

// Staff tells whether a person is no student.
func Staff(by Person) bool { return by.Role != student }

// Action is something that a person does.
type Action string

// What people do.
const (
	ListAccounts     Action = "list accounts"
	MakeAccount      Action = "make an account"
	ResetPassword    Action = "reset a password"
	MakeClass        Action = "make a class"
	ReadClass        Action = "read a class"
	ChangeClass      Action = "change a class"
	ReadDesk         Action = "read the desk"
	ReadHome         Action = "read what is to be done"
	MakeExercise     Action = "make an exercise"
	ReadExercise     Action = "read an exercise"
	ReadReference    Action = "read the file of a reference"
	ChangeExercise   Action = "change an exercise"
	ReadIssue        Action = "read an issue"
	ReviewIssue      Action = "look through the attempts of an issue"
	RemarkOnAttempts Action = "write remarks"
	ChangeIssue      Action = "change an issue"
	HandIn           Action = "hand in"
	ReadAttempt      Action = "read an attempt"
	StudyAttempt     Action = "look behind an attempt"
	MarkAttempt      Action = "mark an attempt"
	ReturnAttempt    Action = "return an attempt"
	KeepModels       Action = "keep models"
	PromoteModel     Action = "make a model the reference"
	KeepAssemblies   Action = "keep assemblies"
)

// whose are the rows to which a role reaches.
type whose int

const (
	// anybodys: every row.
	anybodys whose = iota
	// ofClass: rows of a class that the person belongs to; an administrator belongs to all.
	ofClass
	// ownOrTaught: of a class likewise, and to a student only the student's own.
	ownOrTaught
	// taught: students of a class that the person belongs to; to an administrator everybody.
	taught
	// own: the person's own alone.
	own
	// toChange: exercises that the person has made, or that are issued to a class of the person; to an administrator all.
	toChange
)

type rule struct {
	roles []string
	whose whose
}

// rules says who may do what to which rows. What is not listed, nobody may.
func rules() map[Action]rule {
	everyone := Roles()
	teaching := []string{assistant, instructor, administrator}
	leading := []string{instructor, administrator}
	return map[Action]rule{
		ListAccounts:     {[]string{administrator}, anybodys},
		MakeAccount:      {[]string{administrator}, anybodys},
		ResetPassword:    {leading, taught},
		MakeClass:        {leading, anybodys},
		ReadClass:        {teaching, ofClass},
		ChangeClass:      {leading, ofClass},
		ReadDesk:         {teaching, anybodys},
		ReadHome:         {[]string{student}, anybodys},
		MakeExercise:     {leading, anybodys},
		ReadExercise:     {teaching, anybodys},
		ReadReference:    {leading, anybodys},
		ChangeExercise:   {leading, toChange},
		ReadIssue:        {everyone, ofClass},
		ReviewIssue:      {teaching, ofClass},
		RemarkOnAttempts: {teaching, ofClass},
		ChangeIssue:      {leading, ofClass},
		HandIn:           {[]string{student}, ofClass},
		ReadAttempt:      {everyone, ownOrTaught},
		StudyAttempt:     {teaching, ownOrTaught},
		MarkAttempt:      {teaching, ownOrTaught},
		ReturnAttempt:    {leading, ownOrTaught},
		KeepModels:       {everyone, own},
		PromoteModel:     {leading, own},
		KeepAssemblies:   {everyone, own},
	}
}

// Allowed refuses an action that the role of a person never allows, whatever it is done to.
func Allowed(by Person, a Action) error {
	if !slices.Contains(rules()[a].roles, by.Role) {
		return refuse(Forbidden, "your role does not allow this", "")
	}
	return nil
}

// row is what is known of something by which it is decided who may do what to it.
type row struct {
	class    int64  // to which it belongs
	owner    int64  // whose it is
	exercise int64  // of which it is
	person   Person // who it is
}

// may refuses an action to a row. What a person may not even see is not found.
func (s *School) may(ctx context.Context, by Person, a Action, r row) error {
	if err := Allowed(by, a); err != nil {
		return err
	}
	switch whose := rules()[a].whose; whose {
	case anybodys:
		return nil
	case ofClass, ownOrTaught:
		if whose == ownOrTaught && !Staff(by) && r.owner != by.ID {
			return ErrNotFound
		}
		if by.Role == administrator {
			return nil
		}
		ok, err := s.store.Member(ctx, r.class, by.ID)
		return foundIf(ok, err)
	case taught:
		if by.Role == administrator {
			return nil
		}
		ok, err := s.store.Teaches(ctx, by.ID, r.person.ID)
		return foundIf(ok && r.person.Role == student, err)
	case own:
		return foundIf(r.owner == by.ID, nil)
	case toChange:
		ok, err := s.store.MayChange(ctx, by, r.exercise)
		if err != nil || ok {
			return err
		}
		if _, err := s.store.Newest(ctx, r.exercise); err != nil {
			return err
		}
		return refuse(Forbidden, "this exercise is somebody else's, and not issued to a class of yours",
			"export it and import it as one of your own")
	}
	return ErrNotFound
}

func foundIf(ok bool, err error) error {
	if err != nil || ok {
		return err
	}
	return ErrNotFound
}

// issue finds an issue for an action.
func (s *School) issue(ctx context.Context, by Person, a Action, id int64) (store.Issue, error) {
	if err := Allowed(by, a); err != nil {
		return store.Issue{}, err
	}
	i, err := s.store.Issue(ctx, id)
	if err != nil {
		return i, err
	}
	return i, s.may(ctx, by, a, row{class: i.ClassID})
}

// attempt finds an attempt, with its issue, for an action.
func (s *School) attempt(ctx context.Context, by Person, a Action, id int64) (store.Attempt, store.Issue, error) {
	if err := Allowed(by, a); err != nil {
		return store.Attempt{}, store.Issue{}, err
	}
	at, err := s.store.Attempt(ctx, id)
	if err != nil {
		return at, store.Issue{}, err
	}
	i, err := s.store.Issue(ctx, at.IssueID)
	if err != nil {
		return at, i, err
	}
	return at, i, s.may(ctx, by, a, row{class: i.ClassID, owner: at.Student})
}

// model finds a model for an action.
func (s *School) model(ctx context.Context, by Person, a Action, id int64) (store.Model, error) {
	if err := Allowed(by, a); err != nil {
		return store.Model{}, err
	}
	m, err := s.store.Model(ctx, id, by.ID) // the owner's alone are looked for
	if err != nil {
		return m, err
	}
	return m, s.may(ctx, by, a, row{owner: m.OwnerID})
}
