// Package origin reads web origins as people write them and as browsers send
// them: a scheme, a host and a port (RFC 6454).
//
//	Shop.Example.com:443     https://shop.example.com
//	http://töpfern.test:80   http://xn--tpfern-wxa.test
//	http://127.0.0.1:8641    http://127.0.0.1:8641
//
// What comes back is in the one form that browsers send: nothing in it but
// letters, digits and -.:[], so that it may stand in a header.
package origin

import (
	"net/netip"
	"net/url"
	"regexp"
	"strconv"
	"strings"

	"golang.org/x/net/idna"

	"gobbet/core/fault"
)

const maxHost = 253 // RFC 1035

var (
	notOne = fault.Fault{Message: "is not a domain such as https://shop.example.com"}
	label  = regexp.MustCompile(`^[a-z0-9_]([a-z0-9_-]{0,61}[a-z0-9_])?$`)
	// hosts reads names as browsers do.
	hosts = idna.New(idna.MapForLookup(), idna.BidiRule(), idna.StrictDomainName(false))
)

// Parse reads an origin, with or without its scheme; without, it is https. Its
// error is a fault.Fault.
func Parse(given string) (string, error) {
	given = strings.TrimSpace(given)
	if !strings.Contains(given, "://") {
		given = "https://" + given
	}
	u, err := url.Parse(given)
	if err != nil || len(given) > 2*maxHost || u.Opaque != "" {
		return "", notOne
	}
	usual := ""
	switch strings.ToLower(u.Scheme) {
	case "https":
		usual = "443"
	case "http":
		usual = "80"
	default:
		return "", fault.Fault{Message: "should start with https:// or http://"}
	}
	if u.Path != "" && u.Path != "/" || u.RawQuery != "" || u.ForceQuery || u.Fragment != "" || u.User != nil || strings.HasSuffix(given, "#") {
		return "", fault.Fault{Message: "should be a domain alone, without a page"}
	}
	host, ok := Host(u.Hostname())
	if !ok {
		return "", notOne
	}
	if strings.Contains(host, ":") {
		host = "[" + host + "]"
	}
	port := u.Port()
	if n, err := strconv.Atoi(port); port != "" && (err != nil || n < 1 || n > 65535) || strings.HasSuffix(u.Host, ":") {
		return "", fault.Fault{Message: "has a port that is none; a port is a number from 1 to 65535"}
	}
	if port = strings.TrimLeft(port, "0"); port != "" && port != usual {
		host += ":" + port
	}
	return strings.ToLower(u.Scheme) + "://" + host, nil
}

// Host reads the name or address of a host, without brackets, as browsers write it.
func Host(given string) (host string, ok bool) {
	if at, err := netip.ParseAddr(given); err == nil {
		return at.WithZone("").String(), at.Zone() == ""
	}
	host, err := hosts.ToASCII(given)
	host = strings.TrimSuffix(host, ".")
	if err != nil || host == "" || len(host) > maxHost {
		return "", false
	}
	labels := strings.Split(host, ".")
	for _, one := range labels {
		if !label.MatchString(one) {
			return "", false
		}
	}
	// A name that ends in a number is read as an address, and is none.
	if last := labels[len(labels)-1]; strings.Trim(last, "0123456789") == "" {
		return "", false
	}
	return host, true
}
