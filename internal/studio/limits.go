package studio

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"io"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"gobbet/internal/limits"

	"gobbet/core/fault"

	"gobbet/internal/store/accounts"

	"github.com/gin-gonic/gin"
	limiter "github.com/ulule/limiter/v3"

	"gobbet/core/text"
	"gobbet/internal/problem"
	"gobbet/internal/store"
)

const (
	// How long a request may take once all of it is here.
	patience = 10 * time.Second
	// An upload may take this long, and longer the larger it may be.
	uploadPatience = 30 * time.Second
	slowestUpload  = 100 << 10 // bytes a second

	uploadsAtOnce = 192 << 20 // bytes in memory
	pixelsAtOnce  = maxPixels // decoded, at four bytes each
	pixelPatience = 25 * time.Second
)

const baseKey = "base"

// patience bounds how long a request may take.
func (s *Server) patience(c *gin.Context) {
	c.Header("Cache-Control", "no-store")
	c.Set(baseKey, c.Request.Context())
	s.begin(c)
	c.Next()
}

// begin gives what is still to be done its time.
func (s *Server) begin(c *gin.Context) {
	base := c.MustGet(baseKey).(context.Context)
	ctx, cancel := context.WithTimeout(base, patience)
	context.AfterFunc(base, cancel) // the request's own end lets go of it
	c.Request = c.Request.WithContext(ctx)
}

// reads takes in a body of at most so many bytes before the request's time
// begins: a slow upload is no fault of the database. What all uploads take in
// memory together is bounded.
func (s *Server) reads(most int64) gin.HandlerFunc {
	return func(c *gin.Context) {
		takes := most
		if n := c.Request.ContentLength; n >= 0 && n < most {
			takes = n
		}
		waiting, cancel := context.WithTimeout(c.Request.Context(), patience/2)
		defer cancel()
		if s.uploads.Acquire(waiting, takes) != nil {
			problem.Write(c, fault.ErrBusy)
			return
		}
		defer s.uploads.Release(takes)
		allowed := uploadPatience + time.Duration(takes/slowestUpload)*time.Second
		response := http.NewResponseController(c.Writer)
		response.SetReadDeadline(s.now().Add(allowed))
		response.SetWriteDeadline(s.now().Add(allowed + time.Minute))
		raw, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, most))
		if err = problem.Upload(err); err != nil {
			problem.Write(c, err)
			return
		}
		c.Request.Body = io.NopCloser(bytes.NewReader(raw))
		s.begin(c)
		c.Next()
	}
}

// lighten gives back to the system, a moment later, what hashing and decoding
// took: they take much at once, and nothing for long.
func (s *Server) lighten() {
	if !s.lightens.CompareAndSwap(false, true) {
		return
	}
	time.AfterFunc(lightenAfter, func() {
		s.lightens.Store(false)
		debug.FreeOSMemory()
	})
}

const lightenAfter = 2 * time.Second

// tries counts wrong passwords, those of each kind (what) for themselves, for all
// processes together.
func tries(s *store.Store, what string, n int64) *limiter.Limiter {
	return limiter.New(s.Accounts.Tries(), limiter.Rate{Formatted: what, Period: 15 * time.Minute, Limit: n})
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
func (s *Server) signIn(c *gin.Context) error {
	var req SignInRequest
	if err := body(c, &req); err != nil {
		return err
	}
	email := text.Keepable(strings.ToLower(strings.TrimSpace(req.Email)), 200)
	counts, err := s.counts(c, email)
	if err != nil {
		return err
	}
	for _, n := range counts {
		is, err := n.limiter.Peek(c, n.key)
		if err != nil {
			return err
		}
		if is.Remaining <= 0 {
			return manyTries
		}
	}
	defer s.lighten()
	account, err := s.store.Accounts.SignIn(c, email, text.Keepable(req.Password, 1000))
	if errors.Is(err, fault.ErrNotFound) {
		for _, n := range counts {
			if _, err := n.limiter.Get(c, n.key); err != nil {
				return err
			}
		}
		err = wrongSignIn
	}
	if err == nil {
		err = s.sessions.RenewToken(c.Request.Context())
	}
	if err == nil {
		err = s.keepBrowser(c, account)
	}
	if err != nil {
		return err
	}
	s.sessions.Put(c.Request.Context(), "account", account.ID)
	return s.sayMe(c, account)
}

type tryCount struct {
	limiter *limiter.Limiter
	key     string
}

// counts are what a wrong password from this browser is counted by.
func (s *Server) counts(c *gin.Context, email string) ([]tryCount, error) {
	if token, err := c.Cookie(browserCookie); err == nil && token != "" {
		known, err := s.store.Accounts.KnownBrowser(c, email, token)
		if err != nil {
			return nil, err
		}
		if known {
			return []tryCount{{s.own, email + "\x00" + token}}, nil
		}
	}
	address, _ := limits.Whereabouts(c.ClientIP())
	return []tryCount{{s.near, email + "\x00" + address}, {s.all, email}}, nil
}

// keepBrowser remembers the browser as one that the account has signed in from.
func (s *Server) keepBrowser(c *gin.Context, account accounts.Account) error {
	token, err := c.Cookie(browserCookie)
	if err != nil || len(token) < 20 || len(token) > 64 {
		token = rand.Text()
	}
	http.SetCookie(c.Writer, &http.Cookie{
		Name: browserCookie, Value: token, Path: "/api/session", MaxAge: int(browserKept / time.Second),
		HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.sessions.Cookie.Secure,
	})
	return s.store.Accounts.KeepBrowser(c, account.ID, token)
}
