package studio

import (
	"gobbet/internal/route"

	"gobbet/internal/store/pieces"

	"gobbet/internal/store/sites"
)

const refusedDays = 7

// health tells what a marketer should know of how the site is wired up.
func (s *Server) health(c *route.Call, _ route.None) (answer Health, err error) {
	site := c.Site
	names, err := s.store.Sites.DataNames(c, site.ID)
	if err != nil {
		return answer, err
	}
	refusals, err := s.store.Sites.Refusals(c, site.ID, refusedDays)
	if err != nil {
		return answer, err
	}
	health := Health{Proxy: s.proxy(), DataNames: orNone(names), MostDataNames: sites.MostDataNames, Refused: []RefusedKind{}, RefusedDays: refusedDays}
	for _, r := range refusals {
		health.Refused = append(health.Refused, RefusedKind{r.Kind, r.Times, r.Example, r.LastAt})
	}
	if health.Jobs, err = s.jobs(c); err != nil {
		return answer, err
	}
	return health, nil
}

func (s *Server) forgetDataName(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.store.Sites.ForgetDataName(c, c.Site.ID, c.Param("name"))
}

// deleted lists the pieces that can still be restored, the latest first.
func (s *Server) deleted(c *route.Call, _ route.None) (answer []DeletedPiece, err error) {
	rows, err := s.store.Pieces.Removed(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	deleted := []DeletedPiece{}
	for _, row := range rows {
		deleted = append(deleted, DeletedPiece{row.ID, nameIn(row.Draft), row.RemovedAt, row.RemovedAt.AddDate(0, 0, pieces.RestoreDays)})
	}
	return deleted, nil
}
