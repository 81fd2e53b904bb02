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
		{`{"kind":"video","id":"v","title":"","ratio":56,"corners":0,"captions":"WEBVTT\n\n1 --> 2\nHello"}`, "blocks[0].captions", "line 3"},
		{`{"kind":"video","id":"v","title":"","ratio":56,"corners":0,"address":"https://a:b@video.example.com"}`, "blocks[0].address", "https"},
		{`{"kind":"icon","id":"i","name":"x","path":"M0 0\"/><script>","size":20,"align":"start"}`, "blocks[0].path", "icon"},
		{`{"kind":"timer","id":"t","at_zero":"stay","size":20,"align":"start"}`, "blocks[0].minutes", "1 to"},
		{`{"kind":"timer","id":"t","to":"soon","at_zero":"stay","size":20,"align":"start"}`, "blocks[0].to", "moment"},
		{`{"kind":"timer","id":"t","minutes":5,"at_zero":"leap","size":20,"align":"start"}`, "blocks[0].at_zero", "next"},
		{`{"kind":"code","id":"c","words":"Copy","copied":"Copied","size":20}`, "blocks[0].code", "needs a code"},
		{`{"kind":"code","id":"c","code":"A","words":"Copy","copied":"Copied","size":20,"apply":"javascript:{code}"}`, "blocks[0].apply", "https://"},
		{`{"kind":"links","id":"l","items":[{"name":"x","path":"M0 0","label":"Chat","address":"data:text/html,x"}],"size":20,"align":"start"}`, "blocks[0].items[0].address", "https://"},
		{`{"kind":"field","id":"f","ask":"choice","key":"k","label":"L","required":false,"options":["A","A"]}`, "blocks[0].choices[1].label", "twice"},
		{`{"kind":"field","id":"f","ask":"choice","key":"k","label":"L","required":false}`, "blocks[0].choices", "1 to"},
		{`{"kind":"field","id":"f","ask":"choice","key":"k","label":"L","required":false,"choices":[{"id":"A-1","label":"A"}]}`, "blocks[0].choices[0].id", "short name"},
		{`{"kind":"field","id":"f","ask":"choice","key":"k","label":"L","required":false,"choices":[{"id":"a","label":"A","score":1e12}]}`, "blocks[0].choices[0].score", "should be"},
		{`{"kind":"field","id":"f","ask":"choice","key":"k","label":"L","required":false,"choices":[{"id":"a","label":"A","picture":"x"}]}`, "blocks[0].choices[0].picture", "picture"},
		{`{"kind":"field","id":"f","ask":"slider","key":"k","label":"L","required":false,"least":"5","most":"5"}`, "blocks[0].most", "above"},
		{`{"kind":"field","id":"f","ask":"slider","key":"k","label":"L","required":false,"least":"0","most":"9","step":"0"}`, "blocks[0].step", "above 0"},
		{`{"kind":"field","id":"f","ask":"slider","key":"k","label":"L","required":false,"least":"0","most":"9","start":"10"}`, "blocks[0].start", "between"},
		{`{"kind":"value","id":"v","formula":"x","size":2,"align":"start"}`, "blocks[0].size", "12 to 120"},
		{`{"kind":"tally","id":"v","key":"x","least":-1}`, "blocks[0].least", "0 to"},
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
		`{"kind":"field","id":"f","ask":"choices","key":"k","label":"L","required":true,"width":50,"bare":true,"choices":[{"id":"a","label":"A","picture":"0123456789abcdef0123456789abcdef","score":2.5,"weights":{"ash":1},"right":true},{"id":"b","label":"B"}],"look":"pictures","shuffle":true,"reveal":true,"explanation":"Both.","least":"1","most":"2","message":"Pick"}`,
		`{"kind":"button","id":"u","words":"Go","press":{"do":"open","address":"/a","new_tab":true,"carry":true},"counts":true,"quiet":false,"narrow":true,"align":"end","corners":0,"stir":"pulse","locked":true}`,
		`{"kind":"timer","id":"m","to":"2026-12-24T18:00:00Z","at_zero":"words","words":"Over","size":20,"align":"start"}`,
		`{"kind":"code","id":"o","pool":"spring","words":"Copy","copied":"Copied","size":20}`,
		`{"kind":"progress","id":"g","look":"dots"}`,
		`{"kind":"field","id":"r","ask":"slider","key":"bags","label":"Bags","required":true,"unit":"kg","step":"0.5","start":"2","least":"0","most":"20"}`,
		`{"kind":"field","id":"w","ask":"text","key":"word","label":"Word","required":true,"right":["Ash"],"points":5}`,
		`{"kind":"value","id":"e","formula":"total","label":"A month","size":40,"align":"start","color":"@accent"}`,
		`{"kind":"tally","id":"a","key":"poll","counts":true,"least":10}`,
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
		"backdrop": map[string]any{"color": "#000000", "opacity": 50, "closes": true}, "close": map[string]any{"shown": true, "label": "Close"}}
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
		{"orb", []any{"phone_format"}, "phone_format"},
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

func TestFormatsTakePlaces(t *testing.T) {
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
	p := New("x", Popup, "s")
	p.PhoneFormat = Bar
	slots := func() string { return p.Slot(p.First(), true) + " " + p.Slot(p.First(), false) }
	if got := slots(); got != "edge.top overlay" {
		t.Error(got)
	}
	// A variant with a format of its own has that on phones too.
	p.First().Format = Sheet
	if got := slots(); got != "overlay overlay" {
		t.Error(got)
	}
	p.First().PhoneFormat = FlyIn
	if got := slots(); got != "corner.bottom_end overlay" {
		t.Error(got)
	}
}

func TestPicturesAndFilesAreAllFound(t *testing.T) {
	h := func(c string) string { return strings.Repeat(c, 32) }
	d := Design{Frame: Frame{Behind: Behind{Picture: h("a"), Video: h("b")}, Phone: Patch{"behind": map[string]any{"picture": h("c")}}}, Scenes: []Scene{{Blocks: []Block{
		Box{Blocks: []Block{Picture{Picture: h("d"), Lay: Lay{Phone: Patch{"picture": h("e")}}}, Picture{Picture: h("d")}}}, Field{Choices: []Choice{{Picture: h("9")}, {}}},
		Video{File: h("f")}, Button{Press: Press{Do: DoFile, File: h("0")}},
	}}}}
	if got := len(d.Pictures()); got != 5 {
		t.Error(d.Pictures())
	}
	if got := len(d.Files()); got != 3 {
		t.Error(d.Files())
	}
}
