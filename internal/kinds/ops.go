package kinds

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"gobbet/core/reach"
)

// writeOps writes web/kinds/ops.ts below root: how operators are said, as the
// core says them.
func writeOps(root string) error {
	var b strings.Builder
	b.WriteString("// Written by make kinds from core/reach.\n\nimport type { Op } from './reach'\n\n/** How operators are said, in the order they are offered. */\nexport const opWords: Record<Op, string> = {\n")
	write := func(words map[reach.Op]string) {
		seen := map[reach.Op]bool{}
		for _, op := range append(append([]reach.Op{}, reach.Ops[reach.Either]...), reach.Ops[reach.Happening]...) {
			if says := words[op]; says != "" && !seen[op] {
				fmt.Fprintf(&b, "  %s: '%s',\n", op, says)
			}
			seen[op] = true
		}
		b.WriteString("}\n")
	}
	write(reach.OpSays)
	b.WriteString("\n/** How the opposite is said of those that have no operator for it: a condition with “not” around. */\nexport const opWordsNot: Partial<Record<Op, string>> = {\n")
	write(reach.OpSaysNot)
	return os.WriteFile(filepath.Join(root, "web/kinds/ops.ts"), []byte(b.String()), 0o644)
}
