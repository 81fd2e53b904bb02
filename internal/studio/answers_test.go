package studio_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"maps"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/walk"
	"gobbet/internal/servertest"
	reportplace "gobbet/internal/studio/report"
	"gobbet/internal/visitor"
)

// asking is a live piece that asks a choice, a text and an address, in three scenes.
func asking(t *testing.T, h *servertest.Harness) (hash string) {
	t.Helper()
	p := piece.New("Asking", piece.Popup, "salt")
	p.Rule = reach.All{}
	on := piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}}
	scene := func(id, to string, kind piece.SceneKind, f piece.Field) piece.Scene {
		return piece.Scene{ID: id, Name: "The " + id, Kind: kind, Edges: []piece.Edge{{To: to}}, Blocks: []piece.Block{f, on}}
	}
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		scene("one", "two", piece.QuestionScene, piece.Field{Kind: "field", ID: "f", Ask: piece.AskChoices, Key: "likes", Label: "Likes?", Choices: []piece.Choice{{ID: "a", Label: "Ash glaze"}, {ID: "c", Label: "Celadon"}}}),
		scene("two", "gate", piece.QuestionScene, piece.Field{Kind: "field", ID: "f", Ask: piece.AskText, Key: "why", Label: "=why?"}),
		scene("gate", "end", piece.FormScene, piece.Field{Kind: "field", ID: "f", Ask: piece.AskEmail, Key: "email", Label: "Email"}),
		{ID: "end", Name: "The end", Kind: piece.ResultScene, Blocks: []piece.Block{piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain("Done"), Size: 20, Align: "start"}}},
	}
	h.Launch("asking", p)
	hashes := map[string]string{}
	p.Drawings(servertest.UsualKit(), hashes)
	return hashes["a"]
}

// answered walks as far as there are answers.
func answered(t *testing.T, h *servertest.Harness, hash string, likes []string, rest ...string) {
	t.Helper()
	steps := []walk.SentStep{{Scene: "one", Values: map[string]any{"likes": likes}}}
	for i, value := range rest {
		steps = append(steps, walk.SentStep{Scene: []string{"two", "gate"}[i], Values: map[string]any{[]string{"why", "email"}[i]: value}})
	}
	walked(t, h, hash, steps...)
}

// walked takes one walk by steps, once the piece is live.
func walked(t *testing.T, h *servertest.Harness, hash string, steps ...walk.SentStep) {
	t.Helper()
	body, _ := json.Marshal(visitor.AdvanceRequest{
		Walk:  visitor.WalkRef{ID: uuid.NewString(), Piece: "asking", Variant: "a", Design: hash, Visitor: "visitor-" + uuid.NewString()[:8]},
		Steps: steps,
	})
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		if a := h.Page("advance", string(body)); a.Status == http.StatusOK {
			return
		} else if a.Status != http.StatusUnprocessableEntity {
			t.Fatal(a)
		}
	}
	t.Fatal("the piece never became live")
}

func TestWhatVisitorsAnswerIsListedWithOrWithoutAnAddress(t *testing.T) {
	h := signedIn(t)
	hash := asking(t, h)
	answered(t, h, hash, []string{"a", "c"}, "because", "a@example.com")
	answered(t, h, hash, []string{"c"}, `=cmd|' /C calc'!A0`)
	answered(t, h, hash, []string{"a"})
	list := func(query string) (rows []reportplace.AnswerRow) {
		t.Helper()
		var table reportplace.AnswerTable
		a := h.Call("GET", at(h, "/pieces/asking/answers"+query), "")
		if a.Status != http.StatusOK {
			t.Fatal(a)
		}
		a.Into(t, &table)
		if len(table.Columns) != 2 || table.Columns[0] != (reportplace.AnswerColumn{Key: "likes", Label: "Likes?"}) {
			t.Errorf("%+v", table.Columns)
		}
		return table.Rows
	}
	all := list("")
	if len(all) != 3 || all[0].Answers["likes"] != "Ash glaze" || all[0].Scene != "The two" || all[0].Email != "" || all[2].Email != "a@example.com" || all[2].Result != "The end" || all[2].Answers["likes"] != "Ash glaze, Celadon" {
		t.Errorf("%+v", all)
	}
	for query, n := range map[string]int{"?q=because": 1, "?q=CELADON": 2, "?q=a@example": 1, "?q=nothing": 0, "?variant=a": 3, "?variant=b": 0, "?days=7": 3, "?q=%25": 0} {
		if got := list(query); len(got) != n {
			t.Errorf("%s: %+v", query, got)
		}
	}
	wants(t, h.Call("GET", at(h, "/pieces/asking/answers?q="+strings.Repeat("x", 201)), ""), http.StatusUnprocessableEntity, "faults")
	wants(t, h.Call("GET", at(h, "/pieces/asking/answers?from=1.x"), ""), http.StatusUnprocessableEntity, "faults")

	file := h.Call("GET", at(h, "/pieces/asking/answers.csv"), "")
	rows, err := csv.NewReader(strings.NewReader(file.Body)).ReadAll()
	if err != nil || len(rows) != 4 {
		t.Fatalf("%v %v", rows, err)
	}
	for _, row := range rows {
		for _, cell := range row {
			if strings.HasPrefix(cell, "=") {
				t.Errorf("a spreadsheet would run %q", cell)
			}
		}
	}
	if rows[3][2] != "a@example.com" || rows[3][6] != "because" {
		t.Errorf("%q", rows[3])
	}
}

func TestPagesOfAnswersMeetEnd(t *testing.T) {
	h := signedIn(t)
	hash := asking(t, h)
	for i := range 53 {
		answered(t, h, hash, []string{"a"}, fmt.Sprint("answer ", i))
	}
	seen := map[string]bool{}
	from := ""
	for pages := 0; pages < 9; pages++ {
		var table reportplace.AnswerTable
		h.Call("GET", at(h, "/pieces/asking/answers?q=answer&from="+from), "").Into(t, &table)
		for _, row := range table.Rows {
			seen[row.Answers["why"]] = true
		}
		if from = table.Next; from == "" {
			break
		}
	}
	if len(seen) != 53 || from != "" {
		t.Errorf("%d of 53, then %q", len(seen), from)
	}
}

func TestTheReportSaysWhichWaysWereGoneAndWhoPassedTheGate(t *testing.T) {
	h := signedIn(t)
	hash := asking(t, h)
	answered(t, h, hash, []string{"a"}, "x", "a@example.com")
	answered(t, h, hash, []string{"a"}, "x")
	answered(t, h, hash, []string{"a"})
	var played reportplace.Played
	h.Call("GET", at(h, "/pieces/asking/played"), "").Into(t, &played)
	v := played.Variants[0]
	ways := map[string]int{}
	for _, w := range v.Ways {
		ways[w.From+" "+w.To] = w.Walks
		if w.Share == nil || *w.Share != 1 {
			t.Errorf("%+v", w)
		}
	}
	if ways["one two"] != 3 || ways["two gate"] != 2 || ways["gate end"] != 1 {
		t.Error(ways)
	}
	for _, s := range v.Scenes {
		if (s.Gate != nil) != (s.ID == "gate") {
			t.Errorf("%s: %+v", s.ID, s.Gate)
		}
		if s.Gate != nil && (s.Gate.Came != 2 || s.Gate.Gone != 1 || *s.Gate.Share != .5) {
			t.Errorf("%+v", s.Gate)
		}
	}
}

// Numbers count by the range they are in, what is put in order by what comes first.
func TestNumbersAndOrdersAreSummedUpToo(t *testing.T) {
	h := signedIn(t)
	p := piece.New("Numbers", piece.Popup, "salt")
	p.Rule = reach.All{}
	on := piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}}
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "one", Name: "One", Kind: piece.FormScene, Edges: []piece.Edge{{To: "end"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskSlider, Key: "bags", Label: "Bags", Least: "0", Most: "60", Unit: "kg"},
			piece.Field{Kind: "field", ID: "g", Ask: piece.AskOrder, Key: "order", Label: "Order", Choices: []piece.Choice{{ID: "a", Label: "Ash"}, {ID: "c", Label: "Celadon"}}},
			piece.Field{Kind: "field", ID: "h", Ask: piece.AskText, Key: "why", Label: "Why"}, on,
		}},
		{ID: "end", Name: "End", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain("Done"), Size: 20, Align: "start"}}},
	}
	h.Launch("asking", p)
	hashes := map[string]string{}
	p.Drawings(servertest.UsualKit(), hashes)
	for _, values := range []map[string]any{{"bags": 3, "order": []string{"c", "a"}}, {"bags": 7, "order": []string{"a", "c"}, "why": "x"}, {"bags": 60, "order": []string{"c", "a"}}} {
		walked(t, h, hashes["a"], walk.SentStep{Scene: "one", Values: values})
	}
	var played reportplace.Played
	h.Call("GET", at(h, "/pieces/asking/played"), "").Into(t, &played)
	got := map[string]int{}
	for _, q := range played.Variants[0].Questions {
		for _, c := range q.Choices {
			if c.Answers > 0 {
				got[q.Key+": "+c.Label] = c.Answers
			}
		}
		if q.Answered != 3 || q.First != (q.Key == "order") {
			t.Errorf("%+v", q)
		}
	}
	if want := map[string]int{"bags: 0 to 7 kg": 2, "bags: 56 to 60 kg": 1, "order: Celadon": 2, "order: Ash": 1}; !maps.Equal(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}
