package refit

import (
	"encoding/json"
	"strings"
	"testing"

	"gobbet/core/piece"
)

func TestADesignIsTheSameOnceItIsBackInItsFormat(t *testing.T) {
	d := piece.New("x", piece.Popup, "s").Split.Variants[0].Design
	d.Frame.Behind = piece.Behind{Picture: strings.Repeat("a", 32), Side: "start"}
	for _, format := range piece.Formats {
		back := Design(Design(d, piece.Popup, format), format, piece.Popup)
		a, _ := json.Marshal(d.Scenes)
		b, _ := json.Marshal(back.Scenes)
		if string(a) != string(b) || back.Frame.Behind.Picture != d.Frame.Behind.Picture || back.Frame.Width != d.Frame.Width {
			t.Errorf("through %s: %+v", format, back.Frame)
		}
	}
}

func TestOnItsOwnPageAPieceStandsAndNothingClosesIt(t *testing.T) {
	for _, format := range piece.Formats {
		p := piece.New("x", format, "s")
		f := &p.Split.Variants[0].Design.Frame
		f.Anchor, f.Tab.Words, f.Sound = piece.Anchor{Selector: "main"}, "Open", "chime"
		f.Phone = piece.Patch{"width": 300.0, "background": "#112233", "close": map[string]any{"shown": true}}
		own := OnOwnPage(p)
		got := own.Split.Variants[0].Design.Frame
		if own.Format != piece.Inline || own.PhoneFormat != "" || got.Close.Shown || got.Tab.Words != "" || got.Anchor.Selector != "" || got.Sound != "" || got.Backdrop.Opacity != 0 {
			t.Errorf("%s: %s %+v", format, own.Format, got)
		}
		if len(got.Phone) != 1 || got.Phone["background"] != "#112233" {
			t.Errorf("%s on phones: %v", format, got.Phone)
		}
		if f.Tab.Words != "Open" || p.Format != format {
			t.Errorf("%s was changed itself", format)
		}
	}
}

func TestAConversationKeepsItsTabWhereverItGoes(t *testing.T) {
	frame := piece.UsualFrame(piece.Popup)
	d := Design(piece.Design{Frame: frame}, piece.Popup, piece.Chat)
	if d.Frame.Tab.Words == "" || d.Frame.Talk == nil {
		t.Errorf("a popup became a conversation without its tab: %+v", d.Frame)
	}
	if back := Design(d, piece.Chat, piece.Popup); back.Frame.Tab.Words != "" {
		t.Error("the usual tab stays on a popup, which would wait behind it")
	}
	d.Frame.Tab.Words = "Ours"
	if back := Design(d, piece.Chat, piece.Popup); back.Frame.Tab.Words != "Ours" || !back.Frame.Tab.After {
		t.Error("a tab of one's own is lost, or keeps the popup from opening")
	}
	if in := Design(d, piece.Chat, piece.Inline); in.Frame.Talk == nil {
		t.Error("in the page it is no conversation any more")
	}
}
