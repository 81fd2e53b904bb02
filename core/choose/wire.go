package choose

import "gobbet/core/reach"

// Placement is a piece that a visit gets, at once or once its moments come.
type Placement struct {
	Piece   string `json:"piece"`
	Variant string `json:"variant"`
	// Slot is the place on the page that it claims; empty for one that any number may stand in.
	Slot string `json:"slot"`
	// Overlay says that it lies over the page.
	Overlay bool `json:"overlay,omitempty"`
	// Interrupts says that it lies over a part of the page at least: the site's
	// quiet time is for it, unless a click asked for it.
	Interrupts bool `json:"interrupts,omitempty"`
	// Folded says that the visitor closed it, and only its tab shows.
	Folded bool `json:"folded,omitempty"`
	// Held says that the visitor is held back: where it would be shown, that is
	// counted, and nothing is drawn.
	Held    bool       `json:"held,omitempty"`
	Design  string     `json:"design"`
	Waiting reach.Rule `json:"waiting" tstype:"Rule | null"`
}

// Eligible says that a visitor counts for a piece whose variants differ in how or
// when they show, from now on.
type Eligible struct {
	Piece string `json:"piece"`
	// Variant is the visitor's; empty: they are held back.
	Variant string `json:"variant"`
}

// Memory is what a visitor's browser remembers of the site. Times are seconds
// since 1970. It comes from outside and may say anything: counts below zero and
// times to come are taken for none and for now.
type Memory struct {
	Visitor string           `json:"visitor"`
	Visits  int              `json:"visits"` // this one included
	Pages   int              `json:"pages"`  // this one included
	Last    int64            `json:"last,omitempty"`
	Lead    bool             `json:"lead,omitempty"`
	Tags    []string         `json:"tags,omitempty"`  // that the site gave the visitor
	Shown   int64            `json:"shown,omitempty"` // when a piece last interrupted
	Visit   VisitMemory      `json:"visit"`
	Pieces  map[string]Known `json:"pieces,omitempty"`
}

// VisitMemory is what is remembered of the visit under way.
type VisitMemory struct {
	ID       string `json:"id"`
	Pages    int    `json:"pages"`              // this one included
	Landing  string `json:"landing"`            // address of its first page
	Referrer string `json:"referrer"`           // of its first page
	Overlays int    `json:"overlays,omitempty"` // how many pieces over the page it brought
	// Interrupted is how often it was.
	Interrupted int `json:"interrupted,omitempty"`
	// Goals are those reached by the addresses of pages, and by which.
	Goals map[string]string `json:"goals,omitempty"`
}

// Known is what is remembered of one piece.
type Known struct {
	Shown     []int64 `json:"shown,omitempty"` // the latest 50
	ThisVisit int     `json:"this_visit,omitempty"`
	Closed    int64   `json:"closed,omitempty"`
	Converted int64   `json:"converted,omitempty"`
	Variant   string  `json:"variant,omitempty"`
	// Eligible says that the visitor counts for it, seen or not.
	Eligible bool `json:"eligible,omitempty"`
	// Never says that the visitor asked not to see it again.
	Never bool `json:"never,omitempty"`
	// Counts that outlive the list of times.
	TimesShown     int `json:"times_shown,omitempty"`
	TimesClosed    int `json:"times_closed,omitempty"`
	TimesConverted int `json:"times_converted,omitempty"`
}
