package main

import (
	"encoding/json"
	"math"
	"strings"
	"testing"

	"hammerset/core/sketch/session"
)

// ask calls the engine as the page does, through JSON.
func ask(t *testing.T, e *engine, method, body string, into any) {
	t.Helper()
	var r struct {
		Value json.RawMessage
		Error string
	}
	if err := json.Unmarshal(e.call(method, []byte(body)), &r); err != nil {
		t.Fatal(err)
	}
	if r.Error != "" {
		t.Fatalf("%s: %s", method, r.Error)
	}
	if into != nil {
		if err := json.Unmarshal(r.Value, into); err != nil {
			t.Fatalf("%s: %v in %s", method, err, r.Value)
		}
	}
}

func refused(t *testing.T, e *engine, method, body, say string) {
	t.Helper()
	var r struct{ Error string }
	if err := json.Unmarshal(e.call(method, []byte(body)), &r); err != nil || !strings.Contains(r.Error, say) {
		t.Errorf("%s %s: %q, want %q (%v)", method, body, r.Error, say, err)
	}
}

const plate = `{"document":{"unit":"in","parameters":[{"name":"w","value":"2 in"}],"entities":[{"id":"p1",
	"kind":"point","at":[0,0]},{"id":"p2","kind":"point","at":[2,0]},{"id":"p3","kind":"point","at":[2,1]},{"id":"p4",
	"kind":"point","at":[0,1]},
{"id":"l1","kind":"line","from":"p1","to":"p2"},{"id":"l2","kind":"line","from":"p2","to":"p3"},{"id":"l3",
	"kind":"line","from":"p3","to":"p4"},{"id":"l4","kind":"line","from":"p4","to":"p1"}],
"constraints":[{"id":"k0","kind":"coincident","of":["p1","origin"]},{"id":"k1","kind":"horizontal","of":["l1"]},
	{"id":"k2","kind":"vertical","of":["l2"]},{"id":"k3","kind":"horizontal","of":["l3"]},{"id":"k4","kind":"vertical",
	"of":["l4"]},{"id":"d1","kind":"length","of":["l1"],"value":"w"}]},"pixel":0.1}`

// The calls of a page, one after the other: places are on the screen, in
// millimetres, and values in the document's unit.
func TestCallsOfAPage(t *testing.T) {
	e := &engine{}
	refused(t, e, "frame", `{}`, "no sketch is open")
	var lists struct {
		Tools       []session.Tool
		Actions     []session.Action
		Constraints []struct{ Kind, On string }
		Sizes       []struct{ Kind string }
	}
	ask(t, e, "lists", `{}`, &lists)
	if len(lists.Tools) < 14 || len(lists.Actions) < 15 || len(lists.Constraints) != 13 || len(lists.Sizes) != 7 {
		t.Errorf("%d tools, %d actions, %d constraints, %d sizes", len(lists.Tools), len(lists.Actions),
			len(lists.Constraints), len(lists.Sizes))
	}
	var f session.Frame
	ask(t, e, "open", plate, &f)
	if !f.Solved || math.Abs(f.Box[2]-50.8) > 1e-9 || f.Box[1] > -25.4+1e-9 || f.Parameters[0].Value != 2 {
		t.Errorf("opened: %+v", f)
	}
	ask(t, e, "analyse", `{"pixel":0.1}`, &f)
	if !f.Analysed || f.Freedom != 1 || len(f.Findings) != 1 || len(f.Regions) != 1 || f.Regions[0].Area != "2 in²" {
		t.Errorf("analysed: freedom %d, findings %+v, regions %+v", f.Freedom, f.Findings, f.Regions)
	}
	// Pulling a corner up by 5 mm, which is -5 on the screen.
	var taken bool
	ask(t, e, "take", `{"id":"p3","at":{"x":50.8,"y":-25.4}}`, &taken)
	ask(t, e, "pull", `{"to":{"x":50.8,"y":-30.4},"pixel":0.1}`, &f)
	if !taken || math.Abs(f.Box[3]-30.4) > 0.05 {
		t.Errorf("taken %v, pulled to a height of %g", taken, f.Box[3])
	}
	ask(t, e, "release", `{"keep":true,"pixel":0.1}`, &f)
	if f.Undo != "pull p3" {
		t.Errorf("undo %q", f.Undo)
	}
	ask(t, e, "nudge", `{"id":"l3","to":{"x":0,"y":1},"pixel":0.1}`, &f)
	if math.Abs(f.Box[3]-29.4) > 0.05 {
		t.Errorf("nudged down to a height of %g", f.Box[3])
	}
	ask(t, e, "undo", `{"pixel":0.1}`, &f)
	ask(t, e, "undo", `{"pixel":0.1}`, &f)
	if math.Abs(f.Box[3]-25.4) > 1e-9 || f.Redo != "pull p3" {
		t.Errorf("undone: height %g, redo %q", f.Box[3], f.Redo)
	}
	var frames [][]string
	ask(t, e, "wiggle", `{"id":"p3","frames":12,"pixel":0.1}`, &frames)
	if len(frames) != 12 || frames[0][1] == frames[3][1] {
		t.Errorf("%d frames of a wiggle", len(frames))
	}
	var offers []session.Offer
	ask(t, e, "offers", `{"ids":["l2"]}`, &offers)
	if len(offers) == 0 || offers[0].Kind != "length" || offers[0].Value != "1" {
		t.Errorf("offers %+v", offers)
	}
	var called []string
	if ask(t, e, "called", `{"ids":["l2","origin"]}`, &called); len(called) != 2 ||
		!strings.HasSuffix(called[0], " line") || called[1] != "the origin" {
		t.Errorf("they are called %q", called)
	}
	ask(t, e, "do", `{"command":{"do":"size","kind":"length","ids":["l2"],"value":"w/2"},"pixel":0.1}`, &f)
	var r reach
	ask(t, e, "reach", `{"name":"w"}`, &r)
	if r.Nominal != 2 || !r.Low.Open || !r.High.Open {
		t.Errorf("reach %+v", r)
	}
	ask(t, e, "try", `{"name":"w","value":3,"pixel":0.1}`, &f)
	if f.Trying != "w" || math.Abs(f.Box[3]-38.1) > 1e-6 {
		t.Errorf("tried: %q, height %g", f.Trying, f.Box[3])
	}
	f = session.Frame{}
	ask(t, e, "end-try", `{"keep":false,"pixel":0.1}`, &f)
	if f.Trying != "" || math.Abs(f.Box[3]-25.4) > 1e-9 {
		t.Errorf("put back: %q, height %g", f.Trying, f.Box[3])
	}
	// Drawing: a place that is typed, a preview, and the circle.
	var at struct{ X, Y float64 }
	ask(t, e, "place", `{"text":"w/2; 1/2 in"}`, &at)
	if at.X != 25.4 || at.Y != -12.7 {
		t.Errorf("the typed place is %v", at)
	}
	var p session.Preview
	ask(t, e, "preview", `{"tool":"circle","places":[{"x":25.4,"y":-12.7}],"at":{"x":28,"y":-12.7},"pixel":0.1}`, &p)
	if !strings.HasPrefix(p.Text, "⌀ 0.2047") || p.Path == "" || p.Ask != "a place on it" {
		t.Errorf("preview %+v", p)
	}
	var d drawn
	ask(t, e, "draw", `{"tool":"circle","places":[{"x":25.4,"y":-12.7},{"x":28,"y":-12.7}],"pixel":0.1}`, &d)
	if len(d.IDs) != 1 || len(d.Frame.Regions) != 2 {
		t.Errorf("drawn %v, %d regions", d.IDs, len(d.Frame.Regions))
	}
	var ids []string
	ask(t, e, "within", `{"at":{"x":20,"y":-20},"to":{"x":30,"y":-5}}`, &ids)
	if len(ids) != 2 {
		t.Errorf("within the box: %v", ids)
	}
	ask(t, e, "chain", `{"id":"l1"}`, &ids)
	if len(ids) != 4 {
		t.Errorf("chain %v", ids)
	}
	var near string
	ask(t, e, "nearest", `{"at":{"x":25,"y":2}}`, &near)
	if near != "l1" {
		t.Errorf("nearest %q", near)
	}
	// What is written comes back when it is read.
	var text string
	ask(t, e, "export", `{"name":"dxf"}`, &text)
	body, err := json.Marshal(map[string]any{"name": "plate.dxf", "text": text, "pixel": 0.1})
	if err != nil {
		t.Fatal(err)
	}
	var in imported
	ask(t, e, "import", string(body), &in)
	if len(in.Frame.Curves) != 10 || len(in.Notes) != 0 {
		t.Errorf("%d curves, notes %v", len(in.Frame.Curves), in.Notes)
	}
	ask(t, e, "export", `{"name":"svg","text":"plate"}`, &text)
	if !strings.Contains(text, "<title>plate</title>") || !strings.Contains(text, `width="54.8mm"`) {
		t.Errorf("svg %s", text[:200])
	}
	var doc session.Document
	ask(t, e, "document", `{}`, &doc)
	if doc.Unit != "in" || len(doc.Parameters) != 1 || len(doc.Constraints) != 7 {
		t.Errorf("document %+v", doc)
	}
	for _, c := range [][3]string{
		{"do", `{"command":{"do":"fly"}}`, `no action "fly"`}, {"do", `{"command":{"do":"trim","id":""}}`, "choose"},
		{"do", `{"command":`, "not readable"}, {"do", `{"command":{"do":"repair","id":"gone"}}`, "not there any more"},
		{"export", `{"name":"dwg"}`, "dxf or svg"}, {"try", `{"name":"x","value":1}`, "no parameter"},
		{"place", `{"text":"1"}`, "2 values"}, {"draw", `{"tool":"line","places":[{"x":1,"y":1},{"x":1,"y":1}]}`,
			"two different ends"},
		{"import", `{"text":"not a drawing"}`, "group codes"}, {"open", `{}`, "no sketch to open"},
		{"open", `{"document":{"unit":"ell"}}`, "not a unit"}, {"sing", `{}`, `no call "sing"`},
		{"nudge", `{"id":"origin"}`, "cannot be pulled"}, {"preview", `{"tool":"brush"}`, `no tool "brush"`},
	} {
		refused(t, e, c[0], c[1], c[2])
	}
	var after session.Document
	ask(t, e, "document", `{}`, &after)
	if len(after.Constraints) != len(doc.Constraints) || len(after.Entities) != len(doc.Entities) {
		t.Error("what was refused has changed the sketch")
	}
}

// A failure inside a call is an answer, and the next call works.
func TestAFailureIsAnAnswer(t *testing.T) {
	e := &engine{}
	ask(t, e, "open", plate, nil)
	keep := e.s
	e.s = new(session.Session) // nothing in it: every call fails within
	refused(t, e, "frame", `{"pixel":0.1}`, "the sketch core failed")
	e.s = keep
	ask(t, e, "frame", `{"pixel":0.1}`, nil)
}

// The fitting screen asks through the same function: two plates are put together, pulled and taken apart again.
func TestFittingThroughTheEngine(t *testing.T) {
	e := &engine{}
	refused(t, e, "fitting-undo", `{}`, "no assembly is open")
	plate := `{"box":{"Min":[0,0,0],"Max":[40,40,10]},"props":{"Volume":16000},"features":[
		{"name":"top","form":"plane","words":"top","at":[20,20,10],"axis":[0,0,1]},
		{"name":"foot","form":"plane","words":"foot","at":[20,20,0],"axis":[0,0,-1]}]}`
	var f struct {
		Freedom    int
		Components []struct{ Pose struct{ Matrix []float64 } }
		Says       []struct{ What string }
	}
	ask(t, e, "fitting-open", `{"document":{"hammerset":"assembly/1","name":"stack","unit":"mm","parts":[{"id":"p",
		"name":"plate"}],"components":[{"id":"c1","part":"p","pinned":true,"pose":{"turn":[1,0,0,0],"shift":[0,0,0]}}],
		"joints":[]},"shapes":{"p":`+plate+`}}`, &f)
	ask(t, e, "fitting-do", `{"command":{"do":"add","name":"lid","part":{"id":"p","name":"plate"}}}`, &f)
	if len(f.Components) != 2 || f.Freedom != 6 {
		t.Fatalf("%+v", f)
	}
	var offers []struct{ Kind string }
	ask(t, e, "fitting-offers", `{"a":"c2#foot","b":"c1#top"}`, &offers)
	if len(offers) < 3 {
		t.Errorf("offers %+v", offers)
	}
	refused(t, e, "fitting-offers", `{"a":"c2#foot","b":"c2#top"}`, "both are of one component")
	ask(t, e, "fitting-do", `{"command":{"do":"join","join":{"id":"new","kind":"planar","a":"c2#foot","b":"c1#top"}}}`, &f)
	if f.Freedom != 3 || math.Abs(f.Components[1].Pose.Matrix[14]-10) > 1e-9 || len(f.Says) > 0 {
		t.Errorf("%+v", f)
	}
	var held bool
	ask(t, e, "fitting-take", `{"id":"c2","at":[60,20,15]}`, &held)
	var m struct{ Poses []struct{ Matrix []float64 } }
	ask(t, e, "fitting-pull", `{"at":[70,30,15]}`, &m)
	ask(t, e, "fitting-release", `{"keep":true}`, &f)
	if !held || math.Abs(m.Poses[1].Matrix[14]-10) > 1e-8 {
		t.Errorf("pulled: %v %+v", held, m)
	}
	ask(t, e, "fitting-undo", `{}`, &f)
	ask(t, e, "fitting-undo", `{}`, &f)
	if f.Freedom != 6 {
		t.Errorf("undone: %+v", f)
	}
	refused(t, e, "fitting-drive", `{"id":"j1","value":3}`, "no joint")
	refused(t, e, "fitting-dance", `{}`, "no call")
}
