package reach

import (
	"strings"
	"time"
)

// valueKind tells what a visit says of one fact.
type valueKind uint8

const (
	unknown  valueKind = iota // not mentioned: an absent fact, or a moment that has not come
	unfit                     // mentioned, with a value of another kind than the fact's
	isText                    //
	isNumber                  //
	isFlag                    // num is 0 or 1
	isTexts                   // tags, or what happened
)

type value struct {
	kind  valueKind
	num   float64
	text  string
	texts []string
}

// Visit is what is known of one page view. The zero Visit knows nothing.
type Visit struct {
	fixed [64]value
	named map[string]*value
	// HasMemory says that history facts which nothing mentions are 0, as in a
	// visitor's own memory, rather than absent.
	HasMemory bool
}

// Set says what a fact is: a string, a bool, a float64 or int, or a list of
// strings for visitor.tags and for happenings. Nil leaves it unsaid. A value
// of another kind than the fact's counts as absent, and a fact that nothing
// declares is passed over.
func (v *Visit) Set(name string, is any) {
	f, slot, _, ok := find(name)
	if !ok || is == nil {
		return
	}
	got := read(is)
	switch {
	case name == "page.path" && got.kind == isText:
		got.text = NormalPath(got.text)
	case f.Kind == Happening && got.kind == isText:
		got = value{kind: isTexts, texts: []string{got.text}}
	case f.Name == "visitor.tags" && got.kind == isTexts && len(got.texts) == 0:
		got.kind = unfit
	}
	if !f.takes(got.kind) {
		got = value{kind: unfit}
	}
	if slot >= 0 {
		v.fixed[slot] = got
		return
	}
	if v.named == nil {
		v.named = make(map[string]*value, 8)
	}
	v.named[name] = &got
}

func read(is any) value {
	switch is := is.(type) {
	case string:
		return value{kind: isText, text: is}
	case float64:
		return value{kind: isNumber, num: is}
	case int:
		return value{kind: isNumber, num: float64(is)}
	case bool:
		if is {
			return value{kind: isFlag, num: 1}
		}
		return value{kind: isFlag}
	case []string:
		return value{kind: isTexts, texts: is}
	case []any:
		texts := make([]string, 0, len(is))
		for _, one := range is {
			text, ok := one.(string)
			if !ok {
				return value{kind: unfit}
			}
			texts = append(texts, text)
		}
		return value{kind: isTexts, texts: texts}
	}
	return value{kind: unfit}
}

func (f Fact) takes(kind valueKind) bool {
	switch f.Kind {
	case Text:
		return kind == isText || kind == isTexts && f.Name == "visitor.tags"
	case Number, Counted:
		return kind == isNumber
	case Flag:
		return kind == isFlag
	case Happening:
		return kind == isTexts || kind == isFlag
	default:
		return kind == isText || kind == isNumber || kind == isFlag
	}
}

// SetClock says the date, time and weekday, in the zone t is in.
func (v *Visit) SetClock(t time.Time) {
	v.Set("clock.date", t.Format("2006-01-02"))
	v.Set("clock.time", t.Hour()*60+t.Minute())
	v.Set("clock.weekday", [...]string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}[t.Weekday()])
}

func (v *Visit) get(slot int, name string) *value {
	if slot >= 0 {
		return &v.fixed[slot]
	}
	if got, ok := v.named[name]; ok {
		return got
	}
	if v.HasMemory && strings.HasPrefix(name, "history.") {
		return &never
	}
	return &nothing
}

var nothing, never = value{}, value{kind: isNumber}

// Knows reports whether the visit says anything of a fact.
func (v *Visit) Knows(name string) bool {
	_, slot, _, ok := find(name)
	return ok && v.get(slot, name).kind != unknown
}

// actual is a value as the trace shows it.
func (got *value) actual() any {
	switch got.kind {
	case isText:
		return got.text
	case isNumber:
		return got.num
	case isFlag:
		return got.num == 1
	case isTexts:
		return got.texts
	}
	return nil
}
