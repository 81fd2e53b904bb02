package templates

import "gobbet/core/piece"

func grow() []Template {
	return []Template{
		start(Grow, piece.Popup, "Letter with a picture", "newsletter sign-up list picture", looks(wide(760), beside("letter", "start", 44)),
			form("Sign-up", over("The monthly letter"), h("Good things, once a month", 32), t("New pieces, early dates and one useful idea. No more than one letter a month.", 16), email(), send("Send me the letter"), no("Not now")),
			thanks(h("Thank you", 32), t("The next letter comes to you. Until then, have a look around.", 16), done("Back to the page"))),
		start(Grow, piece.Popup, "Plain letter", "newsletter sign-up simple text", looks(wide(480)),
			form("Sign-up", append(mid(icon("letter", 44), h("Stay in touch", 34), t("A short letter now and then, with what is new and what is worth knowing.", 17)), first(), email(), send("Count me in"))...),
			thanks(mid(h("Welcome, {first name|friend}", 30), t("You will hear from us soon.", 16), done("Carry on"))...)),
		start(Grow, piece.FlyIn, "Corner letter", "newsletter sign-up small corner", nil,
			form("Sign-up", h("Before anyone else", 24), t("Hear of new arrivals a day early.", 15), email(), send("Tell me first")),
			thanks(h("You are on the list", 24), t("We write when something new arrives.", 15), done("Good"))),
		start(Grow, piece.Bar, "One-line letter", "newsletter sign-up bar line", looks(washed),
			form("Sign-up", t("One letter a month, nothing else.", 16), bare(email(), "Your email"), narrow(send("Sign up"))),
			thanks(t("Thank you. The next letter comes to you.", 16), narrow(done("Close")))),
		start(Grow, piece.Inline, "Letter in the page", "newsletter sign-up inline embed article", looks(washed),
			form("Sign-up", cols(32, []int{50, 50}, box("", h("Liked this? There is more.", 26), t("One letter a month with what we make, read and learn.", 16)), box("", email(), send("Send it to me")))),
			thanks(h("Thank you", 26), t("The next letter is yours.", 16))),
		start(Grow, piece.Full, "A whole page for the letter", "newsletter sign-up full welcome", looks(filled),
			form("Sign-up", append(mid(h("Be here when it happens", 52), t("New things, small runs, early dates. Leave your address and be among the first.", 19)), email(), send("Put me on the list"), no("Take me to the site"))...),
			thanks(mid(h("See you soon", 48), t("The next letter is yours.", 19), done("To the site"))...)),
		start(Grow, piece.Sheet, "Join at the side", "newsletter sign-up sheet side", looks(beside("cup", "top", 34)),
			form("Sign-up", h("A letter to read with your coffee", 30), t("Stories from behind the counter, and first pick of what is new.", 16), first(), email(), send("Pour me one")),
			thanks(h("Lovely", 30), t("The first one comes on Sunday.", 16), done("Back to the page"))),
		start(Grow, piece.Popup, "Friends' list", "members club join", looks(wide(520), outlined),
			form("Sign-up", over("Friends' list"), h("Join, and get more out of it", 32), list("tick", "First pick of small runs", "A gift on your birthday", "An invitation twice a year"), email(), send("Join the list")),
			thanks(h("Welcome among friends", 30), t("You hear of everything first from now on.", 16), done("Carry on"))),
		start(Grow, piece.Popup, "Spring letter", "spring flowers newsletter season", looks(wide(740), beside("spring", "end", 46)),
			form("Sign-up", h("Something is coming up", 34), t("Be told when the spring things are out.", 17), email(), send("Tell me")),
			thanks(h("We will tell you", 32), t("As soon as the first ones are out.", 16), done("Back to the page"))).in("spring"),
	}
}

func offer() []Template {
	codeThanks := func(say string) piece.Scene {
		return thanks(h("Here is your code", 30), t(say, 16), code("WELCOME10"), done("Use it now"))
	}
	return []Template{
		start(Offer, piece.Popup, "Ten per cent, first order", "discount welcome code percent", looks(wide(760), beside("tag", "end", 42)),
			form("Offer", over("For your first order"), h("Take 10 % off", 44), t("Leave your address and the code is yours at once.", 16), email(), send("Show me the code"), no("I pay the full price")),
			codeThanks("Type it in at the till. It works once, on everything.")),
		start(Offer, piece.Popup, "Big number", "discount percent bold", looks(wide(440), filled),
			form("Offer", append(mid(t("Today", 18), h("−15 %", 92), t("on everything in your basket", 18)), email(), send("Get my code"))...),
			thanks(append(mid(h("Yours", 40)), code("TODAY15"), done("Back to the shop"))...)),
		start(Offer, piece.Bar, "Free delivery line", "shipping bar announcement", looks(filled),
			plain("ask", "Offer", t("Free delivery on orders over 50, until Sunday.", 16), narrow(open("See what fits", "/shop")))),
		start(Offer, piece.Bar, "Countdown line", "timer urgency bar sale", looks(inked),
			plain("ask", "Offer", t("10 % off ends in", 16), bareTimer(120), narrow(open("Shop now", "/shop")))),
		start(Offer, piece.FlyIn, "Code in the corner", "discount code corner small", nil,
			plain("ask", "Offer", over("A small thank-you"), h("5 % off your next order", 24), code("AGAIN5"), open("Use it", "/shop"))),
		start(Offer, piece.FlyIn, "Nearly there", "basket delivery free threshold", looks(at(piece.BottomStart)),
			plain("ask", "Offer", icon("truck", 34), h("Nearly free delivery", 23), t("A little more in the basket and we pay the post.", 15), piece.Progress{Look: "bar", Value: 80}, open("See small things", "/shop"))),
		start(Offer, piece.Full, "Sale is on", "sale full screen announcement", looks(inked, func(f *piece.Frame) { f.Behind = piece.Behind{Picture: Hash("confetti"), Shade: 40} }),
			plain("ask", "Offer", mid(h("The sale is on", 64), t("Until Sunday, up to 40 % off.", 20), narrow(open("Go to the sale", "/shop")), no("Later"))...)),
		start(Offer, piece.Popup, "Winter offer", "winter snow discount season", looks(wide(740), beside("winter", "start", 46)),
			form("Offer", h("Warm inside, 10 % off", 34), t("Leave your address and we send the code.", 16), email(), send("Send me the code")),
			codeThanks("Good until the snow melts, or the end of January.")).in("winter"),
		start(Offer, piece.Popup, "Gift season", "gift holiday present season", looks(wide(760), beside("gift", "end", 44)),
			form("Offer", h("Wrapped, tagged and on time", 34), t("Order by the 18th and we wrap it for nothing. Leave your address for a reminder.", 16), email(), send("Remind me")),
			thanks(h("We will remind you", 30), t("A few days ahead, with ideas.", 16), done("Back to the shop"))).in("winter"),
		start(Offer, piece.Bar, "Summer line", "summer bar sale season", looks(func(f *piece.Frame) {
			f.Background, f.Ink, f.Accent, f.AccentInk = "#ffd97a", "#3a2a10", "#3a2a10", "#fff6dd"
		}),
			plain("ask", "Offer", t("Summer prices are here: up to 30 % off.", 16), narrow(open("Have a look", "/shop")))).in("summer"),
		start(Offer, piece.Sheet, "Summer at the side", "summer sheet sale season", looks(beside("summer", "top", 40)),
			plain("ask", "Offer", h("Out of the drawer, into the sun", 30), t("Everything for warm days, at summer prices.", 16), list("tick", "Up to 30 % off", "Delivered in two days", "Back within a month"), open("See it all", "/shop"), no("Not today"))).in("summer"),
		start(Offer, piece.Popup, "Autumn sale", "autumn leaves sale season", looks(wide(560), beside("autumn", "top", 38)),
			form("Offer", append(mid(h("Autumn prices", 36), t("Leave your address and take 10 % off what keeps you warm.", 16)), email(), send("Send me the code"))...),
			codeThanks("Good until the last leaf is down.")).in("autumn"),
	}
}

func give() []Template {
	return []Template{
		start(Give, piece.Popup, "A guide to take along", "guide download book lead", looks(wide(780), beside("guide", "start", 45)),
			form("Guide", over("For nothing"), h("The short guide to choosing well", 32), t("Twelve pages, written by those who make it.", 16), first(), email(), send("Send me the guide")),
			thanks(h("It is on its way", 32), t("Look for our message in a minute or two.", 16), done("Back to the page"))),
		start(Give, piece.FlyIn, "Checklist in the corner", "checklist download corner", nil,
			form("Checklist", icon("check", 34), h("The one-page checklist", 24), t("Everything to think of, on one sheet.", 15), email(), send("Send it")),
			thanks(h("Sent", 24), t("It is in your inbox.", 15), done("Good"))),
		start(Give, piece.Inline, "Guide in the page", "guide inline article download", looks(outlined),
			form("Guide", cols(26, []int{30, 70}, art("guide", "An open book", 80), box("", h("Take it with you", 25), t("This article as a guide to print, with the tables.", 16), email(), send("Send me the guide")))),
			thanks(h("It is on its way", 25), t("Look for our message in a minute or two.", 16))),
		start(Give, piece.Popup, "A sample by post", "sample free parcel post", looks(wide(760), beside("parcel", "end", 42)),
			form("Sample", h("Try one first", 34), t("We send a sample. It costs you nothing but your address.", 16), first(), email(), send("Send me a sample")),
			thanks(h("Packed", 32), t("We write for your postal address, and off it goes.", 16), done("Back to the page"))),
		start(Give, piece.Sheet, "Course by mail", "course lessons mail sheet", looks(washed),
			form("Course", over("A course by mail"), h("Five lessons, five days", 32), list("number", "What you need", "What you do not", "The first try", "What went wrong", "The second try"), email(), send("Start tomorrow")),
			thanks(h("Lesson one comes tomorrow", 28), t("At eight, with your coffee.", 16), done("Back to the page"))),
	}
}

func announce() []Template {
	return []Template{
		start(Announce, piece.Popup, "Something new", "news launch new product picture", looks(wide(520), beside("confetti", "top", 36)),
			plain("ask", "News", mid(over("New"), h("It is here", 40), t("We worked on it for a year. Come and see.", 17), open("Show me", "/shop"), no("Later"))...)),
		start(Announce, piece.Bar, "News line", "news bar announcement plain", nil,
			plain("ask", "News", t("We are open on Sundays now.", 16), quietLink(open("See the hours", "/")))),
		start(Announce, piece.FlyIn, "A date", "event date invitation corner", looks(beside("calendar", "top", 36)),
			plain("ask", "Invitation", h("Thursday, seven o'clock", 23), t("An evening for neighbours. Bring a friend.", 15), open("Tell me more", "/"), no("I cannot come"))),
		start(Announce, piece.Popup, "Opening hours", "hours notice information", looks(wide(420)),
			plain("ask", "Notice", append(mid(icon("clock", 44), h("Closed for a week", 30), t("From the 3rd to the 10th. Orders placed now leave on the 11th.", 16)), piece.Button{Words: "Understood", Press: piece.Press{Do: piece.DoClose}, Counts: true})...)),
		start(Announce, piece.Sheet, "What is new, in a list", "news changelog list sheet", nil,
			plain("ask", "News", over("This month"), h("Three new things", 30), divider(), h("Longer hours", 20), t("Open until eight from Monday to Friday.", 15), divider(), h("Pay as you like", 20), t("In parts, or all at once.", 15), divider(), h("Collect in the shop", 20), t("Order by noon, collect by four.", 15), open("Read more", "/"))),
		start(Announce, piece.Inline, "Notice in the page", "notice inline hint", looks(filled),
			plain("ask", "Notice", cols(20, []int{75, 25}, t("This is back in stock, but not for long.", 17), open("Show me", "/shop")))),
		start(Announce, piece.Bar, "Winter hours", "winter bar hours season", looks(func(f *piece.Frame) {
			f.Background, f.Ink, f.Accent, f.AccentInk = "#dfeaf0", "#1f3640", "#1f3640", "#ffffff"
		}),
			plain("ask", "News", t("Order by the 18th to have it before the holidays.", 16), narrow(open("Order now", "/shop")))).in("winter"),
	}
}

func ask() []Template {
	return []Template{
		start(Ask, piece.FlyIn, "How likely, 0 to 10", "rating recommend score feedback", looks(wide(400)),
			form("Question", h("Would you send a friend to us?", 22), labelled(field(piece.AskScale, "score", "0 is never, 10 is at once", true)), send("That is my answer")),
			thanks(h("Thank you", 24), t("We read every answer.", 15), done("Close"))),
		start(Ask, piece.FlyIn, "Five stars", "rating stars feedback", nil,
			form("Question", h("How was it?", 24), labelled(field(piece.AskStars, "stars", "Stars", true)), field(piece.AskLong, "why", "What should we know?", false), send("Send")),
			thanks(h("Thank you", 24), t("That helps.", 15), done("Close"))),
		start(Ask, piece.Popup, "One question", "poll choice question", looks(wide(460)),
			form("Question", h("What brought you here today?", 28), labelled(choice(piece.AskChoice, "reason", "Your answer", "Just looking", "Something for me", "A present", "A question")), send("Answer")),
			thanks(h("Thank you", 28), t("That helps us to put the right things first.", 16), done("Back to the page"))),
		start(Ask, piece.Inline, "Was this useful?", "helpful inline article feedback", nil,
			form("Question", h("Was this useful?", 22), labelled(choice(piece.AskChoice, "useful", "Your answer", "Yes", "In part", "No")), field(piece.AskText, "missing", "What is missing?", false), send("Tell us")),
			thanks(h("Thank you for telling us", 22))),
		start(Ask, piece.Sheet, "Call me back", "phone callback contact sheet", looks(beside("talk", "top", 30)),
			form("Request", h("May we call you?", 30), t("On working days between nine and five.", 16), first(), field(piece.AskPhone, "phone", "Telephone", true), field(piece.AskConsent, "may_call", "You may call me about this once.", true), send("Please call me")),
			thanks(h("We will call", 30), t("On the next working day.", 16), done("Back to the page"))),
		start(Ask, piece.Popup, "Ask about size", "preferences choices profile", looks(wide(500), washed),
			form("Question", h("Only what suits you", 30), labelled(choice(piece.AskChoices, "likes", "What would you like to hear of?", "New arrivals", "Sales", "Events", "How things are made")), email(), send("Keep it to that")),
			thanks(h("Noted", 30), t("You will hear of that, and of nothing else.", 16), done("Back to the page"))),
	}
}

func guide() []Template {
	return []Template{
		start(Guide, piece.FlyIn, "Can we help?", "help contact messenger corner", nil,
			plain("ask", "Help", h("Can we help?", 24), t("Ask, and a person answers.", 15), piece.Button{Words: "Write to us", Press: piece.Press{Do: piece.DoMail, Address: "hello@example.com"}, Counts: true}, links(), no("I am fine"))),
		start(Guide, piece.Popup, "Two ways on", "choice segment path", looks(wide(620)),
			plain("ask", "Question", append(mid(h("What are you looking for?", 32), t("Two ways on from here.", 16)), cols(16, []int{50, 50}, box("@soft", mid(icon("gift", 40), h("A present", 22), t("Wrapped and on time.", 15), open("For others", "/shop"))...), box("@soft", mid(icon("heart", 40), h("Something for me", 22), t("New and tried.", 15), open("For me", "/shop"))...)))...)),
		start(Guide, piece.Popup, "Yes or no first", "ask decline two step", looks(wide(480)),
			plain("first", "Question", mid(h("Would you like 10 % off?", 34), t("It takes one line.", 16), to("Yes, please", "ask"), lined(openPlain("No, show me what is new", "/shop")))...),
			form("Form", h("Where should it go?", 30), email(), send("Send me the code")),
			thanks(h("It is on its way", 30), t("Look for our message in a minute or two.", 16), done("Back to the shop"))),
		start(Guide, piece.Bar, "Where to begin", "links bar navigate", looks(washed),
			plain("ask", "Way", t("New here?", 16), quietLink(open("Begin with the favourites", "/shop")), quietLink(open("Read how it is made", "/")))),
		start(Guide, piece.Sheet, "Three steps in", "steps onboarding how sheet", nil,
			plain("ask", "Way", h("How it works", 30), cols(14, []int{15, 85}, icon("basket", 36), box("", h("Choose", 19), t("Take your time, ask if unsure.", 15))), cols(14, []int{15, 85}, icon("parcel", 36), box("", h("We pack", 19), t("The same day, if it is before two.", 15))), cols(14, []int{15, 85}, icon("truck", 36), box("", h("It arrives", 19), t("In two days, or we pay the post.", 15))), open("Begin", "/shop"))),
	}
}

func keep() []Template {
	return []Template{
		start(Keep, piece.Popup, "Before you go", "exit leaving offer", looks(wide(500), filled),
			form("Offer", h("Before you go", 42), t("Take 10 % along. We send the code, you decide when.", 17), email(), send("Send me the code"), no("No, thank you")),
			thanks(h("It is on its way", 38), t("Look for our message in a minute or two.", 17), done("Back to the page"))),
		start(Keep, piece.Popup, "Keep my basket", "exit basket cart save", looks(wide(720), beside("basket", "start", 42)),
			form("Basket", h("Shall we keep your basket?", 32), t("Leave your address and we send it to you. It is there when you come back.", 16), email(), send("Keep it for me")),
			thanks(h("Kept", 32), t("The link to it is in your inbox.", 16), done("Carry on"))),
		start(Keep, piece.Popup, "One more minute", "exit timer offer urgency", looks(wide(460), inked),
			form("Offer", append(mid(h("One more minute?", 36), t("Order within a quarter of an hour and delivery is on us.", 17), minutes(15)), open("Back to my basket", "/basket"), no("I will pay for delivery"))...)),
		start(Keep, piece.Full, "Did you find it?", "exit search question full", nil,
			form("Question", mid2(h("Did you find what you were looking for?", 44), field(piece.AskText, "missing", "What was it?", true), email(), send("Tell me when you have it"), no("I found it"))...),
			thanks(mid(h("We will look", 44), t("And write to you, yes or no.", 18), done("Carry on"))...)),
		start(Keep, piece.FlyIn, "Read it later", "article save later reader", nil,
			form("Save", icon("book", 34), h("Read on later?", 24), t("We send you this page, and that is all.", 15), email(), send("Send me the page")),
			thanks(h("Sent", 24), t("Good reading.", 15), done("Close"))),
	}
}

func bare(f piece.Field, hint string) piece.Field {
	f.Bare, f.Hint = true, hint
	return f
}

func labelled(f piece.Field) piece.Field { return f }

func bareTimer(n int) piece.Timer {
	t := minutes(n)
	t.Boxed, t.Size = false, 18
	return t
}

func quietLink(b piece.Button) piece.Button {
	b.Quiet = true
	return b
}

// openPlain leads away without counting.
func openPlain(words, address string) piece.Button {
	b := open(words, address)
	b.Counts = false
	return b
}

func divider() piece.Divider { return piece.Divider{Thick: 1, Width: 100} }

func mid2(first piece.Block, rest ...piece.Block) []piece.Block { return append(mid(first), rest...) }

func links() piece.Links {
	item := func(name, label, address string) piece.LinkItem {
		return piece.LinkItem{Name: name, Path: Icons[name], Label: label, Address: address}
	}
	return piece.Links{Items: []piece.LinkItem{item("phone", "Call us", "tel:+3535550100"), item("talk", "Chat with us", "https://chat.example.com")}, Named: true, Size: 24, Align: "start", Color: "@accent"}
}
