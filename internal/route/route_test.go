package route

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/internal/limits"
	"gobbet/internal/problem"
	"gobbet/internal/store/sites"
)

// gate lets through who says so in a header, and knows one site of account 7.
type gate struct{}

type who struct{}

func (gate) SignedIn(ctx context.Context) int64 { id, _ := ctx.Value(who{}).(int64); return id }

func (gate) SiteOf(_ context.Context, account, site int64) (sites.Site, error) {
	if account == 7 && site == 3 {
		return sites.Site{ID: 3, Name: "Shop"}, nil
	}
	return sites.Site{}, fault.ErrNotFound
}

type said struct {
	Name string `json:"name"`
	Many int    `json:"many"`
}

func (s *said) SetDefaults() { s.Many = 5 }

type listed struct {
	Q    string `form:"q"`
	From string `form:"from"`
}

func serve(t *testing.T, routes ...Route) *httptest.Server {
	t.Helper()
	gin.SetMode(gin.TestMode)
	e := gin.New()
	New(gate{}, limits.New(nil)).Mount(e.Group("/api"), routes)
	s := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Header.Get("X-Who") == "member" {
			r = r.WithContext(context.WithValue(r.Context(), who{}, int64(7)))
		}
		e.ServeHTTP(w, r)
	}))
	t.Cleanup(s.Close)
	return s
}

func ask(t *testing.T, s *httptest.Server, method, path, body string, as string) (int, string, http.Header) {
	t.Helper()
	r, err := http.NewRequest(method, s.URL+"/api"+path, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	r.Header.Set("X-Who", as)
	a, err := http.DefaultClient.Do(r)
	if err != nil {
		t.Fatal(err)
	}
	defer a.Body.Close()
	all, _ := io.ReadAll(a.Body)
	return a.StatusCode, strings.TrimSpace(string(all)), a.Header
}

func TestWhatGoesInAndComesOut(t *testing.T) {
	s := serve(t,
		Get("/sites/:site/list", func(c *Call, q listed) ([]string, error) { return []string{c.Site.Name, q.Q, q.From}, nil }),
		Post("/sites/:site/things", func(_ *Call, in said) (said, error) { return in, nil }).Created(),
		Put("/sites/:site/things/:id", func(c *Call, in said) (said, error) { in.Name += c.Param("id"); return in, nil }),
		Delete("/sites/:site/things/:id", func(*Call, None) (None, error) { return None{}, nil }),
		Upload("POST", "/sites/:site/files", 1000, func(_ *Call, q listed, body []byte) (int, error) { return len(q.Q) + len(body), nil }),
		File("/sites/:site/table.csv", CSVMedia, func(c *Call, _ None) error {
			f := c.CSV("table.csv", []string{"name"})
			f.Row([]string{"=1+1"})
			return f.Close()
		}),
	)
	for _, c := range []struct {
		method, path, body string
		status             int
		says               string
	}{
		{"GET", "/sites/3/list?q=a%20b&from=2026-11-01&other=1", "", 200, `["Shop","a b","2026-11-01"]`},
		{"GET", "/sites/3/list", "", 200, `["Shop","",""]`},
		{"POST", "/sites/3/things", `{"name":"x"}`, 201, `{"name":"x","many":5}`},
		{"POST", "/sites/3/things", `{"name":"x","many":0}`, 201, `{"name":"x","many":0}`},
		{"PUT", "/sites/3/things/9", `{"name":"x"}`, 200, `{"name":"x9","many":5}`},
		{"DELETE", "/sites/3/things/9", "", 204, ""},
		{"POST", "/sites/3/files?q=name", "12345", 200, "9"},
		{"GET", "/sites/3/table.csv", "", 200, "name\r\n'=1+1"},
	} {
		status, says, head := ask(t, s, c.method, c.path, c.body, "member")
		if status != c.status || says != c.says || head.Get("Cache-Control") != "no-store" {
			t.Errorf("%s %s: %d %q, want %d %q", c.method, c.path, status, says, c.status, c.says)
		}
	}
}

func TestWhoMayAskIsKnownBeforeABodyIsRead(t *testing.T) {
	read := false
	s := serve(t,
		Post("/open", func(*Call, None) (None, error) { return None{}, nil }).For(Anyone),
		Get("/me", func(c *Call, _ None) (int64, error) { return c.Account, nil }),
		Upload("POST", "/sites/:site/files", 1000, func(*Call, None, []byte) (None, error) { read = true; return None{}, nil }),
	)
	for _, c := range []struct {
		method, path, as string
		status           int
	}{
		{"POST", "/open", "", 204},
		{"GET", "/me", "", 401},
		{"GET", "/me", "member", 200},
		{"POST", "/sites/3/files", "", 401},
		{"POST", "/sites/4/files", "member", 404},
		{"POST", "/sites/x/files", "member", 404},
		{"POST", "/sites/99999999999999999999/files", "member", 404},
	} {
		if status, says, _ := ask(t, s, c.method, c.path, strings.Repeat("x", 5000), c.as); status != c.status {
			t.Errorf("%s %s: %d %s, want %d", c.method, c.path, status, says, c.status)
		}
	}
	if read {
		t.Error("a body was taken from somebody who may not send it")
	}
}

func TestBodiesHaveABound(t *testing.T) {
	s := serve(t,
		Post("/small", func(_ *Call, in said) (said, error) { return in, nil }).For(Anyone).Takes(100),
		Delete("/none", func(*Call, None) (None, error) { return None{}, nil }).For(Anyone),
	)
	if status, says, _ := ask(t, s, "POST", "/small", `{"name":"`+strings.Repeat("x", 200)+`"}`, ""); status != http.StatusRequestEntityTooLarge || !strings.Contains(says, "too-large") {
		t.Error(status, says)
	}
	if status, says, _ := ask(t, s, "POST", "/small", `{"name":7}`, ""); status != 422 || !strings.Contains(says, `"at":"name"`) {
		t.Error(status, says)
	}
	if status, _, _ := ask(t, s, "DELETE", "/none", strings.Repeat("x", 1<<20), ""); status != 204 {
		t.Error(status)
	}
}

func TestOneAddressAsksSoOften(t *testing.T) {
	s := serve(t, Get("/few", func(*Call, None) (int, error) { return 1, nil }).For(Anyone).At(3, time.Minute), Get("/many", func(*Call, None) (int, error) { return 1, nil }).For(Anyone))
	for i := range 5 {
		want := 200
		if i >= 3 {
			want = http.StatusTooManyRequests
		}
		if status, says, _ := ask(t, s, "GET", "/few", "", ""); status != want {
			t.Errorf("request %d: %d %s", i+1, status, says)
		}
		if status, _, _ := ask(t, s, "GET", "/many", "", ""); status != 200 {
			t.Error("another route is limited too")
		}
	}
}

func TestErrorsAreProblems(t *testing.T) {
	s := serve(t,
		Get("/stale", func(*Call, None) (int, error) { return 1, fault.ErrStale }).For(Anyone),
		Get("/odd", func(*Call, None) (int, error) { return 1, errors.New("secret detail") }).For(Anyone),
	)
	for path, status := range map[string]int{"/stale": 409, "/odd": 500} {
		got, says, head := ask(t, s, "GET", path, "", "")
		var p problem.Problem
		if err := json.Unmarshal([]byte(says), &p); err != nil || got != status || p.Title == "" || strings.Contains(says, "secret") || head.Get("Content-Type") != "application/problem+json" {
			t.Errorf("%s: %d %s", path, got, says)
		}
	}
}

// A request has its time, and work that goes on in parts has it anew for each.
func TestACallIsTimed(t *testing.T) {
	base, cancel := context.WithCancel(context.Background())
	clock := newTimed(base)
	c := &Call{Context: clock, time: clock, Writer: httptest.NewRecorder()}
	first, ok := c.Deadline()
	if !ok || time.Until(first) > patience {
		t.Fatal(first, ok)
	}
	// Whoever was handed the call goes on looking at it meanwhile.
	looking := make(chan struct{})
	go func() {
		defer close(looking)
		for range 1000 {
			_ = c.Err()
		}
	}()
	c.Last(time.Hour)
	<-looking
	if long, _ := c.Deadline(); time.Until(long) < 50*time.Minute {
		t.Error("longer work has no longer time")
	}
	cancel()
	<-c.Done()
	if c.Err() == nil || c.Base().Err() == nil {
		t.Error("whoever asked is gone, and the call goes on")
	}
}

// Bodies in memory are bounded together: what does not fit waits, and is let go.
func TestBodiesWaitForRoom(t *testing.T) {
	s := New(gate{}, limits.New(nil))
	hold := func() (func(), error) {
		ctx, cancel := context.WithTimeout(context.Background(), 20*time.Millisecond)
		defer cancel()
		return (&Call{Context: ctx, bodies: s.bodies}).Hold(bodiesAtOnce * 2 / 3)
	}
	release, err := hold()
	if err != nil {
		t.Fatal(err)
	}
	if _, err := hold(); !errors.Is(err, fault.ErrBusy) {
		t.Error("twice as much as there is room for:", err)
	}
	release()
	if release, err = hold(); err != nil {
		t.Fatal(err)
	}
	release()
}

func TestCellsAreNoFormulas(t *testing.T) {
	for cell, want := range map[string]string{
		"": "", "Ash": "Ash", "a=b": "a=b", "=SUM(A1)": "'=SUM(A1)", "+1": "'+1", "-1": "'-1", "@x": "'@x", " =1": "' =1", "\u200b=1": "'\u200b=1", "＝1": "'＝1", "\tx": "'\tx", "\rx": "'\rx",
		"́=1": "'́=1", "\u202e-1": "'\u202e-1",
	} {
		if got := plain(cell); got != want {
			t.Errorf("%q: %q, want %q", cell, got, want)
		}
	}
}

func FuzzCells(f *testing.F) {
	f.Add("=1")
	f.Add("\u200b@x")
	f.Fuzz(func(t *testing.T, cell string) {
		got := plain(cell)
		if got != cell && got != "'"+cell {
			t.Errorf("%q became %q", cell, got)
		}
		if seen := bytes.TrimLeft([]byte(got), " \t\r\n\v\f"); len(seen) > 0 && bytes.ContainsAny(seen[:1], "=+-@") {
			t.Errorf("%q begins a formula", got)
		}
	})
}
