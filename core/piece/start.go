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
			Button{Kind: "button", ID: "send", Words: "Count me in", Press: Press{Do: DoSend}, Counts: true},
		}, Edges: []Edge{{Block: "send", To: "thanks"}}},
		{ID: "thanks", Name: "Thank-you", Kind: ThanksScene, Blocks: []Block{
			Heading{Kind: "heading", ID: "title", Text: Plain("Thank you, {first name|friend}"), Size: 28, Align: "start"},
			Text{Kind: "text", ID: "next", Text: Plain("Say what happens next, and when."), Size: 16, Align: "start"},
			Button{Kind: "button", ID: "done", Words: "Back to the page", Press: Press{Do: DoClose}},
		}},
	}}
}
