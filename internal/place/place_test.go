package place

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func TestPlaces(t *testing.T) {
	b, err := Open("")
	if err != nil {
		t.Fatal(err)
	}
	for address, want := range map[string]Place{
		"127.0.0.1": {"IE", "Leinster"}, "::1": {"IE", "Leinster"}, "192.0.2.7": {"IE", "Munster"}, "::ffff:192.0.2.200": {"GB", "Wales"},
		"2001:db8:8000::9": {"CA", "Nova Scotia"}, "10.0.0.1": {}, "": {}, "no address": {}, "999.1.1.1": {},
	} {
		if got := b.Of(address); got != want {
			t.Errorf("%s is in %+v, want %+v", address, got, want)
		}
	}
	if got := (*Book)(nil).Of("127.0.0.1"); got != (Place{}) {
		t.Error("no file knows", got)
	}
}

func TestAFileThatIsNone(t *testing.T) {
	for name, content := range map[string]string{"empty": "", "words": "not a database", "torn": string(madeUp[:len(madeUp)/2])} {
		file := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(file, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := Open(file); err == nil || !strings.Contains(err.Error(), "is not an MMDB file") {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := Open("/nowhere"); err == nil {
		t.Error("a file that is not there opened")
	}
}
