package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
)

// TestRecheckLooksBeforeItCounts checks all attempts of an issue against a corrected
// version beside their own: nothing of an attempt changes until it is applied, a second
// re-check is refused, an unfinished one cannot be applied, dropping it leaves no trace, and
// what was returned stays as it was returned. A new rubric keeps the checks.
func TestRecheckLooksBeforeItCounts(t *testing.T) {
	ctx := context.Background()
	issue, people := school(t, 5)
	by := Notice{IssueID: issue, By: people[0]}
	v1 := versionOf(t, issue)
	hand := func(student int64, data string) Attempt {
		t.Helper()
		id, _, err := shared.HandIn(ctx, issue, student, "a.json", []byte(data+t.Name()))
		if err != nil {
			t.Fatal(err)
		}
		a, err := shared.Attempt(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		return a
	}
	finish := func(id int64, version int64, report string) {
		t.Helper()
		a, err := shared.Attempt(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		j := claim(t, "w", id)
		if err := shared.Finish(ctx, j, version, a.FileSHA, "1", Checked{Report: []byte(report),
			Mesh: []byte(`{}`)}); err != nil {
			t.Fatal(err)
		}
	}
	back, open, bad := hand(people[1], "one"), hand(people[1], "two"), hand(people[2], "three")
	finish(back.ID, v1, `{"v":1}`)
	finish(open.ID, v1, `{"v":1}`)
	if err := shared.Unusable(ctx, claim(t, "w", bad.ID), "no", "do"); err != nil {
		t.Fatal(err)
	}
	if err := shared.AddReturn(ctx, Return{AttemptID: back.ID, By: people[0], Marks: []byte("[]")}, "returned"); err !=
		nil {
		t.Fatal(err)
	}
	first, err := shared.Version(ctx, v1)
	if err != nil {
		t.Fatal(err)
	}
	second, err := shared.AddVersion(ctx, Version{ExerciseID: first.ExerciseID, Title: "T", Drawing: "1",
		Document: []byte(`{"two":2}`), Prepared: []byte("{}"), CreatedBy: people[0]}, []byte("reference"))
	if err != nil {
		t.Fatal(err)
	}
	states := func() string {
		out := ""
		for _, a := range []Attempt{back, open, bad} {
			b, err := shared.Attempt(ctx, a.ID)
			if err != nil {
				t.Fatal(err)
			}
			out += b.State + " " + string(b.Report) + "; "
		}
		return out
	}
	before := states()
	if err := shared.StartRecheck(ctx, issue, second.ID+1000, people[0]); !errors.Is(err, ErrNotFound) {
		t.Errorf("a version of nothing: %v", err)
	}
	if err := shared.StartRecheck(ctx, issue, second.ID, people[0]); err != nil {
		t.Fatal(err)
	}
	if err := shared.StartRecheck(ctx, issue, second.ID, people[0]); !errors.Is(err, ErrRunning) {
		t.Errorf("a second one: %v", err)
	}
	finish(open.ID, second.ID, `{"v":2}`)
	if err := shared.EndRecheck(ctx, by, true, 0); !errors.Is(err, ErrRunning) || states() != before {
		t.Errorf("applied before its end: %v; %s", err, states())
	}
	finish(bad.ID, second.ID, `{"v":2}`)
	rows, err := shared.RecheckedOf(ctx, issue, second.ID, "1")
	if err != nil || len(rows) != 2 || string(rows[0].Report) != `{"v":2}` || states() != before {
		t.Errorf("%v, %+v; %s", err, rows, states())
	}
	if err := shared.EndRecheck(ctx, by, false, 0); err != nil || states() != before ||
		versionOf(t, issue) != v1 {
		t.Errorf("dropped: %v; %s", err, states())
	}
	if err := shared.StartRecheck(ctx, issue, second.ID, people[0]); err != nil {
		t.Fatal(err)
	}
	for _, id := range []int64{open.ID, bad.ID} {
		a, err := shared.Attempt(ctx, id)
		if err != nil {
			t.Fatal(err)
		}
		if done, err := shared.Reuse(ctx, claim(t, "w", id), second.ID, a.FileSHA, "1"); !done || err != nil {
			t.Errorf("a check that was made already: %v, %v", done, err)
		}
	}
	if err := shared.EndRecheck(ctx, by, true, 0); err != nil {
		t.Fatal(err)
	}
	if s := states(); s != `returned {"v":1}; checked {"v":2}; checked {"v":2}; ` || versionOf(t, issue) != second.ID {
		t.Errorf("applied: %s", s)
	}
	third, err := shared.AddVersion(ctx, Version{ExerciseID: first.ExerciseID, Title: "T", Drawing: "1",
		Document: []byte(`{"three":3}`), Prepared: []byte("{}"), Measured: second.Measured, CreatedBy: people[0]},
		[]byte("reference"))
	if err != nil {
		t.Fatal(err)
	}
	if err := shared.Revise(ctx, by, v1, "rubric", "one that measures other things"); !errors.Is(err, ErrMeasured) {
		t.Errorf("other things are measured: %v", err)
	}
	told := Notice{IssueID: issue, By: people[0], Revision: "A", Text: "the text of 3 was moved"}
	if err := shared.Revise(ctx, told, third.ID, "sheet", "a text was moved"); err != nil {
		t.Fatal(err)
	}
	if list, err := shared.Notices(ctx, issue); err != nil || len(list) != 1 || list[0].Text != told.Text ||
		list[0].Revision != "A" {
		t.Errorf("what students are told: %v, %v", list, err)
	}
	if done, err := shared.Reuse(ctx, claim(t, "w", hand(people[2], "two").ID), third.ID, open.FileSHA, "1"); !done ||
		err != nil {
		t.Errorf("a file that was checked before a text was moved: %v, %v", done, err)
	}
	a, err := shared.Attempt(ctx, open.ID)
	if err != nil || a.VersionID == nil || *a.VersionID != third.ID || string(a.Report) != `{"v":2}` ||
		versionOf(t, issue) != third.ID {
		t.Errorf("a new rubric: %v, %+v", err, a)
	}
	n, err := shared.SetRemark(ctx, []int64{back.ID, open.ID, bad.ID}, "size:b",
		slices.Repeat([]string{"look at the view from above"}, 3), people[0])
	if err != nil || n != 2 {
		t.Errorf("one remark for several: %d, %v", n, err)
	}
	if n, err := shared.SetRemark(ctx, []int64{open.ID}, "size:b", []string{""}, people[0]); err != nil || n != 1 {
		t.Errorf("taken back: %d, %v", n, err)
	}
	for id, want := range map[int64]int{back.ID: 0, open.ID: 0, bad.ID: 1} {
		if list, err := shared.Remarks(ctx, id); err != nil || len(list) != want {
			t.Errorf("attempt %d has %d remarks, %v", id, len(list), err)
		}
	}
}

// What is measured of an attempt goes by the variant that its student has: the same file has one report for each, also
// against another version, which keeps the sizes; without a variant there it is said.
func TestVariants(t *testing.T) {
	ctx := context.Background()
	issue, people := school(t, 3)
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	i, err := shared.Issue(ctx, issue)
	must(err)
	plain, err := shared.Version(ctx, i.VersionID)
	must(err)
	hash := func(c string) string { return strings.Repeat(c, 64) }
	must(shared.AddVariants(ctx, plain.ID, []Variant{
		{Drawn: 0, Values: []byte(`{"w":"1 mm"}`), Hash: hash("a"), Document: []byte(`{"a":1}`), Prepared: []byte("{}")},
		{Drawn: 1, Values: []byte(`{"w":"2 mm"}`), Refused: "too small"},
		{Drawn: 2, Values: []byte(`{"w":"3 mm"}`), Hash: hash("b"), Document: []byte(`{"b":1}`), Prepared: []byte("{}")},
	}, [][]byte{[]byte("ra"), nil, []byte("rb")}))
	must(shared.Assign(ctx, issue, []Assigned{{people[1], 1}, {people[2], 3}}))
	must(shared.Assign(ctx, issue, []Assigned{{people[1], 3}})) // who has one keeps it
	for _, c := range []struct {
		student  int64
		document string
		variant  int
		refused  string
	}{{people[1], `{"a":1}`, 1, ""}, {people[2], `{"b":1}`, 3, ""}, {people[0], string(plain.Document), 0, ""}} {
		v, refused, err := shared.VersionFor(ctx, plain.ID, issue, c.student)
		if err != nil || refused != c.refused || string(v.Document) != c.document || v.Variant != c.variant {
			t.Errorf("student %d has %s, variant %d, %q, %v", c.student, v.Document, v.Variant, refused, err)
		}
	}
	next, err := shared.AddVersion(ctx, Version{ExerciseID: plain.ExerciseID, Title: "T", Drawing: "1",
		Document: []byte(`{"next":1}`), Prepared: []byte("{}"), CreatedBy: people[0]}, []byte("next"))
	must(err)
	if _, refused, err := shared.VersionFor(ctx, next.ID, issue, people[1]); err != nil || refused == "" {
		t.Errorf("a version without the sizes is had: %q, %v", refused, err)
	}
	for _, student := range people[1:3] {
		id, _, err := shared.HandIn(ctx, issue, student, "a.json", []byte("the same file"))
		must(err)
		a, err := shared.Attempt(ctx, id)
		must(err)
		j := claim(t, "w", id)
		if done, err := shared.Reuse(ctx, j, plain.ID, a.FileSHA, "1"); done || err != nil {
			t.Errorf("the report of another's sizes is taken: %v, %v", done, err)
		}
		must(shared.Finish(ctx, j, plain.ID, a.FileSHA, "1", Checked{Report: fmt.Appendf(nil, `{"of":%d}`, student),
			Mesh: []byte("{}"), Digest: []byte("{}")}))
		if a, err = shared.Attempt(ctx, id); err != nil || string(a.Report) != fmt.Sprintf(`{"of":%d}`, student) {
			t.Errorf("the report is %s, %v", a.Report, err)
		}
	}
}
