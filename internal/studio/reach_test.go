package studio_test

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/internal/servertest"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/studio/account"
	"gobbet/internal/studio/parts"
	reachplace "gobbet/internal/studio/reach"
	siteplace "gobbet/internal/studio/site"
)

// visited is a harness with a small visit log: ten visitors of /shop/a, each
// staying a minute and scrolling half way at second 20; on Mondays ten more of
// /journal/b on phones, who leave at once.
func visited(t *testing.T) *servertest.Harness {
	t.Helper()
	h := signedIn(t)
	var views []pageviews.PageView
	add := func(i int, path, title, device string, seconds int, moments string) {
		facts, _ := json.Marshal(map[string]any{"page.path": path, "page.title": title + " · Shop", "device.kind": device, "data.member": i%2 == 0, "data.total": i * 10, "visitor.visits": 1 + i%3, "source.channel": "direct"})
		views = append(views, pageviews.PageView{
			ID: fmt.Sprint(path, i), Visitor: fmt.Sprint(path, "v", i), Visit: "x", At: time.Now().Add(-time.Duration(24+i) * time.Hour), Seconds: seconds, Facts: facts, Moments: json.RawMessage(moments),
		})
	}
	for i := range 10 {
		add(i, "/shop/a", "Ash glaze", "desktop", 60, `{"marks":[1,5,9,14,20],"exit":58,"happened":[["click","#buy",30]]}`)
		add(i, "/journal/b", "What the ash knows", "phone", 2, `{}`)
	}
	if err := h.Store.PageViews.Copy(context.Background(), h.Site, views); err != nil {
		t.Fatal(err)
	}
	return h
}

func draftOf(rule, rest string) string {
	return fmt.Sprintf(`{"piece":"mine","format":"popup","rule":%s%s}`, rule, rest)
}

const scrolling = `{"all":[{"fact":"page.path","op":"starts_with","value":"/shop"},{"fact":"moment.scroll_percent","op":"gte","value":50}]}`

func rehearsed(t *testing.T, h *servertest.Harness, rule, rest string) (r reachplace.Rehearsal) {
	t.Helper()
	a := h.Call("POST", at(h, "/rehearse"), draftOf(rule, rest))
	if a.Status != http.StatusOK {
		t.Fatal(a)
	}
	a.Into(t, &r)
	return r
}

func TestARehearsalCountsWhatWouldHaveBeen(t *testing.T) {
	h := visited(t)
	r := rehearsed(t, h, scrolling, `,"caps":{"per_visitor":[{"times":1,"per":"visit"}]},"days":28`)
	if r.PageViews != 20 || r.Visitors != 20 || r.Passed != 10 || r.Showings != 10 || r.VisitorsShown != 10 || *r.TypicalWait != 20 || len(r.Lines) != 3 || r.Lines[1] != (reachplace.RehearsedLine{At: "all[0]", Alone: 10, Left: 10}) {
		t.Errorf("%+v", r)
	}
	if s := r.Stays; s.PageViews != 10 || s.StayedFor[60] != 1 || s.StayedFor[61] != 0 || s.ScrolledTo[5] != 1 || s.ScrolledTo[6] != 0 || s.Left != 1 {
		t.Errorf("%+v", s)
	}
	// Nothing within the last day; and what the log does not keep is said.
	r = rehearsed(t, h, `{"all":[{"fact":"moment.scroll_pixels","op":"gte","value":5},{"fact":"cookie.a","op":"is","value":"b"},{"fact":"device.kind","op":"is","value":"phone"}]}`, `,"days":1`)
	if r.PageViews > 1 || r.Passed != 0 || fmt.Sprint(r.Unrecorded) != "[all[0] all[1]]" {
		t.Errorf("%+v", r)
	}
	r = rehearsed(t, h, `{"any":[{"fact":"moment.click","op":"happened","value":"#buy"},{"fact":"moment.click","op":"happened","value":".no-id"},{"fact":"moment.click","op":"happened"}]}`, "")
	if r.Passed != 10 || fmt.Sprint(r.Unseen) != "[any[1]]" {
		t.Errorf("%+v", r)
	}
	wants(t, h.Call("POST", at(h, "/rehearse"), draftOf(`{"all":[{"fact":"page.path","op":"matches","value":"("}]}`, `,"caps":{"gap":"soon"},"schedule":{"days":["someday"]}`)), 422, "faults")
	wants(t, h.Call("POST", at(h, "/rehearse"), `{"rule":`), 422, "faults")
}

func TestLivePiecesAreInPlay(t *testing.T) {
	h := visited(t)
	rival := piece.New("Early bird", piece.Popup, "salt")
	rival.Rule, rival.Caps = reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: 10.0}, caps.Caps{}
	h.Launch("early", rival)
	r := rehearsed(t, h, scrolling, "")
	if r.Showings != 0 || len(r.Lost) != 1 || r.Lost[0] != (reachplace.Contest{Piece: "early", Name: "Early bird", Views: 10}) {
		t.Errorf("%+v", r)
	}
	late := piece.New("Late riser", piece.Popup, "salt")
	late.Rule, late.Caps = reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: 10.0}, caps.Caps{}
	h.Launch("late", late)
	var order reachplace.Order
	h.Call("GET", at(h, "/order"), "").Into(t, &order)
	if len(order.Pieces) != 2 || order.Pieces[0].ID != "early" || order.Pieces[0].Shown != 10 || len(order.Pieces[0].Lost) != 0 || order.Pieces[1].Lost[0].Views != 10 || order.Views != 20 {
		t.Errorf("%+v", order)
	}
	h.Call("PUT", at(h, "/order"), `{"version":1,"pieces":["late","early","gone"]}`).Into(t, &order)
	if order.Pieces[0].ID != "late" || order.Pieces[0].Shown != 10 || order.Pieces[1].Shown != 0 {
		t.Errorf("%+v", order)
	}
	wants(t, h.Call("PUT", at(h, "/order"), `{"pieces":"late"}`), 422, "faults")
	wants(t, h.Call("PUT", at(h, "/order"), fmt.Sprintf(`{"pieces":[%s"x"]}`, strings.Repeat(`"x",`, 1000))), 422, "faults")
}

func TestRecordedValuesComeByTheirNames(t *testing.T) {
	h := visited(t)
	values := func(body string) (v reachplace.ValuesAnswer) {
		t.Helper()
		a := h.Call("POST", at(h, "/values"), body)
		if a.Status != http.StatusOK {
			t.Fatal(a)
		}
		a.Into(t, &v)
		return v
	}
	if v := values(`{"fact":"page.path","search":"GLAZE"}`); v.Matched != 1 || v.Values[0].Value != "/shop/a" || v.Values[0].Label != "Ash glaze" || v.Values[0].Views != 10 {
		t.Errorf("%+v", v)
	}
	if v := values(`{"clause":{"fact":"page.path","op":"matches","value":"^/j.*b$"}}`); v.Matched != 1 || v.Views != 10 || v.Values[0].Value != "/journal/b" {
		t.Errorf("%+v", v)
	}
	if v := values(`{"fact":"data."}`); len(v.Values) != 2 || v.Values[0].Label+v.Values[1].Label != "flagnumber" {
		t.Errorf("%+v", v)
	}
	if v := values(`{"fact":"moment.click","search":"buy"}`); len(v.Values) != 1 || v.Values[0].Value != "#buy" {
		t.Errorf("%+v", v)
	}
	if v := values(`{"fact":"no.such","search":"x"}`); v.Values == nil || v.Matched != 0 {
		t.Errorf("%+v", v)
	}
	p := wants(t, h.Call("POST", at(h, "/values"), `{"clause":{"fact":"page.path","op":"matches","value":"a("}}`), 422, "faults")
	if p.Faults[0].At != "value" {
		t.Error(p.Faults)
	}
	var seen []reachplace.RecordedVisitor
	h.Call("POST", at(h, "/visitors"), fmt.Sprintf(`{"rule":%s}`, scrolling)).Into(t, &seen)
	if len(seen) != 12 || !seen[0].Comes || seen[0].Facts["page.path"] != "/shop/a" || seen[0].Stay.Seconds != 60 || *seen[0].Stay.Marks[4] != 20 || seen[6].Comes {
		t.Errorf("%+v", seen)
	}
}

func TestSavedReachesAreUsedAndKept(t *testing.T) {
	h := visited(t)
	put := func(id, body string) servertest.Answer { return h.Call("PUT", at(h, "/reaches/"+id), body) }
	var list []reachplace.SavedReach
	put("guests", `{"name":"Guests","rule":{"not":{"fact":"data.member","op":"is","value":true}}}`).Into(t, &list)
	if len(list) != 1 || list[0].Phrase != "not (member is true)" || len(list[0].Used) != 0 {
		t.Fatalf("%+v", list)
	}
	for _, c := range []struct{ id, body, at string }{
		{"two", `{"name":" guests ","rule":{"all":[]}}`, "name"},
		{"two", `{"name":"","rule":{"all":[]}}`, "name"},
		{"two", `{"name":"Two","rule":{"all":[{"fact":"no.such","op":"is","value":1}]}}`, "rule.all[0].fact"},
		{"two", `{"name":"Two","rule":{"saved":"guests"}}`, "rule.saved"},
		{"Two!", `{"name":"Two","rule":{"all":[]}}`, "id"},
	} {
		if p := wants(t, put(c.id, c.body), 422, "faults"); p.Faults[0].At != c.at {
			t.Errorf("%s: %+v", c.body, p.Faults)
		}
	}
	if r := rehearsed(t, h, `{"all":[{"saved":"guests"}]}`, ""); r.Passed != 10 || r.Lines[1].At != "all[0].saved" {
		t.Errorf("%+v", r)
	}
	p := wants(t, h.Call("POST", at(h, "/rehearse"), draftOf(`{"all":[{"saved":"gone"}]}`, "")), 422, "faults")
	if p.Faults[0].At != "rule.all[0].saved" {
		t.Errorf("%+v", p.Faults)
	}
	// A draft that stands on it, and what is live.
	a := h.Call("POST", at(h, "/pieces"), `{"name":"Stands","format":"popup"}`)
	var made struct{ ID string }
	a.Into(t, &made)
	doc := strings.Replace(between(t, a.Body, `"draft":`, `,"version":1`), `"rule":{`, `"rule":{"all":[{"saved":"guests"}]},"was":{`, 1)
	doc = doc[:strings.Index(doc, `,"was":`)] + doc[strings.Index(doc, `,"caps":`):]
	saved := h.Call("PUT", at(h, "/pieces/"+made.ID), fmt.Sprintf(`{"version":1,"draft":%s}`, doc))
	if saved.Status != http.StatusOK || !strings.Contains(saved.Body, "member is true") {
		t.Fatal(saved)
	}
	if a := h.Call("POST", at(h, "/pieces/"+made.ID+"/launch"), `{"version":2}`); a.Status != http.StatusOK {
		t.Fatal(a)
	}
	h.Call("GET", at(h, "/reaches"), "").Into(t, &list)
	if len(list[0].Used) != 1 || list[0].Used[0] != (parts.UsedIn{ID: made.ID, Name: "Stands", Live: true}) {
		t.Errorf("%+v", list)
	}
	if p := wants(t, h.Call("DELETE", at(h, "/reaches/guests"), ""), 409, "in-use"); !strings.Contains(p.Title, "“Stands”") {
		t.Error(p.Title)
	}
	// What is live goes by a change at once.
	decided := func(member string) bool {
		a := h.Page("decide", fmt.Sprintf(`{"url":"https://shop.test/","data":{"member":%s},"memory":{"visitor":"visitor-1234"}}`, member))
		return strings.Contains(a.Body, made.ID)
	}
	within(t, func() bool { return decided("false") && !decided("true") })
	put("guests", `{"name":"Members","rule":{"fact":"data.member","op":"is","value":true}}`)
	within(t, func() bool { return !decided("false") && decided("true") })
	// Gone behind the studio's back, the board still says which piece suffers.
	if err := h.Store.Reaches.Remove(context.Background(), h.Site, "guests"); err != nil {
		t.Fatal(err)
	}
	if a := h.Call("GET", at(h, "/board"), ""); !strings.Contains(a.Body, "names a saved reach that is not here") {
		t.Errorf("%.300s", a.Body)
	}
	wants(t, h.Call("DELETE", at(h, "/reaches/never"), ""), 404, "not-found")
}

func between(t *testing.T, s, from, to string) string {
	t.Helper()
	i := strings.Index(s, from)
	j := strings.Index(s, to)
	if i < 0 || j < i {
		t.Fatalf("no %s … %s in %.200s", from, to, s)
	}
	return s[i+len(from) : j]
}

func within(t *testing.T, is func() bool) {
	t.Helper()
	for end := time.Now().Add(2 * time.Second); !is(); time.Sleep(10 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("did not come about")
		}
	}
}

func TestRealVisitorsAreOfEveryDevice(t *testing.T) {
	h := visited(t)
	var views []pageviews.PageView
	for i := range 30 {
		facts, _ := json.Marshal(map[string]any{"page.path": "/shop/a", "device.kind": "desktop"})
		views = append(views, pageviews.PageView{ID: fmt.Sprint("late", i), Visitor: fmt.Sprint("late", i), Visit: "x", At: time.Now().Add(-time.Duration(i) * time.Minute), Seconds: 9, Facts: facts, Moments: json.RawMessage(`{}`)})
	}
	if err := h.Store.PageViews.Copy(context.Background(), h.Site, views); err != nil {
		t.Fatal(err)
	}
	var list []reachplace.RecordedVisitor
	h.Call("POST", at(h, "/visitors"), `{"rule":{"all":[]}}`).Into(t, &list)
	kinds := map[any]int{}
	for i, v := range list {
		if kinds[v.Facts["device.kind"]]++; !v.Comes || i > 0 && v.At.After(list[i-1].At) {
			t.Errorf("%d: %+v", i, v)
		}
	}
	if len(list) != 6 || kinds["desktop"] != 3 || kinds["phone"] != 3 {
		t.Error(len(list), kinds)
	}
	h.Call("POST", at(h, "/visitors"), `{"rule":{"fact":"page.path","op":"is","value":"/shop/a"}}`).Into(t, &list)
	if len(list) != 12 || list[0].Facts["device.kind"] != "desktop" || !list[5].Comes || list[6].Comes {
		t.Errorf("%d %+v", len(list), list)
	}
	h.Call("POST", at(h, "/visitors"), `{"rule":{"any":[]}}`).Into(t, &list)
	if len(list) != 6 || list[0].Comes {
		t.Errorf("%+v", list)
	}
}

func TestATriedVisitorSeesTheirMonth(t *testing.T) {
	h := visited(t)
	try := func(rule, rest string) (a reachplace.TryAnswer) {
		t.Helper()
		var wire struct {
			reachplace.TryAnswer
			Verdict json.RawMessage   `json:"verdict"`
			Waiting json.RawMessage   `json:"waiting"`
			Lines   []json.RawMessage `json:"lines"`
		}
		got := h.Call("POST", at(h, "/try"), draftOf(rule, rest))
		if got.Status != http.StatusOK {
			t.Fatal(got)
		}
		got.Into(t, &wire)
		return wire.TryAnswer
	}
	onShop := `,"facts":{"page.path":"/shop/a","device.kind":"desktop","visitor.visits":1},"every":2`
	a := try(scrolling, onShop+`,"caps":{"after_close":"P7D"}`)
	if !a.Shows || !a.Typical || *a.At != 20 || a.Say != "Waits. Shows at 0:20, when scroll reaches 50 %." || a.Slot != "Its place on the page is free." {
		t.Errorf("%+v", a)
	}
	// A rest of seven days and visits every other day: days 1, 9, 17, 25.
	if a.MonthSay != "Shows on days 1, 9, 17 and 25, closed each time." || !a.Month[2].Visit || a.Month[2].Shows || !strings.Contains(a.Month[2].Held, "closed it") || a.Month[1].Visit {
		t.Errorf("%s %+v", a.MonthSay, a.Month[:4])
	}
	if a := try(scrolling, onShop+`,"caps":{"after_close":"P7D"},"shown_days":3,"closed_days":3`); a.Shows || !strings.HasPrefix(a.Say, "Held back. It waits, because this visitor closed it. Possible again at ") {
		t.Errorf("%+v", a)
	}
	if a := try(`{"all":[{"fact":"visitor.visits","op":"gte","value":3}]}`, onShop); a.Shows || a.Say != "Does not show on this page view. Condition: number of visits is at least 3; it is 1." || a.MonthSay[:18] != "Shows on days 5, 7" {
		t.Errorf("%s %s", a.Say, a.MonthSay)
	}
	if a := try(`{"all":[]}`, onShop); a.Say != "Shows on arrival." {
		t.Error(a.Say)
	}
	if a := try(`{"all":[{"fact":"moment.seconds_on_page","op":"gte","value":90}]}`, onShop); a.Say != "Waits until time on page reaches 90 s. A typical stay here, 1:00, ends before." {
		t.Error(a.Say)
	}
	if a := try(`{"all":[{"fact":"moment.click","op":"happened","value":"#buy"}]}`, onShop+`,"stay":{"seconds":5,"marks":[],"exit":null,"idles":[],"happened":[["click","#buy",4]]}`); a.Typical || *a.At != 4 {
		t.Errorf("%+v", a)
	}
	// What the log knows of the page itself need not be told.
	if a := try(`{"all":[{"fact":"page.title","op":"starts_with","value":"Ash"}]}`, onShop); a.Say != "Shows on arrival." {
		t.Error(a.Say)
	}
	// Only in the evening: on the site's clock, whatever the visitor's.
	evening := `,"schedule":{"hours":[{"from":1080,"to":1320}]}`
	if a := try(`{"all":[]}`, onShop+evening+`,"now":"2026-11-24T19:30"`); !a.Shows {
		t.Error(a.Say)
	}
	if a := try(`{"all":[]}`, onShop+evening+`,"now":"2026-11-24T12:30"`); a.Say != "Held back. Its schedule does not allow it now." {
		t.Error(a.Say)
	}
	rival := piece.New("Early bird", piece.Popup, "salt")
	rival.Rule = reach.All{}
	h.Launch("early", rival)
	if a := try(scrolling, onShop); a.Shows || a.Say != "Shown instead: “Early bird”." || a.Slot != "“Early bird” comes at 0:00 and is shown instead." {
		t.Errorf("%+v", a)
	}
	for _, rest := range []string{`,"facts":7`, `,"facts":{},"stay":{"marks":"x"}`, `,"every":"x"`} {
		wants(t, h.Call("POST", at(h, "/try"), draftOf(`{"all":[]}`, rest)), 422, "faults")
	}
	if a := try(`{"all":[]}`, `,"facts":null,"now":"never","every":-3,"shown_days":-1e308,"stay":{"seconds":-5,"marks":[-1,null],"exit":-4,"idles":[[-1,-1]],"happened":[[1,2,3]]}`); a.Month == nil {
		t.Errorf("%+v", a)
	}
}

func TestALinkToTheInspectorIsSigned(t *testing.T) {
	h := signedIn(t)
	h.Launch("mine", piece.New("Mine", piece.Popup, "salt"))
	var link reachplace.InspectLink
	h.Call("POST", at(h, "/pieces/mine/inspect"), `{"path":"/shop/a?x=1"}`).Into(t, &link)
	u, err := url.Parse(link.URL)
	if err != nil || u.Scheme+"://"+u.Host+u.Path+"?"+u.RawQuery != servertest.Origin+"/shop/a?x=1" || !strings.HasPrefix(u.Fragment, "gobbet=") || link.Until.Before(time.Now().Add(time.Hour)) {
		t.Fatalf("%+v %v", link, err)
	}
	if a := h.Page("inspect", fmt.Sprintf(`{"token":%q,"view":{"url":"https://shop.test/","memory":{}}}`, strings.TrimPrefix(u.Fragment, "gobbet="))); a.Status != http.StatusOK {
		t.Error(a)
	}
	for _, path := range []string{"", "shop", "//evil.test/", "https://evil.test/", "javascript:alert(1)", "/" + strings.Repeat("x", 3000), "/%zz"} {
		body, _ := json.Marshal(map[string]string{"path": path})
		if a := h.Call("POST", at(h, "/pieces/mine/inspect"), string(body)); a.Status != 422 {
			t.Errorf("%.40q: %d %s", path, a.Status, a.Body)
		}
	}
	wants(t, h.Call("POST", at(h, "/pieces/gone/inspect"), `{"path":"/"}`), 404, "not-found")
}

func TestTheBoardSaysThatAScheduleHasEnded(t *testing.T) {
	h := signedIn(t)
	for id, until := range map[string]string{"past": "2020-01-01T00:00", "to-come": "2099-01-01T00:00", "none": ""} {
		p := piece.New(id, piece.Popup, "salt")
		p.Schedule.Until = until
		h.Launch(id, p)
	}
	var board struct {
		Cards []struct {
			ID    string `json:"id"`
			State string `json:"state"`
		} `json:"cards"`
	}
	if err := h.Store.Pieces.Pass(ctx); err != nil {
		t.Fatal(err)
	}
	h.Call("GET", at(h, "/board"), "").Into(t, &board)
	for _, c := range board.Cards {
		if (c.State == "over") != (c.ID == "past") {
			t.Errorf("%+v", c)
		}
	}
	if len(board.Cards) != 3 {
		t.Errorf("%+v", board)
	}
}

func TestMannersAreKept(t *testing.T) {
	h := signedIn(t)
	var info siteplace.SiteInfo
	var me account.Me
	h.Call("GET", "/api/me", "").Into(t, &me)
	put := func(part setup.Part, settings string) servertest.Answer {
		return h.Call("PUT", at(h, "/settings/"+string(part)), fmt.Sprintf(`{"version":%q,"settings":%s}`, me.Sites[0].SettingsVersions[part], settings))
	}
	// Each part is saved by itself, whatever the rest of what is sent says, and at the version it has.
	const all = `{"limits":{"overlays":2,"quiet":"PT1M"},"record":50,"exit":"calm","channels":{"email":["Post.example.com"]}}`
	put(setup.PartLimits, all)
	put(setup.PartSources, all)
	put(setup.PartRecording, all).Into(t, &info)
	if info.Settings.Limits != (caps.SiteLimits{Overlays: 2, Quiet: "PT1M"}) || info.Settings.Record != 50 || info.Settings.Channels["email"][0] != "post.example.com" {
		t.Errorf("%+v", info)
	}
	const wrong = `{"limits":{"quiet":"a while"},"record":-1,"channels":{"email":["no host"]}}`
	for part, place := range map[setup.Part]string{setup.PartLimits: "limits.quiet", setup.PartRecording: "record", setup.PartSources: "channels.email[0]"} {
		if p := wants(t, put(part, wrong), 422, "faults"); len(p.Faults) != 1 || p.Faults[0].At != place {
			t.Errorf("%s: %+v", part, p.Faults)
		}
	}
	// From the version before it is another window's; what is there already is no change.
	wants(t, put(setup.PartRecording, `{"record":60}`), 409, "stale")
	if a := put(setup.PartRecording, all); a.Status != 200 {
		t.Error(a)
	}
	wants(t, h.Call("PUT", at(h, "/settings/colour"), `{"version":"","settings":{}}`), 404, "not-found")
	h.Call("GET", "/api/me", "").Into(t, &me)
	if me.Sites[0].Settings.Record != 50 {
		t.Errorf("%+v", me)
	}
}

// A variant's own moments count in the rehearsal, and its lines stay those of the reach.
func TestARehearsalIsOfOneVariant(t *testing.T) {
	h := visited(t)
	for _, c := range []struct {
		more  string
		shown int
	}{
		{"", 10}, {`,"moments":{"all":[{"fact":"moment.seconds_on_page","op":"gte","value":30}]}`, 10},
		{`,"moments":{"all":[{"fact":"moment.seconds_on_page","op":"gte","value":90}]}`, 0}, {`,"moments":null`, 10},
	} {
		r := rehearsed(t, h, scrolling, c.more)
		if r.VisitorsShown != c.shown || len(r.Lines) != len(rehearsed(t, h, scrolling, "").Lines) || r.Lines[0].At != "" {
			t.Errorf("%s: %d see it, %+v", c.more, r.VisitorsShown, r.Lines)
		}
	}
	if a := h.Call("POST", at(h, "/rehearse"), draftOf(scrolling, `,"moments":{"all":[{"fact":"moment.nothing","op":"gte","value":1}]}`)); a.Status != http.StatusUnprocessableEntity || !strings.Contains(a.Body, `"moments`) {
		t.Error(a)
	}
}
