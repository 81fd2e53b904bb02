package piece

import (
	"maps"
	"reflect"
	"strings"
	"time"

	"gobbet/core/captions"
	"gobbet/core/fault"
	"gobbet/core/markup"
	"gobbet/core/read"
	"gobbet/core/style"
)

// Kind is one kind of block. Its line in Kinds is all the declaration it has:
// the parser reads by it, and the schema, the types of the front end and the
// ids of blocks are drawn from it.
type Kind struct {
	Name string
	Type reflect.Type
	// Script is the part of the page script that draws it.
	Script Script
	// Holds says that it has blocks in it.
	Holds bool

	id, blocks int // which fields of the type hold them
	read       func(r *reader, n *fault.Node, at string, depth int) Block
}

var (
	kinds       []*Kind
	kindsByName = map[string]*Kind{}
	kindsByType = map[reflect.Type]*Kind{}
)

// Kinds are all kinds of blocks, in the order of the declarations.
func Kinds() []*Kind { return kinds }

func kindCalled(name string) *Kind { return kindsByName[name] }

// KindOf gives the kind of a block.
func KindOf(b Block) *Kind { return kindsByType[reflect.TypeOf(b)] }

// Named gives a block its kind and an id.
func Named(b Block, id string) Block {
	kind := KindOf(b)
	named := reflect.New(kind.Type).Elem()
	named.Set(reflect.ValueOf(b))
	named.FieldByName("Kind").SetString(kind.Name)
	named.Field(kind.id).SetString(id)
	return named.Interface().(Block)
}

// Holding gives a block with other blocks in it.
func Holding(b Block, blocks []Block) Block {
	kind := KindOf(b)
	holding := reflect.New(kind.Type).Elem()
	holding.Set(reflect.ValueOf(b))
	holding.Field(kind.blocks).Set(reflect.ValueOf(blocks))
	return holding.Interface().(Block)
}

func kindOf[B Block](name string, script Script) *Kind {
	k := &Kind{Name: name, Script: script, Type: reflect.TypeFor[B]()}
	id, _ := k.Type.FieldByName("ID")
	k.id = id.Index[0]
	if blocks, ok := k.Type.FieldByName("Blocks"); ok {
		k.blocks, k.Holds = blocks.Index[0], true
	}
	return k
}

// plain declares a kind of block with what has to be checked of one.
func plain[B Block](name string, script Script, check func(r *reader, at string, b *B)) *Kind {
	k := kindOf[B](name, script)
	k.read = func(r *reader, n *fault.Node, at string, _ int) Block { return readBlock(r, n, at, check) }
	return k
}

// holding declares one that holds others. They are read apart, since JSON alone
// does not say of which kind each is.
func holding[B Block](name string, script Script, check func(r *reader, at string, b *B)) *Kind {
	k := kindOf[B](name, script)
	k.read = func(r *reader, n *fault.Node, at string, depth int) Block {
		held := n.Get("blocks")
		raw, ok := held.Items()
		if !ok && !held.IsNull() {
			r.Faults.Add(fault.Key(at, "blocks"), "should be a list of blocks")
			return nil
		}
		blocks := r.blocks(raw, fault.Key(at, "blocks"), depth+1)
		return readBlock(r, n.Without("blocks"), at, func(r *reader, at string, b *B) {
			reflect.ValueOf(b).Elem().Field(k.blocks).Set(reflect.ValueOf(blocks))
			check(r, at, b)
		})
	}
	return k
}

func readBlock[B Block](r *reader, n *fault.Node, at string, check func(r *reader, at string, b *B)) Block {
	var b B
	if !r.Decode(n, at, &b) {
		return nil
	}
	lay := b.lay()
	read.Optional(&r.Reader, fault.Key(at, "hide"), lay.Hide, "phone", "desktop")
	r.Between(fault.Key(at, "above"), lay.Above, -48, 160)
	check(r, at, &b)
	return b
}

const maxColumns = 6

// Blocks that hold others are read by way of the list itself, so it is made here.
func init() {
	kinds = []*Kind{
		plain("heading", Always, func(r *reader, at string, b *Heading) {
			r.words(fault.Key(at, "text"), b.Text, maxText)
			r.Between(fault.Key(at, "size"), b.Size, 12, 120)
			r.align(at, b.Align)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("text", Always, func(r *reader, at string, b *Text) {
			r.words(fault.Key(at, "text"), b.Text, maxText)
			r.Between(fault.Key(at, "size"), b.Size, 10, 40)
			r.align(at, b.Align)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("list", Extras, func(r *reader, at string, b *List) {
			if len(b.Items) < 1 || len(b.Items) > maxItems {
				r.Faults.Add(fault.Key(at, "items"), "should be 1 to %d lines", maxItems)
			}
			for i, item := range b.Items {
				r.words(fault.Index(fault.Key(at, "items"), i), item, maxText)
			}
			read.OneOf(&r.Reader, fault.Key(at, "marker"), b.Marker, "dot", "tick", "dash", "number")
			r.Between(fault.Key(at, "size"), b.Size, 10, 40)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
			style.ReadColor(&r.Reader, fault.Key(at, "mark"), b.Mark, true)
		}),
		plain("picture", Always, func(r *reader, at string, b *Picture) {
			r.hash(fault.Key(at, "picture"), b.Picture, "a picture")
			r.Between(fault.Key(at, "ratio"), b.Ratio, 10, 400)
			r.Between(fault.Key(at, "width"), b.Width, 10, 100)
			r.Between(fault.Key(at, "corners"), b.Corners, 0, 400)
			r.Text(fault.Key(at, "alt"), b.Alt, 500)
			r.align(at, b.Align)
			r.fit(at, b.Fit, b.Focus)
			if b.Link != "" {
				r.address(fault.Key(at, "link"), b.Link)
			}
		}),
		plain("video", Extras, func(r *reader, at string, b *Video) {
			r.hash(fault.Key(at, "file"), b.File, "a file")
			if b.Address != "" && !isHTTPS(b.Address) {
				r.Faults.Add(fault.Key(at, "address"), "should be the https address of a player to embed")
			}
			r.Text(fault.Key(at, "title"), b.Title, 500)
			r.captions(fault.Key(at, "captions"), b.Captions)
			b.Cues = nil
			r.Between(fault.Key(at, "ratio"), b.Ratio, 10, 400)
			r.Between(fault.Key(at, "corners"), b.Corners, 0, 64)
		}),
		plain("icon", Extras, func(r *reader, at string, b *Icon) {
			r.icon(at, b.Name, b.Path)
			r.Between(fault.Key(at, "size"), b.Size, 12, 200)
			r.align(at, b.Align)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("divider", Extras, func(r *reader, at string, b *Divider) {
			r.Between(fault.Key(at, "thick"), b.Thick, 1, 12)
			r.Between(fault.Key(at, "width"), b.Width, 5, 100)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("space", Always, func(r *reader, at string, b *Space) { r.Between(fault.Key(at, "height"), b.Height, 1, 400) }),
		holding("box", Extras, func(r *reader, at string, b *Box) {
			style.ReadColor(&r.Reader, fault.Key(at, "background"), b.Background, true)
			r.Between(fault.Key(at, "padding"), b.Padding, 0, 64)
			r.Between(fault.Key(at, "corners"), b.Corners, 0, 64)
			r.Between(fault.Key(at, "gap"), b.Gap, 0, 48)
			r.Between(fault.Key(at, "border.width"), b.Border.Width, 0, 12)
			style.ReadColor(&r.Reader, fault.Key(at, "border.color"), b.Border.Color, true)
		}),
		holding("columns", Extras, func(r *reader, at string, b *Columns) {
			if len(b.Blocks) > maxColumns {
				r.Faults.Add(fault.Key(at, "blocks"), "should be at most %d side by side", maxColumns)
			}
			if len(b.Widths) > maxColumns {
				r.Faults.Add(fault.Key(at, "widths"), "should be at most %d", maxColumns)
			}
			for i, w := range b.Widths {
				r.Between(fault.Index(fault.Key(at, "widths"), i), w, 1, 100)
			}
			r.Between(fault.Key(at, "gap"), b.Gap, 0, 64)
			read.Optional(&r.Reader, fault.Key(at, "lined"), b.Lined, "middle", "end")
		}),
		plain("field", Always, func(r *reader, at string, b *Field) { r.field(at, b) }),
		plain("button", Always, func(r *reader, at string, b *Button) {
			r.Line(fault.Key(at, "words"), b.Words, maxWords)
			style.ReadColor(&r.Reader, fault.Key(at, "fill"), b.Fill, true)
			style.ReadColor(&r.Reader, fault.Key(at, "ink"), b.Ink, true)
			style.ReadColor(&r.Reader, fault.Key(at, "hover"), b.Hover, true)
			if b.Align != "" {
				r.align(at, b.Align)
			}
			if b.Size != 0 {
				r.Between(fault.Key(at, "size"), b.Size, 12, 32)
			}
			if b.Corners != nil {
				r.Between(fault.Key(at, "corners"), *b.Corners, 0, 64)
			}
			read.Optional(&r.Reader, fault.Key(at, "stir"), b.Stir, "pulse", "nudge", "shine")
			r.press(b.Press, fault.Key(at, "press"))
		}),
		plain("timer", Extras, func(r *reader, at string, b *Timer) {
			if b.To != "" {
				if _, err := time.Parse(time.RFC3339, b.To); err != nil {
					r.Faults.Add(fault.Key(at, "to"), "should be a moment such as 2026-12-24T18:00:00Z")
				}
			} else {
				r.Between(fault.Key(at, "minutes"), b.Minutes, 1, 525_600)
			}
			read.OneOf(&r.Reader, fault.Key(at, "at_zero"), b.AtZero, "stay", "hide", "words", "close", "next")
			r.Text(fault.Key(at, "words"), b.Words, maxWords)
			r.Between(fault.Key(at, "size"), b.Size, 12, 72)
			r.align(at, b.Align)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("code", Extras, func(r *reader, at string, b *Code) {
			r.Text(fault.Key(at, "code"), b.Code, 100)
			if b.Draw != "" {
				b.Code, b.Pool = "", ""
			} else if b.Pool != "" {
				r.ID(fault.Key(at, "pool"), b.Pool)
			} else if strings.TrimSpace(b.Code) == "" {
				r.Faults.Add(fault.Key(at, "code"), "needs a code, or a pool to take one from")
			}
			r.Line(fault.Key(at, "words"), b.Words, maxWords)
			r.Line(fault.Key(at, "copied"), b.Copied, maxWords)
			r.Text(fault.Key(at, "apply_words"), b.ApplyWords, maxWords)
			if b.Apply != "" {
				r.address(fault.Key(at, "apply"), strings.ReplaceAll(b.Apply, "{code}", "code"))
			}
			r.Between(fault.Key(at, "size"), b.Size, 12, 48)
			style.ReadColor(&r.Reader, fault.Key(at, "background"), b.Background, true)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("draw", Draws, func(r *reader, at string, b *PrizeDraw) { r.draw(at, b) }),
		plain("progress", Plays, func(r *reader, at string, b *Progress) {
			read.OneOf(&r.Reader, fault.Key(at, "look"), b.Look, "bar", "dots", "bites", "words")
			r.Between(fault.Key(at, "value"), b.Value, 0, 100)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("value", Plays, func(r *reader, at string, b *Value) {
			r.Text(fault.Key(at, "label"), b.Label, maxWords)
			r.Between(fault.Key(at, "size"), b.Size, 12, 120)
			r.align(at, b.Align)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("tally", Plays, func(r *reader, at string, b *Tally) {
			r.Between(fault.Key(at, "least"), b.Least, 0, 100_000)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("links", Extras, func(r *reader, at string, b *Links) {
			if len(b.Items) < 1 || len(b.Items) > 12 {
				r.Faults.Add(fault.Key(at, "items"), "should be 1 to 12 links")
			}
			for i, item := range b.Items {
				place := fault.Index(fault.Key(at, "items"), i)
				r.icon(place, item.Name, item.Path)
				r.Line(fault.Key(place, "label"), item.Label, maxWords)
				r.address(fault.Key(place, "address"), item.Address)
			}
			r.Between(fault.Key(at, "size"), b.Size, 16, 64)
			r.align(at, b.Align)
			style.ReadColor(&r.Reader, fault.Key(at, "color"), b.Color, true)
		}),
		plain("html", Extras, func(r *reader, at string, b *HTML) {
			r.Text(fault.Key(at, "html"), b.HTML, markup.MaxLength)
			b.HTML, b.Tree = markup.Clean(b.HTML), nil
			// The phone's markup is markup as well. The patch is not the reader's own.
			if onPhones, ok := b.Phone["html"].(string); ok {
				b.Phone = maps.Clone(b.Phone)
				b.Phone["html"] = markup.Clean(onPhones)
			}
		}),
	}
	for _, k := range kinds {
		kindsByName[k.Name], kindsByType[k.Type] = k, k
	}
}

// captions reads what is said in a video; empty: nothing is.
func (r *reader) captions(at, text string) {
	if text == "" || len(text) > captions.MaxLength {
		r.Text(at, text, captions.MaxLength)
		return
	}
	if _, err := captions.Parse(text); err != nil {
		r.Faults.Add(at, "%s", err)
	}
}
