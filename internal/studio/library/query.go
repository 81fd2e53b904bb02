package library

// What addresses hold.

// CodesQuery is which codes are asked for, after the one that a page ended with.
type CodesQuery struct {
	Q     string `form:"q"`
	After string `form:"after"`
}

// NameQuery is what an uploaded file is called.
type NameQuery struct {
	Name string `form:"name"`
}
