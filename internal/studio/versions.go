package studio

import (
	"gobbet/internal/route"

	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/internal/templates"
)

const shownVersions = 40

// versions lists a piece's drafts as they were, those that can still be read.
func (s *Server) versions(c *route.Call, _ route.None) (answer []VersionInfo, err error) {
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

// templates lists the templates in the site's style.
func (s *Server) templates(c *route.Call, _ route.None) (answer TemplateList, err error) {
	kit := c.Site.Kit
	list := []Template{}
	for _, one := range templates.All() {
		list = append(list, Template{one.ID, one.Name, string(one.Goal), one.Season, one.Tags, one.Format, one.Drawing(one.Format, &kit).WithValues(), one.Promises()})
	}
	answer = TemplateList{Templates: list, Frames: map[piece.Format]piece.Frame{}}
	for _, format := range piece.Formats {
		answer.Frames[format] = piece.UsualFrame(format)
	}
	return answer, nil
}

// surroundings is what the notes on a piece want to know of its site. What
// cannot be looked up now is not known.
func (s *Server) surroundings(c *route.Call) settle.Around {
	site := c.Site
	around := settle.Around{Kit: &site.Kit, Now: s.now()}
	if pictures, err := s.store.Library.Pictures(c, site.ID); err == nil {
		bytes := map[string]int{}
		for _, p := range pictures {
			bytes[p.Hash] = p.Bytes
		}
		around.Bytes = func(hash string) (int, bool) {
			n, ok := bytes[hash]
			return n, ok
		}
	}
	// Whether a pool runs low is all that the notes ask.
	if pools, err := s.store.Codes.PoolsLeft(c, site.ID, settle.FewCodes); err == nil {
		around.Codes = map[string]int{}
		for _, p := range pools {
			around.Codes[p.ID] = p.Left
		}
	}
	return around
}
