package visitor_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"

	"gobbet/internal/servertest"
	"gobbet/internal/store/sites"
)

// A site that cannot be loaded is set aside and said; the process starts, and
// the other sites, and the pieces beside a bad one, are served.
func TestABadSiteKeepsNobodyFromStarting(t *testing.T) {
	t.Parallel() // waits, or works alone, for seconds
	h := launched(t, atOnce())
	ctx := context.Background()
	bad, err := h.Store.Sites.Add(ctx, "bad", "Bad", "Europe/Dublin", sites.Texts{servertest.Origin}, h.Account)
	if err != nil {
		t.Fatal(err)
	}
	db := sqlx.MustConnect("pgx", h.Store.URL())
	defer db.Close()
	db.MustExec(`update sites set settings = '"not settings"' where id = $1`, bad)
	// A live document that nobody can read, beside one that is sound.
	db.MustExec(`insert into pieces (site_id, id, draft, live, state, live_since, live_version) values ($1, 'broken', '{}', '{"version":3}', 'live', now(), 1)`, h.Site)
	web := servertest.Serve(t, h.Store)
	ask := func(site string) servertest.Answer {
		return servertest.Call(t, h.Client, web.URL+"/v1/sites/"+site+"/decide", "POST", `{"url":"https://shop.test/","memory":{}}`, "Origin", servertest.Origin)
	}
	eventually(t, "the sound site", func() bool { return ask("shop").Status == 200 })
	if a := ask("bad"); a.Status != 503 || a.Header.Get("Access-Control-Allow-Origin") != "*" {
		t.Error(a)
	}
	if a := ask("unknown"); a.Status != 404 {
		t.Error(a)
	}
	ready := servertest.Call(t, h.Client, web.URL+"/readyz", "GET", "")
	if ready.Status != 200 || !strings.Contains(ready.Body, "site bad cannot be loaded") {
		t.Error(ready)
	}
	// Mended, it is served.
	db.MustExec(`update sites set settings = '{}' where id = $1`, bad)
	eventually(t, "the mended site", func() bool { return ask("bad").Status == 200 })
}

// Many sites cost nothing until somebody asks for them.
func TestManySitesAreThereAtOnce(t *testing.T) {
	h := launched(t, atOnce())
	db := sqlx.MustConnect("pgx", h.Store.URL())
	defer db.Close()
	db.MustExec(`insert into sites (key, name, zone, origins) select 'site' || n, 'Site', 'UTC', $1 from generate_series(1, 1000) n`, sites.Texts{servertest.Origin})
	web := servertest.Serve(t, h.Store)
	for _, n := range []int{1, 500, 1000} {
		a := servertest.Call(t, h.Client, fmt.Sprintf("%s/v1/sites/site%d/decide", web.URL, n), "POST", `{"url":"https://shop.test/","memory":{}}`, "Origin", servertest.Origin)
		if a.Status != 200 {
			t.Error(n, a)
		}
	}
}
