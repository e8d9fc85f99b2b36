// Package assemblies measures how far the check of an assembly can be trusted. It makes attempts of which it is known
// what is wrong with them, half from documents and half of bare solids, checks them all, and prints what it found, a
// line for each kind of attempt.
package assemblies

import (
	"context"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"text/tabwriter"
	"time"

	"hammerset/core/assembly"
	"hammerset/core/check/assemblies"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/kernel/child"
	"hammerset/kernel/task"
)

// Flags of make bench-verdicts.
var (
	seed     = flag.Uint64("seed", 1, "of the corpus")
	attempts = flag.Int("attempts", 0, "how many are made")
	loud     = flag.Bool("wrong", false, "print everything that is not as it should be")
	only     = flag.String("kind", "", "make attempts of one kind alone")
	of       = flag.String("exercise", "", "make attempts at one exercise alone")
)

// BenchmarkAssemblies checks a corpus and prints what it found.
func BenchmarkAssemblies(b *testing.B) {
	if *attempts == 0 {
		b.Skip("the corpus is made by make bench-verdicts")
	}
	for b.Loop() {
		c, err := newCorpus(*seed)
		if err != nil {
			b.Fatal(err)
		}
		if err := c.run(b.Context(), *attempts); err != nil {
			b.Fatal(err)
		}
		c.show()
	}
}

// TestASmallCorpus checks a few attempts of every kind: nothing that is wrong is in, nothing is found on what is right,
// and what is wrong is named first.
func TestASmallCorpus(t *testing.T) {
	c, err := newCorpus(7)
	if err != nil {
		t.Fatal(err)
	}
	c.quick = true
	if err := c.run(t.Context(), len(ofDocuments())+len(ofSolids())); err != nil {
		t.Fatal(err)
	}
	for kind, x := range c.results {
		if x.wrongIn > 0 || x.wrongOut > 0 || x.falsely > 0 {
			t.Errorf("%s: %d wrongly in, %d wrongly out, %d right ones with findings", kind, x.wrongIn, x.wrongOut, x.falsely)
		}
		if x.named < x.of {
			t.Errorf("%s: the mistake is named first in %d of %d", kind, x.named, x.of)
		}
	}
}

// tasked is an exercise with its reference as the generators need it.
type tasked struct {
	name string
	ex   []byte
	ref  []byte
	read *documents.AssemblyReference
	bare func(r *rand.Rand) *works // a second generator
	// once is what is found out once of the reference, and still says that its sizes bear nothing, so that none is varied.
	once, still []byte
}

// attempt is one that was made, with what is known of it.
type attempt struct {
	kind string
	of   *tasked
	name string
	file []byte
	// first are the kinds of findings of which the first should be one, for the item of that number where it is not
	// empty; none of a right attempt. second is the same for a second mistake.
	first  []string
	item   string
	second []string
	other  string
	// wrong are what must not be in, and may what can be anything: "item 3", "placed j1", "free j1", "mobility".
	wrong []string
	may   func(key string) bool
}

func (a *attempt) right() bool { return len(a.first) == 0 }

// tally counts over one kind of attempt.
type tally struct {
	attempts, verdicts, wrongIn, wrongOut, ask, rightOnes int
	named, both, of, pairs, falsely                       int
}

// corpus is a run over made attempts with what came of them.
type corpus struct {
	rng     *rand.Rand
	w       *child.Worker
	tasks   []*tasked
	results map[string]*tally
	spent   []float64
	quick   bool // sizes are varied of few attempts alone
}

func newCorpus(seed uint64) (*corpus, error) {
	w, err := child.NewWorker()
	if err != nil {
		return nil, err
	}
	c := &corpus{rng: rand.New(rand.NewPCG(seed, 0)), w: w, results: map[string]*tally{}}
	for _, x := range []struct {
		folder string
		bare   func(r *rand.Rand) *works
	}{{"../../../demo/exercises/tackle-joint", tackle}, {"../../../demo/exercises/paddle-lift", paddle},
		{"exercises/lifting-block", block}, {"exercises/curve-drawer", drawer}, {"exercises/linkage", linkage},
		{"exercises/flanges", flanges}} {
		b, err := documents.ReadFolder(x.folder)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", x.folder, err)
		}
		read, err := documents.ReadAssemblyReference(b.Parsed, b.Reference)
		if err != nil {
			return nil, err
		}
		name := x.folder[strings.LastIndex(x.folder, "/")+1:]
		if *of == "" || *of == name {
			c.tasks = append(c.tasks, &tasked{name: name, ex: b.Exercise, ref: b.Reference, read: read, bare: x.bare})
		}
	}
	return c, nil
}

// errNot is said by a generator that cannot make what is asked of it at an exercise.
var errNot = errors.New("this cannot be made of it")

// run makes attempts of all kinds in turn and checks them.
func (c *corpus) run(ctx context.Context, count int) error {
	kinds := append(ofDocuments(), ofSolids()...)
	made := 0
	for n := 0; made < count && n < 20*count; n++ {
		kind := kinds[n%len(kinds)]
		if *only != "" && kind.name != *only {
			continue
		}
		a, err := c.made(ctx, kind)
		if err != nil {
			return err
		}
		if a == nil {
			continue
		}
		if err := c.check(ctx, a); err != nil {
			return err
		}
		made++
	}
	return nil
}

// made makes an attempt of a kind, at an exercise at which there are such; nil where this time there was none.
func (c *corpus) made(ctx context.Context, kind kindOfAttempt) (*attempt, error) {
	for _, n := range c.rng.Perm(len(c.tasks)) {
		t := c.tasks[n]
		for range 3 {
			a, err := kind.make(ctx, c, t)
			if errors.Is(err, errNot) {
				continue
			}
			if err != nil {
				return nil, fmt.Errorf("%s of %s: %w", kind.name, t.name, err)
			}
			a.kind, a.of = kind.name, t
			return a, nil
		}
	}
	return nil, nil
}

// check checks an attempt and counts what came of it.
func (c *corpus) check(ctx context.Context, a *attempt) error {
	x := c.results[a.kind]
	if x == nil {
		x = &tally{}
		c.results[a.kind] = x
	}
	x.attempts++
	once, err := c.once(ctx, a)
	if err != nil {
		return err
	}
	began := time.Now()
	raw, err := c.w.Do(ctx, &task.Request{Kind: task.Check, Exercise: a.of.ex, Reference: a.of.ref, Atlas: once,
		Name: a.name, File: a.file}, func(string, float64) {})
	c.spent = append(c.spent, time.Since(began).Seconds())
	if err != nil {
		return fmt.Errorf("%s of %s: %w", a.kind, a.of.name, err)
	}
	r := raw.(*assemblies.Outcome).Report
	for key, v := range verdicts(r) {
		wrong := slices.Contains(a.wrong, key)
		if strings.HasPrefix(key, "varied") && !wrong && !a.right() {
			continue // what is wrong bears other sizes otherwise
		}
		switch {
		case wrong || a.may == nil || !a.may(key):
			x.verdicts++
		default:
			continue
		}
		switch {
		case v == report.Ask:
			x.ask++
		case wrong && v == report.In:
			x.wrongIn++
			c.say(a, "%s is in", key)
		case !wrong && v != report.In:
			x.wrongOut++
			c.say(a, "%s is %s", key, v)
		}
	}

	if a.right() {
		x.rightOnes++
		if told := shapes(r); len(told) > 0 {
			x.falsely++
			c.say(a, "is right, and is told: %s", told[0].What)
		}
		return nil
	}
	x.of++
	list := r.Findings
	if len(a.second) > 0 {
		x.pairs++
		if c.among(list, a.first, a.item) && c.among(list, a.second, a.other) {
			x.both++
		} else {
			c.say(a, "of %v %s and %v %s it is told: %s", a.first, a.item, a.second, a.other, kindsOf(list))
		}
	}
	if len(list) > 0 && (names(&list[0], a.first, a.item) || len(a.second) > 0 && names(&list[0], a.second, a.other)) {
		x.named++
	} else {
		c.say(a, "should be told of %v item %s, and is told: %s", a.first, a.item, kindsOf(list))
	}
	return nil
}

// once is what a server finds out once of the reference of an attempt. A quick corpus varies sizes only of what is
// right, or has a size untied.
func (c *corpus) once(ctx context.Context, a *attempt) ([]byte, error) {
	t := a.of
	if c.quick && a.kind != "right" && a.kind != "untied" {
		if t.still == nil {
			data, err := json.Marshal(t.read.Document)
			if err != nil {
				return nil, err
			}
			t.still = fmt.Appendf(nil, `{"parts":{},"bears":{"":[0,0]},"of":%q}`, documents.Sum(data))
		}
		return t.still, nil
	}
	if t.once == nil {
		made, err := c.w.Do(ctx, &task.Request{Kind: task.Atlas, Exercise: t.ex, Reference: t.ref}, func(string, float64) {})
		if err != nil {
			return nil, err
		}
		if t.once, err = json.Marshal(made); err != nil {
			return nil, err
		}
	}
	return t.once, nil
}

// verdicts are those of a report by their keys.
func verdicts(r *report.Report) map[string]report.Verdict {
	out := map[string]report.Verdict{}
	for _, x := range r.Assembly.Items {
		out["item "+x.Number] = x.Verdict
	}
	for _, j := range r.Assembly.Joints {
		out["placed "+j.ID] = j.Placed
		if j.Verdict != "" {
			out["free "+j.ID] = j.Verdict
		}
	}
	if m := r.Assembly.Mobility; m != nil {
		out["mobility"] = m.Verdict
	}
	for _, x := range r.Assembly.Collisions {
		if x.Verdict == report.Out {
			out["collision "+x.Of[0]+" "+x.Of[1]] = report.Out
		}
	}
	for _, m := range r.Assembly.Motion {
		out["motion "+m.Joint] = m.Verdict
	}
	for _, x := range r.Assembly.Varied {
		if x.Verdict != "" {
			out["varied "+x.Size] = x.Verdict
		}
	}
	for _, x := range r.Characteristics {
		if x.Item == "" {
			out["whole "+x.ID] = x.Verdict
		}
	}
	return out
}

// shapes are the findings that say that something is wrong, and are no advice on how a part is made.
func shapes(r *report.Report) []report.Finding {
	return slices.DeleteFunc(slices.Clone(r.Findings), func(f report.Finding) bool {
		return slices.Contains([]string{"repeated", "unnamed", "untied", "spare", "loose", "slides", "pose",
			"sketch-quality"}, f.Kind)
	})
}

func names(f *report.Finding, kinds []string, item string) bool {
	return (slices.Contains(kinds, f.Kind) || slices.Contains(kinds, "part") && f.Item != "" &&
		!slices.Contains(ofPlaces, f.Kind)) && (item == "" || f.Item == item)
}

// ofPlaces are kinds of findings that are about where something is, and not what it is.
var ofPlaces = []string{"wrong side", "wrong way round", "turned", "shifted", "off the axis", "displaced",
	"shifted by a thickness", "offset of the wrong sign", "missing item", "too many", "two in one place", "wrong part"}

func (c *corpus) among(list []report.Finding, kinds []string, item string) bool {
	return slices.ContainsFunc(list, func(f report.Finding) bool { return names(&f, kinds, item) })
}

func kindsOf(list []report.Finding) string {
	var out []string
	for _, f := range list[:min(len(list), 4)] {
		out = append(out, fmt.Sprintf("%s (%s: %s)", f.Kind, f.Where, f.What))
	}
	return strings.Join(out, "; ")
}

func (c *corpus) say(a *attempt, format string, args ...any) {
	if *loud {
		fmt.Printf("%s of %s: %s\n", a.kind, a.of.name, fmt.Sprintf(format, args...))
	}
}

// show prints the table.
func (c *corpus) show() {
	w := tabwriter.NewWriter(os.Stdout, 2, 0, 2, ' ', 0)
	fmt.Fprintln(w, "kind\tattempts\tverdicts\twrong in\twrong out\task\tnamed first\tboth\tfindings on right ones")
	sum := &tally{}
	row := func(name string, x *tally) {
		fmt.Fprintf(w, "%s\t%d\t%d\t%d\t%d\t%d\t%d of %d\t%d of %d\t%d of %d\n", name, x.attempts, x.verdicts, x.wrongIn,
			x.wrongOut, x.ask, x.named, x.of, x.both, x.pairs, x.falsely, x.rightOnes)
	}
	var kinds []string
	for k := range c.results {
		kinds = append(kinds, k)
	}
	slices.Sort(kinds)
	for _, k := range kinds {
		x := c.results[k]
		row(k, x)
		sum.attempts, sum.verdicts, sum.wrongIn = sum.attempts+x.attempts, sum.verdicts+x.verdicts, sum.wrongIn+x.wrongIn
		sum.wrongOut, sum.ask, sum.named, sum.of = sum.wrongOut+x.wrongOut, sum.ask+x.ask, sum.named+x.named, sum.of+x.of
		sum.both, sum.pairs, sum.falsely = sum.both+x.both, sum.pairs+x.pairs, sum.falsely+x.falsely
		sum.rightOnes += x.rightOnes
	}
	row("all", sum)
	w.Flush()
	slices.Sort(c.spent)
	if n := len(c.spent); n > 0 {
		fmt.Printf("seconds a check: %.2f in the middle, %.2f at most\n", c.spent[n/2], c.spent[n-1])
	}
}

// kindOfAttempt is a way to make attempts.
type kindOfAttempt struct {
	name string
	make func(ctx context.Context, c *corpus, t *tasked) (*attempt, error)
}

// touching tells of a key whether it is of a joint between a component of some and another one, or of the whole: what
// can be anything where these components are out of place.
func touching(d *assembly.Document, moved ...string) func(key string) bool {
	return func(key string) bool {
		if strings.HasPrefix(key, "whole") && !strings.HasPrefix(key, "whole quantity") ||
			strings.HasPrefix(key, "mobility") || strings.HasPrefix(key, "collision") || strings.HasPrefix(key, "motion") {
			return true
		}
		id, isJoint := strings.CutPrefix(key, "placed ")
		if !isJoint {
			id, isJoint = strings.CutPrefix(key, "free ")
		}
		j, ok := d.Joint(id)
		if !isJoint || !ok {
			return false
		}
		return slices.Contains(moved, j.A.Component) || slices.Contains(moved, j.B.Component)
	}
}

// any of some.
func either(list ...func(string) bool) func(string) bool {
	return func(key string) bool {
		for _, f := range list {
			if f != nil && f(key) {
				return true
			}
		}
		return false
	}
}

func prefixed(list ...string) func(string) bool {
	return func(key string) bool {
		return slices.ContainsFunc(list, func(p string) bool { return strings.HasPrefix(key, p) })
	}
}

// asJSON is a document as a request has it.
func asJSON(v any) []byte {
	data, err := json.Marshal(v)
	if err != nil {
		panic(err) // documents of our own
	}
	return data
}
