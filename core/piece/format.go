package piece

import (
	"slices"

	"gobbet/core/caps"
	"gobbet/core/style"
)

// Format is how a piece sits on the page.
type Format string

const (
	Popup  Format = "popup"  // over the page, which waits
	FlyIn  Format = "fly_in" // in a corner
	Bar    Format = "bar"    // along the top or the bottom
	Full   Format = "full"   // all over the window
	Sheet  Format = "sheet"  // along a side
	Inline Format = "inline" // in the flow of the page
	Chat   Format = "chat"   // a conversation in a corner, behind a tab
)

// formatSpec is the declaration of a format: all that tells one from another.
type formatSpec struct {
	format Format
	// places are where it may stand, the usual one first.
	places []Place
	// comes is how it comes between a visitor and the page.
	comes caps.Interruption
	// slot names what it claims of the page, of which each place is one if
	// byPlace. Empty: nothing; any number may stand inline.
	slot    string
	byPlace bool
	// script is the part of the page script that draws it.
	script Script
	// usual makes the usual frame of a popup that of the format.
	usual func(f *Frame)
}

var formats = []formatSpec{
	{Popup, []Place{Center, Top, Bottom}, caps.Covers, "overlay", false, Always, func(*Frame) {}},
	{FlyIn, []Place{BottomEnd, BottomStart, TopEnd, TopStart}, caps.Interrupts, "corner", true, Always, func(f *Frame) {
		f.Width, f.Padding, f.Backdrop.Opacity = 340, 24, 0
	}},
	{Bar, []Place{Top, Bottom}, caps.Invited, "edge", true, Frames, func(f *Frame) {
		f.Width, f.Padding, f.Corners, f.Backdrop.Opacity, f.Shadow, f.Enter = 1080, 10, 0, 0, SoftShadow, Drop
		// At the top it would lie over the site's own navigation.
		f.Bar.Pushes = true
	}},
	{Full, []Place{Center}, caps.Covers, "overlay", false, Frames, func(f *Frame) {
		f.Width, f.Corners, f.Backdrop.Opacity, f.Shadow, f.Enter = 620, 0, 0, NoShadow, Fade
	}},
	{Sheet, []Place{End, Start}, caps.Covers, "overlay", false, Frames, func(f *Frame) {
		f.Width, f.Corners, f.Enter = 420, 0, Slide
	}},
	{Inline, []Place{Center}, caps.Invited, "", false, Frames, func(f *Frame) {
		f.Width, f.Padding, f.Backdrop.Opacity, f.Enter, f.Close.Shown = 720, 28, 0, Still, false
	}},
	{Chat, []Place{BottomEnd, BottomStart}, caps.Invited, "corner", true, Chats, func(f *Frame) {
		f.Width, f.Padding, f.Backdrop.Opacity = 360, 18, 0
		f.Tab = Tab{Words: "Can we help?"}
		f.Talk = &Talk{Face: "cup", Pace: "calm"}
	}},
}

// Formats are all of them, as a picker lists them.
var Formats = func() (all []Format) {
	for _, m := range formats {
		all = append(all, m.format)
	}
	return all
}()

// formatSpec gives the format's declaration; one that is not known is a popup.
func (f Format) spec() *formatSpec {
	i := slices.IndexFunc(formats, func(m formatSpec) bool { return m.format == f })
	return &formats[max(i, 0)]
}

// Overlay reports whether the format lies over the page and makes it wait.
func (f Format) Overlay() bool { return f.spec().comes == caps.Covers }

// Interruption is how a variant comes between a visitor and the page on a device. A
// bar makes room for itself or stays at its edge, a folded tab waits to be pressed,
// and what shows only when it is asked for was asked for: they interrupt nobody.
func (p *Piece) Interruption(v *Variant, phone bool) caps.Interruption {
	return p.On(v, phone).Interruption(v.Design.Frame.Tab.Begins(), p.Program != nil && p.Program.AskedFor())
}

// Interruption is how a piece of the format comes between a visitor and the page:
// folded says that it begins as a tab, asked that it shows only when it is asked for.
func (f Format) Interruption(folded, asked bool) caps.Interruption {
	if folded || asked {
		return caps.Invited
	}
	return f.spec().comes
}

// Places are where a format may stand, the usual one first.
func (f Format) Places() []Place { return f.spec().places }

// Or gives the place if the format may stand there, and its usual one otherwise.
func (p Place) Or(f Format) Place {
	places := f.Places()
	if slices.Contains(places, p) {
		return p
	}
	return places[0]
}

// Slot is the place on the page that a piece claims: one piece at a time may
// stand in it. The empty slot is no one's: any number may stand inline.
func Slot(f Format, p Place) string {
	m := f.spec()
	if m.byPlace {
		return m.slot + "." + string(p.Or(f))
	}
	return m.slot
}

// UsualFrame is a frame in the style kit's own look, of the size a format usually has.
func UsualFrame(format Format) Frame {
	f := Frame{
		Width: 460, Padding: 36, Corners: ByKit, Background: "@background", Ink: "@ink", Accent: "@accent", AccentInk: "@accent_ink",
		Font: style.KitText, Backdrop: Backdrop{Color: "#1f1a24", Opacity: 55, Closes: true}, Close: Close{Shown: true, Label: "Close"},
	}
	format.spec().usual(&f)
	return f
}
