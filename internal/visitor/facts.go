package visitor

import (
	"maps"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/mileusna/useragent"

	"gobbet/core/choose"
	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/core/text"
	"gobbet/internal/place"
)

const (
	maxAddress = 4096
	maxParams  = 60
)

// readMemory takes memory that is broken, or edited by hand, for what of it
// makes sense. Pieces that were never live on the site are none of it.
func readMemory(site *Site, req *DecideRequest, now time.Time) *choose.Memory {
	m := &choose.Memory{}
	if err := fault.Loosely(req.Memory, m); err != nil {
		m = &choose.Memory{}
	}
	// A few seconds are the network's.
	if off := now.Unix() - req.Clock; req.Clock > 0 && (off > 60 || off < -60) {
		m.Shift(off)
	}
	if !isToken(m.Visitor) {
		m.Visitor = ""
	}
	maps.DeleteFunc(m.Pieces, func(id string, _ choose.Known) bool { return site.Known[id] == nil })
	return m
}

// Browser is what a request says by itself of who sent it.
type Browser struct {
	Agent, Languages string
	Place            place.Place
}

func (v *Server) browser(c *Call, a asks) Browser {
	by := Browser{Agent: c.Header.Get("User-Agent"), Languages: c.Header.Get("Accept-Language")}
	if a.about("place") {
		by.Place = v.places.Of(c.Address)
	}
	return by
}

// clock reads the time on the site's wall clock and on the visitor's own.
func clock(site *Site, req *DecideRequest, now time.Time) choose.Clock {
	const furthest = 14 * 60 // minutes from UTC, anywhere on earth
	offset := max(-furthest, min(req.Offset, furthest))
	over := time.Now().Add(decidePatience)
	return choose.Clock{Now: now.In(site.Zone), Theirs: now.In(time.FixedZone("", offset*60)), Over: func() bool { return time.Now().After(over) }}
}

// decidePatience bounds how long rules are judged for one page view. Rules within
// their budgets take a thousandth of it.
const decidePatience = 500 * time.Millisecond

const maxData = 60

func tellPlace(v *reach.Visit, p place.Place) {
	if p.Country != "" {
		v.Set("place.country", p.Country)
	}
	if p.Region != "" {
		v.Set("place.region", p.Region)
	}
}

// tellSite says what the site itself told of the visit.
func tellSite(v *reach.Visit, req *DecideRequest) {
	if req.Kind != "" {
		v.Set("page.kind", clip(req.Kind))
	}
	n := 0
	for name, is := range req.Data {
		if n++; n > maxData {
			break
		}
		if text, ok := is.(string); ok {
			is = clip(text)
		}
		if setup.DataName.MatchString(name) {
			v.Set("data."+name, is)
		}
	}
	n = 0
	for name, is := range req.Cookies {
		if n++; n > maxData {
			break
		}
		v.Set("cookie."+name, clip(is))
	}
}

// asks is which facts a site's live rules ask about, by their declared names;
// nil is all of them.
type asks map[string]bool

func asksOf(live []choose.Live) asks {
	a := asks{}
	for _, l := range live {
		for i := range l.Piece.Split.Variants {
			if _, phone := l.Piece.Formats(&l.Piece.Split.Variants[i]); phone != "" {
				a["device"] = true
			}
		}
		l.Piece.Program.EachTest(func(_ string, t *reach.Test) {
			a[t.Of.Name] = true
			a[t.Of.Group] = true
		})
	}
	return a
}

// about reports whether a rule asks about a fact, or about any of a group.
func (a asks) about(name string) bool { return a == nil || a[name] }

// visitOf gathers the facts of a page view, as far as they are asked about.
func visitOf(site *Site, a asks, req *DecideRequest, m *choose.Memory, by Browser, now time.Time) *reach.Visit {
	v := &reach.Visit{}
	tellVisit(v, site, a, req, m, by, now)
	return v
}

// visits are large, and decide needs one on every page view, for that long.
var visits = sync.Pool{New: func() any { return &reach.Visit{} }}

// tellVisit is visitOf into a visit that says nothing yet.
func tellVisit(v *reach.Visit, site *Site, a asks, req *DecideRequest, m *choose.Memory, by Browser, now time.Time) {
	m.Tell(v, now, a.about("history"))
	if a.about("clock") {
		v.SetClock(now.In(site.Zone))
	}
	if page, err := url.Parse(clip(req.URL)); err == nil {
		v.Set("page.path", or(page.EscapedPath(), "/"))
		if a.about("page.url") {
			v.Set("page.url", clip(req.URL))
		}
		if a.about("page.query.") {
			eachParam(page, func(name, value string) { v.Set("page.query."+name, value) })
		}
	}
	if a.about("page.title") {
		v.Set("page.title", clip(req.Title))
	}
	if a.about("source") {
		tellSource(v, sourceOf(site, m.Visit.Landing, m.Visit.Referrer))
	}
	if a.about("visitor.landing_path") && m.Visit.Landing != "" {
		if landing, err := url.Parse(clip(m.Visit.Landing)); err == nil {
			v.Set("visitor.landing_path", or(landing.EscapedPath(), "/"))
		}
	}
	if a.about("device") {
		tellDevice(v, by.Agent, req.Width)
		if req.Width > 0 {
			v.Set("device.width", req.Width)
		}
		if language := or(req.Language, firstLanguage(by.Languages)); language != "" {
			v.Set("device.language", clip(language))
		}
	}
	tellPlace(v, by.Place)
	tellSite(v, req)
}

// device is what a user agent says of itself.
type device struct {
	kind, os, browser string
	robot             string // what it calls itself; empty: no robot
}

const (
	phone = "phone"
	// Up to this width a window is a phone's, in CSS pixels.
	phoneWidth = 600
)

// on is the kind of device whose window is so wide; 0 is not known. A phone
// stays one when it is held sideways, and a window as narrow as a phone's has
// what phones have.
func (d device) on(width int) string {
	if width > 0 && width <= phoneWidth {
		return phone
	}
	return d.kind
}

// agents remembers user agents: few kinds of browser make most page views.
var agents = struct {
	sync.RWMutex
	known map[string]device
}{known: map[string]device{}}

const (
	mostAgents = 4096
	maxAgent   = 1024 // longer ones are read anew, so that nobody fills the memory
)

func deviceOf(agent string) device {
	agents.RLock()
	d, ok := agents.known[agent]
	agents.RUnlock()
	if ok {
		return d
	}
	ua := useragent.Parse(agent)
	d = device{kind: "desktop", os: ua.OS, browser: ua.Name, robot: text.Keepable(robots.FindString(agent), 60)}
	if d.robot == "" && ua.Bot {
		d.robot = "another robot"
	}
	switch {
	case ua.Tablet:
		d.kind = "tablet"
	case ua.Mobile:
		d.kind = phone
	}
	if len(agent) <= maxAgent {
		agents.Lock()
		if len(agents.known) >= mostAgents {
			clear(agents.known)
		}
		agents.known[agent] = d
		agents.Unlock()
	}
	return d
}

func tellDevice(v *reach.Visit, agent string, width int) {
	d := deviceOf(agent)
	v.Set("device.kind", d.on(width))
	if d.os != "" {
		v.Set("device.os", d.os)
	}
	if d.browser != "" {
		v.Set("device.browser", d.browser)
	}
}

func eachParam(page *url.URL, do func(name, value string)) {
	n := 0
	for name, values := range page.Query() {
		if n++; n > maxParams {
			return
		}
		do(name, values[0])
	}
}

func firstLanguage(header string) string {
	first, _, _ := strings.Cut(header, ",")
	first, _, _ = strings.Cut(first, ";")
	return strings.TrimSpace(first)
}

func clip(s string) string { return text.Cut(s, maxAddress) }

func or(s, otherwise string) string {
	if s == "" {
		return otherwise
	}
	return s
}

// Source is where a visit came from: that of its first page, so that it holds
// for every page the visitor goes on to.
type Source struct {
	Referrer, Host, Channel string
	UTM                     map[string]string // source, medium, campaign, term, content
}

func sourceOf(site *Site, landing, referrer string) Source {
	s := Source{Referrer: clip(referrer), UTM: map[string]string{}}
	if page, err := url.Parse(clip(landing)); err == nil {
		query := page.Query()
		for _, name := range []string{"source", "medium", "campaign", "term", "content"} {
			if value := query.Get("utm_" + name); value != "" {
				s.UTM[name] = clip(value)
			}
		}
	}
	from, err := url.Parse(s.Referrer)
	if err == nil && s.Referrer != "" {
		s.Host = strings.TrimPrefix(strings.ToLower(from.Hostname()), "www.")
	}
	s.Channel = channel(site, s, from)
	return s
}

func tellSource(v *reach.Visit, s Source) {
	v.Set("source.channel", s.Channel)
	for name, value := range s.UTM {
		v.Set("source.utm_"+name, value)
	}
	if s.Referrer != "" {
		v.Set("source.referrer", s.Referrer)
	}
	if s.Host != "" {
		v.Set("source.host", s.Host)
	}
}

// media says which channel a campaign medium stands for, after common practice
// in tagging links.
var media = map[string]string{
	"email": "email", "e-mail": "email", "newsletter": "email", "mail": "email",
	"cpc": "ads", "ppc": "ads", "cpm": "ads", "paid": "ads", "ads": "ads", "ad": "ads", "display": "ads", "banner": "ads", "retargeting": "ads",
	"paid_search": "ads", "paid-search": "ads", "paid_social": "ads", "paid-social": "ads",
	"social": "social", "social-media": "social", "social_media": "social",
	"organic": "search", "search": "search", "referral": "referral", "affiliate": "referral",
}

// labels says which channel a referring host stands for by a label of its name.
var labels = map[string]string{"search": "search", "find": "search", "mail": "email", "webmail": "email", "newsletter": "email", "social": "social"}

func channel(site *Site, s Source, from *url.URL) string {
	if c, ok := media[strings.ToLower(s.UTM["medium"])]; ok {
		return c
	}
	if s.Host == "" {
		if len(s.UTM) > 0 {
			return "referral"
		}
		return "direct"
	}
	if site.Allowed[from.Scheme+"://"+from.Host] {
		return "internal"
	}
	if c, ok := site.Channels[s.Host]; ok {
		return c
	}
	for label := range strings.SplitSeq(s.Host, ".") {
		if c, ok := labels[label]; ok {
			return c
		}
	}
	return "referral"
}
