package piece

import (
	"crypto/sha256"
	"encoding/hex"

	"gobbet/core/style"
)

// Drawings gives a piece's drawings by hash, in a site's style, and notes in
// hashes (if not nil) which variant has which.
func (p *Piece) Drawings(kit *style.Kit, hashes map[string]string) map[string][]byte {
	drawings := map[string][]byte{}
	for _, v := range p.Split.Variants {
		hash, body := Hashed(p.Drawing(v, kit))
		drawings[hash] = body
		if hashes != nil {
			hashes[v.ID] = hash
		}
	}
	return drawings
}

// Hashed gives what a drawing is called, and the drawing.
func Hashed(body []byte) (hash string, _ []byte) {
	sum := sha256.Sum256(body)
	return hex.EncodeToString(sum[:16]), body
}
