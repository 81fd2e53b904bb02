package visitor

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/internal/limits"
	"gobbet/internal/problem"
)

// How long a request may take in all, once it is here.
const patience = 8 * time.Second

// deadline bounds how long a request may take.
func deadline(c *gin.Context) {
	ctx, cancel := context.WithTimeout(c.Request.Context(), patience)
	defer cancel()
	c.Request = c.Request.WithContext(ctx)
	c.Next()
}

func within(bytes int64) gin.HandlerFunc {
	return func(c *gin.Context) { c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, bytes) }
}

// inTurn lets so many requests do their work at once. The others wait with their
// bodies read and nothing else, which is little: a slow sender keeps nobody's turn.
func inTurn(many int) gin.HandlerFunc {
	turns := make(chan struct{}, many)
	return func(c *gin.Context) {
		raw, err := whole(c)
		if err != nil {
			problem.Write(c, err)
			return
		}
		c.Request.Body = heard{bytes.NewReader(raw), raw}
		select {
		case turns <- struct{}{}:
		default:
			// Who left the page meanwhile is stored all the same.
			waits := time.NewTimer(patience)
			defer waits.Stop()
			select {
			case turns <- struct{}{}:
			case <-waits.C:
				problem.Write(c, crowded)
				return
			}
		}
		defer func() { <-turns }()
		c.Next()
	}
}

// heard is a body that was read already.
type heard struct {
	io.Reader
	raw []byte
}

func (heard) Close() error { return nil }

// whole reads a body, once.
func whole(c *gin.Context) ([]byte, error) {
	if h, ok := c.Request.Body.(heard); ok {
		return h.raw, nil
	}
	var raw bytes.Buffer
	raw.Grow(int(max(0, min(c.Request.ContentLength, 16<<10))) + bytes.MinRead) // what is said to come may never come
	_, err := raw.ReadFrom(c.Request.Body)
	return raw.Bytes(), problem.Upload(err)
}

// limited allows so many requests a minute from one address.
func (v *Server) limited(name string, perMinute int64) gin.HandlerFunc {
	return v.limits.Address(name, perMinute*v.generous, time.Minute)
}

// gate lets so many in at once, and of those so many from one address.
type gate struct {
	mu     sync.Mutex
	all    int
	each   int
	in     int
	inEach map[string]int // of those who are in
}

func newGate(all, each int) *gate { return &gate{all: all, each: each, inEach: map[string]int{}} }

var crowded = problem.New(http.StatusServiceUnavailable, "busy", "Too much is being asked for at once. Try again in a moment.")

func (g *gate) enter(address string) bool {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.in >= g.all || g.inEach[address] >= g.each {
		return false
	}
	g.in++
	g.inEach[address]++
	return true
}

func (g *gate) leave(address string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.in--
	if g.inEach[address]--; g.inEach[address] <= 0 {
		delete(g.inEach, address)
	}
}

// through is the gate as a handler.
func (g *gate) through(c *gin.Context) {
	address, _ := limits.Whereabouts(c.ClientIP())
	if !g.enter(address) {
		again := crowded
		again.Again = 2 * time.Second
		problem.Write(c, again)
		return
	}
	defer g.leave(address)
	c.Next()
}
