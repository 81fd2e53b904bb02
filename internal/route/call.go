package route

import (
	"context"
	"net/http"
	"sync/atomic"
	"time"

	"golang.org/x/sync/semaphore"

	"gobbet/core/fault"
	"gobbet/internal/store/sites"
)

// Call is one request, as its handler sees it. Its context ends when the time of
// the request is over.
type Call struct {
	context.Context
	// Site is the one the path names, of a route for members.
	Site sites.Site
	// Account is who is signed in; 0: nobody.
	Account int64
	// Params are the named parts of the path.
	Params map[string]string
	// Address is where it comes from.
	Address string
	Request *http.Request
	// Writer is for files, cookies and what else is no JSON.
	Writer http.ResponseWriter

	time   *timed // the context, where its time can begin anew
	bodies *semaphore.Weighted
}

// Param is a named part of the path.
func (c *Call) Param(name string) string { return c.Params[name] }

const (
	// patience is how long a request may take once all of it is here.
	patience = 10 * time.Second
	// An upload may take uploadPatience, and longer the larger it may be.
	uploadPatience = 30 * time.Second
	slowestUpload  = 100 << 10 // bytes a second
	// writing is how long after that an answer may take to be written.
	writing = time.Minute
	// bodiesAtOnce is how many bytes of bodies are in memory at once.
	bodiesAtOnce = 192 << 20
)

// Renew gives what is still to be done the time of a request of its own: after
// an upload, after work that waited for its turn, between the parts of a long file.
func (c *Call) Renew() { c.time.begin(patience) }

// Last gives what is still to be done longer than that, and as much to write.
func (c *Call) Last(d time.Duration) {
	c.time.begin(d)
	c.writeBy(d + 5*time.Second)
}

func (c *Call) writeBy(d time.Duration) {
	_ = http.NewResponseController(c.Writer).SetWriteDeadline(time.Now().Add(d)) // tests' writers have none
}

// Base is the request's own context, which ends when whoever asks goes away.
func (c *Call) Base() context.Context { return c.time.base }

// Hold makes room for so many bytes beside those of uploads, which are in memory
// as long as they are worked on. release gives it back.
func (c *Call) Hold(bytes int64) (release func(), err error) {
	if c.bodies.Acquire(c, bytes) != nil {
		return nil, fault.ErrBusy
	}
	return func() { c.bodies.Release(bytes) }, nil
}

// Data answers with bytes of a media type. Whether they arrive is for who asked
// to see: nothing is left to be done here.
func (c *Call) Data(media string, body []byte) {
	c.Writer.Header().Set("Content-Type", media)
	_, _ = c.Writer.Write(body)
}

// timed is a context whose time can begin anew. Whoever was handed it goes on
// looking at it from goroutines of their own, as database/sql does.
type timed struct {
	base context.Context // the request's own, without a deadline
	now  atomic.Pointer[context.Context]
}

func newTimed(base context.Context) *timed {
	t := &timed{base: base}
	t.begin(patience)
	return t
}

func (t *timed) begin(d time.Duration) {
	now, cancel := context.WithTimeout(t.base, d)
	context.AfterFunc(t.base, cancel) // the request's own end lets go of it
	t.now.Store(&now)
}

func (t *timed) Deadline() (time.Time, bool) { return (*t.now.Load()).Deadline() }
func (t *timed) Done() <-chan struct{}       { return (*t.now.Load()).Done() }
func (t *timed) Err() error                  { return (*t.now.Load()).Err() }
func (t *timed) Value(key any) any           { return (*t.now.Load()).Value(key) }
