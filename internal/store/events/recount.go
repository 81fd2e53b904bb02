package events

import (
	"context"
	"database/sql"
	"fmt"
	"maps"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/tally"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/sites"
)

// Recount is what counting all raw events of a site anew came to.
type Recount struct {
	Events    int
	Sightings int
	Totals    int // how many were compared
	// Since is from when on raw events are there; totals of before stay as they are.
	Since *time.Time
	// Differ says which totals are not what the raw events come to; the first of them.
	Differ  []string
	Written bool
}

const mostDiffer = 20

// Recount counts all raw events of a site anew and compares every total with
// that, in one view of both: nobody waits for it. With write it puts right what
// differs; of that site, and of it alone, nothing is counted while it does.
func (s *Store) Recount(ctx context.Context, site int64, write bool) (r Recount, err error) {
	r, err = s.recount(ctx, site, false, `set transaction isolation level repeatable read, read only`)
	if err != nil || !write || len(r.Differ) == 0 {
		return r, err
	}
	return s.recount(ctx, site, true, fmt.Sprintf(`select pg_advisory_xact_lock(%d, %d)`, siteLocks, lockOf(site)))
}

// siteLocks are held, shared, by whoever counts what happens on a site, or says from
// when on raw events are there.
const siteLocks = 0x60BBE9

func lockOf(site int64) int32 { return int32(site & 0x7fffffff) }

func (s *Store) recount(ctx context.Context, site int64, write bool, first string) (r Recount, err error) {
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		// No month's table goes between what is said of raw events and their being read.
		for _, step := range []string{first, `lock table events in access share mode`} {
			if _, err := tx.ExecContext(ctx, step); err != nil {
				return err
			}
		}
		c := recounting{tx: tx, site: site}
		if err := c.begin(ctx); err != nil {
			return err
		}
		r.Since = c.since
		if err := c.countEvents(ctx, &r); err != nil {
			return err
		}
		if err := c.compare(ctx, &r); err != nil {
			return err
		}
		if !write || len(r.Differ) == 0 {
			return nil
		}
		r.Written = true
		return c.write(ctx)
	})
	return r, err
}

type recounting struct {
	tx     *sqlx.Tx
	site   int64
	zone   *time.Location
	since  *time.Time
	totals tally.Totals
	// before are sightings of before raw events are there.
	before    map[[2]string]tally.Sighting
	sightings []sighted
}

func (c *recounting) begin(ctx context.Context) error {
	var site sites.Site
	if err := pg.Found(c.tx.GetContext(ctx, &site, `select `+sites.SiteColumns+` from sites s where s.id = $1`, c.site)); err != nil {
		return err
	}
	c.zone = site.Location()
	var since sql.NullTime
	if err := c.tx.GetContext(ctx, &since, `select raw_since from sites where id = $1`, c.site); err != nil {
		return err
	}
	c.before = map[[2]string]tally.Sighting{}
	if !since.Valid {
		return nil
	}
	c.since = &since.Time
	var rows []tally.Sighting
	if err := c.tx.SelectContext(ctx, &rows, `select `+sightingColumns+` from seen s where s.site_id = $1 and s.first_at < $2`, c.site, since.Time); err != nil {
		return err
	}
	for _, row := range rows {
		c.before[[2]string{row.Visitor, row.Piece}] = plainTimes(row)
	}
	return nil
}

// countEvents goes through the raw events visitor by visitor.
func (c *recounting) countEvents(ctx context.Context, r *Recount) error {
	rows, err := c.tx.QueryxContext(ctx, `
		select id, at, kind, piece_id, variant, run, visitor, visit, page, channel, device, country, known, after_ms, goal, amount, within_days
		from events where site_id = $1 order by visitor, at, id`, c.site)
	if err != nil {
		return err
	}
	defer rows.Close()
	v := visitorCount{pieces: map[string]*tally.Sighting{}}
	for rows.Next() {
		var e tally.Event
		if err := rows.StructScan(&e); err != nil {
			return err
		}
		if e.Visitor != v.visitor {
			c.add(&v)
			v = visitorCount{visitor: e.Visitor, pieces: map[string]*tally.Sighting{}}
		}
		c.totals.Add(&e, c.zone)
		v.take(c, &e)
		r.Events++
	}
	c.add(&v)
	for key := range c.before {
		s := c.before[key]
		c.totals.Count(&s, nil, 1)
	}
	r.Sightings = len(c.sightings) + len(c.before)
	return rows.Err()
}

// visitorCount is what the events of one visitor come to, taken in order.
type visitorCount struct {
	visitor string
	goals   []tally.ReachedGoal
	pieces  map[string]*tally.Sighting
}

func (v *visitorCount) take(c *recounting, e *tally.Event) {
	if e.Kind == tally.Reached && len(v.goals) < tally.MostGoals {
		v.goals = append(v.goals, tally.ReachedGoal{ID: e.ID, At: e.At, Goal: e.Goal})
	}
	if _, is := c.before[[2]string{e.Visitor, e.Piece}]; is || !e.Exposes() {
		return
	}
	if v.pieces[e.Piece] == nil {
		v.pieces[e.Piece] = &tally.Sighting{}
	}
	v.pieces[e.Piece].Add(e, c.zone)
}

// add counts a visitor.
func (c *recounting) add(v *visitorCount) {
	for _, s := range v.pieces {
		c.totals.Count(s, v.goals, 1)
		c.sightings = append(c.sightings, sighted{sightingKey{c.site, s.Visitor, s.Piece}, *s})
	}
}

// from is the first day and hour whose totals raw events make up wholly.
func (c *recounting) from() time.Time {
	if c.since == nil {
		return time.Time{}
	}
	return tally.DayOf(c.since.Add(24*time.Hour), c.zone).Add(24 * time.Hour)
}

// compare holds every total that is kept against those counted.
func (c *recounting) compare(ctx context.Context, r *Recount) error {
	kept, err := c.kept(ctx)
	if err != nil {
		return err
	}
	c.totals.Trim()
	kept.Trim()
	from := c.from()
	differ := func(format string, args ...any) {
		if len(r.Differ) < mostDiffer {
			r.Differ = append(r.Differ, fmt.Sprintf(format, args...))
		}
	}
	for _, key := range union(kept.Days, c.totals.Days) {
		if key.Day.Before(from) {
			continue
		}
		r.Totals++
		is, should := or(kept.Days[key]), or(c.totals.Days[key])
		if is.Visitors != should.Visitors || is.Conversions != should.Conversions || is.Showings != should.Showings || is.Several != should.Several ||
			is.Amount != should.Amount || is.Squares.Cmp(&should.Squares) != 0 {
			differ("%s of piece %s, variant %q, run %d, goal %q, %s %q: kept %s, counted %s", key.Day.Format(time.DateOnly), key.Piece, key.Variant, key.Run, key.Goal, key.Cut, key.Value, dailyText(is), dailyText(should))
		}
	}
	for _, key := range union(kept.Hours, c.totals.Hours) {
		if key.Hour.Before(from) {
			continue
		}
		r.Totals++
		if is, should := or(kept.Hours[key]), or(c.totals.Hours[key]); *is != *should {
			differ("%s of piece %s, variant %q, run %d: kept %+v, counted %+v", key.Hour.Format(time.RFC3339), key.Piece, key.Variant, key.Run, *is, *should)
		}
	}
	for _, key := range union(kept.Goals, c.totals.Goals) {
		if key.Hour.Before(from) {
			continue
		}
		r.Totals++
		if is, should := or(kept.Goals[key]), or(c.totals.Goals[key]); *is != *should {
			differ("%s of goal %s: kept %+v, counted %+v", key.Hour.Format(time.RFC3339), key.Goal, *is, *should)
		}
	}
	return nil
}

func dailyText(d *tally.Daily) string {
	return fmt.Sprintf("%d visitors, %d conversions, %d showings, %d of several, worth %d (squares %s)", d.Visitors, d.Conversions, d.Showings, d.Several, d.Amount, d.Squares.String())
}

func or[V any](v *V) *V {
	if v == nil {
		return new(V)
	}
	return v
}

func union[K comparable, V any](a, b map[K]V) []K {
	keys := slices.Collect(maps.Keys(a))
	for k := range b {
		if _, both := a[k]; !both {
			keys = append(keys, k)
		}
	}
	return keys
}

// kept reads the totals as they are kept.
func (c *recounting) kept(ctx context.Context) (t tally.Totals, err error) {
	t.Days, t.Hours, t.Goals = map[tally.DayKey]*tally.Daily{}, map[tally.HourKey]*tally.Hourly{}, map[tally.GoalKey]*tally.GoalHour{}
	days, err := c.tx.QueryContext(ctx, `
		select piece_id, variant, run, goal, cut, value, day, sum(visitors), sum(conversions), sum(showings), sum(several), sum(amount), sum(squares)::text
		from day_totals where site_id = $1 group by 1, 2, 3, 4, 5, 6, 7`, c.site)
	if err != nil {
		return t, err
	}
	defer days.Close()
	for days.Next() {
		var k tally.DayKey
		d, squares := &tally.Daily{}, ""
		if err := days.Scan(&k.Piece, &k.Variant, &k.Run, &k.Goal, &k.Cut, &k.Value, &k.Day, &d.Visitors, &d.Conversions, &d.Showings, &d.Several, &d.Amount, &squares); err != nil {
			return t, err
		}
		if _, ok := d.Squares.SetString(squares, 10); !ok {
			return t, fmt.Errorf("squares of %q", squares)
		}
		k.Day = k.Day.UTC()
		t.Days[k] = d
	}
	if err := days.Err(); err != nil {
		return t, err
	}
	hours, err := c.tx.QueryContext(ctx, `
		select piece_id, variant, run, hour, sum(visitors), sum(converted), sum(showings), sum(closes), sum(quick), sum(lefts)
		from hour_totals where site_id = $1 group by 1, 2, 3, 4`, c.site)
	if err != nil {
		return t, err
	}
	defer hours.Close()
	for hours.Next() {
		var k tally.HourKey
		h := &tally.Hourly{}
		if err := hours.Scan(&k.Piece, &k.Variant, &k.Run, &k.Hour, &h.Visitors, &h.Converted, &h.Showings, &h.Closes, &h.Quick, &h.Lefts); err != nil {
			return t, err
		}
		k.Hour = k.Hour.UTC()
		t.Hours[k] = h
	}
	if err := hours.Err(); err != nil {
		return t, err
	}
	goals, err := c.tx.QueryContext(ctx, `select goal, hour, sum(times), sum(amount) from goal_hours where site_id = $1 group by 1, 2`, c.site)
	if err != nil {
		return t, err
	}
	defer goals.Close()
	for goals.Next() {
		var k tally.GoalKey
		g := &tally.GoalHour{}
		if err := goals.Scan(&k.Goal, &k.Hour, &g.Times, &g.Amount); err != nil {
			return t, err
		}
		k.Hour = k.Hour.UTC()
		t.Goals[k] = g
	}
	return t, goals.Err()
}

const (
	recountShard = 0
	recountRows  = 5000 // at a time
)

// write puts what was counted in place of what was kept.
func (c *recounting) write(ctx context.Context) error {
	from := c.from()
	for _, query := range []string{
		`delete from day_totals where site_id = $1 and day >= ($2::timestamptz at time zone 'UTC')::date`, `delete from hour_totals where site_id = $1 and hour >= $2`, `delete from goal_hours where site_id = $1 and hour >= $2`,
	} {
		if _, err := c.tx.ExecContext(ctx, query, c.site, from); err != nil {
			return err
		}
	}
	maps.DeleteFunc(c.totals.Days, func(k tally.DayKey, _ *tally.Daily) bool { return k.Day.Before(from) })
	maps.DeleteFunc(c.totals.Hours, func(k tally.HourKey, _ *tally.Hourly) bool { return k.Hour.Before(from) })
	maps.DeleteFunc(c.totals.Goals, func(k tally.GoalKey, _ *tally.GoalHour) bool { return k.Hour.Before(from) })
	for part := range parts(&c.totals) {
		if err := writeTotals(ctx, c.tx, c.site, recountShard, part); err != nil {
			return err
		}
	}
	if c.since != nil {
		if _, err := c.tx.ExecContext(ctx, `delete from seen where site_id = $1 and first_at >= $2`, c.site, *c.since); err != nil {
			return err
		}
	} else if _, err := c.tx.ExecContext(ctx, `delete from seen where site_id = $1`, c.site); err != nil {
		return err
	}
	counting := counting{tx: c.tx}
	for chunk := range slices.Chunk(c.sightings, recountRows) {
		if _, err := counting.insert(ctx, chunk); err != nil {
			return err
		}
	}
	return nil
}

// parts cuts totals into pieces that are small enough to be written.
func parts(t *tally.Totals) func(yield func(*tally.Totals) bool) {
	return func(yield func(*tally.Totals) bool) {
		for chunk := range slices.Chunk(slices.Collect(maps.Keys(t.Days)), recountRows) {
			part := &tally.Totals{Days: map[tally.DayKey]*tally.Daily{}}
			for _, k := range chunk {
				part.Days[k] = t.Days[k]
			}
			if !yield(part) {
				return
			}
		}
		for chunk := range slices.Chunk(slices.Collect(maps.Keys(t.Hours)), recountRows) {
			part := &tally.Totals{Hours: map[tally.HourKey]*tally.Hourly{}}
			for _, k := range chunk {
				part.Hours[k] = t.Hours[k]
			}
			if !yield(part) {
				return
			}
		}
		yield(&tally.Totals{Goals: t.Goals})
	}
}
