package flow

import (
	"cmp"
	"errors"

	"gobbet/core/answer"
	"gobbet/core/formula"
	"gobbet/core/piece"
)

// test is a condition made ready.
type test struct {
	op     piece.TestOp
	field  *answer.Field // nil: a formula, the score or the weights
	value  int           // of a formula among what is computed
	score  bool
	text   string
	number float64
}

func (g *Graph) test(t piece.Test) test {
	made := test{op: t.Op}
	made.text, _ = t.Value.(string)
	made.number, _ = t.Value.(float64)
	if p, ok := g.fields[t.Of]; ok {
		made.field = p.field
	} else {
		made.score, made.value = t.Of == piece.ScoreName, g.name[t.Of]
	}
	return made
}

// judging judges the tests of one scene. What several of them ask for is worked
// out once.
type judging struct {
	*Walk
	values   []float64
	best     string
	score    float64
	isScored bool
}

// holds reports whether all tests hold. What has no value fails every comparison
// but those that something is not so: is_not, ne and not_answered.
func (j *judging) holds(tests []test) bool {
	for i := range tests {
		if !j.hold(&tests[i]) {
			return false
		}
	}
	return true
}

func (j *judging) hold(t *test) bool {
	given := ""
	if t.field != nil {
		given = j.Answers[t.field.Key]
	}
	switch t.op {
	case piece.TestIs:
		return given != "" && t.field.Takes(given, t.text)
	case piece.TestIsNot:
		return given == "" || !t.field.Takes(given, t.text)
	case piece.TestAnswered:
		return given != ""
	case piece.TestNot:
		return given == ""
	case piece.TestMost:
		if j.best == "" {
			j.best = j.most()
		}
		return j.best == t.text
	}
	n, ok := j.number(t, given)
	if !ok || n != n {
		return t.op == piece.TestNe
	}
	switch c := cmp.Compare(n, t.number); t.op {
	case piece.TestEq:
		return c == 0
	case piece.TestNe:
		return c != 0
	case piece.TestLt:
		return c < 0
	case piece.TestLte:
		return c <= 0
	case piece.TestGt:
		return c > 0
	default:
		return c >= 0
	}
}

func (j *judging) number(t *test, given string) (float64, bool) {
	switch {
	case t.score:
		if !j.isScored {
			j.score, j.isScored = j.Score(), true
		}
		return j.score, true
	case t.field == nil:
		if j.values == nil {
			j.values = j.computed()
		}
		return j.values[t.value], true
	case given == "":
		return 0, false
	}
	return t.field.Number(given)
}

// Weights gives how much the answers speak for each result, by its scene's id.
func (w *Walk) Weights() map[string]float64 {
	var room [8]float64
	weights := map[string]float64{}
	for i, weight := range w.weights(room[:]) {
		weights[w.g.scenes[w.g.results[i]].ID] = weight
	}
	return weights
}

// weights gives how much the answers speak for each result, in order. The room
// is used where it suffices.
func (w *Walk) weights(room []float64) []float64 {
	n := len(w.g.results)
	if n > len(room) {
		room = make([]float64, n)
	}
	weights := room[:n]
	clear(weights)
	for key, given := range w.Answers {
		w.g.weigh(w.g.fields[key], given, weights)
	}
	return weights
}

func (g *Graph) weigh(p place, given string, into []float64) {
	p.field.Taken(given, func(i int) {
		for j, weight := range p.weights[i] {
			into[j] += weight
		}
	})
}

// most is the result with the most weight. Of several with the same, the first
// in the order of scenes; or, where the design says so, the one for which the
// latest answer speaks more that does not speak for all of them alike.
func (w *Walk) most() string {
	if len(w.g.results) == 0 {
		return ""
	}
	var room, other [8]float64
	best := bestOf(w.weights(room[:]), nil)
	if w.g.design.Ties == "latest" {
		for i := len(w.Path) - 1; i >= 0 && len(best) > 1; i-- {
			fields := w.g.Form(w.Path[i]).Fields
			for j := len(fields) - 1; j >= 0 && len(best) > 1; j-- {
				one := other[:0]
				for range w.g.results {
					one = append(one, 0)
				}
				key := fields[j].Key
				w.g.weigh(w.g.fields[key], w.Answers[key], one)
				best = bestOf(one, best)
			}
		}
	}
	return w.g.scenes[w.g.results[best[0]]].ID
}

// bestOf lists the places of the greatest weight, among some or (nil) all.
func bestOf(weights []float64, among []int) (best []int) {
	consider := func(i int) {
		switch {
		case len(best) == 0 || weights[i] > weights[best[0]]:
			best = append(best[:0], i)
		case weights[i] == weights[best[0]]:
			best = append(best, i)
		}
	}
	if among == nil {
		for i := range weights {
			consider(i)
		}
	}
	for _, i := range among {
		consider(i)
	}
	return best
}

// wrongAt gives where a formula is wrong, and in which words.
func wrongAt(err error) (at int, message string) {
	var wrong *formula.Error
	if errors.As(err, &wrong) {
		return wrong.At, wrong.Message
	}
	return 0, err.Error()
}
