package demo

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"time"

	"hammerset/core/modeller"
	"hammerset/core/part"
	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/school"
	"hammerset/store"
)

// The rest of the two classes.
var (
	morningNames = []string{"Greta Sluiceman", "Hob Paddock", "Ione Causeway", "Jem Fairlead", "Kit Wharfedale",
		"Lys Bargeman", "Milo Pounder", "Nell Halyard", "Odo Gudgeon", "Pia Windlass", "Quill Rackham", "Rhoda Penstock"}
	eveningNames = []string{"Silas Culvert", "Tamsin Weir", "Ulric Dredge", "Vesta Mooring", "Wilf Staunch",
		"Xanthe Lockyer", "Yarrow Tiller", "Zeb Cofferdam", "Anselm Sump", "Bettine Cutwater", "Corin Bollard",
		"Delphine Ferry"}
)

// slip is one mistake that a student makes at a model: other values of parameters, a step
// left out, or texts replaced.
type slip struct {
	set  map[string]string
	drop string
	text []string
}

// given is an exercise with the class that it was issued to, when it is due (days from
// now), and the mistakes that are made at it.
type given struct {
	name, class string
	due         int
	results     string
	slips       []slip
	sure        map[int]int // the slip of a certain student, so that every kind is there
}

func set(pairs ...string) slip {
	s := slip{set: map[string]string{}}
	for i := 0; i+1 < len(pairs); i += 2 {
		s.set[pairs[i]] = pairs[i+1]
	}
	return s
}

func issued() []given {
	return []given{
		{"pawl-plate", "morning", -3, "with the return", []slip{
			set("d", "3.5 mm"), set("t", "24 mm"), set("deep", "12 mm"), set("px", "78 mm"), set("pw", "22 mm", "ph", "40 mm"),
			{drop: "f1"},
			{text: []string{`"at":["p0","p1","p2","p3"]`, `"at":["p0","p1","p3"]`}},
			{text: []string{`"value":"pw"`, `"value":"40 mm"`}}, set("r", "16 mm"),
		}, nil},
		{"rack-stop", "morning", 2, "with the return", []slip{
			set("web", "14 mm"), set("bore", "7 mm"), set("ut", "10 mm"), set("uh", "50 mm"), {drop: "b1"}, set("up", "34 mm"),
			{text: []string{`"value":"t+up"`, `"value":"34 mm"`}}, set("w", "72 mm"),
			// its mirror image; another thread
			{text: []string{`"at":[24,-16]`, `"at":[-24,-16]`}}, {text: []string{`"thread":"M6"`, `"thread":"M8"`}},
		}, map[int]int{5: 8, 11: 9}},
		{"drain-bend", "morning", 5, "at once", []slip{
			set("id", "30 mm"), set("bend", "20 mm"), set("bolt", "4 mm"), set("pcd", "60 mm"),
			{text: []string{`"count":"4"`, `"count":"3"`}}, set("ft", "18 mm"), set("od", "17 mm", "id", "13 mm"),
		}, nil},
		{"hand-hole-cover", "morning", 6, "with the return", []slip{
			set("n", "5"), set("bore", "10 mm"), {drop: "f1"}, set("pcd", "46 mm"), {drop: "c1"}, set("high", "24 mm"),
			{text: []string{`"headDepth":"4 mm"`, `"headDepth":"8 mm"`}}, set("n", "7"),
		}, nil},
		{"winch-spindle", "evening", -1, "with the return", []slip{
			set("d1", "60 mm"), set("nl", "8 mm"), set("c", "3 mm"), set("at", "36 mm"), {drop: "e2"}, set("d3", "13 mm"),
			set("l2", "24 mm"), {text: []string{`"both":true`, `"both":false`}}, set("neck", "26 mm"),
		}, nil},
		{"guide-block", "evening", 4, "at once", []slip{
			set("px", "2 1/2 in"), set("gd", "1 1/8 in"), set("hole", "3/16 in"), set("h", "1.5 mm"), {drop: "c1"},
			set("cut", "1/4 in"), {text: []string{`"both":true`, `"both":false`}}, set("gw", "1.13 in"),
		}, nil},
		{"hand-hole-cover", "evening", 9, "with the return", []slip{set("hub", "25 mm"), set("t", "20 mm"), {drop: "h1"},
			set("rim", "4 mm"), set("n", "5"), set("foot", "8 mm")}, nil},
	}
}

// Reshaped is a reference with one of the slips that students of the demo make at its steps: one that is left
// out, or done otherwise. Model is the document.
type Reshaped struct {
	Exercise, Slip string
	Model          []byte
}

// AllReshaped lists every one of them.
func AllReshaped() ([]Reshaped, error) {
	var out []Reshaped
	for _, g := range issued() {
		b, err := Bundle(g.name)
		if err != nil {
			return nil, err
		}
		for _, s := range g.slips {
			if len(s.set) > 0 {
				continue
			}
			doc, err := slipped(b.Reference, []slip{s})
			if err != nil {
				return nil, fmt.Errorf("%s: %w", g.name, err)
			}
			out = append(out, Reshaped{g.name, strings.Join(append(s.text, s.drop), " "), doc})
		}
	}
	return out, nil
}

// Back is an attempt that is to be returned once it is checked.
type Back struct {
	Attempt int64
	Comment string
	by      int64
}

// whole adds the rest of the school: students, the other exercises, and attempts of all
// kinds: right ones and wrong ones, in both ways of handing in, in another unit, unreadable,
// late, second ones after a return. The same every time.
func (s *loading) whole(ctx context.Context) ([]Back, error) {
	hash, err := school.HashPassword(Password)
	if err != nil {
		return nil, err
	}
	students := map[string][]int64{"morning": {s.people["ada"], s.people["bram"], s.people["cleo"], s.people["dov"]},
		"evening": {s.people["esme"], s.people["finn"]}}
	names := map[int64]string{}
	for class, list := range map[string][]string{"morning": morningNames, "evening": eveningNames} {
		var more []int64
		for _, name := range list {
			id, err := s.st.AddUser(ctx, store.User{Login: strings.ToLower(strings.Fields(name)[0]), Name: name,
				Password: hash})
			if err != nil {
				return nil, err
			}
			more = append(more, id)
			names[id] = name
		}
		joined := members(time.Now().UTC().AddDate(0, -2, 0), store.Student, more...)
		for i := range joined {
			joined[i].ClassID = s.class[class]
		}
		if err := s.st.AddMembers(ctx, joined); err != nil {
			return nil, err
		}
		students[class] = append(students[class], more...)
	}
	rng := rand.New(rand.NewPCG(7, 41))
	day := time.Now().UTC().Truncate(24 * time.Hour)
	versions := map[string]store.Version{}
	var back []Back
	for _, g := range issued() {
		b, err := Bundle(g.name)
		if err != nil {
			return nil, err
		}
		v, ok := versions[g.name]
		if !ok {
			if v, err = s.school.AddBundle(ctx, s.people["ottoline"], b, 0, "the demo"); err != nil {
				return nil, fmt.Errorf("%s: %w", g.name, err)
			}
			versions[g.name] = v
		}
		due := day.Add(time.Duration(24*g.due+17) * time.Hour)
		issue, err := s.st.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: s.class[g.class],
			IssuedBy: s.people["ottoline"], Issued: due.Add(-12 * 24 * time.Hour), Due: due, Attempts: 3, Results: g.results},
			true, "")
		if err != nil {
			return nil, err
		}
		for n, student := range students[g.class] {
			more, err := s.attempts(ctx, rng, g, b, issue, student, n, due)
			if err != nil {
				return nil, fmt.Errorf("%s: %w", g.name, err)
			}
			back = append(back, more...)
		}
	}
	more, err := s.assemblies(ctx, students)
	return append(back, more...), err
}

// attempts hands in what one student makes of one exercise.
func (s *loading) attempts(ctx context.Context, rng *rand.Rand, g given, b *documents.Bundle, issue, student int64,
	n int, due time.Time) ([]Back, error) {
	last := notAfterNow(due)
	hours := func(h float64) time.Time { return last.Add(-time.Duration(h * float64(time.Hour))) }
	file := fmt.Sprintf("%s-%02d", g.name, n+1)
	hand := func(name string, data []byte, at time.Time) (int64, error) {
		id, _, err := s.st.HandInAt(ctx, issue, student, name, data, at)
		return id, err
	}
	var list []slip
	switch k := rng.IntN(20); {
	case k < 2:
		return nil, nil // nothing yet
	case k == 2:
		_, err := hand(file+".pdf", fmt.Appendf(nil, "%%PDF-1.4\n%% notes %d\n", n+1), hours(5))
		return nil, err
	case k == 3:
		_, err := hand(file+".step",
			[]byte("ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',("+
				strings.Repeat("0.", n+1)), hours(4))
		return nil, err
	case k < 9: // right
	case k < 17:
		list = []slip{g.slips[rng.IntN(len(g.slips))]}
	default:
		i := rng.IntN(len(g.slips))
		list = []slip{g.slips[i], g.slips[(i+1+rng.IntN(len(g.slips)-1))%len(g.slips)]}
	}
	if k, ok := g.sure[n]; ok {
		list = []slip{g.slips[k]}
	}
	at := hours(3 + 60*rng.Float64())
	if g.due < 0 && rng.IntN(6) == 0 {
		at = due.Add(time.Duration(2+rng.IntN(30)) * time.Hour) // late
	}
	at = notAfterNow(at)
	asSTEP := rng.IntN(5) < 2
	unit := asSTEP && rng.IntN(6) == 0
	doc, err := slipped(b.Reference, list)
	if err == nil {
		doc, err = titled(doc, fmt.Sprintf("%s %d", b.Parsed.Title, n+1))
	}
	if err != nil {
		return nil, err
	}
	if g.name == "rack-stop" && s.copied != nil { // the next one takes this one's file
		_, err := hand(file+".json", s.copied, at)
		s.copied = nil
		return nil, err
	}
	if g.name == "rack-stop" && n == 8 {
		s.copied, asSTEP = doc, false
	}
	id, err := s.handModel(ctx, hand, file, doc, asSTEP, unit, at)
	if err != nil {
		return nil, err
	}
	if g.due >= 0 || rng.IntN(5) >= 3 {
		return nil, nil
	}
	back := []Back{{id, comment(list), s.people["ottoline"]}}
	if len(list) == 0 || rng.IntN(2) != 0 {
		return back, nil
	}
	// A revision, with the last mistake put right.
	if doc, err = slipped(b.Reference, list[:len(list)-1]); err == nil {
		doc, err = titled(doc, fmt.Sprintf("%s %d, again", b.Parsed.Title, n+1))
	}
	if err != nil {
		return nil, err
	}
	_, err = s.handModel(ctx, hand, file+"-again", doc, asSTEP, false, notAfterNow(at.Add(8*time.Hour)))
	return back, err
}

// notAfterNow is a time, or now where it is still to come.
func notAfterNow(at time.Time) time.Time {
	if now := time.Now().UTC(); at.After(now) {
		return now
	}
	return at
}

func comment(list []slip) string {
	if len(list) == 0 {
		return "Good, and soundly made."
	}
	return "Compare it with the marked sheet, put it right, and hand it in again."
}

// handModel hands in a model as a document, or as STEP through the kernel: as it is, or
// with another unit set in the file.
func (s *loading) handModel(ctx context.Context, hand func(string, []byte, time.Time) (int64, error), file string,
	doc []byte, asSTEP, unit bool, at time.Time) (int64, error) {
	if !asSTEP {
		return hand(file+".json", doc, at)
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Rebuild, File: doc, WantSTEP: true}, nil)
	if err != nil {
		return 0, err
	}
	var r modeller.Rebuilt
	if err := json.Unmarshal(raw, &r); err != nil {
		return 0, err
	}
	data := r.STEP
	if unit {
		data = []byte(strings.ReplaceAll(string(data), "SI_UNIT(.MILLI.,.METRE.)", "SI_UNIT(.CENTI.,.METRE.)"))
	}
	return hand(file+".step", exportedAt(data, at), at)
}

// stamp is the time stamp in the header of a STEP file.
var stamp = regexp.MustCompile(`(FILE_NAME\s*\(\s*'[^']*'\s*,\s*)'[^']*'`)

// exportedAt is a STEP file as a program writes it some minutes before it is handed in.
func exportedAt(data []byte, at time.Time) []byte {
	return stamp.ReplaceAll(data, []byte("${1}'"+at.Add(-7*time.Minute).Format("2006-01-02T15:04:05")+"'"))
}

// slipped makes mistakes at a model document. A name or text that is not there is an error.
func slipped(reference []byte, list []slip) ([]byte, error) {
	for _, s := range list {
		var plain bytes.Buffer // as written by any program: the texts have no spaces
		if err := json.Compact(&plain, reference); err != nil {
			return nil, err
		}
		data, err := Edited(plain.Bytes(), s.text...)
		if err != nil {
			return nil, err
		}
		doc, err := documents.ReadModel(data)
		if err != nil {
			return nil, err
		}
		for name, value := range s.set {
			found := false
			for i := range doc.Parameters {
				if doc.Parameters[i].Name == name {
					doc.Parameters[i].Formula, found = value, true
				}
			}
			if !found {
				return nil, fmt.Errorf("there is no parameter %q", name)
			}
		}
		if s.drop != "" {
			var keep []part.Step
			for _, x := range doc.Steps {
				if x.ID != s.drop && !slices.Equal(x.Repeated(), []string{s.drop}) {
					keep = append(keep, x)
				}
			}
			if len(keep) == len(doc.Steps) {
				return nil, fmt.Errorf("there is no step %q", s.drop)
			}
			doc.Steps = keep
		}
		if len(s.set) > 0 || s.drop != "" {
			if data, err = json.MarshalIndent(doc, "", " "); err != nil {
				return nil, err
			}
		}
		reference = data
	}
	return reference, nil
}

// titled gives a model a title of its own, so that no two students hand in the same bytes.
func titled(data []byte, name string) ([]byte, error) {
	doc, err := documents.ReadModel(data)
	if err != nil {
		return nil, err
	}
	doc.Name = name
	return json.MarshalIndent(doc, "", " ")
}

// Settle returns attempts as they become checked, until all are or the context ends.
func Settle(ctx context.Context, sc *school.School, list []Back) error {
	for len(list) > 0 {
		var left []Back
		for _, b := range list {
			done, err := settle(ctx, sc, b)
			if err != nil {
				return err
			}
			if !done {
				left = append(left, b)
			}
		}
		list = left
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(2 * time.Second):
		}
	}
	return nil
}

func settle(ctx context.Context, sc *school.School, b Back) (done bool, err error) {
	by, err := sc.Person(ctx, b.by)
	if err != nil {
		return false, err
	}
	check, err := sc.Follow(ctx, by, b.Attempt)
	if err != nil {
		return false, err
	}
	p, err := check.Progress(ctx)
	if err != nil || p.State != "checked" {
		return p.State == "unusable" || p.State == "parked" || p.State == "returned", err
	}
	err = sc.Return(ctx, by, b.Attempt, b.Comment, true)
	var refusal *school.Refusal
	if errors.As(err, &refusal) || errors.Is(err, school.ErrNotFound) {
		err = nil // somebody returned it meanwhile
	}
	return true, err
}
