package markup

import (
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// Node is an element as [tag, attributes, children...], or a text. Visitors' pages
// make elements of it: nothing there reads markup.
type Node any

const deepest = 60 // elements within each other; what is deeper is its text alone

// Tree reads markup that is clean. It is not cleaned here.
func Tree(clean string) []Node {
	body := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	parsed, err := html.ParseFragment(strings.NewReader(clean), body)
	if err != nil {
		return []Node{words(clean)} // nested too deep to be read
	}
	var all []Node
	for _, n := range parsed {
		all = append(all, nodes(n, 0)...)
	}
	return all
}

func nodes(n *html.Node, depth int) []Node {
	switch n.Type {
	case html.TextNode:
		return []Node{n.Data}
	case html.ElementNode:
	default:
		return nil
	}
	if depth == deepest {
		return []Node{text(n)}
	}
	attributes := map[string]string{}
	for _, a := range n.Attr {
		attributes[a.Key] = a.Val
	}
	one := []Node{n.Data, attributes}
	for child := range n.ChildNodes() {
		one = append(one, nodes(child, depth+1)...)
	}
	return []Node{one}
}

// words is the text of markup, whatever it is nested in.
func words(clean string) string {
	var b strings.Builder
	for t := html.NewTokenizer(strings.NewReader(clean)); ; {
		switch t.Next() {
		case html.ErrorToken:
			return b.String()
		case html.TextToken:
			b.WriteString(t.Token().Data)
		}
	}
}

func text(n *html.Node) string {
	var b strings.Builder
	for d := range n.Descendants() {
		if d.Type == html.TextNode {
			b.WriteString(d.Data)
		}
	}
	return b.String()
}
