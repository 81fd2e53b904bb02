package launch

import "time"

// Run is a run of a piece's split: the time from one change of its variants,
// their shares, or the share held back to the next. Visitors belong to the run
// in which they first saw the piece, so that a run's variants are compared over
// the time that all of them ran.
type Run struct {
	Piece string
	Run   int // from 1
	Began time.Time
	Split Split
}

// Made is a move that was made with a piece.
type Made struct {
	Piece string
	At    time.Time
	Did   Did
	From  *time.Time // of a pause that is planned
	Until *time.Time // of a pause that ends by itself
	// Designs are the ids of variants whose design changed, and Reach says that who
	// sees the piece or when did, where it was live before.
	Designs []string
	Reach   bool
	By      string // the name of who made it; empty: it came about by itself
}
