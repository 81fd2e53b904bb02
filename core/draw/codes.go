package draw

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"unicode/utf8"

	"gobbet/core/fault"
)

// Codes by a pattern: # stands for a digit, ? for a letter, * for either; all
// else stands for itself.
//
//	SPRING-####-??   SPRING-4907-KW
//
// Letters and digits that are easily taken for each other (0 and O, 1 and I)
// are not among them.

const (
	digits  = "23456789"
	letters = "ABCDEFGHJKLMNPQRSTUVWXYZ"

	maxPattern = 60
	// MaxGenerated is how many codes are made at once.
	MaxGenerated = 100_000
	// guesses is how many codes a stranger has to try for each that is there.
	guesses = 1000
)

var wild = map[rune]string{'#': digits, '?': letters, '*': digits + letters}

// Codes makes n codes by a pattern, each another. Its error is a fault.Fault
// with pattern or count as its place: a pattern must have room for a thousand
// times as many, so that codes are not found by trying.
func Codes(pattern string, n int, from rand.Source) ([]string, error) {
	if pattern = strings.TrimSpace(pattern); pattern == "" || utf8.RuneCountInString(pattern) > maxPattern || strings.ContainsFunc(pattern, func(r rune) bool { return r < ' ' || r == 0x7f }) {
		return nil, fault.Fault{At: "pattern", Message: fmt.Sprintf("should be 1 to %d characters, such as SPRING-####-??", maxPattern)}
	}
	if n < 1 || n > MaxGenerated {
		return nil, fault.Fault{At: "count", Message: fmt.Sprintf("should be 1 to %d", MaxGenerated)}
	}
	room := 1.0
	for _, r := range pattern {
		if set, ok := wild[r]; ok {
			room *= float64(len(set))
		}
	}
	if room < guesses*float64(n) {
		return nil, fault.Fault{At: "pattern", Message: fmt.Sprintf("makes %.0f codes, too few for %d that nobody finds by trying: add %d more of * (a letter or digit), or # or ?", room, n, more(room, n))}
	}
	r := rand.New(from)
	codes, made := make([]string, 0, n), make(map[string]bool, n)
	for len(codes) < n {
		var b strings.Builder
		for _, c := range pattern {
			if set, ok := wild[c]; ok {
				b.WriteByte(set[r.IntN(len(set))])
			} else {
				b.WriteRune(c)
			}
		}
		if code := b.String(); !made[code] {
			made[code] = true
			codes = append(codes, code)
		}
	}
	return codes, nil
}

// more is how many of * give a pattern enough room.
func more(room float64, n int) int {
	return int(math.Ceil(math.Log(guesses*float64(n)/room) / math.Log(float64(len(digits+letters)))))
}
