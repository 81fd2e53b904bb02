package demo

import (
	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/style"
)

func clause(fact string, op reach.Op, value any) reach.Clause {
	return reach.Clause{Fact: fact, Op: op, Value: value}
}

// saved are the reaches kept by name, which pieces stand on.
var saved = reach.Book{
	"readers": clause("page.path", reach.StartsWith, "/journal"),
	"guests":  reach.Not{Rule: clause("data.member", reach.Is, true)},
}

var savedNames = map[string]string{"readers": "Readers of the journal", "guests": "Everyone but members"}

func heading(id, text string, size int) piece.Heading {
	return piece.Heading{Kind: "heading", ID: id, Text: piece.Plain(text), Size: size, Align: "start"}
}

func text(id, words string, size int) piece.Text {
	return piece.Text{Kind: "text", ID: id, Text: piece.Plain(words), Size: size, Align: "start"}
}

func field(ask piece.Ask, label string, required bool) piece.Field {
	return piece.Field{Kind: "field", ID: string(ask), Ask: ask, Key: string(ask), Label: label, Required: required}
}

func send(words string) piece.Button {
	return piece.Button{Kind: "button", ID: "send", Words: words, Press: piece.Press{Do: piece.DoSend}, Counts: true}
}

// toThanks leads to the thank-you once sent.
var toThanks = []piece.Edge{{Block: "send", To: "thanks"}}

func closing(id, words string, quiet bool) piece.Button {
	return piece.Button{Kind: "button", ID: id, Words: words, Press: piece.Press{Do: piece.DoClose}, Quiet: quiet}
}

func picture(id, hash string, ratio int, alt string) piece.Picture {
	return piece.Picture{Kind: "picture", ID: id, Picture: hash, Ratio: ratio, Alt: alt, Width: 100, Corners: 6, Align: "center"}
}

var fern = piece.Frame{
	Width: 360, Padding: 26, Corners: piece.ByKit, Background: "@background", Ink: "@ink", Accent: "@accent", AccentInk: "@accent_ink", Font: style.KitText,
	Backdrop: piece.Backdrop{Color: "#1c2925", Opacity: 0, Closes: true}, Close: piece.Close{Shown: true, Label: "Close"},
}

// glazeClub is a fly-in with two versions: with a picture, and with a question.
func glazeClub(hash string, ratio int) *piece.Piece {
	thanks := piece.Scene{ID: "thanks", Name: "Thank-you", Kind: piece.ThanksScene, Blocks: []piece.Block{
		heading("title", "Welcome to the glaze club, {first name|friend}", 25),
		text("next", "Your first parcel of test tiles leaves us on the first of the month.", 16),
		closing("done", "Back to reading", false),
	}}
	a := piece.Design{Frame: fern, Scenes: []piece.Scene{{ID: "ask", Name: "Sign-up", Kind: piece.FormScene, Blocks: []piece.Block{
		picture("tiles", hash, ratio, "A bowl with an ash glaze breaking from green to amber"),
		heading("title", "Five new glazes, before anyone", 25),
		text("why", "Once a month, a small parcel of test tiles. The first is on us.", 16),
		field(piece.AskName, "First name", false), field(piece.AskEmail, "Email", true),
		send("Send me the tiles"),
	}, Edges: toThanks}, thanks}}
	b := a
	b.Scenes = []piece.Scene{{ID: "ask", Name: "Sign-up", Kind: piece.FormScene, Blocks: []piece.Block{
		heading("title", "Which glaze will you try next?", 25),
		text("why", "Let us send you five test tiles a month and find out. The first parcel is on us.", 16),
		field(piece.AskName, "First name", false), field(piece.AskEmail, "Email", true),
		send("Choose my first five"),
	}, Edges: toThanks}, thanks}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Glaze club welcome", Format: piece.FlyIn,
		Rule: reach.All{
			clause("page.path", reach.StartsWith, "/journal"),
			reach.Saved{ID: "guests"},
			reach.Any{clause("moment.seconds_on_page", reach.Gte, 20.0), clause("moment.scroll_percent", reach.Gte, 50.0)},
		},
		Caps: caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 3, Per: "P30D"}}, AfterClose: "P7D", AfterConvert: caps.Forever},
		Split: piece.Split{Salt: "glaze-club-1", Held: 15, Plan: &piece.Plan{Lift: 0.5, Power: 0.8, Size: sizeOf(0.07, 0.5)}, Variants: []piece.Variant{
			{ID: "a", Name: "Picture first", Share: 50, Design: a}, {ID: "b", Name: "Question first", Share: 50, Design: b}}},
	})
}

// classFinder is a fly-in that gives way to the glaze club where both would come.
func classFinder() *piece.Piece {
	frame := fern
	frame.Width, frame.Padding, frame.Background, frame.Ink, frame.Accent, frame.AccentInk, frame.Font = 330, 24, "#2d3a4a", "#f4efe6", "#e9c46a", "#2a2111", style.Sans
	design := func(title, why string) piece.Design {
		return piece.Design{Frame: frame, Scenes: []piece.Scene{{ID: "ask", Name: "Invitation", Kind: piece.PlainScene, Blocks: []piece.Block{
			heading("title", title, 24), text("why", why, 16),
			piece.Button{Kind: "button", ID: "see", Words: "See the classes", Press: piece.Press{Do: piece.DoOpen, Address: "/classes"}, Counts: true},
			closing("no", "Another time", true),
		}}}}
	}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Class finder", Format: piece.FlyIn,
		Rule: reach.All{
			reach.Any{clause("page.path", reach.In, []any{"/", "/shop"}), reach.Saved{ID: "readers"}},
			reach.Saved{ID: "guests"},
			clause("device.kind", reach.IsNot, "phone"),
			clause("moment.seconds_on_page", reach.Gte, 25.0),
		},
		Caps: caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 4, Per: "P30D"}}, AfterClose: "P3D", AfterConvert: "P30D"},
		Split: piece.Split{Salt: "class-1", Plan: &piece.Plan{Lift: 0.5, Power: 0.8, Size: sizeOf(0.11, 0.5)}, Variants: []piece.Variant{
			{ID: "a", Name: "Invitation", Share: 50, Design: design("Come and throw a bowl", "Eight wheels, one stove, Tuesdays and Thursdays. Which evening is yours?")},
			{ID: "b", Name: "Timetable", Share: 50, Design: design("Classes this month", "Tuesdays at 18:30, Thursdays at 18:00, and the first Saturday of the month.")},
		}},
	})
}

// beforeYouGo is a popup for those who leave the shop.
func beforeYouGo() *piece.Piece {
	frame := fern
	frame.Width, frame.Padding, frame.Background, frame.Ink, frame.Accent, frame.AccentInk = 520, 44, "#24413a", "#f6efe0", "#f0b429", "#2a2111"
	frame.Backdrop.Opacity = 60
	design := piece.Design{Frame: frame, Scenes: []piece.Scene{
		{ID: "ask", Name: "Offer", Kind: piece.FormScene, Blocks: []piece.Block{
			heading("title", "Take a glaze card with you", 36),
			text("why", "Forty tested recipes on one sheet, with firing notes. Tell us where to send it.", 18),
			field(piece.AskEmail, "Email", true),
			send("Send me the card"),
			closing("no", "No, thank you", true),
		}, Edges: toThanks},
		{ID: "thanks", Name: "Thank-you", Kind: piece.ThanksScene, Blocks: []piece.Block{
			heading("title", "Kept for you", 34),
			text("next", "The studio writes to you with it today.", 18),
			closing("done", "Back to the shop", false),
		}},
	}}
	// The second has its button in another colour.
	second := design
	second.Frame.Accent = "#e7ecdf"
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Before you go", Format: piece.Popup,
		Rule: reach.All{
			clause("page.path", reach.StartsWith, "/shop"),
			reach.Any{
				reach.All{clause("device.kind", reach.Is, "desktop"), clause("moment.exit_intent", reach.Happened, nil)},
				reach.All{clause("device.kind", reach.IsNot, "desktop"), clause("moment.scroll_percent", reach.Gte, 70.0)},
			},
		},
		Caps: caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 2, Per: "P14D"}}, AfterClose: "P7D", AfterConvert: caps.Forever},
		Split: piece.Split{Salt: "before-1", Held: 15, Variants: []piece.Variant{
			{ID: "a", Name: "Amber button", Share: 50, Design: design}, {ID: "b", Name: "Celadon button", Share: 50, Design: second},
		}},
	})
}

// wheelEvening is a draft with two notes to settle.
func wheelEvening(hash string, ratio int) *piece.Piece {
	frame := fern
	frame.Width, frame.Padding, frame.Background, frame.Ink, frame.Accent, frame.AccentInk, frame.Font = 480, 36, "#fbeee2", "#3b2418", "#b4532a", "#ffffff", style.Sans
	frame.Backdrop.Color, frame.Backdrop.Opacity = "#3b2418", 50
	why := text("why", "Eight wheels, one stove, a bowl to take home. We write when a place comes free.", 16)
	why.Color = "#c59a7e"
	design := piece.Design{Frame: frame, Scenes: []piece.Scene{
		{ID: "ask", Name: "Waiting list", Kind: piece.FormScene, Blocks: []piece.Block{
			picture("wheel", hash, ratio, "Hands centring clay on a wheel"),
			heading("title", "An evening on the wheel", 32), why,
			field(piece.AskName, "First name", false), field(piece.AskEmail, "Email", true),
			send("Keep me a place"),
		}},
	}}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Wheel evening waiting list", Format: piece.Popup,
		Rule:  reach.All{clause("page.path", reach.Is, "/classes"), clause("visitor.new", reach.Is, false), clause("moment.scroll_percent", reach.Gte, 60.0)},
		Caps:  caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: "P7D"}}, AfterClose: "P14D", AfterConvert: caps.Forever},
		Split: piece.Split{Salt: "wheel-1", Variants: []piece.Variant{{ID: "a", Name: "Evening", Share: 50, Design: design}}},
	})
}

// shopKit is the shop's own style.
var shopKit = style.Kit{
	Colors: []style.KitColor{
		{ID: "background", Name: "Porcelain", Value: "#fffdf8"}, {ID: "ink", Name: "Iron", Value: "#24332e"}, {ID: "accent", Name: "Fern", Value: "#2f5d50"},
		{ID: "accent_ink", Name: "Slip", Value: "#ffffff"}, {ID: "soft", Name: "Celadon", Value: "#e4ebe0"}, {ID: "amber", Name: "Amber", Value: "#f0b429"}, {ID: "terracotta", Name: "Terracotta", Value: "#a8502f"},
	},
	Text: style.Karla, Heading: style.Lora, Corners: 12, Button: style.KitButton{Corners: 8, Weight: 650}, Field: style.KitField{Corners: 8},
}

func finish(p *piece.Piece) *piece.Piece {
	program, err := reach.CompileWith(p.Rule, saved)
	if err != nil {
		panic(err)
	}
	p.Program = program
	return p
}
