package mail

import (
	"context"
	"strings"
	"testing"

	"hammerset/mail/standin"
)

// What is sent comes as it was written: names and texts in any script, lines that begin with a full stop, long ones.
func TestSend(t *testing.T) {
	box, err := standin.Start()
	if err != nil {
		t.Fatal(err)
	}
	defer box.Stop()
	s, err := New(box.Address(), "Schüle <school@marrowgate.example>")
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	for _, c := range []struct{ to, subject, text string }{
		{"ada@marrowgate.example", "Plain", "Hello Ada,\n\nyour attempt was returned.\nhttp://127.0.0.1:8080/attempts/1"},
		{"minh@marrowgate.example", "Thị Minh Nguyễn, 軸受: zurückgegeben", "Die Lagerböcke: 40 ± 0,2\n.\n..two\n軸受"},
		{"long@marrowgate.example", strings.Repeat("a long subject ", 15), strings.Repeat("a long line ", 200)},
	} {
		if err := s.Send(ctx, c.to, "mail-"+c.to, c.subject, c.text); err != nil {
			t.Fatal(err)
		}
		l := box.Letters()[0]
		if l.To != c.to || l.Subject != strings.TrimSpace(c.subject) && l.Subject != c.subject ||
			strings.TrimRight(l.Text, "\n") != strings.TrimRight(c.text, "\n") ||
			!strings.Contains(l.From, "school@marrowgate.example") {
			t.Errorf("sent %+v, and came %+v", c, l)
		}
	}
	for _, to := range []string{"nobody", "a@b.example\r\nBcc: c@d.example", "a@b.example, c@d.example", ""} {
		if err := s.Send(ctx, to, "x", "x", "x"); err == nil || Valid(to) {
			t.Errorf("%q can be mailed to", to)
		}
	}
	if n := len(box.Letters()); n != 3 {
		t.Errorf("%d mails have come", n)
	}
	_ = box.Stop()
	if err := s.Send(ctx, "ada@marrowgate.example", "x", "x", "x"); err == nil {
		t.Error("a server that is away has taken it")
	}
}

func TestServersThatAreNone(t *testing.T) {
	for _, c := range []struct{ server, from, want string }{
		{"mail.school.example", "a@b.example", "is no mail server"},
		{"http://mail.school.example", "a@b.example", "is no mail server"},
		{"smtp://mail.school.example:25", "nobody", "is no address that mail can come from"},
	} {
		if _, err := New(c.server, c.from); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s, %s: %v", c.server, c.from, err)
		}
	}
}
