package draw

import (
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"gobbet/core/fault"
)

func TestCodesFollowTheirPattern(t *testing.T) {
	codes, err := Codes(" SPRING-####-?*é ", 300, rand.NewPCG(1, 1))
	if err != nil || len(codes) != 300 {
		t.Fatal(len(codes), err)
	}
	form, seen := regexp.MustCompile(`^SPRING-[2-9]{4}-[A-HJ-NP-Z][2-9A-HJ-NP-Z]é$`), map[string]bool{}
	for _, c := range codes {
		if !form.MatchString(c) || seen[c] {
			t.Errorf("%q is not by the pattern, or twice", c)
		}
		seen[c] = true
	}
}

func TestPatternsWithoutRoomAreRefused(t *testing.T) {
	for _, c := range []struct {
		pattern string
		n       int
		at, say string
	}{
		{"", 5, "pattern", "1 to 60"}, {strings.Repeat("x", 61), 5, "pattern", "1 to 60"}, {"A\nB####", 5, "pattern", "1 to 60"},
		{"SPRING", 1, "pattern", "makes 1 codes"}, {"S-##", 1, "pattern", "add 1 more"}, {"S-####", 300, "pattern", "add 2 more"},
		{"********", 0, "count", "1 to"}, {"********", MaxGenerated + 1, "count", "1 to"},
	} {
		_, err := Codes(c.pattern, c.n, rand.NewPCG(1, 1))
		f, ok := err.(fault.Fault)
		if !ok || f.At != c.at || !strings.Contains(f.Message, c.say) {
			t.Errorf("%q, %d: %v", c.pattern, c.n, err)
		}
		if ok && strings.Contains(c.say, "more") {
			if _, err := Codes(c.pattern+strings.Repeat("*", int(c.say[4]-'0')), c.n, rand.NewPCG(1, 1)); err != nil {
				t.Errorf("with as many more as was said: %v", err)
			}
		}
	}
}
