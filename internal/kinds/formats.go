package kinds

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"gobbet/core/piece"
)

// writeFormats writes web/kinds/formats.ts below root: what the front end has to
// know of formats, drawn from their declarations.
func writeFormats(root string) error {
	var b strings.Builder
	b.WriteString("// Written by make kinds from the formats' declarations in core/piece.\n\nimport type { Format } from './piece'\n\n/** Where a piece of a format may stand, the usual place first. */\nexport const places: Record<Format, string> = {\n")
	var covers []string
	for _, f := range piece.Formats {
		var places []string
		for _, p := range f.Places() {
			places = append(places, string(p))
		}
		fmt.Fprintf(&b, "  %s: '%s',\n", f, strings.Join(places, " "))
		if f.Overlay() {
			covers = append(covers, string(f))
		}
	}
	fmt.Fprintf(&b, "}\n\n/** Formats that lie over the page and make it wait. */\nexport const covers = '%s'\n", strings.Join(covers, " "))
	return os.WriteFile(filepath.Join(root, "web/kinds/formats.ts"), []byte(b.String()), 0o644)
}
