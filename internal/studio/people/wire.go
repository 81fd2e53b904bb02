package people

import (
	"time"
)

// People and what they answered.

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
