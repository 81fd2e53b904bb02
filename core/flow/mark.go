package flow

import "gobbet/core/piece"

// Mark says how an answer was.
type Mark struct {
	Right bool `json:"right"`
	// Answer is the right one, where it is a choice: ids, by lines.
	Answer      string `json:"answer,omitempty"`
	Explanation string `json:"explanation,omitempty"`
}

// Marks tells what was right on a scene whose fields reveal it, by their keys.
func (w *Walk) Marks(id string) map[string]Mark {
	marks := map[string]Mark{}
	for _, f := range w.g.Form(id).Fields {
		if !f.Reveal {
			continue
		}
		m := Mark{Right: f.IsRight(w.Answers[f.Key]), Explanation: f.Explanation}
		for _, c := range f.Choices {
			if c.Right || f.Ask == piece.AskOrder {
				m.Answer += c.ID + "\n"
			}
		}
		m.Answer = trimLine(m.Answer)
		marks[f.Key] = m
	}
	return marks
}

func trimLine(s string) string {
	if s != "" && s[len(s)-1] == '\n' {
		return s[:len(s)-1]
	}
	return s
}
