package people

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"gobbet/core/fault"
	"gobbet/internal/route"
	"gobbet/internal/store/leads"
	"gobbet/internal/studio/parts"
)

const (
	leadsPerPage = 50
	leadsPerRead = 1000 // of a CSV
)

func (s *Place) people(c *route.Call, ask PeopleQuery) (answer LeadPage, err error) {
	site := c.Site
	q, names, err := s.leadsAsked(c, ask, leadsPerPage)
	if err != nil {
		return answer, err
	}
	leads, err := s.store.Leads.List(c, site.ID, q)
	if err != nil {
		return answer, err
	}
	total, err := s.store.Leads.Count(c, site.ID, q)
	if err != nil {
		return answer, err
	}
	page := LeadPage{Leads: []LeadRow{}, Total: total}
	for _, l := range leads {
		page.Leads = append(page.Leads, leadRow(l, names))
	}
	if len(leads) == leadsPerPage {
		last := leads[len(leads)-1]
		page.Next = fmt.Sprintf("%d.%d", last.LastAt.UnixMicro(), last.ID)
	}
	return page, nil
}

// leadsAsked reads which leads are asked for, and what their pieces are called.
func (s *Place) leadsAsked(c *route.Call, ask PeopleQuery, limit int) (leads.Query, parts.PieceNames, error) {
	q, err := leadQuery(c, ask)
	if err != nil {
		return q, nil, err
	}
	q.Limit = limit
	names, err := s.read.Names(c, c.Site.ID)
	if q.Search != "" {
		for id, n := range names {
			if parts.Holds(n.Name, q.Search) {
				q.Named = append(q.Named, id)
			}
		}
	}
	return q, names, err
}

// leadQuery reads what a request asks for: from and to are days of the site's
// calendar, both included, and after is where a page goes on.
func leadQuery(c *route.Call, ask PeopleQuery) (q leads.Query, err error) {
	q = leads.Query{Search: strings.TrimSpace(ask.Q), Piece: ask.Piece, Channel: ask.Source}
	if len(q.Search) > 200 || strings.ContainsRune(q.Search+q.Piece+q.Channel, 0) {
		return q, fault.Fault{At: "q", Message: "is more than can be searched for"}
	}
	zone := c.Site.Location()
	for _, day := range []struct {
		key, given string
		at         *time.Time
		later      int
	}{{"from", ask.From, &q.From, 0}, {"to", ask.To, &q.To, 1}} {
		if day.given == "" {
			continue
		}
		at, err := time.ParseInLocation(time.DateOnly, day.given, zone)
		if err != nil || at.Year() < 1970 || at.Year() > 9000 {
			return q, fault.Fault{At: day.key, Message: "should be a day, such as 2026-11-25"}
		}
		*day.at = at.AddDate(0, 0, day.later)
	}
	if after := ask.After; after != "" {
		var at int64
		if _, err := fmt.Sscanf(after, "%d.%d", &at, &q.BeforeID); err != nil || at < 0 || at > parts.LastMicro {
			return q, fault.Fault{At: "after", Message: "is not where a page ended"}
		}
		q.BeforeAt = time.UnixMicro(at)
	}
	return q, nil
}

func leadRow(l leads.Lead, names parts.PieceNames) LeadRow {
	row := LeadRow{ID: l.ID, Email: l.Email, Name: l.Name, FirstAt: l.FirstAt, LastAt: l.LastAt, Times: l.Times, Walks: []WalkRow{}}
	for _, w := range l.Walks {
		row.Walks = append(row.Walks, walkRow(w, names))
	}
	return row
}

func walkRow(w leads.Walk, names parts.PieceNames) WalkRow {
	row := WalkRow{
		ID: w.ID, At: w.At, Name: w.Name, Piece: w.Piece, PieceID: w.Piece, Variant: w.Variant,
		Page: w.Page, Channel: w.Channel, Campaign: w.Campaign, Referrer: w.Referrer, Answers: w.Answers,
	}
	if entry, ok := names[w.Piece]; ok {
		row.Piece = entry.Name
		if letter, ok := entry.Variants[w.Variant]; ok {
			row.Variant = letter
		}
	}
	return row
}

// csvHead is the columns every row has; each other answer gets one of its own.
// A row is what a person told one piece at one time, at.
var csvHead = []string{"email", "name", "at", "piece", "variant", "page", "channel", "campaign", "referrer", "first_at", "last_at", "times"}

// peopleCSV writes all leads that are asked for.
func (s *Place) peopleCSV(c *route.Call, ask PeopleQuery) error {
	site := c.Site
	q, names, err := s.leadsAsked(c, ask, leadsPerRead)
	if err != nil {
		return err
	}
	keys, err := s.store.Leads.AnswerKeys(c, site.ID, q)
	if err != nil {
		return err
	}
	leads, err := s.store.Leads.List(c, site.ID, q)
	if err != nil {
		return err
	}
	head := append([]string{}, csvHead...)
	for _, key := range keys {
		head = append(head, "answer_"+key)
	}
	file := c.CSV("people.csv", head)
	for len(leads) > 0 {
		for _, l := range leads {
			row := leadRow(l, names)
			for _, walk := range row.Walks {
				file.Row(csvRow(row, walk, keys))
			}
		}
		file.More()
		last := leads[len(leads)-1]
		q.BeforeAt, q.BeforeID = last.LastAt, last.ID
		leads, err = s.store.Leads.List(c, site.ID, q)
		file.Torn(err)
	}
	return file.Close()
}

func csvRow(l LeadRow, w WalkRow, keys []string) []string {
	utc := func(t time.Time) string { return t.UTC().Format(time.RFC3339) }
	row := []string{l.Email, w.Name, utc(w.At), w.Piece, w.Variant, w.Page, w.Channel, w.Campaign, w.Referrer, utc(l.FirstAt), utc(l.LastAt), strconv.Itoa(l.Times)}
	for _, key := range keys {
		row = append(row, w.Answers[key])
	}
	return row
}
