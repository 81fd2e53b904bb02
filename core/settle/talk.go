package settle

import (
	"fmt"

	"gobbet/core/fault"
	"gobbet/core/piece"
)

// talk looks at a conversation: one that never asks, that asks the same twice on
// one way, or has lines that go on by themselves where nothing does.
func (n *notes) talk(format piece.Format, d piece.Design) {
	talks := format == piece.Chat || format == piece.Inline && d.Frame.Talk != nil
	asks := false
	for i, s := range d.Scenes {
		at := n.at + "." + fault.Index("scenes", i)
		if s.Passes && !talks {
			n.add(Stop, "passes_alone", at, fmt.Sprintf("“%s”%s continues by itself, which only works in a conversation.", s.Name, n.where), "Add a button, or change the format to chat.")
		}
		for b := range s.All() {
			f, ok := piece.Asked(b)
			asks = asks || ok && f.Ask != piece.AskHidden
		}
	}
	if !talks {
		return
	}
	if !asks {
		n.add(Warn, "never_asks", n.at+".scenes", "The conversation"+n.where+" never asks anything.", "Ask a question with answers to choose from.")
	}
	for _, twice := range askedTwice(d) {
		n.add(Warn, "asks_twice", n.at+"."+fault.Index("scenes", twice.scene), fmt.Sprintf("“%s”%s asks for %s, which was asked before on the same way.", d.Scenes[twice.scene].Name, n.where, twice.what), "Ask it once, before the ways part.")
	}
}

type twice struct {
	scene int
	what  string
}

// askedTwice finds scenes that ask for an address, a telephone number or a name
// which another scene on some way to them has asked already.
func askedTwice(d piece.Design) (found []twice) {
	index := map[string]int{}
	for i, s := range d.Scenes {
		index[s.ID] = i
	}
	asked := func(i int) map[piece.Ask]bool {
		asks := map[piece.Ask]bool{}
		for b := range d.Scenes[i].All() {
			if f, ok := b.(piece.Field); ok {
				asks[f.Ask] = true
			}
		}
		return asks
	}
	for _, what := range []struct {
		ask  piece.Ask
		name string
	}{{piece.AskEmail, "an email address"}, {piece.AskPhone, "a telephone number"}, {piece.AskName, "a name"}} {
		for i := range d.Scenes {
			if !asked(i)[what.ask] {
				continue
			}
			// What can be come to after it, but not it itself by a way round.
			after, next := map[int]bool{i: true}, []int{i}
			for len(next) > 0 {
				at := next[0]
				next = next[1:]
				for _, e := range d.Scenes[at].Edges {
					if to, ok := index[e.To]; ok && !after[to] {
						after[to] = true
						next = append(next, to)
						if asked(to)[what.ask] && to > i {
							found = append(found, twice{to, what.name})
						}
					}
				}
			}
		}
	}
	return found
}
