package settle

import (
	"slices"
	"strings"
	"testing"

	"gobbet/core/piece"
)

// drawn is a piece with a wheel, a sign-up and a code, with what the test changes.
func drawn(change func(p *piece.Piece, d *piece.PrizeDraw)) *piece.Piece {
	p := piece.New("Wheel", piece.Popup, "s")
	d := piece.PrizeDraw{Kind: "draw", ID: "w", Key: "prize", Label: "Prize", Look: "wheel", Words: "Spin", Size: 300, Parts: []piece.DrawPart{
		{ID: "ten", Label: "10 % off", Weight: 3, Code: "TEN"}, {ID: "none", Label: "Nothing", Weight: 2, Nothing: true},
	}}
	scenes := []piece.Scene{
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{To: "ask"}}},
		{ID: "ask", Name: "Ask", Kind: piece.FormScene, Edges: []piece.Edge{{To: "won"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "e", Ask: piece.AskEmail, Key: "email", Label: "Email", Required: true},
			piece.Button{Kind: "button", ID: "on", Words: "Show my code", Press: piece.Press{Do: piece.DoSend}, Counts: true}}},
		{ID: "won", Name: "Won", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Code{Kind: "code", ID: "c", Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}}},
	}
	p.Split.Variants[0].Design.Scenes = scenes
	change(p, &d)
	scenes[0].Blocks = append([]piece.Block{d}, scenes[0].Blocks...)
	return p
}

func codesOf(notes []Note) (codes []string) {
	for _, n := range notes {
		codes = append(codes, n.Code)
	}
	return codes
}

func TestWhatAPrizeDrawPromises(t *testing.T) {
	zero := 0
	none := func(*piece.Piece, *piece.PrizeDraw) {}
	for name, c := range map[string]struct {
		change func(p *piece.Piece, d *piece.PrizeDraw)
		codes  map[string]int
		want   string // a code and its severity; empty: nothing
	}{
		"a sound one":          {none, nil, ""},
		"3 in 4 win nothing":   {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[1].Weight = 9 }, nil, "warn wins_nothing"},
		"nobody wins":          {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Weight = 0 }, nil, "warn wins_nothing"},
		"a weight of zero":     {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[1].Weight = 0 }, nil, "warn part_never"},
		"a stock of zero":      {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[1].Stock = &zero }, nil, "warn no_stock"},
		"too narrow to read":   {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Weight = 900 }, nil, "warn narrow_part"},
		"narrow but even":      {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Weight, d.Even = 900, true }, nil, ""},
		"a card has no widths": {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Weight, d.Look = 900, "card" }, nil, ""},
		"a code nobody sees": {func(p *piece.Piece, _ *piece.PrizeDraw) {
			p.Split.Variants[0].Design.Scenes[2].Blocks = []piece.Block{piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain("Won"), Size: 20, Align: "start"}}
		}, nil, "warn code_unseen"},
		"nothing after it": {func(p *piece.Piece, _ *piece.PrizeDraw) { p.Split.Variants[0].Design.Scenes[0].Edges = nil }, nil, "warn prize_unseen"},
		"the code before the form": {func(p *piece.Piece, _ *piece.PrizeDraw) {
			s := p.Split.Variants[0].Design.Scenes
			s[0].Edges, s[2].Edges, s[1].Edges = []piece.Edge{{To: "won"}}, []piece.Edge{{To: "ask"}}, nil
			s[2].Blocks = append(s[2].Blocks, piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoNext}})
		}, nil, "warn prize_ungated"},
		"a pool that is gone": {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Code, d.Parts[0].Pool = "", "pool" }, map[string]int{"other": 5}, "stop no_pool"},
		"an empty pool":       {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Code, d.Parts[0].Pool = "", "pool" }, map[string]int{"pool": 0}, "stop pool_dry"},
		"a low pool":          {func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Code, d.Parts[0].Pool = "", "pool" }, map[string]int{"pool": 7}, "warn pool_low"},
	} {
		t.Run(name, func(t *testing.T) {
			var got []string
			notes := Notes(drawn(c.change), Around{Codes: c.codes})
			for _, n := range notes {
				got = append(got, string(n.Severity)+" "+n.Code)
				if n.Say == "" || n.Mend == "" || n.At == "" {
					t.Errorf("%+v", n)
				}
			}
			of := []string{"warn wins_nothing", "warn part_never", "warn no_stock", "warn narrow_part", "warn code_unseen", "warn prize_unseen", "warn prize_ungated", "stop no_pool", "stop pool_dry", "warn pool_low"}
			for _, one := range of {
				if has := slices.Contains(got, one); one == c.want && !has {
					t.Errorf("%s is not in %v", one, got)
				} else if c.want == "" && has {
					t.Errorf("%s, with nothing wrong", one)
				}
			}
		})
	}
}

func TestAPoolRunsDryAtTheRehearsedTraffic(t *testing.T) {
	p := drawn(func(_ *piece.Piece, d *piece.PrizeDraw) { d.Parts[0].Code, d.Parts[0].Pool = "", "pool" })
	names := map[string]string{"pool": "Spring"}
	// 3 in 5 win a code: 60 a day of 100 visitors, and 300 last 5 days.
	notes := Drying(p, 100, map[string]int{"pool": 300}, names)
	if len(notes) != 1 || notes[0].Code != "pool_soon_dry" || !strings.Contains(notes[0].Say, "after 5 days") || !strings.Contains(notes[0].Say, "Spring") || notes[0].At != "split.variants[0].design.scenes[0].blocks[0].parts[0].pool" {
		t.Errorf("%+v", notes)
	}
	for visitors, codes := range map[float64]int{100: 30_000, 1: 300, 0.001: 1} {
		if notes := Drying(p, visitors, map[string]int{"pool": codes}, names); len(notes) != 0 {
			t.Errorf("%v visitors and %d codes: %v", visitors, codes, codesOf(notes))
		}
	}
}
