package studio_test

import (
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/tally"
	"gobbet/internal/problem"
	"gobbet/internal/servertest"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/storetest"
	"gobbet/internal/studio/account"
	boardplace "gobbet/internal/studio/board"
	"gobbet/internal/studio/compose"
	libraryplace "gobbet/internal/studio/library"
	peopleplace "gobbet/internal/studio/people"
	splitplace "gobbet/internal/studio/split"
)

func TestMain(m *testing.M) { storetest.Run(m) }

// signedIn is a harness with its owner in; allowed are sites within the network
// that the studio may look at.
func signedIn(t *testing.T, allowed ...string) *servertest.Harness {
	t.Helper()
	h := servertest.New(t, allowed...)
	if a := h.Call("POST", "/api/session", `{"email":"Iris@example.com ","password":"a long password"}`); a.Status != http.StatusOK {
		t.Fatal(a)
	}
	return h
}

func at(h *servertest.Harness, rest string) string {
	return fmt.Sprintf("/api/sites/%d%s", h.Site, rest)
}

func wants(t *testing.T, a servertest.Answer, status int, kind string) problem.Problem {
	t.Helper()
	var p problem.Problem
	a.Into(t, &p)
	if a.Status != status || p.Type != "gobbet:"+kind {
		t.Errorf("%d %s, want %d %s", a.Status, a.Body, status, kind)
	}
	return p
}

func TestSignIn(t *testing.T) {
	h := servertest.New(t)
	wants(t, h.Call("GET", "/api/me", ""), 401, "signed-out")
	wants(t, h.Call("POST", "/api/session", `{"email":"iris@example.com","password":"wrong"}`), 401, "wrong-sign-in")
	wants(t, h.Call("POST", "/api/session", `{"email":"nobody@example.com","password":"wrong"}`), 401, "wrong-sign-in")
	wants(t, h.Call("POST", "/api/session", `{"email":`), 422, "faults")
	a := h.Call("POST", "/api/session", `{"email":"iris@example.com","password":"a long password"}`)
	var me account.Me
	a.Into(t, &me)
	if me.Name != "Iris Moss" || len(me.Sites) != 1 || me.Sites[0].Origins[0] != servertest.Origin {
		t.Errorf("%+v", me)
	}
	if cookie := a.Header.Get("Set-Cookie"); !strings.Contains(cookie, "HttpOnly") || !strings.Contains(cookie, "SameSite=Lax") {
		t.Error("the session's cookie is open:", cookie)
	}
	if a := h.Call("DELETE", "/api/session", ""); a.Status != http.StatusNoContent {
		t.Error(a)
	}
	wants(t, h.Call("GET", "/api/me", ""), 401, "signed-out")
}

func TestSignInTriesAreLimited(t *testing.T) {
	h := servertest.New(t)
	for range 10 {
		wants(t, h.Call("POST", "/api/session", `{"email":"iris@example.com","password":"wrong"}`), 401, "wrong-sign-in")
	}
	wants(t, h.Call("POST", "/api/session", `{"email":"IRIS@example.com","password":"a long password"}`), 429, "too-many")
}

func newPiece(t *testing.T, h *servertest.Harness) (id string, draft map[string]any) {
	t.Helper()
	a := h.Call("POST", at(h, "/pieces"), `{"name":"Spring letter","format":"popup"}`)
	if a.Status != http.StatusCreated {
		t.Fatal(a)
	}
	var info struct {
		ID    string
		Draft map[string]any
	}
	a.Into(t, &info)
	return info.ID, info.Draft
}

func save(h *servertest.Harness, id string, version int, draft any) servertest.Answer {
	raw, err := json.Marshal(map[string]any{"version": version, "draft": draft})
	if err != nil {
		h.T.Fatal(err)
	}
	return h.Call("PUT", at(h, "/pieces/"+id), string(raw))
}

func TestADraftIsSavedLaunchedAndPaused(t *testing.T) {
	h := signedIn(t)
	id, draft := newPiece(t, h)
	draft["name"] = "Summer letter"
	if a := save(h, id, 1, draft); a.Status != 200 || !strings.Contains(a.Body, `"version":2`) || strings.Contains(a.Body, `"severity":"stop"`) {
		t.Fatal(a)
	}
	// Sent again, for its answer was lost, it is saved; something else is another window's.
	if a := save(h, id, 1, draft); a.Status != 200 || !strings.Contains(a.Body, `"version":2`) {
		t.Error(a)
	}
	draft["name"] = "Autumn letter"
	wants(t, save(h, id, 1, draft), 409, "stale")
	draft["name"] = "Summer letter"
	wants(t, h.Call("POST", at(h, "/pieces/"+id+"/launch"), `{"version":1}`), 409, "stale")
	if a := h.Call("POST", at(h, "/pieces/"+id+"/launch"), `{"version":2}`); a.Status != 200 || !strings.Contains(a.Body, `"state":"live"`) {
		t.Fatal(a)
	}
	draft["name"] = "Autumn letter"
	save(h, id, 2, draft)
	a := h.Call("GET", at(h, "/board"), "")
	if !strings.Contains(a.Body, `"name":"Summer letter"`) || !strings.Contains(a.Body, `"edited":true`) || strings.Contains(a.Body, "Autumn") {
		t.Errorf("the board should show what is live: %s", a.Body)
	}
	if a := h.Call("POST", at(h, "/pause"), `{"pieces":["`+id+`"]}`); a.Status != 200 || !strings.Contains(a.Body, id) {
		t.Error(a)
	}
	if a := h.Call("DELETE", at(h, "/pieces/"+id), ""); a.Status != http.StatusNoContent {
		t.Error(a)
	}
	wants(t, h.Call("GET", at(h, "/pieces/"+id), ""), 404, "not-found")
	h.Call("POST", at(h, "/pieces/"+id+"/restore"), "")
	if a := h.Call("GET", at(h, "/pieces/"+id), ""); a.Status != 200 {
		t.Error(a)
	}
}

func TestFaultsOfADraftComeWithTheirPlace(t *testing.T) {
	h := signedIn(t)
	id, draft := newPiece(t, h)
	draft["rule"] = json.RawMessage(`{"all":[{"fact":"page.path","op":"matches","value":"["}]}`)
	p := wants(t, save(h, id, 1, draft), 422, "faults")
	if len(p.Faults) != 1 || p.Faults[0].At != "rule.all[0].value" {
		t.Errorf("%+v", p)
	}
	p = wants(t, h.Call("POST", at(h, "/pieces"), `{"name":"  ","format":"popup"}`), 422, "faults")
	if len(p.Faults) != 1 || p.Faults[0].At != "name" {
		t.Errorf("%+v", p)
	}
	wants(t, save(h, id, 1, strings.Repeat("x", 3<<20)), 413, "too-large")
	wants(t, h.Call("PUT", at(h, "/pieces/"+id), `{"version":1,"draft":`), 422, "faults")
	wants(t, save(h, "nothing", 1, piece.New("x", piece.Popup, "s")), 404, "not-found")
}

func TestNotesThatStopForbidLaunch(t *testing.T) {
	h := signedIn(t)
	p := piece.New("x", piece.Popup, "s")
	p.Split.Variants[0].Design.Frame.Close.Shown = false
	p.Split.Variants[0].Design.Frame.Backdrop.Closes = false
	id, _ := newPiece(t, h)
	if a := save(h, id, 1, p); !strings.Contains(a.Body, `"code":"no_close"`) {
		t.Error(a)
	}
	said := wants(t, h.Call("POST", at(h, "/pieces/"+id+"/launch"), `{"version":2}`), 422, "notes-to-settle")
	if len(said.Faults) != 1 || !strings.HasSuffix(said.Faults[0].At, "frame.close") {
		t.Errorf("%+v", said)
	}
}

func TestSplitHoldsVariantsAgainstTheFirst(t *testing.T) {
	h := signedIn(t)
	p := piece.New("x", piece.Popup, "s")
	second := p.Split.Variants[0]
	second.ID = "b"
	p.Split.Variants = append(p.Split.Variants, second)
	h.Launch("test", p)
	var events []tally.Event
	add := func(variant string, visitors, conversions int) {
		for i := range visitors {
			e := tally.Event{ID: uuid.NewString(), At: time.Now(), Kind: tally.Shown, Piece: "test", Variant: variant, Run: 1, Visitor: fmt.Sprint(variant, i), Page: "/", After: -1}
			events = append(events, e)
			if i < conversions {
				e.ID, e.Kind = uuid.NewString(), tally.Converted
				events = append(events, e)
			}
		}
	}
	// Newcombe (1998b), example (a): 56/70 and 48/80 differ by 0.0524 to 0.3339.
	add("a", 80, 48)
	add("b", 70, 56)
	if err := h.Store.Events.Add(context.Background(), h.Site, time.UTC, events); err != nil {
		t.Fatal(err)
	}
	var r splitplace.SplitResult
	h.Call("GET", at(h, "/pieces/test/split"), "").Into(t, &r)
	b := r.Report.Comparisons[0]
	if got := fmt.Sprintf("%.4f %.4f %.4f", float64(b.Difference), b.DifferenceInterval[0], b.DifferenceInterval[1]); got != "0.2000 0.0524 0.3339" {
		t.Error(got)
	}
	if r.Sound.SawSeveral != 0 || len(r.Over) != 1 || len(r.Variants) != 2 || r.Began == nil || r.Report.Head == "" {
		t.Errorf("%+v", r)
	}
}

func TestSiteKeepsOnlyDomains(t *testing.T) {
	h := signedIn(t)
	a := h.Call("PUT", at(h, ""), `{"version":1,"name":"Shop","zone":"Europe/Dublin","origins":["Shop.example.com","http://127.0.0.1:8641/","https://shop.example.com"]}`)
	if !strings.Contains(a.Body, `["https://shop.example.com","http://127.0.0.1:8641"]`) {
		t.Error(a.Body)
	}
	p := wants(t, h.Call("PUT", at(h, ""), `{"version":2,"name":"","zone":"Mars","origins":["https://a.test/page","ftp://a.test","*","javascript:alert(1)"]}`), 422, "faults")
	if len(p.Faults) != 6 {
		t.Errorf("%+v", p.Faults)
	}
}

func upload(h *servertest.Harness, body []byte) servertest.Answer {
	return h.Call("POST", at(h, "/pictures?name=a%00b.png"), string(body))
}

func TestPicturesAreReadAnewAndSized(t *testing.T) {
	h := signedIn(t)
	wide := image.NewRGBA(image.Rect(0, 0, 3000, 600))
	for x := range 3000 {
		for y := range 600 {
			wide.Set(x, y, color.RGBA{uint8(x), uint8(y), 90, 255})
		}
	}
	var photo, clear bytes.Buffer
	jpeg.Encode(&photo, wide, nil)
	png.Encode(&clear, image.NewNRGBA(image.Rect(0, 0, 40, 30)))
	var info libraryplace.PictureInfo
	upload(h, photo.Bytes()).Into(t, &info)
	if info.Width != 1600 || info.Height != 320 || info.Name != "ab.png" {
		t.Errorf("%+v", info)
	}
	a := h.Call("GET", "/v1/pictures/"+info.Hash, "")
	if a.Header.Get("Content-Type") != "image/webp" || a.Header.Get("X-Content-Type-Options") != "nosniff" || len(a.Body) != info.Bytes {
		t.Error(a.Header)
	}
	upload(h, clear.Bytes()).Into(t, &info)
	if a := h.Call("GET", "/v1/pictures/"+info.Hash, ""); a.Header.Get("Content-Type") == "image/jpeg" {
		t.Error("a see-through picture lost that:", a.Header)
	}
	upload(h, clear.Bytes())
	var all []libraryplace.PictureInfo
	h.Call("GET", at(h, "/pictures"), "").Into(t, &all)
	if len(all) != 2 {
		t.Errorf("%d pictures of two", len(all))
	}
}

// pngClaiming is a PNG header that claims a size, with nothing behind it.
func pngClaiming(width, height uint32) []byte {
	ihdr := []byte{'I', 'H', 'D', 'R', byte(width >> 24), byte(width >> 16), byte(width >> 8), byte(width), byte(height >> 24), byte(height >> 16), byte(height >> 8), byte(height), 8, 6, 0, 0, 0}
	sum := crc32.ChecksumIEEE(ihdr)
	out := append([]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x0d"), ihdr...)
	return append(out, byte(sum>>24), byte(sum>>16), byte(sum>>8), byte(sum))
}

func TestPicturesThatAreNone(t *testing.T) {
	h := signedIn(t)
	for name, c := range map[string]struct {
		body  []byte
		about string
	}{
		"a text":               {[]byte("GIF? no"), "not a picture"},
		"nothing":              {nil, "not a picture"},
		"a script as SVG":      {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`), "not a picture"},
		"12,000 pixels wide":   {pngClaiming(12000, 800), "12000 × 800"},
		"a bomb of 60 million": {pngClaiming(8000, 7500), "40 million"},
		"a head without body":  {pngClaiming(20, 20), "damaged"},
	} {
		p := wants(t, upload(h, c.body), 422, "faults")
		if len(p.Faults) != 1 || p.Faults[0].At != "picture" || !strings.Contains(p.Faults[0].Message, c.about) {
			t.Errorf("%s: %+v", name, p.Faults)
		}
	}
	wants(t, upload(h, make([]byte, 13<<20)), 413, "too-large")
}

func TestCSVIsPlainForSpreadsheets(t *testing.T) {
	h := signedIn(t)
	h.Launch("sign-up", piece.New("Sign-up, \"the\" one", piece.Popup, "s"))
	for i, name := range []string{"=HYPERLINK(\"http://evil.test\")", "+1", "-1", "@SUM(A1)", "\tx", "Zoë, the \"potter\"\nof Cork", "plain"} {
		_, err := h.Store.Leads.AddSubmission(context.Background(), h.Site, time.UTC, leads.Submission{
			ID: uuid.NewString(), Piece: "sign-up", Variant: "a", Visitor: "v", Page: "/", Email: fmt.Sprintf("p%d@example.com", i), Name: name,
			Answers: map[string]string{"why": name}, At: time.Date(2026, 11, 24, 10, i, 0, 0, time.UTC),
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	a := h.Call("GET", at(h, "/people.csv"), "")
	if !strings.HasPrefix(a.Body, "email,name,at,") || !strings.Contains(a.Body, "\r\n") || !strings.HasPrefix(a.Header.Get("Content-Type"), "text/csv") {
		t.Fatal(a)
	}
	rows, err := csv.NewReader(strings.NewReader(a.Body)).ReadAll()
	if err != nil || len(rows) != 8 {
		t.Fatal(len(rows), err)
	}
	for _, row := range rows[1:] {
		for _, cell := range row {
			if cell != "" && strings.ContainsRune("=+-@\t", rune(cell[0])) {
				t.Errorf("a spreadsheet would run %q", cell)
			}
		}
	}
	if rows[1][1] != "plain" || rows[2][1] != "Zoë, the \"potter\"\nof Cork" || rows[7][1] != "'=HYPERLINK(\"http://evil.test\")" || rows[1][3] != "Sign-up, \"the\" one" || rows[1][12] != "plain" {
		t.Errorf("%q", rows)
	}
}

func TestPeopleSearch(t *testing.T) {
	h := signedIn(t)
	for i := range 60 {
		if _, err := h.Store.Leads.AddSubmission(context.Background(), h.Site, time.UTC, leads.Submission{
			ID: uuid.NewString(), Piece: "gone", Variant: "a", Visitor: "v", Email: fmt.Sprintf("p%02d@example.com", i), Answers: map[string]string{}, At: time.Now(),
		}); err != nil {
			t.Fatal(err)
		}
	}
	var first, second, found peopleplace.LeadPage
	h.Call("GET", at(h, "/people"), "").Into(t, &first)
	h.Call("GET", at(h, "/people?after="+first.Next), "").Into(t, &second)
	h.Call("GET", at(h, "/people?q=P07"), "").Into(t, &found)
	if len(first.Leads) != 50 || first.Total != 60 || len(second.Leads) != 10 || second.Next != "" || found.Total != 1 || found.Leads[0].Walks[0].Piece != "gone" {
		t.Errorf("%d of %d, then %d; found %d", len(first.Leads), first.Total, len(second.Leads), found.Total)
	}
	for _, bad := range []string{"?from=x", "?to=2026-02-30", "?after=x", "?q=" + strings.Repeat("x", 300), "?q=%00"} {
		wants(t, h.Call("GET", at(h, "/people"+bad), ""), 422, "faults")
	}
}

func TestTryingAVisitor(t *testing.T) {
	h := signedIn(t)
	a := h.Call("POST", at(h, "/try"), `{"rule":{"all":[{"fact":"page.path","op":"is","value":"/a"},{"fact":"moment.scroll_percent","op":"gte","value":50}]},"facts":{"page.path":"/a/"}}`)
	var answer struct{ Verdict, Needs string }
	a.Into(t, &answer)
	if answer.Verdict != "waits" || answer.Needs != "scroll reaches 50 %" {
		t.Error(a.Body)
	}
	if p := wants(t, h.Call("POST", at(h, "/try"), `{"rule":{"all":[{}]}}`), 422, "faults"); p.Faults[0].At != "rule.all[0].fact" {
		t.Errorf("%+v", p)
	}
}

func TestTheDatabaseAwayIsSaidSo(t *testing.T) {
	h := signedIn(t)
	if err := storetest.Cluster.Stop(); err != nil {
		t.Fatal(err)
	}
	a := h.Call("GET", at(h, "/board"), "")
	ready := h.Call("GET", "/readyz", "")
	health := h.Call("GET", "/healthz", "")
	if err := storetest.Cluster.Restart(context.Background()); err != nil {
		t.Fatal(err)
	}
	wants(t, a, 503, "database-away")
	if ready.Status != 503 || health.Status != 200 {
		t.Errorf("ready %d, health %d", ready.Status, health.Status)
	}
	if a := h.Call("GET", at(h, "/board"), ""); a.Status != 200 {
		t.Error("it does not recover by itself:", a)
	}
}

func TestJobsThatAreLateAreSaid(t *testing.T) {
	h := signedIn(t)
	if _, err := h.Store.DB().Exec(`
		insert into jobs (name, began_at, ended_at) values ('alerts', now() - interval '9 hours', null), ('deleting old page views', now(), now() - interval '9 hours')
		on conflict (name) do update set began_at = excluded.began_at, ended_at = excluded.ended_at`); err != nil {
		t.Fatal(err)
	}
	ready := h.Call("GET", "/readyz", "")
	if ready.Status != 200 || !strings.Contains(ready.Body, "job alerts has begun and never ended\n") || !strings.Contains(ready.Body, "job deleting old page views ran last at 20") {
		t.Error(ready)
	}
}

func TestTheStudiosPageIsStrict(t *testing.T) {
	h := signedIn(t)
	first, second := h.Call("GET", "/pieces/x/compose", ""), h.Call("GET", "/sign-in", "")
	csp := first.Header.Get("Content-Security-Policy")
	if !strings.Contains(csp, "default-src 'none'") || !strings.Contains(csp, "frame-src 'self';") || strings.Contains(csp, servertest.Origin) || strings.Contains(csp, "unsafe") {
		t.Error(csp)
	}
	if first.Body == second.Body || strings.Contains(first.Body, "gobbet-nonce") {
		t.Error("the nonce is not fresh:", first.Body)
	}
}

// boardCards is what of a board's cards is asked about here.
type boardCards struct {
	Cards []struct {
		State       string     `json:"state"`
		Edited      bool       `json:"edited"`
		PausesAt    *time.Time `json:"pauses_at"`
		PausedUntil *time.Time `json:"paused_until"`
	} `json:"cards"`
}

// What was changed and put back is no change, whatever the versions say.
func TestADraftThatWasPutBackIsNotEdited(t *testing.T) {
	h := signedIn(t)
	h.Launch("club", piece.New("Club", piece.Popup, "s"))
	var info struct {
		Draft   json.RawMessage `json:"draft"`
		Version int             `json:"version"`
		Edited  bool            `json:"edited"`
	}
	h.Call("GET", at(h, "/pieces/club"), "").Into(t, &info)
	if info.Edited {
		t.Error("it is edited as it was launched")
	}
	save := func(draft string, version int) (edited bool) {
		t.Helper()
		var saved compose.Saved
		h.Call("PUT", at(h, "/pieces/club"), fmt.Sprintf(`{"version":%d,"draft":%s}`, version, draft)).Into(t, &saved)
		return saved.Edited
	}
	if !save(strings.Replace(string(info.Draft), `"name":"Club"`, `"name":"Circle"`, 1), 1) {
		t.Error("a change is none")
	}
	if save(string(info.Draft), 2) {
		t.Error("what was put back counts as a change")
	}
	var board boardCards
	h.Call("GET", at(h, "/board"), "").Into(t, &board)
	if board.Cards[0].Edited {
		t.Error("the board says so too")
	}
}

// A pause is planned from one time to another, and taken back.
func TestAPauseIsPlanned(t *testing.T) {
	h := signedIn(t)
	h.Launch("club", piece.New("Club", piece.Popup, "s"))
	soon := func(hours int) string {
		return time.Now().Add(time.Duration(hours) * time.Hour).UTC().Format("2006-01-02T15:04")
	}
	for _, bad := range []string{`{"all":true,"from":"tomorrow"}`, `{"all":true,"from":"2020-01-01T00:00"}`, fmt.Sprintf(`{"all":true,"from":%q,"until":%q}`, soon(48), soon(24))} {
		wants(t, h.Call("POST", at(h, "/pause"), bad), 422, "faults")
	}
	var change boardplace.StateChange
	h.Call("POST", at(h, "/pause"), fmt.Sprintf(`{"all":true,"from":%q,"until":%q}`, soon(24), soon(48))).Into(t, &change)
	var board boardCards
	h.Call("GET", at(h, "/board"), "").Into(t, &board)
	if c := board.Cards[0]; len(change.Pieces) != 1 || change.From == nil || c.State != "live" || c.PausesAt == nil || c.PausedUntil == nil {
		t.Errorf("%+v %+v", change, c)
	}
	h.Call("POST", at(h, "/resume"), `{"pieces":["club"]}`).Into(t, &change)
	h.Call("GET", at(h, "/board"), "").Into(t, &board)
	if c := board.Cards[0]; len(change.Pieces) != 1 || c.State != "live" {
		t.Errorf("%+v %+v", change, c)
	}
	var split splitplace.SplitResult
	h.Call("GET", at(h, "/pieces/club/split"), "").Into(t, &split)
	if len(split.Moves) != 3 || split.Moves[0].Did != launch.Unplanned || split.Moves[0].By != "Iris Moss" || split.Moves[2].By != "" {
		t.Errorf("%+v", split.Moves)
	}
}
