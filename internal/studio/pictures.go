package studio

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	_ "image/gif" // formats that may be uploaded
	"image/jpeg"
	"image/png"

	"gobbet/internal/route"

	"gobbet/internal/store/library"

	"github.com/disintegration/imaging"
	"github.com/gen2brain/webp"

	"gobbet/core/fault"
	"gobbet/core/text"
)

const (
	maxSide     = 8000       // px, refused above
	maxPixels   = 40_000_000 // 160 MB once decoded
	keptWidth   = 1600       // px; a frame is at most 1,200 wide
	quality     = 84         // of JPEG
	webpQuality = 82
)

func (s *Server) pictures(c *route.Call, _ route.None) (answer []PictureInfo, err error) {
	pictures, err := s.store.Library.Pictures(c, c.Site.ID)
	if err != nil {
		return answer, err
	}
	used, err := s.uses(c)
	if err != nil {
		return answer, err
	}
	infos := []PictureInfo{}
	for _, p := range pictures {
		infos = append(infos, PictureInfo{p.Hash, p.Name, p.Width, p.Height, p.Bytes, orNone(used[p.Hash])})
	}
	return infos, nil
}

func (s *Server) addPicture(c *route.Call, ask NameQuery, raw []byte) (answer PictureInfo, err error) {
	p, err := s.readPicture(c, raw)
	if err != nil {
		return answer, err
	}
	p.Name = text.Keepable(ask.Name, 200)
	if err := s.store.Library.AddPicture(c, c.Site.ID, p); err != nil {
		return answer, err
	}
	return PictureInfo{p.Hash, p.Name, p.Width, p.Height, p.Bytes, []UsedIn{}}, nil
}

// readPicture is ReadPicture, waiting for its turn: what is decoded at once is
// bounded in pixels. What is still to be done then has its time from there.
func (s *Server) readPicture(c *route.Call, raw []byte) (library.Picture, error) {
	head, err := pictureHead(raw)
	if err != nil {
		return library.Picture{}, err
	}
	pixels := max(1, int64(head.Width)*int64(head.Height))
	ctx, cancel := context.WithTimeout(c.Base(), pixelPatience)
	defer cancel()
	if err := s.pixels.Acquire(ctx, pixels); err != nil {
		return library.Picture{}, fault.ErrBusy
	}
	defer s.lighten()
	defer s.pixels.Release(pixels)
	p, err := ReadPicture(raw)
	c.Renew()
	return p, err
}

func refused(format string, args ...any) error {
	return fault.Fault{At: "picture", Message: fmt.Sprintf(format, args...)}
}

// pictureHead judges a picture by its first bytes, before a pixel is decoded.
func pictureHead(raw []byte) (image.Config, error) {
	head, _, err := image.DecodeConfig(bytes.NewReader(raw))
	if err != nil {
		return head, refused("This file is not a picture that can be shown here. Use PNG, JPEG, WebP or GIF.")
	}
	if head.Width > maxSide || head.Height > maxSide || head.Width*head.Height > maxPixels {
		return head, refused("This picture is %d × %d pixels. Make it at most %d a side and %d million in all.", head.Width, head.Height, maxSide, maxPixels/1_000_000)
	}
	return head, nil
}

// ReadPicture makes of an upload what visitors get: upright, at most 1,600
// pixels wide, written anew so that nothing hidden in the file goes along. Its
// size is judged before a pixel is decoded.
func ReadPicture(raw []byte) (p library.Picture, err error) {
	if _, err := pictureHead(raw); err != nil {
		return p, err
	}
	img, err := imaging.Decode(bytes.NewReader(raw), imaging.AutoOrientation(true))
	if err != nil {
		return p, refused("This picture is damaged and cannot be read.")
	}
	if img.Bounds().Dx() > keptWidth {
		img = imaging.Resize(img, keptWidth, 0, imaging.Lanczos)
	}
	body, mime, err := compress(img)
	if err != nil {
		return p, err
	}
	p.Mime = mime
	sum := sha256.Sum256(body.Bytes())
	p.Hash, p.Body, p.Bytes = hex.EncodeToString(sum[:16]), body.Bytes(), body.Len()
	p.Width, p.Height = img.Bounds().Dx(), img.Bounds().Dy()
	return p, nil
}

// compress writes a picture in the form that is smaller: as WebP, or in the
// form that every browser ever had.
func compress(img image.Image) (body bytes.Buffer, mime string, err error) {
	if opaque(img) {
		mime, err = "image/jpeg", jpeg.Encode(&body, img, &jpeg.Options{Quality: quality})
	} else {
		encoder := png.Encoder{CompressionLevel: png.BestCompression}
		mime, err = "image/png", encoder.Encode(&body, img)
	}
	if err != nil {
		return body, mime, err
	}
	var smaller bytes.Buffer
	if err := webp.Encode(&smaller, img, webp.Options{Quality: webpQuality, Method: 4}); err == nil && smaller.Len() < body.Len()*9/10 {
		return smaller, "image/webp", nil
	}
	return body, mime, nil
}

func opaque(img image.Image) bool {
	o, ok := img.(interface{ Opaque() bool })
	return ok && o.Opaque()
}
