// Package route declares what a server answers, each thing once: method, path,
// who may ask, what goes in, what comes out, and bounds.
//
//	route.Get("/sites/:site/board", p.board)
//	route.Post("/sites/:site/import", p.importPiece).Takes(48 << 20)
//
// A handler is a function of what goes in, and gives what comes out or what is
// wrong:
//
//	func (p *Place) board(c *route.Call, _ route.None) (Board, error)
//
// What goes in is read from the address of a Get, and from the body of all
// others. Doors are opened from a list of routes (Server.Mount); the tests of
// doors and TypeScript's client are drawn from the same list.
package route

import (
	"reflect"
	"strings"
	"time"

	"github.com/gin-gonic/gin/binding"

	"gobbet/core/fault"
)

// None is that nothing goes in, or comes out.
type None struct{}

// Who may ask.
type Who string

const (
	// Anyone, signed in or not.
	Anyone Who = "anyone"
	// Account is whoever is signed in.
	Account Who = "account"
	// Member is whoever is signed in to an account that the site of the path
	// belongs to; for others it does not exist.
	Member Who = "member"
)

// Route is one thing that is answered.
type Route struct {
	Method string
	Path   string // as gin has it, such as /sites/:site/board
	Who    Who
	// In and Out are the types of what goes in and comes out; None where nothing
	// does. What goes into a GET or an upload are texts of the address, named by
	// the tag "form".
	In, Out reflect.Type
	// Upload says that the body is a file, and Media of which kind what comes out
	// is; empty: JSON.
	Upload bool
	Media  string
	// Most is how many bytes of a body are taken; 0: it has none.
	Most int64
	// PerAddress and Period are how many requests come from one address; 0: any number.
	PerAddress int64
	Period     time.Duration
	// Status is that of an answer.
	Status int

	do func(c *Call, body []byte) (any, error)
}

// usualBody is how many bytes of JSON are taken.
const usualBody = 2 << 20

func made[In, Out any](method, path string, do func(*Call, []byte) (any, error)) Route {
	r := Route{Method: method, Path: path, Who: Account, In: reflect.TypeFor[In](), Out: reflect.TypeFor[Out](), Status: 200, do: do}
	if strings.HasPrefix(path, "/sites/:site") {
		r.Who = Member
	}
	if r.Out == reflect.TypeFor[None]() {
		r.Status = 204
	}
	return r
}

// Get answers a question that the address holds all of.
func Get[In, Out any](path string, do func(*Call, In) (Out, error)) Route {
	return made[In, Out]("GET", path, func(c *Call, _ []byte) (any, error) {
		in, err := asked[In](c)
		if err != nil {
			return nil, err
		}
		return do(c, in)
	})
}

// Post does something with what the body says.
func Post[In, Out any](path string, do func(*Call, In) (Out, error)) Route {
	return sent("POST", path, do)
}

// Put makes something what the body says.
func Put[In, Out any](path string, do func(*Call, In) (Out, error)) Route {
	return sent("PUT", path, do)
}

// Delete takes something away. It has no body.
func Delete[Out any](path string, do func(*Call, None) (Out, error)) Route {
	return sent("DELETE", path, do)
}

func sent[In, Out any](method, path string, do func(*Call, In) (Out, error)) Route {
	r := made[In, Out](method, path, func(c *Call, body []byte) (any, error) {
		in := new(In)
		if _, nothing := any(in).(*None); !nothing {
			if has, ok := any(in).(interface{ SetDefaults() }); ok {
				has.SetDefaults()
			}
			if err := fault.Loosely(body, in); err != nil {
				return nil, err
			}
		}
		return do(c, *in)
	})
	if r.In != reflect.TypeFor[None]() {
		r.Most = usualBody
	}
	return r
}

// Upload takes a file of so many bytes at most.
func Upload[In, Out any](method, path string, most int64, do func(*Call, In, []byte) (Out, error)) Route {
	r := made[In, Out](method, path, func(c *Call, body []byte) (any, error) {
		in, err := asked[In](c)
		if err != nil {
			return nil, err
		}
		return do(c, in, body)
	})
	r.Upload, r.Most = true, most
	return r
}

// File answers with a file of a media type, which do writes.
func File[In any](path, media string, do func(*Call, In) error) Route {
	r := made[In, None]("GET", path, func(c *Call, _ []byte) (any, error) {
		in, err := asked[In](c)
		if err == nil {
			err = do(c, in)
		}
		return nil, err
	})
	r.Media, r.Status = media, 200
	return r
}

// For says who may ask.
func (r Route) For(who Who) Route { r.Who = who; return r }

// Takes says how many bytes of a body are taken.
func (r Route) Takes(bytes int64) Route { r.Most = bytes; return r }

// Created says that something new comes of it.
func (r Route) Created() Route { r.Status = 201; return r }

// At says how many requests come from one address in a period.
func (r Route) At(times int64, period time.Duration) Route {
	r.PerAddress, r.Period = times, period
	return r
}

// asked reads what the address holds.
func asked[In any](c *Call) (in In, err error) {
	if _, nothing := any(in).(None); nothing {
		return in, nil
	}
	return in, binding.MapFormWithTag(&in, c.Request.URL.Query(), "form")
}
