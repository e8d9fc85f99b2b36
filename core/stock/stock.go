// Package stock makes model documents of standard parts by their sizes: screws, nuts, washers, pins and keys. Threads
// are not modelled but noted on their faces; ends are plain.
package stock

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/standards"
)

// Kind is a kind of standard part.
type Kind struct {
	Name     string   `json:"name"`
	Standard string   `json:"standard"`
	Sizes    []string `json:"sizes"`
	// Long tells that it has a length.
	Long bool `json:"long"`
}

// kind is a kind with how it is made of one of its sizes and a length in mm.
type kind struct {
	Kind
	steps func(size string, length float64) ([]parameter, []string)
}

// parameter is one of the sizes of a document, in mm.
type parameter struct {
	name  string
	value float64
}

// Longest is the longest part that is made, in mm.
const Longest = 500

// Kinds lists what there is.
func Kinds() []Kind {
	var out []Kind
	for _, k := range kinds() {
		out = append(out, k.Kind)
	}
	return out
}

// Document makes a model document: of which kind, which of its sizes, and how long, in mm. It is named by its standard.
func Document(name, size string, length float64) (title string, document []byte, err error) {
	i := slices.IndexFunc(kinds(), func(k kind) bool { return k.Name == name })
	if i < 0 {
		return "", nil, fmt.Errorf("there is no standard part %q", name)
	}
	k := kinds()[i]
	if !slices.Contains(k.Sizes, size) {
		return "", nil, fmt.Errorf("%s has no size %q: it has %s", k.Name, size, strings.Join(k.Sizes, ", "))
	}
	title = fmt.Sprintf("%s %s-%s", k.Name, k.Standard, size)
	if k.Long {
		if !(length > 0 && length <= Longest) {
			return "", nil, fmt.Errorf("the length of %s must be more than 0 and at most %d mm", k.Name, Longest)
		}
		title += "x" + strconv.FormatFloat(length, 'f', -1, 64)
	}
	sizes, steps := k.steps(size, length)
	list := []map[string]string{}
	for _, p := range sizes {
		list = append(list, map[string]string{"name": p.name, "value": strconv.FormatFloat(p.value, 'f', -1, 64) + " mm"})
	}
	parameters, err := json.Marshal(list)
	if err != nil {
		return "", nil, err
	}
	return title, fmt.Appendf(nil, `{"hammerset":"model/1","name":%q,"unit":"mm","parameters":%s,"steps":[%s],
"solids":[{"of":"e1","name":%q,"material":"steel"}]}`, title, parameters, strings.Join(steps, ",\n"), k.Name), nil
}

func kinds() []kind {
	return []kind{
		{Kind{"Hexagon head screw", "ISO 4017", standards.HexagonNames(), true}, headScrew},
		{Kind{"Socket head cap screw", "ISO 4762", standards.SocketNames(), true}, capScrew},
		{Kind{"Hexagon nut", "ISO 4032", standards.HexagonNames(), false}, nut},
		{Kind{"Plain washer", "ISO 7089", standards.HexagonNames(), false}, washer},
		{Kind{"Parallel pin", "ISO 2338", pins, true}, pin},
		{Kind{"Parallel key, square ends", "DIN 6885-B", standards.KeyNames(), true}, key},
	}
}

// pins are the usual diameters of ISO 2338 (from memory).
var pins = []string{"1", "1.5", "2", "2.5", "3", "4", "5", "6", "8", "10", "12", "16", "20", "25", "30"}

func headScrew(size string, length float64) ([]parameter, []string) {
	h, _ := standards.HexagonOf(size)
	t, _ := standards.MetricThread(size)
	return []parameter{{"flats", h.Flats}, {"head", h.Head}, {"d", t.Major}, {"length", length}}, []string{
		hexagon("s1", "flats"), extrude("e1", "s1", "head", ""), circle("s2", "d"), extrude("e2", "s2", "length",
			`,"reverse":true`), thread("e2/side:c0", size)}
}

func capScrew(size string, length float64) ([]parameter, []string) {
	t, _ := standards.MetricThread(size)
	s, _ := standards.SocketOf(size)
	return []parameter{{"wide", t.CapHead}, {"d", t.Major}, {"flats", s.Flats}, {"deep", s.Deep}, {"length", length}},
		[]string{circle("s1", "wide"), extrude("e1", "s1", "d", ""), circle("s2", "d"), extrude("e2", "s2", "length",
			`,"reverse":true`), on(hexagon("s3", "flats"), "e1/end"), extrude("e3", "s3", "deep",
			`,"result":"cut"`), thread("e2/side:c0", size)}
}

func nut(size string, _ float64) ([]parameter, []string) {
	h, _ := standards.HexagonOf(size)
	t, _ := standards.MetricThread(size)
	return []parameter{{"flats", h.Flats}, {"thick", h.Nut}, {"core", t.Core()}}, []string{hexagon("s1", "flats"),
		extrude("e1", "s1", "thick", ""), circle("s2", "core"), through("e2", "s2"), thread("e2/side:c0", size)}
}

func washer(size string, _ float64) ([]parameter, []string) {
	w, _ := standards.HexagonOf(size)
	return []parameter{{"outer", w.Washer[1]}, {"inner", w.Washer[0]}, {"thick", w.Washer[2]}}, []string{
		circle("s1", "outer"), extrude("e1", "s1", "thick", ""), circle("s2", "inner"), through("e2", "s2")}
}

func pin(size string, length float64) ([]parameter, []string) {
	d, err := strconv.ParseFloat(size, 64)
	if err != nil {
		return nil, nil // the sizes are numbers
	}
	return []parameter{{"d", d}, {"length", length}}, []string{circle("s1", "d"), extrude("e1", "s1", "length", "")}
}

func key(size string, length float64) ([]parameter, []string) {
	k, _ := standards.KeyOf(size)
	return []parameter{{"wide", k.Width}, {"high", k.Height}, {"length", length}}, []string{
		rectangle("s1", "length", "wide"), extrude("e1", "s1", "high", "")}
}
