package documents

import (
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"

	"hammerset/core/assembly"
	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/formats/pack"
)

// AssemblyAttempt is what was handed in at an exercise of the kind assembly: a bundle with its joints, a STEP file with
// what it names, or parts by themselves.
type AssemblyAttempt struct {
	Name   string
	Bundle *Assembled
	STEP   []byte
	Others map[string][]byte
	// Parts are all files of a packed one in their order. Beside STEP, if that places several solids, those that are
	// models are of its parts.
	Parts []check.Attempt
	Notes []report.IntakeNote
	// WhatIfs are STEP files of the assembly at other sizes, by the names of the what-ifs that ask for them.
	WhatIfs map[string][]byte
}

const wholeRemedy = "hand in the assembly as a bundle or as one STEP file with all its solids"

// RecogniseAssembly tells by content what an attempt at an assembly is, of which the exercise asks for some what-ifs.
// Files that cannot be checked give a *check.Unusable that says what they are and what to do.
func RecogniseAssembly(name string, data []byte, whatIfs []exercise.WhatIf) (*AssemblyAttempt, error) {
	out := &AssemblyAttempt{Name: name, WhatIfs: map[string][]byte{}}
	if IsPacked(data) {
		return out, out.unpack(data, whatIfs)
	}
	att, err := Recognise(name, data)
	switch {
	case err != nil && strings.HasPrefix(strings.TrimSpace(string(data[:min(len(data), 64)])), "{") && isAssembly(data):
		return nil, &check.Unusable{What: "this is the document of an assembly without the files of its parts",
			Remedy: "hand in the packed file that has them as well"}
	case err != nil:
		return nil, err
	case att.MeshFile != nil:
		return nil, &check.Unusable{What: "this is a mesh, which does not tell parts apart", Remedy: wholeRemedy}
	case att.STEP != nil:
		out.STEP = att.STEP
	default:
		out.Parts = []check.Attempt{att}
	}
	return out, nil
}

// isAssembly tells whether JSON data is the document of an assembly.
func isAssembly(data []byte) bool {
	_, err := ReadAssembly(data)
	return err == nil
}

// unpack reads a packed file: a bundle; one STEP file that places the parts of others, with models of these beside it
// or without; or parts by themselves, in their order.
func (a *AssemblyAttempt) unpack(data []byte, whatIfs []exercise.WhatIf) error {
	z, err := pack.Open(data)
	if err != nil {
		return &check.Unusable{What: err.Error(), Remedy: wholeRemedy}
	}
	if slices.ContainsFunc(z.Names(), func(n string) bool { return path.Base(n) == AssemblyFile }) {
		return a.bundle(data)
	}
	steps := map[string][]byte{}
	for _, name := range z.Names() {
		body, err := z.Read(name)
		if err != nil {
			return &check.Unusable{What: err.Error(), Remedy: wholeRemedy}
		}
		switch att, err := Recognise(name, body); {
		case err != nil:
			a.leave(name, err.Error(), "put that file right, or leave it out")
		case att.MeshFile != nil || att.Files != nil:
			a.leave(name, "a mesh or a packed file in it is not read", "pack STEP files and model documents")
		case att.STEP != nil && a.isWhatIf(name, body, whatIfs):
		case att.STEP != nil:
			steps[name] = body
			a.Parts = append(a.Parts, att)
		default:
			a.Parts = append(a.Parts, att)
		}
	}
	if len(a.Parts) == 0 {
		return &check.Unusable{What: "the packed file holds no STEP file, no model document and no " + AssemblyFile,
			Remedy: wholeRemedy}
	}
	if roots := rootsOf(steps); len(roots) == 1 {
		a.STEP, a.Others = steps[roots[0]], steps
		delete(steps, roots[0])
	}
	return nil
}

// isWhatIf takes a file that is called like a what-if for that.
func (a *AssemblyAttempt) isWhatIf(name string, body []byte, whatIfs []exercise.WhatIf) bool {
	for _, w := range whatIfs {
		if check.SameName(name) == check.SameName(w.Name) {
			a.WhatIfs[w.Name] = body
			return true
		}
	}
	return false
}

func (a *AssemblyAttempt) leave(name, what, remedy string) {
	a.Notes = append(a.Notes, report.IntakeNote{Kind: "left out", What: fmt.Sprintf("%s was left out: %s", name, what),
		Remedy: remedy})
}

// bundle reads the bundle of an assembly.
func (a *AssemblyAttempt) bundle(data []byte) error {
	var err error
	if a.Bundle, err = ReadAssembledZip(data); err != nil {
		var fault *assembly.Fault
		if errors.As(err, &fault) {
			return &check.Unusable{What: fault.Pointer + ": " + fault.What, Remedy: fault.Remedy}
		}
		return &check.Unusable{What: err.Error(), Remedy: "put that right and pack it again"}
	}
	return nil
}

// Gather packs the parts that were handed in by themselves so far with one more: a file of a part, or of several. Of
// one name the last counts.
func Gather(earlier []byte, earlierName string, name string, data []byte) ([]byte, error) {
	var list []pack.File
	for _, f := range []pack.File{{Name: earlierName, Body: earlier}, {Name: name, Body: data}} {
		files := []pack.File{f}
		if IsPacked(f.Body) {
			var err error
			if files, err = unpacked(f.Body); err != nil {
				return nil, err
			}
		}
		for _, x := range files {
			list = slices.DeleteFunc(list, func(o pack.File) bool { return o.Name == x.Name })
			list = append(list, x)
		}
	}
	return pack.Write(list)
}
