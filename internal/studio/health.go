package studio

import (
	"net/http"

	"gobbet/internal/store/pieces"

	"gobbet/internal/store/sites"

	"github.com/gin-gonic/gin"
)

const refusedDays = 7

// health tells what a marketer should know of how the site is wired up.
func (s *Server) health(c *gin.Context) error {
	site := siteOf(c)
	names, err := s.store.Sites.DataNames(c, site.ID)
	if err != nil {
		return err
	}
	refusals, err := s.store.Sites.Refusals(c, site.ID, refusedDays)
	if err != nil {
		return err
	}
	health := Health{Proxy: s.proxy(), DataNames: orNone(names), MostDataNames: sites.MostDataNames, Refused: []RefusedKind{}, RefusedDays: refusedDays}
	for _, r := range refusals {
		health.Refused = append(health.Refused, RefusedKind{r.Kind, r.Times, r.Example, r.LastAt})
	}
	if health.Jobs, err = s.jobs(c); err != nil {
		return err
	}
	c.JSON(http.StatusOK, health)
	return nil
}

func (s *Server) forgetDataName(c *gin.Context) error {
	return s.done(c, s.store.Sites.ForgetDataName(c, siteOf(c).ID, c.Param("name")))
}

// deleted lists the pieces that can still be restored, the latest first.
func (s *Server) deleted(c *gin.Context) error {
	rows, err := s.store.Pieces.Removed(c, siteOf(c).ID)
	if err != nil {
		return err
	}
	deleted := []DeletedPiece{}
	for _, row := range rows {
		deleted = append(deleted, DeletedPiece{row.ID, nameIn(row.Draft), row.RemovedAt, row.RemovedAt.AddDate(0, 0, pieces.RestoreDays)})
	}
	c.JSON(http.StatusOK, deleted)
	return nil
}
