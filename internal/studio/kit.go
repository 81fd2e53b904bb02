package studio

import (
	"maps"

	"gobbet/internal/route"

	"gobbet/internal/store/pieces"

	"gobbet/core/piece"
	"gobbet/core/style"
)

// changeKit sets the site's style kit. Live pieces follow at once, those that
// visitors have open keep the look they have.
func (s *Server) changeKit(c *route.Call, req KitChange) (answer SiteInfo, err error) {
	kit, err := style.ReadKit(req.Kit)
	if err != nil {
		return answer, err
	}
	site := c.Site
	drawings := map[string][]byte{}
	err = s.eachPiece(c, func(row pieces.Piece, _ *piece.Piece) {
		if row.State != "live" {
			return
		}
		if p, err := s.readPiece(c, row.Live); err == nil {
			maps.Copy(drawings, p.Drawings(&kit, nil))
		}
	})
	if err == nil {
		err = s.store.Sites.ChangeKit(c, site.ID, int(req.Version), kit, drawings)
	}
	if err != nil {
		return answer, err
	}
	site.Kit, site.KitVersion = kit, int(req.Version)+1
	return s.siteInfo(site), nil
}

// eachPiece goes through the site's pieces whose drafts can be read.
func (s *Server) eachPiece(c *route.Call, do func(row pieces.Piece, draft *piece.Piece)) error {
	rows, err := s.store.Pieces.List(c, c.Site.ID)
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(c, c.Site.ID)
	if err != nil {
		return err
	}
	for _, row := range rows {
		if draft, err := piece.ParseWith(row.Draft, book); err == nil {
			do(row, draft)
		}
	}
	return nil
}

// kitUses lists the pieces that follow the style kit.
func (s *Server) kitUses(c *route.Call, _ route.None) (answer []KitUse, err error) {
	kit := c.Site.Kit
	uses := []KitUse{}
	err = s.eachPiece(c, func(row pieces.Piece, draft *piece.Piece) {
		for _, v := range draft.Split.Variants {
			if v.Design.OfKit() {
				uses = append(uses, KitUse{row.ID, draft.Name, row.State, orNone(v.Design.KitColors()), draft.Draw(&v, &kit)})
				return
			}
		}
	})
	if err != nil {
		return answer, err
	}
	return uses, nil
}
