package visitor_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/core/setup"
	"gobbet/internal/servertest"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/token"
)

func recorded(h *servertest.Harness) (views []pageviews.PageView) {
	h.T.Helper()
	if _, err := h.Store.PageViews.Read(context.Background(), h.Site, time.Time{}, time.Time{}, func(v pageviews.PageView) error {
		views = append(views, v)
		return nil
	}); err != nil {
		h.T.Fatal(err)
	}
	return views
}

const aView = `{"url":"https://shop.test/shop/celadon/?mail=iris@example.com&utm_source=letter","title":"Celadon","width":1280,"language":"en-IE","offset":60,"kind":"product",
	"data":{"member":true,"basket_total":42.5,"card":"4111 1111 1111 1111","mail":"iris@example.com","plan":"gold"},"cookies":{"session":"secret"},
	"memory":{"visitor":"visitor-1234","visits":3,"pages":9,"tags":["vip","iris@example.com"],"visit":{"id":"visit-1234","pages":2,"landing":"https://shop.test/?utm_medium=email&utm_campaign=may","referrer":"https://mail.example.com/inbox?u=iris"},"pieces":{"p":{"times_shown":2}}}}`

func view(id string, rest string) string {
	return fmt.Sprintf(`{"id":%q,"age":76000,"view":%s,%s}`, id, aView, rest)
}

func TestAPageViewIsRecordedWithoutAnythingPersonal(t *testing.T) {
	h := servertest.New(t)
	h.Launch("p", piece.New("P", piece.Popup, "salt"))
	eventually(t, "the launch", func() bool { return len(decide(h, `{}`).Placements) == 1 })
	a := h.Page("views", view("view-12345678", `"seconds":75,"marks":[2,5,null,9],"exit":70,"idles":[[20,12]],"happened":[["click","#buy",31],["event","mail iris@example.com",3],["steal","x",1],["seen","#foot",900]]`))
	if a.Status != http.StatusNoContent {
		t.Fatal(a)
	}
	got := recorded(h)
	if len(got) != 1 {
		t.Fatalf("%d page views", len(got))
	}
	text := string(got[0].Facts) + string(got[0].Moments) + got[0].Visitor + got[0].Visit
	for _, personal := range []string{"iris", "@", "4111", "secret", "inbox", "visitor-1234", "visit-1234", "mail=", "shop.test"} {
		if strings.Contains(text, personal) {
			t.Errorf("%q is kept: %s", personal, text)
		}
	}
	var facts map[string]any
	if err := json.Unmarshal(got[0].Facts, &facts); err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]any{
		"page.path": "/shop/celadon", "page.kind": "product", "page.title": "Celadon", "data.member": true, "data.basket_total": 42.5, "data.plan": "gold",
		"source.channel": "email", "source.utm_campaign": "may", "source.host": "mail.example.com", "place.country": "IE", "place.region": "Leinster",
		"visitor.visits": 3.0, "visitor.landing_path": "/", "history.shown.p": 2.0, "device.kind": "desktop", "device.width": 1280.0,
	} {
		if facts[name] != want {
			t.Errorf("%s is %v, want %v", name, facts[name], want)
		}
	}
	if tags, _ := json.Marshal(facts["visitor.tags"]); string(tags) != `["vip"]` {
		t.Errorf("tags %s", tags)
	}
	var m rehearse.Moments
	if err := json.Unmarshal(got[0].Moments, &m); err != nil {
		t.Fatal(err)
	}
	if len(m.Marks) != 2 || *m.Exit != 70 || fmt.Sprint(m.Idles) != "[[20 12]]" || len(m.Happened) != 1 || m.Happened[0][1] != "#buy" {
		t.Errorf("%s", got[0].Moments)
	}
	if ago := time.Since(got[0].At); ago < 75*time.Second || ago > 75*time.Second+patience {
		t.Errorf("arrived %v ago", ago)
	}
	// Stayed on: the same page view, longer.
	h.Page("views", view("view-12345678", `"seconds":100,"marks":[],"exit":null,"idles":[],"happened":[]`))
	h.Page("views", view("view-12345678", `"seconds":80,"marks":[],"exit":null,"idles":[],"happened":[]`))
	late := strings.Replace(view("view-12345678", `"seconds":9999,"marks":[],"exit":null,"idles":[],"happened":[]`), `"age":76000`, `"age":14400001`, 1)
	if a := h.Page("views", late); a.Status != http.StatusNoContent {
		t.Error(a)
	}
	if got := recorded(h); len(got) != 1 || got[0].Seconds != 100 {
		t.Errorf("%+v", got)
	}
}

func TestNonsenseIsNotRecorded(t *testing.T) {
	h := servertest.New(t)
	for _, body := range []string{
		`{`, `[]`, `null`, `{"id":"x"}`, view("", `"seconds":1`), view("view-12345678\u0000", `"seconds":1`), `{"id":"view-12345678","view":{"memory":7},"seconds":9}`,
		`{"id":"view-12345678","seconds":"long"}`, `{"id":"view-12345678","happened":[["a"]]}` + strings.Repeat(" ", 200<<10),
	} {
		if a := h.Page("views", body); a.Status < 400 || a.Status >= 500 {
			t.Errorf("%.60s: %d", body, a.Status)
		}
	}
	for _, rest := range []string{
		`"seconds":-5,"marks":[-1],"exit":-1,"idles":[[-1,-1]],"happened":[[1,2,3]]`,
		`"seconds":999999999,"marks":[1,2,3,4,5,6,7,8,9,10,11,12],"exit":999999999999,"idles":[[1,99999999]],"happened":[]`,
	} {
		if a := h.Page("views", view("view-"+fmt.Sprint(len(rest))+"-abcdef", rest)); a.Status != http.StatusNoContent {
			t.Errorf("%s: %s", rest, a.Body)
		}
	}
	for _, v := range recorded(h) {
		var m rehearse.Moments
		if err := json.Unmarshal(v.Moments, &m); err != nil || v.Seconds < 0 || v.Seconds > 4*3600 || len(m.Marks) > 10 || m.Exit != nil {
			t.Errorf("%+v %s", v, v.Moments)
		}
	}
}

func TestOnlyASampleIsRecorded(t *testing.T) {
	h := servertest.New(t)
	settings := setup.Default()
	settings.Record = 30
	h.Settings(settings)
	asks := func(visitor string) bool {
		var d struct{ Record bool }
		h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/","memory":{"visitor":%q}}`, visitor)).Into(t, &d)
		return d.Record
	}
	eventually(t, "the sample", func() bool {
		n := 0
		for i := range 60 {
			if asks(fmt.Sprint("visitor-", i)) {
				n++
			}
		}
		return n > 5 && n < 35
	})
	for i := range 60 {
		who := fmt.Sprint("visitor-", i)
		body := fmt.Sprintf(`{"id":"view-%08d","age":10,"view":{"url":"https://shop.test/","memory":{"visitor":%q}},"seconds":1}`, i, who)
		before := len(recorded(h))
		h.Page("views", body)
		if stored := len(recorded(h)) > before; stored != asks(who) {
			t.Errorf("%s: recorded %v, asked for %v", who, stored, asks(who))
		}
	}
	if asks("") {
		t.Error("a visitor without a name is recorded")
	}
}

func ruled(r reach.Rule) *piece.Piece {
	p := piece.New("Ruled", piece.Popup, "salt")
	p.Rule = r
	return p
}

func clause(fact string, op reach.Op, value any) reach.Clause {
	return reach.Clause{Fact: fact, Op: op, Value: value}
}

func TestOnlyCookiesThatARuleNamesAreAskedFor(t *testing.T) {
	h := servertest.New(t)
	h.Launch("a", ruled(reach.Any{clause("cookie.plan", reach.Is, "gold"), reach.Not{Rule: clause("cookie.seen", reach.Present, nil)}}))
	var d struct {
		Placements []struct{ Piece string }
		Cookies    []string
	}
	ask := func(cookies string) {
		h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/","cookies":%s,"memory":{}}`, cookies)).Into(t, &d)
	}
	eventually(t, "the launch", func() bool { ask(`{"seen":"1"}`); return len(d.Cookies) == 2 })
	if fmt.Sprint(d.Cookies) != "[plan seen]" || len(d.Placements) != 0 {
		t.Errorf("%+v", d)
	}
	if ask(`{"seen":"1","plan":"GOLD"}`); len(d.Placements) != 1 {
		t.Errorf("%+v", d)
	}
}

func TestFactsOfTheSiteAndThePlace(t *testing.T) {
	h := servertest.New(t)
	h.Launch("a", ruled(reach.All{clause("data.member", reach.Is, true), clause("data.total", reach.Gte, 40.0), clause("page.kind", reach.Is, "basket"), clause("place.country", reach.Is, "IE"), clause("visitor.tags", reach.Is, "vip")}))
	decided := func(body string) int {
		var d placed
		a := h.Page("decide", body)
		if a.Status != http.StatusOK {
			t.Fatal(a)
		}
		a.Into(t, &d)
		return len(d.Placements)
	}
	good := `{"url":"https://shop.test/","kind":"basket","data":{"member":true,"total":40},"memory":{"tags":["new","vip"]}}`
	eventually(t, "the launch", func() bool { return decided(good) == 1 })
	for _, body := range []string{
		`{"url":"https://shop.test/","kind":"basket","data":{"member":"true","total":40},"memory":{"tags":["vip"]}}`,
		`{"url":"https://shop.test/","kind":"basket","data":{"member":true,"total":"40"},"memory":{"tags":["vip"]}}`,
		`{"url":"https://shop.test/","kind":"basket","data":{"member":true,"total":{"of":[40]}},"memory":{"tags":["vip"]}}`,
		`{"url":"https://shop.test/","kind":"basket","data":null,"memory":{"tags":["vip"]}}`,
		`{"url":"https://shop.test/","kind":"basket","data":{"member":true,"total":40},"memory":{"tags":"vip"}}`,
	} {
		if decided(body) != 0 {
			t.Errorf("%s lets it show", body)
		}
	}
	many := map[string]any{}
	for i := range 500 {
		many[fmt.Sprint("x", i, strings.Repeat("y", 40))] = strings.Repeat("z", 20)
	}
	text, _ := json.Marshal(many)
	decided(fmt.Sprintf(`{"url":"https://shop.test/","data":%s,"memory":{}}`, text))
}

func TestTheSitesSettingsReachThePage(t *testing.T) {
	h := servertest.New(t)
	settings := setup.Settings{Limits: caps.SiteLimits{Overlays: 2, Quiet: "PT90S"}, Record: 0, Exit: setup.Eager, Channels: map[string][]string{"search": {"find.example.com"}}}
	h.Settings(settings)
	h.Launch("a", ruled(clause("source.channel", reach.Is, "search")))
	type answer struct {
		Placements      []struct{ Piece string }
		Overlays, Quiet int
		Exit            string
		Record          bool
	}
	var d answer
	from := func(host, rest string) {
		d = answer{}
		h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/","memory":{"visitor":"visitor-1234","visit":{"landing":"https://shop.test/","referrer":"https://%s/"%s}}`, host, rest)).Into(t, &d)
	}
	eventually(t, "the launch", func() bool { from("www.find.example.com", "}"); return len(d.Placements) == 1 })
	if d.Overlays != 2 || d.Quiet != 90 || d.Exit != "eager" || d.Record {
		t.Errorf("%+v", d)
	}
	if from("other.example.com", "}"); len(d.Placements) != 0 {
		t.Error("another host is search too")
	}
	if from("find.example.com", `,"overlays":2}`); len(d.Placements) != 0 {
		t.Error("a full visit gets one more")
	}
	// The page has it rest, and tries it again when the time is over.
	if from("find.example.com", fmt.Sprintf(`},"shown":%d`, time.Now().Unix())); len(d.Placements) != 1 || d.Quiet != 90 {
		t.Errorf("what the minimum time keeps back is not tried again: %+v", d)
	}
}

func TestTheInspectorNeedsAPassAndWritesNothing(t *testing.T) {
	h := servertest.New(t)
	ctx := context.Background()
	h.Launch("live", ruled(reach.All{clause("page.path", reach.StartsWith, "/shop"), clause("moment.scroll_percent", reach.Gte, 50.0)}))
	raw, _ := json.Marshal(ruled(reach.Not{Rule: clause("page.path", reach.StartsWith, "/shop")}))
	if err := h.Store.Pieces.Add(ctx, h.Site, "draft", raw); err != nil {
		t.Fatal(err)
	}
	sites, err := h.Store.Sites.ByID(ctx, nil)
	if err != nil {
		t.Fatal(err)
	}
	inspect := func(token string) servertest.Answer {
		return h.Page("inspect", fmt.Sprintf(`{"token":%q,"view":%s}`, token, aView))
	}
	good := token.InspectPass(sites[0].Secret, "live", time.Now().Add(time.Hour))
	eventually(t, "the launch", func() bool {
		a := inspect(good)
		if a.Status != http.StatusOK {
			t.Fatal(a)
		}
		return strings.Contains(a.Body, `"id":"live","name":"Ruled","draft":false`)
	})
	var wire struct {
		Piece  string
		Pieces []struct {
			ID, Slot, Verdict, Held string
			Draft                   bool
			Waiting                 json.RawMessage
			Lines                   []struct{ Phrase, Verdict string }
			Drawing                 struct{ Scenes []json.RawMessage }
		}
	}
	inspect(good).Into(t, &wire)
	if wire.Piece != "live" || len(wire.Pieces) != 2 || wire.Pieces[0].ID != "live" || wire.Pieces[0].Verdict != "waits" || wire.Pieces[0].Draft || len(wire.Pieces[0].Lines) != 2 ||
		string(wire.Pieces[0].Waiting) != `{"fact":"moment.scroll_percent","op":"gte","value":50}` || len(wire.Pieces[0].Drawing.Scenes) != 2 || !wire.Pieces[1].Draft || wire.Pieces[1].Verdict != "no" {
		t.Errorf("%.600s", inspect(good).Body)
	}
	other := sites[0]
	other.Secret = []byte("another site's")
	for _, token := range []string{"", "x", ".", good + "x", "x" + good, token.InspectPass(sites[0].Secret, "live", time.Now().Add(-time.Second)), token.InspectPass(other.Secret, "live", time.Now().Add(time.Hour)), strings.Repeat("a", 9000)} {
		if a := inspect(token); a.Status != http.StatusForbidden {
			t.Errorf("%.30q: %d", token, a.Status)
		}
	}
	if len(recorded(h)) != 0 {
		t.Error("inspecting was recorded")
	}
}

func TestADrawingThatFailsIsToldOf(t *testing.T) {
	h := launched(t, atOnce())
	if a := h.Page("faults", `{"piece":"sign-up","says":"TypeError: x\u0000 is <b>null</b> `+strings.Repeat("y", 4000)+`"}`); a.Status != http.StatusNoContent {
		t.Fatal(a)
	}
	if a := h.Page("faults", `{"piece":"another","says":"x"}`); a.Status != http.StatusNotFound {
		t.Error(a)
	}
	eventually(t, "what was told", func() bool {
		told, err := h.Store.Sites.Refusals(context.Background(), h.Site, 7)
		return err == nil && len(told) == 1 && told[0].Kind == "drawing" && told[0].Times == 1 &&
			strings.HasPrefix(told[0].Example, "Sign-up: TypeError: x") && len(told[0].Example) <= 300
	})
	for range 20 {
		if a := h.Page("faults", `{"piece":"sign-up","says":"x"}`); a.Status == http.StatusTooManyRequests {
			return
		}
	}
	t.Error("it may be told any number of times")
}
