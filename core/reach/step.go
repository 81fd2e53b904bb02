package reach

// Step is one clause of a rule judged on its own.
type Step struct {
	At      string  `json:"at"`
	Verdict Verdict `json:"verdict" tstype:"Verdict"`
	Actual  any     `json:"actual"`
	Phrase  string  `json:"phrase"`
}

// Line is one line of a rule written below one another: a clause, or the words
// that open a group of the deeper lines after it.
type Line struct {
	At      string  `json:"at"`
	Depth   int     `json:"depth"`
	Group   bool    `json:"group"`
	Phrase  string  `json:"phrase"`
	Verdict Verdict `json:"verdict" tstype:"Verdict"`
	Actual  any     `json:"actual"`
	// Waiting is what the line waits for: a rule over moments, or nil.
	Waiting Rule `json:"waiting" tstype:"Rule | null"`
}

// Lines writes the rule out, each line judged on its own. Groups of one part
// and an outermost All have no line of their own.
func (p *Program) Lines(v *Visit) []Line {
	lines := []Line{}
	var write func(n *Node, depth int, not bool)
	write = func(n *Node, depth int, not bool) {
		phrase := ""
		switch {
		case n.Shape == Asks:
			phrase = n.Test.phrase(p.called, OpSays)
		case n.Shape == NotOf:
			write(&n.Parts[0], depth, !not)
			return
		case len(n.Parts) == 1:
			write(&n.Parts[0], depth, not)
			return
		case len(n.Parts) == 0:
			phrase = n.phrase(p.called, true)
		case n.Shape == AllOf:
			phrase = "all of"
		default:
			phrase = "any of"
		}
		line := Line{At: n.At, Depth: depth, Group: len(n.Parts) > 0, Phrase: phrase, Verdict: n.judge(v)}
		if n.Shape == Asks {
			line.Actual = v.get(n.Test.slot, n.Test.name).actual()
		}
		if line.Verdict == Waits {
			line.Waiting = n.waiting(v)
		}
		if not {
			line.Phrase, line.Verdict = "not: "+line.Phrase, Yes-line.Verdict
			if n.Shape == Asks && OpSaysNot[n.Test.Op] != "" {
				line.Phrase = n.Test.phrase(p.called, OpSaysNot)
			}
			if line.Waiting != nil {
				line.Waiting = Not{line.Waiting}
			}
		}
		// The outermost All is the rule itself.
		if line.Group && depth == 0 && n.Shape == AllOf && !not {
			for i := range n.Parts {
				write(&n.Parts[i], 0, false)
			}
			return
		}
		lines = append(lines, line)
		for i := range n.Parts {
			write(&n.Parts[i], depth+1, false)
		}
	}
	write(&p.root, 0, false)
	return lines
}
