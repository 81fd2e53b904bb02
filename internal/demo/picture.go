package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math"

	"github.com/disintegration/imaging"
)

// The demo's pictures are computed, so that nothing is fetched and nobody's
// work is borrowed: a bowl seen from the side under a soft light.
func bowl(width, height int, back, glaze, body color.NRGBA) []byte {
	const fine = 2 // drawn larger and scaled down, for smooth edges
	w, h := width*fine, height*fine
	img := image.NewNRGBA(image.Rect(0, 0, w, h))
	cx, rim, foot := float64(w)*0.5, float64(h)*0.36, float64(h)*0.86
	half := float64(h) * 0.46
	for y := range h {
		for x := range w {
			fx, fy := float64(x), float64(y)
			c := shade(back, 1.08-0.22*fy/float64(h)-0.1*math.Abs(fx-cx)/cx)
			if d := math.Hypot((fx-cx)/(half*1.05), (fy-foot)/(float64(h)*0.05)); d < 1 {
				c = shade(c, 0.72+0.28*d)
			}
			t := (fy - rim) / (foot - rim)
			if t >= 0 && t <= 1 {
				reach := half * math.Sqrt(1-math.Pow(t, 3.2)) * (1 - 0.06*t)
				reach = max(reach, half*0.36)
				if side := (fx - cx) / reach; math.Abs(side) < 1 {
					drip := 0.52 + 0.07*math.Sin(fx/float64(w)*31) + 0.05*math.Sin(fx/float64(w)*13+1)
					light := 1.12 - 0.34*math.Pow(math.Abs(side+0.35), 1.4)
					if t < drip {
						c = shade(mix(glaze, color.NRGBA{214, 160, 84, 255}, math.Pow(t/drip, 6)), light)
					} else {
						c = shade(body, light)
					}
				}
			}
			if d := math.Hypot((fx-cx)/half, (fy-rim)/(float64(h)*0.075)); d < 1 {
				c = shade(glaze, 0.55+0.25*d*d)
				if d > 0.955 {
					c = shade(glaze, 1.2)
				}
			}
			img.SetNRGBA(x, y, c)
		}
	}
	var out bytes.Buffer
	if err := png.Encode(&out, imaging.Resize(img, width, height, imaging.Box)); err != nil {
		panic(err)
	}
	return out.Bytes()
}

func shade(c color.NRGBA, by float64) color.NRGBA {
	each := func(v uint8) uint8 { return uint8(max(0, min(255, float64(v)*by))) }
	return color.NRGBA{each(c.R), each(c.G), each(c.B), 255}
}

func mix(a, b color.NRGBA, t float64) color.NRGBA {
	each := func(x, y uint8) uint8 { return uint8(float64(x)*(1-t) + float64(y)*t) }
	return color.NRGBA{each(a.R, b.R), each(a.G, b.G), each(a.B, b.B), 255}
}
