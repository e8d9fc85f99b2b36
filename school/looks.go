package school

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"hammerset/kernel/task"
	"hammerset/store"
)

// looksADay is how often a student may ask within a day which characteristics a model has, for
// each exercise: enough to look something over, too few to try out a size that is not on the sheet.
const looksADay = 4

// Look is what was found when somebody asked which characteristics a model has already.
type Look struct {
	Had  []string
	May  bool       // whether this exercise tells
	Left int        // looks that are left today
	At   *time.Time // when; nil where nobody has looked
}

// looking is a model whose exercise gives its results at once, and the looks at it so far, the newest first.
type looking struct {
	model store.Model
	issue store.Issue
	looks []store.Look
}

// looking finds a model that may be looked at; nil where its exercise does not tell.
func (s *School) looking(ctx context.Context, by Person, id int64) (*looking, error) {
	m, err := s.model(ctx, by, KeepModels, id)
	if err != nil || m.IssueID == nil {
		return nil, err
	}
	i, err := s.issue(ctx, by, ReadIssue, *m.IssueID)
	if err != nil || i.Results != AtOnce {
		return nil, err
	}
	looks, err := s.store.Looks(ctx, by.ID, i.ID)
	return &looking{m, i, looks}, err
}

// last tells of the newest look, and how many are left.
func (l *looking) last() Look {
	out := Look{Had: []string{}, May: true, Left: max(0, looksADay-l.today())}
	if len(l.looks) > 0 {
		if json.Unmarshal(l.looks[0].Had, &out.Had) != nil {
			out.Had = []string{} // kept in a form that is not read any more
		}
		out.At = &l.looks[0].At
	}
	return out
}

// today counts the looks within a day.
func (l *looking) today() int {
	n := 0
	for _, x := range l.looks {
		if time.Since(x.At) < 24*time.Hour {
			n++
		}
	}
	return n
}

// Had says what the last look at a model found. It asks for no new one.
func (s *School) Had(ctx context.Context, by Person, id int64) (Look, error) {
	l, err := s.looking(ctx, by, id)
	if err != nil || l == nil {
		return Look{Had: []string{}}, err
	}
	return l.last(), nil
}

// LookHad looks which characteristics a saved model has already. It answers for exercises whose
// results are given at once, and there a few times a day; the same model again costs nothing.
func (s *School) LookHad(ctx context.Context, by Person, id int64) (Look, error) {
	l, err := s.looking(ctx, by, id)
	if err != nil || l == nil {
		return Look{Had: []string{}}, err
	}
	sum := sha256.Sum256(l.model.Document)
	sha := hex.EncodeToString(sum[:])
	if at := slices.IndexFunc(l.looks, func(x store.Look) bool { return x.Document == sha }); at >= 0 {
		same := l.looks[at]
		l.looks = slices.Insert(slices.Delete(l.looks, at, at+1), 0, same)
		return l.last(), nil
	}
	if l.today() >= looksADay {
		return Look{}, refuse(TooMany, fmt.Sprintf("%d looks within a day are used", looksADay),
			"measure for yourself against the sheet, or hand in")
	}
	v, reference, err := s.referenceFor(ctx, l.issue.VersionID, l.issue, by.ID)
	if err != nil {
		return Look{}, err
	}
	raw, err := s.kernel.Do(ctx, &task.Request{Kind: task.Had, Exercise: v.Document, Reference: reference,
		File: l.model.Document, Keep: fmt.Sprint(id)}, nil)
	if err == nil {
		err = s.store.KeepLook(ctx, by.ID, l.issue.ID, sha, raw)
	}
	if err == nil {
		l.looks, err = s.store.Looks(ctx, by.ID, l.issue.ID)
	}
	return l.last(), err
}
