package results

// What addresses hold.

// ResultsQuery is what Results is asked about: days as YYYY-MM-DD, both included,
// a piece, and what visitors are told apart by.
type ResultsQuery struct {
	From  string `form:"from"`
	To    string `form:"to"`
	Piece string `form:"piece"`
	By    string `form:"by"`
}

// BehindQuery is which events are asked for, before the one that a page ended with.
type BehindQuery struct {
	ResultsQuery
	Variant string `form:"variant"`
	Value   string `form:"value"`
	Kind    string `form:"kind"`
	Before  string `form:"before"`
}
