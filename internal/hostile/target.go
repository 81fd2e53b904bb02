package main

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/style"
	"gobbet/internal/localpg"
	"gobbet/internal/store"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
)

const (
	origin   = "https://shop.test"
	owner    = "mara@quillfern.test"
	password = "ash and celadon"
	pool     = "spring"
)

// target is a server with one site, and those who are at its door.
type target struct {
	home    string
	cluster *localpg.Cluster
	store   *store.Store
	server  *exec.Cmd
	url     string
	pages   string // where the pages are that pieces live at
	site    int64
	owner   *http.Client // signed in
	design  string
	wheel   string // the hash of the wheel\'s drawing
	file    string // hash
}

func begin(ctx context.Context) (h *target, err error) {
	h = &target{}
	if h.home, err = os.MkdirTemp("", "gobbet-hostile-*"); err != nil {
		return nil, err
	}
	os.Chmod(h.home, 0o755)
	if h.cluster, err = localpg.Start(ctx, localpg.Options{Home: h.home, Throwaway: true}); err != nil {
		return nil, err
	}
	if err = h.fill(ctx); err == nil {
		err = h.serve(ctx)
	}
	if err != nil {
		h.end()
	}
	return h, err
}

func (h *target) fill(ctx context.Context) error {
	admin, err := sqlx.ConnectContext(ctx, "pgx", h.cluster.URL("postgres"))
	if err != nil {
		return err
	}
	defer admin.Close()
	if _, err := admin.ExecContext(ctx, `create database hostile`); err != nil {
		return err
	}
	if h.store, err = store.Open(ctx, h.cluster.URL("hostile"), 10*time.Second); err != nil {
		return err
	}
	if err := h.store.Migrate(ctx); err != nil {
		return err
	}
	account, err := h.store.Accounts.Add(ctx, owner, "Mara Quill", password)
	if err != nil {
		return err
	}
	if h.site, err = h.store.Sites.Add(ctx, "shop", "Quillfern Pottery", "Europe/Dublin", sites.Texts{origin}, account); err != nil {
		return err
	}
	p := piece.New("Glaze club", piece.Popup, "salt")
	p.Rule = reach.All{}
	d := &p.Split.Variants[0].Design
	d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, piece.Code{Kind: "code", ID: "code", Pool: pool, Words: "Copy", Copied: "Copied", Size: 20})
	raw, err := json.Marshal(p)
	if err != nil {
		return err
	}
	if err := h.store.Pieces.Add(ctx, h.site, "club", raw); err != nil {
		return err
	}
	hashes := map[string]string{}
	kit := style.UsualKit()
	if err := h.store.Pieces.Launch(ctx, pieces.Act{Site: h.site}, "club", 1, p.Drawings(&kit, hashes)); err != nil {
		return err
	}
	h.design = hashes["a"]
	if err := h.launchWheel(ctx, &kit); err != nil {
		return err
	}
	var given []string
	for i := range 300 {
		given = append(given, fmt.Sprint("SPRING", i))
	}
	if _, err := h.store.Codes.Add(ctx, h.site, pool, "Spring", given); err != nil {
		return err
	}
	h.file = strings.Repeat("f1", 16)
	body := bytes.Repeat([]byte("glaze "), 4<<20)
	return h.store.Library.AddFile(ctx, h.site, library.File{Hash: h.file, Name: "glazes.pdf", Mime: "application/octet-stream", Body: body})
}

// lastPrizes is how many codes the wheel has to give.
const lastPrizes = 10

// launchWheel puts a wheel live of which every go wins a code.
func (h *target) launchWheel(ctx context.Context, kit *style.Kit) error {
	var given []string
	for i := range lastPrizes {
		given = append(given, fmt.Sprint("PRIZE", i))
	}
	if _, err := h.store.Codes.Add(ctx, h.site, "prizes", "Prizes", given); err != nil {
		return err
	}
	p := piece.New("Wheel", piece.Popup, "salt")
	p.Rule = reach.All{}
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{To: "won"}}, Blocks: []piece.Block{
			piece.PrizeDraw{Kind: "draw", ID: "d", Key: "prize", Label: "Prize", Look: "wheel", Words: "Spin", Size: 300, Parts: []piece.DrawPart{
				{ID: "ten", Label: "10 % off", Weight: 1, Pool: "prizes"}, {ID: "none", Label: "Nothing", Weight: 0, Nothing: true},
			}},
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskLong, Key: "say", Label: "Say"}}},
		{ID: "won", Name: "Won", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Code{Kind: "code", ID: "c", Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}}},
	}
	raw, err := json.Marshal(p)
	if err != nil {
		return err
	}
	if err := h.store.Pieces.Add(ctx, h.site, "wheel", raw); err != nil {
		return err
	}
	hashes := map[string]string{}
	err = h.store.Pieces.Launch(ctx, pieces.Act{Site: h.site}, "wheel", 1, p.Drawings(kit, hashes))
	h.wheel = hashes["a"]
	return err
}

// serve starts the program that ships, so that its memory is its own.
func (h *target) serve(ctx context.Context) error {
	port, err := localpg.FreePort()
	if err != nil {
		return err
	}
	pages, err := localpg.FreePort()
	if err != nil {
		return err
	}
	h.url, h.pages = fmt.Sprintf("http://127.0.0.1:%d", port), fmt.Sprintf("http://127.0.0.1:%d", pages)
	out, err := os.Create(filepath.Join(h.home, "gobbet.log"))
	if err != nil {
		return err
	}
	h.server = exec.Command("bin/gobbet", "serve", "--database", h.cluster.URL("hostile"), "--port", fmt.Sprint(port), "--pages-port", fmt.Sprint(pages))
	h.server.Stdout, h.server.Stderr = out, out
	if err := h.server.Start(); err != nil {
		return fmt.Errorf("the program is not built: run make build: %w", err)
	}
	for range 100 {
		if h.answers(ctx) {
			jar, _ := cookiejar.New(nil)
			h.owner = &http.Client{Jar: jar, Timeout: time.Minute}
			if status, _ := h.call(h.owner, "POST", "/api/session", fmt.Sprintf(`{"email":%q,"password":%q}`, owner, password)); status != http.StatusOK {
				return fmt.Errorf("the owner cannot sign in: %d", status)
			}
			return nil
		}
		time.Sleep(100 * time.Millisecond)
	}
	return errors.New("the server does not start; its log is in " + out.Name())
}

func (h *target) end() {
	if h.server != nil && h.server.Process != nil {
		h.server.Process.Signal(syscall.SIGTERM)
		h.server.Wait()
	}
	if h.store != nil {
		h.store.Close()
	}
	if h.cluster != nil {
		h.cluster.Stop()
	}
	os.RemoveAll(h.home)
}

// status is a field of the server's /proc status, in MB.
func (h *target) status(field string) int {
	raw, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", h.server.Process.Pid))
	if err != nil {
		return 0
	}
	for line := range strings.Lines(string(raw)) {
		if rest, ok := strings.CutPrefix(line, field+":"); ok {
			kb, _ := strconv.Atoi(strings.Fields(rest)[0])
			return kb / 1024
		}
	}
	return 0
}

func (h *target) memory() int { return h.status("VmRSS") }
func (h *target) peak() int   { return h.status("VmHWM") }

func (h *target) resetPeak() {
	os.WriteFile(fmt.Sprintf("/proc/%d/clear_refs", h.server.Process.Pid), []byte("5"), 0)
}

// settle waits until the server's memory does not fall any more, or a while.
func (h *target) settle() {
	time.Sleep(2500 * time.Millisecond)
	least := h.memory()
	for range 8 {
		time.Sleep(250 * time.Millisecond)
		now := h.memory()
		if now >= least {
			return
		}
		least = now
	}
}

// from is someone at a loopback address of their own: the limits that hold for
// one address are not what keeps them apart.
func from(network, host int) *http.Client {
	dialer := net.Dialer{LocalAddr: &net.TCPAddr{IP: net.IPv4(127, 0, byte(network), byte(1+host%250))}}
	return &http.Client{Timeout: time.Minute, Transport: &http.Transport{MaxIdleConnsPerHost: 64, DialContext: dialer.DialContext}}
}

var anyone = from(0, 0)

// call sends a request and gives its status, 0 for no answer, and the beginning of what came.
func (h *target) call(client *http.Client, method, path, body string, head ...string) (status int, said string) {
	req, err := http.NewRequest(method, h.url+path, strings.NewReader(body))
	if err != nil {
		return 0, err.Error()
	}
	for i := 0; i+1 < len(head); i += 2 {
		req.Header.Set(head[i], head[i+1])
	}
	r, err := client.Do(req)
	if err != nil {
		return 0, err.Error()
	}
	defer r.Body.Close()
	raw, _ := io.ReadAll(io.LimitReader(r.Body, 64<<10))
	return r.StatusCode, string(raw)
}

// page sends what a visitor's page would.
func (h *target) page(path, body string) (status int, said string) {
	return h.call(anyone, "POST", "/v1/sites/shop/"+path, body, "Origin", origin, "Content-Type", "text/plain")
}

func (h *target) ofSite(path string) string { return fmt.Sprintf("/api/sites/%d%s", h.site, path) }

func (h *target) answers(ctx context.Context) bool {
	ctx, cancel := context.WithTimeout(ctx, 5*time.Second)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, h.url+"/readyz", nil)
	if err != nil {
		return false
	}
	r, err := http.DefaultClient.Do(req)
	if err != nil {
		return false
	}
	r.Body.Close()
	return r.StatusCode == http.StatusOK
}

func event(visitor string) string {
	return fmt.Sprintf(`{"visitor":%q,"visit":"visit-1234","events":[{"id":%q,"kind":"shown","at":%d,"piece":"club","variant":"a","page":"/"}]}`,
		visitor, uuid.NewString(), time.Now().UnixMilli())
}

// honest sends a visitor's event four times a second until it is told to stop,
// and then says how long they took.
func (h *target) honest(ctx context.Context) (stop func() string) {
	ctx, cancel := context.WithCancel(ctx)
	client := from(9, 9)
	var took []time.Duration
	lost := 0
	var done sync.WaitGroup
	done.Go(func() {
		for ctx.Err() == nil {
			began := time.Now()
			status, _ := h.call(client, "POST", "/v1/sites/shop/events", event("honest-visitor"), "Origin", origin)
			if status == http.StatusOK {
				took = append(took, time.Since(began))
			} else if status != http.StatusTooManyRequests {
				lost++
			}
			select {
			case <-ctx.Done():
			case <-time.After(250 * time.Millisecond):
			}
		}
	})
	return func() string {
		cancel()
		done.Wait()
		slices.Sort(took)
		if len(took) == 0 {
			return fmt.Sprintf("%d not taken", lost)
		}
		said := fmt.Sprintf("%d, worst %d", took[len(took)/2].Milliseconds(), took[len(took)-1].Milliseconds())
		if lost > 0 {
			said += fmt.Sprintf(", %d not taken", lost)
		}
		return said
	}
}

// many does something so often at once, and tallies the statuses it gives.
func many(n int, do func(i int) int) tally {
	t := tally{}
	var mu sync.Mutex
	var all sync.WaitGroup
	for i := range n {
		all.Go(func() {
			status := do(i)
			mu.Lock()
			t[status]++
			mu.Unlock()
		})
	}
	all.Wait()
	return t
}
