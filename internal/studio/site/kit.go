package site

import (
	"maps"

	"gobbet/core/piece"
	"gobbet/core/style"
	"gobbet/internal/route"
	"gobbet/internal/store/pieces"
	"gobbet/internal/studio/parts"
)

// changeKit sets the site's style kit. Live pieces follow at once, those that
// visitors have open keep the look they have.
func (s *Place) changeKit(c *route.Call, req KitChange) (answer SiteInfo, err error) {
	kit, err := style.ReadKit(req.Kit)
	if err != nil {
		return answer, err
	}
	site := c.Site
	drawings := map[string][]byte{}
	err = s.read.EachPiece(c, func(row pieces.Piece, _ *piece.Piece) {
		if row.State != "live" {
			return
		}
		if p, err := s.read.Piece(c, row.Live); err == nil {
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
	return s.Info(site), nil
}

// kitUses lists the pieces that follow the style kit.
func (s *Place) kitUses(c *route.Call, _ route.None) (answer []KitUse, err error) {
	kit := c.Site.Kit
	uses := []KitUse{}
	err = s.read.EachPiece(c, func(row pieces.Piece, draft *piece.Piece) {
		for _, v := range draft.Split.Variants {
			if v.Design.OfKit() {
				uses = append(uses, KitUse{row.ID, draft.Name, row.State, parts.OrNone(v.Design.KitColors()), draft.Draw(&v, &kit)})
				return
			}
		}
	})
	if err != nil {
		return answer, err
	}
	return uses, nil
}
