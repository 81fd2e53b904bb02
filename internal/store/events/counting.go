package events

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/tally"
	"gobbet/internal/store/pg"
)

// Counting keeps seen and the totals in step with the events: for each sighting
// that changes, totals lose what it contributed and gain what it does now.
// Whoever counts all raw events anew (see recount.go) comes to the same.

// sightingKey names a sighting. Rows are locked and written in this order.
type sightingKey struct {
	site           int64
	visitor, piece string
}

func (k sightingKey) compare(other sightingKey) int {
	return cmp.Or(cmp.Compare(k.site, other.site), cmp.Compare(k.visitor, other.visitor), cmp.Compare(k.piece, other.piece))
}

type visitorKey struct {
	site    int64
	visitor string
}

func (k sightingKey) who() visitorKey { return visitorKey{k.site, k.visitor} }

func compareVisitors(a, b visitorKey) int {
	return cmp.Or(cmp.Compare(a.site, b.site), cmp.Compare(a.visitor, b.visitor))
}

// counting is one transaction's.
type counting struct {
	tx    *sqlx.Tx
	shard int16
	zones map[int64]*time.Location
	// exposed are the fresh events that expose, by sighting.
	exposed map[sightingKey][]*tally.Event
	// before and after are the goals that visitors reached, without the fresh ones and with them.
	before, after map[visitorKey][]tally.ReachedGoal
	freshGoals    map[siteID]bool
	totals        map[int64]*tally.Totals
}

func count(ctx context.Context, tx *sqlx.Tx, shard int16, events []placed) error {
	c := counting{tx: tx, shard: shard, zones: map[int64]*time.Location{}, exposed: map[sightingKey][]*tally.Event{}, totals: map[int64]*tally.Totals{}, freshGoals: map[siteID]bool{}}
	var goals []*placed
	for i := range events {
		e := &events[i]
		c.zones[e.Site] = e.zone
		if c.totals[e.Site] == nil {
			c.totals[e.Site] = &tally.Totals{}
		}
		c.totals[e.Site].Add(&e.Event, e.zone)
		if e.Kind == tally.Reached {
			goals = append(goals, e)
		}
		if e.Exposes() {
			key := sightingKey{e.Site, e.Visitor, e.Piece}
			c.exposed[key] = append(c.exposed[key], &e.Event)
		}
	}
	reachers, err := c.addGoals(ctx, goals)
	if err == nil {
		err = c.count(ctx, reachers)
	}
	if err != nil {
		return err
	}
	return c.write(ctx)
}

// addGoals stores goals to be found by visitor, and gives the visitors.
func (c *counting) addGoals(ctx context.Context, goals []*placed) (reachers []visitorKey, err error) {
	if len(goals) == 0 {
		return nil, nil
	}
	slices.SortFunc(goals, func(a, b *placed) int {
		return cmp.Or(cmp.Compare(a.Site, b.Site), cmp.Compare(a.Visitor, b.Visitor), cmp.Compare(a.ID, b.ID))
	})
	var rows pg.Columns
	for _, g := range goals {
		rows.Add(g.Site, g.Visitor, g.ID, g.At, g.Goal.Goal, g.Amount, g.Within)
		c.freshGoals[siteID{g.Site, g.ID}] = true
		reachers = append(reachers, visitorKey{g.Site, g.Visitor})
	}
	_, err = c.tx.ExecContext(ctx, `
		insert into goals_reached (site_id, visitor, id, at, goal, amount, within_days)
		select n.* from unnest($1::bigint[], $2::text[], $3::uuid[], $4::timestamptz[], $5::text[], $6::bigint[], $7::int[]) n (site_id, visitor, id, at, goal, amount, within_days)
		where (select count(*) from (select from goals_reached g where g.site_id = n.site_id and g.visitor = n.visitor limit $8) had) < $8`, append(rows.Lists(7), mostGoalsKept)...)
	return slices.Compact(reachers), err
}

const raceRounds = 5

// mostGoalsKept is how many goals of one visitor are kept to be found: the earliest
// tally.MostGoals count, and nobody but an attacker has so many.
const mostGoalsKept = 5 * tally.MostGoals

// count brings the sightings of fresh events, and those of visitors who reached a
// goal, up to date.
func (c *counting) count(ctx context.Context, reachers []visitorKey) error {
	left := make([]sightingKey, 0, len(c.exposed))
	for key := range c.exposed {
		left = append(left, key)
	}
	slices.SortFunc(left, sightingKey.compare)
	for round := 0; (len(left) > 0 || round == 0 && len(reachers) > 0) && round < raceRounds; round++ {
		known, err := c.load(ctx, left, reachers)
		if err != nil {
			return err
		}
		if round == 0 {
			if err := c.loadGoals(ctx, left, reachers); err != nil {
				return err
			}
		}
		var fresh, changed []sighted
		for _, key := range left {
			old, isThere := known[key]
			now := old
			for _, e := range c.exposed[key] {
				now.Add(e, c.zones[key.site])
			}
			switch {
			case !isThere:
				fresh = append(fresh, sighted{key, now})
			case now != old:
				changed = append(changed, sighted{key, now})
			}
		}
		if left, err = c.insert(ctx, fresh); err != nil {
			return err
		}
		for _, f := range fresh {
			if _, raced := slices.BinarySearchFunc(left, f.key, sightingKey.compare); !raced {
				c.totals[f.key.site].Count(&f.Sighting, c.after[f.key.who()], 1)
			}
		}
		if err := c.update(ctx, changed); err != nil {
			return err
		}
		for _, now := range changed {
			old := known[now.key]
			c.totals[now.key.site].Count(&old, c.before[now.key.who()], -1)
			c.totals[now.key.site].Count(&now.Sighting, c.after[now.key.who()], 1)
			delete(known, now.key)
		}
		// What did not change itself may have been given a goal.
		for key, same := range known {
			if before, after := c.before[key.who()], c.after[key.who()]; len(before) != len(after) {
				c.totals[key.site].Count(&same, before, -1)
				c.totals[key.site].Count(&same, after, 1)
			}
		}
		reachers = nil
	}
	if len(left) > 0 {
		return fault.ErrBusy // others were faster again and again; it is sent again
	}
	return nil
}

// sighted is a sighting with its site.
type sighted struct {
	key sightingKey
	tally.Sighting
}

// plainTimes has what totals are kept by in UTC, as it was counted.
func plainTimes(s tally.Sighting) tally.Sighting {
	s.Hour, s.Day = s.Hour.UTC(), s.Day.UTC()
	if s.ConvertedHour != nil {
		hour := s.ConvertedHour.UTC()
		s.ConvertedHour = &hour
	}
	return s
}

const sightingColumns = `s.visitor, s.piece_id, s.first_id, s.first_at, s.hour, s.day, s.variant, s.run, s.page, s.channel, s.device, s.country, s.known, s.several, s.converted_at, s.converted_hour`

// load locks the sightings that are there, those named and all of some visitors.
func (c *counting) load(ctx context.Context, keys []sightingKey, visitors []visitorKey) (map[sightingKey]tally.Sighting, error) {
	known := make(map[sightingKey]tally.Sighting, len(keys))
	take := func(query string, args ...any) error {
		var rows []struct {
			Site int64 `db:"site_id"`
			tally.Sighting
		}
		if err := c.tx.SelectContext(ctx, &rows, query, args...); err != nil {
			return err
		}
		for _, row := range rows {
			known[sightingKey{row.Site, row.Visitor, row.Piece}] = plainTimes(row.Sighting)
		}
		return nil
	}
	if len(visitors) > 0 {
		var of pg.Columns
		for _, v := range visitors {
			of.Add(v.site, v.visitor)
		}
		if err := take(`
			select s.site_id, `+sightingColumns+` from seen s join unnest($1::bigint[], $2::text[]) k (site_id, visitor) using (site_id, visitor)
			order by s.site_id, s.visitor, s.piece_id for update of s`, of.Lists(2)...); err != nil {
			return nil, err
		}
	}
	if len(keys) == 0 {
		return known, nil
	}
	var of pg.Columns
	for _, k := range keys {
		of.Add(k.site, k.visitor, k.piece)
	}
	return known, take(`
		select s.site_id, `+sightingColumns+` from seen s join unnest($1::bigint[], $2::text[], $3::text[]) k (site_id, visitor, piece_id) using (site_id, visitor, piece_id)
		order by s.site_id, s.visitor, s.piece_id for update of s`, of.Lists(3)...)
}

// loadGoals reads what the visitors of sightings have reached, those just stored
// among them.
func (c *counting) loadGoals(ctx context.Context, keys []sightingKey, reachers []visitorKey) error {
	visitors := slices.Clone(reachers)
	for _, k := range keys {
		visitors = append(visitors, k.who())
	}
	slices.SortFunc(visitors, compareVisitors)
	var of pg.Columns
	for _, v := range slices.Compact(visitors) {
		of.Add(v.site, v.visitor)
	}
	var rows []struct {
		Site    int64  `db:"site_id"`
		Visitor string `db:"visitor"`
		tally.ReachedGoal
	}
	err := c.tx.SelectContext(ctx, &rows, `
		select g.site_id, g.visitor, g.id, g.at, g.goal, g.amount, g.within_days
		from goals_reached g join unnest($1::bigint[], $2::text[]) k (site_id, visitor) using (site_id, visitor)`, of.Lists(2)...)
	c.before, c.after = map[visitorKey][]tally.ReachedGoal{}, map[visitorKey][]tally.ReachedGoal{}
	for _, row := range rows {
		key := visitorKey{row.Site, row.Visitor}
		c.after[key] = append(c.after[key], row.ReachedGoal)
		if !c.freshGoals[siteID{row.Site, row.ID}] {
			c.before[key] = append(c.before[key], row.ReachedGoal)
		}
	}
	return err
}

func sightingRows(all []sighted) []any {
	var rows pg.Columns
	for _, s := range all {
		rows.Add(s.key.site, s.key.visitor, s.key.piece, s.FirstID, s.FirstAt, s.Hour, s.Day, s.Variant, s.Run, s.Page, s.Channel, s.Device, s.Country, s.Known, s.Several, s.ConvertedAt, s.ConvertedHour)
	}
	return rows.Lists(17)
}

const unnestSightings = `unnest($1::bigint[], $2::text[], $3::text[], $4::uuid[], $5::timestamptz[], $6::timestamptz[], $7::date[], $8::text[], $9::int[], $10::text[],
	$11::text[], $12::text[], $13::text[], $14::text[], $15::bool[], $16::timestamptz[], $17::timestamptz[])`

// insert adds sightings, and gives those that another transaction added meanwhile.
func (c *counting) insert(ctx context.Context, fresh []sighted) (raced []sightingKey, err error) {
	if len(fresh) == 0 {
		return nil, nil
	}
	var taken []struct {
		Site    int64  `db:"site_id"`
		Visitor string `db:"visitor"`
		Piece   string `db:"piece_id"`
	}
	err = c.tx.SelectContext(ctx, &taken, `
		insert into seen (site_id, visitor, piece_id, first_id, first_at, hour, day, variant, run, page, channel, device, country, known, several, converted_at, converted_hour)
		select * from `+unnestSightings+` on conflict do nothing returning site_id, visitor, piece_id`, sightingRows(fresh)...)
	if err != nil || len(taken) == len(fresh) {
		return nil, err
	}
	mine := make(map[sightingKey]bool, len(taken))
	for _, row := range taken {
		mine[sightingKey{row.Site, row.Visitor, row.Piece}] = true
	}
	for _, f := range fresh {
		if !mine[f.key] {
			raced = append(raced, f.key)
		}
	}
	return raced, nil
}

func (c *counting) update(ctx context.Context, changed []sighted) error {
	if len(changed) == 0 {
		return nil
	}
	_, err := c.tx.ExecContext(ctx, `
		update seen s set first_id = n.first_id, first_at = n.first_at, hour = n.hour, day = n.day, variant = n.variant, run = n.run, page = n.page, channel = n.channel,
			device = n.device, country = n.country, known = n.known, several = n.several, converted_at = n.converted_at, converted_hour = n.converted_hour
		from `+unnestSightings+` n (site_id, visitor, piece_id, first_id, first_at, hour, day, variant, run, page, channel, device, country, known, several, converted_at, converted_hour)
		where s.site_id = n.site_id and s.visitor = n.visitor and s.piece_id = n.piece_id`, sightingRows(changed)...)
	return err
}

// write adds to the totals. Each writer adds to the rows of its shard, and
// whoever reads adds the shards up.
func (c *counting) write(ctx context.Context) error {
	for _, site := range slices.Sorted(maps.Keys(c.totals)) {
		t := c.totals[site]
		t.Trim()
		if err := writeTotals(ctx, c.tx, site, c.shard, t); err != nil {
			return err
		}
	}
	return nil
}

// writeTotals adds to totals, those of days and hours in one question.
func writeTotals(ctx context.Context, tx *sqlx.Tx, site int64, shard int16, t *tally.Totals) error {
	var days, hours, goals pg.Columns
	for _, k := range slices.SortedFunc(maps.Keys(t.Days), compareDays) {
		d := t.Days[k]
		days.Add(k.Piece, k.Cut, k.Goal, k.Day, k.Variant, k.Run, k.Value, d.Visitors, d.Conversions, d.Showings, d.Several, d.Amount, d.Squares.String())
	}
	for _, k := range slices.SortedFunc(maps.Keys(t.Hours), compareHours) {
		h := t.Hours[k]
		hours.Add(k.Piece, k.Hour, k.Variant, k.Run, h.Visitors, h.Converted, h.Showings, h.Closes, h.Quick, h.Lefts)
	}
	for _, k := range slices.SortedFunc(maps.Keys(t.Goals), compareGoals) {
		goals.Add(k.Goal, k.Hour, t.Goals[k].Times, t.Goals[k].Amount)
	}
	if len(t.Days)+len(t.Hours) > 0 {
		_, err := tx.ExecContext(ctx, `
			with days as (
				insert into day_totals as t (site_id, shard, piece_id, cut, goal, day, variant, run, value, visitors, conversions, showings, several, amount, squares)
				select $1::bigint, $2::smallint, piece_id, cut, goal, day, variant, run, value, visitors, conversions, showings, several, amount, squares::numeric
				from unnest($3::text[], $4::text[], $5::text[], $6::date[], $7::text[], $8::int[], $9::text[], $10::int[], $11::int[], $12::int[], $13::int[], $14::bigint[], $15::text[])
					with ordinality as n (piece_id, cut, goal, day, variant, run, value, visitors, conversions, showings, several, amount, squares, nth) order by nth
				on conflict (site_id, piece_id, cut, goal, day, variant, run, value, shard) do update set
					visitors = t.visitors + excluded.visitors, conversions = t.conversions + excluded.conversions, showings = t.showings + excluded.showings,
					several = t.several + excluded.several, amount = t.amount + excluded.amount, squares = t.squares + excluded.squares
			)
			insert into hour_totals as t (site_id, shard, piece_id, hour, variant, run, visitors, converted, showings, closes, quick, lefts)
			select $1::bigint, $2::smallint, piece_id, hour, variant, run, visitors, converted, showings, closes, quick, lefts
			from unnest($16::text[], $17::timestamptz[], $18::text[], $19::int[], $20::int[], $21::int[], $22::int[], $23::int[], $24::int[], $25::int[])
				with ordinality as n (piece_id, hour, variant, run, visitors, converted, showings, closes, quick, lefts, nth) order by nth
			on conflict (site_id, piece_id, hour, variant, run, shard) do update set
				visitors = t.visitors + excluded.visitors, converted = t.converted + excluded.converted, showings = t.showings + excluded.showings,
				closes = t.closes + excluded.closes, quick = t.quick + excluded.quick, lefts = t.lefts + excluded.lefts`,
			slices.Concat([]any{site, shard}, days.Lists(13), hours.Lists(10))...)
		if err != nil {
			return err
		}
	}
	if len(t.Goals) == 0 {
		return nil
	}
	_, err := tx.ExecContext(ctx, `
		insert into goal_hours as t (site_id, shard, goal, hour, times, amount)
		select $1::bigint, $2::smallint, goal, hour, times, amount from unnest($3::text[], $4::timestamptz[], $5::int[], $6::bigint[])
			with ordinality as n (goal, hour, times, amount, nth) order by nth
		on conflict (site_id, goal, hour, shard) do update set times = t.times + excluded.times, amount = t.amount + excluded.amount`,
		append([]any{site, shard}, goals.Lists(4)...)...)
	return err
}

func compareHours(a, b tally.HourKey) int {
	return cmp.Or(cmp.Compare(a.Piece, b.Piece), a.Hour.Compare(b.Hour), cmp.Compare(a.Variant, b.Variant), cmp.Compare(a.Run, b.Run))
}

func compareGoals(a, b tally.GoalKey) int {
	return cmp.Or(cmp.Compare(a.Goal, b.Goal), a.Hour.Compare(b.Hour))
}

func compareDays(a, b tally.DayKey) int {
	return cmp.Or(cmp.Compare(a.Piece, b.Piece), cmp.Compare(a.Cut, b.Cut), cmp.Compare(a.Goal, b.Goal), a.Day.Compare(b.Day),
		cmp.Compare(a.Variant, b.Variant), cmp.Compare(a.Run, b.Run), cmp.Compare(a.Value, b.Value))
}
