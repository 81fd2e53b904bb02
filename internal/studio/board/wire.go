package board

import (
	"time"

	"gobbet/core/piece"
	"gobbet/internal/studio/parts"
)

// What the board is asked and answers.

// DeletedPiece is a piece that can still be restored.
type DeletedPiece struct {
	ID        string    `json:"id"`
	Name      string    `json:"name"`
	DeletedAt time.Time `json:"deleted_at" tstype:"string"`
	// Until is when it can no longer be restored.
	Until time.Time `json:"until" tstype:"string"`
}

// Board is a site's pieces at a glance.
type Board struct {
	Days    int           `json:"days"` // how many the measures look back
	Cards   []Card        `json:"cards"`
	Overall parts.Measure `json:"overall"` // over all pieces, a visitor counted once for each
}

// Card is one piece on the board.
type Card struct {
	ID       string           `json:"id"`
	Name     string           `json:"name"`
	State    string           `json:"state" tstype:"State"`
	Since    time.Time        `json:"since" tstype:"string"` // of the state
	Edited   bool             `json:"edited"`                // the draft differs from what is live
	Phrase   string           `json:"phrase"`                // when it shows
	Variants int              `json:"variants"`
	Stops    int              `json:"stops"` // notes that forbid launch
	Warns    int              `json:"warns"`
	Format   piece.Format     `json:"format" tstype:"Format"`
	Drawn    string           `json:"drawn"` // the hash of its drawing, which is asked for by itself
	Measure  parts.Measure    `json:"measure"`
	Line     []parts.DayCount `json:"line"`
	// PausesAt is when a pause is planned to begin, and PausedUntil when it goes live again by itself; nil: when it is resumed.
	PausesAt    *time.Time `json:"pauses_at" tstype:"string | null,required"`
	PausedUntil *time.Time `json:"paused_until" tstype:"string | null,required"`
	// Unreadable says what is wrong with a document that this program cannot read.
	Unreadable string `json:"unreadable,omitempty"`
}

// PieceDrawing is a piece as its card on the board shows it.
type PieceDrawing struct {
	Drawn   string        `json:"drawn"`
	Drawing piece.Drawing `json:"drawing" tstype:"Drawing"`
}

// PieceName is a piece in a list of names.
type PieceName struct {
	ID     string       `json:"id"`
	Name   string       `json:"name"`
	Format piece.Format `json:"format" tstype:"Format"`
	State  string       `json:"state" tstype:"State"`
}

// PauseRequest names the live pieces to pause, or says that it is all of them.
type PauseRequest struct {
	Pieces []string `json:"pieces"`
	All    bool     `json:"all,omitempty"`
	// From is when the pause begins, on the site's wall clock; empty: at once.
	From string `json:"from"`
	// Until is when they go live again by themselves, on the site's wall clock
	// (2026-12-24T18:00); empty: when they are resumed.
	Until string `json:"until"`
}

// ResumeRequest names the pieces to put live again as they were, or says that it is
// all that are paused until a time.
type ResumeRequest struct {
	Pieces []string `json:"pieces"`
	All    bool     `json:"all,omitempty"`
}

// StateChange tells which pieces changed their state.
type StateChange struct {
	Pieces []string   `json:"pieces"`
	From   *time.Time `json:"from" tstype:"string | null,required"`
	Until  *time.Time `json:"until" tstype:"string | null,required"`
}

// NewPiece asks for a piece: a new one, or a copy of another.
type NewPiece struct {
	Name string `json:"name"`
	// Format is of a piece that is no copy.
	Format piece.Format `json:"format,omitempty" tstype:"Format"`
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
