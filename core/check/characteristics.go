package check

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/characteristic"
	"hammerset/core/exercise"
	"hammerset/core/inspect"
	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/core/solid"
)

// Each characteristic is measured on the faces of the attempt that were matched
// to the faces that it is on in the reference. The sheet's rounded value, and
// not the exact one of the reference, is what it is judged by: the student has
// only the sheet.

// Unstated says why a sheet cannot state a characteristic.
type Unstated struct {
	ID  string
	Why error
}

// Error names the characteristic, which Why does not.
func (u *Unstated) Error() string { return fmt.Sprintf("characteristic %s: %v", u.ID, u.Why) }

// Unwrap gives the reason.
func (u *Unstated) Unwrap() error { return u.Why }

// Nominal gives the places of a characteristic on the reference and its value
// as the sheet states it.
//
// A characteristic that asks for zero (flatness, concentricity) has the
// reference checked as well: one that is off by itself would mark every right
// answer wrong.
func Nominal(ref *solid.Geometry, ex *exercise.Exercise, c *exercise.Characteristic) ([]characteristic.Place,
	characteristic.Stated, error) {
	kind := c.Declared()
	switch {
	case kind.Whole() && kind.Worded():
		return nil, characteristic.Stated{Text: c.Text}, nil
	case kind.Whole():
		w, err := whole(ex, c, max(1, ex.Solids), ref.Props.Volume)
		return nil, ex.StatedOf(c, kind.OfWhole(w)), err
	}
	places, err := inspect.Places(ref, c)
	if err != nil {
		return nil, characteristic.Stated{}, err
	}
	if kind.Worded() {
		return places, characteristic.Stated{Text: c.Text}, nil
	}
	v, err := inspect.Measure(ref, c, places[0])
	if err != nil {
		return nil, characteristic.Stated{}, &Unstated{c.ID, fmt.Errorf("it cannot be measured on the reference: %w", err)}
	}
	if kind.Zero() {
		// The sheet asks for none: a reference that has some is at fault.
		if v > 1e-4 {
			return nil, characteristic.Stated{}, &Unstated{c.ID, fmt.Errorf("the reference itself is not %s; it is off by %s",
				kind.Title, ex.StateOf(kind, v).Text)}
		}
		v = 0
	}
	out := ex.StatedOf(c, v)
	if kind.Leg != nil {
		out.Leg = kind.Leg(ref, places[0])
	}
	out.Inner = kind.Outside != nil && !kind.Outside(ref, places[0])
	return places, out, nil
}

// whole is what is known of a whole part, with the density where the kind needs it.
//
// A part of several solids is measured as all of them together.
func whole(ex *exercise.Exercise, c *exercise.Characteristic, solids int,
	volume float64) (characteristic.Whole, error) {
	w := characteristic.Whole{Solids: solids, Volume: volume}
	var err error
	if c.Declared().Density {
		w.Density, err = ex.GramsPerMM3()
	}
	return w, err
}

// asked is what the sheet asks of a characteristic: its places on the reference, the value that it
// states and the allowed deviations below and above it.
type asked struct {
	*exercise.Characteristic
	kind        *characteristic.Kind
	places      []characteristic.Place
	stated      characteristic.Stated
	minus, plus float64
}

// asks gives what the sheet asks of a characteristic.
func (r *frame) asks(c *exercise.Characteristic) (*asked, error) {
	places, stated, err := Nominal(r.ref, r.ex, c)
	if err != nil {
		return nil, err
	}
	minus, plus, err := r.ex.Limits(c, stated)
	if err != nil {
		return nil, fmt.Errorf("characteristic %s: %w", c.ID, err)
	}
	kind := c.Declared()
	if kind.Whole() {
		places = []characteristic.Place{nil}
	}
	return &asked{c, kind, places, stated, minus, plus}, nil
}

// characteristic measures and judges one characteristic, on the faces that were matched.
func (r *frame) characteristic(c *exercise.Characteristic) (*row, error) {
	a, err := r.asks(c)
	if err != nil {
		return nil, err
	}
	surplus := 0
	if !a.kind.Whole() && !a.kind.Counts {
		surplus = len(r.surplus(c, a.places)) - r.lacking(c, a.places)
	}
	return r.judge(a, a.places, surplus).first(), nil
}

// judge measures a characteristic at places of the reference that the attempt was matched to, which need not
// be the one of the exercise: a place that this one has not is nil. surplus is how many instances
// there are too many.
//
// All places of a note are judged, and the one farthest off is shown. A place is
// in when its deviation lies within the limits, ends included, with a millionth
// of a millimetre for what the kernel leaves. More or fewer instances than the
// note says make it out, even where each that is there measures right.
func (r *frame) judge(a *asked, places []characteristic.Place, surplus int) *row {
	c, kind, stated := a.Characteristic, a.kind, a.stated
	row := &row{Characteristic: report.Characteristic{ID: c.ID, Balloon: c.Balloon, Kind: c.Kind, Label: c.Label,
		Weight:  c.Weighs(),
		Nominal: Shown(c, stated.Value), NominalText: stated.Text, Lower: Shown(c, stated.Value-a.minus),
		Upper: Shown(c, stated.Value+a.plus)}}
	row.LimitsText = fmt.Sprintf("%s … %s", r.number(c.Kind, stated.Value-a.minus),
		r.number(c.Kind, stated.Value+a.plus))
	switch {
	case kind.Zero():
		row.Lower, row.LimitsText = 0, "at most "+r.number(c.Kind, a.plus)
	case kind.Worded() || kind.Dim == quantity.Number && kind.Shown == nil:
		row.LimitsText = stated.Text
	}
	worst := -1.0
	for k, p := range places {
		out := report.Place{Verdict: report.NotFound}
		mine := r.mine(p)
		out.ReferenceFaces, out.AttemptFaces = address.Faces(a.places[k].Faces()), address.Faces(mine)
		if kind.Worded() {
			r.worded(c, row, &out, mine)
			row.Places = append(row.Places, out)
			continue
		}
		v, err := r.measure(c, p)
		var amiss *characteristic.Amiss
		switch {
		case err == nil:
			dev := v - stated.Value
			out.Verdict = report.Out
			// A millionth of a millimetre is the kernel's, not the student's.
			if dev >= -a.minus-1e-6 && dev <= a.plus+1e-6 {
				out.Verdict = report.In
			}
			s := Shown(c, v)
			out.Measured = &s
			if math.Abs(dev) > worst {
				worst = math.Abs(dev)
				d := Shown(c, dev)
				row.Measured, row.Deviation = &s, &d
				row.MeasuredText, row.DeviationText = r.number(c.Kind, v), r.signed(c.Kind, dev)
			}
		case errors.As(err, &amiss):
			out.Verdict, row.Reason = report.Out, amiss.What
		case row.Reason == "":
			row.Reason = err.Error()
		}
		row.Places = append(row.Places, out)
	}
	row.Verdict = overall(row.Places)
	if surplus != 0 {
		n := instances(c, a.places)
		row.Surplus, row.Reason = surplus, fmt.Sprintf("there are %d, and the sheet asks for %d", n+surplus, n)
		if row.Verdict == report.In {
			row.Verdict = report.Out
		}
	}
	r.numbered(row, instances(c, a.places))
	return row
}

// numbered says of what measures right wherever it is, and is there at more or fewer places than the note
// asks for, at how many: "9 at 5 of 6", and not "9" beside a verdict of out.
func (r *frame) numbered(row *row, asked int) {
	missing := 0
	for _, p := range row.Places {
		switch p.Verdict {
		case report.NotFound:
			missing++
		case report.Out, report.Ask:
			return
		}
	}
	there := asked - missing + row.Surplus
	switch {
	case row.Measured == nil:
	case there < asked:
		row.MeasuredText += fmt.Sprintf(" at %d of %d", there, asked)
		row.DeviationText = fmt.Sprintf("%d missing", asked-there)
		row.Reason = fmt.Sprintf("there are %d, and the sheet asks for %d", there, asked)
	case there > asked:
		row.MeasuredText += fmt.Sprintf(" at %d, not %d", there, asked)
		row.DeviationText = fmt.Sprintf("%d too many", there-asked)
	}
}

// mine lists the faces of the attempt that match those of a place.
func (r *frame) mine(p characteristic.Place) []int {
	var out []int
	for _, f := range p.Faces() {
		if m := r.match.Of[f]; m >= 0 {
			out = append(out, m)
		}
	}
	return out
}

// first notes the judgement by what was measured.
//
// Later stages add their judgements to this one.
func (w *row) first() *row {
	why := w.Reason
	if why == "" {
		why = "it measures " + w.MeasuredText + ", and the limits are " + w.LimitsText
	}
	w.trace = []report.Judgement{{Characteristic: w.ID, Balloon: w.Balloon, Stage: byMeasuring,
		Verdict: w.Verdict, Why: why}}
	return w
}

// repeats tells whether a characteristic is measured on all instances of a feature at once.
//
// A bolt circle is one characteristic of all of its holes.
func repeats(k *characteristic.Kind) bool { return k.Repeated != nil && !k.Counts }

// lacking is how many instances that such a characteristic is measured on are not there.
//
// They are counted per hole and not per place: the place is the whole circle.
func (r *frame) lacking(c *exercise.Characteristic, places []characteristic.Place) int {
	n := 0
	if repeats(c.Declared()) {
		for _, p := range places {
			for _, f := range holesOf(c, p) {
				if r.match.Of[f] < 0 {
					n++
				}
			}
		}
	}
	return n
}

// worded judges a text of the sheet: a thread, or the material. A file of plain geometry
// cannot say it, and then a person must.
//
// A model document says threads and materials; a STEP file of plain geometry
// cannot, so that saying nothing is no mistake there and a person has to look.
func (r *frame) worded(c *exercise.Characteristic, row *row, out *report.Place, mine []int) {
	var said []string
	switch kind := c.Declared(); {
	case kind.Whole():
		said = kind.Said(r.att, -1)
	case len(mine) == 0:
		row.Reason = "the model has no face that matches it"
		return
	default:
		said = kind.Said(r.att, mine[0])
	}
	switch {
	case !r.att.Noted:
		out.Verdict, row.Reason = report.Ask, "a file of plain geometry does not say it"
	case len(said) == 0:
		out.Verdict, row.Reason = report.Out, "the model says nothing of it"
	default:
		out.Verdict = report.In
		for _, s := range said {
			row.MeasuredText = s
			if plain(s) != plain(c.Text) {
				out.Verdict = report.Out
				break
			}
		}
	}
}

// plain is a text without case and spaces, and with one sign for times.
//
// M8×1 and m8 x 1 are one thread; a decimal comma is one.
func plain(s string) string {
	return strings.ToLower(strings.NewReplacer(" ", "", "×", "x", ",", ".").Replace(s))
}

// instances is how many places a note covers: of a bolt circle, its holes.
func instances(c *exercise.Characteristic, places []characteristic.Place) int {
	n := len(places)
	if c.Declared().Repeated != nil {
		n = 0
		for _, p := range places {
			n += len(holesOf(c, p))
		}
	}
	return n
}

// holesOf lists the faces of the repeated feature of a place.
func holesOf(c *exercise.Characteristic, p characteristic.Place) []int {
	if of := c.Declared().Repeated; of != nil {
		return of(p)
	}
	return p.Faces()
}

// surplus lists the faces of instances beyond those that a note of several covers.
//
// A count of one has no surplus: a second bore of that size elsewhere may be
// another note's.
func (r *frame) surplus(c *exercise.Characteristic, places []characteristic.Place) []int {
	if kind := c.Declared(); !kind.Surplus || instances(c, places) < 2 && !kind.Counts {
		return nil
	}
	var matched []int
	for _, p := range places {
		for _, f := range holesOf(c, p) {
			if m := r.match.Of[f]; m >= 0 {
				matched = append(matched, m)
			}
		}
	}
	return r.match.Surplus(r.att, matched)
}

// measure measures one place on the faces of the attempt that match it.
//
// Counted instances are those matched and those beyond. What is missing of a
// ring does not keep the others from being measured; fewer than two give no
// circle.
func (r *frame) measure(c *exercise.Characteristic, p characteristic.Place) (float64, error) {
	kind := c.Declared()
	switch {
	case kind.Counts: // those that are there, and those beyond
		n := 0
		for _, f := range p.Faces() {
			if r.match.Of[f] >= 0 {
				n++
			}
		}
		return float64(n + len(r.surplus(c, []characteristic.Place{p}))), nil
	case kind.Whole():
		w, err := whole(r.ex, c, r.solids(), r.att.Props.Volume)
		return kind.OfWhole(w), err
	case p == nil:
		return 0, errNoFace
	}
	// Of what is repeated those that are there are measured, be they one operand (a pattern) or one for each.
	var several []int
	if repeats(kind) {
		several = holesOf(c, p)
	}
	var mine characteristic.Place
	there := 0
	for _, operand := range p {
		var list []int
		for _, f := range operand {
			m, one := r.match.Of[f], slices.Contains(several, f)
			switch {
			case m < 0 && one:
				continue
			case m < 0:
				return 0, errNoFace
			case one:
				there++
			}
			list = append(list, m)
		}
		if len(list) > 0 {
			mine = append(mine, list)
		}
	}
	if repeats(kind) { // with those that are too many, as they are there
		if there < 2 {
			return 0, errNoFace
		}
		mine[len(mine)-1] = append(mine[len(mine)-1], r.surplus(c, []characteristic.Place{p})...)
	}
	return inspect.Measure(r.att, c, mine)
}

// errNoFace says that a place is not there.
var errNoFace = errors.New("the model has no face that matches it")

// number writes a measured value of a kind of characteristic in the sheet's unit, with one
// decimal more than the sheet.
func (r *frame) number(kind string, v float64) string {
	k := characteristic.Of(kind)
	if k.Shown != nil {
		return k.Shown(v)
	}
	return r.ofDim(k.Dim, v)
}

// ofDim writes a value of a dimension in the sheet's unit.
func (r *frame) ofDim(dim quantity.Dim, v float64) string {
	return quantity.MeasuredFormat(r.ex.LengthUnit()).Text(quantity.Quantity{Value: v, Dim: dim})
}

// signed writes a deviation with its sign; what rounds to nothing has none.
func (r *frame) signed(kind string, v float64) string {
	s := r.number(kind, v)
	if v > 0 && s != "0" && s != "0°" {
		return "+" + s
	}
	return s
}

// overall is the verdict of all places: any place not found or out decides.
//
// Not found comes before out, and out before ask: the worst is what is put right
// first.
func overall(places []report.Place) report.Verdict {
	v := report.In
	for _, p := range places {
		switch {
		case p.Verdict == report.NotFound:
			return report.NotFound
		case p.Verdict == report.Out:
			v = report.Out
		case p.Verdict == report.Ask && v == report.In:
			v = report.Ask
		}
	}
	return v
}
