package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"
)

// Run is a run of a piece's split: the time from one change of its variants,
// their shares, or the share held back to the next. Visitors belong to the run
// in which they first saw the piece, so that a run's variants are compared over
// the time that all of them ran.
type Run struct {
	Piece string    `db:"piece_id"`
	Run   int       `db:"run"`
	Began time.Time `db:"began_at"`
	Split RunSplit  `db:"split"`
}

// RunSplit is how a run splits visitors.
type RunSplit struct {
	Held     int          `json:"held"` // of a hundred
	Follow   bool         `json:"follow,omitempty"`
	Variants []RunVariant `json:"variants"`
	// Seed is what the shares were drawn with that follow the winner.
	Seed uint64 `json:"seed,omitempty"`
}

// RunVariant is a variant in a run, with how and when it shows where that is not
// as the piece does.
type RunVariant struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Share int    `json:"share"`
	Ways  string `json:"ways,omitempty"` // the same for the same
}

// splitOf reads how a piece's document splits visitors.
func splitOf(document []byte) (split RunSplit, err error) {
	var doc struct {
		Format string `json:"format"`
		Phone  string `json:"phone_format"`
		Split  struct {
			Held     int  `json:"held"`
			Follow   bool `json:"follow"`
			Variants []struct {
				RunVariant
				Format  string `json:"format"`
				Phone   string `json:"phone_format"`
				Moments any    `json:"moments"`
			} `json:"variants"`
		} `json:"split"`
	}
	if err := json.Unmarshal(document, &doc); err != nil {
		return split, err
	}
	split = RunSplit{Held: doc.Split.Held, Follow: doc.Split.Follow}
	for _, v := range doc.Split.Variants {
		sits := v.Format != "" && (v.Format != doc.Format || v.Phone != doc.Phone)
		if v.Ways = ""; sits || v.Moments != nil {
			moments, err := json.Marshal(v.Moments)
			if err != nil {
				return split, err
			}
			v.Ways = fmt.Sprint(v.Format, " ", v.Phone, " ", string(moments))
		}
		split.Variants = append(split.Variants, v.RunVariant)
	}
	return split, nil
}

// Value implements driver.Valuer.
func (s RunSplit) Value() (driver.Value, error) {
	return asJSON(s)
}

// Scan implements sql.Scanner.
func (s *RunSplit) Scan(from any) error {
	return fromJSON(from, s)
}

// same reports whether visitors are split alike, by whatever names.
func (s RunSplit) same(other RunSplit) bool {
	if s.Held != other.Held || s.Follow != other.Follow || !s.sameVariants(other) {
		return false
	}
	for i, v := range s.Variants {
		if v.Share != other.Variants[i].Share || v.Ways != other.Variants[i].Ways {
			return false
		}
	}
	return true
}

// sameVariants reports whether two splits have the same variants that show alike, in order.
func (s RunSplit) sameVariants(other RunSplit) bool {
	return slices.EqualFunc(s.Variants, other.Variants, func(a, b RunVariant) bool { return a.ID == b.ID && a.Ways == b.Ways })
}

// beginRun begins a run of a piece that goes live, unless it splits visitors as
// it did before.
func beginRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string) error {
	live, err := liveOf(ctx, tx, site, piece)
	if err != nil {
		return err
	}
	split, err := splitOf(live)
	if err != nil {
		return err
	}
	last, err := lastRun(ctx, tx, site, piece)
	if err != nil {
		return err
	}
	// Shares that follow the winner go on where they are, whatever else was changed.
	if last != nil && split.Follow && last.Split.Follow && last.Split.Held == split.Held && last.Split.sameVariants(split) {
		shares := map[string]int{}
		for _, v := range last.Split.Variants {
			shares[v.ID] = v.Share
		}
		if live, err = withShares(live, shares); err == nil {
			_, err = tx.ExecContext(ctx, `update pieces set live = $3 where site_id = $1 and id = $2`, site, piece, live)
		}
		return err
	}
	return addRun(ctx, tx, site, piece, time.Time{}, split)
}

// lastRun is the latest run of a piece; nil: it has none.
func lastRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string) (*Run, error) {
	var last []Run
	err := tx.SelectContext(ctx, &last, `
		select piece_id, run, began_at, split from split_runs where site_id = $1 and piece_id = $2 order by run desc limit 1`, site, piece)
	if err != nil || len(last) == 0 {
		return nil, err
	}
	return &last[0], nil
}

// withShares gives a piece's document with other shares, by the ids of variants.
func withShares(document []byte, shares map[string]int) ([]byte, error) {
	var doc map[string]any
	if err := json.Unmarshal(document, &doc); err != nil {
		return nil, err
	}
	split, _ := doc["split"].(map[string]any)
	variants, _ := split["variants"].([]any)
	for _, v := range variants {
		if v, ok := v.(map[string]any); ok {
			id, _ := v["id"].(string)
			if share, ok := shares[id]; ok {
				v["share"] = share
			}
		}
	}
	return json.Marshal(doc)
}

// addRun begins a run at a time; zero: now.
func addRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string, at time.Time, split RunSplit) error {
	last, err := lastRun(ctx, tx, site, piece)
	if err != nil {
		return err
	}
	number := 1
	if last != nil {
		if last.Split.same(split) {
			return nil
		}
		number = last.Run + 1
	}
	_, err = tx.ExecContext(ctx, `
		insert into split_runs (site_id, piece_id, run, began_at, split) values ($1, $2, $3, coalesce($4, now()), $5)`, site, piece, number, nullTime(at), split)
	return err
}

func nullTime(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
}

// Runs lists the runs of a site's pieces, or of one where piece is not empty, in order.
func (s *Store) Runs(ctx context.Context, site int64, piece string) (runs []Run, err error) {
	err = s.db.SelectContext(ctx, &runs, `
		select piece_id, run, began_at, split from split_runs where site_id = $1 and ($2 = '' or piece_id = $2) order by piece_id, run`, site, piece)
	return runs, err
}

// Followed is a live piece whose shares follow the winner.
type Followed struct {
	Site  int64  `db:"site_id"`
	Piece string `db:"id"`
	Live  []byte `db:"live"`
}

// FollowDue lists live pieces whose shares follow the winner and have not been
// drawn anew since a time.
func (s *Store) FollowDue(ctx context.Context, since time.Time) (due []Followed, err error) {
	err = s.db.SelectContext(ctx, &due, `
		select p.site_id, p.id, p.live from pieces p where p.state = 'live' and p.live -> 'split' ->> 'follow' = 'true'
			and not exists (select from split_runs r where r.site_id = p.site_id and r.piece_id = p.id and r.began_at > $1)
		order by p.site_id, p.id limit 1000`, since)
	return due, err
}

// ChangeShares gives a live piece's variants other shares, by their ids, and
// begins a run with them, unless another server did since a time. The draft stays.
func (s *Store) ChangeShares(ctx context.Context, site int64, piece string, since time.Time, shares map[string]int, seed uint64) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var live []byte
		if err := found(tx.GetContext(ctx, &live, `select live from pieces where site_id = $1 and id = $2 and state = 'live' for update`, site, piece)); err != nil {
			return err
		}
		var drawn bool
		if err := tx.GetContext(ctx, &drawn, `select exists (select from split_runs where site_id = $1 and piece_id = $2 and began_at > $3)`, site, piece, since); err != nil || drawn {
			return err
		}
		changed, err := withShares(live, shares)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `update pieces set live = $3 where site_id = $1 and id = $2`, site, piece, changed); err != nil {
			return err
		}
		split, err := splitOf(changed)
		if err != nil {
			return err
		}
		split.Seed = seed
		if err := addRun(ctx, tx, site, piece, time.Time{}, split); err != nil {
			return err
		}
		return newSnapshot(ctx, tx, site)
	})
}

// LatestRuns lists the latest runs of each of a site's pieces, at most a few
// each, in order: what events on their way may still belong to.
func (s *Store) LatestRuns(ctx context.Context, site int64) (runs []Run, err error) {
	const each = 10
	err = s.db.SelectContext(ctx, &runs, `
		select piece_id, run, began_at, split from (
			select *, row_number() over (partition by piece_id order by run desc) as nth from split_runs where site_id = $1
		) all_of_it where nth <= $2 order by piece_id, run`, site, each)
	return runs, err
}

// SetPaused says since when a paused piece is, for a made-up history.
func (s *Store) SetPaused(ctx context.Context, site int64, piece string, at time.Time) error {
	_, err := s.db.ExecContext(ctx, `update pieces set paused_at = $3 where site_id = $1 and id = $2 and state = 'paused'`, site, piece, at)
	return err
}

// SetRuns puts other runs in place of a piece's, for a made-up history.
func (s *Store) SetRuns(ctx context.Context, site int64, piece string, runs []Run) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `delete from split_runs where site_id = $1 and piece_id = $2`, site, piece); err != nil {
			return err
		}
		for _, r := range runs {
			if err := addRun(ctx, tx, site, piece, r.Began, r.Split); err != nil {
				return err
			}
		}
		return nil
	})
}
