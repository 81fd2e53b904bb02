package visitor_test

import (
	"strings"
	"testing"

	"gobbet/internal/problem"
	"gobbet/internal/servertest"
	"gobbet/internal/visitor"
)

// What any page on the web may post at the doors of visitors: it is answered
// with a problem in words, or taken for nothing, and never breaks a server.
func TestNothingPostedBreaksADoor(t *testing.T) {
	h := launched(t, atOnce())
	huge := strings.Repeat("x", 3<<20)
	bodies := []string{
		"", "null", "7", `"x"`, "[]", "{", `{"":{}}`, "\x00\xff", `{"url":7}`, `{"url":"https://shop.test/","memory":7}`,
		`{"url":"` + huge + `"}`, strings.Repeat("[", 200_000), `{"url":"https://shop.test/%ff%00?\ud800","memory":{"visitor":{"visits":1e308}}}`,
		`{"events":[null,7,{"id":7},{"id":"x","kind":"shown","at":"now"}]}`, `{"steps":[{"values":{"email":{"a":1}}}]}`, `{"steps":[["email","a"]]}`, `{"token":"a.b","from":-1}`,
	}
	for _, door := range visitor.All {
		t.Run(door.Path[1:], func(t *testing.T) {
			if a := h.Page(door.Path[1:], strings.Repeat(" ", int(door.Most))+"{}"); a.Status != 413 {
				t.Errorf("a body of more than %d bytes: %d", door.Most, a.Status)
			}
			if a := h.Call("POST", "/v1/sites/shop"+door.Path, "{}", "Origin", "https://elsewhere.test"); a.Status != 403 {
				t.Errorf("from another site's page: %d", a.Status)
			}
			if a := h.Call("POST", "/v1/sites/none"+door.Path, "{}", "Origin", servertest.Origin); a.Status != 404 {
				t.Errorf("of no site: %d", a.Status)
			}
			for _, body := range bodies {
				a := h.Page(door.Path[1:], body)
				if a.Status >= 500 {
					t.Errorf("%.60q: %d %.200s", body, a.Status, a.Body)
				}
				if a.Status < 400 {
					continue
				}
				var p problem.Problem
				a.Into(t, &p)
				if p.Title == "" || p.RequestID == "" || strings.Contains(a.Body, "goroutine") || strings.Contains(a.Body, ".go:") {
					t.Errorf("%.60q: %.200s", body, a.Body)
				}
			}
		})
	}
	if got := decide(h, `{}`); len(got.Placements) != 1 {
		t.Error("and then nothing is decided any more:", got)
	}
}

// What is fetched by a name that is none is not there; no name leads out of its place.
func TestNoNameLeadsOutOfItsPlace(t *testing.T) {
	h := launched(t, atOnce())
	names := []string{"x", "..%2f..%2fgo.mod", "%2e%2e%2f", "%00", strings.Repeat("a", 3000), strings.Repeat("0", 32), "' or 1=1 --", "%ff%fe"}
	for _, where := range []string{"/v1/pictures/", "/v1/fonts/", "/v1/files/", "/v1/sites/shop/designs/"} {
		for _, name := range names {
			path := where + strings.ReplaceAll(name, " ", "%20")
			if where == "/v1/files/" {
				path += "/name.pdf"
			}
			a := h.Call("GET", path, "", "Origin", servertest.Origin)
			if a.Status != 404 && a.Status != 400 && a.Status != 301 {
				t.Errorf("%.80s: %d %.100s", path, a.Status, a.Body)
			}
		}
	}
}
