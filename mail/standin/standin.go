// Package standin is a small mail server that ships with the demo: it takes mail from the application on this machine,
// sends nothing on, and shows what has come.
package standin

import (
	"bytes"
	"errors"
	"html/template"
	"io"
	"mime"
	"net"
	"net/http"
	"net/mail"
	"strings"
	"sync"
	"time"

	"mime/quotedprintable"

	"github.com/emersion/go-smtp"
)

// most is how many mails are kept, and largest how large one can be.
const (
	most    = 500
	largest = 1 << 20
)

// Letter is a mail that has come.
type Letter struct {
	From, To, Subject, Text string
	At                      time.Time
}

// Server takes mail and keeps it in memory.
type Server struct {
	smtp    *smtp.Server
	address string
	mu      sync.Mutex
	letters []Letter // the newest first
}

// Start takes mail on a port of this machine that is free.
func Start() (*Server, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	s := &Server{address: "smtp://" + l.Addr().String()}
	s.smtp = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &session{server: s}, nil }))
	s.smtp.Domain = "localhost"
	s.smtp.MaxMessageBytes = largest
	s.smtp.ReadTimeout, s.smtp.WriteTimeout = 20*time.Second, 20*time.Second
	go func() { _ = s.smtp.Serve(l) }() // ends with Stop
	return s, nil
}

// Address is that of the server, as smtp://host:port.
func (s *Server) Address() string { return s.address }

// Stop ends the server.
func (s *Server) Stop() error { return s.smtp.Close() }

// Letters are the mails that have come, the newest first.
func (s *Server) Letters() []Letter {
	s.mu.Lock()
	defer s.mu.Unlock()
	return append([]Letter{}, s.letters...)
}

func (s *Server) take(l Letter) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.letters = append([]Letter{l}, s.letters[:min(len(s.letters), most-1)]...)
}

// session is one connection.
type session struct {
	server *Server
	to     []string
}

func (s *session) Reset()                               { s.to = nil }
func (s *session) Logout() error                        { return nil }
func (s *session) Mail(string, *smtp.MailOptions) error { return nil }
func (s *session) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = append(s.to, to)
	return nil
}

func (s *session) Data(r io.Reader) error {
	l, err := read(r)
	if err != nil {
		return err
	}
	l.To = strings.Join(s.to, ", ")
	s.server.take(l)
	return nil
}

// read reads a mail of plain text.
func read(r io.Reader) (Letter, error) {
	m, err := mail.ReadMessage(r)
	if err != nil {
		return Letter{}, errors.Join(err, errors.New("this is no mail"))
	}
	var words mime.WordDecoder
	l := Letter{At: time.Now()}
	if l.Subject, err = words.DecodeHeader(m.Header.Get("Subject")); err != nil {
		return l, err
	}
	if l.From, err = words.DecodeHeader(m.Header.Get("From")); err != nil {
		return l, err
	}
	body := io.Reader(m.Body)
	if strings.EqualFold(m.Header.Get("Content-Transfer-Encoding"), "quoted-printable") {
		body = quotedprintable.NewReader(body)
	}
	var text bytes.Buffer
	_, err = io.Copy(&text, io.LimitReader(body, largest))
	l.Text = strings.ReplaceAll(text.String(), "\r\n", "\n")
	return l, err
}

var page = template.Must(template.New("mail").Funcs(template.FuncMap{"linked": linked}).Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>Mail of the demo school</title>
<meta name="viewport" content="width=device-width, initial-scale=1">
<style>body{font:16px/1.5 system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem}
body{background:#f2ead8;color:#1b2733}
article{background:#fdf9ef;border:1px solid #d9ccb0;padding:.75rem 1rem;margin:1rem 0}
h2{font-size:1.05rem;margin:0}p{white-space:pre-wrap;margin:.5rem 0 0;overflow-wrap:anywhere}small{color:#4a5560}
a{color:#7a3410}</style></head>
<body><main><h1>Mail of the demo school</h1>
<p>The demo sends no mail out of this machine: what it would send is here, until it is stopped.</p>
{{range .}}<article><h2>{{.Subject}}</h2><small>to {{.To}}, {{.At.Format "2 January 2006, 15:04:05"}}</small>
<p>{{linked .Text}}</p></article>{{else}}<p>Nothing has come yet.</p>{{end}}
</main></body></html>`))

// linked is a text in which addresses of pages lead there.
func linked(text string) template.HTML {
	var out strings.Builder
	for i, word := range strings.SplitAfter(text, "\n") {
		line := strings.TrimSuffix(word, "\n")
		if i > 0 {
			out.WriteString("\n")
		}
		if strings.HasPrefix(line, "http://") || strings.HasPrefix(line, "https://") {
			safe := template.HTMLEscapeString(line)
			out.WriteString(`<a href="` + safe + `">` + safe + `</a>`)
			continue
		}
		out.WriteString(template.HTMLEscapeString(line))
	}
	return template.HTML(out.String()) //nolint:gosec // every part of it is escaped
}

// ServeHTTP shows the mails that have come.
func (s *Server) ServeHTTP(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	_ = page.Execute(w, s.Letters()) // nobody listens any more
}
