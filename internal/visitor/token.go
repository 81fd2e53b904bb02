package visitor

import (
	"time"

	"gobbet/internal/store/sites"
	"gobbet/internal/token"
)

// ticket is what the token of a walk says: whose it is, through what, and until when.
type ticket struct {
	WalkRef
	Until int64 `json:"u"` // seconds since 1970
}

// A walk can be gone on with for so long.
const walkLasts = 60 * 24 * time.Hour

func ticketFor(site sites.Site, w WalkRef, now time.Time) string {
	return token.Sign(site.Secret, token.Walk, ticket{w, now.Add(walkLasts).Unix()})
}

// renews is how old a walk's token may grow before another takes its place.
const renews = 24 * time.Hour

func (t ticket) old(now time.Time) bool { return now.Add(walkLasts-renews).Unix() > t.Until }

func readTicket(site sites.Site, said string, now time.Time) (t ticket, ok bool) {
	ok = token.Read(site.Secret, token.Walk, said, &t)
	return t, ok && now.Unix() < t.Until
}
