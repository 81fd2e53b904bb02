// Package visits holds the visit log of each site in memory, in columns, and
// brings it up to date from the store before it is read.
//
// A log is read from the store when it is first asked for, the latest visits
// first: those of the last hours are there to be rehearsed on while older ones are
// still being read. It is caught up with what was written since at most once a
// second, and startedAt anew once a day, which lets go of what is too old to count.
package visits

import (
	"context"
	"encoding/json"
	"errors"
	"hash/maphash"
	"log/slog"
	"sync"
	"time"

	"gobbet/core/rehearse"
	"gobbet/core/schedule"
	"gobbet/internal/store"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/sites"
)

// Kept is how long a page view is kept.
const Kept = 90 * 24 * time.Hour

const (
	catchUp  = time.Second
	renewal  = 24 * time.Hour
	idleLogs = 2 * time.Hour // after which a log that nobody reads is let go
)

// Partial gives since when visits are in the log, where older ones are still being read.
func (log *Log) Partial() (since time.Time, is bool) { return log.partial, !log.partial.IsZero() }

// ErrReading is that a log is still being read from the store.
var ErrReading = errors.New("the visit log is still being read")

// Logs holds the logs of all sites. It is safe for use by many goroutines.
type Logs struct {
	store *store.Store
	now   func() time.Time
	mu    sync.Mutex
	sites map[int64]*Log
}

// New makes the logs of a store's sites; none is read yet.
func New(s *store.Store) *Logs { return &Logs{store: s, now: time.Now, sites: map[int64]*Log{}} }

// Log is one site's visit log. It is read within Logs.Read alone.
type Log struct {
	*rehearse.Log
	reading sync.RWMutex
	busy    chan struct{} // holds one while the log is brought up to date
	// partial is since when visits are in the log, while older ones are still being
	// read; zero: all are.
	partial   time.Time
	rows      recent
	next      time.Time
	startedAt time.Time
	caught    time.Time
	read      time.Time

	rivals struct {
		sync.Mutex
		made map[string]*rehearse.Rival
	}
}

// Read brings a site's log up to date and lets do read it. The log must not be
// held on to. It fails with ErrReading where the log does not get ready before
// ctx ends; reading goes on meanwhile.
func (l *Logs) Read(ctx context.Context, site sites.Site, do func(*Log) error) error {
	log := l.of(site.ID)
	select {
	case log.busy <- struct{}{}:
	case <-ctx.Done():
		return errors.Join(ErrReading, ctx.Err())
	}
	log.reading.RLock()
	partial := !log.partial.IsZero()
	log.reading.RUnlock()
	if !partial && l.now().Sub(log.caught) >= catchUp {
		done := make(chan error, 1)
		go func() { // goes on although nobody waits any more
			defer func() { <-log.busy }()
			if log.next.IsZero() {
				done <- l.readFirst(context.WithoutCancel(ctx), site, log)
			} else {
				done <- l.bringUp(context.WithoutCancel(ctx), site, log)
			}
		}()
		select {
		case err := <-done:
			if err != nil {
				return err
			}
		case <-ctx.Done():
			return errors.Join(ErrReading, ctx.Err())
		}
	} else {
		<-log.busy
	}
	log.reading.RLock()
	defer log.reading.RUnlock()
	return do(log)
}

func (l *Logs) of(site int64) *Log {
	l.mu.Lock()
	defer l.mu.Unlock()
	log := l.sites[site]
	if log == nil {
		log = &Log{busy: make(chan struct{}, 1)}
		log.begin(l.now())
		l.sites[site] = log
	}
	log.read = l.now()
	return log
}

func (log *Log) begin(now time.Time) {
	log.Log, log.rows, log.next, log.startedAt = &rehearse.Log{HasMemory: true}, newRecent(now), time.Time{}, now
	log.forgetRivals()
}

func (log *Log) forgetRivals() {
	log.rivals.Lock()
	log.rivals.made = map[string]*rehearse.Rival{}
	log.rivals.Unlock()
}

// firstReads are how far back a log is read that nobody could read before, one
// after another: the first is there within seconds, however long the log is.
var firstReads = []time.Duration{6 * time.Hour, 2 * 24 * time.Hour, 9 * 24 * time.Hour, 30 * 24 * time.Hour, Kept}

// firstPatience is for how long the whole log is waited for, before what there is
// of it has to do.
const firstPatience = time.Second

// readFirst reads a log for the first time. It returns once there is something to
// read, and goes on until all is there.
func (l *Logs) readFirst(ctx context.Context, site sites.Site, log *Log) error {
	first, whole := make(chan error, 1), make(chan error, 1)
	go func() {
		for i, back := range firstReads {
			now := l.now()
			next, err := l.readSince(ctx, site, now, back)
			if err != nil {
				slog.WarnContext(ctx, "a visit log is not read wholly; it is read anew when it is asked for", "site", site.ID, "error", err)
				log.giveUp()
				select {
				case first <- err:
				default: // nobody waits for it any more
				}
				whole <- err
				return
			}
			last := i == len(firstReads)-1
			if next.Len() == 0 && !last {
				continue // nothing to rehearse on yet
			}
			since := now.Add(-back)
			if last {
				since = time.Time{}
			}
			log.take(next, now, since)
			select {
			case first <- nil:
			default: // it was there before
			}
		}
		whole <- nil
	}()
	if err := <-first; err != nil {
		return err
	}
	select {
	case err := <-whole:
		return err
	case <-time.After(firstPatience):
		return nil
	}
}

// readSince reads the visits of some time back into a log that nobody reads yet.
func (l *Logs) readSince(ctx context.Context, site sites.Site, now time.Time, back time.Duration) (*Log, error) {
	zone, next := site.Location(), &Log{}
	next.begin(now)
	var err error
	next.next, err = l.store.PageViews.Read(ctx, site.ID, time.Time{}, now.Add(-back), func(v pageviews.PageView) error {
		next.add(v, zone, now)
		return nil
	})
	if err == nil {
		next.Sort()
	}
	return next, err
}

// take puts what was read in place of what is there.
func (log *Log) take(next *Log, now, partial time.Time) {
	log.reading.Lock()
	defer log.reading.Unlock()
	log.Log, log.rows, log.next, log.startedAt, log.caught, log.partial = next.Log, next.rows, next.next, now, now, partial
	log.forgetRivals()
}

// giveUp has a log that was not read wholly be read anew.
func (log *Log) giveUp() {
	log.reading.Lock()
	defer log.reading.Unlock()
	log.next, log.caught, log.partial = time.Time{}, time.Time{}, time.Time{}
}

// bringUp adds to a log what was written since it was last asked.
func (l *Logs) bringUp(ctx context.Context, site sites.Site, log *Log) error {
	zone, now := site.Location(), l.now()
	if now.Sub(log.startedAt) > renewal {
		next, err := l.readSince(ctx, site, now, Kept)
		if err == nil {
			log.take(next, now, time.Time{})
		}
		return err
	}
	var fresh []pageviews.PageView
	next, err := l.store.PageViews.Read(ctx, site.ID, log.next, now.Add(-Kept), func(v pageviews.PageView) error {
		fresh = append(fresh, v)
		return nil
	})
	if err != nil {
		return err
	}
	log.next, log.caught = next, now
	if len(fresh) == 0 {
		return nil
	}
	log.reading.Lock()
	defer log.reading.Unlock()
	for _, v := range fresh {
		log.add(v, zone, now)
	}
	log.Sort()
	log.forgetRivals()
	return nil
}

// add adds a page view, or what is new of one. One that cannot be read is left
// out: it must not keep the others away.
func (log *Log) add(row pageviews.PageView, zone *time.Location, now time.Time) {
	v, err := viewOf(row, zone)
	if err != nil {
		slog.Warn("a page view cannot be read", "id", row.ID, "error", err)
		return
	}
	if at, ok := log.rows.find(row.ID); ok {
		log.SetStay(at, v)
		return
	}
	at := log.Add(v)
	if now.Sub(row.At) < settled {
		log.rows.keep(row.ID, at, now)
	}
}

// settled is how long a page view may still be recorded again, longer than the
// longest stay.
const settled = 6 * time.Hour

// recent finds the rows of page views that may be recorded again. Older ones
// are let go of, half of them at a time.
type recent struct {
	seed         maphash.Seed
	young, older map[uint64]int
	turned       time.Time
}

func newRecent(now time.Time) recent {
	return recent{maphash.MakeSeed(), map[uint64]int{}, nil, now}
}

func (r *recent) find(id string) (row int, ok bool) {
	key := maphash.String(r.seed, id)
	if row, ok = r.young[key]; !ok {
		row, ok = r.older[key]
	}
	return row, ok
}

func (r *recent) keep(id string, row int, now time.Time) {
	if now.Sub(r.turned) > settled {
		r.young, r.older, r.turned = map[uint64]int{}, r.young, now
	}
	r.young[maphash.String(r.seed, id)] = row
}

func viewOf(row pageviews.PageView, zone *time.Location) (rehearse.View, error) {
	v := rehearse.View{Visitor: row.Visitor, Visit: row.Visit, At: row.At, Seconds: row.Seconds}
	var m rehearse.Moments
	if err := json.Unmarshal(row.Moments, &m); err != nil {
		return v, err
	}
	if err := json.Unmarshal(row.Facts, &v.Facts); err != nil {
		return v, err
	}
	local := row.At.In(zone)
	v.Facts["clock.date"], v.Facts["clock.weekday"] = local.Format(time.DateOnly), schedule.Weekdays[local.Weekday()]
	v.Facts["clock.time"] = local.Hour()*60 + local.Minute()
	m.Tell(&v)
	return v, nil
}

// Rival readies a piece to be in play, or gives the one made before under the
// same key, which must change with the piece.
func (log *Log) Rival(key, id string, d rehearse.Draft) *rehearse.Rival {
	log.rivals.Lock()
	defer log.rivals.Unlock()
	if r := log.rivals.made[key]; r != nil {
		return r
	}
	if len(log.rivals.made) > 1000 {
		clear(log.rivals.made)
	}
	r := log.Log.Rival(id, d)
	log.rivals.made[key] = r
	return r
}

// ForgetStored deletes the page views that are too old.
func (l *Logs) ForgetStored(ctx context.Context) error {
	return l.store.PageViews.Forget(ctx, l.now().Add(-Kept))
}

// ForgetIdle lets go of logs that nobody has read for a while.
func (l *Logs) ForgetIdle(context.Context) error {
	l.mu.Lock()
	defer l.mu.Unlock()
	for id, log := range l.sites {
		if l.now().Sub(log.read) > idleLogs {
			delete(l.sites, id)
		}
	}
	return nil
}
