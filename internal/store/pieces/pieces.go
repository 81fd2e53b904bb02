// Package pieces keeps pieces: drafts and versions, and by the rules of core/launch
// their lives, the runs of their splits, and who did what with them.
package pieces

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/sites"
)

// Store is safe for use by many goroutines.
type Store struct{ db *pg.DB }

// New keeps them over connections.
func New(db *pg.DB) *Store { return &Store{db} }

// RestoreDays is for how many days a deleted piece can be restored.
const RestoreDays = 30

// Piece is a row of pieces. Draft and Live are documents (core/piece).
type Piece struct {
	ID           string          `db:"id"`
	State        string          `db:"state"`
	Draft        json.RawMessage `db:"draft"`
	DraftVersion int             `db:"draft_version"`
	Live         []byte          `db:"live"`
	LiveVersion  *int            `db:"live_version"`
	LiveSince    *time.Time      `db:"live_since"`
	PausedAt     *time.Time      `db:"paused_at"`
	PausesAt     *time.Time      `db:"pauses_at"`    // a pause that is planned
	PausedUntil  *time.Time      `db:"paused_until"` // nil: until it is resumed
	CreatedAt    time.Time       `db:"created_at"`
	UpdatedAt    time.Time       `db:"updated_at"`
	Rank         int             `db:"rank"` // lowest wins
}

const pieceColumns = `id, state, draft, draft_version, live, live_version, live_since, paused_at, pauses_at, paused_until, created_at, updated_at, rank`

// NewID is a short random name for a piece, a salt or a variant.
func NewID() string { return strings.ToLower(rand.Text()[:12]) }

// Add adds a piece as a draft.
func (s *Store) Add(ctx context.Context, site int64, id string, draft []byte) error {
	result, err := s.db.ExecContext(ctx, `
		insert into pieces (site_id, id, draft) select $1::bigint, $2, $3
		where (select count(*) from pieces where site_id = $1 and removed_at is null) < $4`, site, id, draft, MostPieces)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, fault.ErrTooMany)
	}
	return nil
}

// List lists a site's pieces, the newest first. There are at most MostPieces.
func (s *Store) List(ctx context.Context, site int64) (pieces []Piece, err error) {
	err = s.db.SelectContext(ctx, &pieces, `
		select `+pieceColumns+` from pieces where site_id = $1 and removed_at is null
		order by created_at desc, id`, site)
	return pieces, err
}

// Get gives one piece.
func (s *Store) Get(ctx context.Context, site int64, id string) (p Piece, err error) {
	err = s.db.GetContext(ctx, &p, `select `+pieceColumns+` from pieces where site_id = $1 and id = $2 and removed_at is null`, site, id)
	return p, pg.Found(err)
}

// SaveDraft replaces a draft if it is still at the version the change was made
// on, and gives the version it has now. It fails with ErrStale if it is not,
// unless what is there says the same: a save whose answer was lost, sent again,
// is answered as the first time.
func (s *Store) SaveDraft(ctx context.Context, site int64, id string, version int, draft []byte) (now int, err error) {
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &now, `
			update pieces set draft = $4, draft_version = draft_version + 1, updated_at = now()
			where site_id = $1 and id = $2 and draft_version = $3 and removed_at is null
			returning draft_version`, site, id, version, draft)
		if err != nil {
			return pg.Found(err)
		}
		return keepVersion(ctx, tx, site, id, now, draft)
	})
	if !errors.Is(err, fault.ErrNotFound) {
		return now, err
	}
	there, err := s.Get(ctx, site, id)
	if err != nil {
		return 0, err
	}
	if launch.Same(draft, there.Draft) {
		return there.DraftVersion, nil
	}
	return 0, fault.ErrStale
}

// Most pieces a site may have on its board, and live at once.
const (
	MostPieces = 1000
	MostLive   = 500
)

// Removed lists what was deleted and can still be restored, the latest first.
func (s *Store) Removed(ctx context.Context, site int64) (pieces []Removed, err error) {
	err = s.db.SelectContext(ctx, &pieces, `
		select id, draft, removed_at from pieces
		where site_id = $1 and removed_at > now() - make_interval(days => $2) and draft ->> 'split' is not null
		order by removed_at desc, id limit 1000`, site, RestoreDays)
	return pieces, err
}

// Removed is a deleted piece.
type Removed struct {
	ID        string          `db:"id"`
	Draft     json.RawMessage `db:"draft"`
	RemovedAt time.Time       `db:"removed_at"`
}

// PageTaken reports whether a live piece other than one has the address of its own page.
func (s *Store) PageTaken(ctx context.Context, site int64, but, address string) (taken bool, err error) {
	err = s.db.GetContext(ctx, &taken, `
		select exists (select from pieces where site_id = $1 and state = 'live' and id <> $2 and live -> 'page' ->> 'address' = $3)`, site, but, address)
	return taken, err
}

// Live is a piece that is live.
type Live struct {
	ID   string `db:"id"`
	Live []byte `db:"live"`
}

// Live lists what is live, those that win their slots first: by rank,
// then the older before the younger. There are at most MostLive.
func (s *Store) Live(ctx context.Context, site int64) (pieces []Live, err error) {
	err = s.db.SelectContext(ctx, &pieces, `
		select p.id, p.live from pieces p where p.site_id = $1 and p.state = 'live' order by p.rank, p.created_at, p.id`, site)
	return pieces, err
}

// TotalShown gives how often pieces of a site were shown to everyone, by piece.
func (s *Store) TotalShown(ctx context.Context, site int64, pieces []string) (map[string]int, error) {
	var rows []struct {
		Piece string `db:"piece_id"`
		Shown int    `db:"shown"`
	}
	err := s.db.SelectContext(ctx, &rows, `
		select piece_id, sum(showings) as shown from day_totals
		where site_id = $1 and piece_id = any($2) and cut = '' and goal = '' and variant <> '' group by piece_id`, site, pieces)
	totals := map[string]int{}
	for _, row := range rows {
		totals[row.Piece] = row.Shown
	}
	return totals, err
}

// LiveVariants lists every variant that was ever live, by piece: pages that
// were open when it went may still speak of it.
func (s *Store) LiveVariants(ctx context.Context, site int64) (map[string]map[string]bool, error) {
	var rows []struct {
		Piece   string `db:"piece_id"`
		Variant string `db:"variant"`
	}
	err := s.db.SelectContext(ctx, &rows, `select piece_id, variant from live_variants where site_id = $1`, site)
	known := map[string]map[string]bool{}
	for _, row := range rows {
		if known[row.Piece] == nil {
			known[row.Piece] = map[string]bool{}
		}
		known[row.Piece][row.Variant] = true
	}
	return known, err
}

// Order sets who wins: the pieces named come first, in that order. It
// fails with ErrStale where the order is not at that version any more.
func (s *Store) Order(ctx context.Context, site int64, version int, ids []string) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		if err := pg.Changed(tx.ExecContext(ctx, `update sites set order_version = order_version + 1 where id = $1 and order_version = $2`, site, version)); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `
			update pieces p set rank = coalesce(g.n, 1000000)
			from pieces q left join unnest($2::text[]) with ordinality as g (id, n) on g.id = q.id
			where p.site_id = $1 and q.site_id = $1 and q.id = p.id`, site, ids)
		if err != nil {
			return err
		}
		return sites.NewSnapshot(ctx, tx, site)
	})
}

// Name is what lists of pieces show.
type Name struct {
	ID     string `db:"id"`
	Name   string `db:"name"`
	Format string `db:"format"`
	State  string `db:"state"`
}

// Names lists a site's pieces by name.
func (s *Store) Names(ctx context.Context, site int64) (names []Name, err error) {
	err = s.db.SelectContext(ctx, &names, `
		select id, coalesce(draft ->> 'name', '') as name, coalesce(draft ->> 'format', '') as format, state from pieces
		where site_id = $1 and removed_at is null order by lower(draft ->> 'name'), id`, site)
	return names, err
}

// NamesEver gives the names of all pieces a site ever had, by id: counts outlive
// the piece they are of.
func (s *Store) NamesEver(ctx context.Context, site int64) (map[string]string, error) {
	var rows []Name
	err := s.db.SelectContext(ctx, &rows, `select id, coalesce(draft ->> 'name', '') as name, '' as format, state from pieces where site_id = $1`, site)
	names := map[string]string{}
	for _, row := range rows {
		names[row.ID] = row.Name
	}
	return names, err
}

// Documents gives every piece's draft by id, removed ones too: leads and
// counts outlive the piece they came from.
func (s *Store) Documents(ctx context.Context, site int64) (map[string][]byte, error) {
	var rows []struct {
		ID    string `db:"id"`
		Draft []byte `db:"draft"`
	}
	err := s.db.SelectContext(ctx, &rows, `select id, draft from pieces where site_id = $1`, site)
	documents := make(map[string][]byte, len(rows))
	for _, row := range rows {
		documents[row.ID] = row.Draft
	}
	return documents, err
}
