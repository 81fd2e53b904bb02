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
	"gobbet/internal/servertest"
	"gobbet/internal/store/pieces"
)

// wheel asks for an address and draws; who wins comes to the code.
func wheel(parts ...piece.DrawPart) *piece.Piece {
	p := atOnce()
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{When: []piece.Test{{Of: "prize", Op: piece.TestIs, Value: "none"}}, To: "lost"}, {To: "won"}}, Blocks: []piece.Block{
			piece.PrizeDraw{Kind: "draw", ID: "d", Key: "prize", Label: "Prize", Look: "wheel", Words: "Spin", Size: 300, Parts: parts},
			piece.Field{Kind: "field", ID: "e", Ask: piece.AskEmail, Key: "email", Label: "Email"},
			piece.Button{Kind: "button", ID: "on", Words: "Spin", Press: piece.Press{Do: piece.DoSend}, Counts: true}}},
		{ID: "won", Name: "Won", Kind: piece.ThanksScene, Blocks: []piece.Block{
			piece.Code{Kind: "code", ID: "c", Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}}},
		{ID: "lost", Name: "Lost", Kind: piece.ThanksScene, Blocks: []piece.Block{
			piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain("Not this time"), Size: 20, Align: "start"}}},
	}
	return p
}

func part(id string, weight float64) piece.DrawPart {
	return piece.DrawPart{ID: id, Label: strings.ToUpper(id), Weight: weight}
}

var usualParts = []piece.DrawPart{
	{ID: "ten", Label: "10 % off", Weight: 1, Code: "TEN-SECRET"}, part("tile", 0), {ID: "none", Label: "Nothing", Weight: 0, Nothing: true},
}

// relaunch puts the next version of a piece live.
func relaunch(h *servertest.Harness, from int, p *piece.Piece) {
	h.T.Helper()
	ctx := context.Background()
	raw, _ := json.Marshal(p)
	version, err := h.Store.Pieces.SaveDraft(ctx, h.Site, "sign-up", from, raw)
	if err == nil {
		err = h.Store.Pieces.Launch(ctx, pieces.Act{Site: h.Site}, "sign-up", version, p.Drawings(servertest.UsualKit(), nil))
	}
	if err != nil {
		h.T.Fatal(err)
	}
}

func (w walker) won(scene string) servertest.Answer {
	return w.h.Page("codes", fmt.Sprintf(`{"walk":%s,"scene":%q,"draw":"prize"}`, w.ref(), scene))
}

func TestAGoIsDrawnOnceAndItsCodeIsTheVisitors(t *testing.T) {
	h := launched(t, wheel(usualParts...))
	w := walking(h)
	ahead := h.Call("GET", "/v1/sites/shop/designs/"+w.design, "").Body
	if strings.Contains(ahead, "SECRET") || strings.Contains(ahead, `"weight":1`) || strings.Contains(ahead, "nothing") {
		t.Errorf("sent ahead: %s", ahead)
	}
	if a := w.won("won"); a.Status != 403 {
		t.Errorf("a code before the go: %v", a)
	}
	if a := w.advance("", 0, take("spin", "prize", "ten")); a.Status != 422 {
		t.Errorf("a visitor who says what they drew: %v", a)
	}
	first := w.advance("", 0, take("spin", "email", "orla@example.com"))
	a := come(t, first)
	if a.Scene != "won" || a.Drawn["prize"].Part != "ten" || a.Drawn["prize"].Again || a.Drawn["prize"].Label != "10 % off" || strings.Contains(first.Body, "SECRET") {
		t.Fatalf("%+v: %s", a, first.Body)
	}
	if rest := a.Drawn["prize"].Rest; rest <= 0 || rest >= 360 {
		t.Errorf("the wheel rests at %v°", rest)
	}
	// The same again, as after an answer that was lost on its way.
	if again := come(t, w.advance("", 0, take("spin", "email", "orla@example.com"))); again.Steps != 1 || again.Scene != "won" {
		t.Errorf("%+v", again)
	}
	if code := w.won("won"); code.Status != 200 || !strings.Contains(code.Body, "TEN-SECRET") {
		t.Errorf("%v", code)
	}
	// Another tab, another walk: the same go.
	other := w
	other.walk = uuid.NewString()
	if b := come(t, other.advance("", 0, take("spin", "email", "orla@example.com"))); b.Drawn["prize"].Part != "ten" || !b.Drawn["prize"].Again {
		t.Errorf("%+v", b)
	}
	// Another visitor with the same address.
	bob := walking(h)
	if b := bob.advance("", 0, take("spin", "email", "ORLA@example.com")); b.Status != 422 || !strings.Contains(b.Body, "steps[0].values.email") || !strings.Contains(b.Body, "had its go") {
		t.Errorf("%v", b)
	}
	got := leadsOf(h)
	if len(got) != 1 || got[0].Walks[0].Answers["prize"] != "10 % off" || got[0].Walks[0].Answers["prize_code"] != "TEN-SECRET" {
		t.Errorf("the lead does not have its prize: %+v", got)
	}
	// Two walks of one visitor, one go.
	play, err := h.Store.Walks.Played(context.Background(), h.Site, "sign-up", time.Time{})
	drawn := 0
	for _, c := range play.Answers {
		if c.Key == "prize" && c.Choice == "ten" {
			drawn += c.Answers
		}
	}
	if err != nil || drawn != 1 {
		t.Errorf("%d goes are counted, %v", drawn, err)
	}
}

func TestAnAddressLeftAfterTheGoHasOneGoToo(t *testing.T) {
	p := wheel(usualParts...)
	d := &p.Split.Variants[0].Design
	spin := d.Scenes[0]
	d.Scenes[0].Blocks = spin.Blocks[:1]
	d.Scenes[0].Edges = []piece.Edge{{To: "ask"}}
	d.Scenes = append(d.Scenes, piece.Scene{ID: "ask", Name: "Ask", Kind: piece.FormScene, Blocks: spin.Blocks[1:], Edges: []piece.Edge{{To: "won"}}})
	h := launched(t, p)
	for i, want := range []int{200, 422} {
		w := walking(h)
		a := come(t, w.advance("", 0, take("spin")))
		if a.Scene != "ask" || a.Drawn["prize"].Part != "ten" {
			t.Fatalf("%+v", a)
		}
		if c := w.won("won"); c.Status != 403 {
			t.Errorf("the code before the address is left: %v", c)
		}
		if b := w.advance(a.Token, 1, take("ask", "email", "ann@example.com")); b.Status != want {
			t.Errorf("visitor %d: %v", i, b)
		}
	}
	if got := leadsOf(h); len(got) != 1 || got[0].Walks[0].Answers["prize_code"] != "TEN-SECRET" {
		t.Errorf("%+v", got)
	}
}

func TestWhatIsLiveNowIsDrawn(t *testing.T) {
	h := launched(t, wheel(usualParts...))
	w := walking(h)
	// The wheel is changed while the visitor looks at it.
	parts := append([]piece.DrawPart{}, usualParts...)
	parts[0].Weight, parts[1].Weight = 0, 1
	relaunch(h, 1, wheel(parts...))
	eventually(t, "the launch", func() bool { return decide(h, `{}`).Placements[0].Design != w.design })
	if a := come(t, w.advance("", 0, take("spin"))); a.Drawn["prize"].Part != "tile" {
		t.Errorf("%+v", a)
	}
	// What the earlier wheel does not have cannot be drawn on it.
	late := w
	late.walk, late.visitor = uuid.NewString(), "visitor-late"
	design := decide(h, `{}`).Placements[0].Design
	relaunch(h, 2, wheel(part("ship", 1), part("none", 0)))
	eventually(t, "the launch", func() bool { return decide(h, `{}`).Placements[0].Design != design })
	if a := late.advance("", 0, take("spin")); a.Status != 409 || !strings.Contains(a.Body, "given out") {
		t.Errorf("%v", a)
	}
	if err := h.Store.Pieces.PauseOne(context.Background(), pieces.Act{Site: h.Site}, "sign-up"); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the pause", func() bool { return len(decide(h, `{}`).Placements) == 0 })
	later := late
	later.walk, later.visitor = uuid.NewString(), "visitor-later"
	if a := later.advance("", 0, take("spin")); a.Status != 409 || !strings.Contains(a.Body, "This draw is over.") {
		t.Errorf("%v", a)
	}
	// Who had a go has it still.
	again := w
	again.walk = uuid.NewString()
	if a := again.advance("", 0, take("spin")); a.Status != 409 {
		t.Errorf("%v", a)
	}
	if c := w.won("won"); c.Status != 200 {
		t.Errorf("what was won is gone with the pause: %v", c)
	}
}

func TestAWalkDrawsOneAtATime(t *testing.T) {
	p := wheel(usualParts...)
	d := &p.Split.Variants[0].Design
	second := d.Scenes[0]
	second.ID, second.Name = "spin2", "Second"
	draw := d.Scenes[0].Blocks[0].(piece.PrizeDraw)
	draw.Key = "prize_2"
	second.Blocks, second.Edges = []piece.Block{draw}, []piece.Edge{{To: "won"}}
	d.Scenes[0].Edges = []piece.Edge{{To: "spin2"}}
	d.Scenes = append(d.Scenes, second)
	h := launched(t, p)
	w := walking(h)
	if a := w.advance("", 0, take("spin"), take("spin2")); a.Status != 422 || !strings.Contains(a.Body, "One go at a time") {
		t.Errorf("%v", a)
	}
	a := come(t, w.advance("", 0, take("spin")))
	if b := come(t, w.advance(a.Token, 1, take("spin2"))); b.Drawn["prize_2"].Part != "ten" || b.Scene != "won" {
		t.Errorf("%+v", b)
	}
}

func TestMadeUpVisitorsOfOneAddressGetSoManyGoes(t *testing.T) {
	p := wheel(usualParts...)
	spin := &p.Split.Variants[0].Design.Scenes[0]
	spin.Blocks = []piece.Block{spin.Blocks[0], spin.Blocks[2]} // nobody is asked for an address
	h := launched(t, p)
	got := map[int]int{}
	for range 45 {
		got[walking(h).advance("", 0, take("spin")).Status]++
	}
	if got[200] != 30 || got[429] != 15 {
		t.Errorf("%v", got)
	}
}
