package templates

import "gobbet/core/piece"

// Conversations: each line is said in turn, and answered by a press or typed.

// says is a line.
func says(words string) piece.Text { return t(words, 16) }

// turn is a line that asks for one of some answers; edges say where they lead.
func turn(id, name string, f piece.Field, lines []string, edges ...piece.Edge) piece.Scene {
	blocks := []piece.Block{}
	for _, line := range lines {
		blocks = append(blocks, says(line))
	}
	f.Advances, f.Look, f.Bare = true, "", f.Label == lines[len(lines)-1]
	return leads(scene(id, name, piece.QuestionScene, append(blocks, f)...), edges...)
}

// spoken is a line that goes on by itself.
func spoken(id, name, to string, blocks ...piece.Block) piece.Scene {
	s := leads(scene(id, name, piece.PlainScene, blocks...), always(to))
	s.Passes = true
	return s
}

// kindly asks for an address.
func kindly(id, name, line, to string) piece.Scene {
	e := email()
	e.Bare, e.Hint, e.Message = true, "name@example.com", "That does not look like an email address."
	return leads(scene(id, name, piece.FormScene, says(line), e, piece.Button{Words: "Send", Press: piece.Press{Do: piece.DoSend}, Counts: true}), always(to))
}

// ending closes a conversation, with ways to reach a person.
func ending(id, name string, blocks ...piece.Block) piece.Scene {
	return scene(id, name, piece.ThanksScene, blocks...)
}

func mailTo(words, address string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoMail, Address: address}, Counts: true}
}

func callTo(words, number string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoCall, Address: number}, Counts: true}
}

func messenger(words string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoOpen, Address: "https://chat.example.com", NewTab: true}, Counts: true}
}

// talking is how the conversation is drawn: who speaks, and what its tab says.
func talking(name, tab, face string) func(f *piece.Frame) {
	return func(f *piece.Frame) {
		f.Tab.Words, f.Talk = tab, &piece.Talk{Name: name, Face: face, Pace: "calm"}
	}
}

func talks() []Template {
	reach := []piece.Block{says("Then ask a person. Which way suits you?"), messenger("A messenger"), callTo("Call us", "+353 555 0100"), mailTo("Write to us", "hello@example.com")}
	calc := scene("sum", "What it costs", piece.FormScene, says("Move it until it fits."), slide("evenings", "Evenings a month", "", "1", "8", "1", "2"), value("total", "A month", 30), onward("That fits"))
	return []Template{
		start(Talk, piece.Chat, "Find your match", "conversation product finder chat branch", talking("Find your match", "Which one suits you?", "cup"),
			turn("hello", "What for", one("what", "What are you looking for?", pick("A present"), pick("Something for me"), pick("Just looking")), []string{"Hello! I help with choosing.", "What are you looking for?"},
				when("what", "a_present", "who"), when("what", "just_looking", "bye"), always("often")),
			turn("who", "Who for", one("who", "Who is it for?", pick("A friend"), pick("Family")), []string{"Lovely. Who is it for?"}, always("parcel")),
			turn("often", "How often", one("often", "How often would you use it?", pick("Every day"), pick("At weekends")), []string{"Good. How often would you use it?"}, always("own")),
			ending("parcel", "Parcels", says("A small parcel of favourites, wrapped, with a card."), open("See the parcels", "/shop")),
			ending("own", "Favourites", says("Then one of the plain ones: they go with everything."), open("See them", "/shop")),
			ending("bye", "Goodbye", says("Look around. I am here if you need me."))),
		start(Talk, piece.Chat, "Leave a question", "conversation contact question support lead", talking("Ask us", "A question?", "wave"),
			turn("hello", "Question or order", one("about", "What is it about?", pick("An order"), pick("Something else")), []string{"Hello! You write, a person answers.", "What is it about?"},
				when("about", "an_order", "order"), always("question")),
			leads(scene("order", "Order number", piece.FormScene, says("What is the number of your order? It is in our mail to you."), bareField(field(piece.AskText, "order", "Order number", true)), onward("Send")), always("question")),
			leads(scene("question", "The question", piece.FormScene, says("And what would you like to know?"), bareField(field(piece.AskText, "question", "Your question", true)), onward("Send")), always("ask")),
			kindly("ask", "Address", "Thank you. Where should the answer go?", "thanks"),
			ending("thanks", "Thank-you", says("It is with us. A person answers within a working day."))),
		start(Talk, piece.Chat, "Book a place", "conversation booking class date appointment", talking("Book a place", "Book a place", "sun"),
			turn("hello", "Before", one("before", "Have you been here before?", pick("Never"), pick("Yes")), []string{"Hello! Let us find you a place.", "Have you been here before?"}, when("before", "never", "first"), always("day")),
			spoken("first", "The first time", "day", says("Then the first evening is on us.")),
			turn("day", "Which day", one("day", "Which day suits you?", pick("Tuesday"), pick("Thursday"), pick("Neither")), []string{"Which day suits you?"}, when("day", "neither", "person"), always("ask")),
			kindly("ask", "Address", "Good. Where may we send the confirmation?", "thanks"),
			ending("thanks", "Thank-you", says("Your place is kept. We write today.")),
			ending("person", "A person", reach...)),
		start(Talk, piece.Chat, "Before they leave", "conversation exit leave objection offer", talking("A moment?", "May we ask why?", "leaf"),
			turn("hello", "Why", one("why", "What keeps you from ordering?", pick("The price"), pick("Delivery"), pick("I am not sure yet"), pick("Nothing")), []string{"May I ask one thing?", "What keeps you from ordering?"},
				when("why", "the_price", "price"), when("why", "delivery", "delivery"), when("why", "nothing", "bye"), always("person")),
			kindly("price", "Price", "That is fair. Shall we send you 10 % off? Where to?", "thanks"),
			spoken("delivery", "Delivery", "thanks2", says("Two days, and free from 40. It comes back for nothing, too.")),
			ending("thanks", "Thank-you", says("It is on its way. Look for our message in a minute or two.")),
			ending("thanks2", "Shop", open("Back to the shop", "/shop")),
			ending("person", "A person", reach...),
			ending("bye", "Goodbye", says("Good. Thank you for looking in."))),
		start(Talk, piece.Inline, "A cost in a chat", "conversation calculator price inline", talking("What will it cost?", "What will it cost?", "star"),
			turn("hello", "Why", one("level", "Have you done this before?", pick("Never"), pick("A little"), pick("Often")), []string{"I reckon up what a month costs.", "Have you done this before?"}, always("sum")),
			leads(calc, always("ask")),
			kindly("ask", "Address", "That is {total} a month. Shall we send you the dates?", "thanks"),
			ending("thanks", "Thank-you", says("They are on their way."))).
			computing(money("total", "evenings * 18.2", 2)),
		start(Talk, piece.Chat, "Three questions and a box", "conversation quiz prize draw boxes chat", talking("A box for you", "Three questions, one box", "star"),
			turn("q1", "For whom", one("who", "Who are you looking for?", pick("Me"), pick("Somebody else")), []string{"Three short questions, and a box to open.", "Who are you looking for?"}, always("q2")),
			turn("q2", "When", one("when", "When do you need it?", pick("This week"), pick("Later")), []string{"When do you need it?"}, always("q3")),
			kindly("q3", "Address", "And where may we send what is in the box?", "box"),
			spun(scene("box", "The box", piece.FormScene, says("Pick one."), drawing("boxes", "Open", 260, usualPrizes()...)), "won"),
			ending("won", "Won", says("{prize|Your prize} is yours."), wonCode()),
			ending("lost", "Not won", says("Not this time. Thank you for playing."))),
	}
}
