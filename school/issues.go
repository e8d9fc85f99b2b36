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
func counts(i store.Issue, attempts []store.Attempt) Issue {
	return tallied(i, attempts, func(a store.Attempt) (int64, string) { return a.Student, a.State })
}

// tallied is an issue with the counts of its attempts, of each of which it is said whose it is and in which state.
func tallied[A any](i store.Issue, attempts []A, of func(A) (student int64, state string)) Issue {
	out := Issue{Issue: i}
	seen := map[int64]bool{}
	for _, a := range attempts {
		student, state := of(a)
		if !seen[student] {
			seen[student] = true
			out.HandedIn++
		}
		switch state {
		case "checked":
			out.Waiting++
		case "returned":
			out.Returned++
		}
	}
	return out
}

// counted describes an issue with all its attempts.
func (s *School) counted(ctx context.Context, i store.Issue) (Issue, []store.Attempt, error) {
	attempts, err := s.store.AttemptRows(ctx, i.ID, 0)
	if err != nil {
		return Issue{}, nil, err
	}
	return counts(i, attempts), attempts, nil
}

// visible tells whether staff, or the student, may see the results of an attempt.
func visible(staff bool, a store.Attempt, i store.Issue) bool {
	return staff || a.State == "returned" || i.Results == AtOnce
}

// seen is an attempt as staff, or its student, may see it.
func seen(staff bool, a store.Attempt, i store.Issue) Attempt {
	if !visible(staff, a, i) {
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
	Excused  bool
	Before   bool // it was due before the student came to it: it counts only if something is handed in
	ToDo     bool // something can still be handed in, and it is not over for the student
}

// Home lists what a student was given: first what is to do, the soonest due before the others, then what is over, the
// latest due before the others.
func (s *School) Home(ctx context.Context, by Person) ([]Task, error) {
	issues, err := s.store.Issues(ctx, by, store.Student)
	if err != nil {
		return nil, err
	}
	var out []Task
	rows, err := s.store.RowsOf(ctx, idsOf(issues), by.ID)
	if err != nil {
		return nil, err
	}
	own, err := s.store.OwnOf(ctx, by.ID)
	for _, i := range issues {
		out = append(out, taskOf(i, rows[i.ID], own[i.ID]))
	}
	slices.SortStableFunc(out, func(a, b Task) int {
		switch {
		case a.ToDo && b.ToDo:
			return a.Issue.Due.Compare(b.Issue.Due)
		case a.ToDo || b.ToDo:
			return map[bool]int{true: -1, false: 1}[a.ToDo]
		}
		return b.Issue.Due.Compare(a.Issue.Due)
	})
	return out, err
}

// taskOf is an issue as a student has it to do, by the own attempts and what else is the student's own.
func taskOf(i store.Issue, mine []store.Attempt, own store.Own) Task {
	i.Attempts += own.More
	if own.Due != nil {
		i.Due = *own.Due
		if i.Closed != nil && own.Due.After(time.Now()) {
			i.Closed = nil // for everybody else
		}
	}
	t := Task{Issue: counts(i, mine), Left: max(0, i.Attempts-used(mine)), Excused: own.Excused}
	if i.Closed != nil {
		t.Left = 0
	}
	t.Before = own.Joined != nil && !own.Joined.Before(i.Due)
	t.ToDo = t.Left > 0 && !t.Excused && (i.Due.After(time.Now()) || len(mine) == 0 && !t.Before)
	for _, a := range mine {
		t.Attempts = append(t.Attempts, seen(false, a, i))
	}
	return t
}

func (s *School) task(ctx context.Context, by Person, i store.Issue) (Task, error) {
	mine, err := s.store.AttemptRows(ctx, i.ID, by.ID)
	if err != nil {
		return Task{}, err
	}
	own, err := s.store.OwnOf(ctx, by.ID)
	return taskOf(i, mine, own[i.ID]), err
}

// IssuedTo is a student that an issue is for.
type IssuedTo struct {
	ID   int64
	Name string
	Own  store.Own
	PersonalSizes
}

// IssueDetail is an issue with the attempts that the asker may see.
type IssueDetail struct {
	Task
	Notices   []store.Notice // about the sheet
	Document  *exercise.Exercise
	Stated    []prepare.Stated
	Missing   []string   // students who have not handed in; for staff
	Students  []IssuedTo // whom it is for, with what is their own; for staff
	Groups    []string   // that it is for; for staff
	Questions []Question
	MayChange bool
	Staff     bool // the asker looks through the attempts of all
}

// IssueDetail gives an issue: a student's own attempts, or all to staff.
func (s *School) IssueDetail(ctx context.Context, by Person, id int64) (out IssueDetail, err error) {
	i, err := s.issue(ctx, by, ReadIssue, id)
	if err != nil {
		return out, err
	}
	is, err := s.standings(ctx, by, row{class: i.ClassID})
	if err != nil {
		return out, err
	}
	out.MayChange, out.Staff = allowed(is, ChangeIssue) == nil, allowed(is, ReviewIssue) == nil
	v, p, err := s.sheetOf(ctx, by, i, out.Staff)
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
	if out.Questions, err = s.questionsOf(ctx, by, i.ID, out.Staff, out.Stated); err != nil {
		return out, err
	}
	if !out.Staff {
		out.Task, err = s.task(ctx, by, i)
		return out, err
	}
	return out, s.whole(ctx, i, &out)
}

// whole fills in the attempts of all students.
func (s *School) whole(ctx context.Context, i store.Issue, out *IssueDetail) error {
	row, attempts, err := s.counted(ctx, i)
	if err != nil {
		return err
	}
	out.Issue = row
	have := map[int64]bool{}
	for _, a := range attempts {
		have[a.Student] = true
		out.Attempts = append(out.Attempts, seen(true, a, i))
	}
	students, err := s.store.Roster(ctx, i.ClassID)
	if err != nil {
		return err
	}
	own, err := s.store.OwnAt(ctx, i.ID)
	if err != nil {
		return err
	}
	if i.Chosen {
		if out.Groups, err = s.store.GroupsOf(ctx, i.ID); err != nil {
			return err
		}
	}
	personal, err := s.sizesAt(ctx, i, own)
	for _, st := range students {
		o := own[st.ID]
		if i.Chosen && !o.Given {
			continue
		}
		out.Students = append(out.Students, IssuedTo{st.ID, st.Name, o, personal[st.ID]})
		if !have[st.ID] && !o.Excused {
			out.Missing = append(out.Missing, st.Name)
		}
	}
	return err
}

// sheetOf gives an issue's version with its sheet: to a student at the own sizes, where there are such, and to staff
// the plain one.
func (s *School) sheetOf(ctx context.Context, by Person, i store.Issue, staff bool) (store.Version, prepare.Prepared,
	error) {
	if staff {
		return s.version(ctx, i.VersionID)
	}
	if err := s.ownSizes(ctx, i, by.ID); err != nil {
		return store.Version{}, prepare.Prepared{}, err
	}
	return s.sheetFor(ctx, i.VersionID, i, by.ID)
}

// IssueSheet gives the sheet as issued; to staff also as a student has it.
func (s *School) IssueSheet(ctx context.Context, by Person, id, student int64) (Sheet, error) {
	i, err := s.issue(ctx, by, ReadIssue, id)
	if err != nil {
		return Sheet{}, err
	}
	staff, err := s.teaching(ctx, by, i.ClassID)
	if err != nil {
		return Sheet{}, err
	}
	if staff && student != 0 {
		v, p, err := s.sheetFor(ctx, i.VersionID, i, student)
		return Sheet{p.Drawing, v.Drawing}, err
	}
	if student != 0 && student != by.ID {
		return Sheet{}, ErrNotFound
	}
	v, p, err := s.sheetOf(ctx, by, i, staff)
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
	if err := s.may(ctx, by, SeeReference, row{class: i.ClassID}); err != nil && !i.Released {
		return nil, refuse(Forbidden, "the reference is not released", "")
	}
	staff, err := s.teaching(ctx, by, i.ClassID)
	if err != nil {
		return nil, err
	}
	_, p, err := s.sheetOf(ctx, by, i, staff)
	return p.Mesh, err
}

// File is one that was sent.
type File struct {
	Name string
	Data []byte
}

// MayHandIn refuses to hand in to whom it is not allowed.
func (s *School) MayHandIn(ctx context.Context, by Person, issue int64) error {
	_, err := s.issue(ctx, by, HandIn, issue)
	return err
}

// HandIn takes a student's file, with one for each what-if by its name where the exercise asks for these.
// It is kept whatever it is; what cannot be checked is said by the check. Already tells that the same file
// had been handed in before as this attempt.
//
// A mesh is taken only with anyway, since little of it can be checked: that is said before an attempt is used up.
func (s *School) HandIn(ctx context.Context, by Person, issue int64, f File, whatIfs map[string][]byte,
	anyway bool) (a Attempt, already bool, err error) {
	i, err := s.issue(ctx, by, HandIn, issue)
	if err != nil {
		return a, false, err
	}
	if !anyway && documents.LooksLikeMesh(f.Name, f.Data) {
		return a, false, &Refusal{Kind: Conflict, Code: Mesh,
			What: f.Name + " is a mesh, of which only the figures of the whole part can be compared; no attempt " +
				"is used up yet",
			Remedy: "export the solid as STEP (AP203, AP214 or AP242) or hand in the model document; or hand the mesh in " +
				"all the same"}
	}
	if len(whatIfs) > 0 {
		if f, err = packed(f, whatIfs); err != nil {
			return a, false, err
		}
	}
	id, already, err := s.store.HandIn(ctx, i.ID, by.ID, f.Name, f.Data)
	if errors.Is(err, store.ErrClosed) {
		return a, false, refuse(Conflict, "this exercise is closed", "ask your instructor for more time")
	}
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
