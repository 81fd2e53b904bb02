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
		need(format.spec().script, format != "")
	}
	_, otherwise := f.Phone["behind"]
	need(Chats, d.Format == Inline && f.Talk != nil)
	// A conversation draws its tab, and questions that are asked alone, itself.
	talks := d.Format == Chat && (d.PhoneFormat == "" || d.PhoneFormat == Chat)
	need(Frames, f.Tab.Words != "" && !talks || otherwise || f.Behind.Picture != "" || f.Behind.Video != "" || len(f.Behind.Gradient) > 0)
	need(Extras, f.Sound != "")
	need(Plays, len(d.Live) > 0 || len(d.Formulas) > 0)
	d.EachBlock(func(_ string, s Scene, b Block) {
		need(KindOf(b).Script, true)
		switch b := b.(type) {
		case Field:
			need(b.Ask.script(), !(talks && s.asksAlone(b)))
		case Button:
			_, otherwise := b.Phone["press"]
			need(Extras, b.Stir != "" || otherwise || b.Press.Carry || slices.Contains([]Deed{DoMail, DoCall, DoFile}, b.Press.Do))
			need(Plays, b.Press.Do == DoBack)
		}
	})
	for _, s := range d.Scenes {
		need(Plays, s.Limit > 0)
	}
	return needs
}

// asksAlone reports whether a scene of a conversation asks this choice and
// nothing else, so that its answers are said in turn.
func (s Scene) asksAlone(f Field) bool {
	alone := f.Ask == AskChoice && f.Look != "pictures"
	for b := range s.All() {
		asked, ok := Asked(b)
		alone = alone && (!ok || asked.Ask == AskHidden || asked.Key == f.Key)
	}
	return alone && slices.ContainsFunc(s.Blocks, func(b Block) bool { return BlockID(b) == f.ID })
}

// script is the part of the page script that draws what is asked for.
func (a Ask) script() Script {
	switch a {
	case AskName, AskEmail, AskText, AskPhone, AskNumber, AskDate, AskConsent, AskHidden:
		return Always
	}
	return Plays
}
