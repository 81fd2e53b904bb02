package demo

import (
	"cmp"
	"context"
	"slices"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/launch"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/setup"
	"gobbet/core/style"
	"gobbet/core/tally"
	"gobbet/core/weigh"
	"gobbet/internal/store"
)

// The tests of the demo, running and ended, with true rates that are written
// down in Truth: a clear winner (glazeclub), a loser (classfinder), a broken split
// (beforeyougo), a tie (shippingline), one that is too early to tell (kilnletter),
// and one that followed the winner (testtiles).

const (
	orderGoal = "order"
	orderDays = 14
	// comesBackToBuy is how many of those who signed up come back for an order that
	// they would not have made.
	comesBackToBuy = 0.8

	classGoal  = "class_booked"
	classDays  = 30
	classPrice = 55
	// books is how many views of the classes end with one booked.
	books = 0.035

	followPiece = "testtiles"
	letterDays  = 3 // that the letter's test runs
	tilesBegan  = 70
	tilesEnded  = 30 // days ago
	lineBegan   = 88
	lineEnded   = 12
)

// goals are what the shop wants of its visitors in the end.
var goals = []setup.Goal{
	{ID: orderGoal, Name: "Order", Kind: "page", About: "/thanks", Value: "order_total", Days: orderDays},
	{ID: classGoal, Name: "Class booked", Kind: "event", About: classGoal, Value: "class_price", Days: classDays},
}

// spanOf is from when until when a piece was live; zero: it is.
func spanOf(id string, now time.Time) (began, ended time.Time) {
	ago := func(days int) time.Time { return now.AddDate(0, 0, -days) }
	switch id {
	case followPiece:
		return ago(tilesBegan), ago(tilesEnded)
	case "shippingline":
		return ago(lineBegan), ago(lineEnded)
	case "kilnletter":
		return ago(letterDays), time.Time{}
	}
	return ago(liveDays), time.Time{}
}

// breaks reports whether a showing is lost to an error of the page: the offer's
// second variant did not come up on most phones.
func (t *traffic) breaks(p *person, id, variant string) bool {
	return id == "beforeyougo" && variant == "b" && p.device == "phone" && t.Float64() < 0.7
}

// followedSight is a first sight, and what may come of it.
type followedSight struct {
	shown  tally.Event
	leaves bool
	done   time.Time
	after  time.Duration
	from   origin
}

// follow goes through the days of the piece that follows the winner: each day's
// shares are those that the days before made likely.
func (t *traffic) follow(demo []choose.Live) (runs []launch.Run) {
	i := slices.IndexFunc(demo, func(l choose.Live) bool { return l.ID == followPiece })
	split := demo[i].Piece.Split
	slices.SortStableFunc(t.followed, func(a, b followedSight) int {
		return cmp.Or(a.shown.At.Compare(b.shown.At), cmp.Compare(a.shown.Visitor, b.shown.Visitor))
	})
	counts := make([]weigh.Count, len(split.Variants))
	began, ended := spanOf(followPiece, t.now)
	next := 0
	for day := 0; began.AddDate(0, 0, day).Before(ended); day++ {
		from := began.AddDate(0, 0, day)
		run := launch.Run{Piece: followPiece, Run: day + 1, Began: from, Split: launch.Split{Follow: true}}
		for i, share := range weigh.Follow(counts, weigh.FollowFloor, uint64(day)) {
			split.Variants[i].Share = share
			run.Split.Variants = append(run.Split.Variants, launch.Variant{ID: split.Variants[i].ID, Name: split.Variants[i].Name, Share: share})
		}
		// Two days with the same shares are one run.
		if n := len(runs); n > 0 && slices.Equal(runs[n-1].Split.Variants, run.Split.Variants) {
			run.Run = runs[n-1].Run
		} else {
			run.Run = n + 1
			runs = append(runs, run)
		}
		for ; next < len(t.followed) && t.followed[next].shown.At.Before(from.AddDate(0, 0, 1)); next++ {
			sight := t.followed[next]
			sight.shown.Run, sight.shown.Variant = run.Run, choose.Allot(&split, sight.shown.Visitor, "").ID
			at := slices.IndexFunc(split.Variants, func(v piece.Variant) bool { return v.ID == sight.shown.Variant })
			counts[at].Visitors++
			took := tally.Closed
			if t.Float64() < trueRate(followPiece, sight.shown.Variant) {
				counts[at].Conversions++
				took = tally.Converted
			}
			t.cameOf(sight, took)
		}
	}
	return runs
}

// loadRuns tells since when the pieces' splits are as they are.
func loadRuns(ctx context.Context, s *store.Store, site int64, demo []choose.Live, followed []launch.Run, now time.Time) error {
	for _, live := range demo {
		began, ended := spanOf(live.ID, now)
		if !ended.IsZero() {
			if err := s.Pieces.SetPaused(ctx, site, live.ID, ended); err != nil {
				return err
			}
		}
		run := launch.Run{Piece: live.ID, Run: 1, Began: began, Split: launch.Split{Held: live.Piece.Split.Held}}
		for _, v := range live.Piece.Split.Variants {
			run.Split.Variants = append(run.Split.Variants, launch.Variant{ID: v.ID, Name: v.Name, Share: v.Share})
		}
		runs := []launch.Run{run}
		if live.ID == followPiece {
			runs = followed
		}
		if err := s.Pieces.SetRuns(ctx, site, live.ID, runs); err != nil {
			return err
		}
		moves := []launch.Made{{At: began, Did: launch.Launched}}
		if !ended.IsZero() {
			moves = append(moves, launch.Made{At: ended, Did: launch.PausedIt})
		}
		if err := s.Pieces.SetMoves(ctx, site, live.ID, moves); err != nil {
			return err
		}
	}
	return nil
}

func goTo(address, words string) piece.Button {
	return piece.Button{Kind: "button", ID: "go", Words: words, Press: piece.Press{Do: piece.DoOpen, Address: address}, Counts: true}
}

// shippingLine is a bar whose two wordings do the same.
func shippingLine() *piece.Piece {
	frame := piece.UsualFrame(piece.Bar)
	design := func(words string) piece.Design {
		return piece.Design{Frame: frame, Scenes: []piece.Scene{{ID: "line", Name: "Line", Kind: piece.PlainScene, Blocks: []piece.Block{
			text("say", words, 16), goTo("/shop", "See the glazes"),
		}}}}
	}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Shipping line", Format: piece.Bar,
		Rule: reach.All{clause("page.kind", reach.In, []any{"home", "list", "product", "article"}), clause("moment.seconds_on_page", reach.Gte, 6.0)},
		Caps: caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: "P7D"}}, AfterClose: "P14D"},
		Split: piece.Split{Salt: "shipping-1", Plan: &piece.Plan{Lift: 0.4, Power: 0.8, Size: sizeOf(0.12, 0.4)}, Variants: []piece.Variant{
			{ID: "a", Name: "Free from 60 euros", Share: 50, Design: design("Shipping is free from 60 euros")},
			{ID: "b", Name: "Ordered by Thursday", Share: 50, Design: design("Ordered by Thursday, with you on Saturday")},
		}},
	})
}

// testTiles is a fly-in whose shares followed the winner.
func testTiles() *piece.Piece {
	frame := fern
	frame.Width, frame.Padding, frame.Font = 330, 24, style.Karla
	design := func(title string) piece.Design {
		return piece.Design{Frame: frame, Scenes: []piece.Scene{{ID: "ask", Name: "Invitation", Kind: piece.PlainScene, Blocks: []piece.Block{
			heading("title", title, 24), text("why", "Six test tiles of one glaze, fired in our kiln.", 16), goTo("/shop", "Show me the tiles"), closing("no", "Another time", true),
		}}}}
	}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Test tiles", Format: piece.FlyIn,
		Rule: reach.All{clause("page.kind", reach.In, []any{"product", "list", "home"}), clause("moment.seconds_on_page", reach.Gte, 12.0)},
		Caps: caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: "P7D"}}, AfterClose: "P14D", AfterConvert: caps.Forever},
		Split: piece.Split{Salt: "tiles-1", Follow: true, Variants: []piece.Variant{
			{ID: "a", Name: "Six tiles", Share: 50, Design: design("Six tiles of a glaze")},
			{ID: "b", Name: "See it fired", Share: 50, Design: design("See it fired before you buy")},
		}},
	})
}

// kilnLetter is a form in the journal that has run for a few days.
func kilnLetter() *piece.Piece {
	frame := inlineFrame(".letter", "first")
	design := func(title string) piece.Design {
		return piece.Design{Frame: frame, Scenes: []piece.Scene{{ID: "ask", Name: "Letter", Kind: piece.PlainScene, Blocks: []piece.Block{
			heading("title", title, 24), text("why", "Once a month: what came out of the kiln, and what did not.", 16), goTo("/journal/first-kiln", "Read the latest"),
		}}}}
	}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Letter from the kiln", Format: piece.Inline,
		Rule: reach.All{clause("page.path", reach.Is, "/journal")},
		Split: piece.Split{Salt: "letter-1", Plan: &piece.Plan{Lift: 0.4, Power: 0.8, Size: sizeOf(0.06, 0.4)}, Variants: []piece.Variant{
			{ID: "a", Name: "The letter", Share: 50, Design: design("A letter from the kiln")},
			{ID: "b", Name: "What broke", Share: 50, Design: design("What broke this month")},
		}},
	})
}

// sizeOf is how many visitors a variant needs, looked at every day.
func sizeOf(baseline, lift float64) int {
	size, err := weigh.Plan(weigh.Goal{Baseline: baseline, Lift: lift, Confidence: 0.95, Power: 0.8})
	if err != nil {
		panic(err)
	}
	return size.SafePerVariant
}
