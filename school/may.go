package school

import (
	"context"
	"errors"
	"slices"
	"time"

	"hammerset/store"
)

// Action is something that a person does.
type Action string

// What people do.
const (
	ListAccounts     Action = "list accounts"
	MakeAccount      Action = "make an account"
	EndAccount       Action = "end an account"
	ResetPassword    Action = "reset a password"
	MakeClass        Action = "make a class"
	ReadClass        Action = "read a class"
	ChangeClass      Action = "change a class"
	ExportClass      Action = "export the points of a class"
	ReadDesk         Action = "read the desk"
	ReadHome         Action = "read what is to be done"
	MakeExercise     Action = "make an exercise"
	ReadExercise     Action = "read an exercise, with its reference as a picture"
	ReadAtlas        Action = "read the mistake atlas"
	ReadReference    Action = "read the file of a reference, or the bundle"
	ReadDraft        Action = "read the draft of an exercise"
	ChangeExercise   Action = "change an exercise"
	ShareExercise    Action = "share, archive or remove an exercise"
	ReadIssue        Action = "read an issue with its sheet"
	SeeReference     Action = "see the reference beside attempts"
	ReviewIssue      Action = "look through the attempts of an issue"
	RemarkOnAttempts Action = "write remarks"
	ChangeIssue      Action = "change an issue"
	HandIn           Action = "hand in"
	ReadAttempt      Action = "read an attempt, and its return"
	StudyAttempt     Action = "look behind an attempt"
	MarkAttempt      Action = "mark an attempt"
	ReturnAttempt    Action = "return an attempt"
	KeepModels       Action = "keep models"
	PromoteModel     Action = "make a model the reference"
	KeepAssemblies   Action = "keep assemblies"
)

// standing is what a person is to a row. It can be several things at once.
type standing string

const (
	administrator standing = "administrator" // to everything
	teacher       standing = "teacher"       // whose account may make classes and exercises
	maker         standing = "maker"         // of the exercise
	changer       standing = "changer"       // whom the exercise is shared with to change
	user          standing = "user"          // whom the exercise is shared with to use
	leader        standing = "leader"        // instructor of the class, or of one that the exercise is issued to
	helper        standing = "helper"        // assistant of the class
	pupil         standing = "pupil"         // student of the class, now
	owner         standing = "owner"         // whose own it is: the model, or the attempt
	somebody      standing = "somebody"      // signed in
)

// rule says who may do something; what it is done to is seen by whoever may do reads.
type rule struct {
	who   []standing
	reads Action // where nobody may who does not see the row; empty where there is no row to be seen
}

// rules says who may do what. What is not listed, nobody may.
func rules() map[Action]rule {
	of := func(reads Action, who ...standing) rule { return rule{append(who, administrator), reads} }
	return map[Action]rule{
		ListAccounts:     of(""),
		MakeAccount:      of(""),
		EndAccount:       of(""),
		ResetPassword:    of(ReadClass, leader),
		MakeClass:        of("", teacher),
		ReadClass:        of(ReadClass, leader, helper),
		ChangeClass:      of(ReadClass, leader),
		ExportClass:      of(ReadClass, leader),
		ReadDesk:         of("", teacher, leader, helper),
		ReadHome:         of("", somebody),
		MakeExercise:     of("", teacher),
		ReadExercise:     of(ReadExercise, maker, changer, user, leader),
		ReadAtlas:        of(ReadExercise, maker, changer, user, leader),
		ReadReference:    of(ReadExercise, maker, changer, user),
		ReadDraft:        of(ReadExercise, maker, changer),
		ChangeExercise:   of(ReadExercise, maker, changer),
		ShareExercise:    of(ReadExercise, maker),
		ReadIssue:        of(ReadIssue, leader, helper, pupil),
		SeeReference:     of(ReadIssue, leader, helper),
		ReviewIssue:      of(ReadIssue, leader, helper),
		RemarkOnAttempts: of(ReadIssue, leader, helper),
		ChangeIssue:      of(ReadIssue, leader),
		HandIn:           {[]standing{pupil}, ReadIssue},
		ReadAttempt:      of(ReadAttempt, leader, helper, owner),
		StudyAttempt:     of(ReadAttempt, leader, helper),
		MarkAttempt:      of(ReadAttempt, leader, helper),
		ReturnAttempt:    of(ReadAttempt, leader),
		KeepModels:       {[]standing{owner}, KeepModels},
		PromoteModel:     {[]standing{owner}, KeepModels},
		KeepAssemblies:   {[]standing{owner}, KeepAssemblies},
	}
}

// row is what is known of something by which it is decided who may do what to it.
type row struct {
	class    int64  // to which it belongs
	owner    int64  // whose it is
	exercise int64  // of which it is
	person   Person // who it is
}

// none tells whether there is no row.
func (r row) none() bool { return r.class == 0 && r.exercise == 0 && r.owner == 0 && r.person.ID == 0 }

// standings is what a person is to a row.
func (s *School) standings(ctx context.Context, by Person, r row) ([]standing, error) {
	out := []standing{somebody}
	if by.Administrator {
		out = append(out, administrator)
	}
	if by.Teaches {
		out = append(out, teacher)
	}
	if r.none() { // what the person is anywhere
		list, err := s.store.Memberships(ctx, by.ID)
		if err != nil {
			return nil, err
		}
		for _, m := range list {
			if m.There() {
				out = append(out, byRole(m.Role))
			}
		}
	}
	if r.owner != 0 && r.owner == by.ID {
		out = append(out, owner)
	}
	if r.class != 0 {
		m, err := s.store.Membership(ctx, r.class, by.ID)
		if err != nil && !errors.Is(err, ErrNotFound) {
			return nil, err
		}
		if err == nil && m.There() {
			out = append(out, byRole(m.Role))
		}
	}
	if r.exercise != 0 {
		ties, err := s.store.TiesTo(ctx, r.exercise, by.ID)
		if err != nil {
			return nil, err
		}
		out = append(out, byTies(ties)...)
	}
	if r.person.ID != 0 {
		leads, err := s.leads(ctx, by, r.person)
		if err != nil {
			return nil, err
		}
		if leads {
			out = append(out, leader)
		}
	}
	return out, nil
}

func byRole(role string) standing {
	return map[string]standing{store.Instructor: leader, store.Assistant: helper, store.Student: pupil}[role]
}

func byTies(t store.Ties) (out []standing) {
	if t.Maker {
		out = append(out, maker)
	}
	switch t.May {
	case store.ToChange:
		out = append(out, changer)
	case store.ToUse:
		out = append(out, user)
	}
	if t.Leads {
		out = append(out, leader)
	}
	return out
}

// leads tells whether somebody is a student of a class of the person, and a student alone: whoever is more than that
// somewhere else is not to be spoken for by an instructor.
func (s *School) leads(ctx context.Context, by, student Person) (bool, error) {
	if student.Administrator || student.Teaches {
		return false, nil
	}
	list, err := s.store.Memberships(ctx, student.ID)
	more := func(m store.Membership) bool { return m.Role != store.Student && m.There() }
	if err != nil || slices.ContainsFunc(list, more) {
		return false, err
	}
	return s.store.Leads(ctx, by.ID, student.ID)
}

// may refuses an action to a row. What a person may not even see is not found.
func (s *School) may(ctx context.Context, by Person, a Action, r row) error {
	if rules()[a].reads != "" && r.none() {
		return ErrNotFound // what is to be acted on is not there
	}
	is, err := s.standings(ctx, by, r)
	if err != nil {
		return err
	}
	return allowed(is, a)
}

// allowed refuses an action to whoever is this to a row.
func allowed(is []standing, a Action) error {
	all := rules()
	can := func(a Action) bool {
		return slices.ContainsFunc(all[a].who, func(x standing) bool { return slices.Contains(is, x) })
	}
	switch reads := all[a].reads; {
	case can(a):
		return nil
	case reads == "" || can(reads):
		return refuse(Forbidden, "your role does not allow this", "")
	}
	return ErrNotFound
}

func foundIf(ok bool, err error) error {
	if err != nil || ok {
		return err
	}
	return ErrNotFound
}

// teaching tells whether a person has to do with the attempts of all students of a class.
func (s *School) teaching(ctx context.Context, by Person, class int64) (bool, error) {
	is, err := s.standings(ctx, by, row{class: class})
	return err == nil && allowed(is, ReviewIssue) == nil, err
}

// issue finds an issue for an action.
func (s *School) issue(ctx context.Context, by Person, a Action, id int64) (store.Issue, error) {
	i, err := s.store.Issue(ctx, id)
	if err != nil {
		return i, err
	}
	return i, s.mayAt(ctx, by, a, i, 0)
}

// mayAt refuses an action to an issue, or to an attempt of somebody's at it. An issue that is withdrawn is there for
// its instructors alone, one that is to open yet or that is for others is not there for a student.
func (s *School) mayAt(ctx context.Context, by Person, a Action, i store.Issue, of int64) error {
	is, err := s.standings(ctx, by, row{class: i.ClassID, owner: of})
	if err != nil {
		return err
	}
	if i.Withdrawn != nil && allowed(is, ChangeIssue) != nil && of != by.ID {
		return ErrNotFound
	}
	if slices.Contains(is, pupil) && allowed(is, ReviewIssue) != nil && of == 0 {
		if i.Opens != nil && i.Opens.After(time.Now()) {
			return ErrNotFound
		}
		if i.Chosen {
			own, err := s.store.OwnOf(ctx, by.ID)
			if err = foundIf(own[i.ID].Given, err); err != nil {
				return err
			}
		}
	}
	return allowed(is, a)
}

// attempt finds an attempt, with its issue, for an action.
func (s *School) attempt(ctx context.Context, by Person, a Action, id int64) (store.Attempt, store.Issue, error) {
	at, err := s.store.Attempt(ctx, id)
	if err != nil {
		return at, store.Issue{}, err
	}
	i, err := s.store.Issue(ctx, at.IssueID)
	if err != nil {
		return at, i, err
	}
	return at, i, s.mayAt(ctx, by, a, i, at.Student)
}

// model finds a model for an action.
func (s *School) model(ctx context.Context, by Person, a Action, id int64) (store.Model, error) {
	m, err := s.store.Model(ctx, id, by.ID) // the owner's alone are looked for
	if err != nil {
		return m, err
	}
	return m, s.may(ctx, by, a, row{owner: m.OwnerID})
}

// Roles is what a person is anywhere, for the interface to show what there is to do.
func (s *School) Roles(ctx context.Context, by Person) ([]string, error) {
	list, err := s.store.Memberships(ctx, by.ID)
	if err != nil {
		return nil, err
	}
	var out []string
	put := func(role string) {
		if !slices.Contains(out, role) {
			out = append(out, role)
		}
	}
	if by.Administrator {
		put("administrator")
	}
	if by.Teaches {
		put(store.Instructor)
	}
	for _, m := range list {
		if m.There() {
			put(m.Role)
		}
	}
	if len(out) == 0 {
		put(store.Student) // who is in no class yet
	}
	return out, nil
}
