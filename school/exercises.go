package school

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"reflect"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"hammerset/core/diagnose/atlas"
	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// Longest title and drawing number of an exercise, in letters: what a title block holds.
const (
	longestTitle  = 150
	longestNumber = 60
)

// tooLong says which of the two is too long for a title block.
func tooLong(title, number string) string {
	switch {
	case utf8.RuneCountInString(title) > longestTitle:
		return fmt.Sprintf("the title has more than %d letters", longestTitle)
	case utf8.RuneCountInString(number) > longestNumber:
		return fmt.Sprintf("the drawing number has more than %d letters", longestNumber)
	}
	return ""
}

// Exercise is the newest version of an exercise with what is issued of it in the asker's classes.
type Exercise struct {
	Version   store.Version
	Document  *exercise.Exercise
	Prepared  prepare.Prepared
	Issues    []Issue
	Classes   []store.Class // that the asker may issue it to
	Trail     []store.AuditEntry
	MayChange bool
	MayUse    bool // issue it, and take its files
	Shares    []store.Sharing
	Tags      []string
	Origin    store.Origin
	MayShare  bool
}

// Exercise gives the newest version of an exercise.
func (s *School) Exercise(ctx context.Context, by Person, id int64) (Exercise, error) {
	if err := s.may(ctx, by, ReadExercise, row{exercise: id}); err != nil {
		return Exercise{}, err
	}
	v, err := s.store.Newest(ctx, id)
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, v)
}

func (s *School) exercise(ctx context.Context, by Person, v store.Version) (out Exercise, err error) {
	out.Version = v
	if out.Document, err = documents.ReadExercise(v.Document); err != nil {
		return out, err
	}
	if out.Prepared, err = prepared(v); err != nil {
		return out, err
	}
	is, err := s.standings(ctx, by, row{exercise: v.ExerciseID})
	if err != nil {
		return out, err
	}
	out.MayChange, out.MayShare = allowed(is, ChangeExercise) == nil, allowed(is, ShareExercise) == nil
	out.MayUse = allowed(is, ReadReference) == nil
	if out.Shares, err = s.store.Shares(ctx, v.ExerciseID); err != nil {
		return out, err
	}
	if out.Tags, err = s.store.Tags(ctx, v.ExerciseID); err != nil {
		return out, err
	}
	if out.Origin, err = s.store.OriginOf(ctx, v.ExerciseID); err != nil {
		return out, err
	}
	if out.Trail, err = s.store.Trail(ctx, v.ExerciseID); err != nil {
		return out, err
	}
	issues, err := s.store.IssuesOf(ctx, by, v.ExerciseID)
	if err != nil {
		return out, err
	}
	rows, err := s.store.RowsOf(ctx, idsOf(issues), 0)
	if err != nil {
		return out, err
	}
	for _, i := range issues {
		out.Issues = append(out.Issues, counts(i, rows[i.ID]))
	}
	classes, err := s.store.Classes(ctx, by)
	for _, c := range classes {
		if c.Archived == nil && (by.Administrator || c.Role != nil && *c.Role == store.Instructor) {
			out.Classes = append(out.Classes, c)
		}
	}
	return out, err
}

// prepared reads what a version was prepared with.
func prepared(v store.Version) (prepare.Prepared, error) {
	var p prepare.Prepared
	return p, json.Unmarshal(v.Prepared, &p)
}

// Sheet is the sheet of a version, as it was laid out.
type Sheet struct {
	Drawing *sheet.Drawing
	Number  string // of the drawing
}

// ExerciseSheet gives the sheet of the newest version.
func (s *School) ExerciseSheet(ctx context.Context, by Person, id int64) (Sheet, error) {
	v, p, err := s.shown(ctx, by, id)
	return Sheet{p.Drawing, v.Drawing}, err
}

// ExerciseMesh gives the reference of the newest version as a mesh.
func (s *School) ExerciseMesh(ctx context.Context, by Person, id int64) (*solid.Mesh, error) {
	_, p, err := s.shown(ctx, by, id)
	return p.Mesh, err
}

// shown finds the newest version with its sheet and meshes.
func (s *School) shown(ctx context.Context, by Person, id int64) (v store.Version, p prepare.Prepared, err error) {
	if err = s.may(ctx, by, ReadExercise, row{exercise: id}); err != nil {
		return v, p, err
	}
	if v, err = s.store.Newest(ctx, id); err != nil {
		return v, p, err
	}
	p, err = prepared(v)
	return v, p, err
}

// Import takes the zip of an exercise, or a reference alone, around which one is begun. With an exercise
// (not 0) the file becomes its next version.
func (s *School) Import(ctx context.Context, by Person, exercise int64, name string, data []byte) (Exercise, error) {
	err := s.may(ctx, by, MakeExercise, row{})
	if err == nil && exercise != 0 {
		err = s.may(ctx, by, ChangeExercise, row{exercise: exercise})
	}
	if err != nil {
		return Exercise{}, err
	}
	b, err := s.read(ctx, exercise, name, data)
	if err != nil {
		return Exercise{}, err
	}
	v, err := s.AddBundle(ctx, by.ID, b, exercise, "brought in from "+name)
	if err != nil {
		return Exercise{}, err
	}
	return s.exercise(ctx, by, v)
}

// read reads what is brought in.
func (s *School) read(ctx context.Context, exercise int64, name string, data []byte) (*documents.Bundle, error) {
	var b *documents.Bundle
	var err error
	switch {
	case bytes.HasPrefix(data, []byte("PK\x03\x04")) && documents.HasAssembly(data) && exercise == 0:
		b, err = s.begun(ctx, &task.Request{Kind: task.BeginAssembly, Name: name, File: data}, nil)
	case bytes.HasPrefix(data, []byte("PK\x03\x04")):
		b, err = s.unpacked(ctx, data)
	case exercise != 0:
		return nil, refuse(Faulty, "a new version is brought in as the zip of an exercise",
			"work on the reference here, edit the characteristics, or take another reference")
	default:
		b, err = s.around(ctx, name, data)
	}
	var te *task.Error
	if err == nil || errors.As(err, &te) && te.Kind != task.Faulty {
		return b, err
	}
	what := err.Error()
	if te != nil {
		what = te.What
	}
	return nil, refuse(Faulty, what,
		"give the zip of an exercise, or the reference alone: a STEP file or a model document")
}

// unpacked reads the packed file of an exercise, in a child.
func (s *School) unpacked(ctx context.Context, data []byte) (*documents.Bundle, error) {
	out, err := ask[task.Unpacked](ctx, s, &task.Request{Kind: task.Unpack, File: data})
	if err != nil {
		return nil, err
	}
	b := &documents.Bundle{Exercise: out.Exercise, Reference: out.Reference, Atlas: out.Atlas}
	b.Parsed, err = documents.ReadExercise(b.Exercise)
	return b, err
}

// around begins an exercise around a reference alone: its views are laid out, and nothing is
// checked yet but the number of solids.
func (s *School) around(ctx context.Context, name string, data []byte) (*documents.Bundle, error) {
	file := "reference.step"
	start := strings.TrimSpace(string(data[:min(len(data), 64)]))
	if strings.HasPrefix(strings.TrimPrefix(start, "\ufeff"), "{") {
		file = "reference.json"
	}
	title := titled(name)
	drafted, err := s.drafted(ctx, sheet.Plain(title, "", file, 1), data, true)
	if err != nil {
		return nil, err
	}
	ex := sheet.Plain(title, drafted.Unit, file, drafted.Solids)
	ex.Sheets = []exercise.Sheet{*drafted.Sheet}
	return bundled(ex, data)
}

// titled makes a title of the name of a file.
func titled(name string) string {
	plain := strings.NewReplacer("_", " ", "-", " ").Replace(strings.TrimSuffix(filepath.Base(name), filepath.Ext(name)))
	title := []rune(strings.TrimSpace(plain))
	if len(title) == 0 {
		return "New exercise"
	}
	title[0] = unicode.ToUpper(title[0])
	return string(title)
}

// bundled writes an exercise down beside its reference.
func bundled(ex *exercise.Exercise, reference []byte) (*documents.Bundle, error) {
	doc, err := json.MarshalIndent(ex, "", "  ")
	if err != nil {
		return nil, err
	}
	parsed, err := documents.ReadExercise(doc)
	return &documents.Bundle{Exercise: doc, Reference: reference, Parsed: parsed}, err
}

// AddBundle keeps an exercise as a new version: its sheet is drawn and its reference meshed first, so that
// only a sound exercise comes in. Exercise 0 makes a new one. By is the person, and what is noted in the trail.
func (s *School) AddBundle(ctx context.Context, by int64, b *documents.Bundle, exercise int64,
	what string) (store.Version, error) {
	return s.addVersion(ctx, by, b, exercise, what, 0)
}

// addVersion keeps an exercise as a new version, with which the draft ends that it was made of, by its revision.
func (s *School) addVersion(ctx context.Context, by int64, b *documents.Bundle, exercise int64, what string,
	ends int64) (store.Version, error) {
	if long := tooLong(b.Parsed.Title, b.Parsed.Number); long != "" {
		return store.Version{}, refuse(Faulty, long, "shorten it")
	}
	if err := s.bind(ctx, b); err != nil {
		return store.Version{}, err
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Prepare, Exercise: b.Exercise, Reference: b.Reference}, nil)
	if err != nil {
		return store.Version{}, err
	}
	if err := open(b, raw); err != nil {
		return store.Version{}, err
	}
	measured, err := b.Parsed.Measured(b.Reference)
	if err != nil {
		return store.Version{}, err
	}
	v, err := s.store.AddVersion(ctx, store.Version{ExerciseID: exercise, Title: b.Parsed.Title, Drawing: b.Parsed.Number,
		Document: b.Exercise, Prepared: raw, Measured: measured, CreatedBy: by, What: what,
		Ends: ends}, b.Reference)
	if err == nil && b.Atlas != nil {
		err = s.store.KeepAtlas(ctx, v, atlas.Version, b.Atlas)
	}
	return v, err
}

// bind sees to it that an exercise names the faces of its STEP file as that numbers them, and tells them by their
// prints.
func (s *School) bind(ctx context.Context, b *documents.Bundle) error {
	if b.Parsed.Kind == exercise.Assembly {
		return nil // its parts are in its own bundle
	}
	ref, err := documents.ReadReference(b.Reference)
	if err != nil || ref.Document != nil {
		return err
	}
	ex, err := ask[*exercise.Exercise](ctx, s, &task.Request{Kind: task.Bind, Exercise: b.Exercise,
		Reference: b.Reference})
	if err != nil || reflect.DeepEqual(ex.Prints, b.Parsed.Prints) {
		return err
	}
	bound, err := bundled(ex, b.Reference)
	if err == nil {
		b.Exercise, b.Parsed = bound.Exercise, bound.Parsed
	}
	return err
}

// open writes into an exercise what its sheet does not state, as it was prepared, and leaves all else of the document
// as it is.
func open(b *documents.Bundle, raw []byte) error {
	var p struct {
		Loose json.RawMessage `json:"loose"`
	}
	if err := json.Unmarshal(raw, &p); err != nil {
		return err
	}
	if p.Loose == nil && len(b.Parsed.Loose) == 0 {
		return nil
	}
	var doc map[string]json.RawMessage
	if err := json.Unmarshal(b.Exercise, &doc); err != nil {
		return err
	}
	delete(doc, "loose")
	if p.Loose != nil {
		doc["loose"] = p.Loose
	}
	var err error
	if b.Exercise, err = json.MarshalIndent(doc, "", "  "); err == nil {
		b.Parsed, err = documents.ReadExercise(b.Exercise)
	}
	return err
}

// Export gives the newest version of an exercise as a zip of open files, under a name.
func (s *School) Export(ctx context.Context, by Person, id int64) (name string, data []byte, err error) {
	v, ex, reference, err := s.newest(ctx, by, ReadReference, id)
	if err != nil {
		return "", nil, err
	}
	made, err := s.store.Atlas(ctx, v.Measured, atlas.Version)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return "", nil, err
	}
	b := documents.Bundle{Exercise: v.Document, Reference: reference, Parsed: ex, Atlas: made}
	data, err = b.Zip()
	return v.Drawing + ".zip", data, err
}

// newest finds the newest version of an exercise, read, with the file of its reference, for an action.
func (s *School) newest(ctx context.Context, by Person, a Action, id int64) (v store.Version, ex *exercise.Exercise,
	reference []byte, err error) {
	if err = s.may(ctx, by, a, row{exercise: id}); err != nil {
		return v, nil, nil, err
	}
	if v, err = s.store.Newest(ctx, id); err != nil {
		return v, nil, nil, err
	}
	if reference, err = s.store.File(ctx, v.ReferenceSHA); err != nil {
		return v, nil, nil, err
	}
	ex, err = documents.ReadExercise(v.Document)
	return v, ex, reference, err
}

// Draft is an exercise as it is worked on, with what it states.
type Draft struct {
	Working  Working
	Exercise *exercise.Exercise
	Drafted  *prepare.Drafted
}

// DraftChange is what is changed of an exercise. What is nil stays as it is.
type DraftChange struct {
	Title           string                    `json:"title"`
	Number          string                    `json:"number"`
	Task            string                    `json:"task"`
	Characteristics []exercise.Characteristic `json:"characteristics"`
	Material        *string                   `json:"material,omitempty"`
	Density         *string                   `json:"density,omitempty"`
	IssuedBy        *string                   `json:"issuedBy,omitempty"`
	TitleBlock      *exercise.TitleBlock      `json:"titleBlock,omitempty"`
	General         *exercise.Tolerance       `json:"general,omitempty"`
	Refused         *[]exercise.Evidence      `json:"refused,omitempty"`
	Rubric          *exercise.Rubric          `json:"rubric,omitempty"`
	WhatIfs         *[]exercise.WhatIf        `json:"whatIfs,omitempty"`
	WhatIfFiles     *bool                     `json:"whatIfFiles,omitempty"`
	Personal        *[]exercise.Range         `json:"personal,omitempty"`
	Arrange         bool                      `json:"-"` // lay the sheet out anew
}

// SheetAudit tells whether the sheet of the newest version determines its part.
func (s *School) SheetAudit(ctx context.Context, by Person, id int64) (*prepare.Audited, error) {
	v, _, reference, err := s.newest(ctx, by, ReadExercise, id)
	if err != nil {
		return nil, err
	}
	return s.audited(ctx, v, reference)
}

// audited is the audit of a version. One that was prepared before there were audits is audited now.
func (s *School) audited(ctx context.Context, v store.Version, reference []byte) (*prepare.Audited, error) {
	p, err := prepared(v)
	if err != nil || p.Audit != nil {
		return p.Audit, err
	}
	return ask[*prepare.Audited](ctx, s, &task.Request{Kind: task.Audit, Exercise: v.Document, Reference: reference})
}

// Draft gives the characteristics of an exercise as it is worked on, and the faces of its reference.
func (s *School) Draft(ctx context.Context, by Person, id int64) (Draft, error) {
	w, err := s.worked(ctx, by, id)
	if err != nil {
		return Draft{}, err
	}
	if w.filled != nil {
		w.filled.onto(w.exercise)
	}
	d, err := s.drafted(ctx, w.exercise, w.reference, false)
	return Draft{w.working(by), w.exercise, d}, err
}

// drafted has the kernel say what an exercise states on a reference, and lay its sheet out where that is asked for.
func (s *School) drafted(ctx context.Context, ex *exercise.Exercise, reference []byte,
	arrange bool) (*prepare.Drafted, error) {
	doc, err := json.Marshal(ex)
	if err != nil {
		return nil, err
	}
	return ask[*prepare.Drafted](ctx, s, &task.Request{Kind: task.Draft, Exercise: doc, Reference: reference,
		Arrange: arrange})
}

// TryDraft says what other characteristics would state, and makes them the next state of the draft. What cannot be
// measured yet stands beside the exercise in it, until it can. With save they become a new version, with over also
// where another one was saved meanwhile.
func (s *School) TryDraft(ctx context.Context, by Person, id int64, c Step, change DraftChange,
	save, over bool) (Draft, error) {
	w, err := s.worked(ctx, by, id)
	if err != nil {
		return Draft{}, err
	}
	if !w.done(by, c) {
		if err := w.held(by, c); err != nil {
			return Draft{}, err
		}
	} else {
		c.Revision = w.draft.Revision
	}
	if what := tooLong(change.Title, change.Number); what != "" {
		return Draft{}, refuse(Faulty, what, "shorten it")
	}
	was, err := w.state()
	if err != nil {
		return Draft{}, err
	}
	sound := *w.exercise
	w.filled = nil
	change.onto(w.exercise)
	d, err := s.drafted(ctx, w.exercise, w.reference, change.Arrange && save)
	if err != nil {
		return Draft{}, err
	}
	for _, v := range d.Values {
		if v.Exact != nil {
			w.exercise.Characteristic(v.ID).Exact = v.Exact
		}
	}
	unfinished := func() (Draft, error) {
		seen := w.exercise
		w.exercise, w.filled = &sound, &change
		err := s.keep(ctx, by, &w, c, was)
		return Draft{w.working(by), seen, d}, err
	}
	faulty := d.Faulty()
	switch {
	case faulty != nil && save:
		return Draft{}, refuse(Faulty, faulty.ID+": "+faulty.Error, "put this characteristic right, or remove it")
	case faulty != nil:
		return unfinished()
	}
	for i, fault := range d.WhatIfs {
		switch {
		case fault != "" && save:
			return Draft{}, refuse(Faulty, fmt.Sprintf("what-if %d: %s", i+1, fault), "put it right, or remove it")
		case fault != "":
			return unfinished()
		}
	}
	switch {
	case d.Personal != "" && save:
		return Draft{}, refuse(Faulty, "personal sizes: "+d.Personal, "put the ranges right, or take them out")
	case d.Personal != "":
		return unfinished()
	}
	if change.Arrange && save {
		w.exercise.Sheets = []exercise.Sheet{*d.Sheet}
	} else {
		if d.Sheets != nil {
			w.exercise.Sheets = d.Sheets
		}
		w.exercise.Sheets.Drop(func(id string) bool { return w.exercise.Characteristic(id) == nil })
	}
	if save {
		err = s.saveDraft(ctx, by, &w, "characteristics edited", over)
		return Draft{w.working(by), w.exercise, d}, err
	}
	if _, err := bundled(w.exercise, w.reference); err != nil { // such as an exercise without a title
		return unfinished()
	}
	err = s.keep(ctx, by, &w, c, was)
	return Draft{w.working(by), w.exercise, d}, err
}

// onto changes an exercise.
func (c DraftChange) onto(ex *exercise.Exercise) {
	ex.Title, ex.Number, ex.Task = c.Title, c.Number, c.Task
	ex.Characteristics = c.Characteristics
	if c.Material != nil {
		ex.Material = *c.Material
	}
	if c.Density != nil {
		ex.Density = *c.Density
	}
	if c.IssuedBy != nil {
		ex.IssuedBy = *c.IssuedBy
	}
	if c.TitleBlock != nil {
		ex.TitleBlock = *c.TitleBlock
	}
	if c.General != nil {
		ex.General = *c.General
	}
	if c.Refused != nil {
		ex.Refused = *c.Refused
	}
	if c.Rubric != nil {
		ex.Rubric = *c.Rubric
	}
	if c.WhatIfs != nil {
		ex.WhatIfs = *c.WhatIfs
	}
	if c.WhatIfFiles != nil {
		ex.WhatIfFiles = *c.WhatIfFiles && len(ex.WhatIfs) > 0
	}
	if c.Personal != nil {
		ex.Personal = *c.Personal
	}
}

// follow has what is filled in go with what was done to the characteristics meanwhile on the sheet: what has come is
// there, what has gone is not, and what was changed there and not here is as it is there.
func (c *DraftChange) follow(was, is []exercise.Characteristic) {
	if c == nil {
		return
	}
	find := func(list []exercise.Characteristic, id string) *exercise.Characteristic {
		i := slices.IndexFunc(list, func(x exercise.Characteristic) bool { return x.ID == id })
		if i < 0 {
			return nil
		}
		return &list[i]
	}
	var out []exercise.Characteristic
	for _, x := range c.Characteristics {
		before, now := find(was, x.ID), find(is, x.ID)
		switch {
		case before != nil && now == nil: // gone
		case before != nil && reflect.DeepEqual(*before, x):
			out = append(out, *now)
		default:
			out = append(out, x)
		}
	}
	for _, x := range is {
		if find(was, x.ID) == nil {
			out = append(out, x)
		}
	}
	c.Characteristics = out
}
