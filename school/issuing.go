package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"hammerset/store"
)

// Order is what an exercise is issued with.
type Order struct {
	Class    int64
	Opens    *time.Time // when students see it; nil from the beginning
	Due      time.Time
	Attempts int
	Results  string
	Practice bool    // results at once, and no marks
	Personal bool    // every student gets sizes of the own
	Students []int64 // whom it is for; empty for the whole class, where no groups are named
	Groups   []string
	Again    bool // although the class has it already
	Knowing  bool // although the sheet does not determine the part
}

// Issue gives the newest version of an exercise to a class.
func (s *School) Issue(ctx context.Context, by Person, exercise int64, o Order) (Issue, error) {
	if err := s.may(ctx, by, ChangeIssue, row{class: o.Class}); err != nil {
		return Issue{}, err
	}
	if o.Practice {
		o.Results = AtOnce
	}
	terms := store.Terms{Due: o.Due, Opens: o.Opens, Attempts: o.Attempts, Results: o.Results}
	if !o.Due.After(time.Now()) {
		return Issue{}, refuse(Faulty, "the due date has passed", "choose a date to come")
	}
	if err := sound(&terms, time.Now()); err != nil {
		return Issue{}, err
	}
	if err := s.ofClass(ctx, o.Class, o.Students); err != nil {
		return Issue{}, err
	}
	if err := s.ofGroups(ctx, &o); err != nil {
		return Issue{}, err
	}
	v, open, err := s.openIn(ctx, by, exercise)
	if err != nil {
		return Issue{}, err
	}
	if open != "" && !o.Knowing {
		return Issue{}, refuse(Faulty, "the sheet does not determine the part: "+open,
			"complete the sheet, or say that it is to be issued all the same")
	}
	students, numbers, err := s.drawn(ctx, v, o)
	if err != nil {
		return Issue{}, err
	}
	id, err := s.store.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: o.Class, IssuedBy: by.ID,
		Issued: time.Now().UTC(), Opens: terms.Opens, Due: terms.Due, Attempts: o.Attempts, Results: o.Results,
		Practice: o.Practice, Personal: o.Personal, Groups: o.Groups}, o.Again, open, o.Students...)
	if errors.Is(err, store.ErrIssued) {
		return Issue{}, &Refusal{Kind: Conflict, Code: Twice, What: "this class has the exercise already",
			Remedy: "change the due date of that issue, or issue it once more on purpose"}
	}
	if err != nil {
		return Issue{}, err
	}
	if err := s.assign(ctx, id, students, numbers); err != nil {
		return Issue{}, err
	}
	i, err := s.store.Issue(ctx, id)
	if err != nil {
		return Issue{}, err
	}
	return counts(i, nil), nil
}

// drawn gives the students of an order with personal sizes, and a variant for each of them.
func (s *School) drawn(ctx context.Context, v store.Version, o Order) (students []int64, numbers []int, err error) {
	if !o.Personal {
		return nil, nil, nil
	}
	if students = o.Students; len(students) == 0 {
		roster, err := s.store.Roster(ctx, o.Class)
		if err != nil {
			return nil, nil, err
		}
		for _, u := range roster {
			students = append(students, u.ID)
		}
	}
	d, err := s.drawing(ctx, v.ID)
	if err != nil {
		return nil, nil, err
	}
	numbers, err = d.draw(ctx, len(students), nil)
	return students, numbers, err
}

// sound checks terms against when the exercise was issued, and tidies them.
func sound(t *store.Terms, issued time.Time) error {
	t.Due = t.Due.UTC()
	if t.Opens != nil {
		opens := t.Opens.UTC()
		t.Opens = &opens
	}
	switch {
	case t.Attempts < 1 || t.Attempts > 50:
		return refuse(Faulty, "the number of attempts must be from 1 to 50", "")
	case t.Results != AtOnce && t.Results != WithTheReturn:
		return refuse(Faulty, "students see results either at once or with the return", "")
	case t.Due.Before(issued.Add(-time.Minute)) || t.Due.After(time.Now().AddDate(5, 0, 0)):
		return refuse(Faulty, "the due date lies before the issue or years ahead", "choose another date")
	case t.Opens != nil && !t.Opens.Before(t.Due):
		return refuse(Faulty, "it would open when it is due already", "let it open earlier, or be due later")
	}
	return nil
}

// ofClass refuses students who are none of a class.
func (s *School) ofClass(ctx context.Context, class int64, students []int64) error {
	if len(students) == 0 {
		return nil
	}
	roster, err := s.store.Roster(ctx, class)
	if err != nil {
		return err
	}
	for _, id := range students {
		if !slices.ContainsFunc(roster, func(u Person) bool { return u.ID == id }) {
			return refuse(Faulty, "somebody of these is no student of the class", "choose the students again")
		}
	}
	return nil
}

// ChangeTerms changes the terms of an issue.
func (s *School) ChangeTerms(ctx context.Context, by Person, issue int64, t store.Terms) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	if i.Practice {
		t.Results = AtOnce
	}
	if err := sound(&t, i.Issued); err != nil {
		return err
	}
	return s.store.SetTerms(ctx, i.ID, t, by.ID)
}

// Extension is what one student gets at an issue.
type Extension struct {
	Due     *time.Time // in place of that of the issue; nil for that
	More    int        // attempts beyond those of the issue; below 0 fewer
	Excused bool       // it is not counted as missing
}

// Extend changes what a student has of the own at an issue: more time, further attempts or fewer, or being excused.
func (s *School) Extend(ctx context.Context, by Person, issue, student int64, e Extension) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	if err := foundIf(s.ofClass(ctx, i.ClassID, []int64{student}) == nil, nil); err != nil {
		return err
	}
	own, err := s.store.OwnAt(ctx, i.ID)
	if err != nil {
		return err
	}
	o := own[student]
	o.Issue, o.Student = i.ID, student
	if i.Chosen && !o.Given {
		return refuse(Faulty, "this exercise is not for this student", "issue it to the student first")
	}
	said := []string{}
	if e.Due != nil {
		due := e.Due.UTC()
		if due.Before(i.Issued) || due.After(time.Now().AddDate(5, 0, 0)) {
			return refuse(Faulty, "the due date lies before the issue or years ahead", "choose another date")
		}
		e.Due = &due
		said = append(said, "due "+due.Format("2006-01-02 15:04")+" UTC")
	}
	if n := i.Attempts + e.More; n < 0 || n > 50 {
		return refuse(Faulty, "the number of attempts must be from 0 to 50 in all", "")
	}
	if e.More != 0 {
		said = append(said, fmt.Sprintf("%+d attempts", e.More))
	}
	if e.Excused {
		said = append(said, "excused")
	}
	if len(said) == 0 {
		said = append(said, "as everybody")
	}
	o.Due, o.More, o.Excused = e.Due, e.More, e.Excused
	return s.store.SetOwn(ctx, o, by.ID, "extension", fmt.Sprintf("the student %d: %s", student, strings.Join(said, ", ")))
}

// GrantFurther gives a student one attempt more.
func (s *School) GrantFurther(ctx context.Context, by Person, issue, student int64) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	own, err := s.store.OwnAt(ctx, i.ID)
	if err != nil {
		return err
	}
	o := own[student]
	return s.Extend(ctx, by, issue, student, Extension{Due: o.Due, More: o.More + 1, Excused: o.Excused})
}

// CloseIssue ends handing in at an issue, or begins it again.
func (s *School) CloseIssue(ctx context.Context, by Person, issue int64, closed bool) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	return s.store.CloseIssue(ctx, i.ID, closed, by.ID)
}

// Withdraw takes an issue back. Where something was handed in, only if anyway is set: that stays with the instructors
// and counts for nothing.
func (s *School) Withdraw(ctx context.Context, by Person, issue int64, anyway bool) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	err = s.store.Withdraw(ctx, i.ID, anyway, by.ID)
	if errors.Is(err, store.ErrHandedIn) {
		return refuse(Conflict, "something was handed in already",
			"withdraw it all the same: what was handed in stays with you and counts for nothing; or close it instead")
	}
	return err
}

// BringBack issues again what was withdrawn.
func (s *School) BringBack(ctx context.Context, by Person, issue int64) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	return s.store.BringBack(ctx, i.ID, by.ID)
}
