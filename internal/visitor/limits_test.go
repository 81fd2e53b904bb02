package visitor

import (
	"context"
	"gobbet/internal/store/sites"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/gin-gonic/gin"
)

func TestSoManyDoTheirWorkAtOnceAndTheOthersWaitTheirTurn(t *testing.T) {
	const many, asked = 3, 20
	var now, most, done atomic.Int32
	goOn := make(chan struct{})
	r := gin.New()
	r.POST("/", within(100), inTurn(many), func(c *gin.Context) {
		if n := now.Add(1); n > most.Load() {
			most.Store(n)
		}
		<-goOn
		now.Add(-1)
		said, _ := c.GetRawData()
		if string(said) == "body" {
			done.Add(1)
		}
	})
	// Those who leave while they wait are served all the same.
	left, leave := context.WithCancel(context.Background())
	var all sync.WaitGroup
	for range asked {
		all.Go(func() {
			r.ServeHTTP(httptest.NewRecorder(), httptest.NewRequestWithContext(left, http.MethodPost, "/", strings.NewReader("body")))
		})
	}
	for range 500 {
		if now.Load() == many {
			break
		}
		time.Sleep(2 * time.Millisecond)
	}
	leave()
	close(goOn)
	all.Wait()
	if most.Load() != many || done.Load() != asked {
		t.Errorf("%d at once, %d done", most.Load(), done.Load())
	}
	over := httptest.NewRecorder()
	r.ServeHTTP(over, httptest.NewRequest(http.MethodPost, "/", strings.NewReader(strings.Repeat("x", 101))))
	if over.Code != http.StatusRequestEntityTooLarge {
		t.Errorf("%d for a body that is too large", over.Code)
	}
}

// What is left out is of the site's day, wherever the server's clock is read.
func TestWhatIsLeftOutIsOfTheSitesDay(t *testing.T) {
	auckland, err := time.LoadLocation("Pacific/Auckland")
	if err != nil {
		t.Fatal(err)
	}
	var left leftOut
	late := time.Date(2026, 11, 30, 23, 30, 0, 0, time.UTC)
	for _, zone := range []*time.Location{time.UTC, auckland} {
		left.add(&Site{Site: sites.Site{ID: 1}, Zone: zone}, late, Robot, zone.String(), 1)
	}
	for key := range left.counts {
		if want := map[string]string{"utc": "2026-11-30", "pacific/auckland": "2026-12-01"}[key.what]; key.day != want {
			t.Errorf("%+v, want %s", key, want)
		}
	}
	if len(left.counts) != 2 {
		t.Errorf("%+v", left.counts)
	}
}
