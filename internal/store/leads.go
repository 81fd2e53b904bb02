package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jmoiron/sqlx"
)

// Submission is what a visitor sent from a piece.
type Submission struct {
	ID       string
	Piece    string
	Variant  string
	Visitor  string
	Visit    string
	Page     string
	Channel  string
	Campaign string
	Referrer string
	Email    string // empty where the piece did not ask
	Name     string
	Answers  map[string]string
	At       time.Time
	// Converts says that sending was the conversion.
	Converts bool
	// Unwatched keeps the answers but counts nothing: the visitor asked not to be measured.
	Unwatched bool
}

// AddSubmission stores answers, the lead they make and the conversion, as a
// whole, and returns only once that is committed. Sent twice, it counts once.
func (s *Store) AddSubmission(ctx context.Context, site int64, zone *time.Location, sub Submission) error {
	answers, err := json.Marshal(sub.Answers)
	if err != nil {
		return err
	}
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		result, err := tx.ExecContext(ctx, `
			insert into submissions (site_id, id, piece_id, variant, visitor, page, channel, campaign, referrer, answers, at)
			values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) on conflict do nothing`,
			site, sub.ID, sub.Piece, sub.Variant, sub.Visitor, sub.Page, sub.Channel, sub.Campaign, sub.Referrer, string(answers), sub.At)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return err
		}
		if sub.Email != "" {
			if err := addLead(ctx, tx, site, sub); err != nil {
				return err
			}
		}
		if !sub.Converts || sub.Unwatched {
			return nil
		}
		return addEvents(ctx, tx, site, zone, []Event{{
			ID: sub.ID, At: sub.At, Kind: Converted, Piece: sub.Piece, Variant: sub.Variant, Visitor: sub.Visitor, Visit: sub.Visit, Page: sub.Page,
		}})
	})
}

// addLead makes or meets the lead of a submission. A person is their address,
// in whatever case it is written.
func addLead(ctx context.Context, tx *sqlx.Tx, site int64, sub Submission) error {
	_, err := tx.ExecContext(ctx, `
		with met as (
			insert into leads as l (site_id, email, email_key, name, first_at, last_at)
			values ($1, $2, lower($2), $3, $4, $4)
			on conflict (site_id, email_key) do update
				set last_at = greatest(l.last_at, excluded.last_at), name = coalesce(nullif(excluded.name, ''), l.name)
			returning id
		)
		update submissions set lead_id = met.id from met where site_id = $1 and submissions.id = $5::uuid`,
		site, sub.Email, sub.Name, sub.At, sub.ID)
	return err
}

// Lead is a person with the latest of what they sent.
type Lead struct {
	ID       int64           `db:"id"`
	Email    string          `db:"email"`
	Name     string          `db:"name"`
	FirstAt  time.Time       `db:"first_at"`
	LastAt   time.Time       `db:"last_at"`
	Times    int             `db:"times"`
	Piece    string          `db:"piece_id"`
	Variant  string          `db:"variant"`
	Page     string          `db:"page"`
	Channel  string          `db:"channel"`
	Campaign string          `db:"campaign"`
	Referrer string          `db:"referrer"`
	Answers  json.RawMessage `db:"answers"`
}

// LeadQuery picks leads, the latest first.
type LeadQuery struct {
	Search string // in address, name or answers; empty: all
	Piece  string // empty: any
	// Before goes on from the last lead of a page; zero starts at the top.
	BeforeAt time.Time
	BeforeID int64
	Limit    int
}

// picked is whether a search ($2) picks a lead: by its address, its name, or
// anything it ever answered (to the piece $3, where one is named). What an
// answer is called is none of it.
const picked = `($2 = '' or strpos(l.email_key, lower($2)) > 0 or strpos(lower(l.name), lower($2)) > 0 or exists (
	select 1 from submissions b, json_each_text(case json_typeof(b.answers) when 'object' then b.answers else '{}' end) said
	where b.site_id = l.site_id and b.lead_id = l.id and ($3 = '' or b.piece_id = $3) and strpos(lower(said.value), lower($2)) > 0))`

// Leads lists leads with what they last sent (from the piece, where the query names one).
func (s *Store) Leads(ctx context.Context, site int64, q LeadQuery) (leads []Lead, err error) {
	if q.BeforeAt.IsZero() {
		q.BeforeAt, q.BeforeID = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC), 0
	}
	err = s.db.SelectContext(ctx, &leads, `
		select l.id, l.email, l.name, l.first_at, l.last_at, t.times, t.piece_id, t.variant, t.page, t.channel, t.campaign, t.referrer, t.answers
		from leads l join lateral (
			select b.*, count(*) over () as times from submissions b
			where b.site_id = l.site_id and b.lead_id = l.id and ($3 = '' or b.piece_id = $3)
			order by b.at desc, b.id limit 1) t on true
		where l.site_id = $1 and (l.last_at, l.id) < ($4, $5)
			and `+picked+`
		order by l.last_at desc, l.id desc limit $6`,
		site, q.Search, q.Piece, q.BeforeAt, q.BeforeID, q.Limit)
	return leads, err
}

// CountLeads counts a site's leads, and those a search picks.
func (s *Store) CountLeads(ctx context.Context, site int64, q LeadQuery) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `
		select count(*) from leads l
		where l.site_id = $1
			and ($3 = '' or exists (select 1 from submissions b where b.site_id = l.site_id and b.lead_id = l.id and b.piece_id = $3))
			and `+picked,
		site, q.Search, q.Piece)
	return n, err
}

// AnswerKeys lists what leads were asked besides name and email.
func (s *Store) AnswerKeys(ctx context.Context, site int64, piece string) (keys []string, err error) {
	err = s.db.SelectContext(ctx, &keys, `
		select distinct k from submissions b, json_object_keys(b.answers) k
		where b.site_id = $1 and ($2 = '' or b.piece_id = $2) and k not in ('name', 'email') order by k limit 100`, site, piece)
	return keys, err
}
