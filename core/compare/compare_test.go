package compare

import (
	"math"
	"slices"
	"testing"
	"time"

	"gobbet/core/launch"
	"gobbet/core/piece"
)

var now = time.Date(2026, 11, 25, 12, 0, 0, 0, time.UTC)

func day(n int) time.Time { return now.AddDate(0, 0, n) }

func pieceOf(shares ...int) *piece.Piece {
	p := piece.New("Test", piece.Popup, "s")
	first := p.Split.Variants[0]
	p.Split.Variants = nil
	for i, share := range shares {
		first.ID, first.Name, first.Share = string(rune('a'+i)), "Variant", share
		p.Split.Variants = append(p.Split.Variants, first)
	}
	return p
}

func run(n int, began time.Time, shares ...launch.Variant) launch.Run {
	return launch.Run{Piece: "p", Run: n, Began: began, Split: launch.Split{Variants: shares}}
}

var half = []launch.Variant{{ID: "a", Share: 50}, {ID: "b", Share: 50}}

// The time that a piece was paused is not time that its test ran.
func TestPausesAreNotTimeThatATestRan(t *testing.T) {
	for name, c := range map[string]struct {
		moves []launch.Made
		days  float64
	}{
		"never paused":       {nil, 20},
		"paused for a week":  {[]launch.Made{{At: day(-15), Did: launch.PausedIt}, {At: day(-8), Did: launch.ResumedIt}}, 13},
		"twice":              {[]launch.Made{{At: day(-15), Did: launch.PausedIt}, {At: day(-12), Did: launch.Launched}, {At: day(-3), Did: launch.PausedIt}, {At: day(-2), Did: launch.ResumedIt}}, 16},
		"paused before":      {[]launch.Made{{At: day(-30), Did: launch.PausedIt}, {At: day(-25), Did: launch.ResumedIt}}, 20},
		"paused across":      {[]launch.Made{{At: day(-30), Did: launch.PausedIt}, {At: day(-18), Did: launch.ResumedIt}}, 18},
		"paused still":       {[]launch.Made{{At: day(-5), Did: launch.PausedIt}}, 15},
		"its schedule ended": {[]launch.Made{{At: day(-4), Did: launch.Ended}}, 16},
		"changed meanwhile":  {[]launch.Made{{At: day(-15), Did: launch.PausedIt}, {At: day(-14), Did: launch.Replaced}, {At: day(-13), Did: launch.ResumedIt}}, 18},
		"resumed, not ended": {[]launch.Made{{At: day(-5), Did: launch.ResumedIt}}, 20},
	} {
		is := Of(pieceOf(50, 50), nil, []launch.Run{run(1, day(-20), half...)}, nil, nil)
		is.Moves = c.moves
		if got := is.Test(pieceOf(50, 50), now).Days; math.Abs(got-c.days) > 1e-9 {
			t.Errorf("%s: %v days, want %v", name, got, c.days)
		}
	}
}

func TestAPieceThatIsPausedIsComparedUpToThen(t *testing.T) {
	at := day(-5)
	is := Of(pieceOf(50, 50), nil, []launch.Run{run(1, day(-20), half...)}, nil, &at)
	if is.Period.Ended == nil || !is.Period.Ended.Equal(at) || is.Test(pieceOf(50, 50), now).Days != 15 {
		t.Errorf("%+v", is.Period)
	}
	before := day(-30)
	if is := Of(pieceOf(50, 50), nil, []launch.Run{run(1, day(-20), half...)}, nil, &before); is.Period.Ended != nil {
		t.Error("a pause from before the runs ends them")
	}
}

// Only the runs of the latest time in which the same variants ran count.
func TestVisitorsOfEarlierRunsAreNotCompared(t *testing.T) {
	runs := []launch.Run{run(1, day(-20), launch.Variant{ID: "a", Share: 100}), run(2, day(-3), half...)}
	totals := []Total{
		{Piece: "p", Run: 1, Variant: "a", Visitors: 900, Conversions: 500},
		{Piece: "p", Run: 2, Variant: "a", Visitors: 40, Conversions: 4},
		{Piece: "p", Run: 2, Variant: "b", Visitors: 41, Conversions: 6},
		{Piece: "p", Run: 2, Variant: "b", Goal: "order", Conversions: 2, Amount: 12_50, Squares: 90_00},
	}
	p := pieceOf(50, 50)
	test := Of(p, []string{"order"}, runs, totals, nil).Test(p, now)
	if len(test.Variants) != 2 || test.Variants[0].Visitors != 40 || test.Variants[1].Conversions != 6 || test.WithValues {
		t.Errorf("%+v", test.Variants)
	}
	p.Split.Goal = "order"
	test = Of(p, []string{"order"}, runs, totals, nil).Test(p, now)
	if b := test.Variants[1]; b.Visitors != 41 || b.Conversions != 2 || b.Values.Sum != 12.5 || !test.WithValues {
		t.Errorf("by orders: %+v", test.Variants)
	}
	if is := Of(p, nil, runs, totals, nil); is.Goal != "" {
		t.Error("a goal decides that the site has no more")
	}
}

// Without a test every variant with a share is told of, over all time.
func TestWithoutATestAllOfAPieceIsTold(t *testing.T) {
	p := pieceOf(100, 0)
	is := Of(p, nil, []launch.Run{run(1, day(-20), launch.Variant{ID: "a", Share: 100})}, nil, nil)
	if is.Testing || len(is.Period.Arms) != 1 || !is.In(1) || !is.In(99) || is.Test(p, now).Days != 0 {
		t.Errorf("%+v", is)
	}
}

// What is gone keeps off the letters of what is there.
func TestLettersAreOfThePiecesOwnOrder(t *testing.T) {
	is := Of(pieceOf(50, 50, 0), nil, []launch.Run{run(1, day(-9), launch.Variant{ID: "gone", Share: 50}, launch.Variant{ID: "b", Share: 50})}, nil, nil)
	if is.LetterOf["a"] != "A" || is.LetterOf["b"] != "B" || is.LetterOf["c"] != "C" || is.LetterOf["gone"] != "D" {
		t.Error(is.LetterOf)
	}
	if Letter(0) != "A" || Letter(25) != "Z" || Letter(90) != "Z" {
		t.Error("letters past the last are the last")
	}
}

func TestADesignThatChangedMeanwhileIsTold(t *testing.T) {
	is := Of(pieceOf(50, 50), nil, []launch.Run{run(1, day(-20), half...)}, nil, nil)
	is.Moves = []launch.Made{
		{At: day(-20), Did: launch.Launched, Designs: []string{"a", "b"}},
		{At: day(-3), Did: launch.Launched, Designs: []string{"b", "gone"}},
		{At: day(-2), Did: launch.Replaced, Designs: []string{"b"}},
	}
	changed, at := is.Changed()
	if !slices.Equal(changed, []string{"B"}) || at == nil || !at.Equal(day(-2)) {
		t.Error(changed, at)
	}
}

// Those held back are held against those shown in the same runs alone.
func TestAGainIsOverTheRunsThatHoldSomeBack(t *testing.T) {
	runs := []launch.Run{run(1, day(-20), half...), {Piece: "p", Run: 2, Began: day(-9), Split: launch.Split{Held: 10, Variants: half}}}
	totals := []Total{
		{Piece: "p", Run: 1, Variant: "a", Visitors: 1000, Conversions: 900},
		{Piece: "p", Run: 2, Variant: "a", Visitors: 90, Conversions: 9},
		{Piece: "p", Run: 2, Variant: "b", Visitors: 90, Conversions: 18},
		{Piece: "p", Run: 2, Variant: "", Visitors: 20, Conversions: 1},
		{Piece: "q", Run: 2, Variant: "a", Visitors: 500, Conversions: 500},
	}
	gain := Gain(totals, runs, "p", "")
	if gain.Shown.Visitors != 180 || gain.Shown.Conversions != 27 || gain.Held.Visitors != 20 || gain.Held.Conversions != 1 {
		t.Errorf("%+v", gain)
	}
	if shown := Shown(totals[:4], ""); shown.Visitors != 1180 || shown.Conversions != 927 {
		t.Errorf("%+v", shown)
	}
}

// Shares that follow the winner are drawn from what is compared, and add up.
func TestFollowingGivesTheBetterOneMore(t *testing.T) {
	totals := []Total{{Piece: "p", Run: 1, Variant: "a", Visitors: 1000, Conversions: 20}, {Piece: "p", Run: 1, Variant: "b", Visitors: 1000, Conversions: 120}}
	shares := Of(pieceOf(50, 50), nil, []launch.Run{run(1, day(-9), half...)}, totals, nil).Follow(7)
	if shares["a"]+shares["b"] != 100 || shares["b"] < 80 {
		t.Error(shares)
	}
}
