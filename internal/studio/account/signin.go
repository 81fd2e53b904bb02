package account

import (
	"crypto/rand"
	"errors"
	"net/http"
	"strings"
	"time"

	limiter "github.com/ulule/limiter/v3"

	"gobbet/core/fault"
	"gobbet/core/text"
	"gobbet/internal/limits"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/store/accounts"
	"gobbet/internal/uploads"
)

// tries counts wrong passwords, those of each kind (what) for themselves, for all
// processes together.
func tries(s Stores, what string, n int64) *limiter.Limiter {
	return limiter.New(s.Quotas.Tries(), limiter.Rate{Formatted: what, Period: 15 * time.Minute, Limit: n})
}

const (
	browserCookie = "gobbet_browser"
	browserKept   = 90 * 24 * time.Hour
)

var (
	wrongSignIn = problem.New(http.StatusUnauthorized, "wrong-sign-in", "That address and password do not go together.")
	manyTries   = problem.New(http.StatusTooManyRequests, "too-many", "Too many tries for this account from here. Wait a quarter of an hour.")
)

// signIn slows down who guesses, and not who owns: tries are counted by where
// they come from, and a browser that has signed in to the account before has a
// count of its own, which nobody else can use up.
func (s *Place) signIn(c *route.Call, req SignInRequest) (answer Me, err error) {
	email := text.Keepable(strings.ToLower(strings.TrimSpace(req.Email)), 200)
	counts, err := s.counts(c, email)
	if err != nil {
		return answer, err
	}
	for _, n := range counts {
		is, err := n.limiter.Peek(c, n.key)
		if err != nil {
			return answer, err
		}
		if is.Remaining <= 0 {
			return answer, manyTries
		}
	}
	defer uploads.Lighten()
	account, err := s.store.Accounts.SignIn(c, email, text.Keepable(req.Password, 1000))
	if errors.Is(err, fault.ErrNotFound) {
		for _, n := range counts {
			if _, err := n.limiter.Get(c, n.key); err != nil {
				return answer, err
			}
		}
		err = wrongSignIn
	}
	if err == nil {
		err = s.sessions.RenewToken(c)
	}
	if err == nil {
		err = s.keepBrowser(c, account)
	}
	if err != nil {
		return answer, err
	}
	s.sessions.Put(c, "account", account.ID)
	return s.sayMe(c, account)
}

type tryCount struct {
	limiter *limiter.Limiter
	key     string
}

// counts are what a wrong password from this browser is counted by.
func (s *Place) counts(c *route.Call, email string) ([]tryCount, error) {
	if token := browserToken(c); token != "" {
		known, err := s.store.Accounts.KnownBrowser(c, email, token)
		if err != nil {
			return nil, err
		}
		if known {
			return []tryCount{{s.own, email + "\x00" + token}}, nil
		}
	}
	address, _ := limits.Whereabouts(c.Address)
	return []tryCount{{s.near, email + "\x00" + address}, {s.all, email}}, nil
}

// browserToken is what tells a browser that has signed in before from others;
// empty where it has not.
func browserToken(c *route.Call) string {
	cookie, err := c.Request.Cookie(browserCookie)
	if err != nil {
		return ""
	}
	return cookie.Value
}

// keepBrowser remembers the browser as one that the account has signed in from.
func (s *Place) keepBrowser(c *route.Call, account accounts.Account) error {
	token := browserToken(c)
	if len(token) < 20 || len(token) > 64 {
		token = rand.Text()
	}
	http.SetCookie(c.Writer, &http.Cookie{
		Name: browserCookie, Value: token, Path: "/api/session", MaxAge: int(browserKept / time.Second),
		HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.sessions.Cookie.Secure,
	})
	return s.store.Accounts.KeepBrowser(c, account.ID, token)
}
