package diagnose

import (
	"fmt"
	"slices"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/report"
)

// sweep tells how the model follows changed sizes, a finding for each size and
// not for each value that was tried.
func (d *doctor) sweep() {
	var names []string
	rows := map[string][]report.Sweep{}
	for _, s := range d.r.Sweep {
		if rows[s.Parameter] == nil {
			names = append(names, s.Parameter)
		}
		rows[s.Parameter] = append(rows[s.Parameter], s)
	}
	for _, name := range names {
		if v := varied(name, rows[name]); len(v.at) > 0 {
			d.add(6, v.finding())
			continue
		}
		for _, s := range rows[name] {
			if s.Slides {
				d.add(8, report.Finding{Kind: "slides", Where: "parameter " + name, What: s.Detail,
					Cause:  "the part is not held to the origin or its middle as the reference is",
					Remedy: "put the centre of symmetry on the origin and constrain it there", Sure: "likely"})
				break
			}
		}
	}
}

// proved tells that an attempt does not follow one of its parameters, and that it was shown what is behind it.
func (d *doctor) proved(parameter string) bool {
	return slices.ContainsFunc(d.r.Sweep, func(s report.Sweep) bool {
		return s.Attempt == parameter && s.Behind != nil && len(varied(s.Parameter, []report.Sweep{s}).at) > 0
	})
}

// variation is what was seen when one size was varied.
type variation struct {
	name   string
	at     []string          // the changes at which it is not followed
	detail map[string]string // by outcome
	half   string
	typed  []string
	behind *report.Behind
	strays []report.Stray
}

// varied puts the cases of one size together.
func varied(name string, rows []report.Sweep) *variation {
	v := &variation{name: name, detail: map[string]string{}}
	for _, s := range rows {
		switch s.Outcome {
		case report.Follows, report.BothEnd, report.NoAnswer:
			continue
		}
		v.at = append(v.at, fmt.Sprintf("%+g %%", s.Percent))
		v.detail[s.Outcome] = s.Detail
		if s.Half != "" {
			v.half = s.Half
		}
		if s.Behind != nil {
			v.behind = s.Behind
		}
		if len(s.Typed) > 0 {
			v.typed = s.Typed
		}
		if len(s.Strays) > 0 {
			v.strays = s.Strays
		}
	}
	return v
}

// finding says the outcome that tells most, what is behind it, and what to do.
//
// Values are listed with it, since "breaks at +20 %" can be tried and "breaks" cannot.
func (v *variation) finding() report.Finding {
	f := report.Finding{Where: "parameter " + v.name, Sure: "certain"}
	at := strings.Join(v.at, ", ")
	numbers := ""
	if len(v.typed) > 0 {
		numbers = " (" + quantity.List(v.typed, 4) + ")"
	}
	has := func(outcome string) bool { _, ok := v.detail[outcome]; return ok }
	switch {
	case has(report.Missing):
		f.Kind, f.What, f.Cause, f.Remedy = "parameter-missing", "the model has no such parameter",
			"numbers were typed where the named size was asked for"+numbers, "add the parameter and use it in their place"
		return f
	case has(report.Still):
		f.Kind, f.What, f.Cause, f.Remedy = "parameter-still", "nothing changes when it changes",
			"a number was typed where the parameter was asked for"+numbers, "use "+v.name+" in the sizes that it drives"
		f.Sure = "likely"
		if numbers == "" {
			f.Cause = "no size uses it: its constraint is missing, or another size stands in its place"
		}
	case has(report.Breaks):
		f.Kind, f.What, f.Cause, f.Remedy, f.Sure = "breaks", fmt.Sprintf("the model breaks at %s: %s", at,
			v.detail[report.Breaks]), "a size was typed that should follow, or a cut has a typed depth where it should go "+
			"through", "make the sizes that depend on it follow", "likely"
	case v.half != "":
		f.Kind, f.What, f.Cause, f.Remedy, f.Sure = "half", fmt.Sprintf("at %s %s", at, v.half),
			"the two halves have sizes of their own, or one side is a fixed number"+numbers,
			"make both sides symmetric about the middle, or mirror one of them", "likely"
	default:
		f.Kind, f.What, f.Cause, f.Remedy, f.Sure = "differs", fmt.Sprintf("the model differs from the part at %s: %s",
			at, v.detail[report.Differs]), "a size that depends on it was typed as a number"+numbers+
			", or the part is not held to its symmetry", "change it by a tenth and see what stays behind", "likely"
		if numbers == "" {
			f.Cause = "something follows it that should stay, or stays that should follow"
			f.Remedy = "change it by a tenth and compare what moves with the sheet"
		}
	}
	v.shown(&f, at)
	v.proved(&f)
	return f
}

// shown names the characteristics on which it shows in place of what the whole part measures.
func (v *variation) shown(f *report.Finding, at string) {
	if len(v.strays) == 0 || f.Kind != "differs" {
		return
	}
	var words, follow, stay []string
	for _, s := range v.strays {
		list := &stay
		if s.Follow {
			list = &follow
		}
		*list = append(*list, fmt.Sprintf("%d (%s)", s.Balloon, s.Label))
	}
	say := func(list []string, one, more string) {
		switch len(list) {
		case 0:
		case 1:
			words = append(words, "balloon "+list[0]+" "+one)
		default:
			words = append(words, "balloons "+quantity.List(list, 4)+" "+more)
		}
	}
	say(follow, "should follow it and does not", "should follow it and do not")
	say(stay, "changes with it and should stay", "change with it and should stay")
	f.Balloon, f.Characteristic = v.strays[0].Balloon, v.strays[0].Characteristic
	f.What = fmt.Sprintf("the model differs from the part at %s: %s", at, strings.Join(words, "; "))
}

// proved says what was shown to be behind it, with what puts it right.
func (v *variation) proved(f *report.Finding) {
	if v.behind == nil {
		return
	}
	f.Cause, f.Sure = v.behind.Words(), "certain"
	switch v.behind.Kind {
	case report.Number:
		f.Remedy = "let it follow " + v.name + " there, by a formula in place of the number"
	case report.Twin:
		f.Remedy = "use " + v.name + " there as well, and leave the other one out"
	case report.Tied:
		f.Remedy = "give it a value of its own there"
	case report.Depth:
		f.Remedy = "choose the extent through"
	}
}
