package settle

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/formula"
	"gobbet/core/piece"
)

// ways looks at what can come of going through a design: results nobody can
// get, scores that lead nowhere, loops, gates that can be passed by, formulas
// without a value. The variants of a piece share what may be done for one.
func (n *notes) ways(d piece.Design, variants int) {
	g, err := flow.Of(d)
	if err != nil {
		return // a document that was read has none of this
	}
	at := func(id string) string {
		i := slices.IndexFunc(d.Scenes, func(s piece.Scene) bool { return s.ID == id })
		return n.at + "." + fault.Index("scenes", i)
	}
	name := func(id string) string { s, _ := d.Scene(id); return s.Name }
	reached := Reached(d)
	found := g.Explore(flow.MaxWork / variants)
	for _, s := range d.Scenes {
		if s.Kind == piece.ResultScene && reached[s.ID] && found.Whole {
			if _, ok := found.Scores[s.ID]; !ok {
				n.add(Warn, "result_never", at(s.ID), fmt.Sprintf("Nobody can get the result “%s”%s, however they answer.", s.Name, n.where), "Change the scores, the weights or the conditions that lead there.")
			}
		}
		if scores := found.Leaves[s.ID]; len(scores) > 0 && slices.ContainsFunc(s.Edges, func(e piece.Edge) bool { return len(e.When) > 0 }) {
			n.add(Warn, "gap", at(s.ID), fmt.Sprintf("After “%s”%s some visitors get nothing: with %s no condition holds, and the piece closes.", s.Name, n.where, scored(scores)), "Add where it goes otherwise.")
		}
		if s.Limit > 0 && g.Gate(s.ID) {
			n.add(Warn, "gate_limit", at(s.ID)+".limit", fmt.Sprintf("“%s”%s has a time limit, but nobody gets past it without an address.", s.Name, n.where), "Remove the limit.")
		}
	}
	for _, id := range g.Trapped() {
		n.add(Stop, "endless", at(id), fmt.Sprintf("From “%s”%s nobody comes to an end: every way leads in a circle.", name(id), n.where), "Lead one way to a result or out of the piece.")
	}
	for _, id := range g.Ungated() {
		n.add(Warn, "gate_skipped", at(id), fmt.Sprintf("The result “%s”%s can be reached without leaving an address.", name(id), n.where), "Lead every way to it through the sign-up, or delete the sign-up.")
	}
	for _, id := range g.UngatedPrizes() {
		n.add(Warn, "prize_ungated", at(id), fmt.Sprintf("The code of the prize in “%s”%s can be had without leaving an address.", name(id), n.where), "Lead every way to it through the sign-up, or remove the sign-up.")
	}
	for _, b := range g.Breaking(flow.MaxTries / variants) {
		place := n.at + "." + fault.Index("formulas", b.Formula) + ".formula"
		n.add(Warn, "no_value", place, fmt.Sprintf("“%s”%s has no value with %s: %s (at character %d).", d.Formulas[b.Formula].Name, n.where, b, b.Message, b.At+1), "Bound the input, or say what holds then: if(…, …, …).")
	}
	set, inputs := g.Formulas(), d.Inputs()
	for i, c := range d.Cases {
		if wrong := misses(d, set, inputs, c); wrong != "" {
			n.add(Warn, "case_fails", n.at+"."+fault.Index("cases", i), fmt.Sprintf("%s%s: %s.", caseName(c, i), n.where, wrong), "Correct the formula, or what is expected.")
		}
	}
}

// scored says scores as a person reads them.
func scored(scores []float64) string {
	write := func(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
	switch n := len(scores); {
	case n == 1:
		return "a score of " + write(scores[0])
	case n <= 4:
		said := make([]string, n)
		for i, s := range scores {
			said[i] = write(s)
		}
		return "scores of " + strings.Join(said[:n-1], ", ") + " or " + said[n-1]
	default:
		return fmt.Sprintf("scores from %s to %s", write(scores[0]), write(scores[n-1]))
	}
}

func caseName(c piece.Case, i int) string {
	if c.Name != "" {
		return "The case “" + short(c.Name) + "”"
	}
	return fmt.Sprintf("Case %d", i+1)
}

// misses says which value of a case is another than expected; empty: none.
func misses(d piece.Design, set *formula.Set, inputs []string, c piece.Case) string {
	out := make([]float64, len(inputs)+len(d.Formulas))
	for i, name := range inputs {
		out[i] = c.Inputs[name]
	}
	_ = set.Values(out) // what has no value is not what is expected
	for _, f := range d.Formulas {
		want, ok := c.Wants[f.Name]
		if !ok {
			continue
		}
		got := out[set.Of(f.Name)]
		if diff := got - want; !(diff >= -1e-6*max(1, want, -want) && diff <= 1e-6*max(1, want, -want)) {
			return fmt.Sprintf("%s comes to %s, and %s is expected", f.Name, strconv.FormatFloat(got, 'f', -1, 64), strconv.FormatFloat(want, 'f', -1, 64))
		}
	}
	return ""
}
