package visitor

import (
	"context"
	"slices"
	"strings"
	"sync"

	"gobbet/core/choose"
	"gobbet/core/fault"
	"gobbet/core/reach"
	"gobbet/core/text"
	"gobbet/internal/store/sites"
)

// RefusedNames is the kind of refusal that data under too many names is counted as.
const RefusedNames = "data_name"

// dataNames knows which names of a site's own data the visit log keeps: each is
// a column, so there are only so many, first come first kept. Those that live
// rules ask about are always among them.
type dataNames struct {
	mu    sync.Mutex
	kept  map[string]bool
	ruled map[string]bool
	full  bool
}

const dataFamily = "data."

func newDataNames(kept []string, site *Site) *dataNames {
	n := &dataNames{kept: map[string]bool{}, ruled: map[string]bool{}, full: len(kept) >= sites.MostDataNames}
	for _, name := range kept {
		n.kept[name] = true
	}
	for _, l := range site.Live {
		l.Piece.Program.EachTest(func(_ string, t *reach.Test) {
			if name, ok := strings.CutPrefix(t.Fact, dataFamily); ok {
				n.ruled[name] = true
			}
		})
	}
	return n
}

// unknown lists the names of facts that are not kept yet, and whether more may be.
func (n *dataNames) unknown(facts map[string]any) (names []string, full bool) {
	n.mu.Lock()
	defer n.mu.Unlock()
	for fact := range facts {
		if name, ok := strings.CutPrefix(fact, dataFamily); ok && !n.kept[name] && !n.ruled[name] {
			names = append(names, name)
		}
	}
	return names, n.full
}

func (n *dataNames) keep(names []string, asked int) {
	n.mu.Lock()
	defer n.mu.Unlock()
	for _, name := range names {
		n.kept[name] = true
	}
	n.full = n.full || len(names) < asked
}

// keepNames takes the facts under names that are not kept out of a page view,
// and counts them.
func (v *Server) keepNames(ctx context.Context, site *Site, facts map[string]any) error {
	names, full := site.names.unknown(facts)
	if len(names) == 0 {
		return nil
	}
	if !full {
		kept, err := v.store.Sites.AddDataNames(ctx, site.ID, names)
		if err != nil {
			return err
		}
		site.names.keep(kept, len(names))
		if names, _ = site.names.unknown(facts); len(names) == 0 {
			return nil
		}
	}
	for _, name := range names {
		delete(facts, dataFamily+name)
	}
	v.refused.add(site.ID, RefusedNames, names[0], len(names))
	return nil
}

// FailedDrawing is the kind of refusal that a piece is counted as which a page could
// not draw.
const FailedDrawing = "drawing"

// drawingFault takes down that a page could not draw a piece that is live.
func (v *Server) drawingFault(c *Call, in *DrawingFault) (None, error) {
	at := slices.IndexFunc(c.Site.Live, func(l choose.Live) bool { return l.ID == in.Piece })
	if at < 0 {
		return None{}, fault.ErrNotFound
	}
	v.refused.add(c.Site.ID, FailedDrawing, text.Cut(c.Site.Live[at].Piece.Name+": "+text.Keepable(in.Says, 200), 300), 1)
	return None{}, nil
}

// refused counts what is refused until it is written down: rather often a
// little late than a row written for each request of a flood.
type refused struct {
	mu     sync.Mutex
	counts map[refusal]*refusedTimes
}

type refusal struct {
	site int64
	kind string
}

type refusedTimes struct {
	times   int64
	example string
}

func (r *refused) add(site int64, kind, example string, times int) {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.counts == nil {
		r.counts = map[refusal]*refusedTimes{}
	}
	k := refusal{site, kind}
	if r.counts[k] == nil {
		r.counts[k] = &refusedTimes{}
	}
	r.counts[k].times += int64(times)
	r.counts[k].example = example
}

// write writes the counts down; what cannot be written waits for the next time.
func (r *refused) write(ctx context.Context, s Stores) error {
	r.mu.Lock()
	counts := r.counts
	r.counts = nil
	r.mu.Unlock()
	var failed error
	for k, n := range counts {
		if err := s.Sites.CountRefusals(ctx, k.site, k.kind, n.example, n.times); err != nil {
			r.add(k.site, k.kind, n.example, int(n.times))
			failed = err
		}
	}
	return failed
}
