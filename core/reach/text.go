package reach

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Text compares by Unicode simple folding: each rune is taken to one of its
// folding orbit (k, K and the Kelvin sign are all k), a clause's values once
// when it is compiled and a fact's once when it is set, so that judging
// compares plain bytes. A small ASCII letter stands for its orbit, for most
// facts are small letters already and are then left as they are.

func foldRune(r rune) rune {
	if r < utf8.RuneSelf {
		if 'A' <= r && r <= 'Z' {
			return r - 'A' + 'a'
		}
		return r
	}
	least := r
	for next := unicode.SimpleFold(r); next != r; next = unicode.SimpleFold(next) {
		least = min(least, next)
	}
	if 'A' <= least && least <= 'Z' {
		return least - 'A' + 'a'
	}
	return least
}

func fold(s string) string { return strings.Map(foldRune, s) }

// like matches all of s against the texts between a pattern's stars, all
// folded. Taking each text where it first comes is right: a later place would
// only leave less for the texts that follow.
func like(s string, between []string) bool {
	last := len(between) - 1
	if last == 0 {
		return s == between[0]
	}
	s, ok := strings.CutPrefix(s, between[0])
	for i := 1; ok && i < last; i++ {
		_, s, ok = strings.Cut(s, between[i])
	}
	return ok && strings.HasSuffix(s, between[last])
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
