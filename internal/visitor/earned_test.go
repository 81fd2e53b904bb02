package visitor_test

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/core/walk"
	"gobbet/internal/limits"
	"gobbet/internal/servertest"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/pieces"
	"gobbet/internal/visitor"
)

func codeOf(id, pool, code string) piece.Code {
	return piece.Code{Kind: "code", ID: id, Pool: pool, Code: code, Words: "Copy", Copied: "Copied", Size: 20}
}

// rewarded is a form whose thank-you gives a code of a pool, and a file.
func rewarded() *piece.Piece {
	p := atOnce()
	d := &p.Split.Variants[0].Design
	d.Scenes[1].Blocks = append(d.Scenes[1].Blocks,
		piece.Box{Kind: "box", ID: "b", Blocks: []piece.Block{codeOf("c", "spring", "")}},
		piece.Button{Kind: "button", ID: "f", Words: "Download", Press: piece.Press{Do: piece.DoFile, File: strings.Repeat("ab", 16), FileName: "guide.pdf"}})
	return p
}

type walker struct {
	h                     *servertest.Harness
	design, visitor, walk string
}

func walking(h *servertest.Harness) walker {
	return walker{h, decide(h, `{}`).Placements[0].Design, "visitor-" + uuid.NewString()[:8], uuid.NewString()}
}

func (w walker) ref() string {
	return fmt.Sprintf(`{"id":%q,"piece":"sign-up","variant":"a","design":%q,"visitor":%q}`, w.walk, w.design, w.visitor)
}

func (w walker) code(more ...string) servertest.Answer {
	return w.h.Page("codes", fmt.Sprintf(`{"walk":%s,"scene":"thanks","pool":"spring"%s}`, w.ref(), strings.Join(more, "")))
}

// advance sends steps of a walk that begins, or, with a token, goes on.
func (w walker) advance(token string, from int, steps ...walk.SentStep) servertest.Answer {
	req := visitor.AdvanceRequest{Token: token, From: from, Steps: steps, Page: "/"}
	if token == "" {
		req.Walk = visitor.WalkRef{ID: w.walk, Piece: "sign-up", Variant: "a", Design: w.design, Visitor: w.visitor}
	}
	body, _ := json.Marshal(req)
	return w.h.Page("advance", string(body))
}

// send begins a walk by sending its scene.
func (w walker) send(scene string, answers map[string]any) servertest.Answer {
	return w.advance("", 0, walk.SentStep{Scene: scene, Values: answers})
}

// come reads where a walk has come to.
func come(t *testing.T, a servertest.Answer) (answer visitor.AdvanceAnswer) {
	t.Helper()
	// Blocks are read by package piece alone.
	var loose struct {
		Scenes []struct{ ID string }
	}
	raw := map[string]json.RawMessage{}
	if a.Status != 200 || json.Unmarshal([]byte(a.Body), &raw) != nil || json.Unmarshal([]byte(a.Body), &loose) != nil {
		t.Fatal(a)
	}
	delete(raw, "scenes")
	rest, _ := json.Marshal(raw)
	if err := json.Unmarshal(rest, &answer); err != nil {
		t.Fatal(err, a)
	}
	for _, s := range loose.Scenes {
		answer.Scenes = append(answer.Scenes, piece.Scene{ID: s.ID})
	}
	return answer
}

func (w walker) shown() {
	w.h.T.Helper()
	body := fmt.Sprintf(`{"visitor":%q,"visit":"visit-12345","events":[{"id":%q,"kind":"shown","at":%d,"piece":"sign-up","variant":"a","page":"/"}]}`, w.visitor, uuid.NewString(), time.Now().UnixMilli())
	if a := w.h.Page("events", body); a.Status != 200 || !strings.Contains(a.Body, `"stored":1`) {
		w.h.T.Fatal(a)
	}
}

var mail = map[string]any{"email": "orla@example.com"}

func TestWhatIsEarnedIsNotOnTheWireBefore(t *testing.T) {
	h := launched(t, rewarded())
	w := walking(h)
	sent := h.Call("GET", "/v1/sites/shop/designs/"+w.design, "").Body
	for _, secret := range []string{"spring", "guide.pdf", strings.Repeat("ab", 16), "Thank"} {
		if strings.Contains(sent, secret) {
			t.Errorf("%q can be read from the page: %s", secret, sent)
		}
	}
	if !strings.Contains(sent, `"id":"thanks"`) || !strings.Contains(sent, `"withheld":true`) {
		t.Error("the place of the withheld scene is not told:", sent)
	}
	if a := w.advance("", 0, walk.SentStep{Scene: "thanks"}); a.Status != 422 {
		t.Error("gone on from where nobody is yet:", a)
	}
	a := w.send("ask", mail)
	if a.Status != 200 || !strings.Contains(a.Body, "guide.pdf") || !strings.Contains(a.Body, `"lead":true`) {
		t.Fatal(a)
	}
	if got := come(t, a); got.Scene != "thanks" || got.Steps != 1 || got.Token == "" {
		t.Errorf("%+v", got)
	}
	other := w
	other.visitor = "somebody-else"
	if a := other.send("ask", mail); a.Status != 422 {
		t.Error("gone on with somebody else's walk:", a)
	}
	for _, c := range []struct{ from, to string }{{w.design, "0000"}, {`"sign-up"`, `"other"`}, {`"variant":"a"`, `"variant":"z"`}} {
		if a := h.Page("advance", strings.Replace(fmt.Sprintf(`{"walk":%s,"steps":[{"scene":"ask"}]}`, w.ref()), c.from, c.to, 1)); a.Status != 422 {
			t.Errorf("%s: %+v", c.to, a)
		}
	}
}

func TestCodesGoToThoseWhoHaveComeToThem(t *testing.T) {
	h := launched(t, rewarded())
	if _, err := h.Store.Codes.Add(context.Background(), h.Site, "spring", "Spring", []string{"A1", "A2"}); err != nil {
		t.Fatal(err)
	}
	w := walking(h)
	w.shown()
	if a := w.code(); a.Status != 403 {
		t.Error("a code before the form was sent:", a)
	}
	if a := w.send("ask", mail); a.Status != 200 {
		t.Fatal(a)
	}
	for range 2 {
		if a := w.code(); a.Status != 200 || !strings.Contains(a.Body, `"A1"`) {
			t.Error(a)
		}
	}
	for change, to := range map[string]string{`"sign-up"`: `"other"`, `"variant":"a"`: `"variant":"z"`, w.design: "0000", `"spring"`: `"winter"`, w.visitor: "' or 1=1", `"thanks"`: `"ask"`} {
		body := fmt.Sprintf(`{"walk":%s,"scene":"thanks","pool":"spring"}`, w.ref())
		if a := h.Page("codes", strings.Replace(body, change, to, 1)); a.Status != 422 {
			t.Errorf("%s: %d %s", to, a.Status, a.Body)
		}
	}
	second, third := walking(h), walking(h)
	second.send("ask", mail)
	third.send("ask", mail)
	if a := second.code(); a.Status != 200 || !strings.Contains(a.Body, `"A2"`) {
		t.Error(a)
	}
	if a := third.code(); a.Status != 404 || !strings.Contains(a.Body, "no-code-left") {
		t.Error(a)
	}
	if err := h.Store.Pieces.PauseOne(context.Background(), pieces.Act{Site: h.Site}, "sign-up"); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the rest", func() bool { return len(decide(h, `{}`).Placements) == 0 })
	if a := w.code(); a.Status != 422 {
		t.Error("a piece that rests gives codes:", a)
	}
}

// A pool in the first scene, for whoever sees it.
func TestCodesAreNotDrainedByMadeUpVisitors(t *testing.T) {
	p := atOnce()
	p.Split.Variants[0].Design.Scenes[0].Blocks = append(p.Split.Variants[0].Design.Scenes[0].Blocks, codeOf("c", "spring", ""))
	h := launched(t, p)
	var batch []string
	for i := range 100 {
		batch = append(batch, fmt.Sprint("C", i))
	}
	if _, err := h.Store.Codes.Add(context.Background(), h.Site, "spring", "Spring", batch); err != nil {
		t.Fatal(err)
	}
	ask := func(shown bool, more string) int {
		w := walking(h)
		if shown {
			w.shown()
		}
		return h.Page("codes", fmt.Sprintf(`{"walk":%s,"scene":"ask","pool":"spring"%s}`, w.ref(), more)).Status
	}
	if got := ask(false, ""); got != 409 {
		t.Errorf("a visitor whom nothing was shown to: %d", got)
	}
	unwatched := map[int]int{}
	for range 5 {
		unwatched[ask(false, `,"unwatched":true`)]++
	}
	if unwatched[200] != codes.Unwatched || unwatched[429] != 5-codes.Unwatched {
		t.Errorf("unwatched: %v", unwatched)
	}
	seen := map[int]int{}
	for range 12 {
		seen[ask(true, "")]++
	}
	if seen[200] != codes.PerHour-codes.Unwatched {
		t.Errorf("one address drew %v", seen)
	}
}

func TestWhereaboutsOfAddresses(t *testing.T) {
	for ip, want := range map[string][2]string{
		"203.0.113.9": {"203.0.113.9/32", "203.0.113.0/24"}, "::ffff:203.0.113.9": {"203.0.113.9/32", "203.0.113.0/24"},
		"2001:db8:1:2:3:4:5:6": {"2001:db8:1:2::/64", "2001:db8:1::/48"}, "fe80::1%eth0": {"fe80::/64", "fe80::/48"}, "none": {"none", "none"},
	} {
		if address, network := limits.Whereabouts(ip); address != want[0] || network != want[1] {
			t.Errorf("%s: %s, %s", ip, address, network)
		}
	}
}

// A choice in one scene and an address in the next are one walk, and one person's.
func TestAnswersOfEarlierScenesReachTheLead(t *testing.T) {
	p := atOnce()
	d := &p.Split.Variants[0].Design
	d.Scenes = append([]piece.Scene{{ID: "first", Name: "First", Kind: piece.FormScene, Blocks: []piece.Block{
		piece.Field{Kind: "field", ID: "glaze", Ask: piece.AskChoice, Key: "glaze", Label: "Which glaze?", Choices: []piece.Choice{{ID: "ash", Label: "Ash"}, {ID: "celadon", Label: "Celadon"}}},
		piece.Field{Kind: "field", ID: "n", Ask: piece.AskText, Key: "pot", Label: "Name of your pot"},
		piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}},
	}, Edges: []piece.Edge{{To: "ask"}}}}, d.Scenes...)
	h := launched(t, p)
	w := walking(h)
	a := come(t, w.send("first", map[string]any{"glaze": "celadon", "pot": "Big blue"}))
	if a.Lead || a.Scene != "ask" || len(a.Scenes) != 0 {
		t.Fatalf("%+v", a)
	}
	if n := len(leadsOf(h)); n != 0 {
		t.Fatalf("%d leads without an address", n)
	}
	if a = come(t, w.advance(a.Token, 1, walk.SentStep{Scene: "ask", Values: map[string]any{"email": "orla@example.com", "name": "Orla"}})); !a.Lead || a.Scene != "thanks" {
		t.Fatalf("%+v", a)
	}
	other := walking(h)
	other.walk = w.walk // somebody else's walk is not gone on with
	other.send("first", map[string]any{"glaze": "ash"})
	got := leadsOf(h)
	if len(got) != 1 || got[0].Times != 1 || len(got[0].Walks) != 1 {
		t.Fatalf("%+v", got)
	}
	answers := got[0].Walks[0].Answers
	if answers["glaze"] != "Celadon" || answers["email"] != "orla@example.com" || answers["pot"] != "Big blue" || answers["name"] != "Orla" {
		t.Errorf("%v", answers)
	}
	keys, err := h.Store.Leads.AnswerKeys(context.Background(), h.Site, leads.Query{})
	if err != nil || fmt.Sprint(keys) != "[glaze pot]" {
		t.Errorf("%v %v", keys, err)
	}
}

// A person who sent two pieces keeps what they said to each, and when.
func TestEverySubmissionKeepsItsOwnAnswersAndTime(t *testing.T) {
	h := launched(t, atOnce())
	first, second := walking(h), walking(h)
	first.send("ask", map[string]any{"email": "orla@example.com", "name": "Orla"})
	second.send("ask", map[string]any{"email": "ORLA@example.com", "name": "O. Byrne"})
	got := leadsOf(h)
	if len(got) != 1 || got[0].Times != 2 || len(got[0].Walks) != 2 {
		t.Fatalf("%+v", got)
	}
	w := got[0].Walks
	if w[0].Name != "O. Byrne" || w[1].Name != "Orla" || !w[0].At.After(w[1].At) || w[1].Answers["email"] != "orla@example.com" {
		t.Errorf("%+v", w)
	}
}

// A variant that was taken out stays known to the pages that have it open.
func TestWhatWasEverLiveStaysKnown(t *testing.T) {
	p := atOnce()
	p.Split.Variants = append(p.Split.Variants, p.Split.Variants[0])
	p.Split.Variants[1].ID, p.Split.Variants[1].Share = "b", 0
	h := launched(t, p)
	w := walking(h)
	next := atOnce()
	next.Split.Variants[0].ID = "c"
	relaunch(h, 1, next)
	eventually(t, "the launch", func() bool { return decide(h, `{}`).Placements[0].Variant == "c" })
	w.shown()
	if a := w.send("ask", mail); a.Status != 200 {
		t.Error("an open page's form fails:", a)
	}
	if err := h.Store.Pieces.PauseOne(context.Background(), pieces.Act{Site: h.Site}, "sign-up"); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the rest", func() bool { return len(decide(h, `{}`).Placements) == 0 })
	w.shown()
	w.walk = uuid.NewString()
	if a := w.send("ask", mail); a.Status != 200 {
		t.Error("an open page's form fails once the piece rests:", a)
	}
}

// What a newer program makes of a launched piece is known to older ones: it is stored.
func TestDesignsWrittenByAnotherProgramAreStored(t *testing.T) {
	h := servertest.New(t)
	raw, err := json.Marshal(atOnce())
	if err != nil {
		t.Fatal(err)
	}
	ctx := context.Background()
	if err := h.Store.Pieces.Add(ctx, h.Site, "sign-up", raw); err != nil {
		t.Fatal(err)
	}
	// Launched by a program that wrote its designs otherwise, under another hash.
	if err := h.Store.Pieces.Launch(ctx, pieces.Act{Site: h.Site}, "sign-up", 1, map[string][]byte{"written-otherwise": []byte(`{}`)}); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the piece", func() bool { return len(decide(h, `{}`).Placements) == 1 })
	if _, err := h.Store.Designs.Get(ctx, h.Site, decide(h, `{}`).Placements[0].Design); err != nil {
		t.Error("what is given out is not stored:", err)
	}
}
