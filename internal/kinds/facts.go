package kinds

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"gobbet/core/reach"
	place "gobbet/internal/studio/reach"
)

// WriteFacts writes docs/facts.md below root: every fact a rule may ask about,
// drawn from their declarations.
func WriteFacts(root string) error {
	var b strings.Builder
	b.WriteString("# Facts and moments\n\nWhat a rule may ask about, written from the program's own declarations by `make kinds`. A name that ends in a dot goes on with a name of the site's: `page.query.ref`, `data.basket_total`. What is not recorded is used for deciding and then forgotten; a rehearsal takes it for not known, or, of a moment, for never.\n")
	group := ""
	for _, f := range reach.Facts {
		if f.Group != group {
			group = f.Group
			fmt.Fprintf(&b, "\n## %s\n\n| name | in a sentence | kind | values | recorded |\n| --- | --- | --- | --- | --- |\n", strings.ToUpper(group[:1])+group[1:])
		}
		values := f.Unit
		switch {
		case len(f.Values) > 20:
			values = fmt.Sprintf("%d codes (ISO 3166-1 alpha-2)", len(f.Values))
		case f.Values != nil:
			values = strings.Join(f.Values, ", ")
		}
		recorded := "yes"
		if !f.Recorded {
			recorded = "no"
		}
		says := strings.ReplaceAll(f.Says, "{}", "…")
		if f.SaysNot != "" {
			says += " / " + f.SaysNot
		}
		fmt.Fprintf(&b, "| `%s` | %s | %s | %s | %s |\n", f.Name, says, f.Kind, values, recorded)
	}
	b.WriteString("\n## Operators\n\n| kind | operators |\n| --- | --- |\n")
	for _, kind := range []reach.Kind{reach.Text, reach.Number, reach.Flag, reach.Either, reach.Counted, reach.Happening} {
		ops := make([]string, len(reach.Ops[kind]))
		for i, op := range reach.Ops[kind] {
			ops[i] = "`" + string(op) + "`"
		}
		fmt.Fprintf(&b, "| %s | %s |\n", kind, strings.Join(ops, " "))
	}
	if err := os.MkdirAll(filepath.Join(root, "docs"), 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(root, "docs/facts.md"), []byte(b.String()), 0o644)
}

// WriteFactBook writes web/tests/facts.json below root: the facts and operators
// as the studio gets them, for the tests that have no server.
func WriteFactBook(root string) error {
	book, err := json.MarshalIndent(place.FactBook{Facts: reach.Facts, Ops: reach.Ops}, "", "  ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Join(root, "web/tests"), 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(root, "web/tests/facts.json"), append(book, '\n'), 0o644)
}
