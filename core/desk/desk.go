// Package desk finds what looks odd among the attempts at an issue: what an
// instructor would want to look at before anything else.
package desk

import (
	"fmt"
	"sort"
	"strings"

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
	Report  *report.Report
}

// Oddity is one thing that deserves a look.
type Oddity struct {
	What, Why string
	Issue     int64
	Attempt   int64
}

// least is the number of students from which a mistake that most of them make
// points at the sheet.
const least = 3

// Odd looks through the attempts at one issue.
func Odd(attempts []Attempt) []Oddity {
	var out []Oddity
	byFile := map[string][]Attempt{}
	latest := map[string]Attempt{}
	for _, a := range attempts {
		byFile[a.File] = append(byFile[a.File], a)
		if b, ok := latest[a.Student]; !ok || a.Number > b.Number {
			latest[a.Student] = a
		}
	}
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
			out = append(out, Oddity{What: strings.Join(names, " and ") + " handed in the same file", Why: "to the last byte",
				Issue: a.Issue, Attempt: a.ID})
		}
	}
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
		case a.Report != nil:
			checked++
			for _, c := range a.Report.Characteristics {
				if c.Verdict != report.In {
					wrong[c.Balloon]++
					label[c.Balloon] = c.Label
				}
			}
			if p := a.Report.Pose; p != nil && p.Mirrored {
				out = append(out, Oddity{What: s + " modelled the mirror image", Issue: a.Issue, Attempt: a.ID})
			}
			if a.Report.Scale != nil {
				out = append(out, Oddity{What: s + " modelled in another unit", Why: a.Report.Scale.Words, Issue: a.Issue,
					Attempt: a.ID})
			}
		}
	}
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
