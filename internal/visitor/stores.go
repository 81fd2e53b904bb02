package visitor

import (
	"context"
	"time"

	"gobbet/core/launch"
	"gobbet/core/reach"
	"gobbet/core/tally"
	"gobbet/core/walk"
	"gobbet/internal/store"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/events"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/walks"
)

// Stores is what is needed of the store to answer visitors' pages.
type Stores struct {
	Codes interface {
		Take(ctx context.Context, site int64, t codes.Taker) (code string, err error)
	}
	Designs interface {
		Get(ctx context.Context, site int64, hash string) ([]byte, error)
		Keep(ctx context.Context, site int64, drawings map[string][]byte) error
	}
	Events interface {
		Add(ctx context.Context, site int64, zone *time.Location, events []tally.Event) error
		CountLeftOut(ctx context.Context, site int64, l events.LeftOut) error
	}
	Library interface {
		OpenFile(ctx context.Context, hash string) (library.File, *library.Blob, error)
		OpenPicture(ctx context.Context, hash string) (library.Picture, *library.Blob, error)
	}
	PageViews interface {
		Add(ctx context.Context, site int64, v pageviews.PageView) (isNew bool, err error)
		Measure(ctx context.Context, site int64, m pageviews.Measured) error
	}
	Pieces interface {
		LatestRuns(ctx context.Context, site int64) ([]launch.Run, error)
		List(ctx context.Context, site int64) ([]pieces.Piece, error)
		Live(ctx context.Context, site int64) ([]pieces.Live, error)
		LiveVariants(ctx context.Context, site int64) (map[string]map[string]bool, error)
		TotalShown(ctx context.Context, site int64, pieces []string) (map[string]int, error)
	}
	Reaches interface {
		Book(ctx context.Context, site int64) (reach.Book, error)
	}
	Sites interface {
		AddDataNames(ctx context.Context, site int64, names []string) (kept []string, err error)
		ByID(ctx context.Context, ids []int64) ([]sites.Site, error)
		CountRefusals(ctx context.Context, site int64, kind, example string, times int64) error
		DataNames(ctx context.Context, site int64) ([]string, error)
		SnapshotNumbers(ctx context.Context) ([]sites.SnapshotNumber, error)
	}
	Walks interface {
		Advance(ctx context.Context, site int64, zone *time.Location, who walks.Walker, take walks.Take) (lead bool, err error)
		RefuseGo(ctx context.Context, site int64, zone *time.Location, who walks.Walker, key, why string) error
		State(ctx context.Context, site int64, id, piece, visitor string) (walk.Before, error)
		Tally(ctx context.Context, site int64, piece, key string) (votes map[string]int, voters int, err error)
		WonCode(ctx context.Context, site int64, piece, key, visitor string) (string, error)
	}
	// Notices is the address of the database, which tells of launches as they happen.
	Notices string
}

// StoresOf takes them from all that is kept.
func StoresOf(s *store.Store) Stores {
	return Stores{
		Codes: s.Codes, Designs: s.Designs, Events: s.Events, Library: s.Library, PageViews: s.PageViews, Pieces: s.Pieces,
		Reaches: s.Reaches, Sites: s.Sites, Walks: s.Walks, Notices: s.URL(),
	}
}
