package reach

import (
	"encoding/json"
	"time"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/internal/studio/parts"
)

// Rules: tried, rehearsed, saved; and which piece wins.

// Contest is how often another piece was in the way, or gave way.
type Contest struct {
	Piece string `json:"piece"`
	Name  string `json:"name"`
	Views int    `json:"views"`
}

// Order is the live pieces, those that win first.
type Order struct {
	Days    int       `json:"days"`
	Version int       `json:"version"` // to be sent along with a change
	Pieces  []Ordered `json:"pieces"`
	// Views is how many recorded page views the counts are of.
	Views int `json:"views"`
}

// Ordered is a live piece and how it fared beside the others.
type Ordered struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Slot   string    `json:"slot"`
	Format string    `json:"format"`
	Shown  int       `json:"shown"`
	Lost   []Contest `json:"lost"` // what kept it back
}

// OrderChange sets who wins.
type OrderChange struct {
	Version int32    `json:"version"` // that the change was made on
	Pieces  []string `json:"pieces"`
}

// InspectLinkRequest names the page to open.
type InspectLinkRequest struct {
	Path string `json:"path"`
}

// InspectLink is an address that opens the site with the inspector on.
type InspectLink struct {
	URL   string    `json:"url"`
	Until time.Time `json:"until" tstype:"string"`
}

// ReachDraft is a reach as it is worked on, whether it is saved yet or not.
type ReachDraft struct {
	Piece    string          `json:"piece"`
	Format   piece.Format    `json:"format" tstype:"Format"`
	Folded   bool            `json:"folded,omitempty"` // it begins as a tab
	Place    piece.Place     `json:"place,omitempty" tstype:"Place"`
	Rule     json.RawMessage `json:"rule" tstype:"Rule"`
	Moments  json.RawMessage `json:"moments,omitempty" tstype:"Rule"` // a variant's own
	Caps     json.RawMessage `json:"caps" tstype:"Caps"`
	Schedule json.RawMessage `json:"schedule,omitempty" tstype:"Schedule"`
}

// TryRequest is a reach and a visitor, made up or from the log.
type TryRequest struct {
	ReachDraft `tstype:",extends"`
	Facts      map[string]any `json:"facts"`
	Now        string         `json:"now"`
	// Stay is how the visitor of the log stayed; without it a typical stay is taken.
	Stay *Stay `json:"stay" tstype:"Stay | null,required"`
	// ShownDays, ClosedDays and ConvertedDays are how many days ago the visitor
	// last saw, closed and converted on the piece; null: never.
	ShownDays     *float64 `json:"shown_days" tstype:"number | null,required"`
	ClosedDays    *float64 `json:"closed_days" tstype:"number | null,required"`
	ConvertedDays *float64 `json:"converted_days" tstype:"number | null,required"`
	// Every is how many days lie between two visits in the month ahead.
	Every int `json:"every"`
}

// Stay is how a visitor stayed on a page, in seconds from arrival.
type Stay struct {
	Seconds  int      `json:"seconds"`
	Marks    []*int   `json:"marks" tstype:"(number | null)[]"` // when each tenth of the page was reached
	Exit     *int     `json:"exit" tstype:"number | null,required"`
	Idles    [][2]int `json:"idles" tstype:"Pair[]"`
	Happened [][3]any `json:"happened" tstype:"Happening[]"`
}

// TryAnswer is what the reach makes of the visitor.
type TryAnswer struct {
	Verdict reach.Verdict `json:"verdict" tstype:"Verdict"`
	Waiting reach.Rule    `json:"waiting" tstype:"Rule | null"`
	Phrase  string        `json:"phrase"`
	// Needs is what it waits for, in words.
	Needs string       `json:"needs"`
	Lines []reach.Line `json:"lines" tstype:"Line[]"`
	// Say is the verdict as a sentence, and Shows whether it shows on this page view.
	Say   string `json:"say"`
	Shows bool   `json:"shows"`
	// Held says what caps or schedule keep back; empty for nothing.
	Held string `json:"held"`
	// Slot says who else wants the place on the page, and who has it.
	Slot string `json:"slot"`
	// At is the second of the stay at which it shows; null: it does not.
	At *int `json:"at" tstype:"number | null,required"`
	// Stay is what was assumed of the stay, and Typical that it is a typical one.
	Stay    Stay `json:"stay"`
	Typical bool `json:"typical"`
	// Month is the 30 days ahead, the first one today.
	Month    []MonthDay `json:"month"`
	MonthSay string     `json:"month_say"`
}

// MonthDay is one day of the month ahead.
type MonthDay struct {
	Visit bool   `json:"visit"`
	Shows bool   `json:"shows"`
	Held  string `json:"held"`
}

// RehearseRequest asks what a reach would have done.
type RehearseRequest struct {
	ReachDraft `tstype:",extends"`
	Days       int `json:"days"` // 1 to 90
}

// Rehearsal is what a reach would have done on recorded visits. All counts are
// page views but those of visitors.
type Rehearsal struct {
	Days          int      `json:"days"`
	PageViews     int      `json:"page_views"`
	Visitors      int      `json:"visitors"`
	Passed        int      `json:"passed"`
	Showings      int      `json:"showings"`
	VisitorsShown int      `json:"visitors_shown"`
	TypicalWait   *float64 `json:"typical_wait" tstype:"number | null,required"` // seconds
	// Lines are the nodes of the rule by their places: those each holds on by
	// itself, and those left of what came before.
	Lines []RehearsedLine `json:"lines"`
	Held  int             `json:"held"` // back by caps and schedule
	// Lost is what other pieces kept back, and Won what this one would keep back of them.
	Lost       []Contest `json:"lost"`
	Won        []Contest `json:"won"`
	LostToSite int       `json:"lost_to_site"` // kept back by the site's own limits
	// Quiet is what the site's minimum time between pieces costs it, LostToSite among it.
	Quiet Quiet `json:"quiet"`
	// Unrecorded are the places of clauses about what the log does not hold.
	Unrecorded []string `json:"unrecorded"`
	// Unseen are the places of clauses about a happening that was never
	// recorded: it may not be recorded at all, rather than never come.
	Unseen []string `json:"unseen"`
	Stays  Stays    `json:"stays"`
	// Notes are what the rehearsal gives to settle.
	Notes []settle.Note `json:"notes" tstype:"Note[]"`
	// Sample is how many of a hundred visitors are recorded.
	Sample int `json:"sample"`
	// Since is since when visits are in the log, while older ones are still being read;
	// null: all are.
	Since *time.Time `json:"since" tstype:"string | null,required"`
}

// Quiet is what a site's minimum time between pieces costs one of them.
type Quiet struct {
	Minimum string `json:"minimum"` // in words; empty: there is none
	// Lost are the page views on which it kept the piece back, and Later those on
	// which the piece came later for it. After is how often either was after which.
	Lost  int       `json:"lost"`
	Later int       `json:"later"`
	After []Contest `json:"after"`
}

// RehearsedLine counts page views for one node of a rule.
type RehearsedLine struct {
	At    string `json:"at"`
	Alone int    `json:"alone"`
	Left  int    `json:"left"`
}

// Stays is what visitors did on the page views that a rule's facts select, as
// shares of these.
type Stays struct {
	PageViews  int       `json:"page_views"`
	StayedFor  []float64 `json:"stayed_for"`  // at least so many seconds, from 0
	IdledFor   []float64 `json:"idled_for"`   // at least once so many seconds, from 0
	ScrolledTo []float64 `json:"scrolled_to"` // at least so many tenths of the page, from 0
	Left       float64   `json:"left"`        // headed for the exit
}

// ValuesRequest asks for recorded values of a fact: those that hold a text, or
// those that a clause passes.
type ValuesRequest struct {
	Fact   string     `json:"fact"`
	Search string     `json:"search"`
	Clause *TryClause `json:"clause" tstype:"Clause | null,required"`
}

// TryClause is a clause whose matches are asked for.
type TryClause struct {
	Fact  string   `json:"fact"`
	Op    reach.Op `json:"op"`
	Value any      `json:"value"`
}

// ValuesAnswer is recorded values, the most common first.
type ValuesAnswer struct {
	Values []RecordedValue `json:"values"`
	// Matched is how many distinct values there are in all, and Views their page views.
	Matched int `json:"matched"`
	Views   int `json:"views"`
}

// RecordedValue is a value and how often it was seen in the last 28 days.
type RecordedValue struct {
	Value any    `json:"value" tstype:"string | number | boolean"`
	Label string `json:"label"` // a real name, such as a page's title; may be empty
	Views int    `json:"views"`
}

// VisitorsRequest asks for recorded visitors to try a rule on.
type VisitorsRequest struct {
	Rule json.RawMessage `json:"rule" tstype:"Rule"`
}

// RecordedVisitor is a page view of the log.
type RecordedVisitor struct {
	At    time.Time      `json:"at" tstype:"string"`
	Facts map[string]any `json:"facts" tstype:"{ [name: string]: unknown }"`
	Stay  Stay           `json:"stay"`
	// Comes says that the rule came true on it.
	Comes bool `json:"comes"`
}

// SavedReach is a rule kept under a name.
type SavedReach struct {
	ID     string          `json:"id"`
	Name   string          `json:"name"`
	Rule   json.RawMessage `json:"rule" tstype:"Rule"`
	Phrase string          `json:"phrase"`
	Used   []parts.UsedIn  `json:"used"`
}

// ReachChange sets a saved reach.
type ReachChange struct {
	Name string          `json:"name"`
	Rule json.RawMessage `json:"rule" tstype:"Rule"`
}

// FactBook is every fact and the operators of each kind.
type FactBook struct {
	Facts []reach.Fact              `json:"facts" tstype:"Fact[]"`
	Ops   map[reach.Kind][]reach.Op `json:"ops" tstype:"OpsByKind"`
}
