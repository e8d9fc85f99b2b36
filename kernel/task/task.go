// Package task defines what the server asks of a kernel child and the stream
// between them: frames of a four-byte big-endian length and that many bytes of
// JSON.
package task

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"

	"hammerset/core/address"
	"hammerset/core/check"
	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/core/prepare"
	"hammerset/core/robust"
	"hammerset/core/sheet"
)

// Kinds of tasks.
const (
	Check          = "check"           // inspect an attempt
	Prepare        = "prepare"         // draw the sheet of an exercise and mesh its reference
	Rebuild        = "rebuild"         // rebuild a model
	Sketch         = "sketch"          // place one sketch of a model for editing
	Verify         = "verify"          // read a model document and solve all its sketches
	Draft          = "draft"           // read a reference for choosing characteristics
	Propose        = "propose"         // add what the sheet of an exercise must state, and lay it out
	EditSheet      = "sheet"           // do something to the sheet of an exercise, and draw it
	Rebind         = "rebind"          // put an exercise onto another reference
	Bind           = "bind"            // find the faces of an exercise on its reference by their prints
	Audit          = "audit"           // tell whether the sheet of an exercise determines its part
	Atlas          = "atlas"           // make the mistake atlas of an exercise
	Unpack         = "unpack"          // read the packed file of an exercise
	PutPart        = "put-part"        // make parts of a file, one for each of its solids
	Feature        = "feature"         // make of a part what an assembly needs of it
	ReadAssembly   = "read-assembly"   // read an assembly document
	UnpackAssembly = "unpack-assembly" // read the bundle of an assembly
	ReadRoster     = "read-roster"     // read the zip of a roster
	ExportAssembly = "export-assembly" // write an assembly in another format
	Sweep          = "sweep"           // look for collisions of an assembly while a joint is driven
	Vary           = "vary"            // find out how an assembly bears other sizes
	BeginAssembly  = "begin-assembly"  // make an exercise of an assembly
	Given          = "given"           // pack the parts that the students of an exercise are given
	Whole          = "whole"           // tell what can be stated of an assembly as a whole
	Gather         = "gather"          // pack the parts of an assembly that were handed in one by one
	Personal       = "personal"        // make an exercise at the sizes of one student
	Clash          = "clash"           // tell how the components of an assembly lie to one another
)

// Request is one task. Files are as they were handed in.
type Request struct {
	Kind      string            `json:"kind"`
	Exercise  []byte            `json:"exercise,omitempty"`
	Reference []byte            `json:"reference,omitempty"`
	Atlas     []byte            `json:"atlas,omitempty"` // the mistake atlas of the exercise, for a check
	Name      string            `json:"name,omitempty"`
	File      []byte            `json:"file,omitempty"`
	Set       map[string]string `json:"set,omitempty"`
	WantSTEP  bool              `json:"wantStep,omitempty"`
	WantMesh  bool              `json:"wantMesh,omitempty"`
	Arrange   bool              `json:"arrange,omitempty"`  // of a draft: lay its sheet out
	Accepted  []string          `json:"accepted,omitempty"` // doubtful bindings that are right
	OnSheet   *sheet.Command    `json:"onSheet,omitempty"`  // what is done to the sheet of an exercise
	Has       string            `json:"has,omitempty"`      // the key of what sheets are laid out from already
	Step      string            `json:"step,omitempty"`
	Until     string            `json:"until,omitempty"` // the last step that is rebuilt
	Picks     []address.Ref     `json:"picks,omitempty"` // faces, edges and corners by their numbers
	Command   *modeller.Command `json:"command,omitempty"`
	Careful   bool              `json:"careful,omitempty"` // a child has died of it: one operation fails, and not all
	Other     []byte            `json:"other,omitempty"`   // the document that is compared with
	Share     robust.Share      `json:"share,omitzero"`    // of a task that several children carry out together
	// An assembly, the files of its parts by their names, and the part that is asked for.
	Assembly []byte            `json:"assembly,omitempty"`
	Files    map[string][]byte `json:"files,omitempty"`
	Part     string            `json:"part,omitempty"`
	// A drive: the joint, and from where to where, in radians or mm.
	Joint string     `json:"joint,omitempty"`
	Way   [2]float64 `json:"way,omitzero"`

	// Reports are those of parts that are known already, by what they are of, of an attempt at an assembly. Spread asks to
	// be told of those that are not, in place of making them one after the other.
	Reports map[string]PartReport `json:"reports,omitempty"`
	Spread  bool                  `json:"spread,omitempty"`

	CPU int `json:"cpu"` // seconds of processor time allowed
	// Keep prefers the child that had a task with the same key last, since it still
	// has the states of that model.
	Keep string `json:"-"`
	// Patience is how many times the usual time the task may take; once when 0.
	Patience int `json:"-"`
}

// Reply is one frame from the child: progress, or the end of the task as a
// result, an error, or what must be done before it can be carried out.
type Reply struct {
	Progress *Progress       `json:"progress,omitempty"`
	First    []*Request      `json:"first,omitempty"`
	Result   json.RawMessage `json:"result,omitempty"`
	Error    *Error          `json:"error,omitempty"`
}

// Progress of a task: the stage and the share of it that is done.
type Progress struct {
	Stage string  `json:"stage"`
	Done  float64 `json:"done"`
}

// Kinds of errors of a task.
const (
	Unusable = "unusable" // the file cannot be checked: the student's to put right
	Faulty   = "faulty"   // the exercise or request is at fault
	Crashed  = "crashed"  // the child died of what it was given
	Killed   = "killed"   // the child was ended from outside, and the task may be done again
	TimedOut = "timed out"
	Needed   = "needed" // others build on what is to go, and can go along
)

// OutOfTime is the exit code of a child that has used up its processor time.
const OutOfTime = 3

// Error is a failed task.
type Error struct {
	Kind   string `json:"kind"`
	What   string `json:"what"`
	Remedy string `json:"remedy,omitempty"`
}

func (e *Error) Error() string {
	if e.Remedy == "" {
		return e.What
	}
	return e.What + "; " + e.Remedy
}

// AsError turns an error of core into one that can be sent.
func AsError(err error) *Error {
	var te *Error
	if errors.As(err, &te) {
		return te
	}
	var u *check.Unusable
	if errors.As(err, &u) {
		return &Error{Kind: Unusable, What: u.What, Remedy: u.Remedy}
	}
	var needed *part.NeededError
	if errors.As(err, &needed) {
		return &Error{Kind: Needed, What: needed.Error()}
	}
	var r *modeller.Refused
	if errors.As(err, &r) {
		return &Error{Kind: Faulty, What: r.What, Remedy: r.Remedy}
	}
	return &Error{Kind: Faulty, What: err.Error()}
}

// Modelled tells whether a task rebuilds a model document, and reads no file of another program.
func (r *Request) Modelled() bool {
	text := bytes.TrimLeft(bytes.TrimPrefix(r.File, []byte("\xef\xbb\xbf")), " \t\r\n")
	return len(text) > 0 && text[0] == '{'
}

// Unpacked is the result of reading the packed file of an exercise.
type Unpacked struct {
	Exercise  []byte `json:"exercise"`
	Reference []byte `json:"reference"`
	Atlas     []byte `json:"atlas,omitempty"`
}

// Begun is an exercise that was begun from an assembly, with what the sheets of its parts leave open.
type Begun struct {
	Exercise  []byte                       `json:"exercise"`
	Reference []byte                       `json:"reference"`
	Left      map[string][]prepare.Finding `json:"left,omitempty"`
}

// maxFrame bounds a frame: the largest file in base64 and the meshes.
const maxFrame = 512 << 20

// Write sends a frame.
func Write(w io.Writer, v any) error {
	body, err := json.Marshal(v)
	if err != nil {
		return err
	}
	if len(body) > maxFrame {
		return fmt.Errorf("a message of %d bytes is too large", len(body))
	}
	var head [4]byte
	binary.BigEndian.PutUint32(head[:], uint32(len(body)))
	if _, err := w.Write(head[:]); err != nil {
		return err
	}
	_, err = w.Write(body)
	return err
}

// Read receives a frame.
func Read(r io.Reader, v any) error {
	var head [4]byte
	if _, err := io.ReadFull(r, head[:]); err != nil {
		return err
	}
	n := binary.BigEndian.Uint32(head[:])
	if n > maxFrame {
		return fmt.Errorf("a message of %d bytes is too large", n)
	}
	body := make([]byte, n)
	if _, err := io.ReadFull(r, body); err != nil {
		return err
	}
	return json.Unmarshal(body, v)
}

// Gathered are parts of an assembly that were handed in one by one, packed; no file where nothing was before.
type Gathered struct {
	File []byte `json:"file,omitempty"`
}
