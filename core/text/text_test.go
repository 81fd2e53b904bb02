package text

import (
	"math/rand/v2"
	"strings"
	"testing"
	"unicode/utf8"
)

func TestTextsAreCutBetweenLetters(t *testing.T) {
	for _, c := range []struct {
		in   string
		max  int
		want string
	}{
		{"", 3, ""}, {"abc", 3, "abc"}, {"abcd", 3, "abc"}, {"né", 2, "n"}, {"né", 3, "né"}, {"a€", 2, "a"}, {"a€", 3, "a"}, {"a€", 4, "a€"},
		{"🦊🦊", 7, "🦊"}, {"🦊", 3, ""}, {"a\xffb", 9, "ab"}, {"abc", 0, ""}, {"\xe2\x82", 2, ""},
	} {
		if got := Cut(c.in, c.max); got != c.want {
			t.Errorf("Cut(%q, %d) = %q, want %q", c.in, c.max, got, c.want)
		}
	}
	if got := Keepable("a\x00€b", 4); got != "a€" {
		t.Errorf("%q", got)
	}
}

func FuzzCut(f *testing.F) {
	f.Add("né€🦊", 3)
	f.Fuzz(func(t *testing.T, s string, max int) {
		if max < 0 || max > 1<<16 {
			return
		}
		got := Cut(s, max)
		if len(got) > max || !utf8.ValidString(got) {
			t.Fatalf("%q", got)
		}
		if utf8.ValidString(s) && (!strings.HasPrefix(s, got) || len(s) <= max && got != s || len(s)-len(got) > 0 && max-len(got) >= utf8.UTFMax) {
			t.Fatalf("Cut(%q, %d) = %q", s, max, got)
		}
	})
}

func TestIsEmail(t *testing.T) {
	for address, want := range map[string]bool{
		"a@example.com": true, "orla.o'brien+glaze@mail.example.com": true, "jörg@exämple.test": true, "a@b.test": true,
		"": false, "a": false, "a@b": false, "a@b.": false, "@b.test": false, "a@@b.test": false, "a b@c.test": false, "a@b..test": false,
		"a@-b.test": false, "A <a@b.test>": false, `"a b"@c.test`: false, "a@b.test\r\nBcc: x@y.test": false, "a@b.test,c@d.test": false,
		strings.Repeat("a", 250) + "@b.test": false, "a@" + strings.Repeat("b", 64) + ".test": false,
	} {
		if got := IsEmail(address); got != want {
			t.Errorf("%q: %v", address, got)
		}
	}
}

// What is taken for an address without being read as one is one when it is read.
func TestPlainAddressesAreAddresses(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	const letters = "ab9.-_+@@.. <\"é"
	plain := 0
	for range 200_000 {
		s := make([]byte, rng.IntN(12))
		for i := range s {
			s[i] = letters[rng.IntN(len(letters))]
		}
		if isPlainAddress(string(s)) {
			plain++
			if !isAddress(string(s)) {
				t.Fatalf("%q", s)
			}
		}
	}
	if plain < 100 {
		t.Errorf("only %d of them were plain", plain)
	}
}
