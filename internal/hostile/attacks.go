package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"hash/crc32"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"time"

	"github.com/google/uuid"
)

func files(ctx context.Context, h *target) (came string, gave []string) {
	path := "/v1/files/" + h.file + "/x"
	slowly := make(chan tally, 1)
	go func() {
		slowly <- many(40, func(i int) int {
			req, _ := http.NewRequestWithContext(ctx, http.MethodGet, h.url+path, nil)
			r, err := from(1, i/4).Do(req)
			if err != nil {
				return 0
			}
			defer r.Body.Close()
			for range 20 { // a little now and then
				if _, err := io.CopyN(io.Discard, r.Body, 4096); err != nil {
					break
				}
				time.Sleep(100 * time.Millisecond)
			}
			return r.StatusCode
		})
	}()
	time.Sleep(300 * time.Millisecond)
	t := many(200, func(i int) int {
		status, _ := h.call(from(2, i), "GET", path, "", "Range", "bytes=20000000-20000000")
		return status
	})
	whole, _ := h.call(anyone, "GET", path, "", "If-None-Match", `"`+h.file+`"`)
	s := <-slowly
	gave = append(t.only(206, 503, 429), s.only(200, 503, 429)...)
	if whole != http.StatusNotModified {
		gave = append(gave, fmt.Sprintf("asked again it is sent again (%d)", whole))
	}
	return fmt.Sprintf("one byte: %v; slowly: %v; had already: %d", t, s, whole), gave
}

func signIns(_ context.Context, h *target) (came string, gave []string) {
	t := many(40, func(i int) int {
		status, _ := h.call(from(3, i), "POST", "/api/session", fmt.Sprintf(`{"email":"who%d@example.com","password":"guess"}`, i))
		return status
	})
	return t.String(), t.only(401, 429, 503)
}

// guesser tries twenty passwords. The owner's own browser gets in all the same.
func guesser(_ context.Context, h *target) (came string, gave []string) {
	t := tally{}
	stranger := from(4, 1)
	for i := range 20 {
		status, _ := h.call(stranger, "POST", "/api/session", fmt.Sprintf(`{"email":%q,"password":"guess %d"}`, owner, i))
		t[status]++
	}
	if t[429] == 0 {
		gave = append(gave, "nobody slowed the guesser down")
	}
	mine, _ := h.call(h.owner, "POST", "/api/session", fmt.Sprintf(`{"email":%q,"password":%q}`, owner, password))
	if mine != http.StatusOK {
		gave = append(gave, fmt.Sprintf("the owner is locked out (%d)", mine))
	}
	return fmt.Sprintf("guesser: %v; owner: %d", t, mine), gave
}

// blankPNG is a picture of one colour, small as a file and large once decoded.
func blankPNG(side int) []byte {
	var out bytes.Buffer
	out.WriteString("\x89PNG\r\n\x1a\n")
	chunk := func(kind string, body []byte) {
		out.Write([]byte{byte(len(body) >> 24), byte(len(body) >> 16), byte(len(body) >> 8), byte(len(body))})
		out.WriteString(kind)
		out.Write(body)
		sum := crc32.ChecksumIEEE(append([]byte(kind), body...))
		out.Write([]byte{byte(sum >> 24), byte(sum >> 16), byte(sum >> 8), byte(sum)})
	}
	w := []byte{byte(side >> 24), byte(side >> 16), byte(side >> 8), byte(side)}
	chunk("IHDR", append(append(append([]byte{}, w...), w...), 8, 6, 0, 0, 0))
	chunk("IDAT", zlibOf(bytes.Repeat(append([]byte{0}, bytes.Repeat([]byte{200, 120, 80, 255}, side)...), side)))
	chunk("IEND", nil)
	return out.Bytes()
}

func pictures(_ context.Context, h *target) (came string, gave []string) {
	file := blankPNG(6300)
	began := time.Now()
	t := many(10, func(int) int {
		status, _ := h.call(h.owner, "POST", h.ofSite("/pictures?name=x.png"), string(file))
		return status
	})
	gave = t.only(201, 503)
	return fmt.Sprintf("files of %d KB: %v in %.1f s", len(file)>>10, t, time.Since(began).Seconds()), gave
}

func facts(_ context.Context, h *target) (came string, gave []string) {
	view := func(n, from int) string {
		data, history := map[string]any{}, map[string]any{}
		for i := range n {
			data[fmt.Sprint("n", from+i)] = i
			history[fmt.Sprint("p", from+i)] = map[string]any{"times_shown": 1}
		}
		body, _ := json.Marshal(map[string]any{
			"id": uuid.NewString(), "age": 10, "seconds": 5, "exit": nil,
			"view": map[string]any{"url": origin + "/", "data": data, "memory": map[string]any{"visitor": "visitor-" + uuid.NewString(), "pieces": history}},
		})
		return string(body)
	}
	t := tally{}
	status, _ := h.page("views", view(15_015, 0))
	t[status]++
	for i := range 60 {
		status, _ := h.page("views", view(300, 300*i))
		t[status]++
	}
	if t[204] == 0 {
		gave = append(gave, "no page view was taken")
	}
	var health struct {
		DataNames []string `json:"data_names"`
		Refused   []struct{ Times int }
	}
	for range 15 {
		_, said := h.call(h.owner, "GET", h.ofSite("/health"), "")
		if json.Unmarshal([]byte(said), &health); len(health.Refused) > 0 {
			break
		}
		time.Sleep(time.Second)
	}
	if len(health.DataNames) > 200 {
		gave = append(gave, fmt.Sprintf("%d names are kept", len(health.DataNames)))
	}
	if len(health.Refused) == 0 || health.Refused[0].Times == 0 {
		gave = append(gave, "what was refused is not told")
	}
	status, said := h.call(h.owner, "POST", h.ofSite("/rehearse"), `{"piece":"club","format":"popup","rule":{"all":[]},"caps":{},"days":28}`)
	if status != http.StatusOK {
		gave = append(gave, fmt.Sprintf("the visit log cannot be read: %d %.80s", status, said))
	}
	return fmt.Sprintf("%v; %d names kept, refusals told: %v", t, len(health.DataNames), health.Refused), append(gave, t.only(204, 413)...)
}

func origins(_ context.Context, h *target) (came string, gave []string) {
	t := tally{}
	for _, bad := range []string{"https://a.test;sandbox", "https://a.test ; script-src *", "https://a.test,b.test", "https://a.test\\r\\nX: y"} {
		status, _ := h.call(h.owner, "PUT", h.ofSite(""), fmt.Sprintf(`{"version":1,"name":"Shop","zone":"UTC","origins":["%s"]}`, bad))
		t[status]++
	}
	r, err := anyone.Get(h.url + "/sign-in")
	if err != nil {
		return err.Error(), []string{"no sign-in page"}
	}
	r.Body.Close()
	policy := r.Header.Get("Content-Security-Policy")
	if strings.Contains(policy, "shop.test") {
		gave = append(gave, "a customer's origin stands in everybody's policy")
	}
	return t.String(), append(gave, t.only(422)...)
}

func inside(_ context.Context, h *target) (came string, gave []string) {
	var asked atomic.Int32
	secret := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		asked.Add(1)
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprint(w, "<html><body>the network's secret</body></html>")
	}))
	defer secret.Close()
	_, port, _ := net.SplitHostPort(strings.TrimPrefix(secret.URL, "http://"))
	t := tally{}
	version := 1
	for _, host := range []string{"127.0.0.1", "localhost", "[::1]", "[::ffff:127.0.0.1]", "0.0.0.0", "169.254.169.254", "10.0.0.1"} {
		body := fmt.Sprintf(`{"version":%d,"name":"Shop","zone":"UTC","origins":["http://%s:%s",%q]}`, version, host, port, origin)
		status, said := h.call(h.owner, "PUT", h.ofSite(""), body)
		if status != http.StatusOK {
			gave = append(gave, fmt.Sprintf("%s: %d %.90s", host, status, said))
			continue
		}
		version++
		status, said = h.call(h.owner, "GET", h.ofSite("/page?path=/"), "")
		t[status]++
		if strings.Contains(said, "secret") {
			gave = append(gave, host+" was looked at")
		}
	}
	h.call(h.owner, "PUT", h.ofSite(""), fmt.Sprintf(`{"version":%d,"name":"Shop","zone":"UTC","origins":[%q]}`, version, origin))
	if n := asked.Load(); n > 0 {
		gave = append(gave, fmt.Sprintf("it was asked %d times", n))
	}
	return fmt.Sprintf("%v, and a plain page in place of each", t), gave
}

func codes(_ context.Context, h *target) (came string, gave []string) {
	ask := func(who *http.Client, visitor, more string) int {
		status, _ := h.call(who, "POST", "/v1/sites/shop/codes", fmt.Sprintf(`{"walk":{"id":%q,"piece":"club","variant":"a","design":%q,"visitor":%q},"scene":"ask","pool":%q%s}`,
			uuid.NewString(), h.design, visitor, pool, more), "Origin", origin)
		return status
	}
	unseen, pretend, unwatched := tally{}, tally{}, tally{}
	// As many as the limit on requests lets through, from 250 addresses of a network.
	for i := range 300 {
		who := from(5, i)
		unseen[ask(who, fmt.Sprint("unseen-visitor-", i), "")]++
		visitor := fmt.Sprint("pretend-visitor-", i)
		h.call(who, "POST", "/v1/sites/shop/events", event(visitor), "Origin", origin)
		pretend[ask(who, visitor, "")]++
	}
	one := from(6, 1)
	for i := range 12 {
		unwatched[ask(one, fmt.Sprint("unwatched-visitor-", i), `,"unwatched":true`)]++
	}
	if unseen[200] > 0 {
		gave = append(gave, "codes to those who never saw the piece")
	}
	if pretend[200] > 200 {
		gave = append(gave, fmt.Sprintf("%d codes to one network", pretend[200]))
	}
	if unwatched[200] > 3 {
		gave = append(gave, fmt.Sprintf("%d codes to one address of whom nothing is known", unwatched[200]))
	}
	return fmt.Sprintf("never shown: %v; showings made up, over a network: %v; unwatched, from one address: %v", unseen, pretend, unwatched), gave
}

// prizes spins a wheel with ten codes left, by many at once and in every way
// that might win twice.
func prizes(_ context.Context, h *target) (came string, gave []string) {
	spin := func(who *http.Client, visitor, walk, values string) (int, string) {
		return h.call(who, "POST", "/v1/sites/shop/advance", fmt.Sprintf(`{"walk":{"id":%q,"piece":"wheel","variant":"a","design":%q,"visitor":%q},"from":0,"steps":[{"scene":"spin","values":%s}]}`,
			walk, h.wheel, visitor, values), "Origin", origin)
	}
	code := func(who *http.Client, visitor, walk string) string {
		_, said := h.call(who, "POST", "/v1/sites/shop/codes", fmt.Sprintf(`{"walk":{"id":%q,"piece":"wheel","variant":"a","design":%q,"visitor":%q},"scene":"won","draw":"prize"}`,
			walk, h.wheel, visitor), "Origin", origin)
		return said
	}
	forged, _ := spin(from(30, 1), "forging-visitor", uuid.NewString(), `{"prize":"ten"}`)
	large, _ := spin(from(30, 2), "talking-visitor", uuid.NewString(), fmt.Sprintf(`{"say":%q}`, strings.Repeat("x", 100<<10)))
	markup, _ := spin(from(30, 3), "nul-visitor", uuid.NewString(), `{"say":"\u0000<script>"}`)
	if forged != 422 || large == 200 || markup != 422 {
		gave = append(gave, fmt.Sprintf("a forged go %d, a large one %d, one that is no text %d", forged, large, markup))
	}
	walks := make([]string, 200)
	for i := range walks {
		walks[i] = uuid.NewString()
	}
	won := make([]bool, len(walks))
	at := func(i int) *http.Client { return from(31+i%7, i) }
	t := many(len(walks), func(i int) int {
		status, _ := spin(at(i), fmt.Sprint("wheel-visitor-", i), walks[i], "{}")
		won[i] = status == http.StatusOK
		return status
	})
	if t[200] != lastPrizes {
		gave = append(gave, fmt.Sprintf("%d of %d prizes went", t[200], lastPrizes))
	}
	codes := map[string]bool{}
	for i := range walks {
		if !won[i] {
			continue
		}
		said := code(at(i), fmt.Sprint("wheel-visitor-", i), walks[i])
		if codes[said] || !strings.Contains(said, "PRIZE") {
			gave = append(gave, "a code twice, or none: "+said)
		}
		codes[said] = true
		// The same again, and another visitor who says it was them.
		if again, _ := spin(at(i), fmt.Sprint("wheel-visitor-", i), uuid.NewString(), "{}"); again != http.StatusOK {
			gave = append(gave, fmt.Sprintf("who won is told %d the second time", again))
		}
		if theirs := code(at(i), "somebody-else", walks[i]); strings.Contains(theirs, "PRIZE") {
			gave = append(gave, "a code for somebody else")
		}
	}
	made := tally{}
	for i := range 300 {
		status, _ := spin(from(40, i%3), fmt.Sprint("made-up-visitor-", i), uuid.NewString(), "{}")
		made[status]++
	}
	if made[200] > 0 {
		gave = append(gave, "prizes out of nothing")
	}
	return fmt.Sprintf("at once: %v; %d codes; made up, from three addresses: %v", t, len(codes), made), gave
}

func bounds(_ context.Context, h *target) (came string, gave []string) {
	t := tally{}
	try := func(method, path, body string) {
		status, said := h.call(h.owner, method, h.ofSite(path), body)
		t[status]++
		if status >= 500 || status == 0 {
			gave = append(gave, fmt.Sprintf("%s %s: %d %.80s", method, path, status, said))
		}
	}
	for _, n := range []string{"3000000000", "-3000000000", "1e400", "99999999999999999999"} {
		try("PUT", "/pieces/club", fmt.Sprintf(`{"version":%s,"draft":{"version":2}}`, n))
		try("POST", "/pieces/club/launch", fmt.Sprintf(`{"version":%s}`, n))
		try("PUT", "/settings/recording", fmt.Sprintf(`{"version":"%s","settings":{"record":%s}}`, n, n))
		try("PUT", "", fmt.Sprintf(`{"version":%s,"name":"x","zone":"UTC","origins":[]}`, n))
		try("PUT", "/order", fmt.Sprintf(`{"version":%s,"pieces":[]}`, n))
		try("GET", "/people?from="+n+"."+n, "")
	}
	try("POST", "/pieces", `{"name":"`+strings.Repeat("x", 3<<20)+`","format":"popup"}`)
	try("POST", "/rehearse", `{"rule":`+strings.Repeat(`{"not":`, 50_000)+`{"all":[]}`+strings.Repeat(`}`, 50_000)+`}`)
	try("PUT", "/pieces/club", strings.Repeat("[", 1<<20))
	try("GET", "/people?q="+strings.Repeat("%25", 200), "")
	return t.String(), gave
}

// slow opens connections that send a request a byte at a time.
func slow(ctx context.Context, h *target) (came string, gave []string) {
	at := strings.TrimPrefix(h.url, "http://")
	ctx, cancel := context.WithTimeout(ctx, 9*time.Second)
	defer cancel()
	dropped := many(150, func(i int) int {
		c, err := net.DialTimeout("tcp", at, 3*time.Second)
		if err != nil {
			return 0
		}
		defer c.Close()
		head := "POST /v1/sites/shop/events HTTP/1.1\r\nHost: x\r\nOrigin: " + origin + "\r\nContent-Length: 100000\r\n"
		if i%2 == 0 {
			head += "\r\n"
		}
		for n := 0; ctx.Err() == nil; n++ {
			c.SetWriteDeadline(time.Now().Add(time.Second))
			if _, err := c.Write([]byte{head[n%len(head)]}); err != nil {
				return 1
			}
			time.Sleep(50 * time.Millisecond)
		}
		return 2
	})
	// Meanwhile an honest visitor is answered; see the times.
	return fmt.Sprintf("%d sent on, %d were dropped, %d not let in", dropped[2], dropped[1], dropped[0]), nil
}

func large(_ context.Context, h *target) (came string, gave []string) {
	memory := strings.Repeat(`"p":{"shown":[1,2,3]},`, 2500)
	body := fmt.Sprintf(`{"url":"https://shop.test/","memory":{"visitor":"visitor-1234","visit":{},"pieces":{%s"q":{}}}}`, memory)
	t := many(400, func(i int) int {
		if i%2 == 0 {
			status, _ := h.call(from(7, i), "POST", "/v1/sites/shop/decide", body, "Origin", origin)
			return status
		}
		status, _ := h.call(from(7, i), "POST", "/v1/sites/shop/events", `{"visitor":"visitor-1234","events":[`+strings.Repeat(`{"id":"x"},`, 10_000)+`{}]}`, "Origin", origin)
		return status
	})
	return t.String(), t.only(200, 413, 422, 429)
}

// frozen stops the database by a signal: every door answers all the same, if
// only that it cannot, and all is well once it thaws.
func frozen(_ context.Context, h *target) (came string, gave []string) {
	thaw, err := h.freeze()
	if err != nil {
		return err.Error(), []string{"the database could not be frozen"}
	}
	worst, slowest := time.Duration(0), ""
	t := tally{}
	doors := []struct{ method, path, body string }{
		{"GET", h.ofSite("/board"), ""}, {"GET", "/api/me", ""}, {"GET", h.ofSite("/pictures"), ""}, {"GET", h.ofSite("/people.csv"), ""},
		{"GET", "/v1/pictures/" + h.file, ""}, {"GET", "/v1/files/" + h.file + "/x", ""}, {"GET", "/v1/sites/shop/designs/" + strings.Repeat("0", 32), ""},
		{"GET", "/readyz", ""}, {"POST", "/v1/sites/shop/decide", `{"url":"https://shop.test/","memory":{}}`}, {"POST", "/v1/sites/shop/events", event("frozen-visitor")},
	}
	type answer struct {
		path   string
		status int
		took   time.Duration
	}
	answers := make(chan answer, len(doors))
	for _, d := range doors {
		go func() {
			began := time.Now()
			client := h.owner
			if strings.HasPrefix(d.path, "/v1/") {
				client = anyone
			}
			status, _ := h.call(client, d.method, d.path, d.body, "Origin", origin, "Sec-Fetch-Site", "same-origin")
			answers <- answer{d.path, status, time.Since(began)}
		}()
	}
	for range doors {
		a := <-answers
		t[a.status]++
		if a.took > worst {
			worst, slowest = a.took, a.path
		}
		if strings.HasSuffix(a.path, "/decide") && a.status != http.StatusOK {
			gave = append(gave, fmt.Sprintf("decide needs the database: %d", a.status))
		}
	}
	thaw()
	if worst > 15*time.Second {
		gave = append(gave, fmt.Sprintf("%s hung for %.0f s", slowest, worst.Seconds()))
	}
	back := 0
	for range 40 {
		if back, _ = h.call(h.owner, "GET", h.ofSite("/board"), ""); back == http.StatusOK {
			break
		}
		time.Sleep(250 * time.Millisecond)
	}
	if back != http.StatusOK {
		gave = append(gave, fmt.Sprintf("the board does not come back: %d", back))
	}
	return fmt.Sprintf("%v, the slowest after %.1f s; thawed, the board: %d", t, worst.Seconds(), back), gave
}

// ownPages looks for the studio on the port of the pages, with the owner's own
// cookie, and has more walks begun than are remembered.
func ownPages(_ context.Context, h *target) (came string, gave []string) {
	ask := func(client *http.Client, method, path, body string, head ...string) (int, string) {
		return (&target{url: h.pages}).call(client, method, path, body, head...)
	}
	studio := tally{}
	for _, path := range []string{"/", "/board", "/api/me", "/api/../api/me", "/shop/%2e%2e%2fapi%2fme", "/shop/" + strings.Repeat("a", 4000), "/assets/index.js", "/shop/a%00b"} {
		status, _ := ask(h.owner, "GET", path, "")
		studio[status]++
	}
	if status, said := ask(anyone, "POST", "/api/session", fmt.Sprintf(`{"email":%q,"password":%q}`, owner, password)); status < 400 {
		gave = append(gave, fmt.Sprintf("the pages' port signs people in (%d %.60s)", status, said))
	}
	gave = append(gave, studio.only(404, 400)...)
	// What a browser sends along by itself opens nothing of the studio's either.
	if status, _ := h.call(h.owner, "POST", h.ofSite("/pieces"), `{"name":"x","format":"popup"}`, "Origin", h.pages, "Sec-Fetch-Site", "same-site"); status < 400 {
		gave = append(gave, fmt.Sprintf("a page of the pages' port works in the studio (%d)", status))
	}
	said := strings.Repeat("x", 300)
	walks := many(3000, func(i int) int {
		status, _ := h.call(from(9, i/25), "POST", "/v1/sites/shop/advance",
			fmt.Sprintf(`{"walk":{"id":%q,"piece":"club","variant":"a","design":%q,"visitor":"visitor-%d"},"steps":[{"scene":"ask","values":{"name":%q,"email":"w%d@example.com"}}]}`, uuid.NewString(), h.design, i, said, i),
			"Origin", origin, "Content-Type", "text/plain")
		return status
	})
	gave = append(gave, walks.only(200, 422, 429, 503)...)
	return fmt.Sprintf("the studio by way of the pages: %v; walks: %v", studio, walks), gave
}

// flood has many addresses send batch after batch, each of another visitor.
func flood(_ context.Context, h *target) (came string, gave []string) {
	const batches, each = 1700, 60
	kinds := []string{"shown", "closed", "converted", "left", "eligible"}
	next, t := make(chan int), make(chan tally)
	for w := range 16 {
		go func() {
			got, who := tally{}, from(9+w/4, w)
			for i := range next {
				var events []string
				for k := range each {
					at := time.Now().Add(-time.Duration(i*k) * time.Second)
					id := uuid.Must(uuid.NewV7()).String()
					events = append(events, fmt.Sprintf(`{"id":%q,"kind":%q,"at":%d,"piece":"club","variant":"a","page":"/%d"}`, id, kinds[k%len(kinds)], at.UnixMilli(), i*k))
				}
				body := fmt.Sprintf(`{"visitor":"flood-%08d","visit":"visit-%08d","visits":1,"events":[%s]}`, i, i, strings.Join(events, ","))
				times := 1
				if i%3 == 0 {
					times = 2
				}
				for range times {
					status, _ := h.call(who, "POST", "/v1/sites/shop/events", body, "Origin", origin)
					got[status]++
				}
			}
			t <- got
		}()
	}
	for i := range batches {
		next <- i
	}
	close(next)
	sum := tally{}
	for range 16 {
		for status, n := range <-t {
			sum[status] += n
		}
	}
	return sum.String(), sum.only(200, 429, 503)
}
