package school

import (
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"hammerset/core/exercise"
	"hammerset/core/modeller"
	"hammerset/core/prepare"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// When students see results.
const (
	AtOnce        = "at once"
	WithTheReturn = "with the return"
)

// Issue is an exercise given to a class, with the counts of its attempts.
type Issue struct {
	store.Issue
	Students int
	HandedIn int // students with at least one attempt
	Waiting  int // attempts that are checked and not returned
	Returned int
}

// Attempt is what a student handed in, as the asker may see it: without results where these are not
// for the asker yet.
type Attempt struct {
	store.Attempt
	Title string
}

// counts describes an issue with the counts of attempts at it.
func (s *School) counts(ctx context.Context, i store.Issue, attempts []store.Attempt) (Issue, error) {
	out := Issue{Issue: i}
	students, err := s.store.Roster(ctx, i.ClassID)
	if err != nil {
		return out, err
	}
	out.Students = len(students)
	seen := map[int64]bool{}
	for _, a := range attempts {
		if !seen[a.Student] {
			seen[a.Student] = true
			out.HandedIn++
		}
		switch a.State {
		case "checked":
			out.Waiting++
		case "returned":
			out.Returned++
		}
	}
	return out, nil
}

// counted describes an issue with all its attempts.
func (s *School) counted(ctx context.Context, i store.Issue) (Issue, []store.Attempt, error) {
	attempts, err := s.store.AttemptRows(ctx, i.ID, 0)
	if err != nil {
		return Issue{}, nil, err
	}
	row, err := s.counts(ctx, i, attempts)
	return row, attempts, err
}

// visible tells whether a person may see the results of an attempt.
func visible(by Person, a store.Attempt, i store.Issue) bool {
	return Staff(by) || a.State == "returned" || i.Results == AtOnce
}

// seen is an attempt as a person may see it.
func seen(by Person, a store.Attempt, i store.Issue) Attempt {
	if !visible(by, a, i) {
		a.In, a.Of, a.Report = nil, nil, nil
	}
	return Attempt{a, i.Title}
}

// used counts the attempts that use one up.
func used(attempts []store.Attempt) int {
	n, continued := 0, 0
	for _, a := range attempts {
		if a.State != "unusable" {
			n++
		}
		continued = max(continued, a.Continued)
	}
	return n - continued
}

// left says how many attempts a student has left.
func (s *School) left(ctx context.Context, i store.Issue, student int64, attempts []store.Attempt) (int, error) {
	further, err := s.store.FurtherOf(ctx, i.ID)
	return max(0, i.Attempts+further[student]-used(attempts)), err
}

// Order is what an exercise is issued with.
type Order struct {
	Class    int64
	Due      time.Time
	Attempts int
	Results  string
	Again    bool // although the class has it already
	Knowing  bool // although the sheet does not determine the part
}

// Issue gives the newest version of an exercise to a class.
func (s *School) Issue(ctx context.Context, by Person, exercise int64, o Order) (Issue, error) {
	if err := Allowed(by, ChangeIssue); err != nil {
		return Issue{}, err
	}
	switch {
	case o.Attempts < 1 || o.Attempts > 50:
		return Issue{}, refuse(Faulty, "the number of attempts must be from 1 to 50", "")
	case !o.Due.After(time.Now()):
		return Issue{}, refuse(Faulty, "the due date has passed", "choose a date to come")
	case o.Results != AtOnce && o.Results != WithTheReturn:
		return Issue{}, refuse(Faulty, "students see results either at once or with the return", "")
	}
	if err := s.may(ctx, by, ChangeIssue, row{class: o.Class}); err != nil {
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
	id, err := s.store.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: o.Class, IssuedBy: by.ID,
		Issued: time.Now().UTC(),
		Due:    o.Due.UTC(), Attempts: o.Attempts, Results: o.Results}, o.Again, open)
	if errors.Is(err, store.ErrIssued) {
		return Issue{}, refuse(Conflict, "this class has the exercise already",
			"change the due date of that issue, or issue it once more on purpose")
	}
	if err != nil {
		return Issue{}, err
	}
	i, err := s.store.Issue(ctx, id)
	if err != nil {
		return Issue{}, err
	}
	return s.counts(ctx, i, nil)
}

// openIn says what the sheet of the newest version of an exercise leaves open, or contradicts; nothing where it
// determines its part.
func (s *School) openIn(ctx context.Context, by Person, exercise int64) (v store.Version, open string, err error) {
	v, _, reference, err := s.newest(ctx, by, ReadReference, exercise)
	if err != nil {
		return v, "", err
	}
	a, err := s.audited(ctx, v, reference)
	if err != nil {
		return v, "", err
	}
	var list []string
	for _, f := range a.Findings {
		if f.Open() {
			list = append(list, f.What)
		}
	}
	return v, strings.Join(list, "; "), nil
}

// ChangeDue changes until when an issue is to be handed in.
func (s *School) ChangeDue(ctx context.Context, by Person, issue int64, due time.Time) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	if due.Before(i.Issued) || due.After(time.Now().AddDate(5, 0, 0)) {
		return refuse(Faulty, "the due date lies before the issue or years ahead", "choose another date")
	}
	return s.store.SetDue(ctx, i.ID, due.UTC(), by.ID)
}

// Withdraw takes an issue back while nothing was handed in.
func (s *School) Withdraw(ctx context.Context, by Person, issue int64) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	err = s.store.Withdraw(ctx, i.ID, by.ID)
	if errors.Is(err, store.ErrHandedIn) {
		return refuse(Conflict, "something was handed in already, so that the issue stays", "change its due date instead")
	}
	return err
}

// GrantFurther gives a student one attempt more.
func (s *School) GrantFurther(ctx context.Context, by Person, issue, student int64) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	roster, err := s.store.Roster(ctx, i.ClassID)
	if err = foundIf(slices.ContainsFunc(roster, func(u Person) bool { return u.ID == student }), err); err != nil {
		return err
	}
	return s.store.Further(ctx, i.ID, student, 1, by.ID)
}

// Release lets students see the reference, or no longer.
func (s *School) Release(ctx context.Context, by Person, issue int64, released bool) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	return s.store.Release(ctx, i.ID, released, by.ID)
}

// Task is an issue as a student has it to do.
type Task struct {
	Issue    Issue
	Attempts []Attempt // the student's own
	Left     int
}

// Home lists what a student has to do.
func (s *School) Home(ctx context.Context, by Person) ([]Task, error) {
	if err := Allowed(by, ReadHome); err != nil {
		return nil, err
	}
	issues, err := s.store.Issues(ctx, by)
	if err != nil {
		return nil, err
	}
	var out []Task
	for _, i := range issues {
		t, err := s.task(ctx, by, i)
		if err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, nil
}

func (s *School) task(ctx context.Context, by Person, i store.Issue) (t Task, err error) {
	mine, err := s.store.AttemptRows(ctx, i.ID, by.ID)
	if err != nil {
		return t, err
	}
	if t.Issue, err = s.counts(ctx, i, mine); err != nil {
		return t, err
	}
	for _, a := range mine {
		t.Attempts = append(t.Attempts, seen(by, a, i))
	}
	t.Left, err = s.left(ctx, i, by.ID, mine)
	return t, err
}

// IssueDetail is an issue with the attempts that the asker may see.
type IssueDetail struct {
	Task
	Notices   []store.Notice // about the sheet
	Document  *exercise.Exercise
	Stated    []prepare.Stated
	Missing   []string // students who have not handed in; for staff
	MayChange bool
}

// IssueDetail gives an issue: a student's own attempts, or all to staff.
func (s *School) IssueDetail(ctx context.Context, by Person, id int64) (out IssueDetail, err error) {
	i, err := s.issue(ctx, by, ReadIssue, id)
	if err != nil {
		return out, err
	}
	v, err := s.store.Version(ctx, i.VersionID)
	if err != nil {
		return out, err
	}
	p, err := prepared(v)
	if err != nil {
		return out, err
	}
	out.Stated = p.Stated
	if out.Document, err = documents.ReadExercise(v.Document); err != nil {
		return out, err
	}
	if out.Notices, err = s.store.Notices(ctx, id); err != nil {
		return out, err
	}
	out.MayChange = Allowed(by, ChangeIssue) == nil
	if !Staff(by) {
		out.Task, err = s.task(ctx, by, i)
		return out, err
	}
	return out, s.whole(ctx, by, i, &out)
}

// whole fills in the attempts of all students.
func (s *School) whole(ctx context.Context, by Person, i store.Issue, out *IssueDetail) error {
	row, attempts, err := s.counted(ctx, i)
	if err != nil {
		return err
	}
	out.Issue = row
	have := map[int64]bool{}
	for _, a := range attempts {
		have[a.Student] = true
		out.Attempts = append(out.Attempts, seen(by, a, i))
	}
	students, err := s.store.Roster(ctx, i.ClassID)
	for _, st := range students {
		if !have[st.ID] {
			out.Missing = append(out.Missing, st.Name)
		}
	}
	return err
}

// IssueSheet gives the sheet as issued.
func (s *School) IssueSheet(ctx context.Context, by Person, id int64) (Sheet, error) {
	i, err := s.issue(ctx, by, ReadIssue, id)
	if err != nil {
		return Sheet{}, err
	}
	v, p, err := s.version(ctx, i.VersionID)
	return Sheet{p.Drawing, v.Drawing}, err
}

// IssueGiven packs the parts that the students of an issue are given, under a name.
func (s *School) IssueGiven(ctx context.Context, by Person, id int64) (name string, data []byte, err error) {
	i, err := s.issue(ctx, by, ReadIssue, id)
	if err != nil {
		return "", nil, err
	}
	v, err := s.store.Version(ctx, i.VersionID)
	if err != nil {
		return "", nil, err
	}
	reference, err := s.store.File(ctx, v.ReferenceSHA)
	if err != nil {
		return "", nil, err
	}
	out, err := ask[modeller.Exported](ctx, s, &task.Request{Kind: task.Given, Exercise: v.Document, Reference: reference})
	if err != nil {
		return "", nil, err
	}
	return v.Drawing + "-given-parts.zip", out.Data, nil
}

// version finds a version with its sheet and meshes.
func (s *School) version(ctx context.Context, id int64) (v store.Version, p prepare.Prepared, err error) {
	if v, err = s.store.Version(ctx, id); err != nil {
		return v, p, err
	}
	p, err = prepared(v)
	return v, p, err
}

// IssueReference gives the reference's mesh: to staff, and to students once it is released.
func (s *School) IssueReference(ctx context.Context, by Person, id int64) (*solid.Mesh, error) {
	i, err := s.issue(ctx, by, ReadIssue, id)
	if err != nil {
		return nil, err
	}
	if !Staff(by) && !i.Released {
		return nil, refuse(Forbidden, "the reference is not released", "")
	}
	_, p, err := s.version(ctx, i.VersionID)
	return p.Mesh, err
}

// File is one that was sent.
type File struct {
	Name string
	Data []byte
}

// HandIn takes a student's file, with one for each what-if by its name where the exercise asks for these.
// It is kept whatever it is; what cannot be checked is said by the check. Already tells that the same file
// had been handed in before as this attempt.
func (s *School) HandIn(ctx context.Context, by Person, issue int64, f File, whatIfs map[string][]byte) (a Attempt,
	already bool, err error) {
	i, err := s.issue(ctx, by, HandIn, issue)
	if err != nil {
		return a, false, err
	}
	if len(whatIfs) > 0 {
		if f, err = packed(f, whatIfs); err != nil {
			return a, false, err
		}
	}
	id, already, err := s.store.HandIn(ctx, i.ID, by.ID, f.Name, f.Data)
	if errors.Is(err, store.ErrUsedUp) {
		return a, false, refuse(Conflict, "all attempts at this exercise are used", "ask your instructor for another")
	}
	if err != nil {
		return a, false, err
	}
	kept, err := s.store.Attempt(ctx, id)
	kept.In, kept.Of, kept.Report = nil, nil, nil
	return Attempt{kept, i.Title}, already, err
}

// packed packs the files for what-ifs that came with the part together with it.
func packed(f File, whatIfs map[string][]byte) (File, error) {
	if !strings.HasPrefix(strings.TrimSpace(string(f.Data[:min(len(f.Data), 100)])), "ISO-10303-21") {
		return f, refuse(Faulty, "files for what-ifs go with a STEP file, and the part is none",
			"hand in the part as STEP, or a model document alone: its sizes are varied in the check")
	}
	data, err := documents.Pack(f.Data, whatIfs)
	if err != nil {
		return f, fmt.Errorf("pack the files for what-ifs: %w", err)
	}
	return File{strings.TrimSuffix(f.Name, filepath.Ext(f.Name)) + ".zip", data}, nil
}
