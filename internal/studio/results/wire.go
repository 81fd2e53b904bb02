package results

import (
	"time"

	"gobbet/core/alert"
	"gobbet/core/weigh"
	"gobbet/internal/studio/parts"
)

// What Results says of a site.

// SiteResults is what a site's pieces brought and cost in some days, against as
// many before.
type SiteResults struct {
	Confidence float64   `json:"confidence"`
	Range      DayRange  `json:"range"`
	Before     DayRange  `json:"before"`
	Currency   string    `json:"currency"`
	Goals      []GoalSum `json:"goals"`
	// Now and Then count visitors once a piece, in the range and before it.
	Now  parts.Measure `json:"now"`
	Then parts.Measure `json:"then"`
	// Brought is what the pieces brought of each goal, over those held back, and Over
	// how that went in steps of some days.
	Brought []parts.GoalGain `json:"brought"`
	Over    []GainStep       `json:"over"`
	Step    int              `json:"step"` // days
	Cost    SiteCost         `json:"cost"`
	// Hours are the conversions of each hour of each weekday, from Monday.
	Hours [][]int `json:"hours" tstype:"number[][]"`
	// Rows are the pieces and the parts of their visitors, the best rates first.
	Rows []ResultRow `json:"rows"`
	More int         `json:"more"` // rows of few visitors that are left out
	// Leads are those of the range by source, with what they ordered.
	Leads []LeadQuality `json:"leads"`
	// Head is what the pieces brought, in a sentence, Why what it rests on.
	Head string `json:"head"`
	Why  string `json:"why"`
}

// DayRange is days of the site's clock, both included.
type DayRange struct {
	From string `json:"from"` // YYYY-MM-DD
	To   string `json:"to"`
}

// GoalSum is how often a goal was reached, by anybody.
type GoalSum struct {
	ID    string  `json:"id"`
	Name  string  `json:"name"`
	Times int     `json:"times"`
	Value float64 `json:"value"`
	// Valued says that it has a worth.
	Valued bool `json:"valued"`
}

// GainStep is how many of those shown a piece, and of those held back, reached the
// first goal, by when they first saw it.
type GainStep struct {
	Day   string        `json:"day"` // the first of the step
	Shown parts.Measure `json:"shown"`
	Held  parts.Measure `json:"held"`
}

// SiteCost is what the pieces cost visitors.
type SiteCost struct {
	// Visits is how many recorded visits were interrupted never, once, twice, and more often.
	Visits []int `json:"visits"`
	Sample int   `json:"sample"` // of a hundred visitors, who are recorded
	// Quick are closes within 2 seconds, of all showings.
	Quick parts.Measure `json:"quick"`
	// Worst is the piece that is closed quickest.
	Worst *WorstPiece `json:"worst" tstype:"WorstPiece | null,required"`
	// Left is how many left the page within 10 seconds of a showing, and HeldLeft of
	// those held back who would have been shown it.
	Left     parts.Measure `json:"left"`
	HeldLeft parts.Measure `json:"held_left"`
	// LeftDiffers says that they surely differ.
	LeftDiffers bool     `json:"left_differs"`
	Page        PageCost `json:"page"`
}

// WorstPiece is a piece that is closed quicker than the others.
type WorstPiece struct {
	Piece string        `json:"piece"`
	Name  string        `json:"name"`
	Quick parts.Measure `json:"quick"`
}

// PageCost is what the script cost pages, as means over a sample of page views.
type PageCost struct {
	Views  int     `json:"views"`
	Bytes  float64 `json:"bytes"`
	BusyMS float64 `json:"busy_ms"`
	// Shift is the layout shift with a piece shown, ShiftWithout without.
	Shift        *float64 `json:"shift" tstype:"number | null,required"`
	ShiftWithout *float64 `json:"shift_without" tstype:"number | null,required"`
	// Paint and PaintWithout are the typical largest paint in ms (geometric mean), and
	// PaintRatio the bounds of one over the other.
	Paint        *float64    `json:"paint" tstype:"number | null,required"`
	PaintWithout *float64    `json:"paint_without" tstype:"number | null,required"`
	PaintRatio   *[2]float64 `json:"paint_ratio" tstype:"Bounds | null,required"`
	Shown        int         `json:"shown"` // page views with a piece
}

// ResultRow is a piece, or a part of its visitors.
type ResultRow struct {
	Piece string        `json:"piece"`
	Name  string        `json:"name"`
	Value string        `json:"value"` // of what the table is by; empty: all
	Now   parts.Measure `json:"now"`
	Then  parts.Measure `json:"then"`
	// Goal is how many reached the first goal of the site.
	Goal parts.Measure `json:"goal"`
	// Change is how the rate differs from before, and ChangeInterval its bounds.
	Change         weigh.Maybe  `json:"change" tstype:"number | null,required"`
	ChangeInterval weigh.Bounds `json:"change_interval" tstype:"Bounds"`
}

// LeadQuality is the leads that came from a source.
type LeadQuality struct {
	Channel string `json:"channel"`
	Leads   int    `json:"leads"`
	// Ordered is how many of them reached the site's first valued goal after they
	// left their address, and Value what that was worth.
	Ordered parts.Measure `json:"ordered"`
	Value   float64       `json:"value"`
}

// BehindRows are the events behind a number, the latest first.
type BehindRows struct {
	Rows []BehindRow `json:"rows"`
	// Next is where to look on; empty: all of the time was looked at.
	Next string `json:"next"`
	// Since is how far back was looked.
	Since time.Time `json:"since" tstype:"string"`
}

// BehindRow is one event.
type BehindRow struct {
	ID      string    `json:"id"`
	At      time.Time `json:"at" tstype:"string"`
	Kind    string    `json:"kind" tstype:"'eligible' | 'shown' | 'held' | 'closed' | 'converted' | 'left' | 'reached'"`
	Piece   string    `json:"piece"`
	Name    string    `json:"name"` // of the piece
	Variant string    `json:"variant"`
	Visitor string    `json:"visitor"` // a few letters, the same for one visitor
	Page    string    `json:"page"`
	Channel string    `json:"channel"`
	Device  string    `json:"device"`
	Country string    `json:"country"`
	Known   string    `json:"known"`
	Goal    string    `json:"goal"`
	Value   float64   `json:"value"`
}

// Alerts are what is not as usual, and what was left out of the counts.
type Alerts struct {
	Alerts  []AlertNow `json:"alerts"`
	LeftOut []LeftOut  `json:"left_out"`
	Days    int        `json:"days"` // that the list looks back
}

// AlertNow is something that is not as usual, and since when; null: it was seen just now.
type AlertNow struct {
	Alert alert.Alert `json:"alert" tstype:"Alert"`
	Since *time.Time  `json:"since" tstype:"string | null,required"`
}

// LeftOut is what was left out of the counts.
type LeftOut struct {
	Why    string `json:"why" tstype:"'robot' | 'automated' | 'team'"`
	What   string `json:"what"`
	Events int    `json:"events"`
}
