package pieces

import (
	"context"
	"errors"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/fault"
	"gobbet/core/launch"
	"gobbet/internal/store/designs"
	"gobbet/internal/store/pg"
	"gobbet/internal/store/sites"
)

// Act is something that is done with pieces of a site, by whom.
type Act struct {
	Site int64
	// By is the account of who does it; 0: nobody, it comes about by itself.
	By int64
}

// passing is a transition of some pieces of a site.
type passing struct {
	Act
	ids   []string
	event launch.Event
	// drawings gives those of a document that goes live; nil: none are kept.
	drawings func(live []byte) (map[string][]byte, error)
	// alone has a piece that refuses stay as it is, and the others go on.
	alone bool
}

// life is a piece in its life, as its row has it.
type life struct {
	ID           string     `db:"id"`
	State        string     `db:"state"`
	Draft        []byte     `db:"draft"`
	DraftVersion int        `db:"draft_version"`
	Live         []byte     `db:"live"`
	LiveVersion  int        `db:"live_version"`
	Revision     int        `db:"live_revision"`
	LiveSince    *time.Time `db:"live_since"`
	PausedAt     *time.Time `db:"paused_at"`
	PausesAt     *time.Time `db:"pauses_at"`
	PausedUntil  *time.Time `db:"paused_until"`
	RemovedAt    *time.Time `db:"removed_at"`
	SharesAt     *time.Time `db:"shares_at"`
}

// transition does something with pieces under their rows' locks: each state is
// read, changed by the rules of package launch and written here, and nowhere
// else. It gives those with which something was done. refused holds why others
// were not.
func (s *Store) transition(ctx context.Context, p passing) (done []string, refused map[string]error, err error) {
	err = s.db.Tx(ctx, func(tx *sqlx.Tx) error {
		done, refused, err = p.run(ctx, tx)
		return err
	})
	return done, refused, err
}

func (p passing) run(ctx context.Context, tx *sqlx.Tx) (done []string, refused map[string]error, err error) {
	// The site's row is locked too: how many pieces are live is counted once at a time.
	var site struct {
		Zone string    `db:"zone"`
		Now  time.Time `db:"now"`
	}
	if err := pg.Found(tx.GetContext(ctx, &site, `select zone, now() as now from sites where id = $1 for no key update`, p.Site)); err != nil {
		return nil, nil, err
	}
	live := map[string]string{} // the addresses of own pages of live pieces
	var pages []struct {
		ID      string `db:"id"`
		Address string `db:"address"`
	}
	if err := tx.SelectContext(ctx, &pages, `
		select id, coalesce(live -> 'page' ->> 'address', '') as address from pieces where site_id = $1 and state = 'live'`, p.Site); err != nil {
		return nil, nil, err
	}
	for _, page := range pages {
		live[page.ID] = page.Address
	}
	var rows []life
	if err := tx.SelectContext(ctx, &rows, `
		select id, state, draft, draft_version, live, coalesce(live_version, 0) as live_version, live_revision, live_since, paused_at, pauses_at, paused_until, removed_at, shares_at
		from pieces where site_id = $1 and id = any($2) order by id for update`, p.Site, p.ids); err != nil {
		return nil, nil, err
	}
	visible, refused := false, map[string]error{}
	for _, row := range rows {
		last, err := lastRun(ctx, tx, p.Site, row.ID)
		if err != nil {
			return nil, nil, err
		}
		around := launch.Around{Now: site.Now.In(sites.Site{Zone: site.Zone}.Location()), Live: len(live), Most: MostLive, Taken: func(address string) bool {
			for id, has := range live {
				if id != row.ID && has == address {
					return true
				}
			}
			return false
		}}
		if _, is := live[row.ID]; is {
			around.Live--
		}
		before := row.piece(last)
		next, err := p.event.On(before, around)
		if err != nil && p.alone {
			refused[row.ID] = err
			continue
		}
		if err != nil {
			return nil, nil, err
		}
		changed, err := p.write(ctx, tx, row, before, next, around)
		if err != nil {
			return nil, nil, err
		}
		if changed {
			done = append(done, row.ID)
		}
		visible = visible || next.Visible
		delete(live, row.ID)
		if next.State == launch.Live {
			live[row.ID] = addressIn(next.Live)
		}
	}
	if visible {
		err = sites.NewSnapshot(ctx, tx, p.Site)
	}
	return done, refused, err
}

func (l life) piece(last *launch.Run) launch.Piece {
	p := launch.Piece{
		State: launch.State(l.State), Draft: l.Draft, Live: l.Live, DraftVersion: l.DraftVersion, LiveVersion: l.LiveVersion, Revision: l.Revision,
		LiveSince: l.LiveSince, PausedAt: l.PausedAt, PausesAt: l.PausesAt, PausedUntil: l.PausedUntil, RemovedAt: l.RemovedAt, SharesAt: l.SharesAt,
	}
	if last != nil {
		p.Split = &last.Split
	}
	return p
}

// write stores what something done made of a piece, and reports whether it made
// anything of it.
func (p passing) write(ctx context.Context, tx *sqlx.Tx, row life, before launch.Piece, next launch.Next, around launch.Around) (changed bool, err error) {
	edited := next.DraftVersion != before.DraftVersion
	if !edited && !next.Visible && next.Move == nil && sameTime(next.SharesAt, before.SharesAt) && sameTime(next.PausedUntil, before.PausedUntil) && sameTime(next.PausesAt, before.PausesAt) {
		return false, nil
	}
	if next.Visible {
		next.Revision++
	}
	if _, err := tx.ExecContext(ctx, `
		update pieces set state = $3, draft = $4, draft_version = $5, live = $6, live_version = nullif($7, 0), live_revision = $8, live_since = $9, paused_at = $10, pauses_at = $11,
			paused_until = $12, removed_at = $13, shares_at = $14, updated_at = case when $15 then now() else updated_at end, ends_at = $16
		where site_id = $1 and id = $2`, p.Site, row.ID, next.State, next.Draft, next.DraftVersion, pg.NullJSON(next.Live), next.LiveVersion, next.Revision, next.LiveSince, next.PausedAt, next.PausesAt,
		next.PausedUntil, next.RemovedAt, next.SharesAt, edited, next.EndsAt(around)); err != nil {
		return false, err
	}
	if edited {
		if err := keepVersion(ctx, tx, p.Site, row.ID, next.DraftVersion, next.Draft); err != nil {
			return false, err
		}
	}
	if next.Visible && next.State == launch.Live {
		if err := p.goesLive(ctx, tx, row.ID, next); err != nil {
			return false, err
		}
	}
	if next.Run != nil {
		if err := addRun(ctx, tx, p.Site, row.ID, around.Now, *next.Run); err != nil {
			return false, err
		}
	}
	if m := next.Move; m != nil {
		if err := addMove(ctx, tx, p.Act, row.ID, around.Now, m); err != nil {
			return false, err
		}
	}
	return true, nil
}

// goesLive keeps what belongs to what visitors get from now on.
func (p passing) goesLive(ctx context.Context, tx *sqlx.Tx, id string, next launch.Next) error {
	if _, err := tx.ExecContext(ctx, `
		insert into live_variants (site_id, piece_id, variant)
		select $1, $2, v ->> 'id' from json_array_elements($3::json -> 'split' -> 'variants') v where v ->> 'id' is not null
		on conflict do nothing`, p.Site, id, next.Live); err != nil {
		return err
	}
	if next.Move != nil && next.Move.Did == launch.Launched {
		if _, err := tx.ExecContext(ctx, `
			insert into piece_versions (site_id, piece_id, version, draft, launched) values ($1, $2, $3, $4, true)
			on conflict (site_id, piece_id, version) do update set launched = true`, p.Site, id, next.DraftVersion, next.Draft); err != nil {
			return err
		}
	}
	if p.drawings == nil {
		return nil
	}
	drawings, err := p.drawings(next.Live)
	if err != nil {
		return err
	}
	return designs.Keep(ctx, tx, p.Site, drawings)
}

func sameTime(a, b *time.Time) bool {
	return a == nil && b == nil || a != nil && b != nil && a.Equal(*b)
}

// Launch makes what is in the draft live, if it is still at that version, with
// the drawings that visitors will fetch by hash. It fails with ErrStale,
// launch.ErrTaken or ErrTooMany.
func (s *Store) Launch(ctx context.Context, act Act, id string, version int, drawings map[string][]byte) error {
	done, _, err := s.transition(ctx, passing{Act: act, ids: []string{id}, event: launch.Launch{Version: version}, drawings: func([]byte) (map[string][]byte, error) { return drawings, nil }})
	if err == nil && len(done) == 0 {
		err = fault.ErrStale
	}
	return err
}

// Pause takes live pieces off the site, at once or from a time on: those
// named, or all of them where ids is nil. They go live again by themselves at
// until, unless that is nil. Visitors keep what they have open. It gives the
// pieces that were paused, or will be.
func (s *Store) Pause(ctx context.Context, act Act, ids []string, from, until *time.Time) ([]string, error) {
	if ids == nil {
		if err := s.db.SelectContext(ctx, &ids, `select id from pieces where site_id = $1 and state = 'live' order by id`, act.Site); err != nil {
			return nil, err
		}
	}
	done, _, err := s.transition(ctx, passing{Act: act, ids: pg.Listed(ids), event: launch.Pause{From: from, Until: until}})
	return done, err
}

// PauseOne takes one live piece off the site.
func (s *Store) PauseOne(ctx context.Context, act Act, id string) error {
	paused, err := s.Pause(ctx, act, []string{id}, nil, nil)
	if err == nil && len(paused) == 0 {
		err = fault.ErrNotFound
	}
	return err
}

// Resume puts paused pieces live again as they were, and takes back pauses
// that are planned: those named, or where ids is nil those that end or begin at a
// time. Where none of them may, it says why: launch.ErrTaken, launch.ErrOver or
// ErrTooMany.
func (s *Store) Resume(ctx context.Context, act Act, ids []string) ([]string, error) {
	if ids == nil {
		if err := s.db.SelectContext(ctx, &ids, `
			select id from pieces where site_id = $1 and removed_at is null and (state = 'paused' and paused_until is not null or state = 'live' and pauses_at is not null) order by id`, act.Site); err != nil {
			return nil, err
		}
	}
	done, refused, err := s.transition(ctx, passing{Act: act, ids: pg.Listed(ids), event: launch.Resume{}, alone: true})
	if err == nil && len(done) == 0 {
		for _, id := range slices.Sorted(slices.Values(ids)) {
			err = errors.Join(err, refused[id])
		}
	}
	return done, err
}

// Pass has done what is due by now in the lives of pieces, on every site: pauses
// that begin and end, and schedules that end.
func (s *Store) Pass(ctx context.Context) error {
	var due []struct {
		Site int64  `db:"site_id"`
		ID   string `db:"id"`
	}
	// When a schedule ends is about right here; package launch knows it.
	if err := s.db.SelectContext(ctx, &due, `
		select site_id, id from pieces where (pauses_at is not null or paused_until is not null) and least(pauses_at, paused_until) <= now() and state in ('live', 'paused') and removed_at is null
		union
		select site_id, id from pieces where ends_at <= now() and state = 'live' and removed_at is null
		order by site_id, id limit 5000`); err != nil {
		return err
	}
	sites := map[int64][]string{}
	for _, one := range due {
		sites[one.Site] = append(sites[one.Site], one.ID)
	}
	var errs []error
	for site, ids := range sites {
		_, refused, err := s.transition(ctx, passing{Act: Act{Site: site}, ids: ids, event: launch.Pass{}, alone: true})
		for _, why := range refused {
			err = errors.Join(err, why)
		}
		errs = append(errs, err)
	}
	return errors.Join(errs...)
}

// Remove deletes a piece, or restores it. A live one must be paused first.
func (s *Store) Remove(ctx context.Context, act Act, id string, removed bool) error {
	var there bool
	err := s.db.GetContext(ctx, &there, `
		select exists (select from pieces where site_id = $1 and id = $2 and (removed_at is null or removed_at > now() - make_interval(days => $3)))`, act.Site, id, RestoreDays)
	if err != nil || !there {
		return errors.Join(err, fault.ErrNotFound)
	}
	var event launch.Event = launch.Restore{}
	if removed {
		event = launch.Remove{}
	}
	_, _, err = s.transition(ctx, passing{Act: act, ids: []string{id}, event: event})
	return err
}

// Replace rewrites the drafts of pieces, and what is live of them where asked
// for, as they are at that moment, all or none.
func (s *Store) Replace(ctx context.Context, act Act, ids []string, live bool, rewrite func(document []byte) ([]byte, error), drawings func(live []byte) (map[string][]byte, error)) ([]string, error) {
	done, _, err := s.transition(ctx, passing{Act: act, ids: pg.Listed(ids), event: launch.Replace{Live: live, Rewrite: rewrite}, drawings: drawings})
	return done, err
}

// ChangeShares gives a live piece's variants other shares, by their ids, and
// begins a run with them where they differ, unless another server did since a
// time. The draft stays.
func (s *Store) ChangeShares(ctx context.Context, site int64, piece string, since time.Time, shares map[string]int, seed uint64) error {
	_, _, err := s.transition(ctx, passing{Act: Act{Site: site}, ids: []string{piece}, event: launch.Reshare{Since: since, Shares: shares, Seed: seed}})
	return err
}
