package store

import (
	"context"
	"errors"
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
	Campaign string
	Referrer string
	At       time.Time
	// Unwatched keeps the answers but counts nothing: the visitor asked not to be measured.
	Unwatched bool
}

// Progress is how far a walk has come. The zero Progress has not begun.
type Progress struct {
	Design string `db:"design"`
	Steps  int    `db:"steps"`
	State  []byte `db:"state"`
	Lead   bool   `db:"lead"` // an address was left
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
}

// Sent is what a visitor sent from one scene.
type Sent struct {
	ID       string // the same for the same step
	Scene    string
	Email    string // empty where the scene did not ask
	Name     string
	Answers  map[string]string
	Converts bool // sending was the conversion
	// Again says that the scene was sent on this walk before: these answers take
	// the place of those.
	Again bool
}

const tries = 3

// errAgain says that another request has begun the walk meanwhile.
var errAgain = errors.New("the walk was begun meanwhile")

// Advance goes on with a walk: take is told how far it has come, and says what
// it comes to. All of it is committed before Advance returns, and of two
// requests for one walk the second sees what the first has done. Where take
// gives nil, nothing is stored. lead reports whether an address was left on
// this walk by now. A walk of somebody else is ErrNotFound. take may be called
// several times; the last counts.
func (s *Store) Advance(ctx context.Context, site int64, zone *time.Location, who Walker, take func(Progress) (*Moved, error)) (lead bool, err error) {
	for range tries {
		err = s.tx(ctx, func(tx *sqlx.Tx) error {
			lead, err = advance(ctx, tx, site, zone, who, take)
			return err
		})
		// A connection that broke is no reason to send a visitor away: of what is
		// done twice the second finds that it was done.
		if !errors.Is(err, errAgain) && !Unreachable(err) {
			break
		}
	}
	return lead, err
}

func advance(ctx context.Context, tx *sqlx.Tx, site int64, zone *time.Location, who Walker, take func(Progress) (*Moved, error)) (lead bool, err error) {
	var p Progress
	err = found(tx.GetContext(ctx, &p, `
		select design, steps, coalesce(state, '{}') as state, lead_id is not null as lead from walks
		where site_id = $1 and id = $2 and piece_id = $3 and visitor = $4 for update`, site, who.Walk, who.Piece, who.Visitor))
	if err != nil && !errors.Is(err, ErrNotFound) {
		return false, err
	}
	fresh := errors.Is(err, ErrNotFound)
	moved, err := take(p)
	if err != nil || moved == nil {
		return p.Lead, err
	}
	if err := keepWalk(ctx, tx, site, who, moved, fresh); err != nil {
		return false, err
	}
	lead = p.Lead
	for _, sent := range moved.Sent {
		sub := Submission{
			ID: sent.ID, Walk: who.Walk, Scene: sent.Scene, Piece: who.Piece, Variant: who.Variant, Visitor: who.Visitor, Visit: who.Visit, Page: who.Page,
			Channel: who.Channel, Campaign: who.Campaign, Referrer: who.Referrer, Email: sent.Email, Name: sent.Name, Answers: sent.Answers, At: who.At,
			Converts: sent.Converts, Unwatched: who.Unwatched,
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
	return lead, vote(ctx, tx, site, who, moved.Votes)
}

func keepWalk(ctx context.Context, tx *sqlx.Tx, site int64, who Walker, m *Moved, fresh bool) error {
	if !fresh {
		_, err := tx.ExecContext(ctx, `
			update walks set steps = $3, state = $4, scene = $5, result = nullif($6, ''), ended = $7, last_at = greatest(last_at, $8)
			where site_id = $1 and id = $2`, site, who.Walk, m.Steps, string(m.State), m.Scene, m.Result, m.Ended, who.At)
		return err
	}
	result, err := tx.ExecContext(ctx, `
		insert into walks (site_id, id, piece_id, variant, design, visitor, began_at, last_at, steps, state, scene, result, ended)
		values ($1, $2, $3, $4, $5, $6, $7, $7, $8, $9, $10, nullif($11, ''), $12) on conflict do nothing`,
		site, who.Walk, who.Piece, who.Variant, who.Design, who.Visitor, who.At, m.Steps, string(m.State), m.Scene, m.Result, m.Ended)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 1 {
		return err
	}
	var mine bool
	err = found(tx.GetContext(ctx, &mine, `select piece_id = $3 and visitor = $4 from walks where site_id = $1 and id = $2`, site, who.Walk, who.Piece, who.Visitor))
	if err == nil && mine {
		return errAgain
	}
	return errors.Join(err, ErrNotFound)
}

// vote counts choices made in polls, once a visitor. The empty choice counts
// the voters.
func vote(ctx context.Context, tx *sqlx.Tx, site int64, who Walker, votes map[string][]string) error {
	for key, choices := range votes {
		result, err := tx.ExecContext(ctx, `insert into votes (site_id, piece_id, key, visitor, at) values ($1, $2, $3, $4, $5) on conflict do nothing`,
			site, who.Piece, key, who.Visitor, who.At)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return err
		}
		_, err = tx.ExecContext(ctx, `
			insert into tallies as t (site_id, piece_id, key, choice, shard, votes)
			select $1, $2, $3, choice, $4, 1 from unnest($5::text[]) choice order by choice
			on conflict (site_id, piece_id, key, choice, shard) do update set votes = t.votes + 1`,
			site, who.Piece, key, anyShard(), append(choices, ""))
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
