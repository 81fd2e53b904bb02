// Package token signs what a browser is to bring back. A token is JSON that a
// site's secret has signed, for one purpose: BASE64URL(JSON).BASE64URL(HMAC-SHA-256).
package token

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
)

// Purposes of tokens: one signed for one is none for another.
const (
	Inspect = "inspect"
	Walk    = "walk"
)

// Sign signs what is said, with a site's secret.
func Sign(secret []byte, purpose string, what any) string {
	text, _ := json.Marshal(what, jsontext.AllowInvalidUTF8(true))
	said := base64.RawURLEncoding.EncodeToString(text)
	return said + "." + signature(secret, purpose, said)
}

func signature(secret []byte, purpose, said string) string {
	h := hmac.New(sha256.New, secret)
	h.Write([]byte(purpose + "\x00" + said))
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil))
}

const longest = 2000

// Read reads what was signed with the same secret for the same purpose.
func Read(secret []byte, purpose, token string, into any) bool {
	said, signed, _ := strings.Cut(token, ".")
	if len(token) > longest || !hmac.Equal([]byte(signed), []byte(signature(secret, purpose, said))) {
		return false
	}
	text, err := base64.RawURLEncoding.DecodeString(said)
	return err == nil && json.Unmarshal(text, into) == nil
}

// Pass is what a signed link says that opens a page with the inspector on.
type Pass struct {
	Piece string `json:"p"`
	Until int64  `json:"u"` // seconds since 1970
}

// InspectPass signs one for a piece and until a time.
func InspectPass(secret []byte, piece string, until time.Time) string {
	return Sign(secret, Inspect, Pass{piece, until.Unix()})
}

// ReadPass reads one that still holds at now.
func ReadPass(secret []byte, token string, now time.Time) (p Pass, ok bool) {
	ok = Read(secret, Inspect, token, &p)
	return p, ok && now.Unix() < p.Until
}
