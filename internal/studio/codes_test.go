package studio_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	libraryplace "gobbet/internal/studio/library"
)

func TestCodesComeByAPatternAndFromFiles(t *testing.T) {
	h := signedIn(t)
	var got libraryplace.CodesAnswer
	h.Call("PUT", at(h, "/pools/spring"), `{"name":"Spring","pattern":"SPRING-****-**","count":300}`).Into(t, &got)
	if got.Came != 300 || got.Added != 300 {
		t.Errorf("%+v", got)
	}
	for body, place := range map[string]string{
		`{"name":"Spring","pattern":"S-#","count":300}`:                  "pattern",
		`{"name":"Spring","pattern":"********","count":0}`:               "count",
		`{"name":"Spring","pattern":"********","count":9e6}`:             "count",
		`{"name":"Spring","codes":["` + strings.Repeat("é", 301) + `"]}`: "codes[0]",
	} {
		if p := wants(t, h.Call("PUT", at(h, "/pools/spring"), body), 422, "faults"); p.Faults[0].At != place {
			t.Errorf("%s: %+v", body, p.Faults)
		}
	}
	for _, c := range []struct {
		body        string
		came, added int
	}{
		{"A1\r\nB2\r\nA1\r\n\r\n  C3 \r\n", 4, 3},
		{"\ufeffname;code\n", 1, 1}, // one column, as a spreadsheet of elsewhere writes it
		{"used,Code,note\nno,\"D 4, with a comma\",x\nno,E5\nyes\nno,🎁-6,\n", 3, 3},
		{strings.Repeat("x", 300), 1, 1},
	} {
		a := h.Call("PUT", at(h, "/pools/file/file?name=From%20a%20file"), c.body)
		var got libraryplace.CodesAnswer
		if a.Into(t, &got); got.Came != c.came || int(got.Added) != c.added {
			t.Errorf("%q: %+v", c.body, a)
		}
	}
	for body, place := range map[string]string{
		"":                                  "file",
		"code\n\n\n":                        "file",
		"A\nB\n" + strings.Repeat("x", 301): "file[2]",
		"code,n\nA,1\n\"B\x00\",2":          "file[2]",
	} {
		if p := wants(t, h.Call("PUT", at(h, "/pools/file/file?name=F"), body), 422, "faults"); p.Faults[0].At != place {
			t.Errorf("%q: %+v", body, p.Faults)
		}
	}
	if p := wants(t, h.Call("PUT", at(h, "/pools/file/file?name="), "A"), 422, "faults"); p.Faults[0].At != "name" {
		t.Errorf("%+v", p)
	}
	csv := h.Call("GET", at(h, "/pools/file/codes.csv"), "").Body
	if !strings.HasPrefix(csv, "code,given_at,piece,email\r\n") || strings.Count(csv, "\r\n") != 9 || !strings.Contains(csv, `"D 4, with a comma"`) {
		t.Error(csv)
	}
	wants(t, h.Call("GET", at(h, "/pools/%2e%2e/codes.csv"), ""), 404, "not-found")
}

// As many codes as a file may hold, half of them there twice.
func TestAMillionCodesAreTakenAtOnce(t *testing.T) {
	t.Parallel() // waits, or works alone, for seconds
	h := signedIn(t)
	var b strings.Builder
	for i := range 1_000_000 {
		fmt.Fprintf(&b, "MUG-%07d\n", i/2)
	}
	began := time.Now()
	var got libraryplace.CodesAnswer
	h.Call("PUT", at(h, "/pools/mugs/file?name=Mugs"), b.String()).Into(t, &got)
	if got.Came != 1_000_000 || got.Added != 500_000 {
		t.Errorf("%+v", got)
	}
	t.Log("took", time.Since(began))
	began = time.Now()
	if code, err := h.Store.Codes.Pools(t.Context(), h.Site); err != nil || code[0].Left != 500_000 {
		t.Errorf("%v, %v", code, err)
	}
	t.Log("listed in", time.Since(began))
	if p := wants(t, h.Call("PUT", at(h, "/pools/mugs/file?name=Mugs"), b.String()+"ONE-MORE"), 422, "faults"); p.Faults[0].At != "file" {
		t.Errorf("%+v", p)
	}
}
