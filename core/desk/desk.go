// Package desk finds what looks odd among the attempts at an issue: what an
// instructor would want to look at before anything else.
package desk

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"hammerset/core/alike"
	"hammerset/core/report"
)

// Attempt is what the desk knows of one attempt.
type Attempt struct {
	ID      int64
	Issue   int64
	Student string
	Number  int
	File    string // SHA-256
	State   string
	What    string // why it could not be checked
	Digest  *Digest
}

// Digest is what lists need of a report.
type Digest struct {
	Wrong    []Wrong `json:"wrong,omitempty"`    // characteristics that are not in
	Mirrored bool    `json:"mirrored,omitempty"` // the mirror image was modelled
	Scale    string  `json:"scale,omitempty"`    // in which other unit it was modelled, in words
	Asks     int     `json:"asks,omitempty"`     // how often it asks a person to look
	Unclear  bool    `json:"unclear,omitempty"`  // something is wrong, and no cause is known
	// Traits are what other files may have in common with this one, and SizesOf is the student whose personal sizes it
	// has, where that is another one.
	Traits  []alike.Trait `json:"traits,omitempty"`
	SizesOf string        `json:"sizesOf,omitempty"`
}

// Wrong is a characteristic that is not in, and what it measures where that is its own fault.
type Wrong struct {
	Balloon int    `json:"balloon"`
	Label   string `json:"label"`
	Value   string `json:"value,omitempty"`
}

// DigestOf makes the digest of a report.
func DigestOf(r *report.Report) *Digest {
	d := &Digest{}
	for _, c := range r.Characteristics {
		if c.Verdict == report.Ask {
			d.Asks++
		}
		if c.Verdict != report.In {
			w := Wrong{Balloon: c.Balloon, Label: c.Label}
			if !c.Behind && !c.Carried {
				w.Value = c.MeasuredText
			}
			d.Wrong = append(d.Wrong, w)
		}
	}
	if r.Pose != nil {
		d.Mirrored = r.Pose.Mirrored
	}
	if r.Scale != nil {
		d.Scale = r.Scale.Words
	}
	d.Unclear = len(d.Wrong) > 0 && !r.Explained
	return d
}

// Oddity is one thing that deserves a look.
type Oddity struct {
	What, Why string
	Issue     int64
	Attempt   int64
	Other     int64 // the attempt that it is to be looked at beside; 0 for none
}

// least is the number of students from which a mistake that most of them make
// points at the sheet.
const least = 3

// Odd looks through the attempts at one issue.
func Odd(attempts []Attempt) []Oddity {
	byFile := map[string][]Attempt{}
	latest := map[string]Attempt{}
	for _, a := range attempts {
		byFile[a.File] = append(byFile[a.File], a)
		if b, ok := latest[a.Student]; !ok || a.Number > b.Number {
			latest[a.Student] = a
		}
	}
	out := sameFiles(byFile)
	students := make([]string, 0, len(latest))
	for s := range latest {
		students = append(students, s)
	}
	sort.Strings(students)
	checked := 0
	wrong := map[int]int{}
	label := map[int]string{}
	var issue int64
	for _, s := range students {
		a := latest[s]
		issue = a.Issue
		switch {
		case a.State == "parked":
			out = append(out, Oddity{What: s + ": the check could not be finished", Why: a.What, Issue: a.Issue, Attempt: a.ID})
		case a.State == "unusable":
			out = append(out, Oddity{What: s + " handed in what cannot be checked", Why: a.What, Issue: a.Issue, Attempt: a.ID})
		case a.Digest != nil:
			checked++
			for _, w := range a.Digest.Wrong {
				wrong[w.Balloon]++
				label[w.Balloon] = w.Label
			}
			if of := a.Digest.SizesOf; of != "" && of != a.Student {
				out = append(out, Oddity{What: s + " handed in a model with the personal sizes of " + of,
					Why: "every size is that of the other sheet", Issue: a.Issue, Attempt: a.ID, Other: latest[of].ID})
			}
			if a.Digest.Mirrored {
				out = append(out, Oddity{What: s + " modelled the mirror image", Issue: a.Issue, Attempt: a.ID})
			}
			if a.Digest.Scale != "" {
				out = append(out, Oddity{What: s + " modelled in another unit", Why: a.Digest.Scale, Issue: a.Issue,
					Attempt: a.ID})
			}
		}
	}
	out = append(out, lookAlike(students, latest)...)
	balloons := make([]int, 0, len(wrong))
	for b := range wrong {
		balloons = append(balloons, b)
	}
	sort.Ints(balloons)
	for _, b := range balloons {
		if checked >= least && 2*wrong[b] > checked {
			out = append(out, Oddity{What: fmt.Sprintf("%d of %d have balloon %d wrong (%s)", wrong[b], checked, b, label[b]),
				Why: "look whether the sheet is clear there", Issue: issue})
		}
	}
	return out
}

// sameFiles finds who handed in the same file, by its content.
func sameFiles(byFile map[string][]Attempt) []Oddity {
	var out []Oddity
	files := make([]string, 0, len(byFile))
	for f := range byFile {
		files = append(files, f)
	}
	sort.Strings(files)
	for _, f := range files {
		var names []string
		seen := map[string]bool{}
		for _, a := range byFile[f] {
			if !seen[a.Student] {
				seen[a.Student] = true
				names = append(names, a.Student)
			}
		}
		if len(names) > 1 {
			a := byFile[f][len(byFile[f])-1]
			other := byFile[f][0]
			out = append(out, Oddity{What: strings.Join(names, " and ") + " handed in the same file", Why: "to the last byte",
				Issue: a.Issue, Attempt: a.ID, Other: other.ID})
		}
	}
	return out
}

// lookAlike finds pairs whose newest attempts have in common what hardly anybody else's has, but for those that are the
// same file, which is told already.
func lookAlike(students []string, latest map[string]Attempt) []Oddity {
	var list []Attempt
	var of [][]alike.Trait
	for _, s := range students {
		a := latest[s]
		if a.Digest == nil {
			continue
		}
		traits := slices.Clone(a.Digest.Traits)
		for _, w := range a.Digest.Wrong {
			if w.Value != "" {
				traits = append(traits, alike.Trait{Kind: alike.Value, Of: fmt.Sprintf("the wrong value %s at balloon %d", w.Value,
					w.Balloon)})
			}
		}
		list, of = append(list, a), append(of, traits)
	}
	var out []Oddity
	for _, p := range alike.Pairs(of) {
		a, b := list[p.A], list[p.B]
		if a.File == b.File {
			continue
		}
		out = append(out, Oddity{What: a.Student + " and " + b.Student + " handed in models that are alike",
			Why: p.Why(len(list)) + ". Look at both before you think anything of it", Issue: a.Issue, Attempt: a.ID,
			Other: b.ID})
	}
	return out
}
