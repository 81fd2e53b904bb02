package server_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"gobbet/internal/server"
	"gobbet/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Run(m) }

// A request under way when the server is told to end is still answered, and
// only then does Serve return.
func TestEndingLetsRequestsFinish(t *testing.T) {
	l, err := server.Listen(0)
	if err != nil {
		t.Fatal(err)
	}
	ctx, end := context.WithCancel(context.Background())
	reached, finish, ended := make(chan bool), make(chan bool), make(chan error)
	go func() {
		ended <- server.Serve(ctx, l, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			close(reached)
			<-finish
			io.WriteString(w, "stored")
		}))
	}()
	answered := make(chan string)
	go func() {
		res, err := http.Get("http://" + l.Addr().String())
		if err != nil {
			answered <- err.Error()
			return
		}
		defer res.Body.Close()
		said, _ := io.ReadAll(res.Body)
		answered <- string(said)
	}()
	<-reached
	end()
	select {
	case err := <-ended:
		t.Fatal("it ended under a request:", err)
	case <-time.After(100 * time.Millisecond):
	}
	close(finish)
	if got := <-answered; got != "stored" {
		t.Error("the request under way got", got)
	}
	if err := <-ended; err != nil {
		t.Error(err)
	}
}

func TestAPortInUseIsSaidPlainly(t *testing.T) {
	l, err := server.Listen(0)
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	port := l.Addr().String()[strings.LastIndex(l.Addr().String(), ":")+1:]
	var n int
	for _, c := range port {
		n = n*10 + int(c-'0')
	}
	if _, err := server.Listen(n); err == nil || !strings.Contains(err.Error(), "port "+port) {
		t.Error(err)
	}
}

func TestOnlyNamedProxiesAreBelieved(t *testing.T) {
	s := storetest.New(t)
	if _, err := server.New(context.Background(), server.Config{Store: s, Proxies: []string{"not an address"}}); err == nil {
		t.Error("nonsense was taken for a proxy")
	}
	for _, c := range []struct {
		proxies []string
		status  int // of the 31st sign-in of a minute, each said to be from elsewhere
	}{{nil, http.StatusTooManyRequests}, {[]string{"127.0.0.1"}, http.StatusUnprocessableEntity}} {
		h, err := server.New(context.Background(), server.Config{Store: s, Proxies: c.proxies})
		if err != nil {
			t.Fatal(err)
		}
		var last int
		for i := range 31 {
			w := httptest.NewRecorder()
			r := httptest.NewRequest("POST", "/api/session", strings.NewReader("{"))
			r.RemoteAddr = "127.0.0.1:5000"
			r.Header.Set("X-Forwarded-For", fmt.Sprintf("203.0.113.%d", i))
			h.ServeHTTP(w, r)
			last = w.Code
		}
		if last != c.status {
			t.Errorf("proxies %v: %d, want %d", c.proxies, last, c.status)
		}
	}
}

func TestTheStudioIsServedCompressed(t *testing.T) {
	script := strings.Repeat("export const word = 'glaze'\n", 2000)
	h, err := server.New(context.Background(), server.Config{Store: storetest.New(t), Studio: fstest.MapFS{
		"sign-in.html":   {Data: []byte(strings.Repeat("<p>gobbet-nonce</p>", 300))},
		"assets/main.js": {Data: []byte(script)},
		"assets/a.woff2": {Data: []byte(strings.Repeat("packed already", 500))},
	}})
	if err != nil {
		t.Fatal(err)
	}
	for path, zipped := range map[string]bool{"/sign-in": true, "/assets/main.js": true, "/assets/a.woff2": false} {
		w := httptest.NewRecorder()
		r := httptest.NewRequest("GET", path, nil)
		r.Header.Set("Accept-Encoding", "gzip")
		h.ServeHTTP(w, r)
		if got := w.Header().Get("Content-Encoding") == "gzip"; got != zipped || w.Code != http.StatusOK {
			t.Errorf("%s: %d, compressed %t", path, w.Code, got)
		}
		if path == "/assets/main.js" && w.Body.Len() > len(script)/10 {
			t.Errorf("%d of %d bytes are sent", w.Body.Len(), len(script))
		}
	}
}

func TestWhoIsNotSignedInIsLedToTheSignIn(t *testing.T) {
	h, err := server.New(context.Background(), server.Config{Store: storetest.New(t), Studio: fstest.MapFS{
		"index.html": {Data: []byte("the studio")}, "sign-in.html": {Data: []byte("the sign-in")},
	}})
	if err != nil {
		t.Fatal(err)
	}
	get := func(path, cookie string) *httptest.ResponseRecorder {
		w := httptest.NewRecorder()
		r := httptest.NewRequest("GET", path, nil)
		if cookie != "" {
			r.AddCookie(&http.Cookie{Name: cookie, Value: "x"})
		}
		h.ServeHTTP(w, r)
		return w
	}
	for _, c := range []struct{ path, cookie, body, to string }{
		{"/sites/1/board", "gobbet", "the studio", ""},
		{"/sites/1/results?from=2026-11-01", "", "", "/sign-in?to=%2Fsites%2F1%2Fresults%3Ffrom%3D2026-11-01"},
		{"/", "other", "", "/sign-in?to=%2F"},
		{"/x?to=//elsewhere.test", "", "", "/sign-in?to=%2Fx%3Fto%3D%2F%2Felsewhere.test"},
		{"/sign-in", "", "the sign-in", ""},
		{"/sign-in?to=/board", "gobbet", "the sign-in", ""}, // the session may be over
	} {
		got := get(c.path, c.cookie)
		if got.Header().Get("Location") != c.to || c.to == "" && got.Body.String() != c.body {
			t.Errorf("%s with the cookie %q: %d %q to %q", c.path, c.cookie, got.Code, got.Body, got.Header().Get("Location"))
		}
	}
	for _, path := range []string{"/llms.txt", "/favicon.ico", "/.well-known/ai-catalog.json", "/.env"} {
		if got := get(path, ""); got.Code != http.StatusNotFound {
			t.Errorf("%s: %d %s", path, got.Code, got.Body)
		}
	}
	robots := get("/robots.txt", "")
	if got := robots.Header().Get("Content-Type"); got != "text/plain; charset=utf-8" || !strings.Contains(robots.Body.String(), "Disallow: /\n") {
		t.Errorf("robots.txt is %s: %s", got, robots.Body)
	}
}
