package api

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/gin-gonic/gin"

	"hammerset/store"
)

// Bounds of what people are called and sign in with. The least length of a password is that
// of NIST SP 800-63B, 5.1.1.
const (
	longestName     = 100
	longestLogin    = 60
	leastPassword   = 8
	longestPassword = 200
)

// letters of first passwords: none that look alike on paper.
const letters = "abcdefghjkmnpqrstuvwxyz23456789"

// firstPassword makes a password to be given on paper: 31^10 possibilities.
func firstPassword() (string, error) {
	var b strings.Builder
	buf := make([]byte, 1)
	for n := 0; n < 10; {
		if _, err := rand.Read(buf); err != nil {
			return "", err
		}
		if int(buf[0]) >= 256/len(letters)*len(letters) {
			continue // so that every letter is as likely
		}
		if n == 5 {
			b.WriteByte('-')
		}
		b.WriteByte(letters[int(buf[0])%len(letters)])
		n++
	}
	return b.String(), nil
}

// slip makes a first password and its hash.
func (s *Server) slip(ctx context.Context) (password, hash string, err error) {
	if password, err = firstPassword(); err != nil {
		return "", "", err
	}
	var failed error
	err = s.hashed(ctx, func() { hash, failed = HashPassword(password) })
	return password, hash, errors.Join(err, failed)
}

// named checks a name and a login; what is empty when both will do.
func named(name, login string) (what string) {
	switch {
	case name == "" || utf8.RuneCountInString(name) > longestName:
		return fmt.Sprintf("a name has from 1 to %d letters", longestName)
	case login == "" || utf8.RuneCountInString(login) > longestLogin:
		return fmt.Sprintf("a login has from 1 to %d letters", longestLogin)
	case strings.ContainsFunc(login, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) || strings.ContainsRune(`,;"`, r) }):
		return "a login has no spaces, commas, semicolons or quotes"
	}
	return ""
}

// AddUser makes an account with a first password.
func (s *Server) AddUser(c *gin.Context) {
	ctx := c.Request.Context()
	var in NewUser
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the account is not readable", "give name, login and role")
		return
	}
	name, login := strings.TrimSpace(in.Name), cleanLogin(in.Login)
	if what := named(name, login); what != "" {
		problem(c, http.StatusUnprocessableEntity, what, "")
		return
	}
	if !validRole(string(in.Role)) {
		problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("there is no role %q", in.Role), "choose student, assistant, instructor or administrator")
		return
	}
	password, hash, err := s.slip(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	id, err := s.store.AddUser(ctx, store.User{Login: login, Name: name, Role: string(in.Role), Password: hash, MustChange: true})
	if errors.Is(err, store.ErrLoginTaken) {
		problem(c, http.StatusConflict, "the login "+login+" is taken", "choose another")
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, Slip{Id: id, Name: name, Login: login, Password: password})
}

func validRole(role string) bool {
	for _, r := range everyone {
		if r == role {
			return true
		}
	}
	return false
}

// ResetPassword gives somebody a new first password: an administrator anybody, an instructor
// the students of classes that are theirs.
func (s *Server) ResetPassword(c *gin.Context, id Id) {
	ctx, by := c.Request.Context(), user(c)
	u, err := s.store.User(ctx, id)
	if err == nil && by.Role != administrator {
		var ok bool
		if ok, err = s.store.Teaches(ctx, by.ID, id); err == nil && (!ok || u.Role != student) {
			err = store.ErrNotFound
		}
	}
	var password, hash string
	if err == nil {
		password, hash, err = s.slip(ctx)
	}
	if err == nil {
		err = s.store.SetPassword(ctx, id, hash, true, by.ID)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusOK, Slip{Id: id, Name: u.Name, Login: u.Login, Password: password})
}

// ChangePassword changes the asker's own password.
func (s *Server) ChangePassword(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxSignIn)
	ctx, u := c.Request.Context(), user(c)
	var in ChangePasswordJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "give the old and the new password")
		return
	}
	n := utf8.RuneCountInString(in.New)
	switch {
	case n < leastPassword || n > longestPassword:
		problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("a password has from %d to %d letters", leastPassword, longestPassword), "a sentence that nobody else says is a good one")
		return
	case strings.EqualFold(in.New, u.Login) || strings.EqualFold(in.New, u.Name) || in.New == in.Old:
		problem(c, http.StatusUnprocessableEntity, "this password is easily guessed", "take another than your name, your login or the old one")
		return
	}
	right, hash := false, ""
	var failed error
	err := s.hashed(ctx, func() {
		if right = checkPassword(in.Old, u.Password); right {
			hash, failed = HashPassword(in.New)
		}
	})
	if err = errors.Join(err, failed); err != nil {
		s.fail(c, err)
		return
	}
	if !right {
		problem(c, http.StatusUnprocessableEntity, "the old password is wrong", "type it again")
		return
	}
	if err := s.store.SetPassword(ctx, u.ID, hash, false, u.ID); err != nil {
		s.fail(c, err)
		return
	}
	if err := s.welcome(c, u.ID); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// AddClass makes a class that the asker belongs to.
func (s *Server) AddClass(c *gin.Context) {
	ctx := c.Request.Context()
	var in AddClassJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the request is not readable", "give a name")
		return
	}
	name := strings.TrimSpace(in.Name)
	if name == "" || utf8.RuneCountInString(name) > longestName {
		problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("a class needs a name of at most %d letters", longestName), "")
		return
	}
	id, err := s.store.AddClass(ctx, name, []int64{user(c).ID})
	if err != nil {
		s.fail(c, err)
		return
	}
	c.JSON(http.StatusCreated, Class{Id: id, Name: name})
}

// mostStudents is how many lines of a list are taken at once.
const mostStudents = 300

// Enrol reads a list of students and puts them into a class.
func (s *Server) Enrol(c *gin.Context, id Id) {
	ctx := c.Request.Context()
	if ok, err := s.inClass(c, id); err != nil || !ok {
		s.fail(c, errors.Join(err, notFoundUnless(ok)))
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, 256<<10)
	var in EnrolJSONBody
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the list is not readable, or too long", fmt.Sprintf("at most %d students at once", mostStudents))
		return
	}
	students, err := s.store.Roster(ctx, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	here := map[int64]bool{}
	for _, u := range students {
		here[u.ID] = true
	}
	out := Enrolment{Rows: []EnrolmentRow{}, Slips: []Slip{}}
	list := &roster{server: s, here: here, seen: map[string]int{}}
	for n, line := range strings.Split(strings.ReplaceAll(in.List, "\r", ""), "\n") {
		if strings.TrimSpace(line) == "" {
			continue
		}
		row, err := list.read(ctx, n+1, line)
		if err != nil {
			s.fail(c, err)
			return
		}
		out.Rows = append(out.Rows, row)
	}
	fresh, known, faults := list.fresh, list.known, list.faults
	if len(out.Rows) > mostStudents {
		problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("the list has %d students", len(out.Rows)), fmt.Sprintf("take at most %d at once", mostStudents))
		return
	}
	if !in.Save || len(out.Rows) == 0 {
		c.JSON(http.StatusOK, out)
		return
	}
	if faults > 0 {
		problem(c, http.StatusUnprocessableEntity, fmt.Sprintf("%d lines of the list are faulty; nothing was done", faults), "put them right, or take them out")
		return
	}
	for i := range fresh {
		password, hash, err := s.slip(ctx)
		if err != nil {
			s.fail(c, err)
			return
		}
		fresh[i].Password = hash
		out.Slips = append(out.Slips, Slip{Name: fresh[i].Name, Login: fresh[i].Login, Password: password})
	}
	if err := s.store.Enrol(ctx, id, fresh, known); errors.Is(err, store.ErrLoginTaken) {
		problem(c, http.StatusConflict, "a login of the list was taken meanwhile; nothing was done", "look at the list again")
		return
	} else if err != nil {
		s.fail(c, err)
		return
	}
	out.Saved = true
	c.JSON(http.StatusOK, out)
}

// roster is a list of students that is being read for a class.
type roster struct {
	server *Server
	here   map[int64]bool // who is in the class
	seen   map[string]int // the line of each login
	fresh  []store.User   // who get an account
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
		u, err := r.server.store.UserByLogin(ctx, row.Login)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
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
func (r *roster) place(row *EnrolmentRow, u store.User) {
	switch {
	case u.ID == 0:
		row.State, row.What = RowNew, "a new account"
		r.fresh = append(r.fresh, store.User{Login: row.Login, Name: row.Name, Role: student, MustChange: true})
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
	return strings.Trim(strings.TrimSpace(line[:at]), `"`), cleanLogin(strings.Trim(strings.TrimSpace(line[at+1:]), `"`))
}
