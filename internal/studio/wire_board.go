package studio

import (
	"time"

	"gobbet/core/piece"
	"gobbet/core/weigh"
)

// The board, and what is done to pieces from it.

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
	// PausesAt is when a pause is planned to begin, and PausedUntil when it goes live again by itself; nil: when it is resumed.
	PausesAt    *time.Time `json:"pauses_at" tstype:"string | null,required"`
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
	// From is when the pause begins, on the site's wall clock; empty: at once.
	From string `json:"from"`
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
	From   *time.Time `json:"from" tstype:"string | null,required"`
	Until  *time.Time `json:"until" tstype:"string | null,required"`
}

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
