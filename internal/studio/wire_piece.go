package studio

import (
	"encoding/json"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/core/walk"
)

// One piece: made, saved, launched, compared, played through.

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
	// Edited is as in PieceInfo.
	Edited bool `json:"edited"`
}

// LaunchRequest names the version that is meant.
type LaunchRequest struct {
	Version int32 `json:"version"`
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

// WalkRequest goes through a drawing that is worked on by what a visitor would do.
type WalkRequest struct {
	Drawing json.RawMessage `json:"drawing" tstype:"Drawing"`
	Steps   []walk.SentStep `json:"steps" tstype:"SentStep[]"` // all from the first on
	// Seed decides what is drawn: the same each time for the same seed.
	Seed string `json:"seed,omitempty"`
}

// WalkAnswer is the drawing as visitors get it, and where the steps lead.
type WalkAnswer struct {
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
	At      walk.View     `json:"at" tstype:"View"`
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

// QRQuery is the address of a piece's own page, and the form its code is asked for
// in: png, or svg where it is empty.
type QRQuery struct {
	Address string `form:"address"`
	Form    string `form:"form"`
}

// PageQuery is the path of a page of the site.
type PageQuery struct {
	Path string `form:"path"`
}
