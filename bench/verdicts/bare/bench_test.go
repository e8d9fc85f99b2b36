// Package bare measures how far a check can be trusted, by attempts that are made of bare solids: of
// outlines, prisms, cylinders and booleans, with nothing of the references and the code that rebuilds them. Of every
// attempt it is known which characteristics are right, and what was done wrong.
package bare

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"syscall"
	"testing"
	"text/tabwriter"

	"hammerset/core/check"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/kernel/occ"
)

// Flags of make bench-verdicts.
var (
	seed     = flag.Uint64("seed", 1, "of the corpus")
	attempts = flag.Int("attempts", 0, "how many are made")
	loud     = flag.Bool("wrong", false, "print everything that is not as it should be")
	only1    = flag.String("kind", "", "make attempts of one kind alone")
	keep     = flag.String("keep", "", "write the files of all attempts into this folder")
	of1      = flag.String("exercise", "", "make attempts at one exercise alone")
)

// BenchmarkBare checks a corpus and prints what it found.
func BenchmarkBare(b *testing.B) {
	if *attempts == 0 {
		b.Skip("the corpus is made by make bench-verdicts")
	}
	for b.Loop() {
		c, err := newCorpus(*seed)
		if err != nil {
			b.Fatal(err)
		}
		c.loud = *loud
		if err := c.run(b.Context(), *attempts); err != nil {
			b.Fatal(err)
		}
		if err := c.show(); err != nil {
			b.Fatal(err)
		}
	}
}

// corpus is a run over made attempts with what came of them.
type corpus struct {
	*maker
	tasks   []*task
	checker *check.Checker
	loud    bool
	results map[string]*tally
	broken  []string // laws
	spent   []float64
}

// tally counts over one kind of attempt.
type tally struct {
	attempts, verdicts, right, wrongIn, wrongOut, ask int
	sound                                             int // verdicts on what is in
	named, of, explained                              int
	falsely                                           int // attempts that are right with a finding on their shape
	both, either                                      int // faces that are pointed at, and that lie elsewhere
}

func newCorpus(seed uint64) (*corpus, error) {
	list, err := tasks()
	if err != nil {
		return nil, err
	}
	k := occ.Kernel{}
	return &corpus{maker: &maker{k, rand.New(rand.NewPCG(seed, 1))}, tasks: list, results: map[string]*tally{},
		checker: &check.Checker{Rebuilder: part.NewRebuilder(k), Sweeps: &robust.Cache{}}}, nil
}

// run makes and checks so many attempts. Faults of several are added one by one, and what is checked on the way
// counts as attempts with fewer.
func (c *corpus) run(ctx context.Context, count int) error {
	for n := 0; n < count; {
		t := c.tasks[c.rng.IntN(len(c.tasks))]
		kind := c.kind()
		if *only1 != "" {
			kind = *only1
		}
		faults, ok := c.faultsOf(t, kind)
		if !ok || *of1 != "" && t.exercise != *of1 {
			continue
		}
		first := len(faults)
		if kind == "two" || kind == "three" {
			first = 1
		}
		marks := []float64{}
		for with := first; with <= len(faults); with++ {
			a := t.with(kindOf(kind, faults[:with]), faults[:with])
			r, err := c.check(ctx, a)
			if errors.Is(err, errNone) {
				break
			}
			if err != nil {
				return fmt.Errorf("%v: %w", a, err)
			}
			n++
			marks = append(marks, points(r))
			if k := len(marks); k > 1 && marks[k-1] > marks[k-2]+1e-9 {
				c.law("%v: one mistake more raises the mark from %.1f to %.1f", a, marks[k-2], marks[k-1])
			}
		}
	}
	return nil
}

// kindOf is the kind of an attempt with the first faults of several.
func kindOf(kind string, faults []*fault) string {
	if kind != "two" && kind != "three" {
		return kind
	}
	return []string{faults[0].kind, "two", "three"}[len(faults)-1]
}

// points are the marks of a report, before lateness and caps.
func points(r *report.Report) float64 {
	sum := 0.0
	for _, m := range r.Marks {
		sum += m.Points
	}
	return sum
}

func (c *corpus) check(ctx context.Context, a *attempt) (*report.Report, error) {
	if err := c.made(ctx, a); err != nil {
		return nil, err
	}
	if *keep != "" {
		name := strings.Map(func(r rune) rune { return pick(r == ' ' || r == '/' || r == ';', '-', r) }, a.String())
		if err := os.WriteFile(filepath.Join(*keep, name+".step"), a.att.STEP, 0o600); err != nil {
			return nil, err
		}
	}
	before := processor()
	out, err := c.checker.Part(ctx, check.Subject{Exercise: a.task.ex, Reference: a.task.ref, Attempt: a.att},
		func(string, float64) {})
	if err != nil {
		return nil, err
	}
	c.spent = append(c.spent, processor()-before)
	if c.loud && c.spent[len(c.spent)-1] > 4 {
		fmt.Printf("  %v: %.1f s\n", a, c.spent[len(c.spent)-1])
	}
	t := c.results[a.kind]
	if t == nil {
		t = &tally{}
		c.results[a.kind] = t
	}
	c.judge(t, a, out.Report)
	if err := c.pointed(ctx, t, a, out.Report); err != nil {
		return nil, err
	}
	c.words(a, out.Report)
	return out.Report, nil
}

// processor is the processor time that was taken so far, in seconds.
func processor() float64 {
	var u syscall.Rusage
	if syscall.Getrusage(syscall.RUSAGE_SELF, &u) != nil {
		return 0
	}
	return float64(u.Utime.Nano()+u.Stime.Nano()) / 1e9
}

func (c *corpus) say(format string, args ...any) {
	if c.loud {
		fmt.Printf("  "+format+"\n", args...)
	}
}

func (c *corpus) law(format string, args ...any) {
	c.broken = append(c.broken, fmt.Sprintf(format, args...))
	c.say(format, args...)
}

// told are the findings on the shape of a part: all but those on how it was placed and on the pieces that it
// was handed in as.
func (a *attempt) told(r *report.Report) []report.Finding {
	var out []report.Finding
	for _, f := range r.Findings {
		switch {
		case f.Kind == "pose" || f.Characteristic == "middle":
		case a.pieces && f.Kind == "solids", f.Kind == "ask", f.Kind == "what-if":
		default:
			out = append(out, f)
		}
	}
	return out
}

// judge counts what is right and wrong in a report.
func (c *corpus) judge(t *tally, a *attempt, r *report.Report) {
	t.attempts++
	for _, x := range r.Characteristics {
		in, known := a.in[x.ID]
		if !known {
			continue
		}
		t.verdicts++
		if in {
			t.sound++
		}
		switch {
		case x.Verdict == report.Ask:
			t.ask++
			continue
		case in == (x.Verdict == report.In):
			t.right++
			continue
		case in:
			t.wrongOut++
		default:
			t.wrongIn++
		}
		c.say("%v: %s is %s %s (%s), in truth %v", a, x.ID, x.Verdict, x.MeasuredText, x.Reason, in)
	}
	list := a.told(r)
	mirrored := r.Pose != nil && r.Pose.Mirrored
	switch a.kind {
	case "mirror image", "wrong unit":
		t.of++
		if mirrored || r.Scale != nil || a.kind == "mirror image" && len(list) == 0 { // its own mirror image
			t.named++
		} else {
			c.say("%v is not recognised: %+v", a, list)
		}
		return
	case "right", "right, split", "right, halves", "within the limits":
		if len(list) > 0 {
			t.falsely++
			c.say("%v: %s: %s", a, list[0].Where, list[0].What)
		}
		return
	}
	if mirrored || r.Scale != nil {
		c.say("%v: mirrored %v, scale %v", a, mirrored, r.Scale)
	}
	t.of++
	if r.Explained {
		t.explained++
	}
	// First: before anything else is said, each fault has been named. One fault may take several findings.
	named := map[*fault]bool{}
	for i := range list {
		before := len(named)
		known := false
		for _, f := range a.faults {
			if f.named(&list[i]) {
				known, named[f] = true, true
			}
		}
		if len(named) == before && !known {
			break
		}
	}
	if len(named) == len(a.faults) {
		t.named++
		return
	}
	var got []string
	for _, x := range list {
		got = append(got, fmt.Sprintf("%s: %s [%s]", x.Where, x.What, x.Cause))
	}
	c.say("%v: named %q, explained %v, %.1f points", a, strings.Join(got, "; "), r.Explained, points(r))
}

// named tells whether a finding names the fault.
func (f *fault) named(x *report.Finding) bool {
	if f.size != nil {
		return slices.Contains(strings.Fields(f.size.states), x.Characteristic)
	}
	return regexp.MustCompile("(?i)" + f.says).MatchString(x.Where + ": " + x.What + " " + x.Cause)
}

var (
	states   = regexp.MustCompile(`the sheet states ([^;,(]+), the model (?:measures|has|says) ([^;(]+?)(?: \(|;|$)`)
	nothing  = regexp.MustCompile(`[+-]0(\.0*)? ?%`)
	rawNames = regexp.MustCompile(`\b[a-z]\d+/(side|start|end|bore|round|bevel)`)
)

// words looks for what no finding may say.
func (c *corpus) words(a *attempt, r *report.Report) {
	for _, f := range r.Findings {
		text := f.What + "; " + f.Cause + "; " + f.Remedy
		if m := states.FindStringSubmatch(f.What); m != nil && m[1] == m[2] {
			c.law("%v: stated and measured are equal: %s", a, f.What)
		}
		if nothing.MatchString(text) {
			c.law("%v: off by nothing: %s", a, text)
		}
		if rawNames.MatchString(text) {
			c.law("%v: a raw name: %s", a, text)
		}
		if x := a.task.ex.Characteristic(f.Characteristic); x != nil && strings.Contains(f.What, "°") &&
			strings.Contains(f.What, "states") && x.Kind != "angle" && x.Kind != "spacing" && x.Kind != "chamfer" {
			c.law("%v: a size in degrees: %s", a, f.What)
		}
		switch {
		case f.Kind == "unknown" && len(r.Causes) > 0:
			c.law("%v: unknown beside a cause", a)
		case f.Kind == "unknown" && f.Sure == "certain":
			c.law("%v: unknown for certain", a)
		}
	}
}

func (c *corpus) show() error {
	w := tabwriter.NewWriter(os.Stdout, 0, 4, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "\nkind\tattempts\tverdicts\tright %\twrong in\twrong out\task\tnamed first\texplained"+
		"\tfalse finding\t")
	var all tally
	row := func(name string, t *tally) {
		share := func(n, of int) string { return pick(of == 0, "-", fmt.Sprintf("%d of %d", n, of)) }
		fmt.Fprintf(w, "%s\t%d\t%d\t%.2f\t%d\t%d\t%d\t%s\t%s\t%d\t\n", name, t.attempts, t.verdicts,
			100*float64(t.right)/float64(max(1, t.verdicts)), t.wrongIn, t.wrongOut, t.ask, share(t.named, t.of),
			share(t.explained, t.of), t.falsely)
	}
	for _, k := range kinds {
		t := c.results[k.name]
		if t == nil {
			continue
		}
		row(k.name, t)
		all.attempts += t.attempts
		all.verdicts += t.verdicts
		all.right += t.right
		all.wrongIn += t.wrongIn
		all.wrongOut += t.wrongOut
		all.ask += t.ask
		all.sound += t.sound
		all.named += t.named
		all.of += t.of
		all.explained += t.explained
		all.falsely += t.falsely
		all.both += t.both
		all.either += t.either
	}
	row("all", &all)
	if err := w.Flush(); err != nil {
		return err
	}
	slices.Sort(c.spent)
	fmt.Printf("\nwrong out on right geometry: %.2f %%; laws broken: %d; processor time: median %.1f s, most %.1f s\n",
		100*float64(all.wrongOut)/float64(max(1, all.sound)), len(c.broken), c.spent[len(c.spent)/2], c.spent[len(c.spent)-1])
	fmt.Printf("not explained, one mistake: %d of the %d faces that are pointed at or lie elsewhere are both\n", all.both,
		all.either)
	return nil
}
