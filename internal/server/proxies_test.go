package server

import (
	"fmt"
	"net/http/httptest"
	"testing"
	"time"
)

func TestAProxyThatWasNotNamedIsNoticed(t *testing.T) {
	now := time.Date(2026, 11, 26, 12, 0, 0, 0, time.UTC)
	ask := func(w *proxyWatch, peer, forwarded string) {
		r := httptest.NewRequest("POST", "/v1/sites/shop/events", nil)
		r.RemoteAddr = peer
		if forwarded != "" {
			r.Header.Set("X-Forwarded-For", forwarded)
		}
		w.see(r)
	}
	for _, c := range []struct {
		name, peer string
		named      []string
		forwarded  int
		direct     int
		want       string
	}{
		{"a proxy beside us", "127.0.0.1:4000", nil, 5, 0, "127.0.0.1"},
		{"one in the network", "10.1.2.3:4000", nil, 5, 1, "10.1.2.3"},
		{"one that is named", "127.0.0.1:4000", []string{"127.0.0.1"}, 50, 0, ""},
		{"one of a named range", "10.1.2.3:4000", []string{"10.0.0.0/8"}, 50, 0, ""},
		{"no proxy", "127.0.0.1:4000", nil, 0, 50, ""},
		{"a visitor who pretends to be one", "203.0.113.9:4000", nil, 20, 0, ""},
		{"a proxy out on the internet", "203.0.113.9:4000", nil, 80, 0, "203.0.113.9"},
		{"a few who forward among many who do not", "127.0.0.1:4000", nil, 5, 50, ""},
	} {
		w := newProxyWatch(c.named)
		w.now = func() time.Time { return now }
		for i := range max(c.forwarded, c.direct) {
			if i < c.forwarded {
				ask(w, c.peer, fmt.Sprintf("198.51.100.%d", i))
			}
			if i < c.direct {
				ask(w, c.peer, "")
			}
		}
		if c.name == "a few who forward among many who do not" {
			// Noticed at first, it is not held against them for long.
			now = now.Add(2 * proxyHolds)
		}
		if got := w.Unnamed(); got != c.want {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
	w := newProxyWatch(nil)
	w.now = func() time.Time { return now }
	for i := range 10 {
		ask(w, "127.0.0.1:1", fmt.Sprint("198.51.100.", i))
	}
	now = now.Add(proxyHolds + time.Minute)
	if got := w.Unnamed(); got != "" {
		t.Error("an old notice holds:", got)
	}
	for i := range 100_000 {
		ask(w, "127.0.0.1:1", fmt.Sprint("a", i))
	}
	if len(w.whom) > mostForwarded {
		t.Error("it grows with whom it sees:", len(w.whom))
	}
}
