package choose

import (
	"fmt"
	"time"

	"gobbet/core/caps"
)

var says = map[Reason]string{
	ByNever:                   "This visitor asked not to see it again.",
	BySchedule:                "Its schedule does not allow it now.",
	Reason(caps.PerVisitor):   "This visitor has seen it as often as its limit allows.",
	Reason(caps.Gap):          "It was shown too short a while ago.",
	Reason(caps.AfterClose):   "It waits, because this visitor closed it.",
	Reason(caps.AfterConvert): "It waits, because this visitor converted.",
	Reason(caps.Total):        "Its total number of views is used up.",
	Reason(caps.Lead):         "This visitor is on the list already.",
	Reason(caps.Overlays):     "This visit has had as many pieces over the page as the site allows.",
}

// Say puts in words what holds the piece back; empty where nothing does, or
// where its rule says no, and that it rests where it does. Times are on the wall clock of now. Names gives
// pieces their names.
func (s Standing) Say(now time.Time, name func(id string) string) string {
	switch s.Held {
	case "":
		if s.Rests > 0 {
			return fmt.Sprintf("Held back by the site's minimum of %s between pieces. Tried again at %s.", caps.SayLength(s.Minimum), now.Add(s.Rests).Format(time.TimeOnly))
		}
		return ""
	case ByRule:
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
		said += " Possible again at " + until.Format(layout) + "."
	}
	return said
}
