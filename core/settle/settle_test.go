package settle

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
	"gobbet/core/style"
)

// written is a new piece with text of its own.
func written(format piece.Format) *piece.Piece {
	p := piece.New("x", format, "s")
	for _, scene := range p.Split.Variants[0].Design.Scenes {
		for i, b := range scene.Blocks {
			switch b := b.(type) {
			case piece.Heading:
				b.Text = piece.Plain("Five new glazes, " + scene.Name)
				scene.Blocks[i] = b
			case piece.Text:
				b.Text = piece.Plain("Once a month, from the kiln.")
				scene.Blocks[i] = b
			}
		}
	}
	return p
}

func codes(p *piece.Piece) []string {
	var codes []string
	for _, n := range Notes(p, Around{}) {
		codes = append(codes, string(n.Severity)+" "+n.Code+" "+n.At)
	}
	return codes
}

func TestANewPieceHasNothingToSettleOnceItIsWritten(t *testing.T) {
	for _, format := range piece.Formats {
		p := written(format)
		if format == piece.Inline {
			// Where it stands is for a person to say.
			p.Split.Variants[0].Design.Frame.Anchor.Selector = "main"
		}
		if got := codes(p); got != nil {
			t.Error(format, got)
		}
	}
}

func TestEachNoteComesForItsReasonAlone(t *testing.T) {
	const design = "split.variants[0].design"
	button := func(p *piece.Piece, change func(*piece.Button)) {
		blocks := p.Split.Variants[0].Design.Scenes[0].Blocks
		b := blocks[4].(piece.Button)
		change(&b)
		blocks[4] = b
	}
	for want, spoil := range map[string]func(p *piece.Piece, d *piece.Design){
		"stop no_close " + design + ".frame.close": func(_ *piece.Piece, d *piece.Design) {
			d.Frame.Close.Shown, d.Frame.Backdrop.Closes = false, false
		},
		"warn no_place " + design + ".frame.anchor.selector": func(p *piece.Piece, _ *piece.Design) { p.Format = piece.Inline },
		"stop not_element rule.all[0].value":                 func(p *piece.Piece, _ *piece.Design) { p.Program = clicked(t, "Buy now") },
		"warn nothing_sends " + design + ".scenes[1].blocks[1].text": func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[1].Blocks[1] = piece.Text{Kind: "text", ID: "t", Text: piece.Plain("Your guide is on its way."), Size: 16, Align: "start"}
		},
		"warn no_cap caps":                                          func(p *piece.Piece, _ *piece.Design) { p.Caps = caps.Caps{} },
		"warn no_rest_after_close caps.after_close":                 func(p *piece.Piece, _ *piece.Design) { p.Caps.AfterClose = "" },
		"warn no_conversion " + design + ".scenes":                  func(p *piece.Piece, _ *piece.Design) { button(p, func(b *piece.Button) { b.Counts = false }) },
		"warn dull_button " + design + ".scenes[0].blocks[4].words": func(p *piece.Piece, _ *piece.Design) { button(p, func(b *piece.Button) { b.Words = "Submit" }) },
		"warn low_contrast " + design + ".scenes[0].blocks[4].ink":  func(p *piece.Piece, _ *piece.Design) { button(p, func(b *piece.Button) { b.Fill = "#cccccc" }) },
		"stop empty_scene " + design + ".scenes[1]":                 func(_ *piece.Piece, d *piece.Design) { d.Scenes[1].Blocks = nil },
		"stop no_picture " + design + ".scenes[1].blocks[0].picture": func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[1].Blocks[0] = piece.Picture{Kind: "picture", ID: "p", Ratio: 50, Width: 100}
		},
		"warn no_captions " + design + ".scenes[1].blocks[0].captions": func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[1].Blocks[0] = piece.Video{Kind: "video", ID: "v", File: "film", Title: "A kiln, opened", Ratio: 56}
		},
		"warn tab_order " + design + ".scenes[0].blocks[3]": func(_ *piece.Piece, d *piece.Design) {
			b := d.Scenes[0].Blocks
			b[3], b[4] = b[4], b[3]
		},
	} {
		p := written(piece.Popup)
		spoil(p, &p.Split.Variants[0].Design)
		if got := codes(p); !slices.Equal(got, []string{want}) {
			t.Errorf("got %v, want %s alone", got, want)
		}
	}
}

func clicked(t *testing.T, selector string) *reach.Program {
	t.Helper()
	p, err := reach.Compile(reach.All{reach.Clause{Fact: "moment.click", Op: reach.Happened, Value: selector}})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func TestWhatIsClickedForNeedsNoLimits(t *testing.T) {
	p := written(piece.Popup)
	p.Program, p.Caps = clicked(t, "#buy"), caps.Caps{}
	if got := codes(p); got != nil {
		t.Error(got)
	}
}

func TestTextIsToldFromSelectors(t *testing.T) {
	for selector, text := range map[string]bool{
		"#buy": false, ".card > a": false, "a": false, "button.buy:not(.sold)": false, "main a[href*='/shop']": false, "my-basket": false,
		"a, button": false, "": false, "*": false, "ul li:nth-child(2)": false, "[data-x=\"Buy now\"]": false, "svg path": false,
		"Buy now": true, "Sign up": true, "Order": true, "Join!": true, "a Buy": true, "Jetzt kaufen": true, "#a Kaufen": true,
	} {
		if looksLikeText(selector) != text {
			t.Errorf("%q: %t", selector, !text)
		}
	}
}

func TestNoThankYou(t *testing.T) {
	p := written(piece.Popup)
	d := &p.Split.Variants[0].Design
	d.Scenes = d.Scenes[:1]
	d.Scenes[0].Edges = nil
	if got := codes(p); !slices.Equal(got, []string{"warn no_thanks split.variants[0].design.scenes[0].blocks[4].press"}) {
		t.Error(got)
	}
}

func TestFieldsThatNothingSends(t *testing.T) {
	p := written(piece.Popup)
	d := &p.Split.Variants[0].Design
	d.Scenes[0].Blocks, d.Scenes[0].Edges = d.Scenes[0].Blocks[:4], nil
	got := codes(p)
	if !slices.Contains(got, "stop no_send split.variants[0].design.scenes[0]") || !slices.Contains(got, "warn unreached_scene split.variants[0].design.scenes[1]") {
		t.Error(got)
	}
}

// Ratios as computed by hand from WCAG's formula.
func TestContrast(t *testing.T) {
	for _, c := range []struct {
		a, b style.Color
		want float64
	}{{"#000000", "#ffffff", 21}, {"#ffffff", "#ffffff", 1}, {"#777777", "#ffffff", 4.478}, {"#767676", "#ffffff", 4.542}, {"#0000ff", "#ffffff", 8.592}} {
		if got := Contrast(c.a, c.b); math.Abs(got-c.want) > 0.001 {
			t.Errorf("%s on %s: %.4f, want %.3f", c.a, c.b, got, c.want)
		}
	}
}

func TestRehearsedNotes(t *testing.T) {
	wait := func(s float64) *float64 { return &s }
	for _, c := range []struct {
		format piece.Format
		r      rehearse.Result
		want   string
	}{
		{piece.Popup, rehearse.Result{PageViews: 199}, ""}, // too few to say
		{piece.Popup, rehearse.Result{PageViews: 5000}, "nobody_passes"},
		{piece.Popup, rehearse.Result{PageViews: 5000, Passed: 10, Lost: []int{3, 7}}, "always_loses"},
		{piece.Popup, rehearse.Result{PageViews: 5000, Passed: 10, Lost: []int{3, 6}, Shown: 1, TypicalWait: wait(9)}, ""},
		{piece.Popup, rehearse.Result{PageViews: 5000, Passed: 10, Held: 10}, ""}, // its own caps
		{piece.Popup, rehearse.Result{PageViews: 5000, Passed: 10, Shown: 10, TypicalWait: wait(2)}, "too_early"},
		{piece.FlyIn, rehearse.Result{PageViews: 5000, Passed: 10, Shown: 10, TypicalWait: wait(0)}, ""},
		{piece.FlyIn, rehearse.Result{PageViews: 5000, Passed: 100, Shown: 90, LostToSite: 10, LostToQuiet: 10, QuietAfter: []int{2, 8}}, "held_by_minimum"},
		{piece.FlyIn, rehearse.Result{PageViews: 5000, Passed: 100, Shown: 91, LostToSite: 9, LostToQuiet: 9, QuietAfter: []int{1, 8}}, ""},
		{piece.FlyIn, rehearse.Result{PageViews: 5000, Passed: 100, Shown: 10, LostToSite: 90}, ""}, // to the limit of overlays
	} {
		got := ""
		for _, n := range Rehearsed(c.format, c.r, []string{"One", "Two"}, 20*time.Second) {
			got += n.Code
			if n.Severity != Warn || n.Code != "nobody_passes" && n.Code != "too_early" && !strings.Contains(n.Say, "“Two”") {
				t.Errorf("%+v", n)
			}
		}
		if got != c.want {
			t.Errorf("%+v: %q, want %q", c.r, got, c.want)
		}
	}
}

func TestNotesLookIntoBoxesGradientsAndStyles(t *testing.T) {
	const scene = "split.variants[0].design.scenes[0]"
	text := func(color style.Color) piece.Text {
		return piece.Text{Kind: "text", ID: "x", Text: piece.Plain("Words"), Size: 16, Align: "start", Color: color}
	}
	dark := style.UsualKit()
	dark.Colors[0].Value, dark.Colors[1].Value = "#101418", "#f4f0e8"
	for name, c := range map[string]struct {
		spoil func(p *piece.Piece, d *piece.Design)
		kit   *style.Kit
		want  string
	}{
		"in a box of its own": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, piece.Box{Kind: "box", ID: "b", Background: "#222222", Blocks: []piece.Block{text("#333333")}})
		}, nil, "warn low_contrast " + scene + ".blocks[5].blocks[0].color"},
		"clear in its box": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, piece.Box{Kind: "box", ID: "b", Background: "#222222", Blocks: []piece.Block{text("#ffffff")}})
		}, nil, ""},
		"at the far end of a gradient": {func(_ *piece.Piece, d *piece.Design) {
			d.Frame.Behind.Gradient = []style.Color{"#ffffff", "#2b2430"}
			d.Scenes[0].Blocks = d.Scenes[0].Blocks[1:2]
			d.Scenes = d.Scenes[:1]
			d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, piece.Button{Kind: "button", ID: "b", Words: "Go", Press: piece.Press{Do: piece.DoOpen, Address: "/"}, Counts: true})
		}, nil, "warn low_contrast " + scene + ".blocks[0].color"},
		"in a dark style": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, text("#333333"))
		}, &dark, "warn low_contrast " + scene + ".blocks[5].color"},
		"in a dark style, as it comes": {func(*piece.Piece, *piece.Design) {}, &dark, ""},
		"four fields": {func(_ *piece.Piece, d *piece.Design) {
			for _, key := range []string{"a", "b"} {
				d.Scenes[0].Blocks = slices.Insert(d.Scenes[0].Blocks, 3, piece.Block(piece.Field{Kind: "field", ID: key, Ask: piece.AskText, Key: key, Label: key}))
			}
		}, nil, "warn many_fields " + scene},
		"a telephone without a consent": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[0].Blocks[2] = piece.Field{Kind: "field", ID: "tel", Ask: piece.AskPhone, Key: "tel", Label: "Telephone"}
		}, nil, "warn no_consent " + scene},
		"a scene that leads nowhere": {func(_ *piece.Piece, d *piece.Design) {
			d.Scenes[1].Kind, d.Scenes[1].Blocks = piece.PlainScene, []piece.Block{text("")}
		}, nil, "warn dead_end split.variants[0].design.scenes[1]"},
		"closed for good is closed": {func(_ *piece.Piece, d *piece.Design) {
			d.Frame.Close.Shown, d.Frame.Backdrop.Closes = false, false
			d.Scenes[0].Blocks = append(d.Scenes[0].Blocks, piece.Button{Kind: "button", ID: "n", Words: "No", Press: piece.Press{Do: piece.DoNever}, Quiet: true})
		}, nil, ""},
		"inline needs no close and no cap": {func(p *piece.Piece, d *piece.Design) {
			p.Format, p.Caps, d.Frame.Close.Shown, d.Frame.Anchor.Selector = piece.Inline, caps.Caps{}, false, "#story"
		}, nil, ""},
	} {
		p := written(piece.Popup)
		c.spoil(p, &p.Split.Variants[0].Design)
		var got []string
		for _, n := range Notes(p, Around{Kit: c.kit}) {
			got = append(got, string(n.Severity)+" "+n.Code+" "+n.At)
		}
		if strings.Join(got, "; ") != c.want {
			t.Errorf("%s: %v, want %q", name, got, c.want)
		}
	}
}

func TestNotesOfWhatTheSiteHas(t *testing.T) {
	p := written(piece.Popup)
	d := &p.Split.Variants[0].Design
	hash := strings.Repeat("a", 32)
	d.Scenes[1].Blocks = append(d.Scenes[1].Blocks,
		piece.Picture{Kind: "picture", ID: "p", Picture: hash, Alt: "A bowl", Ratio: 50, Width: 100},
		piece.Code{Kind: "code", ID: "c", Pool: "spring", Words: "Copy", Copied: "Copied", Size: 20},
		piece.Timer{Kind: "timer", ID: "t", To: "2026-11-01T00:00:00Z", AtZero: "stay", Size: 20})
	around := Around{Bytes: func(string) (int, bool) { return 400 << 10, true }, Now: time.Date(2026, 11, 25, 0, 0, 0, 0, time.UTC)}
	for left, want := range map[int]string{-1: "no_pool", 0: "pool_dry", 19: "pool_low", 20: ""} {
		around.Codes = map[string]int{}
		if left >= 0 {
			around.Codes["spring"] = left
		}
		var got []string
		for _, n := range Notes(p, around) {
			got = append(got, n.Code)
		}
		wanted := []string{"heavy_picture", "timer_over"}
		if want != "" {
			wanted = []string{"heavy_picture", want, "timer_over"}
		}
		if !slices.Equal(got, wanted) {
			t.Errorf("%d left: %v", left, got)
		}
	}
	if got := Notes(p, Around{}); len(got) != 0 {
		t.Errorf("what is not known is noted: %v", got)
	}
}

func TestWhatIsStillAsItBeganIsSaid(t *testing.T) {
	const scenes = "split.variants[0].design.scenes"
	said := func(p *piece.Piece) (all []string) {
		for _, n := range Notes(p, Around{}) {
			if n.Code == "template_text" {
				all = append(all, n.At+" "+n.Say)
			}
		}
		return all
	}
	p := piece.New("x", piece.Popup, "s")
	if got, want := said(p), []string{
		scenes + "[0].blocks[0].text “Say what they get” is still as it began.",
		scenes + "[0].blocks[1].text “And in a line or two, why n…” is still as it began.",
		scenes + "[1].blocks[1].text “Say what happens next, and …” is still as it began.",
	}; !slices.Equal(got, want) {
		t.Errorf("a new piece: %q", got)
	}
	p = written(piece.Popup)
	d := &p.Split.Variants[0].Design
	d.Scenes[0].Blocks = append(d.Scenes[0].Blocks,
		piece.Field{Kind: "field", ID: "q", Ask: piece.AskChoice, Key: "q", Label: "Which glaze?", Choices: []piece.Choice{{ID: "a", Label: "First answer"}, {ID: "b", Label: "Celadon"}, {ID: "c", Label: " Third answer "}}},
		piece.Button{Kind: "button", ID: "mail", Words: "Write to us", Press: piece.Press{Do: piece.DoMail, Address: "hello@example.com"}},
		piece.List{Kind: "list", ID: "l", Items: []piece.Words{piece.Plain("Result 2"), piece.Plain("Ash")}},
		piece.Text{Kind: "text", ID: "t", Text: piece.Plain("A line or two.")},
	)
	if got, want := said(p), []string{
		scenes + "[0].blocks[5].choices[0] “First answer” is still as it began.",
		scenes + "[0].blocks[5].choices[2] “Third answer” is still as it began.",
		scenes + "[0].blocks[6].press.address “hello@example.com” is still as it began.",
		scenes + "[0].blocks[7].items[0] “Result 2” and 1 more texts are still as they began.",
	}; !slices.Equal(got, want) {
		t.Errorf("what was added: %q", got)
	}
	// What nobody reaches is said to be so, and no more.
	d.Scenes[0].Edges = nil
	d.Scenes[0].Blocks = d.Scenes[0].Blocks[:5]
	d.Scenes[1].Blocks[1] = piece.Text{Kind: "text", ID: "next", Text: piece.Plain("A line or two.")}
	if got := said(p); got != nil {
		t.Errorf("in a scene that nobody reaches: %q", got)
	}
}
