package caps

import (
	"math"
	"time"

	"github.com/sosodev/duration"

	"gobbet/core/fault"
)

// Span is an ISO 8601 duration, Forever, or, in a Limit, Visit. The empty Span
// is none at all. A day is 24 hours, a month 30 days and a year 365.
type Span string

const (
	Forever Span = "forever"
	Visit   Span = "visit"
)

// Day is what ISO 8601's D lasts here, whatever the clocks do.
const Day = 24 * time.Hour

const longest = 100 * 365 * Day

// Length is how long a checked span lasts.
func (s Span) Length() (length time.Duration, forever bool) {
	if s == Forever {
		return 0, true
	}
	length, _ = s.parse()
	return length, false
}

func (s Span) parse() (time.Duration, string) {
	d, err := duration.Parse(string(s))
	if err != nil {
		return 0, "should be an ISO 8601 duration such as P7D or PT6H, or “forever”"
	}
	days := d.Years*365 + d.Months*30 + d.Weeks*7 + d.Days
	seconds := days*Day.Seconds() + d.Hours*3600 + d.Minutes*60 + d.Seconds
	switch {
	case d.Negative || !(seconds > 0):
		return 0, "should be longer than nothing"
	case seconds > longest.Seconds():
		return 0, "is over 100 years; say “forever”"
	}
	return time.Duration(math.Round(seconds * float64(time.Second))), ""
}

const maxTimes = 1_000_000_000

// Parse reads and checks caps; none at all may be left out. Its error is fault.Faults.
func Parse(data []byte) (c Caps, err error) {
	if len(data) == 0 {
		return c, nil
	}
	n, err := fault.Read(data)
	if err != nil {
		return c, err
	}
	return ParseNode(n)
}

// ParseNode is Parse for caps that were scanned already; nil is none.
func ParseNode(n *fault.Node) (c Caps, err error) {
	if n.IsNull() {
		return c, nil
	}
	if err := n.Strictly("", &c); err != nil {
		return c, err
	}
	return c, c.Check()
}

// Check finds what is wrong with the caps. Its error is fault.Faults.
func (c Caps) Check() error {
	var faults fault.Faults
	span := func(at string, s Span) {
		if s != "" && s != Forever {
			if _, wrong := s.parse(); wrong != "" {
				faults.Add(at, "%s", wrong)
			}
		}
	}
	if len(c.PerVisitor) > 20 {
		faults.Add("per_visitor", "has more than 20 limits")
		return faults
	}
	for i, limit := range c.PerVisitor {
		at := fault.Index("per_visitor", i)
		if limit.Times < 1 || limit.Times > maxTimes {
			faults.Add(fault.Key(at, "times"), "should be 1 or more")
		}
		if limit.Per == "" {
			faults.Add(fault.Key(at, "per"), "is missing: say “visit”, “forever” or a duration such as P30D")
		} else if limit.Per != Visit {
			span(fault.Key(at, "per"), limit.Per)
		}
	}
	span("gap", c.Gap)
	span("after_close", c.AfterClose)
	span("after_convert", c.AfterConvert)
	if c.Total < 0 || c.Total > maxTimes {
		faults.Add("total", "should be 1 or more")
	}
	return faults.Err()
}
