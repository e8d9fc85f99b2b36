package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"hammerset/formats/documents"
	"hammerset/kernel/task"
	"hammerset/school"
)

// status is what a refusal of the school is answered with.
func status(k school.Kind) int {
	switch k {
	case school.Unreadable:
		return http.StatusBadRequest
	case school.Faulty:
		return http.StatusUnprocessableEntity
	case school.TooLarge:
		return http.StatusRequestEntityTooLarge
	case school.WrongPassword:
		return http.StatusUnauthorized
	case school.Forbidden:
		return http.StatusForbidden
	case school.Conflict:
		return http.StatusConflict
	case school.TooMany:
		return http.StatusTooManyRequests
	}
	return http.StatusInternalServerError
}

// fail answers with an error: those that the asker can do something about in
// words, others without detail.
func (s *Server) fail(c *gin.Context, err error) {
	var refusal *school.Refusal
	var te *task.Error
	var fault *documents.Fault
	switch {
	case errors.As(err, &refusal):
		refused(c, refusal)
	case errors.Is(err, school.ErrNotFound):
		problem(c, http.StatusNotFound, "this is not there, or not yours to see", "")
	case errors.As(err, &te):
		problem(c, http.StatusUnprocessableEntity, te.What, te.Remedy)
	case errors.As(err, &fault):
		problem(c, http.StatusUnprocessableEntity, fault.Error(), "put this place right and try again")
	case errors.Is(err, context.Canceled):
		c.Abort()
	default:
		s.log.Error("request", "path", c.Request.URL.Path, "error", err)
		problem(c, http.StatusInternalServerError, "something went wrong on the server", "try again; nothing was lost")
	}
}

func refused(c *gin.Context, r *school.Refusal) {
	if r.Wait > 0 {
		c.Header("Retry-After", fmt.Sprint(int(r.Wait.Seconds()+1)))
	}
	p := Problem{What: r.What, Remedy: given(r.Remedy)}
	if r.Code != "" {
		code := ProblemCode(r.Code)
		p.Code = &code
	}
	c.AbortWithStatusJSON(status(r.Kind), p)
}

// unreadable answers a request that is not as the contract has it.
func (s *Server) unreadable(c *gin.Context, err error) {
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		refused(c, tooLarge(bodies(c)))
		return
	}
	if errors.Is(err, http.ErrNotMultipart) {
		refused(c, noFile())
		return
	}
	problem(c, http.StatusBadRequest, "the request is not readable: "+err.Error(), "")
}

func noFile() *school.Refusal {
	return &school.Refusal{Kind: school.Unreadable, What: "the request holds no file", Remedy: "choose a file"}
}

func tooLarge(b body) *school.Refusal {
	what := b.what
	if strings.Contains(what, "%d") {
		what = fmt.Sprintf(what, b.most>>20)
	}
	return &school.Refusal{Kind: school.TooLarge, What: what, Remedy: b.remedy}
}

func problem(c *gin.Context, status int, what, remedy string) {
	c.AbortWithStatusJSON(status, Problem{What: what, Remedy: given(remedy)})
}
