package flow

import (
	"gobbet/core/answer"
	"gobbet/core/piece"
)

// Polled lists the keys whose answers are counted for everyone to see.
func (g *Graph) Polled() (keys map[string]bool) {
	keys = map[string]bool{}
	for i := range g.scenes {
		for b := range g.scenes[i].All() {
			if t, ok := b.(piece.Tally); ok {
				keys[t.Key] = true
			}
		}
	}
	return keys
}

// Tallies lists what a scene shows of how everyone answered.
func (g *Graph) Tallies(id string) (tallies []piece.Tally) {
	for b := range g.scenes[g.at[id]].All() {
		if t, ok := b.(piece.Tally); ok {
			tallies = append(tallies, t)
		}
	}
	return tallies
}

// Votes gives the ids of the choices that answers take of a polled field.
func (g *Graph) Votes(key, given string) (choices []string) {
	f := g.fields[key].field
	f.Taken(given, func(i int) { choices = append(choices, f.Choices[i].ID) })
	return choices
}

// Tell calls do with what of an answer can be counted: the ids of choices, of
// those that are put in order the first, the steps of a rating, the range that a
// number is in, and the empty text for its being there at all. Texts are not
// counted by what they say.
func (g *Graph) Tell(key, given string, do func(choice string)) {
	f := g.fields[key].field
	switch {
	case given == "":
		return
	case f.Ask == piece.AskOrder:
		first := true
		f.Taken(given, func(i int) {
			if first {
				do(f.Choices[i].ID)
			}
			first = false
		})
	case len(f.Choices) > 0:
		f.Taken(given, func(i int) { do(f.Choices[i].ID) })
	case f.Ask == piece.AskStars || f.Ask == piece.AskScale:
		do(given)
	default:
		r, ok := answer.In(g.fields[key].ranges, given)
		if !ok {
			return
		}
		do(r.ID)
	}
	do("")
}
