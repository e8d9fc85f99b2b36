package part

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Alteration is one change of a step. Path leads to a field as it stands in a document, with a dot
// between names and the numbers of list members ("extent.length", "at.2").
type Alteration struct {
	Step string `json:"step"`
	Do   string `json:"do"` // size, set, leave out, append, kind or copy
	Path string `json:"path"`
	Text string `json:"text,omitempty"` // a formula for size, else JSON
}

// What an Alteration does. A size gets another formula; set puts JSON where something else or
// nothing was; leave out takes a member out of a list, and append adds one. The numbers of members
// are those before any alteration. Kind makes the step one of the kind that the path says, with the fields of
// the text; copy puts a copy of it right after it, under the id that the path says.
const (
	AlterSize   = "size"
	AlterSet    = "set"
	AlterLeave  = "leave out"
	AlterAppend = "append"
	AlterKind   = "kind"
	AlterCopy   = "copy"
)

// Altered gives a copy of the document with alterations. Without any it is a plain copy.
func (d *Document) Altered(list []Alteration) (*Document, error) {
	data, err := json.Marshal(d)
	if err != nil {
		return nil, err
	}
	var out Document
	if err := json.Unmarshal(data, &out); err != nil {
		return nil, err
	}
	leave := map[string][]Alteration{}
	for _, a := range list {
		i, err := out.index(a.Step)
		if err != nil {
			return nil, err
		}
		s := &out.Steps[i]
		switch a.Do {
		case AlterSize:
			if !s.SetSize(a.Path, a.Text) {
				return nil, fmt.Errorf("step %s has no size at %s", a.Step, a.Path)
			}
		case AlterLeave:
			leave[a.Step] = append(leave[a.Step], a)
		case AlterSet, AlterAppend:
			if err := s.alter(a); err != nil {
				return nil, fmt.Errorf("step %s: %w", a.Step, err)
			}
		case AlterKind:
			if err := s.become(a.Path, a.Text); err != nil {
				return nil, fmt.Errorf("step %s: %w", a.Step, err)
			}
		case AlterCopy:
			twin, err := s.copied(a.Path)
			if err != nil {
				return nil, fmt.Errorf("step %s: %w", a.Step, err)
			}
			out.Steps = slices.Insert(out.Steps, i+1, *twin)
		default:
			return nil, fmt.Errorf("%q is no alteration", a.Do)
		}
	}
	for id, gone := range leave {
		// From the end, so that the numbers of those before stay as they are.
		slices.SortFunc(gone, func(a, b Alteration) int { return member(b.Path) - member(a.Path) })
		i, err := out.index(id)
		if err != nil {
			return nil, err
		}
		for _, a := range slices.Compact(gone) {
			if err := out.Steps[i].alter(a); err != nil {
				return nil, fmt.Errorf("step %s: %w", id, err)
			}
		}
	}
	return &out, nil
}

// become makes the step one of another kind, with fields of its own.
func (s *Step) become(kind, fields string) error {
	declared := Of(kind)
	if declared == nil {
		return fmt.Errorf("%q is no kind of step", kind)
	}
	do := declared.New()
	if err := json.Unmarshal([]byte(fields), do); err != nil {
		return err
	}
	s.Kind, s.Do = kind, do
	return nil
}

// TwinOf is the id of the copy of a step that makes it at one of its places by itself.
func TwinOf(step, at string) string { return step + "_" + at }

// InTwin is the name that a face of a step at one of its places ("h1.p3/bore") has where the copy of the step
// makes it ("h1_p3.p3/bore"); empty where a name says no place.
func InTwin(name string) string {
	place, face, ok := strings.Cut(name, "/")
	step, at, placed := strings.Cut(place, ".")
	if !ok || !placed || strings.ContainsAny(place, ":(") {
		return ""
	}
	return TwinOf(step, at) + "." + at + "/" + face
}

// copied is the same step under another id.
func (s *Step) copied(id string) (*Step, error) {
	data, err := json.Marshal(s)
	if err != nil {
		return nil, err
	}
	out := &Step{}
	if err := json.Unmarshal(data, out); err != nil {
		return nil, err
	}
	out.ID = id
	return out, nil
}

// member is the number at the end of a path; -1 where there is none.
func member(path string) int {
	n, err := strconv.Atoi(path[strings.LastIndexByte(path, '.')+1:])
	if err != nil {
		return -1
	}
	return n
}

// alter changes the step by what it is in a document.
func (s *Step) alter(a Alteration) error {
	data, err := json.Marshal(s)
	if err != nil {
		return err
	}
	var doc any
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	if err := d.Decode(&doc); err != nil {
		return err
	}
	var value any
	if a.Do != AlterLeave {
		d := json.NewDecoder(strings.NewReader(a.Text))
		d.UseNumber()
		if err := d.Decode(&value); err != nil {
			return fmt.Errorf("what comes to %s is not JSON: %w", a.Path, err)
		}
	}
	doc, err = changed(doc, strings.Split(a.Path, "."), a.Do, value)
	if err != nil {
		return fmt.Errorf("%s: %w", a.Path, err)
	}
	if data, err = json.Marshal(doc); err != nil {
		return err
	}
	return s.strictly(data)
}

// changed gives a decoded document with a change at a path.
func changed(doc any, path []string, do string, value any) (any, error) {
	if len(path) == 0 {
		if do == AlterSet {
			return value, nil
		}
		list, ok := doc.([]any)
		if !ok && doc != nil {
			return nil, errors.New("there is no list")
		}
		return append(list, value), nil
	}
	switch x := doc.(type) {
	case map[string]any:
		inner, err := changed(x[path[0]], path[1:], do, value)
		x[path[0]] = inner
		return x, err
	case []any:
		i, err := strconv.Atoi(path[0])
		if err != nil || i < 0 || i >= len(x) {
			return nil, fmt.Errorf("the list has no member %s", path[0])
		}
		if len(path) == 1 && do == AlterLeave {
			return slices.Delete(x, i, i+1), nil
		}
		x[i], err = changed(x[i], path[1:], do, value)
		return x, err
	}
	return nil, fmt.Errorf("there is no %s", path[0])
}
