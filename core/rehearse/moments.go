package rehearse

import "math"

// Moments is what came about on a page view as it is kept and sent, in seconds
// from its arrival.
type Moments struct {
	Marks    []*int   `json:"marks,omitempty"`    // when each tenth of the page was first reached; null: never
	Exit     *int     `json:"exit,omitempty"`     // the first exit intent
	Idles    [][2]int `json:"idles,omitempty"`    // start and length
	Happened [][3]any `json:"happened,omitempty"` // kind, about, second
}

// Moments gives what came about on a page view.
func (v View) Moments() (m Moments) {
	for _, at := range v.Marks {
		if at == Never {
			m.Marks = append(m.Marks, nil)
		} else {
			m.Marks = append(m.Marks, &at)
		}
	}
	if v.ExitAt != Never {
		m.Exit = &v.ExitAt
	}
	for _, i := range v.Idles {
		m.Idles = append(m.Idles, [2]int{i.Start, i.Length})
	}
	for _, h := range v.Happened {
		m.Happened = append(m.Happened, [3]any{h.Kind, h.About, h.Second})
	}
	return m
}

// Tell puts what came about into a page view; what cannot have happened is left out.
func (m Moments) Tell(v *View) {
	v.Marks, v.ExitAt, v.Idles, v.Happened = nil, Never, nil, nil
	for _, mark := range m.Marks {
		at := Never
		if mark != nil {
			at = *mark
		}
		v.Marks = append(v.Marks, at)
	}
	if m.Exit != nil {
		v.ExitAt = *m.Exit
	}
	for _, i := range m.Idles {
		v.Idles = append(v.Idles, Idle{Start: i[0], Length: i[1]})
	}
	for _, h := range m.Happened {
		kind, _ := h[0].(string)
		about, _ := h[1].(string)
		second, ok := number(h[2])
		if ok && second >= 0 && second < math.MaxInt32 {
			v.Happened = append(v.Happened, Happening{Kind: kind, About: about, Second: int(second)})
		}
	}
}

// number takes a number as it was made here, or as JSON has it.
func number(v any) (float64, bool) {
	switch v := v.(type) {
	case int:
		return float64(v), true
	case float64:
		return v, true
	}
	return 0, false
}
