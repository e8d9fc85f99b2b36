package api

import (
	"context"
	"errors"
	"net/http"

	"github.com/gin-gonic/gin"

	"hammerset/school"
	"hammerset/store"
)

func message(m store.Message) Message {
	return Message{Id: m.ID, Kind: MessageKind(m.Kind), Says: school.Says(m), Text: given(m.Text), ClassName: m.ClassName,
		Zone: given(m.Zone), IssueId: m.IssueID, AttemptId: m.AttemptID, At: m.At, Told: m.Made, Read: m.Read != nil}
}

// ListMessages lists what the asker was told last.
func (s *Server) ListMessages(ctx context.Context, _ ListMessagesRequestObject) (ListMessagesResponseObject, error) {
	ctx, by := asking(ctx)
	all, unread, err := s.school.Messages(ctx, by)
	return ListMessages200JSONResponse{Unread: unread, List: list(all, message)}, err
}

// ReadMessages notes that the asker has read the messages up to one.
func (s *Server) ReadMessages(ctx context.Context, in ReadMessagesRequestObject) (ReadMessagesResponseObject, error) {
	ctx, by := asking(ctx)
	return ReadMessages204Response{}, s.school.ReadMessages(ctx, by, in.Body.Until)
}

// GetTelling says how the asker is told things.
func (s *Server) GetTelling(ctx context.Context, _ GetTellingRequestObject) (GetTellingResponseObject, error) {
	_, by := asking(ctx)
	t := school.TellingOf(by)
	return GetTelling200JSONResponse{MailGoes: s.school.MailGoes(), Mail: t.Mail, Calendar: by.Calendar != nil,
		Kinds: list(t.Kinds, func(k string) MessageKind { return MessageKind(k) })}, nil
}

// SetTelling changes how the asker is told things.
func (s *Server) SetTelling(ctx context.Context, in SetTellingRequestObject) (SetTellingResponseObject, error) {
	ctx, by := asking(ctx)
	return SetTelling204Response{}, s.school.SetTelling(ctx, by, school.Telling{Mail: in.Body.Mail,
		Kinds: list(in.Body.Kinds, func(k MessageKind) string { return string(k) })})
}

// NewCalendar makes a secret address of the asker's calendar.
func (s *Server) NewCalendar(ctx context.Context, _ NewCalendarRequestObject) (NewCalendarResponseObject, error) {
	ctx, by := asking(ctx)
	address, err := s.school.NewCalendar(ctx, by)
	return NewCalendar201JSONResponse{Address: address}, err
}

// EndCalendar revokes the address of the asker's calendar.
func (s *Server) EndCalendar(ctx context.Context, _ EndCalendarRequestObject) (EndCalendarResponseObject, error) {
	ctx, by := asking(ctx)
	return EndCalendar204Response{}, s.school.EndCalendar(ctx, by)
}

// calendar answers whoever has the secret address of a calendar.
func (s *Server) calendar(c *gin.Context, secret string) {
	c.Header("Cache-Control", "private, no-cache")
	data, err := s.school.Calendar(c.Request.Context(), secret)
	switch {
	case errors.Is(err, school.ErrNotFound):
		c.String(http.StatusNotFound, "there is no such calendar, or its address was revoked\n")
	case err != nil:
		s.log.Error("calendar", "error", err)
		c.String(http.StatusInternalServerError, "the calendar cannot be made now\n")
	default:
		c.Data(http.StatusOK, "text/calendar; charset=utf-8", data)
	}
}

// GetMailGoes says whether mail goes out, to whoever asks.
func (s *Server) GetMailGoes(context.Context, GetMailGoesRequestObject) (GetMailGoesResponseObject, error) {
	return GetMailGoes200JSONResponse{Goes: s.school.MailGoes(), Platform: s.school.HasPlatform()}, nil
}

// Forgotten mails a link for choosing a password.
func (s *Server) Forgotten(ctx context.Context, in ForgottenRequestObject) (ForgottenResponseObject, error) {
	return Forgotten204Response{}, s.school.Forgotten(requestOf(ctx).Request.Context(), in.Body.Login)
}

// ChooseByLink sets the password of whom a link was mailed to.
func (s *Server) ChooseByLink(ctx context.Context, in ChooseByLinkRequestObject) (ChooseByLinkResponseObject, error) {
	return ChooseByLink204Response{}, s.school.ChooseByLink(requestOf(ctx).Request.Context(), in.Body.Link, in.Body.New)
}

// InvitePerson mails somebody a link by which a password is chosen.
func (s *Server) InvitePerson(ctx context.Context, in InvitePersonRequestObject) (InvitePersonResponseObject, error) {
	ctx, by := asking(ctx)
	return InvitePerson204Response{}, s.school.Invite(ctx, by, in.Id)
}
