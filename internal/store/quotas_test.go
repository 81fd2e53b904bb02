package store_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"gobbet/internal/store/quotas"
	"gobbet/internal/store/storetest"
)

// Many processes tell of the same addresses at once, in whatever order: nothing is
// lost, and none waits for another in a circle.
func TestCountsAddUpOverProcesses(t *testing.T) {
	s := storetest.New(t)
	const processes, addresses, rounds = 8, 200, 10
	var all sync.WaitGroup
	for p := range processes {
		all.Go(func() {
			for range rounds {
				var counts []quotas.Count
				for a := range addresses {
					if p%2 == 1 {
						a = addresses - 1 - a
					}
					counts = append(counts, quotas.Count{Key: fmt.Appendf(nil, "address %d", a), Seen: 3, Ends: time.Now().Add(time.Hour)})
				}
				if _, err := s.Quotas.Add(ctx, counts); err != nil {
					t.Error(err)
				}
			}
		})
	}
	all.Wait()
	have, err := s.Quotas.Add(ctx, []quotas.Count{{Key: []byte("address 7"), Ends: time.Now().Add(time.Hour)}, {Key: []byte("new"), Seen: 1, Ends: time.Now().Add(-time.Minute)}})
	if err != nil || have[0] != processes*rounds*3 || have[1] != 1 {
		t.Error(have, err)
	}
	if err := s.Quotas.Forget(ctx); err != nil {
		t.Fatal(err)
	}
	if have, err = s.Quotas.Add(ctx, []quotas.Count{{Key: []byte("new"), Seen: 1, Ends: time.Now().Add(time.Hour)}}); err != nil || have[0] != 1 {
		t.Error("a span that has ended is still counted:", have, err)
	}
}
