package studio_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"gobbet/core/piece"
	libraryplace "gobbet/internal/studio/library"
	"gobbet/internal/uploads"
)

func TestVersionsAreListedLatestFirstAndSayWhatWentLive(t *testing.T) {
	h := signedIn(t)
	made := add(t, h, `{"name":"Went through changes","format":"popup"}`)
	say := func(version int, words string) {
		t.Helper()
		heading := made.Draft.Split.Variants[0].Design.Scenes[0].Blocks[0].(piece.Heading)
		heading.Text = piece.Plain(words)
		made.Draft.Split.Variants[0].Design.Scenes[0].Blocks[0] = heading
		if a := save(h, made.ID, version, made.Draft); a.Status != 200 {
			t.Fatal(a)
		}
	}
	say(1, "First")
	if a := h.Call("POST", at(h, "/pieces/"+made.ID+"/launch"), `{"version":2}`); a.Status != 200 {
		t.Fatal(a)
	}
	say(2, "Second")
	say(3, "Third")
	var list []struct {
		Version  int
		Launched bool
		Draft    json.RawMessage
	}
	h.Call("GET", at(h, "/pieces/"+made.ID+"/versions"), "").Into(t, &list)
	var got []string
	for _, v := range list {
		doc, err := piece.Parse(v.Draft)
		if err != nil {
			t.Fatal(err)
		}
		got = append(got, fmt.Sprint(v.Version, v.Launched, " ", doc.Split.Variants[0].Design.Scenes[0].Blocks[0].(piece.Heading).Text))
	}
	// Changes of one sitting are one version, but what went live stays.
	if want := "4 false Third; 2 true First"; strings.Join(got, "; ") != want {
		t.Errorf("%q, want %q", got, want)
	}
	wants(t, h.Call("GET", at(h, "/pieces/nothing/versions"), ""), 404, "not-found")
}

func TestTheLibrarySaysWhereThingsAreUsed(t *testing.T) {
	h := signedIn(t)
	var guide, spare libraryplace.FileInfo
	h.Call("POST", at(h, "/files?name=Firing%20guide.pdf"), "%PDF-1.4 one").Into(t, &guide)
	h.Call("POST", at(h, "/files?name=spare.pdf"), "%PDF-1.4 two").Into(t, &spare)
	h.Call("PUT", at(h, "/pools/spring"), `{"name":"Spring","codes":["A1","B2"]}`)
	h.Call("PUT", at(h, "/pools/idle"), `{"name":"Idle","codes":["C3"]}`)
	p := piece.New("Hands out", piece.Popup, "s")
	d := &p.Split.Variants[0].Design
	d.Scenes[1].Blocks = append(d.Scenes[1].Blocks,
		piece.Button{Kind: "button", ID: "take", Words: "Take it", Press: piece.Press{Do: piece.DoFile, File: guide.Hash, FileName: guide.Name}},
		piece.Code{Kind: "code", ID: "c", Pool: "spring", Words: "Copy", Copied: "Copied", Size: 20})
	h.Launch("gives", p)

	var files []libraryplace.FileInfo
	h.Call("GET", at(h, "/files"), "").Into(t, &files)
	for _, f := range files {
		if (len(f.Used) == 1 && f.Used[0].Name == "Hands out" && f.Used[0].Live) != (f.Hash == guide.Hash) {
			t.Errorf("%+v", f)
		}
	}
	if len(files) != 2 {
		t.Errorf("%+v", files)
	}
	wants(t, h.Call("DELETE", at(h, "/files/"+guide.Hash), ""), 409, "in-use")

	var pools []libraryplace.PoolInfo
	h.Call("GET", at(h, "/pools"), "").Into(t, &pools)
	seen := map[string]string{}
	for _, p := range pools {
		seen[p.ID] = fmt.Sprint(p.Left, p.Given, len(p.Used))
	}
	if seen["spring"] != "2 0 1" || seen["idle"] != "1 0 0" {
		t.Error(seen)
	}
	if a := h.Call("DELETE", at(h, "/pools/idle"), ""); a.Status != 204 {
		t.Error(a)
	}
}

func TestSnippetsAreListed(t *testing.T) {
	h := signedIn(t)
	for i := range 3 {
		h.Call("POST", at(h, "/snippets"), fmt.Sprintf(`{"kind":"block","name":"Kept %d","body":{"kind":"text","id":"t","text":"Thank you","size":16,"align":"start"}}`, i))
	}
	var kept []libraryplace.SnippetInfo
	h.Call("GET", at(h, "/snippets"), "").Into(t, &kept)
	names := ""
	for _, k := range kept {
		names += k.Name + " "
	}
	if len(kept) != 3 || !strings.Contains(names, "Kept 1") {
		t.Error(names)
	}
}

func TestNamesOfFilesAreOnesEverywhere(t *testing.T) {
	for given, want := range map[string]string{
		"guide.pdf": "guide.pdf", "../../etc/passwd": "_.._etc_passwd", `C:\autoexec.bat`: "C__autoexec.bat", "": "file", " .. ": "file", "a\x00b": "a_b",
		"photo\u202egpj.exe": "photo_gpj.exe", "photo\u2066gpj.exe": "photo_gpj.exe", "\xff.pdf": "_.pdf", "dégustation été.pdf": "dégustation été.pdf",
	} {
		f, err := uploads.ReadFile(given, []byte("x"))
		if err != nil || f.Name != want {
			t.Errorf("%q: %q, want %q; %v", given, f.Name, want, err)
		}
	}
	long, _ := uploads.ReadFile(strings.Repeat("é", 500)+".pdf", []byte("x"))
	if n := len([]rune(long.Name)); n != 120 || !strings.HasSuffix(long.Name, ".pdf") {
		t.Error(n, long.Name)
	}
}
