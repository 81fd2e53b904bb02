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
	PausedAt     *time.Time      `db:"paused_at"`
	PausedUntil  *time.Time      `db:"paused_until"` // nil: until it is resumed
	CreatedAt    time.Time       `db:"created_at"`
	UpdatedAt    time.Time       `db:"updated_at"`
	Rank         int             `db:"rank"` // lowest wins
}

const pieceColumns = `id, state, draft, draft_version, live, live_version, live_since, paused_at, paused_until, created_at, updated_at, rank`

// ErrStale is that a draft was changed elsewhere since it was read.
var ErrStale = errors.New("changed elsewhere")

// NewID is a short random name for a piece, a salt or a variant.
func NewID() string { return strings.ToLower(rand.Text()[:12]) }

// AddPiece adds a piece as a draft.
func (s *Store) AddPiece(ctx context.Context, site int64, id string, draft []byte) error {
	result, err := s.db.ExecContext(ctx, `
		insert into pieces (site_id, id, draft) select $1::bigint, $2, $3
		where (select count(*) from pieces where site_id = $1 and removed_at is null) < $4`, site, id, draft, MostPieces)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrTooMany)
	}
	return nil
}

// Pieces lists a site's pieces, the newest first. There are at most MostPieces.
func (s *Store) Pieces(ctx context.Context, site int64) (pieces []Piece, err error) {
	err = s.db.SelectContext(ctx, &pieces, `
		select `+pieceColumns+` from pieces where site_id = $1 and removed_at is null
		order by created_at desc, id`, site)
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

// ErrTooMany is that a site has as many of something as it may.
var ErrTooMany = errors.New("as many as there may be")

// Most pieces a site may have on its board, and live at once.
const (
	MostPieces = 1000
	MostLive   = 500
)

// RemovedPieces lists what was deleted and can still be restored, the latest first.
func (s *Store) RemovedPieces(ctx context.Context, site int64) (pieces []Removed, err error) {
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

// RemovePiece deletes a piece, or restores it. A live one must be paused first.
func (s *Store) RemovePiece(ctx context.Context, site int64, id string, removed bool) error {
	return s.removed(ctx, `
		update pieces set removed_at = case when $3 then coalesce(removed_at, now()) end, paused_until = null
		where site_id = $1 and id = $2 and state <> 'live' and (removed_at is null or removed_at > now() - make_interval(days => $4))`,
		site, id, removed, RestoreDays)
}

// Launch makes what is in the draft live, if it is still at that version, with
// the drawings that visitors will fetch by hash.
func (s *Store) Launch(ctx context.Context, site int64, id string, version int, drawings map[string][]byte) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		var live int
		if err := tx.GetContext(ctx, &live, `select count(*) from pieces where site_id = $1 and state = 'live' and id <> $2`, site, id); err != nil {
			return err
		}
		if live >= MostLive {
			return ErrTooMany
		}
		before, err := liveOf(ctx, tx, site, id)
		if err != nil {
			return err
		}
		result, err := tx.ExecContext(ctx, `
			update pieces set state = 'live', live = draft, live_version = draft_version, paused_at = null, paused_until = null,
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
		if _, err := tx.ExecContext(ctx, `
			insert into live_variants (site_id, piece_id, variant)
			select p.site_id, p.id, v ->> 'id' from pieces p, json_array_elements(p.live -> 'split' -> 'variants') v
			where p.site_id = $1 and p.id = $2 and v ->> 'id' is not null
			on conflict do nothing`, site, id); err != nil {
			return err
		}
		now, err := liveOf(ctx, tx, site, id)
		if err != nil {
			return err
		}
		if err := addChange(ctx, tx, site, id, Launched, before, now); err != nil {
			return err
		}
		if err := beginRun(ctx, tx, site, id); err != nil {
			return err
		}
		if err := keepDrawings(ctx, tx, site, drawings); err != nil {
			return err
		}
		return newSnapshot(ctx, tx, site)
	})
}

// PausePieces takes live pieces off the site: those named, or all of them where
// ids is nil. They go live again by themselves at until, unless that is nil.
// Visitors keep what they have open. It gives the pieces that were paused.
func (s *Store) PausePieces(ctx context.Context, site int64, ids []string, until *time.Time) (paused []string, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		if err := tx.SelectContext(ctx, &paused, `
			update pieces set state = 'paused', paused_at = now(), paused_until = $3
			where site_id = $1 and ($2::text[] is null or id = any($2)) and state = 'live' and removed_at is null returning id`, site, ids, until); err != nil || len(paused) == 0 {
			return err
		}
		if err := addMoves(ctx, tx, site, paused, Paused, until); err != nil {
			return err
		}
		return newSnapshot(ctx, tx, site)
	})
	return paused, err
}

// Pause takes one live piece off the site.
func (s *Store) Pause(ctx context.Context, site int64, id string) error {
	paused, err := s.PausePieces(ctx, site, []string{id}, nil)
	if err == nil && len(paused) == 0 {
		err = ErrNotFound
	}
	return err
}

// ResumePieces puts paused pieces live again as they were: those named, or where
// ids is nil those paused until a time. A piece stays paused whose own page has
// an address that a live piece has meanwhile. It fails with ErrTooMany where more
// would be live than may be.
func (s *Store) ResumePieces(ctx context.Context, site int64, ids []string) (resumed []string, err error) {
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		return resume(ctx, tx, site, `($2::text[] is null and paused_until is not null or id = any($2))`, ids, &resumed)
	})
	return resumed, err
}

// ResumeDue puts live again what was paused until now or earlier, on every site.
func (s *Store) ResumeDue(ctx context.Context) error {
	var sites []int64
	if err := s.db.SelectContext(ctx, &sites, `select distinct site_id from pieces where paused_until <= now() and state = 'paused' and removed_at is null`); err != nil {
		return err
	}
	var errs []error
	for _, site := range sites {
		errs = append(errs, s.tx(ctx, func(tx *sqlx.Tx) error {
			var resumed []string
			if err := resume(ctx, tx, site, `($2::text[] is null and paused_until <= now())`, nil, &resumed); err != nil {
				return err
			}
			// What could not go live is not tried again every few seconds.
			_, err := tx.ExecContext(ctx, `update pieces set paused_until = null where site_id = $1 and paused_until <= now()`, site)
			return err
		}))
	}
	return errors.Join(errs...)
}

func resume(ctx context.Context, tx *sqlx.Tx, site int64, which string, ids []string, resumed *[]string) error {
	err := tx.SelectContext(ctx, resumed, `
		update pieces p set state = 'live', paused_at = null, paused_until = null
		where site_id = $1 and `+which+` and state = 'paused' and live is not null and removed_at is null
			and not exists (select from pieces o where o.site_id = $1 and o.state = 'live' and o.live -> 'page' ->> 'address' = p.live -> 'page' ->> 'address')
		returning id`, site, ids)
	if err != nil || len(*resumed) == 0 {
		return err
	}
	var live int
	if err := tx.GetContext(ctx, &live, `select count(*) from pieces where site_id = $1 and state = 'live'`, site); err != nil {
		return err
	}
	if live > MostLive {
		return ErrTooMany
	}
	if err := addMoves(ctx, tx, site, *resumed, Resumed, nil); err != nil {
		return err
	}
	return newSnapshot(ctx, tx, site)
}

// Replacement is a piece's draft with something replaced in it, and what is live
// of it where that changes too.
type Replacement struct {
	ID           string
	DraftVersion int // that it was changed from
	Draft        []byte
	Live         []byte            // nil: stays as it is
	Drawings     map[string][]byte // of Live
}

// Replace puts changed documents in place of several pieces' own, all or none.
// It fails with ErrStale where one was changed meanwhile.
func (s *Store) Replace(ctx context.Context, site int64, changes []Replacement) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		launched := false
		for _, c := range changes {
			var version int
			before, err := liveOf(ctx, tx, site, c.ID)
			if err != nil {
				return err
			}
			// What was as it is live still is, once both have changed alike.
			err = found(tx.GetContext(ctx, &version, `
				update pieces set draft = $4, draft_version = draft_version + 1, updated_at = now(), live = coalesce($5::json, live),
					live_version = case when $5::json is not null and live_version = draft_version then draft_version + 1 else live_version end
				where site_id = $1 and id = $2 and draft_version = $3 and removed_at is null and ($5::json is null or state = 'live')
				returning draft_version`, site, c.ID, c.DraftVersion, c.Draft, c.Live))
			if errors.Is(err, ErrNotFound) {
				err = ErrStale
			}
			if err != nil {
				return err
			}
			if err := keepVersion(ctx, tx, site, c.ID, version, c.Draft); err != nil {
				return err
			}
			if err := keepDrawings(ctx, tx, site, c.Drawings); err != nil {
				return err
			}
			if c.Live != nil {
				launched = true
				if err := addChange(ctx, tx, site, c.ID, Replaced, before, c.Live); err != nil {
					return err
				}
			}
		}
		if !launched {
			return nil
		}
		return newSnapshot(ctx, tx, site)
	})
}

// PageTaken reports whether a live piece other than one has the address of its own page.
func (s *Store) PageTaken(ctx context.Context, site int64, but, address string) (taken bool, err error) {
	err = s.db.GetContext(ctx, &taken, `
		select exists (select from pieces where site_id = $1 and state = 'live' and id <> $2 and live -> 'page' ->> 'address' = $3)`, site, but, address)
	return taken, err
}

// LivePiece is a piece that is live.
type LivePiece struct {
	ID   string `db:"id"`
	Live []byte `db:"live"`
}

// LivePieces lists what is live, those that win their slots first: by rank,
// then the older before the younger. There are at most MostLive.
func (s *Store) LivePieces(ctx context.Context, site int64) (pieces []LivePiece, err error) {
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

// OrderPieces sets who wins: the pieces named come first, in that order. It
// fails with ErrStale where the order is not at that version any more.
func (s *Store) OrderPieces(ctx context.Context, site int64, version int, ids []string) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if err := changed(tx.ExecContext(ctx, `update sites set order_version = order_version + 1 where id = $1 and order_version = $2`, site, version)); err != nil {
			return err
		}
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

// PieceName is what lists of pieces show.
type PieceName struct {
	ID     string `db:"id"`
	Name   string `db:"name"`
	Format string `db:"format"`
	State  string `db:"state"`
}

// PieceNames lists a site's pieces by name.
func (s *Store) PieceNames(ctx context.Context, site int64) (names []PieceName, err error) {
	err = s.db.SelectContext(ctx, &names, `
		select id, coalesce(draft ->> 'name', '') as name, coalesce(draft ->> 'format', '') as format, state from pieces
		where site_id = $1 and removed_at is null order by lower(draft ->> 'name'), id`, site)
	return names, err
}

// NamesEver gives the names of all pieces a site ever had, by id: counts outlive
// the piece they are of.
func (s *Store) NamesEver(ctx context.Context, site int64) (map[string]string, error) {
	var rows []PieceName
	err := s.db.SelectContext(ctx, &rows, `select id, coalesce(draft ->> 'name', '') as name, '' as format, state from pieces where site_id = $1`, site)
	names := map[string]string{}
	for _, row := range rows {
		names[row.ID] = row.Name
	}
	return names, err
}

// PieceDocuments gives every piece's draft by id, removed ones too: leads and
// counts outlive the piece they came from.
func (s *Store) PieceDocuments(ctx context.Context, site int64) (map[string][]byte, error) {
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
