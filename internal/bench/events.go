package main

import (
	"context"
	"fmt"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"

	"gobbet/core/tally"
	"gobbet/internal/store"
)

const (
	eventWriters = 16
	eventsEach   = 20 // in a batch, as a busy page view sends
)

var (
	eventSeconds = size(3, 1) // a round
	eventRounds  = times(5)
	copyBatches  = size(1500, 32)
)

// stored holds storing and counting events against copying the same rows, and
// many writers on one piece against as many on a piece each. The database
// commits as it would in earnest.
func stored(ctx context.Context) error {
	url, s, site, done, err := database(ctx, nil)
	if err != nil {
		return err
	}
	defer done()
	var ratios, rates []float64
	for range eventRounds {
		one := written(ctx, s, site, func(int) string { return "one" })
		many := written(ctx, s, site, func(writer int) string { return fmt.Sprint("piece", writer) })
		ratios, rates = append(ratios, one/many), append(rates, one)
	}
	fmt.Printf("events, %d writers on one piece against one each (median of %d rounds; %.0f batches of %d a second on one):\n", eventWriters, eventRounds, median(rates), eventsEach)
	fmt.Printf("  batches a second                %5.2f ×        to hold: 0.90\n", median(ratios))
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return err
	}
	defer pool.Close()
	fmt.Printf("events, stored and counted, against COPY of as many rows into the same table (median of %d rounds of %d):\n", eventRounds, copyBatches*eventsEach)
	for _, of := range []struct {
		visitors int
		says     string
		hold     float64
	}{{1, "as pages send them, a visitor a batch", 0.6}, {eventsEach, "the most there is to count, 20 visitors a batch", 0.5}} {
		same, whole, err := againstCopy(ctx, s, pool, site, of.visitors)
		if err != nil {
			return err
		}
		fmt.Printf("  %s:\n", of.says)
		fmt.Printf("    the same batches by as many   %5.2f ×        to hold: %.2f\n", same, of.hold)
		fmt.Printf("    all of them in one COPY       %5.2f ×\n", whole)
	}
	return nil
}

func againstCopy(ctx context.Context, s *store.Store, pool *pgxpool.Pool, site int64, visitors int) (same, whole float64, err error) {
	var sames, wholes []float64
	for range eventRounds {
		ours, err := timeOf(visitors, func(batches [][]tally.Event) error {
			return spread(batches, func(b []tally.Event) error { return s.Events.Add(ctx, site, time.UTC, b) })
		})
		if err != nil {
			return 0, 0, err
		}
		batchwise, err := timeOf(visitors, func(batches [][]tally.Event) error {
			return spread(batches, func(b []tally.Event) error { return copied(ctx, pool, site, b) })
		})
		if err != nil {
			return 0, 0, err
		}
		atOnce, err := timeOf(visitors, func(batches [][]tally.Event) error { return copied(ctx, pool, site, slices.Concat(batches...)) })
		if err != nil {
			return 0, 0, err
		}
		sames, wholes = append(sames, batchwise/ours), append(wholes, atOnce/ours)
	}
	return median(sames), median(wholes), nil
}

// batchOf is a batch of events of so many visitors, each of whom saw the piece.
func batchOf(piece string, visitors int) []tally.Event {
	events, who := make([]tally.Event, eventsEach), make([]string, visitors)
	for i := range who {
		who[i] = uuid.NewString()
	}
	for i := range events {
		kind := tally.Shown
		if i%5 == 4 {
			kind = tally.Closed
		}
		events[i] = tally.Event{
			ID: uuid.Must(uuid.NewV7()).String(), At: time.Now(), Kind: kind, Piece: piece, Variant: "a", Run: 1, Visitor: who[i%visitors], Visit: "visit-1234", Page: "/journal/ash-glaze",
			Cuts: tally.Cuts{Channel: "search", Device: "phone", Country: "IE", Known: "new"}, After: -1,
		}
	}
	return events
}

// written is how many batches a second the writers get stored.
func written(ctx context.Context, s *store.Store, site int64, piece func(writer int) string) float64 {
	var n atomic.Int64
	var wg sync.WaitGroup
	end := time.Now().Add(time.Duration(eventSeconds) * time.Second)
	for i := range eventWriters {
		wg.Go(func() {
			for time.Now().Before(end) {
				if s.Events.Add(ctx, site, time.UTC, batchOf(piece(i), 1)) == nil {
					n.Add(1)
				}
			}
		})
	}
	wg.Wait()
	return float64(n.Load()) / float64(eventSeconds)
}

// timeOf is how many seconds something takes with batches that are new.
func timeOf(visitors int, do func(batches [][]tally.Event) error) (seconds float64, err error) {
	batches := make([][]tally.Event, copyBatches)
	for i := range batches {
		batches[i] = batchOf("copied", visitors)
	}
	began := time.Now()
	err = do(batches)
	return time.Since(began).Seconds(), err
}

// spread has the writers share batches.
func spread(batches [][]tally.Event, do func([]tally.Event) error) error {
	var next atomic.Int64
	var failed atomic.Value
	var wg sync.WaitGroup
	for range eventWriters {
		wg.Go(func() {
			for i := next.Add(1) - 1; int(i) < len(batches); i = next.Add(1) - 1 {
				if err := do(batches[i]); err != nil {
					failed.Store(err)
					return
				}
			}
		})
	}
	wg.Wait()
	err, _ := failed.Load().(error)
	return err
}

func copied(ctx context.Context, pool *pgxpool.Pool, site int64, events []tally.Event) error {
	_, err := pool.CopyFrom(ctx, pgx.Identifier{"events"}, []string{
		"site_id", "id", "at", "kind", "piece_id", "variant", "run", "visitor", "visit", "page", "channel", "device", "country", "known"},
		pgx.CopyFromSlice(len(events), func(i int) ([]any, error) {
			e := events[i]
			return []any{site, e.ID, e.At, e.Kind, e.Piece, e.Variant, e.Run, e.Visitor, e.Visit, e.Page, e.Channel, e.Device, e.Country, e.Known}, nil
		}))
	return err
}
