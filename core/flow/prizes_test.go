package flow

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"gobbet/core/answer"
	"gobbet/core/piece"
)

// wheel asks for an address and draws; what is won leads to the code, what is
// not to another end.
const wheel = `
	{"id": "spin", "name": "Spin", "kind": "form", "blocks": [
		{"kind": "draw", "id": "wheel", "key": "prize", "label": "Prize", "look": "wheel", "words": "Spin", "size": 300, "odds": true, "parts": [
			{"id": "ten", "label": "10 % off", "weight": 3, "code": "TENOFF-SECRET"},
			{"id": "tile", "label": "A tile", "weight": 4, "stock": 12345, "pool": "tiles_pool"},
			{"id": "none", "label": "Nothing", "weight": 5, "nothing": true}
		]},
		{"kind": "field", "id": "email", "ask": "email", "key": "email", "label": "Email", "required": true},
		{"kind": "button", "id": "go", "words": "Spin the wheel", "press": {"do": "send"}, "counts": true, "quiet": false},
		{"kind": "button", "id": "skip", "words": "No", "press": {"do": "next"}, "counts": false, "quiet": true}
	], "edges": [{"block": "skip", "to": "bye"}, {"when": [{"of": "prize", "op": "is", "value": "none"}], "to": "lost"}, {"to": "won"}]},
	{"id": "won", "name": "Won", "kind": "thanks", "blocks": [
		{"kind": "heading", "id": "t", "text": "{prize} is yours", "size": 24, "align": "start"},
		{"kind": "code", "id": "c", "draw": "prize", "words": "Copy", "copied": "Copied", "size": 20},
		{"kind": "button", "id": "again", "words": "Again", "press": {"do": "next"}, "counts": false, "quiet": true}
	], "edges": [{"to": "spin"}]},
	{"id": "lost", "name": "Lost", "kind": "thanks", "blocks": [{"kind": "heading", "id": "t", "text": "Not this time", "size": 24, "align": "start"}]},
	{"id": "bye", "name": "Bye", "kind": "thanks", "blocks": [{"kind": "heading", "id": "t", "text": "Bye", "size": 24, "align": "start"}]}
`

func TestAGoIsTakenWithTheAnswersAndOnlyThen(t *testing.T) {
	g := graph(t, wheel)
	w := g.Begin()
	email := map[string]string{"email": "a@example.com"}

	if err := w.Take(Step{Scene: "spin", Values: map[string]string{"email": "nobody"}}); err == nil || errors.As(err, new(*Undrawn)) {
		t.Fatalf("a form with a fault says %v", err)
	}
	var undrawn *Undrawn
	if err := w.Take(Step{Scene: "spin", Values: email}); !errors.As(err, &undrawn) || undrawn.Draws[0].Key != "prize" {
		t.Fatalf("a form that is filled in says %v", err)
	}
	if len(w.Answers) != 0 || w.At() != "spin" {
		t.Fatalf("an undrawn step left %v at %s", w.Answers, w.At())
	}
	if err := w.Take(Step{Scene: "spin", Values: map[string]string{"email": "a@example.com", "prize": "ten"}}); err == nil || !strings.Contains(err.Error(), "drawn") {
		t.Fatalf("a visitor who says what they won is told %v", err)
	}
	if err := w.Take(Step{Scene: "spin", Values: email, Drawn: map[string]string{"prize": "a car"}}); err == nil {
		t.Fatal("a part that is not there was drawn")
	}
	if err := w.Take(Step{Scene: "spin", Values: email, Drawn: map[string]string{"prize": "tile"}}); err != nil || w.At() != "won" || w.Drawn()["prize"].Label != "A tile" {
		t.Fatalf("drawn: %v at %s, %v", w.Drawn(), w.At(), err)
	}
	// Coming by again takes no second go.
	if err := w.Take(Step{Scene: "won"}); err != nil {
		t.Fatal(err)
	}
	if err := w.Take(Step{Scene: "spin", Press: "skip"}); err != nil || w.Answers["prize"] != "tile" {
		t.Fatalf("what was drawn is gone: %v, %v", w.Answers, err)
	}
	w.Path = []string{"spin", "won", "spin"}
	w.Ended = false
	if err := w.Take(Step{Scene: "spin", Values: email, Drawn: map[string]string{"prize": "ten"}}); err != nil || w.Answers["prize"] != "tile" {
		t.Fatalf("a second go was taken: %v, %v", w.Answers, err)
	}
	if err := w.Back("spin"); err == nil {
		t.Fatal("one can go back to before the go")
	}
}

func TestWhoDeclinesDrawsNothing(t *testing.T) {
	g := graph(t, wheel)
	w := g.Begin()
	if err := w.Take(Step{Scene: "spin", Press: "skip"}); err != nil || w.At() != "bye" || len(w.Drawn()) != 0 {
		t.Fatalf("at %s with %v, %v", w.At(), w.Drawn(), err)
	}
}

func TestNothingBehindAPrizeIsSentAhead(t *testing.T) {
	d := design(t, wheel)
	g := graph(t, wheel)
	sent, err := json.Marshal(g.Public(piece.Drawing{Version: piece.Version, Format: piece.Popup, Design: d}))
	if err != nil {
		t.Fatal(err)
	}
	for _, secret := range []string{"SECRET", "tiles_pool", "12345", `"weight":3`, `"nothing":true`} {
		if strings.Contains(string(sent), secret) {
			t.Errorf("%s is sent ahead: %s", secret, sent)
		}
	}
	for _, said := range []string{`"asks":true`, `"share":0.25`, "10 % off 25 %", "While stocks last"} {
		if !strings.Contains(string(sent), said) {
			t.Errorf("%s is not in %s", said, sent)
		}
	}
}

func TestPlayThroughDrawsByTheOdds(t *testing.T) {
	g := graph(t, strings.Replace(wheel, `[{"to": "spin"}]`, `[]`, 1))
	p := g.PlayThrough(context.Background(), 20_000, 3)
	// Of those who spin 5 in 12 win nothing.
	if share := float64(p.Reached["lost"]) / float64(p.Visitors); math.Abs(share-5.0/12) > 0.015 {
		t.Errorf("%v of visitors won nothing, and the odds are 5 in 12", share)
	}
	drawn := map[string]int{}
	source := rand.NewPCG(5, 1)
	for range 24_000 {
		w, err := g.Replay([]Step{{Scene: "spin", Values: answer.Answers{"email": "a@example.com"}}}, source)
		if err != nil {
			t.Fatal(err)
		}
		drawn[w.Answers["prize"]]++
	}
	for part, odds := range map[string]float64{"ten": 3.0 / 12, "tile": 4.0 / 12, "none": 5.0 / 12} {
		if share := float64(drawn[part]) / 24_000; math.Abs(share-odds) > 0.015 {
			t.Errorf("%s was drawn %v of the time, and its odds are %v", part, share, odds)
		}
	}
}

func TestExploringFindsEveryPartThatCanBeDrawn(t *testing.T) {
	g := graph(t, strings.Replace(wheel, `"weight": 5, "nothing"`, `"weight": 0, "nothing"`, 1))
	found := g.Explore(MaxWork)
	if _, ok := found.Scores["lost"]; ok {
		t.Error("a part that is never drawn leads somewhere")
	}
	if _, ok := found.Scores["won"]; !ok {
		t.Error("nobody wins")
	}
}
