package kinds

import (
	"errors"
	"os"
	"path/filepath"
	"testing"
)

func TestTypesInTheFrontEndAreTheseOfToday(t *testing.T) {
	fresh := t.TempDir()
	if err := Write(fresh); err != nil {
		t.Fatal(err)
	}
	files, err := filepath.Glob(filepath.Join(fresh, "web/kinds/*.ts"))
	if err != nil || len(files) == 0 {
		t.Fatal("nothing was written", err)
	}
	for _, file := range files {
		want, _ := os.ReadFile(file)
		got, _ := os.ReadFile(filepath.Join("../../web/kinds", filepath.Base(file)))
		if string(got) != string(want) {
			t.Errorf("web/kinds/%s is stale: run make kinds", filepath.Base(file))
		}
	}
}

func TestWhatTestsCompareWithIsOfToday(t *testing.T) {
	fresh := t.TempDir()
	if err := errors.Join(WriteFactBook(fresh), WriteTwins(fresh), WriteWalks(fresh)); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"facts.json", "twins.json", "walks.json"} {
		want, _ := os.ReadFile(filepath.Join(fresh, "web/tests", name))
		if got, _ := os.ReadFile(filepath.Join("../../web/tests", name)); len(want) == 0 || string(got) != string(want) {
			t.Errorf("web/tests/%s is stale: run make kinds", name)
		}
	}
}

func TestTheDocsListTheFactsOfToday(t *testing.T) {
	fresh := t.TempDir()
	if err := WriteFacts(fresh); err != nil {
		t.Fatal(err)
	}
	want, _ := os.ReadFile(filepath.Join(fresh, "docs/facts.md"))
	got, _ := os.ReadFile("../../docs/facts.md")
	if len(want) < 1000 || string(got) != string(want) {
		t.Error("docs/facts.md is stale: run make kinds")
	}
}
