package walk

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

// wheelQuiz is a question with a time limit and a poll, a sign-up, a draw, and
// an end that one may go back from.
func wheelQuiz(t testing.TB, changes ...func(*piece.Piece)) *flow.Graph {
	t.Helper()
	send := func(counts bool) piece.Button {
		return piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}, Counts: counts}
	}
	p := piece.New("Quiz", piece.Popup, "salt")
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "one", Name: "One", Kind: piece.QuestionScene, Limit: 20, Edges: []piece.Edge{{To: "mail"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskChoice, Key: "q", Label: "Q", Choices: []piece.Choice{{ID: "red", Label: "Red", Score: 1}, {ID: "blue", Label: "Blue"}}},
			piece.Tally{Kind: "tally", ID: "t", Key: "q"}, send(false)}},
		{ID: "mail", Name: "Mail", Kind: piece.FormScene, Edges: []piece.Edge{{To: "spin"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "e", Ask: piece.AskEmail, Key: "email", Label: "Email", Required: true}, send(true)}},
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{To: "more"}}, Blocks: []piece.Block{
			piece.PrizeDraw{Kind: "draw", ID: "d", Key: "prize", Label: "Prize", Look: "wheel", Words: "Spin", Size: 300, Parts: []piece.DrawPart{
				{ID: "mug", Label: "Mug for free", Weight: 1, Code: "MUG"}, {ID: "none", Label: "Nothing", Weight: 3, Nothing: true}}}}},
		{ID: "more", Name: "More", Kind: piece.FormScene, Edges: []piece.Edge{{To: "thanks"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "w", Ask: piece.AskText, Key: "why", Label: "Why?"}, send(false)}},
		{ID: "thanks", Name: "Thanks", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain("Thanks"), Size: 20, Align: "start"}}},
	}
	for _, change := range changes {
		change(p)
	}
	raw, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	read, err := piece.Parse(raw)
	if err != nil {
		t.Fatal(err)
	}
	g, err := flow.Of(read.Split.Variants[0].Design)
	if err != nil {
		t.Fatal(err)
	}
	return g
}

// keeper keeps a walk as a store does, and draws what is wanted.
type keeper struct {
	g      *flow.Graph
	kept   Before
	drawn  *Drawn
	goes   int
	heard  time.Time
	closed bool // the draw is over
}

func (k *keeper) send(from int, owned bool, sent ...SentStep) (Next, error) {
	steps, err := Read(sent, k.heard)
	if err != nil {
		return Next{}, err
	}
	r := Request{Graph: k.g, Design: "design", From: from, Steps: steps, Owned: owned, Now: k.heard, Draw: func(d piece.PrizeDraw) *Draw {
		if k.closed {
			return nil
		}
		return DrawOf(d, d)
	}}
	before := k.kept
	next, err := Advance(before, r)
	if err == nil && next.Draw != nil {
		before.Drawn = k.drawn
		if next, err = Advance(before, r); err == nil && next.Go != nil {
			k.goes++
		}
	}
	if err == nil && next.Changed {
		raw, _ := json.Marshal(next.State)
		k.kept = Before{Design: "design", Steps: next.Steps, Lead: k.kept.Lead}
		for _, s := range next.Submissions {
			k.kept.Lead = k.kept.Lead || s.Email != ""
		}
		if err := json.Unmarshal(raw, &k.kept.State); err != nil {
			return next, err
		}
	}
	return next, err
}

func keeping(t testing.TB, changes ...func(*piece.Piece)) *keeper {
	return &keeper{g: wheelQuiz(t, changes...), heard: noon, drawn: &Drawn{Key: "prize", Part: "mug", Label: "Mug for free"}}
}

func said(scene string, values ...any) SentStep {
	s := SentStep{Scene: scene, Values: map[string]any{}}
	for i := 0; i+1 < len(values); i += 2 {
		s.Values[values[i].(string)] = values[i+1]
	}
	return s
}

var (
	one  = said("one", "q", "red")
	mail = said("mail", "email", "ann@example.com")
	spin = said("spin")
	more = said("more", "why", "because")
)

func view(t testing.TB, g *flow.Graph, n Next) string {
	t.Helper()
	v, err := n.View(g, "3d6f0a4e-6b1f-4a0e-9a39-0f3f0a2f8f11")
	if err != nil {
		t.Fatal(err)
	}
	raw, err := json.Marshal(v)
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

func TestAStepSentAgainIsAnsweredAsTheFirstTime(t *testing.T) {
	for _, sent := range [][]SentStep{{one}, {one, mail}, {one, mail, spin}, {one, mail, spin, more}} {
		k := keeping(t)
		first, err := k.send(0, false, sent...)
		if err != nil {
			t.Fatal(err)
		}
		want, kept := view(t, k.g, first), k.kept
		for range 3 {
			again, err := k.send(0, false, sent...)
			if err != nil || again.Changed || len(again.Submissions) > 0 || again.Go != nil {
				t.Fatalf("%v: %+v", err, again)
			}
			if got := view(t, k.g, again); got != want {
				t.Errorf("%d steps again:\n%s\nfirst\n%s", len(sent), got, want)
			}
		}
		if len(sent) > 2 && !strings.Contains(want, "Mug for free") {
			t.Error("the draw is not told:", want)
		}
		if k.goes > 1 || !reflect.DeepEqual(k.kept, kept) {
			t.Errorf("%d goes; %+v, was %+v", k.goes, k.kept, kept)
		}
	}
}

// A draw that is over for others has still given what it gave.
func TestWhatWasDrawnIsToldAgainWhenTheDrawIsOver(t *testing.T) {
	k := keeping(t)
	if _, err := k.send(0, false, one, mail, spin); err != nil {
		t.Fatal(err)
	}
	k.closed = true
	again, err := k.send(2, true, spin)
	if err != nil || !strings.Contains(view(t, k.g, again), `"part":"mug"`) {
		t.Errorf("%v %s", err, view(t, k.g, again))
	}
	other := keeping(t)
	other.closed = true
	var over *Over
	if _, err := other.send(0, false, one, mail, spin); !errors.As(err, &over) || over.Key != "prize" {
		t.Error(err)
	}
}

// Whoever had their go on an earlier walk is told so, each time.
func TestAGoHadBeforeIsToldAsThat(t *testing.T) {
	k := keeping(t)
	k.drawn.Again = true
	first, err := k.send(0, false, one, mail, spin)
	if err != nil || first.Go != nil || first.Choices[Choice{"prize", "mug"}] != 0 {
		t.Fatalf("%v %+v", err, first)
	}
	again, err := k.send(2, true, spin)
	if err != nil || !strings.Contains(view(t, k.g, again), `"again":true`) {
		t.Errorf("%v %s", err, view(t, k.g, again))
	}
}

func TestAWalkThatHasEndedIsNotReopenedByGoingBackToWhereItIs(t *testing.T) {
	k := keeping(t)
	if _, err := k.send(0, false, one, mail, spin, more); err != nil {
		t.Fatal(err)
	}
	if !k.kept.State.Ended {
		t.Fatalf("%+v", k.kept)
	}
	if _, err := k.send(4, true, SentStep{Scene: "thanks", Back: true}); err == nil || fault.Of(err)[0].At != "steps[0].scene" {
		t.Error("it went back to where it is:", err)
	}
	if _, err := k.send(4, true, SentStep{Scene: "more", Back: true}); err != nil {
		t.Error("one cannot correct the last answer:", err)
	}
}

func TestWhatAPageSaysOfTheTimeDoesNotLiftALimit(t *testing.T) {
	late := func(arrive time.Duration, ago int, says bool, changes ...func(*piece.Piece)) string {
		k := keeping(t, changes...)
		if _, err := k.send(0, false, one); err != nil {
			t.Fatal(err)
		}
		back := SentStep{Scene: "one", Back: true}
		if _, err := k.send(1, true, back); err != nil {
			t.Fatal(err)
		}
		k.heard = noon.Add(arrive)
		answer := said("one", "q", "blue")
		answer.Ago, answer.Late = ago, says
		if _, err := k.send(2, true, answer); err != nil {
			t.Fatal(err)
		}
		return k.kept.State.Answers["q"]
	}
	for _, c := range []struct {
		what   string
		arrive time.Duration
		ago    int
		says   bool
		want   string
	}{
		{"in time", 15 * time.Second, 0, false, "blue"},
		{"within what the way takes", 24 * time.Second, 0, false, "blue"},
		{"late", time.Minute, 0, false, ""},
		{"late, and said to have been taken at once", time.Minute, 60_000, false, ""},
		{"late by the page's own word", time.Second, 0, true, ""},
	} {
		if got := late(c.arrive, c.ago, c.says); got != c.want {
			t.Errorf("%s: %q is kept", c.what, got)
		}
	}
	longer := func(p *piece.Piece) { p.Split.Variants[0].Design.Scenes[0].Extends = true }
	for after, want := range map[time.Duration]string{21 * time.Second: "blue", 219 * time.Second: "blue", time.Hour: ""} {
		if got := late(after, 0, false, longer); got != want {
			t.Errorf("time that may be had again, after %s: %q is kept", after, got)
		}
	}
	// Who says that it took longer than there was time is believed.
	k := keeping(t)
	slow := SentStep{Scene: "one", Back: true, Ago: 60_000}
	if _, err := k.send(0, false, SentStep{Scene: "one", Values: map[string]any{"q": "red"}, Ago: 60_000}, slow, said("one", "q", "blue")); err != nil {
		t.Fatal(err)
	}
	if got := k.kept.State.Answers["q"]; got != "" {
		t.Errorf("%q is kept", got)
	}
}

// Steps sent one at a time, several at once, or again and again come to the same.
func TestHowStepsAreSentDoesNotMatter(t *testing.T) {
	all := []SentStep{one, {Scene: "one", Back: true}, said("one", "q", "blue"), mail, spin, more}
	type sum struct {
		scenes  map[string]SceneCount
		choices map[Choice]int
		sent    map[string]map[string]string
		votes   map[string][]string
	}
	add := func(s *sum, n Next) {
		for scene, c := range n.Scenes {
			was := s.scenes[scene]
			s.scenes[scene] = SceneCount{was.Reached + c.Reached, was.Left + c.Left, 0}
		}
		for c, by := range n.Choices {
			if s.choices[c] += by; s.choices[c] == 0 {
				delete(s.choices, c)
			}
		}
		for _, sub := range n.Submissions {
			s.sent[sub.Scene] = sub.Answers
		}
		maps.Copy(s.votes, n.Votes)
	}
	var want string
	for seed := range uint64(200) {
		r := rand.New(rand.NewPCG(seed, 1))
		k := keeping(t)
		s := sum{map[string]SceneCount{}, map[Choice]int{}, map[string]map[string]string{}, map[string][]string{}}
		for k.kept.Steps < len(all) {
			from := r.IntN(k.kept.Steps + 1)
			to := from + 1 + r.IntN(len(all)-from)
			next, err := k.send(from, true, all[from:to]...)
			if err != nil {
				t.Fatal(err)
			}
			if next.Changed {
				add(&s, next)
			}
		}
		k.kept.State.Entered, k.kept.State.Heard = nil, nil
		state, _ := json.Marshal(k.kept.State)
		got := fmt.Sprint(string(state), s, k.goes)
		if want == "" {
			want = got
		}
		if got != want {
			t.Fatalf("seed %d:\n%s\nwant\n%s", seed, got, want)
		}
	}
}

func TestWhoMayGoOnWithAWalk(t *testing.T) {
	k := keeping(t)
	if _, err := k.send(0, false, one); err != nil {
		t.Fatal(err)
	}
	for what, err := range map[string]error{
		"more than was sent, without the token": func() error { _, err := k.send(0, false, one, mail); return err }(),
		"another design": func() error {
			_, err := Advance(k.kept, Request{Graph: k.g, Design: "another", Owned: true, Now: noon})
			return err
		}(),
	} {
		if !errors.Is(err, ErrUnknown) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if _, err := k.send(3, true, spin); !errors.Is(err, ErrMissing) {
		t.Error(err)
	}
}

func TestAdvanceChangesNothingOfWhatItIsGiven(t *testing.T) {
	k := keeping(t)
	if _, err := k.send(0, false, one, mail); err != nil {
		t.Fatal(err)
	}
	before, _ := json.Marshal(k.kept)
	steps, _ := Read([]SentStep{spin, more}, noon)
	given := k.kept
	given.Drawn = k.drawn
	if _, err := Advance(given, Request{Graph: k.g, Design: "design", From: 2, Steps: steps, Owned: true, Now: noon, Draw: func(d piece.PrizeDraw) *Draw { return DrawOf(d, d) }}); err != nil {
		t.Fatal(err)
	}
	if after, _ := json.Marshal(k.kept); string(after) != string(before) {
		t.Errorf("%s\nwas\n%s", after, before)
	}
}
