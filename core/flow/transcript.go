package flow

import (
	"math/rand/v2"
	"regexp"
	"strings"

	"gobbet/core/piece"
)

// Said is a line of a conversation.
type Said struct {
	// Visitor says that the visitor said it, rather than the piece.
	Visitor bool   `json:"visitor,omitempty"`
	Scene   string `json:"scene"` // its id
	Text    string `json:"text"`
}

const maxSaid = 120 // lines

// Transcript is one made-up visitor's way through a graph as a conversation: what
// each scene says, and what they answer. The same seed gives the same.
func (g *Graph) Transcript(seed uint64) (said []Said) {
	r := rand.New(rand.NewPCG(seed, 2))
	w := g.Begin()
	for len(said) < maxSaid {
		s := w.scene()
		said = append(said, g.lines(s, w)...)
		if w.Ended {
			break
		}
		ways := s.likely()
		step := Step{Scene: s.ID, Press: ways[r.IntN(len(ways))]}
		if s.presses[step.Press].takes {
			step.Values = g.anyAnswers(s, r)
		}
		if w.TakeDrawing(step, r) != nil {
			break
		}
		if answer := g.answered(s, w, step.Press); answer != "" {
			said = append(said, Said{Visitor: true, Scene: s.ID, Text: answer})
		}
		if w.Ended && w.At() == s.ID {
			break
		}
	}
	return said
}

// lines are what a scene says: its words, and what it asks.
func (g *Graph) lines(s *scene, w *Walk) (said []Said) {
	answers := sofar{w: w}
	for b := range s.All() {
		text := ""
		switch b := b.(type) {
		case piece.Heading:
			text = b.Text.String()
		case piece.Text:
			text = b.Text.String()
		case piece.Field:
			if b.Ask != piece.AskHidden && !b.Bare {
				text = b.Label
			}
		case piece.PrizeDraw:
			text = "(" + b.Label + ")"
		}
		if text = strings.TrimSpace(g.merged(&answers, text)); text != "" {
			said = append(said, Said{Scene: s.ID, Text: text})
		}
	}
	return said
}

// mergeField is {key}, or {key|otherwise}, with what stands before it: as the
// page script has it (fill.ts).
var mergeField = regexp.MustCompile(`(,?\s*)\{([^{}|]{1,40})(?:\|([^{}]{0,80}))?\}`)

// sofar is what was answered by now, in words: those of a scene's fields are made
// once, however many merge fields ask for them.
type sofar struct {
	w    *Walk
	said map[int]map[string]string // by scene, and key
}

func (a *sofar) of(g *Graph, scene int, key string) string {
	said, ok := a.said[scene]
	if !ok {
		if a.said == nil {
			a.said = map[int]map[string]string{}
		}
		said = g.scenes[scene].form.Said(a.w.Answers)
		a.said[scene] = said
	}
	return said[key]
}

// merged fills merge fields in with what was answered by now.
func (g *Graph) merged(a *sofar, text string) string {
	return mergeField.ReplaceAllStringFunc(text, func(field string) string {
		m := mergeField.FindStringSubmatch(field)
		key := strings.ReplaceAll(strings.ToLower(strings.TrimSpace(m[2])), " ", "_")
		said := m[3]
		if p, ok := g.fields[key]; ok && a.w.Answers[key] != "" {
			said = strings.ReplaceAll(a.of(g, p.scene, key), "\n", ", ")
		}
		if said == "" {
			return ""
		}
		return m[1] + said
	})
}

// answered is what a visitor said by a step: their answers as they are read, or
// the words of the button.
func (g *Graph) answered(s *scene, w *Walk, press string) string {
	var all []string
	said := s.form.Said(w.Answers)
	for i := range s.form.Fields {
		if answer := said[s.form.Fields[i].Key]; answer != "" && s.presses[press].takes {
			all = append(all, strings.ReplaceAll(answer, "\n", ", "))
		}
	}
	if len(all) > 0 {
		return strings.Join(all, " · ")
	}
	for b := range s.All() {
		if button, ok := b.(piece.Button); ok && button.ID == press {
			return button.Words
		}
	}
	return ""
}
