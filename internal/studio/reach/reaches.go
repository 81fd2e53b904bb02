package reach

import (
	"encoding/json"
	"net/http"
	"regexp"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/internal/problem"
	"gobbet/internal/route"
	"gobbet/internal/store/reaches"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio/parts"
)

const maxReaches = 200

// reaches lists the site's saved reaches with the pieces that stand on each.
func (s *Place) reaches(c *route.Call, _ route.None) (answer []SavedReach, err error) {
	site := c.Site
	saved, err := s.store.Reaches.List(c, site.ID)
	if err != nil {
		return answer, err
	}
	used, err := s.usedIn(c, site)
	if err != nil {
		return answer, err
	}
	list := []SavedReach{}
	for _, r := range saved {
		one := SavedReach{ID: r.ID, Name: r.Name, Rule: r.Rule, Used: parts.OrNone(used[r.ID])}
		if p, err := reach.Read(r.Rule); err == nil {
			one.Phrase = p.As(c.Site.Settings.Data).Phrase()
		}
		list = append(list, one)
	}
	return list, nil
}

// usedIn tells by saved reach which pieces stand on it, in their draft or live.
func (s *Place) usedIn(c *route.Call, site sites.Site) (map[string][]parts.UsedIn, error) {
	rows, err := s.store.Pieces.List(c, site.ID)
	if err != nil {
		return nil, err
	}
	used := map[string][]parts.UsedIn{}
	for _, row := range rows {
		live := map[string]bool{}
		if row.State == "live" {
			live = savedIn(row.Live)
		}
		both := savedIn(row.Draft)
		for id := range live {
			both[id] = true
		}
		for id := range both {
			used[id] = append(used[id], parts.UsedIn{ID: row.ID, Name: parts.NameIn(row.Draft), Live: live[id]})
		}
	}
	return used, nil
}

// savedIn lists the saved reaches that a document's rule stands on.
func savedIn(doc []byte) map[string]bool {
	ids := map[string]bool{}
	var d struct {
		Rule json.RawMessage `json:"rule"`
	}
	if json.Unmarshal(doc, &d) == nil {
		if rule, err := reach.Parse(d.Rule); err == nil {
			reach.EachSaved(rule, func(id string) { ids[id] = true })
		}
	}
	return ids
}

var reachID = regexp.MustCompile(`^[a-z0-9-]{1,40}$`)

// saveReach adds a saved reach or changes one; pieces that stand on it, live
// ones too, go by it from then on.
func (s *Place) saveReach(c *route.Call, req ReachChange) (answer []SavedReach, err error) {
	site, id := c.Site, c.Param("reach")
	var faults fault.Faults
	name := strings.TrimSpace(req.Name)
	if name == "" || len(name) > 120 {
		faults.Add("name", "needs 1 to 120 characters")
	}
	if !reachID.MatchString(id) {
		faults.Add("id", "is not a name for a reach")
	}
	program, err := reach.Read(req.Rule) // no book: a saved reach stands on no other
	if err != nil {
		for _, f := range fault.Of(err) {
			if strings.HasSuffix(f.At, "saved") {
				f.Message = "is a saved reach, which another cannot use"
			}
			faults.Add(fault.Join("rule", f.At), "%s", f.Message)
		}
	}
	saved, err := s.store.Reaches.List(c, site.ID)
	if err != nil {
		return answer, err
	}
	is := false
	for _, r := range saved {
		is = is || r.ID == id
		if r.ID != id && strings.EqualFold(r.Name, name) {
			faults.Add("name", "is taken by another saved reach")
		}
	}
	if !is && len(saved) >= maxReaches {
		faults.Add("name", "would be one saved reach more than the %d a site may have", maxReaches)
	}
	if err := faults.Err(); err != nil {
		return answer, err
	}
	rule, err := json.Marshal(program.Rule())
	if err == nil {
		err = s.store.Reaches.Save(c, site.ID, reaches.Reach{ID: id, Name: name, Rule: rule})
	}
	if err != nil {
		return answer, err
	}
	return s.reaches(c, route.None{})
}

// removeReach deletes a saved reach that no piece uses.
func (s *Place) removeReach(c *route.Call, _ route.None) (answer []SavedReach, err error) {
	site, id := c.Site, c.Param("reach")
	used, err := s.usedIn(c, site)
	if err != nil {
		return answer, err
	}
	if in := used[id]; len(in) > 0 {
		names := make([]string, len(in))
		for i, u := range in {
			names[i] = "“" + u.Name + "”"
		}
		return answer, problem.New(http.StatusConflict, "in-use", "It is used in "+strings.Join(names, ", ")+". Remove it there first.")
	}
	if err := s.store.Reaches.Remove(c, site.ID, id); err != nil {
		return answer, err
	}
	return s.reaches(c, route.None{})
}
