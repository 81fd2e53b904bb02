package main

import (
	"context"
	"fmt"
	"os"
	"strconv"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"gobbet/internal/store"
	"gobbet/internal/store/events"
	"gobbet/internal/visits"
)

const (
	resultDays   = 90
	resultPieces = 20
)

var resultRounds = times(5)

// results holds the studio's questions on stored events against counting the raw
// ones, and has a long visit log read by a process that has just started.
// GOBBET_EVENTS says how many of each; 10 million take some minutes to make.
func results(ctx context.Context) error {
	many, _ := strconv.Atoi(os.Getenv("GOBBET_EVENTS"))
	if many <= 0 {
		many = size(10_000_000, 20_000)
	}
	url, s, site, done, err := database(ctx, nil)
	if err != nil {
		return err
	}
	defer done()
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return err
	}
	defer pool.Close()
	now := time.Now()
	if err := s.Events.MakeMonths(ctx, now.AddDate(0, 0, -resultDays), now); err != nil {
		return err
	}
	// A visitor has two events of a piece: they saw it, and one in twelve converted.
	_, err = pool.Exec(ctx, `
		insert into events (site_id, id, at, kind, piece_id, variant, run, visitor, visit, page, channel, device, country, known)
		select $1, (lpad(to_hex((extract(epoch from at) * 1000)::bigint), 12, '0') || '7' || substr(md5(n::text), 1, 3) || 'a' || substr(md5(n::text), 4, 15))::uuid, at,
			case when n % 2 = 0 then 'shown' when n % 24 = 1 then 'converted' else 'closed' end, 'piece' || (n / 2 % $3), case when n / 2 % 2 = 0 then 'a' else 'b' end, 1,
			'visitor' || (n / 40), 'visit', '/page/' || (n / 2 % 40), (array['search', 'direct', 'email', 'social'])[1 + n / 2 % 4], (array['phone', 'desktop'])[1 + n / 4 % 2], 'IE', 'new'
		from (select n, now() - make_interval(secs => (n::float8 / $2) * $4 * 86400) as at from generate_series(0, $2::int - 1) n) all_of_it`, site, many, resultPieces, resultDays)
	if err != nil {
		return err
	}
	if _, err := s.Events.Recount(ctx, site, true); err != nil {
		return err
	}
	if _, err := pool.Exec(ctx, `vacuum analyze`); err != nil {
		return err
	}
	to := time.Date(now.Year(), now.Month(), now.Day(), 0, 0, 0, 0, time.UTC)
	from := to.AddDate(0, 0, -resultDays)
	fmt.Printf("%d events stored: the studio's questions from totals, against counting the raw events (median of %d):\n", many, resultRounds)
	for _, q := range []struct {
		says string
		ours func() error
		raw  string
	}{
		{"a piece's split, by day", func() error { _, err := s.Results.RunTotals(ctx, site, "piece1", ""); return err },
			`select variant, at::date, count(distinct visitor), count(distinct visitor) filter (where kind = 'converted') from events where site_id = $1 and piece_id = 'piece1' group by 1, 2`},
		{"a piece's split, by page", func() error { _, err := s.Results.RunTotals(ctx, site, "piece1", "page"); return err },
			`select variant, page, count(distinct visitor), count(distinct visitor) filter (where kind = 'converted') from events where site_id = $1 and piece_id = 'piece1' group by 1, 2`},
		{"all pieces, by page, 90 days", func() error { _, err := s.Results.RangeTotals(ctx, site, "", from, to, "page"); return err },
			`select piece_id, variant, page, count(distinct visitor), count(distinct visitor) filter (where kind = 'converted') from events where site_id = $1 group by 1, 2, 3`},
		{"hours when visitors convert", func() error {
			_, err := s.Results.HourSums(ctx, site, "", from, to.AddDate(0, 0, 1), "UTC")
			return err
		},
			`select extract(isodow from at), extract(hour from at), count(distinct (visitor, piece_id)) from events where site_id = $1 and kind = 'converted' group by 1, 2`},
		{"the board", func() error { _, err := s.Results.Days(ctx, site, "", to.AddDate(0, 0, -28)); return err },
			`select piece_id, variant, at::date, count(distinct visitor), count(distinct visitor) filter (where kind = 'converted') from events where site_id = $1 and at > now() - interval '28 days' group by 1, 2, 3`},
		{"the latest events behind a number", func() error {
			_, err := s.Events.List(ctx, site, events.Query{From: from, To: to.AddDate(0, 0, 1), Piece: "piece1", Kind: "converted", Limit: 51})
			return err
		}, ""},
		{"a page of rare ones", func() error {
			_, err := s.Events.List(ctx, site, events.Query{From: from, To: to.AddDate(0, 0, 1), Kind: "reached", Limit: 51})
			return err
		}, ""},
	} {
		var ours, raw []float64
		for range resultRounds {
			began := time.Now()
			if err := q.ours(); err != nil {
				return err
			}
			ours = append(ours, time.Since(began).Seconds())
		}
		if q.raw == "" {
			fmt.Printf("  %-34s %6.0f ms\n", q.says, 1000*median(ours))
			continue
		}
		began := time.Now()
		rows, err := pool.Query(ctx, q.raw, site)
		if err != nil {
			return err
		}
		rows.Close()
		if rows.Err() != nil {
			return rows.Err()
		}
		raw = append(raw, time.Since(began).Seconds())
		fmt.Printf("  %-34s %6.0f ms  to hold: 300   %6.0f × faster  to hold: 50\n", q.says, 1000*median(ours), raw[0]/median(ours))
	}
	return firstRead(ctx, s, pool, site, many)
}

// firstRead has a process that has just started rehearse on a long visit log.
func firstRead(ctx context.Context, s *store.Store, pool *pgxpool.Pool, site int64, many int) error {
	if _, err := pool.Exec(ctx, `
		insert into page_views (site_id, id, visitor, visit, at, seconds, facts, moments)
		select $1, 'view' || n, 'visitor' || (n / 5), 'visit' || (n / 3), now() - make_interval(secs => (n::float8 / $2) * $3 * 86400), 20,
			json_build_object('page.path', '/page/' || (n % 40), 'device.kind', 'phone', 'source.channel', 'search'), '{"marks":[2,5,9]}'
		from generate_series(0, $2::int - 1) n`, site, many, resultDays-1); err != nil {
		return err
	}
	if _, err := pool.Exec(ctx, `vacuum analyze page_views`); err != nil {
		return err
	}
	sites, err := s.Sites.ByID(ctx, []int64{site})
	if err != nil {
		return err
	}
	logs, began := visits.New(s), time.Now()
	var first time.Duration
	for whole := false; !whole; time.Sleep(200 * time.Millisecond) {
		if err := logs.Read(ctx, sites[0], func(l *visits.Log) error {
			if first == 0 {
				first = time.Since(began)
				fmt.Printf("a visit log of %d, read by a process that has just started:\n  something to rehearse on after   %6.1f s  to hold: 2.0 (%d page views)\n", many, first.Seconds(), l.Len())
			}
			_, partial := l.Partial()
			whole = !partial
			return nil
		}); err != nil {
			return err
		}
	}
	fmt.Printf("  all of it after                  %6.1f s  to hold: 60\n", time.Since(began).Seconds())
	return nil
}
