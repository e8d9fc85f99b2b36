package standards

import (
	"fmt"
	"slices"
	"strings"
)

// Thread is one ISO metric coarse thread with the sizes of the holes that belong
// to its screws, in millimetres. A zero size is not in the table.
type Thread struct {
	Name  string
	Major float64
	Pitch float64 // ISO 261, coarse
	// ISO 273: clearance holes.
	Fine, Medium, Coarse float64
	// ISO 4762: head of a hexagon socket cap screw; its height is the major diameter.
	CapHead float64
	// DIN 974-1, series 1: the counterbore for that head.
	Counterbore float64
	// ISO 10642: theoretical head of a countersunk socket screw, 90 degrees.
	FlatHead float64
}

// threads: ISO 261:1998, ISO 273:1979, ISO 4762:2004, DIN 974-1:2008 and ISO
// 10642:2004 (values from memory).
var threads = []Thread{
	{"M1.6", 1.6, 0.35, 1.7, 1.8, 2, 3, 3.3, 0},
	{"M2", 2, 0.4, 2.2, 2.4, 2.6, 3.8, 4.3, 0},
	{"M2.5", 2.5, 0.45, 2.7, 2.9, 3.1, 4.5, 5, 0},
	{"M3", 3, 0.5, 3.2, 3.4, 3.6, 5.5, 6.5, 6.72},
	{"M4", 4, 0.7, 4.3, 4.5, 4.8, 7, 8, 8.96},
	{"M5", 5, 0.8, 5.3, 5.5, 5.8, 8.5, 10, 11.2},
	{"M6", 6, 1, 6.4, 6.6, 7, 10, 11, 13.44},
	{"M8", 8, 1.25, 8.4, 9, 10, 13, 15, 17.92},
	{"M10", 10, 1.5, 10.5, 11, 12, 16, 18, 22.4},
	{"M12", 12, 1.75, 13, 13.5, 14.5, 18, 20, 26.88},
	{"M14", 14, 2, 15, 15.5, 16.5, 21, 24, 30.8},
	{"M16", 16, 2, 17, 17.5, 18.5, 24, 26, 33.6},
	{"M20", 20, 2.5, 21, 22, 24, 30, 33, 40.32},
	{"M24", 24, 3, 25, 26, 28, 36, 40, 0},
	{"M30", 30, 3.5, 31, 33, 35, 45, 50, 0},
	{"M36", 36, 4, 37, 39, 42, 54, 58, 0},
}

// ThreadNames lists the threads of the table in order of size.
func ThreadNames() []string {
	var out []string
	for _, t := range threads {
		out = append(out, t.Name)
	}
	return out
}

// MetricThread finds a thread by its name, such as M8.
func MetricThread(name string) (Thread, error) {
	i := slices.IndexFunc(threads, func(t Thread) bool { return strings.EqualFold(t.Name, strings.TrimSpace(name)) })
	if i < 0 {
		return Thread{}, fmt.Errorf("%q is not a coarse thread of ISO 261 in the table: use one of %s", name,
			strings.Join(ThreadNames(), ", "))
	}
	return threads[i], nil
}

// Clearance gives the hole of ISO 273 for a fit: fine, medium (also the empty
// string) or coarse.
func (t Thread) Clearance(fit string) (float64, error) {
	switch fit {
	case "fine":
		return t.Fine, nil
	case "", "medium":
		return t.Medium, nil
	case "coarse":
		return t.Coarse, nil
	}
	return 0, fmt.Errorf("%q is not a fit of ISO 273: use fine, medium or coarse", fit)
}

// TapDrill is the drill before tapping: the major diameter less the pitch (ISO
// 2306 rounds this to drills; common practice).
func (t Thread) TapDrill() float64 { return t.Major - t.Pitch }

// Key is a parallel key of a range of shafts with its keyway, in millimetres.
type Key struct {
	Over, To float64 // shaft diameter: over, up to and including
	Width    float64
	Height   float64
	Shaft    float64 // depth of the keyway in the shaft, t1
	Hub      float64 // depth in the hub, t2
}

// keys: DIN 6885-1:1968, the same sections as ISO/R 773:1969 (values from memory).
var keys = []Key{
	{6, 8, 2, 2, 1.2, 1}, {8, 10, 3, 3, 1.8, 1.4}, {10, 12, 4, 4, 2.5, 1.8}, {12, 17, 5, 5, 3, 2.3},
	{17, 22, 6, 6, 3.5, 2.8},
	{22, 30, 8, 7, 4, 3.3}, {30, 38, 10, 8, 5, 3.3}, {38, 44, 12, 8, 5, 3.3}, {44, 50, 14, 9, 5.5, 3.8},
	{50, 58, 16, 10, 6, 4.3},
	{58, 65, 18, 11, 7, 4.4}, {65, 75, 20, 12, 7.5, 4.9}, {75, 85, 22, 14, 9, 5.4}, {85, 95, 25, 14, 9, 5.4},
	{95, 110, 28, 16, 10, 6.4},
	{110, 130, 32, 18, 11, 7.4}, {130, 150, 36, 20, 12, 8.4}, {150, 170, 40, 22, 13, 9.4}, {170, 200, 45, 25, 15, 10.4},
	{200, 230, 50, 28, 17, 11.4},
}

// ParallelKey gives the key and keyway for a shaft's diameter in millimetres.
func ParallelKey(shaft float64) (Key, error) {
	for _, k := range keys {
		if shaft > k.Over && shaft <= k.To {
			return k, nil
		}
	}
	return Key{}, fmt.Errorf("DIN 6885-1 has keys for shafts over %g up to %g mm and none for %g mm", keys[0].Over,
		keys[len(keys)-1].To, shaft)
}

// Material is a material with its density in kg/m³.
type Material struct {
	Name    string
	Density float64
}

// Materials are the usual ones of a training shop (handbook values, from memory).
var Materials = []Material{
	{"steel", 7850}, {"stainless steel", 7900}, {"cast iron", 7200}, {"aluminium alloy", 2700}, {"brass", 8500},
	{"bronze", 8800},
	{"copper", 8960}, {"oak", 700}, {"polyamide", 1140}, {"acetal", 1410},
}

// Core is the minor diameter of the thread in a hole: the major one less 1.0825 times the pitch (ISO 724).
func (t Thread) Core() float64 { return t.Major - 1.0825*t.Pitch }

// Hexagon are the sizes of a hexagon screw, its nut and its washer, in mm.
type Hexagon struct {
	Thread string
	Flats  float64    // across the flats: ISO 272
	Head   float64    // height of the head: ISO 4014, 4017
	Nut    float64    // height of the nut: ISO 4032
	Washer [3]float64 // inner and outer diameter and thickness: ISO 7089
}

// hexagons: ISO 272:1982, ISO 4017:2014, ISO 4032:2012 and ISO 7089:2000 (values from memory).
var hexagons = []Hexagon{
	{"M3", 5.5, 2, 2.4, [3]float64{3.2, 7, 0.5}}, {"M4", 7, 2.8, 3.2, [3]float64{4.3, 9, 0.8}},
	{"M5", 8, 3.5, 4.7, [3]float64{5.3, 10, 1}}, {"M6", 10, 4, 5.2, [3]float64{6.4, 12, 1.6}},
	{"M8", 13, 5.3, 6.8, [3]float64{8.4, 16, 1.6}}, {"M10", 16, 6.4, 8.4, [3]float64{10.5, 20, 2}},
	{"M12", 18, 7.5, 10.8, [3]float64{13, 24, 2.5}}, {"M16", 24, 10, 14.8, [3]float64{17, 30, 3}},
	{"M20", 30, 12.5, 18, [3]float64{21, 37, 3}}, {"M24", 36, 15, 21.5, [3]float64{25, 44, 4}},
}

// HexagonNames lists the threads that hexagon screws have here.
func HexagonNames() []string { return names(hexagons, Hexagon.name) }

// HexagonOf finds the hexagon sizes of a thread.
func HexagonOf(thread string) (Hexagon, bool) { return called(hexagons, Hexagon.name, thread) }

func (h Hexagon) name() string { return h.Thread }

// Socket is the hexagon socket of a cap screw, in mm.
type Socket struct {
	Thread      string
	Flats, Deep float64
}

// sockets: ISO 4762:2004, sizes across the flats and least depths (values from memory).
var sockets = []Socket{{"M3", 2.5, 1.3}, {"M4", 3, 2}, {"M5", 4, 2.5}, {"M6", 5, 3}, {"M8", 6, 4}, {"M10", 8, 5},
	{"M12", 10, 6}, {"M16", 14, 8}, {"M20", 17, 10}}

// SocketNames lists the threads that cap screws have here.
func SocketNames() []string { return names(sockets, Socket.name) }

// SocketOf finds the socket of a thread.
func SocketOf(thread string) (Socket, bool) { return called(sockets, Socket.name, thread) }

func (s Socket) name() string { return s.Thread }

// KeyNames lists the sections of parallel keys, as 8x7: width and height.
func KeyNames() []string { return names(keys, Key.section) }

// KeyOf finds a key by its section.
func KeyOf(section string) (Key, bool) { return called(keys, Key.section, section) }

func (k Key) section() string { return fmt.Sprintf("%gx%g", k.Width, k.Height) }

// names are those of the rows of a table, in their order.
func names[T any](table []T, name func(T) string) []string {
	var out []string
	for _, row := range table {
		out = append(out, name(row))
	}
	return out
}

// called finds the row of a table with a name.
func called[T any](table []T, name func(T) string, want string) (row T, ok bool) {
	i := slices.IndexFunc(table, func(r T) bool { return name(r) == want })
	if i < 0 {
		return row, false
	}
	return table[i], true
}
