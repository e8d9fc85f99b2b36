package exercise

import "hammerset/core/quantity"

// Kind says what a kind of characteristic measures and on what.
type Kind struct {
	Title string       // in the interface
	On    string       // what is picked for it, in words
	Dim   quantity.Dim // of its value; Number for counts and texts
	// Each: every face that a name fits is a place of its own; else a place has all of them.
	Each bool
	// Text: what is compared is a text of the sheet, not a number.
	Text bool
	// Zero: the sheet asks for none of it (an offset, a slant), and states no number.
	Zero bool
}

// Kinds lists the kinds of characteristics.
var Kinds = map[string]Kind{
	"distance":      {Title: "distance", On: "two faces, axes or edges", Dim: quantity.Length},
	"diameter":      {Title: "diameter", On: "round faces", Dim: quantity.Length, Each: true},
	"radius":        {Title: "radius", On: "round faces, balls or fillets", Dim: quantity.Length, Each: true},
	"bend":          {Title: "bend radius", On: "round faces that are bent", Dim: quantity.Length, Each: true},
	"chamfer":       {Title: "chamfer", On: "bevels", Dim: quantity.Length, Each: true},
	"depth":         {Title: "depth", On: "the face it starts from, and the round face", Dim: quantity.Length},
	"wall":          {Title: "wall thickness", On: "the two sides of the wall", Dim: quantity.Length},
	"slot-length":   {Title: "slot, length over all", On: "the two round ends", Dim: quantity.Length},
	"key-depth":     {Title: "keyway, depth", On: "the floor, and the shaft or bore", Dim: quantity.Length},
	"bolt-circle":   {Title: "bolt circle", On: "the middle, and the holes around it", Dim: quantity.Length},
	"pitch":         {Title: "pitch of a row", On: "the holes of the row", Dim: quantity.Length},
	"angle":         {Title: "angle", On: "two faces or axes", Dim: quantity.Angle},
	"cone-angle":    {Title: "angle of a cone", On: "cones", Dim: quantity.Angle, Each: true},
	"spacing":       {Title: "angle between neighbours", On: "the middle, and the holes around it", Dim: quantity.Angle},
	"start-angle":   {Title: "angle of the first", On: "the middle, a flat face to start from, and the holes", Dim: quantity.Angle},
	"count":         {Title: "count", On: "all faces of a kind", Dim: quantity.Number},
	"symmetric":     {Title: "symmetric", On: "two faces, and the two that they are symmetric to", Dim: quantity.Length, Zero: true},
	"concentric":    {Title: "concentric", On: "two round faces", Dim: quantity.Length, Zero: true},
	"parallel":      {Title: "parallel", On: "two faces or axes", Dim: quantity.Angle, Zero: true},
	"perpendicular": {Title: "perpendicular", On: "two faces or axes", Dim: quantity.Angle, Zero: true},
	"datum":         {Title: "place on a datum plane", On: "a face, or two for their middle", Dim: quantity.Length},
	"thread":        {Title: "thread", On: "round faces", Dim: quantity.Number, Each: true, Text: true},
	"material":      {Title: "material", Dim: quantity.Number, Text: true},
	"mass":          {Title: "mass", Dim: quantity.Number}, // grams
	"solids":        {Title: "number of solids", Dim: quantity.Number},
}

// Whole tells whether the kind is about the whole part and is measured on no face.
func (k Kind) Whole() bool { return k.On == "" }

// Around tells whether a kind is measured on holes around a middle.
func Around(kind string) bool {
	return kind == "bolt-circle" || kind == "spacing" || kind == "start-angle"
}
