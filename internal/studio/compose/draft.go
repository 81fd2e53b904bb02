package compose

import (
	"encoding/json"

	"gobbet/core/settle"
	"gobbet/internal/route"
	"gobbet/internal/studio/parts"
)

func (s *Place) piece(c *route.Call, _ route.None) (answer parts.PieceInfo, err error) {
	return s.read.Info(c, c.Param("piece"))
}

func (s *Place) saveDraft(c *route.Call, req SaveRequest) (answer Saved, err error) {
	draft, err := s.read.Piece(c, req.Draft)
	if err != nil {
		return answer, err
	}
	clean, err := json.Marshal(draft)
	if err != nil {
		return answer, err
	}
	version, err := s.store.Pieces.SaveDraft(c, c.Site.ID, c.Param("piece"), int(req.Version), clean)
	if err != nil {
		return answer, err
	}
	row, err := s.store.Pieces.Get(c, c.Site.ID, c.Param("piece"))
	if err != nil {
		return answer, err
	}
	return Saved{version, settle.Notes(draft, s.read.Surroundings(c)), draft.Program.As(c.Site.Settings.Data).Phrase(), parts.Edited(row, clean)}, nil
}
