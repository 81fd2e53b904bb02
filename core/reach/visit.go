package reach

import (
	"encoding/binary"
	"math"
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

// Value is what a visit says of one fact. The zero Value says nothing.
type Value struct {
	kind valueKind
	num  float64
	text string
	// folded is the text as it is compared.
	folded string
	list   *texts // of isTexts
}

// texts are several texts, as they are and as they are compared.
type texts struct{ plain, folded []string }

// Visit is what is known of one page view. The zero Visit knows nothing.
type Visit struct {
	fixed [48]Value
	// Facts of families by name: few are looked through, many looked up.
	named  []namedValue
	byName map[string]int // of named, once there are many
	// HasMemory says that history facts which nothing mentions are 0, as in a
	// visitor's own memory, rather than absent.
	HasMemory bool
	moments   bool // any is mentioned
}

type namedValue struct {
	name  string
	value Value
}

const fewNames = 16

// indexOf is where a fact of a family stands in named, or -1.
func (v *Visit) indexOf(name string) int {
	if v.byName != nil {
		if at, ok := v.byName[name]; ok {
			return at
		}
		return -1
	}
	for i := range v.named {
		if v.named[i].name == name {
			return i
		}
	}
	return -1
}

// Set says what a fact is: a string, a bool, a float64 or int, or a list of
// strings for visitor.tags and for happenings. Nil leaves it unsaid. A value
// of another kind than the fact's counts as absent, and a fact that nothing
// declares is passed over.
func (v *Visit) Set(name string, is any) {
	got, slot, ok := valueOf(name, is)
	if !ok {
		return
	}
	v.moments = v.moments || strings.HasPrefix(name, "moment.")
	if slot >= 0 {
		v.fixed[slot] = got
		return
	}
	if at := v.indexOf(name); at >= 0 {
		v.named[at].value = got
		return
	}
	v.named = append(v.named, namedValue{name, got})
	switch n := len(v.named); {
	case n == fewNames+1:
		v.byName = make(map[string]int, 2*n)
		for i := range v.named {
			v.byName[v.named[i].name] = i
		}
	case n > fewNames:
		v.byName[name] = n - 1
	}
}

// Path is the page's path as rules compare it; empty where it is not known.
func (v *Visit) Path() string {
	_, slot, _, _ := find(pagePath)
	return v.fixed[slot].folded
}

// Text gives a fact that was set to a text; empty where it was not.
func (v *Visit) Text(name string) string {
	if _, slot, _, ok := find(name); ok && slot >= 0 {
		return v.fixed[slot].text
	}
	if at := v.indexOf(name); at >= 0 {
		return v.named[at].value.text
	}
	return ""
}

// ValueOf is what Visit.Set would take a fact to be; not ok where it would
// pass it over.
func ValueOf(name string, is any) (_ Value, ok bool) {
	got, _, ok := valueOf(name, is)
	return got, ok
}

func valueOf(name string, is any) (_ Value, slot int, ok bool) {
	f, slot, _, ok := find(name)
	if !ok || is == nil {
		return Value{}, slot, false
	}
	got := read(is)
	switch {
	case name == "page.path" && got.kind == isText:
		got.text = NormalPath(got.text)
	case f.Kind == Happening && got.kind == isText:
		got = Value{kind: isTexts, list: &texts{plain: []string{got.text}}}
	case f.Name == "visitor.tags" && got.kind == isTexts && len(got.list.plain) == 0:
		got.kind = unfit
	}
	if !f.takes(got.kind) {
		got = Value{kind: unfit}
	}
	if got.kind == isText {
		got.folded = fold(got.text)
	} else if got.kind == isTexts && f.Kind != Happening {
		got.list.folded = make([]string, len(got.list.plain))
		for i, text := range got.list.plain {
			got.list.folded[i] = fold(text)
		}
	}
	return got, slot, true
}

// many is the texts of a value of several.
func (got Value) many() []string {
	if got.list == nil {
		return nil
	}
	return got.list.plain
}

// AppendKey appends what tells a value from every other.
func (got Value) AppendKey(b []byte) []byte {
	b = append(b, byte(got.kind))
	b = binary.BigEndian.AppendUint64(b, math.Float64bits(got.num))
	b = append(b, got.text...)
	for _, text := range got.many() {
		b = append(append(b, text...), 0)
	}
	return b
}

// Actual is the value as JSON has it; nil where nothing is known.
func (got Value) Actual() any { return (&got).actual() }

func read(is any) Value {
	switch is := is.(type) {
	case string:
		return Value{kind: isText, text: is}
	case float64:
		return Value{kind: isNumber, num: is}
	case int:
		return Value{kind: isNumber, num: float64(is)}
	case bool:
		if is {
			return Value{kind: isFlag, num: 1}
		}
		return Value{kind: isFlag}
	case []string:
		return Value{kind: isTexts, list: &texts{plain: is}}
	case []any:
		plain := make([]string, 0, len(is))
		for _, one := range is {
			text, ok := one.(string)
			if !ok {
				return Value{kind: unfit}
			}
			plain = append(plain, text)
		}
		return Value{kind: isTexts, list: &texts{plain: plain}}
	}
	return Value{kind: unfit}
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

func (v *Visit) get(slot int, name string) *Value {
	if slot >= 0 {
		return &v.fixed[slot]
	}
	if at := v.indexOf(name); at >= 0 {
		return &v.named[at].value
	}
	if v.HasMemory && strings.HasPrefix(name, "history.") {
		return &never
	}
	return &nothing
}

var nothing, never = Value{}, Value{kind: isNumber}

// Recorded gives what the visit says of the facts that a visit log keeps, but
// for its moments.
func (v *Visit) Recorded() map[string]any {
	facts := map[string]any{}
	for slot, f := range Facts {
		if is := v.fixed[slot].actual(); is != nil && f.Recorded && !f.IsMoment() {
			facts[f.Name] = is
		}
	}
	for i := range v.named {
		one := &v.named[i]
		if f, ok := Find(one.name); ok && f.Recorded && one.value.actual() != nil {
			facts[one.name] = one.value.actual()
		}
	}
	return facts
}

// Knows reports whether the visit says anything of a fact.
func (v *Visit) Knows(name string) bool {
	_, slot, _, ok := find(name)
	return ok && v.get(slot, name).kind != unknown
}

// actual is a value as the trace shows it.
func (got *Value) actual() any {
	switch got.kind {
	case isText:
		return got.text
	case isNumber:
		return got.num
	case isFlag:
		return got.num == 1
	case isTexts:
		return got.list.plain
	}
	return nil
}
