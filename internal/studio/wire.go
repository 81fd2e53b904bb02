package studio

import (
	"encoding/json"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/core/style"
	"gobbet/core/weigh"
	"gobbet/internal/store"
	"gobbet/internal/visitor"
)

// SignInRequest is who wants to come in.
type SignInRequest struct {
	Email    string `json:"email"`
	Password string `json:"password"`
}

// Me is who is signed in.
type Me struct {
	Name  string     `json:"name"`
	Email string     `json:"email"`
	Sites []SiteInfo `json:"sites"`
}

// SiteInfo is a site as the studio shows it.
type SiteInfo struct {
	ID      int64    `json:"id"`
	Key     string   `json:"key"`
	Name    string   `json:"name"`
	Zone    string   `json:"zone"`
	Origins []string `json:"origins"`
	// Pages is where the addresses of its pieces' own pages begin; empty: they can
	// have none.
	Pages string `json:"pages"`
	// Settings are the site's own limits and how it records visits.
	Settings store.Settings `json:"settings" tstype:"Settings"`
	Kit      style.Kit      `json:"kit" tstype:"Kit"`
	// Versions of what is saved as a whole, to be sent along with a change.
	Version         int `json:"version"`
	SettingsVersion int `json:"settings_version"`
	KitVersion      int `json:"kit_version"`
}

// SiteChange is what may be changed of a site.
type SiteChange struct {
	Version int32    `json:"version"` // that the change was made on
	Name    string   `json:"name"`
	Zone    string   `json:"zone"`
	Origins []string `json:"origins"`
}

// SettingsChange is a site's settings, changed.
type SettingsChange struct {
	Version  int32          `json:"version"` // that the change was made on
	Settings store.Settings `json:"settings" tstype:"Settings"`
}

// KitChange is a site's style kit, changed.
type KitChange struct {
	Version int32           `json:"version"` // that the change was made on
	Kit     json.RawMessage `json:"kit" tstype:"Kit"`
}

// Health is what a marketer should know of how the site is wired up.
type Health struct {
	// Proxy is the address of a proxy that is in use and was not named to
	// Gobbet, so that all visitors count as one address; empty: none.
	Proxy string `json:"proxy"`
	// DataNames are the names of the site's own data that the visit log keeps,
	// of at most MostDataNames.
	DataNames     []string `json:"data_names"`
	MostDataNames int      `json:"most_data_names"`
	// Refused is what was sent and not kept in the last RefusedDays days.
	Refused     []RefusedKind `json:"refused"`
	RefusedDays int           `json:"refused_days"`
}

// RefusedKind is how often something of one kind was refused.
type RefusedKind struct {
	Kind    string    `json:"kind" tstype:"'data_name'"`
	Times   int64     `json:"times"`
	Example string    `json:"example"` // the latest
	LastAt  time.Time `json:"last_at" tstype:"string"`
}

// DeletedPiece is a piece that can still be restored.
type DeletedPiece struct {
	ID        string    `json:"id"`
	Name      string    `json:"name"`
	DeletedAt time.Time `json:"deleted_at" tstype:"string"`
	// Until is when it can no longer be restored.
	Until time.Time `json:"until" tstype:"string"`
}

// Measure is a rate with its counts and Wilson bounds. The rate of nobody is null.
type Measure struct {
	Visitors    int          `json:"visitors"` // each once, from their first showing
	Showings    int          `json:"showings"`
	Conversions int          `json:"conversions"`
	Rate        *float64     `json:"rate" tstype:"number | null,required"`
	Interval    weigh.Bounds `json:"interval" tstype:"Bounds"`
}

// DayCount is one day of a Measure.
type DayCount struct {
	Day         string `json:"day"` // YYYY-MM-DD in the site's zone
	Visitors    int    `json:"visitors"`
	Conversions int    `json:"conversions"`
}

// Board is a site's pieces at a glance.
type Board struct {
	Days    int     `json:"days"` // how many the measures look back
	Cards   []Card  `json:"cards"`
	Overall Measure `json:"overall"` // over all pieces, a visitor counted once for each
}

// Card is one piece on the board.
type Card struct {
	ID       string        `json:"id"`
	Name     string        `json:"name"`
	State    string        `json:"state" tstype:"State"`
	Since    time.Time     `json:"since" tstype:"string"` // of the state
	Edited   bool          `json:"edited"`                // the draft differs from what is live
	Phrase   string        `json:"phrase"`                // when it shows
	Variants int           `json:"variants"`
	Stops    int           `json:"stops"` // notes that forbid launch
	Warns    int           `json:"warns"`
	Drawing  piece.Drawing `json:"drawing" tstype:"Drawing"`
	Measure  Measure       `json:"measure"`
	Line     []DayCount    `json:"line"`
	// Ended says that the last day of its schedule has passed.
	Ended bool `json:"ended,omitempty"`
	// PausedUntil is when it goes live again by itself; nil: when it is resumed.
	PausedUntil *time.Time `json:"paused_until" tstype:"string | null,required"`
	// Unreadable says what is wrong with a document that this program cannot read.
	Unreadable string `json:"unreadable,omitempty"`
}

// PieceName is a piece in a list of names.
type PieceName struct {
	ID     string       `json:"id"`
	Name   string       `json:"name"`
	Format piece.Format `json:"format" tstype:"Format"`
	State  string       `json:"state" tstype:"State"`
}

// PauseRequest names the live pieces to pause; none named are all of them.
type PauseRequest struct {
	Pieces []string `json:"pieces"`
	// Until is when they go live again by themselves, on the site's wall clock
	// (2026-12-24T18:00); empty: when they are resumed.
	Until string `json:"until"`
}

// ResumeRequest names the pieces to put live again as they were; none named are
// all that are paused until a time.
type ResumeRequest struct {
	Pieces []string `json:"pieces"`
}

// StateChange tells which pieces changed their state.
type StateChange struct {
	Pieces []string   `json:"pieces"`
	Until  *time.Time `json:"until" tstype:"string | null,required"`
}

// Renamed is another name for something.
type Renamed struct {
	Name string `json:"name"`
}

// ReplaceRequest puts another picture in place of one, in drafts and, with Live,
// in what is live.
type ReplaceRequest struct {
	With string `json:"with"`
	Live bool   `json:"live"`
}

// CodeRow is a code of a pool, with who has it.
type CodeRow struct {
	Code    string     `json:"code"`
	GivenAt *time.Time `json:"given_at" tstype:"string | null,required"`
	Piece   string     `json:"piece"` // its name; empty: nobody has the code
	Email   string     `json:"email"` // empty where they left none
}

// CodePage is some of the codes of a pool, in their order.
type CodePage struct {
	Codes []CodeRow `json:"codes"`
	Next  string    `json:"next"` // the last of them, where there are more
}

// NewPiece asks for a piece: a new one, or a copy of another.
type NewPiece struct {
	Name   string       `json:"name"`
	Format piece.Format `json:"format" tstype:"Format"`
	CopyOf string       `json:"copy_of,omitempty"`
	// Template is the id of a template.
	Template string `json:"template,omitempty"`
}

// Template is a designed piece to begin with.
type Template struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	Goal    string        `json:"goal" tstype:"Goal"`
	Season  string        `json:"season,omitempty"`
	Tags    string        `json:"tags"`
	Format  piece.Format  `json:"format" tstype:"Format"`
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
	// Promises says that its thank-you speaks of a message, which Gobbet does not send.
	Promises bool `json:"promises"`
}

// TemplateList is the templates, and the frame each format usually has.
type TemplateList struct {
	Templates []Template                   `json:"templates"`
	Frames    map[piece.Format]piece.Frame `json:"frames" tstype:"Frames"`
}

// VersionInfo is a draft as it was.
type VersionInfo struct {
	Version  int          `json:"version"`
	SavedAt  time.Time    `json:"saved_at" tstype:"string"`
	Launched bool         `json:"launched"`
	Draft    *piece.Piece `json:"draft" tstype:"Piece,required"`
}

// KitUse is a piece that follows the site's style kit.
type KitUse struct {
	ID      string        `json:"id"`
	Name    string        `json:"name"`
	State   string        `json:"state" tstype:"State"`
	Colors  []string      `json:"colors"` // ids of the kit's colours that it uses
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
}

// FileInfo is a file of the library.
type FileInfo struct {
	Hash  string   `json:"hash"`
	Name  string   `json:"name"`
	Mime  string   `json:"mime"`
	Bytes int      `json:"bytes"`
	Used  []UsedIn `json:"used"`
}

// SnippetInfo is a block or a scene kept to be used again.
type SnippetInfo struct {
	ID   string          `json:"id"`
	Kind string          `json:"kind" tstype:"'block' | 'scene'"`
	Name string          `json:"name"`
	Body json.RawMessage `json:"body" tstype:"Block | Scene"`
}

// PoolInfo is codes to be given out, one a visitor.
type PoolInfo struct {
	ID    string   `json:"id"`
	Name  string   `json:"name"`
	Left  int      `json:"left"`
	Given int      `json:"given"`
	Used  []UsedIn `json:"used"`
}

// CodesRequest adds codes to a pool: those that are given, and so many of a
// pattern (see package draw).
type CodesRequest struct {
	Name    string   `json:"name"`
	Codes   []string `json:"codes,omitempty"`
	Pattern string   `json:"pattern,omitempty"`
	Count   int      `json:"count,omitempty"`
}

// CodesAnswer tells how many codes came, and how many were new to the pool.
type CodesAnswer struct {
	Came  int   `json:"came"`
	Added int64 `json:"added"`
}

// Replaced tells where something was replaced; Live in a piece says that it was
// in what is live, too.
type Replaced struct {
	Pieces []UsedIn `json:"pieces"`
}

// PieceInfo is a piece as it is worked on.
type PieceInfo struct {
	ID          string          `json:"id"`
	State       string          `json:"state" tstype:"State"`
	Draft       *piece.Piece    `json:"draft" tstype:"Piece,required"`
	Version     int             `json:"version"`
	Live        json.RawMessage `json:"live" tstype:"Piece | null"`
	LiveVersion *int            `json:"live_version" tstype:"number | null,required"`
	LiveSince   *time.Time      `json:"live_since" tstype:"string | null,required"`
	PausedAt    *time.Time      `json:"paused_at" tstype:"string | null,required"`
	// PausedUntil is when it goes live again by itself; nil: when it is resumed.
	PausedUntil *time.Time    `json:"paused_until" tstype:"string | null,required"`
	Notes       []settle.Note `json:"notes" tstype:"Note[]"`
	Phrase      string        `json:"phrase"`
}

// SaveRequest is a draft with the version it was changed from.
type SaveRequest struct {
	Version int32           `json:"version"`
	Draft   json.RawMessage `json:"draft" tstype:"Piece"`
}

// Saved is a draft's new version and what there is to settle in it.
type Saved struct {
	Version int           `json:"version"`
	Notes   []settle.Note `json:"notes" tstype:"Note[]"`
	Phrase  string        `json:"phrase"`
}

// LaunchRequest names the version that is meant.
type LaunchRequest struct {
	Version int32 `json:"version"`
}

// SplitResult is the variants of a piece against its first.
type SplitResult struct {
	Confidence float64         `json:"confidence"`
	Variants   []VariantResult `json:"variants"`
	SawSeveral int             `json:"saw_several"` // visitors who saw more than one variant
	Days       int             `json:"days"`        // from the first visitor to today
}

// VariantResult is one variant and its difference to the first, in rate.
type VariantResult struct {
	ID                 string       `json:"id"`
	Name               string       `json:"name"`
	Share              int          `json:"share"`
	Gone               bool         `json:"gone"` // was taken out of the split
	Measure            Measure      `json:"measure"`
	Difference         *float64     `json:"difference" tstype:"number | null,required"`
	DifferenceInterval weigh.Bounds `json:"difference_interval" tstype:"Bounds"`
	// Built is how the measure built up, a day at a time.
	Built []BuiltDay `json:"built"`
}

// BuiltDay is a measure from the first day up to one day.
type BuiltDay struct {
	Day     string  `json:"day"`
	Measure Measure `json:"measure"`
}

// ReachDraft is a reach as it is worked on, whether it is saved yet or not.
type ReachDraft struct {
	Piece    string          `json:"piece"`
	Format   piece.Format    `json:"format" tstype:"Format"`
	Place    piece.Place     `json:"place,omitempty" tstype:"Place"`
	Rule     json.RawMessage `json:"rule" tstype:"Rule"`
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
}

// RehearsedLine counts page views for one node of a rule.
type RehearsedLine struct {
	At    string `json:"at"`
	Alone int    `json:"alone"`
	Left  int    `json:"left"`
}

// Contest is how often another piece was in the way, or gave way.
type Contest struct {
	Piece string `json:"piece"`
	Name  string `json:"name"`
	Views int    `json:"views"`
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
	Used   []UsedIn        `json:"used"`
}

// UsedIn is a piece that stands on a saved reach.
type UsedIn struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Live bool   `json:"live"` // what visitors get stands on it
}

// ReachChange sets a saved reach.
type ReachChange struct {
	Name string          `json:"name"`
	Rule json.RawMessage `json:"rule" tstype:"Rule"`
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

// FactBook is every fact and the operators of each kind.
type FactBook struct {
	Facts []reach.Fact              `json:"facts" tstype:"Fact[]"`
	Ops   map[reach.Kind][]reach.Op `json:"ops" tstype:"OpsByKind"`
}

// PictureInfo is an uploaded picture.
type PictureInfo struct {
	Hash   string   `json:"hash"`
	Name   string   `json:"name"`
	Width  int      `json:"width"`
	Height int      `json:"height"`
	Bytes  int      `json:"bytes"`
	Used   []UsedIn `json:"used"`
}

// LeadRow is a person who left an address, and what they told each piece.
type LeadRow struct {
	ID      int64     `json:"id"`
	Email   string    `json:"email"`
	Name    string    `json:"name"`
	FirstAt time.Time `json:"first_at" tstype:"string"`
	LastAt  time.Time `json:"last_at" tstype:"string"`
	// Times is how often they answered; Walks are the latest of these, the last first.
	Times int       `json:"times"`
	Walks []WalkRow `json:"walks"`
}

// WalkRow is what a person told one piece at one time.
type WalkRow struct {
	ID       string            `json:"id"`
	At       time.Time         `json:"at" tstype:"string"` // of the first answer
	Name     string            `json:"name"`               // as given then
	Piece    string            `json:"piece"`
	PieceID  string            `json:"piece_id"`
	Variant  string            `json:"variant"`
	Page     string            `json:"page"`
	Channel  string            `json:"channel"`
	Campaign string            `json:"campaign"`
	Referrer string            `json:"referrer"`
	Answers  map[string]string `json:"answers"`
}

// LeadPage is some of the leads, the latest first.
type LeadPage struct {
	Leads []LeadRow `json:"leads"`
	Total int       `json:"total"` // that the search picks
	Next  string    `json:"next"`  // where to go on; empty at the end
}

// WalkRequest goes through a drawing that is worked on by what a visitor would do.
type WalkRequest struct {
	Drawing json.RawMessage  `json:"drawing" tstype:"Drawing"`
	Steps   []visitor.StepIn `json:"steps" tstype:"StepIn[]"` // all from the first on
	// Seed decides what is drawn: the same each time for the same seed.
	Seed string `json:"seed,omitempty"`
}

// WalkAnswer is the drawing as visitors get it, and where the steps lead.
type WalkAnswer struct {
	Drawing piece.Drawing          `json:"drawing" tstype:"Drawing"`
	At      *visitor.AdvanceAnswer `json:"at" tstype:"AdvanceAnswer"`
}

// PlayThroughRequest has made-up visitors go through a drawing that is worked on.
type PlayThroughRequest struct {
	Drawing json.RawMessage `json:"drawing" tstype:"Drawing"`
	Seed    uint64          `json:"seed"` // the same gives the same
}

// ReckonRequest computes formulas over each other and these inputs.
type ReckonRequest struct {
	Formulas []piece.Formula      `json:"formulas" tstype:"Formula[]"`
	Inputs   []string             `json:"inputs"`
	Samples  []map[string]float64 `json:"samples"` // values of inputs, by name
}

// ReckonAnswer gives, for each sample, the value of each formula; null where it
// has none. Faults are at formulas[i].
type ReckonAnswer struct {
	Values [][]*float64 `json:"values" tstype:"(number | null)[][]"`
	Faults fault.Faults `json:"faults" tstype:"Fault[]"`
	// Live are the formulas as a drawing computes them.
	Live []piece.LiveFormula `json:"live" tstype:"LiveFormula[]"`
}
