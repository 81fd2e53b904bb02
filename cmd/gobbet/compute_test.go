package main

import (
	"bytes"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func runCommand(t *testing.T, name, input string, flags ...string) (lines []string, err error) {
	t.Helper()
	for _, cmd := range computations() {
		if cmd.Name() != name {
			continue
		}
		var out bytes.Buffer
		cmd.SetIn(strings.NewReader(input))
		cmd.SetOut(&out)
		cmd.SetArgs(append([]string{}, flags...))
		cmd.SilenceErrors, cmd.SilenceUsage = true, true
		err = cmd.Execute()
		return strings.Split(strings.TrimSpace(out.String()), "\n"), err
	}
	t.Fatal("no such command: " + name)
	return nil, nil
}

func TestTry(t *testing.T) {
	lines, err := runCommand(t, "try", `
{"rule": {"all": [
    {"fact": "page.path", "op": "starts_with", "value": "/shop"},
    {"fact": "moment.scroll_percent", "op": "gte", "value": 50}
]}, "facts": {"page.path": "/shop/", "page.nonsense": 3}, "now": "2026-11-24T10:00:00Z"}
{"rule": {"fact":"clock.weekday","op":"is","value":"tue"}, "facts": {}, "now": "2026-11-24T10:00:00Z"}
{"rule": {"fact":"clock.weekday","op":"is","value":"tue"}, "facts": {"clock.weekday":"wed"}, "now": "2026-11-24T10:00:00Z"}`)
	if err != nil {
		t.Fatal(err)
	}
	want := []string{
		`{"phrase":"page starts with /shop and scroll reaches 50 %","trace":[{"at":"all[0]","verdict":"yes","actual":"/shop","phrase":"page starts with /shop"},{"at":"all[1]","verdict":"waits","actual":null,"phrase":"scroll reaches 50 %"}],"verdict":"waits","waiting":{"fact":"moment.scroll_percent","op":"gte","value":50}}`,
		`{"phrase":"weekday is Tuesday","trace":[{"at":"","verdict":"yes","actual":"tue","phrase":"weekday is Tuesday"}],"verdict":"yes","waiting":null}`,
		`{"phrase":"weekday is Tuesday","trace":[{"at":"","verdict":"no","actual":"wed","phrase":"weekday is Tuesday"}],"verdict":"no","waiting":null}`,
	}
	for i := range want {
		if i >= len(lines) || lines[i] != want[i] {
			t.Errorf("answer %d:\n got %v\nwant %s", i, lines[i:], want[i])
		}
	}
}

func TestFaultsAreAnsweredInTheirPlace(t *testing.T) {
	lines, err := runCommand(t, "try", `{"rule":{"all":[{"all":[]},{"fact":"page.path","op":"is","value":4}]},"facts":{}}
{"rule":{"all":[]},"facts":{}}
{"rule": nonsense}
{"rule":{"all":[]},"facts":{},"now":"noon"}
{"facts":{}}
[1]
{"rule":{"any":[]},"facts":{}}`)
	if !errors.Is(err, errFaults) {
		t.Error("the command ends with", err)
	}
	for i, want := range []string{
		`{"error":{"at":"all[1].value","message":"should be a text"}}`, `"verdict":"yes"`, `{"error":{"at":"","message":"is not JSON`, `{"error":{"at":"now"`,
		`{"error":{"at":"rule","message":"is missing"}}`, `{"error":{"at":"","message":"is a list`, `"verdict":"no"`,
	} {
		if i >= len(lines) || !strings.Contains(lines[i], want) {
			t.Fatalf("answer %d: want %s\nin %s", i, want, strings.Join(lines, "\n"))
		}
	}
}

func TestHold(t *testing.T) {
	lines, err := runCommand(t, "hold", `
{"caps":{"per_visitor":[{"times":1,"per":"visit"},{"times":3,"per":"P30D"}],"gap":"PT6H"},"memory":{"visit":{"shown":[]},"shown":["2026-11-24T09:00:00Z"],"closed":null,"converted":null},"now":"2026-11-24T10:00:00Z"}
{"caps":{"per_visitor":[{"times":1,"per":"visit"}]},"memory":{"visit":{"shown":["2026-11-24T09:00:00Z"]},"shown":["2026-11-24T09:00:00Z"]},"now":"2026-11-24T10:00:00Z"}
{"caps":{},"memory":{},"now":"2026-11-24T10:00:00Z"}
{"caps":{"gap":"soon"},"memory":{},"now":"2026-11-24T10:00:00Z"}
{"caps":{"per_visitor":[{"times":0,"per":"P1D"}]},"memory":{},"now":"2026-11-24T10:00:00Z"}
{"caps":{},"memory":{"shown":["x"]},"now":"2026-11-24T10:00:00Z"}`)
	if !errors.Is(err, errFaults) {
		t.Error("the command ends with", err)
	}
	for i, want := range []string{
		`{"free":false,"until":"2026-11-24T15:00:00Z","why":"gap"}`,
		`{"free":false,"until":null,"why":"per_visitor"}`,
		`{"free":true}`,
		`{"error":{"at":"caps.gap"`, `{"error":{"at":"caps.per_visitor[0].times"`, `{"error":{"at":"memory.shown[0]"`,
	} {
		if i >= len(lines) || !strings.HasPrefix(lines[i], want) {
			t.Fatalf("answer %d: want %s\nin %s", i, want, strings.Join(lines, "\n"))
		}
	}
}

func TestRehearse(t *testing.T) {
	file := filepath.Join(t.TempDir(), "visits.ndjson")
	visits := `{"visitor":"v1","visit":"v1-1","at":"2026-11-01T10:00:00Z","facts":{"page.path":"/shop"},"seconds":75,"scroll_marks":[2,5,9],"exit_at":70,"idles":[[20,12]],"happened":[["click","#buy",31]]}
{"visitor":"v2","visit":"v2-1","at":"2026-11-01T09:00:00Z","facts":{"page.path":"/"},"seconds":10,"scroll_marks":[]}
{"visitor":"v1","visit":"v1-1","at":"2026-11-01T10:05:00Z","facts":{"page.path":"/shop"},"seconds":40,"scroll_marks":[1,1,1,1,2]}
`
	if err := os.WriteFile(file, []byte(visits), 0o600); err != nil {
		t.Fatal(err)
	}
	lines, err := runCommand(t, "rehearse", `
{"rule":{"all":[{"fact":"page.path","op":"is","value":"/shop/"},{"fact":"moment.scroll_percent","op":"gte","value":21}]},"caps":{}}
{"rule":{"fact":"moment.seconds_on_page","op":"gte","value":10},"caps":{"per_visitor":[{"times":1,"per":"visit"}]}}
{"rule":{"fact":"moment.click","op":"happened","value":"#none"},"caps":{}}
{"rule":{"any":[{"fact":"page.path","op":"is","value":"/"},{"fact":"moment.scroll_pixels","op":"gte","value":1}]},"caps":{}}
{"rule":{"all":[]},"caps":{"gap":"soon"}}
{"caps":{}}
{"rule":{"fact":"moment.idle_seconds","op":"gte","value":5}}`, "--visits", file)
	if !errors.Is(err, errFaults) {
		t.Error("the command ends with", err)
	}
	for i, want := range []string{
		`{"clauses":[{"at":"all[0]","passed":2},{"at":"all[1]","passed":2}],"page_views":3,"passed":2,"showings":2,"typical_wait":5,"visitors":2,"visitors_shown":1}`,
		`{"clauses":[{"at":"","passed":3}],"page_views":3,"passed":3,"showings":2,"typical_wait":10,"visitors":2,"visitors_shown":2}`,
		`{"clauses":[{"at":"","passed":0}],"page_views":3,"passed":0,"showings":0,"typical_wait":null,"visitors":2,"visitors_shown":0}`,
		`{"error":{"at":"any[1].fact"`, `{"error":{"at":"caps.gap"`, `{"error":{"at":"rule"`,
		`{"clauses":[{"at":"","passed":1}],"page_views":3,"passed":1,"showings":1,"typical_wait":25,"visitors":2,"visitors_shown":1}`,
	} {
		if i >= len(lines) || !strings.HasPrefix(lines[i], want) {
			t.Fatalf("answer %d: want %s\nin %s", i, want, strings.Join(lines, "\n"))
		}
	}
	if err := os.WriteFile(file, []byte("{\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, flags := range [][]string{{"--visits", file}, {"--visits", file + ".none"}, {}} {
		if _, err := runCommand(t, "rehearse", `{}`, flags...); !errors.Is(err, errFlag) {
			t.Errorf("%v ends with %v", flags, err)
		}
	}
}

func TestSettle(t *testing.T) {
	good := `{"version":3,"name":"Tiles","format":"popup","rule":{"all":[]},"caps":{"per_visitor":[{"times":1,"per":"visit"}],"after_close":"P7D"},"split":{"salt":"s","variants":[{"id":"a","name":"A","share":1,"design":{` +
		`"frame":{"width":460,"padding":36,"corners":8,"background":"#ffffff","ink":"#222222","accent":"#204080","accent_ink":"#ffffff","font":"sans","veil":{"color":"#000000","opacity":50,"closes":true},"close":{"shown":true,"label":"Close"}},` +
		`"scenes":[{"id":"s","name":"Say","kind":"plain","blocks":[{"kind":"button","id":"b","words":"See it","press":{"do":"open","address":"/shop"},"counts":true,"quiet":false}]}]}}]}}`
	lines, err := runCommand(t, "settle", strings.Join([]string{
		good,
		strings.Replace(good, "See it", "Submit", 1),
		strings.Replace(strings.Replace(good, `"closes":true`, `"closes":false`, 1), `"shown":true`, `"shown":false`, 1),
		strings.Replace(good, `"version":3`, `"version":5`, 1),
		strings.Replace(good, `"width":460`, `"width":4`, 1),
		`{"version":2}`,
	}, "\n"))
	if !errors.Is(err, errFaults) {
		t.Error("the command ends with", err)
	}
	const design = "split.variants[0].design"
	for i, want := range []string{
		`{"notes":[]}`,
		`{"notes":[{"code":"dull_button","severity":"warn","at":"` + design + `.scenes[0].blocks[0].words"`,
		`{"notes":[{"code":"no_close","severity":"stop","at":"` + design + `.frame.close"`,
		`{"error":{"at":"version","message":"`,
		`{"error":{"at":"` + design + `.frame.width","message":"`,
		`{"error":{"at":"`,
	} {
		if i >= len(lines) || !strings.HasPrefix(lines[i], want) {
			t.Errorf("answer %d: want %s\nin %s", i, want, strings.Join(lines, "\n"))
		}
	}
}

func TestReckon(t *testing.T) {
	lines, err := runCommand(t, "reckon", `{"formula": "principal * (1 + rate / 100) / months", "inputs": {"principal": 900, "rate": 4, "months": 12}}
{"formula": "bags / (2 - two)", "inputs": {"bags": 1, "two": 2}}
{"formula": "bags +", "inputs": {"bags": 1}}
{"formula": "bags", "inputs": {"bags": "3"}}
{"formula": "bags", "inputs": {}}
{"formula": "9 ^ 9 ^ 9", "inputs": {}}`)
	if !errors.Is(err, errFaults) {
		t.Error("no fault:", err)
	}
	want := []string{
		`{"value":78}`,
		`{"error":{"at":"formula","message":"this divides by zero","character":6}}`,
		`{"error":{"at":"formula","message":"a number or a name is missing at the end","character":7}}`,
		`{"error":{"at":"inputs.bags","message":"should be a number"}}`,
		`{"error":{"at":"formula","message":"bags has no value","character":1}}`,
		`{"error":{"at":"formula","message":"the value is too large to be a number","character":3}}`,
	}
	for i := range want {
		if i >= len(lines) || lines[i] != want[i] {
			t.Errorf("answer %d:\n got %v\nwant %s", i, lines[i:], want[i])
		}
	}
}

func TestWalk(t *testing.T) {
	piece := `{"version":3,"name":"Glazes","format":"popup","rule":{"all":[]},"caps":{},"split":{"salt":"s","variants":[{"id":"a","name":"A","share":1,"design":{` +
		`"frame":{"width":460,"padding":36,"corners":8,"background":"#ffffff","ink":"#222222","accent":"#204080","accent_ink":"#ffffff","font":"sans","veil":{"color":"#000000","opacity":50,"closes":true},"close":{"shown":true,"label":"Close"}},` +
		`"formulas":[{"name":"total","formula":"bags * 12.5"}],"scenes":[` +
		`{"id":"q1","name":"Question","kind":"question","blocks":[{"kind":"field","id":"f","ask":"choice","key":"glaze","label":"Glaze","required":true,"choices":[{"id":"ash","label":"Ash","score":4},{"id":"shino","label":"Shino"}]},` +
		`{"kind":"field","id":"n","ask":"number","key":"bags","label":"Bags","required":false,"most":"9"},{"kind":"button","id":"on","words":"On","press":{"do":"send"},"counts":false,"quiet":false}],"edges":[{"to":"gate"}]},` +
		`{"id":"gate","name":"Gate","kind":"form","blocks":[{"kind":"field","id":"e","ask":"email","key":"email","label":"Email","required":true},{"kind":"button","id":"send","words":"Send","press":{"do":"send"},"counts":true,"quiet":false}],"edges":[{"to":"ash"}]},` +
		`{"id":"ash","name":"Ash","kind":"result","blocks":[{"kind":"heading","id":"h","text":"Ash","size":20,"align":"start"}]}]}}]}}`
	lines, err := runCommand(t, "walk", `{"piece":`+piece+`,"walks":[
		{"answers":[{"scene":"q1","press":"on","values":{"glaze":"ash","bags":3}},{"scene":"gate","press":null,"values":{"email":"a@example.com"}}],"seed":7},
		{"answers":[{"scene":"q1","press":null,"values":{"glaze":"ash"}},{"scene":"gate"}]},
		{"answers":[{"scene":"q1","values":{"glaze":"ash","bags":99}}]},
		{"answers":[{"scene":"gate","values":{"email":"a@example.com"}}]},
		{"answers":[{"scene":"q1","values":{"glaze":{"id":"ash"}}}]},
		{"answers":[]}]}
{"piece":{"version":3},"walks":[]}`)
	if !errors.Is(err, errFaults) {
		t.Error("no fault:", err)
	}
	want := []string{
		`{"walks":[` +
			`{"drawn":null,"ended":true,"error":null,"path":["q1","gate","ash"],"result":"ash","score":4,"values":{"total":37.5}},` +
			`{"drawn":null,"ended":false,"error":{"at":"answers[1].values.email","message":"Please fill this in."},"path":["q1","gate"],"result":null,"score":4,"values":{}},` +
			`{"drawn":null,"ended":false,"error":{"at":"answers[0].values.bags","message":"This should be at most 9."},"path":["q1"],"result":null,"score":0,"values":{}},` +
			`{"drawn":null,"ended":false,"error":{"at":"answers[0].scene","message":"is not where this walk is: that is q1"},"path":["q1"],"result":null,"score":0,"values":{}},` +
			`{"drawn":null,"ended":false,"error":{"at":"answers[0].values.glaze","message":"is not an answer"},"path":["q1"],"result":null,"score":0,"values":{}},` +
			`{"drawn":null,"ended":false,"error":null,"path":["q1"],"result":null,"score":0,"values":{}}]}`,
		`{"error":{"at":"piece.name","message":"should not be empty"}}`,
	}
	for i := range want {
		if i >= len(lines) || lines[i] != want[i] {
			t.Errorf("answer %d:\n got %v\nwant %s", i, lines[i:], want[i])
		}
	}
}
