package markup

import (
	"encoding/json"
	"strings"
	"testing"
)

func TestCleanLetsNothingRun(t *testing.T) {
	for _, hostile := range []string{
		`<script>alert(1)</script>`, `<img src=x onerror=alert(1)>`, `<a href="javascript:alert(1)">x</a>`, `<iframe src="https://evil.test"></iframe>`,
		`<svg><script>alert(1)</script></svg>`, `<form action="https://evil.test"><input name=password></form>`, `<style>@import url(//evil.test)</style>`,
		`<p style="background:url(javascript:alert(1));position:fixed">x</p>`, `<math><mtext></mtext><mglyph><style><img src=x onerror=alert(1)>`,
		`<object data="x"></object><embed src="x">`, `<base href="//evil.test"><meta http-equiv=refresh content=0>`, `<a href="jav&#x09;ascript:alert(1)">x</a>`,
	} {
		got := strings.ToLower(Clean(hostile))
		for _, bad := range []string{"<script", "onerror", "javascript:", "<iframe", "<form", "<input", "<style", "<object", "<embed", "<base", "<meta", "position", "url("} {
			if strings.Contains(got, bad) {
				t.Errorf("%s left %s", hostile, got)
			}
		}
	}
	kept := `<p style="color: red">Read <a href="https://shop.example.com" rel="nofollow">more</a> <b>now</b></p>`
	if got := Clean(kept); !strings.Contains(got, `<b>now</b>`) || !strings.Contains(got, `href="https://shop.example.com"`) || !strings.Contains(got, "color: red") {
		t.Error(got)
	}
	if once := Clean(kept); Clean(once) != once {
		t.Error("cleaning twice changes more")
	}
}

func TestATreeIsWhatTheMarkupSays(t *testing.T) {
	got, _ := json.Marshal(Tree(Clean(`<p style="color: red">Read <a href="/more">more</a> &amp; <b>now</b></p>tail<script>x</script>`)))
	want := `[["p",{"style":"color: red"},"Read ",["a",{"href":"/more"},"more"]," \u0026 ",["b",{},"now"]],"tail"]`
	if string(got) != want {
		t.Errorf("%s, want %s", got, want)
	}
	// What is nested without end is its words.
	for _, n := range []int{deepest + 40, 10_000} {
		text, _ := json.Marshal(Tree(Clean(strings.Repeat("<b>", n) + "end")))
		if n := strings.Count(string(text), `"b"`); n > deepest || !strings.Contains(string(text), `"end"`) {
			t.Errorf("%d within each other: %s", n, text)
		}
	}
}
