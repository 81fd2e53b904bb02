package pieces

import (
	"context"
	"encoding/json"
	"time"

	"gobbet/core/launch"

	"github.com/jmoiron/sqlx"
)

// Move is something that was done with a piece.
type Move struct {
	Piece string     `db:"piece_id"`
	At    time.Time  `db:"at"`
	Did   launch.Did `db:"did"`
	From  *time.Time `db:"starts"` // of a pause that is planned
	Until *time.Time `db:"until"`  // of a pause that ends by itself
	// Designs are the ids of variants whose design changed, and Reach says that who
	// sees the piece or when did, where it was live before.
	Designs []string `db:"-"`
	Reach   bool     `db:"reach"`
	By      string   `db:"who"` // the name of who did it; empty: it came about by itself
}

// Moves lists what was done with a site's pieces, or with one where piece is not
// empty, since a time, in order.
func (s *Store) Moves(ctx context.Context, site int64, piece string, since time.Time) (moves []Move, err error) {
	var rows []struct {
		Move
		Designs []byte `db:"designs"`
	}
	err = s.db.SelectContext(ctx, &rows, `
		select m.piece_id, m.at, m.did, m.starts, m.until, to_json(m.designs) as designs, m.reach, coalesce(a.name, '') as who
		from piece_moves m left join accounts a on a.id = m.account_id
		where m.site_id = $1 and ($2 = '' or m.piece_id = $2) and m.at >= $3 order by m.piece_id, m.at, m.id`, site, piece, since)
	for _, row := range rows {
		if err := json.Unmarshal(row.Designs, &row.Move.Designs); err != nil {
			return nil, err
		}
		moves = append(moves, row.Move)
	}
	return moves, err
}

// addMove notes what was done with a piece.
func addMove(ctx context.Context, tx *sqlx.Tx, act Act, piece string, at time.Time, m *launch.Move) error {
	_, err := tx.ExecContext(ctx, `
		insert into piece_moves (site_id, piece_id, at, did, starts, until, designs, reach, account_id) values ($1, $2, $3, $4, $5, $6, $7::text[], $8, nullif($9, 0))`,
		act.Site, piece, at, m.Did, m.From, m.Until, append([]string{}, m.Designs...), m.Reach, act.By)
	return err
}

// SetMoves puts other moves in place of a piece's, for a made-up history.
func (s *Store) SetMoves(ctx context.Context, site int64, piece string, moves []Move) error {
	return s.db.Tx(ctx, func(tx *sqlx.Tx) error {
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
