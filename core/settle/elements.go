package settle

import (
	"fmt"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/reach"
)

// tags are the element names of HTML and SVG that a page may hold.
var tags = func() map[string]bool {
	names := map[string]bool{}
	for _, name := range strings.Fields(`a abbr address area article aside audio b base bdi bdo blockquote body br button canvas caption cite code col
		colgroup data datalist dd del details dfn dialog div dl dt em embed fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 head header
		hgroup hr html i iframe img input ins kbd label legend li link main map mark menu meta meter nav noscript object ol optgroup option output
		p picture pre progress q rp rt ruby s samp search section select small span strong style sub summary sup svg table tbody td template
		textarea tfoot th thead time title tr track u ul var video center font circle g path rect text use`) {
		names[name] = true
	}
	return names
}()

// looksLikeText reports whether what should be a CSS selector is more likely
// the text of a button: it names elements that no page has.
func looksLikeText(selector string) bool {
	depth, name := 0, ""
	ends := func() bool {
		unknown := name != "" && !tags[strings.ToLower(name)] && !strings.Contains(name, "-")
		name = ""
		return unknown
	}
	named := false // what follows belongs to a # . : or [
	for _, r := range selector {
		switch {
		case r == '[' || r == '(':
			depth++
			named = true
		case r == ']' || r == ')':
			depth--
		case depth > 0:
		case r == '#' || r == '.' || r == ':':
			if ends() {
				return true
			}
			named = true
		case strings.ContainsRune(" \t\n>+~,*", r):
			if ends() {
				return true
			}
			named = false
		case named:
		case strings.ContainsRune("!?&’'\"“”%€£$", r):
			return true
		default:
			name += string(r)
		}
	}
	return ends()
}

// elements looks at what names an element of the page.
func (n *notes) elements(p *piece.Piece) {
	if p.Program != nil {
		p.Program.EachTest(func(at string, t *reach.Test) {
			selector, _ := t.Value.(string)
			if (t.Fact == "moment.click" || t.Fact == "moment.seen") && looksLikeText(selector) {
				n.add(Stop, "not_element", fault.Key("rule", at)+".value", fmt.Sprintf("“%s” is not an element of a page: it looks like the text of one.", short(selector)), "Pick the element on the page, in Reach.")
			}
		})
	}
	for i, v := range p.Split.Variants {
		at := fault.Key(fault.Index("split.variants", i), "design.frame.anchor.selector")
		switch selector := v.Design.Frame.Anchor.Selector; {
		case p.Format != piece.Inline:
		case selector == "":
			n.add(Warn, "no_place", at, "It has no place on the page yet: it shows only where the page has its line of code.", "Choose an element beside which it stands, or put the line on the page.")
		case looksLikeText(selector):
			n.add(Stop, "not_element", at, fmt.Sprintf("“%s” is not an element of a page.", short(selector)), "Choose an element under Position.")
		}
	}
}
