// Package settle looks a piece over before launch, and says what practice has
// taught as notes with a place and a mend.
package settle

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"gobbet/core/fault"
	"gobbet/core/piece"
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

// Notes looks over a piece, in document order within each question.
func Notes(p *piece.Piece) []Note {
	n := notes{list: []Note{}}
	n.reach(p)
	for i, v := range p.Split.Variants {
		at := fault.Key(fault.Index("split.variants", i), "design")
		where := ""
		if len(p.Split.Variants) > 1 {
			where = " in " + v.Name
		}
		n.design(p.Format, v.Design, at, where)
	}
	return n.list
}

type notes struct{ list []Note }

func (n *notes) add(severity Severity, code, at, say, mend string) {
	n.list = append(n.list, Note{code, severity, at, say, mend})
}

func (n *notes) reach(p *piece.Piece) {
	if p.Caps.None() {
		n.add(Warn, "no_cap", "caps", "Nothing limits how often one visitor sees this.", "Show it once a visit and let it rest after a close.")
	} else if p.Caps.AfterClose == "" {
		n.add(Warn, "no_rest_after_close", "caps.after_close", "It comes back right after someone closes it.", "Let it rest for a week after a close.")
	}
}

func (n *notes) design(format piece.Format, d piece.Design, at, where string) {
	var converts, sends, fields bool
	reached := reachedScenes(d)
	for i, s := range d.Scenes {
		scene := at + "." + fault.Index("scenes", i)
		switch {
		case len(s.Blocks) == 0:
			n.add(Stop, "empty_scene", scene, fmt.Sprintf("The scene “%s”%s is empty.", s.Name, where), "Add a block, or take the scene out.")
		case !reached[s.ID]:
			n.add(Warn, "unreached_scene", scene, fmt.Sprintf("Nobody reaches the scene “%s”%s.", s.Name, where), "Let a button lead there, or take it out.")
		}
		sceneFields, sceneSends := false, false
		for _, b := range s.Blocks {
			switch b := b.(type) {
			case piece.Field:
				sceneFields, fields = true, true
			case piece.Button:
				sceneSends = sceneSends || b.Press.Do == piece.DoSend
				converts = converts || b.Counts && reached[s.ID]
			}
		}
		if sceneFields && !sceneSends {
			n.add(Stop, "no_send", scene, fmt.Sprintf("The scene “%s”%s asks, but nothing sends the answers.", s.Name, where), "Add a button that sends.")
		}
		sends = sends || sceneSends
	}
	if !closable(format, d) {
		n.add(Stop, "no_close", at+".frame.close", "There is no way to close it"+where+".", "Show the close mark.")
	}
	if !converts {
		n.add(Warn, "no_conversion", at+".scenes", "Nothing counts as a conversion"+where+", so it has no rate.", "Let a button count as the conversion.")
	}
	if sends || fields {
		n.thanks(d, at, where)
	}
	n.contrast(d, at, where)
	n.words(d, at, where)
}

// thanks wants every button that sends to lead to a scene.
func (n *notes) thanks(d piece.Design, at, where string) {
	d.EachBlock(func(place string, _ piece.Scene, b piece.Block) {
		if button, ok := b.(piece.Button); ok && button.Press.Do == piece.DoSend && button.Press.Scene == "" {
			n.add(Warn, "no_thanks", at+"."+place+".press.scene", fmt.Sprintf("“%s”%s just closes: people do not learn that it worked.", button.Words, where), "Add a thank-you and lead there once sent.")
		}
	})
}

// words wants a label a person would press, and pictures that are chosen and described.
func (n *notes) words(d piece.Design, at, where string) {
	d.EachBlock(func(place string, _ piece.Scene, b piece.Block) {
		switch b := b.(type) {
		case piece.Button:
			if strings.EqualFold(strings.TrimSpace(b.Words), "submit") {
				n.add(Warn, "dull_button", at+"."+place+".words", "A button that says “"+b.Words+"”"+where+" says nothing of what they get.", "Say what pressing it brings.")
			}
		case piece.Picture:
			if b.Picture == "" {
				n.add(Stop, "no_picture", at+"."+place+".picture", "A picture"+where+" is not chosen yet.", "Choose a picture, or take the block out.")
			} else if b.Alt == "" {
				n.add(Warn, "no_alt", at+"."+place+".alt", "A picture"+where+" has no words for those who cannot see it.", "Describe it in a few words.")
			}
		}
	})
}

// closable: the mark, a button that closes on the first scene, or the veil.
// Escape closes any popup, but a phone has no such key.
func closable(format piece.Format, d piece.Design) bool {
	if d.Frame.Close.Shown || format == piece.Popup && d.Frame.Veil.Closes && d.Frame.Veil.Opacity > 0 {
		return true
	}
	for _, b := range d.Scenes[0].Blocks {
		if button, ok := b.(piece.Button); ok && button.Press.Do == piece.DoClose {
			return true
		}
	}
	return false
}

func reachedScenes(d piece.Design) map[string]bool {
	reached := map[string]bool{}
	var walk func(s piece.Scene)
	walk = func(s piece.Scene) {
		if reached[s.ID] {
			return
		}
		reached[s.ID] = true
		for _, b := range s.Blocks {
			if button, ok := b.(piece.Button); ok {
				if next, ok := d.Scene(button.Press.Scene); ok {
					walk(next)
				}
			}
		}
	}
	walk(d.Scenes[0])
	return reached
}

const readable = 4.5 // WCAG 2.2, 1.4.3

func (n *notes) contrast(d piece.Design, at, where string) {
	f := d.Frame
	check := func(place, what string, ink, behind piece.Color) {
		if ratio := Contrast(ink, behind); ratio < readable {
			n.add(Warn, "low_contrast", place, fmt.Sprintf("%s%s is hard to read: %.1f : 1, and %.1f is the least.", what, where, math.Floor(ratio*10)/10, readable), "Take a darker or lighter colour.")
		}
	}
	or := func(c, otherwise piece.Color) piece.Color {
		if c == "" {
			return otherwise
		}
		return c
	}
	d.EachBlock(func(place string, _ piece.Scene, b piece.Block) {
		place = at + "." + place
		switch b := b.(type) {
		case piece.Heading:
			check(place+".color", "“"+short(b.Text)+"”", or(b.Color, f.Ink), f.Background)
		case piece.Text:
			check(place+".color", "“"+short(b.Text)+"”", or(b.Color, f.Ink), f.Background)
		case piece.Field:
			check(place+".label", "The label “"+short(b.Label)+"”", f.Ink, f.Background)
		case piece.Button:
			ink, behind := or(b.Ink, f.AccentInk), or(b.Fill, f.Accent)
			if b.Quiet {
				ink, behind = or(b.Ink, f.Ink), f.Background
			}
			check(place+".ink", "“"+short(b.Words)+"”", ink, behind)
		}
	})
}

func short(s string) string {
	if r := []rune(s); len(r) > 28 {
		return string(r[:27]) + "…"
	}
	return s
}

// Contrast is the contrast ratio of two colours, 1 to 21 (WCAG 2.2, contrast ratio).
func Contrast(a, b piece.Color) float64 {
	la, lb := luminance(a), luminance(b)
	return (max(la, lb) + 0.05) / (min(la, lb) + 0.05)
}

// luminance is relative luminance, 0 to 1 (WCAG 2.2).
func luminance(c piece.Color) float64 {
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
