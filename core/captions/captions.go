// Package captions reads what is said in a video: WebVTT (W3C), and the older SubRip,
// whose times differ by a comma.
//
//	cues, err := captions.Parse("WEBVTT\n\n00:01.000 --> 00:04.000\nThis is the ash.\n")
//
// Styles, regions, notes, settings of a cue and markup within it are passed over: the
// text is what is kept.
package captions

import (
	"fmt"
	"html"
	"regexp"
	"strconv"
	"strings"
)

// Cue is what is said from one second of a video to another.
type Cue struct {
	From float64 `json:"from"`
	To   float64 `json:"to"`
	Text string  `json:"text"` // lines divided by \n
}

// MaxLength is how long captions may be, in characters, and most how many cues of them
// are kept.
const (
	MaxLength = 40_000
	most      = 1000
)

var (
	timing = regexp.MustCompile(`^(\S+)[ \t]+-->[ \t]+(\S+)`)
	clock  = regexp.MustCompile(`^(?:(\d{1,3}):)?(\d{1,2}):(\d{2})[.,](\d{3})$`)
	tag    = regexp.MustCompile(`</?[a-zA-Z0-9:][^>]*>`)
)

// Parse reads captions. It is an error, which says the line, if there is none in them,
// or one whose times cannot be.
func Parse(text string) ([]Cue, error) {
	text = strings.TrimPrefix(strings.NewReplacer("\r\n", "\n", "\r", "\n", "\x00", "\ufffd").Replace(text), "\ufeff")
	lines := strings.Split(text, "\n")
	var cues []Cue
	for i := 0; i < len(lines); i++ {
		if !strings.Contains(lines[i], "-->") {
			continue
		}
		at := timing.FindStringSubmatch(strings.TrimSpace(lines[i]))
		if at == nil {
			return nil, fmt.Errorf("line %d should be two times, such as 00:01.000 --> 00:04.000", i+1)
		}
		from, to := seconds(at[1]), seconds(at[2])
		if from < 0 || to < 0 {
			return nil, fmt.Errorf("line %d should be two times, such as 00:01.000 --> 00:04.000", i+1)
		}
		if to <= from {
			return nil, fmt.Errorf("line %d ends before it begins", i+1)
		}
		var said []string
		for i+1 < len(lines) && strings.TrimSpace(lines[i+1]) != "" && !strings.Contains(lines[i+1], "-->") {
			i++
			said = append(said, strings.TrimSpace(html.UnescapeString(tag.ReplaceAllString(lines[i], ""))))
		}
		if say := strings.TrimSpace(strings.Join(said, "\n")); say != "" {
			cues = append(cues, Cue{from, to, say})
		}
		if len(cues) > most {
			return nil, fmt.Errorf("there are more than %d captions", most)
		}
	}
	if len(cues) == 0 {
		return nil, fmt.Errorf("there should be times and what is said, such as 00:01.000 --> 00:04.000 and below it a line")
	}
	return cues, nil
}

// seconds reads a time; below 0: it is none.
func seconds(s string) float64 {
	at := clock.FindStringSubmatch(s)
	if at == nil {
		return -1
	}
	n := func(i int) int { v, _ := strconv.Atoi(at[i]); return v }
	if n(2) > 59 || n(3) > 59 {
		return -1
	}
	return float64((n(1)*60+n(2))*60+n(3)) + float64(n(4))/1000
}
