package rehearse

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"gobbet/core/fault"
	"gobbet/core/schedule"
)

// Record is a page view as a visit log has it, one JSON object a line.
type Record struct {
	Visitor  string         `json:"visitor"`
	Visit    string         `json:"visit"`
	At       time.Time      `json:"at"`
	Facts    map[string]any `json:"facts"`
	Seconds  int            `json:"seconds"`
	Marks    []*int         `json:"scroll_marks"`
	ExitAt   *int           `json:"exit_at"`
	Idles    [][2]int       `json:"idles"`
	Happened []happenedLine `json:"happened"`
}

type happenedLine struct {
	Kind, About string
	Second      int
}

func (h *happenedLine) UnmarshalJSON(data []byte) error {
	var parts []json.RawMessage
	if err := json.Unmarshal(data, &parts); err != nil {
		return err
	}
	if len(parts) != 3 {
		return nil // and View finds it wanting
	}
	return json.Unmarshal(data, &[]any{&h.Kind, &h.About, &h.Second})
}

// View checks a line. Its error is a fault.Fault. What a line does not say of
// the clock is read off its arrival.
func (line Record) View() (View, error) {
	v := View{Visitor: line.Visitor, Visit: line.Visit, At: line.At, Facts: line.Facts, Seconds: line.Seconds, ExitAt: Never}
	wrong := func(at, message string) (View, error) { return View{}, fault.Fault{At: at, Message: message} }
	switch {
	case line.Visitor == "":
		return wrong("visitor", "is missing")
	case line.At.IsZero():
		return wrong("at", "is missing")
	case line.At.Year() < 1970 || line.At.Year() > 2200:
		return wrong("at", "should be a time from 1970 to 2200")
	case line.Seconds < 0:
		return wrong("seconds", "should not be below 0")
	case len(line.Marks) > marks:
		return wrong("scroll_marks", "are more than 10")
	}
	for i, mark := range line.Marks {
		at := Never
		if mark != nil {
			at = *mark
		}
		if at < 0 {
			return wrong(fault.Index("scroll_marks", i), "should not be below 0")
		}
		v.Marks = append(v.Marks, at)
	}
	if line.ExitAt != nil {
		if v.ExitAt = *line.ExitAt; v.ExitAt < 0 {
			return wrong("exit_at", "should not be below 0")
		}
	}
	for i, idle := range line.Idles {
		if idle[0] < 0 || idle[1] < 0 {
			return wrong(fault.Index("idles", i), "should be a start and a length, not below 0")
		}
		v.Idles = append(v.Idles, Idle{idle[0], idle[1]})
	}
	for i, h := range line.Happened {
		if h.Kind == "" || h.Second < 0 { // a short one has none
			return wrong(fault.Index("happened", i), "should be [kind, about, second]")
		}
		v.Happened = append(v.Happened, Happening(h))
	}
	v.Facts = withClock(v.Facts, v.At)
	return v, nil
}

func withClock(facts map[string]any, at time.Time) map[string]any {
	all := map[string]any{"clock.date": at.Format(time.DateOnly), "clock.time": at.Hour()*60 + at.Minute(), "clock.weekday": schedule.Weekdays[at.Weekday()]}
	for name, is := range facts {
		all[name] = is
	}
	return all
}

// Read reads a whole visit log, ready for Rehearse. An error says which line
// is at fault.
func Read(r io.Reader) (*Log, error) {
	l := &Log{}
	in := bufio.NewReaderSize(r, 1<<20)
	for n := 1; ; n++ {
		text, err := in.ReadBytes('\n')
		if len(bytes.TrimSpace(text)) > 0 {
			if err := l.read(text); err != nil {
				return nil, fmt.Errorf("line %d: %w", n, err)
			}
		}
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
	}
	l.Sort()
	return l, nil
}

func (l *Log) read(text []byte) error {
	var line Record
	if err := fault.Loosely(text, &line); err != nil {
		return err
	}
	v, err := line.View()
	if err == nil {
		l.Add(v)
	}
	return err
}
