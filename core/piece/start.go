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
	if format == Chat {
		// It waits behind its tab, on every page.
		p.Rule, p.Caps = reach.All{}, caps.Caps{}
		p.Program, _ = reach.Compile(p.Rule) // nothing can be wrong with it
		p.Split.Variants[0].Design = startTalk()
	}
	if format == Bar {
		p.Caps = UsualBarCaps()
	}
	p.Limits = p.Caps.Ready()
	return p
}

// UsualBarCaps keep a bar on every page until it is closed or has done its work.
func UsualBarCaps() caps.Caps { return caps.Caps{AfterClose: "P7D", AfterConvert: caps.Forever} }

// startTalk is a conversation with a branch: who says no is let go kindly.
func startTalk() Design {
	say := func(id, words string) Text {
		return Text{Kind: "text", ID: id, Text: Plain(words), Size: 16, Align: "start"}
	}
	return Design{Frame: UsualFrame(Chat), Scenes: []Scene{
		{ID: "hello", Name: "Hello", Kind: QuestionScene, Edges: []Edge{{When: []Test{{Of: "answer", Op: TestIs, Value: "no"}}, To: "no"}, {To: "ask"}}, Blocks: []Block{
			say("say", "Hello! Say what you can help with."),
			Field{Kind: "field", ID: "answer", Ask: AskChoice, Key: "answer", Label: "Shall I?", Required: true, Advances: true, Choices: []Choice{{ID: "yes", Label: "Yes, please"}, {ID: "no", Label: "No, thank you"}}},
		}},
		{ID: "ask", Name: "Address", Kind: FormScene, Edges: []Edge{{Block: "send", To: "thanks"}}, Blocks: []Block{
			say("say", "Gladly."),
			Field{Kind: "field", ID: "email", Ask: AskEmail, Key: "email", Label: "Where can we reach you?", Required: true, Hint: "Your email"},
			Button{Kind: "button", ID: "send", Words: "Send", Press: Press{Do: DoSend}, Counts: true},
		}},
		{ID: "thanks", Name: "Thank-you", Kind: ThanksScene, Blocks: []Block{say("say", "Thank you! We write within a day.")}},
		{ID: "no", Name: "Goodbye", Kind: ThanksScene, Blocks: []Block{say("say", "No trouble. I am here if you need me.")}},
	}}
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
