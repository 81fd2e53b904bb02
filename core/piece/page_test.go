package piece

import (
	"encoding/json"
	"strings"
	"testing"
)

// withPage is a sound document with this for its own page.
func withPage(t *testing.T, page string) []byte {
	t.Helper()
	doc, err := json.Marshal(New("x", Popup, "s"))
	if err != nil {
		t.Fatal(err)
	}
	return []byte(`{"page":` + page + `,` + string(doc[1:]))
}

func TestAPageHasAnAddressThatCanBeReadAloud(t *testing.T) {
	for address, ok := range map[string]bool{
		"which-glaze": true, "a": true, "2026": true, strings.Repeat("a", 60): true,
		"": false, "Which": false, "a b": false, "-a": false, "a-": false, "a--b": false, "../api": false, "a/b": false, "ä": false, strings.Repeat("a", 61): false, "a\x00": false,
	} {
		given, _ := json.Marshal(address)
		_, err := Parse(withPage(t, `{"address":`+string(given)+`,"title":"x"}`))
		if (err == nil) != ok || err != nil && !strings.Contains(err.Error(), "page.address") {
			t.Errorf("%q: %v", address, err)
		}
	}
}

func TestAPageIsCheckedLikeAllElse(t *testing.T) {
	for page, at := range map[string]string{
		`{"address":"a","title":" "}`: "page.title",
		`{"address":"a","title":"x","description":"` + strings.Repeat("x", 301) + `"}`: "page.description",
		`{"address":"a","title":"x","picture":"../x"}`:                                 "page.picture",
		`{"address":"a","title":"x","language":"<b>"}`:                                 "page.language",
		`{"address":"a","title":"x","script":"x"}`:                                     "page.script",
		`[]`: "page",
	} {
		if _, err := Parse(withPage(t, page)); err == nil || !strings.Contains(err.Error(), at) {
			t.Errorf("%s: %v", page, err)
		}
	}
	p, err := Parse(withPage(t, `{"address":"a","title":"x","language":"pt-BR"}`))
	if err != nil || p.Page.Language != "pt-BR" {
		t.Errorf("%+v %v", p, err)
	}
	if p, err := Parse(withPage(t, `null`)); err != nil || p.Page != nil {
		t.Errorf("%+v %v", p, err)
	}
}

func TestAPreviewShowsThePictureThatIsChosenOrTheFirst(t *testing.T) {
	p := New("x", Popup, "s")
	first, chosen := strings.Repeat("a", 32), strings.Repeat("b", 32)
	if got := p.Preview(); got != "" {
		t.Error(got)
	}
	p.Split.Variants[0].Design.Frame.Behind.Picture = first
	p.Page = &OwnPage{Address: "a", Title: "x"}
	if got := p.Preview(); got != first {
		t.Error(got)
	}
	p.Page.Picture = chosen
	if got := p.Preview(); got != chosen {
		t.Error(got)
	}
	if got := p.Pictures(); len(got) != 2 {
		t.Error(got)
	}
}
