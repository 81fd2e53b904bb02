package store

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// Piece is a row of pieces. Draft and Live are documents (core/piece).
type Piece struct {
	ID           string          `db:"id"`
	State        string          `db:"state"`
	Draft        json.RawMessage `db:"draft"`
	DraftVersion int             `db:"draft_version"`
	Live         []byte          `db:"live"`
	LiveVersion  *int            `db:"live_version"`
	LiveSince    *time.Time      `db:"live_since"`
	RestedAt     *time.Time      `db:"rested_at"`
	CreatedAt    time.Time       `db:"created_at"`
	UpdatedAt    time.Time       `db:"updated_at"`
	Rank         int             `db:"rank"` // lowest wins
}

const pieceColumns = `id, state, draft, draft_version, live, live_version, live_since, rested_at, created_at, updated_at, rank`

// ErrStale is that a draft was changed elsewhere since it was read.
var ErrStale = errors.New("changed elsewhere")

// NewID is a short random name for a piece, a salt or a variant.
func NewID() string { return strings.ToLower(rand.Text()[:12]) }

// AddPiece adds a piece as a draft.
func (s *Store) AddPiece(ctx context.Context, site int64, id string, draft []byte) error {
	_, err := s.db.ExecContext(ctx, `insert into pieces (site_id, id, draft) values ($1, $2, $3)`, site, id, draft)
	return err
}

// Pieces lists a site's pieces, the newest first.
func (s *Store) Pieces(ctx context.Context, site int64) (pieces []Piece, err error) {
	err = s.db.SelectContext(ctx, &pieces, `
		select `+pieceColumns+` from pieces where site_id = $1 and removed_at is null
		order by created_at desc, id limit 1000`, site)
	return pieces, err
}

// Piece gives one piece.
func (s *Store) Piece(ctx context.Context, site int64, id string) (p Piece, err error) {
	err = s.db.GetContext(ctx, &p, `select `+pieceColumns+` from pieces where site_id = $1 and id = $2 and removed_at is null`, site, id)
	return p, found(err)
}

// SaveDraft replaces a draft if it is still at the version the change was made
// on, and gives the version it has now. It fails with ErrStale if it is not.
func (s *Store) SaveDraft(ctx context.Context, site int64, id string, version int, draft []byte) (now int, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &now, `
			update pieces set draft = $4, draft_version = draft_version + 1, updated_at = now()
			where site_id = $1 and id = $2 and draft_version = $3 and removed_at is null
			returning draft_version`, site, id, version, draft)
		if err != nil {
			return found(err)
		}
		return keepVersion(ctx, tx, site, id, now, draft)
	})
	if !errors.Is(err, ErrNotFound) {
		return now, err
	}
	if _, err := s.Piece(ctx, site, id); err != nil {
		return 0, err
	}
	return 0, ErrStale
}

// RemovePiece takes a piece off the board, or puts it back. A live one must rest first.
func (s *Store) RemovePiece(ctx context.Context, site int64, id string, removed bool) error {
	result, err := s.db.ExecContext(ctx, `
		update pieces set removed_at = case when $3 then now() end
		where site_id = $1 and id = $2 and state <> 'live'`, site, id, removed)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

// Launch makes what is in the draft live, if it is still at that version, with
// the drawings that visitors will fetch by hash.
func (s *Store) Launch(ctx context.Context, site int64, id string, version int, drawings map[string][]byte) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		result, err := tx.ExecContext(ctx, `
			update pieces set state = 'live', live = draft, live_version = draft_version, rested_at = null,
				live_since = case when state = 'live' then live_since else now() end
			where site_id = $1 and id = $2 and draft_version = $3 and removed_at is null`, site, id, version)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrStale)
		}
		if _, err := tx.ExecContext(ctx, `
			insert into piece_versions (site_id, piece_id, version, draft, launched) select site_id, id, draft_version, draft, true from pieces where site_id = $1 and id = $2
			on conflict (site_id, piece_id, version) do update set launched = true`, site, id); err != nil {
			return err
		}
		if err := keepDrawings(ctx, tx, site, drawings); err != nil {
			return err
		}
		return newSnapshot(ctx, tx, site)
	})
}

// Rest takes a live piece off the site. Visitors keep what they have open.
func (s *Store) Rest(ctx context.Context, site int64, id string) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		result, err := tx.ExecContext(ctx, `
			update pieces set state = 'resting', rested_at = now()
			where site_id = $1 and id = $2 and state = 'live'`, site, id)
		if err != nil {
			return err
		}
		if n, err := result.RowsAffected(); err != nil || n == 0 {
			return errors.Join(err, ErrNotFound)
		}
		return newSnapshot(ctx, tx, site)
	})
}

// Launched is a piece that visitors may have on their pages: live, or not any more.
type Launched struct {
	ID    string `db:"id"`
	State string `db:"state"`
	Live  []byte `db:"live"`
	Shown int    `db:"shown"`
}

// LaunchedPieces lists what was ever live, those that win their slots first:
// by rank, then the older before the younger.
func (s *Store) LaunchedPieces(ctx context.Context, site int64) (pieces []Launched, err error) {
	err = s.db.SelectContext(ctx, &pieces, `
		select p.id, p.state, p.live,
			coalesce((select sum(d.showings) from piece_days d where d.site_id = p.site_id and d.piece_id = p.id), 0) as shown
		from pieces p where p.site_id = $1 and p.live is not null
		order by p.rank, p.created_at, p.id limit 1000`, site)
	return pieces, err
}

// OrderPieces sets who wins: the pieces named come first, in that order.
func (s *Store) OrderPieces(ctx context.Context, site int64, ids []string) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `
			update pieces p set rank = coalesce(g.n, 1000000)
			from pieces q left join unnest($2::text[]) with ordinality as g (id, n) on g.id = q.id
			where p.site_id = $1 and q.site_id = $1 and q.id = p.id`, site, ids)
		if err != nil {
			return err
		}
		return newSnapshot(ctx, tx, site)
	})
}

// Design gives a drawing by its hash.
func (s *Store) Design(ctx context.Context, site int64, hash string) (body []byte, err error) {
	err = s.db.GetContext(ctx, &body, `select body from designs where site_id = $1 and hash = $2`, site, hash)
	return body, found(err)
}

// PieceDocuments gives every piece's draft by id, removed ones too: leads and
// counts outlive the piece they came from.
func (s *Store) PieceDocuments(ctx context.Context, site int64) (map[string][]byte, error) {
	var rows []struct {
		ID    string `db:"id"`
		Draft []byte `db:"draft"`
	}
	err := s.db.SelectContext(ctx, &rows, `select id, draft from pieces where site_id = $1 order by created_at desc limit 5000`, site)
	documents := make(map[string][]byte, len(rows))
	for _, row := range rows {
		documents[row.ID] = row.Draft
	}
	return documents, err
}
