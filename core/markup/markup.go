// Package markup cleans a marketer's HTML of all that could run.
package markup

import (
	"regexp"
	"strings"

	"github.com/microcosm-cc/bluemonday"
)

// MaxLength is how many characters markup may have.
const MaxLength = 40_000

// cleaning lets through what a mail or an article is made of, and nothing that
// could run, load a script, or reach out of its block.
var cleaning = func() *bluemonday.Policy {
	p := bluemonday.UGCPolicy()
	p.AllowAttrs("target").Matching(regexp.MustCompile(`^_blank$`)).OnElements("a")
	p.RequireNoFollowOnLinks(false)
	p.RequireNoReferrerOnFullyQualifiedLinks(true)
	p.AllowStyles("color", "background-color", "font-weight", "font-style", "text-align", "text-decoration", "padding", "margin", "border-radius").Globally()
	p.AllowURLSchemes("http", "https", "mailto", "tel")
	return p
}()

// Clean keeps of a marketer's markup what cannot run. What is far longer
// than markup may be is not looked at: a reader refuses it.
func Clean(s string) string {
	if len(s) > 4*MaxLength {
		return ""
	}
	return strings.TrimSpace(cleaning.Sanitize(s))
}
