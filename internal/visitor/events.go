package visitor

import (
	"context"
	"net/netip"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/google/uuid"

	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/core/tally"
	"gobbet/core/text"
	"gobbet/internal/store/events"
)

const (
	// The oldest a late event may be, such as one a browser kept while offline.
	oldest = 7 * 24 * time.Hour
	// By how much an id may be ahead: the clocks of browsers go wrong, and pages
	// correct them where they can.
	ahead = 24 * time.Hour
	// The largest worth of a goal, in hundredths.
	mostWorth = 1e11
	mostAfter = 1e8 // ms
)

// events stores what happened on a page. What can never be counted is refused,
// and what is left out is said to be stored: the page need not know.
func (v *Server) events(c *Call, req *EventsRequest) (EventsAnswer, error) {
	site, now := c.Site, v.now()
	if !isToken(req.Visitor) || len(req.Events) > maxBatch {
		return EventsAnswer{}, fault.Fault{At: "visitor", Message: "is not a visitor, or says too much at once"}
	}
	cuts := v.cuts(c, req.Visits, req.Width)
	cuts.Channel = sourceOf(site, req.Landing, req.Referrer).Channel
	var good []tally.Event
	for i := range req.Events {
		if e, ok := site.event(&req.Events[i], now); ok {
			e.Visitor, e.Visit, e.Cuts = req.Visitor, visitToken(req.Visit), cuts
			good = append(good, e)
		}
	}
	answer := EventsAnswer{Stored: len(good), Refused: len(req.Events) - len(good)}
	if why, what := v.outsider(c, req.Automated); why != "" {
		v.leftOut.add(site, now, why, what, len(good))
		return answer, nil
	}
	ctx, done := c.outliving()
	defer done()
	return answer, v.store.Events.Add(ctx, site.ID, site.Zone, good)
}

// cuts is what a request tells visitors apart by, but for where they came from:
// which of their visits it is, and how wide their window.
func (v *Server) cuts(c *Call, visits, width int) tally.Cuts {
	cuts := tally.Cuts{Device: deviceOf(c.Header.Get("User-Agent")).on(width), Country: v.places.Of(c.Address).Country}
	switch {
	case visits > 1:
		cuts.Known = "returning"
	case visits == 1:
		cuts.Known = "new"
	}
	return cuts
}

// event reads an event of a page.
func (site *Site) event(e *EventIn, now time.Time) (read tally.Event, ok bool) {
	id, err := uuid.Parse(e.ID)
	if err != nil || !slices.Contains(tally.Kinds, e.Kind) || fromTheFuture(id, now) {
		return read, false
	}
	read = tally.Event{ID: id.String(), Kind: e.Kind, At: believable(e.At, now), Page: pagePath(e.Page), After: -1}
	if e.Kind == tally.Reached {
		goal := site.goal(e.Goal)
		if goal == nil {
			return read, false
		}
		worth := min(max(e.Amount, -mostWorth/100), mostWorth/100)
		read.Goal = tally.Goal{Goal: goal.ID, Amount: int64(worth*100 + 0.5*sign(worth)), Within: goal.Days}
		return read, true
	}
	heldBack := e.Kind == tally.Held || (e.Kind == tally.Left || e.Kind == tally.Eligible) && e.Variant == tally.HeldBack
	if heldBack != (e.Variant == tally.HeldBack) || site.Known[e.Piece] == nil || !heldBack && !site.Known[e.Piece][e.Variant] {
		return read, false
	}
	read.Piece, read.Variant, read.Run = e.Piece, e.Variant, site.runAt(e.Piece, read.At)
	if e.After != nil && *e.After >= 0 {
		read.After = int(min(*e.After, mostAfter))
	}
	return read, true
}

func sign(x float64) float64 {
	if x < 0 {
		return -1
	}
	return 1
}

// fromTheFuture reports whether an id that has its time in it (UUIDv7) is of a
// time that is not yet: its month's events would come to a month by themselves.
func fromTheFuture(id uuid.UUID, now time.Time) bool {
	if id.Version() != 7 {
		return false // of a page that was open before ids had a time
	}
	var ms int64
	for _, b := range id[:6] {
		ms = ms<<8 | int64(b)
	}
	return time.UnixMilli(ms).After(now.Add(ahead))
}

func believable(milliseconds int64, now time.Time) time.Time {
	at := time.UnixMilli(milliseconds)
	switch {
	case at.After(now):
		return now
	case at.Before(now.Add(-oldest)):
		return now.Add(-oldest)
	}
	return at
}

// runAt is the run of a piece's split at a time; of before the first that is
// known, the first.
func (site *Site) runAt(piece string, at time.Time) (run int) {
	runs := site.runs[piece]
	for i, r := range runs {
		if i == 0 || !r.Began.After(at) {
			run = r.Run
		}
	}
	return run
}

func (site *Site) goal(id string) *setup.Goal {
	for i := range site.Settings.Goals {
		if g := &site.Settings.Goals[i]; g.ID == id {
			return g
		}
	}
	return nil
}

// goalsAt gives the goals that a page view reaches by its address, and those that
// an event on the page may.
func (site *Site) goalsAt(address string) (goals []GoalAt) {
	path := "/"
	if page, err := url.Parse(clip(address)); err == nil {
		path = or(page.EscapedPath(), "/")
	}
	for i, g := range site.Settings.Goals {
		if g.Kind == "event" {
			goals = append(goals, GoalAt{Goal: g.ID, Event: g.About, Value: g.Value})
		} else if site.goalPaths[i] != nil && site.goalPaths[i].Matches(path) {
			goals = append(goals, GoalAt{Goal: g.ID, Value: g.Value})
		}
	}
	return goals
}

// pathRule judges the path of a page by a pattern, as rules do.
type pathRule struct{ program *reach.Program }

func newPathRule(pattern string) *pathRule {
	program, err := reach.Compile(reach.Clause{Fact: "page.path", Op: reach.Like, Value: pattern})
	if err != nil {
		return nil
	}
	return &pathRule{program}
}

// Matches reports whether a path is of the pattern.
func (r *pathRule) Matches(path string) bool {
	v := &reach.Visit{}
	v.Set("page.path", path)
	return r.program.Judge(v) == reach.Yes
}

// Why events are left out.
const (
	Robot     = "robot"
	Automated = "automated"
	Team      = "team"
)

// robots says of a user agent that it names itself a robot.
var robots = regexp.MustCompile(`(?i)[a-z-]*(?:bot|crawler|spider|scraper|headless|preview)[a-z-]*`)

// outsider says why what a browser does is left out of all counts, and what it
// is called: it names itself a robot, is driven by a program, or is the team's own.
func (v *Server) outsider(c *Call, automated bool) (why, what string) {
	agent := text.Cut(c.Header.Get("User-Agent"), maxAgent)
	if robot := deviceOf(agent).robot; robot != "" {
		return Robot, robot
	}
	if automated {
		return Automated, "a browser driven by a program"
	}
	if len(c.Site.team) > 0 {
		if at, err := netip.ParseAddr(c.Address); err == nil && slices.ContainsFunc(c.Site.team, func(net netip.Prefix) bool { return net.Contains(at.Unmap()) }) {
			return Team, "a visit of your team"
		}
	}
	return "", ""
}

// teamNets reads the addresses and networks that are the team's own.
func teamNets(given []string) (nets []netip.Prefix) {
	for _, one := range given {
		if net, err := netip.ParsePrefix(one); err == nil {
			nets = append(nets, net.Masked())
		} else if at, err := netip.ParseAddr(one); err == nil {
			nets = append(nets, netip.PrefixFrom(at, at.BitLen()))
		}
	}
	return nets
}

// leftOut counts what is left out until it is written down.
type leftOut struct {
	mu     sync.Mutex
	counts map[leftOutKey]int
}

type leftOutKey struct {
	site      int64
	day       string
	why, what string
}

const mostLeftOut = 2000 // names at a time: strangers choose them

// add counts on a day of the site's.
func (l *leftOut) add(site *Site, now time.Time, why, what string, events int) {
	if events == 0 {
		return
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.counts == nil {
		l.counts = map[leftOutKey]int{}
	}
	key := leftOutKey{site.ID, now.In(site.Zone).Format(time.DateOnly), why, strings.ToLower(what)}
	if _, is := l.counts[key]; !is && len(l.counts) >= mostLeftOut {
		key.what = "others"
	}
	l.counts[key] += events
}

func (l *leftOut) write(ctx context.Context, s Stores) error {
	l.mu.Lock()
	counts := l.counts
	l.counts = nil
	l.mu.Unlock()
	var failed error
	for k, n := range counts {
		if err := s.Events.CountLeftOut(ctx, k.site, events.LeftOut{Day: k.day, Why: k.why, What: k.what, Events: n}); err != nil {
			failed = err
			l.mu.Lock()
			if l.counts == nil {
				l.counts = map[leftOutKey]int{}
			}
			l.counts[k] += n
			l.mu.Unlock()
		}
	}
	return failed
}
