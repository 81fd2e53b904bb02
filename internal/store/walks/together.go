package walks

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"runtime/debug"
	"slices"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"

	"gobbet/internal/store/pg"
)

// together stores the steps of walks that come at the same time in one
// statement and one commit: one wait for the disk for all of them. A step that
// comes alone waits for nobody. Each is answered once it is committed.
//
// Of one walk a statement takes one step; where two come at once the second
// waits, and finds what the first did. A statement that fails is done again step
// by step, so that what is wrong with one fails none of the others.
type together struct {
	db *pg.DB

	mu      sync.Mutex
	waiting []*step
	lanes   int // statements under way
}

// step is what one request stores of a walk.
type step struct {
	site   int64
	day    string // the walk began, on the site's calendar
	isNew  bool   // the walk begins
	counts string // what it adds to the totals; empty: nothing
	before int    // how many steps the walk had
	who    *Walker
	*moved
	submissions []submitted
	goes        *taken
	done        chan stepped
	kept        bool
}

// submitted is a submission, ready to be stored.
type submitted struct{ id, scene, name, answers string }

// taken is a go, ready to be stored, of what has neither a stock nor a pool.
type taken struct{ key, part, label, code, email string }

type stepped struct {
	kept bool
	err  error
}

const (
	mostLanes    = 4
	mostTogether = 64
	laneTime     = 10 * time.Second
	// Another statement is begun beside those under way when so many wait for each
	// of them, or one has waited so long: one that is held up holds up nobody else.
	enough = 16
	heldUp = 20 * time.Millisecond
)

// do stores a step; errAgain where the walk is not where the step was taken from.
func (t *together) do(ctx context.Context, s *step) error {
	s.done = make(chan stepped, 1)
	lanes := context.WithoutCancel(ctx)
	t.mu.Lock()
	t.waiting = append(t.waiting, s)
	alone := t.lanes == 0
	if alone {
		t.lanes++
	} else {
		t.open(lanes, len(t.waiting) >= enough*t.lanes)
	}
	t.mu.Unlock()
	if alone {
		t.commit(lanes, t.next())
		if some := t.next(); len(some) > 0 {
			go t.run(lanes, some)
		}
	}
	waited := time.NewTimer(heldUp)
	defer waited.Stop()
	for {
		select {
		case is := <-s.done:
			if is.err == nil && !is.kept {
				return errAgain
			}
			return is.err
		case <-ctx.Done():
			return ctx.Err()
		case <-waited.C:
			t.mu.Lock()
			t.open(lanes, slices.Contains(t.waiting, s))
			t.mu.Unlock()
		}
	}
}

// open begins another statement where one is wanted.
func (t *together) open(ctx context.Context, wanted bool) {
	if wanted && t.lanes < mostLanes {
		t.lanes++
		go func() { t.run(ctx, t.next()) }()
	}
}

// run stores steps, and then what waits until nothing does.
func (t *together) run(ctx context.Context, some []*step) {
	for ; len(some) > 0; some = t.next() {
		t.commit(ctx, some)
	}
}

func (t *together) commit(ctx context.Context, some []*step) {
	ctx, cancel := context.WithTimeout(ctx, laneTime)
	defer cancel()
	answered := 0
	defer func() {
		// Nobody else would hear of it, and whoever waits would wait for good.
		if thrown := recover(); thrown != nil {
			slog.ErrorContext(ctx, "storing steps threw", "thrown", thrown, "stack", string(debug.Stack()))
			for _, s := range some[answered:] {
				s.done <- stepped{false, fmt.Errorf("storing steps threw: %v", thrown)}
			}
		}
	}()
	err := storeSteps(ctx, t.db, some)
	alone := err != nil && len(some) > 1 && !pg.Unreachable(err) && ctx.Err() == nil
	for _, s := range some {
		if alone {
			err = storeSteps(ctx, t.db, []*step{s})
		}
		s.done <- stepped{s.kept, err}
		answered++
	}
}

// next takes those steps that have waited longest, each of another walk. Where
// none wait, a statement fewer is under way.
func (t *together) next() (some []*step) {
	t.mu.Lock()
	defer t.mu.Unlock()
	type walkID struct {
		site int64
		id   string
	}
	here, rest := map[walkID]bool{}, t.waiting[:0:0]
	for _, s := range t.waiting {
		of := walkID{s.site, s.who.Walk}
		if len(some) < mostTogether && !here[of] {
			some = append(some, s)
		} else {
			rest = append(rest, s)
		}
		here[of] = true
	}
	if t.waiting = rest; len(some) == 0 {
		t.lanes--
	}
	slices.SortFunc(some, func(a, b *step) int {
		return cmp.Or(cmp.Compare(a.site, b.site), cmp.Compare(a.who.Walk, b.who.Walk))
	})
	return some
}

// storeSteps stores steps, and marks those whose walk was where it was thought to be.
func storeSteps(ctx context.Context, db *pg.DB, steps []*step) error {
	statement, values := statementOf(steps)
	for _, s := range steps {
		s.kept = false // rows may have come before a statement failed
	}
	batch := &pgx.Batch{}
	batch.Queue(byKeyOnly)
	batch.Queue(statement, values...).Query(func(rows pgx.Rows) error {
		var site int64
		var id string
		_, err := pgx.ForEachRow(rows, []any{&site, &id}, func() error {
			for _, s := range steps {
				s.kept = s.kept || s.site == site && s.who.Walk == id
			}
			return nil
		})
		return err
	})
	conn, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	return conn.Raw(func(driver any) error {
		// What goes to the database before one sync is one transaction.
		return driver.(*stdlib.Conn).Conn().SendBatch(ctx, batch).Close()
	})
}

// storeWithin stores one step in a transaction that does more; errAgain where its
// walk is not where it was thought to be.
func storeWithin(ctx context.Context, tx *sqlx.Tx, s *step) error {
	if _, err := tx.ExecContext(ctx, byKeyOnly); err != nil {
		return err
	}
	var walks []struct {
		Site int64  `db:"site_id"`
		ID   string `db:"id"`
	}
	statement, values := statementOf([]*step{s})
	err := tx.SelectContext(ctx, &walks, statement, values...)
	if err == nil && len(walks) == 0 {
		err = errAgain
	}
	return err
}

// byKeyOnly has what follows in a transaction found by its key. A plan that was
// made while a table was empty reads all of it for good.
const byKeyOnly = `select set_config('enable_seqscan', 'off', true), set_config('enable_hashjoin', 'off', true), set_config('enable_mergejoin', 'off', true)`
