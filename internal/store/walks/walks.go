// Package walks keeps visitors' ways through pieces: where each is, what was answered
// on it, goes at draws, votes, and counts of all of it.
package walks

import (
	"context"
	"encoding/json"
	"errors"
	"maps"
	"math/rand/v2"
	"slices"
	"strconv"
	"time"

	"github.com/google/uuid"
	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/walk"
	"gobbet/internal/store/events"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/pg"
)

// Store is safe for use by many goroutines.
type Store struct {
	db *pg.DB
	// walking are walks as they were left by their latest step.
	walking *lru.Cache[walkKey, walk.Before]
	steps   together
}

// New keeps them over connections.
func New(db *pg.DB) *Store {
	walking, _ := lru.New[walkKey, walk.Before](mostWalking) // fails only for sizes below 1
	return &Store{db: db, walking: walking, steps: together{db: db}}
}

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
	// LikelyNew says that the walk most likely begins, so that it is not looked for first.
	LikelyNew bool
	// Place and Network are digests of where they are; empty: not known.
	Place, Network string
	// Generous is how many times as many goes as usual one place may take; 0: once.
	Generous int
	// Digest tells addresses that were left with goes apart, without saying which
	// they are; nil: nothing can be drawn.
	Digest func(address string) string
	// Source is what prizes are drawn by; nil: the machine's cryptographic one.
	Source rand.Source
}

// Take takes a walk on from where it stands. It is called again, from elsewhere
// or with what was drawn, where it has to be.
type Take func(walk.Before) (walk.Next, error)

// moved is what going on with a walk stores.
type moved struct {
	walk.Next
	state []byte
	began time.Time
}

// maxState bounds what is kept of one walk, in bytes.
const maxState = 256 << 10

func movedTo(next walk.Next) (*moved, error) {
	m := &moved{Next: next, began: time.UnixMilli(next.State.Began)}
	var err error
	if m.state, err = json.Marshal(next.State); err == nil && len(m.state) > maxState {
		err = fault.Fault{Message: "holds more than one visitor can say"}
	}
	return m, err
}

const tries = 3

// errAgain says that another request has begun the walk or gone on with it meanwhile.
var errAgain = errors.New("the walk was gone on with meanwhile")

// Advance goes on with a walk: take is told how far it has come, and says what
// it comes to. All of it is committed before Advance returns, and of two
// requests for one walk the second sees what the first has done. Where that
// changes nothing, nothing is stored. lead reports whether an address was left on
// this walk by now. A walk of somebody else is ErrNotFound. take may be called
// several times; the last counts.
//
// Nothing is locked while take computes: what it says is stored only if the walk
// still is where take was told it was.
func (s *Store) Advance(ctx context.Context, site int64, zone *time.Location, who Walker, take Take) (lead bool, err error) {
	likelyNew := who.LikelyNew
	for range tries {
		lead, err = s.advance(ctx, site, zone, who, likelyNew, take)
		// A connection that broke is no reason to send a visitor away: of what is
		// done twice the second finds that it was done.
		if !errors.Is(err, errAgain) && !pg.Unreachable(err) {
			break
		}
		likelyNew = false
	}
	return lead, err
}

func (s *Store) advance(ctx context.Context, site int64, zone *time.Location, who Walker, likelyNew bool, take Take) (lead bool, err error) {
	key := walkKey{site, who.Walk, who.Piece, who.Visitor}
	p, known := s.walking.Get(key)
	known = known && !likelyNew
	isNew := likelyNew
	if !likelyNew && !known {
		p, err = s.walkKept(ctx, site, who.Walk, who.Piece, who.Visitor)
		if isNew = errors.Is(err, fault.ErrNotFound); err != nil && !isNew {
			return false, err
		}
	}
	next, err := take(p)
	if known && (err != nil || !next.Changed && next.Draw == nil) {
		// Another server may know better.
		return false, s.forgotten(key)
	}
	lead = p.Lead
	keep := func(next walk.Next) error {
		lead = p.Lead
		if !next.Changed {
			return nil
		}
		m, err := movedTo(next)
		if err != nil {
			return err
		}
		if m.plain() {
			err = s.keepWalk(ctx, site, zone, who, p, m, isNew)
		} else {
			err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
				lead, err = keepWithLead(ctx, tx, site, zone, who, p, m, isNew)
				return err
			})
		}
		s.walked(key, walk.Before{Design: who.Design, Steps: m.Steps, State: m.State, Lead: lead}, len(m.state), err)
		return err
	}
	drawn := ""
	switch {
	case err != nil:
		return p.Lead, err
	case next.Draw != nil:
		drawn = next.Draw.Key
		err = s.drawing(ctx, site, who, next.Draw, func(d *walk.Drawn) error {
			again := p
			again.Drawn = d
			next, err := take(again)
			if err != nil {
				return err
			}
			return keep(next)
		})
	default:
		err = keep(next)
	}
	err = s.refused(ctx, site, zone, who, drawn, err)
	if errors.Is(err, errAgain) {
		err = s.elsewhere(ctx, site, who)
	}
	return lead, err
}

// walkKey is a walk, with whose it is.
type walkKey struct {
	site                 int64
	walk, piece, visitor string
}

// How many walks are remembered as they stand, and how many bytes one may take
// where it is stored: some 50 MB in all.
const (
	mostWalking  = 4096
	mostRecalled = 4 << 10
)

// walked remembers where a walk is now, so that its next step need not look it
// up. What is remembered may be old: a step is stored only onto the very step
// it was taken from.
func (s *Store) walked(key walkKey, p walk.Before, size int, err error) {
	if err != nil || size > mostRecalled {
		s.walking.Remove(key)
		return
	}
	// Not with the graph that it was walked on, which would be kept with it.
	p.State.Walk = flow.Walk{Path: p.State.Path, Answers: p.State.Answers, Ended: p.State.Ended}
	s.walking.Add(key, p)
}

func (s *Store) forgotten(key walkKey) error {
	s.walking.Remove(key)
	return errAgain
}

// plain reports whether nothing but the walk itself, its answers and its totals
// is to be stored.
func (m *moved) plain() bool {
	return len(m.Votes) == 0 && (m.Go == nil || len(m.Submissions) == 0) && !slices.ContainsFunc(m.Submissions, func(s walk.Submission) bool { return s.Email != "" || s.Converts || s.Replaces })
}

// elsewhere says why a walk was not where it was thought to be.
func (s *Store) elsewhere(ctx context.Context, site int64, who Walker) error {
	var mine bool
	err := pg.Found(s.db.GetContext(ctx, &mine, `select piece_id = $3 and visitor = $4 from walks where site_id = $1 and id = $2`, site, who.Walk, who.Piece, who.Visitor))
	if err == nil && mine {
		return errAgain
	}
	return errors.Join(err, fault.ErrNotFound)
}

// keepWithLead stores what a walk has come to with the lead, the conversion and the
// votes that come of it.
func keepWithLead(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, who Walker, p walk.Before, m *moved, isNew bool) (lead bool, err error) {
	alone := *m
	alone.Submissions = nil
	one, err := stepOf(site, zone, &who, p, &alone, isNew)
	if err == nil {
		err = keepWalkWithin(ctx, tx, one)
	}
	if err != nil {
		return false, err
	}
	if err := wonWith(ctx, tx, site, who, m.Submissions); err != nil {
		return false, err
	}
	lead = p.Lead
	for _, sent := range m.Submissions {
		id, err := submissionID(who.Walk, sent)
		if err != nil {
			return false, err
		}
		sub := leads.Submission{
			ID: id, Walk: who.Walk, Scene: sent.Scene, Piece: who.Piece, Variant: who.Variant, Visitor: who.Visitor, Visit: who.Visit, Page: who.Page,
			Channel: who.Channel, Campaign: who.Campaign, Referrer: who.Referrer, Email: sent.Email, Name: sent.Name, Answers: sent.Answers, At: who.At,
			Run: who.Run, Device: who.Device, Country: who.Country, Known: who.Known, Converts: sent.Converts, Unwatched: who.Unwatched,
		}
		if sent.Replaces {
			if _, err := tx.ExecContext(ctx, `delete from submissions where site_id = $1 and walk_id = $2 and scene = $3`, site, who.Walk, sent.Scene); err != nil {
				return false, err
			}
		}
		if err := leads.AddSubmission(ctx, tx, site, zone, sub, lead || sent.Email != ""); err != nil {
			return false, err
		}
		lead = lead || sent.Email != ""
	}
	return lead, vote(ctx, tx, site, who, m.Votes)
}

// stepOf makes ready what a request stores of a walk, but for a go that takes a
// stock or a code.
func stepOf(site int64, zone *time.Location, who *Walker, p walk.Before, m *moved, isNew bool) (*step, error) {
	s := &step{site: site, day: m.began.In(zone).Format(time.DateOnly), isNew: isNew, before: p.Steps, who: who, moved: m}
	if !who.Unwatched {
		var err error
		if s.counts, err = m.counts(); err != nil {
			return nil, err
		}
	}
	for _, sent := range m.Submissions {
		id, err := submissionID(who.Walk, sent)
		if err != nil {
			return nil, err
		}
		answers, err := json.Marshal(sent.Answers)
		if err != nil {
			return nil, err
		}
		s.submissions = append(s.submissions, submitted{id, sent.Scene, sent.Name, string(answers)})
	}
	if g := m.Go; g != nil && !limited(g) {
		s.goes = &taken{g.Key, g.Prize.ID, g.Prize.Label, g.Prize.Code, who.digest(g.Email)}
	}
	return s, nil
}

// keepWalk stores a walk with what was sent on it, what it adds to the totals
// and the go that was taken; errAgain where the walk is not where p says.
func (s *Store) keepWalk(ctx context.Context, site int64, zone *time.Location, who Walker, p walk.Before, m *moved, isNew bool) error {
	one, err := stepOf(site, zone, &who, p, m, isNew)
	if err != nil {
		return err
	}
	if m.Go != nil && limited(m.Go) {
		return s.db.Tx(ctx, func(tx *sqlx.Tx) error { return keepWalkWithin(ctx, tx, one) })
	}
	return s.steps.do(ctx, one)
}

func keepWalkWithin(ctx context.Context, tx *sqlx.Tx, s *step) error {
	err := storeWithin(ctx, tx, s)
	if err == nil && s.Go != nil && limited(s.Go) {
		err = takeLimited(ctx, tx, s)
	}
	return err
}

// submissionID is the same for the same step of a walk, however often it is sent.
func submissionID(of string, s walk.Submission) (string, error) {
	id, err := uuid.Parse(of)
	return uuid.NewSHA1(id, []byte(strconv.Itoa(s.Step))).String(), err
}

// vote counts choices made in polls, once a visitor and poll. The empty choice
// counts the voters. Polls go in sorted, as all rows do.
func vote(ctx context.Context, tx *sqlx.Tx, site int64, who Walker, votes map[string][]string) error {
	for _, key := range slices.Sorted(maps.Keys(votes)) {
		result, err := tx.ExecContext(ctx, `
			insert into votes (site_id, piece_id, key, visitor, at, uncounted, choices) values ($1, $2, $3, $4, $5, $6, case when $6 then $7::text[] else '{}' end) on conflict do nothing`,
			site, who.Piece, key, who.Visitor, who.At, who.Unwatched, votes[key])
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
			site, who.Piece, key, events.AnyShard(), append(slices.Clone(votes[key]), ""))
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

// State gives a walk as it stands, for who walks it.
func (s *Store) State(ctx context.Context, site int64, id, piece, visitor string) (walk.Before, error) {
	return s.walkKept(ctx, site, id, piece, visitor)
}

func (s *Store) walkKept(ctx context.Context, site int64, id, piece, visitor string) (walk.Before, error) {
	var row struct {
		Design string `db:"design"`
		Steps  int    `db:"steps"`
		State  []byte `db:"state"`
		Lead   bool   `db:"lead"`
	}
	err := pg.Found(s.db.GetContext(ctx, &row, `
		select design, steps, coalesce(state, '{}') as state, lead_id is not null as lead from walks
		where site_id = $1 and id = $2 and piece_id = $3 and visitor = $4`, site, id, piece, visitor))
	before := walk.Before{Design: row.Design, Steps: row.Steps, Lead: row.Lead}
	if err == nil && row.Steps > 0 {
		err = json.Unmarshal(row.State, &before.State)
	}
	return before, err
}
