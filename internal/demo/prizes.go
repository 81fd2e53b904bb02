package demo

import (
	"math/rand/v2"
	"slices"
	"time"

	"gobbet/core/caps"
	"gobbet/core/choose"
	"gobbet/core/draw"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/tally"
	"gobbet/core/walk"
	"gobbet/internal/store/walks"
)

// The conversation on the class pages, the wheel for those about to leave, and
// the scratch card of the spring.

const (
	wheelPool  = "glaze-wheel"
	wheelCodes = 300
)

// poolCodes are the codes of the wheel's pool, always the same.
func poolCodes() []string {
	codes, err := draw.Codes("GLAZE-####-**", wheelCodes, rand.NewPCG(20261125, 3))
	if err != nil {
		panic(err)
	}
	return codes
}

// spinForAGlaze is a wheel for those about to leave the shop.
func spinForAGlaze() *piece.Piece {
	frame := fern
	frame.Width, frame.Padding = 820, 34
	frame.Backdrop.Opacity = 55
	won := func(id, name, title, say string, more ...piece.Block) piece.Scene {
		return piece.Scene{ID: id, Name: name, Kind: piece.ThanksScene, Blocks: append([]piece.Block{heading("title", title, 30), text("say", say, 16)}, append(more, closing("done", "Back to the shop", false))...)}
	}
	code := piece.Code{Kind: "code", ID: "code", Draw: "prize", Words: "Copy", Copied: "Copied", Apply: "/basket", ApplyWords: "To the basket", Size: 20}
	wheel := piece.PrizeDraw{Kind: "draw", ID: "wheel", Key: "prize", Label: "What the wheel gave", Look: "wheel", Words: "Spin", Odds: true, Size: 330, Color: "@ink", Parts: []piece.DrawPart{
		{ID: "ten", Label: "10 % off", Weight: 3, Pool: wheelPool, Fill: "@accent"},
		{ID: "tile", Label: "A test tile", Weight: 4, Code: "TILE-WITH-ORDER", Fill: "@soft"},
		{ID: "post", Label: "Free post", Weight: 1, Code: "FREE-POST", Fill: "@amber"},
		{ID: "nothing", Label: "Not today", Weight: 3, Nothing: true},
		{ID: "fifteen", Label: "15 % off", Weight: 1, Pool: wheelPool, Fill: "@terracotta"},
	}}
	design := piece.Design{Frame: frame, Scenes: []piece.Scene{
		{ID: "spin", Name: "The wheel", Kind: piece.FormScene, Edges: []piece.Edge{
			{Block: "send", When: []piece.Test{{Of: "prize", Op: piece.TestIs, Value: "nothing"}}, To: "lost"}, {Block: "send", To: "won"},
		}, Blocks: []piece.Block{
			piece.Columns{Kind: "columns", ID: "columns", Gap: 28, Widths: []int{54, 46}, Lined: "middle", Blocks: []piece.Block{
				wheel,
				piece.Box{Kind: "box", ID: "form", Gap: 14, Blocks: []piece.Block{
					heading("title", "A spin before you go?", 30), text("why", "One go each. What stops at the gap is yours.", 16),
					field(piece.AskEmail, "Email", true), send("Spin the wheel"), closing("no", "No, thank you", true),
				}},
			}},
		}},
		won("won", "Won", "{prize|Your prize} is yours", "Use the code in your basket until the end of the month.", code),
		won("lost", "Not won", "Not today", "The kiln has its moods, too. Thank you for playing."),
	}}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Spin for a glaze", Format: piece.Popup,
		Page: &piece.OwnPage{Address: "spin", Title: "Spin for a glaze", Description: "One go each: a code, a test tile, or free post."},
		Rule: reach.All{
			clause("page.path", reach.Is, "/basket"),
			reach.Any{
				reach.All{clause("device.kind", reach.Is, "desktop"), clause("moment.exit_intent", reach.Happened, nil)},
				reach.All{clause("device.kind", reach.IsNot, "desktop"), clause("moment.seconds_on_page", reach.Gte, 30.0)},
			},
		},
		Caps:  caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 3, Per: "P30D"}}, AfterClose: "P14D", AfterConvert: caps.Forever},
		Split: piece.Split{Salt: "spin-1", Variants: []piece.Variant{{ID: "a", Name: "Five parts", Share: 50, Design: design}}},
	})
}

// springCard is a scratch card in a corner beside the clay.
func springCard() *piece.Piece {
	card := piece.PrizeDraw{Kind: "draw", ID: "card", Key: "prize", Label: "Under the card", Look: "card", Words: "Scratch here", Odds: true, Counts: true, Size: 300, Parts: []piece.DrawPart{
		{ID: "five", Label: "5 € off clay", Weight: 5, Code: "SPRING-CLAY"}, {ID: "brush", Label: "A glaze brush", Weight: 1, Code: "SPRING-BRUSH", Stock: new(40)}, {ID: "nothing", Label: "Not this one", Weight: 4, Nothing: true},
	}}
	code := piece.Code{Kind: "code", ID: "code", Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}
	design := piece.Design{Frame: fern, Scenes: []piece.Scene{
		{ID: "card", Name: "The card", Kind: piece.FormScene, Blocks: []piece.Block{heading("title", "Spring in the studio", 24), text("why", "A card for everyone who looks in. Scratch yours.", 16), card},
			Edges: []piece.Edge{{When: []piece.Test{{Of: "prize", Op: piece.TestIs, Value: "nothing"}}, To: "lost"}, {To: "won"}}},
		{ID: "won", Name: "Won", Kind: piece.ThanksScene, Blocks: []piece.Block{heading("title", "{prize|Your prize}", 26), text("say", "With your next order of clay.", 16), code, closing("done", "Back to the shop", false)}},
		{ID: "lost", Name: "Not won", Kind: piece.ThanksScene, Blocks: []piece.Block{heading("title", "Not this one", 26), text("say", "There is a new card next month.", 16), closing("done", "Back to the shop", false)}},
	}}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Spring scratch card", Format: piece.FlyIn,
		Page:  &piece.OwnPage{Address: "spring-card", Title: "Spring in the studio", Description: "A card to scratch for everyone who looks in."},
		Rule:  reach.All{clause("page.path", reach.In, clayPages), clause("moment.seconds_on_page", reach.Gte, 8.0)},
		Caps:  caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}}, AfterClose: "P14D", AfterConvert: "P30D"},
		Split: piece.Split{Salt: "card-1", Variants: []piece.Variant{{ID: "a", Name: "Three parts", Share: 50, Design: design}}},
	})
}

// clayPages are those that the card is on.
var clayPages = []any{"/shop/river-clay", "/shop/porcelain", "/shop/raku-clay"}

// findYourClass is a conversation on the class pages.
func findYourClass() *piece.Piece {
	say := func(id, words string) piece.Text { return text(id, words, 16) }
	answers := func(key, label string, choices ...piece.Choice) piece.Field {
		return piece.Field{Kind: "field", ID: "f", Ask: piece.AskChoice, Key: key, Label: label, Required: true, Bare: true, Advances: true, Choices: choices}
	}
	is := func(key, choice, to string) piece.Edge {
		return piece.Edge{When: []piece.Test{{Of: key, Op: piece.TestIs, Value: choice}}, To: to}
	}
	link := func(id, words string, press piece.Press) piece.Button {
		return piece.Button{Kind: "button", ID: id, Words: words, Press: press, Counts: true}
	}
	frame := piece.UsualFrame(piece.Chat)
	frame.Tab.Words = "Which class suits you?"
	frame.Talk = &piece.Talk{Name: "Find your class", Face: "cup", Pace: "calm"}
	email := field(piece.AskEmail, "Email", true)
	email.Bare, email.Hint, email.Message = true, "name@example.com", "That does not look like an email address."
	design := piece.Design{Frame: frame, Scenes: []piece.Scene{
		{ID: "pull", Name: "Wheel, hand-building or glazing", Kind: piece.QuestionScene, Edges: []piece.Edge{is("pull", "glazing", "glaze"), {To: "before"}}, Blocks: []piece.Block{
			say("hello", "Hello! Two questions, and I know your evening."), say("ask", "Wheel, hand-building or glazing: which pulls you?"),
			answers("pull", "Which pulls you?", piece.Choice{ID: "wheel", Label: "Wheel"}, piece.Choice{ID: "hand", Label: "Hand-building"}, piece.Choice{ID: "glazing", Label: "Glazing"}),
		}},
		{ID: "before", Name: "Thrown before", Kind: piece.QuestionScene, Edges: []piece.Edge{is("before", "never", "first"), {To: "want"}}, Blocks: []piece.Block{
			say("ask", "Good hands. Have you done it before?"), answers("before", "Have you done it before?", piece.Choice{ID: "never", Label: "Never"}, piece.Choice{ID: "little", Label: "A little"}, piece.Choice{ID: "often", Label: "Often"}),
		}},
		{ID: "first", Name: "For beginners", Kind: piece.PlainScene, Passes: true, Edges: []piece.Edge{{To: "want"}}, Blocks: []piece.Block{say("say", "Then Tuesdays: nobody there has, either.")}},
		{ID: "glaze", Name: "Glazing", Kind: piece.PlainScene, Passes: true, Edges: []piece.Edge{{To: "want"}}, Blocks: []piece.Block{say("say", "Once a month, on a Saturday. Bring what you have bisqued.")}},
		{ID: "want", Name: "A place", Kind: piece.QuestionScene, Edges: []piece.Edge{is("want", "no", "bye"), {To: "address"}}, Blocks: []piece.Block{
			say("ask", "Shall I write to you when a place comes free?"), answers("want", "Shall I write?", piece.Choice{ID: "yes", Label: "Yes, please"}, piece.Choice{ID: "no", Label: "No, thank you"}),
		}},
		{ID: "address", Name: "Address", Kind: piece.FormScene, Edges: []piece.Edge{{To: "thanks"}}, Blocks: []piece.Block{say("ask", "Gladly. Where to?"), email, send("Send")}},
		{ID: "thanks", Name: "Thank-you", Kind: piece.ThanksScene, Blocks: []piece.Block{say("say", "Written down. You hear from us before anyone else."), link("see", "See all classes", piece.Press{Do: piece.DoOpen, Address: "/classes"})}},
		{ID: "bye", Name: "Another way", Kind: piece.ThanksScene, Blocks: []piece.Block{
			say("say", "No trouble. If you would rather ask a person:"),
			link("chat", "A messenger", piece.Press{Do: piece.DoOpen, Address: "https://chat.example.com/quillfern", NewTab: true}), link("call", "Call the studio", piece.Press{Do: piece.DoCall, Address: "+353 555 0142"}), link("mail", "Write to us", piece.Press{Do: piece.DoMail, Address: "studio@quillfern.test"}),
		}},
	}}
	return finish(&piece.Piece{
		Version: piece.Version, Name: "Find your class", Format: piece.Chat,
		Page:  &piece.OwnPage{Address: "find-your-class", Title: "Find your class", Description: "Two questions, and the evening that suits you."},
		Rule:  reach.All{clause("page.path", reach.StartsWith, "/classes")},
		Split: piece.Split{Salt: "talk-1", Variants: []piece.Variant{{ID: "a", Name: "Two questions", Share: 50, Design: design}}},
	})
}

// How many of those who see them take a go, or begin to talk; and of those who
// talk, how many go on at each line and say yes to a letter.
const (
	spins      = 0.22
	scratches  = 0.46
	talksToUs  = 0.27
	talksOn    = 0.86
	leavesMail = 0.74
)

// TalkRate is how many of those who see the conversation leave an address.
const TalkRate = talksToUs * (hands*talksOn + glazes) * talksOn * saysYes * leavesMail

// Of those who answer: who is for glazing skips a question, and so on.
const (
	glazes  = 0.22
	hands   = 1 - glazes
	saysYes = 0.41
)

// prizes plays what has prizes or talks over the page views, as play does.
func (t *traffic) prizes(pieces []choose.Live) []played {
	p := &plays{Rand: rand.New(rand.NewPCG(20261126, 11)), t: t}
	seen := map[string]bool{}
	views := slices.Clone(t.shownViews)
	slices.SortStableFunc(views, func(a, b shownView) int { return a.at.Compare(b.at) })
	for _, v := range views {
		for _, live := range pieces {
			if v.at.Before(t.now.AddDate(0, 0, -liveDays)) || !p.prizeComes(live.ID, v) || seen[live.ID+v.token] {
				continue
			}
			seen[live.ID+v.token] = true
			p.takes(live, v)
		}
	}
	return p.walks
}

func (p *plays) prizeComes(id string, v shownView) bool {
	switch id {
	case "spinforaglaze":
		return v.path == "/basket" && v.seconds >= 20
	case "springcard":
		return slices.Contains(clayPages, any(v.path)) && v.seconds >= 8
	case "findyourclass":
		return v.path == "/classes"
	}
	return false
}

func (p *plays) takes(live choose.Live, v shownView) {
	event := func(kind string, at time.Time) {
		p.t.events = append(p.t.events, tally.Event{ID: p.uuid(at), At: earlier(at, p.t.now), Kind: kind, Piece: live.ID, Variant: "a", Run: 1, Visitor: v.token, Visit: v.visit, Page: v.path, Cuts: v.cuts, After: -1})
	}
	event(tally.Shown, v.at)
	one := played{piece: live, who: walks.Walker{
		Walk: p.uuid(v.at), Run: 1, Piece: live.ID, Variant: "a", Visitor: v.token, Visit: v.visit, Page: v.path, Channel: v.from.channel, Campaign: v.from.campaign, Referrer: v.from.host, Device: v.cuts.Device, Country: v.cuts.Country, Known: v.cuts.Known, LikelyNew: true,
		Source: rand.NewPCG(p.Uint64(), 5),
	}}
	at := v.at.Add(time.Duration(4+p.IntN(14)) * time.Second)
	step := func(scene string, values map[string]string) {
		one.steps = append(one.steps, walk.Step{Step: flow.Step{Scene: scene, Values: values}, At: at, Heard: at})
		at = at.Add(time.Duration(3+p.ExpFloat64()*8) * time.Second)
	}
	switch live.ID {
	case "spinforaglaze":
		if p.Float64() < spins {
			_, email := p.t.somebody()
			step("spin", map[string]string{"email": email})
		}
	case "springcard":
		if p.Float64() < scratches {
			step("card", nil)
		}
	case "findyourclass":
		p.talks(step)
	}
	if len(one.steps) > 0 && !one.steps[len(one.steps)-1].At.After(p.t.now) {
		one.who.At = one.steps[len(one.steps)-1].At
		p.walks = append(p.walks, one)
	}
}

// talks goes through the conversation as far as somebody does.
func (p *plays) talks(step func(scene string, values map[string]string)) {
	if p.Float64() >= talksToUs {
		return
	}
	pull := p.answer("findyourclass", "pull")
	step("pull", map[string]string{"pull": pull})
	if pull == "glazing" {
		step("glaze", nil)
	} else {
		if p.Float64() >= talksOn {
			return
		}
		before := p.answer("findyourclass", "before")
		step("before", map[string]string{"before": before})
		if before == "never" {
			step("first", nil)
		}
	}
	if p.Float64() >= talksOn {
		return
	}
	want := p.answer("findyourclass", "want")
	step("want", map[string]string{"want": want})
	if want == "yes" && p.Float64() < leavesMail {
		_, email := p.t.somebody()
		step("address", map[string]string{"email": email})
	}
}

func earlier(a, b time.Time) time.Time {
	if a.After(b) {
		return b
	}
	return a
}
