package split

// What addresses hold.

// CutsQuery is what visitors are told apart by.
type CutsQuery struct {
	By string `form:"by"`
}

// PlanQuery is the smallest lift that a test is to find, and its power: 0 to 1.
type PlanQuery struct {
	Lift  string `form:"lift"`
	Power string `form:"power"`
}
