package visitor

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net/netip"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgxlisten"
	"golang.org/x/sync/errgroup"
	"golang.org/x/sync/singleflight"

	"gobbet/core/choose"
	"gobbet/core/launch"
	"gobbet/core/origin"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/internal/store/sites"
)

// Site is all that visitors' requests need of one site: immutable, and swapped
// whole when the site changes.
type Site struct {
	sites.Site
	Zone    *time.Location
	Allowed map[string]bool // origins
	// Live is the pieces that may show, those that win first.
	Live   []choose.Live
	lineup choose.Lineup
	IsLive map[string]bool
	// Known holds every variant that was ever live: pages that were open when a
	// piece or a variant went may still speak of it.
	Known map[string]map[string]bool
	// Designs are the drawings of what is live, by hash, and Public what of them
	// is sent ahead.
	Designs map[string]*walked
	Public  map[string][]byte
	// Pages are the pieces with a page of their own, by its address.
	Pages map[string]*ownPage
	names *dataNames
	// Channels are those that the site's settings name, by host.
	Channels map[string]string
	// Cookies are the names that live rules ask about.
	Cookies []string
	asks    asks
	// runs are the latest of each piece's split, in order.
	runs      map[string][]launch.Run
	goalPaths []*pathRule // of the settings' goals; nil for those of events
	team      []netip.Prefix
	quiet     int // seconds; see DecideAnswer
	exit      string
	said      map[string]said // by language: of what the site has its own words for
}

// Snapshots holds the snapshots of the sites that were asked for, and follows
// the store. A site is loaded when a visitor first asks for it; one that cannot be
// is set aside, and the others do not wait for it.
type Snapshots struct {
	store Stores
	sites atomic.Pointer[map[string]*Site] // loaded, by key
	keys  atomic.Pointer[map[string]int64] // ids of all there are, by key
	aside sync.Map                         // by key: setAside
	load  singleflight.Group               // by key
	swap  sync.Mutex
}

// setAside is a site that could not be loaded.
type setAside struct {
	why  error
	when time.Time
}

var errSetAside = errors.New("the site cannot be loaded just now")

// NewSnapshots asks which sites there are.
func NewSnapshots(ctx context.Context, s Stores) (*Snapshots, error) {
	snaps := &Snapshots{store: s}
	snaps.sites.Store(&map[string]*Site{})
	snaps.keys.Store(&map[string]int64{})
	return snaps, snaps.catchUp(ctx)
}

const (
	loadPatience = 10 * time.Second
	loadsAtOnce  = 4
	// triesAside is how long a site that could not be loaded is left alone.
	triesAside = 5 * time.Second
)

// loaded gives the snapshot of a site that somebody has asked for; nil for others.
func (s *Snapshots) loaded(key string) *Site { return (*s.sites.Load())[key] }

// Site gives the snapshot of a site, loading it where nobody asked for it yet;
// nil for an unknown key.
func (s *Snapshots) Site(ctx context.Context, key string) (*Site, error) {
	if site := s.loaded(key); site != nil {
		return site, nil
	}
	id, known := (*s.keys.Load())[key]
	if !known {
		return nil, nil
	}
	if is, ok := s.aside.Load(key); ok && time.Since(is.(setAside).when) < triesAside {
		return nil, errSetAside
	}
	done := s.load.DoChan(key, func() (any, error) {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), loadPatience)
		defer cancel()
		return nil, s.reload(ctx, map[string]int64{key: id})
	})
	select {
	case is := <-done:
		if is.Err != nil {
			return nil, errSetAside
		}
		return (*s.sites.Load())[key], nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// SetAside tells which sites could not be loaded, by key, and why.
func (s *Snapshots) SetAside() map[string]error {
	all := map[string]error{}
	s.aside.Range(func(key, is any) bool {
		all[key.(string)] = is.(setAside).why
		return true
	})
	return all
}

// catchUp loads the sites again that have changed since they were loaded: those
// of which a notice was missed. It asks for a number a site.
func (s *Snapshots) catchUp(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, loadPatience)
	defer cancel()
	numbers, err := s.store.Sites.SnapshotNumbers(ctx)
	if err != nil {
		return err
	}
	keys, stale := make(map[string]int64, len(numbers)), map[string]int64{}
	loaded := *s.sites.Load()
	for _, n := range numbers {
		keys[n.Key] = n.ID
		if site := loaded[n.Key]; site != nil && site.Snapshot != n.Snapshot {
			stale[n.Key] = n.ID
		}
	}
	s.keys.Store(&keys)
	for key := range loaded {
		if _, is := keys[key]; !is {
			s.put(key, nil)
		}
	}
	return s.reload(ctx, stale)
}

// notified follows a notice: a site that nobody asked for is only noted.
func (s *Snapshots) notified(ctx context.Context, ids []int64) error {
	loaded, keys := map[string]int64{}, *s.keys.Load()
	for _, id := range ids {
		known := false
		for key, is := range keys {
			if is != id {
				continue
			}
			known = true
			s.aside.Delete(key)
			if (*s.sites.Load())[key] != nil {
				loaded[key] = id
			}
		}
		if !known {
			return s.catchUp(ctx)
		}
	}
	return s.reload(ctx, loaded)
}

// reload loads some sites again, several at once, and leaves the others as they are.
func (s *Snapshots) reload(ctx context.Context, ids map[string]int64) error {
	ctx, cancel := context.WithTimeout(ctx, loadPatience)
	defer cancel()
	var loads errgroup.Group
	loads.SetLimit(loadsAtOnce)
	keys := slices.Sorted(maps.Keys(ids))
	errs := make([]error, len(keys))
	for i, key := range keys {
		loads.Go(func() error {
			site, err := s.one(ctx, ids[key])
			switch {
			case err != nil:
				// The site stays as it was; the others do not wait for it.
				errs[i] = fmt.Errorf("site %s: %w", key, err)
				slog.ErrorContext(ctx, "a site cannot be loaded", "site", key, "error", err)
				s.aside.Store(key, setAside{err, time.Now()})
			default:
				s.aside.Delete(key)
				s.put(key, site)
			}
			return nil
		})
	}
	_ = loads.Wait() // each says for itself
	return errors.Join(errs...)
}

// one loads a site; nil: it is not there any more.
func (s *Snapshots) one(ctx context.Context, id int64) (*Site, error) {
	rows, err := s.store.Sites.ByID(ctx, []int64{id})
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	return s.build(ctx, rows[0])
}

// put puts a site in place of what was there, unless that is of later; nil takes it out.
func (s *Snapshots) put(key string, site *Site) {
	s.swap.Lock()
	defer s.swap.Unlock()
	now := *s.sites.Load()
	if had := now[key]; site != nil && had != nil && had.Snapshot > site.Snapshot {
		return
	}
	sites := maps.Clone(now)
	if site == nil {
		delete(sites, key)
	} else {
		sites[key] = site
	}
	s.sites.Store(&sites)
}

// recount brings the totals that caps count up to date, on the sites that have
// such caps.
func (s *Snapshots) recount(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, loadPatience)
	defer cancel()
	for key, site := range *s.sites.Load() {
		if !slices.ContainsFunc(site.Live, capped) {
			continue
		}
		now := *site
		now.Live = slices.Clone(site.Live)
		if err := s.count(ctx, &now); err != nil {
			return err
		}
		now.lineup = choose.NewLineup(now.Live)
		s.put(key, &now)
	}
	return nil
}

// capped reports whether a piece has a limit on its showings to everyone.
func capped(l choose.Live) bool { return l.Piece.Caps.Total > 0 }

// count fills in how often the pieces were shown that have a limit on it.
func (s *Snapshots) count(ctx context.Context, site *Site) error {
	var ids []string
	for _, l := range site.Live {
		if capped(l) {
			ids = append(ids, l.ID)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	totals, err := s.store.Pieces.TotalShown(ctx, site.ID, ids)
	for i := range site.Live {
		site.Live[i].TotalShown = totals[site.Live[i].ID]
	}
	return err
}

func (s *Snapshots) build(ctx context.Context, row sites.Site) (*Site, error) {
	site := &Site{
		Site: row, Zone: row.Location(), Allowed: map[string]bool{}, IsLive: map[string]bool{},
		Designs: map[string]*walked{}, Public: map[string][]byte{},
	}
	for _, given := range row.Origins {
		if is, err := origin.Parse(given); err == nil {
			site.Allowed[is] = true
		}
	}
	site.settle(row.Settings.Settings)
	runs, err := s.store.Pieces.LatestRuns(ctx, row.ID)
	if err != nil {
		return nil, err
	}
	site.runs = map[string][]launch.Run{}
	for _, r := range runs {
		site.runs[r.Piece] = append(site.runs[r.Piece], r)
	}
	book, err := s.store.Reaches.Book(ctx, row.ID)
	if err != nil {
		return nil, err
	}
	launched, err := s.store.Pieces.Live(ctx, row.ID)
	if err != nil {
		return nil, err
	}
	if site.Known, err = s.store.Pieces.LiveVariants(ctx, row.ID); err != nil {
		return nil, err
	}
	written := map[string][]byte{}
	for _, l := range launched {
		p, err := piece.ParseWith(l.Live, book)
		if err != nil {
			// Left out rather than taking the site's other pieces with it.
			slog.ErrorContext(ctx, "a live piece cannot be read", "site", row.Key, "piece", l.ID, "error", err)
			continue
		}
		live := choose.Live{ID: l.ID, Piece: p, Hashes: map[string]string{}}
		drawings, err := site.ready(p, live.Hashes)
		if err != nil {
			slog.ErrorContext(ctx, "a live piece cannot be walked", "site", row.Key, "piece", l.ID, "error", err)
			continue
		}
		maps.Copy(written, drawings)
		site.IsLive[l.ID] = true
		site.Live = append(site.Live, live)
	}
	if err := s.count(ctx, site); err != nil {
		return nil, err
	}
	ofPages, err := site.takeOwnPages()
	if err != nil {
		return nil, err
	}
	maps.Copy(written, ofPages)
	// A newer program may write a design otherwise than the one that launched it.
	// What is given out under a hash is kept under it, so that every server knows it.
	if err := s.store.Designs.Keep(ctx, row.ID, written); err != nil {
		return nil, err
	}
	names, err := s.store.Sites.DataNames(ctx, row.ID)
	if err != nil {
		return nil, err
	}
	site.names = newDataNames(names, site)
	site.lineup = choose.NewLineup(site.Live)
	site.Cookies, site.asks = cookiesOf(site.Live), asksOf(site.Live)
	return site, nil
}

// ready makes a piece's drawings ready to be walked and sent, gives them as they
// are written, and notes in hashes which variant has which.
func (site *Site) ready(p *piece.Piece, hashes map[string]string) (written map[string][]byte, err error) {
	written = p.Drawings(&site.Kit, hashes)
	for _, v := range p.Split.Variants {
		d, hash := p.Draw(&v, &site.Kit), hashes[v.ID]
		walk, err := readyToWalk(&d)
		if err != nil {
			return nil, err
		}
		site.Designs[hash] = walk
		if site.Public[hash], err = json.Marshal(walk.Public(d)); err != nil {
			return nil, err
		}
	}
	return written, nil
}

// settle makes ready what the settings say.
func (site *Site) settle(s setup.Settings) {
	site.Channels = map[string]string{}
	for channel, hosts := range s.Channels {
		for _, host := range hosts {
			site.Channels[host] = channel
		}
	}
	site.team = teamNets(s.Team)
	site.worded()
	site.goalPaths = nil
	for _, g := range s.Goals {
		var path *pathRule
		if g.Kind == "page" {
			path = newPathRule(g.About)
		}
		site.goalPaths = append(site.goalPaths, path)
	}
	if s.Limits.Quiet != "" {
		length, _ := s.Limits.Quiet.Length()
		site.quiet = int(length / time.Second)
	}
	if s.Exit != setup.Normal {
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

const (
	recounts   = 10 * time.Second // how often totals and missed changes are looked up
	reconnects = 500 * time.Millisecond
)

// Follow keeps the snapshots in step with the store until ctx ends: a site at
// once when its notice comes, and all of them now and then, for notices that
// were missed and for the totals that caps count.
func (s *Snapshots) Follow(ctx context.Context) {
	notices := make(chan int64, 256)
	go s.listen(ctx, notices)
	tick := time.NewTicker(recounts)
	defer tick.Stop()
	for {
		var err error
		select {
		case <-ctx.Done():
			return
		case site := <-notices:
			if ids := gather(site, notices); slices.Contains(ids, everySite) {
				err = s.catchUp(ctx)
			} else {
				err = s.notified(ctx, ids)
			}
		case <-tick.C:
			err = errors.Join(s.recount(ctx), s.catchUp(ctx))
		}
		if err != nil && ctx.Err() == nil {
			slog.WarnContext(ctx, "snapshots are kept as they are", "error", err)
		}
	}
}

// everySite stands for a notice that any site may have changed.
const everySite int64 = 0

// gather takes the notices that have come meanwhile, each site once.
func gather(first int64, notices <-chan int64) []int64 {
	ids := []int64{first}
	for {
		select {
		case id := <-notices:
			if !slices.Contains(ids, id) {
				ids = append(ids, id)
			}
		default:
			return ids
		}
	}
}

// listen hears of changes over a connection of its own, made anew when lost.
func (s *Snapshots) listen(ctx context.Context, notices chan<- int64) {
	listener := &pgxlisten.Listener{
		Connect: func(ctx context.Context) (*pgx.Conn, error) { return pgx.Connect(ctx, s.store.Notices) },
		LogError: func(ctx context.Context, err error) {
			slog.WarnContext(ctx, "not hearing of launches; trying again", "error", err)
		},
		ReconnectDelay: reconnects,
	}
	listener.Handle(sites.SnapshotChannel, hearing(notices))
	if err := listener.Listen(ctx); err != nil && ctx.Err() == nil {
		slog.ErrorContext(ctx, "no launches are heard of any more", "error", err)
	}
}

// hearing passes notices on: the ids of sites.
type hearing chan<- int64

func (h hearing) HandleNotification(ctx context.Context, n *pgconn.Notification, _ *pgx.Conn) error {
	site, _ := strconv.ParseInt(n.Payload, 10, 64) // another payload is for every site
	return h.tell(ctx, site)
}

// HandleBacklog makes up for what was missed before the connection was there: any
// site may have changed.
func (h hearing) HandleBacklog(ctx context.Context, _ string, _ *pgx.Conn) error {
	return h.tell(ctx, everySite)
}

func (h hearing) tell(ctx context.Context, site int64) error {
	select {
	case h <- site:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}
