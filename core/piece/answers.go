package piece

import (
	"net/mail"
	"strings"
	"unicode"
	"unicode/utf8"

	"gobbet/core/fault"
)

const (
	maxAnswer = 2000
	maxEmail  = 254 // RFC 5321, 4.5.3.1.3
)

// Answers is what a visitor told a scene, by field key.
type Answers map[string]string

// Answers checks what came for a scene's fields: nothing required is missing,
// an email is one, and nothing is there that was not asked. Answers come back
// trimmed. Its error is fault.Faults, with answers.KEY as places.
func (s Scene) Answers(given map[string]string) (Answers, error) {
	var faults fault.Faults
	answers := Answers{}
	asked := map[string]bool{}
	for _, b := range s.Blocks {
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
	switch {
	case answer == "" && f.Required:
		return "Please fill this in."
	case answer == "":
		return ""
	case !utf8.ValidString(answer):
		return "This holds characters that cannot be kept."
	case utf8.RuneCountInString(answer) > maxAnswer:
		return "This is too long."
	case strings.IndexFunc(answer, func(c rune) bool { return unicode.IsControl(c) && c != '\n' && c != '\t' && c != '\r' }) >= 0:
		return "This holds characters that cannot be kept."
	case f.Ask == AskEmail && !IsEmail(answer):
		return "This does not look like an email address."
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
	for _, b := range s.Blocks {
		if f, ok := b.(Field); ok && f.Ask == ask && a[f.Key] != "" {
			return a[f.Key]
		}
	}
	return ""
}

// SendingConverts reports whether a button that sends the scene counts as the conversion.
func (s Scene) SendingConverts() bool {
	for _, b := range s.Blocks {
		if button, ok := b.(Button); ok && button.Press.Do == DoSend && button.Counts {
			return true
		}
	}
	return false
}
