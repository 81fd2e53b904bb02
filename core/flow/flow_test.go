package flow

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"gobbet/core/answer"
	"gobbet/core/fault"
	"gobbet/core/piece"
)

// design reads scenes, and what else a design has, as a document holds them.
func design(t testing.TB, scenes string, more ...string) piece.Design {
	t.Helper()
	extra := ""
	for _, one := range more {
		extra += "," + one
	}
	p, err := piece.Parse([]byte(`{"version":4,"name":"n","format":"popup","rule":{"all":[]},"caps":{},"split":{"salt":"s","variants":[{"id":"a","name":"A","share":1,"design":{
		"frame":{"width":460,"padding":36,"corners":0,"background":"#ffffff","ink":"#000000","accent":"#000000","accent_ink":"#ffffff","font":"sans","backdrop":{"color":"#000000","opacity":0,"closes":false},"close":{"shown":true,"label":"Close"}},
		"scenes":[` + scenes + `]` + extra + `}}]}}`))
	if err != nil {
		t.Fatal(err)
	}
	return p.Split.Variants[0].Design
}

func graph(t testing.TB, scenes string, more ...string) *Graph {
	t.Helper()
	g, err := Of(design(t, scenes, more...))
	if err != nil {
		t.Fatal(err)
	}
	return g
}

const (
	on   = `{"kind":"button","id":"on","words":"On","press":{"do":"send"},"counts":false,"quiet":false}`
	skip = `{"kind":"button","id":"skip","words":"Skip","press":{"do":"next"},"counts":false,"quiet":true}`
)

// scene writes one with blocks and edges.
func sceneDoc(id, kind, blocks, edges string) string {
	return fmt.Sprintf(`{"id":%q,"name":%q,"kind":%q,"blocks":[%s],"edges":[%s]}`, id, id, kind, blocks, edges)
}

func to(scene string) string { return fmt.Sprintf(`{"to":%q}`, scene) }

// glazes is a quiz: two questions that weigh for three results, a sign-up
// before the result, and a bonus by score.
var glazes = []string{
	sceneDoc("q1", "question", `{"kind":"field","id":"f","ask":"choice","key":"q1","label":"Where?","required":true,"choices":[
		{"id":"table","label":"Table","score":1,"weights":{"ash":2,"celadon":1}},{"id":"oven","label":"Oven","score":2,"weights":{"shino":2}},{"id":"shelf","label":"Shelf","score":3,"weights":{"celadon":2}}]},`+on, to("q2")),
	sceneDoc("q2", "question", `{"kind":"field","id":"f","ask":"choices","key":"q2","label":"What?","required":true,"most":"2","choices":[
		{"id":"calm","label":"Calm","score":10,"weights":{"celadon":1}},{"id":"wild","label":"Wild","score":20,"weights":{"ash":1}},{"id":"warm","label":"Warm","score":30,"weights":{"shino":1}}]},`+on+","+skip,
		`{"block":"skip","to":"q1"},`+to("gate")),
	sceneDoc("gate", "form", `{"kind":"field","id":"e","ask":"email","key":"email","label":"Email","required":true},`+on,
		`{"when":[{"of":"score","op":"gte","value":33}],"to":"best"},{"when":[{"of":"weights","op":"most","value":"ash"}],"to":"ash"},{"when":[{"of":"weights","op":"most","value":"shino"}],"to":"shino"},`+to("celadon")),
	sceneDoc("ash", "result", `{"kind":"heading","id":"h","text":"Ash","size":20,"align":"start"}`, ""),
	sceneDoc("shino", "result", `{"kind":"heading","id":"h","text":"Shino","size":20,"align":"start"}`, ""),
	sceneDoc("celadon", "result", `{"kind":"heading","id":"h","text":"Celadon","size":20,"align":"start"}`, ""),
	sceneDoc("best", "result", `{"kind":"code","id":"c","code":"BEST","words":"Copy","copied":"Copied","size":20}`, ""),
}

var quiz = strings.Join(glazes, ",")

func step(scene string, values ...string) Step {
	s := Step{Scene: scene, Values: map[string]string{}}
	for i := 0; i+1 < len(values); i += 2 {
		s.Values[values[i]] = values[i+1]
	}
	return s
}

func TestAQuizLeadsToTheResultWithTheMostWeight(t *testing.T) {
	g := graph(t, quiz)
	for _, c := range []struct {
		q1, q2 string
		score  float64
		result string
	}{
		{"table", "wild", 21, "ash"},
		{"table", "calm", 11, "ash"}, // a tie with celadon: ash stands first
		{"oven", "warm", 32, "shino"},
		{"shelf", "calm", 13, "celadon"},
		{"shelf", "warm", 33, "best"}, // the score's edge stands first
		{"oven", "calm\nwild", 32, "shino"},
	} {
		w, err := g.Replay([]Step{step("q1", "q1", c.q1), step("q2", "q2", c.q2), step("gate", "email", "a@example.com")}, nil)
		if err != nil || w.Result() != c.result || w.Score() != c.score || !w.Ended || w.At() != c.result {
			t.Errorf("%s, %s: %s with %v, %v", c.q1, c.q2, w.Result(), w.Score(), err)
		}
	}
	latest := graph(t, quiz, `"ties":"latest"`)
	w, err := latest.Replay([]Step{step("q1", "q1", "table"), step("q2", "q2", "calm"), step("gate", "email", "a@example.com")}, nil)
	if err != nil || w.Result() != "celadon" {
		t.Errorf("the latest answer does not settle a tie: %s, %v", w.Result(), err)
	}
}

func TestAStepThatCannotBeIsRefusedInItsPlace(t *testing.T) {
	g := graph(t, quiz)
	for name, c := range map[string]struct {
		steps []Step
		at    string
	}{
		"a scene further on":        {[]Step{step("gate", "email", "a@example.com")}, "answers[0].scene"},
		"a scene that is not there": {[]Step{step("nowhere")}, "answers[0].scene"},
		"the same twice":            {[]Step{step("q1", "q1", "oven"), step("q1", "q1", "table")}, "answers[1].scene"},
		"no answer":                 {[]Step{step("q1")}, "answers[0].values.q1"},
		"a choice of another":       {[]Step{step("q1", "q1", "calm")}, "answers[0].values.q1"},
		"a label":                   {[]Step{step("q1", "q1", "Oven")}, "answers[0].values.q1"},
		"too many":                  {[]Step{step("q1", "q1", "oven"), step("q2", "q2", "calm\nwild\nwarm")}, "answers[1].values.q2"},
		"the same choice twice":     {[]Step{step("q1", "q1", "oven"), step("q2", "q2", "calm\ncalm")}, "answers[1].values.q2"},
		"a score of one's own":      {[]Step{step("q1", "q1", "oven", "score", "99")}, "answers[0].values"},
		"an answer of later":        {[]Step{step("q1", "q1", "oven", "email", "a@example.com")}, "answers[0].values"},
		"the gate not filled":       {[]Step{step("q1", "q1", "oven"), step("q2", "q2", "calm"), step("gate")}, "answers[2].values.email"},
		"the gate jumped":           {[]Step{step("q1", "q1", "oven"), step("q2", "q2", "calm"), {Scene: "gate", Press: "skip"}}, "answers[2].press"},
		"after the end":             {[]Step{step("q1", "q1", "oven"), step("q2", "q2", "calm"), step("gate", "email", "a@example.com"), step("shino")}, "answers[3].scene"},
		"a block of another scene":  {[]Step{{Scene: "q1", Press: "skip"}}, "answers[0].press"},
		"100 KB":                    {[]Step{step("q1", "q1", strings.Repeat("x", 100_000))}, "answers[0].values.q1"},
	} {
		w, err := g.Replay(c.steps, nil)
		faults := fault.Of(err)
		if len(faults) != 1 || faults[0].At != c.at {
			t.Errorf("%s: %v, want a fault at %s", name, err, c.at)
		}
		if len(w.Path) != len(c.steps) && !strings.Contains(c.at, "[0]") {
			t.Errorf("%s: the path up to there is not kept: %v", name, w.Path)
		}
	}
}

func TestSkippingTakesNoAnswersAlong(t *testing.T) {
	g := graph(t, quiz)
	w, err := g.Replay([]Step{step("q1", "q1", "oven"), {Scene: "q2", Press: "skip", Values: map[string]string{"q2": "calm"}}}, nil)
	if err != nil || w.At() != "q1" || w.Answers["q2"] != "" || w.Answers["q1"] != "oven" {
		t.Error(w, err)
	}
}

func TestGoingBackForgetsWhatCameAfter(t *testing.T) {
	g := graph(t, quiz)
	w, err := g.Replay([]Step{step("q1", "q1", "oven"), step("q2", "q2", "calm"), {Scene: "q1", Back: true}}, nil)
	if err != nil || w.At() != "q1" || w.Answers["q1"] != "oven" || w.Answers["q2"] != "" {
		t.Fatal(w, err)
	}
	for _, s := range []Step{step("q1", "q1", "table"), step("q2", "q2", "wild"), step("gate", "email", "a@example.com")} {
		if err := w.Take(s); err != nil {
			t.Fatal(err)
		}
	}
	if w.Result() != "ash" || w.Score() != 21 {
		t.Error(w.Result(), w.Score())
	}
	// A result that was seen is not to be tried again with other answers.
	if err := w.Back("q1"); err == nil {
		t.Error("one goes back behind a result")
	}
	if err := g.Begin().Back("q2"); err == nil {
		t.Error("one goes back to where one has not been")
	}
}

func TestRightAndWrong(t *testing.T) {
	g := graph(t, sceneDoc("q", "question", `
		{"kind":"field","id":"a","ask":"choices","key":"a","label":"A","required":false,"reveal":true,"explanation":"Both are.","choices":[{"id":"x","label":"X","right":true,"score":1},{"id":"y","label":"Y","right":true,"score":1},{"id":"z","label":"Z"}]},
		{"kind":"field","id":"b","ask":"text","key":"b","label":"B","required":false,"reveal":true,"right":["Ash","wood ash"],"points":5},
		{"kind":"field","id":"c","ask":"number","key":"c","label":"C","required":false,"reveal":true,"right":["1240"],"points":2},
		{"kind":"field","id":"d","ask":"order","key":"d","label":"D","required":false,"reveal":true,"choices":[{"id":"one","label":"1","score":1},{"id":"two","label":"2","score":1},{"id":"three","label":"3","score":1}]},`+on, to("end"))+","+
		sceneDoc("end", "result", `{"kind":"heading","id":"h","text":"End","size":20,"align":"start"}`, ""))
	for _, c := range []struct {
		given []string
		right string // of a, b, c, d
		score float64
	}{
		{[]string{"a", "x\ny", "b", "WOOD ash", "c", "1240.0", "d", "one\ntwo\nthree"}, "yyyy", 12},
		{[]string{"a", "x", "b", "ashes", "c", "1241", "d", "two\none\nthree"}, "nnnn", 2},
		{[]string{"a", "x\ny\nz", "c", "1.24e3", "d", "one\nthree\ntwo"}, "nnyn", 5},
		{nil, "nnnn", 0},
	} {
		w, err := g.Replay([]Step{step("q", c.given...)}, nil)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		for _, key := range []string{"a", "b", "c", "d"} {
			got += map[bool]string{true: "y", false: "n"}[w.Marks("q")[key].Right]
		}
		if got != c.right || w.Score() != c.score {
			t.Errorf("%v: %s with %v, want %s with %v", c.given, got, w.Score(), c.right, c.score)
		}
	}
	w, _ := g.Replay([]Step{step("q")}, nil)
	if m := w.Marks("q")["a"]; m.Answer != "x\ny" || m.Explanation != "Both are." {
		t.Errorf("%+v", m)
	}
	if err := w.Back("q"); err == nil {
		t.Error("one goes back to what was revealed")
	}
	if _, err := g.Replay([]Step{step("q", "d", "one\ntwo")}, nil); err == nil {
		t.Error("part of an order passes")
	}
	late := step("q", "b", "Ash")
	late.Late = true
	if w, err := g.Replay([]Step{late}, nil); err != nil || w.Score() != 0 || w.At() != "end" {
		t.Error("an answer after its time counts", w, err)
	}
}

// calculator is two inputs and a choice, a formula over formulas, and a branch by value.
var calculator = []string{
	sceneDoc("inputs", "form", `
		{"kind":"field","id":"a","ask":"slider","key":"bags","label":"Bags","required":true,"least":"0","most":"20"},
		{"kind":"field","id":"b","ask":"number","key":"firings","label":"Firings","required":false},
		{"kind":"field","id":"c","ask":"choice","key":"clay","label":"Clay","required":true,"choices":[{"id":"stone","label":"Stoneware","score":12.5},{"id":"porcelain","label":"Porcelain","score":19}]},
		{"kind":"value","id":"v","formula":"total","size":30,"align":"start"},`+on,
		`{"when":[{"of":"total","op":"gt","value":100}],"to":"much"},{"when":[{"of":"clay","op":"is","value":"porcelain"},{"of":"firings","op":"not_answered"}],"to":"white"},`+to("little")),
	sceneDoc("much", "plain", `{"kind":"value","id":"v","formula":"each","size":30,"align":"start"}`, ""),
	sceneDoc("white", "plain", `{"kind":"text","id":"t","text":"{total} in all","size":16,"align":"start"}`, ""),
	sceneDoc("little", "plain", `{"kind":"text","id":"t","text":"Little","size":16,"align":"start"}`, ""),
}

const formulas = `"formulas":[{"name":"total","formula":"bags * clay + heat","style":"money","currency":"EUR"},{"name":"heat","formula":"(clay.porcelain = 1 ? 20 : 18.2) * 2"},{"name":"each","formula":"total / bags"}]`

func TestValuesAreComputedFromAnswers(t *testing.T) {
	g := graph(t, strings.Join(calculator, ","), formulas)
	for _, c := range []struct {
		given []string
		at    string
		total float64
		shown map[string]float64
	}{
		{[]string{"bags", "2", "clay", "stone"}, "little", 61.4, map[string]float64{}},
		{[]string{"bags", "10", "clay", "stone"}, "much", 161.4, map[string]float64{"each": 16.14}},
		{[]string{"bags", "0", "clay", "porcelain"}, "white", 40, map[string]float64{"total": 40}},
		{[]string{"bags", "0", "clay", "porcelain", "firings", "1"}, "little", 40, map[string]float64{}},
	} {
		w, err := g.Replay([]Step{step("inputs", c.given...)}, nil)
		if err != nil || w.At() != c.at || math.Abs(w.Values()["total"]-c.total) > 1e-9 {
			t.Errorf("%v: %s, %v, %v", c.given, w.At(), w.Values(), err)
		}
		if shown := w.Shown(); len(shown) != len(c.shown) || math.Abs(shown["each"]-c.shown["each"]) > 1e-9 {
			t.Errorf("%v shows %v", c.given, shown)
		}
	}
	w, _ := g.Replay([]Step{step("inputs", "bags", "0", "clay", "stone")}, nil)
	if _, has := w.Values()["each"]; has {
		t.Error("a division by zero has a value")
	}
	for _, bad := range [][]string{{"bags", "21", "clay", "stone"}, {"bags", "NaN", "clay", "stone"}, {"bags", "1e400", "clay", "stone"}, {"bags", "", "clay", "stone"}} {
		if _, err := g.Replay([]Step{step("inputs", bad...)}, nil); err == nil {
			t.Errorf("%v passes", bad)
		}
	}
}

// written is all that a visitor's browser could read.
func written(t *testing.T, what any) string {
	t.Helper()
	text, err := json.Marshal(what)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

func TestNothingIsSentAheadThatIsToBeEarned(t *testing.T) {
	g := graph(t, quiz)
	public := written(t, g.Public(piece.Drawing{Version: piece.Version, Design: g.Design()}))
	for _, secret := range []string{`"weights"`, `"score"`, "Celadon", "Shino", "BEST", `"op":"most"`, `"when"`, `"right"`} {
		if strings.Contains(public, secret) {
			t.Errorf("%s is sent ahead: %s", secret, public)
		}
	}
	for _, wanted := range []string{`"Where?"`, `"What?"`, `"Email"`, `"edges":[{"to":"q2"}]`, `"asks":true`} {
		if !strings.Contains(public, wanted) {
			t.Errorf("%s is not sent ahead", wanted)
		}
	}
	w, _ := g.Replay([]Step{step("q1", "q1", "oven"), step("q2", "q2", "warm"), step("gate", "email", "a@example.com")}, nil)
	given := written(t, g.Given(w))
	if !strings.Contains(given, "Shino") || strings.Contains(given, "Celadon") || strings.Contains(given, "BEST") {
		t.Error("not the one result is given:", given)
	}
	// What the page computes itself it needs the numbers for.
	calc := graph(t, strings.Join(calculator, ","), formulas)
	live := calc.Public(piece.Drawing{Version: piece.Version, Design: calc.Design()})
	if len(live.Live) != 3 || live.Live[2].Tree != nil || !strings.Contains(written(t, live), `"score":12.5`) || len(live.Formulas) != 0 {
		t.Error(written(t, live))
	}
	order := graph(t, sceneDoc("q", "question", `{"kind":"field","id":"d","ask":"order","key":"d","label":"D","required":true,"choices":[{"id":"a","label":"1"},{"id":"b","label":"2"},{"id":"c","label":"3"},{"id":"d","label":"4"}]},`+on, ""))
	f := order.Public(piece.Drawing{Design: order.Design()}).Scenes[0].Blocks[0].(piece.Field)
	if ids := []string{f.Choices[0].ID, f.Choices[1].ID, f.Choices[2].ID, f.Choices[3].ID}; slices.IsSorted(ids) {
		t.Error("the right order is sent ahead")
	}
}

func TestScenesBehindAGateComeOnceItIsPassed(t *testing.T) {
	box := func(blocks string) string {
		return `{"kind":"box","id":"box","padding":0,"corners":0,"gap":0,"blocks":[` + blocks + `]}`
	}
	counts := strings.Replace(on, `"counts":false`, `"counts":true`, 1)
	g := graph(t, strings.Join([]string{
		sceneDoc("a", "form", counts+","+skip, `{"block":"on","to":"b"},{"block":"skip","to":"e"}`),
		sceneDoc("b", "plain", box(skip), to("c")),
		sceneDoc("c", "form", counts, to("d")),
		sceneDoc("d", "thanks", box(`{"kind":"code","id":"c","code":"TOP","words":"Copy","copied":"Copied","size":20}`), ""),
		sceneDoc("e", "plain", `{"kind":"button","id":"f","words":"File","press":{"do":"file","file":"abababababababababababababababab"},"counts":false,"quiet":false}`, ""),
	}, ","))
	public := written(t, g.Public(piece.Drawing{Design: g.Design()}))
	for _, secret := range []string{"TOP", "abab", `"name":"b"`, `"name":"d"`} {
		if strings.Contains(public, secret) {
			t.Errorf("%s is sent ahead: %s", secret, public)
		}
	}
	ids := func(steps ...Step) (ids string) {
		w, err := g.Replay(steps, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, s := range g.Given(w) {
			ids += s.ID
		}
		return ids
	}
	if got := ids() + "," + ids(step("a")) + "," + ids(step("a"), step("b"), step("c")) + "," + ids(Step{Scene: "a", Press: "skip"}); got != ",bc,d,e" {
		t.Error(got)
	}
	first := graph(t, sceneDoc("x", "plain", `{"kind":"code","id":"c","code":"TOP","words":"Copy","copied":"Copied","size":20}`, ""))
	if first.Public(piece.Drawing{}).Scenes[0].Withheld {
		t.Error("the first scene, which is earned by its showing, is withheld")
	}
}

func TestAWalkThatWasWrittenDownGoesOn(t *testing.T) {
	g := graph(t, quiz)
	w, _ := g.Replay([]Step{step("q1", "q1", "oven")}, nil)
	var again Walk
	if err := json.Unmarshal([]byte(written(t, w)), &again); err != nil {
		t.Fatal(err)
	}
	back, err := g.Resume(again)
	if err != nil || back.At() != "q2" || back.Take(step("q2", "q2", "warm")) != nil || back.At() != "gate" {
		t.Error(back, err)
	}
	for name, bad := range map[string]Walk{
		"no path":           {},
		"another design":    {Path: []string{"q1", "x"}},
		"another's answers": {Path: []string{"q1"}, Answers: answer.Answers{"x": "1"}},
		"an endless path":   {Path: slices.Repeat([]string{"q1"}, MaxPath+1)},
	} {
		if _, err := g.Resume(bad); err == nil {
			t.Errorf("%s passes", name)
		}
	}
}

func TestAWalkInCirclesComesToAnEnd(t *testing.T) {
	g := graph(t, sceneDoc("a", "plain", skip, to("b"))+","+sceneDoc("b", "plain", skip, to("a")))
	w := g.Begin()
	steps := 0
	for ; steps < 10*MaxPath; steps++ {
		if err := w.Take(Step{Scene: w.At()}); err != nil {
			break
		}
	}
	if steps != MaxPath-1 {
		t.Errorf("it ended after %d steps", steps)
	}
}

func TestDocumentsOfBeforeWalkAsTheyDid(t *testing.T) {
	doc, err := os.ReadFile("testdata/version2.json")
	if err != nil {
		t.Fatal(err)
	}
	p, err := piece.Parse(doc)
	if err != nil {
		t.Fatal(err)
	}
	g, err := Of(p.Split.Variants[0].Design)
	if err != nil {
		t.Fatal(err)
	}
	w, err := g.Replay([]Step{{Scene: "first", Press: "yes"}, step("ask", "glaze", "ash_grey", "email", "a@example.com"), step("more", "glaze_2", "celadon")}, nil)
	if err != nil || !reflect.DeepEqual(w.Path, []string{"first", "ask", "more", "thanks"}) || !w.Ended {
		t.Errorf("%v, %v", w.Path, err)
	}
	if w, err := g.Replay([]Step{{Scene: "first", Press: "timer"}}, nil); err != nil || w.At() != "thanks" {
		t.Errorf("a timer leads to %v, %v", w.Path, err)
	}
	if w, err := g.Replay([]Step{{Scene: "first", Press: "no"}}, nil); err == nil {
		t.Errorf("a button that closes leads on: %v", w.Path)
	}
}

// wander goes through a graph at random, with answers right and wrong.
func wander(g *Graph, r *rand.Rand, times int) *Walk {
	w := g.Begin()
	pick := func(of []string) string {
		if len(of) == 0 || r.IntN(8) == 0 {
			return "nothing such"
		}
		return of[r.IntN(len(of))]
	}
	for range times {
		var presses, scenes []string
		for _, s := range g.scenes {
			scenes = append(scenes, s.ID)
		}
		s := w.scene()
		for id := range s.presses {
			presses = append(presses, id)
		}
		slices.Sort(presses)
		step := Step{Scene: w.At(), Values: map[string]string{}, Back: r.IntN(9) == 0, Late: s.Limit > 0 && r.IntN(3) == 0}
		if r.IntN(6) == 0 {
			step.Scene = pick(scenes)
		}
		if r.IntN(2) == 0 {
			step.Press = pick(presses)
		}
		for _, f := range s.form.Fields {
			var ids []string
			for _, c := range f.Choices {
				ids = append(ids, c.ID)
			}
			switch {
			case len(ids) > 0:
				step.Values[f.Key] = pick(ids)
			case f.Ask == piece.AskEmail:
				step.Values[f.Key] = "a@example.com"
			default:
				step.Values[f.Key] = fmt.Sprint(r.IntN(25) - 2)
			}
		}
		_ = w.Take(step)
	}
	return w
}

func TestWhateverIsDoneAWalkIsOneThatCouldBe(t *testing.T) {
	for _, g := range []*Graph{graph(t, quiz), graph(t, strings.Join(calculator, ","), formulas)} {
		r := rand.New(rand.NewPCG(3, 4))
		for range 3000 {
			w := wander(g, r, 12)
			for i := range w.Path[1:] {
				from := &g.scenes[g.at[w.Path[i]]]
				if !slices.ContainsFunc(from.edges, func(e edge) bool { return e.to == g.at[w.Path[i+1]] }) {
					t.Fatalf("no edge leads along %v", w.Path)
				}
			}
			for key := range w.Answers {
				if !slices.Contains(w.Path, g.scenes[g.fields[key].scene].ID) {
					t.Fatalf("%s is answered on a path that never came there: %v", key, w.Path)
				}
			}
			if w.Result() != "" && w.Answers["email"] == "" {
				t.Fatalf("a result without the gate: %+v", w)
			}
			if len(w.Path) > MaxPath {
				t.Fatal(len(w.Path))
			}
		}
	}
}

func FuzzWalk(f *testing.F) {
	f.Add([]byte(quiz), uint64(1))
	f.Add([]byte(strings.Join(calculator, ",")), uint64(2))
	head := `{"version":4,"name":"n","format":"popup","rule":{"all":[]},"caps":{},"split":{"salt":"s","variants":[{"id":"a","name":"A","share":1,"design":{"frame":{"width":460,"padding":36,"corners":0,"background":"#ffffff","ink":"#000000","accent":"#000000","accent_ink":"#ffffff","font":"sans","backdrop":{"color":"#000000","opacity":0,"closes":false},"close":{"shown":true,"label":"Close"}},` + formulas + `,"scenes":[`
	f.Fuzz(func(t *testing.T, scenes []byte, seed uint64) {
		p, err := piece.Parse([]byte(head + string(scenes) + `]}}]}}`))
		if err != nil {
			return
		}
		g, err := Of(p.Split.Variants[0].Design)
		if err != nil {
			t.Fatal("what was checked cannot be walked:", err)
		}
		w := wander(g, rand.New(rand.NewPCG(seed, 1)), 20)
		written := written(t, w)
		var again Walk
		if err := json.Unmarshal([]byte(written), &again); err != nil {
			t.Fatal(err)
		}
		back, err := g.Resume(again)
		if err != nil || back.Score() != w.Score() || back.Result() != w.Result() {
			t.Fatal(written, err)
		}
		g.Public(piece.Drawing{Design: g.Design()})
		g.Given(w)
	})
}

func BenchmarkStep(b *testing.B) {
	g := graph(b, quiz)
	steps := []Step{step("q1", "q1", "oven"), step("q2", "q2", "warm"), step("gate", "email", "a@example.com")}
	b.ReportAllocs()
	for i := 0; i < b.N; i += len(steps) {
		w := g.Begin()
		for _, s := range steps {
			if err := w.Take(s); err != nil {
				b.Fatal(err)
			}
		}
	}
}

// What was not answered is not equal to any number, as an absent fact is in a
// rule, and fails every other comparison.
func TestWhatWasNotAnsweredIsNotEqual(t *testing.T) {
	for op, want := range map[string]string{"eq": "low", "ne": "top", "lt": "low", "gte": "low"} {
		g := graph(t, sceneDoc("q", "form", `{"kind":"field","id":"n","ask":"number","key":"n","label":"N","required":false},`+on, `{"when":[{"of":"n","op":"`+op+`","value":3}],"to":"top"},`+to("low"))+","+
			sceneDoc("top", "thanks", "", "")+","+sceneDoc("low", "thanks", "", ""))
		w := g.Begin()
		if err := w.Take(Step{Scene: "q"}); err != nil || w.At() != want {
			t.Errorf("%s: at %s, want %s (%v)", op, w.At(), want, err)
		}
	}
}
