package fault

import (
	"slices"
	"strconv"
	"strings"
)

// InOrderOf puts faults in the order in which a document has their places, the
// same each time. What a place names that is not there comes after what is, as it
// was found.
func (fs Faults) InOrderOf(document *Node) {
	type placed struct {
		fault Fault
		at    []int
	}
	all := make([]placed, len(fs))
	for i, f := range fs {
		all[i] = placed{f, document.orderOf(f.At)}
	}
	slices.SortStableFunc(all, func(a, b placed) int {
		return slices.Compare(a.at, b.at)
	})
	for i := range all {
		fs[i] = all[i].fault
	}
}

// orderOf is which of what each value on the way to a place holds the way goes
// through.
func (n *Node) orderOf(place string) (at []int) {
	for place != "" && n != nil {
		var step string
		var next *Node
		i := 0
		if rest, inList := strings.CutPrefix(place, "["); inList {
			step, place, _ = strings.Cut(rest, "]")
			i, _ = strconv.Atoi(step)
			if n.kind == isArray && i >= 0 && i < len(n.held) {
				next = &n.held[i]
			}
		} else {
			end := strings.IndexAny(place, ".[")
			if end < 0 {
				end = len(place)
			}
			step, place = place[:end], place[end:]
			if i = slices.IndexFunc(n.held, func(held Node) bool { return held.key == step }); n.kind != isObject || i < 0 {
				i = len(n.held)
			} else {
				next = &n.held[i]
			}
		}
		place = strings.TrimPrefix(place, ".")
		at, n = append(at, i), next
	}
	return at
}
