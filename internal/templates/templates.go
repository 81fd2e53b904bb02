// Package templates is the templates: designed pieces to begin from, in the
// site's own style, each for a goal. Their words are for any shop and meant to
// be changed; everything else may stay as it is.
package templates

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/refit"
	"gobbet/core/settle"
	"gobbet/core/style"
)

// Goal is what a piece is to do.
type Goal string

const (
	Grow     Goal = "grow"     // a list
	Offer    Goal = "offer"    // something off
	Give     Goal = "give"     // something for nothing
	Announce Goal = "announce" // news
	Ask      Goal = "ask"      // what people think
	Guide    Goal = "guide"    // to what suits them
	Keep     Goal = "keep"     // those who leave
	Quiz     Goal = "quiz"     // to a result
	Poll     Goal = "poll"     // everyone, and show how all answered
	Reckon   Goal = "reckon"   // a cost or an amount
	Draw     Goal = "draw"     // a prize
	Talk     Goal = "talk"     // a conversation
)

// Template is one template.
type Template struct {
	ID     string
	Name   string
	Goal   Goal
	Season string // empty: for all year
	Tags   string // words to be found by
	Format piece.Format
	design piece.Design
}

// All lists the templates, by goal, those for all year first.
func All() []Template { return all }

// Of gives a template by its id, of those that are listed or are blank.
func Of(id string) (Template, bool) {
	for _, list := range [][]Template{all, blanks} {
		if i := slices.IndexFunc(list, func(s Template) bool { return s.ID == id }); i >= 0 {
			return list[i], true
		}
	}
	return Template{}, false
}

// Design gives the design in a format.
func (s Template) Design(format piece.Format) piece.Design {
	return refit.Design(s.design, s.Format, format)
}

// Fits reports whether it is ready to use in a format: conversations stand in a
// corner or in the page, and nothing else is one.
func (s Template) Fits(format piece.Format) bool {
	if s.Goal == Talk {
		return format == piece.Chat || format == piece.Inline
	}
	return format != piece.Chat
}

// Drawing gives it as the renderer takes it.
func (s Template) Drawing(format piece.Format, kit *style.Kit) piece.Drawing {
	d := s.Design(format)
	return piece.Drawing{Version: piece.Version, Format: format, Design: d, Kit: kit}
}

// Promises reports whether its thank-you speaks of a message, which Gobbet does
// not send: the studio says so before it is chosen.
func (s Template) Promises() bool {
	return slices.ContainsFunc(settle.Notes(s.Piece(s.Name, s.Format, "salt"), settle.Around{}), func(n settle.Note) bool { return n.Code == "nothing_sends" })
}

// Piece makes a piece of it, with a reach that suits its goal.
func (s Template) Piece(name string, format piece.Format, salt string) *piece.Piece {
	p := piece.New(name, format, salt)
	p.Split.Variants[0].Design = s.Design(format)
	switch {
	case format == piece.Inline || format == piece.Bar || format == piece.Chat:
		p.Rule = reach.All{}
	case s.Goal == Keep:
		p.Rule = reach.Any{
			reach.All{reach.Clause{Fact: "device.kind", Op: reach.Is, Value: "desktop"}, reach.Clause{Fact: "moment.exit_intent", Op: reach.Happened}},
			reach.All{reach.Clause{Fact: "device.kind", Op: reach.IsNot, Value: "desktop"}, reach.Clause{Fact: "moment.scroll_percent", Op: reach.Gte, Value: 60.0}},
		}
	}
	if format == piece.Inline || format == piece.Chat {
		p.Caps = caps.Caps{} // neither interrupts
	}
	program, err := reach.Compile(p.Rule)
	if err != nil {
		panic(err)
	}
	p.Program, p.Limits = program, p.Caps.Ready()
	return p
}

var all = func() []Template {
	list := slices.Concat(grow(), offer(), give(), announce(), ask(), guide(), keep(), quizzes(), polls(), calculators(), draws(), talks())
	order := []Goal{Grow, Offer, Give, Announce, Ask, Guide, Keep, Quiz, Poll, Reckon, Draw, Talk}
	slices.SortStableFunc(list, func(a, b Template) int {
		return cmp.Or(cmp.Compare(slices.Index(order, a.Goal), slices.Index(order, b.Goal)), cmp.Compare(min(1, len(a.Season)), min(1, len(b.Season))))
	})
	return list
}()

// start puts one together. Scenes are named for what they are.
func start(goal Goal, format piece.Format, name, tags string, look func(f *piece.Frame), scenes ...piece.Scene) Template {
	f := piece.UsualFrame(format)
	if look != nil {
		look(&f)
	}
	id := strings.ToLower(strings.Join(strings.FieldsFunc(name, func(r rune) bool { return !(r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9') }), "-"))
	return Template{ID: id, Name: name, Goal: goal, Tags: tags, Format: format, design: piece.Design{Frame: f, Scenes: scenes}}
}

func (s Template) in(season string) Template {
	s.Season = season
	return s
}

// looks puts several changes of a frame into one.
func looks(all ...func(f *piece.Frame)) func(f *piece.Frame) {
	return func(f *piece.Frame) {
		for _, one := range all {
			one(f)
		}
	}
}

func wide(px int) func(f *piece.Frame) { return func(f *piece.Frame) { f.Width = px } }

// beside stands a picture beside the blocks.
func beside(art, side string, share int) func(f *piece.Frame) {
	return func(f *piece.Frame) { f.Behind = piece.Behind{Picture: Hash(art), Side: side, Share: share} }
}

// filled puts the accent behind everything.
func filled(f *piece.Frame) {
	f.Background, f.Ink, f.Accent, f.AccentInk = "@accent", "@accent_ink", "@accent_ink", "@accent"
}

// washed puts the wash behind everything.
func washed(f *piece.Frame) { f.Background = "@soft" }

// inked turns paper and ink around.
func inked(f *piece.Frame) {
	f.Background, f.Ink, f.Accent, f.AccentInk = "@ink", "@background", "@background", "@ink"
}

func outlined(f *piece.Frame) {
	f.Border, f.Shadow = piece.Border{Width: 2, Color: "@ink"}, piece.SoftShadow
}

func at(p piece.Place) func(f *piece.Frame) { return func(f *piece.Frame) { f.Place = p } }

func scene(id, name string, kind piece.SceneKind, blocks ...piece.Block) piece.Scene {
	s := piece.Scene{ID: id, Name: name, Kind: kind}
	s.Blocks = named(blocks, map[string]int{}, &s.Edges)
	return s
}

// leading is a block with the scene it leads to.
type leading struct {
	piece.Block
	to string
}

func form(name string, blocks ...piece.Block) piece.Scene {
	return scene("ask", name, piece.FormScene, blocks...)
}

func plain(id, name string, blocks ...piece.Block) piece.Scene {
	return scene(id, name, piece.PlainScene, blocks...)
}

func thanks(blocks ...piece.Block) piece.Scene {
	return scene("thanks", "Thank-you", piece.ThanksScene, blocks...)
}

// named gives every block its kind and an id of its own in the scene, and
// gathers the edges from those that lead somewhere.
func named(blocks []piece.Block, count map[string]int, edges *[]piece.Edge) []piece.Block {
	out := make([]piece.Block, len(blocks))
	for i, b := range blocks {
		to, leads := b.(leading)
		if leads {
			b = to.Block
		}
		kind := piece.KindOf(b)
		count[kind.Name]++
		out[i] = piece.Named(b, fmt.Sprint(kind.Name, count[kind.Name]))
		if kind.Holds {
			out[i] = piece.Holding(out[i], named(piece.Within(b), count, edges))
		}
		if leads {
			*edges = append(*edges, piece.Edge{Block: piece.BlockID(out[i]), To: to.to})
		}
	}
	return out
}

func h(text string, size int) piece.Heading {
	return piece.Heading{Text: piece.Plain(text), Size: size, Align: "start"}
}

func t(text string, size int) piece.Text {
	return piece.Text{Text: piece.Plain(text), Size: size, Align: "start"}
}

// over is a small line above a heading.
func over(text string) piece.Text {
	return piece.Text{Text: piece.Words{{Text: text, Bold: true}}, Size: 14, Align: "start"}
}

// mid centres blocks of words.
func mid(blocks ...piece.Block) []piece.Block {
	for i, b := range blocks {
		switch b := b.(type) {
		case piece.Heading:
			b.Align = "center"
			blocks[i] = b
		case piece.Text:
			b.Align = "center"
			blocks[i] = b
		case piece.Icon:
			b.Align = "center"
			blocks[i] = b
		case piece.Button, leading:
			blocks[i] = changed(b, func(b *piece.Button) { b.Align = "center" })
		case piece.Timer:
			b.Align = "center"
			blocks[i] = b
		}
	}
	return blocks
}

func list(marker string, items ...string) piece.List {
	l := piece.List{Marker: marker, Size: 16}
	for _, item := range items {
		l.Items = append(l.Items, piece.Plain(item))
	}
	return l
}

func art(name, alt string, ratio int) piece.Picture {
	return piece.Picture{Picture: Hash(name), Ratio: ratio, Alt: alt, Width: 100, Corners: 8, Align: "center"}
}

func field(ask piece.Ask, key, label string, required bool) piece.Field {
	return piece.Field{Ask: ask, Key: key, Label: label, Required: required}
}

func email() piece.Field { return field(piece.AskEmail, "email", "Email", true) }
func first() piece.Field { return field(piece.AskName, "name", "First name", false) }

func choice(ask piece.Ask, key, label string, options ...string) piece.Field {
	f := field(ask, key, label, true)
	ids := map[string]bool{}
	for _, o := range options {
		id := piece.ChoiceID(o, ids)
		ids[id] = true
		f.Choices = append(f.Choices, piece.Choice{ID: id, Label: o})
	}
	return f
}

func send(words string) piece.Block {
	return leading{piece.Button{Words: words, Press: piece.Press{Do: piece.DoSend}, Counts: true}, "thanks"}
}

func open(words, address string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoOpen, Address: address}, Counts: true}
}

func to(words, scene string) piece.Block {
	return leading{piece.Button{Words: words, Press: piece.Press{Do: piece.DoNext}}, scene}
}

func done(words string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoClose}}
}

func no(words string) piece.Button {
	return piece.Button{Words: words, Press: piece.Press{Do: piece.DoClose}, Quiet: true}
}

func narrow(b piece.Block) piece.Block {
	return changed(b, func(b *piece.Button) { b.Narrow = true })
}

// changed is a button, or one that leads somewhere, with something changed.
func changed(b piece.Block, how func(b *piece.Button)) piece.Block {
	switch b := b.(type) {
	case piece.Button:
		how(&b)
		return b
	case leading:
		return leading{changed(b.Block, how), b.to}
	}
	return b
}

func lined(b piece.Button) piece.Button {
	b.Line = true
	return b
}

func cols(gap int, widths []int, blocks ...piece.Block) piece.Columns {
	return piece.Columns{Blocks: blocks, Widths: widths, Gap: gap}
}

func box(background style.Color, blocks ...piece.Block) piece.Box {
	return piece.Box{Blocks: blocks, Background: background, Padding: 18, Corners: 10, Gap: 10}
}

func icon(name string, size int) piece.Icon {
	return piece.Icon{Name: name, Path: Icons[name], Size: size, Align: "start", Color: "@accent"}
}

func code(words string) piece.Code {
	return piece.Code{Code: words, Words: "Copy", Copied: "Copied", Size: 20}
}

func minutes(n int) piece.Timer {
	return piece.Timer{Minutes: n, AtZero: "stay", Size: 30, Align: "start", Boxed: true}
}
