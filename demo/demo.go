// Package demo loads the invented school: people, classes, exercises and
// attempts of the Marrowgate Canal Works training shop.
package demo

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"time"

	"hammerset/formats/documents"
	"hammerset/school"
	"hammerset/store"
)

//go:embed exercises models assemblies
var files embed.FS

// Password is the password of all demo accounts.
const Password = "marrowgate"

// Login is a demo account.
type Login struct{ Login, Name, Role string }

// user is the account of a login.
func (l Login) user(hash string) store.User {
	u := store.User{Login: l.Login, Name: l.Name, Password: hash, Administrator: l.Role == "administrator",
		Teaches: l.Role == store.Instructor, Mail: l.Login + "@marrowgate.example"}
	if l.Role == store.Student {
		u.MailKinds = "issued,due,returned,revised"
	}
	return u
}

// members are people of a class with what they are to it, for some time already.
func members(from time.Time, role string, ids ...int64) []store.Membership {
	var out []store.Membership
	for _, id := range ids {
		out = append(out, store.Membership{UserID: id, Role: role, From: from})
	}
	return out
}

// Logins lists the demo accounts.
func Logins() []Login {
	return []Login{
		{"ottoline", "Ottoline Brack", "instructor"},
		{"fenwick", "Fenwick Sallow", "assistant"},
		{"registrar", "Registry Office", "administrator"},
		{"ada", "Ada Thistlewood", "student"}, {"bram", "Bram Oakhanger", "student"}, {"cleo", "Cleo Marchbank", "student"},
		{"dov", "Dov Lanterner", "student"}, {"esme", "Esme Quillfeather", "student"}, {"finn", "Finn Towpath", "student"},
	}
}

// Exercises lists the demo's exercises, by the names of their folders.
func Exercises() []string {
	return []string{"bearing-bracket", "gland-flange", "pawl-plate", "winch-spindle", "rack-stop", "drain-bend",
		"hand-hole-cover", "guide-block"}
}

// Bundle reads one of the demo's exercises.
func Bundle(name string) (*documents.Bundle, error) {
	ex, err := fs.ReadFile(files, "exercises/"+name+"/exercise.json")
	if err != nil {
		return nil, err
	}
	ref, err := fs.ReadFile(files, "exercises/"+name+"/reference.json")
	if err != nil {
		return nil, err
	}
	parsed, err := documents.ReadExercise(ex)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	made, err := fs.ReadFile(files, "exercises/"+name+"/"+documents.AtlasFile)
	if errors.Is(err, fs.ErrNotExist) {
		err = nil // it is made when it is needed
	}
	return &documents.Bundle{Exercise: ex, Reference: ref, Parsed: parsed, Atlas: made}, err
}

// Edited gives a model document with texts replaced: the way a student's model
// differs from the reference. A text that is not there is an error.
func Edited(doc []byte, pairs ...string) ([]byte, error) {
	for i := 0; i+1 < len(pairs); i += 2 {
		if !bytes.Contains(doc, []byte(pairs[i])) {
			return nil, fmt.Errorf("the model has no %q", pairs[i])
		}
		doc = bytes.ReplaceAll(doc, []byte(pairs[i]), []byte(pairs[i+1]))
	}
	if !json.Valid(doc) {
		return nil, fmt.Errorf("the edits break the document")
	}
	return doc, nil
}

// schoolYear is how the school writes the year of a day: from September to August.
func schoolYear(day time.Time) string {
	first := day.Year()
	if day.Month() < time.September {
		first--
	}
	return fmt.Sprintf("%d/%02d", first, (first+1)%100)
}

// Load fills an empty database: with two exercises and a few attempts, or with the whole
// school. With people there already it does nothing and says so. What is to be returned
// once it is checked comes back for Settle.
func Load(ctx context.Context, st *store.Store, sc *school.School, kernel school.Kernel,
	whole bool) (loaded bool, back []Back, err error) {
	people, err := st.Users(ctx)
	if err != nil || len(people) > 0 {
		return false, nil, err
	}
	s, err := loadSmall(ctx, st, sc, kernel)
	if err == nil && whole {
		if back, err = s.whole(ctx); err == nil {
			err = s.tag(ctx)
		}
	}
	return err == nil, back, err
}

// tag tags the exercises by what is practised in them.
func (s *loading) tag(ctx context.Context) error {
	tags := map[string][]string{"MCW-101": {"castings"}, "MCW-112": {"plates"}, "MCW-118": {"turning"},
		"MCW-121": {"milling"}, "MCW-130": {"castings", "sections"}, "MCW-134": {"plates", "patterns"},
		"MCW-207": {"inches", "turning"}, "MCW-209": {"milling"}, "MCW-301": {"assemblies"}, "MCW-302": {"assemblies"}}
	all, err := s.st.Exercises(ctx, store.User{Administrator: true})
	for _, e := range all {
		if err == nil && tags[e.Drawing] != nil {
			err = s.st.Tag(ctx, e.ExerciseID, tags[e.Drawing], s.people["ottoline"])
		}
	}
	return err
}

// loading is the demo school while it is being loaded. What lies in the past is put into the store with
// its times; all else is done as people do it.
type loading struct {
	st     *store.Store
	school *school.School
	kernel school.Kernel
	people map[string]int64
	issues map[string]int64
	class  map[string]int64 // morning and evening
	copied []byte           // what one student takes from another
}

func loadSmall(ctx context.Context, st *store.Store, sc *school.School, kernel school.Kernel) (*loading, error) {
	hash, err := school.HashPassword(Password)
	if err != nil {
		return nil, err
	}
	ids := map[string]int64{}
	for _, l := range Logins() {
		if ids[l.Login], err = st.AddUser(ctx, l.user(hash)); err !=
			nil {
			return nil, err
		}
	}
	term := time.Now().UTC().AddDate(0, -2, 0)
	year := schoolYear(term)
	morning, err := st.AddClass(ctx, store.Class{Name: "Lock fitters, first year", Year: year, Zone: "Europe/London"},
		slices.Concat(members(term, store.Instructor, ids["ottoline"]), members(term, store.Assistant, ids["fenwick"]),
			members(term, store.Student, ids["ada"], ids["bram"], ids["cleo"], ids["dov"])))
	if err != nil {
		return nil, err
	}
	evening, err := st.AddClass(ctx, store.Class{Name: "Evening machinists", Year: year, Zone: "Europe/London"},
		slices.Concat(members(term, store.Instructor, ids["ottoline"]),
			members(term, store.Student, ids["esme"], ids["finn"])))
	if err != nil {
		return nil, err
	}
	issues := map[string]int64{}
	// In this order always, so that the demo's numbers are the same everywhere.
	for _, given := range []struct {
		name  string
		class int64
	}{{"bearing-bracket", morning}, {"gland-flange", evening}} {
		name, class := given.name, given.class
		b, err := Bundle(name)
		if err != nil {
			return nil, err
		}
		v, err := sc.AddBundle(ctx, ids["ottoline"], b, 0, "the demo")
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		due := time.Now().UTC().Truncate(24 * time.Hour).Add(6*24*time.Hour + 17*time.Hour)
		results := "with the return"
		if name == "gland-flange" {
			results = "at once"
			due = due.Add(-3 * 24 * time.Hour)
		}
		if issues[name], err = st.AddIssue(ctx, store.Issue{VersionID: v.ID, ClassID: class, IssuedBy: ids["ottoline"],
			Issued: time.Now().UTC().Add(-26 * time.Hour), Due: due, Attempts: 3, Results: results}, true, ""); err != nil {
			return nil, err
		}
	}
	bracket, err := Bundle("bearing-bracket")
	if err != nil {
		return nil, err
	}
	gland, err := Bundle("gland-flange")
	if err != nil {
		return nil, err
	}
	for _, a := range []struct {
		login, issue, file string
		doc                []byte
		edits              []string
	}{
		{"ada", "bearing-bracket", "bracket thistlewood.json", bracket.Reference,
			[]string{`"value": "boss + 12 mm"`, `"value": "56 mm"`, `"diameter": "bolt"`, `"diameter": "9 mm"`}},
		{"bram", "bearing-bracket", "bracket oakhanger.json", bracket.Reference,
			[]string{`"headDepth": "5 mm"`, `"headDepth": "10 mm"`, `{"kind": "symmetric", "total": "web"}`,
				`{"kind": "symmetric", "total": "2*web"}`}},
		{"cleo", "bearing-bracket", "notes for the bracket.pdf", []byte("%PDF-1.4\n"), nil},
		{"esme", "gland-flange", "gland quillfeather.json", gland.Reference,
			[]string{`"value": "circle/2"`, `"value": "circle"`, `{"name": "circle", "value": "3 1/8 in"`,
				`{"name": "circle", "value": "1.5 in"`, `"value": "3/16 in"`, `"value": "0.188 in"`}},
	} {
		doc, err := Edited(a.doc, a.edits...)
		if a.edits == nil {
			doc, err = a.doc, nil
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", a.file, err)
		}
		if _, _, err := st.HandIn(ctx, issues[a.issue], ids[a.login], strings.ReplaceAll(a.file, " ", "-"), doc); err != nil {
			return nil, err
		}
	}
	// A student's model under way, with a sketch that is not sound yet.
	begun, err := fs.ReadFile(files, "models/bracket-begun.json")
	if err != nil {
		return nil, err
	}
	issue := issues["bearing-bracket"]
	_, err = st.AddModel(ctx, store.Model{OwnerID: ids["ada"], IssueID: &issue, Name: "Bracket, begun", Document: begun})
	if err != nil {
		return nil, err
	}
	if err := loadAssembly(ctx, st, sc, ids["ottoline"]); err != nil {
		return nil, fmt.Errorf("the tackle joint: %w", err)
	}
	return &loading{st: st, school: sc, kernel: kernel, people: ids, issues: issues,
		class: map[string]int64{"morning": morning, "evening": evening}}, nil
}

// Assembly reads one of the demo's assemblies with the files of its parts.
func Assembly(name string) (*documents.Assembled, error) {
	folder := "assemblies/" + name + "/"
	doc, err := fs.ReadFile(files, folder+documents.AssemblyFile)
	if err != nil {
		return nil, err
	}
	out := &documents.Assembled{Files: map[string][]byte{}}
	if out.Document, err = documents.ReadAssembly(doc); err != nil {
		return nil, err
	}
	for _, p := range out.Document.Parts {
		if out.Files[p.File], err = fs.ReadFile(files, folder+p.File); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// loadAssembly gives a person the tackle joint, put together, and its parts as models.
func loadAssembly(ctx context.Context, st *store.Store, sc *school.School, owner int64) error {
	a, err := Assembly("tackle-joint")
	if err != nil {
		return err
	}
	for _, p := range a.Document.Parts {
		if _, err := st.AddModel(ctx, store.Model{OwnerID: owner, Name: p.Name, Document: a.Files[p.File]}); err != nil {
			return err
		}
	}
	bundle, err := a.Zip()
	if err != nil {
		return err
	}
	_, err = sc.StartAssembly(ctx, store.User{ID: owner, Teaches: true}, school.AssemblyStart{Bundle: bundle})
	return err
}
