package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"hammerset/formats/oneroster"
	"hammerset/store"
)

// rowsOf is what comes of a list, in short: a state and a login in every line.
func rowsOf(e Enrolment) string {
	var out []string
	for _, r := range e.Rows {
		out = append(out, fmt.Sprintf("%s %s", r.State, r.Login))
	}
	return strings.Join(out, ", ")
}

// A list says row by row what would come of it, does nothing before it is to, and changes nothing when it is taken
// again. It may be lines, or a table with a header; whoever is not on a whole list leaves, and keeps the work.
func TestLists(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader := c.people["leader"]
	pupil, mate, stranger := c.people["pupil"].Login, c.people["mate"].Login, c.people["stranger"].Login
	for _, step := range []struct {
		name string
		list List
		save bool
		rows string
	}{
		{"lines", List{Text: "Wren Hollowell, wren\n\nQuay, Tobias; tobias\nLong\tlong\n"}, false,
			"new wren, new tobias, new long"},
		{"faults", List{Text: "nobody\nWren, wren a\nWren, wren\nOther, wren\nleader, " + leader.Login + "\nSomebody, " +
			pupil}, false, "faulty , faulty wren a, new wren, faulty wren, faulty " + leader.Login + ", faulty " + pupil},
		{"a table", List{Text: "Login;Name;Mail\nwren;Wren Hollowell;wren@example.org\nnguyen;\"Nguyễn Thị, Minh\";\n" +
			pupil + ";pupil;"}, true, "new wren, new nguyen, here " + pupil},
		{"the same again", List{Text: "given name,family name,login\nWren,Hollowell,wren\n"}, true, "here wren"},
		{"from elsewhere", List{Text: "stranger," + stranger}, true, "moved " + stranger},
		{"the whole", List{Text: "pupil, " + pupil + "\nWren Hollowell, wren", Whole: true}, true,
			"here " + pupil + ", here wren, left nguyen, left " + mate + ", left " + stranger},
		{"nobody by mistake", List{Text: " \n", Whole: true}, true, ""},
	} {
		out, err := s.Enrol(ctx, leader, c.class, step.list, step.save)
		if err != nil {
			t.Fatalf("%s: %v", step.name, err)
		}
		got := rowsOf(out)
		if step.name == "the whole" { // by name, and ours begin with small letters
			sorted := strings.Split(got, ", ")
			slices.Sort(sorted[2:])
			want := strings.Split(step.rows, ", ")
			slices.Sort(want[2:])
			got, step.rows = strings.Join(sorted, ", "), strings.Join(want, ", ")
		}
		if got != step.rows || out.Saved != (step.save && step.rows != "") {
			t.Errorf("%s: %s (saved %v), and not %s", step.name, got, out.Saved, step.rows)
		}
		for _, slip := range out.Slips {
			u, err := database.UserByLogin(ctx, slip.Login)
			if err != nil || !u.MustChange || !checkPassword(slip.Password, u.Password) {
				t.Errorf("%s: the slip of %s does not fit, %v", step.name, slip.Login, err)
			}
		}
	}
	students, err := database.Roster(ctx, c.class)
	if err != nil || len(students) != 2 {
		t.Errorf("%d students at the end, %v", len(students), err)
	}
	if u, err := database.UserByLogin(ctx, "wren"); err != nil || u.Mail != "wren@example.org" {
		t.Errorf("wren's address is %q, %v", u.Mail, err)
	}
}

// Of a school's file people are known by what they are called there, whatever becomes of their names and logins.
func TestRosterOfASchoolsSystem(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	leader := c.people["leader"]
	id := t.Name()
	file := func(name, login string) *oneroster.Roster {
		return &oneroster.Roster{Classes: []oneroster.Class{{ID: "k1", Title: "One"}, {ID: "k2", Title: "Two"}},
			Users: []oneroster.User{{ID: id, Login: login, Name: name, Line: 2}, {ID: id + "off", Login: "off", Name: "Off",
				Disabled: true}},
			Enrollments: []oneroster.Enrollment{{Class: "k1", User: id, Role: "student", Line: 2},
				{Class: "k1", User: "unknown", Role: "student", Line: 3}, {Class: "k1", User: id + "off", Role: "student", Line: 4},
				{Class: "k1", User: id, Role: "teacher", Line: 5}, {Class: "k2", User: id, Role: "student", Line: 6}}}
	}
	if list := classesIn(file("A", "a")); len(list) != 2 || list[0].Students != 3 || list[1].Students != 1 {
		t.Errorf("the classes of the file: %+v", list)
	}
	read := func(f *oneroster.Roster, most int) (*roster, string) {
		t.Helper()
		r, err := s.roster(ctx, leader, c.class)
		if err != nil {
			t.Fatal(err)
		}
		var out Enrolment
		for _, e := range ofRoster(f, "k1")[:most] {
			row, err := r.read(ctx, e)
			if err != nil {
				t.Fatal(err)
			}
			out.Rows = append(out.Rows, row)
		}
		return r, rowsOf(out)
	}
	if _, got := read(file("Wren Hollowell", "wren-of-file"), 3); got != "new wren-of-file, faulty , faulty off" {
		t.Errorf("first: %s", got)
	}
	r, _ := read(file("Wren Hollowell", "wren-of-file"), 1)
	if err := database.Enrol(ctx, c.class, r.plan, leader.ID); err != nil {
		t.Fatal(err)
	}
	r, got := read(file("Wren Hollowell-Quay", "another-login"), 1)
	if got != "here another-login" || len(r.plan.Renamed) != 1 {
		t.Errorf("with another name and login: %s, %d renamed", got, len(r.plan.Renamed))
	}
	if err := database.Enrol(ctx, c.class, r.plan, leader.ID); err != nil {
		t.Fatal(err)
	}
	u, err := database.UserBySource(ctx, id)
	if err != nil || u.Name != "Wren Hollowell-Quay" || u.Login != "wren-of-file" {
		t.Errorf("known as %q, %q, %v", u.Name, u.Login, err)
	}
}

// An exercise is its maker's: copied by whom it is shared with, archived, and removed only while it was never issued.
func TestSharing(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	maker, colleague := c.people["maker"], c.people["colleague"]
	listed := func(by Person) (out []int64) {
		t.Helper()
		all, err := s.Exercises(ctx, by)
		if err != nil {
			t.Fatal(err)
		}
		for _, v := range all {
			out = append(out, v.ExerciseID)
		}
		return out
	}
	if slices.Contains(listed(colleague), c.exercise) {
		t.Error("listed for a colleague before it is shared")
	}
	var refusal *Refusal
	for name, err := range map[string]error{
		"with a student": s.ShareExercise(ctx, maker, c.exercise, c.people["pupil"].Login, store.ToUse),
		"with nobody":    s.ShareExercise(ctx, maker, c.exercise, "nobody at all", store.ToUse),
		"with its maker": s.ShareExercise(ctx, maker, c.exercise, maker.Login, store.ToUse),
		"to have":        s.ShareExercise(ctx, maker, c.exercise, colleague.Login, "have"),
		"removed":        s.RemoveExercise(ctx, maker, c.exercise),
	} {
		if !errors.As(err, &refusal) || refusal.What == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
	if err := s.ShareExercise(ctx, maker, c.exercise, strings.ToUpper(colleague.Login), store.ToUse); err != nil {
		t.Fatal(err)
	}
	// Who issues what is somebody else's changes no rubric of it, which is a version of the exercise.
	if _, err := s.TryRubric(ctx, c.people["leader"], c.issue.ID, RubricChange{}, true); !errors.As(err, &refusal) ||
		refusal.Kind != Forbidden || refusal.Remedy == "" {
		t.Errorf("the rubric of somebody else's exercise is changed: %v", err)
	}
	if err := s.Weigh(ctx, c.people["leader"], c.issue.ID, -1); !errors.As(err, &refusal) || refusal.Kind != Faulty {
		t.Errorf("a weight below nothing: %v", err)
	}
	if !slices.Contains(listed(colleague), c.exercise) {
		t.Error("shared, and not listed")
	}
	if err := s.TagExercise(ctx, maker, c.exercise, []string{" first  year ", "", "turning", "turning"}); err != nil {
		t.Fatal(err)
	}
	if tags, err := database.Tags(ctx, c.exercise); err != nil || !slices.Equal(tags, []string{"first year", "turning"}) {
		t.Errorf("tags %q, %v", tags, err)
	}
	if err := s.ArchiveExercise(ctx, maker, c.exercise, true); err != nil {
		t.Fatal(err)
	}
	v, err := database.AddVersion(ctx, store.Version{Title: "T", Drawing: "2", Document: []byte("{}"),
		Prepared: []byte("{}"), CreatedBy: colleague.ID}, []byte("reference"))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveExercise(ctx, colleague, v.ExerciseID); err != nil {
		t.Fatal(err)
	}
	if _, err := database.Newest(ctx, v.ExerciseID); !errors.Is(err, ErrNotFound) {
		t.Errorf("removed, and still there: %v", err)
	}
	trail, err := database.Trail(ctx, c.exercise)
	if err != nil || len(trail) < 3 || trail[0].Action != "archive" || trail[0].Name != "maker" {
		t.Errorf("the trail: %+v, %v", trail, err)
	}
}

// An account that is ended lets nobody in, the last administrator's is not ended, and sessions end with the password.
func TestAccounts(t *testing.T) {
	c := gather(t)
	s := New(database, nil)
	ctx := context.Background()
	admin, leader := c.people["administrator"], c.people["leader"]
	slip, err := s.ResetPassword(ctx, leader, c.people["pupil"].ID)
	if err != nil {
		t.Fatal(err)
	}
	before, err := s.SignIn(ctx, SignIn{Login: slip.Login, Password: slip.Password, Address: t.Name()})
	if err != nil {
		t.Fatal(err)
	}
	if err := s.ChangePassword(ctx, before, slip.Password, "a sentence nobody says"); err != nil {
		t.Fatal(err)
	}
	after, err := s.Person(ctx, before.ID)
	if err != nil || after.Sessions == before.Sessions {
		t.Errorf("the sessions go on after another password: %v", err)
	}
	if err := s.EndAccount(ctx, admin, before.ID, true); err != nil {
		t.Fatal(err)
	}
	in := SignIn{Login: slip.Login, Password: "a sentence nobody says", Address: t.Name()}
	var refusal *Refusal
	if _, err := s.SignIn(ctx, in); !errors.As(err, &refusal) || refusal.Kind != WrongPassword {
		t.Errorf("signed in with an account that was ended: %v", err)
	}
	if err := s.EndAccount(ctx, admin, before.ID, false); err != nil {
		t.Fatal(err)
	}
	if _, err := s.SignIn(ctx, in); err != nil {
		t.Errorf("brought back, and not let in: %v", err)
	}
	// An assistant somewhere is not spoken for by an instructor of a class where the same person is a student.
	if err := database.Join(ctx, store.Membership{ClassID: c.class, UserID: c.people["helper"].ID, Role: store.Student},
		leader.ID); err != nil {
		t.Fatal(err)
	}
	other, err := database.AddClass(ctx, store.Class{Name: t.Name() + " other"},
		[]store.Membership{{UserID: c.people["helper"].ID, Role: store.Assistant}})
	if err != nil || other == 0 {
		t.Fatal(err)
	}
	if _, err := s.ResetPassword(ctx, leader, c.people["helper"].ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("the password of an assistant elsewhere is reset: %v", err)
	}
	all, err := s.Accounts(ctx, admin)
	if err != nil {
		t.Fatal(err)
	}
	admins := slices.DeleteFunc(all, func(a Account) bool {
		return !a.Administrator || a.ID == admin.ID || a.Ended != nil
	})
	for _, a := range admins {
		if err := database.EndAccount(ctx, a.ID, true, admin.ID); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.EndAccount(ctx, admin, admin.ID, true); !errors.As(err, &refusal) {
		t.Errorf("the last administrator is ended: %v", err)
	}
	for _, a := range admins {
		if err := database.EndAccount(ctx, a.ID, false, admin.ID); err != nil {
			t.Fatal(err)
		}
	}
}
