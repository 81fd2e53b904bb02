package pattern

import (
	"regexp/syntax"
	"strings"
	"testing"
)

// What a pattern is said to cost is what it compiles to, within a factor.
func TestStepsAreWhatThePatternCompilesTo(t *testing.T) {
	for _, text := range []string{
		`^/shop/[a-z]+$`, `abc`, `a{3}`, `(?:a{10}){10}`, `[0-9]{1,90}`, `(a|b|c)*d?`, `(?i)journal|klei`, `(?:(?:ab){5}c){20}`, `a{7,}`, `.*x.*y`,
	} {
		_, steps, err := Compile(text, 1<<20)
		if err != nil {
			t.Fatal(err)
		}
		tree, _ := syntax.Parse(text, syntax.Perl)
		program, err := syntax.Compile(tree.Simplify())
		if err != nil {
			t.Fatal(err)
		}
		if is := len(program.Inst); steps > 3*is || 4*steps < is {
			t.Errorf("%s: said %d, compiles to %d", text, steps, is)
		}
	}
}

func TestAPatternBeyondTheBudgetIsRefusedBeforeItIsMade(t *testing.T) {
	for _, text := range []string{`(?:a{100}){10}b`, `(?:` + strings.Repeat("a", 900) + `){1000}`, `(?:[a-z]{1,30}){33}x{40}`} {
		if p, _, err := Compile(text, Most); err == nil || p != nil || !strings.Contains(err.Error(), "are allowed") {
			t.Errorf("%.40s: %v", text, err)
		}
	}
	if _, _, err := Compile(`a(`, Most); err == nil || !strings.Contains(err.Error(), "RE2") {
		t.Error(err)
	}
	if p, _, err := Compile(`^(\w+)@example\.com$`, Most); err != nil || !p.MatchString("a@example.com") {
		t.Error(err)
	}
}
