package visitor

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"

	"gobbet/core/choose"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/store"
)

// Site is all that visitors' requests need of one site: immutable, and swapped
// whole when the site changes.
type Site struct {
	store.Site
	Zone    *time.Location
	Allowed map[string]bool // origins
	// Live is the pieces that may show, those that win first.
	Live []choose.Live
	// Known holds the variants of every piece that was ever live: pages that
	// were open when a piece went to rest may still speak of it.
	Known   map[string]map[string]bool
	Designs map[string][]byte
	// Channels are those that the site's settings name, by host.
	Channels map[string]string
	// Cookies are the names that live rules ask about.
	Cookies []string
	asks    asks
	quiet   int // seconds; see DecideAnswer
	exit    string
}

// Snapshots holds every site's snapshot, and follows the store.
type Snapshots struct {
	store *store.Store
	sites atomic.Pointer[map[string]*Site] // by key
	load  sync.Mutex
}

// NewSnapshots loads every site.
func NewSnapshots(ctx context.Context, s *store.Store) (*Snapshots, error) {
	snaps := &Snapshots{store: s}
	snaps.sites.Store(&map[string]*Site{})
	return snaps, snaps.reload(ctx, 0)
}

// Site gives the snapshot of a site, or nil for an unknown key.
func (s *Snapshots) Site(key string) *Site { return (*s.sites.Load())[key] }

// Origins lists the origins of all sites.
func (s *Snapshots) Origins() []string {
	var origins []string
	for _, site := range *s.sites.Load() {
		origins = append(origins, site.Origins...)
	}
	return origins
}

// reload loads the site with an id again, or every site for 0.
func (s *Snapshots) reload(ctx context.Context, id int64) error {
	s.load.Lock()
	defer s.load.Unlock()
	rows, err := s.store.Sites(ctx)
	if err != nil {
		return err
	}
	before, sites := *s.sites.Load(), map[string]*Site{}
	for _, row := range rows {
		if old := before[row.Key]; old != nil && id != 0 && row.ID != id {
			sites[row.Key] = old
			continue
		}
		site, err := s.build(ctx, row)
		if err != nil {
			return err
		}
		sites[row.Key] = site
	}
	s.sites.Store(&sites)
	return nil
}

func (s *Snapshots) build(ctx context.Context, row store.Site) (*Site, error) {
	site := &Site{Site: row, Zone: row.Location(), Allowed: map[string]bool{}, Known: map[string]map[string]bool{}, Designs: map[string][]byte{}}
	for _, origin := range row.Origins {
		site.Allowed[origin] = true
	}
	site.settle(row.Settings)
	book, err := s.store.Book(ctx, row.ID)
	if err != nil {
		return nil, err
	}
	launched, err := s.store.LaunchedPieces(ctx, row.ID)
	if err != nil {
		return nil, err
	}
	for _, l := range launched {
		p, err := piece.ParseWith(l.Live, book)
		if err != nil {
			// Left out rather than taking the site's other pieces with it.
			slog.ErrorContext(ctx, "a live piece cannot be read", "site", row.Key, "piece", l.ID, "error", err)
			continue
		}
		live := choose.Live{ID: l.ID, Piece: p, Hashes: map[string]string{}, TotalShown: l.Shown}
		site.Known[l.ID] = map[string]bool{}
		for hash, body := range Drawings(p, &row.Kit, live.Hashes) {
			site.Designs[hash] = body
		}
		for variant := range live.Hashes {
			site.Known[l.ID][variant] = true
		}
		if l.State == "live" {
			site.Live = append(site.Live, live)
		}
	}
	site.Cookies, site.asks = cookiesOf(site.Live), asksOf(site.Live)
	return site, nil
}

// settle makes ready what the settings say.
func (site *Site) settle(s store.Settings) {
	site.Channels = map[string]string{}
	for channel, hosts := range s.Channels {
		for _, host := range hosts {
			site.Channels[host] = channel
		}
	}
	if s.Limits.Quiet != "" {
		length, _ := s.Limits.Quiet.Length()
		site.quiet = int(length / time.Second)
	}
	if s.Exit != store.Normal {
		site.exit = string(s.Exit)
	}
}

func cookiesOf(live []choose.Live) (names []string) {
	for _, l := range live {
		l.Piece.Program.EachTest(func(_ string, t *reach.Test) {
			if name, ok := strings.CutPrefix(t.Fact, "cookie."); ok && !slices.Contains(names, name) {
				names = append(names, name)
			}
		})
	}
	return names
}

// Drawings gives a piece's drawings by hash, in a site's style, and notes in
// hashes (if not nil) which variant has which.
func Drawings(p *piece.Piece, kit *piece.Kit, hashes map[string]string) map[string][]byte {
	drawings := map[string][]byte{}
	for _, v := range p.Split.Variants {
		body := p.Drawing(v, kit)
		sum := sha256.Sum256(body)
		hash := hex.EncodeToString(sum[:16])
		drawings[hash] = body
		if hashes != nil {
			hashes[v.ID] = hash
		}
	}
	return drawings
}

const (
	recount    = 10 * time.Second // how often totals and missed changes are looked up
	reconnects = 500 * time.Millisecond
)

// Follow keeps the snapshots in step with the store until ctx ends: at once
// when told, and now and then anyway, for the totals that caps count.
func (s *Snapshots) Follow(ctx context.Context) {
	told := make(chan int64, 64)
	go s.listen(ctx, told)
	tick := time.NewTicker(recount)
	defer tick.Stop()
	for {
		var id int64
		select {
		case <-ctx.Done():
			return
		case id = <-told:
		case <-tick.C:
		}
		if err := s.reload(ctx, id); err != nil && ctx.Err() == nil {
			slog.WarnContext(ctx, "snapshots are kept as they are", "error", err)
		}
	}
}

// listen hears of changes over a connection of its own, made anew when lost.
// What was missed meanwhile is made up for by loading every site.
func (s *Snapshots) listen(ctx context.Context, told chan<- int64) {
	for ctx.Err() == nil {
		err := s.hear(ctx, told)
		if ctx.Err() != nil {
			return
		}
		slog.WarnContext(ctx, "not hearing of launches; trying again", "error", err)
		select {
		case <-ctx.Done():
		case <-time.After(reconnects):
		}
	}
}

func (s *Snapshots) hear(ctx context.Context, told chan<- int64) error {
	conn, err := pgx.Connect(ctx, s.store.URL())
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, "listen "+store.SnapshotChannel); err != nil {
		return err
	}
	told <- 0
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return fmt.Errorf("listening: %w", err)
		}
		id, err := strconv.ParseInt(n.Payload, 10, 64)
		if err != nil {
			id = 0
		}
		told <- id
	}
}
