package piece

import (
	"fmt"
	"net/mail"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"gobbet/core/fault"
)

const (
	maxAnswer = 2000
	maxLong   = 10_000
	maxEmail  = 254 // RFC 5321, 4.5.3.1.3
)

// Answers is what a visitor told a scene, by field key.
type Answers map[string]string

// Answers checks what came for a scene's fields: nothing required is missing,
// each answer is one its field may have, and nothing is there that was not
// asked. Answers come back trimmed; several choices are lines of one answer.
// Its error is fault.Faults, with answers.KEY as places.
func (s Scene) Answers(given map[string]string) (Answers, error) {
	var faults fault.Faults
	answers := Answers{}
	asked := map[string]bool{}
	for b := range s.All() {
		f, ok := b.(Field)
		if !ok {
			continue
		}
		asked[f.Key] = true
		answer := strings.TrimSpace(given[f.Key])
		if wrong := f.wrong(answer); wrong != "" {
			faults.Add(fault.Key("answers", f.Key), "%s", wrong)
		} else if answer != "" {
			answers[f.Key] = answer
		}
	}
	for key := range given {
		if !asked[key] {
			faults.Add("answers", "holds something that was not asked")
			break
		}
	}
	return answers, faults.Err()
}

func (f Field) wrong(answer string) string {
	if answer == "" {
		// What some devices do not show, nobody can be made to fill in.
		switch {
		case !f.Required || f.Hide != "" || f.Ask == AskHidden:
			return ""
		case f.Ask == AskConsent:
			return f.or("Please tick this to go on.")
		}
		return f.or("Please fill this in.")
	}
	if !utf8.ValidString(answer) || strings.IndexFunc(answer, func(c rune) bool { return unicode.IsControl(c) && c != '\n' && c != '\t' && c != '\r' }) >= 0 {
		return "This holds characters that cannot be kept."
	}
	if most := f.longest(); utf8.RuneCountInString(answer) > most {
		return "This is too long."
	}
	if wrong := f.unfit(answer); wrong != "" {
		return f.or(wrong)
	}
	return ""
}

// or is the field's own message, if it has one.
func (f Field) or(otherwise string) string {
	if f.Message != "" {
		return f.Message
	}
	return otherwise
}

func (f Field) longest() int {
	if f.Ask == AskLong {
		return maxLong
	}
	return maxAnswer
}

func (f Field) unfit(answer string) string {
	if wrong := f.misfit(answer); wrong != "" {
		return wrong
	}
	if f.Pattern != "" {
		// Checked when the document was read.
		if fits, err := regexp.MatchString(`^(?:`+f.Pattern+`)$`, answer); err == nil && !fits {
			return "This is not in the form that is asked for."
		}
	}
	return ""
}

func (f Field) misfit(answer string) string {
	switch f.Ask {
	case AskEmail:
		if !IsEmail(answer) {
			return "This does not look like an email address."
		}
	case AskPhone:
		if !phoneForm.MatchString(answer) {
			return "This does not look like a telephone number."
		}
	case AskNumber:
		n, ok := finite(answer)
		if !ok {
			return "This should be a number."
		}
		return f.outside(n, "This should be %s.")
	case AskDate:
		if _, err := time.Parse(time.DateOnly, answer); err != nil {
			return "This should be a date."
		}
		if f.Least != "" && answer < f.Least {
			return "This should be " + f.Least + " or later."
		}
		if f.Most != "" && answer > f.Most {
			return "This should be " + f.Most + " or earlier."
		}
	case AskChoice, AskDropdown:
		if !slices.Contains(f.Options, answer) {
			return "Please take one of these."
		}
	case AskChoices:
		taken := strings.Split(answer, "\n")
		for i, one := range taken {
			if !slices.Contains(f.Options, one) || slices.Contains(taken[:i], one) {
				return "Please take some of these."
			}
		}
		return f.outside(float64(len(taken)), "Please take %s.")
	case AskConsent:
		if answer != "yes" {
			return "Please tick this to go on."
		}
	case AskStars, AskScale:
		n, err := strconv.Atoi(answer)
		low, high := f.Ask.Steps()
		if err != nil || n < low || n > high {
			return fmt.Sprintf("This should be %d to %d.", low, high)
		}
	case AskName, AskText, AskLong:
		return f.outside(float64(utf8.RuneCountInString(answer)), "This should be %s characters long.")
	}
	return ""
}

// Steps are the least and the most of a rating.
func (a Ask) Steps() (low, high int) {
	if a == AskStars {
		return 1, 5
	}
	return 0, 10
}

func (f Field) outside(n float64, say string) string {
	low, hasLow := finite(f.Least)
	high, hasHigh := finite(f.Most)
	switch {
	case hasLow && hasHigh && (n < low || n > high):
		return fmt.Sprintf(say, f.Least+" to "+f.Most)
	case hasLow && n < low:
		return fmt.Sprintf(say, "at least "+f.Least)
	case hasHigh && n > high:
		return fmt.Sprintf(say, "at most "+f.Most)
	}
	return ""
}

// IsEmail reports whether s is a bare address that mail could reach: a local
// part and a domain of at least two labels.
func IsEmail(s string) bool {
	if len(s) > maxEmail {
		return false
	}
	address, err := mail.ParseAddress(s)
	if err != nil || address.Name != "" || address.Address != s || strings.ContainsAny(s, "\" \t\r\n\\,;<>()") {
		return false
	}
	_, domain, _ := strings.Cut(s, "@")
	if strings.Trim(domain, ".") != domain || strings.Contains(domain, "..") || !strings.Contains(domain, ".") {
		return false
	}
	for label := range strings.SplitSeq(domain, ".") {
		if len(label) > 63 || strings.Trim(label, "-") != label {
			return false
		}
	}
	return true
}

// EmailIn is the answer that reaches the person.
func (s Scene) EmailIn(a Answers) string { return s.first(a, AskEmail) }

// NameIn is what the person wants to be called.
func (s Scene) NameIn(a Answers) string { return s.first(a, AskName) }

func (s Scene) first(a Answers, ask Ask) string {
	for b := range s.All() {
		if f, ok := b.(Field); ok && f.Ask == ask && a[f.Key] != "" {
			return a[f.Key]
		}
	}
	return ""
}

// SendingConverts reports whether a button that sends the scene counts as the conversion.
func (s Scene) SendingConverts() bool {
	for b := range s.All() {
		if button, ok := b.(Button); ok && button.Press.Do == DoSend && button.Counts {
			return true
		}
	}
	return false
}
