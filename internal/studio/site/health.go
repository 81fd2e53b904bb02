package site

import (
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

const refusedDays = 7

// health tells what a marketer should know of how the site is wired up.
func (s *Place) health(c *route.Call, _ route.None) (answer Health, err error) {
	site := c.Site
	names, err := s.store.Sites.DataNames(c, site.ID)
	if err != nil {
		return answer, err
	}
	refusals, err := s.store.Sites.Refusals(c, site.ID, refusedDays)
	if err != nil {
		return answer, err
	}
	seen, err := s.store.PageViews.LatestAt(c, site.ID)
	if err != nil {
		return answer, err
	}
	health := Health{SeenAt: seen, Proxy: s.proxy(), DataNames: parts.OrNone(names), MostDataNames: sites.MostDataNames, Refused: []RefusedKind{}, RefusedDays: refusedDays}
	for _, r := range refusals {
		health.Refused = append(health.Refused, RefusedKind{r.Kind, r.Times, r.Example, r.LastAt})
	}
	if health.Jobs, err = s.jobs(c); err != nil {
		return answer, err
	}
	return health, nil
}

func (s *Place) forgetDataName(c *route.Call, _ route.None) (answer route.None, err error) {
	return answer, s.store.Sites.ForgetDataName(c, c.Site.ID, c.Param("name"))
}
