// Package demo is the made-up scenario that ships with Gobbet: Quillfern
// Pottery's shop, its pieces, and the people who came by.
package demo

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"image/color"
	"math/rand/v2"
	"strings"
	"time"

	"github.com/google/uuid"

	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/internal/store"
	"gobbet/internal/studio"
	"gobbet/internal/visitor"
)

// What the demo is signed in to with, and the shop's key.
const (
	Email    = "mara@quillfern.test"
	Password = "ash and celadon"
	SiteKey  = "quillfern"
)

// True is what the generator puts in, so that results can be held against it.
type True struct {
	Piece, Variant string
	Visitors       int // expected
	Rate           float64
}

// Truth is the traffic's true rates.
var Truth = []True{
	{"glazeclub", "a", 810, 0.070},
	{"glazeclub", "b", 810, 0.098},
	{"beforeyougo", "a", 1300, 0.052},
}

const days = 18 // of traffic, up to now

// Load puts the scenario into an empty store: an account, the shop at its
// origin, three pieces and their traffic up to now.
func Load(ctx context.Context, s *store.Store, shopOrigin string, now time.Time) error {
	account, err := s.AddAccount(ctx, Email, "Mara Quill", Password)
	if err != nil {
		return err
	}
	site, err := s.AddSite(ctx, SiteKey, "Quillfern Pottery", "Europe/Dublin", store.Texts{shopOrigin}, account)
	if err != nil {
		return err
	}
	if err := loadPieces(ctx, s, site); err != nil {
		return err
	}
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		return err
	}
	return loadTraffic(ctx, s, site, zone, now)
}

func loadPieces(ctx context.Context, s *store.Store, site int64) error {
	ash, err := addPicture(ctx, s, site, "ash-bowl.png", bowl(900, 470, color.NRGBA{226, 220, 203, 255}, color.NRGBA{124, 150, 132, 255}, color.NRGBA{172, 128, 92, 255}))
	if err != nil {
		return err
	}
	clay, err := addPicture(ctx, s, site, "terracotta-bowl.png", bowl(900, 420, color.NRGBA{240, 214, 190, 255}, color.NRGBA{188, 104, 66, 255}, color.NRGBA{120, 66, 44, 255}))
	if err != nil {
		return err
	}
	for _, one := range []struct {
		id   string
		p    *piece.Piece
		live bool
	}{
		{"wheelevening", wheelEvening(clay.Hash, 100*clay.Height/clay.Width), false},
		{"beforeyougo", beforeYouGo(), true},
		{"glazeclub", glazeClub(ash.Hash, 100*ash.Height/ash.Width), true},
	} {
		raw, err := json.Marshal(one.p)
		if err != nil {
			return err
		}
		if _, err := piece.Parse(raw); err != nil {
			return fmt.Errorf("the demo's %s: %w", one.id, err)
		}
		if err := s.AddPiece(ctx, site, one.id, raw); err != nil {
			return err
		}
		if !one.live {
			continue
		}
		if err := s.Launch(ctx, site, one.id, 1, visitor.Drawings(one.p, nil)); err != nil {
			return err
		}
	}
	return nil
}

func addPicture(ctx context.Context, s *store.Store, site int64, name string, file []byte) (store.Picture, error) {
	p, err := studio.ReadPicture(file)
	if err != nil {
		return p, err
	}
	p.Name = name
	return p, s.AddPicture(ctx, site, p)
}

var (
	firstNames = strings.Fields("Aoife Bram Cleo Dara Elin Fionn Greta Hugo Ines Jonas Kasia Liam Mira Niall Orla Petra Quinn Rosa Sven Tara Una Vito Wren Xenia Yara Zeno")
	lastNames  = strings.Fields("Ashdown Birch Carrow Dunmore Elder Fenwick Gorse Hollow Ivers Juniper Kilbride Larch Moss Nettle Oakley Pine Quince Reed Sorrel Thorn Umber Vale Willow Yarrow")
	sources    = []struct {
		channel, campaign, referrer string
		weight                      int
	}{{"direct", "", "", 30}, {"search", "", "search.example.com", 34}, {"email", "october-letter", "", 18}, {"social", "", "social.example.com", 10}, {"referral", "", "claynotes.example.com", 8}}
)

// traffic draws visitors from a seeded generator: the same seed and the same
// now give the same people.
type traffic struct {
	*rand.Rand
	zone *time.Location
	now  time.Time
	used map[string]bool
}

func loadTraffic(ctx context.Context, s *store.Store, site int64, zone *time.Location, now time.Time) error {
	t := &traffic{rand.New(rand.NewPCG(20261124, 7)), zone, now, map[string]bool{}}
	shares := map[string]piece.Split{"glazeclub": glazeClub("", 50).Split, "beforeyougo": beforeYouGo().Split}
	expected, rates := map[string]int{}, map[[2]string]float64{}
	for _, truth := range Truth {
		expected[truth.Piece] += truth.Visitors
		rates[[2]string{truth.Piece, truth.Variant}] = truth.Rate
	}
	for _, id := range []string{"glazeclub", "beforeyougo"} {
		var events []store.Event
		for range expected[id] {
			who := t.token()
			variant := choose.Allot(shares[id], who, "")
			at, visit, page := t.moment(), t.token(), t.page(id)
			event := func(kind string, at time.Time) store.Event {
				return store.Event{ID: t.uuid(), At: at, Kind: kind, Piece: id, Variant: variant, Visitor: who, Visit: visit, Page: page}
			}
			events = append(events, event(store.Shown, at))
			if t.Float64() < rates[[2]string{id, variant}] {
				if err := s.AddSubmission(ctx, site, zone, t.submission(id, variant, who, visit, page, at.Add(time.Duration(12+t.IntN(50))*time.Second))); err != nil {
					return err
				}
				continue
			}
			events = append(events, event(store.Closed, at.Add(time.Duration(2+t.IntN(30))*time.Second)))
			if again := at.AddDate(0, 0, 8); t.Float64() < 0.2 && again.Before(now) {
				events = append(events, event(store.Shown, again))
			}
		}
		for len(events) > 0 {
			n := min(len(events), 500)
			if err := s.AddEvents(ctx, site, zone, events[:n]); err != nil {
				return err
			}
			events = events[n:]
		}
	}
	return nil
}

func (t *traffic) token() string { return fmt.Sprintf("demo%016x", t.Uint64()) }

func (t *traffic) uuid() string {
	var id uuid.UUID
	for i := range id {
		id[i] = byte(t.IntN(256))
	}
	id[6], id[8] = id[6]&0x0f|0x40, id[8]&0x3f|0x80
	return id.String()
}

// moment is a time within the demo's days: more in the evening than at night,
// more at weekends.
func (t *traffic) moment() time.Time {
	for {
		at := t.now.Add(-time.Duration(t.Float64() * days * 24 * float64(time.Hour)))
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

func (t *traffic) page(id string) string {
	prefix := map[string]string{"glazeclub": "/journal/", "beforeyougo": "/shop/"}[id]
	var fitting []string
	for _, path := range Paths() {
		if strings.HasPrefix(path, prefix) {
			fitting = append(fitting, path)
		}
	}
	return fitting[int(float64(len(fitting))*t.Float64()*t.Float64())]
}

func (t *traffic) submission(id, variant, who, visit, page string, at time.Time) store.Submission {
	first, last := firstNames[t.IntN(len(firstNames))], lastNames[t.IntN(len(lastNames))]
	email := strings.ToLower(first + "." + last + "@example.com")
	for n := 2; t.used[email]; n++ {
		email = fmt.Sprintf("%s.%s%d@example.com", strings.ToLower(first), strings.ToLower(last), n)
	}
	t.used[email] = true
	answers := map[string]string{"email": email}
	if id == "glazeclub" && t.Float64() < 0.8 {
		answers["name"] = first
	}
	from, pick := sources[0], t.IntN(100)
	for _, s := range sources {
		if from = s; pick < s.weight {
			break
		}
		pick -= s.weight
	}
	if at.After(t.now) {
		at = t.now
	}
	return store.Submission{
		ID: t.uuid(), Piece: id, Variant: variant, Visitor: who, Visit: visit, Page: page, Channel: from.channel, Campaign: from.campaign, Referrer: from.referrer,
		Email: email, Name: answers["name"], Answers: answers, At: at, Converts: true,
	}
}

// MoveShop makes an origin the shop's, where the demo starts on another port than before.
func MoveShop(ctx context.Context, s *store.Store, origin string) error {
	sites, err := s.Sites(ctx)
	if err != nil {
		return err
	}
	for _, site := range sites {
		if site.Key != SiteKey {
			continue
		}
		for _, known := range site.Origins {
			if known == origin {
				return nil
			}
		}
		return s.ChangeSite(ctx, site.ID, site.Name, site.Zone, append(store.Texts{origin}, site.Origins...))
	}
	return errors.New("the demo's shop is not in this database")
}
