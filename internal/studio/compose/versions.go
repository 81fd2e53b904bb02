package compose

import (
	"gobbet/core/piece"
	"gobbet/internal/route"
)

const shownVersions = 40

// versions lists a piece's drafts as they were, those that can still be read.
func (s *Place) versions(c *route.Call, _ route.None) (answer []VersionInfo, err error) {
	site := c.Site
	if _, err := s.store.Pieces.Get(c, site.ID, c.Param("piece")); err != nil {
		return answer, err
	}
	rows, err := s.store.Pieces.Versions(c, site.ID, c.Param("piece"), shownVersions)
	if err != nil {
		return answer, err
	}
	book, err := s.store.Reaches.Book(c, site.ID)
	if err != nil {
		return answer, err
	}
	versions := []VersionInfo{}
	for _, row := range rows {
		if draft, err := piece.ParseWith(row.Draft, book); err == nil {
			versions = append(versions, VersionInfo{row.Version, row.SavedAt, row.Launched, draft})
		}
	}
	return versions, nil
}
