package report

// What addresses hold.

// PlayedQuery is how many days are asked about; empty or 0: all.
type PlayedQuery struct {
	Days string `form:"days"`
}

// AnswersQuery is which answers are asked for, from where a page ended.
type AnswersQuery struct {
	Days    string `form:"days"`
	Variant string `form:"variant"`
	Q       string `form:"q"`
	From    string `form:"from"`
}
