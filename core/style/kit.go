package style

import (
	"regexp"
	"slices"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/read"
)

// notColors are what @ stands before without being a colour of the kit.
var notColors = []string{"page", "text", "heading"}

// Roles are the colours every kit has.
var Roles = []string{"background", "ink", "accent", "accent_ink", "soft"}

// UsualKit is that of a new site.
func UsualKit() Kit {
	return Kit{
		Colors: []KitColor{
			{"background", "Paper", "#fffdf9"}, {"ink", "Ink", "#2b2430"}, {"accent", "Accent", "#1f4f4e"}, {"accent_ink", "On accent", "#ffffff"}, {"soft", "Wash", "#efe7da"},
		},
		Text: Instrument, Heading: Bricolage, Corners: 12, Button: KitButton{Corners: 10, Weight: 650}, Field: KitField{Corners: 8},
	}
}

// ReadKit reads and checks a style kit. Its error is fault.Faults.
func ReadKit(data []byte) (Kit, error) {
	r := read.Reader{}
	n := r.Scan(data)
	if n == nil {
		return Kit{}, r.Faults
	}
	k := ReadKitNode(&r, n, "")
	return k, r.Faults.Err()
}

const maxKitColors = 24

var (
	colorForm  = regexp.MustCompile(`^(#[0-9a-f]{6}|@[a-z][a-z0-9_]{0,19})$`)
	plainColor = regexp.MustCompile(`^#[0-9a-f]{6}$`)
	kitName    = regexp.MustCompile(`^[a-z][a-z0-9_]{0,19}$`)
	kitUse     = regexp.MustCompile(`"@([a-z][a-z0-9_]{0,19})"`)
)

// ReadColor checks a colour.
func ReadColor(r *read.Reader, at string, c Color, mayBeEmpty bool) {
	if !(c == "" && mayBeEmpty) && !colorForm.MatchString(string(c)) {
		r.Faults.Add(at, "should be a colour such as #6a2a5b")
	}
}

// ReadFont checks a font.
func ReadFont(r *read.Reader, at string, f Font) {
	read.OneOf(r, at, f, append([]Font{Sans, Serif, KitText, KitHeading, PageFont}, Shipped...)...)
}

// Uses lists the kit's colours that a JSON document names, by their ids.
func Uses(document []byte) (ids []string) {
	for _, m := range kitUse.FindAllSubmatch(document, -1) {
		if id := string(m[1]); !slices.Contains(notColors, id) && !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	return ids
}

// ReadKitNode reads a style kit that is a part of a document.
func ReadKitNode(r *read.Reader, n *fault.Node, at string) (k Kit) {
	if !r.Decode(n, at, &k) {
		return k
	}
	key := func(name string) string { return fault.Key(at, name) }
	if len(k.Colors) > maxKitColors {
		r.Faults.Add(key("colors"), "should be at most %d colours", maxKitColors)
	}
	seen := map[string]bool{}
	for i, c := range k.Colors {
		place := fault.Index(key("colors"), i)
		if !kitName.MatchString(c.ID) || slices.Contains(notColors, c.ID) {
			r.Faults.Add(fault.Key(place, "id"), "should be a short name of small letters, digits and _, starting with a letter")
		}
		r.Unique(seen, c.ID, fault.Key(place, "id"))
		k.Colors[i].Name = r.Line(fault.Key(place, "name"), c.Name, 60)
		if !plainColor.MatchString(string(c.Value)) {
			r.Faults.Add(fault.Key(place, "value"), "should be a colour such as #6a2a5b")
		}
	}
	for _, role := range Roles {
		if !seen[role] {
			r.Faults.Add(key("colors"), "lack %s", role)
		}
	}
	for i, font := range []Font{k.Text, k.Heading} {
		name := []string{"text", "heading"}[i]
		if font == KitText || font == KitHeading {
			r.Faults.Add(key(name), "should be a font itself")
		}
		ReadFont(r, key(name), font)
	}
	r.Between(key("corners"), k.Corners, 0, 64)
	r.Between(key("button.corners"), k.Button.Corners, 0, 40)
	r.Between(key("button.weight"), k.Button.Weight, 400, 800)
	r.Between(key("field.corners"), k.Field.Corners, 0, 40)
	return k
}

// Color gives what a colour is in this kit, as #rrggbb. The page's own colour,
// and one the kit does not have, are as otherwise says.
func (k *Kit) Color(c, otherwise Color) Color {
	name, of := strings.CutPrefix(string(c), "@")
	if !of && c != "" {
		return c
	}
	if of {
		for _, one := range k.Colors {
			if one.ID == name {
				return one.Value
			}
		}
	}
	if otherwise == "" || otherwise == c {
		return ""
	}
	return k.Color(otherwise, "")
}
