package exercise

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"strings"
)

// Earlier versions of the document. In exercise/1 there is no kind, since every reference is a part, and the one sheet
// stands by itself. In exercise/2 a view has a direction, the place of its middle, and is a section or none; dimensions
// and notes are lists of their own, and a leader has an angle and a length.
const (
	first  = "exercise/1"
	second = "exercise/2"
)

// sheet2 is a sheet up to exercise/2.
type sheet2 struct {
	Paper      string  `json:"paper"`
	Scale      string  `json:"scale"`
	Projection string  `json:"projection"`
	Views      []view2 `json:"views"`
	Dimensions []dim2  `json:"dimensions"`
	Notes      []note2 `json:"notes"`
}

type view2 struct {
	ID        string     `json:"id"`
	Direction string     `json:"direction"`
	At        [2]float64 `json:"at"`
	Section   bool       `json:"section"`
	Hidden    bool       `json:"hidden"`
	Label     string     `json:"label"`
	LabelAway float64    `json:"labelAway"`
	Scale     string     `json:"scale"`
}

type dim2 struct {
	Characteristic string   `json:"characteristic"`
	View           string   `json:"view"`
	Kind           string   `json:"kind"`
	Side           string   `json:"side"`
	Away           float64  `json:"away"`
	Angle          float64  `json:"angle"`
	Prefix         string   `json:"prefix"`
	Suffix         string   `json:"suffix"`
	Shift          float64  `json:"shift"`
	Place          int      `json:"place"`
	More           []string `json:"more"`
}

type note2 struct {
	At   [2]float64 `json:"at"`
	Text string     `json:"text"`
}

// Upgrade writes a document of an earlier version as one of this version, and leaves every other
// text as it is.
func Upgrade(data []byte) ([]byte, error) {
	doc := earlier(data)
	if doc == nil {
		return data, nil
	}
	if string(doc["hammerset"]) == `"`+first+`"` {
		doc["kind"] = json.RawMessage(`"` + Part + `"`)
		if sheet, ok := doc["sheet"]; ok {
			doc["sheets"] = json.RawMessage("[" + string(sheet) + "]")
			delete(doc, "sheet")
		}
	}
	doc["hammerset"] = json.RawMessage(`"` + Version + `"`)
	if raw, ok := doc["sheets"]; ok {
		var before []sheet2
		strict := json.NewDecoder(bytes.NewReader(raw))
		strict.DisallowUnknownFields()
		if err := strict.Decode(&before); err != nil {
			return nil, &Error{PointerIn(data, "/sheets/0"), "not a readable sheet: " + err.Error()}
		}
		after := make([]Sheet, len(before))
		for i, s := range before {
			after[i] = s.upgraded()
		}
		var err error
		if doc["sheets"], err = json.Marshal(after); err != nil {
			return nil, fmt.Errorf("upgrading the sheets: %w", err)
		}
	}
	return json.Marshal(doc)
}

// upgraded is a sheet as it is written now.
func (s sheet2) upgraded() Sheet {
	out := Sheet{Paper: s.Paper, Scale: s.Scale, Projection: s.Projection, Views: []View{}, Marks: []Mark{}}
	for _, v := range s.Views {
		w := View{ID: v.ID, Kind: v.Direction, At: v.At, Middle: true, Hidden: v.Hidden, Label: v.Label,
			LabelAway: v.LabelAway, Scale: v.Scale}
		if v.Section {
			w.Cut = &Cut{Kind: FullCut}
		}
		out.Views = append(out.Views, w)
	}
	for _, d := range s.Dimensions {
		m := Mark{ID: fmt.Sprintf("m%d", len(out.Marks)+1), Kind: Dimension, Form: d.Kind,
			Of: append([]string{d.Characteristic}, d.More...), View: d.View, Side: d.Side, Offset: [2]float64{d.Shift, d.Away},
			Place: d.Place, Prefix: d.Prefix, Suffix: d.Suffix}
		if d.Kind == Leader {
			m.Offset = polar(d.Away, d.Angle)
		}
		out.Marks = append(out.Marks, m)
	}
	for _, n := range s.Notes {
		out.Marks = append(out.Marks, Mark{ID: fmt.Sprintf("m%d", len(out.Marks)+1), Kind: NoteText, Offset: n.At,
			Text: n.Text})
	}
	return out
}

// polar is the way of a length in a direction in degrees, to a millionth of a millimetre.
func polar(length, angle float64) [2]float64 {
	s, c := math.Sincos(angle * math.Pi / 180)
	return [2]float64{math.Round(1e6*length*c) / 1e6, math.Round(1e6*length*s) / 1e6}
}

// earlier decodes a document of an earlier version; it is nil of any other text.
func earlier(data []byte) map[string]json.RawMessage {
	var doc map[string]json.RawMessage
	if json.Unmarshal(data, &doc) != nil { // what is wrong with it is said where it is read
		return nil
	}
	if v := string(doc["hammerset"]); v != `"`+first+`"` && v != `"`+second+`"` {
		return nil
	}
	return doc
}

var marks = regexp.MustCompile(`^(/sheets/(\d+))/marks/(\d+)(.*)$`)

// PointerIn gives the place in a document as it was written, of whichever version, to which a
// pointer into its upgraded form leads.
func PointerIn(data []byte, pointer string) string {
	doc := earlier(data)
	if doc == nil {
		return pointer
	}
	if m := marks.FindStringSubmatch(pointer); m != nil {
		pointer = m[1] + "/dimensions/" + m[3] + dimensionField(m[4])
	}
	pointer = strings.Replace(pointer, "/kind", "/direction", strings.Count(viewKind.FindString(pointer), "/kind"))
	if string(doc["hammerset"]) == `"`+first+`"` {
		pointer = strings.Replace(pointer, "/sheets/0", "/sheet", 1)
	}
	return pointer
}

var viewKind = regexp.MustCompile(`^/sheets/\d+/views/\d+/kind$`)

// dimensionField is what a field of a mark was called in a dimension.
func dimensionField(field string) string {
	switch {
	case field == "/of" || field == "/of/0":
		return "/characteristic"
	case strings.HasPrefix(field, "/of/"):
		return "/more"
	case field == "/form":
		return "/kind"
	}
	return field
}
