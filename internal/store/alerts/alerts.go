// Package alerts keeps what is not as usual on a site, and reads what it is told by.
package alerts

import (
	"context"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/alert"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// quietWeeks is how many weeks tell what is usual at an hour of the week.
const quietWeeks = 4

// Quiet is what came lately, and has not for a while.
type Quiet struct {
	About string    `db:"about"` // the id of a goal, or the path of a page
	Times int       `db:"times"` // in the weeks that tell what is usual
	Last  time.Time `db:"last"`
	// Expected is how often it came in the same hours of those weeks as it has not
	// since. One that is younger than the weeks is expected less.
	Expected float64 `db:"expected"`
}

// PerDay is how often it came a day.
func (q Quiet) PerDay() float64 { return float64(q.Times) / (7 * quietWeeks) }

// QuietGoals tells how long each goal of a site has not been reached.
func (s *Store) QuietGoals(ctx context.Context, site int64, now time.Time) (quiet []Quiet, err error) {
	err = s.db.SelectContext(ctx, &quiet, `
		with lately as (
			select goal, sum(times) as times, max(hour) + interval '1 hour' as last from goal_hours
			where site_id = $1 and hour >= $2::timestamptz - make_interval(hours => 168 * $3::int) and times > 0 group by goal
		)
		select goal as about, times, last, (
			select coalesce(sum(h.times), 0)::float8 / $3::int from generate_series(1, $3::int) k, goal_hours h
			where h.site_id = $1 and h.goal = l.goal and h.hour >= l.last - make_interval(hours => 168 * k) and h.hour + interval '1 hour' <= $2::timestamptz - make_interval(hours => 168 * k)
		) as expected
		from lately l order by goal`, site, now, quietWeeks)
	return quiet, err
}

// QuietPages tells how long each page of which many views were recorded has not
// been heard from. What is expected is that of whole days, up to yesterday.
func (s *Store) QuietPages(ctx context.Context, site int64, today time.Time, many int) (quiet []Quiet, err error) {
	err = s.db.SelectContext(ctx, &quiet, `
		with lately as (
			select path, sum(views) as times, max(day) as day, max(last_at) as last from page_days
			where site_id = $1 and day >= $2::date - 7 * $3::int and path <> $4 group by path having sum(views) >= $5
		)
		select path as about, times, last, (
			select coalesce(sum(d.views), 0)::float8 / $3::int from generate_series(1, $3::int) k, page_days d
			where d.site_id = $1 and d.path = l.path and d.day > l.day - 7 * k and d.day < $2::date - 7 * k
		) as expected
		from lately l order by times desc limit 200`, site, today.Format(time.DateOnly), quietWeeks, pageviews.OtherPages, many)
	return quiet, err
}

// Kept is an alert and since when it is so.
type Kept struct {
	alert.Alert
	Began time.Time
	Ended *time.Time // nil: it is so still
}

const alertLock = 0x60BBE9

// Keep keeps what is not as usual on a site now: what is so for the first
// time begins, and what is so no more ends.
func (s *Store) Keep(ctx context.Context, site int64, now []alert.Alert) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `select pg_advisory_xact_lock($1::int, $2::int)`, alertLock, site); err != nil {
			return err
		}
		var rows pg.Columns
		for _, a := range now {
			rows.Add(string(a.Kind), a.Piece, a.About, a.Say)
		}
		args := append([]any{site}, rows.Lists(4)...)
		if _, err := tx.ExecContext(ctx, `
			update alerts a set ended_at = now() where site_id = $1 and ended_at is null
				and not exists (select from unnest($2::text[], $3::text[], $4::text[]) n (kind, piece_id, about) where n.kind = a.kind and n.piece_id = a.piece_id and n.about = a.about)`, args[:4]...); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `
			with still as (
				update alerts a set said = n.said from unnest($2::text[], $3::text[], $4::text[], $5::text[]) n (kind, piece_id, about, said)
				where a.site_id = $1 and a.ended_at is null and n.kind = a.kind and n.piece_id = a.piece_id and n.about = a.about
				returning a.kind, a.piece_id, a.about
			)
			insert into alerts (site_id, kind, piece_id, about, said)
			select distinct on (kind, piece_id, about) $1, kind, piece_id, about, said from unnest($2::text[], $3::text[], $4::text[], $5::text[]) n (kind, piece_id, about, said)
			where not exists (select from still s where s.kind = n.kind and s.piece_id = n.piece_id and s.about = n.about)`, args...)
		return err
	})
}

// List lists the alerts of a site that are so still or ended since a time, the
// latest first.
func (s *Store) List(ctx context.Context, site int64, since time.Time) (kept []Kept, err error) {
	var rows []struct {
		Kind  alert.Kind `db:"kind"`
		Piece string     `db:"piece_id"`
		About string     `db:"about"`
		Said  string     `db:"said"`
		Began time.Time  `db:"began_at"`
		Ended *time.Time `db:"ended_at"`
	}
	err = s.db.SelectContext(ctx, &rows, `
		select kind, piece_id, about, said, began_at, ended_at from alerts
		where site_id = $1 and (ended_at is null or ended_at >= $2) order by began_at desc, kind, piece_id, about limit 500`, site, since)
	for _, r := range rows {
		kept = append(kept, Kept{alert.Alert{Kind: r.Kind, Piece: r.Piece, About: r.About, Say: r.Said}, r.Began, r.Ended})
	}
	return kept, err
}
