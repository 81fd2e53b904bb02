package store

import (
	"context"
	"errors"

	"gobbet/internal/store/pieces"
)

const (
	refusalDays = 30
	browserDays = 90
	leftOutDays = 400
)

// Forget removes what is past its time: sessions, known browsers, counts of what
// was refused, and the documents of pieces that can no longer be restored. A
// piece's name stays, for its people and counts.
func (s *Store) Forget(ctx context.Context) error {
	var errs []error
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
			where p.site_id = v.site_id and p.id = v.piece_id and p.removed_at < now() - make_interval(days => $1)`, []any{pieces.RestoreDays}},
		{`update pieces set draft = json_build_object('name', draft ->> 'name'), live = null
			where removed_at < now() - make_interval(days => $1) and (live is not null or draft ->> 'split' is not null)`, []any{pieces.RestoreDays}},
	} {
		_, err := s.db.ExecContext(ctx, one.query, one.args...)
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}
