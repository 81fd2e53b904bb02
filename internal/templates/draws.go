package templates

import "gobbet/core/piece"

// drawing is a prize draw by the name prize, of parts each with its weight.
func drawing(look, words string, size int, parts ...piece.DrawPart) piece.PrizeDraw {
	d := piece.PrizeDraw{Key: "prize", Label: "Prize", Look: look, Words: words, Size: size, Odds: true}
	ids := map[string]bool{}
	for _, p := range parts {
		p.ID = piece.ChoiceID(p.Label, ids)
		ids[p.ID] = true
		d.Parts = append(d.Parts, p)
	}
	return d
}

// wins is a part with a code, and blank one that wins nothing.
func wins(label string, weight float64, code string) piece.DrawPart {
	return piece.DrawPart{Label: label, Weight: weight, Code: code}
}

func blank(label string, weight float64) piece.DrawPart {
	return piece.DrawPart{Label: label, Weight: weight, Nothing: true}
}

// usualPrizes are the parts most draws begin with: one of them wins nothing.
func usualPrizes() []piece.DrawPart {
	return []piece.DrawPart{wins("10 % off", 3, "TEN"), wins("A small gift", 2, "GIFT"), blank("Not this time", 3), wins("Free delivery", 2, "FREEPOST"), wins("20 % off", 1, "TWENTY")}
}

// wonCode shows the code of what was drawn, where it has one.
func wonCode() piece.Code {
	return piece.Code{Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}
}

// drawn are where a go leads: what is won, and what is not.
func drawn(won, lost string) []piece.Scene {
	return []piece.Scene{
		scene("won", "Won", piece.ThanksScene, append(mid(h("{prize|Your prize} is yours", 32), t(won, 16)), wonCode(), done("Back to the page"))...),
		scene("lost", "Not won", piece.ThanksScene, append(mid(h("Not this time", 32), t(lost, 16)), done("Back to the page"))...),
	}
}

// spun leads on from a draw.
func spun(s piece.Scene, won string) piece.Scene {
	return leads(s, when("prize", "not_this_time", "lost"), always(won))
}

func spin(words string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoSend}, Counts: true}
}

// claimed asks for the address after the go, before the code is shown.
func claimed(words string) piece.Scene {
	return leads(scene("claim", "Sign-up", piece.FormScene, h("{prize|Your prize} is yours", 28), t("Where should the code go? You see it here as well.", 16), email(), spin(words)), always("won"))
}

// middled lines columns up by their middles.
func middled(c piece.Columns) piece.Columns {
	c.Lined = "middle"
	return c
}

func draws() []Template {
	after := drawn("Copy the code, and use it in your basket.", "Thank you for playing. There is always another day.")
	wheel := spun(form("Prize draw", middled(cols(28, []int{54, 46}, drawing("wheel", "Spin", 340, usualPrizes()...),
		piece.Box{Gap: 14, Blocks: []piece.Block{h("A spin before you go?", 30), t("One go each. What stops at the gap is yours.", 16), email(), spin("Spin the wheel"), no("No, thank you")}}))), "won")
	boxed := spun(form("Prize draw", append(mid(h("Pick a box", 32), t("There is something in each, and not always the same.", 16)), drawing("boxes", "Open", 420, usualPrizes()...), no("Not today"))...), "claim")
	card := spun(form("Prize draw", h("A card for you", 24), t("Scratch it and see.", 15), drawing("card", "Scratch here", 300, usualPrizes()...)), "claim")
	scratch := drawing("card", "Scratch", 180, usualPrizes()...)
	scratch.Odds, scratch.Counts = false, true
	line := spun(form("Prize draw", t("A card for you today:", 16), scratch), "won")
	sheet := spun(form("Prize draw", append(mid(h("Spin for something", 30), t("One go each, on us.", 16)), drawing("wheel", "Spin", 340, usualPrizes()...), email(), spin("Spin"))...), "won")
	asks := spun(form("Prize draw", append(mid(h("And now, a spin", 30), t("Three answers, one go.", 16)), drawing("wheel", "Spin", 320, usualPrizes()...), email(), spin("Spin the wheel"))...), "won")
	asks.ID = "spin"
	return []Template{
		start(Draw, piece.Popup, "Spin before you go", "wheel spin prize leave exit", looks(wide(820)), append([]piece.Scene{wheel}, after...)...),
		start(Draw, piece.FlyIn, "Scratch and see", "scratch card prize corner", looks(wide(360)), append([]piece.Scene{card, claimed("Show my code")}, after...)...),
		start(Draw, piece.Popup, "Pick a box", "boxes pick prize surprise", looks(wide(520)), append([]piece.Scene{boxed, claimed("Show my code")}, after...)...),
		start(Draw, piece.Bar, "A card in a line", "scratch card bar prize", looks(washed), line,
			scene("won", "Won", piece.ThanksScene, t("{prize|Your prize} is yours.", 16), wonCode(), narrow(done("Close"))),
			scene("lost", "Not won", piece.ThanksScene, t("Not this time. Thank you for playing.", 16), narrow(done("Close")))),
		start(Draw, piece.Sheet, "A wheel behind a tab", "wheel spin tab side sheet prize", func(f *piece.Frame) {
			f.Tab = piece.Tab{Words: "Spin for something", Place: "bottom_end", After: true}
		}, append([]piece.Scene{sheet}, after...)...),
		start(Draw, piece.Popup, "Three questions, one spin", "quiz wheel spin prize questions", looks(wide(480)), append([]piece.Scene{
			asking("q1", "q2", one("who", "Who are you looking for?", pick("Me"), pick("A friend"), pick("Family"))),
			asking("q2", "q3", one("use", "What is it for?", pick("Every day"), pick("A special day"), pick("Only to look at"))),
			asking("q3", "spin", one("when", "When do you need it?", pick("This week"), pick("This month"), pick("Some day"))),
			asks,
		}, after...)...),
	}
}
