package robust

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"hammerset/core/part"
	"hammerset/core/quantity"
	"hammerset/core/report"
)

// What keeps a model from following a size is found by putting it right. The reference says what each of its
// formulas comes to before and after the change. A number of the attempt that has the value of one before it is
// given the value after it; a parameter of its own likewise; what hangs on the size is held where it was; a cut of a
// typed depth is made to go through. What makes the model follow was behind it.

// maxTries bounds the rebuilds for one size.
const maxTries = 40

// change is what a formula of the reference comes to before and after a size has changed, in the attempt's unit.
type change struct {
	dim           quantity.Dim
	before, after float64
}

// site is a formula of a document: of a parameter, or of a step, with where it stands in words.
type site struct {
	parameter string
	step      string
	path      string
	text      string
	dim       quantity.Dim
	where     string
}

// sites lists all formulas of a document.
func sites(d *part.Document, t *quantity.Table) []site {
	var out []site
	for _, p := range d.Parameters {
		q, _ := t.Lookup(p.Name)
		out = append(out, site{parameter: p.Name, text: p.Formula, dim: q.Dim, where: "parameter " + p.Name})
	}
	for i := range d.Steps {
		for _, z := range d.Steps[i].Sizes() {
			if !z.Driven {
				out = append(out, site{step: d.Steps[i].ID, path: z.Path, text: z.Text, dim: z.Dim, where: d.Steps[i].Title()})
			}
		}
	}
	return out
}

// remedy is something that may put a model right: other formulas, other values of parameters, other extents.
type remedy struct {
	kind    string
	words   string
	sites   map[site]string
	set     map[string]quantity.Quantity
	extents []part.Alteration
}

// and joins two remedies.
func (r remedy) and(o remedy) remedy {
	out := remedy{kind: r.kind, words: r.words, sites: map[site]string{}, set: map[string]quantity.Quantity{},
		extents: slices.Concat(r.extents, o.extents)}
	for _, x := range []remedy{r, o} {
		for k, v := range x.sites {
			out.sites[k] = v
		}
		for k, v := range x.set {
			out.set[k] = v
		}
	}
	return out
}

// culprit looks for what keeps an attempt from following.
type culprit struct {
	*Sweeper
	pair             Partner
	value            quantity.Quantity // of the size, in the reference
	ref, att         *part.Build
	ref0, refv, att0 figures
	broken           map[string]bool
	tries            int
}

// changes lists what the formulas of the reference that change with the size come to: the size itself first.
func (c *culprit) changes() ([]change, error) {
	after, err := c.Reference.Table(map[string]quantity.Quantity{c.pair.Reference: c.value})
	if err != nil {
		return nil, err
	}
	var out []change
	add := func(dim quantity.Dim, a, b float64) {
		a, b = c.own(quantity.Quantity{Value: a, Dim: dim}).Value, c.own(quantity.Quantity{Value: b, Dim: dim}).Value
		if x := (change{dim, a, b}); a != b && !slices.Contains(out, x) {
			out = append(out, x)
		}
	}
	was, _ := c.ref.Table.Lookup(c.pair.Reference)
	add(was.Dim, was.Value, c.value.Value)
	for _, s := range sites(c.Reference, c.ref.Table) {
		a, err := c.ref.Table.Eval(s.text, s.dim)
		b, err2 := after.Eval(s.text, s.dim)
		if s.parameter != "" {
			p, _ := c.ref.Table.Lookup(s.parameter)
			q, _ := after.Lookup(s.parameter)
			a, b, err, err2 = p.Value, q.Value, nil, nil
		}
		if err == nil && err2 == nil {
			add(s.dim, a, b)
		}
	}
	for _, x := range slices.Clone(out) {
		add(x.dim, x.before/2, x.after/2)
		add(x.dim, x.before*2, x.after*2)
	}
	return out, nil
}

// literal writes a value so that a formula reads it back exactly.
func literal(dim quantity.Dim, v float64) string {
	unit := map[quantity.Dim]string{quantity.Length: " mm", quantity.Angle: " rad"}[dim]
	return "(" + strconv.FormatFloat(v, 'g', -1, 64) + unit + ")"
}

// numbers are the typed numbers that have the value of something that changes.
func (c *culprit) numbers(changes []change, all []site) []remedy {
	var out []remedy
	for _, s := range all {
		if s.parameter != "" && (slices.Contains(c.att.Table.Driving(), s.parameter) && !c.computed(s.parameter)) {
			continue // that is meant to be a number, or is a twin
		}
		f, err := quantity.Parse(s.text)
		if err != nil {
			continue
		}
		list := f.Literals()
		if len(f.Names()) == 0 && len(list) > 0 {
			q, err := c.att.Table.Eval(s.text, s.dim)
			if err != nil {
				continue
			}
			list = []quantity.Literal{{At: 0, End: len(s.text), Value: quantity.Quantity{Value: q, Dim: s.dim}}}
		}
		for _, l := range list {
			for _, x := range changes {
				if x.dim == l.Value.Dim && alike(l.Value.Value, x.before) {
					out = append(out, remedy{kind: report.Number, words: strings.Trim(s.text[l.At:l.End], "()") + " in " + s.where,
						sites: map[site]string{s: f.With(l, literal(x.dim, x.after))}})
					break
				}
			}
		}
	}
	return out
}

// alike tells that two values are one.
func alike(a, b float64) bool { return math.Abs(a-b) <= 1e-9*math.Abs(b) }

// paired tells that a parameter of the attempt answers to a driving one of the reference by its name.
func (c *culprit) paired(name string) bool {
	return slices.ContainsFunc(c.ref.Table.Driving(), func(r string) bool { return strings.EqualFold(r, name) })
}

// computed tells that the reference works out a parameter of this name from others.
func (c *culprit) computed(name string) bool {
	return !c.paired(name) && slices.ContainsFunc(c.ref.Table.Order(),
		func(r string) bool { return strings.EqualFold(r, name) })
}

// twins are parameters of the attempt's own that have the value of something that changes.
func (c *culprit) twins(changes []change) []remedy {
	var out []remedy
	for _, name := range c.att.Table.Driving() {
		if name == c.pair.Attempt || c.paired(name) || c.computed(name) {
			continue
		}
		q, _ := c.att.Table.Lookup(name)
		for _, x := range changes {
			if x.dim == q.Dim && alike(q.Value, x.before) {
				out = append(out, remedy{kind: report.Twin, words: name,
					set: map[string]quantity.Quantity{name: {Value: x.after, Dim: x.dim}}})
				break
			}
		}
	}
	return out
}

// tied are the formulas that hang on the size: each is held at what it came to.
func (c *culprit) tied(all []site) []remedy {
	hangs := map[string]bool{c.pair.Attempt: true}
	uses := func(text string) bool {
		f, err := quantity.Parse(text)
		return err == nil && slices.ContainsFunc(f.Names(), func(n string) bool { return hangs[n] })
	}
	for range c.Attempt.Parameters {
		for _, p := range c.Attempt.Parameters {
			hangs[p.Name] = hangs[p.Name] || uses(p.Formula)
		}
	}
	var out []remedy
	for _, s := range all {
		if !uses(s.text) || s.text == c.pair.Attempt {
			continue
		}
		v, err := c.att.Table.Eval(s.text, s.dim)
		words := s.text + " in " + s.where
		if s.parameter != "" {
			words = s.parameter + " = " + s.text
		}
		if err == nil {
			out = append(out, remedy{kind: report.Tied, words: words, sites: map[site]string{s: literal(s.dim, v)}})
		}
	}
	return out
}

// depths are the cuts of a typed depth: each is made to go through.
func (c *culprit) depths() []remedy {
	var out []remedy
	for i := range c.Attempt.Steps {
		s := &c.Attempt.Steps[i]
		data, err := json.Marshal(s)
		if err != nil {
			continue
		}
		var doc struct {
			Result string
			Extent *part.Extent
		}
		if json.Unmarshal(data, &doc) != nil || doc.Extent == nil || s.Kind != "hole" && doc.Result != "cut" {
			continue
		}
		length, both := doc.Extent.Length, ""
		if doc.Extent.Kind == "symmetric" {
			length, both = doc.Extent.Total, `,"both":true`
		}
		f, err := quantity.Parse(length)
		if err != nil || len(f.Names()) > 0 {
			continue
		}
		out = append(out, remedy{kind: report.Depth, words: length + " in " + s.Title(), extents: []part.Alteration{{
			Step: s.ID, Do: part.AlterSet, Path: "extent", Text: `{"kind":"through"` + both + `}`}}})
	}
	return out
}

// heals tells that a remedy makes the attempt follow.
func (c *culprit) heals(ctx context.Context, r remedy) (bool, error) {
	if c.tries++; c.tries > maxTries {
		return false, nil
	}
	alter := slices.Clone(r.extents)
	for s, text := range r.sites {
		if s.step != "" {
			alter = append(alter, part.Alteration{Step: s.step, Do: part.AlterSize, Path: s.path, Text: text})
		}
	}
	doc, err := c.Attempt.Altered(alter)
	if err != nil {
		return false, nil // such a document is none
	}
	for s, text := range r.sites {
		for i := range doc.Parameters {
			if doc.Parameters[i].Name == s.parameter {
				doc.Parameters[i].Formula = text
			}
		}
	}
	set := map[string]quantity.Quantity{}
	if c.pair.Match != "none" {
		set[c.pair.Attempt] = c.own(c.value)
	}
	for k, v := range r.set {
		set[k] = v
	}
	b, err := c.Rebuilder.Rebuild(ctx, doc, set)
	if ctx.Err() != nil {
		return false, ctx.Err()
	}
	if err != nil || slices.ContainsFunc(b.Failed(), func(f part.StepReport) bool { return !c.broken[f.ID] }) {
		return false, nil
	}
	f, err := c.measureOwn(b)
	if err != nil {
		return false, nil
	}
	outcome, _ := judge(c.ref0, c.refv, c.att0, f)
	return outcome == report.Follows, nil
}

// find tries what may be behind it, and what is left as a guess: the typed numbers.
func (c *culprit) find(ctx context.Context) (*report.Behind, []string, error) {
	changes, err := c.changes()
	if err != nil {
		return nil, nil, err
	}
	all := sites(c.Attempt, c.att.Table)
	numbers, twins := c.numbers(changes, all), c.twins(changes)
	// What the reference has in the same words is meant so.
	meant := map[string]bool{}
	for _, s := range sites(c.Reference, c.ref.Table) {
		meant[s.text] = true
	}
	var guess []string
	for _, r := range numbers {
		for s := range r.sites {
			if !meant[s.text] {
				guess = append(guess, r.words)
			}
		}
	}
	slices.Sort(guess)
	guess = slices.Compact(guess)
	var together []remedy
	for _, list := range [][]remedy{numbers, twins} {
		if len(list) > 1 {
			sum := list[0]
			for _, r := range list[1:] {
				sum = sum.and(r)
			}
			words := make([]string, len(list))
			for i, r := range list {
				words[i] = r.words
			}
			slices.Sort(words)
			sum.words = strings.Join(slices.Compact(words), "\n")
			together = append(together, sum)
		}
	}
	for _, r := range slices.Concat(numbers, twins, c.depths(), c.tied(all), together) {
		ok, err := c.heals(ctx, r)
		if err != nil {
			return nil, nil, err
		}
		if ok {
			return &report.Behind{Kind: r.kind, Where: strings.Split(r.words, "\n")}, guess, nil
		}
	}
	return nil, guess, nil
}

// behind finds what keeps an attempt from following a parameter at a value.
func (s *Sweeper) behind(ctx context.Context, p Partner, v quantity.Quantity, ref, att *part.Build, ref0, att0 figures,
	broken map[string]bool) (*report.Behind, []string, error) {
	refv, fails, err := s.reference(ctx, p.Reference, v)
	if err != nil || fails {
		return nil, nil, err
	}
	c := &culprit{Sweeper: s, pair: p, value: v, ref: ref, att: att, ref0: ref0, refv: refv, att0: att0, broken: broken}
	found, guess, err := c.find(ctx)
	if err != nil {
		return nil, nil, fmt.Errorf("what is behind %s: %w", p.Reference, err)
	}
	return found, guess, nil
}
