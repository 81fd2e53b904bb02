// Package answer checks what visitors tell a scene, against the fields that ask.
//
// An answer is kept as a text: a choice as its id, several as lines of ids, a
// number as it was written, a consent as yes.
package answer

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/text"
)

const (
	maxAnswer = 2000
	maxLong   = 10_000
)

// Answers are what a visitor told, by field key.
type Answers map[string]string

// Form is what a scene asks, made ready to check answers.
type Form struct {
	Fields []Field
}

// Field is a field with what its checks need.
type Field struct {
	piece.Field
	least, most       float64
	hasLeast, hasMost bool
	pattern           *regexp.Regexp
	// choice finds a choice by its id.
	choice map[string]int
}

// FormOf gives what a scene asks.
func FormOf(s piece.Scene) (f Form) {
	for b := range s.All() {
		if b, ok := piece.Asked(b); ok {
			f.Fields = append(f.Fields, fieldOf(b))
		}
	}
	return f
}

func fieldOf(b piece.Field) Field {
	f := Field{Field: b}
	f.least, f.hasLeast = text.Number(b.Least)
	f.most, f.hasMost = text.Number(b.Most)
	if b.Pattern != "" {
		// Checked when the document was read.
		f.pattern, _ = regexp.Compile(`^(?:` + b.Pattern + `)$`)
	}
	if len(b.Choices) > 0 {
		f.choice = make(map[string]int, len(b.Choices))
		for i, c := range b.Choices {
			f.choice[c.ID] = i
		}
	}
	return f
}

// Choice gives the index of a choice by its id; -1 for none.
func (f *Field) Choice(id string) int {
	if i, ok := f.choice[id]; ok {
		return i
	}
	return -1
}

// Check holds what came to the form: nothing required is missing, each answer
// is one its field may have, and nothing is there that was not asked. Answers
// come back trimmed. Its error is fault.Faults, each at a field's key.
func (f Form) Check(given map[string]string) (Answers, error) {
	answers := make(Answers, len(f.Fields))
	return answers, f.CheckInto(given, answers)
}

// CheckInto is Check, but puts the answers in the place of those that are there
// to the form's fields. Where it finds a fault it leaves them as they are. What
// was drawn stays drawn.
func (f Form) CheckInto(given map[string]string, answers Answers) error {
	var faults fault.Faults
	asked := 0
	for i := range f.Fields {
		field := &f.Fields[i]
		raw, came := given[field.Key]
		if came {
			asked++
		}
		answer := strings.TrimSpace(raw)
		if wrong := field.wrong(answer); wrong != "" {
			faults.Add(field.Key, "%s", wrong)
		}
	}
	if asked < len(given) {
		faults.Add("", "holds something that was not asked")
	}
	if faults != nil {
		return faults
	}
	for i := range f.Fields {
		if answer := strings.TrimSpace(given[f.Fields[i].Key]); answer != "" {
			answers[f.Fields[i].Key] = answer
		} else if f.Fields[i].Ask != piece.AskDrawn {
			delete(answers, f.Fields[i].Key)
		}
	}
	return nil
}

// Forget takes out of answers what the form's fields asked. What was drawn
// stays drawn.
func (f Form) Forget(answers Answers) {
	for i := range f.Fields {
		if f.Fields[i].Ask != piece.AskDrawn {
			delete(answers, f.Fields[i].Key)
		}
	}
}

func (f *Field) wrong(answer string) string {
	if answer == "" {
		// What some devices do not show, nobody can be made to fill in.
		switch {
		case !f.Required || f.Hide != "" || f.Ask == piece.AskHidden:
			return ""
		case f.Ask == piece.AskConsent:
			return f.or("Please tick this to go on.")
		}
		return f.or("Please fill this in.")
	}
	if f.Ask == piece.AskDrawn {
		return "This is drawn, and cannot be answered."
	}
	// A choice is one of those there are, whatever it is written with.
	if f.choice == nil && !keepable(answer) {
		return "This holds characters that cannot be kept."
	}
	longest := maxAnswer
	if f.Ask == piece.AskLong {
		longest = maxLong
	}
	if len(answer) > longest && utf8.RuneCountInString(answer) > longest {
		return "This is too long."
	}
	if wrong := f.misfit(answer); wrong != "" {
		return f.or(wrong)
	}
	if f.pattern != nil && !f.pattern.MatchString(answer) {
		return f.or("This is not in the form that is asked for.")
	}
	return ""
}

// keepable reports whether a text is one, without what cannot be seen.
func keepable(s string) bool {
	for i := range len(s) {
		if c := s[i]; c >= utf8.RuneSelf {
			return utf8.ValidString(s) && strings.IndexFunc(s, func(c rune) bool { return unicode.IsControl(c) && c != '\n' && c != '\t' && c != '\r' }) < 0
		} else if c < ' ' && c != '\n' && c != '\t' && c != '\r' || c == 0x7f {
			return false
		}
	}
	return true
}

// or is the field's own message, if it has one.
func (f *Field) or(otherwise string) string {
	if f.Message != "" {
		return f.Message
	}
	return otherwise
}

func (f *Field) misfit(answer string) string {
	switch f.Ask {
	case piece.AskEmail:
		if !text.IsEmail(answer) {
			return "This does not look like an email address."
		}
	case piece.AskPhone:
		if !text.IsPhone(answer) {
			return "This does not look like a telephone number."
		}
	case piece.AskNumber, piece.AskSlider:
		n, ok := text.Number(answer)
		if !ok {
			return "This should be a number."
		}
		return f.outside(n, "This should be %s.")
	case piece.AskDate:
		if _, err := time.Parse(time.DateOnly, answer); err != nil {
			return "This should be a date."
		}
		if f.Least != "" && answer < f.Least {
			return "This should be " + f.Least + " or later."
		}
		if f.Most != "" && answer > f.Most {
			return "This should be " + f.Most + " or earlier."
		}
	case piece.AskChoice, piece.AskDropdown:
		if _, ok := f.choice[answer]; !ok {
			return "Please choose one of these."
		}
	case piece.AskChoices, piece.AskOrder:
		taken := strings.Split(answer, "\n")
		if len(taken) > len(f.Choices) {
			return "Please choose some of these."
		}
		for i, one := range taken {
			if _, ok := f.choice[one]; !ok || slices.Contains(taken[:i], one) {
				return "Please choose some of these."
			}
		}
		if f.Ask == piece.AskChoices {
			return f.outside(float64(len(taken)), "Please choose %s.")
		}
		if len(taken) != len(f.Choices) {
			return "Please put all of these in order."
		}
	case piece.AskConsent:
		if answer != "yes" {
			return "Please tick this to go on."
		}
	case piece.AskStars, piece.AskScale:
		n, err := strconv.Atoi(answer)
		low, high := Steps(f.Ask)
		if err != nil || n < low || n > high {
			return fmt.Sprintf("This should be %d to %d.", low, high)
		}
	case piece.AskName, piece.AskText, piece.AskLong:
		if f.hasLeast || f.hasMost {
			return f.outside(float64(utf8.RuneCountInString(answer)), "This should be %s characters long.")
		}
	}
	return ""
}

// Steps are the least and the most of a rating.
func Steps(a piece.Ask) (low, high int) {
	if a == piece.AskStars {
		return 1, 5
	}
	return 0, 10
}

func (f *Field) outside(n float64, say string) string {
	switch {
	case f.hasLeast && f.hasMost && (n < f.least || n > f.most):
		return fmt.Sprintf(say, f.Least+" to "+f.Most)
	case f.hasLeast && n < f.least:
		return fmt.Sprintf(say, "at least "+f.Least)
	case f.hasMost && n > f.most:
		return fmt.Sprintf(say, "at most "+f.Most)
	}
	return ""
}

// Taken goes through the choices an answer takes, by their indexes, in the
// order of the answer.
func (f *Field) Taken(answer string, do func(i int)) {
	for answer != "" {
		var id string
		id, answer, _ = strings.Cut(answer, "\n")
		if i, ok := f.choice[id]; ok {
			do(i)
		}
	}
}

// Takes reports whether an answer takes a choice, or is a text in whatever case.
func (f *Field) Takes(answer, what string) bool {
	if len(f.Choices) == 0 {
		return strings.EqualFold(answer, what)
	}
	found := false
	f.Taken(answer, func(i int) { found = found || f.Choices[i].ID == what })
	return found
}

// Score is what an answer scores: the scores of the choices taken, or of those
// that stand in their right place; the points of a right text or number.
func (f *Field) Score(answer string) (score float64) {
	if answer == "" {
		return 0
	}
	switch f.Ask {
	case piece.AskChoice, piece.AskDropdown, piece.AskChoices:
		f.Taken(answer, func(i int) { score += f.Choices[i].Score })
	case piece.AskOrder:
		place := 0
		f.Taken(answer, func(i int) {
			if i == place {
				score += f.Choices[i].Score
			}
			place++
		})
	default:
		if f.Points != 0 && f.IsRight(answer) {
			return f.Points
		}
	}
	return score
}

// Number is the number that an answer is or stands for; not ok where it is none,
// and where an answer that is required is not there yet.
func (f *Field) Number(answer string) (n float64, ok bool) {
	if answer == "" && f.Required && f.Ask != piece.AskConsent {
		return 0, false
	}
	switch f.Ask {
	case piece.AskNumber, piece.AskSlider, piece.AskScale, piece.AskStars:
		return text.Number(answer)
	case piece.AskConsent:
		if answer == "yes" {
			return 1, true
		}
		return 0, true
	}
	return f.Score(answer), f.Numeric()
}

// Judged reports whether there are right and wrong answers to the field.
func (f *Field) Judged() bool {
	return f.Ask == piece.AskOrder || len(f.Field.Right) > 0 || slices.ContainsFunc(f.Choices, func(c piece.Choice) bool { return c.Right })
}

// IsRight reports whether an answer is right: all right choices and no others,
// all in order, or one of the right texts or numbers.
func (f *Field) IsRight(answer string) bool {
	if len(f.Choices) == 0 {
		given, isNumber := text.Number(answer)
		return slices.ContainsFunc(f.Field.Right, func(right string) bool {
			want, wantsNumber := text.Number(right)
			return isNumber && wantsNumber && given == want || strings.EqualFold(strings.TrimSpace(right), answer)
		})
	}
	right, taken, place := true, 0, 0
	f.Taken(answer, func(i int) {
		if f.Ask == piece.AskOrder {
			right = right && i == place
		} else {
			right = right && f.Choices[i].Right
		}
		taken++
		place++
	})
	wanted := len(f.Choices)
	if f.Ask != piece.AskOrder {
		wanted = 0
		for _, c := range f.Choices {
			if c.Right {
				wanted++
			}
		}
		if f.Ask != piece.AskChoices {
			wanted = min(wanted, 1)
		}
	}
	return right && taken == wanted && taken > 0
}

// Said gives answers as a person reads them: choices by their labels.
func (f Form) Said(answers Answers) map[string]string {
	said := make(map[string]string, len(answers))
	for i := range f.Fields {
		field := &f.Fields[i]
		answer, ok := answers[field.Key]
		if !ok {
			continue
		}
		if len(field.Choices) > 0 {
			var labels []string
			field.Taken(answer, func(i int) { labels = append(labels, field.Choices[i].Label) })
			answer = strings.Join(labels, "\n")
		}
		said[field.Key] = answer
	}
	return said
}

// Email is the answer that reaches the person, and Name what they want to be called.
func (f Form) Email(a Answers) string { return f.first(a, piece.AskEmail) }

// Name is what the person wants to be called.
func (f Form) Name(a Answers) string { return f.first(a, piece.AskName) }

func (f Form) first(a Answers, ask piece.Ask) string {
	for i := range f.Fields {
		if field := &f.Fields[i]; field.Ask == ask && a[field.Key] != "" {
			return a[field.Key]
		}
	}
	return ""
}

// Text gives an answer as it came in JSON as it is kept; not ok for what can be
// no answer.
func Text(value any) (answer string, ok bool) {
	switch value := value.(type) {
	case nil:
		return "", true
	case string:
		return value, true
	case float64:
		return strconv.FormatFloat(value, 'f', -1, 64), value-value == 0
	case bool:
		if value {
			return "yes", true
		}
		return "", true
	case []any:
		lines := make([]string, len(value))
		for i, one := range value {
			line, isText := one.(string)
			if !isText || strings.Contains(line, "\n") {
				return "", false
			}
			lines[i] = line
		}
		return strings.Join(lines, "\n"), true
	}
	return "", false
}
