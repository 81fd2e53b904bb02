// Command bench measures Gobbet against plain stand-ins for the same work, side
// by side in one run, and prints ratios: a machine's mood moves both alike.
package main

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	stdlog "log"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"runtime/pprof"
	"slices"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/jmoiron/sqlx"

	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/limits"
	"gobbet/internal/localpg"
	"gobbet/internal/server"
	"gobbet/internal/store"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/visitor"
	"gobbet/web"
)

func main() {
	slog.SetDefault(slog.New(slog.NewJSONHandler(io.Discard, nil)))
	if path := os.Getenv("BENCH_PROFILE"); path != "" {
		f, err := os.Create(path)
		if err != nil {
			stdlog.Fatal(err)
		}
		pprof.StartCPUProfile(f)
		defer pprof.StopCPUProfile()
	}
	only := ""
	if len(os.Args) > 1 {
		only = os.Args[1]
	}
	for _, one := range []struct {
		name string
		run  func(context.Context) error
	}{
		{"sizes", func(context.Context) error { sizes(); return nil }},
		{"rehearsals", func(context.Context) error { return rehearsals() }},
		{"verdicts", func(context.Context) error { return verdicts() }}, {"results", results}, {"decide", decide}, {"events", stored}, {"advance", advanced}, {"start", starts},
	} {
		if only != "" && only != one.name {
			continue
		}
		if err := one.run(context.Background()); err != nil {
			stdlog.Fatal(err)
		}
	}
}

func sizes() {
	fmt.Printf("what a page's load waits for    %6d bytes, gzipped\n", zipped("loader.js"))
	loader := zipped("loader.js") + zipped("visit.js")
	fmt.Printf("loader, gzipped                 %6d bytes   to hold: 3072\n", loader)
	fmt.Printf("all for a popup, gzipped        %6d bytes   to hold: %d\n", loader+zipped("watcher.js")+zipped("renderer.js"), 18*1024+512)
	fmt.Printf("the same as Brotli has it       %6d bytes\n", zipped("loader.js")+pressed("visit.js")+pressed("watcher.js")+pressed("renderer.js"))
	fmt.Printf("once it stands, gzipped         %6d bytes   (walk and sending, on idle)\n", zipped("walk.js")+zipped("sending.js"))
	fmt.Printf("a quiz on top of it, gzipped    %6d bytes   to hold: %d\n", zipped("play.js"), 8*1024)
	fmt.Printf("a conversation on top of it     %6d bytes   to hold: %d\n", zipped("chat.js"), 8*1024)
	fmt.Printf("prize draws, all three          %6d bytes   to hold: %d each\n", zipped("draw.js"), 6*1024)
	fmt.Printf("\n%-12s%10s%10s\n", "part", "bytes", "gzipped")
	for _, part := range []string{"loader", "visit", "watcher", "renderer", "walk", "sending", "clicks", "links", "extras", "play", "draw", "chat", "frames", "cost", "own", "inspector"} {
		plain, err := fs.ReadFile(web.Page(), part+".js")
		if err != nil {
			stdlog.Fatal("the front end is not built: run make build")
		}
		fmt.Printf("%-12s%10d%10d\n", part, len(plain), zipped(part+".js"))
	}
}

// pressed is the size of a script as Brotli has it, which the build did.
func pressed(name string) int {
	body, err := fs.ReadFile(web.Page(), name+".br")
	if err != nil {
		stdlog.Fatal("the front end is not built: run make build")
	}
	return len(body)
}

func zipped(name string) int {
	plain, err := fs.ReadFile(web.Page(), name)
	if err != nil {
		stdlog.Fatal("the front end is not built: run make build")
	}
	var b bytes.Buffer
	w, _ := gzip.NewWriterLevel(&b, gzip.BestCompression)
	w.Write(plain)
	w.Close()
	return b.Len()
}

const (
	livePieces = 100
	clients    = 4
	origin     = "https://shop.test"
	generous   = 1 << 30 // limits are counted and never reached
)

var (
	requests = size(1000, 20) // a client, a round
	rounds   = times(21)
)

// decide holds decide with 100 live pieces against a bare Gin handler that
// only reads and writes the same JSON. Both log each request, as JSON to
// nowhere, and count it against a limit per address.
func decide(ctx context.Context) error {
	snapshots, s, end, err := hundredPieces(ctx)
	if err != nil {
		return err
	}
	defer end()
	gin.SetMode(gin.ReleaseMode)
	real, bare := gin.New(), gin.New()
	visitor.New(visitor.StoresOf(s), snapshots, visitor.Options{Page: web.Page(), Generous: generous}).Routes(real)
	memory := choose.Memory{Visitor: "visitor-1234", Visits: 3, Pages: 9, Visit: choose.VisitMemory{ID: "visit-1234", Pages: 2, Landing: origin + "/?utm_medium=email", Referrer: ""},
		Pieces: map[string]choose.Known{"p1": {Shown: []int64{1795000000, 1795100000}, TimesShown: 2, Variant: "a"}, "p2": {Closed: 1795100000, TimesClosed: 1}}}
	raw, err := json.Marshal(memory)
	if err != nil {
		return err
	}
	body, err := json.Marshal(visitor.DecideRequest{URL: origin + "/journal/ash-glaze", Title: "What the ash knows", Width: 1280, Language: "en", Memory: raw})
	if err != nil {
		return err
	}
	realAt, stopReal := listen(server.Logged(real))
	defer stopReal()
	answer, err := post(http.DefaultClient, realAt+"/v1/sites/shop/decide", body)
	if err != nil {
		return err
	}
	var placed struct {
		Placements []json.RawMessage `json:"placements"`
		Renderer   string            `json:"renderer"`
	}
	if err := json.Unmarshal(answer, &placed); err != nil {
		return err
	}
	bare.POST("/v1/sites/shop/decide", limits.New(nil).Address("decide", generous, time.Minute), func(c *gin.Context) {
		var req visitor.DecideRequest
		var m choose.Memory
		given, _ := io.ReadAll(c.Request.Body)
		if json.Unmarshal(given, &req) != nil || json.Unmarshal(req.Memory, &m) != nil {
			c.Status(http.StatusBadRequest)
			return
		}
		c.JSON(http.StatusOK, placed)
	})
	bareAt, stopBare := listen(server.Logged(bare))
	defer stopBare()

	var rates, tails []float64
	for range rounds {
		ours, ourTail := load(realAt+"/v1/sites/shop/decide", body)
		theirs, theirTail := load(bareAt+"/v1/sites/shop/decide", body)
		rates, tails = append(rates, ours/theirs), append(tails, ourTail.Seconds()/theirTail.Seconds())
	}
	fmt.Printf("decide, %d live pieces, %d placed, against a bare handler (median of %d rounds):\n", livePieces, len(placed.Placements), rounds)
	fmt.Printf("  throughput                      %5.2f ×        to hold: 0.85\n", median(rates))
	fmt.Printf("  p99                             %5.2f ×        to hold: 1.20\n", median(tails))
	return nil
}

// hundredPieces is a site with a hundred live pieces over a throwaway database.
func hundredPieces(ctx context.Context) (*visitor.Snapshots, *store.Store, func(), error) {
	home, err := os.MkdirTemp("", "gobbet-bench-*")
	if err != nil {
		return nil, nil, nil, err
	}
	os.Chmod(home, 0o755)
	cluster, err := localpg.Start(ctx, localpg.Options{Home: home, Throwaway: true})
	if err != nil {
		return nil, nil, nil, err
	}
	end := func() {
		cluster.Stop()
		os.RemoveAll(home)
	}
	snapshots, s, err := fill(ctx, cluster)
	if err != nil {
		end()
		return nil, nil, nil, err
	}
	return snapshots, s, end, nil
}

func fill(ctx context.Context, cluster *localpg.Cluster) (*visitor.Snapshots, *store.Store, error) {
	admin, err := sqlx.ConnectContext(ctx, "pgx", cluster.URL("postgres"))
	if err != nil {
		return nil, nil, err
	}
	defer admin.Close()
	if _, err := admin.ExecContext(ctx, `create database bench`); err != nil {
		return nil, nil, err
	}
	s, err := store.Open(ctx, cluster.URL("bench"), 5*time.Second)
	if err != nil {
		return nil, nil, err
	}
	if err := s.Migrate(ctx); err != nil {
		return nil, nil, err
	}
	account, err := s.Accounts.Add(ctx, "bench@example.com", "Bench", "bench")
	if err != nil {
		return nil, nil, err
	}
	site, err := s.Sites.Add(ctx, "shop", "Shop", "UTC", sites.Texts{origin}, account)
	if err != nil {
		return nil, nil, err
	}
	for i := range livePieces {
		p := piece.New(fmt.Sprint("Piece ", i), []piece.Format{piece.Popup, piece.FlyIn}[i%2], fmt.Sprint("salt", i))
		// Most are for other pages; a few of them wait on this one.
		path := fmt.Sprintf("/shop/%d", i)
		if i%25 == 0 {
			path = "/journal"
		}
		p.Rule = reach.All{
			reach.Clause{Fact: "page.path", Op: reach.StartsWith, Value: path},
			reach.Not{Rule: reach.Clause{Fact: "device.kind", Op: reach.Is, Value: "phone"}},
			reach.Clause{Fact: "visitor.visits", Op: reach.Gte, Value: 2.0},
			reach.Any{reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: 30.0}, reach.Clause{Fact: "moment.exit_intent", Op: reach.Happened}},
		}
		raw, err := json.Marshal(p)
		if err != nil {
			return nil, nil, err
		}
		id := fmt.Sprint("p", i)
		if err := s.Pieces.Add(ctx, site, id, raw); err != nil {
			return nil, nil, err
		}
		if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, id, 1, p.Drawings(nil, nil)); err != nil {
			return nil, nil, err
		}
	}
	snapshots, err := visitor.NewSnapshots(ctx, visitor.StoresOf(s))
	return snapshots, s, err
}

func listen(h http.Handler) (address string, stop func()) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		stdlog.Fatal(err)
	}
	srv := &http.Server{Handler: h, ReadHeaderTimeout: time.Second}
	go srv.Serve(l)
	return "http://" + l.Addr().String(), func() { srv.Close() }
}

// load asks as fast as a few clients can, and gives requests a second and the
// slowest hundredth.
func load(url string, body []byte) (rate float64, p99 time.Duration) {
	took := make([][]time.Duration, clients)
	var wg sync.WaitGroup
	start := time.Now()
	for i := range clients {
		wg.Go(func() {
			client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 1}}
			defer client.CloseIdleConnections()
			for range requests {
				asked := time.Now()
				if _, err := post(client, url, body); err != nil {
					stdlog.Fatal(err)
				}
				took[i] = append(took[i], time.Since(asked))
			}
		})
	}
	wg.Wait()
	rate = float64(clients*requests) / time.Since(start).Seconds()
	all := slices.Concat(took...)
	slices.Sort(all)
	return rate, all[len(all)*99/100]
}

func post(client *http.Client, url string, body []byte) ([]byte, error) {
	req, err := http.NewRequest(http.MethodPost, url, bytes.NewReader(body))
	if err != nil {
		return nil, err
	}
	req.Header.Set("Origin", origin)
	// Visitors come from many places, and each place has limits of its own.
	req.Header.Set("X-Forwarded-For", fmt.Sprintf("10.%d.%d.%d", rand.IntN(256), rand.IntN(256), rand.IntN(256)))
	req.Header.Set("User-Agent", "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/156.0.0.0 Safari/537.36")
	res, err := client.Do(req)
	if err != nil {
		return nil, err
	}
	defer res.Body.Close()
	said, err := io.ReadAll(res.Body)
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s: %s", res.Status, said)
	}
	return said, err
}

func median(of []float64) float64 {
	slices.Sort(of)
	return of[len(of)/2]
}
