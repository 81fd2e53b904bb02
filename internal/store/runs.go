package store

import (
	"context"
	"database/sql/driver"
	"encoding/json"
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
}

// RunVariant is a variant in a run.
type RunVariant struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Share int    `json:"share"`
}

// Value implements driver.Valuer.
func (s RunSplit) Value() (driver.Value, error) {
	text, err := json.Marshal(s)
	return string(text), err
}

// Scan implements sql.Scanner.
func (s *RunSplit) Scan(from any) error {
	switch from := from.(type) {
	case string:
		return json.Unmarshal([]byte(from), s)
	case []byte:
		return json.Unmarshal(from, s)
	}
	return nil
}

// same reports whether visitors are split alike, by whatever names.
func (s RunSplit) same(other RunSplit) bool {
	if s.Held != other.Held || s.Follow != other.Follow || len(s.Variants) != len(other.Variants) {
		return false
	}
	for i, v := range s.Variants {
		if o := other.Variants[i]; v.ID != o.ID || v.Share != o.Share {
			return false
		}
	}
	return true
}

// beginRun begins a run of a piece that goes live, unless it splits visitors as
// it did before.
func beginRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string) error {
	var live []byte
	if err := tx.GetContext(ctx, &live, `select live from pieces where site_id = $1 and id = $2`, site, piece); err != nil {
		return err
	}
	var doc struct {
		Split RunSplit `json:"split"`
	}
	if err := json.Unmarshal(live, &doc); err != nil {
		return err
	}
	return addRun(ctx, tx, site, piece, time.Time{}, doc.Split)
}

// addRun begins a run at a time; zero: now.
func addRun(ctx context.Context, tx *sqlx.Tx, site int64, piece string, at time.Time, split RunSplit) error {
	var last []Run
	if err := tx.SelectContext(ctx, &last, `
		select piece_id, run, began_at, split from split_runs where site_id = $1 and piece_id = $2 order by run desc limit 1`, site, piece); err != nil {
		return err
	}
	number := 1
	if len(last) > 0 {
		if last[0].Split.same(split) {
			return nil
		}
		number = last[0].Run + 1
	}
	_, err := tx.ExecContext(ctx, `
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
