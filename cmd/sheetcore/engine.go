// Command sheetcore lays sheets out in the browser, built as WebAssembly: what is done to a sheet is shown before the
// server has carried it out.
package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"hammerset/cmd/page"
	"hammerset/core/exercise"
	"hammerset/core/prepare"
	"hammerset/core/sheet"
	"hammerset/formats/lettering"
	"hammerset/formats/svg"
)

func main() { page.Serve((&engine{}).call) }

// engine lays out the sheets of one page.
type engine struct {
	laying *prepare.Laying
	font   *lettering.Font
}

// args are the arguments of all calls; which count depends on the call.
type args struct {
	Laying   *prepare.Laying    `json:"laying"`
	Document *exercise.Exercise `json:"document"`
	Commands []sheet.Command    `json:"commands"`
	On       int                `json:"on"`
}

// laid is a sheet as it would be; nothing but Elsewhere where only the server can say how.
type laid struct {
	Elsewhere bool            `json:"elsewhere"`
	Sheet     *exercise.Sheet `json:"sheet,omitempty"`
	On        int             `json:"on"`
	Sheets    int             `json:"sheets"`
	SVG       string          `json:"svg"`
	Width     float64         `json:"width"`
	Height    float64         `json:"height"`
	// Characteristics are those of the exercise: some commands add to them.
	Characteristics []exercise.Characteristic `json:"characteristics,omitempty"`
	Balloons        map[string]int            `json:"balloons,omitempty"`
}

func (e *engine) call(method string, body []byte) []byte {
	return page.Answer("sheet", func() (any, error) {
		var a args
		if err := json.Unmarshal(body, &a); err != nil {
			return nil, fmt.Errorf("the call %s is not readable: %w", method, err)
		}
		return e.do(method, &a)
	})
}

func (e *engine) do(method string, a *args) (any, error) {
	var err error
	if e.font == nil {
		if e.font, err = lettering.Load(); err != nil {
			return nil, err
		}
	}
	if method == "hold" {
		if e.laying = a.Laying; e.laying != nil {
			e.laying.Metrics = e.font
		}
		return true, nil
	}
	if e.laying == nil || a.Document == nil {
		return laid{Elsewhere: true}, nil
	}
	out, drawing := laid{Sheets: len(a.Document.Sheets)}, (*sheet.Drawing)(nil)
	switch method {
	case "preview":
		var l *prepare.Laid
		if l, err = e.laying.Preview(context.Background(), a.Document, a.Commands, a.On); err == nil {
			drawing, out.Sheet, out.On, out.Sheets = l.Drawing, &l.Sheets[l.On], l.On, len(l.Sheets)
			out.Characteristics, out.Balloons = l.Characteristics, map[string]int{}
			for _, c := range l.Characteristics {
				out.Balloons[c.ID] = c.Balloon
			}
		}
	case "set":
		drawing, err = e.laying.Set(a.Document)
	default:
		return nil, fmt.Errorf("there is no call %q", method)
	}
	if errors.Is(err, prepare.ErrElsewhere) {
		return laid{Elsewhere: true}, nil
	}
	if err != nil {
		return nil, err
	}
	out.SVG = string(svg.Render(drawing, e.font, svg.Options{Live: true, Handles: method == "preview"}))
	out.Width, out.Height = drawing.Width, drawing.Height
	return out, nil
}
