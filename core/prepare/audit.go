package prepare

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/sheet"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
	"hammerset/core/words"
)

// Audited tells whether a sheet determines its part, in words.
type Audited struct {
	Findings []Finding `json:"findings"`
	// Sizes is how many sizes a drawing of the part must state, Stated how many the sheet states of them, and BySymmetry
	// how many nothing but a centre line holds; Symmetric says which faces those hold.
	Sizes      int        `json:"sizes"`
	Stated     int        `json:"stated"`
	BySymmetry int        `json:"bySymmetry"`
	Symmetric  []Evidence `json:"symmetric"`
	// Read is what else is read from the drawing without being stated, and can be refused as well.
	Read []Evidence `json:"read"`
}

// Evidence is what a drawing says of faces without a number, in words and as an exercise can refuse it.
type Evidence struct {
	Words string `json:"words"`
	exercise.Evidence
}

// Finding is something that is wrong with a sheet, with its place and what to do about it.
type Finding struct {
	// Kind is missing, twice, contradicting, rounded, unseen, unjudged, absent or crowded.
	Kind            string        `json:"kind"`
	What            string        `json:"what"`
	Remedy          string        `json:"remedy"`
	Faces           []address.Ref `json:"faces"` // by number
	Characteristics []string      `json:"characteristics"`
	// Add is the characteristic that would settle it, and Motion how the face can move without it.
	Add    *Addition     `json:"add,omitempty"`
	Motion *audit.Motion `json:"motion,omitempty"`
	// Moves says of the views of the sheet that is worked on which way the face goes there, in mm of paper.
	Moves map[string][2]float64 `json:"moves,omitempty"`
}

// Open tells whether the sheet does not say what the part is, or says otherwise.
func (f *Finding) Open() bool { return f.Kind == "missing" || f.Kind == "contradicting" }

// Determined tells whether the sheet determines the part, however well it can be read.
func (a *Audited) Determined() bool {
	return !slices.ContainsFunc(a.Findings, func(f Finding) bool { return f.Kind != "crowded" })
}

// crowded notes what is ill to read on the sheets as they are drawn.
func (a *Audited) crowded(set []*sheet.Drawing, m sheet.Metrics) {
	for n, d := range set {
		on := ""
		if len(set) > 1 {
			on = fmt.Sprintf("sheet %d: ", n+1)
		}
		for _, what := range d.Unreadable(m) {
			a.Findings = append(a.Findings, Finding{Kind: "crowded", What: on + what,
				Remedy: "move it, or have the way cleared where the sheet is laid out", Faces: []address.Ref{},
				Characteristics: []string{}})
		}
	}
}

// loose lists what is missing, as an exercise keeps it.
func (a *Audited) loose() []exercise.Loose {
	var out []exercise.Loose
	for _, f := range a.Findings {
		if f.Kind != "missing" {
			continue
		}
		l := exercise.Loose{What: f.What}
		if f.Add != nil {
			l.Kind, l.Of = f.Add.Kind, f.Add.Of
		}
		out = append(out, l)
	}
	return out
}

// Addition is a characteristic that can be added: its faces have their names in the reference.
type Addition struct {
	Kind  string          `json:"kind"`
	Label string          `json:"label"`
	Of    [][]address.Ref `json:"of"`
}

// Audit audits the sheet of an exercise. Called are the faces of the reference in words, and seen those that a view
// shows as a visible edge: nil where the views have not been looked at, of which nothing is said then.
func Audit(geo *solid.Geometry, ex *exercise.Exercise, called []string, seen map[int]bool) (*Audited, error) {
	r, err := audit.Of(geo, ex)
	if err != nil {
		return nil, err
	}
	a := auditing{geo, ex, called}
	out := &Audited{Findings: []Finding{}, Sizes: r.Sizes, Stated: r.Stated, BySymmetry: r.BySymmetry,
		Symmetric: []Evidence{}, Read: []Evidence{}}
	for i := range r.Missing {
		out.Findings = append(out.Findings, a.missing(&r.Missing[i]))
	}
	for _, c := range r.Contradicting {
		of := ex.Characteristic(c.Characteristic)
		remedy := "make the places that differ a characteristic of their own, or change the reference"
		if of.Stated != "" {
			remedy = "print what the part has, or change the reference"
		}
		out.Findings = append(out.Findings, Finding{Kind: "contradicting", What: fmt.Sprintf("“%s”: %s", of.Label, c.What),
			Remedy: remedy, Faces: []address.Ref{}, Characteristics: []string{c.Characteristic}})
	}
	for _, x := range r.Rounded {
		out.Findings = append(out.Findings, a.rounded(x))
	}
	for _, t := range r.Twice {
		out.Findings = append(out.Findings, a.twice(t))
	}
	for _, id := range r.Through {
		out.Findings = append(out.Findings, Finding{Kind: "unseen",
			What:   fmt.Sprintf("“%s” is a depth, and what it is of breaks through", ex.Characteristic(id).Label),
			Remedy: "leave it out: a view shows that it goes through", Faces: []address.Ref{}, Characteristics: []string{id}})
	}
	if seen != nil {
		hidden, err := audit.Unseen(geo, ex, seen)
		if err != nil {
			return nil, err
		}
		for _, h := range hidden {
			out.Findings = append(out.Findings, a.unseen(h))
		}
	}
	out.Findings = append(out.Findings, a.unjudged(r)...)
	out.Findings = append(out.Findings, absent(ex)...)
	for _, e := range r.Symmetric {
		out.Symmetric = append(out.Symmetric, a.evidence(e))
	}
	for _, e := range r.Read {
		out.Read = append(out.Read, a.evidence(e))
	}
	return out, nil
}

// auditing puts into words what an audit has found.
type auditing struct {
	geo    *solid.Geometry
	ex     *exercise.Exercise
	called []string
}

// absent lists what a title block must say for the sheet to be read, and does not.
func absent(ex *exercise.Exercise) []Finding {
	var out []Finding
	see := func(is bool, what, remedy string) {
		if is {
			out = append(out, Finding{Kind: "absent", What: what, Remedy: remedy, Faces: []address.Ref{},
				Characteristics: []string{}})
		}
	}
	see(strings.TrimSpace(ex.Material) == "", "no material is stated", "write it into the title block")
	see(ex.General.Kind == "", "no general tolerance is stated", "choose one for the whole sheet")
	for _, s := range ex.Sheets {
		see(s.Projection != "first" && s.Projection != "third", "it is not said in which projection the views are laid out",
			"choose first or third angle")
		see(s.Scale == "", "no scale is stated", "give the sheet a scale")
	}
	return out
}

// evidence says what is read of two faces, or of one that it is of alone.
func (a *auditing) evidence(e audit.Evidence) Evidence {
	out := Evidence{Words: a.called[e.A] + " and " + a.called[e.B] + ": " + e.What,
		Evidence: exercise.Evidence{What: e.What}}
	if e.A == e.B {
		out.Words = a.called[e.A] + ": " + e.What
	}
	for _, f := range []int{e.A, e.B} {
		if len(a.geo.Names[f]) > 0 {
			out.Of = append(out.Of, address.Ref{Name: a.geo.Address(f)})
		}
	}
	return out
}

func (a *auditing) missing(m *audit.Missing) Finding {
	f := Finding{Kind: "missing", What: a.called[m.Face] + " " + m.How, Remedy: "state what holds it",
		Faces: address.Faces(m.Faces), Characteristics: []string{}, Motion: &m.Motion}
	if m.Propose == nil {
		return f
	}
	kind := characteristic.Of(m.Propose.Kind)
	label, on := sizeOf(m.Propose.Kind, m.Propose.Places[0], a.called)
	f.Remedy = "state the " + kind.Title + " of " + strings.Join(on, " and ")
	if kind.Span {
		f.Remedy = "state the " + kind.Title + " from " + strings.Join(on, " to ")
	}
	if n := len(m.Propose.Places); n > 1 {
		f.Remedy += fmt.Sprintf(" and the %d like it", n-1)
	}
	add := &Addition{Kind: m.Propose.Kind, Label: label}
	for _, p := range m.Propose.Places {
		var place []address.Ref
		for _, operand := range p {
			var names []string
			for _, face := range operand {
				if len(a.geo.Names[face]) == 0 {
					return f // nothing that it could be called by in a document
				}
				names = append(names, a.geo.Address(face))
			}
			place = append(place, address.Ref{Name: strings.Join(names, " & ")})
		}
		add.Of = append(add.Of, place)
	}
	f.Add = add
	return f
}

// sizeOf is what a size is called that is measured at a place, and what it is measured on.
func sizeOf(kind string, place characteristic.Place, called []string) (label string, on []string) {
	for _, operand := range place {
		words := called[operand[0]]
		if len(operand) == 2 {
			words = "line where the " + words + " meets the " + called[operand[1]]
		}
		on = append(on, words)
	}
	title := characteristic.Of(kind).Title
	if of := characteristic.Of(kind); of.Around && of.Repeated != nil {
		on = []string{on[0], fmt.Sprintf("the %d around it", len(of.Repeated(place)))}
	}
	return strings.ToUpper(title[:1]) + title[1:] + ", " + strings.Join(on, " – "), on
}

// rounded says by how much a face stands off where every size is as it is printed.
func (a *auditing) rounded(x audit.Rounded) Finding {
	var sizes []string
	for _, id := range x.Of {
		sizes = append(sizes, "“"+a.ex.Characteristic(id).Label+"”")
	}
	return Finding{Kind: "rounded", What: fmt.Sprintf("at the sizes as they are printed, %s stands off by %s",
		a.called[x.Face], a.length(x.By)), Remedy: "print more places of " + listed(sizes) + ", or state them from one face",
		Faces: address.Faces([]int{x.Face}), Characteristics: x.Of}
}

// length writes a length in the unit of the sheet.
func (a *auditing) length(v float64) string {
	u := a.ex.LengthUnit()
	return strconv.FormatFloat(v/u.Factor, 'g', 2, 64) + " " + u.Symbol
}

// unseen says which faces of a characteristic no view shows.
func (a *auditing) unseen(h audit.Hidden) Finding {
	var faces []string
	for _, f := range h.Faces {
		if !slices.Contains(faces, a.called[f]) {
			faces = append(faces, a.called[f])
		}
	}
	what := fmt.Sprintf("“%s”: no view shows %s as a visible edge", a.ex.Characteristic(h.Characteristic).Label,
		listed(faces))
	return Finding{Kind: "unseen", What: what,
		Remedy: "cut a view through it: laying the sheet out anew does that where it helps",
		Faces:  address.Faces(h.Faces), Characteristics: []string{h.Characteristic}}
}

// unjudged says of what an audit can say nothing.
func (a *auditing) unjudged(r *audit.Result) []Finding {
	var what string
	switch n := len(r.Unjudged); {
	case r.TooMany > 0:
		what = fmt.Sprintf("the part has %d surfaces, and it can be judged of %d at most whether the sheet determines them",
			r.TooMany, audit.Most)
	case n == 1:
		what = a.called[r.Unjudged[0]] + " is of free form, and it cannot be judged whether the sheet determines it"
	case n > 1:
		what = fmt.Sprintf("%d faces are of free form, and it cannot be judged whether the sheet determines them", n)
	default:
		return nil
	}
	return []Finding{{Kind: "unjudged", What: what, Remedy: "see to it yourself that the sheet says all of it",
		Faces: address.Faces(r.Unjudged), Characteristics: []string{}}}
}

func (a *auditing) twice(t audit.Twice) Finding {
	var labels []string
	for _, id := range t.Of {
		labels = append(labels, "“"+a.ex.Characteristic(id).Label+"”")
	}
	last := labels[len(labels)-1]
	what := last + " says nothing new"
	if n := len(labels); n > 1 {
		what = fmt.Sprintf("%s follows from %s", last, listed(labels[:n-1]))
	}
	return Finding{Kind: "twice", What: what, Remedy: "leave one of them out, or put it in parentheses",
		Faces: []address.Ref{}, Characteristics: t.Of}
}

// listed lists words as a sentence does.
func listed(list []string) string {
	if len(list) < 2 {
		return strings.Join(list, "")
	}
	return strings.Join(list[:len(list)-1], ", ") + " and " + list[len(list)-1]
}

// Called calls the faces of a reference by what they are.
func Called(names [][]string, geo *solid.Geometry, titles map[string]string, unit string) []string {
	first := make([]string, len(geo.Faces))
	for i := range first {
		if len(names[i]) > 0 {
			first[i] = names[i][0]
		}
	}
	return words.NewNamer(titles, unit).Faces(first, geo.Faces)
}
