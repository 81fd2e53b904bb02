package visitor

import (
	"context"
	"net/http"
	"reflect"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/internal/limits"
	"gobbet/internal/problem"
)

// Asked is one thing that a page of a site asks or tells, declared once: where,
// what goes in and comes out, and bounds. All are posts, of anyone whose page is
// the site's.
type Asked struct {
	Path string // after /v1/sites/:site
	// In and Out are the types of what goes in and comes out; None where nothing does.
	In, Out reflect.Type
	// PerMinute is how many come from one address, and Most how many bytes of a body
	// are taken.
	PerMinute, Most int64
	// Stores says that it writes to the database. What does goes there a few at a
	// time, whoever asks.
	Stores bool
	// AtOnce says that it asks no database, and waits for nothing.
	AtOnce bool

	do func(v *Server, c *Call, body []byte) (any, error)
}

// None is that nothing comes out.
type None struct{}

// All is what a page may ask and tell.
var All = []Asked{
	asked("/decide", 600, maxDecide, (*Server).decide).atOnce(),
	asked("/views", 600, maxDecide, (*Server).record),
	asked("/faults", 10, maxDecide, (*Server).drawingFault).atOnce(),
	asked("/inspect", 120, maxDecide, (*Server).inspect),
	asked("/events", 300, maxEvents, (*Server).events).stores(),
	asked("/advance", 240, maxAnswers, (*Server).advance).stores(),
	asked("/codes", 20, maxAnswers, (*Server).code).stores(),
}

func asked[In, Out any](path string, perMinute, most int64, do func(*Server, *Call, *In) (Out, error)) Asked {
	return Asked{
		Path: path, In: reflect.TypeFor[In](), Out: reflect.TypeFor[Out](), PerMinute: perMinute, Most: most,
		do: func(v *Server, c *Call, body []byte) (any, error) {
			in := new(In)
			// Unknown keys pass: an older server may be asked by a newer page.
			if err := fault.Loosely(body, in); err != nil {
				return nil, err
			}
			return do(v, c, in)
		},
	}
}

func (a Asked) stores() Asked { a.Stores = true; return a }

func (a Asked) atOnce() Asked { a.AtOnce = true; return a }

// Call is one request of a page of a site. Its context ends when the time of the
// request is over.
type Call struct {
	context.Context
	Site    *Site
	Address string // where it comes from
	Header  http.Header
}

// outliving is a context that outlives the page that asked: what a visitor sends
// while leaving is stored although nobody waits for the answer.
func (c *Call) outliving() (context.Context, context.CancelFunc) {
	return context.WithTimeout(context.WithoutCancel(c), 10*time.Second)
}

// open opens what is declared, under a site that is known.
func (v *Server) open(site *gin.RouterGroup) {
	stored := inTurn(mostStoring)
	for _, a := range All {
		steps := []gin.HandlerFunc{v.limited(a.Path[1:], a.PerMinute), within(a.Most)}
		if !a.AtOnce {
			steps = append([]gin.HandlerFunc{deadline}, steps...)
		}
		if a.Stores {
			steps = append(steps, stored)
		}
		site.POST(a.Path, append(steps, problem.Handle(func(c *gin.Context) error { return v.answer(c, a) }))...)
	}
}

// answer reads a body as JSON, whatever content type it came with.
func (v *Server) answer(g *gin.Context, a Asked) error {
	body, err := whole(g)
	if err != nil {
		return err
	}
	out, err := a.do(v, &Call{Context: g.Request.Context(), Site: siteOf(g), Address: g.ClientIP(), Header: g.Request.Header}, body)
	switch {
	case err != nil:
		return err
	case a.Out == reflect.TypeFor[None]():
		g.Status(http.StatusNoContent)
	default:
		g.JSON(http.StatusOK, out)
	}
	return nil
}

// whereabouts are digests of where a request comes from.
func (c *Call) whereabouts() (address, network string) {
	address, network = limits.Whereabouts(c.Address)
	return secretly(c.Site, "address", address), secretly(c.Site, "network", network)
}
