package part

// Kind is the declaration of one kind of step. All that is particular to a kind is said here and
// by the type of its fields: nothing else knows kinds by their names. Of whatever is left out, a
// step of the kind has none.
type Kind struct {
	Name  string // in documents
	Title string // for people, as the head of its form
	What  string // what it does, in one line
	Group string // of the kinds that stand together in the interface

	Letter string // begins the ids of new steps of the kind
	Main   string // path of the size that is typed first
	Fields []Field

	// New makes the fields of a step of the kind, all empty.
	New func() Operation

	// First: it can make the first material of a part.
	First bool
	// Feature: it shapes the part, so that a part without it is another one: it can be forgotten.
	Feature bool
	// Repeats: what it does can be repeated by a mirror or a pattern.
	Repeats bool
	// Gives is what later steps can take of it: one of the Gives constants.
	Gives string
	// Quick: it has a button of its own, since most parts need it.
	Quick bool
}

// What a step gives to later ones, beside material.
const (
	GivesSketch = "sketch" // it is drawn on the drawing board
	GivesPath   = "path"
	GivesPlane  = "plane"
	GivesAxis   = "axis"
	GivesPoint  = "point"
)

// All lists the kinds in the order in which a part is usually made.
func All() []*Kind {
	return []*Kind{
		sketchKind(), extrudeKind(), revolveKind(), sweepKind(), loftKind(), ribKind(), helixKind(), holeKind(),
		slotKind(), keywayKind(),
		filletKind(), chamferKind(), shellKind(), draftKind(), mirrorKind(), linearPatternKind(), circularPatternKind(),
		pointPatternKind(),
		planeKind(), axisKind(), pointKind(), unionKind(), differenceKind(), intersectionKind(), importKind(),
		threadKind(), textKind(),
	}
}

// Of gives the kind of a name; nil where there is none.
func Of(name string) *Kind { return kinds[name] }

// kinds are the declarations by name. They are never changed.
var kinds = func() map[string]*Kind {
	out := map[string]*Kind{}
	for _, k := range All() {
		out[k.Name] = k
	}
	return out
}()

// Declared is the declaration of the step's kind; nil where there is none.
func (s *Step) Declared() *Kind { return Of(s.Kind) }
