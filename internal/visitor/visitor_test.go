package visitor_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/problem"
	"gobbet/internal/servertest"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/storetest"
	"gobbet/internal/visitor"
)

func TestMain(m *testing.M) { storetest.Run(m) }

const who = "visitor-1234"

// atOnce is a piece that shows on arrival.
func atOnce() *piece.Piece {
	p := piece.New("Sign-up", piece.Popup, "salt")
	p.Rule = reach.All{}
	return p
}

// placed is a decision without what its placements wait for.
type placed struct {
	Placements []struct{ Piece, Variant, Slot, Design string }
	Renderer   string
}

func decide(h *servertest.Harness, memory string) (d placed) {
	h.T.Helper()
	a := h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/shop/?utm_medium=email","memory":%s}`, memory))
	if a.Status != http.StatusOK {
		h.T.Fatal(a)
	}
	a.Into(h.T, &d)
	return d
}

// patience is for what never comes; a busy machine may take long over what does.
const patience = time.Minute

// eventually waits for something that another goroutine brings about.
func eventually(t *testing.T, what string, is func() bool) {
	t.Helper()
	pause := 10 * time.Millisecond
	for end := time.Now().Add(patience); !is(); pause = min(2*pause, 250*time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("%s did not come about", what)
		}
		time.Sleep(pause)
	}
}

func launched(t *testing.T, p *piece.Piece) *servertest.Harness {
	t.Helper()
	h := servertest.New(t)
	h.Launch("sign-up", p)
	eventually(t, "the launch", func() bool { return len(decide(h, `{}`).Placements) == 1 })
	return h
}

func TestALaunchReachesEveryServer(t *testing.T) {
	h := servertest.New(t)
	other := &servertest.Harness{Server: servertest.Serve(t, h.Store), T: t, Client: h.Client}
	if n := len(decide(h, `{}`).Placements) + len(decide(other, `{}`).Placements); n != 0 {
		t.Fatalf("%d placements before anything is live", n)
	}
	h.Launch("sign-up", atOnce())
	eventually(t, "the launch at both servers", func() bool {
		return len(decide(h, `{}`).Placements) == 1 && len(decide(other, `{}`).Placements) == 1
	})
	if err := h.Store.Pieces.PauseOne(context.Background(), pieces.Act{Site: h.Site}, "sign-up"); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the rest at both servers", func() bool {
		return len(decide(h, `{}`).Placements) == 0 && len(decide(other, `{}`).Placements) == 0
	})
}

func TestDecideGoesOnWithoutTheDatabase(t *testing.T) {
	h := launched(t, atOnce())
	h.Store.Close()
	d := decide(h, `{}`)
	if len(d.Placements) != 1 {
		t.Fatal("nothing is decided")
	}
	if a := h.Call("GET", "/v1/sites/shop/designs/"+d.Placements[0].Design, ""); a.Status != http.StatusOK {
		t.Error("the live design is not served from the snapshot:", a.Status)
	}
	if a := h.Page("events", `{"visitor":"`+who+`","events":[{"id":"`+uuid.NewString()+`","kind":"shown","piece":"sign-up","variant":"a"}]}`); a.Status < 500 {
		t.Error("an event that cannot be stored is acknowledged:", a)
	}
}

func TestOnlyTheSitesOwnPagesAreAnswered(t *testing.T) {
	h := launched(t, atOnce())
	for _, c := range []struct {
		path, origin string
		status       int
		kind         string
	}{
		{"/v1/sites/shop/decide", "https://evil.test", 403, "domain-not-allowed"},
		{"/v1/sites/shop/decide", "http://shop.test", 403, "domain-not-allowed"},
		{"/v1/sites/shop/decide", "null", 403, "domain-not-allowed"},
		{"/v1/sites/shop/decide", "", 403, "domain-not-allowed"},
		{"/v1/sites/nobody/decide", servertest.Origin, 404, "unknown-site"},
		{"/v1/sites/nobody/advance", servertest.Origin, 404, "unknown-site"},
	} {
		a := h.Call("POST", c.path, `{}`, "Origin", c.origin)
		var p problem.Problem
		a.Into(t, &p)
		if a.Status != c.status || p.Type != "gobbet:"+c.kind || p.Title == "" || p.RequestID == "" {
			t.Errorf("%s from %q: %d %+v", c.path, c.origin, a.Status, p)
		}
		if a.Header.Get("Content-Type") != "application/problem+json" {
			t.Error("not a problem document:", a.Header)
		}
	}
	if a := h.Page("decide", `{}`); a.Header.Get("Access-Control-Allow-Origin") != servertest.Origin {
		t.Error("the site's page may not read its answer:", a.Header)
	}
}

func TestMemoryOfNonsenseBreaksNothing(t *testing.T) {
	h := launched(t, atOnce())
	for _, memory := range []string{
		`null`, `7`, `"x"`, `[]`, `{"visits":"many"}`, `{"pieces":{"sign-up":{"shown":["x"]}}}`, `{"visits":-5,"pieces":{"sign-up":{"shown":[-1,0,-99999999999],"times_shown":-3}}}`,
		`{"last":99999999999999999,"visit":{"landing":"%zz:\u0000","referrer":"::::"}}`, `{"visitor":"<script>","pieces":{"` + strings.Repeat("x", 5000) + `":{}}}`,
	} {
		if n := len(decide(h, memory).Placements); n != 1 {
			t.Errorf("%.60s: %d placements", memory, n)
		}
	}
	for body, status := range map[string]int{`{`: 422, ``: 422, `[]`: 422, `{"url":5}`: 422, `{"memory":{"visitor":"` + strings.Repeat("x", 140<<10) + `"}}`: 413} {
		if a := h.Page("decide", body); a.Status != status {
			t.Errorf("%.30q: %d, want %d", body, a.Status, status)
		}
	}
}

func TestFactsOfAPageView(t *testing.T) {
	h := servertest.New(t)
	for i, rule := range []string{
		`{"fact":"page.path","op":"is","value":"/shop"}`, `{"fact":"page.query.utm_medium","op":"is","value":"email"}`, `{"fact":"source.channel","op":"is","value":"ads"}`,
		`{"fact":"source.host","op":"is","value":"search.example.com"}`, `{"fact":"device.kind","op":"is","value":"phone"}`, `{"fact":"visitor.landing_path","op":"is","value":"/from"}`,
		`{"fact":"clock.weekday","op":"present"}`, `{"fact":"visitor.new","op":"is","value":false}`, `{"fact":"device.language","op":"starts_with","value":"ga"}`,
	} {
		p := piece.New(rule[:20], piece.Popup, "salt")
		program, err := reach.Read([]byte(rule))
		if err != nil {
			t.Fatal(err)
		}
		p.Rule = program.Rule()
		id := fmt.Sprint("p", i)
		h.Launch(id, p)
		memory := `{"visits":2,"visit":{"landing":"https://shop.test/from?utm_medium=CPC&utm_source=x","referrer":"https://www.search.example.com/"}}`
		eventually(t, rule, func() bool {
			a := h.Call("POST", "/v1/sites/shop/decide", `{"url":"https://shop.test/shop/?utm_medium=email","memory":`+memory+`}`, "Origin", servertest.Origin,
				"User-Agent", "Mozilla/5.0 (iPhone; CPU iPhone OS 17_0 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/17.0 Mobile/15E148 Safari/604.1", "Accept-Language", "ga-IE,en;q=0.5")
			return strings.Contains(a.Body, `"piece":"`+id+`"`)
		})
		if err := h.Store.Pieces.PauseOne(context.Background(), pieces.Act{Site: h.Site}, id); err != nil {
			t.Fatal(err)
		}
	}
}

func shownEvent(id, kind, pieceID, variant string, at int64) string {
	return fmt.Sprintf(`{"id":%q,"kind":%q,"piece":%q,"variant":%q,"at":%d,"page":"/x?email=a@example.com#y"}`, id, kind, pieceID, variant, at)
}

func TestEventsAreStoredOnceAndForgeriesRefused(t *testing.T) {
	h := launched(t, atOnce())
	id, now := uuid.NewString(), time.Now().UnixMilli()
	good := shownEvent(id, "shown", "sign-up", "a", now)
	batch := `{"visitor":"` + who + `","visit":"visit-12345","events":[` + strings.Join([]string{
		good, good, shownEvent("no-uuid", "shown", "sign-up", "a", now), shownEvent(uuid.NewString(), "bought", "sign-up", "a", now),
		shownEvent(uuid.NewString(), "shown", "other", "a", now), shownEvent(uuid.NewString(), "shown", "sign-up", "z", now),
		shownEvent(uuid.NewString(), "closed", "sign-up", "a", 99999999999999), shownEvent(uuid.NewString(), "closed", "sign-up", "a", -5),
	}, ",") + `]}`
	for range 2 {
		var a visitor.EventsAnswer
		h.Page("events", batch).Into(t, &a)
		if a.Stored != 4 || a.Refused != 4 {
			t.Errorf("%+v", a)
		}
	}
	days, err := h.Store.Results.Days(context.Background(), h.Site, "sign-up", time.Time{})
	if err != nil || len(days) != 1 || days[0].Visitors != 1 || days[0].Showings != 1 {
		t.Errorf("%+v %v", days, err)
	}
	for _, bad := range []string{`{"visitor":"x","events":[]}`, `{"events":[]}`, `{"visitor":"` + who + `","events":[` + strings.TrimSuffix(strings.Repeat("{},", 201), ",") + `]}`} {
		if a := h.Page("events", bad); a.Status != 422 {
			t.Errorf("%.40s: %d", bad, a.Status)
		}
	}
}

// submit sends the form's answers as the first step of a walk.
func submit(h *servertest.Harness, id, design string, answers map[string]string, more ...string) servertest.Answer {
	said, err := json.Marshal(answers)
	if err != nil {
		h.T.Fatal(err)
	}
	return h.Page("advance", fmt.Sprintf(`{"walk":{"id":%q,"piece":"sign-up","variant":"a","design":%q,"visitor":%q},"steps":[{"scene":"ask","values":%s}],"page":"/classes","landing":"https://shop.test/?utm_medium=newsletter&utm_campaign=may"%s}`,
		id, design, who, said, strings.Join(more, "")))
}

func leadsOf(h *servertest.Harness) []leads.Lead {
	h.T.Helper()
	found, err := h.Store.Leads.List(context.Background(), h.Site, leads.Query{Limit: 100})
	if err != nil {
		h.T.Fatal(err)
	}
	return found
}

func TestASubmissionBecomesALeadAndAConversionOnce(t *testing.T) {
	h := launched(t, atOnce())
	design, id := decide(h, `{}`).Placements[0].Design, uuid.NewString()
	hostile := `<img src=x onerror=alert(1)>`
	for range 3 {
		if a := submit(h, id, design, map[string]string{"email": " Orla@Example.com ", "name": hostile}); a.Status != 200 {
			t.Fatal(a)
		}
	}
	got := leadsOf(h)
	if len(got) != 1 || got[0].Email != "Orla@Example.com" || got[0].Name != hostile || got[0].Times != 1 || len(got[0].Walks) != 1 || got[0].Walks[0].Channel != "email" || got[0].Walks[0].Campaign != "may" || got[0].Walks[0].Page != "/classes" {
		t.Fatalf("%+v", got)
	}
	days, _ := h.Store.Results.Days(context.Background(), h.Site, "sign-up", time.Time{})
	if len(days) != 1 || days[0].Visitors != 1 || days[0].Conversions != 1 {
		t.Errorf("%+v", days)
	}
}

func TestAnswersAreRefusedAtTheirField(t *testing.T) {
	h := launched(t, atOnce())
	design := decide(h, `{}`).Placements[0].Design
	for _, c := range []struct {
		answers map[string]string
		status  int
		at      string
	}{
		{map[string]string{"email": "none"}, 422, "steps[0].values.email"},
		{map[string]string{"name": "Orla"}, 422, "steps[0].values.email"},
		{map[string]string{"email": "a@example.com", "name": strings.Repeat("x", 5000)}, 422, "steps[0].values.name"},
		{map[string]string{"email": "a@example.com", "name": strings.Repeat("x", 10<<20)}, 413, ""},
		{map[string]string{"email": "a@example.com", "extra": "x"}, 422, "steps[0].values"},
		{map[string]string{"email": "a@example.com", "name": "a\x00b"}, 422, "steps[0].values.name"},
	} {
		a := submit(h, uuid.NewString(), design, c.answers)
		var p problem.Problem
		a.Into(t, &p)
		if a.Status != c.status || c.at != "" && (len(p.Faults) == 0 || p.Faults[0].At != c.at) {
			t.Errorf("%.60v: %d %+v", c.answers, a.Status, p)
		}
	}
	for _, wrong := range []string{uuid.NewString(), "../../etc", ""} {
		if a := submit(h, uuid.NewString(), wrong, map[string]string{"email": "a@example.com"}); a.Status != 422 {
			t.Errorf("a design %q that is none: %d", wrong, a.Status)
		}
	}
	if n := len(leadsOf(h)); n != 0 {
		t.Errorf("%d leads of refused answers", n)
	}
}

// A page that was open when the form changed still sends what it asked.
func TestAnswersToTheDesignThatAskedAreTaken(t *testing.T) {
	h := launched(t, atOnce())
	before := decide(h, `{}`).Placements[0].Design
	next := atOnce()
	next.Split.Variants[0].Design.Scenes[0].Blocks = next.Split.Variants[0].Design.Scenes[0].Blocks[3:] // no name any more
	raw, _ := json.Marshal(next)
	ctx := context.Background()
	if _, err := h.Store.Pieces.SaveDraft(ctx, h.Site, "sign-up", 1, raw); err != nil {
		t.Fatal(err)
	}
	if err := h.Store.Pieces.Launch(ctx, pieces.Act{Site: h.Site}, "sign-up", 2, next.Drawings(servertest.UsualKit(), nil)); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the new design", func() bool { return decide(h, `{}`).Placements[0].Design != before })
	if a := submit(h, uuid.NewString(), before, map[string]string{"email": "a@example.com", "name": "Orla"}); a.Status != 200 {
		t.Error(a)
	}
	if a := h.Call("GET", "/v1/sites/shop/designs/"+before, ""); a.Status != 200 || !strings.Contains(a.Header.Get("Cache-Control"), "immutable") {
		t.Error("the design of open pages is gone:", a.Status, a.Header)
	}
}

func TestWhoAsksNotToBeMeasuredIsALeadButNoNumber(t *testing.T) {
	h := launched(t, atOnce())
	design := decide(h, `{}`).Placements[0].Design
	if a := submit(h, uuid.NewString(), design, map[string]string{"email": "a@example.com"}, `,"unwatched":true`); a.Status != 200 {
		t.Fatal(a)
	}
	days, _ := h.Store.Results.Days(context.Background(), h.Site, "sign-up", time.Time{})
	if len(leadsOf(h)) != 1 || len(days) != 0 {
		t.Errorf("%d leads, %+v", len(leadsOf(h)), days)
	}
}

func TestTooManyAnswersFromOneAddressAreHeldOff(t *testing.T) {
	h := launched(t, atOnce())
	statuses, design := map[int]int{}, decide(h, `{}`).Placements[0].Design
	for range 35 {
		statuses[submit(h, uuid.NewString(), design, nil).Status]++
	}
	if statuses[429] != 5 {
		t.Errorf("%v; the 31st to 35th of a minute should be 429", statuses)
	}
}

func TestScriptsAreServedZippedAndRevalidated(t *testing.T) {
	h := launched(t, atOnce())
	a := h.Call("GET", "/v1/gobbet.js", "")
	visit := strings.TrimSuffix(strings.TrimPrefix(a.Body, `loader("`), `")`)
	if !strings.HasPrefix(visit, "/v1/visit-") || a.Header.Get("ETag") == "" {
		t.Fatal(a)
	}
	for _, path := range []string{visit, "/v1/visit-0123456789abcdef.js"} {
		got := h.Call("GET", path, "")
		if got.Body != "visit()" || strings.Contains(got.Header.Get("Cache-Control"), "immutable") != (path == visit) {
			t.Errorf("%s: %q, %v", path, got.Body, got.Header)
		}
	}
	if again := h.Call("GET", "/v1/gobbet.js", "", "If-None-Match", a.Header.Get("ETag")); again.Status != http.StatusNotModified {
		t.Error(again.Status)
	}
	for accepts, coding := range map[string]string{"gzip, deflate, br, zstd": "br", "br;q=0, gzip;q=0.5": "gzip", "deflate": "", "br; q=0.1": "br", "gzip;q=0": ""} {
		a := h.Call("GET", decide(h, `{}`).Renderer, "", "Accept-Encoding", accepts)
		if a.Header.Get("Content-Encoding") != coding || (a.Body == "pressed") != (coding == "br") || (a.Body == "export {}") != (coding == "") {
			t.Errorf("%s gets %q: %q", accepts, a.Header.Get("Content-Encoding"), a.Body)
		}
	}
	zipped := h.Call("GET", decide(h, `{}`).Renderer, "", "Accept-Encoding", "gzip")
	if zipped.Header.Get("Content-Encoding") != "gzip" || !strings.Contains(zipped.Header.Get("Cache-Control"), "immutable") || zipped.Header.Get("Access-Control-Allow-Origin") != "*" {
		t.Error(zipped.Header)
	}
}

func TestNothingOfOneVisitIsLeftForTheNext(t *testing.T) {
	h := servertest.New(t)
	p := piece.New("Members", piece.Popup, "salt")
	p.Rule = reach.Clause{Fact: "data.member", Op: reach.Is, Value: true}
	h.Launch("members", p)
	member, nobody := `{"url":"https://shop.test/a","data":{"member":true}}`, `{"url":"https://shop.test/a"}`
	ask := func(view string) (d placed) {
		t.Helper()
		h.Page("decide", view).Into(t, &d)
		return d
	}
	eventually(t, "the launch", func() bool { return len(ask(member).Placements) == 1 })
	for range 200 {
		if got := ask(nobody); len(got.Placements) != 0 {
			t.Fatalf("%+v", got.Placements)
		}
		if got := ask(member); len(got.Placements) != 1 {
			t.Fatalf("%+v", got.Placements)
		}
	}
}
