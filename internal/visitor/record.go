package visitor

import (
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"math/rand/v2"
	"net/url"
	"strings"
	"time"
	"unicode"

	"gobbet/core/choose"
	"gobbet/core/fault"
	"gobbet/core/rehearse"
	"gobbet/core/tally"
	"gobbet/core/text"
	"gobbet/internal/store/pageviews"
)

// recorded picks the visitors whose page views are kept, the same ones always.
func recorded(site *Site, visitor string) bool {
	return visitor != "" && choose.Unit("record", visitor)*100 < float64(site.Settings.Record)
}

const (
	longestStay = 4 * 60 * 60 // seconds, from arrival to the last record
	maxIdles    = 50
	maxHappened = 60
	maxAbout    = 200
)

// record keeps a page view for rehearsals. Nothing that may be personal is
// kept: no query, no referring address, no cookie, and of the visitor's own
// name only a digest.
func (v *Server) record(c *Call, req *ViewRecord) (None, error) {
	site, now := c.Site, v.now()
	m := readMemory(site, &req.View, now)
	if !isToken(req.ID) || m.Visitor == "" {
		return None{}, fault.Fault{At: "id", Message: "is not a page view"}
	}
	// A page that was left open for longer says nothing of a stay any more.
	if !recorded(site, m.Visitor) || req.Age > longestStay*1000 {
		return None{}, nil
	}
	if why, what := v.outsider(c, req.Automated); why != "" {
		v.leftOut.add(site, now, why, what, 1)
		return None{}, nil
	}
	age := time.Duration(max(0, req.Age)) * time.Millisecond
	began := now.Add(-age)
	facts := visitOf(site, nil, &req.View, m, v.browser(c, nil), began).Recorded()
	for name, is := range facts {
		if facts[name] = withoutPersons(is); facts[name] == nil {
			delete(facts, name)
		}
	}
	ctx, done := c.outliving()
	defer done()
	if err := v.keepNames(ctx, site, facts); err != nil {
		return None{}, err
	}
	row := pageviews.PageView{
		ID: req.ID, Visitor: digest(site, m.Visitor), Visit: digest(site, or(visitToken(m.Visit.ID), m.Visitor)), At: began,
		Seconds: max(0, min(req.Seconds, longestStay)),
	}
	var err error
	if row.Facts, err = json.Marshal(facts); err == nil {
		row.Moments, err = json.Marshal(req.moments())
	}
	var isNew bool
	if err == nil {
		isNew, err = v.store.PageViews.Add(ctx, site.ID, row)
	}
	if err == nil {
		err = v.store.PageViews.Measure(ctx, site.ID, req.measured(site, row, isNew))
	}
	return None{}, err
}

// One page view in so many has its costs measured.
const costEvery = 10

// costed picks the page views whose costs are measured.
func costed() bool { return rand.IntN(costEvery) == 0 }

const (
	mostBytes = 10 << 20
	mostMS    = 120_000
	mostShift = 100
)

// measured is what the totals of visits and pages need of a record.
func (r *ViewRecord) measured(site *Site, row pageviews.PageView, isNew bool) pageviews.Measured {
	m := pageviews.Measured{Visit: row.Visit, At: row.At, Day: tally.DayOf(row.At, site.Zone), Path: pagePath(addressPath(r.View.URL)), Interrupted: max(0, r.Interrupted), New: isNew}
	if c := r.Cost; c != nil && c.Bytes >= 0 && c.Busy >= 0 && c.Shift >= 0 && c.Paint >= 0 {
		m.Cost = &pageviews.PageCost{Shown: r.Shown, Bytes: min(c.Bytes, mostBytes), BusyMS: int(min(c.Busy, mostMS)), Shift: min(c.Shift, mostShift), PaintMS: int(min(c.Paint, mostMS))}
	}
	return m
}

// addressPath is the path of an address.
func addressPath(address string) string {
	page, err := url.Parse(clip(address))
	if err != nil {
		return "/"
	}
	return or(page.EscapedPath(), "/")
}

// moments keeps of the record what can be true of a stay.
func (r *ViewRecord) moments() rehearse.Moments {
	stay := max(0, min(r.Seconds, longestStay))
	within := func(second int) bool { return second >= 0 && second <= stay }
	m := rehearse.Moments{}
	for i, mark := range r.Marks {
		if i == 10 || mark == nil || !within(*mark) {
			break // who did not come so far did not come farther
		}
		m.Marks = append(m.Marks, mark)
	}
	if r.Exit != nil && within(*r.Exit) {
		m.Exit = r.Exit
	}
	for _, idle := range r.Idles[:min(len(r.Idles), maxIdles)] {
		if within(idle[0]) && idle[1] > 0 {
			m.Idles = append(m.Idles, [2]int{idle[0], min(idle[1], stay-idle[0]+1)})
		}
	}
	for _, h := range r.Happened[:min(len(r.Happened), maxHappened)] {
		kind, _ := h[0].(string)
		about, isText := h[1].(string)
		second, isNumber := h[2].(float64)
		switch kind {
		case "click", "seen", "leaving_to", "event":
		default:
			continue
		}
		if isText && isNumber && within(int(second)) && withoutPersons(about) != nil {
			m.Happened = append(m.Happened, [3]any{kind, text.Keepable(about, maxAbout), int(second)})
		}
	}
	return m
}

// withoutPersons drops texts that may tell of a person: mail addresses, long
// numbers such as those of telephones and cards, and whole letters.
func withoutPersons(is any) any {
	switch is := is.(type) {
	case string:
		digits := 0
		for _, r := range is {
			if unicode.IsDigit(r) {
				digits++
			}
		}
		if strings.Contains(is, "@") || strings.Contains(is, "%40") || digits > 8 || len(is) > 300 {
			return nil
		}
		return noNUL(is)
	case []string:
		var kept []string
		for _, one := range is {
			if text, ok := withoutPersons(one).(string); ok {
				kept = append(kept, text)
			}
		}
		if kept == nil {
			return nil
		}
		return kept
	case float64:
		if is > 1e8 || is < -1e8 {
			return nil
		}
	}
	return is
}

// digest tells one visitor from another without saying which.
func digest(site *Site, of string) string {
	h := hmac.New(sha256.New, site.Secret)
	h.Write([]byte(of))
	return base64.RawURLEncoding.EncodeToString(h.Sum(nil)[:9])
}
