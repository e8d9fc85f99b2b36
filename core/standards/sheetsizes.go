package standards

// Paper is a sheet size in millimetres, landscape.
type Paper struct {
	Name          string
	Width, Height float64
}

// Papers are the trimmed A sizes of ISO 216 (ISO 5457 uses them for drawings).
var Papers = []Paper{{"A4", 297, 210}, {"A3", 420, 297}, {"A2", 594, 420}}

// Scale is a scale of ISO 5455:1979.
type Scale struct {
	Name   string
	Factor float64
}

// Scales are the recommended scales of ISO 5455:1979, from enlargement to
// reduction (values from memory).
var Scales = []Scale{{"10:1", 10}, {"5:1", 5}, {"2:1", 2}, {"1:1", 1}, {"1:2", 0.5}, {"1:5", 0.2}, {"1:10", 0.1},
	{"1:20", 0.05}}

// LineWide and LineNarrow are the line widths of ISO 128-2's group 0.5 used on
// A4 and A3 sheets, mm; Lettering is the nominal height of ISO 3098 in mm.
const (
	LineWide   = 0.5
	LineNarrow = 0.25
	Lettering  = 3.5
)
