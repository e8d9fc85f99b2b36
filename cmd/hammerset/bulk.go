package main

import (
	"context"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"hammerset/core/check"
	"hammerset/core/exercise"
	"hammerset/core/report"
	"hammerset/formats/documents"
	"hammerset/formats/table"
	"hammerset/kernel/pool"
	"hammerset/kernel/task"
)

// bulk checks a folder of attempts into one table. Rows are added as checks end, so that a
// run that was stopped goes on where it was; a row counts as done when it has the same file
// under the same state of the exercise and of the check.
type bulk struct {
	bundle  *documents.Bundle
	folder  string
	out     string
	reports string // a folder for the reports, "" for none
	again   bool   // start anew where the table is of another state
	workers int
	say     io.Writer
}

// tally counts what came out.
type tally struct{ checked, unusable, failed, kept int }

// state identifies what a row was checked against.
func (b *bulk) state() string {
	h := sha256.New()
	for _, part := range [][]byte{b.bundle.Exercise, b.bundle.Reference, []byte(report.Checker)} {
		fmt.Fprintf(h, "%d:", len(part))
		h.Write(part)
	}
	return hex.EncodeToString(h.Sum(nil))[:16]
}

// header names the columns: the file, what became of it, the figures of its check, and the
// verdict and measure of every characteristic.
func (b *bulk) header() []string {
	h := []string{"file", "sha256", "exercise", "outcome", "points", "out of", "in", "out", "not found", "ask", "unit",
		"pose", "explained", "first finding", "likely cause", "remedy", "seconds"}
	for _, c := range b.bundle.Parsed.Characteristics {
		h = append(h, fmt.Sprintf("%d %s", c.Balloon, c.Label), fmt.Sprintf("%d measured", c.Balloon))
	}
	if a := b.bundle.Parsed.Assembly; a != nil {
		for _, c := range a.Characteristics {
			h = append(h, fmt.Sprintf("%d %s", c.Balloon, c.Label), fmt.Sprintf("%d measured", c.Balloon))
		}
	}
	return h
}

// row writes one check, or why there is none.
func (b *bulk) row(name, sum string, took time.Duration, out *check.Outcome, failed error) []string {
	n := len(b.header())
	row := make([]string, n)
	row[0], row[1], row[2], row[16] = name, sum, b.state(), strconv.FormatFloat(took.Seconds(), 'f', 2, 64)
	var te *task.Error
	switch {
	case errors.As(failed, &te) && te.Kind == task.Unusable:
		row[3], row[13], row[15] = "unusable", te.What, te.Remedy
		return row
	case failed != nil:
		row[3], row[13] = "failed", failed.Error()
		return row
	}
	r := out.Report
	number := func(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
	row[3], row[4], row[5] = "checked", number(r.Points), number(r.OutOf)
	for i, v := range []report.Verdict{report.In, report.Out, report.NotFound, report.Ask} {
		row[6+i] = strconv.Itoa(r.Count(v))
	}
	if r.Scale != nil {
		row[10] = r.Scale.Words
	}
	if r.Pose != nil {
		row[11] = r.Pose.Words
	}
	row[12] = map[bool]string{true: "yes", false: "no"}[r.Explained]
	if len(r.Findings) > 0 {
		row[13], row[14], row[15] = r.Findings[0].Where+": "+r.Findings[0].What, r.Findings[0].Cause, r.Findings[0].Remedy
	}
	for i, c := range r.Characteristics {
		if at := 17 + 2*i; at+1 < n {
			row[at], row[at+1] = string(c.Verdict), c.MeasuredText
		}
	}
	return row
}

// done reads the rows that are there already and still count. A last line that a stopped
// run cut short is left out.
func (b *bulk) done() (map[string][]string, error) {
	kept := map[string][]string{}
	data, err := os.ReadFile(b.out)
	if errors.Is(err, fs.ErrNotExist) {
		return kept, nil
	}
	if err != nil {
		return nil, err
	}
	if i := strings.LastIndexByte(string(data), '\n'); i+1 < len(data) {
		data = data[:i+1]
	}
	r := csv.NewReader(strings.NewReader(string(data)))
	r.FieldsPerRecord = -1
	rows, err := r.ReadAll()
	if err != nil {
		return nil, fmt.Errorf("%s is there and is no table of results (%w); move it away, or name another --out", b.out, err)
	}
	if len(rows) == 0 {
		return kept, nil
	}
	if !slices.Equal(rows[0], table.Safe(b.header())) {
		if !b.again {
			return nil, fmt.Errorf("%s has the results of another exercise, or of another state of it; name another --out, "+
				"or give --again to replace it", b.out)
		}
		return kept, nil
	}
	stale := 0
	for _, row := range rows[1:] {
		switch {
		case len(row) != len(rows[0]) || row[3] == "failed":
		case row[2] != b.state():
			stale++
		default:
			kept[table.Plain(row[0])+" "+row[1]] = row
		}
	}
	if stale > 0 && !b.again {
		return nil, fmt.Errorf("%d rows of %s were checked against another state of the exercise; name another --out to "+
			"compare, or give --again to check them anew", stale, b.out)
	}
	return kept, nil
}

// files lists the attempts of the folder, in the order of their names.
func (b *bulk) files() ([]string, error) {
	var out []string
	err := filepath.WalkDir(b.folder, func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if strings.HasPrefix(d.Name(), ".") && path != b.folder {
			if d.IsDir() {
				return filepath.SkipDir
			}
			return nil
		}
		if d.Type().IsRegular() {
			out = append(out, path)
		}
		return nil
	})
	slices.Sort(out)
	return out, err
}

// kernel carries out tasks.
type kernel interface {
	Do(ctx context.Context, req *task.Request, progress func(task.Progress)) (json.RawMessage, error)
}

// run checks what is not checked yet.
func (b *bulk) run(ctx context.Context, k kernel) (tally, error) {
	var t tally
	files, err := b.files()
	if err != nil {
		return t, err
	}
	if len(files) == 0 {
		return t, fmt.Errorf("there are no files in %s", b.folder)
	}
	kept, err := b.done()
	if err != nil {
		return t, err
	}
	// The table is written anew with what counts, so that it is whole again.
	temp := b.out + ".part"
	f, err := os.Create(temp)
	if err != nil {
		return t, err
	}
	w := csv.NewWriter(f)
	_ = w.Write(table.Safe(b.header())) // errors show at Flush
	type job struct{ path, name, sum string }
	var todo []job
	for _, path := range files {
		data, err := os.ReadFile(path)
		if err != nil {
			f.Close()
			return t, err
		}
		name, err := filepath.Rel(b.folder, path)
		if err != nil {
			name = path
		}
		sum := sha256.Sum256(data)
		j := job{path, filepath.ToSlash(name), hex.EncodeToString(sum[:])}
		if row, ok := kept[j.name+" "+j.sum]; ok {
			_ = w.Write(row)
			t.kept++
			continue
		}
		todo = append(todo, j)
	}
	w.Flush()
	names := map[string]bool{}
	for _, row := range kept {
		names[table.Plain(row[0])] = true
	}
	if err := errors.Join(w.Error(), f.Close(), os.Rename(temp, b.out), b.beginItems(names)); err != nil {
		return t, err
	}
	if f, err = os.OpenFile(b.out, os.O_APPEND|os.O_WRONLY, 0o644); err != nil {
		return t, err
	}
	defer f.Close()
	w = csv.NewWriter(f)
	began := time.Now()
	show := func() {
		n, all := t.checked+t.unusable+t.failed, len(todo)
		const width = 30
		filled := width
		left := ""
		if all > 0 {
			filled = width * n / all
		}
		if n > 0 && n < all {
			left = fmt.Sprintf(", about %s left", (time.Since(began) / time.Duration(n) * time.Duration(all-n)).
				Round(time.Second))
		}
		fmt.Fprintf(b.say, "\r[%s%s] %d of %d%s   ", strings.Repeat("#", filled), strings.Repeat(".", width-filled), n, all,
			left)
	}
	show()
	var mu sync.Mutex
	var broken error
	queue := make(chan job)
	var wg sync.WaitGroup
	for range min(b.workers, max(1, len(todo))) {
		wg.Go(func() {
			for j := range queue {
				out, took, err := b.one(ctx, k, j.path)
				if ctx.Err() != nil {
					continue // being stopped is no outcome
				}
				mu.Lock()
				var te *task.Error
				switch {
				case err == nil:
					t.checked++
				case errors.As(err, &te) && te.Kind == task.Unusable:
					t.unusable++
				default:
					t.failed++
				}
				_ = w.Write(table.Safe(b.row(j.name, j.sum, took, out, err)))
				w.Flush()
				broken = errors.Join(broken, w.Error(), b.keep(j.name, out), b.addItems(j.name, out))
				show()
				mu.Unlock()
			}
		})
	}
	for _, j := range todo {
		select {
		case queue <- j:
		case <-ctx.Done():
		}
	}
	close(queue)
	wg.Wait()
	fmt.Fprintln(b.say)
	return t, errors.Join(broken, ctx.Err())
}

// one checks one file.
func (b *bulk) one(ctx context.Context, k kernel, path string) (*check.Outcome, time.Duration, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, 0, err
	}
	began := time.Now()
	raw, err := k.Do(ctx, &task.Request{Kind: task.Check, Exercise: b.bundle.Exercise, Reference: b.bundle.Reference,
		Atlas: b.bundle.Atlas, Name: filepath.Base(path), File: data}, nil)
	took := time.Since(began)
	if err != nil {
		return nil, took, err
	}
	var out check.Outcome
	return &out, took, json.Unmarshal(raw, &out)
}

// keep writes the report of a file beside the others, where reports are wanted.
func (b *bulk) keep(name string, out *check.Outcome) error {
	if b.reports == "" || out == nil {
		return nil
	}
	data, err := json.MarshalIndent(out.Report, "", " ")
	if err != nil {
		return err
	}
	path := filepath.Join(b.reports, filepath.FromSlash(name)+".report.json")
	return errors.Join(os.MkdirAll(filepath.Dir(path), 0o755), os.WriteFile(path, data, 0o644))
}

// checkFolder is `hammerset check --attempts`.
func checkFolder(ctx context.Context, b *bulk, folder string) error {
	var err error
	var p *pool.Pool
	if p, err = kernels(b.workers, 10*time.Minute, nil); err != nil {
		return err
	}
	defer p.Close()
	if b.bundle, err = readExercise(ctx, p, folder); err != nil {
		return err
	}
	if err := withAtlas(ctx, p, b.bundle); err != nil {
		return err
	}
	if b.bundle.Parsed.Kind == exercise.Assembly {
		if err := madeOnce(ctx, p, b.bundle); err != nil {
			return err
		}
	}
	t, err := b.run(ctx, p)
	if t.kept > 0 {
		fmt.Fprintf(b.say, "%d were checked before. ", t.kept)
	}
	fmt.Fprintf(b.say, "%d checked, %d unusable, %d failed: %s\n", t.checked, t.unusable, t.failed, b.out)
	if err == nil && t.failed > 0 {
		return errors.New("some checks failed; run the same command again to try these once more")
	}
	return err
}
