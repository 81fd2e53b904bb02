package store_test

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"

	"gobbet/core/walk"
	"gobbet/internal/store"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/storetest"
	"gobbet/internal/store/walks"
)

// spinning is a walk of one step that draws once.
type spinning struct {
	visitor, place, email string
	source                rand.Source
}

// spin takes a go, and gives what was drawn.
func spin(s *store.Store, site int64, v spinning, parts ...walk.Prize) (drawn walk.Drawn, err error) {
	who := walks.Walker{Walk: uuid.NewString(), Piece: "p", Variant: "a", Visitor: v.visitor, Page: "/", At: time.Now(), LikelyNew: true, Place: v.place, Network: v.place, Source: v.source, Digest: func(address string) string { return address }}
	_, err = s.Walks.Advance(context.Background(), site, time.UTC, who, func(p walk.Before) (walk.Next, error) {
		if p.Drawn == nil {
			return walk.Next{Draw: &walk.Draw{Key: "prize", Prizes: parts}}, nil
		}
		drawn = *p.Drawn
		m := walk.Next{Changed: true, Steps: 1, State: walk.State{Began: noon.UnixMilli()}, Scene: "won"}
		for _, part := range parts {
			if part.ID == drawn.Part && !drawn.Again {
				m.Go = &walk.Go{Key: "prize", Prize: part, Email: v.email}
			}
		}
		return m, nil
	})
	return drawn, err
}

func stock(n int) *int { return &n }

func TestTheLastCodesGoToAsManyVisitorsAndToNobodyTwice(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var codes []string
	for i := range 10 {
		codes = append(codes, fmt.Sprintf("CODE-%02d", i))
	}
	if _, err := s.Codes.Add(ctx, site, "pool", "Pool", codes); err != nil {
		t.Fatal(err)
	}
	part := walk.Prize{ID: "ten", Label: "10 % off", Weight: 1, Pool: "pool"}
	var wg sync.WaitGroup
	var mu sync.Mutex
	won, told := map[string]bool{}, 0
	for i := range 200 {
		wg.Go(func() {
			visitor := fmt.Sprint("visitor-", i)
			_, err := spin(s, site, spinning{visitor: visitor}, part)
			mu.Lock()
			defer mu.Unlock()
			switch {
			case errors.Is(err, walks.ErrAllGone):
				told++
			case err != nil:
				t.Error(err)
			default:
				code, err := s.Walks.WonCode(ctx, site, "p", "prize", visitor)
				if err != nil || code == "" || won[code] {
					t.Errorf("%q went to %s, %v", code, visitor, err)
				}
				won[code] = true
			}
		})
	}
	wg.Wait()
	if len(won) != 10 || told != 190 {
		t.Errorf("%d codes were won and %d visitors told that none is left", len(won), told)
	}
	play, err := s.Walks.Played(ctx, site, "p", time.Time{})
	if err != nil || len(play.Refused) != 1 || play.Refused[0].Why != walks.GoneAll || play.Refused[0].Goes != 190 {
		t.Errorf("counted as refused: %+v, %v", play.Refused, err)
	}
}

func TestStockIsDrawnUpToTheLastAndTheRestTakesItsOdds(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	parts := []walk.Prize{{ID: "mug", Label: "A mug", Weight: 50, Stock: stock(7)}, {ID: "none", Label: "Nothing", Weight: 1}}
	drawn := map[string]int{}
	var mu sync.Mutex
	var wg sync.WaitGroup
	for i := range 60 {
		wg.Go(func() {
			d, err := spin(s, site, spinning{visitor: fmt.Sprint("v", i)}, parts...)
			mu.Lock()
			defer mu.Unlock()
			if drawn[d.Part]++; err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	if drawn["mug"] != 7 || drawn["none"] != 53 {
		t.Errorf("drawn: %v", drawn)
	}
	// More is put in while it is live.
	parts[0].Stock = stock(8)
	parts[1].Weight = 0
	if d, err := spin(s, site, spinning{visitor: "late"}, parts...); err != nil || d.Part != "mug" {
		t.Errorf("%+v, %v", d, err)
	}
	if _, err := spin(s, site, spinning{visitor: "later"}, parts...); !errors.Is(err, walks.ErrAllGone) {
		t.Error(err)
	}
}

func TestEachVisitorHasOneGoHoweverOftenTheyTry(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var parts []walk.Prize
	for i := range 24 {
		parts = append(parts, walk.Prize{ID: fmt.Sprint("p", i), Label: fmt.Sprint("Part ", i), Weight: 1, Stock: stock(5)})
	}
	results := make([]walk.Drawn, 30)
	var wg sync.WaitGroup
	for i := range results {
		wg.Go(func() {
			var err error
			if results[i], err = spin(s, site, spinning{visitor: "ann"}, parts...); err != nil {
				t.Error(err)
			}
		})
	}
	wg.Wait()
	fresh := 0
	for _, r := range results {
		if r.Part != results[0].Part {
			t.Errorf("drew %s and %s", r.Part, results[0].Part)
		}
		if !r.Again {
			fresh++
		}
	}
	if fresh != 1 {
		t.Errorf("%d goes were taken", fresh)
	}
	// What they had is theirs when nothing is left for others.
	for i := range parts {
		parts[i].Stock = stock(0)
	}
	if d, err := spin(s, site, spinning{visitor: "ann"}, parts...); err != nil || d.Part != results[0].Part || !d.Again {
		t.Errorf("%+v, %v", d, err)
	}
}

func TestAnAddressHasOneGoAndOnePlaceSoMany(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	if _, err := s.Codes.Add(ctx, site, "pool", "Pool", []string{"ONE", "TWO"}); err != nil {
		t.Fatal(err)
	}
	part := walk.Prize{ID: "ten", Label: "10 % off", Weight: 1, Pool: "pool"}
	if _, err := spin(s, site, spinning{visitor: "ann", email: "digest"}, part); err != nil {
		t.Fatal(err)
	}
	if _, err := spin(s, site, spinning{visitor: "bob", email: "digest"}, part); !errors.Is(err, walks.ErrHadGo) {
		t.Errorf("a second go of one address: %v", err)
	}
	pools, err := s.Codes.Pools(ctx, site)
	if err != nil || pools[0].Left != 1 {
		t.Errorf("a go that was refused took a code: %+v, %v", pools, err)
	}
	coin := []walk.Prize{{ID: "a", Label: "A", Weight: 1}}
	for i := range walks.GoesPerHour {
		if _, err := spin(s, site, spinning{visitor: fmt.Sprint("made-up-", i), place: "here"}, coin...); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := spin(s, site, spinning{visitor: "made-up", place: "here"}, coin...); !errors.Is(err, codes.ErrDrained) {
		t.Errorf("one place took %d goes in an hour and another: %v", walks.GoesPerHour, err)
	}
	if d, err := spin(s, site, spinning{visitor: "made-up-0", place: "here"}, coin...); err != nil || !d.Again {
		t.Errorf("who had a go from there is told %v", err)
	}
	if _, err := spin(s, site, spinning{visitor: "elsewhere", place: "there"}, coin...); err != nil {
		t.Error(err)
	}
	play, err := s.Walks.Played(ctx, site, "p", time.Time{})
	why := map[string]int{}
	for _, r := range play.Refused {
		why[r.Why] += r.Goes
	}
	if err != nil || why[walks.HadGo] != 1 || why[walks.TooMany] != 1 {
		t.Errorf("%v, %v", why, err)
	}
}

// Steps that come at once are stored together; what is refused of one of them
// is refused of it alone, and each is answered for itself.
func TestWhatIsRefusedOfOneStepFailsNoneStoredWithIt(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	coin := []walk.Prize{{ID: "a", Label: "A", Weight: 1}}
	var wg sync.WaitGroup
	var mu sync.Mutex
	refused, taken := 0, 0
	for i := range 80 {
		wg.Go(func() {
			// Of every four one leaves the same address.
			v := spinning{visitor: fmt.Sprint("v", i)}
			if i%4 == 0 {
				v.email = "the same"
			}
			_, err := spin(s, site, v, coin...)
			mu.Lock()
			defer mu.Unlock()
			switch {
			case errors.Is(err, walks.ErrHadGo):
				refused++
			case err != nil:
				t.Error(err)
			default:
				taken++
			}
		})
	}
	wg.Wait()
	goes, err := s.Walks.Goes(ctx, site, "p", walks.GoAt{}, 1000)
	if err != nil || refused != 19 || taken != 61 || len(goes) != 61 {
		t.Errorf("%d refused, %d taken, %d kept, %v", refused, taken, len(goes), err)
	}
}
