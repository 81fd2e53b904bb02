package visitor_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/servertest"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/visitor"
)

// quiz is two questions, a sign-up and two results by weight, with a poll in the first.
func quiz() *piece.Piece {
	p := atOnce()
	d := &p.Split.Variants[0].Design
	button := piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}}
	counts := button
	counts.Counts = true
	choices := func(of ...string) (all []piece.Choice) {
		for _, id := range of {
			all = append(all, piece.Choice{ID: id, Label: strings.ToUpper(id), Weights: map[string]float64{"ash": float64(len(id))}, Score: 7})
		}
		return all
	}
	result := func(id, say string) piece.Scene {
		return piece.Scene{ID: id, Name: id, Kind: piece.ResultScene, Tags: []string{id}, Blocks: []piece.Block{
			piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain(say), Size: 20, Align: "start"},
			piece.Tally{Kind: "tally", ID: "t", Key: "q1"},
		}}
	}
	d.Scenes = []piece.Scene{
		{ID: "one", Name: "One", Kind: piece.QuestionScene, Edges: []piece.Edge{{To: "two"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskChoice, Key: "q1", Label: "One?", Required: true, Choices: choices("red", "blue")}, button}},
		{ID: "two", Name: "Two", Kind: piece.QuestionScene, Edges: []piece.Edge{{To: "gate"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskText, Key: "q2", Label: "Two?", Required: true, Right: []string{"secret word"}, Points: 3, Reveal: true, Explanation: "It was the secret word."}, button}},
		{ID: "gate", Name: "Gate", Kind: piece.FormScene, Edges: []piece.Edge{{When: []piece.Test{{Of: "score", Op: piece.TestGte, Value: 10.0}}, To: "ash"}, {To: "shino"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "e", Ask: piece.AskEmail, Key: "email", Label: "Email", Required: true}, counts}},
		result("ash", "You are an ash person"), result("shino", "Shino suits you"),
	}
	return p
}

func take(scene string, values ...any) walk.SentStep {
	s := walk.SentStep{Scene: scene, Values: map[string]any{}}
	for i := 0; i+1 < len(values); i += 2 {
		s.Values[values[i].(string)] = values[i+1]
	}
	return s
}

func TestAWalkIsToldNothingItHasNotEarned(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	secrets := func(said string, but ...string) {
		t.Helper()
		for _, secret := range []string{"ash person", "Shino suits", "secret word", `"weights"`, `"score"`, `"points"`, `"right"`, `"when"`} {
			earned := false
			for _, b := range but {
				earned = earned || strings.Contains(secret, b)
			}
			if strings.Contains(said, secret) && !earned {
				t.Errorf("%s is told: %s", secret, said)
			}
		}
	}
	secrets(h.Call("GET", "/v1/sites/shop/designs/"+w.design, "").Body)
	first := w.advance("", 0, take("one", "q1", "blue"))
	secrets(first.Body)
	a := come(t, first)
	if a.Scene != "two" || a.Steps != 1 || a.Ended {
		t.Fatalf("%+v", a)
	}
	second := w.advance(a.Token, 1, take("two", "q2", "Secret Word"))
	secrets(second.Body, "secret word", "right") // the answer was given, and is judged
	a = come(t, second)
	if !a.Marks["q2"].Right || a.Marks["q2"].Explanation == "" || a.Scene != "gate" {
		t.Fatalf("%+v", a)
	}
	last := w.advance(a.Token, 2, take("gate", "email", "orla@example.com"))
	secrets(last.Body, "ash person")
	a = come(t, last)
	if a.Scene != "ash" || !a.Ended || !a.Lead || len(a.Scenes) != 1 || fmt.Sprint(a.Tags) != "[ash]" || a.Tallies["q1"] == nil || a.Tallies["q1"].Votes["blue"] != 1 {
		t.Errorf("%+v", a)
	}
	got := leadsOf(h)
	if len(got) != 1 || got[0].Walks[0].Answers["q1"] != "BLUE" || got[0].Walks[0].Answers["q2"] != "Secret Word" {
		t.Errorf("earlier answers do not reach the person: %+v", got)
	}
	days, _ := h.Store.Results.Days(context.Background(), h.Site, "sign-up", time.Time{})
	if len(days) != 1 || days[0].Conversions != 1 {
		t.Errorf("%+v", days)
	}
}

func TestAWalkIsGoneOnWithAndCountedOnce(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	a := come(t, w.advance("", 0, take("one", "q1", "red")))
	// The answer was lost on its way, and the same is sent again.
	for range 2 {
		if again := come(t, w.advance("", 0, take("one", "q1", "red"))); again.Scene != "two" || again.Steps != 1 {
			t.Errorf("%+v", again)
		}
	}
	// Another tab answers what is answered: it is told where the walk is.
	if other := come(t, w.advance(a.Token, 0, take("one", "q1", "blue"))); other.Scene != "two" || other.Steps != 1 {
		t.Errorf("%+v", other)
	}
	// Another page goes on from where this one left.
	resumed := come(t, w.advance(a.Token, 0))
	if resumed.Scene != "two" || fmt.Sprint(resumed.Path) != "[one two]" || resumed.Answers["q1"] != "red" || resumed.Design != w.design {
		t.Errorf("%+v", resumed)
	}
	// Several steps at once, what is known passed over.
	done := come(t, w.advance(a.Token, 0, take("one", "q1", "red"), take("two", "q2", "x"), take("gate", "email", "a@example.com")))
	if done.Scene != "shino" || done.Steps != 3 {
		t.Errorf("%+v", done)
	}
	for range 3 {
		w.advance(a.Token, 2, take("gate", "email", "a@example.com"))
	}
	if got := leadsOf(h); len(got) != 1 || got[0].Times != 1 {
		t.Errorf("%+v", got)
	}
	votes, voters, err := h.Store.Walks.Tally(context.Background(), h.Site, "sign-up", "q1")
	if err != nil || voters != 1 || votes["red"] != 1 {
		t.Errorf("%v of %d, %v", votes, voters, err)
	}
	// A visitor who plays again votes once all the same.
	w.walk = uuid.NewString()
	come(t, w.advance("", 0, take("one", "q1", "blue")))
	if votes, voters, _ := h.Store.Walks.Tally(context.Background(), h.Site, "sign-up", "q1"); voters != 1 || votes["blue"] != 0 {
		t.Errorf("%v of %d", votes, voters)
	}
}

func TestStepsThatCannotBeAreRefused(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	a := come(t, w.advance("", 0, take("one", "q1", "red")))
	other := walking(h)
	foreign := come(t, other.advance("", 0, take("one", "q1", "red")))
	ticket, _, _ := strings.Cut(foreign.Token, ".")
	_, seal, _ := strings.Cut(a.Token, ".")
	for name, c := range map[string]struct {
		a      servertest.Answer
		status int
		at     string
	}{
		"a later scene":            {w.advance(a.Token, 1, take("gate", "email", "a@example.com")), 422, "steps[0].scene"},
		"a scene that is not here": {w.advance(a.Token, 1, take("nowhere")), 422, "steps[0].scene"},
		"a score by hand":          {w.advance(a.Token, 1, take("two", "q2", "x", "score", 99.0)), 422, "steps[0].values"},
		"the gate not filled":      {w.advance(a.Token, 1, take("two", "q2", "x"), take("gate")), 422, "steps[1].values.email"},
		"100 KB":                   {w.advance(a.Token, 1, take("two", "q2", strings.Repeat("x", 100_000))), 413, ""},
		"a number for a choice":    {walking(h).advance("", 0, take("one", "q1", 3.0)), 422, "steps[0].values.q1"},
		"an object":                {walking(h).advance("", 0, take("one", "q1", map[string]any{"id": "red"})), 422, "steps[0].values.q1"},
		"a gap":                    {w.advance(a.Token, 2, take("gate", "email", "a@example.com")), 409, ""},
		"a forged seal":            {w.advance(ticket+"."+seal, 1, take("two", "q2", "x")), 422, ""},
		"no token":                 {w.advance("", 0, take("one", "q1", "red"), take("two", "q2", "x")), 422, ""},
		"nonsense":                 {w.advance("x", 1, take("two", "q2", "x")), 422, ""},
		"a token of kilobytes":     {w.advance(strings.Repeat("x", 5000)+".y", 1, take("two", "q2", "x")), 422, ""},
		"many steps":               {w.advance(a.Token, 1, make([]walk.SentStep, 101)...), 422, ""},
	} {
		if c.a.Status != c.status || c.at != "" && !strings.Contains(c.a.Body, `"at":"`+c.at+`"`) {
			t.Errorf("%s: %d %s", name, c.a.Status, c.a.Body)
		}
	}
	if now := come(t, w.advance(a.Token, 0)); now.Scene != "two" || now.Steps != 1 {
		t.Errorf("what was refused has left a trace: %+v", now)
	}
	if _, err := h.Store.Sites.Add(context.Background(), "other", "Other", "Europe/Dublin", sites.Texts{servertest.Origin}, h.Account); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the other site", func() bool {
		return h.Call("POST", "/v1/sites/other/decide", `{}`, "Origin", servertest.Origin).Status == 200
	})
	body, _ := json.Marshal(visitor.AdvanceRequest{Token: a.Token, From: 1, Steps: []walk.SentStep{take("two", "q2", "x")}})
	if got := h.Call("POST", "/v1/sites/other/advance", string(body), "Origin", servertest.Origin); got.Status != 422 {
		t.Error("a token of another site is taken:", got)
	}
}

// Until an address is left the walk alone keeps what was answered; with the
// address all of it is the person's, each scene once.
func TestWhatIsAnsweredBeforeTheAddressIsThePersonsToo(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	a := come(t, w.advance("", 0, take("one", "q1", "red")))
	come(t, w.advance(a.Token, 1, take("two", "q2", "x")))
	if got := leadsOf(h); len(got) != 0 {
		t.Fatalf("%+v", got)
	}
	come(t, w.advance(a.Token, 2, take("gate", "email", "a@example.com")))
	got := leadsOf(h)[0].Walks
	if want := map[string]string{"q1": "RED", "q2": "x", "email": "a@example.com"}; len(got) != 1 || !maps.Equal(got[0].Answers, want) {
		t.Errorf("%+v", got)
	}
	// Whoever has left one goes back, and answers otherwise.
	w = walking(h)
	a = come(t, w.advance("", 0, take("one", "q1", "red"), walk.SentStep{Scene: "one", Back: true}))
	come(t, w.advance(a.Token, 2, take("one", "q1", "blue"), take("two", "q2", "y"), take("gate", "email", "b@example.com")))
	for _, lead := range leadsOf(h) {
		if lead.Email == "b@example.com" && !maps.Equal(lead.Walks[0].Answers, map[string]string{"q1": "BLUE", "q2": "y", "email": "b@example.com"}) {
			t.Errorf("%+v", lead.Walks[0].Answers)
		}
	}
}

func TestGoingBackIsAStepToo(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	a := come(t, w.advance("", 0, take("one", "q1", "red"), walk.SentStep{Scene: "one", Back: true}, take("one", "q1", "blue")))
	if a.Scene != "two" || a.Steps != 3 {
		t.Fatalf("%+v", a)
	}
	if now := come(t, w.advance(a.Token, 0)); now.Answers["q1"] != "blue" || fmt.Sprint(now.Path) != "[one two]" {
		t.Errorf("%+v", now)
	}
	a = come(t, w.advance(a.Token, 3, take("two", "q2", "x"), take("gate", "email", "a@example.com")))
	if got := leadsOf(h)[0].Walks[0].Answers; got["q1"] != "BLUE" || got["q1_2"] != "" {
		t.Errorf("the last answer is not the one that counts: %v", got)
	}
	w = walking(h)
	a = come(t, w.advance("", 0, take("one", "q1", "red"), take("two", "q2", "x")))
	if got := w.advance(a.Token, 2, walk.SentStep{Scene: "two", Back: true}); got.Status != 422 {
		t.Error("one goes back to what was revealed:", got)
	}
}

func TestAPieceThatChangesOrPausesIsFinishedAsItBegan(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	a := come(t, w.advance("", 0, take("one", "q1", "red"), take("two", "q2", "x")))
	next := quiz()
	next.Split.Variants[0].Design.Scenes[0].Blocks[0] = piece.Heading{Kind: "heading", ID: "f", Text: piece.Plain("Now other"), Size: 20, Align: "start"}
	next.Split.Variants[0].Design.Scenes[3].Blocks = next.Split.Variants[0].Design.Scenes[3].Blocks[:1]
	next.Split.Variants[0].Design.Scenes[4].Blocks = next.Split.Variants[0].Design.Scenes[4].Blocks[:1]
	relaunch(h, 1, next)
	eventually(t, "the launch", func() bool { return decide(h, `{}`).Placements[0].Design != w.design })
	if err := h.Store.Pieces.PauseOne(context.Background(), pieces.Act{Site: h.Site}, "sign-up"); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the rest", func() bool { return len(decide(h, `{}`).Placements) == 0 })
	if done := come(t, w.advance(a.Token, 2, take("gate", "email", "a@example.com"))); done.Scene != "shino" {
		t.Errorf("%+v", done)
	}
}

func TestTimeIsOverOnTheServerToo(t *testing.T) {
	p := quiz()
	p.Split.Variants[0].Design.Scenes[1].Limit = 10
	h := launched(t, p)
	w := walking(h)
	first := take("one", "q1", "red")
	first.Ago = 60_000
	a := come(t, w.advance("", 0, first, take("two", "q2", "secret word")))
	if a.Marks["q2"].Right || a.Scene != "gate" {
		t.Errorf("an answer a minute late counts: %+v", a)
	}
	w = walking(h)
	late := take("two")
	late.Late = true
	if a := come(t, w.advance("", 0, take("one", "q1", "red"), late)); a.Scene != "gate" {
		t.Errorf("%+v", a)
	}
	unlimited := take("one")
	unlimited.Late = true
	if got := walking(h).advance("", 0, unlimited); got.Status != 422 {
		t.Error("a scene without a limit is passed for being late:", got)
	}
}

func TestWalkersAtOnceTakeEachStepOnce(t *testing.T) {
	h := launched(t, quiz())
	w := walking(h)
	var all sync.WaitGroup
	for range 12 {
		all.Go(func() {
			if a := w.advance("", 0, take("one", "q1", "red")); a.Status != 200 {
				t.Error(a)
			}
		})
	}
	all.Wait()
	a := come(t, w.advance("", 0, take("one", "q1", "red")))
	for range 12 {
		all.Go(func() {
			w.advance(a.Token, 1, take("two", "q2", "x"), take("gate", "email", "a@example.com"))
		})
	}
	all.Wait()
	if now := come(t, w.advance(a.Token, 0)); now.Steps != 3 || now.Scene != "shino" {
		t.Errorf("%+v", now)
	}
	if got := leadsOf(h); len(got) != 1 || got[0].Times != 1 {
		t.Errorf("%+v", got)
	}
	if _, voters, _ := h.Store.Walks.Tally(context.Background(), h.Site, "sign-up", "q1"); voters != 1 {
		t.Errorf("%d voters", voters)
	}
}

func TestHowFarWalksComeIsCountedOnce(t *testing.T) {
	h := launched(t, quiz())
	for i := range 4 {
		w := walking(h)
		one := take("one", "q1", []string{"red", "blue"}[i%2])
		one.Ago = 20_000
		two := take("two", "q2", "x")
		two.Ago = 10_000
		a := come(t, w.advance("", 0, one, walk.SentStep{Scene: "one", Back: true, Ago: 15_000}, walk.SentStep{Scene: "one", Values: map[string]any{"q1": "red"}, Ago: 12_000}))
		if i > 0 {
			come(t, w.advance(a.Token, 3, two))
		}
		if i > 1 {
			come(t, w.advance(a.Token, 4, take("gate", "email", fmt.Sprintf("a%d@example.com", i))))
			come(t, w.advance(a.Token, 4, take("gate", "email", fmt.Sprintf("a%d@example.com", i))))
		}
	}
	w := walking(h)
	if a := h.Page("advance", fmt.Sprintf(`{"walk":%s,"steps":[{"scene":"one","values":{"q1":"blue"}}],"unwatched":true}`, w.ref())); a.Status != 200 {
		t.Fatal(a)
	}
	play, err := h.Store.Walks.Played(context.Background(), h.Site, "sign-up", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	got := map[string]string{}
	for _, s := range play.Scenes {
		got[s.Scene] = fmt.Sprint(s.Reached, s.Left)
	}
	if want := map[string]string{"one": "4 4", "two": "4 3", "gate": "3 2", "shino": "2 0"}; !maps.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
	ways := map[string]int{}
	for _, w := range play.Ways {
		ways[w.Scene+" "+w.Next] = w.Walks
	}
	if want := map[string]int{"one two": 4, "two gate": 3, "gate shino": 2}; !maps.Equal(ways, want) {
		t.Errorf("%v, want %v", ways, want)
	}
	counts := map[string]int{}
	for _, a := range play.Answers {
		counts[a.Key+"."+a.Choice] = a.Answers
	}
	// Who changed their mind is counted where they ended.
	if counts["q1.red"] != 4 || counts["q1.blue"] != 0 || counts["q1."] != 4 || counts["q2."] != 0 {
		t.Errorf("%v", counts)
	}
}
