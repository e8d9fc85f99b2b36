// Command sketchcore is the core for the browser, built as WebAssembly: a sketch or an
// assembly being edited behind one function that takes the name of a call with its
// arguments as JSON and gives its result as JSON.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"hammerset/cmd/page"
	"hammerset/core/quantity"
	"hammerset/core/sketch"
	"hammerset/core/sketch/interval"
	"hammerset/core/sketch/session"
	"hammerset/formats/dxf"
	"hammerset/formats/planesvg"
)

// engine holds the session of one page.
type engine struct {
	s   *session.Session
	fit fitting
}

// args are the arguments of all calls; which count depends on the call.
type args struct {
	Document *session.Document `json:"document"`
	Pixel    float64           `json:"pixel"`
	Command  session.Command   `json:"command"`
	Tool     string            `json:"tool"`
	Places   []session.Place   `json:"places"`
	At       sketch.Vec        `json:"at"`
	To       sketch.Vec        `json:"to"`
	Free     bool              `json:"free"`
	Sides    int               `json:"sides"`
	ID       string            `json:"id"`
	IDs      []string          `json:"ids"`
	Keep     bool              `json:"keep"`
	Frames   int               `json:"frames"`
	Value    float64           `json:"value"`
	Name     string            `json:"name"`
	Text     string            `json:"text"`
}

// call carries out one call.
func (e *engine) call(method string, body []byte) []byte {
	return page.Answer("sketch", func() (any, error) {
		if strings.HasPrefix(method, "fitting-") {
			return e.fit.do(method, body)
		}
		var a args
		if err := json.Unmarshal(body, &a); err != nil {
			return nil, fmt.Errorf("the call %s is not readable: %w", method, err)
		}
		return e.do(method, &a)
	})
}

func up(v sketch.Vec) sketch.Vec { return sketch.Vec{X: v.X, Y: -v.Y} }

// drawn is the answer to drawing: the picture, what was made, and where to go on.
type drawn struct {
	Frame *session.Frame `json:"frame"`
	IDs   []string       `json:"ids"`
	Next  *session.Place `json:"next,omitempty"`
}

// reach is an interval in the document's unit.
type reach struct {
	Nominal float64 `json:"nominal"`
	Low     end     `json:"low"`
	High    end     `json:"high"`
}

type end struct {
	Value    float64  `json:"value"`
	Open     bool     `json:"open"`
	Why      string   `json:"why"`
	Entities []string `json:"entities"`
}

// lists is what there is to draw and to do.
type lists struct {
	Tools       []session.Tool   `json:"tools"`
	Actions     []session.Action `json:"actions"`
	Constraints []kind           `json:"constraints"`
	Sizes       []kind           `json:"sizes"`
}

// imported is the answer to reading a file.
type imported struct {
	Frame *session.Frame `json:"frame"`
	Notes []string       `json:"notes"`
}

func (e *engine) do(method string, a *args) (any, error) {
	switch method {
	case "open":
		if a.Document == nil {
			return nil, errors.New("there is no sketch to open")
		}
		s, err := session.Open(*a.Document)
		if err != nil {
			return nil, err
		}
		e.s = s
		return s.Frame(a.Pixel), nil
	case "lists":
		return lists{session.Tools(), session.Actions(), kinds(false), kinds(true)}, nil
	}
	if e.s == nil {
		return nil, errors.New("no sketch is open")
	}
	call := calls[method]
	if call == nil {
		return nil, fmt.Errorf("there is no call %q", method)
	}
	return call(e.s, a)
}

// calls are what the drawing board asks of an open sketch. They are never changed.
var calls = map[string]func(s *session.Session, a *args) (any, error){
	"frame": func(s *session.Session, a *args) (any, error) { return s.Frame(a.Pixel), nil },
	"analyse": func(s *session.Session, a *args) (any, error) {
		s.Analyse()
		return s.Frame(a.Pixel), nil
	},
	"do": func(s *session.Session, a *args) (any, error) { return after(s, a.Pixel, s.Do(a.Command)) },
	"undo": func(s *session.Session, a *args) (any, error) {
		_, err := s.Undo()
		return after(s, a.Pixel, err)
	},
	"redo": func(s *session.Session, a *args) (any, error) {
		_, err := s.Redo()
		return after(s, a.Pixel, err)
	},
	"preview": func(s *session.Session, a *args) (any, error) {
		return s.Preview(a.Tool, a.Places, a.At, a.Pixel, a.Free, a.Sides)
	},
	"draw": func(s *session.Session, a *args) (any, error) {
		ids, next, err := s.Draw(a.Tool, a.Places, a.Sides)
		if err != nil {
			return nil, err
		}
		return drawn{s.Frame(a.Pixel), ids, next}, nil
	},
	"take":    func(s *session.Session, a *args) (any, error) { return s.Take(a.ID, up(a.At)), nil },
	"pull":    pull,
	"nudge":   nudge,
	"release": func(s *session.Session, a *args) (any, error) { return after(s, a.Pixel, s.Release(a.Keep)) },
	"wiggle":  func(s *session.Session, a *args) (any, error) { return wiggle(s, a), nil },
	"try": func(s *session.Session, a *args) (any, error) {
		return after(s, a.Pixel, s.Try(a.Name, s.FromUnit(a.Name, a.Value)))
	},
	"end-try":  func(s *session.Session, a *args) (any, error) { return after(s, a.Pixel, s.EndTry(a.Keep)) },
	"reach":    reaches,
	"offers":   func(s *session.Session, a *args) (any, error) { return s.Offers(a.IDs), nil },
	"called":   func(s *session.Session, a *args) (any, error) { return s.Called(a.IDs), nil },
	"pick":     func(s *session.Session, a *args) (any, error) { return s.Pick(a.Tool, a.At, a.Pixel), nil },
	"nearest":  func(s *session.Session, a *args) (any, error) { return s.Nearest(a.At), nil },
	"place":    func(s *session.Session, a *args) (any, error) { return s.Typed(a.Text, a.Tool, a.Places) },
	"within":   func(s *session.Session, a *args) (any, error) { return s.Within(a.At, a.To), nil },
	"chain":    func(s *session.Session, a *args) (any, error) { return s.Chain(a.ID), nil },
	"document": func(s *session.Session, _ *args) (any, error) { return s.Document(), nil },
	"import":   func(s *session.Session, a *args) (any, error) { return bring(s, a) },
	"export":   export,
}

// pull pulls what is held, and says how long solving took, in milliseconds.
func pull(s *session.Session, a *args) (any, error) {
	start := time.Now()
	s.Pull(up(a.To))
	took := time.Since(start)
	f := s.Moving(a.Pixel)
	f.Solve = float64(took.Microseconds()) / 1000
	return f, nil
}

// nudge is a pull by the keyboard, as one step.
func nudge(s *session.Session, a *args) (any, error) {
	at, ok := s.Where(a.ID)
	if !ok || !s.Take(a.ID, up(at)) {
		return nil, fmt.Errorf("%s cannot be pulled", a.ID)
	}
	s.Pull(up(at.Add(a.To)))
	return after(s, a.Pixel, s.Release(true))
}

func reaches(s *session.Session, a *args) (any, error) {
	i, err := s.Reach(context.Background(), a.Name)
	if err != nil {
		return nil, err
	}
	unit := func(v float64) float64 { return s.ToUnit(a.Name, v) }
	given := func(e interval.End) end {
		return end{unit(e.Value), e.Open, e.Why, append([]string{}, e.Entities...)}
	}
	return reach{unit(i.Nominal), given(i.Low), given(i.High)}, nil
}

func export(s *session.Session, a *args) (any, error) {
	unit, err := quantity.LengthUnit(s.Document().Unit)
	if err != nil {
		return nil, err
	}
	switch a.Name {
	case "dxf":
		return string(dxf.Write(s.Curves(), unit)), nil
	case "svg":
		return string(planesvg.Write(a.Text, s.Curves())), nil
	}
	return nil, fmt.Errorf("a sketch is exported as dxf or svg, not as %q", a.Name)
}

func after(s *session.Session, pixel float64, err error) (any, error) {
	if err != nil {
		return nil, err
	}
	return s.Frame(pixel), nil
}

// bring reads a DXF file into the sketch.
func bring(s *session.Session, a *args) (any, error) {
	unit, err := quantity.LengthUnit(s.Document().Unit)
	if err != nil {
		return nil, err
	}
	d, err := dxf.Read([]byte(a.Text), unit)
	if err != nil {
		return nil, err
	}
	if err := s.Import(a.Name, d.Sketch); err != nil {
		return nil, err
	}
	notes := d.Notes
	if notes == nil {
		notes = []string{}
	}
	return imported{s.Frame(a.Pixel), notes}, nil
}

// wiggle gives the paths of all curves for every frame of a motion.
func wiggle(s *session.Session, a *args) [][]string {
	out := [][]string{}
	for _, f := range s.Wiggle(a.ID, a.Frames, 14*a.Pixel) {
		out = append(out, session.Paths(f, a.Pixel))
	}
	return out
}

// kind names a constraint or size and says what it is put on.
type kind struct {
	Kind string `json:"kind"`
	Name string `json:"name"`
	On   string `json:"on"`
}

func kinds(sizes bool) []kind {
	out := []kind{}
	for _, k := range sketch.Kinds() {
		if _, size := sketch.Sizes[k]; size == sizes {
			out = append(out, kind{k, strings.ReplaceAll(k, "-", " "), sketch.Accepts(k)})
		}
	}
	return out
}
