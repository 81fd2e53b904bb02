// Package settle looks a piece over before launch, and says what practice has
// taught as notes with a place and a mend.
package settle

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/core/style"
)

// Severity says whether a note forbids launch.
type Severity string

const (
	Stop Severity = "stop"
	Warn Severity = "warn"
)

// Note is one thing to settle.
type Note struct {
	Code     string   `json:"code"`
	Severity Severity `json:"severity"`
	At       string   `json:"at"`   // from the root of the document
	Say      string   `json:"say"`  // what is wrong
	Mend     string   `json:"mend"` // what to do about it
}

// Around is what there is to know of the site a piece is for. The zero Around
// knows nothing.
type Around struct {
	// Kit is the site's style kit; nil takes the document's own, or the usual one.
	Kit *style.Kit
	// Bytes gives how large a picture or file is, by its hash; nil does not know.
	Bytes func(hash string) (int, bool)
	// Now tells whether a timer has run out; the zero time does not.
	Now time.Time
	// Codes are how many are left in each pool of the site; nil does not know.
	Codes map[string]int
}

// Notes looks over a piece, in document order within each question.
func Notes(p *piece.Piece, around Around) []Note {
	kit := around.Kit
	if kit == nil {
		kit = p.Kit
	}
	if kit == nil {
		usual := style.UsualKit()
		kit = &usual
	}
	n := notes{list: []Note{}, around: around, kit: kit}
	n.reach(p)
	n.elements(p)
	for i, v := range p.Split.Variants {
		n.at = fault.Key(fault.Index("split.variants", i), "design")
		n.where = ""
		if len(p.Split.Variants) > 1 {
			n.where = " in " + v.Name
		}
		n.design(p, &v)
	}
	return n.list
}

type notes struct {
	list      []Note
	around    Around
	kit       *style.Kit
	at, where string // of the design looked over
}

func (n *notes) add(severity Severity, code, at, say, mend string) {
	n.list = append(n.list, Note{code, severity, at, say, mend})
}

func (n *notes) reach(p *piece.Piece) {
	if p.Format == piece.Chat {
		return // it waits behind its tab, on every page
	}
	if p.Program.AskedFor() {
		return // it shows to those who click for it, however often
	}
	if p.Caps.None() && p.Format != piece.Inline {
		n.add(Warn, "no_cap", "caps", "Nothing limits how often one visitor sees this.", "Show it once a visit, and wait a week after a close.")
	} else if p.Caps.AfterClose == "" && p.Format != piece.Inline {
		n.add(Warn, "no_rest_after_close", "caps.after_close", "It comes back right after someone closes it.", "Wait a week after a close.")
	}
}

// FewCodes is how many codes of a pool are few: up to there it matters how many are left.
const FewCodes = 20

const (
	manyFields = 3
	heavyOne   = 300 << 10 // bytes of one picture
	heavyAll   = 700 << 10 // bytes of a design's pictures
)

func (n *notes) design(p *piece.Piece, v *piece.Variant) {
	d := v.Design
	format, _ := p.Formats(v)
	var converts, asks bool
	reached := Reached(d)
	for i, s := range d.Scenes {
		scene := n.at + "." + fault.Index("scenes", i)
		switch {
		case len(s.Blocks) == 0:
			n.add(Stop, "empty_scene", scene, fmt.Sprintf("The scene “%s”%s is empty.", s.Name, n.where), "Add a block, or delete the scene.")
		case !reached[s.ID]:
			n.add(Warn, "unreached_scene", scene, fmt.Sprintf("Nobody reaches the scene “%s”%s.", s.Name, n.where), "Let a button lead there, or delete it.")
		}
		fields, sends, presses, phones, consents := 0, false, false, false, false
		for b := range s.All() {
			switch b := b.(type) {
			case piece.Field:
				if b.Ask != piece.AskHidden && b.Ask != piece.AskConsent {
					fields++
				}
				asks, phones, consents = true, phones || b.Ask == piece.AskPhone, consents || b.Ask == piece.AskConsent
				presses, sends = presses || b.Advances, sends || b.Advances
			case piece.Button:
				presses, sends = true, sends || b.Press.Do == piece.DoSend
				converts = converts || b.Counts && reached[s.ID]
			case piece.PrizeDraw:
				presses, sends = true, true
				converts = converts || b.Counts && reached[s.ID]
			case piece.Picture:
				presses = presses || b.Link != ""
			case piece.Links, piece.HTML, piece.Code:
				presses = true
			}
		}
		if fields > 0 && !sends && !computes(d, s) {
			n.add(Stop, "no_send", scene, fmt.Sprintf("The scene “%s”%s asks something, but nothing sends the answers.", s.Name, n.where), "Add a submit button.")
		}
		if fields > manyFields && i == 0 {
			n.add(Warn, "many_fields", scene, fmt.Sprintf("“%s”%s asks %d things at once; each one more turns people away.", s.Name, n.where, fields), "Ask for three at most, and for the rest on a later scene.")
		}
		if phones && !consents {
			n.add(Warn, "no_consent", scene, fmt.Sprintf("“%s”%s asks for a telephone number without asking whether you may call.", s.Name, n.where), "Add a consent field.")
		}
		if len(s.Blocks) > 0 && !presses && !(s.Passes && len(s.Edges) > 0) && len(d.Scenes) > 1 && s.Kind != piece.ThanksScene && s.Kind != piece.ResultScene {
			n.add(Warn, "dead_end", scene, fmt.Sprintf("From “%s”%s nothing leads on.", s.Name, n.where), "Add a button that goes on or closes.")
		}
		n.tabOrder(scene, s)
	}
	if format != piece.Inline && format != piece.Chat && !closable(format, d) {
		n.add(Stop, "no_close", n.at+".frame.close", "There is no way to close it"+n.where+".", "Show the close button.")
	}
	if !converts {
		n.add(Warn, "no_conversion", n.at+".scenes", "Nothing counts as a conversion"+n.where+", so it has no rate.", "Let a button count as conversion.")
	}
	var unwritten []begun
	d.EachBlock(func(place string, s piece.Scene, b piece.Block) {
		if place = n.at + "." + place; asks {
			n.thanks(place, s, b)
		}
		n.words(place, b)
		n.promise(place, s, b)
		n.weight(place, b)
		n.codes(place, b)
		if reached[s.ID] {
			unwritten = append(unwritten, began(place, b)...)
		}
	})
	n.stillBegun(unwritten)
	for i, s := range d.Scenes {
		behind := n.grounds(d.Frame)
		n.contrast(s.Blocks, n.at+"."+fault.Index("scenes", i), d.Frame, behind)
	}
	n.whole(d)
	n.prizes(d)
	n.talk(format, d)
	n.ways(d, len(p.Split.Variants))
}

// computes reports whether all that a scene asks is reckoned with as it is typed.
func computes(d piece.Design, s piece.Scene) bool {
	inputs := map[string]bool{}
	for _, f := range d.Formulas {
		for _, name := range f.Parsed.Names() {
			key, _, _ := strings.Cut(name, ".")
			inputs[key] = true
		}
	}
	for b := range s.All() {
		if f, ok := b.(piece.Field); ok && f.Ask != piece.AskHidden && !inputs[f.Key] {
			return false
		}
	}
	return true
}

// tabOrder wants the fields before the button that sends them: the Tab key and
// a screen reader go through a scene in the order it is read.
func (n *notes) tabOrder(at string, s piece.Scene) {
	var sender *piece.Button
	var place string
	for here, b := range s.Placed(at) {
		switch b := b.(type) {
		case piece.Button:
			if sender == nil && b.Press.Do == piece.DoSend {
				sender, place = &b, here
			}
		case piece.Field:
			if sender != nil && b.Ask != piece.AskHidden {
				n.add(Warn, "tab_order", place, fmt.Sprintf("From the keyboard “%s”%s comes before “%s”, which it sends.", short(sender.Words), n.where, short(b.Label)), "Move the button after the fields.")
				return
			}
		}
	}
}

// thanks wants every button that sends to lead to a scene.
func (n *notes) thanks(at string, s piece.Scene, b piece.Block) {
	button, ok := b.(piece.Button)
	if !ok || button.Press.Do != piece.DoSend {
		return
	}
	for _, e := range s.Edges {
		if e.To != "" && (e.Block == "" || e.Block == button.ID) {
			return
		}
	}
	n.add(Warn, "no_thanks", at+".press", fmt.Sprintf("“%s”%s just closes: people do not learn that it worked.", button.Words, n.where), "Add a thank-you scene after it.")
}

// words wants a label a person would press, and pictures that are chosen and described.
func (n *notes) words(at string, b piece.Block) {
	switch b := b.(type) {
	case piece.Button:
		if strings.EqualFold(strings.TrimSpace(b.Words), "submit") {
			n.add(Warn, "dull_button", at+".words", "The button “"+b.Words+"”"+n.where+" does not say what people get.", "Write what a click brings.")
		}
	case piece.Picture:
		if b.Picture == "" {
			n.add(Stop, "no_picture", at+".picture", "A picture"+n.where+" is not chosen yet.", "Choose a picture, or delete the block.")
		} else if b.Alt == "" {
			n.add(Warn, "no_alt", at+".alt", "A picture"+n.where+" has no alt text.", "Describe it in a few words.")
		}
	case piece.Video:
		if b.File == "" && b.Address == "" {
			n.add(Stop, "no_video", at+".file", "A video"+n.where+" is not chosen yet.", "Choose a video, or delete the block.")
		} else if b.Title == "" {
			n.add(Warn, "no_alt", at+".title", "A video"+n.where+" has no alt text.", "Say what it shows in a few words.")
		}
		if b.File != "" && !b.Plays && b.Captions == "" {
			n.add(Warn, "no_captions", at+".captions", "A video"+n.where+" has no captions: who does not hear it misses what is said.", "Paste its captions in its settings.")
		}
	case piece.Timer:
		if at0, err := time.Parse(time.RFC3339, b.To); err == nil && n.around.Now.After(at0) && !n.around.Now.IsZero() {
			n.add(Warn, "timer_over", at+".to", "The timer"+n.where+" has run out already.", "Set a later end.")
		}
	}
}

func (n *notes) weight(at string, b piece.Block) {
	p, ok := b.(piece.Picture)
	if !ok || n.around.Bytes == nil {
		return
	}
	if bytes, known := n.around.Bytes(p.Picture); known && bytes > heavyOne {
		n.add(Warn, "heavy_picture", at+".picture", fmt.Sprintf("A picture%s has %d KB: on a slow connection it appears well after the text.", n.where, bytes>>10), "Use a smaller picture.")
	}
}

// whole looks at the weight of all pictures together.
func (n *notes) whole(d piece.Design) {
	if n.around.Bytes == nil {
		return
	}
	all := 0
	for _, hash := range d.Pictures() {
		bytes, _ := n.around.Bytes(hash)
		all += bytes
	}
	if all > heavyAll {
		n.add(Warn, "heavy_design", n.at+".frame", fmt.Sprintf("Its pictures%s have %d KB together.", n.where, all>>10), "Use fewer or smaller pictures.")
	}
}

func (n *notes) codes(at string, b piece.Block) {
	if c, ok := b.(piece.Code); ok {
		n.pool(at, c.Pool)
	}
}

// closable: the mark, a button that closes on the first scene, or the backdrop.
// Escape closes any popup, but a phone has no such key.
func closable(format piece.Format, d piece.Design) bool {
	if d.Frame.Close.Shown || (format == piece.Popup || format == piece.Sheet) && d.Frame.Backdrop.Closes && d.Frame.Backdrop.Opacity > 0 {
		return true
	}
	for b := range d.Scenes[0].All() {
		if button, ok := b.(piece.Button); ok && (button.Press.Do == piece.DoClose || button.Press.Do == piece.DoNever) {
			return true
		}
	}
	return false
}

// Reached tells which scenes a visitor can come to.
func Reached(d piece.Design) map[string]bool {
	reached := map[string]bool{}
	var walk func(i int)
	walk = func(i int) {
		if reached[d.Scenes[i].ID] {
			return
		}
		reached[d.Scenes[i].ID] = true
		for _, e := range d.Scenes[i].Edges {
			for next, s := range d.Scenes {
				if s.ID == e.To {
					walk(next)
				}
			}
		}
	}
	walk(0)
	return reached
}

const (
	readable  = 4.5 // WCAG 2.2, 1.4.3
	readLarge = 3.0 // of letters from 24 px, or bold from 18.66 px
)

// grounds are the colours that may lie behind the blocks of a frame. What a
// picture brings is not known here; the studio looks at its pixels.
func (n *notes) grounds(f piece.Frame) []style.Color {
	if len(f.Behind.Gradient) > 0 && f.Behind.Side == "" {
		colors := []style.Color{}
		for _, c := range f.Behind.Gradient {
			colors = append(colors, n.kit.Color(c, f.Background))
		}
		return colors
	}
	return []style.Color{n.kit.Color(f.Background, "@background")}
}

func (n *notes) contrast(blocks []piece.Block, at string, f piece.Frame, behind []style.Color) {
	color := func(c style.Color, otherwise style.Color) style.Color {
		if c == "" {
			c = otherwise
		}
		return n.kit.Color(c, otherwise)
	}
	check := func(place, what string, ink style.Color, behind []style.Color, least float64) {
		ratio := 21.0
		for _, b := range behind {
			ratio = min(ratio, Contrast(ink, b))
		}
		if ratio < least {
			n.add(Warn, "low_contrast", place, fmt.Sprintf("%s%s is hard to read: contrast %.1f : 1, at least %.1f is needed.", what, n.where, math.Floor(ratio*10)/10, least), "Use a darker or lighter colour.")
		}
	}
	// Words that take the page's own colours are judged by the page.
	if f.Ink == style.PageColor {
		return
	}
	ink := color(f.Ink, "@ink")
	for i, b := range blocks {
		place := at + "." + fault.Index("blocks", i)
		switch b := b.(type) {
		case piece.Heading:
			least := readable
			if b.Size >= 19 {
				least = readLarge
			}
			check(place+".color", "“"+short(b.Text.String())+"”", color(b.Color, f.Ink), behind, least)
		case piece.Text:
			check(place+".color", "“"+short(b.Text.String())+"”", color(b.Color, f.Ink), behind, readable)
		case piece.List:
			check(place+".color", "The list", color(b.Color, f.Ink), behind, readable)
		case piece.Field:
			if b.Ask != piece.AskHidden {
				check(place+".label", "The label “"+short(b.Label)+"”", ink, behind, readable)
			}
		case piece.Timer:
			check(place+".color", "The timer", color(b.Color, f.Ink), behind, readable)
		case piece.Button:
			ink, fill := color(b.Ink, f.AccentInk), []style.Color{color(b.Fill, f.Accent)}
			if b.Quiet {
				ink, fill = color(b.Ink, f.Ink), behind
			} else if b.Line {
				ink, fill = color(b.Ink, f.Accent), behind
			}
			check(place+".ink", "“"+short(b.Words)+"”", ink, fill, readable)
		case piece.Box:
			inside := behind
			if b.Background != "" {
				inside = []style.Color{color(b.Background, f.Background)}
			}
			n.contrast(b.Blocks, place, f, inside)
		case piece.Columns:
			n.contrast(b.Blocks, place, f, behind)
		}
	}
}

func short(s string) string {
	if r := []rune(s); len(r) > 28 {
		return string(r[:27]) + "…"
	}
	return s
}

// Contrast is the contrast ratio of two colours, 1 to 21 (WCAG 2.2, contrast ratio).
func Contrast(a, b style.Color) float64 {
	la, lb := luminance(a), luminance(b)
	return (max(la, lb) + 0.05) / (min(la, lb) + 0.05)
}

// luminance is relative luminance, 0 to 1 (WCAG 2.2).
func luminance(c style.Color) float64 {
	n, err := strconv.ParseUint(strings.TrimPrefix(string(c), "#"), 16, 24)
	if err != nil {
		return 0
	}
	linear := func(byte uint64) float64 {
		s := float64(byte&0xff) / 255
		if s <= 0.04045 {
			return s / 12.92
		}
		return math.Pow((s+0.055)/1.055, 2.4)
	}
	return 0.2126*linear(n>>16) + 0.7152*linear(n>>8) + 0.0722*linear(n)
}
