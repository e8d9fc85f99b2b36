package school

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"hammerset/core/address"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/robust"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Models lists the asker's models without their documents.
func (s *School) Models(ctx context.Context, by Person) ([]store.Model, error) {
	return s.store.Models(ctx, by.ID)
}

// ModelStart is what a model is begun with: as an attempt at an issue in the making, as a copy of an
// exercise's reference, or empty.
type ModelStart struct {
	Name, Unit      string
	Issue, Exercise *int64
}

// longestModelName is in letters.
const longestModelName = 150

// StartModel starts a model.
func (s *School) StartModel(ctx context.Context, by Person, start ModelStart) (store.Model, error) {
	name := strings.TrimSpace(start.Name)
	if name == "" || utf8.RuneCountInString(name) > longestModelName {
		return store.Model{}, refuse(Faulty, fmt.Sprintf("a model needs a name of at most %d characters", longestModelName),
			"name it as the sheet names the part")
	}
	if start.Issue != nil {
		if _, err := s.issue(ctx, by, ReadIssue, *start.Issue); err != nil {
			return store.Model{}, err
		}
	}
	document, err := json.Marshal(map[string]any{"hammerset": part.Version, "name": name, "unit": start.Unit,
		"parameters": []any{}, "steps": []any{}})
	if err != nil {
		return store.Model{}, err
	}
	if start.Exercise != nil {
		if document, err = s.copied(ctx, by, *start.Exercise); err != nil {
			return store.Model{}, err
		}
	}
	if _, err := s.verified(ctx, document); err != nil {
		return store.Model{}, err
	}
	return s.store.AddModel(ctx, store.Model{OwnerID: by.ID, Name: name, IssueID: start.Issue, ExerciseID: start.Exercise,
		Document: document})
}

// referenceFile gives the file of an exercise's reference to those who may do something with it.
func (s *School) referenceFile(ctx context.Context, by Person, do Action, exercise int64) ([]byte, string, error) {
	if err := s.may(ctx, by, do, row{exercise: exercise}); err != nil {
		return nil, "", err
	}
	v, err := s.store.Newest(ctx, exercise)
	if err != nil {
		return nil, "", err
	}
	file, err := s.store.File(ctx, v.ReferenceSHA)
	return file, v.Title, err
}

// copied gives the reference of an exercise to be worked on.
func (s *School) copied(ctx context.Context, by Person, exercise int64) ([]byte, error) {
	document, _, err := s.referenceFile(ctx, by, ChangeExercise, exercise)
	if strings.HasPrefix(string(document[:min(len(document), 64)]), "ISO-10303-21") {
		return nil, refuse(Faulty, "the reference of this exercise is a STEP file and has no sketches to edit",
			"model it anew, or edit it where it was made")
	}
	return document, err
}

// verified reads a document and solves its sketches, in a child.
func (s *School) verified(ctx context.Context, document []byte) (*modeller.Verified, error) {
	return ask[*modeller.Verified](ctx, s, &task.Request{Kind: task.Verify, File: document})
}

// Model gives a model of the asker.
func (s *School) Model(ctx context.Context, by Person, id int64) (store.Model, error) {
	return s.model(ctx, by, KeepModels, id)
}

// SaveModel keeps a changed document, after every sketch of it has been solved again. Version is the one
// that was changed; done says what was done, for the list of versions.
func (s *School) SaveModel(ctx context.Context, by Person, id int64, version int, document []byte,
	done string) (store.Model, *modeller.Verified, error) {
	if _, err := s.model(ctx, by, KeepModels, id); err != nil {
		return store.Model{}, nil, err
	}
	v, err := s.verified(ctx, document)
	if err != nil {
		return store.Model{}, nil, err
	}
	m, err := s.store.SaveModel(ctx, id, by.ID, version, v.Name, document, listed(done))
	if errors.Is(err, store.ErrStale) {
		err = refuse(Conflict, "this model was changed in another window",
			"nothing of it was overwritten: reload to see that change, or save yours as a model of its own")
	}
	return m, v, err
}

// listed is what a version is listed with.
func listed(done string) string {
	if strings.TrimSpace(done) == "" {
		return "changed"
	}
	return strings.ToValidUTF8(done[:min(len(done), 190)], "")
}

// RemoveModel takes a model away.
func (s *School) RemoveModel(ctx context.Context, by Person, id int64) error {
	if _, err := s.model(ctx, by, KeepModels, id); err != nil {
		return err
	}
	return s.store.RemoveModel(ctx, id, by.ID)
}

// Versions lists the kept states of a model.
func (s *School) Versions(ctx context.Context, by Person, id int64) ([]store.SavedState, error) {
	if _, err := s.model(ctx, by, KeepModels, id); err != nil {
		return nil, err
	}
	return s.store.ModelVersions(ctx, id, by.ID)
}

// Version gives a kept state of a model.
func (s *School) Version(ctx context.Context, by Person, id int64, number int) (store.Model, error) {
	m, err := s.model(ctx, by, KeepModels, id)
	if err != nil {
		return m, err
	}
	v, err := s.store.ModelVersion(ctx, id, by.ID, number)
	m.Version, m.Saved, m.Document = v.Version, v.Saved, v.Document
	return m, err
}

// CompareVersions says what changed between two kept states, as JSON.
func (s *School) CompareVersions(ctx context.Context, by Person, id int64, from, to int) (json.RawMessage, error) {
	before, err := s.Version(ctx, by, id, from)
	if err != nil {
		return nil, err
	}
	after, err := s.Version(ctx, by, id, to)
	if err != nil {
		return nil, err
	}
	return s.kernel.Do(ctx, &task.Request{Kind: task.Changes, File: after.Document, Other: before.Document}, nil)
}

// Sketch gives a sketch of a model, placed for editing, as JSON.
func (s *School) Sketch(ctx context.Context, by Person, id int64, step string) (json.RawMessage, error) {
	m, err := s.model(ctx, by, KeepModels, id)
	if err != nil {
		return nil, err
	}
	return s.kernel.Do(ctx, &task.Request{Kind: task.Sketch, Step: step, File: m.Document}, nil)
}

// ExportModel gives a model in a format of the kernel: ap214 or ap242 as data, stl or 3mf as a mesh.
func (s *School) ExportModel(ctx context.Context, by Person, id int64,
	format string) (store.Model, modeller.Exported, error) {
	m, err := s.model(ctx, by, KeepModels, id)
	if err != nil {
		return m, modeller.Exported{}, err
	}
	out, err := ask[modeller.Exported](ctx, s, &task.Request{Kind: task.Export, File: m.Document, Name: format,
		Keep: fmt.Sprint(id)})
	return m, out, err
}

// Promote makes a model the reference of its exercise, as a new version.
func (s *School) Promote(ctx context.Context, by Person, id int64) (Exercise, error) {
	m, err := s.model(ctx, by, PromoteModel, id)
	if err == nil {
		err = s.may(ctx, by, MakeExercise, row{})
	}
	if err != nil {
		return Exercise{}, err
	}
	if m.ExerciseID == nil {
		return s.begunFrom(ctx, by, m)
	}
	if err := s.may(ctx, by, ChangeExercise, row{exercise: *m.ExerciseID}); err != nil {
		return Exercise{}, err
	}
	v, err := s.store.Newest(ctx, *m.ExerciseID)
	if err != nil {
		return Exercise{}, err
	}
	ex, err := documents.ReadExercise(v.Document)
	if err != nil {
		return Exercise{}, err
	}
	b := &documents.Bundle{Exercise: v.Document, Reference: m.Document, Parsed: ex}
	if v, err = s.AddBundle(ctx, by.ID, b, *m.ExerciseID, "the reference worked on"); err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, v)
}

// begunFrom begins an exercise with a model as its reference.
func (s *School) begunFrom(ctx context.Context, by Person, m store.Model) (Exercise, error) {
	b, err := s.around(ctx, m.Name+".json", m.Document)
	if err != nil {
		return Exercise{}, err
	}
	v, err := s.AddBundle(ctx, by.ID, b, 0, "begun from the model "+m.Name)
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, v)
}

// Trial is a state of a model that need not be saved, and what is asked of it.
type Trial struct {
	Document []byte
	Until    string // the step up to which it is rebuilt; empty for all
	Set      map[string]string
	Picks    []address.Ref
	Name     string
	Command  *modeller.Command
}

// request is a task on a state of a model.
func (t Trial) request(id int64, kind string) *task.Request {
	return &task.Request{Kind: kind, File: t.Document, Keep: fmt.Sprint(id), Until: t.Until, Set: t.Set, Picks: t.Picks,
		Name: t.Name, Command: t.Command}
}

// try carries out a task on a state of a model of the asker and keeps its progress.
func (s *School) try(ctx context.Context, by Person, id int64, kind string, t Trial) (json.RawMessage, error) {
	if _, err := s.model(ctx, by, KeepModels, id); err != nil {
		return nil, err
	}
	progress, done := s.running.begin(id)
	defer done()
	raw, err := s.kernel.Do(ctx, t.request(id, kind), progress)
	var te *task.Error
	if errors.As(err, &te) && te.Kind == task.Needed {
		err = &Refusal{Kind: Faulty, Code: BuildsOnIt, What: te.What, Remedy: te.Remedy}
	}
	return raw, err
}

// Rebuild rebuilds a state of a model, with all that can be picked in it, as JSON.
func (s *School) Rebuild(ctx context.Context, by Person, id int64, t Trial) (json.RawMessage, error) {
	return s.try(ctx, by, id, task.Model, t)
}

// Measure measures one or two picks, as JSON.
func (s *School) Measure(ctx context.Context, by Person, id int64, t Trial) (json.RawMessage, error) {
	return s.try(ctx, by, id, task.Measure, t)
}

// Edit changes a state of a model by a command; nothing is saved. The changed document is JSON.
func (s *School) Edit(ctx context.Context, by Person, id int64, t Trial) (json.RawMessage, error) {
	return s.try(ctx, by, id, task.Edit, t)
}

// LookOver gives the findings of sketches and steps; nothing of the answer key.
func (s *School) LookOver(ctx context.Context, by Person, id int64, t Trial) (modeller.Looked, error) {
	var out modeller.Looked
	raw, err := s.try(ctx, by, id, task.Look, t)
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	return out, err
}

// Reach finds the interval of a parameter in which the model holds, both ends at once.
func (s *School) Reach(ctx context.Context, by Person, id int64, t Trial) (modeller.Reached, error) {
	if _, err := s.model(ctx, by, KeepModels, id); err != nil {
		return modeller.Reached{}, err
	}
	ends, err := spread[modeller.Reached](ctx, s, id, t.request(id, task.Reach), 2)
	if err != nil {
		return modeller.Reached{}, err
	}
	ends[0].Most = ends[1].Most
	return ends[0], nil
}

// ModelProgress says how far the task on a model is.
func (s *School) ModelProgress(ctx context.Context, by Person, id int64) (Running, error) {
	if _, err := s.model(ctx, by, KeepModels, id); err != nil {
		return Running{}, err
	}
	return s.running.get(id), nil
}

// reachKey keeps the progress of attempts apart from that of models.
func reachKey(attempt int64) int64 { return -attempt }

// AttemptReach finds, for every driving size, how far an attempt follows the reference.
func (s *School) AttemptReach(ctx context.Context, by Person, id int64) (robust.FollowedAll, error) {
	var out robust.FollowedAll
	a, i, err := s.attempt(ctx, by, StudyAttempt, id)
	if err != nil {
		return out, err
	}
	v, reference, err := s.referenceFor(ctx, i.VersionID, i, a.Student)
	if err != nil {
		return out, err
	}
	file, err := s.store.File(ctx, a.FileSHA)
	if err != nil {
		return out, err
	}
	// Two shares for each child: they take unequally long.
	shares, err := spread[robust.FollowedAll](ctx, s, reachKey(id), &task.Request{Kind: task.Follow, Exercise: v.Document,
		Reference: reference,
		Name:      a.FileName, File: file, Keep: fmt.Sprintf("exercise %d", v.ID)}, 2*s.kernel.Size())
	if err != nil {
		return out, err
	}
	return robust.JoinFollowed(shares), nil
}

// AttemptReachProgress says how far that search is.
func (s *School) AttemptReachProgress(ctx context.Context, by Person, id int64) (Running, error) {
	if _, _, err := s.attempt(ctx, by, StudyAttempt, id); err != nil {
		return Running{}, err
	}
	return s.running.get(reachKey(id)), nil
}

// spread carries out a task in so many shares, keeps its progress under key, and reads
// what came of each.
func spread[T any](ctx context.Context, s *School, key int64, req *task.Request, shares int) ([]T, error) {
	var reqs []*task.Request
	for i := range shares {
		one := *req
		one.Share = robust.Share{Index: i, Of: shares}
		reqs = append(reqs, &one)
	}
	progress, done := s.running.begin(key)
	defer done()
	raw, err := s.kernel.Spread(ctx, reqs, progress)
	if err != nil {
		return nil, err
	}
	out := make([]T, len(raw))
	for i, r := range raw {
		if err := json.Unmarshal(r, &out[i]); err != nil {
			return nil, fmt.Errorf("the kernel's answer: %w", err)
		}
	}
	return out, nil
}
