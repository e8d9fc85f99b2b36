package school

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"hammerset/formats/calendar"
	"hammerset/store"
)

// Mailer sends mail; package mail does.
type Mailer interface {
	// Send sends a plain text. ID tells it from every other mail.
	Send(ctx context.Context, to, id, subject, body string) error
}

// Platform is a learning platform, to which rosters and results go as OneRoster 1.2 CSV; package platform is one.
type Platform interface {
	Roster(ctx context.Context) ([]byte, error)
	Results(ctx context.Context, zip []byte) error
}

// Outside is what lies outside of the application. Each part is off until it is set up.
type Outside struct {
	Mail  Mailer            // nil: no mail goes out
	Valid func(string) bool // tells whether an address can be mailed to
	// Platform is the learning platform of the school; nil where there is none.
	Platform Platform
	// Address is where people reach the application, as http://host:port, for links in mails and calendars.
	Address string
}

// SetOutside sets up what lies outside. It is called before anything else.
func (s *School) SetOutside(o Outside) { s.outside = o }

// MailGoes tells whether mail goes out.
func (s *School) MailGoes() bool { return s.outside.Mail != nil }

// HasPlatform tells whether a learning platform is set up.
func (s *School) HasPlatform() bool { return s.outside.Platform != nil }

// platformRoster takes the roster of the learning platform.
func (s *School) platformRoster(ctx context.Context) ([]byte, error) {
	if s.outside.Platform == nil {
		return nil, refuse(Conflict, "no learning platform is set up", "give a list or a file")
	}
	data, err := s.outside.Platform.Roster(ctx)
	if err != nil {
		return nil, refuse(Conflict, err.Error(), "try again later, or export the roster there and choose the file")
	}
	return data, nil
}

// SendResults gives the learning platform the results of a class.
func (s *School) SendResults(ctx context.Context, by Person, class int64, zip []byte) error {
	if err := s.may(ctx, by, ChangeClass, row{class: class}); err != nil {
		return err
	}
	if s.outside.Platform == nil {
		return refuse(Conflict, "no learning platform is set up", "take the results as a file")
	}
	if err := s.outside.Platform.Results(ctx, zip); err != nil {
		return refuse(Conflict, err.Error(), "try again later, or take the results as a file")
	}
	return nil
}

// How long after it happened something is still told, how long a return waits, since until then it can be undone, and
// how long before it is due an exercise is told of.
const (
	toldWithin   = 3 * 24 * time.Hour
	returnWaits  = 10 * time.Minute
	toldDueAhead = 24 * time.Hour
)

// Tell finds out what people are to be told at a moment, and makes mails of it for those who want that.
func (s *School) Tell(ctx context.Context, now time.Time) error {
	if err := s.gathered(ctx, now); err != nil || s.outside.Mail == nil {
		return err
	}
	return s.store.PostMessages(ctx, s.compose)
}

func (s *School) gathered(ctx context.Context, now time.Time) error {
	return s.store.Gather(ctx, store.Tellings{Now: now, Since: now.Add(-toldWithin), Return: now.Add(-returnWaits),
		Ahead: now.Add(toldDueAhead)})
}

// SendMail sends the next mail that is to go out; false where there is none. One that cannot be sent is tried again
// later.
func (s *School) SendMail(ctx context.Context) (bool, error) {
	if s.outside.Mail == nil {
		return false, nil
	}
	m, err := s.store.NextMail(ctx)
	if errors.Is(err, ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	failed := ""
	if err := s.outside.Mail.Send(ctx, m.Address, fmt.Sprintf("mail-%d@hammerset", m.ID), m.Subject,
		m.Body); err != nil {
		failed = err.Error()
	}
	if err := s.store.SettleMail(context.WithoutCancel(ctx), m.ID, failed); err != nil {
		return false, err
	}
	if failed != "" {
		return true, fmt.Errorf("mail %d, try %d: %s", m.ID, m.Tries, failed)
	}
	return true, nil
}

// inZone writes a time as the clocks of a class show it.
func inZone(t time.Time, zone string) string {
	at, err := time.LoadLocation(zone)
	if err != nil {
		at, zone = time.UTC, "UTC"
	}
	return t.In(at).Format("Monday 2 January 2006, 15:04") + " (" + zone + ")"
}

// Says is what a message says in one line.
func Says(m store.Message) string {
	switch m.Kind {
	case store.ToldIssued:
		return m.Title + " was issued to you"
	case store.ToldDue:
		return m.Title + " is due soon, and you have not handed in"
	case store.ToldAsked:
		return "A question about " + m.Title + " waits for an answer"
	case store.ToldAnswered:
		return "A question about " + m.Title + " was answered"
	case store.ToldReturned:
		return "Your attempt at " + m.Title + " was returned"
	}
	return "The sheet of " + m.Title + " was changed"
}

// compose writes the mail of a message.
func (s *School) compose(m store.Message, to store.User) store.Mail {
	page := fmt.Sprintf("%s/issues/%d", s.outside.Address, m.IssueID)
	if m.AttemptID != nil {
		page = fmt.Sprintf("%s/attempts/%d", s.outside.Address, *m.AttemptID)
	}
	lines := []string{"Hello " + to.Name + ",", "", Says(m) + " (" + m.ClassName + ")."}
	if m.Kind == store.ToldDue {
		lines = append(lines, "It is due on "+inZone(m.At, m.Zone)+".")
	}
	if m.Text != "" {
		lines = append(lines, "", m.Text)
	}
	lines = append(lines, "", "Open it here:", page, "",
		"You get this mail since you asked for it. You can change that under “Mail and calendar”:",
		s.outside.Address+"/telling")
	return store.Mail{UserID: to.ID, Address: to.Mail, Subject: Says(m), Body: strings.Join(lines, "\n")}
}

// Messages lists what the asker was told last, and how much of it is not read.
func (s *School) Messages(ctx context.Context, by Person) ([]store.Message, int, error) {
	if err := s.gathered(ctx, time.Now()); err != nil {
		return nil, 0, err
	}
	return s.store.Messages(ctx, by.ID)
}

// ReadMessages notes that the asker has read the messages up to one.
func (s *School) ReadMessages(ctx context.Context, by Person, until int64) error {
	return s.store.ReadMessages(ctx, by.ID, until)
}

// Telling is how somebody is told things beside the list in the application.
type Telling struct {
	Mail  string
	Kinds []string // that mail is wanted of
}

// messageKinds are the kinds of messages that mail can be wanted of.
var messageKinds = []string{store.ToldIssued, store.ToldDue, store.ToldReturned, store.ToldRevised, store.ToldAsked,
	store.ToldAnswered}

// TellingOf says how the asker is told things.
func TellingOf(by Person) Telling {
	t := Telling{Mail: by.Mail, Kinds: []string{}}
	for _, k := range strings.Split(by.MailKinds, ",") {
		if k != "" {
			t.Kinds = append(t.Kinds, k)
		}
	}
	return t
}

// SetTelling changes how the asker is told things.
func (s *School) SetTelling(ctx context.Context, by Person, t Telling) error {
	t.Mail = strings.TrimSpace(t.Mail)
	for _, k := range t.Kinds {
		if !slices.Contains(messageKinds, k) {
			return refuse(Faulty, fmt.Sprintf("nobody is told of %q", k), "choose from the list")
		}
	}
	switch {
	case t.Mail == "" && len(t.Kinds) > 0:
		return refuse(Faulty, "there is no address to which mail could go", "give one, or take the ticks away")
	case t.Mail != "" && (len(t.Mail) > 254 || s.outside.Valid != nil && !s.outside.Valid(t.Mail)):
		return refuse(Faulty, fmt.Sprintf("%q is no mail address", t.Mail), "write it as name@school.example")
	}
	return s.store.SetTelling(ctx, by.ID, t.Mail, strings.Join(t.Kinds, ","))
}

// secretOf makes a secret for an address, and its hash, which alone is kept.
func secretOf() (secret, hash string) {
	secret = strings.ToLower(rand.Text()) // 130 bits
	return secret, hashOf(secret)
}

func hashOf(secret string) string {
	sum := sha256.Sum256([]byte(secret))
	return hex.EncodeToString(sum[:])
}

// NewCalendar makes an address of the asker's calendar, which is shown once; the one before ends.
func (s *School) NewCalendar(ctx context.Context, by Person) (string, error) {
	secret, hash := secretOf()
	return s.outside.Address + "/calendar/" + secret + ".ics", s.store.SetCalendar(ctx, by.ID, &hash)
}

// EndCalendar revokes the address of the asker's calendar.
func (s *School) EndCalendar(ctx context.Context, by Person) error {
	return s.store.SetCalendar(ctx, by.ID, nil)
}

// Calendar gives the calendar of a secret address.
func (s *School) Calendar(ctx context.Context, secret string) ([]byte, error) {
	u, err := s.store.UserByCalendar(ctx, hashOf(secret))
	if err != nil {
		return nil, err
	}
	list, err := s.store.Calendar(ctx, u.ID)
	if err != nil {
		return nil, err
	}
	var events []calendar.Event
	seen := map[int64]bool{}
	for _, d := range list {
		if seen[d.IssueID] {
			continue // who is student and staff of a class
		}
		seen[d.IssueID] = true
		changed := d.Issued
		if d.Changed != nil {
			changed = *d.Changed
		}
		page := fmt.Sprintf("%s/issues/%d", s.outside.Address, d.IssueID)
		events = append(events, calendar.Event{UID: fmt.Sprintf("issue-%d@hammerset", d.IssueID), Sequence: d.Changes,
			At: d.Due, Changed: changed, Summary: "Due: " + d.Title, Address: page, Cancelled: d.Withdrawn != nil,
			Details: fmt.Sprintf("%s %s, %s. Due on %s.\n%s", d.Title, d.Drawing, d.ClassName, inZone(d.Due, d.Zone), page)})
	}
	return calendar.Write("Hammerset: what is due", events), nil
}

// A link by which a password is chosen is good for an hour, an invitation for two weeks; nobody has more than a few.
const (
	forgottenGood = time.Hour
	invitedGood   = 14 * 24 * time.Hour
	mostLinks     = 3
)

// mailOff refuses what needs mail.
func (s *School) mailOff() error {
	if s.outside.Mail == nil {
		return refuse(Conflict, "this school sends no mail", "ask your instructor for a new password on paper")
	}
	return nil
}

// Forgotten mails a link to the person whose login it is, where there is one with an address. It never tells whether
// there is.
func (s *School) Forgotten(ctx context.Context, login string) error {
	if err := s.mailOff(); err != nil {
		return err
	}
	u, err := s.store.UserByLogin(ctx, cleanLogin(login))
	if errors.Is(err, ErrNotFound) || err == nil && (u.Mail == "" || u.Ended != nil) {
		return nil
	}
	if err != nil {
		return err
	}
	err = s.link(ctx, u, forgottenGood, "Choose a new password",
		"somebody, you we hope, has said that you forgot your password.\n\nChoose a new one here within an hour:",
		"If it was not you, there is nothing to do: your password stays as it is.")
	if errors.Is(err, store.ErrTooMany) {
		return nil
	}
	return err
}

// Invite mails somebody a link by which a password is chosen, in place of one on paper.
func (s *School) Invite(ctx context.Context, by Person, id int64) error {
	u, err := s.store.User(ctx, id)
	if err == nil {
		err = s.may(ctx, by, ResetPassword, row{person: u})
	}
	if err == nil {
		err = s.mailOff()
	}
	if err != nil {
		return err
	}
	if u.Mail == "" {
		return refuse(Faulty, u.Name+" has no mail address", "give a first password on paper instead")
	}
	err = s.link(ctx, u, invitedGood, "You are invited to Hammerset",
		by.Name+" has made an account for you, with the login "+u.Login+
			".\n\nChoose a password here within two weeks:", "Then sign in with your login and that password.")
	if errors.Is(err, store.ErrTooMany) {
		return refuse(TooMany, u.Name+" has been sent as many links as can be good at once", "wait, or give one on paper")
	}
	return err
}

// link mails somebody a link by which a password is chosen.
func (s *School) link(ctx context.Context, u Person, good time.Duration, subject, before, after string) error {
	secret, hash := secretOf()
	return s.store.AddPasswordLink(ctx, hash, time.Now().Add(good), store.Mail{UserID: u.ID, Address: u.Mail,
		Subject: subject, Body: "Hello " + u.Name + ",\n\n" + before + "\n" + s.outside.Address + "/choose-password?link=" +
			secret + "\n\n" + after}, mostLinks)
}

// ChooseByLink sets the password of whom a link was mailed to.
func (s *School) ChooseByLink(ctx context.Context, secret, next string) error {
	if err := soundPassword(next); err != nil {
		return err
	}
	hash, failed := "", error(nil)
	if err := s.hashed(ctx, func() { hash, failed = HashPassword(next) }); err != nil || failed != nil {
		return errors.Join(err, failed)
	}
	u, err := s.store.TakePasswordLink(ctx, hashOf(secret))
	if errors.Is(err, ErrNotFound) {
		return refuse(Faulty, "this link is not good any more", "ask for another one")
	}
	if err != nil {
		return err
	}
	return s.store.SetPassword(ctx, u.ID, hash, false, u.ID)
}
