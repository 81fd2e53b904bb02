package studio

import (
	"maps"
	"net/http"

	"gobbet/internal/store/pieces"

	"github.com/gin-gonic/gin"

	"gobbet/core/piece"
	"gobbet/core/style"
)

// changeKit sets the site's style kit. Live pieces follow at once, those that
// visitors have open keep the look they have.
func (s *Server) changeKit(c *gin.Context) error {
	var req KitChange
	if err := body(c, &req); err != nil {
		return err
	}
	kit, err := style.ReadKit(req.Kit)
	if err != nil {
		return err
	}
	site := siteOf(c)
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
		return err
	}
	site.Kit, site.KitVersion = kit, int(req.Version)+1
	c.JSON(http.StatusOK, s.siteInfo(site))
	return nil
}

// eachPiece goes through the site's pieces whose drafts can be read.
func (s *Server) eachPiece(c *gin.Context, do func(row pieces.Piece, draft *piece.Piece)) error {
	rows, err := s.store.Pieces.List(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	book, err := s.store.Reaches.Book(c, siteOf(c).ID)
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
func (s *Server) kitUses(c *gin.Context) error {
	kit := siteOf(c).Kit
	uses := []KitUse{}
	err := s.eachPiece(c, func(row pieces.Piece, draft *piece.Piece) {
		for _, v := range draft.Split.Variants {
			if v.Design.OfKit() {
				uses = append(uses, KitUse{row.ID, draft.Name, row.State, orNone(v.Design.KitColors()), draft.Draw(&v, &kit)})
				return
			}
		}
	})
	if err != nil {
		return err
	}
	c.JSON(http.StatusOK, uses)
	return nil
}
