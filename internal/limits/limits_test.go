package limits

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"sync"
	"testing"
	"testing/synctest"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/internal/store/quotas"
)

// table is the counts of all processes.
type table struct {
	mu     sync.Mutex
	counts map[string]int64
	away   bool
	added  int
}

func (t *table) Add(_ context.Context, counts []quotas.Count) (all []int64, err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.away {
		return nil, errors.New("away")
	}
	for _, c := range counts {
		t.counts[string(c.Key)] += c.Seen
		all = append(all, t.counts[string(c.Key)])
		t.added++
	}
	return all, nil
}

var tens = limit{"tens", 10, time.Minute}

// passed is how many of so many requests are let through now.
func passed(l *Limits, address string, many int) (n int) {
	for range many {
		if over, _ := l.take(tens, address, time.Now()); !over {
			n++
		}
	}
	return n
}

func TestSoManyAPeriodFromOneAddress(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		l := New(nil)
		if n := passed(l, "a", 50); n != 10 {
			t.Error(n)
		}
		if n := passed(l, "b", 5); n != 5 {
			t.Error("another address:", n)
		}
		time.Sleep(2 * time.Minute)
		if n := passed(l, "a", 50); n != 10 {
			t.Error("two minutes later:", n)
		}
	})
}

// The turn of a minute lets nobody send twice as much at once, and in the long run
// it is the limit a minute.
func TestTheTurnOfASpanLetsNobodySendTwice(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		l := New(nil)
		time.Sleep(55 * time.Second)
		var at []time.Time
		for range 4 * 60 * 4 { // four a second for four minutes
			if over, _ := l.take(tens, "a", time.Now()); !over {
				at = append(at, time.Now())
			}
			time.Sleep(250 * time.Millisecond)
		}
		for i := range at {
			n := 0
			for _, other := range at[i:] {
				if other.Sub(at[i]) < 15*time.Second {
					n++
				}
			}
			if n > 12 {
				t.Fatalf("%d within a quarter of a minute", n)
			}
		}
		if len(at) < 30 || len(at) > 50 {
			t.Errorf("%d in four minutes", len(at))
		}
	})
}

func TestTheLimitIsOverAllProcesses(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		together := &table{counts: map[string]int64{}}
		one, two := New(together), New(together)
		share := func() {
			t.Helper()
			for _, l := range []*Limits{one, two, one} {
				if err := l.Share(t.Context()); err != nil {
					t.Fatal(err)
				}
			}
		}
		if passed(one, "a", 6)+passed(two, "a", 3) != 9 {
			t.Fatal("below the limit, and refused")
		}
		share()
		if n := passed(one, "a", 5) + passed(two, "a", 0); n != 1 {
			t.Errorf("%d more than nine went through", n)
		}
		share()
		share() // nothing is told of twice
		if n := passed(one, "a", 5) + passed(two, "a", 5); n != 0 {
			t.Errorf("%d more than ten went through", n)
		}
		// What others counted weighs at the turn of a minute too.
		time.Sleep(time.Until(time.Now().Truncate(time.Minute).Add(time.Minute)) + time.Millisecond)
		if n := passed(two, "a", 5); n > 1 {
			t.Errorf("%d right after the turn", n)
		}
		time.Sleep(2 * time.Minute)
		share()
		if n := passed(one, "a", 50); n != 10 {
			t.Errorf("%d two minutes later", n)
		}
	})
}

// Most addresses come now and then: nobody is told of them.
func TestOnlyWhoComesOftenIsToldOf(t *testing.T) {
	together := &table{counts: map[string]int64{}}
	l, often := New(together), limit{"often", 100, time.Minute}
	for i := range 3000 {
		l.take(often, fmt.Sprint("visitor", i), time.Now())
	}
	for range 10 {
		l.take(often, "busy", time.Now())
	}
	if err := l.Share(t.Context()); err != nil || together.added != 1 {
		t.Error(err, together.added)
	}
}

// With the database away each process holds its own limit, and tells later.
func TestLimitsHoldWithTheDatabaseAway(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		together := &table{counts: map[string]int64{}, away: true}
		one, two := New(together), New(together)
		if n := passed(one, "a", 50); n != 10 {
			t.Error(n)
		}
		if one.Share(t.Context()) == nil {
			t.Error("nothing was said of it")
		}
		together.away = false
		passed(two, "a", 1)
		for _, l := range []*Limits{one, two} {
			if err := l.Share(t.Context()); err != nil {
				t.Fatal(err)
			}
		}
		if n := passed(two, "a", 5); n != 0 {
			t.Errorf("%d went through after all was told", n)
		}
	})
}

// Whoever has very many addresses takes no memory without end, and keeps nobody out.
func TestManyAddressesAreBounded(t *testing.T) {
	l, now := New(nil), time.Now()
	for i := range mostAddresses + 1000 {
		l.take(tens, fmt.Sprint(i), now)
	}
	if n := len(l.spans[tens].now); n != mostAddresses {
		t.Error(n)
	}
	if over, _ := l.take(tens, "somebody else", now); over {
		t.Error("somebody else is kept out")
	}
}

func TestWhoIsRefusedIsToldWhenToComeBack(t *testing.T) {
	gin.SetMode(gin.TestMode)
	e := gin.New()
	e.GET("/", New(nil).Address("one", 1, time.Minute), func(c *gin.Context) { c.Status(204) })
	for i, want := range []int{204, 429} {
		w := httptest.NewRecorder()
		e.ServeHTTP(w, httptest.NewRequest("GET", "/", nil))
		if w.Code != want || (w.Header().Get("Retry-After") != "") != (want == 429) {
			t.Error(i, w.Code, w.Header())
		}
	}
	w := httptest.NewRecorder()
	r := httptest.NewRequest("GET", "/", nil)
	r.RemoteAddr = "198.51.100.9:1"
	if e.ServeHTTP(w, r); w.Code != http.StatusNoContent {
		t.Error("another address is refused:", w.Code)
	}
}

// A clock that was ahead and is put right holds nobody until the time it had shown.
func TestAClockThatIsPutRight(t *testing.T) {
	l, now := New(nil), time.Now()
	take := func(at time.Time) (n int) {
		for range 50 {
			if over, again := l.take(tens, "a", at); !over {
				n++
			} else if again.Sub(at) > 2*time.Minute {
				t.Error("to wait", again.Sub(at))
			}
		}
		return n
	}
	if n := take(now.Add(time.Hour)); n != 10 {
		t.Error(n)
	}
	if n := take(now); n != 10 {
		t.Error("an hour back:", n)
	}
	if n := take(now.Add(2 * time.Minute)); n != 10 {
		t.Error("two minutes on:", n)
	}
}
