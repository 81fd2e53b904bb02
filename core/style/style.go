// Package style is a site's style kit: the colours, fonts and corners that its
// pieces are offered first, and follow when they change.
package style

// Color is #rrggbb; @NAME, a colour of the style kit; or @page, the page's own.
type Color string

// PageColor takes the page's own colour: nothing for a background, the colour
// of its words for ink, that of its links for an accent.
const PageColor = "@page"

// Font is a family of letters: two that every device has, those that ship, the
// two of the style kit, and the page's own.
type Font string

const (
	Sans        Font = "sans"
	Serif       Font = "serif"
	KitText     Font = "@text"
	KitHeading  Font = "@heading"
	PageFont    Font = "@page"
	Bricolage   Font = "bricolage"
	Instrument  Font = "instrument"
	Fraunces    Font = "fraunces"
	Lora        Font = "lora"
	Playfair    Font = "playfair"
	Work        Font = "work"
	Nunito      Font = "nunito"
	Karla       Font = "karla"
	Grotesk     Font = "grotesk"
	Caveat      Font = "caveat"
	Rubik       Font = "rubik"
	SourceSerif Font = "source_serif"
	Bitter      Font = "bitter"
	Outfit      Font = "outfit"
)

// Shipped are the fonts that Gobbet serves itself.
var Shipped = []Font{Bricolage, Instrument, Fraunces, Lora, Playfair, Work, Nunito, Karla, Grotesk, Caveat, Rubik, SourceSerif, Bitter, Outfit}

// Kit is a site's style: what designs are offered first, and follow when it changes.
type Kit struct {
	Colors  []KitColor `json:"colors"`
	Text    Font       `json:"text"`
	Heading Font       `json:"heading"`
	Corners int        `json:"corners"` // of frames, 0 to 64
	Button  KitButton  `json:"button"`
	Field   KitField   `json:"field"`
}

// KitColor is a colour with a name. Those called background, ink, accent,
// accent_ink and soft are always there.
type KitColor struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Value Color  `json:"value"` // #rrggbb
}

// KitButton is how buttons look unless they say otherwise.
type KitButton struct {
	Corners int  `json:"corners"` // 0 to 40
	Weight  int  `json:"weight"`  // 400 to 800
	Capital bool `json:"capital,omitempty"`
}

// KitField is how fields look.
type KitField struct {
	Corners int `json:"corners"` // 0 to 40
	// Line draws a line below instead of a box around.
	Line bool `json:"line,omitempty"`
}
