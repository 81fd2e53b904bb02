package main

import (
	"context"
	"encoding/json"
	"fmt"
	"runtime"
	"time"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/visitor"
)

var (
	manySites = size(1000, 20)
	piecesOf  = 20
)

// starts tells how soon a process with many sites is ready, how soon a site is
// there that nobody asked for before, and a launch in force, and what that takes
// in memory.
func starts(ctx context.Context) error {
	_, s, site, done, err := database(ctx, sites.Texts{origin})
	if err != nil {
		return err
	}
	defer done()
	p := piece.New("Piece", piece.Popup, "salt")
	p.Rule = reach.All{reach.Clause{Fact: "page.path", Op: reach.StartsWith, Value: "/shop"}, reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: 30.0}}
	raw, err := json.Marshal(p)
	if err != nil {
		return err
	}
	if _, err := s.DB().ExecContext(ctx, `insert into sites (key, name, zone, origins) select 'site' || n, 'Site', 'UTC', $1 from generate_series(1, $2::int) n`, sites.Texts{origin}, manySites); err != nil {
		return err
	}
	if _, err := s.DB().ExecContext(ctx, `
		insert into pieces (site_id, id, draft, live, state, live_since, live_version) select s.id, 'p' || n, $1::json, $1::json, 'live', now(), 1
		from sites s, generate_series(1, $2::int) n`, string(raw), piecesOf); err != nil {
		return err
	}
	before := heap()
	began := time.Now()
	snapshots, err := visitor.NewSnapshots(ctx, visitor.StoresOf(s))
	if err != nil {
		return err
	}
	fmt.Printf("%d sites of %d live pieces: ready after %5.2f s  to hold: 2.0\n", manySites, piecesOf, time.Since(began).Seconds())
	following, stop := context.WithCancel(ctx)
	defer stop()
	go snapshots.Follow(following)
	began = time.Now()
	if _, err := snapshots.Site(ctx, "site1"); err != nil {
		return err
	}
	fmt.Printf("  a site that nobody asked for before  %5.0f ms\n", 1000*time.Since(began).Seconds())
	shop, err := snapshots.Site(ctx, "shop")
	if err != nil {
		return err
	}
	had := len(shop.Live)
	if err := s.Pieces.Add(ctx, site, "new", raw); err != nil {
		return err
	}
	began = time.Now()
	if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "new", 1, p.Drawings(nil, nil)); err != nil {
		return err
	}
	for len(shop.Live) == had && time.Since(began) < 20*time.Second {
		time.Sleep(5 * time.Millisecond)
		if shop, err = snapshots.Site(ctx, "shop"); err != nil {
			return err
		}
	}
	fmt.Printf("  a launch in force                    %5.0f ms  to hold: 1000\n", 1000*time.Since(began).Seconds())
	began = time.Now()
	for n := range manySites {
		if _, err := snapshots.Site(ctx, fmt.Sprint("site", n+1)); err != nil {
			return err
		}
	}
	fmt.Printf("  all of them asked for                %5.1f s, %d MB\n", time.Since(began).Seconds(), (heap()-before)>>20)
	runtime.KeepAlive(snapshots)
	return nil
}
