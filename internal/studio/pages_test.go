package studio_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image/png"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/makiuchi-d/gozxing"
	"github.com/makiuchi-d/gozxing/qrcode"

	"gobbet/core/piece"
	"gobbet/internal/studio/compose"
)

func TestAQRCodeReadsAsThePagesAddress(t *testing.T) {
	h := signedIn(t)
	const address = "which-glaze"
	said := h.Call("GET", at(h, "/qr?form=png&address="+address), "")
	picture, err := png.Decode(bytes.NewReader([]byte(said.Body)))
	if err != nil {
		t.Fatal(err)
	}
	bitmap, err := gozxing.NewBinaryBitmapFromImage(picture)
	if err != nil {
		t.Fatal(err)
	}
	read, err := qrcode.NewQRCodeReader().Decode(bitmap, nil)
	if err != nil || read.GetText() != "https://pages.test/shop/"+address {
		t.Errorf("%v %v", read, err)
	}

	// The drawing has the same modules: each is looked up in the middle of its place.
	drawing := h.Call("GET", at(h, "/qr?address="+address), "")
	n, dark := 0, map[[2]int]bool{}
	fmt.Sscanf(regexp.MustCompile(`viewBox="0 0 (\d+)`).FindStringSubmatch(drawing.Body)[1], "%d", &n)
	number := func(s string) int { i, _ := strconv.Atoi(s); return i }
	for _, run := range regexp.MustCompile(`M(\d+) (\d+)h(\d+)v1`).FindAllStringSubmatch(drawing.Body, -1) {
		for x := range number(run[3]) {
			dark[[2]int{number(run[1]) + x, number(run[2])}] = true
		}
	}
	unit := picture.Bounds().Dx() / n
	for y := range n {
		for x := range n {
			r, _, _, _ := picture.At(x*unit+unit/2, y*unit+unit/2).RGBA()
			if (r < 0x8000) != dark[[2]int{x, y}] {
				t.Fatalf("module %d %d of %d differs", x, y, n)
			}
		}
	}
}

func TestAQRCodeIsOfAPageOfOursAlone(t *testing.T) {
	h := signedIn(t)
	for _, address := range []string{"", "../x", "https%3A%2F%2Fother.test", "a%0d%0aSet-Cookie:x", strings.Repeat("a", 61)} {
		wants(t, h.Call("GET", at(h, "/qr?address="+address), ""), http.StatusNotFound, "not-found")
	}
}

func TestTwoLivePiecesDoNotShareAPage(t *testing.T) {
	h := signedIn(t)
	launch := func(name string) (string, int) {
		var made struct {
			ID    string
			Draft map[string]any
		}
		h.Call("POST", at(h, "/pieces"), fmt.Sprintf(`{"name":%q,"format":"popup"}`, name)).Into(t, &made)
		made.Draft["page"] = piece.OwnPage{Address: "letter", Title: "Letter"}
		doc, _ := json.Marshal(made.Draft)
		var saved compose.Saved
		h.Call("PUT", at(h, "/pieces/"+made.ID), fmt.Sprintf(`{"version":1,"draft":%s}`, doc)).Into(t, &saved)
		a := h.Call("POST", at(h, "/pieces/"+made.ID+"/launch"), fmt.Sprintf(`{"version":%d}`, saved.Version))
		if a.Status != http.StatusOK && !strings.Contains(a.Body, `"at":"page.address"`) {
			t.Errorf("%s", a.Body)
		}
		return made.ID, a.Status
	}
	first, status := launch("first")
	if status != http.StatusOK {
		t.Fatal(status)
	}
	if _, status := launch("second"); status != http.StatusUnprocessableEntity {
		t.Error(status)
	}
	h.Call("POST", at(h, "/pause"), `{"pieces":["`+first+`"]}`)
	if _, status := launch("third"); status != http.StatusOK {
		t.Error("a page that is free again was refused")
	}
	var copied struct{ Draft map[string]any }
	h.Call("POST", at(h, "/pieces"), fmt.Sprintf(`{"name":"copy","copy_of":%q}`, first)).Into(t, &copied)
	if copied.Draft["page"] != nil || copied.Draft["name"] != "copy" {
		t.Error("a copy took the page along")
	}
}
