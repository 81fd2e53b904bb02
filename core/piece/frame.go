package piece

import "gobbet/core/style"

// Place is where in the window a piece stands. Start is where lines begin:
// the left, but in right-to-left writing.
type Place string

const (
	Center      Place = "center"
	Top         Place = "top"
	Bottom      Place = "bottom"
	Start       Place = "start"
	End         Place = "end"
	TopStart    Place = "top_start"
	TopEnd      Place = "top_end"
	BottomStart Place = "bottom_start"
	BottomEnd   Place = "bottom_end"
)

// ByKit stands for a size that the style kit gives.
const ByKit = -1

// Frame is what holds the scenes. Lengths are in CSS pixels.
type Frame struct {
	Width      int         `json:"width"`   // 200 to 1200
	Padding    int         `json:"padding"` // 0 to 96
	Corners    int         `json:"corners"` // 0 to 64; -1: the kit's
	Background style.Color `json:"background"`
	Ink        style.Color `json:"ink"`        // words
	Accent     style.Color `json:"accent"`     // buttons
	AccentInk  style.Color `json:"accent_ink"` // words on buttons
	Font       style.Font  `json:"font"`
	// HeadingFont is that of headings; empty: the kit's with the kit's font, else Font.
	HeadingFont style.Font `json:"heading_font,omitempty"`
	Place       Place      `json:"place,omitempty"` // empty: the format's usual one
	// Gap is the space between blocks, 1 to 48; 0: 16.
	Gap      int      `json:"gap,omitempty"`
	Behind   Behind   `json:"behind,omitzero" tstype:"Behind,omitempty"`
	Border   Border   `json:"border,omitzero" tstype:"Border,omitempty"`
	Shadow   Shadow   `json:"shadow,omitempty"` // empty: deep over the page, none in its flow
	Backdrop Backdrop `json:"backdrop"`
	Close    Close    `json:"close"`
	Enter    Motion   `json:"enter,omitempty"` // empty: rise
	Leave    Motion   `json:"leave,omitempty"` // empty: fade
	// Sound is heard as it opens, by those who have pressed something on the
	// page before: browsers play none to others. Empty: none.
	Sound string `json:"sound,omitempty" tstype:"'chime' | 'knock'"`
	// Bar is how a floating bar behaves, Anchor where an inline piece stands,
	// and Tab the small tab that opens the piece.
	Bar    BarBehaviour `json:"bar,omitzero" tstype:"BarBehaviour,omitempty"`
	Anchor Anchor       `json:"anchor,omitzero" tstype:"Anchor,omitempty"`
	Tab    Tab          `json:"tab,omitzero" tstype:"Tab,omitempty"`
	// Talk draws the scenes as a conversation, in the format chat or inline; nil:
	// as scenes.
	Talk *Talk `json:"talk,omitempty"`
	// Credit shows a line that says what it was made with.
	Credit bool `json:"credit,omitempty"`
	// Phone holds what differs on phones.
	Phone Patch `json:"phone,omitempty" tstype:"{ [key: string]: unknown }"`
}

// Backdrop darkens the page behind a popup.
type Backdrop struct {
	Color   style.Color `json:"color"`
	Opacity int         `json:"opacity"` // percent; 0: no backdrop
	// Closes says that a press on the backdrop closes the piece.
	Closes bool `json:"closes"`
}

// Close is the mark in the corner that closes the piece.
type Close struct {
	Shown bool   `json:"shown"`
	Label string `json:"label"` // what a screen reader says
	// Look is round on a wash of the background, plain lines, or words; empty: round.
	Look string `json:"look,omitempty" tstype:"'plain' | 'words'"`
	// Place is the corner it stands in; empty: where lines end.
	Place string      `json:"place,omitempty" tstype:"'start' | 'outside'"`
	Color style.Color `json:"color,omitempty"` // empty: the frame's ink
	// After is how many seconds pass before it shows, 0 to 10.
	After int `json:"after,omitempty"`
}

// Behind is what lies behind the blocks instead of a plain colour: a gradient,
// a picture or a video; all over, or beside the blocks.
type Behind struct {
	Gradient []style.Color `json:"gradient,omitempty"` // two or three colours
	Angle    int           `json:"angle,omitempty"`    // degrees, 0 to 360
	Picture  string        `json:"picture,omitempty"`  // its hash
	Alt      string        `json:"alt,omitempty"`      // empty: mere decoration
	Video    string        `json:"video,omitempty"`    // a file's hash; plays without sound
	Fit      Fit           `json:"fit,omitempty"`
	Focus    Focus         `json:"focus,omitzero" tstype:"Focus,omitempty"`
	// Shade lays the background colour over the picture, 0 to 95 percent.
	Shade int `json:"shade,omitempty"`
	// Side puts it beside the blocks rather than behind them.
	Side string `json:"side,omitempty" tstype:"'start' | 'end' | 'top'"`
	// Share is how much of the width (or at the top, of the height) it takes, 15 to 70 percent; 0: 42.
	Share int `json:"share,omitempty"`
}

// Fit is how a picture fills its place.
type Fit string

const (
	Cover   Fit = "cover"
	Contain Fit = "contain"
)

// Focus is the point of a picture that stays in view, in percent from its
// start and top. The zero focus is its middle.
type Focus struct {
	X int `json:"x"`
	Y int `json:"y"`
}

// Border is a line around something.
type Border struct {
	Width int         `json:"width"` // 0 to 12
	Color style.Color `json:"color,omitempty"`
}

// Shadow is how much something stands off what is behind it.
type Shadow string

const (
	NoShadow   Shadow = "none"
	SoftShadow Shadow = "soft"
	DeepShadow Shadow = "deep"
)

// Motion is how a piece comes or goes. Who asks for less motion gets none.
type Motion string

const (
	Still Motion = "none"
	Fade  Motion = "fade"
	Rise  Motion = "rise"
	Drop  Motion = "drop"
	Slide Motion = "slide"
	Grow  Motion = "grow"
)

// BarBehaviour is how a floating bar behaves.
type BarBehaviour struct {
	// Scrolls says that it goes away with the page rather than staying.
	Scrolls bool `json:"scrolls,omitempty"`
	// Pushes says that it makes room for itself rather than covering the page.
	Pushes bool `json:"pushes,omitempty"`
}

// Anchor is where in the page an inline piece stands: in the placeholder that
// carries its id, or beside an element.
type Anchor struct {
	// Selector is a CSS selector; empty: the placeholder.
	Selector string `json:"selector,omitempty"`
	// Where is before, after, or inside the element at its start or end; empty: after.
	Where string `json:"where,omitempty" tstype:"'before' | 'after' | 'first' | 'last'"`
	// Pushes says that it comes at once, even where that moves what the visitor
	// reads, rather than where nobody looks or the page keeps room for it.
	Pushes bool `json:"pushes,omitempty"`
}

// Tab is a small tab at the edge of the window that opens the piece.
type Tab struct {
	Words string `json:"words,omitempty"` // empty: no tab
	// After shows the tab once the piece was closed, rather than before it opens.
	After bool        `json:"after,omitempty"`
	Place string      `json:"place,omitempty" tstype:"'bottom_start' | 'bottom_end' | 'middle_start' | 'middle_end'"`
	Fill  style.Color `json:"fill,omitempty"` // empty: the accent
	Ink   style.Color `json:"ink,omitempty"`
}

// Begins reports whether the piece begins as the tab, which opens it.
func (t Tab) Begins() bool { return t.Words != "" && !t.After }

// Talk is how a conversation is drawn.
type Talk struct {
	Name    string `json:"name,omitempty"`    // who speaks; empty: the piece's first heading
	Picture string `json:"picture,omitempty"` // of who speaks, its hash; empty: Face
	Face    string `json:"face,omitempty" tstype:"'cup' | 'leaf' | 'wave' | 'sun' | 'star'"`
	// Pace is how long lines take to be typed; none under reduced motion. Empty: none.
	Pace string `json:"pace,omitempty" tstype:"'calm' | 'brisk'"`
	// Hint is in the line where answers are typed; empty: Gobbet's own.
	Hint string `json:"hint,omitempty"`
}

// Patch is what differs on phones: properties of the thing it stands in, by
// their keys.
type Patch map[string]any
