package piece

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
)

// talking is the document of a new conversation, with what the test changes in its first scene.
func talking(t *testing.T, change func(scene map[string]any)) (*Piece, error) {
	t.Helper()
	raw, err := json.Marshal(New("Talks", Chat, "s"))
	if err != nil {
		t.Fatal(err)
	}
	var doc map[string]any
	if err := json.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	scenes := doc["split"].(map[string]any)["variants"].([]any)[0].(map[string]any)["design"].(map[string]any)["scenes"].([]any)
	change(scenes[0].(map[string]any))
	raw, _ = json.Marshal(doc)
	return Parse(raw)
}

func TestPrizeDrawsAreChecked(t *testing.T) {
	draw := func(parts string, more string) string {
		return `{"kind":"draw","id":"d","key":"prize","label":"Prize","look":"wheel","words":"Spin","size":300,"parts":[` + parts + `]` + more + `}`
	}
	two := `{"id":"a","label":"A","weight":1},{"id":"b","label":"B","weight":0.0001}`
	var many []string
	for i := range 200 {
		many = append(many, fmt.Sprintf(`{"id":"p%d","label":"P","weight":1}`, i))
	}
	for block, want := range map[string]string{
		draw(two, ""): "",
		draw(`{"id":"a","label":"A","weight":1000000},{"id":"b","label":"A","weight":0}`, ""):                                 "",
		draw(strings.Join(many[:24], ","), ""):                                                                                "",
		draw(strings.Join(many, ","), ""):                                                                                     "parts",
		draw(`{"id":"a","label":"A","weight":1}`, ""):                                                                         "parts",
		draw(`{"id":"a","label":"A","weight":0},{"id":"b","label":"B","weight":0}`, ""):                                       "parts",
		draw(`{"id":"a","label":"A","weight":-1},{"id":"b","label":"B","weight":1}`, ""):                                      "parts[0].weight",
		draw(`{"id":"a","label":"A","weight":1000001},{"id":"b","label":"B","weight":1}`, ""):                                 "parts[0].weight",
		draw(`{"id":"a","label":"A","weight":1},{"id":"a","label":"B","weight":1}`, ""):                                       "parts[1].id",
		draw(`{"id":"a","label":" ","weight":1},{"id":"b","label":"B","weight":1}`, ""):                                       "parts[0].label",
		draw(`{"id":"a","label":"A","weight":1,"stock":-1},{"id":"b","label":"B","weight":1}`, ""):                            "parts[0].stock",
		draw(`{"id":"a","label":"A","weight":1,"code":"`+strings.Repeat("é", 301)+`"},{"id":"b","label":"B","weight":1}`, ""): "parts[0].code",
		draw(`{"id":"a","label":"A","weight":1,"code":"two words 🎁"},{"id":"b","label":"B","weight":1}`, ""):                  "",
		draw(two, `,"size":20`):        "size",
		draw(two, `,"boxes":40`):       "boxes",
		draw(two, `,"color":"url(x)"`): "color",
	} {
		p, err := talking(t, func(s map[string]any) {
			var b any
			if err := json.Unmarshal([]byte(block), &b); err != nil {
				t.Fatal(err)
			}
			s["blocks"] = append(s["blocks"].([]any), b)
		})
		switch {
		case want == "" && err != nil:
			t.Errorf("%.90s: %v", block, err)
		case want != "" && (err == nil || !strings.Contains(err.Error(), "blocks[2]."+want)):
			t.Errorf("%.90s: %v, want it at %s", block, err, want)
		case want == "":
			// What is written is read as the same.
			again, _ := json.Marshal(p)
			if q, err := Parse(again); err != nil {
				t.Error(err)
			} else if twice, _ := json.Marshal(q); string(twice) != string(again) {
				t.Errorf("%s\n%s", again, twice)
			}
		}
	}
	if _, err := talking(t, func(s map[string]any) {
		for _, key := range []string{"one", "two"} {
			var b map[string]any
			_ = json.Unmarshal([]byte(draw(two, "")), &b)
			b["id"], b["key"] = key, key
			s["blocks"] = append(s["blocks"].([]any), b)
		}
	}); err == nil || !strings.Contains(err.Error(), "a second prize draw") {
		t.Errorf("two draws in a scene: %v", err)
	}
	for text, want := range map[string]string{
		`{"kind":"code","id":"c","draw":"nothing","words":"Copy","copied":"Copied","size":20}`: "names a prize draw that is not here",
		`{"kind":"code","id":"c","draw":"answer","words":"Copy","copied":"Copied","size":20}`:  "names a prize draw that is not here",
	} {
		_, err := talking(t, func(s map[string]any) {
			var b any
			_ = json.Unmarshal([]byte(text), &b)
			s["blocks"] = append(s["blocks"].([]any), b)
		})
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", text, err)
		}
	}
}

func TestScriptsAreThoseThatAreNeeded(t *testing.T) {
	p, err := talking(t, func(map[string]any) {})
	if err != nil {
		t.Fatal(err)
	}
	needs := func(p *Piece) []Script {
		d := p.Draw(p.First(), nil)
		got := d.Scripts()
		slices.Sort(got)
		return got
	}
	if got := needs(p); !slices.Equal(got, []Script{Chats}) {
		t.Errorf("a conversation needs %v", got)
	}
	p.Format = Inline
	if got := needs(p); !slices.Contains(got, Chats) || !slices.Contains(got, Frames) || !slices.Contains(got, Plays) {
		t.Errorf("one in the page needs %v", got)
	}
	popup := New("Popup", Popup, "s")
	if got := needs(popup); len(got) != 0 {
		t.Errorf("a popup needs %v", got)
	}
	blocks := &popup.Split.Variants[0].Design.Scenes[0].Blocks
	*blocks = append(*blocks, PrizeDraw{Kind: "draw", ID: "d"})
	if got := needs(popup); !slices.Equal(got, []Script{Draws}) {
		t.Errorf("a wheel needs %v", got)
	}
}
