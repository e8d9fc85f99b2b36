package school

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/check"
	"hammerset/core/desk"
	"hammerset/core/exercise"
	"hammerset/core/grade"
	"hammerset/core/prepare"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/store"
)

// newest keeps of every student the attempt that counts: the last one that could be
// checked, or else the last.
func newest(list []store.Attempt) []store.Attempt {
	best := map[int64]int{}
	for i, a := range list {
		k, ok := best[a.Student]
		switch {
		case !ok, a.Report != nil && list[k].Report == nil:
			best[a.Student] = i
		case (a.Report != nil) == (list[k].Report != nil) && a.Number > list[k].Number:
			best[a.Student] = i
		}
	}
	var out []store.Attempt
	for i, a := range list {
		if best[a.Student] == i {
			out = append(out, a)
		}
	}
	return out
}

// ClassView lays the attempts of a class beside one another.
type ClassView struct {
	Issue    Issue
	Stated   []prepare.Stated
	Attempts []ClassAttempt
	Groups   []FindingGroup // what was found, the most frequent first
}

// ClassAttempt is an attempt in that view: verdicts and measures by characteristic.
type ClassAttempt struct {
	Row           Attempt
	Verdicts      map[string]string
	Measured      map[string]string
	Points, OutOf float64
	Keys          []string
	Needs         bool // a person first: the check asks for a look, knows no cause, or could not be made
}

// FindingGroup is one thing that was found in several attempts.
type FindingGroup struct {
	report.Finding
	Key      string
	Attempts []int64
	Each     []string // what it says of each of these attempts
	Open     int      // of which not returned yet
}

// ClassView gives the newest attempts of a class: the verdict and measure of every characteristic, and what
// was found in several of them.
func (s *School) ClassView(ctx context.Context, by Person, issue int64) (out ClassView, err error) {
	i, err := s.issue(ctx, by, ReviewIssue, issue)
	if err != nil {
		return out, err
	}
	_, p, err := s.version(ctx, i.VersionID)
	if err != nil {
		return out, err
	}
	out.Stated = p.Stated
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return out, err
	}
	out.Issue = counts(i, all)
	groups := map[string]*FindingGroup{}
	for _, a := range newest(all) {
		row := ClassAttempt{Row: seen(true, a, i), Verdicts: map[string]string{}, Measured: map[string]string{}}
		r, err := s.checked(ctx, true, a, i)
		if err != nil {
			return out, err
		}
		if r != nil {
			if _, row.Points, row.OutOf, err = s.marksOf(ctx, a, r); err != nil {
				return out, err
			}
			if a.Points != nil { // as it was returned
				row.Points, row.OutOf = *a.Points, *a.OutOf
			}
			for _, k := range r.Characteristics {
				row.Verdicts[k.ID], row.Measured[k.ID] = string(k.Verdict), k.MeasuredText
			}
			row.Keys = group(groups, a, r.Findings)
			d := desk.DigestOf(r)
			row.Needs = d.Asks > 0 || d.Unclear
		}
		row.Needs = row.Needs || a.State == "parked" || a.State == "unusable"
		out.Attempts = append(out.Attempts, row)
	}
	for _, g := range groups {
		out.Groups = append(out.Groups, *g)
	}
	slices.SortFunc(out.Groups, func(a, b FindingGroup) int {
		return cmp.Or(cmp.Compare(len(b.Attempts), len(a.Attempts)), cmp.Compare(a.Key, b.Key))
	})
	return out, nil
}

// group puts the findings of an attempt into their groups, and gives their keys.
func group(groups map[string]*FindingGroup, a store.Attempt, findings []report.Finding) (keys []string) {
	for k := range findings {
		key := findings[k].Key()
		g := groups[key]
		if g == nil {
			g = &FindingGroup{Finding: findings[k], Key: key}
			groups[key] = g
		}
		if slices.Contains(g.Attempts, a.ID) {
			continue
		}
		g.Attempts, g.Each = append(g.Attempts, a.ID), append(g.Each, findings[k].What)
		if a.State == "checked" {
			g.Open++
		}
		keys = append(keys, key)
	}
	return keys
}

// SetRemark writes one remark on a finding of several attempts of an issue, and says on how many. Returned
// attempts keep what they were returned with.
func (s *School) SetRemark(ctx context.Context, by Person, issue int64, attempts []int64,
	finding, text string) (int, error) {
	i, err := s.issue(ctx, by, RemarkOnAttempts, issue)
	if err != nil {
		return 0, err
	}
	if len(text) > 4000 || len(finding) > 200 || len(attempts) == 0 || len(attempts) > 1000 {
		return 0, refuse(Unreadable, "the remark is not readable, or too long", "write less than 4000 letters")
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return 0, err
	}
	text = strings.TrimSpace(text)
	texts := make([]string, len(attempts))
	for k, id := range attempts {
		at := slices.IndexFunc(all, func(a store.Attempt) bool { return a.ID == id })
		if at < 0 {
			return 0, ErrNotFound
		}
		if texts[k], err = s.remarkFor(ctx, all[at], i, finding, text); err != nil {
			return 0, err
		}
	}
	n, err := s.store.SetRemark(ctx, attempts, finding, texts, by.ID)
	if err == nil && n == 0 {
		return 0, refuse(Conflict, "these attempts are returned already", "a remark is written before the return")
	}
	if err == nil {
		err = s.keepRemark(ctx, by, i, finding, text)
	}
	return n, err
}

// right lists the attempts of an issue that are to be returned and have everything right: the
// newest of their students, every characteristic in and full marks; a hint that costs nothing does
// not hold them back.
func (s *School) right(ctx context.Context, by Person, i store.Issue) (list []store.Attempt, reports []*report.Report,
	err error) {
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return nil, nil, err
	}
	for _, a := range newest(all) {
		if a.State != "checked" {
			continue
		}
		r, err := s.checked(ctx, true, a, i)
		if err != nil {
			return nil, nil, err
		}
		if r == nil || r.Count(report.In) != len(r.Characteristics) {
			continue
		}
		marks, points, outOf, err := s.marksOf(ctx, a, r)
		if err != nil {
			return nil, nil, err
		}
		if points == outOf && !slices.ContainsFunc(marks, Mark.waits) {
			list, reports = append(list, a), append(reports, r)
		}
	}
	return list, reports, nil
}

// Right lists the attempts that are to be returned and have everything right.
func (s *School) Right(ctx context.Context, by Person, issue int64) ([]Attempt, error) {
	i, err := s.issue(ctx, by, ReturnAttempt, issue)
	if err != nil {
		return nil, err
	}
	list, _, err := s.right(ctx, by, i)
	var out []Attempt
	for _, a := range list {
		out = append(out, seen(true, a, i))
	}
	return out, err
}

// ReturnRight returns those attempts with everything right that the asker has looked at, and says how many.
func (s *School) ReturnRight(ctx context.Context, by Person, issue int64, looked []int64, comment string) (int, error) {
	i, err := s.issue(ctx, by, ReturnAttempt, issue)
	if err != nil {
		return 0, err
	}
	if len(comment) > longestComment {
		return 0, refuse(Unreadable, "the comment is too long", "")
	}
	list, reports, err := s.right(ctx, by, i)
	if err != nil {
		return 0, err
	}
	n := 0
	for k, a := range list {
		if !slices.Contains(looked, a.ID) {
			continue
		}
		switch err := s.giveBack(ctx, by, a, reports[k], comment); {
		case err == nil:
			n++
		case !errors.Is(err, ErrNotFound): // else somebody returned it meanwhile
			return n, err
		}
	}
	return n, s.keepRemark(ctx, by, i, "", comment)
}

// RubricChange is another rubric, with the weights of characteristics that it changes.
type RubricChange struct {
	Rubric  exercise.Rubric
	Weights map[string]float64
}

// RubricView is what a rubric gives for the attempts of an issue, beside what they have.
type RubricView struct {
	Issue   store.Issue
	Rubric  exercise.Rubric
	Kind    string        // of the exercise
	Weights []Weight      // by balloon
	Worths  []grade.Worth // what faults cost by it
	Rows    []RubricRow
}

// Weight is that of a characteristic among the others.
type Weight struct {
	ID      string
	Balloon int
	Label   string
	Weight  float64
}

// weights are those of the characteristics of an exercise; of an assembly those of the whole, since those of the parts
// are weighed in the exercises of the parts.
func weights(ex *exercise.Exercise) []Weight {
	var out []Weight
	for i := range ex.Characteristics {
		c := &ex.Characteristics[i]
		out = append(out, Weight{c.ID, c.Balloon, c.Label, c.Weighs()})
	}
	if ex.Assembly != nil {
		for i := range ex.Assembly.Characteristics {
			c := &ex.Assembly.Characteristics[i]
			out = append(out, Weight{c.ID, c.Balloon, c.Label, c.Weighs()})
		}
	}
	slices.SortFunc(out, func(a, b Weight) int { return cmp.Compare(a.Balloon, b.Balloon) })
	return out
}

// RubricRow is an attempt under two rubrics.
type RubricRow struct {
	Attempt             store.Attempt
	Before, BeforeOutOf float64
	After, AfterOutOf   float64
	Marks               []Mark // after
}

// rubricView marks the attempts of an issue by two states of its exercise.
func (s *School) rubricView(ctx context.Context, i store.Issue,
	now, then *exercise.Exercise) (out RubricView, err error) {
	out.Issue, out.Rubric, out.Kind, out.Weights = i, then.Rubric, then.Kind, weights(then)
	if out.Worths, err = s.worths(ctx, i, then); err != nil {
		return out, err
	}
	all, err := s.store.AttemptsOf(ctx, i.ID, 0)
	if err != nil {
		return out, err
	}
	for _, a := range newest(all) {
		if a.Report == nil {
			continue
		}
		row := RubricRow{Attempt: a}
		changed, err := s.store.Marks(ctx, a.ID)
		if err != nil {
			return out, err
		}
		before, err := marked(a, i, now)
		if err != nil {
			return out, err
		}
		after, err := marked(a, i, then)
		if err != nil {
			return out, err
		}
		_, row.Before, row.BeforeOutOf = marks(before, changed)
		row.Marks, row.After, row.AfterOutOf = marks(after, changed)
		if a.State == "returned" && a.Points != nil {
			row.Before, row.BeforeOutOf = *a.Points, *a.OutOf
			row.After, row.AfterOutOf = row.Before, row.BeforeOutOf
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// worths says what faults cost by the rubric of an exercise, in a model made as the reference of the issue is.
func (s *School) worths(ctx context.Context, i store.Issue, ex *exercise.Exercise) ([]grade.Worth, error) {
	if ex.Kind == exercise.Assembly {
		return nil, nil // what a fault costs hangs on the exercise of its part
	}
	v, err := s.store.Version(ctx, i.VersionID)
	if err != nil {
		return nil, err
	}
	data, err := s.store.File(ctx, v.ReferenceSHA)
	if err != nil {
		return nil, err
	}
	ref, err := documents.ReadReference(data)
	if err != nil {
		return nil, err
	}
	return grade.Worths(ex, check.Sample(ref.Document)), nil
}

// Rubric gives the rubric of an issue and what it comes to.
func (s *School) Rubric(ctx context.Context, by Person, issue int64) (RubricView, error) {
	i, err := s.issue(ctx, by, ReviewIssue, issue)
	if err != nil {
		return RubricView{}, err
	}
	ex, err := s.exerciseOf(ctx, store.Attempt{}, i)
	if err != nil {
		return RubricView{}, err
	}
	return s.rubricView(ctx, i, ex, ex)
}

// TryRubric shows what another rubric would give; with apply it becomes that of the issue, as a new version
// of the exercise. What is measured does not change, so the checks stand.
func (s *School) TryRubric(ctx context.Context, by Person, issue int64, change RubricChange,
	apply bool) (RubricView, error) {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return RubricView{}, err
	}
	if apply && s.may(ctx, by, ChangeExercise, row{exercise: i.ExerciseID}) != nil { // it is a version of the exercise
		return RubricView{}, refuse(Forbidden, "this exercise is somebody else's, so that its rubric stays",
			"have it shared with you to change, or issue a copy of your own")
	}
	v, err := s.store.Version(ctx, i.VersionID)
	if err != nil {
		return RubricView{}, err
	}
	was, err := documents.ReadExercise(v.Document)
	if err != nil {
		return RubricView{}, err
	}
	doc, err := change.onto(v.Document)
	var is *exercise.Exercise
	if err == nil {
		is, err = documents.ReadExercise(doc)
	}
	if err != nil {
		return RubricView{}, refuse(Faulty, err.Error(), "put this right in the rubric")
	}
	out, err := s.rubricView(ctx, i, was, is)
	if err != nil || !apply {
		return out, err
	}
	reference, err := s.store.File(ctx, v.ReferenceSHA)
	if err != nil {
		return out, err
	}
	next, err := s.store.AddVersion(ctx, store.Version{ExerciseID: v.ExerciseID, Title: v.Title, Drawing: v.Drawing,
		Document: doc, Prepared: v.Prepared, Measured: v.Measured, CreatedBy: by.ID}, reference)
	if err != nil {
		return out, err
	}
	if err := s.carrySizes(ctx, i, next.ID); err != nil {
		return out, err
	}
	return out, s.store.Revise(ctx, store.Notice{IssueID: i.ID, By: by.ID}, next.ID, "rubric",
		"a new rubric, as version "+fmt.Sprint(next.Number))
}

// onto puts a rubric and weights into an exercise document, and leaves all else of it
// as it is.
func (c RubricChange) onto(document []byte) ([]byte, error) {
	var doc map[string]json.RawMessage
	if err := json.Unmarshal(document, &doc); err != nil {
		return nil, err
	}
	var err error
	if doc["rubric"], err = json.Marshal(c.Rubric); err != nil {
		return nil, err
	}
	if doc["characteristics"], err = c.weigh(doc["characteristics"]); err != nil {
		return nil, err
	}
	var whole map[string]json.RawMessage
	if len(doc["assembly"]) > 0 {
		if err := json.Unmarshal(doc["assembly"], &whole); err != nil {
			return nil, err
		}
		if whole["characteristics"], err = c.weigh(whole["characteristics"]); err != nil {
			return nil, err
		}
		if doc["assembly"], err = json.Marshal(whole); err != nil {
			return nil, err
		}
	}
	return json.Marshal(doc)
}

// weigh puts weights into a list of characteristics.
func (c RubricChange) weigh(data json.RawMessage) (json.RawMessage, error) {
	var list []map[string]any
	if err := json.Unmarshal(data, &list); err != nil {
		return nil, err
	}
	for _, x := range list {
		id, _ := x["id"].(string) // the document was read with its schema
		w, ok := c.Weights[id]
		if !ok {
			continue
		}
		if math.IsNaN(w) || w < 0 || w > 1000 {
			return nil, fmt.Errorf("the weight of %s must be from 0 to 1000", id)
		}
		delete(x, "free")
		delete(x, "weight")
		switch w {
		case 0:
			x["free"] = true
		case 1:
		default:
			x["weight"] = w
		}
	}
	return json.Marshal(list)
}

// Recheck is the check of the attempts of an issue against another version, to be looked at before it
// counts. Against is 0 while none is under way.
type Recheck struct {
	Issue     store.Issue
	Versions  []store.VersionRow // that the issue could be put on
	Against   int                // number of the version
	Done, All int
	Rows      []RecheckRow
}

// RecheckRow is what a re-check would change for an attempt.
type RecheckRow struct {
	Attempt       store.Attempt
	State, Reason string         // of the check
	Before, After *report.Report // nil where there is none
	Changes       []report.Change
}

// RecheckOf lists the versions that an issue could be checked against, and what a re-check
// that is under way would change.
func (s *School) RecheckOf(ctx context.Context, by Person, issue int64) (out Recheck, err error) {
	if out.Issue, err = s.issue(ctx, by, ReviewIssue, issue); err != nil {
		return out, err
	}
	if out.Versions, err = s.store.VersionsOf(ctx, issue); err != nil {
		return out, err
	}
	run, err := s.store.RecheckOf(ctx, issue)
	if errors.Is(err, ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Against = run.Number
	v, err := s.store.Version(ctx, run.VersionID)
	if err != nil {
		return out, err
	}
	then, err := documents.ReadExercise(v.Document)
	if err != nil {
		return out, err
	}
	list, err := s.store.RecheckedOf(ctx, issue, run.VersionID, report.Checker)
	if err != nil {
		return out, err
	}
	out.All = len(list)
	for _, k := range list {
		if k.State == "done" || k.State == "parked" {
			out.Done++
		}
		row, err := s.rechecked(ctx, by, out.Issue, k, then)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, row)
	}
	return out, nil
}

// rechecked says what a re-check has come to for one attempt.
func (s *School) rechecked(ctx context.Context, by Person, i store.Issue, k store.Rechecked,
	then *exercise.Exercise) (RecheckRow, error) {
	row := RecheckRow{State: k.State, Reason: k.Reason}
	var err error
	if row.Attempt, err = s.store.Attempt(ctx, k.AttemptID); err != nil {
		return row, err
	}
	if row.Before, err = s.checked(ctx, true, row.Attempt, i); err != nil || k.Report == nil {
		return row, err
	}
	next := row.Attempt
	next.Report = k.Report
	if row.After, err = marked(next, i, then); err != nil || row.Before == nil {
		return row, err
	}
	for _, x := range report.Compare(row.Before, row.After) {
		if x.Kind != "still wrong" || x.Before != x.After {
			row.Changes = append(row.Changes, x)
		}
	}
	return row, nil
}

// StartRecheck checks all attempts of an issue against another version, beside their own.
func (s *School) StartRecheck(ctx context.Context, by Person, issue, version int64) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	if version == i.VersionID {
		return refuse(Conflict, "the attempts are checked against this version already",
			"correct the reference first, as a new version of the exercise")
	}
	if err := s.carrySizes(ctx, i, version); err != nil {
		return err
	}
	return underWay(s.store.StartRecheck(ctx, i.ID, version, by.ID))
}

// EndRecheck applies a re-check, and tells the students of the issue, or drops it.
func (s *School) EndRecheck(ctx context.Context, by Person, issue int64, apply bool, text string) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	n, onto := store.Notice{IssueID: i.ID, By: by.ID}, int64(0)
	if apply {
		run, err := s.store.RecheckOf(ctx, issue)
		if err != nil {
			return err
		}
		if n, onto, err = s.revised(ctx, by, i, run.VersionID, text); err != nil {
			return err
		}
		if err := s.carrySizes(ctx, i, onto); err != nil {
			return err
		}
	}
	return underWay(s.store.EndRecheck(ctx, n, apply, onto))
}

// underWay says of a re-check that is in the way what to do.
func underWay(err error) error {
	if errors.Is(err, store.ErrRunning) {
		return refuse(Conflict, err.Error(), "wait for it, or drop it")
	}
	return err
}
