package templates

import "gobbet/core/piece"

// blanks are what a piece of one's own begins as, where that is not a sign-up:
// its scenes and how they lead, with text that stands for one's own.
var blanks = []Template{
	start(Quiz, piece.Popup, "Blank quiz", "", looks(wide(520)),
		called("Question 1", asking("q1", "q2", answersTo("question_1"))),
		called("Question 2", asking("q2", "gate", answersTo("question_2"))),
		gate("Sign-up", "Your result is ready", "A line or two.", "Show my result", most("result_1"), always("result_2")),
		called("Result 1", result("result_1", "Your result", "What it means, and what to do next.", done("Back to the page"))),
		called("Result 2", result("result_2", "Your result", "What it means, and what to do next.", done("Back to the page")))).latest(),
	start(Reckon, piece.Popup, "Blank calculator", "", looks(wide(480)),
		computed("Calculator"),
		thanks(h("Thank you, {first name|friend}", 28), t("Say what happens next, and when.", 16), done("Back to the page"))).computing(piece.Formula{Name: "total", Formula: "amount * number"}),
}

// answersTo is a question whose first answers speak for the first result, and
// the next for the second.
func answersTo(key string) piece.Field {
	return one(key, "What would you like to know?", speaks("First answer", "result_1"), speaks("Second answer", "result_2"), pick("Third answer"))
}

// computed is a scene of two inputs, what they come to, and a sign-up.
func computed(name string) piece.Scene {
	s := scene("calc", name, piece.FormScene,
		h("What will it cost?", 26), slide("amount", "How many?", "", "0", "20", "1", "5"), slide("number", "How much each?", "", "0", "50", "1", "10"),
		value("total", "In all", 44), email(), piece.Button{Words: "Send it to me", Press: piece.Press{Do: piece.DoSend}, Counts: true})
	s.Edges = []piece.Edge{always("thanks")}
	return s
}

func called(name string, s piece.Scene) piece.Scene {
	s.Name = name
	return s
}
