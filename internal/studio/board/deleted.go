package board

import (
	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
)

// deleted lists the pieces that can still be restored, the latest first.
func (s *Place) deleted(c *route.Call, _ route.None) (answer []DeletedPiece, err error) {
	rows, err := s.store.Pieces.Removed(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	deleted := []DeletedPiece{}
	for _, row := range rows {
		deleted = append(deleted, DeletedPiece{row.ID, parts.NameIn(row.Draft), row.RemovedAt, row.RemovedAt.AddDate(0, 0, pieces.RestoreDays)})
	}
	return deleted, nil
}
