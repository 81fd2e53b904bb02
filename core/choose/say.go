package choose

import (
	"time"

	"gobbet/core/caps"
)

var says = map[Reason]string{
	ByNever:                   "This visitor asked not to see it again.",
	BySchedule:                "Its schedule is closed just now.",
	Reason(caps.PerVisitor):   "This visitor has seen it as often as its limit allows.",
	Reason(caps.Gap):          "Its last showing was too short a while ago.",
	Reason(caps.AfterClose):   "It rests since this visitor closed it.",
	Reason(caps.AfterConvert): "It rests since this visitor converted.",
	Reason(caps.Total):        "All its showings are used up.",
	Reason(caps.Lead):         "This visitor is a lead already.",
	Reason(caps.Overlays):     "This visit has had as many pieces over the page as the site allows.",
	Reason(caps.Quiet):        "Another piece showed a short while ago, and the site keeps quiet in between.",
}

// Say puts in words what holds the piece back; empty where nothing does, or
// where its rule says no. Times are on the wall clock of now. Names gives
// pieces their names.
func (s Standing) Say(now time.Time, name func(id string) string) string {
	switch s.Held {
	case "", ByRule:
		return ""
	case BySlot:
		return "“" + name(s.By) + "” has its place on the page."
	}
	said := says[s.Held]
	if !s.Until.IsZero() {
		until := s.Until.In(now.Location())
		layout := "15:04"
		if until.Sub(now) > 20*time.Hour {
			layout = "Mon 2 Jan, 15:04"
		}
		said += " Free again at " + until.Format(layout) + "."
	}
	return said
}
