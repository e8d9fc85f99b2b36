package school

import (
	"cmp"
	"context"
	"encoding/json"
	"math"
	"slices"
	"time"

	"hammerset/core/desk"
	"hammerset/core/gradebook"
	"hammerset/store"
)

// Gradebook is what the students of a class were given, and what is wrong most often.
type Gradebook struct {
	Class    store.Class
	Students []Person
	Issues   []store.Issue
	Count    gradebook.Count
	Book     gradebook.Book
	// Left are students who have left and handed something in, with what they were given; nothing else sums them up.
	Left     []store.Pupil
	LeftBook gradebook.Book
	Wrong    [][]WrongBalloon // by issue, the most often first
}

// WrongBalloon is a characteristic that is not in, in the newest attempts of so many students.
type WrongBalloon struct {
	Balloon  int
	Label    string
	Students int
}

// mostWrong is how many characteristics are listed of an issue.
const mostWrong = 5

// Gradebook gives the gradebook of a class, where of several attempts that were returned the last or the best counts.
// Practice is not in it.
func (s *School) Gradebook(ctx context.Context, by Person, class int64, count gradebook.Count) (Gradebook, error) {
	out := Gradebook{Count: count}
	if count != gradebook.Last && count != gradebook.Best {
		return out, refuse(Faulty, "either the last or the best attempt counts", "")
	}
	if err := s.may(ctx, by, ExportClass, row{class: class}); err != nil {
		return out, err
	}
	var err error
	if out.Class, err = s.store.Class(ctx, class); err != nil {
		return out, err
	}
	pupils, err := s.store.Pupils(ctx, class)
	if err != nil {
		return out, err
	}
	if out.Issues, err = s.store.IssuesIn(ctx, class); err != nil {
		return out, err
	}
	out.Issues = slices.DeleteFunc(out.Issues, func(i store.Issue) bool { return i.Withdrawn != nil || i.Practice })
	own, err := s.store.OwnIn(ctx, class)
	if err != nil {
		return out, err
	}
	rows, err := s.store.RowsOf(ctx, idsOf(out.Issues), 0)
	if err != nil {
		return out, err
	}
	var students []int64
	for _, p := range pupils {
		if p.Until == nil {
			out.Students, students = append(out.Students, p.User), append(students, p.ID)
		}
	}
	var issues []gradebook.Issue
	var attempts []gradebook.Attempt
	for _, i := range out.Issues {
		issues = append(issues, booked(i, own[i.ID]))
		attempts = append(attempts, bookedAttempts(rows[i.ID])...)
	}
	out.Book = gradebook.Make(students, issues, attempts, count)
	bookLeft(&out, pupils, issues, attempts)
	out.Wrong, err = s.wrongest(ctx, out.Issues)
	return out, err
}

// bookLeft books those who have left and handed something in: for them is what they handed in.
func bookLeft(g *Gradebook, pupils []store.Pupil, issues []gradebook.Issue, attempts []gradebook.Attempt) {
	issues = slices.Clone(issues)
	had := map[int64]bool{}
	for k := range issues {
		issues[k].For = map[int64]bool{}
		for _, a := range attempts {
			if a.Issue == issues[k].ID {
				issues[k].For[a.Student], had[a.Student] = true, true
			}
		}
	}
	var left []int64
	for _, p := range pupils {
		if p.Until != nil && had[p.ID] {
			g.Left, left = append(g.Left, p), append(left, p.ID)
		}
	}
	g.LeftBook = gradebook.Make(left, issues, attempts, g.Count)
}

// booked is an issue as the gradebook has it.
func booked(i store.Issue, own []store.Own) gradebook.Issue {
	out := gradebook.Issue{ID: i.ID, Weight: i.Weight, Due: i.Due, Closed: i.Closed != nil, Excused: map[int64]bool{},
		Came: map[int64]time.Time{}, Dues: map[int64]time.Time{}}
	if i.Chosen {
		out.For = map[int64]bool{}
	}
	for _, o := range own {
		if o.Excused {
			out.Excused[o.Student] = true
		}
		if o.Joined != nil {
			out.Came[o.Student] = *o.Joined
		}
		if o.Due != nil {
			out.Dues[o.Student] = *o.Due
		}
		if o.Given && out.For != nil {
			out.For[o.Student] = true
		}
	}
	return out
}

// wrongest lists by issue what is wrong most often in the newest attempts.
func (s *School) wrongest(ctx context.Context, issues []store.Issue) ([][]WrongBalloon, error) {
	briefs, err := s.briefs(ctx, issues)
	if err != nil {
		return nil, err
	}
	var out [][]WrongBalloon
	for _, i := range issues {
		by := map[desk.Wrong]int{}
		list := briefs[i.ID]
		for k, a := range list {
			var d desk.Digest
			if k+1 < len(list) && list[k+1].Student == a.Student || a.Digest == nil ||
				json.Unmarshal(a.Digest, &d) != nil {
				continue
			}
			for _, w := range d.Wrong {
				by[w]++
			}
		}
		var all []WrongBalloon
		for w, n := range by {
			all = append(all, WrongBalloon{w.Balloon, w.Label, n})
		}
		slices.SortFunc(all, func(a, b WrongBalloon) int {
			return cmp.Or(b.Students-a.Students, a.Balloon-b.Balloon, cmp.Compare(a.Label, b.Label))
		})
		out = append(out, all[:min(len(all), mostWrong)])
	}
	return out, nil
}

// Weigh changes what an issue weighs in the gradebook of its class.
func (s *School) Weigh(ctx context.Context, by Person, issue int64, weight float64) error {
	i, err := s.issue(ctx, by, ChangeIssue, issue)
	if err != nil {
		return err
	}
	if !(weight >= 0 && weight <= 100) || math.IsNaN(weight) {
		return refuse(Faulty, "an exercise weighs from 0 to 100", "0 leaves it out of the mean")
	}
	return s.store.Weigh(ctx, i.ID, weight, by.ID)
}

// Standing is how a student stands in a class: the mean of what was returned, and what else there is.
type Standing struct {
	Class    string
	Percent  float64 // NaN where nothing counts yet
	Returned int
	Waiting  int // for its check or its return
	Missing  int // closed, and nothing was handed in: 0
	Open     int // nothing is handed in yet
}

// Standings tells a student how matters stand in each class, where the last attempt that was returned counts.
func (s *School) Standings(ctx context.Context, by Person) ([]Standing, error) {
	issues, err := s.store.Issues(ctx, by, store.Student)
	if err != nil {
		return nil, err
	}
	issues = slices.DeleteFunc(issues, func(i store.Issue) bool { return i.Practice })
	own, err := s.store.OwnOf(ctx, by.ID)
	if err != nil {
		return nil, err
	}
	rows, err := s.store.RowsOf(ctx, idsOf(issues), by.ID)
	if err != nil {
		return nil, err
	}
	classes := map[int64][]store.Issue{}
	for _, i := range issues {
		classes[i.ClassID] = append(classes[i.ClassID], i)
	}
	out := []Standing{}
	for _, list := range classes {
		out = append(out, standingIn(by.ID, list, own, rows))
	}
	slices.SortFunc(out, func(a, b Standing) int { return cmp.Compare(a.Class, b.Class) })
	return out, nil
}

// standingIn is how a student stands in a class of some issues.
func standingIn(student int64, list []store.Issue, own map[int64]store.Own, rows map[int64][]store.Attempt) Standing {
	var issues []gradebook.Issue
	var attempts []gradebook.Attempt
	for _, i := range list {
		o := own[i.ID]
		o.Student = student
		issues = append(issues, booked(i, []store.Own{o}))
		attempts = append(attempts, bookedAttempts(rows[i.ID])...)
	}
	book := gradebook.Make([]int64{student}, issues, attempts, gradebook.Last)
	out := Standing{Class: list[0].ClassName, Percent: book.Percents[0]}
	for _, c := range book.Cells[0] {
		switch c.State {
		case gradebook.Returned:
			out.Returned++
		case gradebook.Waiting:
			out.Waiting++
		case gradebook.Missing:
			out.Missing++
		case gradebook.Open, gradebook.Unusable:
			out.Open++
		}
	}
	return out
}

// bookedAttempts are attempts as the gradebook has them.
func bookedAttempts(list []store.Attempt) (out []gradebook.Attempt) {
	for _, a := range list {
		out = append(out, gradebook.Attempt{ID: a.ID, Issue: a.IssueID, Student: a.Student, Number: a.Number,
			State: a.State, Late: a.Late, Points: a.Points, OutOf: a.OutOf})
	}
	return out
}
