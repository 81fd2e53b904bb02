package visits_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/internal/store"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/storetest"
	"gobbet/internal/visits"
)

func TestMain(m *testing.M) { storetest.Run(m) }

var ctx = context.Background()

type harness struct {
	*testing.T
	s    *store.Store
	logs *visits.Logs
	site sites.Site
}

func open(t *testing.T) *harness {
	s := storetest.New(t)
	storetest.Site(t, s)
	sites, err := s.Sites.ByID(ctx, nil)
	if err != nil {
		t.Fatal(err)
	}
	return &harness{t, s, visits.New(s), sites[0]}
}

func (h *harness) add(id string, at time.Time, seconds int, moments string) {
	h.Helper()
	_, err := h.s.PageViews.Add(ctx, h.site.ID, pageviews.PageView{ID: id, Visitor: "v-" + id, Visit: "x", At: at, Seconds: seconds, Facts: json.RawMessage(`{"page.path":"/shop/"}`), Moments: json.RawMessage(moments)})
	if err != nil {
		h.Fatal(err)
	}
}

func (h *harness) read(do func(l *visits.Log)) {
	h.Helper()
	if err := h.logs.Read(ctx, h.site, func(l *visits.Log) error { do(l); return nil }); err != nil {
		h.Fatal(err)
	}
}

// eventually waits for the log to catch up, which it does once a second.
func (h *harness) eventually(what string, is func(l *visits.Log) bool) {
	h.Helper()
	for end := time.Now().Add(4 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		ok := false
		h.read(func(l *visits.Log) { ok = is(l) })
		if ok {
			return
		}
		if time.Now().After(end) {
			h.Fatal(what, "did not come about")
		}
	}
}

func TestALogKeepsUpWithTheStore(t *testing.T) {
	h := open(t)
	now := time.Now()
	h.add("old", now.Add(-visits.Kept-time.Hour), 9, `{}`)
	h.add("a", now.Add(-time.Hour), 12, `{"marks":[1,4,null],"exit":11,"idles":[[3,6]],"happened":[["click","#buy",5],["seen",7,5],["event","x",-1]]}`)
	h.add("torn", now.Add(-time.Hour), 12, `{"marks":"far"}`)
	h.read(func(l *visits.Log) {
		if l.Len() != 1 {
			t.Fatalf("%d page views", l.Len())
		}
		v := l.View(0)
		if v.Seconds != 12 || v.Marks[1] != 4 || v.Marks[2] != rehearse.Never || v.ExitAt != 11 || v.Idles[0] != (rehearse.Idle{Start: 3, Length: 6}) || len(v.Happened) != 2 {
			t.Errorf("%+v", v)
		}
		local := now.Add(-time.Hour).In(h.site.Location())
		if v.Facts["page.path"] != "/shop" || v.Facts["clock.date"] != local.Format(time.DateOnly) {
			t.Error(v.Facts)
		}
	})
	h.add("b", now, 3, `{}`)
	h.add("a", now, 40, `{"marks":[1,4,20]}`)
	h.eventually("the new page view and the longer stay", func(l *visits.Log) bool { return l.Len() == 2 && l.View(0).Seconds == 40 })
}

func TestManyReadWhileItIsWritten(t *testing.T) {
	h := open(t)
	program, err := reach.Compile(reach.Clause{Fact: "page.path", Op: reach.Is, Value: "/shop"})
	if err != nil {
		t.Fatal(err)
	}
	stop := make(chan struct{})
	var wg sync.WaitGroup
	for range 4 {
		wg.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
				}
				h.read(func(l *visits.Log) {
					d := rehearse.Draft{Program: program, Slot: "corner"}
					r, ok := l.Rehearse(rehearse.Question{Draft: d, Rivals: []*rehearse.Rival{l.Rival("k", "p", d)}, Before: 1})
					if !ok || r.Passed != l.Len() || r.Shown != 0 {
						t.Errorf("%+v of %d", r, l.Len())
					}
				})
			}
		})
	}
	for i := range 60 {
		h.add(fmt.Sprint("view", i), time.Now(), 1+i, `{}`)
		time.Sleep(25 * time.Millisecond)
	}
	h.eventually("all page views", func(l *visits.Log) bool { return l.Len() == 60 })
	close(stop)
	wg.Wait()
}

func TestWhoCannotWaitIsToldSo(t *testing.T) {
	h := open(t)
	gone, cancel := context.WithCancel(ctx)
	cancel()
	err := h.logs.Read(gone, h.site, func(*visits.Log) error { return nil })
	if err != nil && !errors.Is(err, visits.ErrReading) {
		t.Error(err)
	}
	h.add("a", time.Now(), 5, `{}`)
	h.eventually("a log that went on being read", func(l *visits.Log) bool { return l.Len() == 1 })
	h.s.Close()
	time.Sleep(1100 * time.Millisecond)
	if err := h.logs.Read(ctx, h.site, func(*visits.Log) error { return nil }); err == nil {
		t.Error("a log that cannot be brought up to date was read as if it were")
	}
}

func TestWhatIsTooOldIsForgotten(t *testing.T) {
	h := open(t)
	h.add("old", time.Now().Add(-visits.Kept-time.Hour), 9, `{}`)
	h.add("new", time.Now(), 9, `{}`)
	if err := h.logs.ForgetStored(ctx); err != nil {
		t.Fatal(err)
	}
	n := 0
	if _, err := h.s.PageViews.Read(ctx, h.site.ID, time.Time{}, time.Time{}, func(pageviews.PageView) error { n++; return nil }); err != nil || n != 1 {
		t.Fatalf("%d page views are kept, %v", n, err)
	}
}

// Old visits and new ones are all there once a log was read, however it went.
func TestALogIsReadFromTheLatestOn(t *testing.T) {
	h := open(t)
	now := time.Now()
	for i, ago := range []time.Duration{time.Minute, 5 * time.Hour, 30 * time.Hour, 8 * 24 * time.Hour, 29 * 24 * time.Hour, 89 * 24 * time.Hour, 100 * 24 * time.Hour} {
		h.add(fmt.Sprint("ago-", i), now.Add(-ago), 5, `{}`)
	}
	h.eventually("all that counts", func(l *visits.Log) bool {
		_, partial := l.Partial()
		return !partial && l.Len() == 6
	})
	// A log of nothing but old visits is no empty one.
	old := open(t)
	old.add("old", now.Add(-80*24*time.Hour), 5, `{}`)
	old.read(func(l *visits.Log) {
		if _, partial := l.Partial(); l.Len() != 1 || partial {
			t.Errorf("%d visits", l.Len())
		}
	})
}
