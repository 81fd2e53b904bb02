package settle

import (
	"fmt"

	"gobbet/core/piece"
	"gobbet/core/rehearse"
)

// enough is how many recorded page views say something of a rule.
const enough = 200

// arrival is how many seconds a page needs before anyone has read a line of it.
const arrival = 3

// Rehearsed looks over how a piece would have fared on recorded visits. names
// are those of the rivals in the rehearsal.
func Rehearsed(format piece.Format, r rehearse.Result, names []string) []Note {
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
	if format.Overlay() && r.TypicalWait != nil && *r.TypicalWait < arrival {
		n.add(Warn, "too_early", "rule", fmt.Sprintf("It covers the page after %.0f s, before anyone can read a line; search engines mark such pages down on phones.", *r.TypicalWait), "Wait for some seconds on the page, or for a scroll.")
	}
	return n.list
}
