package compose

import (
	"context"
	"errors"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"syscall"
	"time"
)

// Looking at a site's page means asking an address that a marketer chose. Only
// what is out on the internet is asked, and what the operator allows by name:
// nothing within the network this program runs in.

// inside are networks that are no one's on the internet, beside those that
// netip tells by itself (RFC 6890).
var inside = []netip.Prefix{
	netip.MustParsePrefix("0.0.0.0/8"), netip.MustParsePrefix("100.64.0.0/10"), netip.MustParsePrefix("192.0.0.0/24"), netip.MustParsePrefix("192.0.2.0/24"),
	netip.MustParsePrefix("192.88.99.0/24"), netip.MustParsePrefix("198.18.0.0/15"), netip.MustParsePrefix("198.51.100.0/24"), netip.MustParsePrefix("203.0.113.0/24"), netip.MustParsePrefix("240.0.0.0/4"),
	netip.MustParsePrefix("64:ff9b::/96"), netip.MustParsePrefix("64:ff9b:1::/48"), netip.MustParsePrefix("100::/64"), netip.MustParsePrefix("2001::/23"), netip.MustParsePrefix("2001:db8::/32"),
	netip.MustParsePrefix("2002::/16"), netip.MustParsePrefix("fec0::/10"),
}

// outside reports whether an address is one on the internet.
func outside(a netip.Addr) bool {
	a = a.Unmap()
	return a.IsGlobalUnicast() && !a.IsPrivate() && !slices.ContainsFunc(inside, func(p netip.Prefix) bool { return p.Contains(a) })
}

var errInside = errors.New("the address is within a private network")

// browserFor asks pages for the studio: from outside, or from one of the origins
// that the operator allows. Every address is judged when it is dialled, after
// names are resolved and again at every redirect.
func browserFor(allowed []string) *http.Client {
	dialer := &net.Dialer{Timeout: pagePatience}
	guarded := &net.Dialer{Timeout: pagePatience, Control: func(_, address string, _ syscall.RawConn) error {
		at, err := netip.ParseAddrPort(address)
		if err != nil || !outside(at.Addr()) {
			return errInside
		}
		return nil
	}}
	return &http.Client{
		Timeout: pagePatience,
		Transport: &http.Transport{
			Proxy: nil, DisableKeepAlives: true, MaxResponseHeaderBytes: 64 << 10, ResponseHeaderTimeout: pagePatience, TLSHandshakeTimeout: pagePatience,
			DialContext: func(ctx context.Context, network, address string) (net.Conn, error) {
				if slices.Contains(allowed, address) {
					return dialer.DialContext(ctx, network, address)
				}
				return guarded.DialContext(ctx, network, address)
			},
		},
	}
}

const (
	maxPage      = 3 << 20
	pagePatience = 5 * time.Second
	pagesAtOnce  = 8
)
