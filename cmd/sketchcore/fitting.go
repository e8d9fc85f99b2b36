package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"hammerset/core/address"
	"hammerset/core/assembly"
	"hammerset/core/assembly/session"
	"hammerset/core/solid"
)

// fitting holds the assembly of one page. Its calls are those that begin with "fitting-".
type fitting struct{ s *session.Session }

// fittingArgs are the arguments of all its calls; which count depends on the call.
type fittingArgs struct {
	Document *assembly.Document         `json:"document"`
	Shapes   map[string]*assembly.Shape `json:"shapes"`
	Command  session.Command            `json:"command"`
	Joint    *assembly.Joint            `json:"joint"`
	A        address.Ref                `json:"a"`
	B        address.Ref                `json:"b"`
	ID       string                     `json:"id"`
	At       solid.Vec                  `json:"at"`
	Value    float64                    `json:"value"`
	Frames   int                        `json:"frames"`
	Keep     bool                       `json:"keep"`
	Plane    session.Plane              `json:"plane"`
	Drag     session.Drag               `json:"drag"`
	Done     string                     `json:"done"`
}

func (f *fitting) do(method string, body []byte) (any, error) {
	var a fittingArgs
	if err := json.Unmarshal(body, &a); err != nil {
		return nil, fmt.Errorf("the call %s is not readable: %w", method, err)
	}
	if method == "fitting-open" {
		if a.Document == nil {
			return nil, errors.New("there is no assembly to open")
		}
		s, err := session.Open(a.Document, a.Shapes)
		if err != nil {
			return nil, err
		}
		f.s = s
		return s.Frame()
	}
	if f.s == nil {
		return nil, errors.New("no assembly is open")
	}
	call := fittingCalls[method]
	if call == nil {
		return nil, fmt.Errorf("there is no call %q", method)
	}
	return call(f.s, &a)
}

// fittingCalls are what the fitting screen asks of an open assembly. They are never changed.
var fittingCalls = map[string]func(s *session.Session, a *fittingArgs) (any, error){
	"fitting-do": func(s *session.Session, a *fittingArgs) (any, error) {
		s.Give(a.Shapes)
		return picture(s, s.Do(a.Command))
	},
	"fitting-adopt": func(s *session.Session, a *fittingArgs) (any, error) {
		return picture(s, s.Adopt(a.Document, a.Shapes, a.Done))
	},
	"fitting-frame":   func(s *session.Session, _ *fittingArgs) (any, error) { return s.Frame() },
	"fitting-around":  func(s *session.Session, a *fittingArgs) (any, error) { return s.Around(a.ID) },
	"fitting-undo":    func(s *session.Session, _ *fittingArgs) (any, error) { return picture(s, s.Undo()) },
	"fitting-redo":    func(s *session.Session, _ *fittingArgs) (any, error) { return picture(s, s.Redo()) },
	"fitting-offers":  func(s *session.Session, a *fittingArgs) (any, error) { return s.Offers(a.A, a.B) },
	"fitting-preview": func(s *session.Session, a *fittingArgs) (any, error) { return s.Preview(*a.Joint) },
	"fitting-take":    func(s *session.Session, a *fittingArgs) (any, error) { return s.Take(a.ID, a.At), nil },
	"fitting-pull": func(s *session.Session, a *fittingArgs) (any, error) {
		start := time.Now()
		s.Pull(a.At)
		took := time.Since(start)
		m := s.Moving()
		m.Solve = float64(took.Microseconds()) / 1000
		return m, nil
	},
	"fitting-drive":     func(s *session.Session, a *fittingArgs) (any, error) { return s.Drive(a.ID, a.Value) },
	"fitting-wiggle":    func(s *session.Session, a *fittingArgs) (any, error) { return s.Wiggle(a.ID, a.Frames), nil },
	"fitting-release":   func(s *session.Session, a *fittingArgs) (any, error) { return picture(s, s.Release(a.Keep)) },
	"fitting-motion":    func(s *session.Session, a *fittingArgs) (any, error) { return s.Motion(a.ID) },
	"fitting-measure":   func(s *session.Session, a *fittingArgs) (any, error) { return s.Measure(a.A, a.B) },
	"fitting-alike":     func(s *session.Session, a *fittingArgs) (any, error) { return s.Alike(*a.Joint), nil },
	"fitting-dragged":   func(s *session.Session, a *fittingArgs) (any, error) { return s.Dragged(a.Drag) },
	"fitting-propose":   func(s *session.Session, _ *fittingArgs) (any, error) { return s.Propose(), nil },
	"fitting-apart":     func(s *session.Session, _ *fittingArgs) (any, error) { return s.Apart(), nil },
	"fitting-section":   func(s *session.Session, a *fittingArgs) (any, error) { return s.Section(a.Plane, a.Value), nil },
	"fitting-look-over": func(s *session.Session, _ *fittingArgs) (any, error) { return s.LookOver(), nil },
	"fitting-document":  func(s *session.Session, _ *fittingArgs) (any, error) { return s.Document(), nil },
}

func picture(s *session.Session, err error) (any, error) {
	var needs *session.Needed
	if err != nil && !errors.As(err, &needs) {
		return nil, err
	}
	f, err := s.Frame()
	if err != nil || needs == nil {
		return f, err
	}
	f.Needs = &session.Needs{Parts: needs.Parts}
	f.Needs.Document, err = json.Marshal(needs.Document)
	return f, err
}
