// Package piece is the document of a piece: what it looks like, when it may
// show, and its variants.
//
//	piece ─┬─ rule, caps
//	       └─ split ── variants ── design ─┬─ frame
//	                                       ├─ scenes ─┬─ blocks ── blocks
//	                                       │          └─ edges
//	                                       └─ formulas
//
// Parse makes a Piece from JSON once, at the edge; what it returns needs no
// further checking. Every fault it finds carries its place in the document.
package piece

import (
	"slices"

	"gobbet/core/caps"
	"gobbet/core/reach"
	"gobbet/core/schedule"
	"gobbet/core/style"
)

// Version is the version of the document this program writes. It reads every
// earlier one too: whatever came later may be left out.
const Version = 4

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
	// Page is the page of its own that it lives at; nil: none.
	Page  *OwnPage `json:"page,omitempty"`
	Split Split    `json:"split"`
	// Kit is the style kit it was written with, in a document that stands alone.
	// On a site, the site's own counts.
	Kit *style.Kit `json:"kit,omitempty"`

	// Program is the rule compiled, and Limits the caps read.
	Program *reach.Program `json:"-"`
	Limits  caps.Ready     `json:"-"`
}

// Formats are how a variant sits, and how on phones if differently.
func (p *Piece) Formats(v *Variant) (format, phone Format) {
	if v.Format != "" {
		return v.Format, v.PhoneFormat
	}
	return p.Format, p.PhoneFormat
}

// On gives the format of a variant on a kind of device.
func (p *Piece) On(v *Variant, phone bool) Format {
	format, onPhone := p.Formats(v)
	if phone && onPhone != "" {
		return onPhone
	}
	return format
}

// Slot is the slot of a variant on a kind of device.
func (p *Piece) Slot(v *Variant, phone bool) string {
	return Slot(p.On(v, phone), v.Design.Frame.Place)
}

// First is the first variant, that others are held against.
func (p *Piece) First() *Variant { return &p.Split.Variants[0] }

// ProgramOf is the rule of a variant: the piece's, and its own moments.
func (p *Piece) ProgramOf(v *Variant) *reach.Program {
	if v.Program != nil {
		return v.Program
	}
	return p.Program
}

// Split is the variants of a piece.
type Split struct {
	// Salt keeps this split's allotment independent of every other's.
	Salt     string    `json:"salt"`
	Variants []Variant `json:"variants"`
	// Held is how many of a hundred visitors are held back: they would be shown the
	// piece and are not, so that it can be told what it brings.
	Held int `json:"held,omitempty"`
	// Goal is the site's goal that decides; empty: the piece's own conversion.
	Goal string `json:"goal,omitempty"`
	// Plan was made before the start; nil: none.
	Plan *Plan `json:"plan,omitempty"`
	// Follow says that shares go to the variant that does better, day by day.
	Follow bool `json:"follow,omitempty"`
}

// Plan is what a split is planned to find.
type Plan struct {
	Lift  float64 `json:"lift"`  // the smallest worth having, such as 0.2 for a fifth
	Power float64 `json:"power"` // the chance to find it where it is there
	Size  int     `json:"size"`  // visitors per variant that this takes
}

// Variant is one version of the design. The first is what others are held against.
type Variant struct {
	ID   string `json:"id"`
	Name string `json:"name"`
	// Share is the variant's part of the visitors, relative to the sum of shares.
	Share int `json:"share"`
	// Format, and PhoneFormat on phones, are how it sits; empty: as the piece does.
	Format      Format `json:"format,omitempty"`
	PhoneFormat Format `json:"phone_format,omitempty"`
	// Moments is a rule over moments alone that it waits for beside the piece's
	// rule; nil: for nothing more.
	Moments reach.Rule `json:"moments,omitempty" tstype:"Rule"`
	Design  Design     `json:"design"`

	// Program is the piece's rule and the moments compiled together; nil without moments.
	Program *reach.Program `json:"-"`
}

// OfEligible reports whether variants differ in how or when they show. Those who
// see them are not the same kind of visitors then, so that everyone counts whom
// the piece could be shown to, from that moment on.
func (p *Piece) OfEligible() bool {
	return len(p.Split.Variants) > 1 && slices.ContainsFunc(p.Split.Variants, func(v Variant) bool {
		format, phone := p.Formats(&v)
		return format != p.Format || phone != p.PhoneFormat || v.Moments != nil
	})
}

// Design is what a visitor sees. It starts with the first scene.
type Design struct {
	Frame  Frame   `json:"frame"`
	Scenes []Scene `json:"scenes"`
	// Formulas are computed from the answers and from each other.
	Formulas []Formula `json:"formulas,omitempty"`
	// Cases are samples with the values that are expected of the formulas.
	Cases []Case `json:"cases,omitempty"`
	// Ties says which of several results wins that have the same weight: the
	// first in the order of scenes, or the one for which the latest answer that
	// tells them apart speaks more; empty: first.
	Ties string `json:"ties,omitempty" tstype:"'latest'"`
}

// Scene is one step of a piece.
type Scene struct {
	ID     string    `json:"id"`
	Name   string    `json:"name"`
	Kind   SceneKind `json:"kind"`
	Blocks []Block   `json:"blocks"`
	// Edges are the ways on, of which the first that fits is gone.
	Edges []Edge `json:"edges,omitempty"`
	// Limit is how many seconds a visitor has for it, 0 to 3600; 0: any.
	Limit int `json:"limit,omitempty"`
	// Extends says that who needs longer may have the same time again, MostExtended
	// times at most.
	Extends bool `json:"extends,omitempty"`
	// Passes says that it goes on by itself once it is read, where nothing in it
	// is to be pressed or answered: only a conversation does that.
	Passes bool `json:"passes,omitempty"`
	// Tags are given to a visitor who reaches it.
	Tags []string `json:"tags,omitempty"`
	// Withheld says, in what visitors get, that the scene comes when it is
	// reached, and Asks that the server says where it leads.
	Withheld bool `json:"withheld,omitempty" jsonschema:"-"`
	Asks     bool `json:"asks,omitempty" jsonschema:"-"`
}

// MostExtended is how often a visitor may have the time of a scene again: as often
// as WCAG 2.2 asks for (2.2.1).
const MostExtended = 10

// SceneKind says what a scene is for.
type SceneKind string

const (
	FormScene     SceneKind = "form"
	ThanksScene   SceneKind = "thanks"
	PlainScene    SceneKind = "plain"
	QuestionScene SceneKind = "question"
	ResultScene   SceneKind = "result"
)

// Drawing is all that the renderer needs to draw one variant, and all that a
// visitor's browser gets to see of the document.
type Drawing struct {
	Version     int        `json:"version"`
	Format      Format     `json:"format"`
	PhoneFormat Format     `json:"phone_format,omitempty"`
	Kit         *style.Kit `json:"kit,omitempty"` // nil: the usual one
	Design      `tstype:",extends,required"`
	// Live are formulas that the page computes itself, as answers change.
	Live []LiveFormula `json:"live,omitempty"`
	// Needs are the parts of the page script that it needs, in what visitors get.
	Needs []Script `json:"needs,omitzero" tstype:"('extras' | 'play' | 'draw' | 'chat' | 'frames')[]"`
}
