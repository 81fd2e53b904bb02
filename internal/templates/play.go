package templates

import (
	"gobbet/core/formula"
	"gobbet/core/piece"
)

// computing gives a template formulas.
func (s Template) computing(formulas ...piece.Formula) Template {
	for i := range formulas {
		parsed, err := formula.Parse(formulas[i].Formula)
		if err != nil {
			panic(err)
		}
		formulas[i].Parsed = parsed
	}
	s.design.Formulas = formulas
	return s
}

func (s Template) latest() Template {
	s.design.Ties = "latest"
	return s
}

// Choices.

func pick(label string) piece.Choice { return piece.Choice{Label: label} }

// worth gives a choice a score.
func worth(label string, score float64) piece.Choice {
	return piece.Choice{Label: label, Score: score}
}

// right is a right answer, worth one.
func right(label string) piece.Choice { return piece.Choice{Label: label, Score: 1, Right: true} }

// speaks gives a choice weights for results: the first two, the next one.
func speaks(label string, results ...string) piece.Choice {
	c := piece.Choice{Label: label, Weights: map[string]float64{}}
	for i, r := range results {
		c.Weights[r] = float64(max(1, 2-i))
	}
	return c
}

// of asks for one of some choices, or several.
func of(ask piece.Ask, key, label string, choices ...piece.Choice) piece.Field {
	f := field(ask, key, label, true)
	ids := map[string]bool{}
	for _, c := range choices {
		c.ID = piece.ChoiceID(c.Label, ids)
		ids[c.ID] = true
		f.Choices = append(f.Choices, c)
	}
	f.Look = "list"
	return f
}

// one asks for one choice, which goes on at once.
func one(key, label string, choices ...piece.Choice) piece.Field {
	f := of(piece.AskChoice, key, label, choices...)
	f.Advances, f.Bare = true, true
	return f
}

func several(key, label string, choices ...piece.Choice) piece.Field {
	f := of(piece.AskChoices, key, label, choices...)
	f.Bare = true
	return f
}

// judged says after an answer whether it was right.
func judged(f piece.Field, explanation string) piece.Field {
	f.Reveal, f.Explanation, f.Advances = true, explanation, false
	return f
}

func slide(key, label, unit, least, most, step, begin string) piece.Field {
	f := field(piece.AskSlider, key, label, true)
	f.Unit, f.Least, f.Most, f.Step, f.Start = unit, least, most, step, begin
	return f
}

// Blocks.

func bites() piece.Progress { return piece.Progress{Look: "bites"} }

func value(formula, label string, size int) piece.Value {
	return piece.Value{Formula: formula, Label: label, Size: size, Align: "start"}
}

func tally(key string, least int) piece.Tally { return piece.Tally{Key: key, Least: least} }

func back() piece.Button {
	return piece.Button{Words: "Back", Press: piece.Press{Do: piece.DoBack}, Quiet: true, Align: "start"}
}

// onward goes on with the answers.
func onward(words string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoSend}}
}

// Scenes.

// asking is a question with how far it is, its way back, and what comes next.
func asking(id, to string, f piece.Field, more ...piece.Block) piece.Scene {
	blocks := append([]piece.Block{bites(), h(f.Label, 26), f}, more...)
	if !f.Advances {
		blocks = append(blocks, onward("Next"))
	}
	s := scene(id, "Question: "+short(f.Label), piece.QuestionScene, append(blocks, back())...)
	s.Edges = []piece.Edge{{To: to}}
	return s
}

func short(s string) string {
	if r := []rune(s); len(r) > 40 {
		return string(r[:39]) + "…"
	}
	return s
}

// gate is a sign-up with where it leads by the answers.
func gate(name, title, why, words string, edges ...piece.Edge) piece.Scene {
	s := scene("gate", name, piece.FormScene, h(title, 28), t(why, 16), email(), piece.Button{Words: words, Press: piece.Press{Do: piece.DoSend}, Counts: true})
	s.Edges = edges
	return s
}

func result(id, title, say string, blocks ...piece.Block) piece.Scene {
	s := scene(id, title, piece.ResultScene, append([]piece.Block{h(title, 30), t(say, 17)}, blocks...)...)
	s.Tags = []string{id}
	return s
}

func always(to string) piece.Edge { return piece.Edge{To: to} }

// most leads to a result that has the most weight.
func most(result string) piece.Edge {
	return piece.Edge{When: []piece.Test{{Of: piece.WeightsName, Op: piece.TestMost, Value: result}}, To: result}
}

// from leads to a result from a score on.
func from(score float64, result string) piece.Edge {
	return piece.Edge{When: []piece.Test{{Of: piece.ScoreName, Op: piece.TestGte, Value: score}}, To: result}
}

// when leads to a result for who took a choice.
func when(key, choice, to string) piece.Edge {
	return piece.Edge{When: []piece.Test{{Of: key, Op: piece.TestIs, Value: choice}}, To: to}
}

// leads gives a question other edges than the one.
func leads(s piece.Scene, edges ...piece.Edge) piece.Scene {
	s.Edges = edges
	return s
}

func quizzes() []Template {
	return []Template{
		start(Quiz, piece.Popup, "Which one suits you?", "product finder match recommend quiz", looks(wide(520)),
			asking("q1", "q2", one("place", "Where will you use it most?", speaks("At home", "calm"), speaks("At work", "bright", "calm"), speaks("On the move", "bold"))),
			asking("q2", "q3", one("mood", "What should it bring?", speaks("Some quiet", "calm"), speaks("A bit of colour", "bright"), speaks("Something to talk about", "bold", "bright"))),
			asking("q3", "gate", one("often", "How often do you treat yourself?", speaks("Hardly ever", "calm"), speaks("Now and then", "bright"), speaks("When I feel like it", "bold"))),
			gate("Sign-up", "Your match is ready", "Where shall we send it? You see it here as well.", "Show my match", most("calm"), most("bright"), always("bold")),
			result("calm", "The quiet one", "Soft colours, simple lines: it goes with everything, and never asks for attention.", open("See it", "/shop")),
			result("bright", "The bright one", "A little colour in the middle of the day. Most people come back for a second.", open("See it", "/shop")),
			result("bold", "The bold one", "Not for everyone, and that is the point. There are never many of these.", open("See it", "/shop"))).latest(),
		start(Quiz, piece.Popup, "How much do you know?", "knowledge right wrong score trivia quiz", looks(wide(520), washed),
			asking("q1", "q2", judged(one("first", "Which of these is the oldest?", pick("Glass"), right("Pottery"), pick("Paper")), "Fired clay is at least 20,000 years older than the others.")),
			asking("q2", "q3", judged(one("second", "What makes a glaze shine?", right("Silica"), pick("Wax"), pick("Sugar")), "Silica melts in the kiln and sets as glass.")),
			asking("q3", "q4", judged(several("third", "Which of these are kinds of clay?", right("Stoneware"), right("Porcelain"), pick("Flint")), "Flint goes into glazes; it is no clay.")),
			leads(asking("q4", "", judged(of(piece.AskOrder, "fourth", "Put these in order, coolest first", worth("Earthenware", 1), worth("Stoneware firing", 1), worth("Melting iron", 1)), "Earthenware is fired at about 1,100 °C, stoneware at 1,250; iron melts at 1,538.")), from(6, "master"), from(3, "good"), always("new")),
			result("master", "You could teach this", "{score} points: hardly anyone gets so many.", open("Read on", "/journal")),
			result("good", "Not bad at all", "{score} points. A little reading, and you have them all.", open("Read on", "/journal")),
			result("new", "A good place to start", "{score} points, and all of it can be learnt. Here is where to begin.", open("Begin here", "/journal"))),
		start(Quiz, piece.FlyIn, "Gift finder", "present gift recommend quiz", looks(wide(380)),
			asking("q1", "q2", one("who", "Who is it for?", pick("A friend"), pick("Family"), pick("Myself"))),
			leads(asking("q2", "", one("budget", "About how much?", pick("Up to 25"), pick("Up to 50"), pick("More"))), when("budget", "more", "grand"), when("who", "myself", "own"), always("small")),
			result("small", "A small parcel of favourites", "Wrapped, with a card, and at the door in two days.", open("See the parcels", "/shop")),
			result("own", "The one you keep looking at", "You have earned it. We wrap it all the same.", open("Show me", "/shop")),
			result("grand", "Something to remember", "Made to order, with a name on it if you like.", open("See what we make", "/shop"))),
		start(Quiz, piece.Inline, "Which level are you?", "class course level placement quiz", looks(washed),
			asking("q1", "q2", one("before", "Have you done this before?", pick("Never"), pick("A few times"), pick("For years"))),
			leads(scene("q2", "Question: how sure", piece.QuestionScene, bites(), h("How sure do you feel, from 0 to 10?", 26), bareField(field(piece.AskScale, "sure", "How sure do you feel?", true)), onward("Show my level"), back()),
				when("before", "never", "beginners"),
				piece.Edge{When: []piece.Test{{Of: "before", Op: piece.TestIs, Value: "for_years"}, {Of: "sure", Op: piece.TestGte, Value: 7.0}}, To: "advanced"}, always("middle")),
			result("beginners", "Beginners, on Tuesdays", "Nobody there has done it before either. Everything you need is on the table.", open("See the dates", "/classes")),
			result("middle", "The Thursday group", "You know your way around; we go on from there.", open("See the dates", "/classes")),
			result("advanced", "The open workshop", "A key, a bench, and people to ask.", open("See the dates", "/classes"))),
		start(Quiz, piece.Full, "What kind of host are you?", "personality fun share quiz", looks(filled),
			leads(gate("Sign-up", "What kind of host are you?", "Three questions. Leave your address, and the result is yours with an idea for your next table.", "Begin", always("q1")), always("q1")),
			asking("q1", "q2", one("table", "Your table is…", speaks("Laid the day before", "planner"), speaks("Laid as they ring", "free"), speaks("What table?", "free", "warm"))),
			asking("q2", "q3", one("food", "You serve…", speaks("Four courses", "planner"), speaks("One big pot", "warm"), speaks("What is there", "free"))),
			leads(asking("q3", "", one("late", "At midnight you…", speaks("Have washed up", "planner"), speaks("Tell the old stories", "warm"), speaks("Open another bottle", "free", "warm"))), most("planner"), most("warm"), always("free")),
			result("planner", "The one with a plan", "Nothing is left to chance, and everybody notices.", done("To the site")),
			result("warm", "The warm one", "People come for the food and stay for you.", done("To the site")),
			result("free", "The free spirit", "It is never twice the same, and never dull.", done("To the site"))),
		start(Quiz, piece.Sheet, "Are you ready?", "checklist readiness score quiz time", nil,
			asking("q1", "q2", withoutNeed(several("have", "Which of these do you have?", worth("A plan", 2), worth("The tools", 2), worth("A free evening", 1), worth("Somebody to ask", 1)))),
			leads(asking("q2", "", one("when", "When would you like to begin?", worth("Today", 3), worth("This month", 2), worth("Some day", 0))), from(7, "go"), from(3, "soon"), always("dream")),
			result("go", "You are ready", "Nothing is missing. Begin this week, while you feel like it.", open("Begin", "/shop")),
			result("soon", "Nearly there", "One or two things more. Here is a list of what helps.", open("See the list", "/shop")),
			result("dream", "A lovely plan for later", "Read about it first: that costs nothing.", open("Read on", "/journal"))),
	}
}

func bareField(f piece.Field) piece.Field {
	f.Bare = true
	return f
}

func withoutNeed(f piece.Field) piece.Field {
	f.Required = false
	return f
}

// polling is a question whose answers everyone sees.
func polling(title string, f piece.Field, least int, after string) []piece.Scene {
	q := scene("ask", "Question", piece.QuestionScene, h(title, 24), f)
	if !f.Advances {
		q = scene("ask", "Question", piece.QuestionScene, h(title, 24), f, piece.Button{Words: "Vote", Press: piece.Press{Do: piece.DoSend}, Counts: true})
	}
	q.Edges = []piece.Edge{{To: "thanks"}}
	return []piece.Scene{q, thanks(h("So far", 24), tally(f.Key, least), t(after, 15), done("Close"))}
}

func counted(f piece.Field) piece.Field {
	f.Advances = false
	return f
}

func polls() []Template {
	bar := scene("ask", "Question", piece.QuestionScene, t("Tea or coffee?", 16), row(counted(one("drink", "Tea or coffee?", pick("Tea"), pick("Coffee")))), narrow(piece.Button{Words: "Vote", Press: piece.Press{Do: piece.DoSend}, Counts: true}))
	bar.Edges = []piece.Edge{{To: "thanks"}}
	return []Template{
		start(Poll, piece.FlyIn, "This or that?", "poll vote two choices", looks(wide(340)),
			polling("Which do you like better?", counted(one("better", "Which do you like better?", pick("The blue one"), pick("The green one"))), 0, "Thank you. We make what wins.")...),
		start(Poll, piece.Popup, "What should we make next?", "poll vote several ideas", looks(wide(480)),
			polling("What should we make next?", several("next", "What should we make next?", pick("Something small"), pick("Something for outdoors"), pick("A set of four"), pick("A surprise")), 10, "Thank you. The result shows once ten people have voted.")...),
		start(Poll, piece.Bar, "One question in a line", "poll vote bar quick", looks(washed), bar, thanks(tally("drink", 0), narrow(done("Close")))),
	}
}

// row shows choices side by side.
func row(f piece.Field) piece.Field {
	f.Look = ""
	return f
}

func money(name, formula string, places int) piece.Formula {
	return piece.Formula{Name: name, Formula: formula, Style: "money", Currency: "EUR", Places: &places}
}

func plainly(name, formula string, places int) piece.Formula {
	return piece.Formula{Name: name, Formula: formula, Places: &places}
}

func calculators() []Template {
	sums := func(id, name string, inputs []piece.Block, outcome ...piece.Block) piece.Scene {
		return scene(id, name, piece.FormScene, cols(32, []int{54, 46}, piece.Box{Blocks: inputs, Gap: 20}, piece.Box{Blocks: outcome, Background: "@soft", Padding: 24, Corners: 10, Gap: 12}))
	}
	saved := gate("Sign-up", "What would you save?", "Leave your address, and we reckon it up for a whole year.", "Show what I save", always("saved"))
	return []Template{
		start(Reckon, piece.Inline, "What will it cost?", "calculator price cost estimate", nil,
			sums("ask", "Calculator", []piece.Block{h("What will it cost?", 26), slide("amount", "How many?", "", "1", "40", "1", "12"), slide("evenings", "Evenings a month", "", "1", "8", "1", "2")},
				value("total", "A month", 44), t("{amount} × € 1.20 and {evenings} evenings at € 18.20", 14), open("Book it", "/classes"))).
			computing(money("total", "amount * 1.2 + evenings * 18.2", 2)),
		start(Reckon, piece.Popup, "How much do I need?", "calculator amount quantity material", looks(wide(620)),
			sums("ask", "Calculator", []piece.Block{h("How much do I need?", 26), slide("area", "Area", "m²", "1", "100", "1", "20"), row(counted(one("coats", "Coats", worth("One", 1), worth("Two", 2), worth("Three", 3))))},
				value("litres", "You need, in litres", 44), t("A litre covers nine square metres; we add a tenth to be safe.", 14), open("Put it in the basket", "/shop"))).
			computing(plainly("litres", "ceil(area * coats / 9 * 1.1 * 2) / 2", 1)),
		start(Reckon, piece.Sheet, "Pay in parts", "calculator instalment payment monthly rate", nil,
			scene("ask", "Calculator", piece.FormScene, h("Pay in parts", 28), slide("price", "Price", "€", "100", "3000", "50", "900"), slide("months", "Months", "", "3", "36", "1", "12"), value("monthly", "A month", 44), t("{paid} in all, at 4 % a year.", 15), open("Ask for it", "/shop"))).
			computing(money("monthly", "payment(0.04 / 12, months, price)", 2), money("paid", "monthly * months", 2)),
		start(Reckon, piece.Popup, "What would you save?", "calculator savings lead gated", looks(wide(520), washed),
			leads(scene("ask", "Calculator", piece.FormScene, h("What would you save?", 28), slide("cups", "Cups you buy a week", "", "0", "30", "1", "8"), slide("cup", "Price of one", "€", "1", "8", "0.1", "3.5"), onward("Reckon it up")), always("gate")),
			saved,
			result("saved", "{year} a year", "That is what the cups cost you; a good mug at home costs {mug}. You keep {kept}.", value("share", "Less by", 40), open("See the mugs", "/shop"))).
			computing(money("year", "cups * cup * 52", 0), money("mug", "28 + cups * 52 * 0.4", 0), money("kept", "max(0, year - mug)", 0),
				piece.Formula{Name: "share", Formula: "if(year > 0, round(kept / year * 100, 0), 0)", Style: "percent"}),
	}
}
