package part

import "hammerset/core/standards"

// Field is one entry of a step's form: what is asked, where it stands in the step,
// and what kind of thing it is. When names a field and the values of it with which
// this one counts, as "form=counterbore|spotface".
type Field struct {
	Path     string   `json:"path"`
	Label    string   `json:"label"`
	Kind     string   `json:"kind"`
	Options  []string `json:"options,omitempty"`
	When     string   `json:"when,omitempty"`
	Optional bool     `json:"optional,omitempty"`
	Hint     string   `json:"hint,omitempty"`
	Default  string   `json:"default,omitempty"`
}

// Form is the form of one kind of step. Main is the path of the size that is typed
// first.
type Form struct {
	Kind   string  `json:"kind"`
	Title  string  `json:"title"`
	What   string  `json:"what"`
	Group  string  `json:"group"`
	Main   string  `json:"main,omitempty"`
	Fields []Field `json:"fields"`
}

// Kinds of fields: length, angle and number are formulas; the others name things.
const (
	asLength   = "length"
	asAngle    = "angle"
	asNumber   = "number"
	asChoice   = "choice"
	asFlag     = "flag"
	asText     = "text"
	asSketch   = "sketch"   // the id of a sketch
	asSketches = "sketches" // several, in order
	asPath     = "path"     // a sketch or helix
	asRegions  = "regions"
	asSpots    = "spots" // points of the step's sketch
	asLines    = "lines" // lines and arcs of the step's sketch
	asSpot     = "spot"  // one point of the step's sketch
	asFace     = "face"
	asFaces    = "faces"
	asEdge     = "edge"
	asEdges    = "edges"
	asPlane    = "plane"
	asPlanes   = "planes"
	asAxis     = "axis"
	asPoints   = "points"
	asSteps    = "steps"
	asSolid    = "solid"
	asSolids   = "solids"
	asSkip     = "skip" // numbers of instances
	asFile     = "file"
)

func optional(f Field) Field { f.Optional = true; return f }

// Forms lists the forms of all kinds of steps, in the order in which a part is
// usually made.
func Forms() []Form {
	sketch := Field{Path: "sketch", Label: "Sketch", Kind: asSketch}
	regions := Field{Path: "regions", Label: "Regions", Kind: asRegions, Hint: "all material, or the regions that you pick"}
	result := Field{Path: "result", Label: "Result", Kind: asChoice, Options: []string{"add", "cut", "intersect", "new"}, Default: "add"}
	solids := optional(Field{Path: "solids", Label: "Solids it works on", Kind: asSolids, Hint: "those it touches, or all for a cut"})
	reverse := Field{Path: "reverse", Label: "Other direction", Kind: asFlag}
	wall := optional(Field{Path: "wall.thickness", Label: "Thin wall", Kind: asLength, Hint: "a wall along the curves in place of the regions"})
	side := Field{Path: "wall.side", Label: "Wall lies", Kind: asChoice, Options: []string{"middle", "left", "right"}, When: "wall.thickness", Default: "middle"}
	sized := func(dim string) []Field {
		return []Field{
			{Path: "extent.length", Label: "Length", Kind: dim, When: "extent.kind=one-side"},
			{Path: "extent.total", Label: "Total", Kind: dim, When: "extent.kind=symmetric", Hint: "both sides together"},
			{Path: "extent.forward", Label: "Forward", Kind: dim, When: "extent.kind=two-sides"},
			{Path: "extent.backward", Label: "Backward", Kind: dim, When: "extent.kind=two-sides"},
		}
	}
	fields := func(lists ...any) []Field {
		var out []Field
		for _, l := range lists {
			switch x := l.(type) {
			case Field:
				out = append(out, x)
			case []Field:
				out = append(out, x...)
			}
		}
		return out
	}
	axis := Field{Path: "axis", Label: "Axis", Kind: asAxis}
	edges := Field{Path: "edges", Label: "Edges", Kind: asEdges, When: "all=", Hint: "tangent edges follow by themselves"}
	all := Field{Path: "all", Label: "Every edge of the part", Kind: asFlag}
	of := optional(Field{Path: "of", Label: "Steps to repeat", Kind: asSteps, Hint: "rounds and bevels can go along"})
	copies := optional(Field{Path: "solids", Label: "Solids to repeat", Kind: asSolids, When: "of="})
	copied := Field{Path: "result", Label: "Copies of solids", Kind: asChoice, Options: []string{"add", "new"}, When: "of=", Default: "add"}
	skip := optional(Field{Path: "skip", Label: "Left out", Kind: asSkip, Hint: "numbers of instances; the original is 1"})
	combine := func(kind, title, what string) Form {
		return Form{Kind: kind, Title: title, What: what, Group: "solids", Fields: []Field{{Path: "solids", Label: "Solid", Kind: asSolid}, {Path: "with", Label: "With", Kind: asSolids}, {Path: "keep", Label: "Keep the other solids", Kind: asFlag}}}
	}
	return []Form{
		{Kind: "sketch", Title: "Sketch", What: "plane geometry with constraints and sizes", Group: "draw", Fields: []Field{{Path: "plane", Label: "Plane", Kind: asPlane}}},
		{Kind: "extrude", Title: "Extrude", What: "material along the normal of a sketch", Group: "material", Main: "extent.length", Fields: fields(sketch, regions, result,
			Field{Path: "extent.kind", Label: "Extent", Kind: asChoice, Options: []string{"one-side", "symmetric", "two-sides", "through", "to-face", "to-next"}, Default: "one-side"}, sized(asLength),
			Field{Path: "extent.face", Label: "Up to", Kind: asFace, When: "extent.kind=to-face"}, Field{Path: "extent.both", Label: "Through on both sides", Kind: asFlag, When: "extent.kind=through"}, reverse,
			optional(Field{Path: "extent.start", Label: "Begins away by", Kind: asLength}), optional(Field{Path: "extent.draft", Label: "Sides taper by", Kind: asAngle}), wall, side, solids)},
		{Kind: "revolve", Title: "Revolve", What: "material turned about an axis", Group: "material", Main: "extent.length", Fields: fields(sketch, regions, axis, result,
			Field{Path: "extent.kind", Label: "Turn", Kind: asChoice, Options: []string{"", "one-side", "symmetric", "two-sides"}, Hint: "a full turn, or part of one"}, sized(asAngle), reverse, wall, side, solids)},
		{Kind: "sweep", Title: "Sweep", What: "a profile moved along a path", Group: "material", Fields: fields(sketch, regions, Field{Path: "path", Label: "Path", Kind: asPath}, result, Field{Path: "keep", Label: "Keep its directions", Kind: asFlag}, wall, side, solids)},
		{Kind: "loft", Title: "Loft", What: "a body through two sections or more", Group: "material", Fields: fields(Field{Path: "sections", Label: "Sections, in order", Kind: asSketches}, Field{Path: "ruled", Label: "Straight between sections", Kind: asFlag}, result, solids)},
		{Kind: "rib", Title: "Rib", What: "a web from one line to the material around it", Group: "material", Main: "thickness", Fields: fields(sketch, Field{Path: "thickness", Label: "Thickness", Kind: asLength}, Field{Path: "reverse", Label: "Other side of the line", Kind: asFlag}, solids)},
		{Kind: "helix", Title: "Helix", What: "a path for springs and thread forms", Group: "draw", Main: "pitch", Fields: fields(axis, Field{Path: "diameter", Label: "Diameter", Kind: asLength}, Field{Path: "pitch", Label: "Pitch", Kind: asLength}, Field{Path: "turns", Label: "Turns", Kind: asNumber},
			optional(Field{Path: "offset", Label: "Begins at", Kind: asLength}), optional(Field{Path: "angle", Label: "Turned by", Kind: asAngle}), Field{Path: "left", Label: "Left-handed", Kind: asFlag}, reverse)},
		{Kind: "hole", Title: "Hole", What: "drilled, counterbored, countersunk or tapped", Group: "material", Main: "diameter", Fields: fields(
			Field{Path: "form", Label: "Form", Kind: asChoice, Options: []string{"plain", "counterbore", "countersink", "spotface", "tapped"}, Default: "plain"},
			optional(Field{Path: "sketch", Label: "Sketch", Kind: asSketch, Hint: "or a place on a face, below"}), optional(Field{Path: "at", Label: "At points", Kind: asSpots, When: "sketch"}),
			optional(Field{Path: "place.face", Label: "On the face", Kind: asFace, When: "sketch="}),
			optional(Field{Path: "place.from.0.edge", Label: "From the edge", Kind: asEdge, When: "place.face"}), optional(Field{Path: "place.from.0.distance", Label: "by", Kind: asLength, When: "place.from.0.edge"}),
			optional(Field{Path: "place.from.1.edge", Label: "and from the edge", Kind: asEdge, When: "place.from.0.edge"}), optional(Field{Path: "place.from.1.distance", Label: "by", Kind: asLength, When: "place.from.0.edge"}),
			optional(Field{Path: "place.circle.about", Label: "On a circle about the edge", Kind: asEdge, When: "place.face"}), optional(Field{Path: "place.circle.diameter", Label: "Bolt circle", Kind: asLength, When: "place.circle.about"}),
			optional(Field{Path: "place.circle.count", Label: "Count", Kind: asNumber, When: "place.circle.about"}), optional(Field{Path: "place.circle.start", Label: "First at", Kind: asAngle, When: "place.circle.about"}),
			optional(Field{Path: "place.centered", Label: "Concentric to", Kind: asEdges, When: "place.face"}),
			optional(Field{Path: "thread", Label: "For the thread", Kind: asChoice, Options: threadOptions(), Hint: "sizes of ISO 273, ISO 4762, ISO 10642"}), Field{Path: "fit", Label: "Fit", Kind: asChoice, Options: []string{"fine", "medium", "coarse"}, When: "thread", Default: "medium"},
			optional(Field{Path: "diameter", Label: "Diameter", Kind: asLength, Hint: "by the thread when empty"}),
			optional(Field{Path: "headDiameter", Label: "Head diameter", Kind: asLength, When: "form=counterbore|countersink|spotface"}), optional(Field{Path: "headDepth", Label: "Head depth", Kind: asLength, When: "form=counterbore|spotface"}),
			optional(Field{Path: "headAngle", Label: "Head angle", Kind: asAngle, When: "form=countersink"}),
			Field{Path: "extent.kind", Label: "Depth", Kind: asChoice, Options: []string{"through", "to-next", "one-side"}, Default: "through"}, Field{Path: "extent.length", Label: "Deep", Kind: asLength, When: "extent.kind=one-side"},
			optional(Field{Path: "tipAngle", Label: "Drill point", Kind: asAngle, When: "extent.kind=one-side", Hint: "118 deg; flat when empty"}), Field{Path: "reverse", Label: "Other direction", Kind: asFlag, When: "sketch"}, solids)},
		{Kind: "slot", Title: "Slot", What: "milled along lines of a sketch, round at the ends", Group: "material", Main: "width", Fields: fields(sketch, Field{Path: "at", Label: "Middle lines", Kind: asLines}, Field{Path: "width", Label: "Width", Kind: asLength},
			Field{Path: "extent.kind", Label: "Depth", Kind: asChoice, Options: []string{"through", "one-side", "symmetric", "two-sides"}, Default: "through"}, sized(asLength), Field{Path: "extent.both", Label: "Through on both sides", Kind: asFlag, When: "extent.kind=through"}, reverse, solids)},
		{Kind: "keyway", Title: "Keyway", What: "in a shaft or a hub, DIN 6885-1 or typed", Group: "material", Main: "length", Fields: fields(Field{Path: "faces", Label: "Round face, then flat face", Kind: asFaces}, Field{Path: "form", Label: "Ends", Kind: asChoice, Options: []string{"square", "rounded"}, Default: "square"},
			optional(Field{Path: "offset", Label: "Away from the flat face", Kind: asLength, Hint: "open at the end when empty"}), optional(Field{Path: "length", Label: "Length", Kind: asLength, Hint: "all the way when empty"}),
			optional(Field{Path: "width", Label: "Width", Kind: asLength, Hint: "by the diameter when empty"}), optional(Field{Path: "depth", Label: "Depth", Kind: asLength, Hint: "by the diameter when empty"}), optional(Field{Path: "angle", Label: "Turned by", Kind: asAngle}), solids)},
		{Kind: "fillet", Title: "Fillet", What: "edges rounded", Group: "edges", Main: "radius", Fields: []Field{edges, all, {Path: "radius", Label: "Radius", Kind: asLength}}},
		{Kind: "chamfer", Title: "Chamfer", What: "edges bevelled", Group: "edges", Main: "distance", Fields: []Field{edges, all, {Path: "distance", Label: "Distance", Kind: asLength}, optional(Field{Path: "second", Label: "Second distance", Kind: asLength}), optional(Field{Path: "angle", Label: "or angle", Kind: asAngle, When: "second="})}},
		{Kind: "shell", Title: "Shell", What: "hollow, with walls of one thickness", Group: "edges", Main: "thickness", Fields: []Field{optional(Field{Path: "faces", Label: "Open faces", Kind: asFaces}), {Path: "thickness", Label: "Thickness", Kind: asLength}, {Path: "reverse", Label: "Walls outwards", Kind: asFlag}, optional(Field{Path: "solids", Label: "Solid", Kind: asSolid})}},
		{Kind: "draft", Title: "Draft", What: "faces tilted about a plane", Group: "edges", Main: "angle", Fields: []Field{{Path: "faces", Label: "Faces", Kind: asFaces}, {Path: "plane", Label: "Neutral plane", Kind: asPlane}, {Path: "angle", Label: "Angle", Kind: asAngle}, reverse}},
		{Kind: "mirror", Title: "Mirror", What: "steps or solids on the other side of a plane", Group: "repeat", Fields: []Field{{Path: "plane", Label: "Plane", Kind: asPlane}, of, copies, copied}},
		{Kind: "linear-pattern", Title: "Linear pattern", What: "in one or two directions", Group: "repeat", Main: "spacing", Fields: []Field{of, copies, copied, {Path: "axis", Label: "Direction", Kind: asAxis}, {Path: "count", Label: "Count", Kind: asNumber}, {Path: "spacing", Label: "Spacing", Kind: asLength},
			optional(Field{Path: "axis2", Label: "Second direction", Kind: asAxis}), optional(Field{Path: "count2", Label: "Count", Kind: asNumber, When: "axis2"}), optional(Field{Path: "spacing2", Label: "Spacing", Kind: asLength, When: "axis2"}), reverse, Field{Path: "reverse2", Label: "Other sense of the second direction", Kind: asFlag, When: "axis2"}, skip}},
		{Kind: "circular-pattern", Title: "Circular pattern", What: "around an axis", Group: "repeat", Main: "angle", Fields: []Field{of, copies, copied, axis, {Path: "count", Label: "Count", Kind: asNumber}, optional(Field{Path: "angle", Label: "Over the angle", Kind: asAngle, Hint: "a full turn when empty"}), reverse, skip}},
		{Kind: "point-pattern", Title: "Pattern at points", What: "at the points of a sketch", Group: "repeat", Fields: []Field{of, copies, copied, sketch, {Path: "from", Label: "The original is at", Kind: asSpot}, {Path: "at", Label: "Repeated at", Kind: asSpots}, skip}},
		{Kind: "plane", Title: "Datum plane", What: "to sketch on or measure from", Group: "draw", Main: "plane.offset", Fields: []Field{{Path: "form", Label: "Form", Kind: asChoice, Options: []string{"offset", "angled", "three-points", "midway", "normal"}, Default: "offset"},
			{Path: "plane", Label: "From the plane", Kind: asPlane, When: "form=offset|angled"}, {Path: "plane.offset", Label: "Offset", Kind: asLength, When: "form=offset"}, {Path: "axis", Label: "About the axis", Kind: asAxis, When: "form=angled"}, {Path: "angle", Label: "Angle", Kind: asAngle, When: "form=angled"},
			{Path: "points", Label: "Three points", Kind: asPoints, When: "form=three-points"}, {Path: "planes", Label: "Between two planes", Kind: asPlanes, When: "form=midway"}, {Path: "edges", Label: "Across the edge", Kind: asEdges, When: "form=normal"}, optional(Field{Path: "offset", Label: "At the share of its length", Kind: asNumber, When: "form=normal"}), {Path: "reverse", Label: "Other side up", Kind: asFlag}}},
		{Kind: "axis", Title: "Datum axis", What: "of an edge or round face, through points, where planes cross", Group: "draw", Fields: []Field{optional(axis), optional(Field{Path: "points", Label: "or two points", Kind: asPoints, When: "axis="}), optional(Field{Path: "planes", Label: "or two planes", Kind: asPlanes, When: "axis="}), reverse}},
		{Kind: "point", Title: "Datum point", What: "a corner, a centre, a place", Group: "draw", Fields: []Field{{Path: "points", Label: "Place", Kind: asPoints}}},
		combine("union", "Union", "solids made one"),
		combine("difference", "Difference", "one solid taken from another"),
		combine("intersection", "Intersection", "what solids have in common"),
		{Kind: "import", Title: "STEP solid", What: "a solid from a file, to begin with", Group: "solids", Fields: []Field{{Path: "data", Label: "STEP file", Kind: asFile}}},
		{Kind: "thread", Title: "Thread", What: "a cosmetic thread on a round face", Group: "notes", Fields: []Field{{Path: "faces", Label: "Round face", Kind: asFaces}, {Path: "thread", Label: "Size", Kind: asChoice, Options: threadOptions()}, optional(Field{Path: "length", Label: "Length", Kind: asLength})}},
		{Kind: "text", Title: "Text", What: "a note on a face, carried into the sheet", Group: "notes", Fields: []Field{{Path: "faces", Label: "Face", Kind: asFaces}, {Path: "text", Label: "Text", Kind: asText}, optional(Field{Path: "height", Label: "Height", Kind: asLength})}},
	}
}

func threadOptions() []string { return append([]string{""}, standards.ThreadNames()...) }
