package piece

import (
	"gobbet/core/captions"
	"gobbet/core/markup"
	"gobbet/core/style"
)

// Span is a run of letters that look alike. What is left out is as the block says.
type Span struct {
	Text      string      `json:"text"`
	Bold      bool        `json:"bold,omitempty"`
	Italic    bool        `json:"italic,omitempty"`
	Underline bool        `json:"underline,omitempty"`
	Link      string      `json:"link,omitempty"`
	Color     style.Color `json:"color,omitempty"`
	Size      int         `json:"size,omitempty"` // px, 8 to 120
}

// Lay is what every block has besides what it is.
type Lay struct {
	// Hide leaves the block out on phones, or everywhere else.
	Hide string `json:"hide,omitempty" tstype:"'phone' | 'desktop'"`
	// Locked keeps the studio from moving or changing it by accident.
	Locked bool `json:"locked,omitempty"`
	// Above is space over it beside the usual gap, -48 to 160 px.
	Above int `json:"above,omitempty"`
	// Phone holds what differs on phones.
	Phone Patch `json:"phone,omitempty" tstype:"{ [key: string]: unknown }"`
}

// Align is where words or a picture sit in their line.
type Align string

// Heading is the line that says what this is about.
type Heading struct {
	Kind  string      `json:"kind" tstype:"'heading'"`
	ID    string      `json:"id"`
	Text  Words       `json:"text"`
	Size  int         `json:"size"` // px, 12 to 120
	Align Align       `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color style.Color `json:"color,omitempty"` // empty: the frame's ink
	Lay   `tstype:",extends"`
}

// Text is a paragraph.
type Text struct {
	Kind  string      `json:"kind" tstype:"'text'"`
	ID    string      `json:"id"`
	Text  Words       `json:"text"`
	Size  int         `json:"size"` // px, 10 to 40
	Align Align       `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color style.Color `json:"color,omitempty"` // empty: the frame's ink
	Lay   `tstype:",extends"`
}

// List is lines, each with a mark before it.
type List struct {
	Kind   string      `json:"kind" tstype:"'list'"`
	ID     string      `json:"id"`
	Items  []Words     `json:"items"`
	Marker string      `json:"marker" tstype:"'dot' | 'tick' | 'dash' | 'number'"`
	Size   int         `json:"size"` // px, 10 to 40
	Color  style.Color `json:"color,omitempty"`
	Mark   style.Color `json:"mark,omitempty"` // of the marks; empty: the accent
	Lay    `tstype:",extends"`
}

// Picture is an uploaded picture.
type Picture struct {
	Kind    string `json:"kind" tstype:"'picture'"`
	ID      string `json:"id"`
	Picture string `json:"picture"` // its hash; empty: none chosen yet
	Ratio   int    `json:"ratio"`   // height as a percentage of width, 10 to 400, to hold its place while loading
	Alt     string `json:"alt"`     // empty: mere decoration
	Width   int    `json:"width"`   // percent of the frame's inside, 10 to 100
	Corners int    `json:"corners"`
	Align   Align  `json:"align" tstype:"'start' | 'center' | 'end'"`
	Fit     Fit    `json:"fit,omitempty"` // empty: cover
	Focus   Focus  `json:"focus,omitzero" tstype:"Focus,omitempty"`
	// Link is an address to open; empty: none.
	Link string `json:"link,omitempty"`
	Lay  `tstype:",extends"`
}

// Video is an uploaded video, or a page that plays one.
type Video struct {
	Kind    string `json:"kind" tstype:"'video'"`
	ID      string `json:"id"`
	File    string `json:"file,omitempty"`    // hash of an uploaded file
	Address string `json:"address,omitempty"` // https address of a player to embed
	Title   string `json:"title"`             // what it shows, for those who cannot see it
	Ratio   int    `json:"ratio"`             // height as a percentage of width, 10 to 400
	Corners int    `json:"corners"`
	// Plays begins it by itself, over and over, without sound.
	Plays bool `json:"plays,omitempty"`
	// Captions are what is said in an uploaded video, as WebVTT or SubRip, at most
	// captions.MaxLength characters.
	Captions string `json:"captions,omitempty"`
	// Cues are the captions as visitors get them, in their stead.
	Cues []captions.Cue `json:"cues,omitempty" tstype:"{ from: number; to: number; text: string }[]" jsonschema:"-"`
	Lay  `tstype:",extends"`
}

// Icon is a small line drawing.
type Icon struct {
	Kind  string      `json:"kind" tstype:"'icon'"`
	ID    string      `json:"id"`
	Name  string      `json:"name"`
	Path  string      `json:"path"` // SVG path data, in a box of 24 by 24
	Size  int         `json:"size"` // px, 12 to 200
	Color style.Color `json:"color,omitempty"`
	Align Align       `json:"align" tstype:"'start' | 'center' | 'end'"`
	Lay   `tstype:",extends"`
}

// Divider is a line across.
type Divider struct {
	Kind  string      `json:"kind" tstype:"'divider'"`
	ID    string      `json:"id"`
	Thick int         `json:"thick"` // px, 1 to 12
	Width int         `json:"width"` // percent, 5 to 100
	Color style.Color `json:"color,omitempty"`
	Lay   `tstype:",extends"`
}

// Space is room with nothing in it.
type Space struct {
	Kind   string `json:"kind" tstype:"'space'"`
	ID     string `json:"id"`
	Height int    `json:"height"` // px, 1 to 400
	Lay    `tstype:",extends"`
}

// Box holds blocks together, one below the other.
type Box struct {
	Kind       string      `json:"kind" tstype:"'box'"`
	ID         string      `json:"id"`
	Blocks     []Block     `json:"blocks"`
	Background style.Color `json:"background,omitempty"` // empty: nothing
	Padding    int         `json:"padding"`              // 0 to 64
	Corners    int         `json:"corners"`              // 0 to 64
	Gap        int         `json:"gap"`                  // 0 to 48
	Border     Border      `json:"border,omitzero" tstype:"Border,omitempty"`
	Lay        `tstype:",extends"`
}

// Columns stand blocks side by side; below each other on phones, unless kept.
type Columns struct {
	Kind   string  `json:"kind" tstype:"'columns'"`
	ID     string  `json:"id"`
	Blocks []Block `json:"blocks"`
	// Widths are the parts of the room each block gets, 1 to 100; a block
	// without one gets an equal part.
	Widths []int `json:"widths,omitempty"`
	Gap    int   `json:"gap"` // 0 to 64
	// Keep stands them side by side on phones too.
	Keep bool `json:"keep,omitempty"`
	// Lined is how they line up: by their tops, middles or ends; empty: tops.
	Lined string `json:"lined,omitempty" tstype:"'middle' | 'end'"`
	Lay   `tstype:",extends"`
}

// Field asks the visitor for one answer.
type Field struct {
	Kind     string `json:"kind" tstype:"'field'"`
	ID       string `json:"id"`
	Ask      Ask    `json:"ask"`
	Key      string `json:"key"` // what the answer is called, unique in the piece
	Label    string `json:"label"`
	Hint     string `json:"hint,omitempty"` // inside, until something is typed
	Help     string `json:"help,omitempty"` // a line below
	Required bool   `json:"required"`
	// Width is 20 to 100 percent of the room; 0: all of it.
	Width int `json:"width,omitempty"`
	// Bare says that the label is read aloud but not drawn.
	Bare bool `json:"bare,omitempty"`
	// Choices are what there is to choose from, or to put in order: this order
	// is the right one.
	Choices []Choice `json:"choices,omitempty"`
	// Look is how choices are drawn: in a row, below each other, or as pictures;
	// empty: in a row.
	Look string `json:"look,omitempty" tstype:"'list' | 'pictures'"`
	// Shuffle shows each visitor the choices in an order of their own.
	Shuffle bool `json:"shuffle,omitempty"`
	// Advances goes on as soon as one choice is made, without a button.
	Advances bool `json:"advances,omitempty"`
	// Unit stands behind a number, and Step is the distance between those a
	// slider may take; empty: 1. Start is where a slider begins; empty: Least.
	Unit  string `json:"unit,omitempty"`
	Step  string `json:"step,omitempty"`
	Start string `json:"start,omitempty"`
	// Right lists the right answers to a text or a number, in any case of
	// letters; each gives Points.
	Right  []string `json:"right,omitempty"`
	Points float64  `json:"points,omitempty"`
	// Reveal says after the answer whether it was right, with Explanation.
	Reveal      bool   `json:"reveal,omitempty"`
	Explanation string `json:"explanation,omitempty"`
	// Least and Most bound a number, the length of a text, how many choices are
	// taken; for a date they are YYYY-MM-DD.
	Least string `json:"least,omitempty"`
	Most  string `json:"most,omitempty"`
	// Pattern is a regular expression (RE2) that the whole text must match.
	Pattern string `json:"pattern,omitempty"`
	// Message is said when an answer does not fit; empty: Gobbet's own.
	Message string `json:"message,omitempty"`
	// From is where a hidden field takes its answer: query.NAME, data.NAME or path.
	From string `json:"from,omitempty"`
	Lay  `tstype:",extends"`
}

// Ask is the kind of answer a field takes.
type Ask string

const (
	AskName     Ask = "name"
	AskEmail    Ask = "email"
	AskText     Ask = "text"
	AskPhone    Ask = "phone"
	AskNumber   Ask = "number"
	AskDate     Ask = "date"
	AskLong     Ask = "long"
	AskChoice   Ask = "choice"
	AskChoices  Ask = "choices"
	AskDropdown Ask = "dropdown"
	AskConsent  Ask = "consent"
	AskStars    Ask = "stars" // 1 to 5
	AskScale    Ask = "scale" // 0 to 10
	AskHidden   Ask = "hidden"
	AskSlider   Ask = "slider" // a number between Least and Most
	AskOrder    Ask = "order"  // the choices, put in order
	// AskDrawn is answered by a prize draw, and asked of nobody.
	AskDrawn Ask = "drawn"
)

// Choice is one of a field's choices.
type Choice struct {
	ID    string `json:"id"` // what is kept: short, of small letters, digits and _
	Label string `json:"label"`
	// Picture is its hash; empty: none.
	Picture string `json:"picture,omitempty"`
	// Score counts towards the visitor's score, and is the choice's number in formulas.
	Score float64 `json:"score,omitempty"`
	// Weights say how much the choice speaks for each result, by its scene's id.
	Weights map[string]float64 `json:"weights,omitempty"`
	// Right marks a right answer.
	Right bool `json:"right,omitempty"`
}

// Button does something when pressed.
type Button struct {
	Kind  string `json:"kind" tstype:"'button'"`
	ID    string `json:"id"`
	Words string `json:"words"`
	Press Press  `json:"press"`
	// Counts makes pressing it the conversion.
	Counts bool        `json:"counts"`
	Quiet  bool        `json:"quiet"` // drawn as a plain line of words
	Fill   style.Color `json:"fill,omitempty"`
	Ink    style.Color `json:"ink,omitempty"`
	// Line draws it as an outline.
	Line bool `json:"line,omitempty"`
	// Narrow makes it as wide as its words, standing as Align says.
	Narrow bool  `json:"narrow,omitempty"`
	Align  Align `json:"align,omitempty" tstype:"'start' | 'center' | 'end'"`
	// Hover is its colour under the pointer; empty: a little lighter.
	Hover style.Color `json:"hover,omitempty"`
	Size  int         `json:"size,omitempty"` // of its words, px, 12 to 32; 0: 16.5
	// Corners is 0 to 64; nil: the kit's.
	Corners *int `json:"corners,omitempty"`
	// Stir moves it now and then, to draw the eye.
	Stir string `json:"stir,omitempty" tstype:"'pulse' | 'nudge' | 'shine'"`
	Lay  `tstype:",extends"`
}

// Press is what a button does.
type Press struct {
	Do Deed `json:"do"`
	// Address is what to open (http, https, or a path of the site), write to or call.
	Address string `json:"address,omitempty"`
	NewTab  bool   `json:"new_tab,omitempty"`
	// Carry adds the answers so far to the address, as its parameters.
	Carry bool `json:"carry,omitempty"`
	// Text is what to copy.
	Text string `json:"text,omitempty"`
	// Target is the element to scroll to, as a CSS selector.
	Target string `json:"target,omitempty"`
	// Piece is the id of another piece to open.
	Piece string `json:"piece,omitempty"`
	// File is the hash of a file to hand out, and FileName what it is called.
	File     string `json:"file,omitempty"`
	FileName string `json:"file_name,omitempty"`
}

// Deed is what a button may do.
type Deed string

const (
	DoSend   Deed = "send" // go on with the answers, along the scene's edges
	DoNext   Deed = "next" // go on without them
	DoBack   Deed = "back" // return to the scene before
	DoOpen   Deed = "open"
	DoMail   Deed = "mail"
	DoCall   Deed = "call"
	DoCopy   Deed = "copy"
	DoClose  Deed = "close"
	DoNever  Deed = "never" // close, and not again
	DoScroll Deed = "scroll"
	DoPiece  Deed = "piece"
	DoFile   Deed = "file"
)

// Timer counts down.
type Timer struct {
	Kind string `json:"kind" tstype:"'timer'"`
	ID   string `json:"id"`
	// To is the moment it counts to, as RFC 3339. Without it each visitor has
	// Minutes from when they first saw it.
	To      string `json:"to,omitempty"`
	Minutes int    `json:"minutes,omitempty"` // 1 to 525600
	// AtZero is what happens then: it stays at zero, is hidden, turns into
	// Words, closes the piece, or goes on along the scene's edges.
	AtZero string      `json:"at_zero" tstype:"'stay' | 'hide' | 'words' | 'close' | 'next'"`
	Words  string      `json:"words,omitempty"`
	Boxed  bool        `json:"boxed,omitempty"` // each number in a box
	Size   int         `json:"size"`            // px, 12 to 72
	Align  Align       `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color  style.Color `json:"color,omitempty"`
	Lay    `tstype:",extends"`
}

// Code shows a code to copy.
type Code struct {
	Kind string `json:"kind" tstype:"'code'"`
	ID   string `json:"id"`
	Code string `json:"code,omitempty"` // the same for everyone
	Pool string `json:"pool,omitempty"` // or each visitor their own, of this pool
	// Draw is the key of a prize draw whose prize's code it shows; where the
	// prize has none, it is left out.
	Draw string `json:"draw,omitempty"`
	// Words are on its button, and Copied once it was pressed.
	Words  string `json:"words"`
	Copied string `json:"copied"`
	// Apply is an address that applies the code, with {code} in it; empty: none.
	Apply      string      `json:"apply,omitempty"`
	ApplyWords string      `json:"apply_words,omitempty"`
	Size       int         `json:"size"` // px, 12 to 48
	Background style.Color `json:"background,omitempty"`
	Color      style.Color `json:"color,omitempty"`
	Lay        `tstype:",extends"`
}

// PrizeDraw is drawn from once by each visitor, when they leave its scene with
// its answers: what it comes to is an answer like others, by its key.
type PrizeDraw struct {
	Kind  string `json:"kind" tstype:"'draw'"`
	ID    string `json:"id"`
	Key   string `json:"key"`   // what the answer is called, unique in the piece
	Label string `json:"label"` // what it is called in reports, and read aloud as
	Look  string `json:"look" tstype:"'wheel' | 'card' | 'boxes'"`
	// Parts are what may be drawn, 2 to 24.
	Parts []DrawPart `json:"parts"`
	// Words are on what takes the go: the wheel's hub, the card, a box.
	Words string `json:"words"`
	// Counts makes taking a go the conversion.
	Counts bool `json:"counts,omitempty"`
	// Even makes a wheel's parts equally wide; otherwise each is as wide as its odds.
	Even bool `json:"even,omitempty"`
	// Odds writes the odds below, from the weights.
	Odds bool `json:"odds,omitempty"`
	// Boxes is how many boxes there are to pick from, 2 to 9; 0: 3.
	Boxes int         `json:"boxes,omitempty"`
	Size  int         `json:"size"`            // px across, 160 to 480; never wider than the frame
	Color style.Color `json:"color,omitempty"` // of rim, card and boxes; empty: the accent
	// Statement is the odds in words, in what visitors get.
	Statement string `json:"statement,omitempty" jsonschema:"-"`
	Lay       `tstype:",extends"`
}

// DrawPart is one of the things that may be drawn.
type DrawPart struct {
	ID    string `json:"id"` // what is kept: short, of small letters, digits and _
	Label string `json:"label"`
	// Weight is how likely it is, in proportion to the sum of weights: 0 to
	// 1000000. Visitors do not get it.
	Weight float64 `json:"weight"`
	// Stock is how often it may be drawn in all, 0 to 10000000; nil: any number
	// of times, or as long as its pool has codes.
	Stock *int `json:"stock,omitempty"`
	// Nothing says that nothing is won with it.
	Nothing bool `json:"nothing,omitempty"`
	// Code is the prize's, the same for everyone; or each winner's own, of Pool.
	Code string      `json:"code,omitempty"`
	Pool string      `json:"pool,omitempty"`
	Fill style.Color `json:"fill,omitempty"`
	// Share is how much of a wheel it takes, 0 to 1, in what visitors get.
	Share float64 `json:"share,omitempty" jsonschema:"-"`
}

// Progress shows how far through the scenes a visitor is.
type Progress struct {
	Kind  string      `json:"kind" tstype:"'progress'"`
	ID    string      `json:"id"`
	Look  string      `json:"look" tstype:"'bar' | 'dots' | 'bites' | 'words'"`
	Value int         `json:"value,omitempty"` // percent, 1 to 100; 0: by the scene
	Color style.Color `json:"color,omitempty"`
	Lay   `tstype:",extends"`
}

// Value shows what a formula comes to for the visitor.
type Value struct {
	Kind    string      `json:"kind" tstype:"'value'"`
	ID      string      `json:"id"`
	Formula string      `json:"formula"`         // its name
	Label   string      `json:"label,omitempty"` // what it is; empty: nothing is said
	Size    int         `json:"size"`            // px, 12 to 120
	Align   Align       `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color   style.Color `json:"color,omitempty"`
	Lay     `tstype:",extends"`
}

// Tally shows how everyone has answered a field so far.
type Tally struct {
	Kind string `json:"kind" tstype:"'tally'"`
	ID   string `json:"id"`
	Key  string `json:"key"` // of a field with choices
	// Counts shows how many chose each; otherwise it is their share in percent.
	Counts bool `json:"counts,omitempty"`
	// Least is how many have to have answered before it is shown, 0 to 100000.
	Least int         `json:"least,omitempty"`
	Color style.Color `json:"color,omitempty"` // of the bars; empty: the accent
	Lay   `tstype:",extends"`
}

// Links is a row of small marks, each leading to an address such as a messenger's.
type Links struct {
	Kind  string      `json:"kind" tstype:"'links'"`
	ID    string      `json:"id"`
	Items []LinkItem  `json:"items"`
	Named bool        `json:"named,omitempty"` // their labels are drawn too
	Size  int         `json:"size"`            // px, 16 to 64
	Align Align       `json:"align" tstype:"'start' | 'center' | 'end'"`
	Color style.Color `json:"color,omitempty"`
	Lay   `tstype:",extends"`
}

// LinkItem is one of Links.
type LinkItem struct {
	Name    string `json:"name"` // of its icon
	Path    string `json:"path"` // SVG path data, in a box of 24 by 24
	Label   string `json:"label"`
	Address string `json:"address"`
}

// HTML is markup, cleaned of all that could run.
type HTML struct {
	Kind string `json:"kind" tstype:"'html'"`
	ID   string `json:"id"`
	HTML string `json:"html"`
	// Tree is the markup as visitors get it, in its stead.
	Tree []markup.Node `json:"tree,omitempty" tstype:"unknown[]" jsonschema:"-"`
	Lay  `tstype:",extends"`
}
