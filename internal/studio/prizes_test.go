package studio_test

import (
	"encoding/csv"
	"fmt"
	"strings"
	"testing"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/walk"
	"gobbet/internal/servertest"
	reportplace "gobbet/internal/studio/report"
)

func TestGoesAreReportedAgainstTheirOdds(t *testing.T) {
	h := signedIn(t)
	h.Call("PUT", at(h, "/pools/mugs"), `{"name":"Mugs","codes":["M1","M2","M3"]}`)
	stock := 4
	p := piece.New("Asking", piece.Popup, "salt")
	p.Rule = reach.All{}
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{To: "end"}}, Blocks: []piece.Block{
			piece.PrizeDraw{Kind: "draw", ID: "d", Key: "prize", Label: "Prize", Look: "boxes", Words: "Open", Size: 300, Parts: []piece.DrawPart{
				{ID: "mug", Label: "=A mug", Weight: 1, Pool: "mugs"}, {ID: "tile", Label: "A tile", Weight: 0, Stock: &stock},
			}},
			piece.Field{Kind: "field", ID: "e", Ask: piece.AskEmail, Key: "email", Label: "Email"},
			piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}}}},
		{ID: "end", Name: "End", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Code{Kind: "code", ID: "c", Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}}},
	}
	h.Launch("asking", p)
	hashes := map[string]string{}
	p.Drawings(servertest.UsualKit(), hashes)
	walked(t, h, hashes["a"], walk.SentStep{Scene: "spin", Values: map[string]any{"email": "ann@example.com"}})
	walked(t, h, hashes["a"], walk.SentStep{Scene: "spin"})
	walked(t, h, hashes["a"], walk.SentStep{Scene: "spin"})

	var report reportplace.Played
	h.Call("GET", at(h, "/pieces/asking/played"), "").Into(t, &report)
	d := report.Variants[0].Draws[0]
	mug, tile := d.Parts[0], d.Parts[1]
	if d.Goes != 3 || mug.Drawn != 3 || *mug.Share != 1 || mug.Odds != 1 || *mug.Left != 0 || *mug.Days != 0 || tile.Drawn != 0 || *tile.Left != 4 || tile.Days != nil || mug.Interval[0] > 0.5 {
		t.Errorf("%+v", d)
	}
	rows, err := csv.NewReader(strings.NewReader(h.Call("GET", at(h, "/pieces/asking/goes.csv"), "").Body)).ReadAll()
	won := map[string]bool{}
	for _, row := range rows {
		won[row[4]+" "+row[5]] = true
	}
	if err != nil || len(rows) != 4 || rows[3][3] != "'=A mug" || rows[1][1] != "A" || !won["M1 ann@example.com"] || !won["M2 "] || !won["M3 "] {
		t.Errorf("%v, %v", rows, err)
	}
	list, err := csv.NewReader(strings.NewReader(h.Call("GET", at(h, "/pools/mugs/codes.csv"), "").Body)).ReadAll()
	if err != nil || len(list) != 4 || list[1][0] != "M1" || list[1][2] != "Asking" || list[1][3] != "ann@example.com" || list[2][3] != "" {
		t.Errorf("%v, %v", list, err)
	}
	var table reportplace.AnswerTable
	h.Call("GET", at(h, "/pieces/asking/answers"), "").Into(t, &table)
	if table.Rows[0].Answers["prize"] != "=A mug" {
		t.Errorf("%+v", table)
	}
}

// Visitors who are not counted take prizes and votes all the same; what is left
// and what is shown to everyone add up with them.
func TestWhatIsTakenByVisitorsWhoAreNotCountedIsSetApart(t *testing.T) {
	h := signedIn(t)
	stock := 5
	p := piece.New("Asking", piece.Popup, "salt")
	p.Rule = reach.All{}
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{To: "end"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "q", Ask: piece.AskChoice, Key: "q", Label: "Q?", Choices: []piece.Choice{{ID: "yes", Label: "Yes"}, {ID: "no", Label: "No"}}},
			piece.PrizeDraw{Kind: "draw", ID: "d", Key: "prize", Label: "Prize", Look: "boxes", Words: "Open", Size: 300, Parts: []piece.DrawPart{
				{ID: "mug", Label: "A mug", Weight: 1, Stock: &stock}, {ID: "tile", Label: "A tile", Weight: 0},
			}},
			piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}}}},
		{ID: "end", Name: "End", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Tally{Kind: "tally", ID: "t", Key: "q"}}},
	}
	h.Launch("asking", p)
	hashes := map[string]string{}
	p.Drawings(servertest.UsualKit(), hashes)
	walked(t, h, hashes["a"], walk.SentStep{Scene: "spin", Values: map[string]any{"q": "yes"}})
	var public int
	for i, unwatched := range []bool{true, true, true} {
		a := h.Page("advance", fmt.Sprintf(`{"walk":{"id":%q,"piece":"asking","variant":"a","design":%q,"visitor":"visitor-%d000"},"steps":[{"scene":"spin","values":{"q":"yes"}}],"unwatched":%v}`,
			uuid.NewString(), hashes["a"], i, unwatched))
		var said struct {
			Tallies map[string]*walk.Tally `json:"tallies"`
		}
		if a.Into(t, &said); a.Status != 200 || said.Tallies["q"] == nil {
			t.Fatal(a)
		}
		public = said.Tallies["q"].All
	}
	var report reportplace.Played
	h.Call("GET", at(h, "/pieces/asking/played"), "").Into(t, &report)
	d, q := report.Variants[0].Draws[0], report.Variants[0].Questions[0]
	if d.Goes != 1 || d.Uncounted != 3 || d.Parts[0].Drawn != 1 || d.Parts[0].Uncounted != 3 || *d.Parts[0].Left != stock-d.Goes-d.Uncounted {
		t.Errorf("%+v", d)
	}
	if q.Answered != 1 || q.Uncounted != 3 || public != q.Answered+q.Uncounted {
		t.Errorf("%+v, and %d are shown", q, public)
	}
}
