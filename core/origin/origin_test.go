package origin

import (
	"regexp"
	"testing"
)

func TestOriginsAreReadAsBrowsersSendThem(t *testing.T) {
	for given, want := range map[string]string{
		"shop.example.com": "https://shop.example.com", " Shop.Example.COM/ ": "https://shop.example.com", "https://a.test:443": "https://a.test",
		"http://a.test:80": "http://a.test", "http://a.test:443": "http://a.test:443", "https://a.test:08443": "https://a.test:8443", "HTTP://A.test:8080": "http://a.test:8080",
		"https://töpfern.test": "https://xn--tpfern-wxa.test", "https://xn--tpfern-wxa.test": "https://xn--tpfern-wxa.test", "http://127.0.0.1:8641": "http://127.0.0.1:8641",
		"http://[::1]:90": "http://[::1]:90", "http://[2001:DB8:0:0::1]": "http://[2001:db8::1]", "https://a_b.test": "https://a_b.test", "localhost:3000": "https://localhost:3000", "https://a.test.": "https://a.test",
		"https://ｓｈｏｐ.test": "https://shop.test",
	} {
		got, err := Parse(given)
		if err != nil || got != want {
			t.Errorf("%q: %q, %v; want %q", given, got, err, want)
		}
	}
}

func TestWhatIsNoOriginIsRefused(t *testing.T) {
	for _, given := range []string{
		"", "   ", "https://", "https://a.test;sandbox", "https://a.test,b.test", "https://a.test b.test", "https://*.test", "https://a.test'", "https://a.test/page", "https://a.test?x", "https://a.test?", "https://a.test#x", "https://a.test#",
		"https://user@a.test", "ftp://a.test", "javascript://a.test", "https://a.test:0", "https://a.test:65536", "https://a.test:x", "https://a.test:", "https://a..test", "https://.test", "https://-a.test", "https://a-.test",
		"https://1.2.3", "https://256.1.1.1", "https://[::1", "https://[::1%25eth0]", "https://a.test\r\nX: y", "https://a\x00.test", "https://" + string(make([]byte, 600)),
	} {
		if got, err := Parse(given); err == nil {
			t.Errorf("%q is read as %q", given, got)
		}
	}
}

var plain = regexp.MustCompile(`^https?://[a-z0-9._\[\]:-]+$`)

func FuzzParse(f *testing.F) {
	for _, s := range []string{"https://a.test;sandbox", "töpfern.test", "http://[::1]:90", "https://a.test:443"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, given string) {
		got, err := Parse(given)
		if err != nil {
			return
		}
		if !plain.MatchString(got) {
			t.Fatalf("%q is read as %q", given, got)
		}
		if again, err := Parse(got); err != nil || again != got {
			t.Fatalf("%q is read as %q, and that as %q, %v", given, got, again, err)
		}
	})
}
