package site

import (
	"slices"
	"strings"
	"time"

	"gobbet/core/fault"
	"gobbet/core/origin"
	"gobbet/core/piece"
	"gobbet/core/setup"
	"gobbet/core/words"
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
)

func (s *Place) changeSite(c *route.Call, req SiteChange) (answer SiteInfo, err error) {
	var faults fault.Faults
	name := strings.TrimSpace(req.Name)
	if name == "" || len(name) > 120 {
		faults.Add("name", "needs 1 to 120 characters")
	}
	if _, err := time.LoadLocation(req.Zone); err != nil || req.Zone == "" || req.Zone == "Local" {
		faults.Add("zone", "is not a time zone such as Europe/Dublin")
	}
	if len(req.Origins) > 50 {
		faults.Add("origins", "are more than 50")
	}
	origins := sites.Texts{}
	for i, given := range req.Origins {
		origin, err := origin.Parse(given)
		if err != nil {
			faults.Within(fault.Index("origins", i), err)
		} else if !slices.Contains(origins, origin) {
			origins = append(origins, origin)
		}
	}
	err = faults.Err()
	if err == nil {
		err = s.store.Sites.Change(c, c.Site.ID, int(req.Version), name, req.Zone, origins)
	}
	if err != nil {
		return answer, err
	}
	site := c.Site
	site.Name, site.Zone, site.Origins, site.Version = name, req.Zone, origins, int(req.Version)+1
	return s.Info(site), nil
}

// Info is a site as windows hold it.
func (s *Place) Info(site sites.Site) SiteInfo {
	return SiteInfo{
		site.ID, site.Key, site.Name, site.Zone, site.Origins, piece.PagesAt(s.pages, site.Key),
		site.Settings.Settings, site.Kit, site.Version, site.KitVersion, versionsOf(site.Settings.Settings),
	}
}

func versionsOf(settings setup.Settings) map[setup.Part]string {
	versions := map[setup.Part]string{}
	for _, part := range setup.Parts {
		versions[part] = settings.Version(part)
	}
	return versions
}

func (s *Place) changeSettings(c *route.Call, req SettingsChange) (answer SiteInfo, err error) {
	part := setup.Part(c.Param("part"))
	if !part.Known() {
		return answer, fault.ErrNotFound
	}
	settings, err := s.store.Sites.ChangePart(c, c.Site.ID, part, req.Version, req.Settings)
	if err != nil {
		return answer, err
	}
	site := c.Site
	site.Settings = sites.Settings{Settings: settings}
	return s.Info(site), nil
}

// words gives the fixed words as they ship, to be worded anew.
func (s *Place) words(*route.Call, route.None) (answer FixedWords, err error) {
	answer = FixedWords{Languages: words.Languages(), Keys: words.Keys(), Tables: map[string]words.Table{}}
	for _, lang := range answer.Languages {
		answer.Tables[lang] = words.In(lang, nil)
	}
	return answer, nil
}
