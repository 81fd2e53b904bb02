package settle

import (
	_ "embed"
	"fmt"
	"regexp"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/piece"
)

//go:embed placeholders.txt
var placeholderLines string

// placeholders are the texts with which things begin; the studio's tests hold
// what it adds to the same list.
var placeholders = func() map[string]bool {
	texts := map[string]bool{}
	for line := range strings.Lines(placeholderLines) {
		if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
			texts[line] = true
		}
	}
	return texts
}()

// numbered is how results and questions are called until somebody names them.
var numbered = regexp.MustCompile(`^(Result|Question) \d+$`)

// mostPlaceholders are named; of more it is said how many there are.
const mostPlaceholders = 4

// begun is a text that is still as it began, and where.
type begun struct{ at, text string }

// began gives what of a block is still as it began: text, choices and addresses
// that stand for one's own.
func began(at string, b piece.Block) (all []begun) {
	add := func(below, text string) {
		if text = strings.TrimSpace(text); placeholders[text] || numbered.MatchString(text) {
			all = append(all, begun{at + below, text})
		}
	}
	switch b := b.(type) {
	case piece.Heading:
		add(".text", b.Text.String())
	case piece.Text:
		add(".text", b.Text.String())
	case piece.List:
		for i, item := range b.Items {
			add(fault.Index(".items", i), item.String())
		}
	case piece.Field:
		for i, c := range b.Choices {
			add(fault.Index(".choices", i), c.Label)
		}
	case piece.Button:
		add(".press.address", b.Press.Address)
	case piece.Links:
		for i, item := range b.Items {
			add(fault.Index(".items", i), item.Address)
		}
	case piece.HTML:
		add(".html", b.HTML)
	}
	return all
}

// stillBegun notes what is still as it began, in the order of the document.
func (n *notes) stillBegun(all []begun) {
	for i, b := range all {
		if i == mostPlaceholders-1 && len(all) > mostPlaceholders {
			n.add(Warn, "template_text", b.at, fmt.Sprintf("“%s” and %d more texts%s are still as they began.", short(b.text), len(all)-i-1, n.where), "Write your own, or delete them.")
			return
		}
		n.add(Warn, "template_text", b.at, fmt.Sprintf("“%s”%s is still as it began.", short(b.text), n.where), "Write your own, or delete it.")
	}
}
