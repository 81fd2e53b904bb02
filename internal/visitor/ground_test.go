package visitor_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"testing"
	"time"

	"gobbet/core/piece"
	"gobbet/internal/servertest"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pageviews"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/storetest"
)

func TestFilesComeInPiecesAndOnce(t *testing.T) {
	h := servertest.New(t)
	body := make([]byte, 600_000)
	for i := range body {
		body[i] = byte(i >> 4)
	}
	hash := strings.Repeat("ab", 16)
	if err := h.Store.Library.AddFile(context.Background(), h.Site, library.File{Hash: hash, Name: "a film.mp4", Mime: "video/mp4", Body: body}); err != nil {
		t.Fatal(err)
	}
	path := "/v1/files/" + hash + "/film"
	whole := h.Call("GET", path, "")
	if whole.Status != 200 || !bytes.Equal([]byte(whole.Body), body) || whole.Header.Get("Content-Type") != "video/mp4" || !strings.Contains(whole.Header.Get("Cache-Control"), "immutable") {
		t.Fatal(whole.Status, len(whole.Body), whole.Header)
	}
	tag := whole.Header.Get("ETag")
	for asked, want := range map[string][2]int{"bytes=0-0": {0, 1}, "bytes=300000-300009": {300_000, 300_010}, "bytes=-5": {599_995, 600_000}, "bytes=262143-262145": {262_143, 262_146}} {
		a := h.Call("GET", path, "", "Range", asked, "If-Range", tag)
		if a.Status != http.StatusPartialContent || a.Body != string(body[want[0]:want[1]]) {
			t.Errorf("%s: %d, %d bytes", asked, a.Status, len(a.Body))
		}
	}
	if a := h.Call("GET", path, "", "If-None-Match", tag); a.Status != http.StatusNotModified || a.Body != "" {
		t.Error(a.Status)
	}
	if a := h.Call("GET", path, "", "Range", "bytes=700000-"); a.Status != http.StatusRequestedRangeNotSatisfiable {
		t.Error(a.Status)
	}
	// Many ranges at once are the whole.
	if a := h.Call("GET", path, "", "Range", "bytes=0-1,5-6,9-10"); a.Status != 200 || len(a.Body) != len(body) {
		t.Error(a.Status, len(a.Body))
	}
	if a := h.Call("GET", "/v1/files/none/x", ""); a.Status != 404 {
		t.Error(a.Status)
	}
	if a := h.Call("GET", "/v1/pictures/"+hash, ""); a.Status != 404 {
		t.Error("a file is no picture:", a.Status)
	}
}

// Only so many bodies are on their way at once, to one address; the others are told to come back.
func TestStreamsAreBounded(t *testing.T) {
	h := servertest.New(t)
	hash := strings.Repeat("cd", 16)
	if err := h.Store.Library.AddFile(context.Background(), h.Site, library.File{Hash: hash, Name: "x", Mime: "video/mp4", Body: make([]byte, 8<<20)}); err != nil {
		t.Fatal(err)
	}
	var all sync.WaitGroup
	var mu sync.Mutex
	statuses := map[int]int{}
	release := make(chan struct{})
	for range 40 {
		all.Go(func() {
			r, err := http.Get(h.URL + "/v1/files/" + hash + "/x")
			if err != nil {
				t.Error(err)
				return
			}
			mu.Lock()
			statuses[r.StatusCode]++
			mu.Unlock()
			<-release // the body is not read
			r.Body.Close()
		})
	}
	eventually(t, "all answers", func() bool {
		mu.Lock()
		defer mu.Unlock()
		return statuses[200]+statuses[503] == 40
	})
	close(release)
	all.Wait()
	if statuses[200] == 0 || statuses[200] > 16 {
		t.Errorf("%v", statuses)
	}
	eventually(t, "the way free again", func() bool {
		return h.Call("GET", "/v1/files/"+hash+"/x", "", "Range", "bytes=0-0").Status == 206
	})
}

func TestInventedFactsDoNotBecomeColumns(t *testing.T) {
	h := servertest.New(t)
	p := piece.New("Known", piece.Popup, "salt")
	h.Launch("known", p)
	eventually(t, "the launch", func() bool { return len(decide(h, `{}`).Placements) == 1 })
	view := func(id string, data map[string]any, pieces ...string) {
		t.Helper()
		known := map[string]any{}
		for _, one := range pieces {
			known[one] = map[string]any{"times_shown": 3}
		}
		body, _ := json.Marshal(map[string]any{
			"id": id, "age": 5, "seconds": 5, "exit": nil,
			"view": map[string]any{"url": "https://shop.test/", "data": data, "memory": map[string]any{"visitor": "visitor-1234", "pieces": known}},
		})
		if a := h.Page("views", string(body)); a.Status != http.StatusNoContent {
			t.Fatal(a)
		}
	}
	view("view-history", nil, "known", "invented", "another")
	for i := range 12 {
		data := map[string]any{"bad name!": 1, strings.Repeat("x", 90): 2}
		for j := range 40 {
			data[fmt.Sprintf("n%d_%d", i, j)] = j
		}
		view(fmt.Sprint("view-flood-", i), data)
	}
	names := map[string]bool{}
	if _, err := h.Store.PageViews.Read(context.Background(), h.Site, time.Time{}, time.Time{}, func(v pageviews.PageView) error {
		var facts map[string]any
		if err := json.Unmarshal(v.Facts, &facts); err != nil {
			return err
		}
		for name := range facts {
			if strings.HasPrefix(name, "data.") || strings.HasPrefix(name, "history.") {
				names[name] = true
			}
		}
		return nil
	}); err != nil {
		t.Fatal(err)
	}
	if names["history.shown.invented"] || !names["history.shown.known"] {
		t.Error("history of a piece that never was is kept, or of one that was is not")
	}
	if n := len(names) - 3; n != sites.MostDataNames {
		t.Errorf("%d names of data are kept", n)
	}
	for name := range names {
		if strings.Contains(name, "!") || len(name) > 100 {
			t.Errorf("%q is a name", name)
		}
	}
}

// A memory may name as many pieces as it likes: those that never were are none of it.
func TestAMemoryOfPiecesThatNeverWereIsForgotten(t *testing.T) {
	h := launched(t, atOnce())
	var b strings.Builder
	b.WriteString(`{"visitor":"visitor-1234","visit":{},"pieces":{`)
	for i := range 2500 {
		fmt.Fprintf(&b, `"p%d":{"never":true},`, i)
	}
	b.WriteString(`"sign-up":{"times_shown":1}}}`)
	if n := len(decide(h, b.String()).Placements); n != 1 {
		t.Errorf("%d placements", n)
	}
}

func TestEventsAreRefusedWithWordsWhileTheDatabaseIsFrozen(t *testing.T) {
	t.Parallel() // waits, or works alone, for seconds
	s, freeze := storetest.Frozen(t)
	h := servertest.Over(t, s)
	h.Launch("sign-up", atOnce())
	eventually(t, "the launch", func() bool { return len(decide(h, `{}`).Placements) == 1 })
	w := walking(h)
	freeze(true)
	began := time.Now()
	a := w.send("ask", mail)
	if a.Status != 503 || time.Since(began) > patience {
		t.Errorf("%d after %v", a.Status, time.Since(began))
	}
	freeze(false)
	eventually(t, "an answer that is stored", func() bool { return w.send("ask", mail).Status == 200 })
}
