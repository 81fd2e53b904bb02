package worst

import (
	"strings"
	"testing"
	"time"

	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/settle"
)

// plenty is many times what any of them takes, and far less than what one took
// that is looked through without remembering.
const plenty = 10 * time.Second

func TestNoDocumentIsDearToLookAt(t *testing.T) {
	for _, d := range Documents() {
		t.Run(d.Name, func(t *testing.T) {
			began := time.Now()
			lap := func(what string) {
				t.Helper()
				if took := time.Since(began); took > plenty {
					t.Errorf("%s took %s", what, took)
				} else {
					t.Logf("%s: %s", what, took)
				}
				began = time.Now()
			}
			p, err := piece.Parse(d.JSON)
			lap("reading")
			if d.Refused != "" {
				if err == nil || !strings.Contains(err.Error(), d.Refused) {
					t.Errorf("it was taken, or refused for something else: %.200v", err)
				}
				return
			}
			if err != nil {
				t.Fatalf("%.300v", err)
			}
			notes := settle.Notes(p, settle.Around{})
			lap("looking it over")
			for _, v := range p.Split.Variants {
				g, err := flow.Of(v.Design)
				if err != nil {
					t.Fatal(err)
				}
				g.Public(p.Draw(&v, nil))
				g.Transcript(1)
			}
			lap("making it ready")
			visit := &reach.Visit{}
			visit.Set("page.path", "/"+strings.Repeat("abc/", 1000))
			visit.Set("page.title", strings.Repeat("a1b", 100))
			for range 2 {
				p.Program.Judge(visit)
				p.Program.Waiting(visit)
				visit.Set("moment.scroll_percent", 10.0)
			}
			p.Program.Phrase()
			lap("judging a visit")
			t.Logf("%d bytes, %d notes", len(d.JSON), len(notes))
		})
	}
}
