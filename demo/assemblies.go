package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"slices"
	"time"

	"hammerset/core/assembly"
	"hammerset/core/modeller"
	"hammerset/core/rigid"
	"hammerset/core/solid"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/store"
)

// AssemblyExercises lists the demo's exercises of assemblies, by the names of their folders.
func AssemblyExercises() []string { return []string{"tackle-joint", "paddle-lift"} }

// AssemblyBundle reads one of the demo's exercises of an assembly.
func AssemblyBundle(name string) (*documents.Bundle, error) {
	return documents.ReadWith(func(file string) ([]byte, error) { return fs.ReadFile(files, "exercises/"+name+"/"+file) })
}

// assembled is an attempt at an assembly: what is done otherwise than in the reference, and whether it is handed in as
// a bundle, as STEP, or as one part by itself.
type assembled struct {
	change func(d *assembly.Document)
	as     string // "", step, or the id of a part
}

// joined changes a joint.
func joined(id string, change func(j *assembly.Joint)) func(d *assembly.Document) {
	return func(d *assembly.Document) {
		if j, ok := d.Joint(id); ok {
			change(j)
		}
	}
}

// sized gives a part another size.
func sized(part, name, formula string) func(d *assembly.Document) {
	return func(d *assembly.Document) {
		p, _ := d.Part(part)
		values := map[string]string{name: formula}
		for k, v := range p.Values {
			if k != name {
				values[k] = v
			}
		}
		p.Values = values
	}
}

// without takes a component out.
func without(id string) func(d *assembly.Document) {
	return func(d *assembly.Document) {
		d.Components = slices.DeleteFunc(d.Components, func(c assembly.Component) bool { return c.ID == id })
		d.Joints = slices.DeleteFunc(d.Joints, func(j assembly.Joint) bool {
			return j.A.Component == id || j.B.Component == id
		})
	}
}

// again puts a component in once more.
func again(id string, by solid.Vec) func(d *assembly.Document) {
	return func(d *assembly.Document) {
		c, _ := d.Component(id)
		more := *c
		more.ID, more.Name = id+"b", c.Title()+" again"
		more.Pose = more.Pose.Then(rigid.Pose{Turn: rigid.Still().Turn, Shift: by})
		d.Components = append(d.Components, more)
	}
}

// assembledBy are the attempts at the exercises of assemblies, a student each.
func assembledBy() map[string][]assembled {
	kind := func(kind string) func(j *assembly.Joint) {
		return func(j *assembly.Joint) { j.Kind, j.Offset = kind, "" }
	}
	right := func(*assembly.Document) {}
	return map[string][]assembled{
		"tackle-joint": {{right, ""}, {joined("j3", func(j *assembly.Joint) { j.Offset = "4 mm" }), ""},
			{sized("eye", "bore", "13 mm"), ""}, {joined("j2", kind("rigid")), ""}, {without("c4"), ""}, {right, "step"},
			{without("c4"), "step"}, {right, "pin"}, {again("c4", solid.Vec{60, 0, 0}), ""},
			{joined("j1", func(j *assembly.Joint) { j.Sense = assembly.Same }), ""},
			{sized("pin", "length", "32 mm"), ""}, {right, "step"}},
		"paddle-lift": {{right, ""}, {sized("crank", "radius", "34 mm"), ""}, {joined("j1", kind("cylindrical")), ""},
			{right, "step"}, {joined("j3", func(j *assembly.Joint) { j.Offset = "8 mm" }), "step"}, {without("c3"), ""},
			{sized("lever", "slot", "70 mm"), ""}, {right, ""}},
	}
}

// assemblies issues the exercises of assemblies and hands in what students make of them.
func (s *loading) assemblies(ctx context.Context, students map[string][]int64) ([]Back, error) {
	var back []Back
	day := time.Now().UTC().Truncate(24 * time.Hour)
	for n, name := range AssemblyExercises() {
		class, due := []string{"morning", "evening"}[n], day.Add(time.Duration(24*[]int{7, -2}[n]+17)*time.Hour)
		b, err := AssemblyBundle(name)
		if err != nil {
			return nil, err
		}
		v, err := s.school.AddBundle(ctx, s.people["ottoline"], b, 0, "the demo")
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		issue, err := s.st.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: s.class[class],
			IssuedBy: s.people["ottoline"], Issued: due.Add(-12 * 24 * time.Hour), Due: due, Attempts: 3,
			Results: []string{"with the return", "at once"}[n]}, true, "")
		if err != nil {
			return nil, err
		}
		for k, a := range assembledBy()[name] {
			if k == len(students[class]) {
				break
			}
			file, data, err := s.assembledAs(ctx, b, name, k, a)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
			at := notAfterNow(due).Add(-time.Duration(3+5*k) * time.Hour)
			id, _, err := s.st.HandInAt(ctx, issue, students[class][k], file, data, at)
			if err != nil {
				return nil, err
			}
			if n == 1 && k%3 == 0 { // some of those that are due are returned
				back = append(back, Back{id, "Look at the arrangement sheet first, and then at the parts.", s.people["ottoline"]})
			}
		}
	}
	return back, nil
}

// assembledAs is the file of an attempt at an assembly.
func (s *loading) assembledAs(ctx context.Context, b *documents.Bundle, name string, n int,
	a assembled) (string, []byte, error) {
	ref, err := documents.ReadAssemblyReference(b.Parsed, b.Reference)
	if err != nil {
		return "", nil, err
	}
	d := ref.Document
	d.Name = fmt.Sprintf("%s %d", b.Parsed.Title, n+1)
	a.change(d)
	file := fmt.Sprintf("%s-%02d", name, n+1)
	switch a.as {
	case "":
		data, err := documents.PackAssembly(d, ref.Files)
		return file + ".zip", data, err
	case "step":
		doc, err := json.Marshal(d)
		if err != nil {
			return "", nil, err
		}
		raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.ExportAssembly, Assembly: doc, Files: ref.Files, Name: "ap214"},
			nil)
		if err != nil {
			return "", nil, err
		}
		var out modeller.Exported
		err = json.Unmarshal(raw, &out)
		return file + ".step", out.Data, err
	}
	p, _ := d.Part(a.as)
	return file + ".json", ref.Files[p.File], nil
}
