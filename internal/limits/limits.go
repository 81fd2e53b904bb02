// Package limits bounds what comes from one place on the internet.
package limits

import (
	"net/http"
	"net/netip"
	"time"

	"github.com/gin-gonic/gin"
	limiter "github.com/ulule/limiter/v3"
	limit "github.com/ulule/limiter/v3/drivers/middleware/gin"
	"github.com/ulule/limiter/v3/drivers/store/memory"

	"gobbet/internal/problem"
)

// Address allows so many requests a period from one address, those under one
// name counted together.
func Address(name string, n int64, period time.Duration) gin.HandlerFunc {
	l := limiter.New(memory.NewStoreWithOptions(limiter.StoreOptions{Prefix: name, CleanUpInterval: time.Minute}), limiter.Rate{Period: period, Limit: n})
	return limit.NewMiddleware(l,
		limit.WithKeyGetter(func(c *gin.Context) string { address, _ := Whereabouts(c.ClientIP()); return address }),
		limit.WithLimitReachedHandler(func(c *gin.Context) {
			problem.Write(c, problem.New(http.StatusTooManyRequests, "too-many", "That is too many at once. Wait a minute and try again."))
		}))
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
