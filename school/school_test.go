package school

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"hammerset/core/exercise"
	"hammerset/formats/documents"
	"hammerset/store"
	"hammerset/store/local"
)

var database *store.Store

// TestMain starts one MariaDB for all tests.
func TestMain(m *testing.M) {
	code := 1
	err := local.Briefly(context.Background(), func(address string) (err error) {
		if database, err = store.Open(context.Background(), address); err != nil {
			return err
		}
		defer database.Close()
		if err = database.Migrate(context.Background()); err == nil {
			code = m.Run()
		}
		return err
	})
	if err != nil {
		fmt.Println(err)
	}
	os.Exit(code)
}

// cast are the people of a test, by what they are to the class, and what there is to act on.
type cast struct {
	people                   map[string]Person
	class, exercise, attempt int64
	issue                    store.Issue
}

// gather makes a class whose leader has issued another instructor's exercise, at which a pupil has handed in.
func gather(t *testing.T) cast {
	t.Helper()
	ctx := context.Background()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	c := cast{people: map[string]Person{}}
	for who, role := range map[string]string{"administrator": administrator, "leader": instructor, "helper": assistant,
		"pupil": student,
		"mate":  student, "stranger": student, "colleague": instructor, "maker": instructor} {
		u := Person{Login: t.Name() + who, Name: who, Role: role, Password: "x"}
		var err error
		u.ID, err = database.AddUser(ctx, u)
		must(err)
		c.people[who] = u
	}
	id := func(who string) int64 { return c.people[who].ID }
	var err error
	c.class, err = database.AddClass(ctx, t.Name(), []int64{id("leader"), id("helper"), id("pupil"), id("mate")})
	must(err)
	_, err = database.AddClass(ctx, t.Name()+" elsewhere", []int64{id("stranger"), id("colleague")})
	must(err)
	v, err := database.AddVersion(ctx, store.Version{Title: "T", Drawing: "1", Document: []byte("{}"),
		Prepared: []byte("{}"), CreatedBy: id("maker")}, []byte("reference"))
	must(err)
	c.exercise = v.ExerciseID
	issue, err := database.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: c.class, IssuedBy: id("leader"),
		Issued: time.Now().UTC(),
		Due:    time.Now().UTC().Add(time.Hour), Attempts: 3, Results: WithTheReturn}, false, "")
	must(err)
	c.issue, err = database.Issue(ctx, issue)
	must(err)
	c.attempt, _, err = database.HandIn(ctx, issue, id("pupil"), "part.step", []byte("part"))
	must(err)
	return c
}

// Who may do what, person by action: y is allowed, f refused for what the person is, n not found, since the
// row is none of the person's. Rows are those of the class, and the pupil's where they are somebody's.
func TestWhoMayDoWhat(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	people := []string{"administrator", "leader", "helper", "pupil", "mate", "stranger", "colleague", "maker"}
	table := map[Action]string{
		ListAccounts:     "yfffffff",
		MakeAccount:      "yfffffff",
		ResetPassword:    "yyffffnn",
		MakeClass:        "yyffffyy",
		ReadClass:        "yyyfffnn",
		ChangeClass:      "yyffffnn",
		ReadDesk:         "yyyfffyy",
		ReadHome:         "fffyyyff",
		MakeExercise:     "yyffffyy",
		ReadExercise:     "yyyfffyy",
		ReadReference:    "yyffffyy",
		ChangeExercise:   "yyfffffy", // the leader's class has it; the colleague may not
		ReadIssue:        "yyyyynnn",
		ReviewIssue:      "yyyfffnn",
		RemarkOnAttempts: "yyyfffnn",
		ChangeIssue:      "yyffffnn",
		HandIn:           "fffyynff",
		ReadAttempt:      "yyyynnnn",
		StudyAttempt:     "yyyfffnn",
		MarkAttempt:      "yyyfffnn",
		ReturnAttempt:    "yyffffnn",
		KeepModels:       "nnnynnnn",
		PromoteModel:     "nnffffnn",
		KeepAssemblies:   "nnnynnnn",
	}
	for a := range rules() {
		if len(table[a]) != len(people) {
			t.Errorf("%s: nobody has said who may", a)
		}
	}
	pupil := c.people["pupil"]
	for a, expected := range table {
		r := row{class: c.class, owner: pupil.ID, exercise: c.exercise, person: pupil}
		for k, who := range people {
			err := s.may(context.Background(), c.people[who], a, r)
			var refusal *Refusal
			got := map[bool]string{true: "n", false: "?"}[errors.Is(err, ErrNotFound)]
			if err == nil {
				got = "y"
			} else if errors.As(err, &refusal) && refusal.Kind == Forbidden {
				got = "f"
			}
			if got != expected[k:k+1] {
				t.Errorf("%s as the %s: %s, not %s (%v)", a, who, got, expected[k:k+1], err)
			}
		}
	}
	if err := s.may(context.Background(), c.people["administrator"], "something new", row{}); err == nil {
		t.Error("an action that nobody has spoken of is allowed")
	}
}

// What a person is refused has not happened, and what staff changes leaves its line in the trail.
func TestRefusalsChangeNothing(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	later := c.issue.Due.Add(48 * time.Hour)
	for _, who := range []string{"helper", "pupil", "stranger", "colleague", "maker"} {
		by := c.people[who]
		for what, err := range map[string]error{
			"change the due date": s.ChangeDue(ctx, by, c.issue.ID, later),
			"release":             s.Release(ctx, by, c.issue.ID, true),
			"withdraw":            s.Withdraw(ctx, by, c.issue.ID),
			"grant":               s.GrantFurther(ctx, by, c.issue.ID, c.people["pupil"].ID),
			"return":              s.Return(ctx, by, c.attempt, "", true),
			"re-check":            s.StartRecheck(ctx, by, c.issue.ID, 1),
		} {
			if err == nil {
				t.Errorf("the %s may %s", who, what)
			}
		}
	}
	i, err := database.Issue(ctx, c.issue.ID)
	if err != nil || !i.Due.Equal(c.issue.Due) || i.Released {
		t.Errorf("refused, and changed all the same: %+v, %v", i, err)
	}
	if err := s.ChangeDue(ctx, c.people["leader"], c.issue.ID, later); err != nil {
		t.Fatal(err)
	}
	var refusal *Refusal
	if err := s.Withdraw(ctx, c.people["leader"], c.issue.ID); !errors.As(err, &refusal) || refusal.Kind != Conflict ||
		refusal.Remedy == "" {
		t.Errorf("withdrawn although something was handed in: %v", err)
	}
	trail, err := database.Trail(ctx, c.exercise)
	if err != nil || len(trail) == 0 || trail[0].Action != "due" || trail[0].Name != "leader" {
		t.Errorf("the trail does not begin with the new due date: %+v, %v", trail, err)
	}
}

func TestPasswords(t *testing.T) {
	hash, err := HashPassword("lock gate №7")
	if err != nil {
		t.Fatal(err)
	}
	again, err := HashPassword("lock gate №7")
	if err != nil {
		t.Fatal(err)
	}
	if hash == again || !strings.HasPrefix(hash, "argon2id$") || strings.Contains(hash, "lock") {
		t.Errorf("hashes %s and %s", hash, again)
	}
	for password, right := range map[string]bool{"lock gate №7": true, "lock gate №8": false, "": false,
		"lock gate №7 ": false} {
		if checkPassword(password, hash) != right {
			t.Errorf("%q: %v", password, !right)
		}
	}
	for _, broken := range []string{"", "argon2id$", "plain", "argon2id$!!$!!", strings.Replace(hash, "argon2id", "md5",
		1), nobodysHash} {
		if checkPassword("lock gate №7", broken) {
			t.Errorf("%q lets somebody in", broken)
		}
	}
}

// A drawing number or title that the title block has no room for is refused before
// anything is done with it, counted in letters and not in bytes.
func TestTitlesAndNumbersFit(t *testing.T) {
	for _, c := range []struct {
		title, number string
		refused       string
	}{
		{strings.Repeat("ü", longestTitle), strings.Repeat("Ö", longestNumber), ""},
		{strings.Repeat("ü", longestTitle+1), "1", "title"},
		{"Bracket", strings.Repeat("1", longestNumber+1), "drawing number"},
	} {
		if c.refused == "" {
			if long := tooLong(c.title, c.number); long != "" {
				t.Errorf("what fits is refused: %s", long)
			}
			continue
		}
		b := documents.Bundle{Parsed: &exercise.Exercise{Title: c.title, Number: c.number}}
		_, err := New(nil, nil).AddBundle(context.Background(), 1, &b, 0, "new") // neither the kernel nor the store is asked
		var refusal *Refusal
		if !errors.As(err, &refusal) || !strings.Contains(refusal.What, c.refused) || refusal.Remedy == "" {
			t.Errorf("%d and %d letters: %v", len(c.title), len(c.number), err)
		}
	}
}
