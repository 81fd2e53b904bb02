package settle

import (
	"fmt"
	"regexp"

	"gobbet/core/piece"
)

// promises are the ways in which a thank-you says that a message will come.
var promises = regexp.MustCompile(`(?i)\b(check your (inbox|e-?mails?|mail)|in your (inbox|e-?mails?)|on (its|their|the) way|look for our (message|e-?mail)|by e-?mail|we('|’)?(ll| will| have|’ve|'ve) (just )?(send|sent|e-?mail(ed)?|mail(ed)?)\b|we (e-?mailed|mailed|sent) )`)

// promise wants something that sends the message a thank-you speaks of. Gobbet
// keeps sign-ups; it sends nothing itself.
func (n *notes) promise(at string, s piece.Scene, b piece.Block) {
	if s.Kind != piece.ThanksScene {
		return
	}
	var said string
	switch b := b.(type) {
	case piece.Heading:
		said = b.Text.String()
	case piece.Text:
		said = b.Text.String()
	}
	if promises.MatchString(said) {
		n.add(Warn, "nothing_sends", at+".text", fmt.Sprintf("“%s”%s promises a message, and nothing sends one yet.", short(said), n.where), "Send it with the sign-ups from People, or offer the file or code here.")
	}
}
