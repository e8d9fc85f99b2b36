package school

import (
	"cmp"
	"context"
	"strings"

	"hammerset/core/quantity"
	"hammerset/core/report"
	"hammerset/store"
)

// mostOffered is how many of a person's own remarks are offered.
const mostOffered = 6

// comments is the kind under which what a person says of whole attempts is kept.
const comments = "comment"

// kindOf is the kind of a finding, by its key; of none that of comments.
func kindOf(finding string) string {
	if finding == "" {
		return comments
	}
	kind, _, _ := strings.Cut(finding, ":")
	return kind
}

// OwnRemarks lists what the asker has said of a finding before, and of others of its kind: of whole attempts where the
// finding is empty.
func (s *School) OwnRemarks(ctx context.Context, by Person, issue int64, finding string) ([]store.OwnRemark, error) {
	i, err := s.issue(ctx, by, RemarkOnAttempts, issue)
	if err != nil {
		return nil, err
	}
	return s.store.OwnRemarks(ctx, by.ID, i.ExerciseID, finding, kindOf(finding), mostOffered)
}

// ForgetRemark takes something out of what is offered to the asker.
func (s *School) ForgetRemark(ctx context.Context, by Person, issue int64, finding, text string) error {
	if _, err := s.issue(ctx, by, RemarkOnAttempts, issue); err != nil {
		return err
	}
	return s.store.ForgetOwnRemark(ctx, by.ID, kindOf(finding), text)
}

// keepRemark keeps what somebody says, to be offered again.
func (s *School) keepRemark(ctx context.Context, by Person, i store.Issue, finding, text string) error {
	if text = strings.TrimSpace(text); text == "" {
		return nil
	}
	return s.store.KeepOwnRemark(ctx, by.ID, i.ExerciseID, finding, kindOf(finding), text)
}

// Blanks lists what a comment may have in the place of which each student's own stands, with what that is.
func Blanks() [][2]string {
	return [][2]string{{"{name}", "the student's name"}, {"{first name}", "the first word of it"},
		{"{points}", "the points"}, {"{out of}", "the points that there are"}, {"{percent}", "the points in percent"}}
}

// remarkFor is a remark with what is one student's own in its blanks: {name}, {first name}, and of the characteristic
// that the finding is at {stated}, {measured} and {deviation}.
func (s *School) remarkFor(ctx context.Context, a store.Attempt, i store.Issue, finding, text string) (string, error) {
	if !strings.Contains(text, "{") {
		return text, nil
	}
	first, _, _ := strings.Cut(a.StudentName, " ")
	own := []string{"{name}", a.StudentName, "{first name}", first}
	r, err := s.checked(ctx, true, a, i)
	if err != nil {
		return "", err
	}
	if r != nil {
		for k := range r.Findings {
			f := &r.Findings[k]
			for _, c := range r.Characteristics {
				if f.Key() == finding && c.ID == f.Characteristic {
					own = append(own, "{stated}", c.NominalText, "{measured}", cmp.Or(c.MeasuredText, "nothing"), "{deviation}",
						cmp.Or(c.DeviationText, "nothing"))
				}
			}
		}
	}
	return strings.NewReplacer(own...).Replace(text), nil
}

// hung hangs remarks that were written when figures went into keys on the findings of a report as they are called now.
func hung(remarks []store.Remark, r *report.Report) {
	if r == nil {
		return
	}
	for i := range remarks {
		for k := range r.Findings {
			if f := &r.Findings[k]; f.Was() == remarks[i].Finding {
				remarks[i].Finding = f.Key()
			}
		}
	}
}

// filled is a comment with what is a student's own in its blanks.
func filled(comment, name string, points, outOf float64) string {
	percent := 0.0
	if outOf > 0 {
		percent = 100 * points / outOf
	}
	first, _, _ := strings.Cut(name, " ")
	return strings.NewReplacer("{name}", name, "{first name}", first, "{points}", quantity.FormatPoints(points),
		"{out of}", quantity.FormatPoints(outOf), "{percent}", quantity.FormatPoints(percent)).Replace(comment)
}
