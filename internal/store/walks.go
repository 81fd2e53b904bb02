package store

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"
)

// Walker is who goes on with a walk, and from where.
type Walker struct {
	Walk     string // a UUID of the page's making
	Piece    string
	Variant  string
	Design   string // the hash of the drawing it began with
	Visitor  string
	Visit    string
	Page     string
	Channel  string
	Run      int // of the piece's split
	Device   string
	Country  string
	Known    string // new or returning
	Campaign string
	Referrer string
	At       time.Time
	// Unwatched keeps the answers but counts nothing: the visitor asked not to be measured.
	Unwatched bool
	// Begins says that the walk most likely begins, so that it is not looked for first.
	Begins bool
	// Place and Network are digests of where they are; empty: not known.
	Place, Network string
	// Generous is how many times as many goes as usual one place may take; 0: once.
	Generous int
	// Source is what prizes are drawn by; nil: the machine's cryptographic one.
	Source rand.Source
}

// Progress is how far a walk has come. The zero Progress has not begun.
type Progress struct {
	Design string `db:"design"`
	Steps  int    `db:"steps"`
	State  []byte `db:"state"`
	Lead   bool   `db:"lead"` // an address was left
	// Drawn is what was drawn for the step that wants it.
	Drawn *Drawn `db:"-"`
}

// Moved is what going on has come to.
type Moved struct {
	Steps  int
	State  []byte
	Scene  string
	Result string // empty: none
	Ended  bool
	// Sent are the answers that were taken along.
	Sent []Sent
	// Votes are the choices made in polls, by key.
	Votes map[string][]string
	// Began is when the walk began, Came how often scenes were come to or gone on
	// from for the first time, and Answers by how much the count of each choice
	// of a field grows or shrinks.
	Began   time.Time
	Came    map[string]Came
	Answers map[Answered]int
	Gone    []Way // each once a walk
	// Want is a draw to be made before anything else can be said: take is called
	// again with what it comes to. It may want one draw at a time.
	Want *Want
	// Go is one that was taken, of what was drawn.
	Go *Go
}

// Way is one from a scene to the next.
type Way struct {
	Scene string `json:"scene" db:"scene"`
	Next  string `json:"next" db:"next"`
}

// Came counts one walk at a scene.
type Came struct {
	Reached, Left int
	Seconds       int // that it took to go on
}

// Answered is a choice of a field; the empty choice stands for all who answered.
type Answered struct{ Key, Choice string }

// Sent is what a visitor sent from one scene.
type Sent struct {
	ID      string // the same for the same step
	Scene   string
	Email   string // empty where the scene did not ask
	Name    string
	Answers map[string]string
	// Email's digest, and the keys of the scene's draws.
	EmailDigest string
	Draws       []string
	Converts    bool // sending was the conversion
	// Again says that the scene was sent on this walk before: these answers take
	// the place of those.
	Again bool
}

const tries = 3

// errAgain says that another request has begun the walk or gone on with it meanwhile.
var errAgain = errors.New("the walk was gone on with meanwhile")

// Advance goes on with a walk: take is told how far it has come, and says what
// it comes to. All of it is committed before Advance returns, and of two
// requests for one walk the second sees what the first has done. Where take
// gives nil, nothing is stored. lead reports whether an address was left on
// this walk by now. A walk of somebody else is ErrNotFound. take may be called
// several times; the last counts.
//
// Nothing is locked while take computes: what it says is stored only if the walk
// still is where take was told it was.
func (s *Store) Advance(ctx context.Context, site int64, zone *time.Location, who Walker, take func(Progress) (*Moved, error)) (lead bool, err error) {
	begins := who.Begins
	for range tries {
		lead, err = s.advance(ctx, site, zone, who, begins, take)
		// A connection that broke is no reason to send a visitor away: of what is
		// done twice the second finds that it was done.
		if !errors.Is(err, errAgain) && !Unreachable(err) {
			break
		}
		begins = false
	}
	return lead, err
}

func (s *Store) advance(ctx context.Context, site int64, zone *time.Location, who Walker, begins bool, take func(Progress) (*Moved, error)) (lead bool, err error) {
	key := walkKey{site, who.Walk, who.Piece, who.Visitor}
	p, known := s.walking.Get(key)
	known = known && !begins
	fresh := begins
	if !begins && !known {
		p, err = s.WalkState(ctx, site, who.Walk, who.Piece, who.Visitor)
		if fresh = errors.Is(err, ErrNotFound); err != nil && !fresh {
			return false, err
		}
	}
	moved, err := take(p)
	if known && (err != nil || moved == nil) {
		// Another server may know better.
		return false, s.forgotten(key)
	}
	if err != nil || moved == nil {
		return p.Lead, err
	}
	keep := func(p Progress, moved *Moved) (err error) {
		lead = p.Lead
		if moved.plain() {
			err = keepWalk(ctx, s.db, site, zone, who, p, moved, fresh)
		} else {
			err = s.tx(ctx, func(tx *sqlx.Tx) error {
				lead, err = keepAll(ctx, tx, site, zone, who, p, moved, fresh)
				return err
			})
		}
		s.walked(key, Progress{Design: who.Design, Steps: moved.Steps, State: moved.State, Lead: lead}, err)
		return err
	}
	drawn := ""
	if moved.Want != nil {
		drawn = moved.Want.Key
		err = s.drawing(ctx, site, who, p, moved.Want, take, keep)
	} else {
		err = keep(p, moved)
	}
	err = s.refused(ctx, site, zone, who, drawn, err)
	if errors.Is(err, errAgain) {
		err = s.whyNot(ctx, site, who)
	}
	return lead, err
}

// walkKey is a walk, with whose it is.
type walkKey struct {
	site                 int64
	walk, piece, visitor string
}

// How many walks are remembered as they stand, and how much of one: 16 MB in all.
const (
	mostWalking  = 4096
	mostRecalled = 4 << 10
)

// walked remembers where a walk is now, so that its next step need not look it
// up. What is remembered may be old: a step is stored only onto the very step
// it was taken from.
func (s *Store) walked(key walkKey, p Progress, err error) {
	if err != nil || len(p.State) > mostRecalled {
		s.walking.Remove(key)
		return
	}
	s.walking.Add(key, p)
}

func (s *Store) forgotten(key walkKey) error {
	s.walking.Remove(key)
	return errAgain
}

// plain reports whether nothing but the walk itself, its answers and its totals
// is to be stored.
func (m *Moved) plain() bool {
	return len(m.Votes) == 0 && (m.Go == nil || len(m.Sent) == 0) && !slices.ContainsFunc(m.Sent, func(s Sent) bool { return s.Email != "" || s.Converts || s.Again })
}

// whyNot says why a walk was not where it was thought to be.
func (s *Store) whyNot(ctx context.Context, site int64, who Walker) error {
	var mine bool
	err := found(s.db.GetContext(ctx, &mine, `select piece_id = $3 and visitor = $4 from walks where site_id = $1 and id = $2`, site, who.Walk, who.Piece, who.Visitor))
	if err == nil && mine {
		return errAgain
	}
	return errors.Join(err, ErrNotFound)
}

// keepAll stores what a walk has come to with the lead, the conversion and the
// votes that come of it.
func keepAll(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, who Walker, p Progress, m *Moved, fresh bool) (lead bool, err error) {
	walk := *m
	walk.Sent = nil
	if err := keepWalk(ctx, tx, site, zone, who, p, &walk, fresh); err != nil {
		return false, err
	}
	if err := wonWith(ctx, tx, site, who, m.Sent); err != nil {
		return false, err
	}
	lead = p.Lead
	for _, sent := range m.Sent {
		sub := Submission{
			ID: sent.ID, Walk: who.Walk, Scene: sent.Scene, Piece: who.Piece, Variant: who.Variant, Visitor: who.Visitor, Visit: who.Visit, Page: who.Page,
			Channel: who.Channel, Campaign: who.Campaign, Referrer: who.Referrer, Email: sent.Email, Name: sent.Name, Answers: sent.Answers, At: who.At,
			Run: who.Run, Device: who.Device, Country: who.Country, Known: who.Known, Converts: sent.Converts, Unwatched: who.Unwatched,
		}
		if sent.Again {
			if _, err := tx.ExecContext(ctx, `delete from submissions where site_id = $1 and walk_id = $2 and scene = $3`, site, who.Walk, sent.Scene); err != nil {
				return false, err
			}
		}
		if err := addSubmission(ctx, tx, site, zone, sub, lead || sent.Email != ""); err != nil {
			return false, err
		}
		lead = lead || sent.Email != ""
	}
	return lead, vote(ctx, tx, site, who, m.Votes)
}

const (
	beginWalk = `
		with w as (
			insert into walks (site_id, id, piece_id, variant, design, visitor, began_at, last_at, steps, state, scene, result, ended)
			values ($1, $2, $3, $4, $5, $6, $7, $7, $8, $9, $10, nullif($11, ''), $12) on conflict do nothing
			returning lead_id
		)`
	goOnWithWalk = `
		with w as (
			update walks set design = $5, steps = $8, state = $9, scene = $10, result = nullif($11, ''), ended = $12, last_at = greatest(last_at, $7)
			where site_id = $1 and id = $2 and piece_id = $3 and visitor = $6 and steps = $13 and variant = coalesce(nullif($4, ''), variant)
			returning lead_id
		)`
	countWalk = `, counts as (
			insert into walk_counts (site_id, piece_id, variant, day, counts) select $1, $3, $4, $14::date, nullif($15::text, '')::json from w where $15::text <> ''
		)`
	sendFromWalk = `, sent as (
			insert into submissions (site_id, id, walk_id, scene, piece_id, variant, visitor, page, channel, campaign, referrer, name, answers, at, lead_id)
			select $1, s.id, $2, s.scene, $3, $4, $6, $16, $17, $18, $19, s.name, s.answers::json, $7, w.lead_id
			from w, unnest($20::uuid[], $21::text[], $22::text[], $23::text[]) as s (id, scene, name, answers)
			on conflict do nothing
		)`
	wasKept = ` select count(*) from w`

	// With as many parameters as the other has.
	begins         = beginWalk + `, known as (select $13::int)` + countWalk
	goesOn         = goOnWithWalk + countWalk
	beginsAlone    = begins + wasKept
	beginsAndSends = begins + sendFromWalk + wasKept
	goesOnAlone    = goesOn + wasKept
	goesOnAndSends = goesOn + sendFromWalk + wasKept
)

// keepWalk stores a walk with what was sent on it and what it adds to the
// totals, in one statement; errAgain where the walk is not where p says.
func keepWalk(ctx context.Context, db sqlx.QueryerContext, site int64, zone *time.Location, who Walker, p Progress, m *Moved, fresh bool) error {
	counts := ""
	var err error
	if !who.Unwatched {
		if counts, err = m.counts(); err != nil {
			return err
		}
	}
	alone, sends := goesOnAlone, goesOnAndSends
	if fresh {
		alone, sends = beginsAlone, beginsAndSends
	}
	args := []any{
		site, who.Walk, who.Piece, who.Variant, who.Design, who.Visitor, who.At, m.Steps, string(m.State), m.Scene, m.Result, m.Ended, p.Steps,
		m.Began.In(zone).Format(time.DateOnly), counts,
	}
	statement := alone
	if m.Go != nil {
		statement = m.Go.statement(fresh)
		args = append(args, m.Go.args(who)...)
	} else if len(m.Sent) > 0 {
		var ids, scenes, names, said []string
		for _, sent := range m.Sent {
			answers, err := json.Marshal(sent.Answers)
			if err != nil {
				return err
			}
			ids, scenes, names, said = append(ids, sent.ID), append(scenes, sent.Scene), append(names, sent.Name), append(said, string(answers))
		}
		statement = sends
		args = append(args, who.Page, who.Channel, who.Campaign, who.Referrer, ids, scenes, names, said)
	}
	var n int
	err = db.QueryRowxContext(ctx, statement, args...).Scan(&n)
	if err == nil && n == 0 {
		err = errAgain
	}
	return err
}

// vote counts choices made in polls, once a visitor and poll. The empty choice
// counts the voters. Polls go in sorted, as all rows do.
func vote(ctx context.Context, tx *sqlx.Tx, site int64, who Walker, votes map[string][]string) error {
	for _, key := range slices.Sorted(maps.Keys(votes)) {
		result, err := tx.ExecContext(ctx, `insert into votes (site_id, piece_id, key, visitor, at) values ($1, $2, $3, $4, $5) on conflict do nothing`,
			site, who.Piece, key, who.Visitor, who.At)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil {
			return err
		} else if n == 0 {
			continue
		}
		_, err = tx.ExecContext(ctx, `
			insert into tallies as t (site_id, piece_id, key, choice, shard, votes)
			select $1, $2, $3, choice, $4, 1 from unnest($5::text[]) choice order by choice
			on conflict (site_id, piece_id, key, choice, shard) do update set votes = t.votes + 1`,
			site, who.Piece, key, anyShard(), append(slices.Clone(votes[key]), ""))
		if err != nil {
			return err
		}
	}
	return nil
}

// Tally gives how often each choice of a field was taken, by its id, and how many voted.
func (s *Store) Tally(ctx context.Context, site int64, piece, key string) (votes map[string]int, voters int, err error) {
	var rows []struct {
		Choice string `db:"choice"`
		Votes  int    `db:"votes"`
	}
	err = s.db.SelectContext(ctx, &rows, `select choice, sum(votes) as votes from tallies where site_id = $1 and piece_id = $2 and key = $3 group by choice`, site, piece, key)
	votes = map[string]int{}
	for _, row := range rows {
		if row.Choice == "" {
			voters = row.Votes
		} else {
			votes[row.Choice] = row.Votes
		}
	}
	return votes, voters, err
}

// WalkState gives a walk as it stands, for who walks it.
func (s *Store) WalkState(ctx context.Context, site int64, walk, piece, visitor string) (p Progress, err error) {
	err = found(s.db.GetContext(ctx, &p, `
		select design, steps, coalesce(state, '{}') as state, lead_id is not null as lead from walks
		where site_id = $1 and id = $2 and piece_id = $3 and visitor = $4`, site, walk, piece, visitor))
	return p, err
}
