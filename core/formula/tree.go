package formula

// Tree gives the formula as plain values, for whoever computes it without
// reading its text: a number is itself, a name a text, and everything else a
// list of what is done and with what, such as ["+", 1, ["max", "bags", 3]].
// What may be done: + - * / ^, neg, the functions, the comparisons, and, or,
// not, and ? with a condition and two numbers.
func (f *Formula) Tree() any { return tree(f.root) }

func tree(n node) any {
	with := func(does string) any {
		list := []any{does}
		for _, part := range n.parts() {
			list = append(list, tree(part))
		}
		return list
	}
	switch n := n.(type) {
	case *number:
		return n.value
	case *name:
		return n.name
	case *negation:
		return with("neg")
	case *operation:
		return with(n.sign)
	case *comparison:
		return with(n.sign)
	case *junction:
		return with(n.sign)
	case *choice:
		return with("?")
	case *call:
		return with(n.function.name)
	}
	panic("formula: a node of no kind")
}
