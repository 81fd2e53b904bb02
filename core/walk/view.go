package walk

import (
	"maps"
	"math/rand/v2"

	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
)

// View is where a walk has come to, as a page is told: nothing that is not
// earned.
type View struct {
	// Steps are how many have been taken, Scene is where that leads, and Closes
	// says that it leads out of the piece.
	Steps  int    `json:"steps"`
	Scene  string `json:"scene"`
	Closes bool   `json:"closes,omitempty"`
	Ended  bool   `json:"ended,omitempty"`
	// Scenes are those that are earned by now, beyond what is sent ahead.
	Scenes []piece.Scene `json:"scenes,omitempty" tstype:"Scene[]"`
	// Values are the computed ones that the scene shows, by name.
	Values map[string]float64 `json:"values,omitempty"`
	// Marks say what was right, by key.
	Marks map[string]flow.Mark `json:"marks,omitempty" tstype:"{ [key: string]: Mark }"`
	// Tallies are the polls that the scene shows, by key; null while too few have voted.
	Tallies map[string]*Tally `json:"tallies,omitempty" tstype:"{ [key: string]: Tally | null }"`
	// Drawn is what the steps drew, by the keys of draws.
	Drawn map[string]DrawnPart `json:"drawn,omitempty" tstype:"{ [key: string]: DrawnPart }"`
	// Tags are the visitor's from here on.
	Tags []string `json:"tags,omitempty"`
}

// DrawnPart is what was drawn, as a page is told.
type DrawnPart struct {
	Part  string `json:"part"`
	Label string `json:"label"`
	// Nothing says that nothing is won with it.
	Nothing bool `json:"nothing,omitempty"`
	// Rest is where a wheel stops: what of it is under the mark then, in degrees
	// clockwise from where its first part begins.
	Rest float64 `json:"rest"`
	// Again says that this visitor drew it before, and has had their go.
	Again bool `json:"again,omitempty"`
}

// SentStep is a step as a page sends it.
type SentStep struct {
	Scene string `json:"scene"`
	// Press is the block they leave by; empty: the scene's usual one.
	Press string `json:"press,omitempty"`
	// Values are the answers by key: texts, numbers, true, or a list of choices.
	Values map[string]any `json:"values,omitempty"`
	// Back returns to the scene, to be answered anew.
	Back bool `json:"back,omitempty"`
	// Late says that the scene's time was over.
	Late bool `json:"late,omitempty"`
	// Ago is how many milliseconds ago it was.
	Ago int `json:"ago,omitempty"`
}

// Tally is how everyone has voted so far.
type Tally struct {
	Votes map[string]int `json:"votes"` // by choice
	All   int            `json:"all"`
}

// View tells where the request has led. id is the walk's.
func (n *Next) View(g *flow.Graph, id string) (View, error) {
	w, err := g.Resume(n.State.Walk)
	if err != nil {
		return View{}, err
	}
	v := viewOf(g, w, n.asked, n.Steps)
	v.Drawn = n.Drawn(g, id)
	return v, nil
}

// Passed are all scenes that are earned beyond what is public, for who goes on
// with the walk in another window.
func (n *Next) Passed(g *flow.Graph) ([]piece.Scene, error) {
	w, err := g.Resume(n.State.Walk)
	if err != nil {
		return nil, err
	}
	return g.Passed(w), nil
}

func viewOf(g *flow.Graph, w *flow.Walk, steps []flow.Step, taken int) View {
	v := View{Steps: taken, Scene: w.At(), Ended: w.Ended, Scenes: g.Given(w), Values: w.Shown()}
	if s, ok := g.Scene(w.At()); ok {
		v.Tags = s.Tags
	}
	if len(steps) > 0 {
		last := steps[len(steps)-1].Scene
		v.Closes = w.Ended && w.At() == last && !g.Ends(last)
		if _, ok := g.Scene(last); ok && !steps[len(steps)-1].Back {
			v.Marks = w.Marks(last)
		}
	}
	return v
}

// Rehearse walks from the beginning for someone who only looks: nothing is to
// be kept. seed, any text, decides what is drawn.
func Rehearse(g *flow.Graph, steps []Step, seed string) (View, error) {
	w := g.Begin()
	// The same draws each time: what is walked again is what was walked.
	source := rand.NewPCG(seedOf(seed), 1)
	next := Next{Steps: len(steps)}
	for i, step := range steps {
		before := maps.Clone(w.Answers)
		if err := w.TakeDrawing(step.Step, source); err != nil {
			var faults fault.Faults
			faults.Within(fault.Index("steps", i), err)
			return View{}, faults
		}
		for _, d := range g.Draws(step.Scene) {
			if before[d.Key] == "" && w.Answers[d.Key] != "" {
				next.State.Draws = append(next.State.Draws, Draws{Key: d.Key, Step: i + 1})
			}
		}
	}
	if n := len(steps); n > 0 {
		next.from, next.asked = n-1, []flow.Step{steps[n-1].Step}
	}
	next.State.Walk = *w
	v := viewOf(g, w, next.asked, len(steps))
	v.Drawn, v.Scenes = next.Drawn(g, ""), g.Passed(w)
	for _, t := range g.Tallies(v.Scene) {
		if v.Tallies == nil {
			v.Tallies = map[string]*Tally{}
		}
		v.Tallies[t.Key] = nil
	}
	return v, nil
}
