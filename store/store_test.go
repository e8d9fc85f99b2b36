package store

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"hammerset/store/local"
)

var (
	shared *Store
	dsn    string // of the database of shared
)

// TestMain starts one MariaDB for all tests.
func TestMain(m *testing.M) {
	code := 1
	err := local.Briefly(context.Background(), func(address string) (err error) {
		dsn = address
		if shared, err = Open(context.Background(), address); err != nil {
			return err
		}
		defer shared.Close()
		if err = shared.Migrate(context.Background()); err == nil {
			code = m.Run()
		}
		return err
	})
	if err != nil {
		fmt.Println(err)
	}
	os.Exit(code)
}

// school makes an instructor, two students and an issued exercise of their own.
func school(t *testing.T, attempts int) (issue int64, people []int64) {
	t.Helper()
	ctx := context.Background()
	for i, role := range []string{"instructor", "student", "student"} {
		id, err := shared.AddUser(ctx, User{Login: fmt.Sprintf("%s-%d", t.Name(), i), Name: fmt.Sprintf("Person %d", i),
			Teaches: role == Instructor, Password: "x"})
		if err != nil {
			t.Fatal(err)
		}
		people = append(people, id)
	}
	class, err := shared.AddClass(ctx, Class{Name: t.Name()}, []Membership{{UserID: people[0], Role: Instructor},
		{UserID: people[1], Role: Student}, {UserID: people[2], Role: Student}})
	if err != nil {
		t.Fatal(err)
	}
	v, err := shared.AddVersion(ctx, Version{Title: "T", Drawing: "1", Document: []byte("{}"), Prepared: []byte("{}"),
		CreatedBy: people[0]}, []byte("reference"))
	if err != nil {
		t.Fatal(err)
	}
	issue, err = shared.AddIssue(ctx, Issue{VersionID: v.ID, ClassID: class, IssuedBy: people[0], Issued: now(),
		Due: now().Add(time.Hour), Attempts: attempts, Results: "at once"}, false, "")
	if err != nil {
		t.Fatal(err)
	}
	return issue, people
}

func claim(t *testing.T, worker string, attempt int64) *Job {
	t.Helper()
	for range 50 {
		j, err := shared.Claim(context.Background(), worker)
		if err != nil {
			t.Fatal(err)
		}
		if j == nil {
			return nil
		}
		if j.AttemptID == attempt {
			return j
		}
	}
	return nil
}

// expire makes the lease of a job run out, as when its worker has died.
func expire(t *testing.T, j *Job) {
	t.Helper()
	if _, err := shared.db.Exec(`UPDATE jobs SET lease_until = ? WHERE id = ?`, now().Add(-time.Second), j.ID); err !=
		nil {
		t.Fatal(err)
	}
}

// Two tabs that hand in at the same moment get two numbers, never one too many,
// and files are kept to the last byte.
func TestHandInAtTheSameTime(t *testing.T) {
	issue, people := school(t, 3)
	ctx := context.Background()
	big := bytes.Repeat([]byte("ISO-10303-21;"), 30<<20/13) // 30 MB
	var wg sync.WaitGroup
	var mu sync.Mutex
	var used, ok int
	for i := range 8 {
		wg.Go(func() {
			data := []byte(fmt.Sprint("file ", i))
			if i == 0 {
				data = big
			}
			_, _, err := shared.HandIn(ctx, issue, people[1], "f.step", data)
			mu.Lock()
			defer mu.Unlock()
			switch {
			case err == nil:
				ok++
			case errors.Is(err, ErrUsedUp):
				used++
			default:
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if ok != 3 || used != 5 {
		t.Errorf("%d taken, %d refused", ok, used)
	}
	list, err := shared.AttemptsOf(ctx, issue, people[1])
	if err != nil {
		t.Fatal(err)
	}
	for i, a := range list {
		if a.Number != i+1 {
			t.Errorf("attempt %d has number %d", i+1, a.Number)
		}
	}
	other, _, err := shared.HandIn(ctx, issue, people[2], "f.step", big)
	if err != nil {
		t.Fatal(err)
	}
	a, err := shared.Attempt(ctx, other)
	if err != nil {
		t.Fatal(err)
	}
	if back, err := shared.File(ctx, a.FileSHA); err != nil || !bytes.Equal(back, big) {
		t.Errorf("a large file does not come back: %v, %d bytes", err, len(back))
	}
}

// A job whose worker falls silent is taken again; the silent worker can no
// longer finish it; after three tries it is parked with its reason.
func TestLeases(t *testing.T) {
	issue, people := school(t, 9)
	ctx := context.Background()
	attempt, _, err := shared.HandIn(ctx, issue, people[1], "f.json", []byte("{}"))
	if err != nil {
		t.Fatal(err)
	}
	first := claim(t, "first", attempt)
	if first == nil {
		t.Fatal("the job is not there")
	}
	if claim(t, "second", attempt) != nil {
		t.Fatal("a held job was taken")
	}
	if err := shared.Beat(ctx, first, "measuring", 0.5); err != nil {
		t.Fatal(err)
	}
	expire(t, first)
	second := claim(t, "second", attempt)
	if second == nil || second.Tries != 2 {
		t.Fatalf("the job of a dead worker: %+v", second)
	}
	for what, err := range map[string]error{"beat": shared.Beat(ctx, first, "x", 1),
		"finish":   shared.Finish(ctx, first, 1, "s", "1", Checked{Report: []byte("{}"), Mesh: []byte("{}")}),
		"unusable": shared.Unusable(ctx, first, "w", "r"), "fail": shared.Fail(ctx, first, "x")} {
		if !errors.Is(err, ErrLost) {
			t.Errorf("a worker that lost its job could still %s: %v", what, err)
		}
	}
	expire(t, second)
	third := claim(t, "third", attempt)
	if third == nil {
		t.Fatal("no third try")
	}
	if err := shared.Fail(ctx, third, "the geometry library failed"); err != nil {
		t.Fatal(err)
	}
	a, err := shared.Attempt(ctx, attempt)
	if err != nil || a.State != "parked" || a.What == "" || a.Remedy == "" {
		t.Errorf("after three tries: %v %+v", err, a)
	}
	if claim(t, "fourth", attempt) != nil {
		t.Error("a parked job was taken")
	}
	if err := shared.Recheck(ctx, attempt, people[0]); err != nil {
		t.Fatal(err)
	}
	again := claim(t, "fifth", attempt)
	if again == nil {
		t.Fatal("a check that was asked for again is not queued")
	}
	if err := shared.Finish(ctx, again, versionOf(t, issue), "sha-of-"+t.Name(), "1",
		Checked{Report: []byte(`{"a":1}`), Mesh: []byte(`{}`)}); err != nil {
		t.Fatal(err)
	}
	if a, err = shared.Attempt(ctx, attempt); err != nil || a.State != "checked" || string(a.Report) != `{"a":1}` {
		t.Errorf("after the check: %v %+v", err, a)
	}
}

// What a file says is kept as it can be: a letter cut in two at the limit, or bytes that
// are no letters, never stop a check from being closed.
func TestLongAndBrokenReasons(t *testing.T) {
	issue, people := school(t, 9)
	ctx := context.Background()
	for i, reason := range []string{strings.Repeat("a", 1899) + "ü and more", "the key \xff\xfe cannot be read",
		strings.Repeat("⌀", 1000)} {
		attempt, _, err := shared.HandIn(ctx, issue, people[1], "f.json", fmt.Appendf(nil, "%d", i))
		if err != nil {
			t.Fatal(err)
		}
		if err := shared.Unusable(ctx, claim(t, "worker", attempt), reason, reason); err != nil {
			t.Errorf("reason %d: %v", i, err)
			continue
		}
		a, err := shared.Attempt(ctx, attempt)
		if err != nil || a.State != "unusable" || !utf8.ValidString(a.What) || len(a.What) < 20 || len(a.What) > 2000 {
			t.Errorf("reason %d: %v, kept as %d bytes, %s", i, err, len(a.What), a.State)
		}
	}
}

func versionOf(t *testing.T, issue int64) int64 {
	t.Helper()
	i, err := shared.Issue(context.Background(), issue)
	if err != nil {
		t.Fatal(err)
	}
	return i.VersionID
}

// The same file under the same version and checker is checked once.
func TestReportsAreReused(t *testing.T) {
	issue, people := school(t, 9)
	ctx := context.Background()
	var jobs []*Job
	for _, who := range people[1:] {
		id, _, err := shared.HandIn(ctx, issue, who, "f.json", []byte(t.Name()))
		if err != nil {
			t.Fatal(err)
		}
		jobs = append(jobs, claim(t, fmt.Sprint("w", who), id))
	}
	a, err := shared.Attempt(ctx, jobs[0].AttemptID)
	if err != nil {
		t.Fatal(err)
	}
	v := versionOf(t, issue)
	if done, err := shared.Reuse(ctx, jobs[0], v, a.FileSHA, "1"); err != nil || done {
		t.Errorf("a report that does not exist was used: %v", err)
	}
	if err := shared.Finish(ctx, jobs[0], v, a.FileSHA, "1", Checked{Report: []byte(`{"once":true}`),
		Mesh: []byte(`{}`)}); err != nil {
		t.Fatal(err)
	}
	if done, err := shared.Reuse(ctx, jobs[1], v, a.FileSHA, "1"); err != nil || !done {
		t.Errorf("an equal check was not used: %v", err)
	}
	if done, err := shared.Reuse(ctx, jobs[1], v, a.FileSHA, "2"); err != nil || done {
		t.Errorf("the report of another checker was used: %v", err)
	}
}

// Unusable files do not use an attempt up; marks and returns leave a trail and a
// return is final.
func TestMarksAndReturns(t *testing.T) {
	issue, people := school(t, 1)
	ctx := context.Background()
	bad, _, err := shared.HandIn(ctx, issue, people[1], "x.pdf", []byte(t.Name()+"pdf"))
	if err != nil {
		t.Fatal(err)
	}
	if err := shared.Unusable(ctx, claim(t, "w", bad), "a picture", "hand in the model"); err != nil {
		t.Fatal(err)
	}
	good, _, err := shared.HandIn(ctx, issue, people[1], "x.json", []byte(t.Name()+"json"))
	if err != nil {
		t.Fatalf("an unusable file used the only attempt: %v", err)
	}
	if err := shared.AddReturn(ctx, Return{AttemptID: good, By: people[0]}, ""); err == nil {
		t.Error("an attempt was returned before its check")
	}
	if err := shared.Finish(ctx, claim(t, "w", good), versionOf(t, issue), t.Name(), "1",
		Checked{Report: []byte(`{}`), Mesh: []byte(`{}`)}); err != nil {
		t.Fatal(err)
	}
	for _, p := range []float64{4, 6.5} {
		if err := shared.SetMark(ctx, Mark{AttemptID: good, Mark: "whole", Points: p, Reason: "looked at it", By: people[0]},
			"whole from 3"); err != nil {
			t.Fatal(err)
		}
	}
	if m, err := shared.Marks(ctx, good); err != nil || len(m) != 1 || m[0].Points != 6.5 || m[0].ByName != "Person 0" {
		t.Errorf("marks %+v, %v", m, err)
	}
	if err := shared.AddReturn(ctx, Return{AttemptID: good, Comment: "Well done", Points: 9, OutOf: 10,
		By: people[0]}, "returned with 9 of 10 points"); err != nil {
		t.Fatal(err)
	}
	if err := shared.AddReturn(ctx, Return{AttemptID: good, Comment: "again", By: people[0]}, ""); err == nil {
		t.Error("an attempt was returned twice")
	}
	if r, err := shared.ReturnOf(ctx, good); err != nil || r.Comment != "Well done" || r.Points != 9 {
		t.Errorf("return %+v, %v", r, err)
	}
	trail, err := shared.Audit(ctx, good)
	if err != nil || len(trail) != 3 || trail[2].Action != "return" {
		t.Errorf("trail %+v, %v", trail, err)
	}
}

// An edit is a new version; what was issued stays as it was.
// The mistake atlas is kept with the version, in place of an earlier one, and missing
// ones are found, the last issued first.
func TestAtlases(t *testing.T) {
	ctx := context.Background()
	id, _ := school(t, 3)
	issue, err := shared.Issue(ctx, id)
	if err != nil {
		t.Fatal(err)
	}
	of, err := shared.Version(ctx, issue.VersionID)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := shared.Atlas(ctx, of.Measured, "k/1"); !errors.Is(err, ErrNotFound) {
		t.Errorf("an atlas that was never made: %v", err)
	}
	v, err := shared.WithoutAtlas(ctx, "k/1", nil)
	if err != nil || v.ID != issue.VersionID {
		t.Fatalf("without an atlas is version %d, %v", v.ID, err)
	}
	if v, err := shared.WithoutAtlas(ctx, "k/1", []int64{issue.VersionID}); err == nil && v.ID == issue.VersionID {
		t.Error("a version that was left out comes again")
	}
	for _, data := range []string{"one", "two"} {
		if err := shared.KeepAtlas(ctx, of, "k/1", []byte(data)); err != nil {
			t.Fatal(err)
		}
	}
	if got, err := shared.Atlas(ctx, of.Measured, "k/1"); err != nil || string(got) != "two" {
		t.Errorf("%q, %v", got, err)
	}
	if _, err := shared.Atlas(ctx, of.Measured, "k/2"); !errors.Is(err, ErrNotFound) {
		t.Errorf("an atlas of another kind: %v", err)
	}
	if v, err := shared.WithoutAtlas(ctx, "k/1", nil); err == nil && v.ID == issue.VersionID {
		t.Error("a version that has one is without")
	}
}

// The references of the other exercises of a class are known by what they come to; its own, and those of another class,
// are not among them.
func TestOtherReferences(t *testing.T) {
	ctx := context.Background()
	first, people := school(t, 3)
	i, err := shared.Issue(ctx, first)
	if err != nil {
		t.Fatal(err)
	}
	v, err := shared.AddVersion(ctx, Version{Title: "Another", Drawing: "MCW-9", Document: []byte("{}"),
		Prepared: []byte(`{"key":"ä","bulk":{"solids":1,"volume":8}}`), CreatedBy: people[0]}, []byte("other reference"))
	if err != nil {
		t.Fatal(err)
	}
	second, err := shared.AddIssue(ctx, Issue{VersionID: v.ID, ClassID: i.ClassID, IssuedBy: people[0], Issued: now(),
		Due: now().Add(time.Hour), Attempts: 1, Results: "at once"}, false, "")
	if err != nil {
		t.Fatal(err)
	}
	for issue, want := range map[int64]string{first: `[{Another MCW-9 {"solids": 1, "volume": 8}}]`, second: "[]"} {
		got, err := shared.OtherReferences(ctx, issue)
		said := []string{}
		for _, o := range got {
			said = append(said, fmt.Sprintf("{%s %s %s}", o.Title, o.Number, o.Bulk))
		}
		if err != nil || fmt.Sprint(said) != want {
			t.Errorf("beside issue %d: %s, %v", issue, said, err)
		}
	}
}

func TestVersionsNeverChange(t *testing.T) {
	issue, people := school(t, 1)
	ctx := context.Background()
	i, err := shared.Issue(ctx, issue)
	if err != nil {
		t.Fatal(err)
	}
	var wg sync.WaitGroup
	for k := range 4 {
		wg.Go(func() {
			if _, err := shared.AddVersion(ctx, Version{ExerciseID: i.ExerciseID, Title: fmt.Sprint("edit ", k),
				Document: []byte("new"), Prepared: []byte("{}"), CreatedBy: people[0]}, []byte("other")); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	newest, err := shared.Newest(ctx, i.ExerciseID)
	if err != nil || newest.Number != 5 {
		t.Errorf("newest version %d, %v", newest.Number, err)
	}
	if again, err := shared.Issue(ctx, issue); err != nil || again.Version != 1 || again.Title != "T" {
		t.Errorf("the issue now has %+v, %v", again, err)
	}
	if _, err := shared.AddVersion(ctx, Version{ExerciseID: 1 << 40, CreatedBy: people[0]},
		nil); !errors.Is(err, ErrNotFound) {
		t.Errorf("a version of no exercise: %v", err)
	}
}

// The same file sent again is the same attempt, until it has come back; another file is another.
func TestSentTwice(t *testing.T) {
	issue, people := school(t, 3)
	ctx := context.Background()
	first, already, err := shared.HandIn(ctx, issue, people[1], "a.json", []byte("one "+t.Name()))
	if err != nil || already {
		t.Fatal(already, err)
	}
	again, already, err := shared.HandIn(ctx, issue, people[1], "b.json", []byte("one "+t.Name()))
	if err != nil || !already || again != first {
		t.Errorf("sent again: attempt %d and not %d, %v", again, first, err)
	}
	other, already, err := shared.HandIn(ctx, issue, people[1], "a.json", []byte("two "+t.Name()))
	if err != nil || already || other == first {
		t.Errorf("another file: attempt %d, %v", other, err)
	}
	theirs, already, err := shared.HandIn(ctx, issue, people[2], "a.json", []byte("one "+t.Name()))
	if err != nil || already || theirs == first {
		t.Errorf("somebody else's: attempt %d, %v", theirs, err)
	}
}

// One student's many files do not hold up the others: students take turns.
func TestStudentsTakeTurns(t *testing.T) {
	ctx := context.Background()
	for { // what other tests have left
		j, err := shared.Claim(ctx, "sweeper")
		if err != nil {
			t.Fatal(err)
		}
		if j == nil {
			break
		}
	}
	issue, people := school(t, 50)
	owner := map[int64]int64{}
	hand := func(who int64, n int) {
		t.Helper()
		id, _, err := shared.HandIn(ctx, issue, who, "f.json", fmt.Appendf(nil, "%s %d %d", t.Name(), who, n))
		if err != nil {
			t.Fatal(err)
		}
		owner[id] = who
	}
	for n := range 20 {
		hand(people[1], n)
	}
	hand(people[2], 0)
	for turn := range 2 {
		j, err := shared.Claim(ctx, fmt.Sprint("worker ", turn))
		if err != nil || j == nil {
			t.Fatal(j, err)
		}
		if want := people[1+turn]; owner[j.AttemptID] != want {
			t.Errorf("turn %d went to %d, not %d", turn, owner[j.AttemptID], want)
		}
	}
}

// Two transactions that wait for each other's rows both come through: the one that the database
// breaks off is run anew.
func TestDeadlocksAreRunAnew(t *testing.T) {
	ctx := context.Background()
	_, people := school(t, 1)
	both := make(chan struct{}, 2)
	var meet, done sync.WaitGroup
	meet.Add(2)
	errs := make([]error, 2)
	runs := make([]int, 2)
	for i := range 2 {
		done.Go(func() {
			errs[i] = shared.transaction(ctx, func(tx *sqlx.Tx) error {
				for k := range 2 {
					if _, err := tx.ExecContext(ctx, `UPDATE users SET name = CONCAT(name, ?) WHERE id = ?`, "+",
						people[(i+k)%2]); err != nil {
						return err
					}
					if k == 0 && runs[i] == 0 { // each has its first row before either asks for the other's
						runs[i]++
						meet.Done()
						meet.Wait()
					}
				}
				both <- struct{}{}
				return nil
			})
		})
	}
	done.Wait()
	if err := errors.Join(errs...); err != nil || len(both) != 2 {
		t.Fatal(err, len(both))
	}
	for _, id := range people[:2] {
		if u, err := shared.User(ctx, id); err != nil || !strings.HasSuffix(u.Name, "++") ||
			strings.HasSuffix(u.Name, "+++") {
			t.Errorf("%q, %v: both wrote once", u.Name, err)
		}
	}
}

// What lists show is told of when it changes, with whose it is.
func TestChanges(t *testing.T) {
	ctx := context.Background()
	issue, people := school(t, 3)
	attempt, _, err := shared.HandIn(ctx, issue, people[1], "a.json", []byte(t.Name()))
	if err != nil {
		t.Fatal(err)
	}
	known := map[Change]bool{}
	fresh := func(what string, rows ...string) {
		t.Helper()
		all, err := shared.ChangesWithin(ctx, time.Minute)
		if err != nil {
			t.Fatal(err)
		}
		var got []string
		for _, c := range all {
			if !known[c] {
				known[c] = true
				got = append(got, fmt.Sprintf("%s of %d", c.Row, c.Student))
			}
		}
		slices.Sort(got)
		slices.Sort(rows)
		if what != "" && !slices.Equal(got, rows) {
			t.Errorf("%s: %q, want %q", what, got, rows)
		}
		time.Sleep(2 * time.Millisecond) // times are kept to a millisecond
	}
	fresh("")
	fresh("nothing was done")
	var job *Job
	its := fmt.Sprintf("attempt %d of %d", attempt, people[1])
	for _, c := range []struct {
		what string
		do   func() error
		rows []string
	}{
		{"checking", func() error { job = claim(t, "worker", attempt); return nil }, []string{its}},
		{"a further attempt", func() error {
			return shared.SetOwn(ctx, Own{Issue: issue, Student: people[2], More: 1}, people[0], "further", "one more")
		}, []string{fmt.Sprintf("further %d of %d", issue, people[2])}},
		{"another due date", func() error {
			return shared.SetTerms(ctx, issue, Terms{Due: now().Add(2 * time.Hour), Attempts: 3, Results: "at once"}, people[0])
		}, []string{fmt.Sprintf("issue %d of 0", issue)}},
		{"progress alone", func() error { return shared.Beat(ctx, job, "measuring", 0.5) }, nil},
	} {
		if err := c.do(); err != nil {
			t.Fatal(err)
		}
		fresh(c.what, c.rows...)
	}
}
