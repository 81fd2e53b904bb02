package pieces

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jmoiron/sqlx"

	"gobbet/core/launch"
)

// Moves lists what was done with a site's pieces, or with one where piece is not
// empty, since a time, in order.
func (s *Store) Moves(ctx context.Context, site int64, piece string, since time.Time) (moves []launch.Made, err error) {
	var rows []struct {
		launch.Made
		Designs []byte
	}
	err = s.db.SelectContext(ctx, &rows, `
		select m.piece_id as piece, m.at, m.did, m.starts as "from", m.until, to_json(m.designs) as designs, m.reach, coalesce(a.name, '') as by
		from piece_moves m left join accounts a on a.id = m.account_id
		where m.site_id = $1 and ($2 = '' or m.piece_id = $2) and m.at >= $3 order by m.piece_id, m.at, m.id`, site, piece, since)
	for _, row := range rows {
		if err := json.Unmarshal(row.Designs, &row.Made.Designs); err != nil {
			return nil, err
		}
		moves = append(moves, row.Made)
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
func (s *Store) SetMoves(ctx context.Context, site int64, piece string, moves []launch.Made) error {
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
