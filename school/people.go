package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"hammerset/store"
)

// Bounds of what people are called and sign in with, in letters.
const (
	longestName  = 100
	longestLogin = 60
)

// cleanLogin is a login as it is kept.
func cleanLogin(login string) string {
	login = strings.ToValidUTF8(strings.ToLower(strings.TrimSpace(login)), "")
	if len(login) > 100 {
		login = strings.ToValidUTF8(login[:100], "")
	}
	return login
}

// named checks a name and a login; what is empty when both will do.
func named(name, login string) (what string) {
	barred := func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) || strings.ContainsRune(`,;"`, r) }
	switch {
	case name == "" || utf8.RuneCountInString(name) > longestName:
		return fmt.Sprintf("a name has from 1 to %d letters", longestName)
	case login == "" || utf8.RuneCountInString(login) > longestLogin:
		return fmt.Sprintf("a login has from 1 to %d letters", longestLogin)
	case strings.ContainsFunc(login, barred):
		return "a login has no spaces, commas, semicolons or quotes"
	}
	return ""
}

// Accounts lists all accounts.
func (s *School) Accounts(ctx context.Context, by Person) ([]Person, error) {
	if err := Allowed(by, ListAccounts); err != nil {
		return nil, err
	}
	return s.store.Users(ctx)
}

// MakeAccount makes an account with a first password.
func (s *School) MakeAccount(ctx context.Context, by Person, name, login, role string) (Slip, error) {
	if err := Allowed(by, MakeAccount); err != nil {
		return Slip{}, err
	}
	name, login = strings.TrimSpace(name), cleanLogin(login)
	if what := named(name, login); what != "" {
		return Slip{}, refuse(Faulty, what, "")
	}
	if !slices.Contains(Roles(), role) {
		return Slip{}, refuse(Faulty, fmt.Sprintf("there is no role %q", role),
			"choose student, assistant, instructor or administrator")
	}
	password, hash, err := s.slip(ctx)
	if err != nil {
		return Slip{}, err
	}
	id, err := s.store.AddAccount(ctx, Person{Login: login, Name: name, Role: role, Password: hash, MustChange: true},
		by.ID)
	if errors.Is(err, store.ErrLoginTaken) {
		return Slip{}, refuse(Conflict, "the login "+login+" is taken", "choose another")
	}
	return Slip{ID: id, Name: name, Login: login, Password: password}, err
}

// MakeClass makes a class that the asker belongs to.
func (s *School) MakeClass(ctx context.Context, by Person, name string) (store.Class, error) {
	if err := Allowed(by, MakeClass); err != nil {
		return store.Class{}, err
	}
	name = strings.TrimSpace(name)
	if name == "" || utf8.RuneCountInString(name) > longestName {
		return store.Class{}, refuse(Faulty, fmt.Sprintf("a class needs a name of at most %d letters", longestName), "")
	}
	id, err := s.store.MakeClass(ctx, name, by.ID)
	return store.Class{ID: id, Name: name}, err
}

// RowState says what comes of a line of a list of students.
type RowState string

const (
	RowNew    RowState = "new"    // an account is made
	RowKnown  RowState = "known"  // has an account, and joins the class
	RowHere   RowState = "here"   // in the class already
	RowFaulty RowState = "faulty" // nothing
)

// EnrolmentRow is a line of a list of students and what comes of it.
type EnrolmentRow struct {
	Line        int
	Name, Login string
	State       RowState
	What        string
}

// Enrolment is what comes of a list of students. Slips are those of new accounts, once they are made.
type Enrolment struct {
	Rows  []EnrolmentRow
	Slips []Slip
	Saved bool
}

// MostStudents is how many lines of a list are taken at once.
const MostStudents = 300

// Enrol reads a list of students, a name and a login in every line, and says what would come of each;
// with save it puts them into a class, in one piece.
func (s *School) Enrol(ctx context.Context, by Person, class int64, list string, save bool) (Enrolment, error) {
	var out Enrolment
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return out, err
	}
	students, err := s.store.Roster(ctx, class)
	if err != nil {
		return out, err
	}
	r := &roster{store: s.store, here: map[int64]bool{}, seen: map[string]int{}}
	for _, u := range students {
		r.here[u.ID] = true
	}
	for n, line := range strings.Split(strings.ReplaceAll(list, "\r", ""), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		row, err := r.read(ctx, n+1, line)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, row)
	}
	if len(out.Rows) > MostStudents {
		return out, refuse(Faulty, fmt.Sprintf("the list has %d students", len(out.Rows)),
			fmt.Sprintf("take at most %d at once", MostStudents))
	}
	if !save || len(out.Rows) == 0 {
		return out, nil
	}
	if r.faults > 0 {
		return out, refuse(Faulty, fmt.Sprintf("%d lines of the list are faulty; nothing was done", r.faults),
			"put them right, or take them out")
	}
	for i := range r.fresh {
		password, hash, err := s.slip(ctx)
		if err != nil {
			return out, err
		}
		r.fresh[i].Password = hash
		out.Slips = append(out.Slips, Slip{Name: r.fresh[i].Name, Login: r.fresh[i].Login, Password: password})
	}
	err = s.store.Enrol(ctx, class, r.fresh, r.known, by.ID)
	if errors.Is(err, store.ErrLoginTaken) {
		return out, refuse(Conflict, "a login of the list was taken meanwhile; nothing was done", "look at the list again")
	}
	out.Saved = err == nil
	return out, err
}

// roster is a list of students that is being read for a class.
type roster struct {
	store  *store.Store
	here   map[int64]bool // who is in the class
	seen   map[string]int // the line of each login
	fresh  []Person       // who get an account
	known  []int64        // who have one, and join the class
	faults int
}

// read says what is to be done with one line.
func (r *roster) read(ctx context.Context, n int, line string) (EnrolmentRow, error) {
	row := EnrolmentRow{Line: n}
	row.Name, row.Login = readStudent(line)
	first, twice := r.seen[row.Login]
	r.seen[row.Login] = n
	switch {
	case row.Login == "":
		row.State, row.What = RowFaulty, "no login: write the name, a comma and the login"
	case named(row.Name, row.Login) != "":
		row.State, row.What = RowFaulty, named(row.Name, row.Login)
	case twice:
		row.State, row.What = RowFaulty, fmt.Sprintf("the same login as in line %d", first)
	default:
		u, err := r.store.UserByLogin(ctx, row.Login)
		if err != nil && !errors.Is(err, ErrNotFound) {
			return row, err
		}
		r.place(&row, u)
	}
	if row.State == RowFaulty {
		r.faults++
	}
	return row, nil
}

// place says what becomes of a student by whoever has the login; nobody has where there is no id.
func (r *roster) place(row *EnrolmentRow, u Person) {
	switch {
	case u.ID == 0:
		row.State, row.What = RowNew, "a new account"
		r.fresh = append(r.fresh, Person{Login: row.Login, Name: row.Name, Role: student, MustChange: true})
	case u.Role != student:
		row.State, row.What = RowFaulty, "this login belongs to somebody who is no student"
	case !strings.EqualFold(u.Name, row.Name):
		row.State, row.What = RowFaulty, "this login belongs to somebody with another name; choose another"
	case r.here[u.ID]:
		row.State, row.What = RowHere, "in this class already"
	default:
		row.State, row.What = RowKnown, "has an account, and joins the class"
		r.known = append(r.known, u.ID)
	}
}

// readStudent parts a line into name and login: at a tab, a semicolon or the last comma.
func readStudent(line string) (name, login string) {
	line = strings.TrimSpace(line)
	at := strings.LastIndexAny(line, "\t;")
	if at < 0 {
		at = strings.LastIndex(line, ",")
	}
	if at < 0 {
		return line, ""
	}
	plain := func(s string) string { return strings.Trim(strings.TrimSpace(s), `"`) }
	return plain(line[:at]), cleanLogin(plain(line[at+1:]))
}
