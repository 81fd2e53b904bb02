package piece

import "encoding/json"

// Block is a Heading, Text, Picture, Field or Button.
type Block interface{ block() (id string) }

func (b Heading) block() string { return b.ID }
func (b Text) block() string    { return b.ID }
func (b Picture) block() string { return b.ID }
func (b Field) block() string   { return b.ID }
func (b Button) block() string  { return b.ID }

// BlockID is what a block is called within its scene.
func BlockID(b Block) string { return b.block() }

// Drawing gives one variant as visitors get it. The bytes are the same for the
// same design, so that they may be addressed by their content.
func (p *Piece) Drawing(v Variant) []byte {
	body, err := json.Marshal(Drawing{p.Format, v.Design.Frame, v.Design.Scenes})
	if err != nil {
		panic("piece: a checked design cannot be written: " + err.Error())
	}
	return body
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
