// Package piece is the document of a piece: what it looks like, when it may
// show, and its variants.
//
//	piece ─┬─ rule, caps
//	       └─ split ── variants ── design ─┬─ frame
//	                                       └─ scenes ── blocks ── blocks
//
// Parse makes a Piece from JSON once, at the edge; what it returns needs no
// further checking. Every fault it finds carries its place in the document.
package piece

import (
	"gobbet/core/caps"
	"gobbet/core/reach"
	"gobbet/core/schedule"
)

// Version is the version of the document this program writes. It reads every
// earlier one too: whatever came later may be left out.
const Version = 2

// Piece is one thing shown on a site.
type Piece struct {
	Version int    `json:"version"`
	Name    string `json:"name"`
	Format  Format `json:"format"`
	// PhoneFormat is how it sits on phones, if differently.
	PhoneFormat Format     `json:"phone_format,omitempty"`
	Rule        reach.Rule `json:"rule" tstype:"Rule"`
	Caps        caps.Caps  `json:"caps" tstype:"Caps"`
	// Schedule may be left out of a document.
	Schedule schedule.Schedule `json:"schedule,omitzero" tstype:"Schedule,omitempty"`
	Split    Split             `json:"split"`
	// Kit is the style kit it was written with, in a document that stands alone.
	// On a site, the site's own counts.
	Kit *Kit `json:"kit,omitempty"`

	// Program is the rule compiled, and Limits the caps read.
	Program *reach.Program `json:"-"`
	Limits  caps.Ready     `json:"-"`
}

// Format is how a piece sits on the page.
type Format string

const (
	Popup  Format = "popup"  // over the page, which waits
	FlyIn  Format = "fly_in" // in a corner
	Bar    Format = "bar"    // along the top or the bottom
	Full   Format = "full"   // all over the window
	Sheet  Format = "sheet"  // along a side
	Inline Format = "inline" // in the flow of the page
)

// Formats are all of them, as a picker lists them.
var Formats = []Format{Popup, FlyIn, Bar, Full, Sheet, Inline}

// Overlay reports whether the format lies over the page and makes it wait.
func (f Format) Overlay() bool { return f == Popup || f == Full || f == Sheet }

// Manner is how the format comes between a visitor and the page.
func (f Format) Manner() caps.Manner {
	switch {
	case f.Overlay():
		return caps.Covers
	case f == Inline:
		return caps.Invited
	}
	return caps.Interrupts
}

// Places are where a format may stand, the usual one first.
func (f Format) Places() []Place {
	switch f {
	case FlyIn:
		return []Place{BottomEnd, BottomStart, TopEnd, TopStart}
	case Bar:
		return []Place{Top, Bottom}
	case Sheet:
		return []Place{End, Start}
	case Popup:
		return []Place{Center, Top, Bottom}
	}
	return []Place{Center}
}

// Or gives the place if the format may stand there, and its usual one otherwise.
func (p Place) Or(f Format) Place {
	places := f.Places()
	for _, one := range places {
		if one == p {
			return p
		}
	}
	return places[0]
}

// Slot is the place on the page that a piece claims: one piece at a time may
// stand in it. The empty slot is no one's: any number may stand inline.
func Slot(f Format, p Place) string {
	switch f {
	case FlyIn:
		return "corner." + string(p.Or(f))
	case Bar:
		return "edge." + string(p.Or(f))
	case Inline:
		return ""
	}
	return "overlay"
}

// On gives the format on a kind of device.
func (p *Piece) On(phone bool) Format {
	if phone && p.PhoneFormat != "" {
		return p.PhoneFormat
	}
	return p.Format
}

// Slot is the slot of the piece on a kind of device, by its first variant.
func (p *Piece) Slot(phone bool) string {
	return Slot(p.On(phone), p.Split.Variants[0].Design.Frame.Place)
}

// Split is the variants of a piece.
type Split struct {
	// Salt keeps this split's allotment independent of every other's.
	Salt     string    `json:"salt"`
	Variants []Variant `json:"variants"`
}

// Variant is one version of the design. The first is what others are held against.
type Variant struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Share is the variant's part of the visitors, relative to the sum of shares.
	Share  int    `json:"share"`
	Design Design `json:"design"`
}

// Design is what a visitor sees. It starts with the first scene.
type Design struct {
	Frame  Frame   `json:"frame"`
	Scenes []Scene `json:"scenes"`
}

// Scene is one step of a piece.
type Scene struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Kind   SceneKind `json:"kind"`
	Blocks []Block   `json:"blocks"`
	// Withheld says, in what visitors get, that the scene comes when it is reached.
	Withheld bool `json:"withheld,omitempty" jsonschema:"-"`
}

// SceneKind says what a scene is for.
type SceneKind string

const (
	FormScene   SceneKind = "form"
	ThanksScene SceneKind = "thanks"
	PlainScene  SceneKind = "plain"
)

// Drawing is all that the renderer needs to draw one variant, and all that a
// visitor's browser gets to see of the document.
type Drawing struct {
	Format      Format  `json:"format"`
	PhoneFormat Format  `json:"phone_format,omitempty"`
	Frame       Frame   `json:"frame"`
	Scenes      []Scene `json:"scenes"`
	Kit         *Kit    `json:"kit,omitempty"` // nil: the usual one
}
