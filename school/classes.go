package school

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"hammerset/store"
)

// taught lists the classes in which a person has to do with all students.
func (s *School) taught(ctx context.Context, by Person) ([]store.Class, error) {
	list, err := s.store.Classes(ctx, by)
	return slices.DeleteFunc(list, func(c store.Class) bool {
		return !by.Administrator && (c.Role == nil || *c.Role == store.Student)
	}), err
}

// Classes lists the classes in which the asker has to do with all students; those that are archived come last.
func (s *School) Classes(ctx context.Context, by Person) ([]store.Class, error) {
	if err := s.may(ctx, by, ReadDesk, row{}); err != nil {
		return nil, err
	}
	return s.taught(ctx, by)
}

// described checks what a class is called, and tidies it.
func described(c *store.Class) error {
	c.Name, c.Year, c.Zone = strings.TrimSpace(c.Name), strings.TrimSpace(c.Year), strings.TrimSpace(c.Zone)
	if c.Zone == "" {
		c.Zone = "UTC"
	}
	_, err := time.LoadLocation(c.Zone)
	switch {
	case c.Name == "" || utf8.RuneCountInString(c.Name) > longestName:
		return refuse(Faulty, fmt.Sprintf("a class needs a name of at most %d letters", longestName), "")
	case utf8.RuneCountInString(c.Year) > longestYear:
		return refuse(Faulty, fmt.Sprintf("a school year has at most %d letters", longestYear), "write it as 2026/27")
	case err != nil:
		return refuse(Faulty, fmt.Sprintf("there is no time zone %q", c.Zone), "name one as Europe/London is named")
	}
	return nil
}

// longestYear is how long a school year may be, in letters.
const longestYear = 20

// taken says of a class that there is one already.
func taken(c store.Class, err error) error {
	if !errors.Is(err, store.ErrNameTaken) {
		return err
	}
	year := ""
	if c.Year != "" {
		year = " in " + c.Year
	}
	return refuse(Conflict, fmt.Sprintf("there is a class %q%s already", c.Name, year),
		"give it another name or school year, or bring that one back if it is archived")
}

// MakeClass makes a class of which the asker is the instructor.
func (s *School) MakeClass(ctx context.Context, by Person, c store.Class) (store.Class, error) {
	if err := s.may(ctx, by, MakeClass, row{}); err != nil {
		return c, err
	}
	if err := described(&c); err != nil {
		return c, err
	}
	id, err := s.store.MakeClass(ctx, c, by.ID)
	if err != nil {
		return c, taken(c, err)
	}
	return s.store.Class(ctx, id)
}

// ChangeClass gives a class another name, school year or time zone.
func (s *School) ChangeClass(ctx context.Context, by Person, c store.Class) error {
	if err := s.may(ctx, by, ChangeClass, row{class: c.ID}); err != nil {
		return err
	}
	if err := described(&c); err != nil {
		return err
	}
	return taken(c, s.store.ChangeClass(ctx, c, by.ID))
}

// ArchiveClass puts a class away with all that was done in it, or brings it back.
func (s *School) ArchiveClass(ctx context.Context, by Person, class int64, archived bool) error {
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return err
	}
	return s.store.ArchiveClass(ctx, class, archived, by.ID)
}

// Join makes the person with a login an instructor or an assistant of a class, or a student who has an account.
func (s *School) Join(ctx context.Context, by Person, class int64, login, role string) error {
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return err
	}
	login = cleanLogin(login)
	u, err := s.store.UserByLogin(ctx, login)
	switch {
	case errors.Is(err, ErrNotFound) || err == nil && u.Ended != nil:
		return refuse(Faulty, fmt.Sprintf("nobody has the login %q", login),
			"an administrator makes the accounts of instructors and assistants")
	case err != nil:
		return err
	case byRole(role) == "":
		return refuse(Faulty, fmt.Sprintf("there is no role %q", role), "choose student, assistant or instructor")
	case role == store.Instructor && !u.Teaches:
		return refuse(Faulty, u.Name+" has no instructor's account", "an administrator can make it one")
	case role == store.Student && (u.Teaches || u.Administrator):
		return refuse(Faulty, u.Name+" is no student", "choose assistant or instructor")
	}
	return s.moved(ctx, by, class, u, role)
}

// moved gives somebody a role in a class; its last instructor stays one.
func (s *School) moved(ctx context.Context, by Person, class int64, u Person, role string) error {
	was, err := s.store.Membership(ctx, class, u.ID)
	if err != nil && !errors.Is(err, ErrNotFound) {
		return err
	}
	if err == nil && was.There() && was.Role == role {
		return refuse(Conflict, u.Name+" is "+role+" of this class already", "")
	}
	if err == nil && was.There() && was.Role == store.Instructor {
		if err := s.leave(ctx, by, class, u); err != nil {
			return err
		}
	}
	return s.store.Join(ctx, store.Membership{ClassID: class, UserID: u.ID, Role: role}, by.ID)
}

// Leave takes somebody out of a class; what was handed in stays.
func (s *School) Leave(ctx context.Context, by Person, class, person int64) error {
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return err
	}
	u, err := s.store.User(ctx, person)
	if err != nil {
		return err
	}
	return s.leave(ctx, by, class, u)
}

func (s *School) leave(ctx context.Context, by Person, class int64, u Person) error {
	err := s.store.Leave(ctx, class, u.ID, by.ID)
	if errors.Is(err, store.ErrNobodyLeads) {
		return refuse(Conflict, u.Name+" is the only instructor of this class",
			"make somebody else an instructor of it first, or archive the class")
	}
	return err
}

// mostExtra is how many hours of extra time a student can have: a month.
const mostExtra = 31 * 24

// SetExtraTime changes how many hours after the others a student hands in, at everything that is issued to the class.
// Extensions that were given stay as they are.
func (s *School) SetExtraTime(ctx context.Context, by Person, class, student int64, hours int) error {
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return err
	}
	if hours < 0 || hours > mostExtra {
		return refuse(Faulty, fmt.Sprintf("extra time is from 0 to %d hours", mostExtra), "")
	}
	return s.store.SetExtraTime(ctx, class, student, hours, by.ID)
}
