package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"hammerset/formats/oneroster"
	"hammerset/formats/table"
	"hammerset/kernel/task"
	"hammerset/store"
)

// RowState says what comes of a line of a list of students.
type RowState string

const (
	RowNew    RowState = "new"    // an account is made
	RowKnown  RowState = "known"  // has an account, and joins the class
	RowMoved  RowState = "moved"  // was in another class of the school year, and joins this one
	RowHere   RowState = "here"   // in the class already
	RowLeft   RowState = "left"   // is in the class and not on the list
	RowFaulty RowState = "faulty" // nothing
)

// EnrolmentRow is a line of a list of students and what comes of it. Line is 0 for somebody who is on no line.
type EnrolmentRow struct {
	Line        int
	Name, Login string
	State       RowState
	What        string
}

// Enrolment is what comes of a list of students. Slips are those of new accounts, once they are made.
type Enrolment struct {
	Rows    []EnrolmentRow
	Slips   []Slip
	Saved   bool
	Classes []ListedClass // of the file, where one of them is to be chosen
}

// ListedClass is a class of a file with the number of its students there.
type ListedClass struct {
	ID, Title string
	Students  int
}

// List is a list of students as it was given: text, a file, or the roster of the learning platform; whole where nobody
// else is in the class.
type List struct {
	Text     string
	File     []byte
	Platform bool
	Class    string // of the file, by its sourcedId
	Whole    bool
}

// MostStudents is how many lines of a list are taken at once.
const MostStudents = 300

// entrant is a line of a list of students.
type entrant struct {
	line              int
	name, login, mail string
	source            string // sourcedId; empty where the list has none
	fault             string // of the line itself
}

// Enrol reads a list of students and says row by row what would come of it; with save it is done, in one piece. Taken
// again it changes nothing.
func (s *School) Enrol(ctx context.Context, by Person, class int64, list List, save bool) (Enrolment, error) {
	var out Enrolment
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return out, err
	}
	if list.Platform {
		var err error
		if list.File, err = s.platformRoster(ctx); err != nil {
			return out, err
		}
	}
	entrants, classes, err := s.entrants(ctx, class, list)
	if err != nil || classes != nil {
		out.Classes = classes
		return out, err
	}
	if len(entrants) > MostStudents {
		return out, refuse(Faulty, fmt.Sprintf("the list has %d students", len(entrants)),
			fmt.Sprintf("take at most %d at once", MostStudents))
	}
	r, err := s.roster(ctx, by, class)
	if err != nil {
		return out, err
	}
	for _, e := range entrants {
		row, err := r.read(ctx, e)
		if err != nil {
			return out, err
		}
		out.Rows = append(out.Rows, row)
	}
	if list.Whole && len(entrants) > 0 {
		out.Rows = append(out.Rows, r.leaving()...)
	}
	if !save || len(out.Rows) == 0 {
		return out, nil
	}
	if r.faults > 0 {
		return out, refuse(Faulty, fmt.Sprintf("%d lines of the list are faulty; nothing was done", r.faults),
			"put them right, or take them out")
	}
	for i := range r.plan.Fresh {
		password, hash, err := s.slip(ctx)
		if err != nil {
			return out, err
		}
		u := &r.plan.Fresh[i]
		u.Password = hash
		out.Slips = append(out.Slips, Slip{Name: u.Name, Login: u.Login, Password: password})
	}
	err = s.store.Enrol(ctx, class, r.plan, by.ID)
	if errors.Is(err, store.ErrLoginTaken) {
		return out, refuse(Conflict, "a login of the list was taken meanwhile; nothing was done", "look at the list again")
	}
	out.Saved = err == nil
	return out, err
}

// entrants reads a list. Of a file with several classes, of which none is chosen or known, it gives these.
func (s *School) entrants(ctx context.Context, class int64, list List) ([]entrant, []ListedClass, error) {
	if list.File == nil {
		if header, rows := headed(list.Text); header != nil {
			return ofTable(header, rows), nil, nil
		}
		return ofLines(list.Text), nil, nil
	}
	r, err := ask[*oneroster.Roster](ctx, s, &task.Request{Kind: task.ReadRoster, File: list.File})
	if err != nil {
		return nil, nil, err
	}
	if list.Class == "" {
		known, err := s.store.Class(ctx, class)
		if err != nil {
			return nil, nil, err
		}
		switch {
		case len(r.Classes) == 1:
			list.Class = r.Classes[0].ID
		case known.SourcedID != nil:
			list.Class = *known.SourcedID
		}
	}
	if !slices.ContainsFunc(r.Classes, func(c oneroster.Class) bool { return c.ID == list.Class }) {
		return nil, classesIn(r), nil
	}
	return ofRoster(r, list.Class), nil, nil
}

// classesIn are the classes of a file, of which there is at least one.
func classesIn(r *oneroster.Roster) []ListedClass {
	out := []ListedClass{}
	for _, c := range r.Classes {
		n := 0
		for _, e := range r.Enrollments {
			if e.Class == c.ID && e.Role == store.Student {
				n++
			}
		}
		out = append(out, ListedClass{c.ID, c.Title, n})
	}
	return out
}

// ofRoster are the students of a class of a file.
func ofRoster(r *oneroster.Roster, class string) []entrant {
	users := map[string]oneroster.User{}
	for _, u := range r.Users {
		users[u.ID] = u
	}
	var out []entrant
	for _, e := range r.Enrollments {
		if e.Class != class || e.Role != store.Student {
			continue
		}
		u, ok := users[e.User]
		x := entrant{line: e.Line, name: u.Name, login: cleanLogin(u.Login), mail: u.Mail, source: u.ID}
		switch {
		case !ok:
			x.fault = fmt.Sprintf("users.csv has nobody with the sourcedId %q", e.User)
		case u.Disabled:
			x.fault = "users.csv says that this account is not enabled"
		}
		out = append(out, x)
	}
	return out
}

// headed parts a table with a header from its first line; nil where the first line is no header.
func headed(text string) (header map[string]int, rows [][]string) {
	rows, err := table.Read(separated(text))
	if err != nil || len(rows) == 0 {
		return nil, nil
	}
	header = map[string]int{}
	for i, c := range rows[0] {
		header[strings.ToLower(c)] = i
	}
	if _, ok := header["login"]; !ok {
		return nil, nil
	}
	return header, rows[1:]
}

// separated is a table with commas, whatever it was separated with: the sign that its first line has most of.
func separated(text string) string {
	first, _, _ := strings.Cut(text, "\n")
	for _, sign := range []string{"\t", ";"} {
		if n := strings.Count(first, sign); n > 0 && n >= strings.Count(first, ",") {
			return strings.ReplaceAll(text, sign, ",")
		}
	}
	return text
}

// ofTable are the lines of a table with the columns login, and name or given name and family name; mail if there is
// one.
func ofTable(header map[string]int, rows [][]string) []entrant {
	var out []entrant
	for i, cells := range rows {
		at := func(column string) string {
			if n, ok := header[column]; ok && n < len(cells) {
				return cells[n]
			}
			return ""
		}
		e := entrant{line: i + 2, name: at("name"), login: cleanLogin(at("login")), mail: at("mail")}
		if e.name == "" {
			e.name = strings.TrimSpace(at("given name") + " " + at("family name"))
		}
		out = append(out, e)
	}
	return out
}

// ofLines are lines of a name and a login.
func ofLines(text string) []entrant {
	var out []entrant
	for n, line := range strings.Split(strings.ReplaceAll(text, "\r", ""), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		e := entrant{line: n + 1}
		e.name, e.login = readStudent(line)
		if e.login == "" {
			e.fault = "no login: write the name, a comma and the login"
		}
		out = append(out, e)
	}
	return out
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

// roster is a list of students that is being read for a class.
type roster struct {
	store  *store.Store
	here   map[int64]store.Member // who is in the class
	others map[int64]string       // the other class of the school year in which somebody is
	seen   map[string]int         // the line of each login
	listed map[int64]bool         // who is on the list
	plan   store.Enrolment
	faults int
}

// roster begins to read a list for a class.
func (s *School) roster(ctx context.Context, by Person, class int64) (*roster, error) {
	r := &roster{store: s.store, here: map[int64]store.Member{}, seen: map[string]int{}, listed: map[int64]bool{}}
	members, err := s.store.Members(ctx, class)
	if err != nil {
		return nil, err
	}
	for _, m := range members {
		if m.There() {
			r.here[m.UserID] = m
		}
	}
	r.others, err = s.store.Elsewhere(ctx, class)
	return r, err
}

// read says what is to be done with one line.
func (r *roster) read(ctx context.Context, e entrant) (EnrolmentRow, error) {
	row := EnrolmentRow{Line: e.line, Name: e.name, Login: e.login}
	first, twice := r.seen[e.login]
	r.seen[e.login] = e.line
	switch {
	case e.fault != "":
		row.State, row.What = RowFaulty, e.fault
	case named(e.name, e.login) != "":
		row.State, row.What = RowFaulty, named(e.name, e.login)
	case twice:
		row.State, row.What = RowFaulty, fmt.Sprintf("the same login as in line %d", first)
	default:
		u, err := r.whose(ctx, e)
		if err != nil {
			return row, err
		}
		r.place(&row, e, u)
	}
	if row.State == RowFaulty {
		r.faults++
	}
	return row, nil
}

// whose is the account of an entrant: by what it is called where it came from, or else by the login. Nobody's has no
// id.
func (r *roster) whose(ctx context.Context, e entrant) (Person, error) {
	if e.source != "" {
		u, err := r.store.UserBySource(ctx, e.source)
		if !errors.Is(err, ErrNotFound) {
			return u, err
		}
	}
	u, err := r.store.UserByLogin(ctx, e.login)
	if errors.Is(err, ErrNotFound) {
		return Person{}, nil
	}
	return u, err
}

// place says what becomes of a student by whoever has the account.
func (r *roster) place(row *EnrolmentRow, e entrant, u Person) {
	known := u.SourcedID != nil && *u.SourcedID == e.source
	m, here := r.here[u.ID]
	switch {
	case u.ID == 0:
		row.State, row.What = RowNew, "a new account"
		fresh := Person{Login: e.login, Name: e.name, Mail: e.mail, MustChange: true}
		if e.source != "" {
			fresh.SourcedID = &e.source
		}
		r.plan.Fresh = append(r.plan.Fresh, fresh)
		return
	case u.Administrator || u.Teaches || here && m.Role != store.Student:
		row.State, row.What = RowFaulty, "this login belongs to somebody who is no student"
	case u.Ended != nil:
		row.State, row.What = RowFaulty, "the account with this login was ended; an administrator can bring it back"
	case !known && !strings.EqualFold(u.Name, e.name):
		row.State, row.What = RowFaulty, "this login belongs to somebody with another name; choose another"
	case r.listed[u.ID]:
		row.State, row.What = RowFaulty, "is on the list already"
	case here:
		row.State, row.What = RowHere, "in this class already"
	case r.others[u.ID] != "":
		row.State, row.What = RowMoved, "comes from "+r.others[u.ID]+", and is a student of both until taken out there"
		r.plan.Join = append(r.plan.Join, u.ID)
	default:
		row.State, row.What = RowKnown, "has an account, and joins the class"
		r.plan.Join = append(r.plan.Join, u.ID)
	}
	r.listed[u.ID] = true
	if row.State != RowFaulty && known && u.Name != e.name {
		row.What += fmt.Sprintf("; was called %s", u.Name)
		r.plan.Renamed = append(r.plan.Renamed, Person{ID: u.ID, Name: e.name})
	}
	if row.State != RowFaulty && e.source != "" && u.SourcedID == nil {
		r.plan.Sourced = append(r.plan.Sourced, Person{ID: u.ID, SourcedID: &e.source})
	}
}

// leaving are the students of the class who are not on the list.
func (r *roster) leaving() []EnrolmentRow {
	var out []EnrolmentRow
	for id, m := range r.here {
		if m.Role != store.Student || r.listed[id] {
			continue
		}
		out = append(out, EnrolmentRow{Name: m.Name, Login: m.Login, State: RowLeft,
			What: "is not on the list, and leaves; what was handed in stays"})
		r.plan.Leave = append(r.plan.Leave, id)
	}
	slices.SortFunc(out, func(a, b EnrolmentRow) int { return strings.Compare(a.Name, b.Name) })
	return out
}
