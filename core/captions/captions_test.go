package captions

import (
	"reflect"
	"strings"
	"testing"
)

func TestCaptionsAreRead(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		want []Cue
	}{
		"two, with a name and a note": {
			"WEBVTT - a title\n\nNOTE nothing\nof this\n\n1\n00:01.000 --> 00:04.500 align:start\n<v Ann>This is <b>the ash</b>.\nIt is &amp; was.\n\nlast\n01:00:02.020 --> 01:00:03.000\nDone",
			[]Cue{{1, 4.5, "This is the ash.\nIt is & was."}, {3602.02, 3603, "Done"}},
		},
		"SubRip, as other machines end lines":   {"\ufeff1\r\n00:00:01,000 --> 00:00:02,000\r\nHello\r\n\r\n2\r\n00:00:03,000 --> 00:00:04,000\r\nthere\r\n", []Cue{{1, 2, "Hello"}, {3, 4, "there"}}},
		"one without words, one right after it": {"00:01.000 --> 00:02.000\n00:03.000 --> 00:04.000\na < b", []Cue{{3, 4, "a < b"}}},
	} {
		if got, err := Parse(c.text); err != nil || !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s: %v, %v", name, got, err)
		}
	}
}

func TestWhatIsWrongIsSaidWithItsLine(t *testing.T) {
	for text, want := range map[string]string{
		"":                                 "there should be times",
		"WEBVTT\n\nJust words":             "there should be times",
		"WEBVTT\n\n1 --> 2\nHello":         "line 3 should be two times",
		"00:01.000 --> \nHello":            "line 1 should be two times",
		"00:61.000 --> 00:71.000\nHello":   "line 1 should be two times",
		"\n00:04.000 --> 00:01.000\nHello": "line 2 ends before it begins",
		strings.Repeat("00:01.000 --> 00:02.000\na\n\n", most+1): "more than 1000",
	} {
		if got, err := Parse(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%.40q: %v, %v", text, got, err)
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add("WEBVTT\n\n00:01.000 --> 00:04.000\n<i>Hi</i>")
	f.Add("00:01.000-->00:04.000\n\x00\xff")
	f.Fuzz(func(t *testing.T, text string) {
		cues, err := Parse(text)
		if err == nil && len(cues) == 0 {
			t.Error("nothing, and no error")
		}
		for _, c := range cues {
			if c.From < 0 || c.To <= c.From || c.Text == "" {
				t.Errorf("%+v", c)
			}
		}
	})
}
