package school

import (
	"context"
	"encoding/json"
	"testing"

	"hammerset/core/report"
	"hammerset/store"
)

// One remark for all who have the same wrong has the figures of each in its blanks; what was written when figures went
// into keys is still at its finding.
func TestRemarksHaveTheFiguresOfEach(t *testing.T) {
	ctx := context.Background()
	c := gather(t)
	s := New(database, nil)
	leader := c.people["leader"]
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	finding := report.Finding{Kind: "size", Characteristic: "d1", Balloon: 1, Where: "Balloon 1"}
	checked := func(who, measured string) (attempt int64, was string) {
		t.Helper()
		attempt, _, err := database.HandIn(ctx, c.issue.ID, c.people[who].ID, "a.step", []byte(t.Name()+who))
		must(err)
		f := finding
		f.What = "The sheet states 15, the model measures " + measured + "."
		data, err := json.Marshal(report.Report{Findings: []report.Finding{f}, Characteristics: []report.Characteristic{
			{ID: "d1", Balloon: 1, NominalText: "15", MeasuredText: measured, Verdict: report.Out}}})
		must(err)
		checkedWith(t, attempt, data)
		return attempt, f.Was()
	}
	first, was := checked("pupil", "19")
	second, _ := checked("mate", "21.5")
	n, err := s.SetRemark(ctx, leader, c.issue.ID, []int64{first, second}, finding.Key(),
		"{first name}: {stated} is asked, and {measured} is there {anyway}")
	if err != nil || n != 2 {
		t.Fatalf("%d remarks, %v", n, err)
	}
	for attempt, want := range map[int64]string{first: "pupil: 15 is asked, and 19 is there {anyway}",
		second: "mate: 15 is asked, and 21.5 is there {anyway}"} {
		d, err := s.Attempt(ctx, leader, attempt)
		must(err)
		if len(d.Remarks) != 1 || d.Remarks[0].Text != want {
			t.Errorf("the remark is %+v, want %q", d.Remarks, want)
		}
	}
	view, err := s.ClassView(ctx, leader, c.issue.ID)
	must(err)
	if len(view.Groups) != 1 || len(view.Groups[0].Attempts) != 2 || view.Groups[0].Each[0] == view.Groups[0].Each[1] {
		t.Errorf("found in several is %+v", view.Groups)
	}

	_, err = database.SetRemark(ctx, []int64{first}, finding.Key(), []string{""}, leader.ID)
	must(err)
	_, err = database.SetRemark(ctx, []int64{first}, was, []string{"written long ago"}, leader.ID)
	must(err)
	must(database.AddReturn(ctx, store.Return{AttemptID: first, Points: 1, OutOf: 2, By: leader.ID}, "returned"))
	for _, p := range []Person{leader, c.people["pupil"]} {
		d, err := s.Attempt(ctx, p, first)
		must(err)
		if len(d.Remarks) != 1 || d.Remarks[0].Finding != d.Keys[0] {
			t.Errorf("a remark of before hangs on %+v, and the finding is %v", d.Remarks, d.Keys)
		}
	}
}
