// Package piece is the document of a piece: what it looks like, when it may
// show, and its variants.
//
//	piece ─┬─ rule, caps
//	       └─ split ── variants ── design ─┬─ frame
//	                                       └─ scenes ── blocks
//
// Parse makes a Piece from JSON once, at the edge; what it returns needs no
// further checking. Every fault it finds carries its place in the document.
package piece

import (
	"gobbet/core/caps"
	"gobbet/core/reach"
	"gobbet/core/schedule"
)

// Version is the version of the document this program reads and writes.
const Version = 1

// Piece is one thing shown on a site.
type Piece struct {
	Version int        `json:"version"`
	Name    string     `json:"name"`
	Format  Format     `json:"format"`
	Rule    reach.Rule `json:"rule" tstype:"Rule"`
	Caps    caps.Caps  `json:"caps" tstype:"Caps"`
	// Schedule may be left out of a document.
	Schedule schedule.Schedule `json:"schedule,omitzero" tstype:"Schedule,omitempty"`
	Split    Split             `json:"split"`

	// Program is the rule compiled, and Limits the caps read.
	Program *reach.Program `json:"-"`
	Limits  caps.Ready     `json:"-"`
}

// Format is how a piece sits on the page.
type Format string

const (
	Popup Format = "popup"
	FlyIn Format = "fly_in"
)

// Slot is the place on the page that a format claims: one piece at a time may
// stand in it.
func (f Format) Slot() string {
	if f == Popup {
		return "overlay"
	}
	return "corner"
}

// Overlay reports whether the format lies over the page.
func (f Format) Overlay() bool { return f.Slot() == "overlay" }

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

// Color is #rrggbb.
type Color string

// Frame is what holds the scenes. Lengths are in CSS pixels.
type Frame struct {
	Width      int   `json:"width"`   // 200 to 1200
	Padding    int   `json:"padding"` // 0 to 96
	Corners    int   `json:"corners"` // 0 to 64
	Background Color `json:"background"`
	Ink        Color `json:"ink"`        // words
	Accent     Color `json:"accent"`     // buttons
	AccentInk  Color `json:"accent_ink"` // words on buttons
	Font       Font  `json:"font"`
	Veil       Veil  `json:"veil"`
	Close      Close `json:"close"`
}

// Font is a family of letters every device has.
type Font string

const (
	Sans  Font = "sans"
	Serif Font = "serif"
)

// Veil darkens the page behind a popup.
type Veil struct {
	Color   Color `json:"color"`
	Opacity int   `json:"opacity"` // percent; 0: no veil
	// Closes says that a press on the veil closes the piece.
	Closes bool `json:"closes"`
}

// Close is the mark in the corner that closes the piece.
type Close struct {
	Shown bool   `json:"shown"`
	Label string `json:"label"` // what a screen reader says
}

// Scene is one step of a piece.
type Scene struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Kind   SceneKind `json:"kind"`
	Blocks []Block   `json:"blocks"`
}

// SceneKind says what a scene is for.
type SceneKind string

const (
	FormScene   SceneKind = "form"
	ThanksScene SceneKind = "thanks"
	PlainScene  SceneKind = "plain"
)

// Align is where words or a picture sit in their line.
type Align string

// Heading is the line that says what this is about. Its text may hold merge
// fields such as {first name} or {first name|friend}.
type Heading struct {
	Kind  string `json:"kind" tstype:"'heading'"`
	ID    string `json:"id"`
	Text  string `json:"text"`
	Size  int    `json:"size"` // px, 12 to 72
	Align Align  `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color Color  `json:"color,omitempty"` // empty: the frame's ink
}

// Text is a paragraph. Its text may hold merge fields.
type Text struct {
	Kind  string `json:"kind" tstype:"'text'"`
	ID    string `json:"id"`
	Text  string `json:"text"`
	Size  int    `json:"size"` // px, 10 to 40
	Align Align  `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color Color  `json:"color,omitempty"` // empty: the frame's ink
}

// Picture is an uploaded picture.
type Picture struct {
	Kind    string `json:"kind" tstype:"'picture'"`
	ID      string `json:"id"`
	Picture string `json:"picture"` // its hash; empty: none chosen yet
	Ratio   int    `json:"ratio"`   // height as a percentage of width, 10 to 400, to hold its place while loading
	Alt     string `json:"alt"`     // empty: mere decoration
	Width   int    `json:"width"`   // percent of the frame's inside, 10 to 100
	Corners int    `json:"corners"`
	Align   Align  `json:"align" tstype:"'start' | 'center' | 'end'"`
}

// Field asks the visitor for one answer.
type Field struct {
	Kind     string `json:"kind" tstype:"'field'"`
	ID       string `json:"id"`
	Ask      Ask    `json:"ask"`
	Key      string `json:"key"` // what the answer is called, unique in the scene
	Label    string `json:"label"`
	Hint     string `json:"hint,omitempty"`
	Required bool   `json:"required"`
}

// Ask is the kind of answer a field takes.
type Ask string

const (
	AskName  Ask = "name"
	AskEmail Ask = "email"
	AskText  Ask = "text"
)

// Button does something when pressed.
type Button struct {
	Kind  string `json:"kind" tstype:"'button'"`
	ID    string `json:"id"`
	Words string `json:"words"`
	Press Press  `json:"press"`
	// Counts makes pressing it the conversion.
	Counts bool  `json:"counts"`
	Quiet  bool  `json:"quiet"` // drawn as a plain line of words
	Fill   Color `json:"fill,omitempty"`
	Ink    Color `json:"ink,omitempty"`
}

// Press is what a button does.
type Press struct {
	Do Deed `json:"do"`
	// Scene is where to go; for send it is where to go once sent, and empty closes the piece.
	Scene string `json:"scene,omitempty"`
	// Address is what to open: http, https, mailto, tel, or a path of the site.
	Address string `json:"address,omitempty"`
}

// Deed is what a button may do.
type Deed string

const (
	DoSend  Deed = "send"
	DoScene Deed = "scene"
	DoOpen  Deed = "open"
	DoClose Deed = "close"
)

// Drawing is all that the renderer needs to draw one variant, and all that a
// visitor's browser gets to see of the document.
type Drawing struct {
	Format Format  `json:"format"`
	Frame  Frame   `json:"frame"`
	Scenes []Scene `json:"scenes"`
}
