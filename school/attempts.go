package school

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"hammerset/core/address"
	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/prepare"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/store"
)

// exerciseOf reads the exercise that an attempt is judged by: the version that its report is
// against, else that of the issue.
func (s *School) exerciseOf(ctx context.Context, a store.Attempt, i store.Issue) (*exercise.Exercise, error) {
	id := versionOf(a, i)
	if ex, ok := s.exercises.Load(id); ok {
		return ex.(*exercise.Exercise), nil
	}
	v, err := s.store.Version(ctx, id)
	if err != nil {
		return nil, err
	}
	ex, err := documents.ReadExercise(v.Document)
	if err == nil {
		s.exercises.Store(id, ex) // a version never changes
	}
	return ex, err
}

func versionOf(a store.Attempt, i store.Issue) int64 {
	if a.VersionID != nil {
		return *a.VersionID
	}
	return i.VersionID
}

// checked reads the report of an attempt as the asker may see it, marked by the rubric as it
// is now; nil where there is none to see.
func (s *School) checked(ctx context.Context, staff bool, a store.Attempt, i store.Issue) (*report.Report, error) {
	if a.Report == nil || !visible(staff, a, i) {
		return nil, nil
	}
	ex, err := s.exerciseOf(ctx, a, i)
	if err != nil {
		return nil, err
	}
	r, err := marked(a, i, ex)
	if err != nil || staff {
		return r, err
	}
	return r.Student(), nil
}

// tobe is checked for what cannot be done without a report.
func (s *School) tobe(ctx context.Context, staff bool, a store.Attempt, i store.Issue) (*report.Report, error) {
	r, err := s.checked(ctx, staff, a, i)
	return r, foundIf(r != nil, err)
}

// marked reads the report of an attempt and marks it by an exercise's rubric.
func marked(a store.Attempt, i store.Issue, ex *exercise.Exercise) (*report.Report, error) {
	var r report.Report
	if err := json.Unmarshal(a.Report, &r); err != nil {
		return nil, err
	}
	r.Exercise = ex.Title
	grade.Mark(&r, ex, grade.Circumstances{Late: a.HandedIn.Sub(a.Due), Number: a.Number - a.Continued}).Onto(&r)
	return &r, nil
}

// Mark is a mark with what people made of it. Returns keep their marks in this form.
type Mark struct {
	ID            string        `json:"id"`
	Label         string        `json:"label"`
	Points        float64       `json:"points"`
	MachinePoints float64       `json:"machinePoints"`
	OutOf         float64       `json:"outOf"`
	Reason        string        `json:"reason"`
	Ask           bool          `json:"ask,omitempty"`
	Lost          []report.Loss `json:"lost,omitempty"`
	Unshown       string        `json:"unshown,omitempty"` // what became of points for what cannot be shown
	ChangedBy     *string       `json:"changedBy,omitempty"`
	ChangedReason *string       `json:"changedReason,omitempty"`
}

// waits tells whether a mark waits for a person's look.
func (m Mark) waits() bool { return m.Ask && m.ChangedBy == nil }

// marks joins the machine's marks with what people decided.
func marks(r *report.Report, changed []store.Mark) (out []Mark, points, outOf float64) {
	by := map[string]store.Mark{}
	for _, m := range changed {
		by[m.Mark] = m
	}
	for _, m := range r.Marks {
		row := Mark{ID: m.ID, Label: m.Label, Points: m.Points, MachinePoints: m.Points, OutOf: m.OutOf, Reason: m.Reason,
			Ask: m.Ask, Lost: m.Lost, Unshown: m.Unshown}
		if k, ok := by[m.ID]; ok {
			row.Points, row.ChangedBy, row.ChangedReason = k.Points, &k.ByName, &k.Reason
		}
		points += row.Points
		outOf += m.OutOf
		out = append(out, row)
	}
	return out, points, outOf
}

// marksOf gives the marks of an attempt as they are now.
func (s *School) marksOf(ctx context.Context, a store.Attempt, r *report.Report) (list []Mark,
	points, outOf float64, err error) {
	changed, err := s.store.Marks(ctx, a.ID)
	if err != nil {
		return nil, 0, 0, err
	}
	list, points, outOf = marks(r, changed)
	return list, points, outOf, nil
}

// AttemptDetail is an attempt with all that the asker may see of it.
type AttemptDetail struct {
	Row           Attempt
	Staff         bool // the asker looks through the attempts of all
	MayReturn     bool
	Issue         Issue
	Siblings      []Attempt      // all attempts at this issue that the asker may see
	Report        *report.Report // nil where there is none to see
	Keys          []string       // of each finding: the same for the same thing in other attempts
	ComparedWith  int            // number of the attempt that changes are counted from; 0 for none
	Changes       []report.Change
	Marks         []Mark
	Points, OutOf float64
	Return        *store.Return
	Remarks       []store.Remark
	Audit         []store.AuditEntry       // for staff
	Faces         map[string][]address.Ref // faces of the reference's mesh of every characteristic; for staff
	// SizesOf is the student whose sheet the attempt has the sizes of, where that is another one's; for staff.
	SizesOf string
}

// Attempt gives an attempt as the asker may see it. Students see marks with the return only.
func (s *School) Attempt(ctx context.Context, by Person, id int64) (*AttemptDetail, error) {
	a, i, staff, err := s.readAttempt(ctx, by, id)
	if err != nil {
		return nil, err
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, a.Student)
	if err != nil {
		return nil, err
	}
	out := &AttemptDetail{Row: seen(staff, a, i), Staff: staff,
		MayReturn: s.may(ctx, by, ReturnAttempt, row{class: i.ClassID}) == nil}
	out.Issue = counts(i, all)
	for _, b := range all {
		out.Siblings = append(out.Siblings, seen(staff, b, i))
	}
	if out.Report, err = s.checked(ctx, staff, a, i); err != nil {
		return nil, err
	}
	if out.Report != nil {
		for k := range out.Report.Findings {
			out.Keys = append(out.Keys, out.Report.Findings[k].Key())
		}
		out.ComparedWith, out.Changes = s.changes(ctx, staff, a, i, all, out.Report)
		if err := s.decided(ctx, staff, a, out); err != nil {
			return nil, err
		}
	}
	if err := s.said(ctx, staff, a, out); err != nil {
		return out, err
	}
	if !staff {
		return out, s.opened(ctx, by, a)
	}
	_, p, err := s.sheetFor(ctx, versionOf(a, i), i, a.Student)
	if err != nil {
		return out, err
	}
	out.Faces = p.Faces
	out.SizesOf, err = s.whose(ctx, a, i, out.Report)
	return out, err
}

// opened notes that the student whose attempt it is has opened its return.
func (s *School) opened(ctx context.Context, by Person, a store.Attempt) error {
	if a.State != "returned" || a.Student != by.ID {
		return nil
	}
	return s.store.OpenReturn(ctx, a.ID)
}

// changes says what has changed since the last attempt before that was checked, and its number.
func (s *School) changes(ctx context.Context, staff bool, a store.Attempt, i store.Issue, all []store.Attempt,
	r *report.Report) (int, []report.Change) {
	for _, b := range slices.Backward(all) {
		if b.Number >= a.Number {
			continue
		}
		before, err := s.checked(ctx, staff, b, i)
		if err != nil || before == nil {
			continue // the one before that is compared with
		}
		return b.Number, report.Compare(before, r)
	}
	return 0, nil
}

// decided gives the marks with what people have changed, or as they were returned. The machine's
// marks are a draft until the return, which a student does not see.
func (s *School) decided(ctx context.Context, staff bool, a store.Attempt, out *AttemptDetail) error {
	returned := a.State == "returned"
	if !staff && !returned {
		out.Report.Marks, out.Report.Points, out.Report.OutOf = []report.Mark{}, 0, 0
		return nil
	}
	var err error
	if out.Marks, out.Points, out.OutOf, err = s.marksOf(ctx, a, out.Report); err != nil || !returned {
		return err
	}
	back, err := s.store.ReturnOf(ctx, a.ID)
	if errors.Is(err, ErrNotFound) || err == nil && back.Marks == nil {
		return nil // returned before marks were kept
	}
	if err != nil {
		return err
	}
	out.Points, out.OutOf = back.Points, back.OutOf
	return json.Unmarshal(back.Marks, &out.Marks)
}

// said adds what people have said of an attempt: remarks, the return and, for staff, what was done.
func (s *School) said(ctx context.Context, staff bool, a store.Attempt, out *AttemptDetail) error {
	back, err := s.store.ReturnOf(ctx, a.ID)
	switch {
	case err == nil:
		out.Return = &back
	case !errors.Is(err, ErrNotFound):
		return err
	}
	if staff || a.State == "returned" {
		if out.Remarks, err = s.store.Remarks(ctx, a.ID); err != nil {
			return err
		}
		hung(out.Remarks, out.Report)
	}
	if !staff {
		return nil
	}
	out.Audit, err = s.store.Audit(ctx, a.ID)
	return err
}

// readAttempt finds an attempt to be read, with its issue, and whether the asker has to do with those of all students.
func (s *School) readAttempt(ctx context.Context, by Person, id int64) (a store.Attempt, i store.Issue, staff bool,
	err error) {
	if a, i, err = s.attempt(ctx, by, ReadAttempt, id); err == nil {
		staff, err = s.teaching(ctx, by, i.ClassID)
	}
	return a, i, staff, err
}

// MarkedSheet gives the sheet of an attempt, with its report where the asker may see one.
func (s *School) MarkedSheet(ctx context.Context, by Person, id int64) (Sheet, *report.Report, error) {
	a, i, staff, err := s.readAttempt(ctx, by, id)
	if err != nil {
		return Sheet{}, nil, err
	}
	v, p, err := s.sheetFor(ctx, versionOf(a, i), i, a.Student)
	if err != nil {
		return Sheet{}, nil, err
	}
	r, err := s.checked(ctx, staff, a, i)
	return Sheet{p.Drawing, v.Drawing}, r, err
}

// AttemptMesh gives the attempt's mesh, as JSON.
func (s *School) AttemptMesh(ctx context.Context, by Person, id int64) (json.RawMessage, error) {
	a, i, staff, err := s.readAttempt(ctx, by, id)
	if err = foundIf(a.Report != nil && visible(staff, a, i), err); err != nil {
		return nil, err
	}
	return s.store.Mesh(ctx, a.ID)
}

// AttemptCompared gives the attempt beside the reference: how far it deviates, and what
// is too much and missing, as JSON. The reference can be read from it, so that students get it only
// with the released reference.
func (s *School) AttemptCompared(ctx context.Context, by Person, id int64) (json.RawMessage, error) {
	a, i, staff, err := s.readAttempt(ctx, by, id)
	if err = foundIf(a.Report != nil && visible(staff, a, i) && (staff || i.Released), err); err != nil {
		return nil, err
	}
	data, err := s.store.Compared(ctx, a.ID)
	if data == nil {
		data = []byte("{}") // the two do not differ, or were not laid over one another
	}
	return data, err
}

// AttemptFile gives back the file as it was handed in.
func (s *School) AttemptFile(ctx context.Context, by Person, id int64) (File, error) {
	a, _, err := s.attempt(ctx, by, ReadAttempt, id)
	if err != nil {
		return File{}, err
	}
	data, err := s.store.File(ctx, a.FileSHA)
	return File{a.FileName, data}, err
}

// Returned is an attempt as it was returned.
type Returned struct {
	Attempt store.Attempt
	Sheet   Sheet
	Return  store.Return // its comment with the remarks
	Report  *report.Report
	Marks   []Mark
	Changes []report.Change // since the attempt before
}

// ReturnOf gives an attempt as it was returned.
func (s *School) ReturnOf(ctx context.Context, by Person, id int64) (out Returned, err error) {
	a, i, staff, err := s.readAttempt(ctx, by, id)
	if err != nil {
		return out, err
	}
	out.Attempt = a
	if out.Return, err = s.store.ReturnOf(ctx, a.ID); err != nil {
		return out, err
	}
	if err = s.opened(ctx, by, a); err != nil {
		return out, err
	}
	if out.Report, err = s.tobe(ctx, staff, a, i); err != nil {
		return out, err
	}
	var v store.Version
	var p prepare.Prepared
	if v, p, err = s.sheetFor(ctx, versionOf(a, i), i, a.Student); err != nil {
		return out, err
	}
	out.Sheet = Sheet{p.Drawing, v.Drawing}
	remarks, err := s.store.Remarks(ctx, a.ID)
	if err != nil {
		return out, err
	}
	hung(remarks, out.Report)
	for _, m := range remarks {
		out.Return.Comment += "\n\n" + remarkWords(out.Report, m)
	}
	if out.Marks, _, _, err = s.marksOf(ctx, a, out.Report); err != nil {
		return out, err
	}
	if out.Return.Marks != nil {
		if err := json.Unmarshal(out.Return.Marks, &out.Marks); err != nil {
			return out, err
		}
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, a.Student)
	if err == nil {
		_, out.Changes = s.changes(ctx, staff, a, i, all, out.Report)
	}
	return out, err
}

// remarkWords is a remark as the return has it.
func remarkWords(r *report.Report, m store.Remark) string {
	for k := range r.Findings {
		if f := &r.Findings[k]; f.Key() == m.Finding {
			if f.Balloon > 0 {
				return fmt.Sprintf("Balloon %d: %s", f.Balloon, m.Text)
			}
			return f.Where + ": " + m.Text
		}
	}
	return m.Text
}

// longestReason is in bytes.
const longestReason = 900

// SetMark changes one mark, with a reason that the student will see.
func (s *School) SetMark(ctx context.Context, by Person, id int64, mark string, points float64, reason string) error {
	a, i, err := s.attempt(ctx, by, MarkAttempt, id)
	if err != nil {
		return err
	}
	r, err := s.tobe(ctx, true, a, i)
	if err != nil {
		return err
	}
	if a.State == "returned" {
		return refuse(Conflict, "this attempt is returned already", "marks are changed before the return")
	}
	list, _, _, err := s.marksOf(ctx, a, r)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(list, func(m Mark) bool { return m.ID == mark })
	if at < 0 {
		return ErrNotFound
	}
	m := list[at]
	points, reason = math.Round(points*100)/100, strings.TrimSpace(reason)
	least := 0.0
	if m.OutOf == 0 {
		least = math.Min(0, m.MachinePoints) // what is taken off can be let off
	}
	in := quantity.FormatPoints
	switch {
	case points < least || points > m.OutOf || math.IsNaN(points):
		return refuse(Faulty, "the points must be from "+in(least)+" to "+in(m.OutOf), "")
	case reason == "":
		return refuse(Faulty, "a changed mark needs a reason", "write one line that the student will see")
	case len(reason) > longestReason:
		return refuse(Faulty, "the reason is too long", "write the rest into the comment")
	}
	return s.store.SetMark(ctx, store.Mark{AttemptID: a.ID, Mark: mark, Points: points, Reason: reason, By: by.ID},
		fmt.Sprintf("%s from %s to %s: %s", mark, in(m.Points), in(points), reason))
}

// longestComment is in bytes.
const longestComment = 20000

// Return sends an attempt back with a comment. Unless the asker has looked at what the check asks
// about, it is refused with LookFirst.
func (s *School) Return(ctx context.Context, by Person, id int64, comment string, looked bool) error {
	a, i, err := s.attempt(ctx, by, ReturnAttempt, id)
	if err != nil {
		return err
	}
	if len(comment) > longestComment {
		return refuse(Unreadable, "the comment is too long", "")
	}
	if a.State != "checked" {
		return refuse(Conflict, "only a checked attempt can be returned, and only once", "")
	}
	r, err := s.tobe(ctx, true, a, i)
	if err != nil {
		return err
	}
	list, _, _, err := s.marksOf(ctx, a, r)
	if err != nil {
		return err
	}
	if asks := asked(r, list); !looked && len(asks) > 0 {
		return &Refusal{Kind: Conflict, Code: LookFirst, What: "the check asks for a look at " + strings.Join(asks, ", "),
			Remedy: "look at these, and change a mark where it needs it; then return the attempt"}
	}
	if err := s.giveBack(ctx, by, a, r, comment); err != nil {
		return err
	}
	return s.keepRemark(ctx, by, i, "", comment)
}

// giveBack returns an attempt with its marks as they are now.
func (s *School) giveBack(ctx context.Context, by Person, a store.Attempt, r *report.Report, comment string) error {
	list, points, outOf, err := s.marksOf(ctx, a, r)
	if err != nil {
		return err
	}
	kept, err := json.Marshal(list)
	if err != nil {
		return err
	}
	return s.store.AddReturn(ctx, store.Return{AttemptID: a.ID, Marks: kept, Points: points, OutOf: outOf,
		Comment: filled(strings.TrimSpace(comment), a.StudentName, points, outOf),
		By:      by.ID, At: time.Now()},
		fmt.Sprintf("returned with %s of %s points", quantity.FormatPoints(points), quantity.FormatPoints(outOf)))
}

// asked lists what the check asks a person to look at, marks that somebody has changed apart.
func asked(r *report.Report, list []Mark) []string {
	var out []string
	for k := range r.Characteristics {
		if x := &r.Characteristics[k]; x.Verdict == report.Ask {
			out = append(out, fmt.Sprintf("balloon %d (%s)", x.Balloon, x.Label))
		}
	}
	if len(out) == 0 {
		for _, m := range list {
			if m.waits() {
				out = append(out, "the mark for "+strings.ToLower(m.Label))
			}
		}
	} else if !slices.ContainsFunc(list, Mark.waits) {
		return nil // somebody has been at the marks that hang on it
	}
	return out
}

// TakeBack takes a return back, while the student has not handed in again.
func (s *School) TakeBack(ctx context.Context, by Person, id int64) error {
	a, _, err := s.attempt(ctx, by, ReturnAttempt, id)
	if err != nil {
		return err
	}
	err = s.store.TakeBack(ctx, a.ID, by.ID)
	if errors.Is(err, store.ErrWentOn) {
		return refuse(Conflict, "the student has handed in again since, so that the return stays",
			"say what is to be changed with the next return")
	}
	return err
}

// CheckAgain queues the check of an attempt that could not be finished.
func (s *School) CheckAgain(ctx context.Context, by Person, id int64) error {
	a, _, err := s.attempt(ctx, by, MarkAttempt, id)
	if err != nil {
		return err
	}
	return s.store.Recheck(ctx, a.ID, by.ID)
}
