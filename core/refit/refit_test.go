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
