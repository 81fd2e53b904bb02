package studio

import (
	"encoding/json"
	"time"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
	"gobbet/core/weigh"
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
}

// SiteChange is what may be changed of a site.
type SiteChange struct {
	Name    string   `json:"name"`
	Zone    string   `json:"zone"`
	Origins []string `json:"origins"`
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
	// Unreadable says what is wrong with a document that this program cannot read.
	Unreadable string `json:"unreadable,omitempty"`
}

// NewPiece asks for a piece: a new one, or a copy of another.
type NewPiece struct {
	Name   string       `json:"name"`
	Format piece.Format `json:"format" tstype:"Format"`
	CopyOf string       `json:"copy_of,omitempty"`
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
	RestedAt    *time.Time      `json:"rested_at" tstype:"string | null,required"`
	Notes       []settle.Note   `json:"notes" tstype:"Note[]"`
	Phrase      string          `json:"phrase"`
}

// SaveRequest is a draft with the version it was changed from.
type SaveRequest struct {
	Version int             `json:"version"`
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
	Version int `json:"version"`
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

// TryRequest is a rule and a made-up visitor.
type TryRequest struct {
	Rule  json.RawMessage `json:"rule" tstype:"Rule"`
	Facts map[string]any  `json:"facts"`
	Now   string          `json:"now"`
}

// TryAnswer is what the rule says of them.
type TryAnswer struct {
	Verdict reach.Verdict `json:"verdict" tstype:"Verdict"`
	Waiting reach.Rule    `json:"waiting" tstype:"Rule | null"`
	Phrase  string        `json:"phrase"`
	// Needs is what it waits for, in words.
	Needs string       `json:"needs"`
	Trace []reach.Step `json:"trace" tstype:"Step[]"`
}

// FactBook is every fact and the operators of each kind.
type FactBook struct {
	Facts []reach.Fact              `json:"facts" tstype:"Fact[]"`
	Ops   map[reach.Kind][]reach.Op `json:"ops" tstype:"OpsByKind"`
}

// PictureInfo is an uploaded picture.
type PictureInfo struct {
	Hash   string `json:"hash"`
	Name   string `json:"name"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Bytes  int    `json:"bytes"`
}

// LeadRow is a lead with the latest of what they sent.
type LeadRow struct {
	ID       int64             `json:"id"`
	Email    string            `json:"email"`
	Name     string            `json:"name"`
	FirstAt  time.Time         `json:"first_at" tstype:"string"`
	LastAt   time.Time         `json:"last_at" tstype:"string"`
	Times    int               `json:"times"`
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
