package store

import (
	"context"
	"errors"
	"log/slog"
	"time"
)

// RestoreDays is for how many days a deleted piece can be restored.
const RestoreDays = 30

const (
	keepingEvery    = 30 * time.Minute
	keepingPatience = time.Minute
	refusalDays     = 30
	browserDays     = 90
	leftOutDays     = 400
	// It looks through all that is kept of visitors.
	eventsForgotEvery = 24 * time.Hour
)

// Keep removes, now and then until ctx ends, what is past its time: sessions,
// known browsers, counts of what was refused, and the documents of pieces that
// can no longer be restored. A piece's name stays, for its people and counts.
func (s *Store) Keep(ctx context.Context) {
	tick := time.NewTicker(keepingEvery)
	defer tick.Stop()
	var forgot time.Time
	for {
		err := s.forget(ctx)
		if time.Since(forgot) > eventsForgotEvery {
			err = errors.Join(err, s.ForgetEvents(ctx, time.Now()))
			forgot = time.Now()
		}
		if err != nil && ctx.Err() == nil {
			slog.WarnContext(ctx, "what is past its time is still kept", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

const dueEvery = 2 * time.Second

// Resume does what is due in the lives of pieces until ctx ends.
func (s *Store) Resume(ctx context.Context) {
	tick := time.NewTicker(dueEvery)
	defer tick.Stop()
	for {
		if err := s.Pass(ctx); err != nil && ctx.Err() == nil {
			slog.WarnContext(ctx, "what is due in the lives of pieces is not done yet", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

func (s *Store) forget(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, keepingPatience)
	defer cancel()
	errs := []error{s.MakeMonths(ctx, time.Now(), time.Now())}
	for _, one := range []struct {
		query string
		args  []any
	}{
		{`delete from sessions where expiry < now()`, nil},
		{`delete from known_browsers where used_at < now() - make_interval(days => $1)`, []any{browserDays}},
		{`delete from left_out where day < current_date - $1::int`, []any{leftOutDays}},
		{`delete from visit_interruptions where day < current_date - $1::int`, []any{leftOutDays}},
		{`delete from refusals where day < current_date - $1::int`, []any{refusalDays}},
		{`delete from piece_versions v using pieces p
			where p.site_id = v.site_id and p.id = v.piece_id and p.removed_at < now() - make_interval(days => $1)`, []any{RestoreDays}},
		{`update pieces set draft = json_build_object('name', draft ->> 'name'), live = null
			where removed_at < now() - make_interval(days => $1) and (live is not null or draft ->> 'split' is not null)`, []any{RestoreDays}},
	} {
		_, err := s.db.ExecContext(ctx, one.query, one.args...)
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}
