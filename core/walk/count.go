package walk

import (
	"slices"
	"time"

	"gobbet/core/answer"
	"gobbet/core/flow"
)

// SceneCount counts walks at a scene.
type SceneCount struct {
	Reached, Left int
	Seconds       int // that it took to go on
}

// Passage is a way from a scene to the next.
type Passage struct {
	Scene string `json:"scene" db:"scene"`
	Next  string `json:"next" db:"next"`
}

// Choice is a choice of a field; the empty choice stands for all who answered.
type Choice struct{ Key, Choice string }

// longestAt bounds what one scene is said to have taken: who leaves it open is
// not reading it.
const longestAt = 10 * time.Minute

// count notes how far the walk has come by a step, once a scene, and how what
// is answered has changed.
func (t *turn) count(step flow.Step, from string, at time.Time, answered answer.Answers) {
	id := t.walk.At()
	if !step.Back && t.first(from+" left") {
		c := t.next.Scenes[from]
		c.Left++
		if n := len(t.state.Entered); n > 0 {
			c.Seconds += max(0, int(min(at.Sub(time.UnixMilli(t.state.Entered[n-1])), longestAt).Seconds()))
		}
		t.next.Scenes[from] = c
	}
	if id != from && !step.Back && t.first(from+" to "+id) {
		t.next.Passages = append(t.next.Passages, Passage{Scene: from, Next: id})
	}
	if t.first(id) {
		c := t.next.Scenes[id]
		c.Reached++
		t.next.Scenes[id] = c
	}
	for key, given := range answered {
		if t.walk.Answers[key] != given {
			t.Graph.Tell(key, given, func(choice string) { t.next.Choices[Choice{key, choice}]-- })
		}
	}
	for key, given := range t.walk.Answers {
		if answered[key] != given {
			t.Graph.Tell(key, given, func(choice string) { t.next.Choices[Choice{key, choice}]++ })
		}
	}
}

// first reports whether something happens for the first time on the walk, and
// remembers that it has.
func (t *turn) first(what string) bool {
	if slices.Contains(t.state.Counted, what) {
		return false
	}
	t.state.Counted = append(t.state.Counted, what)
	return true
}
