package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"hammerset/core/prepare"
	"hammerset/store"
)

// Bounds of questions and answers, in letters, and how many a student has open at one issue.
const (
	longestQuestion = 1000
	longestAnswer   = 2000
	mostOpen        = 10
)

// Question is what was asked of an issued sheet, as the asker may see it.
type Question struct {
	store.Question
	Balloon int  // 0 of the sheet as a whole
	Mine    bool // the asker's own
}

// questionsOf lists what was asked at an issue. A student sees the own questions, and those of others when they are
// answered, without names.
func (s *School) questionsOf(ctx context.Context, by Person, issue int64, staff bool,
	stated []prepare.Stated) ([]Question, error) {
	all, err := s.store.Questions(ctx, issue)
	if err != nil {
		return nil, err
	}
	out := []Question{}
	for _, q := range all {
		x := Question{Question: q, Mine: q.Student == by.ID}
		if !staff && !x.Mine && q.Answer == "" {
			continue
		}
		if !staff {
			x.StudentName = ""
		}
		if i := slices.IndexFunc(stated, func(c prepare.Stated) bool { return c.ID == q.Characteristic }); i >= 0 {
			x.Balloon = stated[i].Balloon
		}
		out = append(out, x)
	}
	return out, nil
}

// Ask asks a question at a balloon of an issued sheet, or of the sheet as a whole.
func (s *School) Ask(ctx context.Context, by Person, issue int64, characteristic, text string) error {
	i, err := s.issue(ctx, by, HandIn, issue)
	if err != nil {
		return err
	}
	text = strings.TrimSpace(text)
	if n := utf8.RuneCountInString(text); n == 0 || n > longestQuestion {
		return refuse(Faulty, fmt.Sprintf("a question has from 1 to %d letters", longestQuestion), "")
	}
	if characteristic != "" {
		_, p, err := s.version(ctx, i.VersionID)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(p.Stated, func(c prepare.Stated) bool { return c.ID == characteristic }) {
			return refuse(Faulty, "there is no such balloon on this sheet", "pick another one, or ask of the whole sheet")
		}
	}
	err = s.store.Ask(ctx, store.Question{IssueID: i.ID, Student: by.ID, Characteristic: characteristic, Text: text},
		mostOpen)
	if errors.Is(err, store.ErrTooMany) {
		return refuse(TooMany, fmt.Sprintf("%d questions of yours wait for an answer", mostOpen), "wait for one of them")
	}
	return err
}

// Answer answers a question; all students of the issue read it.
func (s *School) Answer(ctx context.Context, by Person, issue, question int64, text string) error {
	i, err := s.issue(ctx, by, RemarkOnAttempts, issue)
	if err != nil {
		return err
	}
	text = strings.TrimSpace(text)
	if n := utf8.RuneCountInString(text); n == 0 || n > longestAnswer {
		return refuse(Faulty, fmt.Sprintf("an answer has from 1 to %d letters", longestAnswer), "")
	}
	return s.store.Answer(ctx, i.ID, question, text, by.ID)
}
