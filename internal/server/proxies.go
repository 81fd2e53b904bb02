package server

import (
	"log/slog"
	"net/http"
	"net/netip"
	"sync"
	"time"
)

// proxyWatch notices a proxy that was not named. Behind one, all visitors have
// the address of the proxy, and the limits per address hold for all of them
// together.
type proxyWatch struct {
	trusted []netip.Prefix
	now     func() time.Time

	mu      sync.Mutex
	began   time.Time
	peer    netip.Addr // that forwards
	direct  int        // requests from there that forward nothing
	forward int
	whom    map[string]bool // whom it forwards for
	noticed netip.Addr
	at      time.Time
}

const (
	proxyWindow = 10 * time.Minute
	proxyHolds  = time.Hour // for how long a notice holds after the last sign
	// A peer in a private network is a proxy once it forwards for a few; any
	// other may only pretend to be one, and takes more.
	fewForwarded  = 3
	manyForwarded = 50
	mostForwarded = 64
)

func newProxyWatch(trusted []string) *proxyWatch {
	w := &proxyWatch{now: time.Now}
	for _, one := range trusted {
		if p, err := netip.ParsePrefix(one); err == nil {
			w.trusted = append(w.trusted, p)
		} else if a, err := netip.ParseAddr(one); err == nil {
			w.trusted = append(w.trusted, netip.PrefixFrom(a, a.BitLen()))
		}
	}
	return w
}

// see looks at a request.
func (w *proxyWatch) see(r *http.Request) {
	forwarded := r.Header.Get("X-Forwarded-For") + r.Header.Get("Forwarded")
	at, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil {
		return
	}
	peer := at.Addr().Unmap()
	for _, p := range w.trusted {
		if p.Contains(peer) {
			return
		}
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	now := w.now()
	if now.Sub(w.began) > proxyWindow {
		w.began, w.peer, w.direct, w.forward, w.whom = now, netip.Addr{}, 0, 0, map[string]bool{}
	}
	if forwarded == "" {
		if peer == w.peer {
			w.direct++
		}
		return
	}
	if !w.peer.IsValid() {
		w.peer = peer
	}
	if peer != w.peer {
		return
	}
	w.forward++
	if len(w.whom) < mostForwarded {
		w.whom[forwarded[:min(len(forwarded), 64)]] = true
	}
	enough := manyForwarded
	if peer.IsPrivate() || peer.IsLoopback() || peer.IsLinkLocalUnicast() {
		enough = fewForwarded
	}
	if len(w.whom) < enough || w.direct*2 > w.forward {
		return
	}
	if w.noticed != peer || now.Sub(w.at) > proxyHolds {
		slog.Warn("requests come through a proxy that is not named: all its visitors count as one address. Name it with --proxy", "proxy", peer.String())
	}
	w.noticed, w.at = peer, now
}

// Unnamed is the address of a proxy that is not named; empty where there is none.
func (w *proxyWatch) Unnamed() string {
	w.mu.Lock()
	defer w.mu.Unlock()
	if !w.noticed.IsValid() || w.now().Sub(w.at) > proxyHolds {
		return ""
	}
	return w.noticed.String()
}
