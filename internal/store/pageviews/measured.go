package pageviews

import (
	"context"
	"database/sql"
	"errors"
	"math"
	"math/rand/v2"
	"time"

	"github.com/jmoiron/sqlx"
)

// Measured is what a recorded page view says beside how it was stayed on.
type Measured struct {
	Visit string
	At    time.Time
	Day   time.Time // of At, in the site's zone
	Path  string
	// Interrupted is how often the visit was so far.
	Interrupted int
	// New says that the page view was not recorded before.
	New bool
	// Cost is what the script cost the page; nil: it was not measured.
	Cost *PageCost
}

// PageCost is what the script cost one page view.
type PageCost struct {
	Shown  bool    // a piece was shown on it
	Bytes  int     // of scripts and designs that were fetched
	BusyMS int     // that the script held the page for, in frames longer than 50 ms
	Shift  float64 // of the layout, in all
	// PaintMS is when the largest paint was, after the page began; 0: it is not known.
	PaintMS int
}

const (
	measuredShards  = 16
	mostInterrupted = 3 // three or more are told together
	mostPages       = 500
)

// OtherPages stands for pages past those that are counted by themselves.
const OtherPages = "…"

// Measure adds to the totals of visits and pages.
func (s *Store) Measure(ctx context.Context, site int64, m Measured) error {
	shard := rand.IntN(measuredShards)
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := interrupted(ctx, tx, site, shard, m); err != nil || !m.New {
			return err
		}
		if _, err := tx.ExecContext(ctx, `
			insert into page_days as d (site_id, day, path, shard, views, last_at)
			select $1, $2, case when exists (select from page_days where site_id = $1 and day = $2 and path = $3)
				or (select count(distinct path) from page_days where site_id = $1 and day = $2) < $6 then $3 else $7 end, $4, 1, $5
			on conflict (site_id, day, path, shard) do update set views = d.views + 1, last_at = greatest(d.last_at, excluded.last_at)`,
			site, m.Day, m.Path, shard, m.At, mostPages, OtherPages); err != nil || m.Cost == nil {
			return err
		}
		painted, paint := 0, 0.0
		if m.Cost.PaintMS > 0 {
			painted, paint = 1, math.Log(float64(m.Cost.PaintMS))
		}
		_, err := tx.ExecContext(ctx, `
			insert into page_costs as c (site_id, day, shown, shard, views, bytes, busy_ms, shift, painted, paint, squares) values ($1, $2, $3, $4, 1, $5, $6, $7, $8, $9, $10)
			on conflict (site_id, day, shown, shard) do update set views = c.views + 1, bytes = c.bytes + excluded.bytes, busy_ms = c.busy_ms + excluded.busy_ms,
				shift = c.shift + excluded.shift, painted = c.painted + excluded.painted, paint = c.paint + excluded.paint, squares = c.squares + excluded.squares`,
			site, m.Day, m.Cost.Shown, shard, m.Cost.Bytes, m.Cost.BusyMS, m.Cost.Shift, painted, paint, paint*paint)
		return err
	})
}

// interrupted notes how often a visit was interrupted, and moves it from one
// count to the next.
func interrupted(ctx context.Context, tx *sqlx.Tx, site int64, shard int, m Measured) error {
	n := min(m.Interrupted, mostInterrupted)
	var before int
	var day time.Time
	result, err := tx.ExecContext(ctx, `insert into visit_interruptions (site_id, visit, day, interrupted) values ($1, $2, $3, $4) on conflict do nothing`, site, m.Visit, m.Day, n)
	if err != nil {
		return err
	}
	if added, err := result.RowsAffected(); err != nil {
		return err
	} else if added > 0 {
		return addVisits(ctx, tx, site, shard, m.Day, n, 1)
	}
	err = tx.QueryRowContext(ctx, `select interrupted, day from visit_interruptions where site_id = $1 and visit = $2 for update`, site, m.Visit).Scan(&before, &day)
	if errors.Is(err, sql.ErrNoRows) || err == nil && n <= before {
		return nil
	}
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `update visit_interruptions set interrupted = $3 where site_id = $1 and visit = $2`, site, m.Visit, n); err != nil {
		return err
	}
	if err := addVisits(ctx, tx, site, shard, day, before, -1); err != nil {
		return err
	}
	return addVisits(ctx, tx, site, shard, day, n, 1)
}

func addVisits(ctx context.Context, tx *sqlx.Tx, site int64, shard int, day time.Time, interrupted, visits int) error {
	_, err := tx.ExecContext(ctx, `
		insert into visit_days as v (site_id, day, interrupted, shard, visits) values ($1, $2, $3, $4, $5)
		on conflict (site_id, day, interrupted, shard) do update set visits = v.visits + excluded.visits`, site, day, interrupted, shard, visits)
	return err
}

// MeasuredTotals are totals of many recorded page views at once.
type MeasuredTotals struct {
	Visits map[VisitDay]int
	Pages  map[PageDay]PageSum
	Costs  map[CostDay]CostSum
}

// VisitDay says which visits are counted: of a day, interrupted so often.
type VisitDay struct {
	Day         time.Time
	Interrupted int
}

// PageDay says which page's views are counted.
type PageDay struct {
	Day  time.Time
	Path string
}

// CostDay says which page views' costs are summed up.
type CostDay struct {
	Day   time.Time
	Shown bool
}

// AddMeasured adds totals, for a made-up history.
func (s *Store) AddMeasured(ctx context.Context, site int64, t MeasuredTotals) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		for k, n := range t.Visits {
			if err := addVisits(ctx, tx, site, 0, k.Day, min(k.Interrupted, mostInterrupted), n); err != nil {
				return err
			}
		}
		for k, p := range t.Pages {
			if _, err := tx.ExecContext(ctx, `insert into page_days (site_id, day, path, shard, views, last_at) values ($1, $2, $3, 0, $4, $5)`, site, k.Day, k.Path, p.Views, p.LastAt); err != nil {
				return err
			}
		}
		for k, c := range t.Costs {
			if _, err := tx.ExecContext(ctx, `
				insert into page_costs (site_id, day, shown, shard, views, bytes, busy_ms, shift, painted, paint, squares) values ($1, $2, $3, 0, $4, $5, $6, $7, $8, $9, $10)`,
				site, k.Day, k.Shown, c.Views, c.Bytes, c.BusyMS, c.Shift, c.Painted, c.Paint, c.Squares); err != nil {
				return err
			}
		}
		return nil
	})
}

// Interruptions is how many visits of some days were interrupted how often; the
// last are three times or more.
func (s *Store) Interruptions(ctx context.Context, site int64, from, to time.Time) (visits []int, err error) {
	visits = make([]int, mostInterrupted+1)
	var rows []struct {
		Interrupted int `db:"interrupted"`
		Visits      int `db:"visits"`
	}
	err = s.db.SelectContext(ctx, &rows, `
		select interrupted, sum(visits) as visits from visit_days where site_id = $1 and day between $2 and $3 group by interrupted`, site, from, to)
	for _, row := range rows {
		visits[row.Interrupted] = row.Visits
	}
	return visits, err
}

// CostSum is what the script cost page views, summed up.
type CostSum struct {
	Shown   bool    `db:"shown"`
	Views   int     `db:"views"`
	Bytes   int64   `db:"bytes"`
	BusyMS  int64   `db:"busy_ms"`
	Shift   float64 `db:"shift"`
	Painted int     `db:"painted"`
	Paint   float64 `db:"paint"`   // of the logarithm of ms
	Squares float64 `db:"squares"` // of the same
}

// Costs gives what the script cost in some days, with a piece shown and without.
func (s *Store) Costs(ctx context.Context, site int64, from, to time.Time) (sums []CostSum, err error) {
	err = s.db.SelectContext(ctx, &sums, `
		select shown, sum(views) as views, sum(bytes) as bytes, sum(busy_ms) as busy_ms, sum(shift) as shift, sum(painted) as painted, sum(paint) as paint, sum(squares) as squares
		from page_costs where site_id = $1 and day between $2 and $3 group by shown order by shown`, site, from, to)
	return sums, err
}

// PageSum is a page's recorded views.
type PageSum struct {
	Views  int
	LastAt time.Time
}
