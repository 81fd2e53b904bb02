package flow

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"gobbet/core/answer"
	"gobbet/core/piece"
)

// Found is what there is to find in a graph by going every way through it.
type Found struct {
	// Scores are the least and the most a visitor can have scored on coming to a
	// scene, by its id. Scenes nobody can come to are not in it.
	Scores map[string][2]float64
	// Leaves are, by scene, the scores with which going on along its edges leads
	// out of the piece although other answers lead on, in ascending order.
	Leaves map[string][]float64
	// Whole says that every way was gone. Where there are too many, or values
	// decide that cannot all be tried, what is found is there, but what is not
	// found may be there as well.
	Whole bool
}

const (
	// MaxWork is how much is done to look one document over; see explorer.work.
	MaxWork   = 300_000
	maxCombos = 2_000 // ways to answer one scene
)

// Explore goes every way through a graph. Visitors who are at the same scene
// with the same score, the same weights and the same answers to what is tested
// later are alike, and gone on with once: what they have in common decides
// where they can come to. It ends, not whole, once it has done as much work as
// it may.
func (g *Graph) Explore(mayWork int) Found {
	e := explorer{g: g, mayWork: mayWork, eachStep: 4, tested: g.testedKeys(), seen: map[string]bool{}, combos: map[*scene][]answer.Answers{}, found: Found{Scores: map[string][2]float64{}, Leaves: map[string][]float64{}, Whole: true}}
	e.eachStep += len(e.tested) / 2
	values := len(g.design.Formulas) > 0 && g.testsValues()
	if values {
		e.eachStep += g.values / 4
	}
	e.whole(g.cyclic(), values)
	e.come(g.Begin())
	for len(e.next) > 0 {
		w := e.next[len(e.next)-1]
		e.next = e.next[:len(e.next)-1]
		if e.work > e.mayWork {
			e.found.Whole = false
			break
		}
		e.leave(w)
	}
	for id, scores := range e.found.Leaves {
		slices.Sort(scores)
		e.found.Leaves[id] = slices.Compact(scores)
	}
	return e.found
}

type explorer struct {
	g      *Graph
	tested []string
	seen   map[string]bool
	next   []*Walk
	combos map[*scene][]answer.Answers
	room   []byte
	found  Found
	// work is what was done by now, some 0.4 µs each: a step costs as much as there
	// are answers to carry along, to tell visitors apart by, and values to compute.
	work, mayWork, eachStep int
}

// whole notes what keeps the search from being whole.
func (e *explorer) whole(not ...bool) {
	e.found.Whole = e.found.Whole && !slices.Contains(not, true)
}

// come notes that a walk has come to a scene, and remembers to go on with it.
func (e *explorer) come(w *Walk) {
	score := w.Score()
	alike := e.room[:0]
	alike = append(alike, w.At()...)
	alike = strconv.AppendFloat(append(alike, '|'), score, 'g', 12, 64)
	var room [8]float64
	for _, weight := range w.weights(room[:]) {
		alike = strconv.AppendFloat(append(alike, ','), weight, 'g', 12, 64)
	}
	for _, k := range e.tested {
		alike = append(append(alike, '|'), w.Answers[k]...)
	}
	e.room = alike
	if e.seen[string(alike)] {
		return
	}
	e.seen[string(alike)] = true
	if range_, ok := e.found.Scores[w.At()]; ok {
		e.found.Scores[w.At()] = [2]float64{min(range_[0], score), max(range_[1], score)}
	} else {
		e.found.Scores[w.At()] = [2]float64{score, score}
	}
	if !w.Ended {
		e.next = append(e.next, w)
	}
}

// leave goes on from a scene by every block, with every answer.
func (e *explorer) leave(w *Walk) {
	s := w.scene()
	at := w.At()
	for _, press := range slices.Sorted(maps.Keys(s.presses)) {
		answers := []answer.Answers{{}}
		if s.presses[press].takes {
			if _, known := e.combos[s]; !known {
				var all bool
				e.combos[s], all = e.answers(s)
				e.work += len(e.combos[s]) * len(s.form.Fields)
				e.whole(!all)
			}
			answers = e.combos[s]
		}
		leads := slices.ContainsFunc(s.edges, func(x edge) bool { return (x.block == "" || x.block == press) && x.to >= 0 })
		if s.Limit > 0 && !s.gate {
			answers = append(slices.Clip(answers), nil) // the time is over
		}
		for _, given := range answers {
			if e.work += e.eachStep + len(w.Answers); e.work > e.mayWork {
				e.found.Whole = false
				return
			}
			on := &Walk{Path: slices.Clone(w.Path), Answers: maps.Clone(w.Answers), g: e.g}
			if on.Take(s.step(press, given, given == nil)) != nil {
				continue
			}
			if on.At() == at && on.Ended {
				if leads && len(e.found.Leaves[at]) < maxCombos {
					e.found.Leaves[at] = append(e.found.Leaves[at], on.Score())
				}
				continue
			}
			// Only where one is matters, not how one came there, unless the latest
			// answers settle ties.
			if e.g.design.Ties == "" {
				on.Path = on.Path[len(on.Path)-1:]
			}
			e.come(on)
		}
	}
}

// answers lists every way to answer a scene; not all where there are too many.
func (e *explorer) answers(s *scene) (combos []answer.Answers, all bool) {
	combos, all = []answer.Answers{{}}, true
	for i := range s.form.Fields {
		f := &s.form.Fields[i]
		candidates, whole := e.g.candidates(f)
		all = all && whole
		if len(combos)*len(candidates) > maxCombos {
			candidates, all = candidates[:1], false
		}
		grown := make([]answer.Answers, 0, len(combos)*len(candidates))
		for _, c := range combos {
			for _, one := range candidates {
				more := maps.Clone(c)
				if one != "" {
					more[f.Key] = one
				}
				grown = append(grown, more)
			}
		}
		combos = grown
	}
	return combos, all
}

// step is one with answers of which some are drawn.
func (s *scene) step(press string, given answer.Answers, late bool) Step {
	step := Step{Scene: s.ID, Press: press, Values: given, Late: late}
	if len(s.draws) > 0 && !late {
		step.Values, step.Drawn = maps.Clone(given), map[string]string{}
		for _, d := range s.draws {
			step.Drawn[d.Key] = given[d.Key]
			delete(step.Values, d.Key)
		}
	}
	return step
}

const maxSubsets = 10 // choices of which all subsets are tried

// candidates lists answers to a field of which each that matters has one alike;
// not whole where there are others that may matter.
func (g *Graph) candidates(f *answer.Field) (all []string, whole bool) {
	whole = true
	if f.Ask == piece.AskDrawn {
		d, _ := g.DrawCalled(f.Key)
		for _, p := range d.Parts {
			if p.Weight > 0 {
				all = append(all, p.ID)
			}
		}
		return all, whole
	}
	if !f.Required {
		all = append(all, "")
	}
	switch f.Ask {
	case piece.AskChoice, piece.AskDropdown:
		for _, c := range f.Choices {
			all = append(all, c.ID)
		}
	case piece.AskChoices:
		n := len(f.Choices)
		if n > maxSubsets {
			n, whole = maxSubsets, false
		}
		for set := 1; set < 1<<n; set++ {
			var ids []string
			for i := range n {
				if set&(1<<i) != 0 {
					ids = append(ids, f.Choices[i].ID)
				}
			}
			all = append(all, strings.Join(ids, "\n"))
		}
	case piece.AskOrder:
		ids := make([]string, len(f.Choices))
		for i, c := range f.Choices {
			ids[i] = c.ID
		}
		whole = len(ids) <= 5
		permute(ids[:min(len(ids), 5)], func(some []string) {
			all = append(all, strings.Join(append(slices.Clone(some), ids[len(some):]...), "\n"))
		})
	case piece.AskStars, piece.AskScale:
		low, high := answer.Steps(f.Ask)
		for n := low; n <= high; n++ {
			all = append(all, strconv.Itoa(n))
		}
	case piece.AskNumber, piece.AskSlider:
		for _, n := range g.turns(f) {
			all = append(all, strconv.FormatFloat(n, 'f', -1, 64))
		}
	case piece.AskEmail:
		all = append(all, "a@example.com")
	case piece.AskPhone:
		all = append(all, "+353 555 0100")
	case piece.AskConsent:
		all = append(all, "yes")
	case piece.AskDate:
		all = append(all, or(f.Least, or(f.Most, "2026-01-01")))
	default:
		all = append(all, "x")
		all = append(all, f.Field.Right...)
		whole = f.Pattern == "" && f.Least == "" && f.Most == ""
	}
	return all, whole
}

// turns lists numbers around which a test of the field turns, and its bounds.
func (g *Graph) turns(f *answer.Field) []float64 {
	low, high := bounds(f)
	numbers := []float64{low, high, (low + high) / 2}
	for i := range g.scenes {
		for _, e := range g.scenes[i].edges {
			for _, t := range e.tests {
				if t.field == f && t.op.Numeric() {
					step := f.StepSize()
					numbers = append(numbers, t.number, t.number-step, t.number+step)
				}
			}
		}
	}
	for _, right := range f.Field.Right {
		if n, err := strconv.ParseFloat(right, 64); err == nil {
			numbers = append(numbers, n)
		}
	}
	slices.Sort(numbers)
	return slices.DeleteFunc(slices.Compact(numbers), func(n float64) bool { return n < low || n > high })
}

// bounds are the least and the most a number may be; without bounds, far off.
func bounds(f *answer.Field) (low, high float64) {
	low, high = -1e6, 1e6
	if n, err := strconv.ParseFloat(f.Least, 64); err == nil {
		low = n
	}
	if n, err := strconv.ParseFloat(f.Most, 64); err == nil {
		high = n
	}
	return low, max(low, high)
}

// permute calls do with every order of some texts.
func permute(texts []string, do func([]string)) {
	var place func(i int)
	place = func(i int) {
		if i == len(texts) {
			do(texts)
			return
		}
		for j := i; j < len(texts); j++ {
			texts[i], texts[j] = texts[j], texts[i]
			place(i + 1)
			texts[i], texts[j] = texts[j], texts[i]
		}
	}
	place(0)
}

// testedKeys lists the fields whose answers decide somewhere, by themselves or
// in a formula that does.
func (g *Graph) testedKeys() (keys []string) {
	note := func(key string) {
		if _, ok := g.fields[key]; ok && !slices.Contains(keys, key) {
			keys = append(keys, key)
		}
	}
	for i := range g.scenes {
		for _, e := range g.scenes[i].edges {
			for _, t := range e.tests {
				if t.field != nil {
					note(t.field.Key)
				}
			}
		}
	}
	if g.testsValues() {
		for _, f := range g.design.Formulas {
			for _, name := range f.Parsed.Names() {
				key, _, _ := strings.Cut(name, ".")
				note(key)
			}
		}
	}
	if g.design.Ties != "" {
		for key, p := range g.fields {
			if slices.ContainsFunc(p.weights, func(w []float64) bool { return w != nil }) {
				note(key)
			}
		}
	}
	slices.Sort(keys)
	return keys
}

// testsValues reports whether a formula decides where an edge leads.
func (g *Graph) testsValues() bool {
	for i := range g.scenes {
		for _, e := range g.scenes[i].edges {
			for _, t := range e.tests {
				if t.field == nil && !t.score && t.op != piece.TestMost {
					return true
				}
			}
		}
	}
	return false
}
