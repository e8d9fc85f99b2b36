package api

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/crypto/argon2"

	"hammerset/kernel/task"
	"hammerset/store"
)

// Parameters of argon2id as RFC 9106 recommends where memory is limited, with
// less memory and more passes.
const (
	argonTime    = 3
	argonMemory  = 32 << 10 // KiB
	argonThreads = 1
	argonKey     = 32
)

// HashPassword hashes a password for keeping.
func HashPassword(password string) (string, error) {
	salt := make([]byte, 16)
	if _, err := rand.Read(salt); err != nil {
		return "", err
	}
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey)
	return "argon2id$" + base64.RawStdEncoding.EncodeToString(salt) + "$" + base64.RawStdEncoding.EncodeToString(key), nil
}

func checkPassword(password, hash string) bool {
	parts := strings.Split(hash, "$")
	if len(parts) != 3 || parts[0] != "argon2id" {
		return false
	}
	salt, err1 := base64.RawStdEncoding.DecodeString(parts[1])
	want, err2 := base64.RawStdEncoding.DecodeString(parts[2])
	if err1 != nil || err2 != nil {
		return false
	}
	key := argon2.IDKey([]byte(password), salt, argonTime, argonMemory, argonThreads, argonKey)
	return subtle.ConstantTimeCompare(key, want) == 1
}

// Throttling of sign-in: failures within the window. Nobody can lock others out: a browser
// that somebody has signed in from before is counted by itself; guesses from one address at
// one login end for that address alone; an address with many failures, a school's perhaps,
// is slowed down and not shut.
const (
	throttleWindow = 15 * time.Minute
	throttleHere   = 8   // of a login from one address, or from one known browser
	throttleLogin  = 200 // of a login from everywhere: new browsers wait
	throttleSlow   = 60  // of an address: from then on one sign-in every two seconds
	slowPace       = 2 * time.Second
	maxSignIn      = 4 << 10
	userKey        = "user"
	contextUser    = "hammerset-user"
	deviceCookie   = "hammerset-device"
	nobodysHash    = "argon2id$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"
)

// atOnce is how many passwords are hashed at the same time: each takes 32 MB.
const atOnce = 4

// hashed runs something that hashes a password when it is its turn.
func (s *Server) hashed(ctx context.Context, f func()) error {
	select {
	case s.hashing <- struct{}{}:
		defer func() { <-s.hashing }()
		f()
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

// device gives the hash of the browser's own token, if it has one.
func device(c *gin.Context) string {
	token, err := c.Cookie(deviceCookie)
	if err != nil || len(token) > 100 {
		return ""
	}
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// throttled says how long a sign-in must wait.
func throttled(f store.Failures, known bool, now time.Time) time.Duration {
	switch {
	case known:
		if f.Device >= throttleHere {
			return throttleWindow
		}
		return 0
	case f.Here >= throttleHere || f.Login >= throttleLogin:
		return throttleWindow
	case f.Address >= throttleSlow && f.Last.Valid:
		return max(0, slowPace-now.Sub(f.Last.Time))
	}
	return 0
}

// SignIn starts a session.
func (s *Server) SignIn(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxSignIn)
	var in SignIn
	if err := c.ShouldBindJSON(&in); err != nil {
		problem(c, http.StatusBadRequest, "the sign-in is not readable", "give login and password")
		return
	}
	ctx := c.Request.Context()
	address, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		address = c.Request.RemoteAddr
	}
	login := cleanLogin(in.Login)
	u, err := s.store.UserByLogin(ctx, login)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		s.fail(c, err)
		return
	}
	from := device(c)
	known := false
	if from != "" && u.ID != 0 {
		if known, err = s.store.KnownDevice(ctx, from, u.ID); err != nil {
			s.fail(c, err)
			return
		}
	}
	if !known {
		from = ""
	}
	now := time.Now().UTC()
	failures, err := s.store.LoginFailures(ctx, login, address, from, now.Add(-throttleWindow))
	if err != nil {
		s.fail(c, err)
		return
	}
	if wait := throttled(failures, known, now); wait > 0 {
		c.Header("Retry-After", fmt.Sprint(int(wait.Seconds()+1)))
		if wait <= slowPace {
			problem(c, http.StatusTooManyRequests, "very many sign-ins have failed from your network", "try again in a moment")
			return
		}
		problem(c, http.StatusTooManyRequests, "too many failed sign-ins with this login from here", fmt.Sprintf("wait %d minutes, or ask for a new password", int(throttleWindow.Minutes())))
		return
	}
	hash := u.Password
	if hash == "" {
		hash = nobodysHash // the same work, so that time does not tell which logins exist
	}
	right := false
	if err := s.hashed(ctx, func() { right = checkPassword(in.Password, hash) }); err != nil {
		s.fail(c, err)
		return
	}
	if !right || u.ID == 0 {
		if err := s.store.AddLoginFailure(ctx, login, address, from); err != nil {
			s.fail(c, err)
			return
		}
		problem(c, http.StatusUnauthorized, "login or password is wrong", "check both and try again")
		return
	}
	if err := s.store.ClearLoginFailures(ctx, login); err != nil {
		s.fail(c, err)
		return
	}
	if err := s.welcome(c, u.ID); err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.Put(ctx, userKey, u.ID)
	c.JSON(http.StatusOK, me(u))
}

// welcome begins a session under a new token, for somebody who has just shown a password.
func (s *Server) welcome(c *gin.Context, user int64) error {
	if err := s.sessions.RenewToken(c.Request.Context()); err != nil {
		return err
	}
	return s.knowDevice(c, user)
}

// knowDevice gives the browser a token of its own, by which it is known from now on.
func (s *Server) knowDevice(c *gin.Context, user int64) error {
	token, err := c.Cookie(deviceCookie)
	if err != nil || len(token) < 20 || len(token) > 100 {
		token = rand.Text()
	}
	sum := sha256.Sum256([]byte(token))
	http.SetCookie(c.Writer, &http.Cookie{Name: deviceCookie, Value: token, Path: "/api/session", MaxAge: 365 * 24 * 3600, HttpOnly: true, SameSite: http.SameSiteLaxMode})
	return s.store.KeepDevice(c.Request.Context(), hex.EncodeToString(sum[:]), user)
}

// cleanLogin is a login as it is kept.
func cleanLogin(login string) string {
	login = strings.ToValidUTF8(strings.ToLower(strings.TrimSpace(login)), "")
	if len(login) > 100 {
		login = strings.ToValidUTF8(login[:100], "")
	}
	return login
}

// SignOut ends the session.
func (s *Server) SignOut(c *gin.Context) {
	if err := s.sessions.Destroy(c.Request.Context()); err != nil {
		s.fail(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

// GetSession says who is signed in.
func (s *Server) GetSession(c *gin.Context) { c.JSON(http.StatusOK, me(user(c))) }

// ListUsers lists all accounts.
func (s *Server) ListUsers(c *gin.Context) {
	list, err := s.store.Users(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	out := []Me{}
	for _, u := range list {
		out = append(out, me(u))
	}
	c.JSON(http.StatusOK, out)
}

func me(u store.User) Me {
	return Me{Id: u.ID, Login: u.Login, Name: u.Name, Role: Role(u.Role), MustChange: u.MustChange}
}

func user(c *gin.Context) store.User {
	u, _ := c.Get(contextUser)
	out, _ := u.(store.User)
	return out
}

func staff(u store.User) bool { return u.Role != "student" }

// Who may ask for what. A route that is not listed is refused.
const (
	student       = "student"
	assistant     = "assistant"
	instructor    = "instructor"
	administrator = "administrator"
)

var everyone = []string{student, assistant, instructor, administrator}
var teaching = []string{assistant, instructor, administrator}

// allowed gives the roles for every route of the contract.
var allowed = map[string][]string{
	"GET /session": everyone, "DELETE /session": everyone,
	"PUT /session/password": everyone,
	"GET /users":            {administrator}, "POST /users": {administrator}, "POST /users/:id/password": {instructor, administrator},
	"POST /classes": {instructor, administrator}, "POST /classes/:id/students": {instructor, administrator}, "GET /classes/:id/points.csv": teaching,
	"PUT /issues/:id": {instructor, administrator}, "DELETE /issues/:id": {instructor, administrator}, "POST /issues/:id/further": {instructor, administrator},
	"GET /issues/:id/right": {instructor, administrator}, "POST /issues/:id/right": {instructor, administrator}, "DELETE /attempts/:id/return": {instructor, administrator},
	"GET /desk": teaching, "GET /home": {student}, "GET /classes/:id": teaching,
	"POST /exercises": {instructor, administrator}, "GET /exercises/:id": teaching, "GET /exercises/:id/bundle": {instructor, administrator}, "GET /exercises/:id/atlas": teaching,
	"GET /exercises/:id/sheet": teaching, "GET /exercises/:id/mesh": teaching, "GET /exercises/:id/draft": {instructor, administrator}, "POST /exercises/:id/draft": {instructor, administrator}, "POST /exercises/:id/issues": {instructor, administrator},
	"GET /issues/:id": everyone, "GET /issues/:id/sheet": everyone, "GET /issues/:id/reference": everyone, "PUT /issues/:id/release": {instructor, administrator},
	"POST /issues/:id/attempts": {student},
	"GET /issues/:id/class":     teaching, "PUT /issues/:id/remarks": teaching, "GET /issues/:id/rubric": teaching, "POST /issues/:id/rubric": {instructor, administrator}, "GET /issues/:id/recheck": teaching, "POST /issues/:id/recheck": {instructor, administrator}, "PUT /issues/:id/recheck": {instructor, administrator},
	"GET /events":       everyone,
	"GET /attempts/:id": everyone, "GET /attempts/:id/events": everyone, "GET /attempts/:id/sheet": everyone, "GET /attempts/:id/mesh": everyone, "GET /attempts/:id/compared": everyone,
	"GET /attempts/:id/file": everyone, "GET /attempts/:id/return.pdf": everyone,
	"GET /models": everyone, "POST /models": everyone, "GET /models/:id": everyone, "PUT /models/:id": everyone, "DELETE /models/:id": everyone,
	"GET /models/:id/sketches/:step": everyone, "POST /models/:id/part": everyone, "GET /models/:id/progress": everyone, "POST /models/:id/measure": everyone,
	"POST /models/:id/edit": everyone, "POST /models/:id/look": everyone, "POST /models/:id/reach": everyone, "GET /models/:id/versions": everyone, "GET /models/:id/versions/:version": everyone,
	"GET /models/:id/changes": everyone, "GET /models/:id/export": everyone, "GET /step-forms": everyone, "GET /models/:id/had": everyone, "POST /models/:id/had": everyone, "GET /attempts/:id/reach": teaching, "POST /attempts/:id/reach": teaching, "POST /models/:id/promote": {instructor, administrator},
	"PUT /attempts/:id/marks/:mark": teaching, "POST /attempts/:id/return": {instructor, administrator}, "POST /attempts/:id/check": teaching,
}

// authorise is run before every route: it finds who asks and refuses what the
// role may not do.
func (s *Server) authorise(c *gin.Context) {
	route := c.Request.Method + " " + strings.TrimPrefix(c.FullPath(), "/api")
	if route == "POST /session" {
		return
	}
	id, ok := s.sessions.Get(c.Request.Context(), userKey).(int64)
	if !ok {
		problem(c, http.StatusUnauthorized, "the session had ended, so nothing was changed", "sign in, then do it again")
		return
	}
	u, err := s.store.User(c.Request.Context(), id)
	if err != nil {
		problem(c, http.StatusUnauthorized, "this account is not there any more", "sign in again")
		return
	}
	if u.MustChange && route != "GET /session" && route != "DELETE /session" && route != "PUT /session/password" {
		problem(c, http.StatusForbidden, "your password was given by somebody else", "choose one of your own first")
		return
	}
	for _, r := range allowed[route] {
		if r == u.Role {
			c.Set(contextUser, u)
			c.Request = c.Request.WithContext(task.WithOwner(c.Request.Context(), fmt.Sprintf("person %d", u.ID), false))
			return
		}
	}
	problem(c, http.StatusForbidden, "your role does not allow this", "")
}
