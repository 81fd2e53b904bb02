package studio_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/internal/servertest"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/storetest"
	"gobbet/internal/studio/board"
	siteplace "gobbet/internal/studio/site"
)

// Whoever guesses is slowed down; whoever owns the account gets in from the
// browser they have used before.
func TestAGuesserIsSlowedDownAndNotTheOwner(t *testing.T) {
	h := signedIn(t)
	guess := func(client *http.Client, password string) int {
		return servertest.Call(t, client, h.URL+"/api/session", "POST", fmt.Sprintf(`{"email":"iris@example.com","password":%q}`, password)).Status
	}
	jar, _ := cookiejar.New(nil)
	stranger := &http.Client{Jar: jar}
	statuses := map[int]int{}
	for i := range 12 {
		statuses[guess(stranger, fmt.Sprint("guess ", i))]++
	}
	if statuses[401] != 10 || statuses[429] != 2 {
		t.Errorf("%v", statuses)
	}
	if got := guess(stranger, "a long password"); got != 429 {
		t.Error("from where it was guessed, the right one gets in:", got)
	}
	if got := guess(h.Client, "a long password"); got != 200 {
		t.Error("the owner is locked out:", got)
	}
	// A browser's own count is its own, too.
	for range 12 {
		guess(h.Client, "wrong")
	}
	if got := guess(h.Client, "a long password"); got != 429 {
		t.Error("a known browser may guess without end:", got)
	}
}

func TestPicturesAreDecodedInTurnAndNeverBlameTheDatabase(t *testing.T) {
	t.Parallel() // waits, or works alone, for seconds
	h := signedIn(t)
	var file bytes.Buffer
	if err := png.Encode(&file, image.NewNRGBA(image.Rect(0, 0, 3000, 3000))); err != nil {
		t.Fatal(err)
	}
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if a := upload(h, file.Bytes()); a.Status != 201 {
				t.Errorf("%d %s", a.Status, a.Body)
			}
		})
	}
	all.Wait()
}

// An upload that comes slowly is an upload that comes slowly.
func TestABrokenUploadIsNoFaultOfTheDatabase(t *testing.T) {
	h := signedIn(t)
	cookies := []string{}
	for _, c := range h.Client.Jar.Cookies(mustParse(t, h.URL+"/api/session")) {
		cookies = append(cookies, c.String())
	}
	conn, err := net.Dial("tcp", strings.TrimPrefix(h.URL, "http://"))
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	fmt.Fprintf(conn, "POST %s HTTP/1.1\r\nHost: x\r\nCookie: %s\r\nContent-Length: 1000\r\n\r\nhalf", at(h, "/pictures"), strings.Join(cookies, "; "))
	conn.(*net.TCPConn).CloseWrite()
	r, err := http.ReadResponse(bufio.NewReader(conn), nil)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	var body bytes.Buffer
	body.ReadFrom(r.Body)
	if r.StatusCode != 400 || strings.Contains(body.String(), "database") || !strings.Contains(body.String(), "broken-upload") {
		t.Errorf("%d %s", r.StatusCode, body.String())
	}
}

func TestTheSitesPageIsNotLookedForWithinTheNetwork(t *testing.T) {
	asked := 0
	inside := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		asked++
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, "<body>secret</body>")
	}))
	defer inside.Close()
	// A site the operator allows, which leads on to one that is not allowed.
	shop := httptest.NewServer(http.RedirectHandler(inside.URL, http.StatusFound))
	defer shop.Close()
	h := signedIn(t, strings.TrimPrefix(shop.URL, "http://"))
	_, port, _ := net.SplitHostPort(strings.TrimPrefix(inside.URL, "http://"))
	for version, origin := range []string{inside.URL, "http://localhost:" + port, "http://[::ffff:127.0.0.1]:" + port, "http://10.0.0.1", "http://169.254.169.254", "http://[fe80::1]", shop.URL} {
		if a := h.Call("PUT", at(h, ""), fmt.Sprintf(`{"version":%d,"name":"Shop","zone":"UTC","origins":[%q]}`, version+1, origin)); a.Status != 200 {
			t.Fatal(a)
		}
		a := h.Call("GET", at(h, "/page?path=/"), "")
		if a.Status != 200 || strings.Contains(a.Body, "secret") || a.Header.Get("X-Gobbet-Page") != "away" {
			t.Errorf("%s: %d %s", origin, a.Status, a.Body)
		}
	}
	if asked != 0 {
		t.Errorf("asked %d times", asked)
	}
}

func TestEveryDoorAnswersWhileTheDatabaseIsFrozen(t *testing.T) {
	t.Parallel() // waits, or works alone, for seconds
	s, freeze := storetest.Frozen(t)
	h := servertest.Over(t, s)
	if a := h.Call("POST", "/api/session", `{"email":"iris@example.com","password":"a long password"}`); a.Status != 200 {
		t.Fatal(a)
	}
	h.Launch("club", piece.New("Club", piece.Popup, "s"))
	visit := func() int { return h.Page("decide", `{"url":"https://shop.test/","memory":{}}`).Status }
	if visit() != 200 {
		t.Fatal("nobody is decided for")
	}
	freeze(true)
	var all sync.WaitGroup
	for _, path := range []string{"/api/me", at(h, "/board"), at(h, "/pictures"), at(h, "/people.csv"), "/v1/pictures/" + strings.Repeat("0", 32), "/v1/sites/shop/designs/x", "/v1/files/x/y", "/readyz"} {
		all.Go(func() {
			began := time.Now()
			a := h.Call("GET", path, "")
			if a.Status != 503 || time.Since(began) > time.Minute {
				t.Errorf("%s: %d after %v", path, a.Status, time.Since(began))
			}
		})
	}
	all.Wait()
	if status := visit(); status != 200 {
		t.Error("decide needs the database:", status)
	}
	freeze(false)
	for range 200 {
		if h.Call("GET", at(h, "/board"), "").Status == 200 {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Error("it does not recover")
}

func TestNumbersThatCannotBeKeptAreRefusedAtTheirField(t *testing.T) {
	h := signedIn(t)
	h.Launch("club", piece.New("Club", piece.Popup, "s"))
	for _, n := range []string{"3000000000", "-3000000000", "1e9", "99999999999999999999"} {
		for _, c := range []struct{ method, path, body string }{
			{"PUT", "/pieces/club", `{"version":%s,"draft":{}}`}, {"POST", "/pieces/club/launch", `{"version":%s}`}, {"PUT", "", `{"version":%s}`},
			{"PUT", "/kit", `{"version":%s}`}, {"PUT", "/order", `{"version":%s}`},
		} {
			p := wants(t, h.Call(c.method, at(h, c.path), fmt.Sprintf(c.body, n)), 422, "faults")
			if len(p.Faults) == 0 || p.Faults[0].At != "version" {
				t.Errorf("%s %s: %+v", c.path, n, p.Faults)
			}
		}
	}
	for _, from := range []string{"99999999999999999999.1", "9223372036854775807.1", "-1.1", "1"} {
		wants(t, h.Call("GET", at(h, "/people?from="+from), ""), 422, "faults")
	}
}

func TestCellsThatHideAFormulaAreMadePlain(t *testing.T) {
	h := signedIn(t)
	hidden := []string{"\u200b=1+1", "\u00a0=1+1", "\ufeff=1+1", "\u2060@x", "\u202e=1", "  =1", "\u00ad-1", "\u3000＝1", "\ufe0f=1"}
	for i, answer := range append(hidden, "plain = fine") {
		_, err := h.Store.Leads.AddSubmission(context.Background(), h.Site, time.UTC, leads.Submission{
			ID: uuid.NewString(), Piece: "p", Variant: "a", Visitor: "v", Email: fmt.Sprintf("p%d@example.com", i), Answers: map[string]string{"why": answer}, At: time.Now(),
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	body := h.Call("GET", at(h, "/people.csv"), "").Body
	for _, answer := range hidden {
		if !strings.Contains(body, "'"+answer) {
			t.Errorf("%q is not made plain", answer)
		}
	}
	if !strings.Contains(body, ",plain = fine") {
		t.Error(body)
	}
}

func TestHealthTellsOfNamesAndProxies(t *testing.T) {
	h := signedIn(t)
	ctx := context.Background()
	if _, err := h.Store.Sites.AddDataNames(ctx, h.Site, []string{"plan", "basket"}); err != nil {
		t.Fatal(err)
	}
	if err := h.Store.Sites.CountRefusals(ctx, h.Site, "data_name", "junk", 7); err != nil {
		t.Fatal(err)
	}
	for i := range 5 {
		h.Call("POST", "/v1/sites/shop/events", `{}`, "Origin", servertest.Origin, "X-Forwarded-For", fmt.Sprintf("198.51.100.%d", i))
	}
	var health siteplace.Health
	h.Call("GET", at(h, "/health"), "").Into(t, &health)
	if strings.Join(health.DataNames, " ") != "basket plan" || health.Proxy != "127.0.0.1" || len(health.Refused) != 1 || health.Refused[0].Times != 7 {
		t.Errorf("%+v", health)
	}
	if a := h.Call("DELETE", at(h, "/data-names/plan"), ""); a.Status != 204 {
		t.Error(a)
	}
	h.Call("GET", at(h, "/health"), "").Into(t, &health)
	if strings.Join(health.DataNames, " ") != "basket" {
		t.Errorf("%+v", health)
	}
}

func TestDeletedPiecesAreListedAndRestored(t *testing.T) {
	h := signedIn(t)
	var made struct{ ID string }
	h.Call("POST", at(h, "/pieces"), `{"name":"Spring","format":"popup"}`).Into(t, &made)
	if a := h.Call("POST", at(h, "/pieces/"+made.ID+"/launch"), `{"version":1}`); a.Status != 200 {
		t.Fatal(a)
	}
	wants(t, h.Call("DELETE", at(h, "/pieces/"+made.ID), ""), 409, "live")
	h.Call("POST", at(h, "/pause"), `{"pieces":["`+made.ID+`"]}`)
	for range 2 {
		if a := h.Call("DELETE", at(h, "/pieces/"+made.ID), ""); a.Status != 204 {
			t.Fatal(a)
		}
	}
	var list []board.DeletedPiece
	h.Call("GET", at(h, "/deleted"), "").Into(t, &list)
	if len(list) != 1 || list[0].Name != "Spring" || list[0].Until.Sub(list[0].DeletedAt) < 29*24*time.Hour {
		t.Fatalf("%+v", list)
	}
	wants(t, h.Call("PUT", at(h, "/pieces/"+made.ID), `{"version":1,"draft":`+documentOf(t, "x")+`}`), 404, "not-found")
	if a := h.Call("POST", at(h, "/pieces/"+made.ID+"/restore"), ""); a.Status != 200 || !strings.Contains(a.Body, `"name":"Spring","format":"popup","state":"paused"`) {
		t.Fatal(a)
	}
	h.Call("GET", at(h, "/deleted"), "").Into(t, &list)
	if len(list) != 0 {
		t.Errorf("%+v", list)
	}
}

func mustParse(t *testing.T, address string) *url.URL {
	t.Helper()
	u, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	return u
}

func documentOf(t *testing.T, name string) string {
	t.Helper()
	raw, err := json.Marshal(piece.New(name, piece.Popup, "salt"))
	if err != nil {
		t.Fatal(err)
	}
	return string(raw)
}

// A guesser who asks several servers in turn is slowed down as by one.
func TestTriesAreCountedForAllServers(t *testing.T) {
	h := servertest.New(t)
	other := servertest.Serve(t, h.Store)
	tooMany := 0
	for i := range 24 {
		at := []string{h.URL, other.URL}[i%2]
		if a := servertest.Call(t, http.DefaultClient, at+"/api/session", "POST", `{"email":"iris@example.com","password":"guess"}`); a.Status == 429 {
			tooMany++
		}
	}
	if tooMany != 14 {
		t.Errorf("%d of 24 guesses were refused, want all but ten", tooMany)
	}
}
