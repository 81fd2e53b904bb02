package piece

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"gobbet/core/fault"
)

// scene reads blocks, written as JSON, as a scene of their own.
func sceneOf(blocks string) (Scene, error) {
	return ReadScene([]byte(`{"id":"ask","name":"Ask","kind":"form","blocks":[` + blocks + `]}`))
}

const aText = `{"kind":"text","id":"%s","text":"x","size":16,"align":"start"}`

func TestFaultsOfBlocksNameTheirPlaceHoweverDeep(t *testing.T) {
	text := func(id string) string { return fmt.Sprintf(aText, id) }
	deep := text("t")
	for i := range 7 {
		deep = fmt.Sprintf(`{"kind":"box","id":"b%d","padding":0,"corners":0,"gap":0,"blocks":[%s]}`, i, deep)
	}
	for _, c := range []struct{ blocks, at, about string }{
		{text("a") + "," + text("a"), "blocks[1].id", "twice"},
		{`{"kind":"box","id":"b","padding":0,"corners":0,"gap":0,"blocks":[` + text("b") + `]}`, "blocks[0].blocks[0].id", "twice"},
		{`{"kind":"columns","id":"c","gap":0,"blocks":[` + text("a") + `,{"kind":"text","id":"d","text":"x","size":400,"align":"start"}]}`, "blocks[0].blocks[1].size", "10 to 40"},
		{deep, "blocks[0].blocks[0].blocks[0].blocks[0].blocks[0].blocks[0].blocks", "deep"},
		{`{"kind":"box","id":"b","padding":0,"corners":0,"gap":0,"blocks":7}`, "blocks[0].blocks", "list"},
		{`{"kind":"columns","id":"c","gap":0,"blocks":[` + strings.Repeat(text("a")+",", 6) + text("g") + `]}`, "blocks[0].blocks", "6 side by side"},
		{`{"kind":"heading","id":"h","text":[{"text":"x","link":"javascript:alert(1)"}],"size":20,"align":"start"}`, "blocks[0].text[0].link", "https://"},
		{`{"kind":"heading","id":"h","text":[{"text":"x","style":"color:red"}],"size":20,"align":"start"}`, "blocks[0].text[0].style", "not a key"},
		{`{"kind":"list","id":"l","items":[],"marker":"dot","size":16}`, "blocks[0].items", "1 to"},
		{`{"kind":"video","id":"v","title":"","ratio":56,"corners":0,"address":"http://video.example.com"}`, "blocks[0].address", "https"},
		{`{"kind":"video","id":"v","title":"","ratio":56,"corners":0,"address":"https://a:b@video.example.com"}`, "blocks[0].address", "https"},
		{`{"kind":"icon","id":"i","name":"x","path":"M0 0\"/><script>","size":20,"align":"start"}`, "blocks[0].path", "icon"},
		{`{"kind":"timer","id":"t","at_zero":"stay","size":20,"align":"start"}`, "blocks[0].minutes", "1 to"},
		{`{"kind":"timer","id":"t","to":"soon","at_zero":"stay","size":20,"align":"start"}`, "blocks[0].to", "moment"},
		{`{"kind":"timer","id":"t","minutes":5,"at_zero":"scene","size":20,"align":"start"}`, "blocks[0].scene", "scene to go to"},
		{`{"kind":"code","id":"c","words":"Copy","copied":"Copied","size":20}`, "blocks[0].code", "needs a code"},
		{`{"kind":"code","id":"c","code":"A","words":"Copy","copied":"Copied","size":20,"apply":"javascript:{code}"}`, "blocks[0].apply", "https://"},
		{`{"kind":"links","id":"l","items":[{"name":"x","path":"M0 0","label":"Chat","address":"data:text/html,x"}],"size":20,"align":"start"}`, "blocks[0].items[0].address", "https://"},
		{`{"kind":"field","id":"f","ask":"choice","key":"k","label":"L","required":false,"options":["A","A"]}`, "blocks[0].options[1]", "twice"},
		{`{"kind":"field","id":"f","ask":"date","key":"k","label":"L","required":false,"least":"yesterday"}`, "blocks[0].least", "date"},
		{`{"kind":"field","id":"f","ask":"text","key":"k","label":"L","required":false,"pattern":"("}`, "blocks[0].pattern", "RE2"},
		{`{"kind":"field","id":"f","ask":"text","key":"k","label":"L","required":false,"width":5}`, "blocks[0].width", "20 to 100"},
		{`{"kind":"field","id":"f","ask":"hidden","key":"k","label":"L","required":false,"from":"cookie.session"}`, "blocks[0].from", "query.NAME"},
		{`{"kind":"button","id":"b","words":"x","counts":false,"quiet":false,"press":{"do":"mail","address":"nobody"}}`, "blocks[0].press.address", "email"},
		{`{"kind":"button","id":"b","words":"x","counts":false,"quiet":false,"press":{"do":"call","address":"javascript:1"}}`, "blocks[0].press.address", "telephone"},
		{`{"kind":"button","id":"b","words":"x","counts":false,"quiet":false,"press":{"do":"file"}}`, "blocks[0].press.file", "file to hand out"},
		{`{"kind":"button","id":"b","words":"x","counts":false,"quiet":false,"press":{"do":"piece","piece":"../x"}}`, "blocks[0].press.piece", "piece to open"},
		{`{"kind":"text","id":"t","text":"x","size":16,"align":"start","hide":"tablet"}`, "blocks[0].hide", "phone, desktop"},
		{`{"kind":"text","id":"t","text":"x","size":16,"align":"start","color":"red"}`, "blocks[0].color", "colour"},
		{`{"kind":"text","id":"t","text":"x","size":16,"align":"start","phone":{"size":900}}`, "blocks[0].phone.size", "10 to 40"},
		{`{"kind":"text","id":"t","text":"x","size":16,"align":"start","phone":{"weight":9}}`, "blocks[0].phone.weight", "not a key"},
		{`{"kind":"text","id":"t","text":"x","size":16,"align":"start","phone":{"id":"u"}}`, "blocks[0].phone.id", "every device"},
		{`{"kind":"text","id":"t","text":"x","size":16,"align":"start","phone":[1]}`, "blocks[0].phone", ""},
	} {
		_, err := sceneOf(c.blocks)
		found := false
		for _, f := range fault.Of(err) {
			found = found || f.At == c.at && strings.Contains(f.Message, c.about)
		}
		if !found {
			t.Errorf("%.90s: %v, want %q about %q", c.blocks, err, c.at, c.about)
		}
	}
}

func TestEveryKindReadsBackTheSame(t *testing.T) {
	blocks := []string{
		`{"kind":"heading","id":"h","text":[{"text":"Big "},{"text":"words","bold":true,"color":"@accent","size":30}],"size":40,"align":"center"}`,
		`{"kind":"list","id":"l","items":["One",[{"text":"Two","italic":true}]],"marker":"tick","size":16,"mark":"#112233"}`,
		`{"kind":"picture","id":"p","picture":"","ratio":50,"alt":"","width":100,"corners":0,"align":"start","fit":"contain","focus":{"x":10,"y":90},"link":"/shop"}`,
		`{"kind":"video","id":"v","address":"https://video.example.com/1","title":"A film","ratio":56,"corners":0,"plays":true}`,
		`{"kind":"icon","id":"i","name":"star","path":"M1 2l3-4z","size":24,"align":"start","hide":"phone"}`,
		`{"kind":"divider","id":"d","thick":1,"width":100}`,
		`{"kind":"space","id":"s","height":20}`,
		`{"kind":"columns","id":"c","blocks":[{"kind":"box","id":"b","blocks":[{"kind":"text","id":"t","text":"In","size":16,"align":"start","above":-4}],"background":"@soft","padding":8,"corners":4,"gap":4,"border":{"width":1}}],"widths":[60],"gap":12,"lined":"middle"}`,
		`{"kind":"field","id":"f","ask":"choices","key":"k","label":"L","required":true,"width":50,"bare":true,"options":["A","B"],"least":"1","most":"2","message":"Pick"}`,
		`{"kind":"button","id":"u","words":"Go","press":{"do":"open","address":"/a","new_tab":true,"carry":true},"counts":true,"quiet":false,"narrow":true,"align":"end","corners":0,"stir":"pulse","locked":true}`,
		`{"kind":"timer","id":"m","to":"2026-12-24T18:00:00Z","at_zero":"words","words":"Over","size":20,"align":"start"}`,
		`{"kind":"code","id":"o","pool":"spring","words":"Copy","copied":"Copied","size":20}`,
		`{"kind":"progress","id":"g","look":"dots"}`,
		`{"kind":"links","id":"n","items":[{"name":"talk","path":"M0 0","label":"Chat","address":"https://chat.example.com"}],"size":24,"align":"start"}`,
		`{"kind":"html","id":"x","html":"\u003cb\u003eHi\u003c/b\u003e"}`,
		`{"kind":"text","id":"q","text":"x","size":16,"align":"start","phone":{"size":12}}`,
	}
	s, err := sceneOf(strings.Join(blocks, ","))
	if err != nil {
		t.Fatal(err)
	}
	for i, b := range s.Blocks {
		if raw, _ := json.Marshal(b); string(raw) != blocks[i] {
			t.Errorf("written %s\nread    %s", blocks[i], raw)
		}
	}
}

func TestDocumentsOfTheFirstVersionAreRead(t *testing.T) {
	doc := document(t)
	doc["version"] = 1
	frame := map[string]any{"width": 400, "padding": 20, "corners": 8, "background": "#ffffff", "ink": "#111111", "accent": "#1f4f4e", "accent_ink": "#ffffff", "font": "serif",
		"veil": map[string]any{"color": "#000000", "opacity": 50, "closes": true}, "close": map[string]any{"shown": true, "label": "Close"}}
	put(doc, frame, "split", "variants", 0, "design", "frame")
	raw, _ := json.Marshal(doc)
	p, err := Parse(raw)
	if err != nil || p.Version != Version {
		t.Fatal(p, err)
	}
}

func TestFramesAndFormatsAreChecked(t *testing.T) {
	in := func(path ...any) []any { return append([]any{"split", "variants", 0, "design", "frame"}, path...) }
	at := "split.variants[0].design.frame."
	for _, c := range []struct {
		value any
		path  []any
		at    string
	}{
		{"inline", []any{"phone_format"}, "phone_format"},
		{"chat", []any{"phone_format"}, "phone_format"},
		{"comic", in("font"), at + "font"},
		{"left", in("place"), at + "place"},
		{map[string]any{"gradient": []any{"#ffffff"}}, in("behind"), at + "behind.gradient"},
		{map[string]any{"gradient": []any{"#ffffff", "url(x)"}}, in("behind"), at + "behind.gradient[1]"},
		{map[string]any{"picture": "x", "shade": 200}, in("behind"), at + "behind.picture"},
		{map[string]any{"width": 99}, in("border"), at + "border.width"},
		{"explode", in("enter"), at + "enter"},
		{"https://example.com/horn.mp3", in("sound"), at + "sound"},
		{map[string]any{"width": 5}, in("phone"), at + "phone.width"},
		{map[string]any{"phone": map[string]any{}}, in("phone"), at + "phone.phone"},
		{-2, in("corners"), at + "corners"},
	} {
		doc := document(t)
		put(doc, c.value, c.path...)
		raw, _ := json.Marshal(doc)
		_, err := Parse(raw)
		if !slices.ContainsFunc(fault.Of(err), func(f fault.Fault) bool { return f.At == c.at }) {
			t.Errorf("%v at %v: %v", c.value, c.path, err)
		}
	}
}

func TestAnswersOfEveryKind(t *testing.T) {
	field := func(rest string) Scene {
		s, err := sceneOf(`{"kind":"field","id":"f","key":"k","label":"L",` + rest + `}`)
		if err != nil {
			t.Fatal(rest, err)
		}
		return s
	}
	for _, c := range []struct{ field, good, bad string }{
		{`"ask":"phone","required":true`, "+353 1 234 567", "call me"},
		{`"ask":"number","required":true,"least":"2","most":"9.5"`, "9.5", "1"},
		{`"ask":"number","required":true`, "-3", "NaN"},
		{`"ask":"number","required":true`, "1e3", "Inf"},
		{`"ask":"date","required":true,"least":"2026-01-01","most":"2026-12-31"`, "2026-06-30", "2027-01-01"},
		{`"ask":"date","required":true`, "2028-02-29", "2027-02-29"},
		{`"ask":"choice","required":true,"options":["A","B"]`, "B", "C"},
		{`"ask":"dropdown","required":true,"options":["A","B"]`, "A", "A\nB"},
		{`"ask":"choices","required":true,"options":["A","B","C"],"most":"2"`, "A\nC", "A\nB\nC"},
		{`"ask":"choices","required":true,"options":["A","B"]`, "B", "A\nA"},
		{`"ask":"consent","required":true`, "yes", "no"},
		{`"ask":"stars","required":true`, "5", "0"},
		{`"ask":"scale","required":true`, "0", "11"},
		{`"ask":"text","required":true,"pattern":"[A-Z]{2}[0-9]+"`, "AB12", "xAB12x"},
		{`"ask":"text","required":true,"least":"3"`, "éèê", "éè"},
		{`"ask":"long","required":true`, strings.Repeat("x", 10_000), strings.Repeat("x", 10_001)},
		{`"ask":"hidden","required":false,"from":"path"`, "/shop", "\x01"},
	} {
		s := field(c.field)
		if _, err := s.Answers(map[string]string{"k": c.good}); err != nil {
			t.Errorf("%s: %.30q refused: %v", c.field, c.good, err)
		}
		if _, err := s.Answers(map[string]string{"k": c.bad}); err == nil {
			t.Errorf("%s: %.30q taken", c.field, c.bad)
		}
	}
	own := field(`"ask":"email","required":true,"message":"We need it to write to you."`)
	if _, err := own.Answers(nil); err == nil || !strings.Contains(err.Error(), "We need it") {
		t.Error(err)
	}
	// What some devices do not show cannot be required of everyone.
	if _, err := field(`"ask":"email","required":true,"hide":"phone"`).Answers(nil); err != nil {
		t.Error(err)
	}
	deep, err := sceneOf(`{"kind":"columns","id":"c","gap":0,"blocks":[{"kind":"field","id":"f","ask":"email","key":"email","label":"L","required":true}]}`)
	if err != nil {
		t.Fatal(err)
	}
	if got, err := deep.Answers(map[string]string{"email": "a@example.com"}); err != nil || deep.EmailIn(got) != "a@example.com" {
		t.Error(got, err)
	}
}

func TestCleanHTMLLetsNothingRun(t *testing.T) {
	for _, hostile := range []string{
		`<script>alert(1)</script>`, `<img src=x onerror=alert(1)>`, `<a href="javascript:alert(1)">x</a>`, `<iframe src="https://evil.test"></iframe>`,
		`<svg><script>alert(1)</script></svg>`, `<form action="https://evil.test"><input name=password></form>`, `<style>@import url(//evil.test)</style>`,
		`<p style="background:url(javascript:alert(1));position:fixed">x</p>`, `<math><mtext></mtext><mglyph><style><img src=x onerror=alert(1)>`,
		`<object data="x"></object><embed src="x">`, `<base href="//evil.test"><meta http-equiv=refresh content=0>`, `<a href="jav&#x09;ascript:alert(1)">x</a>`,
	} {
		got := strings.ToLower(CleanHTML(hostile))
		for _, bad := range []string{"<script", "onerror", "javascript:", "<iframe", "<form", "<input", "<style", "<object", "<embed", "<base", "<meta", "position", "url("} {
			if strings.Contains(got, bad) {
				t.Errorf("%s left %s", hostile, got)
			}
		}
	}
	kept := `<p style="color: red">Read <a href="https://shop.example.com" rel="nofollow">more</a> <b>now</b></p>`
	if got := CleanHTML(kept); !strings.Contains(got, `<b>now</b>`) || !strings.Contains(got, `href="https://shop.example.com"`) || !strings.Contains(got, "color: red") {
		t.Error(got)
	}
	if once := CleanHTML(kept); CleanHTML(once) != once {
		t.Error("cleaning twice changes more")
	}
}

func TestKitsAreReadAndGiveColours(t *testing.T) {
	kit := UsualKit()
	raw, _ := json.Marshal(kit)
	again, err := ReadKit(raw)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ color, otherwise, want Color }{
		{"#123456", "", "#123456"}, {"@accent", "", kit.Colors[2].Value}, {"@gone", "@ink", kit.Colors[1].Value}, {"@gone", "", ""}, {"", "@soft", kit.Colors[4].Value}, {"@page", "@ink", kit.Colors[1].Value},
	} {
		if got := again.Color(c.color, c.otherwise); got != c.want {
			t.Errorf("%q or %q is %q", c.color, c.otherwise, got)
		}
	}
	for change, at := range map[string]string{
		`"id":"accent"`: "colors", `"value":"#1f4f4e"`: "colors[2].value", `"text":"instrument"`: "text", `"weight":650`: "button.weight", `"name":"Ink"`: "colors[1].name",
	} {
		to := map[string]string{"colors": `"id":"other"`, "colors[2].value": `"value":"@ink"`, "text": `"text":"@text"`, "button.weight": `"weight":9`, "colors[1].name": `"name":" "`}[at]
		_, err := ReadKit([]byte(strings.Replace(string(raw), change, to, 1)))
		if !slices.ContainsFunc(fault.Of(err), func(f fault.Fault) bool { return f.At == at }) {
			t.Errorf("%s: %v", to, err)
		}
	}
}

func TestFormatsTakePlacesAndKeepContent(t *testing.T) {
	for _, c := range []struct {
		format Format
		place  Place
		slot   string
	}{
		{Popup, "", "overlay"}, {Full, "", "overlay"}, {Sheet, Start, "overlay"}, {FlyIn, TopStart, "corner.top_start"}, {FlyIn, Bottom, "corner.bottom_end"}, {Bar, Bottom, "edge.bottom"}, {Inline, "", ""},
	} {
		if got := Slot(c.format, c.place); got != c.slot {
			t.Errorf("%s at %q claims %q", c.format, c.place, got)
		}
	}
	d := New("x", Popup, "s").Split.Variants[0].Design
	d.Frame.Behind = Behind{Picture: strings.Repeat("a", 32), Side: "start"}
	for _, format := range Formats {
		back := d.As(Popup, format).As(format, Popup)
		a, _ := json.Marshal(d.Scenes)
		b, _ := json.Marshal(back.Scenes)
		if string(a) != string(b) || back.Frame.Behind.Picture != d.Frame.Behind.Picture || back.Frame.Width != d.Frame.Width {
			t.Errorf("through %s: %+v", format, back.Frame)
		}
	}
	p := New("x", Popup, "s")
	p.PhoneFormat = Bar
	if p.Slot(true) != "edge.top" || p.Slot(false) != "overlay" {
		t.Error(p.Slot(true), p.Slot(false))
	}
}

func TestLeadsFollowButtonsAndTimers(t *testing.T) {
	d := New("x", Popup, "s").Split.Variants[0].Design
	d.Scenes = append(d.Scenes, Scene{ID: "late", Name: "Late", Kind: PlainScene, Blocks: []Block{Button{Kind: "button", ID: "n", Words: "On", Press: Press{Do: DoNext}}}})
	d.Scenes[1].Blocks = []Block{Box{Kind: "box", ID: "b", Blocks: []Block{Timer{Kind: "timer", ID: "t", Minutes: 1, AtZero: "scene", Scene: "late"}, Button{Kind: "button", ID: "n", Words: "On", Press: Press{Do: DoNext}}}}}
	if got := fmt.Sprint(d.Leads(0), d.Leads(1), d.Leads(2)); got != "[thanks] [late late] []" {
		t.Error(got)
	}
}

func TestPicturesAndFilesAreAllFound(t *testing.T) {
	h := func(c string) string { return strings.Repeat(c, 32) }
	d := Design{Frame: Frame{Behind: Behind{Picture: h("a"), Video: h("b")}, Phone: Patch{"behind": map[string]any{"picture": h("c")}}}, Scenes: []Scene{{Blocks: []Block{
		Box{Blocks: []Block{Picture{Picture: h("d"), Lay: Lay{Phone: Patch{"picture": h("e")}}}, Picture{Picture: h("d")}}},
		Video{File: h("f")}, Button{Press: Press{Do: DoFile, File: h("0")}},
	}}}}
	if got := len(d.Pictures()); got != 4 {
		t.Error(d.Pictures())
	}
	if got := len(d.Files()); got != 3 {
		t.Error(d.Files())
	}
}
