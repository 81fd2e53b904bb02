package caps

// Manner is how a piece comes between a visitor and the page, from the least.
type Manner uint8

const (
	// Invited stands in the flow of the page, or was asked for by a click. The
	// site's limits are not for it.
	Invited Manner = iota
	// Interrupts lies over a part of the page.
	Interrupts
	// Covers lies over the page, which waits.
	Covers
)
