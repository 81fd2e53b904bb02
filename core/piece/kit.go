package piece

import (
	"encoding/json"
	"strings"

	"gobbet/core/style"
)

// OfKit reports whether anything of a design follows the style kit, which is
// what changes with it.
func (d Design) OfKit() bool {
	raw, err := json.Marshal(d)
	if err != nil {
		return false
	}
	return strings.Contains(string(raw), `"@`) || d.Frame.Corners == ByKit
}

// KitColors lists the kit's colours that a design uses, by their ids.
func (d Design) KitColors() []string {
	raw, err := json.Marshal(d)
	if err != nil {
		return nil
	}
	return style.Uses(raw)
}
