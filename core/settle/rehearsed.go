package settle

import (
	"fmt"
	"time"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/rehearse"
)

// enough is how many recorded page views say something of a rule.
const enough = 200

// arrival is how many seconds a page needs before anyone has read a line of it.
const arrival = 3

// tenth is the part of its showings from which on what the site's minimum costs is said.
const tenth = 10

// Rehearsed looks over how a piece would have fared on recorded visits. names
// are those of the rivals in the rehearsal, and minimum is the site's minimum time
// between pieces; 0: it sets none.
func Rehearsed(format piece.Format, r rehearse.Result, names []string, minimum time.Duration) []Note {
	n := notes{list: []Note{}}
	if r.PageViews < enough {
		return n.list
	}
	lost, most := 0, 0
	for i, views := range r.Lost {
		lost += views
		if views > r.Lost[most] {
			most = i
		}
	}
	switch {
	case r.Passed == 0:
		n.add(Warn, "nobody_passes", "rule", fmt.Sprintf("Its rule matches none of %d recorded page views.", r.PageViews), "Find the condition in Reach that no page view meets.")
	case r.Shown == 0 && lost > 0:
		n.add(Warn, "always_loses", "rule", fmt.Sprintf("Another piece is shown instead every time, mostly “%s”.", names[most]), "Move it up under Priority, or show it on other pages.")
	}
	if cost := r.LostToQuiet; minimum > 0 && cost*tenth >= r.Shown+cost && cost > 0 {
		says := fmt.Sprintf("It is held back by the site's minimum of %s between pieces on %d of the %d page views on which it would show", caps.SayLength(minimum), cost, r.Shown+cost)
		most := 0
		for i, views := range r.QuietAfter {
			if views > r.QuietAfter[most] {
				most = i
			}
		}
		if len(r.QuietAfter) > 0 && r.QuietAfter[most] > 0 {
			says += fmt.Sprintf(", mostly after “%s”", names[most])
		}
		n.add(Warn, "held_by_minimum", "rule", says+".", "Shorten the minimum under Site, Limits over all pieces, or show one of the two on other pages.")
	}
	if format.Overlay() && r.TypicalWait != nil && *r.TypicalWait < arrival {
		n.add(Warn, "too_early", "rule", fmt.Sprintf("It covers the page after %.0f s, before anyone can read a line; search engines mark such pages down on phones.", *r.TypicalWait), "Wait for some seconds on the page, or for a scroll.")
	}
	return n.list
}
