package walks

import (
	"context"
	"encoding/json"
	"time"

	"gobbet/internal/store/pg"
)

// Answered is what one visitor answered on their way through a piece.
type Answered struct {
	ID      string          `db:"id"`
	Variant string          `db:"variant"`
	BeganAt time.Time       `db:"began_at"`
	Scene   string          `db:"scene"`
	Result  string          `db:"result"` // empty: none
	Ended   bool            `db:"ended"`
	Email   string          `db:"email"` // empty: none was left
	Answers json.RawMessage `db:"answers"`
}

// Query picks walks of a piece, the latest first.
type Query struct {
	Piece   string
	Variant string // empty: any
	Since   time.Time
	Search  string // in answers and addresses; empty: all
	// Choices are ids whose labels the search is in: answers are kept by them.
	Choices []string
	// Before goes on from the last walk of a page; zero starts at the top.
	BeforeAt time.Time
	BeforeID string
	Limit    int
}

// MostSearched is how many of a piece's latest walks a search looks through.
const MostSearched = 20_000

// Answered lists what was answered. A search looks through the MostSearched latest.
func (s *Store) Answered(ctx context.Context, site int64, q Query) (walks []Answered, err error) {
	if q.BeforeAt.IsZero() {
		q.BeforeAt, q.BeforeID = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC), "ffffffff-ffff-ffff-ffff-ffffffffffff"
	}
	err = s.db.SelectContext(ctx, &walks, `
		with latest as (
			select w.id, w.variant, w.began_at, w.scene, coalesce(w.result, '') as result, w.ended, w.lead_id, coalesce(w.state -> 'answers', '{}') as answers
			from walks w
			where w.site_id = $1 and w.piece_id = $2 and w.state is not null and w.began_at >= $3
				and (w.began_at, w.id) < ($4, $5::uuid) and ($6 = '' or w.variant = $6)
			order by w.began_at desc, w.id desc limit case when $7 = '' then $8::bigint else $9::bigint end
		)
		select l.id, l.variant, l.began_at, l.scene, l.result, l.ended, l.answers, coalesce(p.email, '') as email
		from latest l left join leads p on p.site_id = $1 and p.id = l.lead_id
		where $7 = '' or strpos(lower(p.email), lower($7)) > 0 or exists (
			select from json_each_text(l.answers) said where strpos(lower(said.value), lower($7)) > 0 or string_to_array(said.value, e'\n') && $10::text[])
		order by l.began_at desc, l.id desc limit $8::bigint`,
		site, q.Piece, q.Since, q.BeforeAt, q.BeforeID, q.Variant, q.Search, q.Limit, MostSearched, pg.Listed(q.Choices))
	return walks, err
}
