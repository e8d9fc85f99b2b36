// Package school measures how quick the screens are in a school of a size: 300 students, 60 exercises, 5,000 attempts.
package school

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"hammerset/core/desk"
	"hammerset/core/report"
	"hammerset/core/sheet"
	"hammerset/school"
	"hammerset/store"
	"hammerset/store/local"
)

const (
	classes   = 10
	students  = 300
	exercises = 60
	attempts  = 5000
)

// BenchmarkScreens fills the school and asks for each screen again and again.
func BenchmarkScreens(b *testing.B) {
	ctx := context.Background()
	err := local.Briefly(ctx, func(address string) error {
		database, err := store.Open(ctx, address)
		if err != nil {
			return err
		}
		defer database.Close()
		if err := database.Migrate(ctx); err != nil {
			return err
		}
		screens(b, database)
		return nil
	})
	if err != nil {
		b.Fatal(err)
	}
}

func screens(b *testing.B, database *store.Store) {
	ctx := context.Background()
	teacher, pupil, issue, class := fill(b, database)
	s := school.New(database, nil)
	for _, screen := range []struct {
		name string
		ask  func() error
	}{
		{"desk", func() error { _, err := s.Desk(ctx, teacher); return err }},
		{"class", func() error { _, err := s.Class(ctx, teacher, class); return err }},
		{"gradebook", func() error { _, err := s.Gradebook(ctx, teacher, class, "last"); return err }},
		{"exercises", func() error { _, err := s.Exercises(ctx, teacher); return err }},
		{"issue", func() error { _, err := s.IssueDetail(ctx, teacher, issue); return err }},
		{"side by side", func() error { _, err := s.ClassView(ctx, teacher, issue); return err }},
		{"home of a student", func() error { _, err := s.Home(ctx, pupil); return err }},
		{"messages", func() error { _, _, err := s.Messages(ctx, pupil); return err }},
	} {
		b.Run(screen.name, func(b *testing.B) {
			for b.Loop() {
				if err := screen.ask(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// fill makes the school: classes of one instructor, to each of which the exercises are issued in turn.
func fill(b *testing.B, database *store.Store) (teacher, pupil school.Person, issue, class int64) {
	b.Helper()
	ctx := context.Background()
	must := func(err error) {
		b.Helper()
		if err != nil {
			b.Fatal(err)
		}
	}
	user := func(login string, teaches bool) school.Person {
		u := school.Person{Login: login, Name: "Person " + login, Teaches: teaches, Password: "x"}
		var err error
		u.ID, err = database.AddUser(ctx, u)
		must(err)
		return u
	}
	teacher = user("teacher", true)
	document, err := json.Marshal(sheet.Plain("Part", "mm", "reference.json", 1))
	must(err)
	var versions []store.Version
	for i := range exercises {
		v, err := database.AddVersion(ctx, store.Version{Title: fmt.Sprint("Part ", i), Drawing: fmt.Sprint(i),
			Document: document, Prepared: []byte("{}"), CreatedBy: teacher.ID}, fmt.Appendf(nil, "reference %d", i))
		must(err)
		versions = append(versions, v)
	}
	type place struct {
		issue, version int64
		student        school.Person
	}
	var places []place
	for c := range classes {
		var pupils []school.Person
		members := []store.Membership{{UserID: teacher.ID, Role: store.Instructor}}
		for k := range students / classes {
			pupil = user(fmt.Sprintf("student-%d-%d", c, k), false)
			pupils = append(pupils, pupil)
			members = append(members, store.Membership{UserID: pupil.ID, Role: store.Student})
		}
		class, err = database.AddClass(ctx, store.Class{Name: fmt.Sprint("Class ", c), Zone: "UTC"}, members)
		must(err)
		for i := c; i < exercises; i += classes {
			issue, err = database.AddIssue(ctx, store.Issue{VersionID: versions[i].ID, ClassID: class, IssuedBy: teacher.ID,
				Issued: time.Now().UTC(), Due: time.Now().UTC().AddDate(0, 0, 7), Attempts: 50, Results: "at once"}, true, "")
			must(err)
			for _, p := range pupils {
				places = append(places, place{issue, versions[i].ID, p})
			}
		}
	}
	data, digest := reported(b)
	for n := range attempts {
		p := places[n%len(places)]
		id, _, err := database.HandIn(ctx, p.issue, p.student.ID, "part.step", fmt.Appendf(nil, "attempt %d", n))
		must(err)
		a, err := database.Attempt(ctx, id)
		must(err)
		job, err := database.Claim(ctx, "worker")
		must(err)
		must(database.Finish(ctx, job, p.version, a.FileSHA, "bench", store.Checked{Report: data, Mesh: []byte("{}"),
			Digest: digest, In: 19, Of: 20}))
	}
	return teacher, pupil, issue, class
}

// reported is a report of twenty characteristics, one of them out, and its digest.
func reported(b *testing.B) (data, digest []byte) {
	b.Helper()
	r := report.Report{Findings: []report.Finding{{Kind: "size", Characteristic: "d3", Balloon: 3, Where: "Balloon 3",
		What: "The sheet states 15, the model measures 19."}}}
	for i := range 20 {
		v := 15.0
		r.Characteristics = append(r.Characteristics, report.Characteristic{ID: fmt.Sprint("d", i), Balloon: i + 1,
			Kind: "distance", Label: "Size", Nominal: 15, NominalText: "15", Measured: &v, MeasuredText: "15",
			Verdict: report.In, Weight: 1, Places: slices.Repeat([]report.Place{{Verdict: report.In}}, 2)})
	}
	r.Characteristics[2].Verdict = report.Out
	data, err := json.Marshal(&r)
	if err == nil {
		digest, err = json.Marshal(desk.DigestOf(&r))
	}
	if err != nil {
		b.Fatal(err)
	}
	return data, digest
}
