package flow

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"gobbet/core/piece"
)

// scored is a quiz of three questions worth 0 to 2 each, whose results go by score.
func scoredQuiz(t testing.TB, edges string) *Graph {
	question := func(id, to_ string) string {
		return sceneDoc(id, "question", `{"kind":"field","id":"f","ask":"choice","key":"`+id+`","label":"?","required":true,"choices":[{"id":"a","label":"A"},{"id":"b","label":"B","score":1},{"id":"c","label":"C","score":2}]},`+on, to_)
	}
	result := func(id string) string {
		return sceneDoc(id, "result", `{"kind":"heading","id":"h","text":"R","size":20,"align":"start"}`, "")
	}
	return graph(t, strings.Join([]string{question("q1", to("q2")), question("q2", to("q3")), question("q3", edges), result("low"), result("high"), result("top")}, ","))
}

func TestTheScoreSpaceIsWorkedOut(t *testing.T) {
	from := func(score int, to string) string {
		return fmt.Sprintf(`{"when":[{"of":"score","op":"gte","value":%d}],"to":%q}`, score, to)
	}
	f := scoredQuiz(t, from(7, "top")+","+from(3, "high")+`,{"when":[{"of":"score","op":"lte","value":1}],"to":"low"}`).Explore(MaxWork)
	if !f.Whole || f.Scores["high"] != [2]float64{3, 6} || f.Scores["low"] != [2]float64{0, 1} || f.Scores["q3"] != [2]float64{0, 4} {
		t.Errorf("%+v", f)
	}
	if _, ok := f.Scores["top"]; ok {
		t.Error("a score nobody can have leads somewhere")
	}
	if !slices.Equal(f.Leaves["q3"], []float64{2}) {
		t.Errorf("the gap between 1 and 3: %v", f.Leaves)
	}
	if f = scoredQuiz(t, from(3, "high")+","+to("low")).Explore(MaxWork); len(f.Leaves) != 0 {
		t.Errorf("a gap where there is none: %v", f.Leaves)
	}
	for _, id := range []string{"ash", "shino", "celadon", "best"} {
		if f := graph(t, quiz).Explore(MaxWork); f.Scores[id] == [2]float64{} {
			t.Errorf("%s cannot be got: %+v", id, f)
		}
	}
}

// What is found by going every way is what chance finds, and no less.
func TestEveryWayIsGone(t *testing.T) {
	for _, g := range []*Graph{graph(t, quiz), graph(t, strings.Replace(quiz, `"kind":"question"`, `"kind":"question","limit":20`, 1)), graph(t, quiz, `"ties":"latest"`), scoredQuiz(t, `{"when":[{"of":"q1","op":"is","value":"a"},{"of":"score","op":"gt","value":2}],"to":"top"},{"when":[{"of":"q2","op":"is_not","value":"c"}],"to":"high"},`+to("low"))} {
		found := g.Explore(MaxWork)
		r := rand.New(rand.NewPCG(5, 6))
		met := map[string][2]float64{}
		for range 20_000 {
			w := wander(g, r, 8)
			score := w.Score()
			if was, ok := met[w.At()]; ok {
				met[w.At()] = [2]float64{min(was[0], score), max(was[1], score)}
			} else {
				met[w.At()] = [2]float64{score, score}
			}
		}
		for id, scores := range met {
			// Who goes back has answered where they are.
			if g.scenes[g.at[id]].Kind != piece.ResultScene {
				continue
			}
			if all, ok := found.Scores[id]; !ok || all[0] > scores[0] || all[1] < scores[1] {
				t.Errorf("%s: chance found %v, and going every way %v", id, scores, all)
			}
		}
	}
}

func TestALargeGraphIsGivenUpOnRatherThanGoneThrough(t *testing.T) {
	var scenes []string
	for i := range 50 {
		var choices []string
		for j := range 12 {
			choices = append(choices, fmt.Sprintf(`{"id":"c%d","label":"%d","score":%g}`, j, j, float64(int(1)<<j)+float64(i)/64))
		}
		next := ""
		if i < 49 {
			next = to(fmt.Sprintf("s%d", i+1))
		}
		scenes = append(scenes, sceneDoc(fmt.Sprintf("s%d", i), "question", fmt.Sprintf(`{"kind":"field","id":"f","ask":"choices","key":"k%d","label":"?","required":true,"choices":[%s]},`, i, strings.Join(choices, ","))+on, next))
	}
	g := graph(t, strings.Join(scenes, ","))
	if f := g.Explore(MaxWork); f.Whole {
		t.Error("12 choices of 50 questions were all tried")
	}
}

func TestLoopsWithoutAWayOutAreFound(t *testing.T) {
	a, b := sceneDoc("a", "plain", skip, to("b")), sceneDoc("b", "plain", skip, to("a"))
	if got := graph(t, a+","+b).Trapped(); !slices.Equal(got, []string{"a", "b"}) {
		t.Error(got)
	}
	out := sceneDoc("b", "plain", skip+`,{"kind":"button","id":"x","words":"X","press":{"do":"next"},"counts":false,"quiet":false}`, `{"block":"skip","to":"a"}`)
	if got := graph(t, a+","+out).Trapped(); len(got) != 0 {
		t.Error("a way out is overlooked:", got)
	}
	if got := graph(t, quiz).Trapped(); len(got) != 0 {
		t.Error(got)
	}
}

func TestGatesThatCanBePassedByAreFound(t *testing.T) {
	if got := graph(t, quiz).Ungated(); len(got) != 0 {
		t.Error(got)
	}
	open := slices.Clone(glazes)
	open[1] = strings.Replace(open[1], `{"block":"skip","to":"q1"}`, `{"block":"skip","to":"ash"}`, 1)
	if got := graph(t, strings.Join(open, ",")).Ungated(); !slices.Equal(got, []string{"ash"}) {
		t.Error(got)
	}
}

func TestFormulasThatBreakWithinTheirInputsAreFound(t *testing.T) {
	inputs := func(least, formula string) *Graph {
		return graph(t, sceneDoc("s", "form", `{"kind":"field","id":"a","ask":"slider","key":"bags","label":"B","required":true,"least":"`+least+`","most":"20"},{"kind":"field","id":"c","ask":"choice","key":"clay","label":"C","required":true,"choices":[{"id":"x","label":"X","score":2},{"id":"y","label":"Y","score":3}]},`+on, ""),
			`"formulas":[{"name":"f","formula":"`+formula+`"}]`)
	}
	for _, c := range []struct {
		least, formula, with string
		at                   int
	}{
		{"0", "clay / bags", "bags = 0, clay = 2", 5},
		{"0", "1 + ln(bags - clay)", "bags = 0, clay = 2", 4},
		{"1", "sqrt(bags - 7)", "bags = 1", 0},
		{"0", "clay / (bags - 13)", "bags = 13, clay = 2", 5},
		{"1", "clay / bags", "", 0},
		{"0", "if(bags > 0, clay / bags, 0)", "", 0},
		{"0", "bags / (clay + clay.x)", "", 0},
	} {
		breaks := inputs(c.least, c.formula).Breaking(MaxTries)
		switch {
		case c.with == "" && len(breaks) != 0:
			t.Errorf("%s: %v", c.formula, breaks)
		case c.with != "" && (len(breaks) != 1 || breaks[0].String() != c.with || breaks[0].At != c.at):
			t.Errorf("%s: %v, want %s at %d", c.formula, breaks, c.with, c.at)
		}
	}
}
