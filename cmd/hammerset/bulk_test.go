package main

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"hammerset/demo"
	"hammerset/formats/documents"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

// stopping is a kernel that stops the run after a number of checks, and counts them.
type stopping struct {
	kernel
	left *int
	stop func()
}

func (s stopping) Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error) {
	if *s.left == 0 {
		s.stop()
		return nil, ctx.Err()
	}
	*s.left--
	return s.kernel.Do(ctx, req, progress)
}

// TestBulkCheck checks a folder into a table, stops on the way, goes on, takes what is
// there for done, checks a changed file again, and refuses to mix states of the exercise.
func TestBulkCheck(t *testing.T) {
	b, err := demo.Bundle("gland-flange")
	if err != nil {
		t.Fatal(err)
	}
	program, err := filepath.Abs("../../bin/hammerset")
	if err != nil {
		t.Fatal(err)
	}
	p := pool.New(pool.Config{Command: []string{program, "kernel"}, Size: 1})
	defer p.Close()
	dir := t.TempDir()
	put := func(name string, data []byte) {
		t.Helper()
		path := filepath.Join(dir, "attempts", name)
		if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(path, data, 0o644); err != nil {
			t.Fatal(err)
		}
	}
	wrong, err := demo.Edited(b.Reference, `"bolts", "value": "6"`, `"bolts", "value": "5"`)
	if err != nil {
		t.Fatal(err)
	}
	put("right.json", b.Reference)
	put("group b/wrong, with a comma.json", wrong)
	put("notes.pdf", []byte("%PDF-1.4\n"))
	put(".hidden", []byte("x"))
	run := &bulk{bundle: b, folder: filepath.Join(dir, "attempts"), out: filepath.Join(dir, "results.csv"),
		reports: filepath.Join(dir, "reports"), workers: 1, say: io.Discard}
	table := func() map[string]map[string]string {
		t.Helper()
		data, err := os.ReadFile(run.out)
		if err != nil {
			t.Fatal(err)
		}
		rows, err := csv.NewReader(bytes.NewReader(data)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		out := map[string]map[string]string{}
		for _, r := range rows[1:] {
			out[r[0]] = map[string]string{}
			for i, v := range r {
				out[r[0]][rows[0][i]] = v
			}
		}
		return out
	}
	ctx, stop := context.WithCancel(context.Background())
	left := 2
	if _, err := run.run(ctx, stopping{p, &left, stop}); err == nil || len(table()) != 2 {
		t.Fatalf("stopped after two: %v, %d rows", err, len(table()))
	}
	// A line that was cut short by the stop does not count.
	f, err := os.OpenFile(run.out, os.O_APPEND|os.O_WRONLY, 0o644)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := f.WriteString("right.json,0a1b,\"half a"); err != nil {
		t.Fatal(err)
	}
	f.Close()
	left = 10
	got, err := run.run(context.Background(), stopping{p, &left, stop})
	if err != nil || got.kept != 2 || left != 9 {
		t.Fatalf("going on: %+v, %v; %d checks", got, err, 10-left)
	}
	rows := table()
	if r := rows["right.json"]; r["outcome"] != "checked" || r["points"] != r["out of"] || r["in"] != "16" ||
		r["1 Flange"] != "in" {
		t.Errorf("the right one: %v", r)
	}
	if r := rows["group b/wrong, with a comma.json"]; r["13 measured"] != "72°" || r["11 Bolt holes"] != "not found" ||
		r["explained"] != "yes" || !strings.Contains(r["likely cause"], "one too few") {
		t.Errorf("the wrong one: %v", r)
	}
	if r := rows["notes.pdf"]; r["outcome"] != "unusable" || !strings.Contains(r["first finding"], "PDF") ||
		r["remedy"] == "" {
		t.Errorf("the unusable one: %v", r)
	}
	data, err := os.ReadFile(filepath.Join(run.reports, "group b", "wrong, with a comma.json.report.json"))
	if err != nil || documents.Validate("report", data) != nil {
		t.Errorf("the report beside it: %v, %v", err, documents.Validate("report", data))
	}
	put("right.json", append(b.Reference, '\n'))
	left = 10
	if got, err := run.run(context.Background(), stopping{p, &left, stop}); err != nil || got.kept != 2 ||
		got.checked != 1 {
		t.Errorf("one file changed: %+v, %v", got, err)
	}
	other := *b
	other.Exercise = append(bytes.Clone(b.Exercise), '\n')
	run.bundle = &other
	if _, err := run.run(context.Background(), p); err == nil || !strings.Contains(err.Error(), "--again") ||
		len(table()) != 3 {
		t.Errorf("another state of the exercise: %v", err)
	}
	run.again = true
	if got, err := run.run(context.Background(), p); err != nil || got.kept != 0 || got.checked != 2 {
		t.Errorf("all anew: %+v, %v", got, err)
	}
}
