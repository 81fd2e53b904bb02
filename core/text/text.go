// Package text cuts and cleans texts that come from outside, before they are
// kept or shown.
package text

import (
	"strings"
	"unicode/utf8"
)

// Cut gives at most max bytes of a text, cut between letters and never within
// one. Bytes that are not UTF-8 are dropped.
func Cut(s string, max int) string {
	if len(s) > max {
		s = s[:max]
		// Back to where the last letter begins, if it was cut short.
		for i := 1; i <= utf8.UTFMax && i <= len(s); i++ {
			if b := s[len(s)-i]; utf8.RuneStart(b) {
				if r, n := utf8.DecodeRuneInString(s[len(s)-i:]); r == utf8.RuneError && n <= 1 && b >= utf8.RuneSelf {
					s = s[:len(s)-i]
				}
				break
			}
		}
	}
	return strings.ToValidUTF8(s, "")
}

// Keepable is Cut without NUL, which PostgreSQL cannot keep.
func Keepable(s string, max int) string {
	return Cut(strings.ReplaceAll(s, "\x00", ""), max)
}
