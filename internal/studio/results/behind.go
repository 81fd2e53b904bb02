package results

import (
	"slices"

	"github.com/google/uuid"

	"gobbet/core/fault"
	"gobbet/core/tally"
	"gobbet/internal/route"
	"gobbet/internal/store/events"
)

const behindPage = 50

// behind lists the events behind a number. A page that ends early has Next too:
// it looked through as much as it may at once.
func (s *Place) behind(c *route.Call, ask BehindQuery) (answer BehindRows, err error) {
	site := c.Site
	a, err := s.rangeAsked(c, ask.ResultsQuery)
	if err != nil {
		return answer, err
	}
	q := events.Query{From: a.begin, To: a.end, Piece: a.piece, Variant: ask.Variant, Cut: a.by, Value: ask.Value, Limit: behindPage}
	if kind := ask.Kind; kind != "" {
		if !slices.Contains(tally.Kinds, kind) {
			return answer, fault.Fault{At: "kind", Message: "is not a kind of event"}
		}
		q.Kind = kind
	}
	if before := ask.Before; before != "" {
		id, err := uuid.Parse(before)
		if err != nil {
			return answer, fault.Fault{At: "before", Message: "is not an event"}
		}
		q.Before = id.String()
	}
	if a.by != "" && q.Value == "" {
		q.Cut = ""
	}
	page, err := s.store.Events.List(c, site.ID, q)
	if err != nil {
		return answer, err
	}
	names, err := s.store.Pieces.NamesEver(c, site.ID)
	if err != nil {
		return answer, err
	}
	answer = BehindRows{Rows: []BehindRow{}, Next: page.Next, Since: page.Since}
	goals := map[string]string{}
	for _, g := range site.Settings.Goals {
		goals[g.ID] = g.Name
	}
	for _, e := range page.Events {
		goal := e.Goal.Goal
		if name := goals[goal]; name != "" {
			goal = name
		}
		answer.Rows = append(answer.Rows, BehindRow{
			ID: e.ID, At: e.At, Kind: e.Kind, Piece: e.Piece, Name: names[e.Piece], Variant: e.Variant, Visitor: short(e.Visitor), Page: e.Page,
			Channel: e.Channel, Device: e.Device, Country: e.Country, Known: e.Known, Goal: goal, Value: float64(e.Amount) / 100,
		})
	}
	return answer, nil
}

// short is enough of a visitor's token to tell them from others on a screen.
func short(visitor string) string { return visitor[max(0, len(visitor)-6):] }
