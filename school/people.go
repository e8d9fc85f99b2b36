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

// Account is an account with what its person is to classes.
type Account struct {
	Person
	Classes []string
}

// Accounts lists all accounts.
func (s *School) Accounts(ctx context.Context, by Person) ([]Account, error) {
	if err := s.may(ctx, by, ListAccounts, row{}); err != nil {
		return nil, err
	}
	users, err := s.store.Users(ctx)
	if err != nil {
		return nil, err
	}
	of, err := s.store.ClassesOfAll(ctx)
	var out []Account
	for _, u := range users {
		out = append(out, Account{u, of[u.ID]})
	}
	return out, err
}

// MakeAccount makes an account with a first password.
func (s *School) MakeAccount(ctx context.Context, by Person, u Person) (Slip, error) {
	if err := s.may(ctx, by, MakeAccount, row{}); err != nil {
		return Slip{}, err
	}
	u.Name, u.Login = strings.TrimSpace(u.Name), cleanLogin(u.Login)
	if what := named(u.Name, u.Login); what != "" {
		return Slip{}, refuse(Faulty, what, "")
	}
	password, hash, err := s.slip(ctx)
	if err != nil {
		return Slip{}, err
	}
	u.Password, u.MustChange = hash, true
	id, err := s.store.AddAccount(ctx, u, by.ID)
	if errors.Is(err, store.ErrLoginTaken) {
		return Slip{}, refuse(Conflict, "the login "+u.Login+" is taken", "choose another")
	}
	return Slip{ID: id, Name: u.Name, Login: u.Login, Password: password}, err
}

// HasAccounts tells whether anybody has an account.
func (s *School) HasAccounts(ctx context.Context) (bool, error) {
	list, err := s.store.Users(ctx)
	return len(list) > 0, err
}

// MakeAdministrator makes the account of an administrator, or gives an administrator a new first password. It asks for
// no right: it is for whoever runs the server.
func (s *School) MakeAdministrator(ctx context.Context, name, login string) (Slip, error) {
	u := Person{Name: strings.TrimSpace(name), Login: cleanLogin(login), Administrator: true, Teaches: true,
		MustChange: true}
	if what := named(u.Name, u.Login); what != "" {
		return Slip{}, refuse(Faulty, what, "")
	}
	password, hash, err := s.slip(ctx)
	if err != nil {
		return Slip{}, err
	}
	there, err := s.store.UserByLogin(ctx, u.Login)
	switch {
	case errors.Is(err, ErrNotFound):
		u.Password = hash
		u.ID, err = s.store.AddUser(ctx, u)
	case err != nil:
	case !there.Administrator || there.Ended != nil:
		return Slip{}, refuse(Conflict, "the login "+u.Login+" is taken by somebody who is no administrator",
			"choose another")
	default:
		u = there
		err = s.store.SetPassword(ctx, u.ID, hash, true, u.ID)
	}
	return Slip{ID: u.ID, Name: u.Name, Login: u.Login, Password: password}, err
}

// EndAccount ends an account, or brings it back. Nobody signs in with one that is ended; its work stays.
func (s *School) EndAccount(ctx context.Context, by Person, id int64, ended bool) error {
	if err := s.may(ctx, by, EndAccount, row{}); err != nil {
		return err
	}
	err := s.store.EndAccount(ctx, id, ended, by.ID)
	if errors.Is(err, store.ErrLast) {
		return refuse(Conflict, "this is the only administrator", "make another one first")
	}
	return err
}

// SignOutEverywhere ends all sessions of the asker.
func (s *School) SignOutEverywhere(ctx context.Context, by Person) error {
	return s.store.EndSessions(ctx, by.ID, by.ID)
}

// Forget deletes a person who is a student and nothing else: what was handed in stays with its marks under no name.
func (s *School) Forget(ctx context.Context, by Person, id int64) error {
	if err := s.may(ctx, by, EndAccount, row{}); err != nil {
		return err
	}
	u, err := s.store.User(ctx, id)
	if err != nil {
		return err
	}
	list, err := s.store.Memberships(ctx, id)
	if err != nil {
		return err
	}
	taught := slices.ContainsFunc(list, func(m store.Membership) bool { return m.Role != store.Student })
	if u.Teaches || u.Administrator || taught {
		return refuse(Conflict, u.Name+" is more than a student: what was taught and marked stays under a name",
			"end the account instead")
	}
	return s.store.Forget(ctx, id, by.ID)
}
