// Package refit takes designs from one format to another: a popup that becomes
// a bar keeps its words and gets a bar's size and manners.
package refit

import "gobbet/core/piece"

// Design gives a design that was made for one format in another. Nothing of it is
// lost: what the new format does not show is there again in the old one.
func Design(d piece.Design, from, to piece.Format) piece.Design {
	if from == to {
		return d
	}
	f, before, usual := d.Frame, piece.UsualFrame(from), piece.UsualFrame(to)
	f.Width, f.Padding, f.Place, f.Veil.Opacity, f.Enter, f.Leave = usual.Width, usual.Padding, "", usual.Veil.Opacity, usual.Enter, ""
	if f.Corners == before.Corners || usual.Corners == 0 {
		f.Corners = usual.Corners
	}
	if f.Shadow == before.Shadow {
		f.Shadow = usual.Shadow
	}
	if f.Close.Shown == before.Close.Shown {
		f.Close.Shown = usual.Close.Shown
	}
	d.Frame = f
	return d
}
