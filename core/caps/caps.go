// Package caps decides how often one visitor may see a piece.
//
// A visitor's browser remembers when pieces were shown, closed and converted,
// and sends that memory along; nothing is looked up. A cap is a limit over a
// rolling window of that memory:
//
//	at most 3 showings in 30 days   Limit{Times: 3, Per: 30 * Day}
//	6 hours between showings        Caps{Gap: 6 * time.Hour}
package caps

// Caps is everything that limits one piece for one visitor. The zero Caps
// limits nothing.
type Caps struct {
	PerVisitor   []Limit `json:"per_visitor,omitempty"`
	Gap          Span    `json:"gap,omitempty"`
	AfterClose   Span    `json:"after_close,omitempty"`
	AfterConvert Span    `json:"after_convert,omitempty"`
	// Total is how many showings the piece has in all; 0 means no limit.
	Total int `json:"total,omitempty"`
	// NotLeads keeps the piece from those who are leads already, by whatever piece.
	NotLeads bool `json:"not_leads,omitempty"`
}

// Limit is at most Times showings in a window of length Per, or in one visit.
type Limit struct {
	Times int  `json:"times"`
	Per   Span `json:"per"`
}

// None reports whether the caps limit nothing at all.
func (c Caps) None() bool {
	return len(c.PerVisitor) == 0 && c.Gap == "" && c.AfterClose == "" && c.AfterConvert == "" && c.Total == 0 && !c.NotLeads
}
