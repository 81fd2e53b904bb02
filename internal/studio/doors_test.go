package studio_test

import (
	"context"
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"gobbet/internal/route"
	"gobbet/internal/servertest"
	"gobbet/internal/store/sites"
	"gobbet/internal/studio"
)

// Every door of the studio's server is tried, as they are declared: one that is
// added is tried too.

func doors(t *testing.T) (list []route.Route) {
	t.Helper()
	for _, r := range studio.Routes() {
		if r.Who != route.Anyone {
			list = append(list, r)
		}
	}
	if len(list) < 60 {
		t.Fatalf("%d doors", len(list))
	}
	return list
}

var parameter = regexp.MustCompile(`:\w+`)

// path fills a route in: the site, and something that is not there for the rest.
func path(r route.Route, site int64) string {
	return parameter.ReplaceAllString(strings.Replace("/api"+r.Path, ":site", fmt.Sprint(site), 1), "0123456789abcdef0123456789abcdef")
}

func TestNoDoorOpensWithoutSigningIn(t *testing.T) {
	h := servertest.New(t)
	for _, r := range doors(t) {
		t.Run(r.Method+" "+r.Path, func(t *testing.T) {
			wants(t, servertest.Call(t, http.DefaultClient, h.URL+path(r, h.Site), r.Method, "{}"), 401, "signed-out")
		})
	}
}

func TestOthersSitesDoNotExist(t *testing.T) {
	h := signedIn(t)
	ctx := context.Background()
	other, err := h.Store.Accounts.Add(ctx, "other@example.com", "Other", "another password")
	if err != nil {
		t.Fatal(err)
	}
	site, err := h.Store.Sites.Add(ctx, "other", "Other", "UTC", sites.Texts{}, other)
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range doors(t) {
		if r.Who == route.Member {
			t.Run(r.Method+" "+r.Path, func(t *testing.T) {
				wants(t, h.Call(r.Method, path(r, site), "{}"), 404, "not-found")
			})
		}
	}
	wants(t, h.Call("GET", "/api/sites/x/board", ""), 404, "not-found")
	wants(t, h.Call("GET", "/api/nothing", ""), 404, "not-found")
}

func TestRequestsFromOtherSitesAreRefused(t *testing.T) {
	h := signedIn(t)
	for _, r := range doors(t) {
		if r.Method == "GET" {
			continue
		}
		t.Run(r.Method+" "+r.Path, func(t *testing.T) {
			wants(t, h.Call(r.Method, path(r, h.Site), "{}", "Sec-Fetch-Site", "cross-site"), 403, "cross-site")
			wants(t, h.Call(r.Method, path(r, h.Site), "{}", "Origin", "https://evil.test"), 403, "cross-site")
		})
	}
}

// What is no JSON, or not of its shape, or half of it, is a problem with words; never the server's fault.
func TestNoBodyBreaksADoor(t *testing.T) {
	h := signedIn(t)
	id, _ := newPiece(t, h)
	for _, r := range doors(t) {
		if r.Method == "GET" || r.Method == "DELETE" {
			continue
		}
		to := parameter.ReplaceAllString(strings.NewReplacer(":site", fmt.Sprint(h.Site), ":piece", id).Replace("/api"+r.Path), "0123456789abcdef0123456789abcdef")
		t.Run(r.Method+" "+r.Path, func(t *testing.T) {
			for _, body := range []string{
				"", "null", "7", `"x"`, "[]", "{", `{"name":7}`, `{"draft":{"version":1e99}}`, `{"rule":` + strings.Repeat(`{"all":[`, 3000), `{"name":"\ud800"}`, "\x00\xff", `{"":{}}`,
				`{"name":"a\u0000b","format":"popup","title":"a\u0000b","kind":"block","codes":["a\u0000"],"email":"a\u0000@example.com","body":{"kind":"text","id":"t","text":"a\u0000b","size":16,"align":"start"},"path":"/\u0000"}`,
			} {
				a := h.Call(r.Method, to, body)
				if a.Status >= 500 || a.Status >= 400 && !strings.Contains(a.Header.Get("Content-Type"), "json") {
					t.Errorf("%.40q: %d %.200s", body, a.Status, a.Body)
				}
			}
		})
	}
}

func TestNoQuestionBreaksADoor(t *testing.T) {
	h := signedIn(t)
	id, _ := newPiece(t, h)
	for _, r := range doors(t) {
		if r.Method != "GET" {
			continue
		}
		for _, other := range []string{"x", "%00", "%ff%fe", strings.Repeat("9", 3000), "..%2f.."} {
			to := parameter.ReplaceAllString(strings.NewReplacer(":site", fmt.Sprint(h.Site), ":piece", id).Replace("/api"+r.Path), other)
			for _, q := range []string{"", "?q=" + other, "?path=/" + other, "?before=" + other, "?days=" + other, "?piece=" + other, "?" + other} {
				if a := h.Call("GET", to+q, ""); a.Status >= 500 {
					t.Errorf("%.80s%.60s: %d %.200s", to, q, a.Status, a.Body)
				}
			}
		}
	}
}
