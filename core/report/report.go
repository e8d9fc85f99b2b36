// Package report defines the check report: what one inspection of an attempt
// found, in figures and in words.
package report

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"hammerset/core/address"
	"hammerset/core/quantity"
)

// Version is the document version of the report; reports of report/1, which have the numbers of
// faces alone, are read as well. Checker counts changes of the
// check that can change a verdict.
const (
	Version = "report/2"
	Checker = "11"
)

// Verdict is the judgement on a characteristic.
type Verdict string

// The four verdicts.
const (
	In       Verdict = "in"
	Out      Verdict = "out"
	NotFound Verdict = "not found"
	Ask      Verdict = "ask"
)

// Report is the whole outcome of one check.
type Report struct {
	Hammerset       string           `json:"hammerset"`
	Checker         string           `json:"checker"`
	Exercise        string           `json:"exercise"`
	Unit            string           `json:"unit"`
	Attempt         Attempt          `json:"attempt"`
	Scale           *Scale           `json:"scale,omitempty"`
	Pose            *Pose            `json:"pose,omitempty"`
	Characteristics []Characteristic `json:"characteristics"`
	Whole           []Figure         `json:"whole"`
	Steps           []Step           `json:"steps"`
	Sketches        []Sketch         `json:"sketches"`
	Sweep           []Sweep          `json:"sweep"`
	WhatIfs         []WhatIf         `json:"whatIfs,omitempty"`
	Practice        []Practice       `json:"practice,omitempty"`
	Causes          []Cause          `json:"causes"`
	Sought          bool             `json:"sought,omitempty"` // causes were looked for
	Explained       bool             `json:"explained"`        // the causes explain the attempt to the last figure
	Difference      *Difference      `json:"difference,omitempty"`
	// Another is the exercise whose part it is, where it is not that of this one.
	Another string `json:"another,omitempty"`
	// Assembly is what there is to say of an assembly; nil of one part.
	Assembly *OfAssembly `json:"assembly,omitempty"`
	Findings []Finding   `json:"findings"`
	Marks    []Mark      `json:"marks"`
	Points   float64     `json:"points"`
	OutOf    float64     `json:"outOf"`
	// Trace is which stage of the check set every verdict, and why, where it was asked for.
	Trace []Judgement `json:"trace,omitempty"`
}

// Judgement is the verdict that a stage of the check gave a characteristic, and why. A later one of
// the same characteristic takes the place of an earlier one.
type Judgement struct {
	Characteristic string  `json:"characteristic"`
	Balloon        int     `json:"balloon"`
	Stage          string  `json:"stage"`
	Verdict        Verdict `json:"verdict"`
	Carried        bool    `json:"carried,omitempty"`
	Why            string  `json:"why"`
}

// Attempt says what was checked.
type Attempt struct {
	Kind       string  `json:"kind"` // model or step
	Name       string  `json:"name"`
	Schema     string  `json:"schema,omitempty"`
	FileUnit   float64 `json:"fileUnit,omitempty"` // mm
	Solids     int     `json:"solids"`
	Faces      int     `json:"faces"`
	Shells     int     `json:"openShells,omitempty"`
	Components int     `json:"components,omitempty"`
	// Reference: it is the reference of the exercise itself.
	Reference bool `json:"reference,omitempty"`
	// Names are those of the products in the file; Notes is what its intake has to say.
	Names   []string     `json:"names,omitempty"`
	Colours int          `json:"colours,omitempty"`
	Notes   []IntakeNote `json:"notes,omitempty"`
}

// IntakeNote is something about the file itself: a gap that was closed, a copy, a crumb.
type IntakeNote struct {
	Kind   string `json:"kind"`
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

// Scale is set where the attempt was made in the wrong unit: its sizes times
// Factor agree with the sheet.
type Scale struct {
	Factor float64 `json:"factor"`
	Words  string  `json:"words"`
}

// Pose says how the attempt lay against the reference.
type Pose struct {
	AsModeled bool    `json:"asModeled"`
	Mirrored  bool    `json:"mirrored"`
	Angle     float64 `json:"angle"` // degrees
	Shift     float64 `json:"shift"` // mm
	Words     string  `json:"words"`
}

// Characteristic is the judgement on one characteristic. Values are in mm or
// degrees; the texts are as the sheet writes them.
type Characteristic struct {
	ID            string   `json:"id"`
	Balloon       int      `json:"balloon"`
	Item          string   `json:"item,omitempty"` // of an assembly: the number of the item whose part it is of
	Kind          string   `json:"kind"`
	Label         string   `json:"label"`
	Nominal       float64  `json:"nominal"`
	NominalText   string   `json:"nominalText"`
	Lower         float64  `json:"lower"`
	Upper         float64  `json:"upper"`
	LimitsText    string   `json:"limitsText"`
	Measured      *float64 `json:"measured,omitempty"`
	MeasuredText  string   `json:"measuredText,omitempty"`
	Deviation     *float64 `json:"deviation,omitempty"`
	DeviationText string   `json:"deviationText,omitempty"`
	Verdict       Verdict  `json:"verdict"`
	Reason        string   `json:"reason,omitempty"`
	Places        []Place  `json:"places"`
	// Surplus is how many instances of the feature there are beyond those that the sheet asks for;
	// below zero, how many are not there.
	Surplus int     `json:"surplus,omitempty"`
	Weight  float64 `json:"weight"`
	// Behind: it hangs on a cause that is named elsewhere. Carried: it is out for that
	// reason alone, and costs nothing.
	Behind  bool `json:"behind,omitempty"`
	Carried bool `json:"carried,omitempty"`
	// ChargedIn is, of an assembly, the part of the rubric in which what is behind it counts: where that gives points, it
	// costs nothing here.
	ChargedIn string `json:"chargedIn,omitempty"`
}

// Difference says what an attempt has in other places than the sheet's part with the causes in it, where those do not
// explain all: the features of that part that the attempt lacks, by what they are alone, and those that it has
// instead, with their sizes and places.
type Difference struct {
	Missing []string `json:"missing"`
	Extra   []string `json:"extra"`
	// Faces are those of the attempt that lie elsewhere.
	Faces []address.Ref `json:"faces,omitempty"`
}

// Cause is one thing that is behind the attempt: a size (with the characteristic that
// shows it) or a mistake of the atlas. Also lists the balloons that hang on it.
type Cause struct {
	Kind           string `json:"kind"`
	Characteristic string `json:"characteristic,omitempty"`
	Balloon        int    `json:"balloon,omitempty"`
	Value          string `json:"value,omitempty"`
	Parameter      string `json:"parameter,omitempty"` // of the reference, for the instructor
	What           string `json:"what"`
	Cause          string `json:"cause,omitempty"`
	Remedy         string `json:"remedy,omitempty"`
	Sure           string `json:"sure"`
	Also           []int  `json:"also"`
}

// Place is one place of a characteristic with what was measured there: the faces of the reference
// and those of the attempt that match them, each by its number in the file that was checked.
type Place struct {
	Measured       *float64      `json:"measured,omitempty"`
	Verdict        Verdict       `json:"verdict"`
	ReferenceFaces []address.Ref `json:"referenceFaces,omitempty"`
	AttemptFaces   []address.Ref `json:"attemptFaces,omitempty"`
}

// Figure is a whole-part figure.
type Figure struct {
	ID        string   `json:"id"`
	Label     string   `json:"label"`
	Reference *float64 `json:"reference,omitempty"`
	Measured  float64  `json:"measured"`
	Text      string   `json:"text"`
	Verdict   Verdict  `json:"verdict"`
	Deviation string   `json:"deviation,omitempty"`
	Carried   bool     `json:"carried,omitempty"` // out only because of sizes that are wrong already
	// Extra figures are for the instructor to see and count for no points: they tell of the
	// reference.
	Extra bool `json:"extra,omitempty"`
}

// Step is a step of the attempt that failed or deserves a warning.
type Step struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Kind    string `json:"kind"`
	Failed  bool   `json:"failed"`
	Unsound bool   `json:"unsound,omitempty"` // it makes a solid that is not sound
	Message string `json:"message"`
}

// UnmarshalJSON reads a step, also of a report of an earlier checker, which told only in words
// that a solid is not sound.
func (s *Step) UnmarshalJSON(data []byte) error {
	type plain Step
	if err := json.Unmarshal(data, (*plain)(s)); err != nil {
		return err
	}
	s.Unsound = s.Unsound || strings.HasPrefix(s.Message, "the solid is not sound: ")
	return nil
}

// Sketch is the health of one sketch of the attempt. Notes says in words what
// contradicts, what is spare, and what makes it weak.
type Sketch struct {
	Step      string     `json:"step"`
	Name      string     `json:"name"`
	Freedom   int        `json:"freedom"`
	Loose     []string   `json:"loose"`
	Spare     []string   `json:"spare"`
	Conflicts [][]string `json:"conflicts"`
	Problems  []string   `json:"problems"`
	Held      bool       `json:"held"`
	Notes     []Note     `json:"notes"`
	Intervals []Interval `json:"intervals"`
}

// Note is one thing to say about a sketch. Quality notes are about how well it is
// made and not about whether it stands.
type Note struct {
	Kind    string `json:"kind"`
	What    string `json:"what"`
	Remedy  string `json:"remedy"`
	Quality bool   `json:"quality"`
}

// Interval is how far a driving parameter of the attempt can be varied before a
// sketch ends. Reference has that of the reference's sketches, where the
// parameters correspond.
type Interval struct {
	Parameter string             `json:"parameter"`
	Nominal   string             `json:"nominal"`
	Low       IntervalEnd        `json:"low"`
	High      IntervalEnd        `json:"high"`
	Reference *ReferenceInterval `json:"reference,omitempty"`
}

// IntervalEnd is one end of an interval. Open: the sketch still holds where the
// search ended. Early: the part itself, as the reference has it, holds further.
type IntervalEnd struct {
	Value string `json:"value"`
	Open  bool   `json:"open"`
	Why   string `json:"why,omitempty"`
	Early bool   `json:"early"`
}

// ReferenceInterval is the interval of the reference.
type ReferenceInterval struct {
	Low      string `json:"low"`
	High     string `json:"high"`
	LowOpen  bool   `json:"lowOpen"`
	HighOpen bool   `json:"highOpen"`
}

// Outcomes of one case of a sweep.
const (
	Follows  = "follows"  // agrees with the reference at the same value
	Differs  = "differs"  // rebuilds, but differs from the reference
	Still    = "still"    // does not react at all
	Breaks   = "breaks"   // a step fails, where the reference rebuilds
	BothEnd  = "both end" // the reference fails there too
	Missing  = "missing"  // the attempt has no such parameter
	NoAnswer = "ask"
)

// Sweep is one case of varying a driving parameter.
type Sweep struct {
	Parameter string  `json:"parameter"`
	Match     string  `json:"match"` // how the attempt's parameter was found: name, value, value and effect, or none
	Attempt   string  `json:"attempt,omitempty"`
	Percent   float64 `json:"percent"`
	Value     string  `json:"value"`
	Outcome   string  `json:"outcome"`
	Detail    string  `json:"detail,omitempty"`
	// What explains it: the half that does not follow its other half, and where the
	// value stands as a plain number.
	Half string `json:"half,omitempty"`
	// Slides: it follows and yet moves otherwise than the reference, as Detail says.
	Slides bool     `json:"slides,omitempty"`
	Typed  []string `json:"typed,omitempty"`
	// Behind is what was shown to keep the attempt from following: put right, it follows. Strays are the
	// characteristics on which it shows.
	Behind *Behind `json:"behind,omitempty"`
	Strays []Stray `json:"strays,omitempty"`
}

// Kinds of what is behind a size that is not followed.
const (
	Number = "number" // a number stands where the size should
	Twin   = "twin"   // another parameter of the same value does
	Tied   = "tied"   // a formula hangs on the size that should not
	Depth  = "depth"  // a cut has a typed depth and should go through
)

// Behind is what keeps an attempt from following a size, and where in the attempt it stands.
type Behind struct {
	Kind  string   `json:"kind"`
	Where []string `json:"where"`
}

// Words says what is behind it.
func (b *Behind) Words() string {
	where := quantity.List(b.Where, 4)
	switch b.Kind {
	case Twin:
		return "another parameter of the same value stands in its place: " + where
	case Tied:
		return "a size hangs on it that should have a value of its own: " + where
	case Depth:
		return "a cut has a typed depth and should go through: " + where
	}
	return "a number was typed where it should follow: " + where
}

// Stray is a characteristic that does not do what it should when a size changes: it should follow the size, or stay
// as it is.
type Stray struct {
	Characteristic string `json:"characteristic"`
	Balloon        int    `json:"balloon"`
	Label          string `json:"label"`
	Follow         bool   `json:"follow"`
}

// Practice is one rule of good practice and how far a model keeps it, from 0 to 1.
type Practice struct {
	ID     string  `json:"id"`
	Label  string  `json:"label"`
	Share  float64 `json:"share"`
	Detail string  `json:"detail"`
}

// WhatIf is how the file that was handed in for a what-if came out; Balloons did not follow.
type WhatIf struct {
	Name     string `json:"name"`
	Outcome  string `json:"outcome"`
	Detail   string `json:"detail,omitempty"`
	Balloons []int  `json:"balloons"`
}

// Finding is one thing the check has to say.
type Finding struct {
	ID             string `json:"id"`
	Kind           string `json:"kind"`
	Characteristic string `json:"characteristic,omitempty"`
	Balloon        int    `json:"balloon,omitempty"`
	Item           string `json:"item,omitempty"` // of an assembly: the number of the item
	Step           string `json:"step,omitempty"`
	Where          string `json:"where"`
	What           string `json:"what"`
	Cause          string `json:"cause,omitempty"`
	Remedy         string `json:"remedy"`
	Sure           string `json:"sure"` // certain, likely or possible
	// Faces of the attempt are what it speaks of, where no balloon is on them.
	Faces []address.Ref `json:"faces,omitempty"`

	key, was string // where the words have been changed for a student
}

// Label is what the cause of a finding is told under: as sure as it is.
func (f *Finding) Label() string {
	if f.Sure == "certain" {
		return "Behind it"
	}
	return "Likely behind it"
}

// Key is the same for the same thing found in several attempts: of its kind at the same characteristic, whatever the
// figures are, or where it is at none, told in the same words but for figures.
func (f *Finding) Key() string {
	if f.key != "" {
		return f.key
	}
	if f.Characteristic != "" {
		return f.keyed(f.Characteristic)
	}
	return f.keyed(f.Where + "\x00" + figures.ReplaceAllString(f.What, "#"))
}

// Was is the key that the finding had when figures went into it: what was said of it then hangs on that.
func (f *Finding) Was() string {
	if f.was != "" {
		return f.was
	}
	where := f.Characteristic
	if where == "" {
		where = f.Where
	}
	return f.keyed(where + "\x00" + f.What + "\x00" + f.Cause)
}

func (f *Finding) keyed(of string) string {
	sum := sha256.Sum256([]byte(f.Kind + "\x00" + of))
	return f.Kind + ":" + hex.EncodeToString(sum[:8])
}

// figures are those that findings of one kind differ in.
var figures = regexp.MustCompile(`[-−+]?\d+(\.\d+)?`)

// Mark is one line of the marks.
type Mark struct {
	ID     string  `json:"id"`
	Label  string  `json:"label"`
	Points float64 `json:"points"`
	OutOf  float64 `json:"outOf"`
	Reason string  `json:"reason"`
	Ask    bool    `json:"ask,omitempty"` // a person must look before the points are final
	Lost   []Loss  `json:"lost,omitempty"`
	// Unshown: the attempt cannot show what this is for, and what became of the points: scaled, nothing or person. Empty
	// where it was judged.
	Unshown string `json:"unshown,omitempty"`
}

// Loss is where points of a mark went: the characteristic, figure, parameter, sketch or rule
// that they hang on.
type Loss struct {
	What           string  `json:"what"`
	Points         float64 `json:"points"`
	Characteristic string  `json:"characteristic,omitempty"`
	Balloon        int     `json:"balloon,omitempty"`
}

// Count gives the number of characteristics with a verdict.
func (r *Report) Count(v Verdict) int {
	n := 0
	for _, c := range r.Characteristics {
		if c.Verdict == v {
			n++
		}
	}
	return n
}

// Student gives the report as a student may see it: what the sheet states, what
// was measured on the student's own model, and the judgement; no figure and no
// face of the reference.
func (r *Report) Student() *Report {
	out := *r
	out.Trace, out.Attempt.Reference = nil, false
	out.Characteristics = slices.Clone(r.Characteristics)
	for i := range out.Characteristics {
		c := &out.Characteristics[i]
		c.Places = slices.Clone(c.Places)
		for k := range c.Places {
			c.Places[k].ReferenceFaces = nil
		}
	}
	out.Sketches = slices.Clone(r.Sketches)
	for i := range out.Sketches {
		k := &out.Sketches[i]
		k.Intervals = slices.Clone(k.Intervals)
		for j := range k.Intervals {
			k.Intervals[j].Reference = nil
		}
	}
	out.Causes = slices.Clone(r.Causes)
	for i := range out.Causes {
		out.Causes[i].Parameter = ""
	}
	out.Whole = slices.DeleteFunc(slices.Clone(r.Whole), func(f Figure) bool { return f.Extra })
	for i := range out.Whole {
		out.Whole[i].Reference, out.Whole[i].Deviation = nil, ""
	}
	out.hideNames(r)
	out.Assembly = r.Assembly.student()
	return &out
}

// hideNames takes the names of the reference's parameters out of a student's report, where the
// attempt has none of that name: they tell how the reference is made.
func (r *Report) hideNames(whole *Report) {
	alias := map[string]string{}
	for _, s := range whole.Sweep {
		if s.Match == "name" || alias[s.Parameter] != "" {
			continue
		}
		if alias[s.Parameter] = s.Attempt; s.Attempt == "" {
			alias[s.Parameter] = fmt.Sprintf("driving size %d", len(alias))
		}
	}
	if len(alias) == 0 {
		return
	}
	names := slices.Sorted(maps.Keys(alias))
	for i, n := range names {
		names[i] = regexp.QuoteMeta(n)
	}
	pattern := regexp.MustCompile(`(\bparameter |"|\buse |\bvary |\bfollow )(` + strings.Join(names, "|") + `)\b`)
	hide := func(text *string) {
		*text = pattern.ReplaceAllStringFunc(*text, func(m string) string {
			k := pattern.FindStringSubmatch(m)
			return strings.TrimSuffix(k[1], "parameter ") + alias[k[2]]
		})
	}
	r.Sweep = slices.Clone(whole.Sweep)
	for i := range r.Sweep {
		s := &r.Sweep[i]
		if to, ok := alias[s.Parameter]; ok {
			s.Parameter = to
		}
		hide(&s.Detail)
	}
	r.Findings = slices.Clone(whole.Findings)
	for i := range r.Findings {
		f := &r.Findings[i]
		f.key, f.was = f.Key(), f.Was()
		for _, text := range []*string{&f.Where, &f.What, &f.Cause, &f.Remedy} {
			hide(text)
		}
	}
	r.Marks = slices.Clone(whole.Marks)
	for i := range r.Marks {
		m := &r.Marks[i]
		hide(&m.Reason)
		m.Lost = slices.Clone(m.Lost)
		for k := range m.Lost {
			hide(&m.Lost[k].What)
		}
	}
}

// Change is how one characteristic or mark moved between two attempts.
type Change struct {
	Balloon int    `json:"balloon"`
	Label   string `json:"label"`
	Before  string `json:"before"`
	After   string `json:"after"`
	Kind    string `json:"kind"` // fixed, still wrong, newly wrong
}

// Compare lists what changed from an earlier attempt to a later one: fixed, still
// wrong, newly wrong.
func Compare(before, after *Report) []Change {
	var out []Change
	old := map[string]Characteristic{}
	for _, c := range before.Characteristics {
		old[c.ID] = c
	}
	words := func(c Characteristic) string {
		if c.MeasuredText == "" {
			return string(c.Verdict)
		}
		return c.MeasuredText + " (" + string(c.Verdict) + ")"
	}
	for _, kind := range []string{"newly wrong", "still wrong", "fixed"} {
		for _, c := range after.Characteristics {
			b, ok := old[c.ID]
			if !ok {
				continue
			}
			was, is := b.Verdict == In, c.Verdict == In
			k := ""
			switch {
			case was && !is:
				k = "newly wrong"
			case !was && !is:
				k = "still wrong"
			case !was && is:
				k = "fixed"
			}
			if k == kind {
				out = append(out, Change{Balloon: c.Balloon, Label: c.Label, Before: words(b), After: words(c), Kind: k})
			}
		}
	}
	return out
}
