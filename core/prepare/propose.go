package prepare

import (
	"context"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/sheet"
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
	m sheet.Metrics) (*Proposed, error) {
	named, _, err := c.Load(ctx, ref)
	if err != nil {
		return nil, err
	}
	geo, err := solid.Describe(c.Rebuilder.Kernel(), named.Shape, named.Names)
	if err != nil {
		return nil, err
	}
	out := &Proposed{Exercise: ex, Added: []string{}, Left: []Finding{}}
	called := Called(named.Names, geo, ref.Document.Titles(), ex.Unit)
	for len(out.Added) < mostProposed {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		audited, err := Audit(geo, ex, called, nil)
		if err != nil {
			return nil, err
		}
		add := first(audited.Findings)
		if add == nil {
			for _, f := range audited.Findings {
				if f.Open() || f.Kind == "unjudged" {
					out.Left = append(out.Left, f)
				}
			}
			break
		}
		ex.Add(exercise.Characteristic{Kind: add.Kind, Label: add.Label, Of: add.Of})
		out.Added = append(out.Added, add.Label)
	}
	s, err := Arranged(ctx, c.Rebuilder.Kernel(), *ex, named, m)
	if err != nil {
		return nil, err
	}
	ex.Sheets = []exercise.Sheet{*s}
	return out, nil
}

// first is the first characteristic that would settle a finding; nil where there is none.
func first(findings []Finding) *Addition {
	for i := range findings {
		if findings[i].Add != nil {
			return findings[i].Add
		}
	}
	return nil
}
