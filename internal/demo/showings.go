package demo

import (
	"math"
	"slices"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/core/tally"
	"gobbet/internal/store/pageviews"
)

// show plays what is live to a page view, the earliest first, one in a slot.
func (t *traffic) show(p *person, v rehearse.View, from origin, last bool) (drew bool) {
	type coming struct {
		piece *inPlay
		at    int
	}
	var up []coming
	local := v.At.In(t.zone)
	v.Facts["clock.time"] = float64(local.Hour()*60 + local.Minute())
	alone := rehearse.NewAlone(v)
	for _, piece := range t.pieces {
		if v.At.Before(piece.since) || !piece.until.IsZero() && v.At.After(piece.until) {
			continue
		}
		k := p.memory.Of(piece.live.ID)
		m := caps.Memory{ShownThisVisit: k.ThisVisit, Sorted: true, Lead: p.memory.Lead, Closed: unix(k.Closed), Converted: unix(k.Converted)}
		for _, s := range k.Shown {
			m.Shown = append(m.Shown, unix(s))
		}
		if _, _, held := piece.live.Piece.Limits.Hold(m, v.At); held {
			continue
		}
		if at, comes := alone.FirstSecond(piece.live.Program(&p.memory)); comes {
			up = append(up, coming{piece, at})
		}
	}
	slices.SortStableFunc(up, func(a, b coming) int { return a.at - b.at })
	taken := map[string]bool{}
	for _, c := range up {
		slot := c.piece.live.Slot(&reach.Visit{}, &p.memory)
		if !taken[slot] {
			taken[slot] = true
			if t.shown(p, c.piece.live, v, c.at, from, last) {
				drew = true
				if c.piece.live.Piece.Format != piece.Inline {
					t.interrupted[v.Visit]++
				}
			}
		}
	}
	return drew
}

// measure is what a page view's script tells of it: how it went, and on one in ten
// what it cost the page.
func (t *traffic) measure(p *person, v rehearse.View, drew bool) {
	day := tally.DayOf(v.At, t.zone)
	if _, is := t.began[v.Visit]; !is {
		t.began[v.Visit] = day
	}
	at := pageviews.PageDay{Day: day, Path: v.Facts["page.path"].(string)}
	page := t.measured.Pages[at]
	page.Views++
	if v.At.After(page.LastAt) {
		page.LastAt = v.At
	}
	t.measured.Pages[at] = page
	if t.Float64() > 0.1 {
		return
	}
	of := pageviews.CostDay{Day: day, Shown: drew}
	c := t.measured.Costs[of]
	c.Views++
	c.Bytes += int64(8_900 + t.IntN(400))
	busy, median := t.ExpFloat64()*2, 1150.0
	if drew {
		c.Bytes += int64(13_800 + t.IntN(5_000))
		busy += t.ExpFloat64() * 9
	}
	if p.device == "phone" {
		busy, median = busy*2, 1900
	}
	c.BusyMS += int64(busy)
	c.Shift += t.ExpFloat64() * 0.012
	paint := math.Log(median) + t.NormFloat64()*0.38
	c.Painted, c.Paint, c.Squares = c.Painted+1, c.Paint+paint, c.Squares+paint*paint
	t.measured.Costs[of] = c
}

// cutsOf is what visitors are told apart by.
func cutsOf(p *person, from origin) tally.Cuts {
	known := "new"
	if p.visits > 1 {
		known = "returning"
	}
	return tally.Cuts{Channel: from.channel, Device: p.device, Country: p.country, Known: known}
}

// reached is an order, or a class that was booked.
func (t *traffic) reached(p *person, id string, at time.Time, visit, page string, goal tally.Goal, from origin) {
	t.events = append(t.events, tally.Event{ID: id, At: at, Kind: tally.Reached, Visitor: p.token, Visit: visit, Page: page, Cuts: cutsOf(p, from), After: -1, Goal: goal})
}

const leavesSoon = 10 // seconds

// shown is one showing, so many seconds after arrival, and what came of it.
func (t *traffic) shown(p *person, live choose.Live, v rehearse.View, second int, from origin, last bool) (drew bool) {
	path, at := v.Facts["page.path"].(string), v.At.Add(time.Duration(second)*time.Second)
	k := p.memory.Of(live.ID)
	first := len(k.Shown) == 0
	held := choose.HeldBack(&live.Piece.Split, p.token, k.Variant)
	variant := choose.Allot(&live.Piece.Split, p.token, k.Variant).ID
	if held {
		variant = tally.HeldBack
	}
	k.Variant, k.ThisVisit, k.TimesShown, k.Shown = variant, k.ThisVisit+1, k.TimesShown+1, append(k.Shown, at.Unix())
	after := time.Duration(t.closesAfter(live.ID) * float64(time.Second))
	e := tally.Event{At: earlier(at, t.now), Kind: tally.Shown, Piece: live.ID, Variant: variant, Run: 1, Visitor: p.token, Visit: v.Visit, Page: path, Cuts: cutsOf(p, from), After: -1}
	sight := followedSight{shown: e, leaves: last && v.Seconds-second < leavesSoon, done: at.Add(after), after: after, from: from}
	broken := t.breaks(p, live.ID, variant)
	switch {
	case live.ID == followPiece:
		if first {
			t.followed = append(t.followed, sight)
		}
		k.Closed, k.TimesClosed = sight.done.Unix(), k.TimesClosed+1
	case broken:
		// Its page had an error, and nothing of it was counted.
	case held:
		sight.shown.Kind = tally.Held
		t.cameOf(sight, "")
	// Who takes it takes it at first sight: the true rate is of visitors.
	case first && t.Float64() < trueRate(live.ID, variant):
		k.Converted, k.TimesConverted = sight.done.Unix(), k.TimesConverted+1
		t.cameOf(sight, tally.Converted)
		if live.ID == "glazeclub" || live.ID == "beforeyougo" {
			p.memory.Lead = true
			p.orders = p.orders || t.Float64() < comesBackToBuy
		}
	default:
		k.Closed, k.TimesClosed = sight.done.Unix(), k.TimesClosed+1
		t.cameOf(sight, tally.Closed)
	}
	p.memory.Pieces[live.ID] = k
	return !held && !broken
}

// closesAfter is after how many seconds somebody is done with a piece: bars are
// closed fast.
func (t *traffic) closesAfter(id string) float64 {
	if id == "shippingline" {
		return 0.6 + t.ExpFloat64()*3
	}
	return 1 + t.ExpFloat64()*14
}

// cameOf is the events of a showing: it, what it ended with, and whether the page
// was left soon after.
func (t *traffic) cameOf(s followedSight, ended string) {
	e := s.shown
	e.ID = t.uuid(e.At)
	t.events = append(t.events, e)
	if s.leaves && ended != tally.Converted {
		left := e
		left.ID, left.Kind, left.After = t.uuid(e.At), tally.Left, int(leavesSoon*1000*t.Float64())
		t.events = append(t.events, left)
	}
	e.At = earlier(s.done, t.now)
	e.ID, e.Kind = t.uuid(e.At), ended
	switch {
	case ended == tally.Converted && (e.Piece == "glazeclub" || e.Piece == "beforeyougo"):
		t.signUps = append(t.signUps, t.signUp(e, s.from))
	case ended == tally.Converted:
		t.events = append(t.events, e)
	case ended == tally.Closed:
		e.After = int(s.after.Milliseconds())
		t.events = append(t.events, e)
	}
}
