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
	"hammerset/core/sheet"
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

// gather makes a class whose leader has issued another instructor's exercise, at which a pupil has handed in. A
// co-leader teaches there as well, and is nothing to the exercise but that.
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
	for who, teaches := range map[string]bool{"administrator": true, "leader": true, "co-leader": true, "helper": false,
		"pupil": false, "mate": false, "gone": false, "dismissed": true, "stranger": false, "colleague": true, "maker": true,
		"changer": true} {
		u := Person{Login: strings.ToLower(t.Name() + who), Name: who, Teaches: teaches,
			Administrator: who == "administrator", Password: "x"}
		var err error
		u.ID, err = database.AddUser(ctx, u)
		must(err)
		c.people[who] = u
	}
	id := func(who string) int64 { return c.people[who].ID }
	is := func(who, role string) store.Membership { return store.Membership{UserID: id(who), Role: role} }
	var err error
	c.class, err = database.AddClass(ctx, store.Class{Name: t.Name()}, []store.Membership{is("leader", store.Instructor),
		is("co-leader", store.Instructor), is("dismissed", store.Instructor), is("helper", store.Assistant),
		is("pupil", store.Student), is("mate", store.Student), is("gone", store.Student)})
	must(err)
	_, err = database.AddClass(ctx, store.Class{Name: t.Name() + " elsewhere"},
		[]store.Membership{is("stranger", store.Student), is("colleague", store.Instructor)})
	must(err)
	plain, err := bundled(sheet.Plain("T", "mm", "reference.json", 1), nil)
	must(err)
	v, err := database.AddVersion(ctx, store.Version{Title: "T", Drawing: "1", Document: plain.Exercise,
		Prepared: []byte("{}"), CreatedBy: id("maker")}, []byte("reference"))
	must(err)
	c.exercise = v.ExerciseID
	must(database.Share(ctx, c.exercise, id("leader"), store.ToUse, id("maker")))
	must(database.Share(ctx, c.exercise, id("changer"), store.ToChange, id("maker")))
	issue, err := database.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: c.class, IssuedBy: id("leader"),
		Issued: time.Now().UTC(),
		Due:    time.Now().UTC().Add(time.Hour), Attempts: 3, Results: WithTheReturn}, false, "")
	must(err)
	c.issue, err = database.Issue(ctx, issue)
	must(err)
	c.attempt, _, err = database.HandIn(ctx, issue, id("pupil"), "part.step", []byte("part"))
	must(err)
	must(database.Leave(ctx, c.class, id("gone"), id("leader")))
	must(database.Leave(ctx, c.class, id("dismissed"), id("leader")))
	return c
}

// Who may do what, person by action: y is allowed, f refused, and n not found, since the person may not even see the
// row. Rows are those of the class, of the exercise, and the pupil's where they are somebody's.
func TestWhoMayDoWhat(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	people := []string{"administrator", "leader", "co-leader", "helper", "pupil", "mate", "gone", "dismissed", "stranger",
		"colleague", "maker", "changer"}
	// In the order of the people: administrator, leader (who may use the exercise), co-leader (who only teaches the class
	// that has it), helper, pupil, mate, one who left, an instructor who left, a pupil and an instructor of another class,
	// who made the exercise, and with whom it is shared to change.
	table := map[Action]string{
		ListAccounts:     "yfffffffffff",
		MakeAccount:      "yfffffffffff",
		EndAccount:       "yfffffffffff",
		ResetPassword:    "yyynnnnnnnnn",
		MakeClass:        "yyyffffyfyyy",
		ReadClass:        "yyyynnnnnnnn",
		ChangeClass:      "yyyfnnnnnnnn",
		ExportClass:      "yyyfnnnnnnnn",
		ReadDesk:         "yyyyfffyfyyy",
		ReadHome:         "yyyyyyyyyyyy",
		MakeExercise:     "yyyffffyfyyy",
		ReadExercise:     "yyynnnnnnnyy",
		ReadAtlas:        "yyynnnnnnnyy",
		ReadReference:    "yyfnnnnnnnyy",
		ReadDraft:        "yffnnnnnnnyy",
		ChangeExercise:   "yffnnnnnnnyy",
		ShareExercise:    "yffnnnnnnnyf",
		ReadIssue:        "yyyyyynnnnnn",
		SeeReference:     "yyyyffnnnnnn",
		ReviewIssue:      "yyyyffnnnnnn",
		RemarkOnAttempts: "yyyyffnnnnnn",
		ChangeIssue:      "yyyfffnnnnnn",
		HandIn:           "ffffyynnnnnn",
		ReadAttempt:      "yyyyynnnnnnn",
		StudyAttempt:     "yyyyfnnnnnnn",
		MarkAttempt:      "yyyyfnnnnnnn",
		ReturnAttempt:    "yyyffnnnnnnn",
		KeepModels:       "nnnnynnnnnnn",
		PromoteModel:     "nnnnynnnnnnn",
		KeepAssemblies:   "nnnnynnnnnnn",
	}
	pupil := c.people["pupil"]
	// What there is of each: the row of an action has nothing of what is none of its own.
	rows := map[Action]row{ResetPassword: {person: pupil}, KeepModels: {owner: pupil.ID}, PromoteModel: {owner: pupil.ID},
		KeepAssemblies: {owner: pupil.ID}}
	for _, a := range []Action{ReadClass, ChangeClass, ExportClass, ReadIssue, SeeReference, ReviewIssue, RemarkOnAttempts,
		ChangeIssue, HandIn} {
		rows[a] = row{class: c.class}
	}
	for _, a := range []Action{ReadExercise, ReadAtlas, ReadReference, ReadDraft, ChangeExercise, ShareExercise} {
		rows[a] = row{exercise: c.exercise}
	}
	for _, a := range []Action{ReadAttempt, StudyAttempt, MarkAttempt, ReturnAttempt} {
		rows[a] = row{class: c.class, owner: pupil.ID}
	}
	for a := range rules() {
		if len(table[a]) != len(people) {
			t.Errorf("%s: nobody has said who may", a)
		}
	}
	for a, expected := range table {
		for k, who := range people {
			err := s.may(context.Background(), c.people[who], a, rows[a])
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

// What a person hands in stays the person's own when the person leaves the class.
func TestWhoLeavesKeepsTheWork(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader, pupil := c.people["leader"], c.people["pupil"]
	if err := s.Leave(ctx, leader, c.class, pupil.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := s.AttemptFile(ctx, pupil, c.attempt); err != nil {
		t.Errorf("the own attempt after leaving: %v", err)
	}
	_, _, err := s.HandIn(ctx, pupil, c.issue.ID, File{"a.step", []byte("a")}, nil, false)
	if !errors.Is(err, ErrNotFound) {
		t.Errorf("handed in after leaving: %v", err)
	}
	all, err := database.AttemptRows(ctx, c.issue.ID, 0)
	if err != nil || len(all) != 1 {
		t.Errorf("the instructor sees %d attempts, %v", len(all), err)
	}
	// The last instructor stays, whoever asks.
	if err := s.Leave(ctx, leader, c.class, c.people["co-leader"].ID); err != nil {
		t.Fatal(err)
	}
	var refusal *Refusal
	if err := s.Leave(ctx, leader, c.class, leader.ID); !errors.As(err, &refusal) || refusal.Kind != Conflict {
		t.Errorf("the last instructor leaves: %v", err)
	}
	if err := s.Join(ctx, leader, c.class, leader.Login, store.Assistant); !errors.As(err, &refusal) {
		t.Errorf("the last instructor becomes an assistant: %v", err)
	}
	if err := s.Join(ctx, leader, c.class, pupil.Login, store.Student); err != nil {
		t.Fatal(err)
	}
	if _, _, err := s.HandIn(ctx, pupil, c.issue.ID, File{"a.step", []byte("a")}, nil, false); err != nil {
		t.Errorf("handed in after coming back: %v", err)
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
			"change the due date": s.ChangeTerms(ctx, by, c.issue.ID, store.Terms{Due: later, Attempts: 3, Results: AtOnce}),
			"release":             s.Release(ctx, by, c.issue.ID, true),
			"withdraw":            s.Withdraw(ctx, by, c.issue.ID, true),
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
	terms := store.Terms{Due: later, Attempts: 3, Results: WithTheReturn}
	if err := s.ChangeTerms(ctx, c.people["leader"], c.issue.ID, terms); err != nil {
		t.Fatal(err)
	}
	var refusal *Refusal
	if err := s.Withdraw(ctx, c.people["leader"], c.issue.ID, false); !errors.As(err, &refusal) ||
		refusal.Kind != Conflict ||
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
