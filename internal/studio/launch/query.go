package launch

// What addresses hold.

// QRQuery is the address of a piece's own page, and the form its code is asked for
// in: png, or svg where it is empty.
type QRQuery struct {
	Address string `form:"address"`
	Form    string `form:"form"`
}
