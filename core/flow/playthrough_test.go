package flow

import (
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"
)

// Of three answers worth 0 to 2 each, 17 of the 27 triples sum to 3 or more.
func TestAPlayThroughFollowsTheOdds(t *testing.T) {
	g := scoredQuiz(t, `{"when":[{"of":"score","op":"gte","value":3}],"to":"high"},`+to("low"))
	const n = 10_000
	p := g.PlayThrough(t.Context(), n, 7)
	want := 17.0 / 27
	if share := float64(p.Results["high"]) / n; math.Abs(share-want) > 4*math.Sqrt(want*(1-want)/n) {
		t.Errorf("%.3f of visitors have the high result, not %.3f", share, want)
	}
	if p.Results["high"]+p.Results["low"] != n || p.Reached["q1"] != n || p.Reached["q3"] != n || p.Lost != 0 {
		t.Errorf("%+v", p)
	}
	if len(p.Steps) != 4 || p.Steps[3] != n {
		t.Errorf("three questions took %v steps", p.Steps)
	}
	if again := g.PlayThrough(t.Context(), n, 7); !reflect.DeepEqual(p, again) {
		t.Error("the same seed gives another play-through")
	}
	if other := g.PlayThrough(t.Context(), n, 8); reflect.DeepEqual(p, other) {
		t.Error("every seed gives the same play-through")
	}
}

func TestAPlayThroughTellsOfTheLost(t *testing.T) {
	// Scores of 2 fall between the two edges: 6 of 27 triples.
	g := scoredQuiz(t, `{"when":[{"of":"score","op":"gte","value":3}],"to":"high"},{"when":[{"of":"score","op":"lte","value":1}],"to":"low"}`)
	p := g.PlayThrough(t.Context(), 2700, 1)
	if p.Rounds != 0 || p.Lost < 450 || p.Lost > 750 {
		t.Errorf("%d of 2700 were led nowhere, about 600 should be", p.Lost)
	}
	if p.Lost+p.Results["high"]+p.Results["low"] != 2700 {
		t.Errorf("%+v", p)
	}
	round := scoredQuiz(t, to("q1"))
	if p = round.PlayThrough(t.Context(), 1000, 1); p.Visitors < 100 || p.Visitors == 1000 {
		t.Errorf("going round has an end: %d went", p.Visitors)
	}
	if p = round.PlayThrough(t.Context(), 20, 1); p.Rounds != 20 || p.Lost != 20 || p.Reached["q2"] != 20 {
		t.Errorf("all go in circles: %+v", p)
	}
}

// Whatever the quiz of the other tests asks can be answered, and every scene
// that is found by going every way is come to.
func TestAPlayThroughComesEverywhere(t *testing.T) {
	g := graph(t, quiz)
	p := g.PlayThrough(t.Context(), 5000, 3)
	for id := range g.Explore(MaxWork).Scores {
		if p.Reached[id] == 0 {
			t.Errorf("nobody of 5000 came to %s", id)
		}
	}
	if p.Lost != 0 {
		t.Errorf("%+v", p)
	}
}

// A thousand visitors on fifty scenes.
func BenchmarkPlayThrough(b *testing.B) {
	var scenes []string
	for i := range 50 {
		edge := ""
		if i < 49 {
			edge = to(fmt.Sprint("q", i+1))
		}
		scenes = append(scenes, sceneDoc(fmt.Sprint("q", i), "question", fmt.Sprintf(`{"kind":"field","id":"f","ask":"choice","key":"k%d","label":"?","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B","score":1}]},`, i)+on, edge))
	}
	g := graph(b, strings.Join(scenes, ","))
	for b.Loop() {
		g.PlayThrough(b.Context(), 1000, 1)
	}
}
