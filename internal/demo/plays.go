package demo

import (
	"context"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"golang.org/x/sync/errgroup"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/tally"
	"gobbet/core/walk"
	"gobbet/internal/store"
	"gobbet/internal/store/walks"
)

// The pieces that are played: a quiz, a poll and a calculator, and how people
// play them.

func playChoice(id, label string, weights map[string]float64) piece.Choice {
	return piece.Choice{ID: id, Label: label, Weights: weights}
}

func asked(id, key, label string, choices ...piece.Choice) piece.Field {
	return piece.Field{Kind: "field", ID: id, Ask: piece.AskChoice, Key: key, Label: label, Required: true, Bare: true, Look: "list", Advances: true, Choices: choices}
}

func bites(id string) piece.Progress {
	return piece.Progress{Kind: "progress", ID: id, Look: "bites"}
}

var backwards = piece.Button{Kind: "button", ID: "back", Words: "Back", Press: piece.Press{Do: piece.DoBack}, Quiet: true, Align: "start"}

func inlineFrame(selector, where string) piece.Frame {
	f := piece.UsualFrame(piece.Inline)
	f.Anchor = piece.Anchor{Selector: selector, Where: where}
	f.Border = piece.Border{Width: 1, Color: "@soft"}
	return f
}

// glazeMatch asks three questions and, for an address, tells which glaze suits.
func glazeMatch() *piece.Piece {
	w := func(ash, celadon, tenmoku float64) map[string]float64 {
		all := map[string]float64{}
		for id, x := range map[string]float64{"ash": ash, "celadon": celadon, "tenmoku": tenmoku} {
			if x > 0 {
				all[id] = x
			}
		}
		return all
	}
	question := func(id, to string, f piece.Field) piece.Scene {
		return piece.Scene{ID: id, Name: f.Label, Kind: piece.QuestionScene, Edges: []piece.Edge{{To: to}}, Blocks: []piece.Block{bites("far"), heading("title", f.Label, 25), f, backwards}}
	}
	result := func(id, name, title, say string) piece.Scene {
		return piece.Scene{ID: id, Name: name, Kind: piece.ResultScene, Tags: []string{"glaze: " + strings.ToLower(name)}, Blocks: []piece.Block{
			heading("title", title, 28), text("say", say, 17),
			piece.Button{Kind: "button", ID: "see", Words: "See the glaze", Press: piece.Press{Do: piece.DoOpen, Address: "/shop"}},
		}}
	}
	most := func(id string) piece.Edge {
		return piece.Edge{When: []piece.Test{{Of: piece.WeightsName, Op: piece.TestMost, Value: id}}, To: id}
	}
	frame := inlineFrame("main", "last")
	frame.Anchor.Pushes = true // below it stands the foot of the page alone
	design := piece.Design{Frame: frame, Ties: "latest", Scenes: []piece.Scene{
		question("where", "fire", asked("f", "where", "Where will your bowl live?", playChoice("table", "On the table", w(2, 1, 0)), playChoice("oven", "In the oven", w(1, 0, 2)), playChoice("shelf", "On a shelf", w(0, 2, 1)))),
		question("fire", "look", asked("f", "fire", "How do you fire?", playChoice("slow", "Slowly, and cool slowly", w(1, 0, 2)), playChoice("usual", "As the controller says", w(1, 2, 0)), playChoice("others", "Somebody fires for me", w(2, 1, 0)))),
		question("look", "gate", asked("f", "look", "What do you look for?", playChoice("quiet", "Something quiet", w(2, 1, 0)), playChoice("deep", "Something deep", w(0, 2, 1)), playChoice("dark", "Something dark", w(0, 0, 3)))),
		{ID: "gate", Name: "Sign-up", Kind: piece.FormScene, Edges: []piece.Edge{most("ash"), most("celadon"), {To: "tenmoku"}}, Blocks: []piece.Block{
			heading("title", "We have your glaze", 26), text("why", "Where shall we send it, with its firing notes? You see it here as well.", 16),
			field(piece.AskEmail, "Email", true), send("Show my glaze"),
		}},
		result("ash", "Ash", "Ash is yours", "Grey-green, breaking to amber on every edge: it suits tables, and forgives."),
		result("celadon", "Celadon", "Celadon it is", "Clear and cool, and deepest where it pools. Carve something for it."),
		result("tenmoku", "Tenmoku", "Tenmoku, of course", "Near black, with rust where it is thin. Give it a slow evening in the kiln."),
	}}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Which glaze is yours?", Format: piece.Inline,
		Page:  &piece.OwnPage{Address: "which-glaze", Title: "Which glaze is yours?", Description: "Three questions about your bowl, and the glaze that suits it."},
		Rule:  reach.All{clause("page.path", reach.In, []any{"/shop/ash-glaze", "/shop/tenmoku", "/shop/tin-white"})},
		Split: piece.Split{Salt: "match-1", Variants: []piece.Variant{{ID: "a", Name: "Three questions", Share: 50, Design: design}}},
	})
}

// kilnOrClasses asks those who have ordered what the studio should spend on next.
func kilnOrClasses() *piece.Piece {
	f := asked("f", "next", "A second kiln, or more classes?", piece.Choice{ID: "kiln", Label: "A second kiln"}, piece.Choice{ID: "classes", Label: "More classes"})
	f.Advances = false
	frame := fern
	design := piece.Design{Frame: frame, Scenes: []piece.Scene{
		{ID: "ask", Name: "Question", Kind: piece.QuestionScene, Edges: []piece.Edge{{To: "thanks"}}, Blocks: []piece.Block{
			heading("title", "A second kiln, or more classes?", 23), text("why", "We have saved for one of them. You choose.", 16), f, send("Vote"),
		}},
		{ID: "thanks", Name: "So far", Kind: piece.ThanksScene, Blocks: []piece.Block{
			heading("title", "So far", 23), piece.Tally{Kind: "tally", ID: "tally", Key: "next"}, closing("done", "Back to the shop", false),
		}},
	}}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Kiln or classes?", Format: piece.FlyIn,
		Page:  &piece.OwnPage{Address: "kiln-or-classes", Title: "A second kiln, or more classes?", Description: "We have saved for one of them. Say which, and see what others say."},
		Rule:  reach.All{clause("page.path", reach.Is, "/thanks"), clause("moment.seconds_on_page", reach.Gte, 4.0)},
		Caps:  caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}}, AfterClose: "P30D", AfterConvert: caps.Forever},
		Split: piece.Split{Salt: "kiln-1", Variants: []piece.Variant{{ID: "a", Name: "Two choices", Share: 50, Design: design}}},
	})
}

// kilnCost reckons up what clay and firings cost, in the journal.
func kilnCost() *piece.Piece {
	slider := func(id, key, label, unit, least, most, step, begin string) piece.Field {
		return piece.Field{Kind: "field", ID: id, Ask: piece.AskSlider, Key: key, Label: label, Required: true, Unit: unit, Least: least, Most: most, Step: step, Start: begin}
	}
	two := 2
	design := piece.Design{
		Frame: inlineFrame(".cost", "first"),
		Formulas: []piece.Formula{
			{Name: "month", Formula: "clay * 1.2 + firings * firing", Style: "money", Currency: "EUR", Places: &two},
			{Name: "firing", Formula: "cone > 1200 ? 21.4 : 18.2", Style: "money", Currency: "EUR", Places: &two},
		},
		Cases: []piece.Case{{Name: "A hobby month", Inputs: map[string]float64{"clay": 24, "firings": 3, "cone": 1240}, Wants: map[string]float64{"month": 93, "firing": 21.4}}},
		Scenes: []piece.Scene{{ID: "ask", Name: "Calculator", Kind: piece.FormScene, Blocks: []piece.Block{
			piece.Columns{Kind: "columns", ID: "columns", Gap: 32, Widths: []int{54, 46}, Blocks: []piece.Block{
				piece.Box{Kind: "box", ID: "inputs", Gap: 18, Blocks: []piece.Block{
					heading("title", "What will it cost?", 25), slider("clay", "clay", "Clay", "kg", "0", "60", "1", "24"), slider("firings", "firings", "Firings", "", "0", "10", "1", "3"), slider("cone", "cone", "Hottest firing", "°C", "1000", "1280", "10", "1240"),
				}},
				piece.Box{Kind: "box", ID: "sum", Background: "@soft", Padding: 24, Corners: 10, Gap: 12, Blocks: []piece.Block{
					piece.Value{Kind: "value", ID: "value", Formula: "month", Label: "A month at the studio", Size: 44, Align: "start"},
					text("working", "{clay} kg × €1.20 + {firings} firings × {firing}", 15),
					piece.Button{Kind: "button", ID: "see", Words: "See the classes", Press: piece.Press{Do: piece.DoOpen, Address: "/classes"}, Counts: true},
				}},
			}},
		}}},
	}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "What will it cost?", Format: piece.Inline,
		Page:  &piece.OwnPage{Address: "what-a-month-costs", Title: "What does a month at the wheel cost?", Description: "Clay, firings and classes, added up as you move them."},
		Rule:  reach.All{clause("page.path", reach.Is, "/journal/first-kiln")},
		Split: piece.Split{Salt: "cost-1", Variants: []piece.Variant{{ID: "a", Name: "Three sliders", Share: 50, Design: design}}},
	})
}

// TrueAnswer is how many of those who answer a question choose what.
type TrueAnswer struct {
	Piece, Key, Choice string
	Share              float64
}

// TrueAnswers is what the generator draws answers by.
var TrueAnswers = []TrueAnswer{
	{"glazematch", "where", "table", 0.50}, {"glazematch", "where", "oven", 0.22}, {"glazematch", "where", "shelf", 0.28},
	{"glazematch", "fire", "slow", 0.24}, {"glazematch", "fire", "usual", 0.46}, {"glazematch", "fire", "others", 0.30},
	{"glazematch", "look", "quiet", 0.41}, {"glazematch", "look", "deep", 0.37}, {"glazematch", "look", "dark", 0.22},
	{"kilnorclasses", "next", "kiln", 0.62}, {"kilnorclasses", "next", "classes", 0.38},
	{"findyourclass", "pull", "wheel", 0.50}, {"findyourclass", "pull", "hand", hands - 0.50}, {"findyourclass", "pull", "glazing", glazes},
	{"findyourclass", "before", "never", 0.47}, {"findyourclass", "before", "little", 0.35}, {"findyourclass", "before", "often", 0.18},
	{"findyourclass", "want", "yes", saysYes}, {"findyourclass", "want", "no", 1 - saysYes},
}

// How many of those who see the quiz begin it, and of those at a scene how many go on.
const (
	beginsQuiz   = 0.34
	answersOn    = 0.90
	leavesAtGate = 0.45
	votes        = 0.31
	seesClasses  = 0.08
)

// QuizRate is how many of those who see the quiz leave an address.
const QuizRate = beginsQuiz * answersOn * answersOn * (1 - leavesAtGate)

// plays draws how people play, from a generator of its own.
type plays struct {
	*rand.Rand
	t     *traffic
	walks []played
}

type played struct {
	piece choose.Live
	who   walks.Walker
	steps []walk.Step
}

// play goes over the recorded page views once more, in order.
func (t *traffic) play(pieces []choose.Live) []played {
	p := &plays{Rand: rand.New(rand.NewPCG(20261125, 9)), t: t}
	seen := map[string]bool{}
	views := slices.Clone(t.shownViews)
	slices.SortStableFunc(views, func(a, b shownView) int { return a.at.Compare(b.at) })
	for _, v := range views {
		for _, live := range pieces {
			if v.at.Before(t.now.AddDate(0, 0, -liveDays)) || !p.comes(live.ID, v) {
				continue
			}
			first := !seen[live.ID+v.token]
			if live.ID == "kilnorclasses" && !first {
				continue // once is enough
			}
			seen[live.ID+v.token] = true
			p.shown(live, v, first)
		}
	}
	return p.walks
}

// comes reports whether a piece shows on a page view.
func (p *plays) comes(id string, v shownView) bool {
	switch id {
	case "glazematch":
		return slices.Contains([]string{"/shop/ash-glaze", "/shop/tenmoku", "/shop/tin-white"}, v.path)
	case "kilncost":
		return v.path == "/journal/first-kiln"
	case "kilnorclasses":
		return v.path == "/thanks" && v.seconds >= 4
	}
	return false
}

func (p *plays) shown(live choose.Live, v shownView, first bool) {
	event := func(kind string, at time.Time) {
		if at.After(p.t.now) {
			at = p.t.now
		}
		p.t.events = append(p.t.events, tally.Event{ID: p.uuid(at), At: at, Kind: kind, Piece: live.ID, Variant: "a", Run: 1, Visitor: v.token, Visit: v.visit, Page: v.path, Cuts: v.cuts, After: -1})
	}
	event(tally.Shown, v.at)
	if !first {
		return
	}
	one := played{piece: live, who: walks.Walker{
		Walk: p.uuid(v.at), Run: 1, Piece: live.ID, Variant: "a", Visitor: v.token, Visit: v.visit, Page: v.path, Channel: v.from.channel, Campaign: v.from.campaign, Referrer: v.from.host, Device: v.cuts.Device, Country: v.cuts.Country, Known: v.cuts.Known, LikelyNew: true,
	}}
	at := v.at.Add(time.Duration(3+p.IntN(12)) * time.Second)
	step := func(scene string, values map[string]string) {
		one.steps = append(one.steps, walk.Step{Step: flow.Step{Scene: scene, Values: values}, At: at, Heard: at})
		at = at.Add(time.Duration(3+p.ExpFloat64()*9) * time.Second)
	}
	switch live.ID {
	case "kilncost":
		if p.Float64() < seesClasses {
			event(tally.Converted, at)
		}
	case "kilnorclasses":
		if p.Float64() < votes {
			step("ask", map[string]string{"next": p.answer(live.ID, "next")})
		}
	case "glazematch":
		if p.Float64() >= beginsQuiz {
			break
		}
		for i, key := range []string{"where", "fire", "look"} {
			if i > 0 && p.Float64() >= answersOn {
				break
			}
			step(key, map[string]string{key: p.answer(live.ID, key)})
		}
		if len(one.steps) == 3 && p.Float64() >= leavesAtGate {
			_, email := p.t.somebody()
			step("gate", map[string]string{"email": email})
		}
	}
	if len(one.steps) > 0 && !one.steps[len(one.steps)-1].At.After(p.t.now) {
		one.who.At = one.steps[len(one.steps)-1].At
		p.walks = append(p.walks, one)
	}
}

func (p *plays) answer(id, key string) string {
	r := p.Float64()
	for _, a := range TrueAnswers {
		if a.Piece == id && a.Key == key {
			if r -= a.Share; r < 0 {
				return a.Choice
			}
		}
	}
	panic("demo: no answers to " + key)
}

func (p *plays) uuid(at time.Time) string { return timedID(p.Rand, at) }

// storePlays stores walks as if visitors had walked them: those of a piece in their
// order, for the stock of its draws, and several pieces at once.
func storePlays(ctx context.Context, s *store.Store, site int64, zone *time.Location, walks []played) error {
	pieces := map[string][]played{}
	for _, w := range walks {
		pieces[w.piece.ID] = append(pieces[w.piece.ID], w)
	}
	all, ctx := errgroup.WithContext(ctx)
	all.SetLimit(4)
	for _, walks := range pieces {
		all.Go(func() error { return storeWalks(ctx, s, site, zone, walks) })
	}
	return all.Wait()
}

// storeWalks stores the walks of one piece.
func storeWalks(ctx context.Context, s *store.Store, site int64, zone *time.Location, walks []played) error {
	kit := shopKit
	ready := map[string]*flow.Graph{}
	hashes := map[string]string{}
	for _, w := range walks {
		g := ready[w.who.Variant]
		if g == nil {
			variant, _ := w.piece.Piece.Variant(w.who.Variant)
			var err error
			if g, err = flow.Of(variant.Design); err != nil {
				return err
			}
			drawn := map[string]string{}
			w.piece.Piece.Drawings(&kit, drawn)
			ready[w.who.Variant], hashes[w.who.Variant] = g, drawn[variant.ID]
		}
		w.who.Design = hashes[w.who.Variant]
		ask := walk.Request{Graph: g, Design: w.who.Design, Steps: w.steps, Owned: true, Now: w.who.At, Draw: func(d piece.PrizeDraw) *walk.Draw { return walk.DrawOf(d, d) }}
		w.who.Digest = strings.ToLower
		if _, err := s.Walks.Advance(ctx, site, zone, w.who, func(before walk.Before) (walk.Next, error) { return walk.Advance(before, ask) }); err != nil {
			return err
		}
	}
	return nil
}
