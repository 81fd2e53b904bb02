// Package account answers signing in and out, and who is signed in.
package account

import (
	"context"
	"time"

	"github.com/alexedwards/scs/v2"
	limiter "github.com/ulule/limiter/v3"

	"gobbet/internal/route"
	"gobbet/internal/store/accounts"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/site"
)

// Stores is what this place needs of the store.
type Stores struct {
	Accounts interface {
		Get(ctx context.Context, id int64) (accounts.Account, error)
		KeepBrowser(ctx context.Context, account int64, token string) error
		KnownBrowser(ctx context.Context, email, token string) (bool, error)
		SignIn(ctx context.Context, email, password string) (accounts.Account, error)
	}
	Quotas interface{ Tries() limiter.Store }
	Sites  interface {
		Of(ctx context.Context, account int64) ([]sites.Site, error)
	}
}

// Place answers what is asked of it. Its methods that are named in Routes are handlers.
type Place struct {
	site     *site.Place
	store    Stores
	sessions *scs.SessionManager
	// Wrong passwords for an account: from a browser that has signed in to it,
	// from one address, and from everywhere.
	own, near, all *limiter.Limiter
}

// New makes it over the store, with what all places share.
func New(site *site.Place, s Stores, sessions *scs.SessionManager) *Place {
	return &Place{site: site, store: s, sessions: sessions, own: tries(s, "own", 10), near: tries(s, "near", 10), all: tries(s, "all", 200)}
}

// Routes is what is answered about signing in.
func (s *Place) Routes() []route.Route {
	return []route.Route{
		route.Post("/session", s.signIn).For(route.Anyone).Takes(16<<10).At(30, time.Minute),
		route.Delete("/session", s.signOut).For(route.Anyone),
		route.Get("/me", s.me),
	}
}
