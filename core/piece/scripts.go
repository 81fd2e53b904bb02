package piece

import "slices"

// Script is a part of the page script that a visitor's page fetches only for
// pieces that need it.
type Script string

const (
	Always Script = ""       // what every piece has, in the renderer itself
	Extras Script = "extras" // blocks that fewer pieces hold, and sounds
	Plays  Script = "play"   // what asks in other ways than forms do, and answers
	Draws  Script = "draw"   // prize draws
	Chats  Script = "chat"   // conversations
	Frames Script = "frames" // formats in the page's flow or along its edges, and frames with more than a plain ground
)

// Scripts are the parts of the page script that a drawing needs, in all its
// scenes and on every device.
func (d *Drawing) Scripts() []Script {
	needs := []Script{}
	need := func(s Script, is bool) {
		if is && s != Always && !slices.Contains(needs, s) {
			needs = append(needs, s)
		}
	}
	f := d.Frame
	for _, format := range []Format{d.Format, d.PhoneFormat} {
		need(format.manners().script, format != "")
	}
	_, otherwise := f.Phone["behind"]
	need(Frames, f.Tab.Words != "" || otherwise || f.Behind.Picture != "" || f.Behind.Video != "" || len(f.Behind.Gradient) > 0)
	need(Extras, f.Sound != "")
	need(Chats, f.Talk != nil)
	if slices.Contains(needs, Chats) {
		// A conversation may be gone on with from any of its lines, and stands behind a tab.
		need(Plays, true)
		need(Frames, true)
	}
	need(Plays, len(d.Live) > 0 || len(d.Formulas) > 0)
	d.EachBlock(func(_ string, _ Scene, b Block) {
		need(KindOf(b).Script, true)
		switch b := b.(type) {
		case Field:
			need(b.Ask.script(), true)
		case Button:
			need(Extras, b.Stir != "")
			need(Plays, b.Press.Do == DoBack)
		}
	})
	for _, s := range d.Scenes {
		need(Plays, s.Limit > 0)
	}
	return needs
}

// script is the part of the page script that draws what is asked for.
func (a Ask) script() Script {
	switch a {
	case AskName, AskEmail, AskText, AskPhone, AskNumber, AskDate, AskConsent, AskHidden:
		return Always
	}
	return Plays
}
