// Package walk takes one visitor's walk through one piece on, from a state that
// is kept to the next one, and says what follows of it.
//
//	next, err := walk.Advance(before, walk.Request{Graph: g, Steps: steps, Now: now})
//	next.State          // to be kept, with next.Steps
//	next.Submissions    // answers to be stored
//	next.View(g)        // what the page is told
//
// Nothing is stored or drawn here. A step that draws a prize ends in next.Draw:
// whoever called makes that draw, and advances again with what it came to, which
// becomes part of the state. The same before and request give the same next.
//
// A step that is sent again changes nothing, and is answered as it was the first
// time, with what was drawn.
package walk

import (
	"errors"
	"maps"
	"slices"
	"time"

	"gobbet/core/answer"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
)

// State is a walk as it is kept. The zero State has not begun.
type State struct {
	flow.Walk
	// Entered is when, by the visitor's word, each scene of the path was come to,
	// in ms since 1970; Heard is when the step that led there came, which they have
	// no say in. Walks of before Heard was kept have none.
	Entered []int64 `json:"came"`
	Heard   []int64 `json:"heard,omitempty"`
	// Submitted are the scenes whose answers were taken along.
	Submitted []string `json:"sent,omitempty"`
	// Counted is what was counted of this walk already: scenes come to, gone on
	// from, and passages between them.
	Counted []string `json:"met"`
	Began   int64    `json:"begun"` // ms since 1970
	// Pending are the scenes whose answers will be the lead's, once there is one:
	// until an address is left the walk alone keeps them.
	Pending []Pending `json:"owed,omitempty"`
	// Draws are those that were made, in order.
	Draws []Draws `json:"draws,omitempty"`
}

// Draws says by which step of a walk, from 1, a draw was made.
type Draws struct {
	Key   string `json:"key"`
	Step  int    `json:"step"`
	Again bool   `json:"again,omitempty"` // it came to what an earlier walk of the visitor drew
}

// Pending is a scene whose answers wait, and by which step of the walk, from 1,
// they were taken along.
type Pending struct {
	Scene string `json:"scene"`
	Step  int    `json:"step"`
}

// Before is where a walk stands when a request comes.
type Before struct {
	Design string // the hash of the drawing that it began with
	State  State
	Steps  int  // taken by now; 0: it has not begun
	Lead   bool // an address was left on it
	// Drawn is what a draw came to that an earlier try of the same request wanted.
	Drawn *Drawn
}

// Request is what a visitor does.
type Request struct {
	Graph  *flow.Graph
	Design string // the hash of its drawing
	// From is which step of the walk the first of Steps is, from 0. Those that are
	// taken already are passed over.
	From  int
	Steps []Step
	// Owned says that who asks has the walk's token. Without it only what was taken
	// may be sent again.
	Owned bool
	Now   time.Time
	// Draw says what may be drawn now; nil: the draw is over.
	Draw func(piece.PrizeDraw) *Draw
}

// Step is a step of a walk.
type Step struct {
	flow.Step
	At time.Time // by the visitor's word
	// Heard is when the step came; zero: with the request.
	Heard time.Time
}

// Next is what a request comes to.
type Next struct {
	State State
	Steps int // taken by now
	// Changed says that steps were taken, and the rest is to be stored.
	Changed bool
	// Scene is where the walk is, and Result the result it came to last; empty: none.
	Scene, Result string
	// Draw is to be made before anything else can be said.
	Draw *Draw
	// Go is one that was taken now.
	Go *Go
	// Submissions are the answers to be stored, Votes the choices made in polls, by key.
	Submissions []Submission
	Votes       map[string][]string
	// Scenes is how often scenes were come to or gone on from for the first time,
	// Passages the ways gone for the first time, and Choices by how much the count
	// of each choice of a field grows or shrinks.
	Scenes   map[string]SceneCount
	Passages []Passage
	Choices  map[Choice]int

	from  int
	asked []flow.Step // all of the request's from there on, those sent again too
}

// Submission is what is sent from one scene.
type Submission struct {
	Scene   string
	Step    int    // of the walk, from 1, that sent it
	Email   string // empty where the scene did not ask
	Name    string
	Answers map[string]string
	Draws   []string // the keys of the scene's draws
	// Converts says that sending is the conversion, Replaces that these answers take
	// the place of those sent from the scene before.
	Converts, Replaces bool
}

var (
	// ErrUnknown is that the walk is not one to be gone on with by who asks.
	ErrUnknown = errors.New("not a walk to be gone on with")
	// ErrMissing is that a step in between did not come.
	ErrMissing = errors.New("a step in between is missing")
)

// grace is what the way of a step may take on top of a scene's time limit.
const grace = 5 * time.Second

// Advance takes a walk on. Its error is fault.Faults with places from steps[i],
// ErrUnknown, ErrMissing, or one of a draw: see ErrOver, ErrHadGo, ErrOneDraw.
func Advance(before Before, r Request) (Next, error) {
	t := turn{Request: r, before: before}
	t.next = Next{from: r.From, Steps: before.Steps, Votes: map[string][]string{}, Scenes: map[string]SceneCount{}, Choices: map[Choice]int{}}
	for _, s := range r.Steps {
		t.next.asked = append(t.next.asked, s.Step)
	}
	if before.Steps > 0 && (before.Design != r.Design || !r.Owned && len(r.Steps) > before.Steps) {
		return t.next, ErrUnknown
	}
	if r.From > before.Steps {
		return t.next, ErrMissing
	}
	if err := t.begin(); err != nil {
		return t.next, err
	}
	for i := min(before.Steps-r.From, len(r.Steps)); i < len(r.Steps); i++ {
		err := t.step(i)
		var undrawn *flow.Undrawn
		if errors.As(err, &undrawn) {
			t.next.Draw, err = t.draw(undrawn.Draws[0])
			return t.next, err
		}
		if err != nil {
			return t.next, err
		}
	}
	t.state.Walk = *t.walk
	t.next.Changed = t.next.Steps > before.Steps
	if t.next.Changed {
		t.submit()
	}
	t.next.State, t.next.Scene, t.next.Result = t.state, t.walk.At(), t.walk.Result()
	return t.next, nil
}

// turn is one request being taken.
type turn struct {
	Request
	before Before
	state  State
	walk   *flow.Walk
	// submitted are the scenes whose answers are taken along now.
	submitted []submitted
	next      Next
}

type submitted struct {
	Pending
	converts bool
}

func (t *turn) begin() (err error) {
	if t.before.Steps > 0 {
		t.state = t.before.State.clone()
		t.walk, err = t.Graph.Resume(t.state.Walk)
		return err
	}
	at, heard := t.Now, t.Now
	if len(t.Steps) > 0 {
		at, heard = t.Steps[0].At, t.heard(0)
	}
	t.walk = t.Graph.Begin()
	t.state = State{Entered: []int64{at.UnixMilli()}, Heard: []int64{heard.UnixMilli()}, Began: at.UnixMilli(), Counted: []string{t.walk.At()}}
	t.next.Scenes[t.walk.At()] = SceneCount{Reached: 1}
	return nil
}

// clone is a state that may be changed without changing this one.
func (s State) clone() State {
	s.Path, s.Answers = slices.Clone(s.Path), maps.Clone(s.Answers)
	s.Entered, s.Heard = slices.Clone(s.Entered), slices.Clone(s.Heard)
	s.Submitted, s.Counted, s.Pending, s.Draws = slices.Clone(s.Submitted), slices.Clone(s.Counted), slices.Clone(s.Pending), slices.Clone(s.Draws)
	return s
}

func (t *turn) heard(i int) time.Time {
	if h := t.Steps[i].Heard; !h.IsZero() {
		return h
	}
	return t.Now
}

// step takes one step, and notes what follows of it.
func (t *turn) step(i int) error {
	step, drawn := t.Steps[i].Step, t.before.Drawn
	if drawn != nil {
		step.Drawn = map[string]string{drawn.Key: drawn.Part}
	}
	step.Late = t.late(i)
	from, answered := t.walk.At(), maps.Clone(t.walk.Answers)
	err := t.walk.Take(step)
	if errors.As(err, new(*flow.Undrawn)) {
		return err
	}
	if err != nil {
		var faults fault.Faults
		faults.Within(fault.Index("steps", i), err)
		return faults
	}
	if drawn != nil && answered[drawn.Key] == "" && t.walk.Answers[drawn.Key] != "" {
		t.took(from, drawn)
		if drawn.Again {
			answered[drawn.Key] = drawn.Part // it was counted then
		}
	}
	t.count(step, from, t.Steps[i].At, answered)
	t.entered(t.Steps[i].At, t.heard(i))
	t.next.Steps++
	if takes, converts := t.Graph.Counts(step); takes && !step.Back {
		polled := t.Graph.Polled()
		for _, f := range t.Graph.Form(step.Scene).Fields {
			if given := t.walk.Answers[f.Key]; given != "" && polled[f.Key] {
				t.next.Votes[f.Key] = t.Graph.Votes(f.Key, given)
			}
		}
		t.submitted = append(t.submitted, submitted{Pending{step.Scene, t.next.Steps}, converts})
	}
	return nil
}

// late reports whether the time of the scene is over: by the page's word, or by
// when the steps came. A page can say that a step was taken earlier, and that
// does not make it earlier.
func (t *turn) late(i int) bool {
	limit := time.Duration(t.Graph.Limit(t.walk.At())) * time.Second
	if limit == 0 {
		return false
	}
	over := func(since []int64, at time.Time) bool {
		return len(since) > 0 && at.UnixMilli()-since[len(since)-1] > (limit+grace).Milliseconds()
	}
	return t.Steps[i].Late || over(t.state.Entered, t.Steps[i].At) || over(t.state.Heard, t.heard(i))
}

// entered notes when the scene that a walk is at was come to.
func (t *turn) entered(at, heard time.Time) {
	fill := func(times []int64, at time.Time) []int64 {
		for len(times) < len(t.walk.Path) {
			times = append(times, at.UnixMilli())
		}
		return times[:len(t.walk.Path)]
	}
	t.state.Entered = fill(t.state.Entered, at)
	if len(t.state.Heard) > 0 {
		t.state.Heard = fill(t.state.Heard, heard)
	}
}

// submission is what a scene's fields are answered with by now.
func (t *turn) submission(p Pending) Submission {
	form, answers := t.Graph.Form(p.Scene), answer.Answers{}
	for _, f := range form.Fields {
		if a := t.walk.Answers[f.Key]; a != "" {
			answers[f.Key] = a
		}
	}
	s := Submission{Scene: p.Scene, Step: p.Step, Email: form.Email(answers), Name: form.Name(answers), Answers: form.Said(answers)}
	for _, d := range t.Graph.Draws(p.Scene) {
		s.Draws = append(s.Draws, d.Key)
	}
	return s
}

// submit says which of the answers that were taken along are stored. As long as
// nobody has left an address the walk alone keeps them; with the address all of
// them become the lead's, as they are by then.
func (t *turn) submit() {
	stored := map[string]bool{}
	for _, scene := range t.state.Submitted {
		stored[scene] = true
	}
	for _, p := range t.state.Pending {
		delete(stored, p.Scene)
	}
	lead := t.before.Lead
	for _, s := range t.submitted {
		lead = lead || t.Graph.Form(s.Scene).Email(t.walk.Answers) != ""
		if !slices.Contains(t.state.Submitted, s.Scene) {
			t.state.Submitted = append(t.state.Submitted, s.Scene)
		}
	}
	for _, s := range t.submitted {
		t.state.Pending = slices.DeleteFunc(t.state.Pending, func(p Pending) bool { return p.Scene == s.Scene })
		if !lead && !s.converts && !stored[s.Scene] {
			t.state.Pending = append(t.state.Pending, s.Pending)
			continue
		}
		sub := t.submission(s.Pending)
		sub.Converts, sub.Replaces, stored[s.Scene] = s.converts, stored[s.Scene], true
		t.next.Submissions = append(t.next.Submissions, sub)
	}
	if lead {
		for i, p := range t.state.Pending {
			t.next.Submissions = slices.Insert(t.next.Submissions, i, t.submission(p))
		}
		t.state.Pending = nil
	}
}

const maxAgo = 24 * 60 * 60 * 1000 // ms

// Read reads steps as they came, and when each was taken: in order, and none
// after now. Its error is fault.Faults.
func Read(sent []SentStep, now time.Time) (steps []Step, err error) {
	var faults fault.Faults
	for i, s := range sent {
		step := flow.Step{Scene: s.Scene, Press: s.Press, Back: s.Back, Late: s.Late, Values: make(map[string]string, len(s.Values))}
		for _, key := range slices.Sorted(maps.Keys(s.Values)) {
			text, ok := answer.Text(s.Values[key])
			if !ok {
				faults.Add(fault.Key(fault.Key(fault.Index("steps", i), "values"), key), "is not an answer")
			}
			step.Values[key] = text
		}
		at := now.Add(-time.Duration(max(0, min(s.Ago, maxAgo))) * time.Millisecond)
		if i > 0 && at.Before(steps[i-1].At) {
			at = steps[i-1].At
		}
		steps = append(steps, Step{Step: step, At: at})
	}
	return steps, faults.Err()
}
