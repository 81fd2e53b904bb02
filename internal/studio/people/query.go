package people

// What addresses hold.

// PeopleQuery is which people are asked for: from and to are days of the site's
// calendar, both included, and after is where a page ended.
type PeopleQuery struct {
	Q      string `form:"q"`
	Piece  string `form:"piece"`
	Source string `form:"source"`
	From   string `form:"from"`
	To     string `form:"to"`
	After  string `form:"after"`
}
