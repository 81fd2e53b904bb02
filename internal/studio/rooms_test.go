package studio_test

import (
	"context"
	"encoding/csv"
	"fmt"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/internal/store/leads"
	"gobbet/internal/studio/board"
	libraryplace "gobbet/internal/studio/library"
	peopleplace "gobbet/internal/studio/people"
)

func TestPausingUntilATime(t *testing.T) {
	h := signedIn(t)
	h.Launch("one", piece.New("One", piece.Popup, "s"))
	var change board.StateChange
	h.Call("POST", at(h, "/pause"), `{"all":true,"until":"2050-06-01T09:00"}`).Into(t, &change)
	if len(change.Pieces) != 1 || change.Until == nil || change.Until.Year() != 2050 {
		t.Errorf("%+v", change)
	}
	if a := h.Call("GET", at(h, "/pieces/one"), ""); !strings.Contains(a.Body, `"state":"paused"`) || !strings.Contains(a.Body, `"paused_until":"2050-06-01T`) {
		t.Error(a)
	}
	h.Call("POST", at(h, "/resume"), `{"all":true}`).Into(t, &change)
	var names []board.PieceName
	h.Call("GET", at(h, "/pieces"), "").Into(t, &names)
	if len(names) != 1 || names[0].Name != "One" || names[0].State != "live" {
		t.Errorf("%+v", names)
	}
}

func TestTheLibraryIsRenamed(t *testing.T) {
	h := signedIn(t)
	pic := picture(t, h, 33)
	for path, status := range map[string]int{"/pictures/" + pic.Hash: 204, "/pictures/none": 404, "/files/none": 404, "/snippets/none": 404} {
		if a := h.Call("PUT", at(h, path), `{"name":"Ash bowl.png"}`); a.Status != status {
			t.Error(path, a)
		}
	}
	wants(t, h.Call("PUT", at(h, "/pictures/"+pic.Hash), `{"name":"  "}`), 422, "faults")
	var list []libraryplace.PictureInfo
	h.Call("GET", at(h, "/pictures"), "").Into(t, &list)
	if len(list) != 1 || list[0].Name != "Ash bowl.png" {
		t.Errorf("%+v", list)
	}
}

func TestAPictureIsReplacedInDraftsAlone(t *testing.T) {
	h := signedIn(t)
	old, next := picture(t, h, 10), picture(t, h, 200)
	p := piece.New("Pictured", piece.Popup, "s")
	p.Split.Variants[0].Design.Frame.Behind.Picture = old.Hash
	h.Launch("pictured", p)
	if a := h.Call("POST", at(h, "/pictures/"+old.Hash+"/replace"), `{"with":"`+next.Hash+`"}`); a.Status != 200 {
		t.Fatal(a)
	}
	a := h.Call("GET", at(h, "/pieces/pictured"), "")
	if read(t, a).Draft.Split.Variants[0].Design.Frame.Behind.Picture != next.Hash || !strings.Contains(a.Body, old.Hash) {
		t.Error("the draft should have the new one, and what is live the old")
	}
}

func TestCodesAreListedWithWhoHasThem(t *testing.T) {
	h := signedIn(t)
	codes := make([]string, 150)
	for i := range codes {
		codes[i] = fmt.Sprintf(`"CODE-%03d"`, i)
	}
	h.Call("PUT", at(h, "/pools/spring"), `{"name":"Spring","codes":[`+strings.Join(codes, ",")+`]}`)
	var page libraryplace.CodePage
	h.Call("GET", at(h, "/pools/spring/codes"), "").Into(t, &page)
	if len(page.Codes) == 0 || len(page.Codes) >= 150 || page.Next == "" || page.Codes[0].Code != "CODE-000" {
		t.Fatalf("%d codes, then %q", len(page.Codes), page.Next)
	}
	seen := len(page.Codes)
	for page.Next != "" {
		next := libraryplace.CodePage{}
		h.Call("GET", at(h, "/pools/spring/codes?after="+url.QueryEscape(page.Next)), "").Into(t, &next)
		page = next
		seen += len(page.Codes)
	}
	if seen != 150 {
		t.Errorf("%d codes in all pages", seen)
	}
	var found libraryplace.CodePage
	h.Call("GET", at(h, "/pools/spring/codes?q=-07"), "").Into(t, &found)
	if len(found.Codes) != 10 {
		t.Errorf("%d codes have -07", len(found.Codes))
	}
	wants(t, h.Call("GET", at(h, "/pools/none/codes"), ""), 404, "not-found")
}

func TestPeopleAreFilteredAndTheExportTheSame(t *testing.T) {
	h := signedIn(t)
	h.Launch("guide", piece.New("Glaze guide", piece.Popup, "s"))
	day := time.Date(2026, 11, 20, 12, 0, 0, 0, time.UTC)
	for i, sub := range []leads.Submission{
		{Piece: "guide", Channel: "email", At: day, Answers: map[string]string{"clay": "porcelain"}},
		{Piece: "guide", Channel: "search", At: day.AddDate(0, 0, 2)},
		{Piece: "other", Channel: "email", At: day.AddDate(0, 0, 2)},
	} {
		if sub.Answers == nil {
			sub.Answers = map[string]string{}
		}
		sub.ID, sub.Variant, sub.Visitor, sub.Email = uuid.NewString(), "a", fmt.Sprint("v", i), fmt.Sprintf("p%d@example.com", i)
		if _, err := h.Store.Leads.AddSubmission(context.Background(), h.Site, time.UTC, sub); err != nil {
			t.Fatal(err)
		}
	}
	for query, want := range map[string]string{
		"":                         "p0 p1 p2",
		"piece=guide":              "p0 p1",
		"source=email":             "p0 p2",
		"piece=guide&source=email": "p0",
		"from=2026-11-21":          "p1 p2",
		"to=2026-11-20":            "p0",
		"from=2026-11-20&to=2026-11-20&piece=guide": "p0",
		"q=glaze":           "p0 p1", // the piece's name
		"q=PORCEL":          "p0",
		"q=p1&source=email": "",
		"piece=none":        "",
		"from=2027-01-01":   "",
	} {
		var page peopleplace.LeadPage
		h.Call("GET", at(h, "/people?"+query), "").Into(t, &page)
		rows, err := csv.NewReader(strings.NewReader(h.Call("GET", at(h, "/people.csv?"+query), "").Body)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		got := map[string]bool{}
		for _, l := range page.Leads {
			got[strings.TrimSuffix(l.Email, "@example.com")] = true
		}
		for _, one := range strings.Fields(want) {
			if !got[one] {
				t.Errorf("%q lacks %s", query, one)
			}
		}
		if n := len(strings.Fields(want)); len(got) != n || page.Total != n || len(rows) != n+1 {
			t.Errorf("%q: %d people, %d counted, %d rows exported, want %d", query, len(got), page.Total, len(rows)-1, n)
		}
	}
}
