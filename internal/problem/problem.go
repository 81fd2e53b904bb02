// Package problem is the one place that turns errors into answers: problem
// details as of RFC 9457, with the core's faults and their places.
package problem

import (
	"context"
	"errors"
	"log/slog"
	"math"
	"net/http"
	"os"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/internal/store/pg"
)

// Problem is an error as it travels. Type tells problems apart; Title says it
// in words for the person it happens to.
type Problem struct {
	Type      string       `json:"type"`
	Title     string       `json:"title"`
	Status    int          `json:"status"`
	Detail    string       `json:"detail,omitempty"`
	Faults    fault.Faults `json:"faults,omitempty" tstype:"Fault[]"`
	RequestID string       `json:"request_id,omitempty"`
	// Again is in how long it is worth another try; 0: not said.
	Again time.Duration `json:"-"`
}

func (p Problem) Error() string { return p.Title }

// New is a problem of a handler's own.
func New(status int, kind, title string) Problem {
	return Problem{Type: "gobbet:" + kind, Title: title, Status: status}
}

// RequestIDHeader carries the id that logs and answers know a request by.
const RequestIDHeader = "X-Request-Id"

// statusGone is for requests whose asker went away: nobody reads it, and it is
// no error of ours.
const statusGone = 499

// Write answers a request with what went wrong, and ends it.
func Write(c *gin.Context, err error) {
	p := of(err)
	p.RequestID = c.GetHeader(RequestIDHeader)
	if p.Status >= 500 {
		slog.ErrorContext(c.Request.Context(), "request failed", "request_id", p.RequestID, "path", c.Request.URL.Path, "error", err)
	}
	if p.Again > 0 {
		c.Header("Retry-After", strconv.Itoa(max(1, int(math.Ceil(p.Again.Seconds())))))
	}
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(p.Status, p)
}

// Upload puts in words that what was sent did not come whole, or in time. It
// must not be taken for an error of the database's connection.
func Upload(err error) error {
	var tooLarge *http.MaxBytesError
	switch {
	case err == nil, errors.As(err, &tooLarge), errors.Is(err, context.Canceled):
		return err
	case errors.Is(err, os.ErrDeadlineExceeded):
		return New(http.StatusRequestTimeout, "slow-upload", "What you sent did not arrive in time. Try again, over a faster connection if you can.")
	}
	return New(http.StatusBadRequest, "broken-upload", "What you sent did not arrive whole. Try again.")
}

func of(err error) Problem {
	var own Problem
	var faults fault.Faults
	var one fault.Fault
	var tooLarge *http.MaxBytesError
	switch {
	case errors.As(err, &own):
		return own
	case errors.As(err, &faults), errors.As(err, &one):
		p := New(http.StatusUnprocessableEntity, "faults", "Something in this needs mending.")
		p.Faults = fault.Of(err)
		return p
	case errors.As(err, &tooLarge):
		return New(http.StatusRequestEntityTooLarge, "too-large", "This is more than can be taken at once.")
	case errors.Is(err, context.Canceled):
		return New(statusGone, "gone", "Nobody waits for this any more.")
	case errors.Is(err, fault.ErrNotFound):
		return New(http.StatusNotFound, "not-found", "This is not here, or not yours to see.")
	case errors.Is(err, fault.ErrBusy):
		return New(http.StatusServiceUnavailable, "busy", "Too much is being asked for at once. Try again in a moment.")
	case pg.OutOfRange(err):
		return New(http.StatusUnprocessableEntity, "out-of-range", "A number in this is larger than can be kept.")
	case errors.Is(err, fault.ErrTooMany):
		return New(http.StatusConflict, "as-many-as-may-be", "This site has as many of these as it may have. Remove some first.")
	case errors.Is(err, launch.ErrLive):
		return New(http.StatusConflict, "live", "This piece is live. Pause it before you delete it.")
	case errors.Is(err, launch.ErrTaken):
		return New(http.StatusConflict, "page-taken", "Another live piece has the address of its page.")
	case errors.Is(err, launch.ErrOver):
		return New(http.StatusConflict, "schedule-over", "Its schedule has ended. Set a later end in Reach, and launch it.")
	case errors.Is(err, fault.ErrStale):
		return New(http.StatusConflict, "stale", "This was changed in another window since you opened it.")
	case pg.NotText(err):
		return New(http.StatusBadRequest, "not-text", "This holds a character that no text has.")
	case pg.Unreachable(err):
		return New(http.StatusServiceUnavailable, "database-away", "The database does not answer just now.")
	}
	return New(http.StatusInternalServerError, "internal", "Something went wrong here. It has been noted.")
}

// Handle makes a handler of one that returns what went wrong.
func Handle(do func(c *gin.Context) error) gin.HandlerFunc {
	return func(c *gin.Context) {
		if err := do(c); err != nil {
			Write(c, err)
		}
	}
}
