package piece

import (
	"encoding/json"
	"slices"
	"strings"

	"gobbet/core/fault"
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
	r := reader{}
	n := r.scan(data)
	if n == nil {
		return Kit{}, r.faults
	}
	k := r.kit(n, "")
	return k, r.faults.Err()
}

const maxKitColors = 24

func (r *reader) kit(n *fault.Node, at string) (k Kit) {
	if !r.decode(n, at, &k) {
		return k
	}
	key := func(name string) string { return fault.Key(at, name) }
	if len(k.Colors) > maxKitColors {
		r.faults.Add(key("colors"), "should be at most %d colours", maxKitColors)
	}
	seen := map[string]bool{}
	for i, c := range k.Colors {
		place := fault.Index(key("colors"), i)
		if !kitName.MatchString(c.ID) || slices.Contains(notColors, c.ID) {
			r.faults.Add(fault.Key(place, "id"), "should be a short name of small letters, digits and _, starting with a letter")
		}
		r.unique(seen, c.ID, fault.Key(place, "id"))
		k.Colors[i].Name = r.line(fault.Key(place, "name"), c.Name, 60)
		if !plainColor.MatchString(string(c.Value)) {
			r.faults.Add(fault.Key(place, "value"), "should be a colour such as #6a2a5b")
		}
	}
	for _, role := range Roles {
		if !seen[role] {
			r.faults.Add(key("colors"), "lack %s", role)
		}
	}
	for name, font := range map[string]Font{"text": k.Text, "heading": k.Heading} {
		if font == KitText || font == KitHeading {
			r.faults.Add(key(name), "should be a font itself")
		}
		r.font(key(name), font)
	}
	r.between(key("corners"), k.Corners, 0, 64)
	r.between(key("button.corners"), k.Button.Corners, 0, 40)
	r.between(key("button.weight"), k.Button.Weight, 400, 800)
	r.between(key("field.corners"), k.Field.Corners, 0, 40)
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

// OfKit reports whether anything of a design follows the style kit, which is
// what changes with it.
func (d Design) OfKit() bool {
	raw, err := json.Marshal(d)
	if err != nil {
		return false
	}
	return strings.Contains(string(raw), `"@`) || d.Frame.Corners == ByKit
}

// KitColors lists the kit's colours that a design uses, by their ids.
func (d Design) KitColors() (ids []string) {
	raw, err := json.Marshal(d)
	if err != nil {
		return nil
	}
	for _, m := range kitUse.FindAllSubmatch(raw, -1) {
		if id := string(m[1]); !slices.Contains(notColors, id) && !slices.Contains(ids, id) {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	return ids
}
