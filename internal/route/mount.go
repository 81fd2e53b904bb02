package route

import (
	"context"
	"io"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"
	"golang.org/x/sync/semaphore"

	"gobbet/core/fault"
	"gobbet/internal/limits"
	"gobbet/internal/problem"
	"gobbet/internal/store/sites"
)

// Gate tells who asks, and what is theirs.
type Gate interface {
	// SignedIn is the account that is signed in, by the session in ctx; 0: none.
	SignedIn(ctx context.Context) int64
	// SiteOf is a site of an account; fault.ErrNotFound where it is not theirs.
	SiteOf(ctx context.Context, account, site int64) (sites.Site, error)
}

// Server answers routes.
type Server struct {
	gate   Gate
	limits *limits.Limits
	bodies *semaphore.Weighted
}

// New makes a server that lets through whom gate says, as often as limits allow.
func New(gate Gate, limits *limits.Limits) *Server {
	return &Server{gate, limits, semaphore.NewWeighted(bodiesAtOnce)}
}

// Mount opens a door for each route.
func (s *Server) Mount(under *gin.RouterGroup, routes []Route) {
	for _, r := range routes {
		var steps []gin.HandlerFunc
		if r.PerAddress > 0 {
			steps = append(steps, s.limits.Address(r.Method+r.Path, r.PerAddress, r.Period))
		}
		under.Handle(r.Method, r.Path, append(steps, func(c *gin.Context) {
			if err := s.answer(c, r); err != nil {
				problem.Write(c, err)
			}
		})...)
	}
}

// SignedOut is that nobody is signed in.
var SignedOut = problem.New(http.StatusUnauthorized, "signed-out", "Sign in to go on.")

// answer does what a route says: who asks is known before anything of a body is
// read, and all of a body is there before the request's time begins.
func (s *Server) answer(g *gin.Context, r Route) error {
	clock := newTimed(g.Request.Context())
	c := &Call{Context: clock, Params: map[string]string{}, Address: g.ClientIP(), Request: g.Request, Writer: g.Writer, time: clock, bodies: s.bodies}
	for _, p := range g.Params {
		c.Params[p.Key] = p.Value
	}
	g.Header("Cache-Control", "no-store")
	if err := s.admit(c, r.Who); err != nil {
		return err
	}
	var body []byte
	if r.Most > 0 {
		var err error
		var release func()
		if body, release, err = c.read(r.Most); err != nil {
			return err
		}
		defer release()
		c.Renew()
	}
	out, err := r.do(c, body)
	switch {
	case err != nil:
		return err
	case r.Media != "":
	case r.Status == http.StatusNoContent:
		g.Status(r.Status)
	default:
		g.JSON(r.Status, out)
	}
	return nil
}

func (s *Server) admit(c *Call, who Who) (err error) {
	if who == Anyone {
		return nil
	}
	if c.Account = s.gate.SignedIn(c); c.Account == 0 {
		return SignedOut
	}
	if who == Member {
		id, wrong := strconv.ParseInt(c.Param("site"), 10, 64)
		if wrong != nil {
			return fault.ErrNotFound
		}
		c.Site, err = s.gate.SiteOf(c, c.Account, id)
	}
	return err
}

// read takes in a body of at most so many bytes: a slow upload is no fault of the
// database. What all bodies take in memory together is bounded.
func (c *Call) read(most int64) (body []byte, release func(), err error) {
	takes := most
	if n := c.Request.ContentLength; n >= 0 && n < most {
		takes = n
	}
	waiting, cancel := context.WithTimeout(c, patience/2)
	defer cancel()
	if c.bodies.Acquire(waiting, takes) != nil {
		return nil, nil, fault.ErrBusy
	}
	allowed := uploadPatience + time.Duration(takes/slowestUpload)*time.Second
	_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(allowed)) // tests' requests have none
	c.writeBy(allowed + writing)
	body, err = io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, most))
	if err = problem.Upload(err); err != nil {
		c.bodies.Release(takes)
		return nil, nil, err
	}
	return body, func() { c.bodies.Release(takes) }, nil
}
