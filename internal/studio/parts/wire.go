package parts

import (
	"encoding/json"
	"time"

	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/core/weigh"
)

// What several places answer with.

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
	// PausesAt is when a pause is planned to begin, and PausedUntil when it goes live
	// again by itself; nil: when it is resumed.
	PausesAt    *time.Time `json:"pauses_at" tstype:"string | null,required"`
	PausedUntil *time.Time `json:"paused_until" tstype:"string | null,required"`
	// Edited says that the draft says something else than what is live, or was live last.
	Edited bool          `json:"edited"`
	Notes  []settle.Note `json:"notes" tstype:"Note[]"`
	Phrase string        `json:"phrase"`
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

// GoalGain is what the piece brought of a goal, over those held back.
type GoalGain struct {
	Goal string     `json:"goal"`
	Gain weigh.Gain `json:"gain" tstype:"Gain"`
}

// UsedIn is a piece that stands on a saved reach.
type UsedIn struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	Live bool   `json:"live"` // what visitors get stands on it
}
