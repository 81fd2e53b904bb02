package visitor

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"strings"
	"time"

	"gobbet/internal/store/sites"
)

// A token is JSON that the site's secret has signed, for one purpose.

func sealed(site sites.Site, purpose string, what any) string {
	text, _ := json.Marshal(what)
	said := base64.RawURLEncoding.EncodeToString(text)
	return said + "." + seal(site, purpose, said)
}

func seal(site sites.Site, purpose, said string) string {
	h := hmac.New(sha256.New, site.Secret)
	h.Write([]byte(purpose + "\x00" + said))
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil))
}

const maxToken = 2000

// unsealed reads what was sealed for the same site and purpose.
func unsealed(site sites.Site, purpose, token string, into any) bool {
	said, signed, _ := strings.Cut(token, ".")
	if len(token) > maxToken || !hmac.Equal([]byte(signed), []byte(seal(site, purpose, said))) {
		return false
	}
	text, err := base64.RawURLEncoding.DecodeString(said)
	return err == nil && json.Unmarshal(text, into) == nil
}

// pass is what a signed link to the inspector says.
type pass struct {
	Piece string `json:"p"`
	Until int64  `json:"u"` // seconds since 1970
}

// Pass signs a link that opens the site with the inspector on, for a piece and
// until a time.
func Pass(site sites.Site, piece string, until time.Time) string {
	return sealed(site, "inspect", pass{piece, until.Unix()})
}

func readPass(site sites.Site, token string, now time.Time) (p pass, ok bool) {
	ok = unsealed(site, "inspect", token, &p)
	return p, ok && now.Unix() < p.Until
}

// ticket is what the token of a walk says: whose it is, through what, and until when.
type ticket struct {
	WalkRef
	Until int64 `json:"u"` // seconds since 1970
}

// A walk can be gone on with for so long.
const walkLasts = 60 * 24 * time.Hour

func ticketFor(site sites.Site, w WalkRef, now time.Time) string {
	return sealed(site, "walk", ticket{w, now.Add(walkLasts).Unix()})
}

// renews is how old a walk's token may grow before another takes its place.
const renews = 24 * time.Hour

func (t ticket) old(now time.Time) bool { return now.Add(walkLasts-renews).Unix() > t.Until }

func readTicket(site sites.Site, token string, now time.Time) (t ticket, ok bool) {
	ok = unsealed(site, "walk", token, &t)
	return t, ok && now.Unix() < t.Until
}
