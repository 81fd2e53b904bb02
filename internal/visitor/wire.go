package visitor

import (
	"encoding/json"

	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/walk"
)

// DecideRequest is what the loader says of a page view.
type DecideRequest struct {
	URL      string `json:"url"`
	Title    string `json:"title"`
	Width    int    `json:"width"`
	Language string `json:"language"`
	// PageLanguage is the page's own, as its lang says.
	PageLanguage string `json:"page_language,omitempty"`
	// Offset is how many minutes the visitor's clock is ahead of UTC.
	Offset int `json:"offset,omitempty"`
	// Clock is the visitor's clock, in seconds since 1970; 0 is unknown. Memory's
	// times are read as it has them, however wrong it goes.
	Clock int64 `json:"clock,omitempty"`
	// Kind is the kind of page, and Data what else the site told of the visit:
	// texts, numbers and flags by name.
	Kind string         `json:"kind,omitempty"`
	Data map[string]any `json:"data,omitempty"`
	// Own is the address of the piece's own page that the page is, or to which a
	// link on it leads: its piece alone is asked for.
	Own string `json:"own,omitempty"`
	// Cookies are those that a live rule names, and no others.
	Cookies map[string]string `json:"cookies,omitempty"`
	// Memory that cannot be read is taken for none: it must never break a page.
	Memory json.RawMessage `json:"memory" tstype:"Memory"`
}

// DecideAnswer is what may show on the page view.
type DecideAnswer struct {
	Placements []choose.Placement `json:"placements" tstype:"Placement[]"`
	// Watch says that there is something to watch though nothing may show: a record
	// to make, a goal, or that the visitor counts for a piece.
	Watch bool `json:"watch,omitempty"`
	// Eligible are the pieces for which the visitor counts from now on.
	Eligible []choose.Eligible `json:"eligible,omitempty" tstype:"Eligible[]"`
	// Renderer and Watcher are addresses of scripts, from the loader's own, and so
	// are the parts that a page may need: Walk takes walks on, Sending sends events and
	// steps, Clicks holds clicks that wait for a piece, Links opens pieces of own pages;
	// and those that a drawing may: Extras, Play, Draw, Chat and Frames.
	Renderer string `json:"renderer"`
	Walk     string `json:"walk"`
	Sending  string `json:"sending"`
	Clicks   string `json:"clicks"`
	Links    string `json:"links"`
	Extras   string `json:"extras"`
	Play     string `json:"play"`
	Draw     string `json:"draw"`
	Chat     string `json:"chat"`
	Frames   string `json:"frames"`
	Watcher  string `json:"watcher"`
	// Language is what pieces are worded in, and Words where those are; empty: the script
	// has them.
	Language string `json:"said_in"`
	Words    string `json:"words,omitempty"`
	// Cookies are the names of those that live rules ask about. A page that has
	// one of them and did not send it asks again.
	Cookies []string `json:"cookies,omitempty"`
	// Overlays is how many pieces over the page one visit may bring, and Quiet
	// for how many seconds none shows after another. 0: no limit.
	Overlays int `json:"overlays,omitempty"`
	Quiet    int `json:"quiet,omitempty"`
	// Exit is how readily a move counts as heading for the exit, where that is not as usual.
	Exit string `json:"exit,omitempty" tstype:"'calm' | 'eager'"`
	// Phone says that the device is a phone: pieces are placed, and drawn, as
	// phones have them.
	Phone bool `json:"phone,omitempty"`
	// Pages is where the addresses of the site's pieces' own pages begin: a link to
	// one opens the piece on the page.
	Pages string `json:"pages,omitempty"`
	// Record asks for a record of the page view, and Cost for what the script cost it
	// too: it is the address of the script that measures that.
	Record bool   `json:"record,omitempty"`
	Cost   string `json:"cost,omitempty"`
	// Goals are the site's that this page view reaches by its address, and those
	// that an event on it may.
	Goals []GoalAt `json:"goals,omitempty"`
	// Clock is the server's, in milliseconds since 1970: a page's may go wrong.
	Clock int64 `json:"clock"`
	// Layer is the name of the array on the page that every step is pushed to as well.
	Layer string `json:"layer,omitempty"`
}

// GoalAt is a goal that a page view reaches, at once or with an event.
type GoalAt struct {
	Goal string `json:"goal"`
	// Event is the name of the event that reaches it; empty: the page view does.
	Event string `json:"event,omitempty"`
	// Value is the name of the data that says what it is worth.
	Value string `json:"value,omitempty"`
}

// WalkRef names a visitor's walk through a piece.
type WalkRef struct {
	ID      string `json:"id"` // a UUID; the same from the first scene to the last
	Piece   string `json:"piece"`
	Variant string `json:"variant"`
	Design  string `json:"design"` // the hash of the drawing that is walked
	Visitor string `json:"visitor"`
}

// CodeRequest asks for a code of a pool, for the visitor's own.
type CodeRequest struct {
	Walk  WalkRef `json:"walk"`
	Scene string  `json:"scene"` // that holds the code
	Pool  string  `json:"pool,omitempty"`
	// Draw asks for the code of what was drawn instead, by the draw's key.
	Draw string `json:"draw,omitempty"`
	// Language is what the piece is worded in.
	Language string `json:"language,omitempty"`
	// Unwatched is set where the browser asks not to be measured.
	Unwatched bool `json:"unwatched,omitempty"`
	// Automated says that a program drives the browser.
	Automated bool `json:"automated,omitempty"`
}

// CodeAnswer is the visitor's code: the same each time they ask.
type CodeAnswer struct {
	Code string `json:"code"`
}

// ViewRecord is a page view as its page recorded it, sent when the visitor
// leaves or looks away. Sent again, the longer stay holds.
type ViewRecord struct {
	ID string `json:"id"`
	// Age is how many milliseconds ago it began, by a clock that cannot be set.
	Age int `json:"age"`
	// View is what was asked when it began.
	View DecideRequest `json:"view"`
	// Seconds is how long the page was in view; all other seconds count likewise.
	Seconds int `json:"seconds"`
	// Marks[i] is when (i+1)·10 % of the page was first reached, null if never.
	Marks    []*int   `json:"marks" tstype:"(number | null)[]"`
	Exit     *int     `json:"exit" tstype:"number | null,required"` // the first exit intent
	Idles    [][2]int `json:"idles" tstype:"Pair[]"`                // start and length
	Happened [][3]any `json:"happened" tstype:"Happening[]"`
	// Interrupted is how often the visit was so far.
	Interrupted int `json:"interrupted,omitempty"`
	// Shown says that a piece was shown on the page view, and Cost what the script
	// cost it, where that was asked for.
	Shown     bool      `json:"shown,omitempty"`
	Cost      *CostSeen `json:"cost,omitempty"`
	Automated bool      `json:"automated,omitempty"`
}

// CostSeen is what the script cost a page view, as its browser tells.
type CostSeen struct {
	Bytes int     `json:"bytes"`
	Busy  float64 `json:"busy"`  // ms that it held the page for, in frames longer than 50 ms
	Shift float64 `json:"shift"` // of the layout, in all
	Paint float64 `json:"paint"` // ms until the largest paint; 0: not known
}

// InspectRequest asks how every piece stands with a page view.
type InspectRequest struct {
	Token string        `json:"token"` // of the signed link
	View  DecideRequest `json:"view"`
}

// Inspection is how every piece stands with a page view, those that win first.
type Inspection struct {
	Site   string      `json:"site"`
	Piece  string      `json:"piece"` // the one the link was made for
	Pieces []Inspected `json:"pieces"`
}

// Inspected is how one piece stands.
type Inspected struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Draft   bool          `json:"draft"` // what is worked on, rather than what is live
	Slot    string        `json:"slot"`
	Verdict reach.Verdict `json:"verdict" tstype:"Verdict"`
	Waiting reach.Rule    `json:"waiting" tstype:"Rule | null"`
	Lines   []reach.Line  `json:"lines" tstype:"Line[]"`
	// Held says in words what holds it back on arrival; empty where nothing does.
	Held string `json:"held"`
	// Interrupts says that the site's minimum time between pieces is for it.
	Interrupts bool `json:"interrupts"`
	// Design is the hash of its drawing, and Drawing what of it is sent ahead, to be shown anyway.
	Design  string        `json:"design"`
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
	Variant string        `json:"variant"`
}

// EventIn is one event as the page sends it.
type EventIn struct {
	ID      string `json:"id"` // a UUIDv7 (RFC 9562)
	Kind    string `json:"kind" tstype:"'eligible' | 'shown' | 'held' | 'closed' | 'converted' | 'left' | 'reached'"`
	At      int64  `json:"at"` // milliseconds since 1970, by the browser's clock
	Piece   string `json:"piece"`
	Variant string `json:"variant"` // empty: held back
	Page    string `json:"page"`
	// After is how many milliseconds after the showing a close or a leaving came.
	After *float64 `json:"after,omitempty" tstype:"number"`
	// Goal and Amount are of a goal that was reached, in the site's currency.
	Goal   string  `json:"goal,omitempty"`
	Amount float64 `json:"amount,omitempty"`
}

// EventsRequest is a batch of events of one visit.
type EventsRequest struct {
	Visitor string    `json:"visitor"`
	Visit   string    `json:"visit"`
	Events  []EventIn `json:"events"`
	// Landing and Referrer are of the visit's first page, Visits says which of the
	// visitor's it is, from 1, and Width how wide the window is.
	Landing  string `json:"landing,omitempty"`
	Referrer string `json:"referrer,omitempty"`
	Visits   int    `json:"visits,omitempty"`
	Width    int    `json:"width,omitempty"`
	// Automated says that a program drives the browser.
	Automated bool `json:"automated,omitempty"`
}

// EventsAnswer says that a batch is stored. Refused events are ones that can
// never be; the page forgets them too.
type EventsAnswer struct {
	Stored  int `json:"stored"`
	Refused int `json:"refused"`
}

// DrawingFault says that a piece could not be drawn, and what went wrong.
type DrawingFault struct {
	Piece string `json:"piece"`
	Says  string `json:"says"`
}

// AdvanceRequest goes on with a walk.
type AdvanceRequest struct {
	// Walk names a walk that begins, and Token one that has begun: it came with
	// the first answer.
	Walk  WalkRef `json:"walk,omitzero" tstype:"WalkRef,omitempty"`
	Token string  `json:"token,omitempty"`
	// Steps are what the visitor did, of which the first is step From of the
	// walk, from 0. What the server has already is passed over, so that the same
	// may be sent again. Without steps it is told where the walk is.
	From  int             `json:"from"`
	Steps []walk.SentStep `json:"steps" tstype:"SentStep[]"`
	// Pass is that of the inspector's link. With it nothing is stored, and Steps
	// are all from the beginning.
	Pass     string `json:"pass,omitempty"`
	Visit    string `json:"visit,omitempty"`
	Page     string `json:"page,omitempty"`
	Landing  string `json:"landing,omitempty"`
	Referrer string `json:"referrer,omitempty"`
	// Visits says which of the visitor's visits it is, from 1, and Width how wide the window is.
	Visits int `json:"visits,omitempty"`
	Width  int `json:"width,omitempty"`
	// Language is what the piece is worded in.
	Language string `json:"language,omitempty"`
	// Unwatched is set where the browser asks not to be measured.
	Unwatched bool `json:"unwatched,omitempty"`
	// Automated says that a program drives the browser.
	Automated bool `json:"automated,omitempty"`
}

// AdvanceAnswer is where a walk has come to.
type AdvanceAnswer struct {
	walk.View `tstype:",extends"`
	Token     string `json:"token,omitempty"`
	// Design is the hash of the drawing that is walked.
	Design string `json:"design,omitempty"`
	// Walk, its id, Path and Answers are told to who goes on with a walk.
	Walk    string            `json:"walk,omitempty"`
	Path    []string          `json:"path,omitempty"`
	Answers map[string]string `json:"answers,omitempty"`
	// Lead says that the visitor has left an address.
	Lead bool `json:"lead,omitempty"`
}
