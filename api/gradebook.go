package api

import (
	"context"
	"io"
	"math"
	"net/http"
	"time"

	"hammerset/core/gradebook"
	"hammerset/formats/oneroster"
	"hammerset/formats/spreadsheet"
	"hammerset/school"
	"hammerset/store"
)

// counting is which attempt counts; the last where nothing is said.
func counting[T ~string](in *T) gradebook.Count {
	if in == nil {
		return gradebook.Last
	}
	return gradebook.Count(*in)
}

// GetGradebook gives the gradebook of a class.
func (s *Server) GetGradebook(ctx context.Context, in GetGradebookRequestObject) (GetGradebookResponseObject, error) {
	ctx, by := asking(ctx)
	g, err := s.school.Gradebook(ctx, by, in.Id, counting(in.Params.Count))
	if err != nil {
		return nil, err
	}
	out := GetGradebook200JSONResponse{Class: class(g.Class), Issues: []BookIssue{}, Students: []BookRow{},
		Left: []BookRow{}}
	for k, i := range g.Issues {
		x := g.Book.Summaries[k]
		out.Issues = append(out.Issues, BookIssue{Id: i.ID, Title: i.Title, Number: i.Drawing, Due: i.Due, Closed: i.Closed,
			Weight: i.Weight, Count: x.Count, Mean: gradebook.Hundredths(x.Mean), Median: gradebook.Hundredths(x.Median),
			Spread: x.Spread[:], Wrong: list(g.Wrong[k], func(w school.WrongBalloon) WrongBalloon {
				return WrongBalloon{Balloon: w.Balloon, Label: w.Label, Students: w.Students}
			})})
	}
	for k, u := range g.Students {
		out.Students = append(out.Students, bookRow(u.ID, u.Name, u.Login, g.Book, k))
	}
	for k, m := range g.Left {
		row := bookRow(m.ID, m.Name, m.Login, g.LeftBook, k)
		row.Left = m.Until
		out.Left = append(out.Left, row)
	}
	return out, nil
}

// bookRow is one row of a book.
func bookRow(id int64, name, login string, b gradebook.Book, k int) BookRow {
	row := BookRow{Id: id, Name: name, Login: login, Cells: list(b.Cells[k], bookCell)}
	if p := b.Percents[k]; !math.IsNaN(p) {
		p = gradebook.Hundredths(p)
		row.Percent = &p
	}
	return row
}

func bookCell(c gradebook.Cell) BookCell {
	out := BookCell{State: BookCellState(c.State), AttemptId: given(c.Attempt), Attempts: c.Attempts, Late: c.Late}
	if c.State == gradebook.Returned {
		points, outOf, percent := c.Points, c.OutOf, gradebook.Hundredths(c.Percent)
		out.Points, out.OutOf, out.Percent = &points, &outOf, &percent
	}
	return out
}

// SendResults gives the learning platform the results of a class.
func (s *Server) SendResults(ctx context.Context, in SendResultsRequestObject) (SendResultsResponseObject, error) {
	ctx, by := asking(ctx)
	g, err := s.school.Gradebook(ctx, by, in.Id, counting(in.Params.Count))
	if err != nil {
		return nil, err
	}
	data, err := oneroster.Write(resultsOf(g))
	if err != nil {
		return nil, err
	}
	return SendResults204Response{}, s.school.SendResults(ctx, by, in.Id, data)
}

// GetGradebookFile gives the gradebook as a table, a workbook or results for a school's system.
func (s *Server) GetGradebookFile(ctx context.Context,
	in GetGradebookFileRequestObject) (GetGradebookFileResponseObject, error) {
	ctx, by := asking(ctx)
	g, err := s.school.Gradebook(ctx, by, in.Id, counting(in.Params.Count))
	if err != nil {
		return nil, err
	}
	name := g.Class.Name + " gradebook"
	switch in.Params.Format {
	case "xlsx":
		data, err := spreadsheet.XLSX(bookTable(g), spreadOf(g))
		return file{"application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", name + ".xlsx", data}, err
	case "oneroster":
		data, err := oneroster.Write(resultsOf(g))
		return file{"application/zip", name + " OneRoster.zip", data}, err
	}
	data, err := spreadsheet.CSV(bookTable(g))
	return file{"text/csv; charset=utf-8", name + ".csv", data}, err
}

// bookTable is the gradebook as a table: a student in every row, those who have left after the others, and of every
// issue the points, out of how many, and what else there is to say.
func bookTable(g school.Gradebook) spreadsheet.Table {
	t := spreadsheet.Table{Name: "Gradebook", Head: []string{"name", "login", "percent", "left"}}
	for _, i := range g.Issues {
		t.Head = append(t.Head, i.Title, i.Title+", out of", i.Title+", state")
	}
	for k, u := range g.Students {
		t.Rows = append(t.Rows, tableRow(g.Book, k, u.Name, u.Login, nil))
	}
	for k, m := range g.Left {
		t.Rows = append(t.Rows, tableRow(g.LeftBook, k, m.Name, m.Login, m.Until.Format(time.DateOnly)))
	}
	return t
}

// tableRow is a row of a book for a table.
func tableRow(b gradebook.Book, k int, name, login string, left any) []any {
	row := []any{name, login, nil, left}
	if p := b.Percents[k]; !math.IsNaN(p) {
		row[2] = gradebook.Hundredths(p)
	}
	for _, c := range b.Cells[k] {
		state := string(c.State)
		if c.Late {
			state += ", late"
		}
		switch c.State {
		case gradebook.Returned:
			row = append(row, gradebook.Hundredths(c.Points), gradebook.Hundredths(c.OutOf), state)
		case gradebook.Missing:
			row = append(row, 0.0, nil, state)
		default:
			row = append(row, nil, nil, state)
		}
	}
	return row
}

// spreadOf is a table of the exercises: how they were answered.
func spreadOf(g school.Gradebook) spreadsheet.Table {
	t := spreadsheet.Table{Name: "Exercises", Head: []string{"exercise", "weight", "counted", "mean percent",
		"median percent"}}
	for k, i := range g.Issues {
		x := g.Book.Summaries[k]
		t.Rows = append(t.Rows, []any{i.Title, i.Weight, float64(x.Count), gradebook.Hundredths(x.Mean),
			gradebook.Hundredths(x.Median)})
	}
	return t
}

// resultsOf are the results of a gradebook for a school's system, under what people and classes are called there, or
// else by our own numbers.
func resultsOf(g school.Gradebook) oneroster.Results {
	class := store.Class(g.Class)
	out := oneroster.Results{Class: oneroster.IDOf(class.SourcedID, "class", class.ID)}
	for n, i := range g.Issues {
		item := oneroster.LineItem{ID: oneroster.IDOf(nil, "issue", i.ID), Title: i.Title, Assigned: i.Issued, Due: i.Due,
			Most: 100}
		out.Items = append(out.Items, item)
		for k, u := range g.Students {
			c := g.Book.Cells[k][n]
			if !c.Counts() {
				continue
			}
			out.Results = append(out.Results, oneroster.Result{Item: item.ID, Student: oneroster.IDOf(u.SourcedID, "person",
				u.ID), Score: gradebook.Hundredths(c.Percent), Late: c.Late, Missing: c.State == gradebook.Missing})
		}
	}
	return out
}

// WeighIssue changes what an issue weighs in the gradebook.
func (s *Server) WeighIssue(ctx context.Context, in WeighIssueRequestObject) (WeighIssueResponseObject, error) {
	ctx, by := asking(ctx)
	return WeighIssue204Response{}, s.school.Weigh(ctx, by, in.Id, in.Body.Weight)
}

// GetStanding tells a student how matters stand in each class.
func (s *Server) GetStanding(ctx context.Context, _ GetStandingRequestObject) (GetStandingResponseObject, error) {
	ctx, by := asking(ctx)
	all, err := s.school.Standings(ctx, by)
	return GetStanding200JSONResponse(list(all, func(x school.Standing) Standing {
		out := Standing{ClassName: x.Class, Returned: x.Returned, Waiting: x.Waiting, Missing: x.Missing, Open: x.Open}
		if !math.IsNaN(x.Percent) {
			p := gradebook.Hundredths(x.Percent)
			out.Percent = &p
		}
		return out
	})), err
}

// rosterOf is who is in a class, as a table that a list of students can be read from again.
func rosterOf(g school.Gradebook) spreadsheet.Table {
	t := spreadsheet.Table{Name: "Roster", Head: []string{"name", "login", "mail"}}
	for _, u := range g.Students {
		t.Rows = append(t.Rows, []any{u.Name, u.Login, u.Mail})
	}
	return t
}

// streamed is a file that is written as it is made.
type streamed struct {
	kind, name string
	to         func(io.Writer) error
}

func (s streamed) VisitExportClassResponse(w http.ResponseWriter) error {
	if err := (file{kind: s.kind, name: s.name}).write(w); err != nil {
		return err
	}
	return s.to(w)
}

// ExportClass gives a class with everything.
func (s *Server) ExportClass(ctx context.Context, in ExportClassRequestObject) (ExportClassResponseObject, error) {
	ctx, by := asking(ctx)
	name, write, err := s.school.ExportClass(ctx, by, in.Id, func(g school.Gradebook) (map[string][]byte, error) {
		roster, err := spreadsheet.CSV(rosterOf(g))
		if err != nil {
			return nil, err
		}
		text, err := spreadsheet.CSV(bookTable(g))
		if err != nil {
			return nil, err
		}
		book, err := spreadsheet.XLSX(bookTable(g), spreadOf(g))
		return map[string][]byte{"roster.csv": roster, "gradebook.csv": text, "gradebook.xlsx": book}, err
	})
	return streamed{"application/zip", name + ".zip", write}, err
}
