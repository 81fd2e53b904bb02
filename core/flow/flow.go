// Package flow walks through pieces: from scene to scene along the edges of a
// design, with what a visitor answers on the way.
//
//	g, err := flow.Of(design)          // once a design
//	w := g.Begin()                     // at its first scene
//	err = w.Take(flow.Step{Scene: "q1", Values: answer.Answers{"glaze": "ash"}})
//	w.At()                             // the scene that comes next
//
// A walk holds nothing but where it has been and what was answered: scores,
// weights, values and results follow from that, each time they are asked for,
// and no visitor can send them.
package flow

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"gobbet/core/answer"
	"gobbet/core/fault"
	"gobbet/core/formula"
	"gobbet/core/piece"
)

// MaxPath is how many scenes one walk may come to, the same one several times.
const MaxPath = 500

// Graph is a design made ready to be walked. It never changes, and may be used
// by several goroutines at once.
type Graph struct {
	design  piece.Design
	scenes  []scene
	at      map[string]int
	fields  map[string]place // by key
	results []int            // scenes, in order
	set     *formula.Set
	inputs  []input
	values  int // inputs and formulas
	name    map[string]int
	// open are the scenes that are sent ahead, isLive the formulas that the page
	// computes, and liveKeys the keys of what it computes them from.
	open     map[int]bool
	isLive   []bool
	liveKeys map[string]bool
}

type scene struct {
	*piece.Scene
	form  answer.Form
	edges []edge
	// presses are what a visitor can leave by, and sender the usual one of them.
	presses map[string]press
	usual   string
	reveal  bool
	earned  bool
	gate    bool // see Graph.Gate
	// ends says that nothing leads on from it.
	ends bool
	// draws are its prize draws, from which leaving it with its answers draws.
	draws []piece.PrizeDraw
}

// way is what leaving by a block does with the answers.
type press struct{ takes, counts bool }

type edge struct {
	block string
	tests []test
	to    int // -1: the end
}

type place struct {
	scene int
	field *answer.Field
	// weights are those of each choice for each result, in order; nil: none.
	weights [][]float64
	ranges  []answer.Range // that a number is counted in
}

// input is one of the numbers that formulas see.
type input struct {
	place
	// choice is the index of a choice whose being taken is the number; -1: the answer's own.
	choice int
	score  bool
}

// Of makes a graph of a design that was checked by package piece.
func Of(d piece.Design) (*Graph, error) {
	g := &Graph{design: d, scenes: make([]scene, len(d.Scenes)), at: map[string]int{}, fields: map[string]place{}, name: map[string]int{}}
	if len(d.Scenes) == 0 {
		return nil, fault.Fault{At: "scenes", Message: "are missing"}
	}
	for i := range d.Scenes {
		s := &d.Scenes[i]
		g.at[s.ID] = i
		if s.Kind == piece.ResultScene {
			g.results = append(g.results, i)
		}
		g.scenes[i] = sceneOf(s)
		for j := range g.scenes[i].form.Fields {
			f := &g.scenes[i].form.Fields[j]
			g.fields[f.Key] = place{scene: i, field: f}
		}
	}
	for key, p := range g.fields {
		p.weights = g.choiceWeights(p.field)
		p.ranges = answer.Ranges(p.field.Field)
		g.fields[key] = p
	}
	if err := g.compute(); err != nil {
		return nil, err
	}
	for i := range d.Scenes {
		for _, e := range d.Scenes[i].Edges {
			made := edge{block: e.Block, to: -1}
			if to, ok := g.at[e.To]; ok {
				made.to = to
			}
			for _, t := range e.When {
				made.tests = append(made.tests, g.test(t))
			}
			g.scenes[i].edges = append(g.scenes[i].edges, made)
		}
	}
	g.open = g.ahead(0)
	g.findLive()
	return g, nil
}

func (g *Graph) choiceWeights(f *answer.Field) [][]float64 {
	weights := make([][]float64, len(f.Choices))
	for i, c := range f.Choices {
		if len(c.Weights) == 0 {
			continue
		}
		weights[i] = make([]float64, len(g.results))
		for j, result := range g.results {
			weights[i][j] = c.Weights[g.scenes[result].ID]
		}
	}
	return weights
}

func sceneOf(s *piece.Scene) scene {
	made := scene{Scene: s, form: answer.FormOf(*s), earned: s.Earned(), presses: map[string]press{}}
	var sender, advancing, passing string
	for b := range s.All() {
		id := piece.BlockID(b)
		switch b := b.(type) {
		case piece.Button:
			switch b.Press.Do {
			case piece.DoSend:
				made.presses[id] = press{takes: true, counts: b.Counts}
				sender = or(sender, id)
			case piece.DoNext:
				made.presses[id] = press{}
				passing = or(passing, id)
			}
		case piece.PrizeDraw:
			made.draws = append(made.draws, b)
			made.presses[id] = press{takes: true, counts: b.Counts}
			advancing = or(advancing, id)
		case piece.Field:
			made.reveal = made.reveal || b.Reveal
			if b.Advances {
				made.presses[id] = press{takes: true}
				advancing = or(advancing, id)
			}
		case piece.Timer:
			if b.AtZero == "next" {
				made.presses[id] = press{}
				passing = or(passing, id)
			}
		}
	}
	made.usual = or(or(sender, advancing), passing)
	if s.Passes && len(made.presses) == 0 && len(s.Edges) > 0 {
		made.presses[""] = press{} // by itself
	}
	made.ends = len(made.presses) == 0
	made.gate = s.SendingConverts() || slices.ContainsFunc(made.form.Fields, func(f answer.Field) bool {
		return f.Required && (f.Ask == piece.AskEmail || f.Ask == piece.AskPhone)
	})
	return made
}

func or(a, b string) string {
	if a != "" {
		return a
	}
	return b
}

// compute puts the formulas of the design together with where their numbers come from.
func (g *Graph) compute() error {
	names := g.design.Inputs()
	for _, name := range names {
		g.name[name] = len(g.inputs)
		p, isField := g.fields[name]
		one := input{place: p, choice: -1, score: name == piece.ScoreName && !isField}
		if !isField && !one.score {
			one.place, one.choice = g.choiceNamed(name)
		}
		g.inputs = append(g.inputs, one)
	}
	set, err := g.design.FormulaSet()
	if err != nil {
		return err
	}
	g.set, g.values = set, len(names)+len(g.design.Formulas)
	for i, f := range g.design.Formulas {
		g.name[f.Name] = len(names) + i
	}
	return nil
}

func (g *Graph) choiceNamed(name string) (place, int) {
	key, id, _ := strings.Cut(name, ".") // no key has a dot
	p, ok := g.fields[key]
	if !ok {
		return place{}, -1
	}
	return p, p.field.Choice(id)
}

// Graph is what is walked through.
func (w *Walk) Graph() *Graph { return w.g }

// Design is the design that is walked.
func (g *Graph) Design() piece.Design { return g.design }

// Formulas are the design's, in an order in which they can be computed.
func (g *Graph) Formulas() *formula.Set { return g.set }

// Scene gives a scene by its id.
func (g *Graph) Scene(id string) (piece.Scene, bool) {
	i, ok := g.at[id]
	if !ok {
		return piece.Scene{}, false
	}
	return *g.scenes[i].Scene, true
}

// Form gives what a scene asks.
func (g *Graph) Form(id string) answer.Form { return g.scenes[g.at[id]].form }

// Limit is how many seconds a visitor has for a scene at most, with all that they may
// have again; 0: any.
func (g *Graph) Limit(id string) int {
	s := g.scenes[g.at[id]]
	if s.Extends {
		return s.Limit * (1 + piece.MostExtended)
	}
	return s.Limit
}

// Gate reports whether a scene asks for what is a condition of going on: a way
// to be reached, or whatever its sending counts for.
func (g *Graph) Gate(id string) bool {
	i, ok := g.at[id]
	return ok && g.scenes[i].gate
}

// AsksAddress reports whether a scene asks for a way to reach the visitor, be it
// one that may be left out.
func (g *Graph) AsksAddress(id string) bool {
	i, ok := g.at[id]
	return ok && slices.ContainsFunc(g.scenes[i].form.Fields, func(f answer.Field) bool { return f.Ask == piece.AskEmail || f.Ask == piece.AskPhone })
}

// Ends reports whether nothing leads on from a scene.
func (g *Graph) Ends(id string) bool { return g.scenes[g.at[id]].ends }

// Walk is one visitor's way through one design. What of it is written as JSON
// is all there is to know.
type Walk struct {
	// Path is the scenes come to, in order; the last is where the visitor is.
	Path []string `json:"path"`
	// Answers are those of the scenes on the path.
	Answers answer.Answers `json:"answers"`
	// Ended says that nothing leads on, or that the piece was left by its last edge.
	Ended bool `json:"ended,omitempty"`

	g *Graph
}

// Begin begins a walk at the first scene.
func (g *Graph) Begin() *Walk {
	return &Walk{Path: append(make([]string, 0, 8), g.scenes[0].ID), Answers: make(answer.Answers, len(g.fields)), Ended: g.scenes[0].ends, g: g}
}

// Resume goes on with a walk that was written down. It refuses one that was
// never made by this design.
func (g *Graph) Resume(w Walk) (*Walk, error) {
	if len(w.Path) == 0 || len(w.Path) > MaxPath {
		return nil, fault.Fault{At: "path", Message: "is none of this piece"}
	}
	for i, id := range w.Path {
		if _, ok := g.at[id]; !ok {
			return nil, fault.Fault{At: fault.Index("path", i), Message: "is not a scene of this piece"}
		}
	}
	for key := range w.Answers {
		if _, ok := g.fields[key]; !ok {
			return nil, fault.Fault{At: fault.Key("answers", key), Message: "was not asked"}
		}
	}
	if w.Answers == nil {
		w.Answers = answer.Answers{}
	}
	w.g = g
	return &w, nil
}

// At is the scene that the visitor is at.
func (w *Walk) At() string { return w.Path[len(w.Path)-1] }

func (w *Walk) scene() *scene { return &w.g.scenes[w.g.at[w.At()]] }

// Step is what a visitor does on a scene.
type Step struct {
	Scene string
	// Press is the block they leave by; empty: the one that takes the answers,
	// or else the first that goes on.
	Press  string
	Values map[string]string
	// Late says that the scene's time was over: the answers do not count, except
	// at a gate, which time does not open.
	Late bool
	// Back returns to the scene instead, to be answered anew.
	Back bool
	// Drawn is what the scene's prize draws come to, by their keys. It is never
	// the visitor's to say.
	Drawn map[string]string
}

// Take goes a step on. Its error is fault.Faults, with scene, press and
// values.KEY as places, or an Undrawn; the walk then is as it was.
func (w *Walk) Take(step Step) error {
	if step.Back {
		return w.Back(step.Scene)
	}
	if step.Scene != w.At() {
		return fault.Fault{At: "scene", Message: fmt.Sprintf("is not where this walk is: that is %s", w.At())}
	}
	if w.Ended {
		return fault.Fault{At: "scene", Message: "is where this walk has ended"}
	}
	s := w.scene()
	press := or(step.Press, s.usual)
	by, ok := s.presses[press]
	if !ok {
		return fault.Fault{At: "press", Message: "is nothing that leads on from this scene"}
	}
	if len(w.Path) >= MaxPath {
		return fault.Fault{At: "scene", Message: "is one too many: this walk goes round in circles"}
	}
	if !by.takes || step.Late && !s.gate {
		s.form.Forget(w.Answers)
	} else if err := w.answer(s, step); err != nil {
		return err
	}
	judging := judging{Walk: w}
	for i := range s.edges {
		e := &s.edges[i]
		if (e.block == "" || e.block == press) && judging.holds(e.tests) {
			if e.to < 0 {
				break
			}
			next := &w.g.scenes[e.to]
			w.Path = append(w.Path, next.ID)
			w.Ended = next.ends
			return nil
		}
	}
	w.Ended = true
	return nil
}

// answer takes the answers of a step in, with what is drawn with them.
func (w *Walk) answer(s *scene, step Step) error {
	into := w.Answers
	if len(s.draws) > 0 {
		into = maps.Clone(into)
	}
	if err := s.form.CheckInto(step.Values, into); err != nil {
		var faults fault.Faults
		faults.Within("values", err)
		return faults
	}
	if err := w.drawn(s, step, into); err != nil {
		return err
	}
	w.Answers = into
	return nil
}

// Back returns to a scene the walk came through. What was answered after it is
// forgotten. Who has seen a result, what was right, or what was drawn, cannot go
// back behind it.
func (w *Walk) Back(to string) error {
	if w.Ended && to == w.At() {
		return fault.Fault{At: "scene", Message: "is where this walk has ended"}
	}
	for i := len(w.Path) - 1; i >= 0; i-- {
		if w.Path[i] == to {
			for _, id := range w.Path[i+1:] {
				// What was asked before as well stays answered.
				if !slices.Contains(w.Path[:i+1], id) {
					w.g.Form(id).Forget(w.Answers)
				}
			}
			w.Path, w.Ended = w.Path[:i+1], false
			return nil
		}
		if w.g.locks(w.Path[i]) {
			break
		}
		if i > 0 && w.g.keeps(w.Path[i-1]) {
			break
		}
	}
	return fault.Fault{At: "scene", Message: "is not one this walk can go back to"}
}

// locks reports whether a scene, once come to, is not left backwards.
func (g *Graph) locks(id string) bool {
	return g.scenes[g.at[id]].earned
}

// keeps reports whether a scene that was left is not come back to.
func (g *Graph) keeps(id string) bool {
	s := &g.scenes[g.at[id]]
	return s.reveal || len(s.draws) > 0
}

// Counts reports whether a step takes the answers along, and whether it is the conversion.
func (g *Graph) Counts(step Step) (takes, counts bool) {
	s := &g.scenes[g.at[step.Scene]]
	w := s.presses[or(step.Press, s.usual)]
	return w.takes, w.counts
}

// Score is the sum of what the answers score.
func (w *Walk) Score() (score float64) {
	for key, given := range w.Answers {
		score += w.g.fields[key].field.Score(given)
	}
	return score
}

// Result is the result's scene that the walk came to last; empty: none.
func (w *Walk) Result() string {
	for i := len(w.Path) - 1; i >= 0; i-- {
		if w.g.scenes[w.g.at[w.Path[i]]].Kind == piece.ResultScene {
			return w.Path[i]
		}
	}
	return ""
}

// Values computes the formulas. Those without a value, for want of an answer or
// for a division by zero, are left out.
func (w *Walk) Values() map[string]float64 {
	computed := w.computed()
	values := make(map[string]float64, len(w.g.design.Formulas))
	for i, f := range w.g.design.Formulas {
		if value := computed[len(w.g.inputs)+i]; !math.IsNaN(value) {
			values[f.Name] = value
		}
	}
	return values
}

// computed gives the inputs and the formulas' values; NaN where there is none.
func (w *Walk) computed() []float64 {
	out := make([]float64, w.g.values)
	for i := range w.g.inputs {
		out[i] = w.input(&w.g.inputs[i])
	}
	_ = w.g.set.Values(out) // a formula without a value is NaN
	return out
}

func (w *Walk) input(in *input) float64 {
	if in.score {
		return w.Score()
	}
	given := w.Answers[in.field.Key]
	if in.choice >= 0 {
		if in.field.Takes(given, in.field.Choices[in.choice].ID) {
			return 1
		}
		return 0
	}
	if n, ok := in.field.Number(given); ok {
		return n
	}
	return math.NaN()
}
