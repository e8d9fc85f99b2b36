// Package characteristic declares the kinds of characteristics: what each is measured on and
// how, what the sheet states of it, how it is drawn, and which mistakes are usual with it. A
// kind is one declaration in a file of its own, listed in All; nothing else knows kinds by name.
package characteristic

import (
	"hammerset/core/quantity"
	"hammerset/core/solid"
	"hammerset/core/standards"
)

// Kind is the declaration of one kind. What is left out has the meaning that its comment gives
// for nothing.
type Kind struct {
	Name  string       // in documents
	Title string       // in the interface, as a noun
	On    string       // what is picked for it, in words; empty of the whole part
	Dim   quantity.Dim // of its value; Number for counts and texts
	Scope Scope
	State States

	// Measure gives the value at one place, in mm, radians or a plain number. The error says in
	// words what cannot be measured; *Amiss where it is there and is not as it must be.
	Measure func(g *solid.Geometry, p Place, how How) (float64, error)
	// OfWhole gives the value of the whole part.
	OfWhole func(w Whole) float64
	// Said lists what a model says where a text is compared; face is -1 for the whole part.
	Said func(g *solid.Geometry, face int) []string

	// Datum: it is measured from a datum plane, which must be named.
	Datum bool
	// Density: it needs the density of the material.
	Density bool
	// Power is with which power of lengths the value grows; nothing is 1 for a length and 0 else.
	Power int

	// Repeated lists the faces of the feature that is repeated at a place; nothing where each
	// place stands for itself.
	Repeated func(p Place) []int
	// Around: the repeated features stand around a middle, and the value says nothing of how many.
	Around bool
	// Counts: the value is how many there are.
	Counts bool
	// Surplus: faces like its own, beyond those that it is measured on, are too many.
	Surplus bool
	// Span: it runs from one face to another, and can be read from the wrong one.
	Span bool

	// General gives the general tolerance of a class; nothing takes that of lengths or angles.
	General func(class standards.Class, value float64) (float64, error)
	// Symbol is that of the frame of ISO 1101 that it can stand in.
	Symbol Symbol
	// Bevel: its angle of 45 degrees is stated with it.
	Bevel bool
	// Outside tells whether what it measures at a place is an outer edge that was broken, whose general tolerance General
	// is; nothing takes it everywhere.
	Outside func(g *solid.Geometry, p Place) bool
	// Leg is how long the shorter side of an angle is at a place, in mm, by which its general tolerance goes.
	Leg func(g *solid.Geometry, p Place) float64
	// Rounded: the sheet's own rounding is the only tolerance.
	Rounded bool
	// Stated rounds a value as the sheet prints it; nothing rounds by the dimension.
	Stated func(v float64) Stated
	// Shown writes a measured value; nothing writes it by the dimension.
	Shown func(v float64) string

	// Print adds to a stated text what the sheet prints with it; nothing adds nothing.
	Print func(s Stated, how How) string
	// InNote adds to a printed text what it has behind another in one note.
	InNote func(text string) string
	// Line is what a linear dimension of it spans; nothing if it cannot be one.
	Line Line
	// Ring: it is drawn as the circle that its places stand on.
	Ring bool
	// EndOn: a leader points at it where its axis is a point.
	EndOn bool
	// Inside: a hollow round is pointed at from its inside.
	Inside bool
	// Blind: it is how deep something goes that ends inside the part, from its first operand to the end of its second.
	Blind bool
	// Arranged is where a sheet that is laid out by itself has it.
	Arranged Arranged

	// Holds is what a kind without a number holds at a place.
	Holds Holds
	// From is the kind of the exact sizes that its place is given by, from each operand after the first.
	From *Kind
	// Proposed tells whether a drawing would state it of a place at which something is not held; nothing is never
	// proposed.
	Proposed func(g *solid.Geometry, p Place) bool

	// Remedy says what to do about a wrong value; nothing says to set it to what is stated.
	Remedy string
	// Slips are the usual mistakes with it.
	Slips []Slip
	// Chained: others are measured from the same faces, so that a difference of one of them tells
	// of the wrong face.
	Chained bool
}

// Scope is what a place of a kind is.
type Scope int

// Scopes.
const (
	EachPlace Scope = iota // every list of operands is a place
	EachFace               // every face that a name fits is a place
	Together               // all faces of a list are one place
	WholePart              // it is measured on no face
)

// States is what the sheet states of a kind.
type States int

// What is stated.
const (
	Value States = iota
	Text         // a text is compared, and no number
	None         // none of it is asked for (an offset, a slant), and no number is stated
)

// Holds is what a kind without a number holds.
type Holds int

// What is held.
const (
	NoRelation Holds = iota
	Directions       // how two directions stand to one another
	Axes             // that two are on one axis, or about one centre
	Middles          // that the middle of the first two is that of the others
	Places           // that the first is at its exact distances from the others
)

// Symbol is what a frame of ISO 1101 asks for.
type Symbol int

// Symbols. The zone of a coaxiality, of a symmetry and of a position lies half on each side of what it is about; that
// of a parallelism and of a perpendicularity is as wide as the whole face may lean.
const (
	NoSymbol Symbol = iota
	Coaxiality
	Symmetry
	Parallelism
	Perpendicularity
	Position
)

// Leans tells whether the zone is a width over the length of a face.
func (s Symbol) Leans() bool { return s == Parallelism || s == Perpendicularity }

// Line is what a linear dimension spans.
type Line int

// Linear dimensions.
const (
	NoLine     Line = iota
	Between         // from one operand to the other
	Across          // across a round face
	AcrossRing      // across the circle that the places stand on
	Outlines        // from the outline of one operand to that of the other
)

// Arranged is where an arranged sheet has a characteristic.
type Arranged int

// Places on an arranged sheet.
const (
	AsNote    Arranged = iota
	AtSide             // beside the view that shows both ends
	AtLeader           // at a leader
	AtCorner           // as an arc between the sides of an angle
	AtFeature          // in the note of the feature that it is of
)

// How tells what a measure must know beside its places.
type How struct {
	Supplement bool   // the other angle
	Datum      string // XY, YZ or XZ
	// Exact are the distances of an exact place, in mm.
	Exact []float64
}

// Round tells whether the zone is that of a circle around an axis.
func (s Symbol) Round() bool { return s == Coaxiality || s == Position }

// Whole is what is known of a whole part.
type Whole struct {
	Solids  int
	Volume  float64 // mm³
	Density float64 // g/mm³, where it is stated
}

// Stated is a value as the sheet states it.
type Stated struct {
	Text  string
	Value float64 // what the text means, in mm, radians or a plain number
	Half  float64 // half a unit of its last place, 0 for exact fractions
	Leg   float64 // of an angle: how long its shorter side is, in mm
	Inner bool    // it is not the outer edge that the general tolerance of its kind is for
}

// Whole tells whether the kind is about the whole part.
func (k *Kind) Whole() bool { return k.Scope == WholePart }

// Each tells whether every face that a name fits is a place of its own.
func (k *Kind) Each() bool { return k.Scope == EachFace }

// Zero tells whether the sheet asks for none of it.
func (k *Kind) Zero() bool { return k.State == None }

// Worded tells whether a text is compared.
func (k *Kind) Worded() bool { return k.State == Text }

// Unplaced tells whether the value depends on where the model lies in its own axes, or is no
// measure of faces: such values say nothing of sizes.
func (k *Kind) Unplaced() bool { return k.Whole() || k.Worded() || k.Datum }

// Grows is with which power of lengths the value grows.
func (k *Kind) Grows() int {
	if k.Power == 0 && k.Dim == quantity.Length {
		return 1
	}
	return k.Power
}

// All lists the kinds in the order of their titles.
func All() []*Kind { return all }

// all are the declarations. They are never changed.
var all = []*Kind{
	angle(), spacing(), coneAngle(), startAngle(), bend(), boltCircle(), chamfer(), concentric(), count(), depth(),
	diameter(), rim(), distance(), keyDepth(), arcLength(), mass(), material(), solids(), parallel(), perpendicular(),
	pitch(), datum(), position(), radius(), slope(), slotLength(), symmetric(), taper(), thread(), wall(),
}

// Of gives the kind of a name; nil where there is none.
func Of(name string) *Kind { return kinds[name] }

// Framed gives the kind that stands in a frame with a symbol.
func Framed(s Symbol) *Kind {
	for _, k := range All() {
		if k.Symbol == s {
			return k
		}
	}
	return nil
}

// kinds are the declarations by name.
var kinds = func() map[string]*Kind {
	out := map[string]*Kind{}
	for _, k := range all {
		out[k.Name] = k
	}
	return out
}()
