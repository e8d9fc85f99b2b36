package school

import (
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"hammerset/mail"
	"hammerset/mail/standin"
	"hammerset/store"
)

// People are told once of what is theirs: issued, due within a day while nothing is handed in, a return when it can no
// longer be undone, a changed sheet. Mail goes to those who want it, of what they want, and to nobody who has read it.
func TestTellingPeople(t *testing.T) {
	ctx := context.Background()
	c := gather(t)
	box, err := standin.Start()
	if err != nil {
		t.Fatal(err)
	}
	defer box.Stop()
	sender, err := mail.New(box.Address(), "school@marrowgate.example")
	if err != nil {
		t.Fatal(err)
	}
	s := New(database, nil)
	s.SetOutside(Outside{Mail: sender, Valid: mail.Valid, Address: "http://school.example"})
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	pupil, mate, leader := c.people["pupil"], c.people["mate"], c.people["leader"]
	must(s.SetTelling(ctx, mate, Telling{Mail: "mäte@schüle.example", Kinds: []string{"due", "revised"}}))
	must(s.SetTelling(ctx, pupil, Telling{Mail: "pupil@marrowgate.example", Kinds: []string{"returned"}}))
	for _, bad := range []Telling{{Mail: "nobody"}, {Mail: "a@b.example\r\nBcc: c@d.example"}, {Kinds: []string{"due"}},
		{Mail: "a@b.example", Kinds: []string{"everything"}}} {
		var refusal *Refusal
		if err := s.SetTelling(ctx, mate, bad); !errors.As(err, &refusal) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
	told := func(p Person) []string {
		t.Helper()
		list, _, err := database.Messages(ctx, p.ID)
		must(err)
		out := []string{}
		for _, m := range slices.Backward(list) {
			out = append(out, m.Kind)
		}
		return out
	}
	want := func(p Person, kinds ...string) {
		t.Helper()
		if got := told(p); !slices.Equal(got, kinds) {
			t.Errorf("%s is told %v, not %v", p.Name, got, kinds)
		}
	}
	now := time.Now()
	must(s.Tell(ctx, now))
	must(s.Tell(ctx, now.Add(time.Second))) // and nothing twice
	want(pupil, "issued")                   // it is due within the hour, but handed in
	want(mate, "issued", "due")
	for _, who := range []string{"leader", "helper", "gone", "stranger"} {
		want(c.people[who])
	}

	// A return waits, and is told when it is ten minutes old; one that is undone before is never told.
	checkedAs(t, c.attempt)
	must(database.AddReturn(ctx, store.Return{AttemptID: c.attempt, Points: 1, OutOf: 2, By: leader.ID}, "returned"))
	must(s.Tell(ctx, now.Add(9*time.Minute)))
	want(pupil, "issued")
	must(s.Tell(ctx, now.Add(11*time.Minute)))
	want(pupil, "issued", "returned")
	next, err := database.AddVersion(ctx, store.Version{ExerciseID: c.exercise, Title: "T", Drawing: "1",
		Document: []byte("{}"), Prepared: []byte("{}"), CreatedBy: leader.ID, Measured: measuredOf(t, c)},
		[]byte("reference"))
	must(err)
	must(database.Revise(ctx, store.Notice{IssueID: c.issue.ID, By: leader.ID, Text: "Balloon 3 is 12 now."}, next.ID,
		"sheet", "x"))
	must(s.Tell(ctx, now.Add(12*time.Minute)))
	want(mate, "issued", "due", "revised")

	for sent := true; sent; {
		sent, err = s.SendMail(ctx)
		must(err)
	}
	letters := map[string][]string{}
	for _, l := range slices.Backward(box.Letters()) {
		letters[l.To] = append(letters[l.To], l.Subject)
		if !strings.Contains(l.Text, "http://school.example/") {
			t.Errorf("no link in %q", l.Text)
		}
	}
	if got := fmt.Sprint(letters["pupil@marrowgate.example"]); got != "[Your attempt at T was returned]" {
		t.Errorf("the pupil gets %s", got)
	}
	if len(letters) != 2 {
		t.Errorf("mail goes to %v", letters)
	}

	// Read is read.
	list, unread, err := s.Messages(ctx, mate)
	must(err)
	if unread != 3 || len(list) != 3 {
		t.Fatalf("%d of %d are not read", unread, len(list))
	}
	must(s.ReadMessages(ctx, mate, list[1].ID))
	if _, unread, err = s.Messages(ctx, mate); err != nil || unread != 1 {
		t.Errorf("%d are not read, %v", unread, err)
	}
}

// measuredOf stands for what is measured in the version that is issued.
func measuredOf(t *testing.T, c cast) string {
	t.Helper()
	v, err := database.Version(context.Background(), c.issue.VersionID)
	if err != nil {
		t.Fatal(err)
	}
	return v.Measured
}

// A forgotten password is chosen by a link that is good once; an answer never tells whether there is an account. Staff
// invite their own students. A mail server that is away loses nothing.
func TestPasswordsByMail(t *testing.T) {
	ctx := context.Background()
	c := gather(t)
	pupil, leader := c.people["pupil"], c.people["leader"]
	s := New(database, nil)
	if err := s.Forgotten(ctx, pupil.Login); err == nil {
		t.Error("mail is promised where none goes out")
	}
	box, err := standin.Start()
	if err != nil {
		t.Fatal(err)
	}
	sender, err := mail.New(box.Address(), "school@marrowgate.example")
	if err != nil {
		t.Fatal(err)
	}
	s.SetOutside(Outside{Mail: sender, Address: "http://school.example"})
	if err := database.SetTelling(ctx, pupil.ID, "pupil@marrowgate.example", ""); err != nil {
		t.Fatal(err)
	}
	for range mostLinks + 2 { // more are not made, and nobody learns of it
		if err := s.Forgotten(ctx, strings.ToUpper(pupil.Login)); err != nil {
			t.Fatal(err)
		}
	}
	for _, login := range []string{"nobody at all", leader.Login} { // the leader has no address
		if err := s.Forgotten(ctx, login); err != nil {
			t.Errorf("%s: %v", login, err)
		}
	}
	drain := func() {
		t.Helper()
		for {
			sent, err := s.SendMail(ctx)
			if err != nil {
				t.Fatal(err)
			}
			if !sent {
				return
			}
		}
	}
	drain()
	letters := box.Letters()
	if len(letters) != mostLinks {
		t.Fatalf("%d mails have come", len(letters))
	}
	secret := func(text string) string {
		return regexp.MustCompile(`choose-password\?link=(\w+)`).FindStringSubmatch(text)[1]
	}
	if err := s.ChooseByLink(ctx, secret(letters[0].Text), "short"); err == nil {
		t.Error("a short password is chosen")
	}
	if err := s.ChooseByLink(ctx, secret(letters[0].Text), "a quite new one"); err != nil {
		t.Fatal(err)
	}
	for _, used := range []string{secret(letters[0].Text), secret(letters[1].Text), "made up"} {
		if err := s.ChooseByLink(ctx, used, "another new one"); err == nil {
			t.Error("a link is good again")
		}
	}
	u, err := database.User(ctx, pupil.ID)
	if err != nil || !checkPassword("a quite new one", u.Password) || u.MustChange {
		t.Errorf("the password is not the one that was chosen: %v", err)
	}

	var refusal *Refusal
	if err := s.Invite(ctx, c.people["mate"], pupil.ID); !errors.Is(err, ErrNotFound) {
		t.Errorf("a student invites: %v", err)
	}
	if err := s.Invite(ctx, leader, c.people["mate"].ID); !errors.As(err, &refusal) {
		t.Errorf("somebody without an address is invited: %v", err)
	}
	_ = box.Stop()
	if err := s.Invite(ctx, leader, pupil.ID); err != nil {
		t.Fatal(err)
	}
	if sent, err := s.SendMail(ctx); err == nil || !sent {
		t.Errorf("a server that is away has taken it: %v", err)
	}
	if sent, err := s.SendMail(ctx); sent || err != nil { // it waits before it is tried again
		t.Errorf("tried again at once: %v, %v", sent, err)
	}
}
