package studio_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/core/style"
	"gobbet/internal/servertest"
	libraryplace "gobbet/internal/studio/library"
	siteplace "gobbet/internal/studio/site"
	"gobbet/internal/templates"
)

// written are the notes but for those of text that is still as it began.
func written(notes []settle.Note) []settle.Note {
	return slices.DeleteFunc(slices.Clone(notes), func(n settle.Note) bool { return n.Code == "template_text" })
}

// info is a studio.PieceInfo with its draft read as a document.
type info struct {
	ID      string
	Version int
	Notes   []settle.Note
	Draft   *piece.Piece
}

func read(t *testing.T, a servertest.Answer) (i info) {
	t.Helper()
	var raw struct {
		ID      string
		Version int
		Notes   []settle.Note
		Draft   json.RawMessage
	}
	a.Into(t, &raw)
	draft, err := piece.Parse(raw.Draft)
	if err != nil {
		t.Fatal(err, a)
	}
	return info{raw.ID, raw.Version, raw.Notes, draft}
}

func add(t *testing.T, h *servertest.Harness, body string) info {
	t.Helper()
	a := h.Call("POST", at(h, "/pieces"), body)
	if a.Status != 201 {
		t.Fatal(a)
	}
	return read(t, a)
}

func TestStartsBecomeDrafts(t *testing.T) {
	h := signedIn(t)
	var list struct {
		Templates []struct {
			Drawing struct{ Kit *style.Kit }
		}
		Frames map[piece.Format]piece.Frame
	}
	h.Call("GET", at(h, "/templates"), "").Into(t, &list)
	if len(list.Templates) != len(templates.All()) || list.Frames[piece.Bar].Width == 0 || list.Templates[0].Drawing.Kit == nil {
		t.Errorf("%d templates", len(list.Templates))
	}
	made := add(t, h, `{"name":"From a start","format":"sheet","template":"before-you-go"}`)
	if made.Draft.Format != piece.Sheet || made.Draft.Name != "From a start" {
		t.Errorf("%+v", made.Draft)
	}
	rule, _ := json.Marshal(made.Draft.Rule)
	if !strings.Contains(string(rule), "exit_intent") {
		t.Error("one that keeps the leaving does not wait for them:", string(rule))
	}
	wants(t, h.Call("POST", at(h, "/pieces"), `{"name":"x","format":"popup","template":"none"}`), 422, "faults")
	wants(t, h.Call("POST", at(h, "/pieces"), `{"name":"x","format":"hologram"}`), 422, "faults")
}

func TestMarkupIsCleanedOnTheWayIn(t *testing.T) {
	h := signedIn(t)
	made := add(t, h, `{"name":"Markup","format":"popup"}`)
	d := &made.Draft.Split.Variants[0].Design
	d.Scenes[0].Blocks[1] = piece.HTML{Kind: "html", ID: "why", HTML: `<b onclick="x()">Hi</b><script>alert(1)</script>`}
	raw, _ := json.Marshal(map[string]any{"version": 1, "draft": made.Draft})
	if a := h.Call("PUT", at(h, "/pieces/"+made.ID), string(raw)); a.Status != 200 {
		t.Fatal(a)
	}
	if a := h.Call("GET", at(h, "/pieces/"+made.ID), ""); strings.Contains(a.Body, "script") || strings.Contains(a.Body, "onclick") || !strings.Contains(a.Body, "Hi") {
		t.Error(a.Body)
	}
}

func TestTheStyleIsCheckedAndLivePiecesFollow(t *testing.T) {
	h := signedIn(t)
	h.Launch("club", piece.New("Club", piece.Popup, "s"))
	var uses []struct {
		State  string
		Colors []string
	}
	h.Call("GET", at(h, "/kit/uses"), "").Into(t, &uses)
	if len(uses) != 1 || uses[0].State != "live" || strings.Join(uses[0].Colors, " ") != "accent accent_ink background ink" {
		t.Errorf("%+v", uses)
	}
	kit := style.UsualKit()
	kit.Colors[2].Value = "#123456"
	raw, _ := json.Marshal(kit)
	var site siteplace.SiteInfo
	h.Call("PUT", at(h, "/kit"), `{"version":1,"kit":`+string(raw)+`}`).Into(t, &site)
	if site.Kit.Colors[2].Value != "#123456" {
		t.Errorf("%+v", site.Kit)
	}
	eventually(t, func() bool {
		var decided struct{ Placements []struct{ Design string } }
		h.Page("decide", `{"url":"https://shop.test/","memory":{},"width":900}`).Into(t, &decided)
		return len(decided.Placements) == 0 || strings.Contains(h.Call("GET", "/v1/sites/shop/designs/"+decided.Placements[0].Design, "").Body, "#123456")
	})
	kit.Colors[2].Value = "red"
	raw, _ = json.Marshal(kit)
	if p := wants(t, h.Call("PUT", at(h, "/kit"), `{"version":2,"kit":`+string(raw)+`}`), 422, "faults"); p.Faults[0].At != "colors[2].value" {
		t.Error(p.Faults)
	}
}

func eventually(t *testing.T, holds func() bool) {
	t.Helper()
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(50 * time.Millisecond) {
		if holds() {
			return
		}
	}
	t.Error("it never came")
}

func picture(t *testing.T, h *servertest.Harness, shade uint8) libraryplace.PictureInfo {
	t.Helper()
	img := image.NewGray(image.Rect(0, 0, 30, 20))
	for i := range img.Pix {
		img.Pix[i] = shade
	}
	var file bytes.Buffer
	png.Encode(&file, img)
	var info libraryplace.PictureInfo
	upload(h, file.Bytes()).Into(t, &info)
	return info
}

func TestPicturesAreReplacedEverywhereAndKeptWhileUsed(t *testing.T) {
	h := signedIn(t)
	old, next := picture(t, h, 10), picture(t, h, 200)
	p := piece.New("Pictured", piece.Popup, "s")
	p.Split.Variants[0].Design.Frame.Behind.Picture = old.Hash
	h.Launch("pictured", p)
	var list []libraryplace.PictureInfo
	h.Call("GET", at(h, "/pictures"), "").Into(t, &list)
	for _, one := range list {
		if used := len(one.Used) == 1 && one.Used[0].Live; used != (one.Hash == old.Hash) {
			t.Errorf("%+v", one)
		}
	}
	wants(t, h.Call("DELETE", at(h, "/pictures/"+old.Hash), ""), 409, "in-use")
	wants(t, h.Call("POST", at(h, "/pictures/"+old.Hash+"/replace"), `{"with":"nothing","live":true}`), 404, "not-found")
	var done libraryplace.Replaced
	h.Call("POST", at(h, "/pictures/"+old.Hash+"/replace"), `{"with":"`+next.Hash+`","live":true}`).Into(t, &done)
	if len(done.Pieces) != 1 || !done.Pieces[0].Live {
		t.Errorf("%+v", done)
	}
	info := read(t, h.Call("GET", at(h, "/pieces/pictured"), ""))
	if info.Draft.Split.Variants[0].Design.Frame.Behind.Picture != next.Hash || info.Version != 2 {
		t.Errorf("%+v", info.Draft.Split.Variants[0].Design.Frame.Behind)
	}
	if a := h.Call("DELETE", at(h, "/pictures/"+picture(t, h, 90).Hash), ""); a.Status != 204 {
		t.Error(a)
	}
}

func TestFilesAreOnlyEverDownloaded(t *testing.T) {
	h := signedIn(t)
	put := func(name, body string) libraryplace.FileInfo {
		var info libraryplace.FileInfo
		h.Call("POST", at(h, "/files?name="+name), body, "Content-Type", "text/html").Into(t, &info)
		return info
	}
	page := put("..%2f..%2fevil%22.html", "<script>alert(1)</script>")
	if strings.ContainsAny(page.Name, `/\"`) {
		t.Error(page.Name)
	}
	a := h.Call("GET", "/v1/files/"+page.Hash+"/x.html", "")
	if a.Header.Get("Content-Type") != "application/octet-stream" || !strings.HasPrefix(a.Header.Get("Content-Disposition"), "attachment") || a.Header.Get("X-Content-Type-Options") != "nosniff" {
		t.Error(a.Header)
	}
	film := put("film.mp4", "\x00\x00\x00\x18ftypmp42\x00\x00\x00\x00mp42isom")
	if a := h.Call("GET", "/v1/files/"+film.Hash+"/film", "", "Range", "bytes=0-3"); a.Status != http.StatusPartialContent || a.Header.Get("Content-Type") != "video/mp4" {
		t.Error(a)
	}
	wants(t, h.Call("POST", at(h, "/files?name=x"), ""), 422, "faults")
	wants(t, h.Call("GET", "/v1/files/"+strings.Repeat("0", 32)+"/x", ""), 404, "not-found")
	wants(t, h.Call("GET", "/v1/fonts/..%2floader.js", ""), 404, "not-found")
	if a := h.Call("DELETE", at(h, "/files/"+page.Hash), ""); a.Status != 204 {
		t.Error(a)
	}
}

func TestSnippetsAreReadLikeBlocks(t *testing.T) {
	h := signedIn(t)
	good := `{"kind":"block","name":"Thanks","body":{"kind":"text","id":"t","text":"Thank you","size":16,"align":"start"}}`
	var kept libraryplace.SnippetInfo
	h.Call("POST", at(h, "/snippets"), good).Into(t, &kept)
	if kept.ID == "" || !strings.Contains(string(kept.Body), "Thank you") {
		t.Errorf("%+v", kept)
	}
	for _, bad := range []string{
		strings.Replace(good, "16", "9000", 1), strings.Replace(good, `"Thanks"`, `" "`, 1), strings.Replace(good, `"block"`, `"song"`, 1), `{"kind":"scene","name":"x","body":{"id":"x"}}`, `{"kind":"block","name":"x"}`,
	} {
		wants(t, h.Call("POST", at(h, "/snippets"), bad), 422, "faults")
	}
	if a := h.Call("DELETE", at(h, "/snippets/"+kept.ID), ""); a.Status != 204 {
		t.Error(a)
	}
	wants(t, h.Call("DELETE", at(h, "/snippets/"+kept.ID), ""), 404, "not-found")
}

func TestPoolsTakeCodesOnce(t *testing.T) {
	h := signedIn(t)
	var added libraryplace.CodesAnswer
	h.Call("PUT", at(h, "/pools/spring"), `{"name":"Spring","codes":["A1"," A1 ","","B2"]}`).Into(t, &added)
	if added.Added != 2 {
		t.Error(added)
	}
	for body, place := range map[string]string{
		`{"name":"","codes":["A"]}`: "name", `{"name":"x","codes":["` + strings.Repeat("x", 301) + `"]}`: "codes[0]", `{"name":"x","codes":["a\u0000b"]}`: "codes[0]",
	} {
		if p := wants(t, h.Call("PUT", at(h, "/pools/other"), body), 422, "faults"); p.Faults[0].At != place {
			t.Error(p.Faults)
		}
	}
	p := piece.New("Coded", piece.Popup, "s")
	d := &p.Split.Variants[0].Design
	d.Scenes[1].Blocks = append(d.Scenes[1].Blocks, piece.Code{Kind: "code", ID: "c", Pool: "spring", Words: "Copy", Copied: "Copied", Size: 20})
	h.Launch("coded", p)
	wants(t, h.Call("DELETE", at(h, "/pools/spring"), ""), 409, "in-use")
	info := read(t, h.Call("GET", at(h, "/pieces/coded"), ""))
	if notes := written(info.Notes); len(notes) != 1 || notes[0].Code != "pool_low" {
		t.Errorf("%+v", info.Notes)
	}
}

func TestAPieceAsAFileComesBackWhole(t *testing.T) {
	h := signedIn(t)
	pic := picture(t, h, 120)
	var guide libraryplace.FileInfo
	h.Call("POST", at(h, "/files?name=guide.pdf"), "%PDF guide").Into(t, &guide)
	p := piece.New("Guide & more", piece.Popup, "s")
	d := &p.Split.Variants[0].Design
	d.Frame.Behind = piece.Behind{Picture: pic.Hash, Side: "start"}
	d.Scenes[1].Blocks = append(d.Scenes[1].Blocks, piece.Button{Kind: "button", ID: "g", Words: "Take it", Press: piece.Press{Do: piece.DoFile, File: guide.Hash, FileName: "guide.pdf"}})
	h.Launch("guide", p)
	out := h.Call("GET", at(h, "/pieces/guide/file"), "")
	if !strings.Contains(out.Header.Get("Content-Disposition"), `"guide-more-gobbet.zip"`) {
		t.Error(out.Header)
	}
	z, err := zip.NewReader(strings.NewReader(out.Body), int64(len(out.Body)))
	if err != nil || len(z.File) != 3 {
		t.Fatal(err, len(z.File))
	}
	a := h.Call("POST", at(h, "/import"), out.Body)
	back := read(t, a)
	if a.Status != 201 || back.ID == "guide" || back.Draft.Split.Salt == "s" || back.Draft.Kit != nil || len(written(back.Notes)) != 0 {
		t.Errorf("%d %+v", a.Status, back)
	}
	got := back.Draft.Split.Variants[0].Design
	if a := h.Call("GET", "/v1/pictures/"+got.Frame.Behind.Picture, ""); a.Status != 200 {
		t.Error(a)
	}
	if got.Files()[0] != guide.Hash {
		t.Error(got.Files())
	}

	bomb := func(build func(z *zip.Writer)) string {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		build(z)
		z.Close()
		return out.String()
	}
	zeros := make([]byte, 64<<20)
	for name, file := range map[string]string{
		"nothing":     "",
		"no document": bomb(func(z *zip.Writer) { z.Create("readme.txt") }),
		"a bomb":      bomb(func(z *zip.Writer) { w, _ := z.Create("pictures/x.png"); w.Write(zeros) }),
		"many entries": bomb(func(z *zip.Writer) {
			for range 301 {
				z.Create("x")
			}
		}),
		"a newer one": `{"version":3}`,
		"a bad picture": bomb(func(z *zip.Writer) {
			raw, _ := json.Marshal(p)
			w, _ := z.Create("piece.json")
			w.Write(raw)
			w, _ = z.Create("pictures/" + pic.Hash + ".png")
			w.Write([]byte("<svg onload=alert(1)>"))
		}),
	} {
		if a := h.Call("POST", at(h, "/import"), file); a.Status != 422 {
			t.Errorf("%s: %d %.200s", name, a.Status, a.Body)
		}
	}
}

func TestThePageToDesignOnRunsNothing(t *testing.T) {
	shop := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/away":
			http.Redirect(w, r, "http://elsewhere.test/", http.StatusFound)
		case "/picture":
			w.Header().Set("Content-Type", "image/png")
		default:
			w.Header().Set("Content-Type", "text/html")
			w.Write([]byte(`<html><head><meta http-equiv="refresh" content="0;url=//evil.test"><script>x()</script><title>Shop</title></head><body onload="x()"><h1>Bowls</h1><iframe src="//evil.test"></iframe><a onclick="x()" href="/a">a</a></body></html>`))
		}
	}))
	defer shop.Close()
	h := signedIn(t, strings.TrimPrefix(shop.URL, "http://"))
	raw, _ := json.Marshal(map[string]any{"version": 1, "name": "Shop", "zone": "UTC", "origins": []string{shop.URL}})
	if a := h.Call("PUT", at(h, ""), string(raw)); a.Status != 200 {
		t.Fatal(a)
	}
	a := h.Call("GET", at(h, "/page?path=/shop"), "")
	if !strings.Contains(a.Body, "Bowls") || !strings.Contains(a.Body, `<base href="`+shop.URL) || !strings.Contains(a.Header.Get("Content-Security-Policy"), "sandbox") {
		t.Error(a)
	}
	for _, bad := range []string{"<script", "onload", "onclick", "refresh", "<iframe"} {
		if strings.Contains(a.Body, bad) {
			t.Errorf("%s is left in %s", bad, a.Body)
		}
	}
	for _, path := range []string{"", "/away", "/picture", "//elsewhere.test/", "http://elsewhere.test/", "shop"} {
		if a := h.Call("GET", at(h, "/page?path="+path), ""); a.Status != 200 || strings.Contains(a.Body, "Bowls") {
			t.Errorf("%q: %d", path, a.Status)
		}
	}
}
