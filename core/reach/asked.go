package reach

// Click is the moment with which a visitor asks for something.
const Click = "moment.click"

// Exit is the moment in which a visitor heads for the exit.
const Exit = "moment.exit_intent"

// AskedFor reports whether the rule can hold only after a click: the visitor
// asked for the piece, and it interrupts nobody.
func (p *Program) AskedFor() bool { return p.asked }

// MayBeAskedFor reports whether a click is among what the rule waits for.
func (p *Program) MayBeAskedFor() bool { return p.mayBeAsked }

// possible reports whether a node may be yes and may be no, if nobody clicks
// and all else may come or not.
func (n *Node) possible() (yes, no bool) {
	switch n.Shape {
	case NotOf:
		yes, no = n.Parts[0].possible()
		return no, yes
	case Asks:
		return n.Test.Fact != Click, true
	}
	yes, no = n.Shape == AllOf, n.Shape == AnyOf
	for i := range n.Parts {
		partYes, partNo := n.Parts[i].possible()
		if n.Shape == AllOf {
			yes, no = yes && partYes, no || partNo
		} else {
			yes, no = yes || partYes, no && partNo
		}
	}
	return yes, no
}

// ask notes how a click matters to the program.
func (p *Program) ask() {
	p.EachTest(func(_ string, t *Test) { p.mayBeAsked = p.mayBeAsked || t.Fact == Click })
	if p.mayBeAsked {
		yes, _ := p.root.possible()
		p.asked = !yes
	}
}
