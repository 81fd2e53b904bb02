package piece

import (
	"gobbet/core/caps"
	"gobbet/core/reach"
)

// New is the document of a new piece: a sign-up and a thank-you that work as
// they are, shown to everyone after 30 seconds and at most once a week.
func New(name string, format Format, salt string) *Piece {
	rule := reach.All{reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: 30.0}}
	program, err := reach.Compile(rule)
	if err != nil {
		panic(err)
	}
	p := &Piece{
		Version: Version, Name: name, Format: format, Rule: rule, Program: program,
		Caps: caps.Caps{
			PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 2, Per: "P7D"}},
			AfterClose: "P7D", AfterConvert: caps.Forever,
		},
		Split: Split{Salt: salt, Variants: []Variant{{ID: "a", Name: "First version", Share: 50, Design: startDesign(format)}}},
	}
	p.Limits = p.Caps.Ready()
	return p
}

func startDesign(format Format) Design {
	frame := UsualFrame(format)
	return Design{Frame: frame, Scenes: []Scene{
		{ID: "ask", Name: "Sign-up", Kind: FormScene, Blocks: []Block{
			Heading{Kind: "heading", ID: "title", Text: Plain("Say what they get"), Size: 30, Align: "start"},
			Text{Kind: "text", ID: "why", Text: Plain("And in a line or two, why now. Click any words to change them."), Size: 16, Align: "start"},
			Field{Kind: "field", ID: "name", Ask: AskName, Key: "name", Label: "First name"},
			Field{Kind: "field", ID: "email", Ask: AskEmail, Key: "email", Label: "Email", Required: true},
			Button{Kind: "button", ID: "send", Words: "Count me in", Press: Press{Do: DoSend, Scene: "thanks"}, Counts: true},
		}},
		{ID: "thanks", Name: "Thank-you", Kind: ThanksScene, Blocks: []Block{
			Heading{Kind: "heading", ID: "title", Text: Plain("Thank you, {first name|friend}"), Size: 28, Align: "start"},
			Text{Kind: "text", ID: "next", Text: Plain("Say what happens next, and when."), Size: 16, Align: "start"},
			Button{Kind: "button", ID: "done", Words: "Back to the page", Press: Press{Do: DoClose}},
		}},
	}}
}

// UsualFrame is a frame in the style kit's own look, of the size a format usually has.
func UsualFrame(format Format) Frame {
	f := Frame{
		Width: 460, Padding: 36, Corners: ByKit, Background: "@background", Ink: "@ink", Accent: "@accent", AccentInk: "@accent_ink",
		Font: KitText, Veil: Veil{Color: "#1f1a24", Opacity: 55, Closes: true}, Close: Close{Shown: true, Label: "Close"},
	}
	switch format {
	case FlyIn:
		f.Width, f.Padding, f.Veil.Opacity = 340, 24, 0
	case Bar:
		f.Width, f.Padding, f.Corners, f.Veil.Opacity, f.Shadow, f.Enter = 1080, 10, 0, 0, SoftShadow, Drop
	case Full:
		f.Width, f.Corners, f.Veil.Opacity, f.Shadow, f.Enter = 620, 0, 0, NoShadow, Fade
	case Sheet:
		f.Width, f.Corners, f.Enter = 420, 0, Slide
	case Inline:
		f.Width, f.Padding, f.Veil.Opacity, f.Enter, f.Close.Shown = 720, 28, 0, Still, false
	}
	return f
}

// As gives a design that was made for one format in another. Nothing of it is
// lost: what the new format does not show is there again in the old one.
func (d Design) As(from, to Format) Design {
	if from == to {
		return d
	}
	f, before, usual := d.Frame, UsualFrame(from), UsualFrame(to)
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
