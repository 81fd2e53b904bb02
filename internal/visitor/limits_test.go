package visitor

import (
	"context"
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
