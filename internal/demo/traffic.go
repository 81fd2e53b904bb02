package demo

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"gobbet/core/choose"
	"gobbet/core/flow"
	"gobbet/core/rehearse"
	"gobbet/core/tally"
	"gobbet/core/walk"
	"gobbet/internal/store"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/walks"
)

// The traffic is drawn from a seeded generator: the same seed and the same now
// give the same people. They come from somewhere, land, read, scroll, idle,
// leave and come back. What is live is shown to them by the core's own rules,
// and whether they take it is drawn at the true rates.

const (
	trafficDays = 90     // of recorded visits, up to now
	liveDays    = 40     // that the pieces are live
	firstComers = 12_000 // visitors who come for the first time in those days
)

// True is what the generator puts in, so that results can be held against it.
type True struct {
	Piece, Variant string
	Rate           float64 // of those who see it, how many take it
}

// Truth is the traffic's true rates.
var Truth = []True{
	{"glazeclub", "a", 0.070},
	{"glazeclub", "b", 0.150},
	{"beforeyougo", "a", 0.052},
	{"beforeyougo", "b", 0.061},
	{"classfinder", "a", 0.120},
	{"classfinder", "b", 0.015},
	{"shippingline", "a", 0.120},
	{"shippingline", "b", 0.120},
	{"kilnletter", "a", 0.060},
	{"kilnletter", "b", 0.080},
	{"testtiles", "a", 0.040},
	{"testtiles", "b", 0.130},
	{"glazematch", "a", QuizRate},
	{"kilnorclasses", "a", votes},
	{"kilncost", "a", seesClasses},
	{"spinforaglaze", "a", spins},
	{"springcard", "a", scratches},
	{"findyourclass", "a", TalkRate},
}

func trueRate(piece, variant string) float64 {
	for _, t := range Truth {
		if t.Piece == piece && t.Variant == variant {
			return t.Rate
		}
	}
	return 0
}

// origin is where a visit came from.
type origin struct {
	channel, host, source, medium, campaign string
	weight                                  float64
	landings                                []string // kinds of page
}

var origins = []origin{
	{channel: "direct", weight: 27, landings: []string{"home", "home", "list", "journal"}},
	{channel: "search", host: "search.example.com", weight: 35, landings: []string{"article", "article", "product", "home"}},
	{channel: "email", source: "letter", medium: "email", campaign: "october-letter", weight: 8, landings: []string{"article", "classes", "product"}},
	{channel: "email", source: "letter", medium: "email", campaign: "november-letter", weight: 10, landings: []string{"article", "product"}},
	{channel: "social", host: "social.example.com", weight: 11, landings: []string{"article", "classes"}},
	{channel: "referral", host: "claynotes.example.com", weight: 6, landings: []string{"article"}},
	{channel: "ads", source: "search", medium: "cpc", campaign: "wheel-classes", weight: 3, landings: []string{"classes"}},
}

var (
	countryMix = []weighted{{"IE", 38}, {"GB", 24}, {"US", 13}, {"DE", 9}, {"FR", 6}, {"NL", 5}, {"CA", 3}, {"JP", 2}}
	regions    = map[string][]string{"IE": {"Munster", "Leinster", "Connacht"}, "GB": {"Wales", "Scotland"}, "US": {"Vermont"}, "DE": {"Saxony"}, "FR": {"Brittany"}, "NL": {"Drenthe"}, "CA": {"Nova Scotia"}, "JP": {"Gifu"}}
	languages  = map[string]string{"IE": "en-IE", "GB": "en-GB", "US": "en-US", "DE": "de", "FR": "fr", "NL": "nl", "CA": "en-CA", "JP": "ja"}
	deviceMix  = []weighted{{"desktop", 47}, {"phone", 45}, {"tablet", 8}}
	// after says where people go on to from a kind of page; "" is away.
	after = map[string][]weighted{
		"home":    {{"list", 30}, {"product", 18}, {"journal", 14}, {"classes", 12}, {"", 26}},
		"list":    {{"product", 58}, {"classes", 5}, {"", 37}},
		"product": {{"product", 26}, {"list", 14}, {"basket", 15}, {"article", 4}, {"", 41}},
		"basket":  {{"thanks", 30}, {"product", 20}, {"", 50}},
		"thanks":  {{"journal", 10}, {"", 90}},
		"classes": {{"home", 10}, {"article", 6}, {"", 84}},
		"journal": {{"article", 66}, {"list", 8}, {"", 26}},
		"article": {{"article", 15}, {"journal", 7}, {"product", 10}, {"classes", 5}, {"", 63}},
	}
	// stays is the median stay on a kind of page in seconds.
	stays = map[string]float64{"home": 19, "list": 31, "product": 42, "basket": 48, "thanks": 16, "classes": 55, "journal": 22, "article": 88}
)

type weighted struct {
	value  string
	weight float64
}

type traffic struct {
	*rand.Rand
	zone   *time.Location
	now    time.Time
	used   map[string]bool
	pages  map[string][]page // by kind
	pieces []*inPlay

	views []pageviews.PageView
	// measured is what recorded page views say beside; interrupted how often each
	// visit was, and began on which day it did.
	measured    pageviews.MeasuredTotals
	interrupted map[string]int
	began       map[string]time.Time
	// followed are the first sights of the piece that follows the winner, whose
	// variants are known once the days before are.
	followed []followedSight
	// shownViews are all page views, as those who play need them.
	shownViews []shownView
	events     []tally.Event
	signUps    []played
	bookings   *rand.Rand // of classes
}

// shownView is what playing needs of a page view.
type shownView struct {
	token, visit, path string
	at                 time.Time
	seconds            int
	from               origin
	cuts               tally.Cuts
}

// inPlay is a live piece and the rule's judge.
type inPlay struct {
	live         choose.Live
	since, until time.Time
}

// person is one visitor and what their browser remembers.
type person struct {
	token, digest, device, os, browser, country, region string
	width                                               int
	member                                              bool
	reads                                               float64 // how long they stay, 1 in the middle
	visits, pages                                       int
	lastSeen                                            time.Time
	// orders says that they come back for something that they were shown.
	orders bool
	memory choose.Memory
}

func loadTraffic(ctx context.Context, s *store.Store, site int64, zone *time.Location, now time.Time, pieces []choose.Live) error {
	t := &traffic{Rand: rand.New(rand.NewPCG(20261124, 7)), bookings: rand.New(rand.NewPCG(20261127, 3)), zone: zone, now: now, used: map[string]bool{}, pages: map[string][]page{},
		measured:    pageviews.MeasuredTotals{Visits: map[pageviews.VisitDay]int{}, Pages: map[pageviews.PageDay]pageviews.PageSum{}, Costs: map[pageviews.CostDay]pageviews.CostSum{}},
		interrupted: map[string]int{}, began: map[string]time.Time{}}
	for _, path := range append(Paths(), "/thanks") {
		p, _ := pageAt(path)
		p.Path = path
		t.pages[p.Kind] = append(t.pages[p.Kind], p)
	}
	var played, prized []choose.Live
	for _, live := range pieces {
		if slices.Contains([]string{"glazematch", "kilnorclasses", "kilncost"}, live.ID) {
			played = append(played, live)
			continue
		}
		if slices.Contains([]string{"spinforaglaze", "springcard", "findyourclass"}, live.ID) {
			prized = append(prized, live)
			continue
		}
		began, ended := spanOf(live.ID, now)
		t.pieces = append(t.pieces, &inPlay{live, began, ended})
	}
	for range firstComers {
		t.person()
	}
	walks := append(t.play(played), t.prizes(prized)...)
	followed := t.follow(pieces)
	slices.SortFunc(t.views, func(a, b pageviews.PageView) int { return a.At.Compare(b.At) })
	// What the shop's pages tell of themselves; see its pages.
	if _, err := s.Sites.AddDataNames(ctx, site, []string{"basket_total", "member", "product_kind"}); err != nil {
		return err
	}
	if err := s.PageViews.Copy(ctx, site, t.views); err != nil {
		return err
	}
	if err := s.Events.MakeMonths(ctx, now.AddDate(0, 0, -trafficDays), now); err != nil {
		return err
	}
	for visit, day := range t.began {
		t.measured.Visits[pageviews.VisitDay{Day: day, Interrupted: t.interrupted[visit]}]++
	}
	if err := s.PageViews.AddMeasured(ctx, site, t.measured); err != nil {
		return err
	}
	if err := loadRuns(ctx, s, site, pieces, followed, now); err != nil {
		return err
	}
	slices.SortFunc(t.events, func(a, b tally.Event) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) })
	for batch := range slices.Chunk(t.events, 1000) {
		if err := s.Events.Add(ctx, site, zone, batch); err != nil {
			return err
		}
	}
	return storePlays(ctx, s, site, zone, append(t.signUps, walks...))
}

// person comes for the first time, and perhaps again.
func (t *traffic) person() {
	token := t.token()
	p := &person{token: token, digest: "d" + token[4:16], device: t.pick(deviceMix), country: t.pick(countryMix), member: t.Float64() < 0.11, reads: math.Exp(t.NormFloat64() * 0.35)}
	p.region = regions[p.country][t.IntN(len(regions[p.country]))]
	switch p.device {
	case "desktop":
		p.width, p.os, p.browser = 1100+t.IntN(820), []string{"Windows", "macOS", "Linux"}[t.IntN(3)], []string{"Chrome", "Firefox", "Safari"}[t.IntN(3)]
	case "phone":
		p.width, p.os, p.browser = 360+t.IntN(70), []string{"Android", "iOS"}[t.IntN(2)], "Chrome"
	default:
		p.width, p.os, p.browser = 768+t.IntN(200), "iOS", "Safari"
	}
	p.memory = choose.Memory{Visitor: token, Pieces: map[string]choose.Known{}}
	at := t.moment()
	back := 0.30
	if p.member {
		back = 0.72
	}
	for {
		t.visit(p, at)
		if p.orders {
			p.orders = false
			at = at.Add(time.Duration((0.5 + t.Float64()*6) * 24 * float64(time.Hour)))
			if at.Before(t.now.Add(-time.Hour)) {
				t.order(p, at)
			}
		}
		if t.Float64() > back {
			return
		}
		at = at.Add(time.Duration((0.4 + t.ExpFloat64()*7) * 24 * float64(time.Hour)))
		if at.After(t.now.Add(-20 * time.Minute)) {
			return
		}
	}
}

func (t *traffic) visit(p *person, at time.Time) {
	weights := make([]weighted, len(origins))
	for i, o := range origins {
		weights[i] = weighted{fmt.Sprint(i), o.weight}
		// Letters go to those who are known, in their month.
		if o.channel == "email" && (p.visits == 0 && !p.member || strings.HasPrefix(o.campaign, "october") != (at.Month() == time.October)) {
			weights[i].weight *= 0.25
		}
	}
	n, _ := strconv.Atoi(t.pick(weights))
	from := origins[n]
	kind := from.landings[t.IntN(len(from.landings))]
	basket := 0.0
	if p.visits > 0 && t.Float64() < 0.12 { // something from last time
		basket = float64(18 + t.IntN(50))
	}
	t.walkShop(p, at, from, kind, basket, func(kind string) string { return t.pick(after[kind]) })
}

// order is a visit of somebody who comes back to buy.
func (t *traffic) order(p *person, at time.Time) {
	t.walkShop(p, at, origins[0], "product", 0, func(kind string) string {
		return map[string]string{"product": "basket", "basket": "thanks"}[kind]
	})
}

// walkShop is a visit that goes from page to page.
func (t *traffic) walkShop(p *person, at time.Time, from origin, kind string, basket float64, onTo func(kind string) string) {
	p.visits++
	p.memory.Visits, p.memory.Visit = p.visits, choose.VisitMemory{}
	for id, k := range p.memory.Pieces {
		k.ThisVisit = 0
		p.memory.Pieces[id] = k
	}
	if !p.lastSeen.IsZero() {
		p.memory.Last = p.lastSeen.Unix()
	}
	visit := t.token()
	landing := ""
	for n := 1; kind != "" && n < 25; n++ {
		options := t.pages[kind]
		// The first of its kind is the one most people want.
		pg := options[int(float64(len(options))*t.Float64()*math.Sqrt(t.Float64()))]
		if landing == "" {
			landing = pg.Path
		}
		if kind == "basket" && basket == 0 {
			basket = float64(16 + t.IntN(60))
		}
		p.pages++
		p.memory.Pages, p.memory.Visit.Pages = p.pages, n
		next := onTo(kind)
		stay := t.view(p, pg, at, visit, n, landing, basket, from, next == "")
		if kind == "thanks" {
			t.reached(p, t.uuid(at), at, visit, pg.Path, tally.Goal{Goal: orderGoal, Amount: int64(basket * 100), Within: orderDays}, from)
			basket = 0
		}
		if kind == "classes" && t.bookings.Float64() < books {
			t.reached(p, timedID(t.bookings, at), at, visit, pg.Path, tally.Goal{Goal: classGoal, Amount: classPrice * 100, Within: classDays}, from)
		}
		at = at.Add(time.Duration(stay+1) * time.Second)
		kind = next
		if at.After(t.now) {
			return
		}
	}
	p.lastSeen = at
}

// view is one page view: recorded, and with whatever it shows.
func (t *traffic) view(p *person, pg page, at time.Time, visit string, n int, landing string, basket float64, from origin, last bool) (stay int) {
	v := t.stay(p, pg, last)
	facts := map[string]any{
		"page.path": pg.Path, "page.title": pg.Title + " · Quillfern Pottery", "page.kind": pg.Kind,
		"source.channel": from.channel, "device.kind": p.device, "device.os": p.os, "device.browser": p.browser, "device.width": float64(p.width),
		"device.language": languages[p.country], "place.country": p.country, "place.region": p.region,
		"visitor.new": p.visits == 1, "visitor.visits": float64(p.visits), "visitor.pages": float64(p.pages), "visitor.pages_this_visit": float64(n),
		"visitor.landing_path": landing, "visitor.lead": p.memory.Lead, "data.member": p.member, "data.basket_total": basket,
	}
	for name, is := range map[string]string{"source.host": from.host, "source.utm_source": from.source, "source.utm_medium": from.medium, "source.utm_campaign": from.campaign, "data.product_kind": pg.Product.Kind} {
		if is != "" {
			facts[name] = is
		}
	}
	if !p.lastSeen.IsZero() {
		facts["visitor.days_since_last"] = math.Floor(at.Sub(p.lastSeen).Hours() / 24)
	}
	for id, k := range p.memory.Pieces {
		facts["history.shown."+id], facts["history.closed."+id], facts["history.converted."+id] = float64(k.TimesShown), float64(k.TimesClosed), float64(k.TimesConverted)
	}
	v.Visitor, v.Visit, v.At, v.Facts = p.digest, visit, at, facts
	t.keep(v)
	t.shownViews = append(t.shownViews, shownView{p.token, visit, pg.Path, at, v.Seconds, from, cutsOf(p, from)})
	t.measure(p, v, t.show(p, v, from, last))
	return v.Seconds
}

// stay draws how someone reads a page.
func (t *traffic) stay(p *person, pg page, last bool) rehearse.View {
	v := rehearse.View{ExitAt: rehearse.Never}
	median := stays[pg.Kind] * p.reads
	if last {
		median *= 0.8
	}
	v.Seconds = int(min(1500, max(1, median*math.Exp(t.NormFloat64()*0.85))))
	// Some leave at a glance.
	if t.Float64() < 0.17 {
		v.Seconds = 1 + t.IntN(6)
	}
	// How far they scroll hangs on how long they stay, and how fast on the page.
	pace := stays[pg.Kind] * (0.75 + 0.5*t.Float64()) / 9
	if p.device == "phone" {
		pace *= 0.85
	}
	tenth := 1.0 + t.Float64()*2
	for i := 0; i < 10 && int(tenth) <= v.Seconds; i++ {
		v.Marks = append(v.Marks, int(tenth))
		tenth += pace * (0.4 + 1.2*t.Float64())
		if t.Float64() < 0.055 {
			break
		}
	}
	if p.device == "desktop" && last && t.Float64() < 0.62 || p.device != "desktop" && t.Float64() < 0.09 {
		v.ExitAt = max(0, v.Seconds-t.IntN(min(4, v.Seconds+1)))
	}
	for at := 6; at+8 < v.Seconds && len(v.Idles) < 4; {
		at += int(t.ExpFloat64() * 45)
		length := 5 + int(t.ExpFloat64()*9)
		if at+length <= v.Seconds {
			v.Idles = append(v.Idles, rehearse.Idle{Start: at, Length: length})
		}
		at += length + 4
	}
	if pg.Kind == "product" && t.Float64() < 0.16 {
		v.Happened = append(v.Happened, rehearse.Happening{Kind: "click", About: "#buy", Second: v.Seconds})
	}
	if len(v.Marks) >= 9 {
		v.Happened = append(v.Happened, rehearse.Happening{Kind: "seen", About: "#foot", Second: v.Marks[8]})
	}
	return v
}

// keep records a page view as its page would have.
func (t *traffic) keep(v rehearse.View) {
	facts, _ := json.Marshal(v.Facts)
	moments, _ := json.Marshal(v.Moments())
	t.views = append(t.views, pageviews.PageView{ID: t.token(), Visitor: v.Visitor, Visit: v.Visit, At: v.At, Seconds: v.Seconds, Facts: facts, Moments: moments})
}

func unix(seconds int64) time.Time {
	if seconds == 0 {
		return time.Time{}
	}
	return time.Unix(seconds, 0)
}

func (t *traffic) token() string { return fmt.Sprintf("demo%016x", t.Uint64()) }

func (t *traffic) uuid(at time.Time) string { return timedID(t.Rand, at) }

// timedID is an id as a page makes it at a time: a UUIDv7.
func timedID(r *rand.Rand, at time.Time) string {
	var id uuid.UUID
	for i := range id {
		id[i] = byte(r.IntN(256))
	}
	for i, ms := 5, at.UnixMilli(); i >= 0; i, ms = i-1, ms>>8 {
		id[i] = byte(ms)
	}
	id[6], id[8] = id[6]&0x0f|0x70, id[8]&0x3f|0x80
	return id.String()
}

func (t *traffic) pick(of []weighted) string {
	sum := 0.0
	for _, w := range of {
		sum += w.weight
	}
	mark := t.Float64() * sum
	for _, w := range of {
		if mark < w.weight {
			return w.value
		}
		mark -= w.weight
	}
	return of[len(of)-1].value
}

// moment is a time within the demo's days: more in the evening than at night,
// more at weekends.
func (t *traffic) moment() time.Time {
	for {
		at := t.now.Add(-time.Duration(t.Float64() * trafficDays * 24 * float64(time.Hour)))
		local := at.In(t.zone)
		weight := [24]float64{.15, .08, .05, .05, .05, .1, .25, .45, .6, .65, .7, .75, .8, .7, .65, .65, .7, .75, .85, .95, 1, .9, .65, .35}[local.Hour()]
		if local.Weekday() == time.Saturday || local.Weekday() == time.Sunday {
			weight *= 1.25
		}
		if t.Float64() < weight/1.25 {
			return at
		}
	}
}

var (
	firstNames = strings.Fields("Aoife Bram Cleo Dara Elin Fionn Greta Hugo Ines Jonas Kasia Liam Mira Niall Orla Petra Quinn Rosa Sven Tara Una Vito Wren Xenia Yara Zeno")
	lastNames  = strings.Fields("Ashdown Birch Carrow Dunmore Elder Fenwick Gorse Hollow Ivers Juniper Kilbride Larch Moss Nettle Oakley Pine Quince Reed Sorrel Thorn Umber Vale Willow Yarrow")
)

// signUp is a walk through a piece whose first scene asks for an address, sent when
// the event says.
func (t *traffic) signUp(e tally.Event, from origin) played {
	first, email := t.somebody()
	answers := map[string]string{"email": email}
	if e.Piece == "glazeclub" && t.Float64() < 0.8 {
		answers["name"] = first
	}
	i := slices.IndexFunc(t.pieces, func(p *inPlay) bool { return p.live.ID == e.Piece })
	live := t.pieces[i].live
	variant, _ := live.Piece.Variant(e.Variant)
	return played{piece: live, steps: []walk.Step{{Step: flow.Step{Scene: variant.Design.Scenes[0].ID, Values: answers}, At: e.At, Heard: e.At}}, who: walks.Walker{
		Walk: t.uuid(e.At), Run: 1, Piece: e.Piece, Variant: e.Variant, Visitor: e.Visitor, Visit: e.Visit, Page: e.Page, Channel: from.channel, Campaign: from.campaign,
		Referrer: from.host, Device: e.Device, Country: e.Country, Known: e.Known, LikelyNew: true, At: e.At,
	}}
}

// somebody has a first name and an address of their own.
func (t *traffic) somebody() (first, email string) {
	first, last := firstNames[t.IntN(len(firstNames))], lastNames[t.IntN(len(lastNames))]
	email = strings.ToLower(first + "." + last + "@example.com")
	for n := 2; t.used[email]; n++ {
		email = fmt.Sprintf("%s.%s%d@example.com", strings.ToLower(first), strings.ToLower(last), n)
	}
	t.used[email] = true
	return first, email
}
