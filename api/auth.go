package api

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/crypto/argon2"

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

// Throttling of sign-in: failures within the window.
const (
	throttleWindow  = 15 * time.Minute
	throttleLogin   = 8
	throttleAddress = 60
	userKey         = "user"
	contextUser     = "hammerset-user"
	nobodysHash     = "argon2id$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"
)

// SignIn starts a session.
func (s *Server) SignIn(c *gin.Context) {
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
	login := strings.ToLower(strings.TrimSpace(in.Login))
	if len(login) > 100 {
		login = login[:100]
	}
	byLogin, byAddress, err := s.store.LoginFailures(ctx, login, address, time.Now().UTC().Add(-throttleWindow))
	if err != nil {
		s.fail(c, err)
		return
	}
	if byLogin >= throttleLogin || byAddress >= throttleAddress {
		problem(c, http.StatusTooManyRequests, "too many failed sign-ins", fmt.Sprintf("wait %d minutes, or ask for a new password", int(throttleWindow.Minutes())))
		return
	}
	u, err := s.store.UserByLogin(ctx, login)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		s.fail(c, err)
		return
	}
	hash := u.Password
	if hash == "" {
		hash = nobodysHash // the same work, so that time does not tell which logins exist
	}
	if !checkPassword(in.Password, hash) || u.ID == 0 {
		if err := s.store.AddLoginFailure(ctx, login, address); err != nil {
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
	if err := s.sessions.RenewToken(ctx); err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.Put(ctx, userKey, u.ID)
	c.JSON(http.StatusOK, me(u))
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

func me(u store.User) Me { return Me{Id: u.ID, Login: u.Login, Name: u.Name, Role: Role(u.Role)} }

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
	"GET /users": {administrator},
	"GET /desk":  teaching, "GET /home": {student}, "GET /classes/:id": teaching,
	"POST /exercises": {instructor, administrator}, "GET /exercises/:id": teaching, "GET /exercises/:id/bundle": {instructor, administrator}, "GET /exercises/:id/atlas": teaching,
	"GET /exercises/:id/sheet": teaching, "GET /exercises/:id/mesh": teaching, "GET /exercises/:id/draft": {instructor, administrator}, "POST /exercises/:id/draft": {instructor, administrator}, "POST /exercises/:id/issues": {instructor, administrator},
	"GET /issues/:id": everyone, "GET /issues/:id/sheet": everyone, "GET /issues/:id/reference": everyone, "PUT /issues/:id/release": {instructor, administrator},
	"POST /issues/:id/attempts": {student},
	"GET /issues/:id/class":     teaching, "PUT /issues/:id/remarks": teaching, "GET /issues/:id/rubric": teaching, "POST /issues/:id/rubric": {instructor, administrator}, "GET /issues/:id/recheck": teaching, "POST /issues/:id/recheck": {instructor, administrator}, "PUT /issues/:id/recheck": {instructor, administrator},
	"GET /attempts/:id": everyone, "GET /attempts/:id/events": everyone, "GET /attempts/:id/sheet": everyone, "GET /attempts/:id/mesh": everyone, "GET /attempts/:id/compared": everyone,
	"GET /attempts/:id/file": everyone, "GET /attempts/:id/return.pdf": everyone,
	"GET /models": everyone, "POST /models": everyone, "GET /models/:id": everyone, "PUT /models/:id": everyone, "DELETE /models/:id": everyone,
	"GET /models/:id/sketches/:step": everyone, "POST /models/:id/part": everyone, "GET /models/:id/progress": everyone, "POST /models/:id/measure": everyone,
	"POST /models/:id/edit": everyone, "POST /models/:id/look": everyone, "POST /models/:id/reach": everyone, "GET /models/:id/versions": everyone, "GET /models/:id/versions/:version": everyone,
	"GET /models/:id/changes": everyone, "GET /models/:id/export": everyone, "GET /step-forms": everyone, "GET /models/:id/had": everyone, "GET /attempts/:id/reach": teaching, "POST /attempts/:id/reach": teaching, "POST /models/:id/promote": {instructor, administrator},
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
		problem(c, http.StatusUnauthorized, "nobody is signed in", "sign in first")
		return
	}
	u, err := s.store.User(c.Request.Context(), id)
	if err != nil {
		problem(c, http.StatusUnauthorized, "this account is not there any more", "sign in again")
		return
	}
	for _, r := range allowed[route] {
		if r == u.Role {
			c.Set(contextUser, u)
			return
		}
	}
	problem(c, http.StatusForbidden, "your role does not allow this", "")
}
