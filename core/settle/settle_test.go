package settle

import (
	"math"
	"slices"
	"strings"
	"testing"

	"gobbet/core/caps"
	"gobbet/core/piece"
	"gobbet/core/rehearse"
)

func codes(p *piece.Piece) []string {
	var codes []string
	for _, n := range Notes(p, Around{}) {
		codes = append(codes, string(n.Severity)+" "+n.Code+" "+n.At)
	}
	return codes
}

func TestNewPieceHasNothingToSettle(t *testing.T) {
	for _, format := range piece.Formats {
		if got := codes(piece.New("x", format, "s")); got != nil {
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
			d.Frame.Close.Shown, d.Frame.Veil.Closes = false, false
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
	} {
		p := piece.New("x", piece.Popup, "s")
		spoil(p, &p.Split.Variants[0].Design)
		if got := codes(p); !slices.Equal(got, []string{want}) {
			t.Errorf("got %v, want %s alone", got, want)
		}
	}
}

func TestNoThankYou(t *testing.T) {
	p := piece.New("x", piece.Popup, "s")
	d := &p.Split.Variants[0].Design
	d.Scenes = d.Scenes[:1]
	b := d.Scenes[0].Blocks[4].(piece.Button)
	b.Press.Scene = ""
	d.Scenes[0].Blocks[4] = b
	if got := codes(p); !slices.Equal(got, []string{"warn no_thanks split.variants[0].design.scenes[0].blocks[4].press.scene"}) {
		t.Error(got)
	}
}

func TestFieldsThatNothingSends(t *testing.T) {
	p := piece.New("x", piece.Popup, "s")
	d := &p.Split.Variants[0].Design
	d.Scenes[0].Blocks = d.Scenes[0].Blocks[:4]
	got := codes(p)
	if !slices.Contains(got, "stop no_send split.variants[0].design.scenes[0]") || !slices.Contains(got, "warn unreached_scene split.variants[0].design.scenes[1]") {
		t.Error(got)
	}
}

// Ratios as computed by hand from WCAG's formula.
func TestContrast(t *testing.T) {
	for _, c := range []struct {
		a, b piece.Color
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
	} {
		got := ""
		for _, n := range Rehearsed(c.format, c.r, []string{"One", "Two"}) {
			got += n.Code
			if n.Severity != Warn || n.Code == "always_loses" && !strings.Contains(n.Say, "“Two”") {
				t.Errorf("%+v", n)
			}
		}
		if got != c.want {
			t.Errorf("%+v: %q, want %q", c.r, got, c.want)
		}
	}
}
