package piece

import (
	"encoding/json"
	"iter"

	"gobbet/core/fault"
)

// Block is one thing in a scene.
type Block interface {
	block() (id string)
	lay() Lay
}

func (l Lay) lay() Lay { return l }

func (b Heading) block() string  { return b.ID }
func (b Text) block() string     { return b.ID }
func (b List) block() string     { return b.ID }
func (b Picture) block() string  { return b.ID }
func (b Video) block() string    { return b.ID }
func (b Icon) block() string     { return b.ID }
func (b Divider) block() string  { return b.ID }
func (b Space) block() string    { return b.ID }
func (b Box) block() string      { return b.ID }
func (b Columns) block() string  { return b.ID }
func (b Field) block() string    { return b.ID }
func (b Button) block() string   { return b.ID }
func (b Timer) block() string    { return b.ID }
func (b Code) block() string     { return b.ID }
func (b Progress) block() string { return b.ID }
func (b Links) block() string    { return b.ID }
func (b HTML) block() string     { return b.ID }

// BlockID is what a block is called within its scene.
func BlockID(b Block) string { return b.block() }

// LayOf is what every block has.
func LayOf(b Block) Lay { return b.lay() }

// Within gives the blocks that a block holds.
func Within(b Block) []Block {
	switch b := b.(type) {
	case Box:
		return b.Blocks
	case Columns:
		return b.Blocks
	}
	return nil
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
func (p *Piece) Drawing(v Variant, kit *Kit) []byte {
	body, err := json.Marshal(p.Draw(v.Design, kit))
	if err != nil {
		panic("piece: a checked design cannot be written: " + err.Error())
	}
	return body
}

// Draw gives a design as the renderer takes it.
func (p *Piece) Draw(d Design, kit *Kit) Drawing {
	return Drawing{p.Format, p.PhoneFormat, d.Frame, d.Scenes, kit}
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

// Leads lists the scenes that a scene may lead to, in the order of its blocks.
func (d Design) Leads(i int) (ids []string) {
	next := ""
	if i+1 < len(d.Scenes) {
		next = d.Scenes[i+1].ID
	}
	for b := range d.Scenes[i].All() {
		switch b := b.(type) {
		case Button:
			if b.Press.Do == DoNext {
				ids = append(ids, next)
			} else if b.Press.Do == DoScene || b.Press.Do == DoSend {
				ids = append(ids, b.Press.Scene)
			}
		case Timer:
			if b.AtZero == "scene" {
				ids = append(ids, b.Scene)
			}
		}
	}
	return ids
}

// Pictures lists the hashes of all pictures of a design, and Files those of files.
func (d Design) Pictures() []string {
	var found hashes
	found.add(d.Frame.Behind.Picture)
	found.patch(d.Frame.Phone, "behind", "picture")
	d.EachBlock(func(_ string, _ Scene, b Block) {
		if p, ok := b.(Picture); ok {
			found.add(p.Picture)
			found.patch(p.Phone, "picture")
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
