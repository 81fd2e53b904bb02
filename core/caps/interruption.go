package caps

// Interruption is how a piece comes between a visitor and the page, from the least.
type Interruption uint8

const (
	// Invited stands in the flow of the page or at its edge, is a folded tab, or was
	// asked for by a click. The site's limits are not for it.
	Invited Interruption = iota
	// Interrupts lies over a part of the page.
	Interrupts
	// Covers lies over the page, which waits.
	Covers
)
