package store

import (
	"context"
	"encoding/json"
	"errors"
	"strconv"
	"time"

	"github.com/jmoiron/sqlx"
)

// Submission is what a visitor sent from one scene of a piece.
type Submission struct {
	ID string
	// Walk is the visitor's way through the piece, which its submissions share.
	// Empty, or a walk of somebody else: one of its own.
	Walk     string
	Scene    string
	Piece    string
	Variant  string
	Visitor  string
	Visit    string
	Page     string
	Channel  string
	Campaign string
	Referrer string
	Email    string // empty where the scene did not ask
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
// Answers given before the address, on the same walk, are the lead's too. lead
// reports whether the walk has left an address by now.
func (s *Store) AddSubmission(ctx context.Context, site int64, zone *time.Location, sub Submission) (lead bool, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if sub.Walk, err = onWalk(ctx, tx, site, sub); err != nil {
			return err
		}
		if err := addSubmission(ctx, tx, site, zone, sub, true); err != nil {
			return err
		}
		return tx.GetContext(ctx, &lead, `select lead_id is not null from walks where site_id = $1 and id = $2`, site, sub.Walk)
	})
	return lead, err
}

// addSubmission stores what was sent on a walk that is there. leads says that
// the walk has left an address by now, or may have: then all its answers are
// the lead's.
func addSubmission(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, sub Submission, leads bool) error {
	answers, err := json.Marshal(sub.Answers)
	if err != nil {
		return err
	}
	result, err := tx.ExecContext(ctx, `
		insert into submissions (site_id, id, walk_id, scene, piece_id, variant, visitor, page, channel, campaign, referrer, name, answers, at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14) on conflict do nothing`,
		site, sub.ID, sub.Walk, sub.Scene, sub.Piece, sub.Variant, sub.Visitor, sub.Page, sub.Channel, sub.Campaign, sub.Referrer, sub.Name, string(answers), sub.At)
	if err != nil {
		return err
	}
	n, err := result.RowsAffected()
	if err != nil {
		return err
	}
	if n > 0 && sub.Email != "" {
		if err := addLead(ctx, tx, site, sub); err != nil {
			return err
		}
	}
	if leads {
		_, err := tx.ExecContext(ctx, `
			update submissions b set lead_id = w.lead_id from walks w
			where w.site_id = $1 and w.id = $2 and b.site_id = $1 and b.walk_id = w.id and w.lead_id is not null and b.lead_id is null`, site, sub.Walk)
		if err != nil {
			return err
		}
	}
	if n == 0 || !sub.Converts || sub.Unwatched {
		return nil
	}
	return addEvents(ctx, tx, anyShard(), &batch{site, zone, []Event{{
		ID: sub.ID, At: sub.At, Kind: Converted, Piece: sub.Piece, Variant: sub.Variant, Visitor: sub.Visitor, Visit: sub.Visit, Page: sub.Page,
	}}, nil})
}

// onWalk begins the submission's walk or goes on with it, and gives its id.
func onWalk(ctx context.Context, tx *sqlx.Tx, site int64, sub Submission) (id string, err error) {
	for _, walk := range []string{sub.Walk, sub.ID} {
		if walk == "" {
			continue
		}
		err = found(tx.GetContext(ctx, &id, `
			insert into walks as w (site_id, id, piece_id, variant, visitor, began_at, last_at) values ($1, $2, $3, $4, $5, $6, $6)
			on conflict (site_id, id) do update set last_at = greatest(w.last_at, excluded.last_at)
				where w.visitor = excluded.visitor and w.piece_id = excluded.piece_id
			returning id`, site, walk, sub.Piece, sub.Variant, sub.Visitor, sub.At))
		if !errors.Is(err, ErrNotFound) {
			return id, err
		}
	}
	return "", err
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
		), mine as (
			update submissions set lead_id = met.id from met where site_id = $1 and submissions.id = $5::uuid
		)
		update walks set lead_id = met.id from met where site_id = $1 and walks.id = $6::uuid`,
		site, sub.Email, sub.Name, sub.At, sub.ID, sub.Walk)
	return err
}

// Lead is a person, with each walk on which they left answers, the latest first.
type Lead struct {
	ID      int64     `db:"id"`
	Email   string    `db:"email"`
	Name    string    `db:"name"`
	FirstAt time.Time `db:"first_at"`
	LastAt  time.Time `db:"last_at"`
	Times   int       `db:"times"` // walks, also those beyond what Walks lists
	Walks   []Walk    `db:"-"`
}

// Walk is one visitor's way through one piece and what they told it. Where
// several scenes asked under one name, each answer is kept: email, email_2.
type Walk struct {
	ID       string
	Piece    string
	Variant  string
	Page     string
	Channel  string
	Campaign string
	Referrer string
	Name     string
	At       time.Time // of its first answer
	Answers  map[string]string
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

// MostWalks is how many walks of a lead are listed.
const MostWalks = 50

// picked is whether a search ($2) picks a lead: by its address, its name, or
// anything it ever answered (to the piece $3, where one is named). What an
// answer is called is none of it.
const picked = `($2 = '' or strpos(l.email_key, lower($2)) > 0 or strpos(lower(l.name), lower($2)) > 0 or exists (
	select 1 from submissions b, json_each_text(case json_typeof(b.answers) when 'object' then b.answers else '{}' end) said
	where b.site_id = l.site_id and b.lead_id = l.id and ($3 = '' or b.piece_id = $3) and strpos(lower(said.value), lower($2)) > 0))`

// Leads lists leads with what they sent (to the piece, where the query names one).
func (s *Store) Leads(ctx context.Context, site int64, q LeadQuery) (leads []Lead, err error) {
	if q.BeforeAt.IsZero() {
		q.BeforeAt, q.BeforeID = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC), 0
	}
	err = s.db.SelectContext(ctx, &leads, `
		select l.id, l.email, l.name, l.first_at, l.last_at, t.times
		from leads l join lateral (
			select count(distinct b.walk_id) as times from submissions b
			where b.site_id = l.site_id and b.lead_id = l.id and ($3 = '' or b.piece_id = $3)) t on t.times > 0
		where l.site_id = $1 and (l.last_at, l.id) < ($4, $5)
			and `+picked+`
		order by l.last_at desc, l.id desc limit $6`,
		site, q.Search, q.Piece, q.BeforeAt, q.BeforeID, q.Limit)
	if err == nil && len(leads) > 0 {
		err = s.addWalks(ctx, site, q.Piece, leads)
	}
	return leads, err
}

// addWalks lists the latest walks of leads.
func (s *Store) addWalks(ctx context.Context, site int64, piece string, leads []Lead) error {
	ids, at := make([]int64, len(leads)), map[int64]*Lead{}
	for i := range leads {
		ids[i], at[leads[i].ID] = leads[i].ID, &leads[i]
	}
	var rows []struct {
		Lead     int64           `db:"lead_id"`
		Walk     string          `db:"walk_id"`
		Piece    string          `db:"piece_id"`
		Variant  string          `db:"variant"`
		Page     string          `db:"page"`
		Channel  string          `db:"channel"`
		Campaign string          `db:"campaign"`
		Referrer string          `db:"referrer"`
		Name     string          `db:"name"`
		At       time.Time       `db:"at"`
		Answers  json.RawMessage `db:"answers"`
	}
	err := s.db.SelectContext(ctx, &rows, `
		select b.lead_id, b.walk_id, b.piece_id, b.variant, b.page, b.channel, b.campaign, b.referrer, b.name, b.at, b.answers
		from unnest($2::bigint[]) given (lead_id) join lateral (
			select walk_id, min(at) as began from submissions
			where site_id = $1 and lead_id = given.lead_id and ($3 = '' or piece_id = $3)
			group by walk_id order by min(at) desc, walk_id limit $4) w on true
		join submissions b on b.site_id = $1 and b.walk_id = w.walk_id and b.lead_id = given.lead_id
		order by b.lead_id, w.began desc, w.walk_id, b.at, b.id`, site, ids, piece, MostWalks)
	for _, row := range rows {
		lead := at[row.Lead]
		if n := len(lead.Walks); n == 0 || lead.Walks[n-1].ID != row.Walk {
			lead.Walks = append(lead.Walks, Walk{
				ID: row.Walk, Piece: row.Piece, Variant: row.Variant, Page: row.Page, Channel: row.Channel, Campaign: row.Campaign, Referrer: row.Referrer,
				At: row.At, Answers: map[string]string{},
			})
		}
		walk := &lead.Walks[len(lead.Walks)-1]
		if row.Name != "" {
			walk.Name = row.Name
		}
		walk.add(row.Answers)
	}
	return err
}

// add adds a scene's answers. A name that another scene's answer has already
// gets a number, unless the answer is the same.
func (w *Walk) add(raw json.RawMessage) {
	var answers map[string]string
	if json.Unmarshal(raw, &answers) != nil {
		return
	}
	for key, answer := range answers {
		name := key
		for n := 2; ; n++ {
			if had, taken := w.Answers[name]; !taken || had == answer {
				break
			}
			name = key + "_" + strconv.Itoa(n)
		}
		w.Answers[name] = answer
	}
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

// AnswerKeys lists what leads were asked besides name and email, with the
// numbers that names get where several scenes of a walk asked under one.
func (s *Store) AnswerKeys(ctx context.Context, site int64, piece string) (keys []string, err error) {
	err = s.db.SelectContext(ctx, &keys, `
		with asked as (
			select k, count(distinct b.answers ->> k) as answers from submissions b, json_object_keys(b.answers) k
			where b.site_id = $1 and b.lead_id is not null and ($2 = '' or b.piece_id = $2) group by b.walk_id, k
		)
		select distinct case n when 1 then k else k || '_' || n end as key
		from (select k, max(answers) as most from asked group by k) a, generate_series(1, a.most) n
		where n > 1 or k not in ('name', 'email') order by key limit $3`, site, piece, maxAnswerKeys)
	return keys, err
}

const maxAnswerKeys = 1000
