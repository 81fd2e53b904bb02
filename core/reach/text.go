package reach

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Text compares by Unicode simple folding, without allocating: each rune is
// taken to the least rune of its folding orbit (k, K and the Kelvin sign are
// all K), patterns once when compiled, facts as they are read.

func foldRune(r rune) rune {
	if r < utf8.RuneSelf {
		if 'a' <= r && r <= 'z' {
			return r - 'a' + 'A'
		}
		return r
	}
	least := r
	for next := unicode.SimpleFold(r); next != r; next = unicode.SimpleFold(next) {
		least = min(least, next)
	}
	return least
}

func fold(s string) string { return strings.Map(foldRune, s) }

// foldPrefix gives what follows pattern, already folded, at the start of s.
func foldPrefix(s, pattern string) (rest string, ok bool) {
	for i := 0; i < len(pattern); {
		if s == "" {
			return "", false
		}
		want, size := rune(pattern[i]), 1
		if want >= utf8.RuneSelf {
			want, size = utf8.DecodeRuneInString(pattern[i:])
		}
		got, width := rune(s[0]), 1
		if got >= utf8.RuneSelf {
			got, width = utf8.DecodeRuneInString(s)
		}
		if foldRune(got) != want {
			return "", false
		}
		i += size
		s = s[width:]
	}
	return s, true
}

func foldEqual(s, pattern string) bool {
	rest, ok := foldPrefix(s, pattern)
	return ok && rest == ""
}

// foldAfter gives what follows the first pattern in s.
func foldAfter(s, pattern string) (rest string, ok bool) {
	for {
		if rest, ok := foldPrefix(s, pattern); ok {
			return rest, true
		}
		if s == "" {
			return "", false
		}
		_, width := utf8.DecodeRuneInString(s)
		s = s[width:]
	}
}

func foldSuffix(s, pattern string) bool {
	skip := utf8.RuneCountInString(s) - utf8.RuneCountInString(pattern)
	if skip < 0 {
		return false
	}
	for ; skip > 0; skip-- {
		_, width := utf8.DecodeRuneInString(s)
		s = s[width:]
	}
	return foldEqual(s, pattern)
}

// foldLike matches all of s against the texts between a pattern's stars.
// Taking each text where it first comes is right: a later place would only
// leave less for the texts that follow.
func foldLike(s string, between []string) bool {
	last := len(between) - 1
	if last == 0 {
		return foldEqual(s, between[0])
	}
	s, ok := foldPrefix(s, between[0])
	for i := 1; ok && i < last; i++ {
		s, ok = foldAfter(s, between[i])
	}
	return ok && foldSuffix(s, between[last])
}

// NormalPath is a page path as rules see it: percent-decoded, and without a
// slash at the end except at the root. What is not an escape stays as it is.
func NormalPath(path string) string {
	if strings.IndexByte(path, '%') >= 0 {
		var b strings.Builder
		for i := 0; i < len(path); i++ {
			if path[i] == '%' && i+2 < len(path) && unhex(path[i+1]) >= 0 && unhex(path[i+2]) >= 0 {
				b.WriteByte(byte(unhex(path[i+1])<<4 | unhex(path[i+2])))
				i += 2
			} else {
				b.WriteByte(path[i])
			}
		}
		path = b.String()
	}
	if len(path) > 1 {
		path = strings.TrimSuffix(path, "/")
	}
	return path
}

func unhex(c byte) int {
	switch {
	case '0' <= c && c <= '9':
		return int(c - '0')
	case 'a' <= c && c <= 'f':
		return int(c-'a') + 10
	case 'A' <= c && c <= 'F':
		return int(c-'A') + 10
	}
	return -1
}
