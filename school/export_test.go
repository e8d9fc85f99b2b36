package school

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"maps"
	"slices"
	"strings"
	"testing"

	"hammerset/store"
)

// At the year's end a class goes out with everything, and a student is deleted: what was handed in stays with its
// marks, and the name is nowhere.
func TestTheEndOfAYear(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, admin, pupil := c.people["leader"], c.people["administrator"], c.people["pupil"]
	checkedAs(t, c.attempt)
	if err := database.AddReturn(ctx, store.Return{AttemptID: c.attempt, Points: 7.25, OutOf: 10, By: leader.ID,
		Comment: "Well done, pupil."}, "returned"); err != nil {
		t.Fatal(err)
	}
	written := func() map[string]string {
		t.Helper()
		name, write, err := s.ExportClass(ctx, leader, c.class, func(g Gradebook) (map[string][]byte, error) {
			var names []string
			for _, u := range g.Students {
				names = append(names, u.Name)
			}
			return map[string][]byte{"roster.csv": []byte(strings.Join(names, ","))}, nil
		})
		if err != nil {
			t.Fatal(err)
		}
		var b bytes.Buffer
		if err := write(&b); err != nil || name != t.Name() {
			t.Fatal(name, err)
		}
		z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]string{}
		for _, f := range z.File {
			r, err := f.Open()
			if err != nil {
				t.Fatal(err)
			}
			data, err := io.ReadAll(r)
			if err != nil {
				t.Fatal(err)
			}
			out[f.Name] = string(data)
		}
		return out
	}
	find := func(files map[string]string, end string) string {
		for name := range files {
			if strings.HasSuffix(name, end) {
				return name
			}
		}
		return ""
	}
	files := written()
	if files["roster.csv"] != "mate,pupil" || files[find(files, "pupil/attempt 1/part.step")] != "part" ||
		find(files, "exercise.json") == "" {
		t.Errorf("the export holds %v", slices.Sorted(maps.Keys(files)))
	}
	if _, _, err := s.ExportClass(ctx, c.people["helper"], c.class, nil); err == nil {
		t.Error("an assistant exports a class")
	}

	var refusal *Refusal
	for _, who := range []string{"leader", "helper", "administrator"} {
		if err := s.Forget(ctx, admin, c.people[who].ID); !errors.As(err, &refusal) || refusal.Kind != Conflict {
			t.Errorf("the %s is deleted: %v", who, err)
		}
	}
	if err := s.Forget(ctx, leader, pupil.ID); err == nil {
		t.Error("an instructor deletes a student")
	}
	if err := s.Forget(ctx, admin, pupil.ID); err != nil {
		t.Fatal(err)
	}
	a, err := database.Attempt(ctx, c.attempt)
	if err != nil || a.StudentName != store.Nameless(pupil.ID) || a.FileName != "attempt-1.step" || a.Points == nil ||
		*a.Points != 7.25 {
		t.Errorf("what stays: %q, %q, %v, %v", a.StudentName, a.FileName, a.Points, err)
	}
	back, err := database.ReturnOf(ctx, c.attempt)
	if err != nil || strings.Contains(back.Comment, "pupil") {
		t.Errorf("the comment says %q, %v", back.Comment, err)
	}
	if _, err := s.SignIn(ctx, SignIn{Login: pupil.Login, Password: "x", Address: t.Name()}); err == nil {
		t.Error("signed in after being deleted")
	}
	for name, text := range written() {
		if strings.Contains(name+text, "pupil") {
			t.Errorf("%s still names the pupil: %s", name, text)
		}
	}
}

// checkedAs has an attempt checked, with a report that says nothing.
func checkedAs(t *testing.T, attempt int64) { t.Helper(); checkedWith(t, attempt, []byte(`{}`)) }

// checkedWith has the check of an attempt come to a report.
func checkedWith(t *testing.T, attempt int64, report []byte) {
	t.Helper()
	ctx := context.Background()
	a, err := database.Attempt(ctx, attempt)
	if err != nil {
		t.Fatal(err)
	}
	i, err := database.Issue(ctx, a.IssueID)
	if err != nil {
		t.Fatal(err)
	}
	for {
		job, err := database.Claim(ctx, "worker")
		if err != nil || job == nil {
			t.Fatalf("there is no job of the attempt: %v", err)
		}
		if job.AttemptID != attempt {
			continue
		}
		if err := database.Finish(ctx, job, i.VersionID, a.FileSHA, "test", store.Checked{Report: report,
			Mesh: []byte(`{}`), Digest: []byte(`{}`)}); err != nil {
			t.Fatal(err)
		}
		return
	}
}
