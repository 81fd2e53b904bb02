package words

import (
	"slices"
	"strings"
	"testing"
)

func TestEveryLanguageHasAllWords(t *testing.T) {
	if n := len(Languages()); n < 24 {
		t.Errorf("%d languages", n)
	}
	for _, lang := range Languages() {
		table := In(lang, nil)
		if len(table) != len(Keys()) {
			t.Errorf("%s has %d words of %d", lang, len(table), len(Keys()))
		}
		for _, key := range Keys() {
			say, usual := table[key], tables[Usual][key]
			if strings.TrimSpace(say) != say || say == "" {
				t.Errorf("%s %s: %q", lang, key, say)
			}
			// What is put in is put in once, whatever the language; a plural has it in each form.
			for _, name := range filled.FindAllString(usual, -1) {
				if key != "votes" && strings.Count(say, name) != 1 {
					t.Errorf("%s %s: %q has not %s", lang, key, say, name)
				}
			}
			if key == "votes" {
				for form := range strings.SplitSeq(say, "|") {
					category, words, _ := strings.Cut(form, "=")
					if !slices.Contains([]string{"zero", "one", "two", "few", "many", "other"}, category) || !strings.Contains(words, "{n}") {
						t.Errorf("%s: %q", lang, form)
					}
				}
				if !strings.Contains(say, "other=") {
					t.Errorf("%s has no form for all other counts", lang)
				}
			}
		}
	}
}

func TestTheLanguageIsThePagesThenTheSites(t *testing.T) {
	for _, c := range []struct {
		tags []string
		want string
	}{{[]string{"de-AT", "fr"}, "de"}, {[]string{"", "fr"}, "fr"}, {[]string{"xx", "pt-BR"}, "pt"}, {[]string{"no"}, "nb"}, {[]string{"iw-IL"}, "he"}, {[]string{"EN-gb"}, "en"}, {nil, "en"}, {[]string{"tlh", ""}, "en"}} {
		if got := Choose(c.tags...); got != c.want {
			t.Errorf("%v: %s, want %s", c.tags, got, c.want)
		}
	}
}

func TestWhatTheCoreSaysIsSaidInTheLanguage(t *testing.T) {
	own := Table{"long": "Kürzer, bitte."}
	for _, c := range []struct{ lang, english, want string }{
		{"de", "This does not look like an email address.", "Das sieht nicht nach einer E-Mail-Adresse aus."},
		{"de", "This is too long.", "Kürzer, bitte."}, {"fr", "Please fill this in.", "Veuillez remplir ce champ."},
		{"de", "This should be 5 to 9.", "Hier gehört eine Zahl hin. (5–9)"}, {"en", "This should be 5 to 9.", "This should be 5 to 9."},
		{"fr", "This should be at least 3.", "Un nombre est attendu ici. (≥ 3)"}, {"de", "Please choose 2 to 3.", "Bitte wählen Sie aus den Antworten. (2–3)"},
		{"de", "This should be 2026-01-01 or later.", "Hier gehört ein Datum hin. (≥ 2026-01-01)"},
		{"de", "The marketer's own words.", "The marketer's own words."}, {"en", "This is too long.", "Kürzer, bitte."},
	} {
		if got := Say(c.lang, own, c.english); got != c.want && !(c.lang == "fr" && got == c.want) {
			t.Errorf("%s %q: %q, want %q", c.lang, c.english, got, c.want)
		}
	}
}

func TestWordsOfASitesOwn(t *testing.T) {
	if t1 := In("de-CH", Table{"sending": "Moment…", "nothing": "x", "close": ""}); t1["sending"] != "Moment…" || t1["close"] != "Schließen" || len(t1) != len(Keys()) {
		t.Errorf("%v", t1)
	}
	if tables["de"]["sending"] == "Moment…" {
		t.Error("a site's words are in the table")
	}
	if err := Check(map[string]Table{"de": {"won": "Hurra: {prize}!"}, "en": {}}); err != nil {
		t.Error(err)
	}
	for at, own := range map[string]map[string]Table{
		"xx:":       {"xx": {}},
		"de.none:":  {"de": {"none": "x"}},
		"de.close:": {"de": {"close": strings.Repeat("ä", 301)}},
		"de.won:":   {"de": {"won": "{name}"}},
		"de.away:":  {"de": {"away": "a\nb"}},
	} {
		if err := Check(own); err == nil || !strings.HasPrefix(err.Error(), at) {
			t.Errorf("%s %v", at, err)
		}
	}
}
