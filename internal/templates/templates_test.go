package templates

import (
	"encoding/json"
	"slices"
	"testing"

	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/core/style"
)

// shopKit is a style unlike the usual one: light on dark.
var shopKit = style.Kit{
	Colors: []style.KitColor{
		{ID: "background", Name: "Night", Value: "#1d2430"}, {ID: "ink", Name: "Chalk", Value: "#f4efe6"}, {ID: "accent", Name: "Amber", Value: "#f0b429"},
		{ID: "accent_ink", Name: "On amber", Value: "#241a08"}, {ID: "soft", Name: "Dusk", Value: "#2e3848"},
	},
	Text: style.Karla, Heading: style.Lora, Corners: 4, Button: style.KitButton{Corners: 2, Weight: 600}, Field: style.KitField{Corners: 2},
}

func TestEveryStartIsADocumentInEveryFormat(t *testing.T) {
	if len(All()) < 40 {
		t.Errorf("%d templates", len(All()))
	}
	seen, goals, formats := map[string]bool{}, map[Goal]int{}, map[piece.Format]int{}
	for _, s := range All() {
		if seen[s.ID] {
			t.Errorf("%s is there twice", s.ID)
		}
		seen[s.ID] = true
		goals[s.Goal]++
		formats[s.Format]++
		for _, format := range piece.Formats {
			raw, err := json.Marshal(s.Piece("A piece", format, "salt"))
			if err != nil {
				t.Fatal(err)
			}
			if _, err := piece.Parse(raw); err != nil {
				t.Errorf("%s as %s: %v", s.ID, format, err)
			}
		}
	}
	if len(goals) != 12 || len(formats) != len(piece.Formats) {
		t.Errorf("goals %v, formats %v", goals, formats)
	}
}

func TestEveryStartMayGoLive(t *testing.T) {
	usual := style.UsualKit()
	for _, s := range slices.Concat(All(), blanks) {
		for _, format := range piece.Formats {
			if !s.Fits(format) {
				continue
			}
			for name, kit := range map[string]*style.Kit{"usual": &usual, "dark": &shopKit} {
				for _, n := range settle.Notes(s.Piece("A piece", format, "salt"), settle.Around{Kit: kit}) {
					if n.Code == "template_text" || n.Code == "no_place" && format == piece.Inline || n.Code == "nothing_sends" && s.Promises() {
						continue // what only the marketer can do, and is told of
					}
					t.Errorf("%s as %s in the %s style: %s at %s: %s", s.ID, format, name, n.Code, n.At, n.Say)
				}
			}
		}
	}
}

func TestArtIsByItsContent(t *testing.T) {
	d, ok := Art(Hash("gift"))
	if !ok || d.Name != "gift" || len(d.Body) == 0 || len(d.Body) > 20_000 {
		t.Errorf("%v %s %d bytes", ok, d.Name, len(d.Body))
	}
	if _, ok := Art("0000"); ok {
		t.Error("art of no hash")
	}
}
