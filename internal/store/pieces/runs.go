package pieces

import (
	"context"
	"database/sql/driver"
	"encoding/json"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/launch"
	"gobbet/internal/store/pg"
)

// runRow is a run as its row has it.
type runRow struct {
	Piece string
	Run   int
	Began time.Time
	Split runSplit
}

const runColumns = `piece_id as piece, run, began_at as began, split`

func runsOf(rows []runRow) []launch.Run {
	runs := make([]launch.Run, len(rows))
	for i, row := range rows {
		runs[i] = launch.Run{Piece: row.Piece, Run: row.Run, Began: row.Began, Split: row.Split.Split}
	}
	return runs
}

// runSplit is how a run splits visitors, as its row has it.
type runSplit struct{ launch.Split }

// Value implements driver.Valuer.
func (s runSplit) Value() (driver.Value, error) {
	return pg.AsJSON(s)
}

// Scan implements sql.Scanner.
func (s *runSplit) Scan(from any) error {
	return pg.FromJSON(from, s)
}

// lastRun is the latest run of a piece; nil: it has none.
func lastRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string) (*launch.Run, error) {
	var last []runRow
	err := tx.SelectContext(ctx, &last, `
		select `+runColumns+` from split_runs where site_id = $1 and piece_id = $2 order by run desc limit 1`, site, piece)
	if err != nil || len(last) == 0 {
		return nil, err
	}
	return &runsOf(last)[0], nil
}

// addRun begins a run at a time; zero: now.
func addRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string, at time.Time, split launch.Split) error {
	last, err := lastRun(ctx, tx, site, piece)
	if err != nil {
		return err
	}
	number := 1
	if last != nil {
		if last.Split.Same(split) {
			return nil
		}
		number = last.Run + 1
	}
	_, err = tx.ExecContext(ctx, `
		insert into split_runs (site_id, piece_id, run, began_at, split) values ($1, $2, $3, coalesce($4, now()), $5)`, site, piece, number, nullTime(at), runSplit{split})
	return err
}

func nullTime(at time.Time) *time.Time {
	if at.IsZero() {
		return nil
	}
	return &at
}

// Runs lists the runs of a site's pieces, or of one where piece is not empty, in order.
func (s *Store) Runs(ctx context.Context, site int64, piece string) (runs []launch.Run, err error) {
	var rows []runRow
	err = s.db.SelectContext(ctx, &rows, `
		select `+runColumns+` from split_runs where site_id = $1 and ($2 = '' or piece_id = $2) order by piece_id, run`, site, piece)
	return runsOf(rows), err
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
			and coalesce(p.shares_at, '-infinity') <= $1
			and not exists (select from split_runs r where r.site_id = p.site_id and r.piece_id = p.id and r.began_at > $1)
		order by p.site_id, p.id limit 1000`, since)
	return due, err
}

// LatestRuns lists the latest runs of each of a site's pieces, at most a few
// each, in order: what events on their way may still belong to.
func (s *Store) LatestRuns(ctx context.Context, site int64) (runs []launch.Run, err error) {
	const each = 10
	var rows []runRow
	err = s.db.SelectContext(ctx, &rows, `
		select `+runColumns+` from (
			select *, row_number() over (partition by piece_id order by run desc) as nth from split_runs where site_id = $1
		) all_of_it where nth <= $2 order by piece_id, run`, site, each)
	return runsOf(rows), err
}

// SetPaused says since when a paused piece is, for a made-up history.
func (s *Store) SetPaused(ctx context.Context, site int64, piece string, at time.Time) error {
	_, err := s.db.ExecContext(ctx, `update pieces set paused_at = $3 where site_id = $1 and id = $2 and state = 'paused'`, site, piece, at)
	return err
}

// SetRuns puts other runs in place of a piece's, for a made-up history.
func (s *Store) SetRuns(ctx context.Context, site int64, piece string, runs []launch.Run) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
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

// addressIn is the address of a document's own page; empty: it has none.
func addressIn(document []byte) string {
	var doc struct {
		Page struct {
			Address string `json:"address"`
		} `json:"page"`
	}
	_ = json.Unmarshal(document, &doc)
	return doc.Page.Address
}
