package standards

// Paper is a sheet size in millimetres: as wide and as high as drawings use it.
type Paper struct {
	Name          string
	Width, Height float64
}

// Papers are the trimmed sizes of ISO 5457:1999, those of ISO 216, of which A4 stands upright, and those in inches of
// ASME Y14.1 (from memory).
var Papers = []Paper{{"A4", 210, 297}, {"A3", 420, 297}, {"A2", 594, 420}, {"A1", 841, 594}, {"A0", 1189, 841},
	inches("A", 11, 8.5), inches("B", 17, 11), inches("C", 22, 17), inches("D", 34, 22), inches("E", 44, 34)}

func inches(size string, width, height float64) Paper {
	return Paper{"Y14.1 " + size, width * 25.4, height * 25.4}
}

// Scale is a scale of ISO 5455:1979.
type Scale struct {
	Name   string
	Factor float64
}

// Scales are the recommended scales of ISO 5455:1979, from enlargement to
// reduction (values from memory).
var Scales = []Scale{{"50:1", 50}, {"20:1", 20}, {"10:1", 10}, {"5:1", 5}, {"2:1", 2}, {"1:1", 1}, {"1:2", 0.5},
	{"1:5", 0.2}, {"1:10", 0.1},
	{"1:20", 0.05}, {"1:50", 0.02}, {"1:100", 0.01}}

// ScaleOf is the scale with a factor; none where there is no such scale.
func ScaleOf(factor float64) Scale {
	for _, s := range Scales {
		if s.Factor == factor {
			return s
		}
	}
	return Scale{}
}

// LineWide and LineNarrow are the line widths of ISO 128-2's group 0.5 used on
// A4 and A3 sheets, mm; Lettering is the nominal height of ISO 3098 in mm.
const (
	LineWide   = 0.5
	LineNarrow = 0.25
	Lettering  = 3.5
)
