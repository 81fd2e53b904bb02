package kinds

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"

	"gobbet/core/piece"
	"gobbet/core/refit"
	"gobbet/core/settle"
	"gobbet/core/style"
	"gobbet/internal/templates"
)

// writeKit writes web/kinds/usualKit.ts below root.
func writeKit(root string) error {
	kit, err := json.MarshalIndent(style.UsualKit(), "", "  ")
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(root, "web/kinds/usualKit.ts"), fmt.Appendf(nil,
		"// Written by make kinds from core/style.\n\nimport type { Kit } from './style'\n\n/** The style kit of what is drawn without a site's own. */\nexport const usualKit: Kit = %s\n", kit), 0o644)
}

type contrastCase struct {
	A     style.Color `json:"a"`
	B     style.Color `json:"b"`
	Ratio float64     `json:"ratio"`
}

type refitCase struct {
	Template string       `json:"template"`
	From     piece.Format `json:"from"`
	To       piece.Format `json:"to"`
	Before   piece.Frame  `json:"before"`
	After    piece.Frame  `json:"after"`
}

// WriteTwins writes web/tests/twins.json below root: what the core makes of
// some colours and frames. What the studio computes itself, to answer at once,
// is held to it.
func WriteTwins(root string) error {
	var cases struct {
		Contrast []contrastCase               `json:"contrast"`
		Frames   map[piece.Format]piece.Frame `json:"frames"`
		Refit    []refitCase                  `json:"refit"`
	}
	colors := []style.Color{"#000000", "#ffffff", "#fffdf9", "#2b2430", "#1f4f4e", "#767676", "#0a0b0c", "#0b0a0c", "#ff0000", "#00ff00", "#0000ff", "#d9cbb6"}
	for _, a := range colors {
		for _, b := range colors {
			cases.Contrast = append(cases.Contrast, contrastCase{a, b, settle.Contrast(a, b)})
		}
	}
	cases.Frames = map[piece.Format]piece.Frame{}
	for _, f := range piece.Formats {
		cases.Frames[f] = piece.UsualFrame(f)
	}
	for _, t := range templates.All() {
		// One of each format is enough, and one with a picture behind it.
		if !map[string]bool{"a-guide-to-take-along": true, "countdown-line": true, "corner-letter": true, "join-at-the-side": true, "letter-in-the-page": true, "sale-is-on": true, "before-they-leave": true}[t.ID] {
			continue
		}
		before := t.Design(t.Format)
		for _, to := range piece.Formats {
			cases.Refit = append(cases.Refit, refitCase{t.ID, t.Format, to, before.Frame, refit.Design(before, t.Format, to).Frame})
		}
	}
	text, err := json.MarshalIndent(cases, "", " ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Join(root, "web/tests"), 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(root, "web/tests/twins.json"), append(text, '\n'), 0o644)
}
