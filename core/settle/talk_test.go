package settle

import (
	"slices"
	"testing"

	"gobbet/core/piece"
)

func TestWhatAConversationAsks(t *testing.T) {
	email := func(key string) piece.Field {
		return piece.Field{Kind: "field", ID: "e", Ask: piece.AskEmail, Key: key, Label: "Email", Required: true}
	}
	for name, c := range map[string]struct {
		change func(p *piece.Piece, d *piece.Design)
		want   string
	}{
		"a sound one": {func(*piece.Piece, *piece.Design) {}, ""},
		"never asks": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes = d.Scenes[2:3]
		}, "warn never_asks"},
		"asks twice": {func(_ *piece.Piece, d *piece.Design) {
			again := d.Scenes[1]
			again.ID, again.Name, again.Edges = "again", "Again", []piece.Edge{{To: "thanks"}}
			again.Blocks = []piece.Block{email("email_2"), again.Blocks[2]}
			d.Scenes[1].Edges = []piece.Edge{{To: "again"}}
			d.Scenes = append(d.Scenes, again)
		}, "warn asks_twice"},
		"asks on two ways that part": {func(_ *piece.Piece, d *piece.Design) {
			other := d.Scenes[1]
			other.ID, other.Name = "other", "Other"
			other.Blocks = []piece.Block{email("email_2"), other.Blocks[2]}
			d.Scenes[0].Edges[0].To = "other"
			d.Scenes = append(d.Scenes[:3], other)
		}, ""},
		"goes round for ever": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[3].Passes, d.Scenes[3].Edges = true, []piece.Edge{{To: "no2"}}
			d.Scenes = append(d.Scenes, piece.Scene{ID: "no2", Name: "No", Kind: piece.PlainScene, Passes: true, Edges: []piece.Edge{{To: "no"}}, Blocks: d.Scenes[3].Blocks})
		}, "stop endless"},
		"a line that passes in a popup": {func(p *piece.Piece, d *piece.Design) {
			p.Format = piece.Popup
			d.Scenes[3].Passes, d.Scenes[3].Edges = true, []piece.Edge{{To: "thanks"}}
		}, "stop passes_alone"},
	} {
		t.Run(name, func(t *testing.T) {
			p := written(piece.Chat)
			c.change(p, &p.Split.Variants[0].Design)
			var got []string
			for _, n := range Notes(p, Around{}) {
				got = append(got, string(n.Severity)+" "+n.Code)
			}
			if c.want != "" && !slices.Contains(got, c.want) || c.want == "" && len(got) > 0 {
				t.Errorf("got %v, want %q", got, c.want)
			}
		})
	}
}
