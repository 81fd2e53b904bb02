// Package uploads makes of what marketers upload what visitors get: pictures and
// files.
package uploads

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
	"net/http"
	"regexp"
	"runtime/debug"
	"strings"
	"sync/atomic"
	"time"
	"unicode"

	"github.com/disintegration/imaging"
	"github.com/gen2brain/webp"
	"golang.org/x/sync/semaphore"

	"gobbet/core/fault"
	"gobbet/internal/route"
	"gobbet/internal/store/library"
)

const (
	maxSide     = 8000       // px, refused above
	maxPixels   = 40_000_000 // 160 MB once decoded
	keptWidth   = 1600       // px; a frame is at most 1,200 wide
	quality     = 84         // of JPEG
	webpQuality = 82

	pixelsAtOnce  = maxPixels // decoded, at four bytes each
	pixelPatience = 25 * time.Second
)

// Decoder reads pictures in turn: what is decoded at once is bounded in pixels.
type Decoder struct{ pixels *semaphore.Weighted }

// NewDecoder makes one for a process.
func NewDecoder() *Decoder { return &Decoder{semaphore.NewWeighted(pixelsAtOnce)} }

// Picture is ReadPicture, waiting for its turn. What is still to be done of the
// call then has its time from there.
func (d *Decoder) Picture(c *route.Call, raw []byte) (library.Picture, error) {
	head, err := pictureHead(raw)
	if err != nil {
		return library.Picture{}, err
	}
	pixels := max(1, int64(head.Width)*int64(head.Height))
	ctx, cancel := context.WithTimeout(c.Base(), pixelPatience)
	defer cancel()
	if err := d.pixels.Acquire(ctx, pixels); err != nil {
		return library.Picture{}, fault.ErrBusy
	}
	defer Lighten()
	defer d.pixels.Release(pixels)
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

var lightens atomic.Bool

// Lighten gives back to the system, a moment later, what hashing and decoding
// took: they take much at once, and nothing for long.
func Lighten() {
	if !lightens.CompareAndSwap(false, true) {
		return
	}
	time.AfterFunc(lightenAfter, func() {
		lightens.Store(false)
		debug.FreeOSMemory()
	})
}

const lightenAfter = 2 * time.Second

// ReadFile makes of an upload what visitors get: videos play, everything else
// is only ever downloaded.
func ReadFile(name string, raw []byte) (f library.File, err error) {
	if len(raw) == 0 {
		return f, fault.Fault{At: "file", Message: "This file is empty."}
	}
	mime := http.DetectContentType(raw)
	if mime != "video/mp4" && mime != "video/webm" {
		mime = "application/octet-stream"
	}
	sum := sha256.Sum256(raw)
	return library.File{Hash: hex.EncodeToString(sum[:16]), Name: FileName(name), Mime: mime, Body: raw, Bytes: len(raw)}, nil
}

// FileName keeps of a name what is one on every system.
func FileName(name string) string {
	name = strings.Map(func(c rune) rune {
		if c < ' ' || strings.ContainsRune(`/\:*?"<>|`, c) || c == 0x7f || c == 0xfffd || unicode.Is(unicode.Bidi_Control, c) {
			return '_'
		}
		return c
	}, strings.ToValidUTF8(name, "_"))
	name = strings.Trim(name, ". ")
	if r := []rune(name); len(r) > 120 {
		name = string(r[:60]) + string(r[len(r)-60:])
	}
	if name == "" {
		return "file"
	}
	return name
}

var hashForm = regexp.MustCompile(`^[0-9a-f]{32}$`)

// IsHash reports whether a text has the form of the hash of a picture or file.
func IsHash(s string) bool { return hashForm.MatchString(s) }
