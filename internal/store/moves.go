package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"reflect"
	"time"

	"github.com/jmoiron/sqlx"
)

// What can be done with a piece that visitors notice.
const (
	Launched = "launched"
	Replaced = "replaced" // something that several pieces have in common
	Paused   = "paused"
	Resumed  = "resumed"
)

// Move is something that was done with a piece.
type Move struct {
	Piece string     `db:"piece_id"`
	At    time.Time  `db:"at"`
	Did   string     `db:"did"`
	Until *time.Time `db:"until"` // of a pause that ends by itself
	// Designs are the ids of variants whose design changed, and Reach says that who
	// sees the piece or when did, where it was live before.
	Designs []string `db:"-"`
	Reach   bool     `db:"reach"`
}

// Moves lists what was done with a site's pieces, or with one where piece is not
// empty, since a time, in order.
func (s *Store) Moves(ctx context.Context, site int64, piece string, since time.Time) (moves []Move, err error) {
	var rows []struct {
		Move
		Designs []byte `db:"designs"`
	}
	err = s.db.SelectContext(ctx, &rows, `
		select piece_id, at, did, until, to_json(designs) as designs, reach from piece_moves
		where site_id = $1 and ($2 = '' or piece_id = $2) and at >= $3 order by piece_id, at, id`, site, piece, since)
	for _, row := range rows {
		if err := json.Unmarshal(row.Designs, &row.Move.Designs); err != nil {
			return nil, err
		}
		moves = append(moves, row.Move)
	}
	return moves, err
}

// addMoves notes what was done with pieces now.
func addMoves(ctx context.Context, tx *sqlx.Tx, site int64, pieces []string, did string, until *time.Time) error {
	_, err := tx.ExecContext(ctx, `
		insert into piece_moves (site_id, piece_id, did, until) select $1, unnest($2::text[]), $3, $4`, site, pieces, did, until)
	return err
}

// addChange notes that what is live of a piece became another document.
func addChange(ctx context.Context, tx *sqlx.Tx, site int64, piece, did string, before, after []byte) error {
	designs, reach := changesOf(before, after)
	if did == Replaced && len(designs) == 0 && !reach {
		return nil
	}
	_, err := tx.ExecContext(ctx, `
		insert into piece_moves (site_id, piece_id, did, designs, reach) values ($1, $2, $3, $4::text[], $5)`, site, piece, did, designs, reach)
	return err
}

// liveOf locks a piece and gives what is live of it, or was last; nil: nothing ever.
func liveOf(ctx context.Context, tx *sqlx.Tx, site int64, piece string) (live []byte, err error) {
	err = tx.GetContext(ctx, &live, `select live from pieces where site_id = $1 and id = $2 for update`, site, piece)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil // whoever changes it says that it is not there
	}
	return live, err
}

// changesOf tells what visitors get otherwise: which variants, of those that both
// documents have, look different, and whether who sees them or when does. Nothing
// is a change from no document at all.
func changesOf(before, after []byte) (designs []string, reach bool) {
	designs = []string{}
	type variant struct {
		ID     string `json:"id"`
		Design any    `json:"design"`
	}
	type parts struct {
		Format any `json:"format"`
		Phone  any `json:"phone_format"`
		Rule   any `json:"rule"`
		Caps   any `json:"caps"`
		Hours  any `json:"schedule"`
		Split  struct {
			Variants []variant `json:"variants"`
		} `json:"split"`
	}
	var was, is parts
	if len(before) == 0 || json.Unmarshal(before, &was) != nil || json.Unmarshal(after, &is) != nil {
		return designs, false
	}
	sits := was.Format == is.Format && was.Phone == is.Phone
	for _, v := range is.Split.Variants {
		for _, old := range was.Split.Variants {
			if old.ID == v.ID && !(sits && reflect.DeepEqual(old.Design, v.Design)) {
				designs = append(designs, v.ID)
			}
		}
	}
	return designs, !reflect.DeepEqual([]any{was.Rule, was.Caps, was.Hours}, []any{is.Rule, is.Caps, is.Hours})
}

// SetMoves puts other moves in place of a piece's, for a made-up history.
func (s *Store) SetMoves(ctx context.Context, site int64, piece string, moves []Move) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `delete from piece_moves where site_id = $1 and piece_id = $2`, site, piece); err != nil {
			return err
		}
		for _, m := range moves {
			if _, err := tx.ExecContext(ctx, `
				insert into piece_moves (site_id, piece_id, at, did, until, designs, reach) values ($1, $2, $3, $4, $5, $6::text[], $7)`,
				site, piece, m.At, m.Did, m.Until, append([]string{}, m.Designs...), m.Reach); err != nil {
				return err
			}
		}
		return nil
	})
}
