// Package leads keeps people by their addresses, with all they sent.
package leads

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/tally"
	"gobbet/internal/store/events"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

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
	Run      int // of the piece's split
	Device   string
	Country  string
	Known    string // new or returning
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
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if sub.Walk, err = onWalk(ctx, tx, site, sub); err != nil {
			return err
		}
		if err := AddSubmission(ctx, tx, site, zone, sub, true); err != nil {
			return err
		}
		return tx.GetContext(ctx, &lead, `select lead_id is not null from walks where site_id = $1 and id = $2`, site, sub.Walk)
	})
	return lead, err
}

// AddSubmission stores what was sent on a walk that is there. leads says that
// the walk has left an address by now, or may have: then all its answers are
// the lead's.
func AddSubmission(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, sub Submission, leads bool) error {
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
			with earlier as (
				update submissions b set lead_id = w.lead_id from walks w
				where w.site_id = $1 and w.id = $2 and b.site_id = $1 and b.walk_id = w.id and w.lead_id is not null and b.lead_id is null
				returning b.lead_id, b.answers
			), told as (
				select e.lead_id, lower(string_agg(said.value, ' ')) as said from earlier e, json_each_text(e.answers) said group by e.lead_id
			)
			update leads l set search = left(l.search || ' ' || told.said, $3) from told where l.site_id = $1 and l.id = told.lead_id`, site, sub.Walk, mostSearched)
		if err != nil {
			return err
		}
	}
	if n == 0 || !sub.Converts || sub.Unwatched {
		return nil
	}
	return events.AddWithin(ctx, tx, site, zone, tally.Event{
		ID: timedID(sub.ID, sub.At), At: sub.At, Kind: tally.Converted, Piece: sub.Piece, Variant: sub.Variant, Run: sub.Run, Visitor: sub.Visitor, Visit: sub.Visit, Page: sub.Page,
		Cuts: tally.Cuts{Channel: sub.Channel, Device: sub.Device, Country: sub.Country, Known: sub.Known}, After: -1,
	})
}

// timedID makes an id that begins with a time (UUIDv7), and is otherwise another id:
// raw events lie in the order of their time.
func timedID(other string, at time.Time) string {
	id, err := uuid.Parse(other)
	if err != nil {
		return other // the database says what is wrong with it
	}
	for i, ms := 5, at.UnixMilli(); i >= 0; i, ms = i-1, ms>>8 {
		id[i] = byte(ms)
	}
	id[6], id[8] = id[6]&0x0f|0x70, id[8]&0x3f|0x80
	return id.String()
}

// onWalk begins the submission's walk or goes on with it, and gives its id.
func onWalk(ctx context.Context, tx *sqlx.Tx, site int64, sub Submission) (id string, err error) {
	for _, walk := range []string{sub.Walk, sub.ID} {
		if walk == "" {
			continue
		}
		err = pg.Found(tx.GetContext(ctx, &id, `
			insert into walks as w (site_id, id, piece_id, variant, visitor, began_at, last_at) values ($1, $2, $3, $4, $5, $6, $6)
			on conflict (site_id, id) do update set last_at = greatest(w.last_at, excluded.last_at)
				where w.visitor = excluded.visitor and w.piece_id = excluded.piece_id
			returning id`, site, walk, sub.Piece, sub.Variant, sub.Visitor, sub.At))
		if !errors.Is(err, fault.ErrNotFound) {
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
			insert into leads as l (site_id, email, email_key, name, first_at, last_at, search)
			values ($1, $2, lower($2), $3, $4, $4, left($7, $8))
			on conflict (site_id, email_key) do update
				set last_at = greatest(l.last_at, excluded.last_at), name = coalesce(nullif(excluded.name, ''), l.name),
					search = case when strpos(l.search, excluded.search) > 0 then l.search else left(l.search || ' ' || excluded.search, $8) end
			returning id
		), mine as (
			update submissions set lead_id = met.id from met where site_id = $1 and submissions.id = $5::uuid
		)
		update walks set lead_id = met.id from met where site_id = $1 and walks.id = $6::uuid`,
		site, sub.Email, sub.Name, sub.At, sub.ID, sub.Walk, sub.foundBy(), mostSearched)
	return err
}

// mostSearched is how many characters of what a lead ever told it is found by.
const mostSearched = 20_000

// foundBy is what a search finds the lead of a submission by, in lower case.
func (sub Submission) foundBy() string {
	found := []string{sub.Email, sub.Name}
	for _, key := range slices.Sorted(maps.Keys(sub.Answers)) {
		if said := sub.Answers[key]; said != sub.Email && said != sub.Name {
			found = append(found, said)
		}
	}
	return strings.ToLower(strings.Join(found, " "))
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

// Query picks leads, the latest first. Piece, From, To and Channel pick them
// by what they left, and only that is listed of each.
type Query struct {
	Search string // in address, name or answers; empty: all
	// Named are pieces that a search finds by their names; who left answers there
	// is found too.
	Named   []string
	Piece   string    // empty: any
	From    time.Time // zero: any
	To      time.Time // not included; zero: any
	Channel string    // empty: any
	// Before goes on from the last lead of a page; zero starts at the top.
	BeforeAt time.Time
	BeforeID int64
	Limit    int
}

// MostWalks is how many walks of a lead are listed.
const MostWalks = 50

var forEver = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)

// args are those of every query over leads, in the order that left and picked
// have them: $1 to $7.
func (q Query) args(site int64) []any {
	from, to := q.between()
	return []any{site, strings.ToLower(q.Search), q.Piece, from, to, q.Channel, pg.Listed(q.Named)}
}

func (q Query) between() (from, to time.Time) {
	if from, to = q.From, q.To; to.IsZero() {
		to = forEver
	}
	return from, to
}

// left is whether a submission b is among what is asked for.
const left = `b.site_id = $1 and ($3 = '' or b.piece_id = $3) and b.at >= $4 and b.at < $5 and ($6 = '' or b.channel = $6)`

// picked is whether a lead l is: by the search, of what it left to the piece
// where one is named, and by when it came at all. What an answer is called is
// not searched.
const picked = `l.site_id = $1 and l.last_at >= $4 and l.first_at < $5 and ($2 = '' or l.id in (
	select s.id from leads s where s.site_id = $1 and s.search like '%' || replace(replace(replace($2, '\', '\\'), '%', '\%'), '_', '\_') || '%'
		and ($3 = '' or strpos(s.email_key, $2) > 0 or strpos(lower(s.name), $2) > 0 or exists (
			select from submissions b, json_each_text(case json_typeof(b.answers) when 'object' then b.answers else '{}' end) said
			where b.site_id = s.site_id and b.lead_id = s.id and b.piece_id = $3 and strpos(lower(said.value), $2) > 0))
	union all
	select b.lead_id from submissions b where b.site_id = $1 and b.piece_id = any($7) and b.lead_id is not null))`

// List lists leads with what they sent, as far as the query asks for it.
func (s *Store) List(ctx context.Context, site int64, q Query) (leads []Lead, err error) {
	if q.BeforeAt.IsZero() {
		q.BeforeAt, q.BeforeID = forEver, 0
	}
	err = s.db.SelectContext(ctx, &leads, `
		select l.id, l.email, l.name, l.first_at, l.last_at, t.times
		from leads l join lateral (
			select count(distinct b.walk_id) as times from submissions b where b.lead_id = l.id and `+left+`) t on t.times > 0
		where `+picked+` and (l.last_at, l.id) < ($8, $9)
		order by l.last_at desc, l.id desc limit $10`,
		append(q.args(site), q.BeforeAt, q.BeforeID, q.Limit)...)
	if err == nil && len(leads) > 0 {
		err = s.addWalks(ctx, site, q, leads)
	}
	return leads, err
}

// addWalks lists the latest walks of leads.
func (s *Store) addWalks(ctx context.Context, site int64, q Query, leads []Lead) error {
	from, to := q.between()
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
			select b.walk_id, min(b.at) as began from submissions b where b.lead_id = given.lead_id and `+left+`
			group by b.walk_id order by min(b.at) desc, b.walk_id limit $7) w on true
		join submissions b on b.site_id = $1 and b.walk_id = w.walk_id and b.lead_id = given.lead_id
		order by b.lead_id, w.began desc, w.walk_id, b.at, b.id`, site, ids, q.Piece, from, to, q.Channel, MostWalks)
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

// Count counts the leads that a query asks for.
func (s *Store) Count(ctx context.Context, site int64, q Query) (n int, err error) {
	err = s.db.GetContext(ctx, &n, `
		select count(*) from leads l where `+picked+`
			and ($8 or exists (select from submissions b where b.lead_id = l.id and `+left+`))`,
		append(q.args(site), q.Piece == "" && q.Channel == "" && q.From.IsZero() && q.To.IsZero())...)
	return n, err
}

// AnswerKeys lists what leads were asked besides name and email, with the
// numbers that names get where several scenes of a walk asked under one.
func (s *Store) AnswerKeys(ctx context.Context, site int64, q Query) (keys []string, err error) {
	from, to := q.between()
	err = s.db.SelectContext(ctx, &keys, `
		with asked as (
			select k, count(distinct b.answers ->> k) as answers from submissions b, json_object_keys(b.answers) k
			where b.lead_id is not null and `+left+` group by b.walk_id, k
		)
		select distinct case n when 1 then k else k || '_' || n end as key
		from (select k, max(answers) as most from asked group by k) a, generate_series(1, a.most) n
		where n > 1 or k not in ('name', 'email') order by key limit $2`, site, maxAnswerKeys, q.Piece, from, to, q.Channel)
	return keys, err
}

const maxAnswerKeys = 1000
