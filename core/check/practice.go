package check

import (
	"fmt"
	"strings"

	"hammerset/core/grade"
	"hammerset/core/part"
	"hammerset/core/report"
	"hammerset/core/robust"
	"hammerset/core/sketch/review"
)

// practiceRules is how many rules practice judges.
const practiceRules = 3

// practice judges rules of good practice that a model document shows (common practice, no
// published source): steps are named, sketches are tied to the origin, sizes are given once
// and by name.
func practice(doc *part.Document, sketches []report.Sketch) []report.Practice {
	if doc == nil || len(doc.Steps) == 0 {
		return nil
	}
	var out []report.Practice
	share := func(id, label string, good, all int, lacks string) {
		if all == 0 {
			return
		}
		out = append(out, report.Practice{ID: id, Label: label, Share: float64(good) / float64(all),
			Detail: fmt.Sprintf(lacks, all-good, all)})
	}
	named := 0
	for _, s := range doc.Steps {
		if strings.TrimSpace(s.Name) != "" {
			named++
		}
	}
	share("names", "Steps have names", named, len(doc.Steps), "%d of %d steps have no name of their own")
	tied, lean := 0, 0
	for _, s := range sketches {
		has := map[string]bool{}
		for _, n := range s.Notes {
			has[n.Kind] = true
		}
		if !has[review.Untied] {
			tied++
		}
		if !has[review.Repeated] && !has[review.TwoSided] && !has[review.Plain] && !has[review.Unnamed] {
			lean++
		}
	}
	share("origin", "Sketches are tied to the origin", tied, len(sketches), "%d of %d sketches are not tied to the origin")
	share("sizes", "Sizes are given once, and by name", lean, len(sketches),
		"%d of %d sketches give sizes that a constraint or a parameter should give")
	return out
}

// Sample counts what a model is judged by that is made as a reference is. Of a reference that is a file of geometry
// only the figures are known.
func Sample(ref *part.Document) grade.Sample {
	out := grade.Sample{Figures: wholeFigures, Changes: len(robust.Percents)}
	if ref == nil {
		return out
	}
	if table, err := ref.Table(nil); err == nil {
		out.Sizes = len(table.Driving())
	}
	for i := range ref.Steps {
		if ref.Steps[i].Sketched() != nil {
			out.Sketches++
		}
	}
	out.Rules = practiceRules
	return out
}
