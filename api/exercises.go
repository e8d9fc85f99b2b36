package api

import (
	"cmp"
	"context"
	"fmt"
	"mime/multipart"
	"slices"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/core/standards"
	"hammerset/formats/svg"
	"hammerset/school"
	"hammerset/store"
)

func stated(t prepare.Stated) Stated {
	return Stated{Id: t.ID, Balloon: t.Balloon, Label: t.Label, Kind: t.Kind, Text: t.Text, Places: t.Places,
		Item: given(t.Item)}
}

func audited(e store.AuditEntry) AuditEntry {
	return AuditEntry{At: e.At, By: e.Name, Action: e.Action, Detail: e.Detail}
}

func share(x store.Sharing) Share { return Share{Login: x.Login, Name: x.Name, May: Sharing(x.May)} }

func exerciseOf(in school.Exercise) Exercise {
	v, ex := in.Version, in.Document
	out := Exercise{Id: v.ExerciseID, Version: v.Number, Kind: ExerciseKind(ex.Kind), Title: v.Title,
		Number: v.Drawing, Task: ex.Task, Unit: ex.Unit,
		Characteristics: list(in.Prepared.Stated, stated), Driving: append([]string{}, in.Prepared.Driving...),
		Possible: given(in.Prepared.Possible), WhatIfs: []string{}, Parts: []PartExercise{},
		Issues: list(in.Issues, issue), Classes: list(in.Classes, class), Faces: faces(in.Prepared.Faces),
		MayChange: in.MayChange, MayUse: in.MayUse, MayShare: in.MayShare, Shares: list(in.Shares, share),
		Maker:    in.Origin.Maker,
		Archived: in.Origin.Archived, TakenFrom: in.Origin.From, Tags: append([]string{}, in.Tags...),
		Trail: list(in.Trail, audited)}
	if ex.Assembly != nil {
		out.Parts = partExercises(ex, in.Prepared.Items)
	}
	for _, w := range ex.WhatIfs {
		out.WhatIfs = append(out.WhatIfs, w.Name)
	}
	for _, r := range ex.Rubric.Parts(ex.Kind) {
		if r.Points == 0 {
			continue
		}
		out.Rubric = append(out.Rubric, RubricPart{Label: r.Label, Points: r.Points})
	}
	return out
}

// partExercises are the exercises of parts in one of an assembly. A version that was prepared before its parts were
// told has them by number alone.
func partExercises(ex *exercise.Exercise, items []prepare.Item) []PartExercise {
	out := []PartExercise{}
	for i, x := range ex.Assembly.Items {
		if x.Exercise == "" {
			continue
		}
		told := PartExercise{Part: x.Part, Number: fmt.Sprint(i + 1)}
		for _, item := range items {
			if item.Part == x.Part {
				told.Number, told.Name = item.Number, item.Name
			}
		}
		out = append(out, told)
	}
	return out
}

// faces are faces of the reference's mesh by characteristic; there is always a map, if an empty one.
func faces(in map[string][]address.Ref) map[string][]Ref {
	if in == nil {
		return map[string][]Ref{}
	}
	return in
}

// forExercise takes the file of an exercise from who may make one: nobody else's is read, which may be large.
func (s *Server) forExercise(ctx context.Context, by school.Person, body *multipart.Reader) (school.File, error) {
	if err := s.school.MayMakeExercise(ctx, by); err != nil {
		return school.File{}, err
	}
	f, _, err := upload(body)
	return f, err
}

// ImportExercise takes a zip of open files, or a reference alone.
func (s *Server) ImportExercise(ctx context.Context, in ImportExerciseRequestObject) (ImportExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	f, err := s.forExercise(ctx, by, in.Body)
	if err != nil {
		return nil, err
	}
	made, err := s.school.Import(ctx, by, value(in.Params.Exercise), f.Name, f.Data)
	if err != nil {
		return nil, err
	}
	return ImportExercise201JSONResponse(exerciseOf(made)), nil
}

// RebindExercise says what becomes of an exercise around another reference.
func (s *Server) RebindExercise(ctx context.Context, in RebindExerciseRequestObject) (RebindExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	f, err := s.forExercise(ctx, by, in.Body)
	if err != nil {
		return nil, err
	}
	b, version, err := s.school.Rebind(ctx, by, in.Id, school.NewReference{File: f, Version: value(in.Params.Version),
		Accepted: value(in.Params.Accepted), Save: value(in.Params.Save)})
	if err != nil {
		return nil, err
	}
	return RebindExercise200JSONResponse{Version: version, Kept: b.Kept, Turned: b.Turned,
		Bindings: list(b.Bindings, func(x prepare.Binding) Binding {
			return Binding{Id: x.ID, Label: x.Label, Lost: x.Lost, What: x.What}
		}),
		Changes: list(b.Changes, func(x prepare.Restated) Restated {
			return Restated{Balloon: x.Balloon, Label: x.Label, Was: x.Was, Is: x.Is}
		})}, nil
}

// GetExercise gives the newest version.
func (s *Server) GetExercise(ctx context.Context, in GetExerciseRequestObject) (GetExerciseResponseObject, error) {
	ctx, by := asking(ctx)
	e, err := s.school.Exercise(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return GetExercise200JSONResponse(exerciseOf(e)), nil
}

// ExportExercise gives the exercise as a zip.
func (s *Server) ExportExercise(ctx context.Context, in ExportExerciseRequestObject) (ExportExerciseResponseObject,
	error) {
	ctx, by := asking(ctx)
	name, data, err := s.school.Export(ctx, by, in.Id)
	return file{"application/zip", name, data}, err
}

// GetExerciseSheet draws the sheet of the newest version.
func (s *Server) GetExerciseSheet(ctx context.Context,
	in GetExerciseSheetRequestObject) (GetExerciseSheetResponseObject, error) {
	ctx, by := asking(ctx)
	sheet, err := s.school.ExerciseSheet(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return s.sheet(sheet, string(value(in.Params.Format)), svg.Options{})
}

// GetExerciseMesh gives the mesh of the reference.
func (s *Server) GetExerciseMesh(ctx context.Context, in GetExerciseMeshRequestObject) (GetExerciseMeshResponseObject,
	error) {
	ctx, by := asking(ctx)
	mesh, err := s.school.ExerciseMesh(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return written(mesh)
}

// GetAtlas shows the instructor how each mistake would look.
func (s *Server) GetAtlas(ctx context.Context, in GetAtlasRequestObject) (GetAtlasResponseObject, error) {
	ctx, by := asking(ctx)
	state, all, err := s.school.Atlas(ctx, by, in.Id)
	change := func(x school.MistakeChange) MistakeChange {
		return MistakeChange{Balloon: x.Balloon, Label: x.Label, Sheet: x.Sheet, Measures: x.Measures}
	}
	mistake := func(m school.Mistake) Mistake {
		return Mistake{Cause: m.Cause, Kind: m.Kind, Step: m.Step, What: m.What, Solids: m.Solids, Volume: m.Volume,
			Balloon: given(m.Balloon), Changes: list(m.Changes, change)}
	}
	return GetAtlas200JSONResponse{State: MistakeAtlasState(state), Mistakes: list(all, mistake)}, err
}

// GetSheetAudit tells whether the sheet of the newest version determines its part.
func (s *Server) GetSheetAudit(ctx context.Context, in GetSheetAuditRequestObject) (GetSheetAuditResponseObject,
	error) {
	ctx, by := asking(ctx)
	a, err := s.school.SheetAudit(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return GetSheetAudit200JSONResponse(*a), nil
}

// GetWorking says in whose hand the draft of an exercise is.
func (s *Server) GetWorking(ctx context.Context, in GetWorkingRequestObject) (GetWorkingResponseObject, error) {
	ctx, by := asking(ctx)
	w, err := s.school.Working(ctx, by, in.Id)
	return GetWorking200JSONResponse(working(w)), err
}

// MoveDraft does something to the draft of an exercise as a whole.
func (s *Server) MoveDraft(ctx context.Context, in MoveDraftRequestObject) (MoveDraftResponseObject, error) {
	ctx, by := asking(ctx)
	w, err := s.school.MoveDraft(ctx, by, in.Id, step(in.Body.Step), in.Body.Do)
	return MoveDraft200JSONResponse(working(w)), err
}

func working(w school.Working) Working {
	return Working{Revision: w.Revision, Version: w.Version, Newest: w.Newest, Undo: w.Undo, Redo: w.Redo, By: w.By,
		Mine: w.Mine, Changed: w.Changed,
		Running: ModelProgress{Running: w.Running.Running, Stage: w.Running.Stage, Done: w.Running.Done}}
}

// GetDraft gives the characteristics of an exercise as it is worked on, and the faces of its reference.
func (s *Server) GetDraft(ctx context.Context, in GetDraftRequestObject) (GetDraftResponseObject, error) {
	ctx, by := asking(ctx)
	d, err := s.school.Draft(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return GetDraft200JSONResponse(draft(d)), nil
}

// TryDraft says what other characteristics would state, and keeps them as a new version
// where that is asked for.
func (s *Server) TryDraft(ctx context.Context, in TryDraftRequestObject) (TryDraftResponseObject, error) {
	ctx, by := asking(ctx)
	b := in.Body
	d, err := s.school.TryDraft(ctx, by, in.Id, step(b.Step), school.DraftChange{Title: b.Title, Number: b.Number,
		Task: b.Task, Characteristics: b.Characteristics, Material: b.Material, Density: b.Density, IssuedBy: b.IssuedBy,
		TitleBlock: b.TitleBlock, General: b.General, Arrange: b.Arrange, Refused: b.Refused,
		Rubric: b.Rubric, WhatIfs: b.WhatIfs, WhatIfFiles: b.WhatIfFiles, Personal: b.Personal}, b.Save, value(b.Over))
	if err != nil {
		return nil, err
	}
	return TryDraft200JSONResponse(draft(d)), nil
}

// EditSheet does something to the sheet of an exercise, and draws it.
func (s *Server) EditSheet(ctx context.Context, in EditSheetRequestObject) (EditSheetResponseObject, error) {
	ctx, by := asking(ctx)
	b := in.Body
	d, err := s.school.EditSheet(ctx, by, in.Id, school.SheetStep{Step: step(b.Step), Command: b.Command,
		Sheet: value(b.Sheet), Has: value(b.Has), Save: b.Save, Over: value(b.Over)})
	if err != nil {
		return nil, err
	}
	out := EditSheet200JSONResponse{Working: working(d.Working), Document: *d.Exercise, Key: d.Key, Laying: d.Laying,
		Sheet: d.Sheets[d.On], On: d.On,
		Sheets: len(d.Sheets), Characteristics: d.Characteristics, Audit: *d.Audit,
		Offers: append([]sheet.Offer{}, d.Offers...), Width: d.Drawing.Width,
		Height: d.Drawing.Height, Touching: d.Touching, Loose: d.Loose, Frames: []string{},
		Placing: d.Placing, Faces: d.Faces, Balloons: map[string]int{},
		Svg: string(svg.Render(d.Drawing, s.font, svg.Options{Live: true, Handles: true}))}
	for _, c := range d.Characteristics {
		out.Balloons[c.ID] = c.Balloon
		if k := c.Declared(); k != nil && k.Symbol != characteristic.NoSymbol {
			out.Frames = append(out.Frames, c.ID)
		}
	}
	for _, p := range standards.Papers {
		out.Papers = append(out.Papers, p.Name)
	}
	for _, x := range standards.Scales {
		out.Scales = append(out.Scales, x.Name)
	}
	return out, nil
}

func draft(in school.Draft) Draft {
	ex := in.Exercise
	out := Draft{Title: ex.Title, Number: ex.Number, Task: ex.Task, Material: ex.Material, Density: ex.Density,
		IssuedBy: ex.IssuedBy, TitleBlock: ex.TitleBlock, General: ex.General,
		Unit: ex.Unit, Working: working(in.Working), Characteristics: ex.Characteristics,
		Dimensioned: ex.Sheets.Dimensioned(), Audit: *in.Drafted.Audit,
		Refused: append([]exercise.Evidence{}, ex.Refused...), Rubric: ex.Rubric,
		WhatIfs: append([]exercise.WhatIf{}, ex.WhatIfs...), WhatIfFiles: ex.WhatIfFiles, WhatIfFaults: in.Drafted.WhatIfs,
		Personal:      append([]exercise.Range{}, ex.Personal...),
		PersonalFault: given(in.Drafted.Personal), Possible: given(in.Drafted.Possible),
		Driving: in.Drafted.Driving, CapFaults: capFaults(exercise.Part)}
	for i, f := range in.Drafted.Faces {
		out.Faces = append(out.Faces, DraftFace{Kind: f.Kind, Name: f.Name, Ref: address.Numbered(address.Face, i),
			Words: f.Words})
	}
	for _, x := range in.Drafted.Values {
		out.Values = append(out.Values, DraftValue{Called: x.Called, Error: given(x.Error), Faces: x.Faces, Id: x.ID,
			Limits: x.Limits, Places: x.Places, Text: x.Text})
	}
	kinds := slices.SortedFunc(slices.Values(characteristic.All()), func(a, b *characteristic.Kind) int {
		return cmp.Compare(a.Title, b.Title)
	})
	for _, k := range kinds {
		out.Kinds = append(out.Kinds, DraftKind{Kind: k.Name, On: k.On, Text: k.Worded(), Title: k.Title})
	}
	return out
}

func step(s DraftStep) school.Step { return school.Step{Revision: s.Revision, Name: s.Name} }

// GetWhole gives what an exercise asks of an assembly as a whole.
func (s *Server) GetWhole(ctx context.Context, in GetWholeRequestObject) (GetWholeResponseObject, error) {
	ctx, by := asking(ctx)
	w, err := s.school.Whole(ctx, by, in.Id)
	if err != nil {
		return nil, err
	}
	return GetWhole200JSONResponse{Version: w.Version, Faults: capFaults(exercise.Assembly),
		Title: w.Exercise.Title, Task: w.Exercise.Task,
		Assembly: *w.Exercise.Assembly, Rubric: w.Exercise.Rubric, Can: *w.Can,
		WhatIfs: append([]exercise.WhatIf{}, w.Exercise.WhatIfs...), WhatIfFiles: w.Exercise.WhatIfFiles,
		Uncut: w.Uncut()}, nil
}

// SaveWhole keeps what is changed of it as a new version.
func (s *Server) SaveWhole(ctx context.Context, in SaveWholeRequestObject) (SaveWholeResponseObject, error) {
	ctx, by := asking(ctx)
	_, err := s.school.SaveWhole(ctx, by, in.Id, *in.Body)
	return SaveWhole204Response{}, err
}
