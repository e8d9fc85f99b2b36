package api

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"hammerset/kernel/task"
	"hammerset/school"
)

const (
	userKey      = "user"     // of the person's number in the session
	endedKey     = "sessions" // of how often all sessions of the person had been ended when it began
	deviceCookie = "hammerset-device"
)

type personKey struct{}

// asking gives the context of a request and who asks, on whom signedIn has decided. (The context that handlers
// are given is used for other requests later, and must not be kept; that of the request may be.)
func asking(ctx context.Context) (context.Context, school.Person) {
	ctx = requestOf(ctx).Request.Context()
	p, _ := ctx.Value(personKey{}).(school.Person)
	return ctx, p
}

// requestOf is the request itself, for what belongs to the connection: cookies, and where it comes from.
func requestOf(ctx context.Context) *gin.Context { return ctx.(*gin.Context) }

// signedIn is run before every route: it finds who asks. What that person may do, the school decides.
func (s *Server) signedIn(c *gin.Context) {
	ctx := c.Request.Context()
	route := c.Request.Method + " " + strings.TrimPrefix(c.FullPath(), "/api")
	if route == "POST /session" || strings.HasSuffix(route, " /session/mail") {
		return
	}
	id, ok := s.sessions.Get(ctx, userKey).(int64)
	if !ok {
		problem(c, http.StatusUnauthorized, "the session had ended, so nothing was changed", "sign in, then do it again")
		return
	}
	u, err := s.school.Person(ctx, id)
	if err != nil {
		problem(c, http.StatusUnauthorized, "this account is not there any more", "sign in again")
		return
	}
	if u.Ended != nil || s.sessions.GetInt(ctx, endedKey) != u.Sessions {
		problem(c, http.StatusUnauthorized, "the session was ended, so nothing was changed", "sign in, then do it again")
		return
	}
	if u.MustChange && route != "GET /session" && route != "DELETE /session" && route != "PUT /session/password" {
		problem(c, http.StatusForbidden, "your password was given by somebody else", "choose one of your own first")
		return
	}
	ctx = task.WithOwner(ctx, fmt.Sprintf("person %d", u.ID), false)
	c.Request = c.Request.WithContext(context.WithValue(ctx, personKey{}, u))
}

// me says who somebody is, with what the person is anywhere.
func (s *Server) me(ctx context.Context, u school.Person) (Me, error) {
	roles, err := s.school.Roles(ctx, u)
	return Me{Id: u.ID, Login: u.Login, Name: u.Name, Roles: list(roles, func(r string) Role { return Role(r) }),
		MustChange: u.MustChange}, err
}

// SignIn starts a session.
func (s *Server) SignIn(ctx context.Context, in SignInRequestObject) (SignInResponseObject, error) {
	c := requestOf(ctx)
	ctx = c.Request.Context()
	address, _, err := net.SplitHostPort(c.Request.RemoteAddr)
	if err != nil {
		address = c.Request.RemoteAddr
	}
	u, err := s.school.SignIn(ctx, school.SignIn{Login: in.Body.Login, Password: in.Body.Password, Address: address,
		Device: device(c)})
	if err != nil {
		return nil, err
	}
	if err := s.welcome(c, u); err != nil {
		return nil, err
	}
	s.sessions.Put(ctx, userKey, u.ID)
	out, err := s.me(ctx, u)
	return SignIn200JSONResponse(out), err
}

// device gives the hash of the browser's own token, if it has one.
func device(c *gin.Context) string {
	token, err := c.Cookie(deviceCookie)
	if err != nil || len(token) > 100 {
		return ""
	}
	return hashed(token)
}

func hashed(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// welcome begins a session under a new token, for somebody who has just shown a password. The browser gets a
// token of its own, by which it is known from now on.
func (s *Server) welcome(c *gin.Context, u school.Person) error {
	if err := s.sessions.RenewToken(c.Request.Context()); err != nil {
		return err
	}
	s.sessions.Put(c.Request.Context(), endedKey, u.Sessions)
	token, err := c.Cookie(deviceCookie)
	if err != nil || len(token) < 20 || len(token) > 100 {
		token = rand.Text()
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: deviceCookie, Value: token, Path: "/api/session", MaxAge: 365 * 24 * 3600,
		HttpOnly: true, SameSite: http.SameSiteLaxMode})
	return s.school.KnowDevice(c.Request.Context(), u, hashed(token))
}

// SignOut ends the session.
func (s *Server) SignOut(ctx context.Context, _ SignOutRequestObject) (SignOutResponseObject, error) {
	ctx, _ = asking(ctx)
	return SignOut204Response{}, s.sessions.Destroy(ctx)
}

// SignOutEverywhere ends all sessions of the asker.
func (s *Server) SignOutEverywhere(ctx context.Context,
	_ SignOutEverywhereRequestObject) (SignOutEverywhereResponseObject, error) {
	ctx, by := asking(ctx)
	if err := s.school.SignOutEverywhere(ctx, by); err != nil {
		return nil, err
	}
	return SignOutEverywhere204Response{}, s.sessions.Destroy(ctx)
}

// GetSession says who is signed in.
func (s *Server) GetSession(ctx context.Context, _ GetSessionRequestObject) (GetSessionResponseObject, error) {
	ctx, by := asking(ctx)
	out, err := s.me(ctx, by)
	return GetSession200JSONResponse(out), err
}

// ChangePassword changes the asker's own password.
func (s *Server) ChangePassword(ctx context.Context, in ChangePasswordRequestObject) (ChangePasswordResponseObject,
	error) {
	c := requestOf(ctx)
	ctx, by := asking(ctx)
	if err := s.school.ChangePassword(ctx, by, in.Body.Old, in.Body.New); err != nil {
		return nil, err
	}
	by, err := s.school.Person(ctx, by.ID) // all other sessions are over now
	if err != nil {
		return nil, err
	}
	return ChangePassword204Response{}, s.welcome(c, by)
}
