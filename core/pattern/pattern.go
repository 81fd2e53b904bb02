// Package pattern reads regular expressions (RE2) that somebody else wrote, and
// says what they cost before they are made ready.
//
// RE2 matches in time that grows with the text and with the size of the pattern,
// and a counted repeat is as large as all its repetitions:
//
//	[a-z]+-[0-9]{4}    8 steps a character
//	(?:a{1,90}){11}    about 1000
//
// So whoever takes patterns in has a budget, and refuses what goes beyond it.
package pattern

import (
	"fmt"
	"regexp"
	"regexp/syntax"
	"strings"
)

// Most is how many steps a character one pattern may take.
const Most = 1000

// Compile reads a pattern that takes at most so many steps a character, and says
// how many it takes. Its error is in words, for beside the pattern.
func Compile(text string, most int) (p *regexp.Regexp, steps int, err error) {
	tree, err := syntax.Parse(text, syntax.Perl)
	if err != nil {
		return nil, 0, fmt.Errorf("is not a regular expression (RE2): %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
	}
	if steps = size(tree); steps > most {
		return nil, steps, fmt.Errorf("takes %d steps for each character of a text, and %d are allowed: count fewer repeats, or use * and +", steps, most)
	}
	p, err = regexp.Compile(text)
	return p, steps, err
}

// size is about how many instructions a pattern compiles to. Every node is
// visited once, so it takes no longer than the pattern is.
func size(re *syntax.Regexp) int {
	n := 0
	for _, part := range re.Sub {
		n += size(part)
	}
	switch re.Op {
	case syntax.OpLiteral:
		return len(re.Rune)
	case syntax.OpRepeat:
		times := re.Max
		if times < 0 {
			times = re.Min + 1 // the last of them any number of times
		}
		return max(1, times) * (n + 1)
	case syntax.OpConcat:
		return n
	case syntax.OpAlternate:
		return n + len(re.Sub)
	case syntax.OpCapture:
		return n + 2
	}
	return n + 1
}
