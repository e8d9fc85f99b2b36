package school

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"hammerset/core/alike"
	"hammerset/core/desk"
	"hammerset/core/diagnose"
	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Do carries out a task of the kernel; a worker keeps its lease meanwhile.
type Do func(*task.Request) (json.RawMessage, error)

// Check is the check of an attempt against a version of its exercise, as a worker carries it out.
type Check struct {
	Attempt store.Attempt
	issue   store.Issue
	against int64
}

// CheckOf finds what a job checks: the attempt against the version of its issue, or, where the job says so,
// against another one beside that.
func (s *School) CheckOf(ctx context.Context, job *store.Job) (Check, error) {
	a, err := s.store.Attempt(ctx, job.AttemptID)
	if err != nil {
		return Check{}, err
	}
	i, err := s.store.Issue(ctx, a.IssueID)
	c := Check{a, i, i.VersionID}
	if job.VersionID != nil {
		c.against = *job.VersionID
	}
	return c, err
}

// Carry carries a check out and keeps its report. The same file against the same version is not checked twice.
func (s *School) Carry(ctx context.Context, job *store.Job, c Check, do Do) error {
	version, reference, err := s.referenceFor(ctx, c.against, c.issue, c.Attempt.Student)
	if err != nil {
		return err
	}
	gathered, err := s.gather(ctx, job, &c, version, do)
	if err != nil {
		return err
	}
	if done, err := s.store.Reuse(ctx, job, c.against, c.Attempt.FileSHA, report.Checker); done || err != nil {
		return err
	}
	file, err := s.store.File(ctx, c.Attempt.FileSHA)
	if err != nil {
		return err
	}
	if len(file) > documents.MaxFile { // not worth sending to a child
		_, err := documents.Recognise(c.Attempt.FileName, file)
		return task.AsError(err)
	}
	made, err := s.MakeAtlas(ctx, version, reference, do)
	if err != nil {
		return err
	}
	raw, err := do(&task.Request{Kind: task.Check, Exercise: version.Document, Reference: reference, Atlas: made,
		Name: c.Attempt.FileName, File: file})
	if err != nil {
		return err
	}
	var out struct {
		Report json.RawMessage `json:"report"`
		Mesh   json.RawMessage `json:"attemptMesh"`
		Beside json.RawMessage `json:"compared"`
		Traits []alike.Trait   `json:"traits"`
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		return err
	}
	var r report.Report
	if err := json.Unmarshal(out.Report, &r); err != nil {
		return err
	}
	if out.Report, err = s.recognised(ctx, c.Attempt.IssueID, &r, out.Report); err != nil {
		return err
	}
	if r.Another != "" && job.VersionID == nil { // no attempt is used up by it
		return &task.Error{Kind: task.Unusable, What: fmt.Sprintf("this is of another exercise: %s", r.Another),
			Remedy: "hand in your model of this exercise, or open that exercise and hand this in there; no attempt is used up"}
	}
	if gathered != nil {
		if err := s.continues(ctx, c.Attempt, gathered, &r); err != nil {
			return err
		}
	}
	brief := desk.DigestOf(&r)
	brief.Traits = out.Traits
	if brief.SizesOf, err = s.whose(ctx, c.Attempt, c.issue, &r); err != nil {
		return err
	}
	digest, err := json.Marshal(brief)
	if err != nil {
		return err
	}
	return s.store.Finish(ctx, job, c.against, c.Attempt.FileSHA, report.Checker, store.Checked{Report: out.Report,
		Mesh: out.Mesh, Compared: out.Beside, Digest: digest, In: r.Count(report.In), Of: len(r.Characteristics)})
}

// gather makes the parts of an assembly that a student handed in one by one the file of the attempt, and gives the
// attempt before it; nil where there is nothing to be gathered.
func (s *School) gather(ctx context.Context, job *store.Job, c *Check, version store.Version, do Do) (*store.Attempt,
	error) {
	a := &c.Attempt
	if a.Number < 2 || a.SentSHA != nil {
		return nil, nil
	}
	if ex, err := documents.ReadExercise(version.Document); err != nil || ex.Kind != exercise.Assembly {
		return nil, err
	}
	all, err := s.store.AttemptRows(ctx, a.IssueID, a.Student)
	if err != nil {
		return nil, err
	}
	req := &task.Request{Kind: task.Gather, Name: a.FileName, Files: map[string][]byte{}}
	if req.File, err = s.store.File(ctx, a.FileSHA); err != nil {
		return nil, err
	}
	var before *store.Attempt
	for i := range all {
		b := &all[i]
		if b.Number >= a.Number || b.State == "unusable" {
			continue
		}
		sent := b.FileSHA
		if b.SentSHA != nil {
			sent = *b.SentSHA
		}
		if req.Files[fmt.Sprintf("%06d/%s", b.Number, b.FileName)], err = s.store.File(ctx, sent); err != nil {
			return nil, err
		}
		if before == nil || b.Number > before.Number {
			before = b
		}
	}
	if before == nil {
		return nil, nil
	}
	raw, err := do(req)
	if err != nil {
		return nil, err
	}
	var out task.Gathered
	if err := json.Unmarshal(raw, &out); err != nil || out.File == nil {
		return nil, err
	}
	sent := a.FileSHA
	a.SentSHA = &sent
	a.FileSHA, err = s.store.Gathered(ctx, job, out.File)
	return before, err
}

// continues keeps whether an attempt adds parts that were not handed in with the one before it: then it only continues
// that one, and does not count by itself.
func (s *School) continues(ctx context.Context, a store.Attempt, before *store.Attempt, r *report.Report) error {
	full, err := s.store.Attempt(ctx, before.ID)
	if err != nil {
		return err
	}
	continued := full.Continued
	if full.Report != nil && r.Assembly != nil {
		var was report.Report
		if err := json.Unmarshal(full.Report, &was); err != nil {
			return err
		}
		if was.Assembly != nil && adds(was.Assembly, r.Assembly) {
			continued++
		}
	}
	return s.store.Continue(ctx, a.ID, continued)
}

// adds tells whether there is an item now that was not there before.
func adds(was, is *report.OfAssembly) bool {
	found := map[string]int{}
	for _, x := range was.Items {
		found[x.Number] = x.Found
	}
	return slices.ContainsFunc(is.Items, func(x report.Item) bool { return x.Found > 0 && found[x.Number] == 0 })
}

// recognised gives the report with the exercise of which the attempt is, where it is another one of the class; data is
// the report as it came.
func (s *School) recognised(ctx context.Context, issue int64, r *report.Report, data []byte) ([]byte, error) {
	if r.Explained {
		return data, nil
	}
	list, err := s.store.OtherReferences(ctx, issue)
	if err != nil {
		return nil, err
	}
	var others []diagnose.Other
	for _, p := range list {
		o := diagnose.Other{Title: p.Title}
		if err := json.Unmarshal(p.Bulk, &o.Bulk); err != nil {
			return nil, fmt.Errorf("the figures of %s: %w", p.Title, err)
		}
		if p.Number != "" {
			o.Title += ", " + p.Number
		}
		others = append(others, o)
	}
	diagnose.Recognise(r, others)
	if r.Another == "" {
		return data, nil
	}
	return json.Marshal(r)
}

// withReference gives a version with the file of its reference.
func (s *School) withReference(ctx context.Context, version int64) (store.Version, []byte, error) {
	v, err := s.store.Version(ctx, version)
	if err != nil {
		return v, nil, err
	}
	reference, err := s.store.File(ctx, v.ReferenceSHA)
	return v, reference, err
}

// NextAtlas gives the version that was issued last and has no mistake atlas, with its reference, leaving
// some out; ErrNotFound where all have theirs.
func (s *School) NextAtlas(ctx context.Context, but []int64) (store.Version, []byte, error) {
	v, err := s.store.WithoutAtlas(ctx, atlas.Version, but)
	if err != nil {
		return v, nil, err
	}
	reference, err := s.store.File(ctx, v.ReferenceSHA)
	return v, reference, err
}

// hasAtlas tells whether a version has sizes in which a mistake could be made: of an assembly those of its parts have.
func hasAtlas(version store.Version, reference []byte) (bool, error) {
	ex, err := documents.ReadExercise(version.Document)
	if err != nil || ex.Kind == exercise.Assembly {
		return err == nil, err
	}
	ref, err := documents.ReadReference(reference)
	return ref.Document != nil, err
}

// MakeAtlas gives the mistake atlas of a version, and makes it where there is none; nil for a
// reference that has none.
func (s *School) MakeAtlas(ctx context.Context, version store.Version, reference []byte, do Do) ([]byte, error) {
	if has, err := hasAtlas(version, reference); err != nil || !has {
		return nil, err
	}
	data, err := s.store.Atlas(ctx, version.Measured, atlas.Version)
	if !errors.Is(err, ErrNotFound) {
		return data, err
	}
	// A hundred rebuilds and more: it may take long, and is made once.
	if data, err = do(&task.Request{Kind: task.Atlas, Exercise: version.Document, Reference: reference,
		Patience: 10}); err != nil {
		return nil, fmt.Errorf("the mistake atlas cannot be made: %s", err) // not the attempt's fault
	}
	return data, s.store.KeepAtlas(ctx, version, atlas.Version, data)
}
