package report

import (
	"time"

	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/route"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/walks"
	"gobbet/internal/studio/parts"
)

// prizesLeft is what is left of a piece's prizes, and how fast they go.
type prizesLeft struct {
	given map[walk.Choice]int // of parts with a stock, by draw and part
	codes map[string]int      // left in each pool
	week  map[walk.Choice]int // drawn in the last seven days, in all variants
	pools map[string]int      // of those, by the pool their codes came from
}

const paceDays = 7

func (s *Place) prizesLeft(c *route.Call, site sites.Site, id string, p *piece.Piece) (left prizesLeft, err error) {
	draws, pooled := map[string]bool{}, map[walk.Choice]string{}
	for _, v := range p.Split.Variants {
		v.Design.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
			if d, ok := b.(piece.PrizeDraw); ok {
				draws[d.Key] = true
				for _, part := range d.Parts {
					pooled[walk.Choice{Key: d.Key, Choice: part.ID}] = part.Pool
				}
			}
		})
	}
	if len(draws) == 0 {
		return left, nil
	}
	if left.given, err = s.store.Walks.PartStock(c, site.ID, id); err != nil {
		return left, err
	}
	pools, err := s.store.Codes.Pools(c, site.ID)
	if err != nil {
		return left, err
	}
	left.codes, left.week, left.pools = map[string]int{}, map[walk.Choice]int{}, map[string]int{}
	for _, pool := range pools {
		left.codes[pool.ID] = pool.Left
	}
	week, err := s.store.Walks.Played(c, site.ID, id, s.read.Today(site).AddDate(0, 0, 1-paceDays))
	for _, a := range week.Answers {
		at := walk.Choice{Key: a.Key, Choice: a.Choice}
		left.week[at] += a.Answers
		left.pools[pooled[at]] += a.Answers
	}
	if err != nil {
		return left, err
	}
	// Those who are not counted take prizes all the same.
	uncounted, err := s.store.Walks.Uncounted(c, site.ID, id, s.now().AddDate(0, 0, -paceDays))
	for _, u := range uncounted {
		if at := (walk.Choice{Key: u.Key, Choice: u.Choice}); u.Variant != "" {
			left.week[at] += u.N
			left.pools[pooled[at]] += u.N
		}
	}
	return left, err
}

func playedDraws(v piece.Variant, play walks.Play, left prizesLeft) []PlayedDraw {
	draws := []PlayedDraw{}
	v.Design.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
		if d, ok := b.(piece.PrizeDraw); ok {
			draws = append(draws, playedDraw(v.ID, d, play, left))
		}
	})
	return draws
}

func playedDraw(variant string, d piece.PrizeDraw, play walks.Play, left prizesLeft) PlayedDraw {
	out := PlayedDraw{Key: d.Key, Label: d.Label, Parts: []PlayedPart{}, Refused: []RefusedGoes{}}
	drawn := map[string]int{}
	for _, a := range play.Answers {
		if a.Variant == variant && a.Key == d.Key {
			drawn[a.Choice] = a.Answers
		}
	}
	out.Goes = drawn[""]
	odds := flow.OddsOf(d)
	for i, p := range d.Parts {
		one := PlayedPart{ID: p.ID, Label: p.Label, Nothing: p.Nothing, Drawn: drawn[p.ID], Odds: odds[i]}
		one.Share, one.Interval = parts.ShareOf(min(one.Drawn, out.Goes), out.Goes)
		at := walk.Choice{Key: d.Key, Choice: p.ID}
		if p.Stock != nil {
			one.lasts(max(0, *p.Stock-left.given[at]), left.week[at])
		}
		if codes, ok := left.codes[p.Pool]; ok && (one.Left == nil || codes < *one.Left) {
			one.lasts(codes, left.pools[p.Pool])
		}
		out.Parts = append(out.Parts, one)
	}
	for _, r := range play.Refused {
		if r.Variant == variant && (r.Key == d.Key || r.Key == "") {
			out.Refused = append(out.Refused, RefusedGoes{r.Why, r.Goes})
		}
	}
	return out
}

// lasts says how much is left, and how long at so many in the last week.
func (p *PlayedPart) lasts(left, week int) {
	p.Left, p.Days = &left, nil
	if week > 0 {
		days := float64(left) * paceDays / float64(week)
		p.Days = &days
	}
}

// goesCSV writes every go at a piece's draws.
func (s *Place) goesCSV(c *route.Call, _ route.None) error {
	row, _, err := s.read.Measured(c, c.Site.ID)
	if err != nil {
		return err
	}
	names, err := s.read.Names(c, c.Site.ID)
	if err != nil {
		return err
	}
	file := c.CSV("goes.csv", []string{"at", "variant", "draw", "prize", "code", "email"})
	var after walks.GoAt
	for {
		goes, err := s.store.Walks.Goes(c, c.Site.ID, row.ID, after, goesAtOnce)
		file.Torn(err)
		for _, g := range goes {
			file.Row([]string{g.At.UTC().Format(time.RFC3339), names[row.ID].Variants[g.Variant], g.Key, g.Label, g.Code, g.Email})
		}
		if len(goes) < goesAtOnce {
			break
		}
		after = goes[len(goes)-1].GoAt
		file.More()
	}
	return file.Close()
}

const goesAtOnce = 5000
