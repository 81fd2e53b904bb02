// Package limits bounds what comes from one place on the internet, over all
// processes together.
//
//	l := limits.New(store.Quotas)
//	router.POST("/answers", l.Address("answers", 20, time.Minute), answer)
//
// A request waits for nothing: it is counted in this process's memory, and what
// others counted is known from the last Share, a few seconds ago at most. Only
// addresses that come often are told of.
package limits

import (
	"context"
	"crypto/sha256"
	"fmt"
	"math"
	"net/http"
	"net/netip"
	"sync"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/internal/problem"
	"gobbet/internal/store/quotas"
)

// Together keeps counts for all processes.
type Together interface {
	// Add adds counts, and gives what all processes have of each by now.
	Add(ctx context.Context, counts []quotas.Count) ([]int64, error)
}

// Limits counts requests. It is safe for use by many goroutines.
type Limits struct {
	together Together
	mu       sync.Mutex
	spans    map[limit]*spans
}

// limit is so many requests a period.
type limit struct {
	name   string
	most   int64
	period time.Duration
}

// spans are what was counted of a limit, by address, in the span of time that is
// now and in the one before. Spans begin at the same moments in every process.
type spans struct {
	number       int64 // of the one that is now: periods since 1970
	now, earlier map[string]*counted
}

// counted is the requests of an address in a span.
type counted struct {
	here   int64
	untold int64 // of those, since the last Share
	others int64 // in other processes, as of then
}

func (c *counted) all() int64 {
	if c == nil {
		return 0
	}
	return c.here + c.others
}

// New makes limits that are shared through together; nil: each process has its own.
func New(together Together) *Limits {
	return &Limits{together: together, spans: map[limit]*spans{}}
}

// at brings the spans of a limit to a moment.
func (l *Limits) at(of limit, now time.Time) *spans {
	s, number := l.spans[of], now.UnixNano()/int64(of.period)
	switch {
	case s == nil || number > s.number+1 || number < s.number-1: // a clock that was wrong holds nobody
		s = &spans{number, map[string]*counted{}, nil}
	case number == s.number+1:
		s = &spans{number, map[string]*counted{}, s.now}
	}
	l.spans[of] = s
	return s
}

func (s *spans) ends(of limit) time.Time { return time.Unix(0, (s.number+1)*int64(of.period)) }

// mostAddresses bounds what is counted in one span: strangers choose how many there
// are. Those beyond it are let through, for who has as many addresses is not held
// by a limit on each, and must not keep everyone else out.
const mostAddresses = 50_000

// take counts a request, and reports whether it is one too many, and when to try
// again. Those of the span before count as far as a period back from now reaches
// into it, as if they had been spread over it: the turn of a span lets nobody send
// twice as much at once, and in the long run it is the limit a period.
func (l *Limits) take(of limit, address string, now time.Time) (over bool, again time.Time) {
	l.mu.Lock()
	defer l.mu.Unlock()
	s := l.at(of, now)
	c := s.now[address]
	if c == nil {
		if len(s.now) >= mostAddresses {
			return false, time.Time{}
		}
		c = &counted{}
		s.now[address] = c
	}
	left := min(1, float64(s.ends(of).Sub(now))/float64(of.period))
	if c.all()+int64(math.Ceil(float64(s.earlier[address].all())*left)) >= of.most {
		return true, s.ends(of)
	}
	c.here++
	c.untold++
	return false, time.Time{}
}

// tellAt is from which part of a limit on an address is told of: that of a tenth
// of it in one process can be at the limit in ten.
const tellAt = 10

// mostTold bounds what is told of at once.
const mostTold = 5000

// Share tells the other processes what this one counted, and learns what they did.
// It is to be called every few seconds.
func (l *Limits) Share(ctx context.Context) error {
	if l.together == nil {
		return nil
	}
	var counts []quotas.Count
	var of []*counted
	now := time.Now()
	l.mu.Lock()
	for limit := range l.spans {
		s := l.at(limit, now)
		for address, c := range s.now {
			if c.here*tellAt >= limit.most && len(counts) < mostTold {
				key := sha256.Sum256(fmt.Append(nil, limit.name, "\x00", limit.most, "\x00", int64(limit.period), "\x00", s.number, "\x00", address))
				counts, of = append(counts, quotas.Count{Key: key[:], Seen: c.untold, Ends: s.ends(limit)}), append(of, c)
			}
		}
	}
	l.mu.Unlock()
	if len(counts) == 0 {
		return nil
	}
	all, err := l.together.Add(ctx, counts)
	if err != nil {
		return err
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	for i, c := range of {
		c.untold -= counts[i].Seen
		// All there are, less what this process has told of itself.
		c.others = max(0, all[i]-(c.here-c.untold))
	}
	return nil
}

// Address allows so many requests a period from one address, those under one
// name counted together.
func (l *Limits) Address(name string, most int64, period time.Duration) gin.HandlerFunc {
	allows := l.From(name, most, period)
	return func(c *gin.Context) {
		if err := allows(c.ClientIP()); err != nil {
			problem.Write(c, err)
		}
	}
}

// From allows so many of something a period from one address, and gives what to
// answer where that is one too many.
func (l *Limits) From(name string, most int64, period time.Duration) func(address string) error {
	of := limit{name, most, period}
	return func(from string) error {
		address, _ := Whereabouts(from)
		now := time.Now()
		over, again := l.take(of, address, now)
		if !over {
			return nil
		}
		p := problem.New(http.StatusTooManyRequests, "too-many", "That is too many at once. Wait a minute and try again.")
		p.Again = again.Sub(now)
		return p
	}
}

// Whereabouts gives what stands for one household or office behind an address,
// and what for its network: of an IPv4 address itself and its /24, of an IPv6
// address its /64 and its /48, for whoever has one of a /64 has them all.
func Whereabouts(ip string) (address, network string) {
	at, err := netip.ParseAddr(ip)
	if err != nil {
		return ip, ip
	}
	at = at.Unmap().WithZone("")
	own, around := 32, 24
	if at.Is6() {
		own, around = 64, 48
	}
	one, _ := at.Prefix(own)
	many, _ := at.Prefix(around)
	return one.String(), many.String()
}
