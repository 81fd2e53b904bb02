// Package text cuts and cleans texts that come from outside, before they are
// kept or shown.
package text

import (
	"net/mail"
	"regexp"
	"strconv"
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

const maxEmail = 254 // RFC 5321, 4.5.3.1.3

// IsEmail reports whether s is a bare address that mail could reach: a local
// part and a domain of at least two labels.
func IsEmail(s string) bool {
	if len(s) > maxEmail {
		return false
	}
	// Most are written in letters that need no reading of RFC 5322.
	if !isPlainAddress(s) && !isAddress(s) {
		return false
	}
	_, domain, _ := strings.Cut(s, "@")
	if strings.Trim(domain, ".") != domain || strings.Contains(domain, "..") || !strings.Contains(domain, ".") {
		return false
	}
	for label := range strings.SplitSeq(domain, ".") {
		if len(label) > 63 || strings.Trim(label, "-") != label {
			return false
		}
	}
	return true
}

// isAddress reports whether s is an address as RFC 5322 has it, and nothing else.
func isAddress(s string) bool {
	address, err := mail.ParseAddress(s)
	return err == nil && address.Name == "" && address.Address == s && !strings.ContainsAny(s, "\" \t\r\n\\,;<>()")
}

// isPlainAddress is isAddress for what has only letters, digits and a few marks;
// for anything else it is false.
func isPlainAddress(s string) bool {
	at, before := 0, byte('.')
	for i := range len(s) {
		c := s[i]
		switch {
		case 'a' <= c && c <= 'z', 'A' <= c && c <= 'Z', '0' <= c && c <= '9', c == '-', c == '_', c == '+':
		case c == '.' && before != '.' && before != '@':
		case c == '@' && before != '.':
			at++
		default:
			return false
		}
		before = c
	}
	return at == 1 && before != '.' && before != '@'
}

var phoneForm = regexp.MustCompile(`^\+?[0-9][0-9 ()./-]{2,30}$`)

// IsPhone reports whether s is written as telephone numbers are.
func IsPhone(s string) bool { return phoneForm.MatchString(s) }

// Number reads a finite number.
func Number(s string) (float64, bool) {
	n, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
	return n, err == nil && n-n == 0
}
