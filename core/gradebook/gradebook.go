// Package gradebook sums up what the students of a class were given: for each exercise the attempt that counts, and of
// all together the mean that the weights of the exercises give.
package gradebook

import (
	"math"
	"slices"
	"time"
)

// Count says which of several attempts that were returned counts.
type Count string

// Which attempt counts.
const (
	Last Count = "last"
	Best Count = "best"
)

// Issue is an exercise as it was issued to the class.
type Issue struct {
	ID     int64
	Weight float64 // among the others; 0 leaves it out of the mean
	Due    time.Time
	Closed bool // nobody hands in any more: who has not is given 0
	// For tells whom it is for; nil for everybody.
	For map[int64]bool
	// Excused are the students for whom it does not count.
	Excused map[int64]bool
	// Came says of students who came to it after it had been issued when they did, and Dues when those hand in who have a
	// time of their own.
	Came, Dues map[int64]time.Time
}

// Attempt is what a student handed in.
type Attempt struct {
	ID      int64
	Issue   int64
	Student int64
	Number  int
	State   string // of the check: unusable ones never count
	Late    bool
	// Points and OutOf are what it was returned with; nil while it is not returned.
	Points, OutOf *float64
}

// State is what a cell of the book stands for.
type State string

// What a cell stands for.
const (
	Returned State = "returned" // counts
	Waiting  State = "waiting"  // handed in, and not returned yet
	Unusable State = "unusable" // handed in, and could not be used
	Missing  State = "missing"  // nothing handed in, and closed: 0
	Open     State = "open"     // nothing handed in yet
	Excused  State = "excused"  // does not count
	NotFor   State = "not for"  // is for other students
	Before   State = "before"   // was due before the student came, and nothing is handed in: does not count
)

// Cell is a student's at an exercise.
type Cell struct {
	State    State
	Attempt  int64 // the one that counts, or the newest; 0 where there is none
	Attempts int
	Late     bool
	Points   float64
	OutOf    float64
	// Percent is of all points of the rubric; of what counts alone.
	Percent float64
}

// Counts tells whether the cell is in the mean.
func (c Cell) Counts() bool { return c.State == Returned || c.State == Missing }

// Summary is what the attempts at an exercise that count come to.
type Summary struct {
	Count  int
	Mean   float64 // in percent
	Median float64
	// Spread is how many are in each tenth of the percents; 100 is in the last.
	Spread [10]int
}

// Book is the gradebook of a class.
type Book struct {
	Cells [][]Cell // by student, then by issue
	// Percents are the means of the students; NaN where nothing counts yet.
	Percents  []float64
	Summaries []Summary // by issue
}

// Make makes the book of students, in their order, and issues, in theirs.
func Make(students []int64, issues []Issue, attempts []Attempt, count Count) Book {
	type at struct{ student, issue int64 }
	of := map[at][]Attempt{}
	for _, a := range attempts {
		k := at{a.Student, a.Issue}
		of[k] = append(of[k], a)
	}
	b := Book{Cells: make([][]Cell, len(students)), Percents: make([]float64, len(students))}
	for s, student := range students {
		sum, weights := 0.0, 0.0
		for i := range issues {
			c := cell(student, &issues[i], of[at{student, issues[i].ID}], count)
			b.Cells[s] = append(b.Cells[s], c)
			if c.Counts() {
				sum, weights = sum+issues[i].Weight*c.Percent, weights+issues[i].Weight
			}
		}
		b.Percents[s] = sum / weights // NaN of nothing
	}
	for i := range issues {
		b.Summaries = append(b.Summaries, summary(b.Cells, i))
	}
	return b
}

// cell is a student's at an exercise, from the attempts in any order.
func cell(student int64, i *Issue, attempts []Attempt, count Count) Cell {
	c := Cell{State: Open, Attempts: len(attempts)}
	slices.SortFunc(attempts, func(a, b Attempt) int { return a.Number - b.Number })
	best := -1.0
	for _, a := range attempts {
		switch {
		case a.Points != nil && a.OutOf != nil:
			percent := percent(*a.Points, *a.OutOf)
			if c.State == Returned && count == Best && percent <= best {
				continue
			}
			best = percent
			c.State, c.Attempt, c.Late = Returned, a.ID, a.Late
			c.Points, c.OutOf, c.Percent = *a.Points, *a.OutOf, percent
		case c.State == Returned:
		case a.State == "unusable":
			if c.State == Open {
				c.State, c.Attempt, c.Late = Unusable, a.ID, a.Late
			}
		default:
			c.State, c.Attempt, c.Late = Waiting, a.ID, a.Late
		}
	}
	if (c.State == Open || c.State == Unusable) && i.Closed {
		c.State = Missing
	}
	switch {
	case i.For != nil && !i.For[student] && len(attempts) == 0:
		c.State = NotFor
	case i.Excused[student]:
		c.State = Excused
	case i.before(student) && len(attempts) == 0:
		c.State = Before
	}
	return c
}

// before tells whether a student came when the exercise was due already: what nobody could hand in is not missing.
func (i *Issue) before(student int64) bool {
	came, late := i.Came[student]
	due, own := i.Dues[student]
	if !own {
		due = i.Due
	}
	return late && !came.Before(due)
}

// percent is how much of all points were reached.
func percent(points, outOf float64) float64 {
	if outOf <= 0 {
		return 0
	}
	return 100 * points / outOf
}

// summary is what the cells of an exercise that count come to.
func summary(cells [][]Cell, issue int) Summary {
	var list []float64
	s := Summary{}
	for _, row := range cells {
		if c := row[issue]; c.Counts() {
			list = append(list, c.Percent)
			s.Mean += c.Percent
			s.Spread[min(9, max(0, int(c.Percent/10)))]++
		}
	}
	if s.Count = len(list); s.Count == 0 {
		return s
	}
	s.Mean /= float64(s.Count)
	slices.Sort(list)
	s.Median = (list[(s.Count-1)/2] + list[s.Count/2]) / 2
	return s
}

// Hundredths rounds a percent or points to how they are shown and written.
func Hundredths(v float64) float64 { return math.Round(v*100) / 100 }
