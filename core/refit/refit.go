// Package refit takes designs from one format to another: a popup that becomes
// a bar keeps its words and gets a bar's size and behaviour.
package refit

import (
	"slices"

	"gobbet/core/piece"
)

// Design gives a design that was made for one format in another. Nothing of it is
// lost: what the new format does not show is there again in the old one.
func Design(d piece.Design, from, to piece.Format) piece.Design {
	if from == to {
		return d
	}
	f, before, usual := d.Frame, piece.UsualFrame(from), piece.UsualFrame(to)
	f.Width, f.Padding, f.Place, f.Backdrop.Opacity, f.Enter, f.Leave = usual.Width, usual.Padding, "", usual.Backdrop.Opacity, usual.Enter, ""
	if f.Corners == before.Corners || usual.Corners == 0 {
		f.Corners = usual.Corners
	}
	if f.Shadow == before.Shadow {
		f.Shadow = usual.Shadow
	}
	if f.Close.Shown == before.Close.Shown {
		f.Close.Shown = usual.Close.Shown
	}
	if to == piece.Bar && f.Bar == (piece.BarBehaviour{}) {
		f.Bar = usual.Bar
	}
	switch {
	case to == piece.Chat:
		// It always stands behind a tab.
		if f.Tab.After = false; f.Tab.Words == "" {
			f.Tab = usual.Tab
		}
		if f.Talk == nil {
			f.Talk = usual.Talk
		}
	case from == piece.Chat && f.Tab.Words == before.Tab.Words:
		f.Tab = piece.Tab{}
	case from == piece.Chat:
		f.Tab.After = true
	}
	d.Frame = f
	return d
}

// OnOwnPage gives a piece as it stands on a page of its own: in the page's
// middle on every device, whatever its format elsewhere, with nothing that
// closes it or makes it come and go.
func OnOwnPage(p *piece.Piece) *piece.Piece {
	own := *p
	own.Format, own.PhoneFormat = piece.Inline, ""
	own.Split.Variants = slices.Clone(p.Split.Variants)
	for i := range own.Split.Variants {
		v := &own.Split.Variants[i]
		format, _ := p.Formats(v)
		d := Design(v.Design, format, piece.Inline)
		f := &d.Frame
		f.Anchor, f.Tab, f.Sound, f.Close.Shown, f.Phone = piece.Anchor{}, piece.Tab{}, "", false, ownPhone(f.Phone)
		v.Design, v.Format, v.PhoneFormat = d, "", ""
	}
	return &own
}

// ownPhone keeps of what a frame has otherwise on phones its looks alone.
func ownPhone(p piece.Patch) piece.Patch {
	var kept piece.Patch
	for _, key := range []string{"background", "ink", "accent", "accent_ink", "font", "heading_font", "behind", "gap"} {
		if is, ok := p[key]; ok {
			if kept == nil {
				kept = piece.Patch{}
			}
			kept[key] = is
		}
	}
	return kept
}
