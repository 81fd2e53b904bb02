package piece

import (
	"regexp"

	"gobbet/core/fault"
)

// OwnPage is the page of its own that a piece lives at beside the site's pages, to
// be shared as a link or printed.
type OwnPage struct {
	// Address is the last part of the page's address: one of its site's pages has it.
	Address string `json:"address"`
	// Title and Description are what the page and previews of its link are called.
	Title       string `json:"title"`
	Description string `json:"description,omitempty"`
	// Picture is the hash of the one that previews show; empty: the first that
	// the piece itself shows.
	Picture string `json:"picture,omitempty"`
	// Language is the page's, as BCP 47 has it; empty: en.
	Language string `json:"language,omitempty"`
}

const maxDescription = 300

var (
	pageAddress  = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)
	pageLanguage = regexp.MustCompile(`^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$`)
)

// IsPageAddress reports whether a text may be the last part of a page's address.
func IsPageAddress(s string) bool { return len(s) <= 60 && pageAddress.MatchString(s) }

// PagesAt is where a site's pages begin, on the origin that all sites' pages
// share; empty where there is none.
func PagesAt(origin, siteKey string) string {
	if origin == "" {
		return ""
	}
	return origin + "/" + siteKey + "/"
}

func (r *reader) page(n *fault.Node) *OwnPage {
	if n.IsNull() {
		return nil
	}
	var p OwnPage
	if !r.Decode(n, "page", &p) {
		return nil
	}
	if !IsPageAddress(p.Address) {
		r.Faults.Add("page.address", "should be 1 to 60 small letters and digits, with single hyphens between")
	}
	p.Title = r.Line("page.title", p.Title, maxName)
	r.Text("page.description", p.Description, maxDescription)
	r.hash("page.picture", p.Picture, "a picture")
	if p.Language != "" && !pageLanguage.MatchString(p.Language) {
		r.Faults.Add("page.language", "should be a language such as en or pt-BR")
	}
	return &p
}

// Preview is the hash of the picture that previews of the page show; empty: none.
func (p *Piece) Preview() string {
	if p.Page != nil && p.Page.Picture != "" {
		return p.Page.Picture
	}
	if pictures := p.Split.Variants[0].Design.Pictures(); len(pictures) > 0 {
		return pictures[0]
	}
	return ""
}

// Pictures lists the hashes of all pictures of a piece.
func (p *Piece) Pictures() []string {
	var found hashes
	if p.Page != nil {
		found.add(p.Page.Picture)
	}
	for _, v := range p.Split.Variants {
		for _, one := range v.Design.Pictures() {
			found.add(one)
		}
	}
	return found
}
