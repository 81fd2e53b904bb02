package piece

import (
	"encoding/json"
	"iter"
	"reflect"

	"gobbet/core/fault"
	"gobbet/core/style"
)

// Block is one thing in a scene.
type Block interface{ lay() Lay }

func (l Lay) lay() Lay { return l }

// BlockID is what a block is called within its scene.
func BlockID(b Block) string { return reflect.ValueOf(b).Field(KindOf(b).id).String() }

// LayOf is what every block has.
func LayOf(b Block) Lay { return b.lay() }

// Within gives the blocks that a block holds.
func Within(b Block) []Block {
	k := KindOf(b)
	if !k.Holds {
		return nil
	}
	return reflect.ValueOf(b).Field(k.blocks).Interface().([]Block)
}

// All goes through the blocks of a scene, those that hold others before what they hold.
func (s Scene) All() iter.Seq[Block] {
	return func(yield func(Block) bool) {
		walk(s.Blocks, "", func(_ string, b Block) bool { return yield(b) })
	}
}

// Placed goes through the blocks of a scene as All does, with their places below that of the scene.
func (s Scene) Placed(at string) iter.Seq2[string, Block] {
	return func(yield func(string, Block) bool) { walk(s.Blocks, at, yield) }
}

// walk visits blocks and what they hold, with their places from at, until do says no.
func walk(blocks []Block, at string, do func(at string, b Block) bool) bool {
	for i, b := range blocks {
		place := fault.Index(fault.Key(at, "blocks"), i)
		if !do(place, b) || !walk(Within(b), place, do) {
			return false
		}
	}
	return true
}

// EachBlock visits the blocks of all scenes in order, with their places from the design.
func (d Design) EachBlock(do func(at string, s Scene, b Block)) {
	for i, s := range d.Scenes {
		for at, b := range s.Placed(fault.Index("scenes", i)) {
			do(at, s, b)
		}
	}
}

// Drawing gives one variant as visitors of a site with this style kit get it.
// The bytes are the same for the same design, so that they may be addressed by
// their content.
func (p *Piece) Drawing(v Variant, kit *style.Kit) []byte {
	body, err := json.Marshal(p.Draw(&v, kit))
	if err != nil {
		panic("piece: a checked design cannot be written: " + err.Error())
	}
	return body
}

// Draw gives a variant as the renderer takes it.
func (p *Piece) Draw(v *Variant, kit *style.Kit) Drawing {
	format, phone := p.Formats(v)
	return Drawing{Version: Version, Format: format, PhoneFormat: phone, Kit: kit, Design: v.Design}
}

// WithValues has every value computed where the drawing is drawn, for those who
// may know its formulas.
func (d Drawing) WithValues() Drawing {
	for _, f := range d.Formulas {
		d.Live = append(d.Live, f.Live())
	}
	return d
}

// Variant gives a variant by its id.
func (p *Piece) Variant(id string) (Variant, bool) {
	for _, v := range p.Split.Variants {
		if v.ID == id {
			return v, true
		}
	}
	return Variant{}, false
}

// Scene gives a scene by its id.
func (d Design) Scene(id string) (Scene, bool) {
	for _, s := range d.Scenes {
		if s.ID == id {
			return s, true
		}
	}
	return Scene{}, false
}

// Pictures lists the hashes of all pictures of a design, and Files those of files.
func (d Design) Pictures() []string {
	var found hashes
	found.add(d.Frame.Behind.Picture)
	found.patch(d.Frame.Phone, "behind", "picture")
	if d.Frame.Talk != nil {
		found.add(d.Frame.Talk.Picture)
	}
	d.EachBlock(func(_ string, _ Scene, b Block) {
		switch b := b.(type) {
		case Picture:
			found.add(b.Picture)
			found.patch(b.Phone, "picture")
		case Field:
			for _, c := range b.Choices {
				found.add(c.Picture)
			}
		}
	})
	return found
}

// Files lists the hashes of all files of a design.
func (d Design) Files() []string {
	var found hashes
	found.add(d.Frame.Behind.Video)
	d.EachBlock(func(_ string, _ Scene, b Block) {
		switch b := b.(type) {
		case Video:
			found.add(b.File)
		case Button:
			found.add(b.Press.File)
		}
	})
	return found
}

type hashes []string

func (h *hashes) add(one string) {
	if one == "" {
		return
	}
	for _, known := range *h {
		if known == one {
			return
		}
	}
	*h = append(*h, one)
}

func (h *hashes) patch(p Patch, path ...string) {
	var at any = map[string]any(p)
	for _, key := range path {
		m, ok := at.(map[string]any)
		if !ok {
			return
		}
		at = m[key]
	}
	if one, ok := at.(string); ok {
		h.add(one)
	}
}

// SendingConverts reports whether a button that sends the scene counts as the conversion.
func (s Scene) SendingConverts() bool {
	for b := range s.All() {
		if button, ok := b.(Button); ok && button.Press.Do == DoSend && button.Counts {
			return true
		}
	}
	return false
}

// Earned reports whether the scene holds what a visitor should get only by
// reaching it: a result, a code, a file, or a text to copy.
func (s Scene) Earned() bool {
	if s.Kind == ResultScene {
		return true
	}
	for b := range s.All() {
		switch b := b.(type) {
		case Code:
			return true
		case Button:
			if b.Press.Do == DoFile || b.Press.Do == DoCopy {
				return true
			}
		}
	}
	return false
}
