package split

import (
	"context"
	"log/slog"
	"time"

	"gobbet/core/piece"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
)

const followDaily = 24 * time.Hour

// FollowWinners moves shares to the variants that do better, once a day for each
// piece that follows the winner.
func (s *Place) FollowWinners(ctx context.Context) error {
	since := s.now().Add(-followDaily)
	due, err := s.store.Pieces.FollowDue(ctx, since)
	if err != nil {
		return err
	}
	for _, f := range due {
		sites, err := s.store.Sites.ByID(ctx, []int64{f.Site})
		if err != nil {
			return err
		}
		if len(sites) == 1 {
			if err := s.followPiece(ctx, sites[0], f, since); err != nil {
				// The others go on.
				slog.WarnContext(ctx, "shares that follow the winner stay as they are", "site", f.Site, "piece", f.Piece, "error", err)
			}
		}
	}
	return nil
}

func (s *Place) followPiece(ctx context.Context, site sites.Site, f pieces.Followed, since time.Time) error {
	book, err := s.store.Reaches.Book(ctx, site.ID)
	if err != nil {
		return err
	}
	p, err := piece.ParseWith(f.Live, book)
	if err != nil {
		return err
	}
	t, _, err := s.compared(ctx, site, f.Piece, p, nil)
	if err != nil || !t.Testing || t.Period.Ended != nil {
		return err
	}
	seed := uint64(s.now().Unix() / int64(followDaily/time.Second))
	return s.store.Pieces.ChangeShares(ctx, site.ID, f.Piece, since, t.Follow(seed), seed)
}
