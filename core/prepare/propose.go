package prepare

import (
	"context"
	"reflect"
	"slices"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/sheet"
	"hammerset/core/sheet/audit"
	"hammerset/core/solid"
)

// Proposed is an exercise to whose characteristics those were added that its sheet lacked.
type Proposed struct {
	Exercise *exercise.Exercise `json:"exercise"`
	Added    []string           `json:"added"` // their labels
	// Left are findings that no characteristic settles.
	Left []Finding `json:"left"`
}

// mostProposed is how many characteristics are added at most.
const mostProposed = 300

// Propose adds characteristics until the sheet of an exercise determines its part, as far as that can be, and lays the
// sheet out anew.
func Propose(ctx context.Context, c *check.Checker, ex *exercise.Exercise, ref check.Reference,
	m sheet.Metrics, progress Progress) (*Proposed, error) {
	named, geo, _, err := described(ctx, c, ref)
	if err != nil {
		return nil, err
	}
	out := &Proposed{Exercise: ex, Added: []string{}, Left: []Finding{}}
	called := Called(named.Names, geo, ref.Document.Titles(), ex.Unit)
	left, err := complete(ctx, geo, ex, called, progress, func(id string) error {
		out.Added = append(out.Added, ex.Characteristic(id).Label)
		return nil
	})
	if err != nil {
		return nil, err
	}
	for _, f := range left {
		if f.Open() || f.Kind == "unjudged" {
			out.Left = append(out.Left, f)
		}
	}
	s, err := Arranged(ctx, c.Rebuilder.Kernel(), *ex, named, m, progress)
	if err != nil {
		return nil, err
	}
	ex.Sheets = []exercise.Sheet{*s}
	return out, nil
}

// complete adds to an exercise what its sheet lacks, one characteristic after the other, each of which is told, and
// gives the findings that are left.
func complete(ctx context.Context, geo *solid.Geometry, ex *exercise.Exercise, called []string,
	progress Progress, added func(id string) error) ([]Finding, error) {
	words := auditing{geo, ex, called}
	most := 0 // that was missing at a time
	var made []*Addition
	for range mostProposed {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		open, err := audit.Open(geo, ex)
		if err != nil {
			return nil, err
		}
		var findings []Finding
		left := 0
		for i := range open {
			f := words.missing(&open[i])
			if findings = append(findings, f); f.Add != nil {
				left++
			}
		}
		most = max(most, left)
		progress("stating what is missing", 1-float64(left)/float64(max(1, most)))
		// One after the other, since each can settle what was missing beside it; of very many some at once. What has been
		// added and is still proposed settles nothing, as where a file is too rough to tell.
		adds := firstOf(findings, max(1, left/10), made)
		if len(adds) == 0 {
			break
		}
		for _, add := range adds {
			made = append(made, add)
			if err := added(ex.Add(exercise.Characteristic{Kind: add.Kind, Label: add.Label, Of: add.Of})); err != nil {
				return nil, err
			}
		}
	}
	audited, err := Audit(geo, ex, called, nil)
	if err != nil {
		return nil, err
	}
	return audited.Findings, nil
}

// firstOf are the first characteristics that would settle findings, each once, no more than some, and none of those
// that were made.
func firstOf(findings []Finding, most int, made []*Addition) []*Addition {
	var out []*Addition
	for i := range findings {
		add := findings[i].Add
		same := func(x *Addition) bool { return x.Kind == add.Kind && reflect.DeepEqual(x.Of, add.Of) }
		if add == nil || len(out) == most || slices.ContainsFunc(out, same) || slices.ContainsFunc(made, same) {
			continue
		}
		out = append(out, add)
	}
	return out
}
