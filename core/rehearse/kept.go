package rehearse

import (
	"encoding/json"
	"strings"
	"sync"

	"gobbet/core/reach"
)

// What a clause or a part of a rule holds on is kept beside the log, by blocks, so
// that whoever edits one clause waits for that one alone. A block that was added
// to, or of which a stay went on, is judged anew.

const (
	leastKept = 50_000 // page views below which nothing is kept
	mostSteps = 200    // of a rule whose parts are kept
	keptRoom  = 16     // bytes a page view that all that is kept may take
)

// kept is what is known of one part of a rule.
type kept struct {
	// Held by the rehearsal that reads and fills it; others go without.
	busy    sync.Mutex
	version []uint32 // of each block; 0: not known
	bits    []uint64
	first   []int32 // of parts whose firsts are their own
	used    int64
}

func (k *kept) room() int { return 4*len(k.version) + 8*len(k.bits) + 4*len(k.first) }

// keeper holds what is kept of a log.
type keeper struct {
	mu    sync.Mutex
	parts map[string]*kept
	clock int64
}

// take gives what is kept under a key, for one rehearsal alone; nil: another has it.
func (k *keeper) take(key string, rows int, withFirst bool) *kept {
	k.mu.Lock()
	defer k.mu.Unlock()
	part := k.parts[key]
	if part == nil {
		part = &kept{}
		k.parts[key] = part
	}
	if !part.busy.TryLock() {
		return nil
	}
	k.clock++
	part.used = k.clock
	blocks := (rows + blockRows - 1) / blockRows
	part.version = grown(part.version, blocks)
	part.bits = grown(part.bits, blocks*blockWords)
	if withFirst {
		part.first = grown(part.first, blocks*blockRows)
	}
	k.makeRoom(rows * keptRoom)
	return part
}

// makeRoom lets go of what was used longest ago, until the rest fits.
func (k *keeper) makeRoom(most int) {
	sum := 0
	for _, part := range k.parts {
		sum += part.room()
	}
	for sum > most {
		oldest := ""
		for key, part := range k.parts {
			if (oldest == "" || part.used < k.parts[oldest].used) && part.busy.TryLock() {
				part.busy.Unlock()
				oldest = key
			}
		}
		if oldest == "" {
			return // all of it is in use
		}
		sum -= k.parts[oldest].room()
		delete(k.parts, oldest)
	}
}

// Forget lets go of all that is kept of the log beside it.
func (l *Log) Forget() {
	if l.kept != nil {
		l.kept.mu.Lock()
		defer l.kept.mu.Unlock()
		clear(l.kept.parts)
	}
}

// grown lengthens a list with zeros.
func grown[T any](list []T, n int) []T {
	if len(list) >= n {
		return list
	}
	return append(list, make([]T, n-len(list))...)
}

// takeKept finds what is kept of each node but the root.
func (pl *plan) takeKept(settled bool) {
	if pl.log.kept == nil || pl.log.rows < leastKept || len(pl.steps) > mostSteps || pl.root.slow {
		return
	}
	for _, s := range pl.steps[1:] {
		if s.source == ofNothing || s.source == ofArrival {
			continue
		}
		key := s.key()
		if settled {
			key = "settled " + key
		}
		s.ownsFirst = s.moment && !settled && s.source != ofStay && s.source != ofColumn
		if s.kept = pl.log.kept.take(key, pl.log.rows, s.ownsFirst); s.kept != nil {
			pl.taken = append(pl.taken, s.kept)
		}
	}
}

// done gives back what was taken.
func (pl *plan) done() {
	for _, part := range pl.taken {
		part.busy.Unlock()
	}
	pl.taken = nil
}

// key is the same for nodes that ask the same.
func (s *step) key() string {
	if s.Shape == reach.Asks {
		text, _ := json.Marshal(s.Test.Clause)
		return string(text)
	}
	var key strings.Builder
	key.WriteString(map[reach.Shape]string{reach.AllOf: "all(", reach.AnyOf: "any(", reach.NotOf: "not("}[s.Shape])
	for _, part := range s.parts {
		key.WriteString(part.key())
		key.WriteByte(',')
	}
	key.WriteByte(')')
	return key.String()
}

// known gives what is kept of a block; nil: nothing, or what is not so any more.
func (pl *plan) known(s *step, base, n int) *set {
	block := base / blockRows
	if s.kept == nil || s.kept.version[block] != pl.log.version[block] {
		return nil
	}
	got := pl.newSet()
	got.bits = mask(s.kept.bits[block*blockWords:])
	if s.ownsFirst {
		got.first, got.lent = (*[blockRows]int32)(s.kept.first[base:]), true
	} else {
		pl.lendFirst(s, got, base)
	}
	return got
}

// keep keeps what was found of a block.
func (pl *plan) keep(s *step, base int, got *set) {
	if s.kept == nil {
		return
	}
	block := base / blockRows
	copy(s.kept.bits[block*blockWords:], got.bits[:])
	if s.ownsFirst {
		into := s.kept.first[base : base+blockRows]
		if got.first == nil {
			clear(into)
		} else {
			copy(into, got.first[:])
		}
	}
	s.kept.version[block] = pl.log.version[block]
}
