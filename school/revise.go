package school

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"unicode/utf8"

	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/store"
)

// longestNotice is how many letters a notice to students may have.
const longestNotice = 1000

// ReviseSheet puts a running issue on another version of its exercise in which the same is measured, so that nothing is
// checked anew. The sheet gets the next revision index, and the students read the text.
func (s *School) ReviseSheet(ctx context.Context, by Person, issue, version int64, text string) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	if version == i.VersionID {
		return refuse(Conflict, "the issue has this version of the sheet already", "edit the sheet of the exercise first")
	}
	n, onto, err := s.revised(ctx, by, i, version, text)
	if err != nil {
		return err
	}
	if err := s.carrySizes(ctx, i, onto); err != nil {
		return err
	}
	err = s.store.Revise(ctx, n, onto, "sheet", "the sheet was changed: "+n.Text)
	if errors.Is(err, store.ErrMeasured) {
		return refuse(Conflict, "that version measures something else, and not only the sheet is another",
			"see first what would change for the attempts")
	}
	return err
}

// revised gives the version with which a running issue goes on, and what its students are told: where the newest
// version of the exercise has the revision index that the issue has, the next one is put into its title block, as a
// version of its own.
func (s *School) revised(ctx context.Context, by Person, i store.Issue, version int64, text string) (n store.Notice,
	onto int64, err error) {
	text = strings.TrimSpace(text)
	if utf8.RuneCountInString(text) > longestNotice {
		return n, 0, refuse(Faulty, fmt.Sprintf("the notice has more than %d letters", longestNotice), "shorten it")
	}
	if text == "" {
		text = "The sheet was changed. Look at it again before you hand in."
	}
	was, _, _, err := s.readVersion(ctx, i.VersionID)
	if err != nil {
		return n, 0, err
	}
	is, v, reference, err := s.readVersion(ctx, version)
	if err != nil {
		return n, 0, err
	}
	newest, err := s.store.Newest(ctx, v.ExerciseID)
	if err != nil {
		return n, 0, err
	}
	if newest.ID == v.ID && is.TitleBlock.Revision == was.TitleBlock.Revision {
		is.TitleBlock.Revision = exercise.NextRevision(was.TitleBlock.Revision)
		b, err := bundled(is, reference)
		if err != nil {
			return n, 0, err
		}
		if v, err = s.AddBundle(ctx, by.ID, b, v.ExerciseID, "revision "+is.TitleBlock.Revision); err != nil {
			return n, 0, err
		}
	}
	return store.Notice{IssueID: i.ID, By: by.ID, Revision: is.TitleBlock.Revision, Text: text}, v.ID, nil
}

// readVersion reads a version of an exercise: its document, its row and its reference.
func (s *School) readVersion(ctx context.Context, version int64) (*exercise.Exercise, store.Version, []byte, error) {
	v, reference, err := s.withReference(ctx, version)
	if err != nil {
		return nil, v, nil, err
	}
	ex, err := documents.ReadExercise(v.Document)
	return ex, v, reference, err
}
