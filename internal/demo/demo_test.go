package demo

import (
	"context"
	"encoding/json"
	"maps"
	"math"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/core/settle"
	"gobbet/core/weigh"
	"gobbet/internal/servertest"
	"gobbet/internal/store"
	"gobbet/internal/store/leads"
	"gobbet/internal/store/storetest"
	"gobbet/internal/store/walks"
	"gobbet/internal/studio/results"
	"gobbet/internal/studio/split"
)

func TestMain(m *testing.M) { storetest.Run(m) }

// filledUpTo are moments at which days, months and clocks turn. The scenario
// holds at each of them.
var filledUpTo = map[string]time.Time{
	"a month's first":     time.Date(2026, 11, 1, 0, 20, 0, 0, time.UTC),
	"a month's last":      time.Date(2026, 10, 31, 23, 40, 0, 0, time.UTC),
	"a leap day":          time.Date(2024, 2, 29, 12, 0, 0, 0, time.UTC),
	"the clock forward":   time.Date(2026, 3, 29, 1, 10, 0, 0, time.UTC),
	"the clock back":      time.Date(2026, 10, 25, 1, 10, 0, 0, time.UTC),
	"New Year":            time.Date(2026, 1, 1, 0, 5, 0, 0, time.UTC),
	"an ordinary evening": time.Date(2026, 11, 24, 19, 0, 0, 0, time.UTC),
}

var now time.Time // that the scenario under test is filled up to

// The scenario takes a while to fill, and is read only: all look at one. Each
// day tries another of the moments; SWEEP=1 tries all of them, and UNTIL one by
// its name.
func TestTheScenario(t *testing.T) {
	names := slices.Sorted(maps.Keys(filledUpTo))
	switch until := os.Getenv("UNTIL"); {
	case until != "":
		names = []string{until}
	case os.Getenv("SWEEP") == "":
		names = names[time.Now().YearDay()%len(names):][:1]
	}
	for _, name := range names {
		t.Run(name, func(t *testing.T) {
			now = filledUpTo[name]
			theScenario(t)
		})
	}
}

func theScenario(t *testing.T) {
	s, ctx := storetest.New(t), context.Background()
	if err := Load(ctx, s, "http://127.0.0.1:8641", now); err != nil {
		t.Fatal(err)
	}
	for _, of := range []struct {
		says string
		run  func(t *testing.T, ctx context.Context, s *store.Store)
	}{
		{"traffic shows its true rates", trafficShowsItsTrueRates}, {"answers have their true shares", answersHaveTheirTrueShares}, {"the played quiz agrees with its truth", thePlayedQuizAgreesWithItsTruth},
		{"prizes and talks agree with their truth", prizesAndTalksAgreeWithTheirTruth}, {"totals are what the events come to", totalsAreWhatTheEventsComeTo}, {"the six verdicts are right", theSixVerdictsAreRight},
	} {
		t.Run(of.says, func(t *testing.T) { of.run(t, ctx, s) })
	}
}

func totalsAreWhatTheEventsComeTo(t *testing.T, ctx context.Context, s *store.Store) {
	r, err := s.Events.Recount(ctx, 1, false)
	if err != nil || len(r.Differ) > 0 || r.Totals < 10_000 {
		t.Errorf("%d totals, %v: %v", r.Totals, r.Differ, err)
	}
}

// The studio says of each test what the generator put in, and what pieces brought.
func theSixVerdictsAreRight(t *testing.T, ctx context.Context, s *store.Store) {
	web := servertest.Serve(t, s)
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	client := &http.Client{Jar: jar}
	if a := servertest.Call(t, client, web.URL+"/api/session", "POST", `{"email":"`+Email+`","password":"`+Password+`"}`); a.Status != http.StatusOK {
		t.Fatal(a)
	}
	for piece, want := range map[string]weigh.Verdict{
		"glazeclub": weigh.Better, "classfinder": weigh.Worse, "beforeyougo": weigh.BrokenSplit, "shippingline": weigh.NoDifference, "kilnletter": weigh.KeepCollecting, followPiece: weigh.Better,
	} {
		var r split.SplitResult
		servertest.Call(t, client, web.URL+"/api/sites/1/pieces/"+piece+"/split", "GET", "").Into(t, &r)
		if r.Report.Verdict != want {
			t.Errorf("%s: %s, want %s: %s", piece, r.Report.Verdict, want, r.Report.Say)
		}
		if piece == "glazeclub" && (len(r.Gains) == 0 || !r.Gains[0].Gain.Sure || r.Gains[0].Gain.Conversions < 20) {
			t.Errorf("%+v", r.Gains)
		}
		if piece == followPiece && (!r.Runs[0].Follow || len(r.Runs) < 2 || r.Variants[1].Measure.Visitors < 3*r.Variants[0].Measure.Visitors) {
			t.Errorf("it did not follow: %+v", r.Runs)
		}
	}
	var all results.SiteResults
	servertest.Call(t, client, web.URL+"/api/sites/1/results?from="+now.AddDate(0, 0, -27).Format(time.DateOnly)+"&to="+now.Format(time.DateOnly), "GET", "").Into(t, &all)
	if !strings.Contains(all.Head, "more of “Order” than would have come by themselves") || all.Cost.Page.Views < 500 || all.Cost.Visits[0] == 0 || len(all.Leads) < 4 {
		t.Errorf("%s %+v", all.Head, all.Cost)
	}
}

// What comes out of the store must be what the generator put in, but for chance.
func trafficShowsItsTrueRates(t *testing.T, ctx context.Context, s *store.Store) {
	sites, err := s.Sites.ByID(ctx, nil)
	if err != nil || len(sites) != 1 {
		t.Fatal(sites, err)
	}
	conversions := 0
	for _, truth := range Truth {
		days, err := s.Results.Days(ctx, sites[0].ID, truth.Piece, now.AddDate(0, 0, -100))
		if err != nil {
			t.Fatal(err)
		}
		var visitors, converted float64
		for _, d := range days {
			if d.Variant == truth.Variant {
				visitors += float64(d.Visitors)
				converted += float64(d.Conversions)
			}
		}
		// The others convert by a press, or ask for no address.
		if slices.Contains([]string{"glazeclub", "beforeyougo", "glazematch", "spinforaglaze", "findyourclass"}, truth.Piece) {
			conversions += int(converted)
		}
		spread := math.Sqrt(truth.Rate * (1 - truth.Rate) / visitors)
		if rate := converted / visitors; visitors < 40 || math.Abs(rate-truth.Rate) > 4*spread {
			t.Errorf("%s %s: %.0f visitors at %.4f, true %.4f", truth.Piece, truth.Variant, visitors, rate, truth.Rate)
		}
		t.Logf("%s %s: %.0f visitors, %.0f converted", truth.Piece, truth.Variant, visitors, converted)
	}
	if n, err := s.Leads.Count(ctx, sites[0].ID, leads.Query{}); err != nil || n != conversions {
		t.Errorf("%d leads of %d conversions (%v)", n, conversions, err)
	}
}

func answersHaveTheirTrueShares(t *testing.T, ctx context.Context, s *store.Store) {
	votes, voters, err := s.Walks.Tally(ctx, 1, "kilnorclasses", "next")
	if err != nil {
		t.Fatal(err)
	}
	for _, truth := range TrueAnswers {
		if truth.Key != "next" {
			continue
		}
		share := float64(votes[truth.Choice]) / float64(voters)
		if spread := math.Sqrt(truth.Share * (1 - truth.Share) / float64(voters)); voters < 20 || math.Abs(share-truth.Share) > 4*spread {
			t.Errorf("%s: %.3f of %d, true %.3f", truth.Choice, share, voters, truth.Share)
		}
	}
}

// The report says of the quiz what the generator put in.
func thePlayedQuizAgreesWithItsTruth(t *testing.T, ctx context.Context, s *store.Store) {
	play, err := s.Walks.Played(ctx, 1, "glazematch", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	near := func(what string, part, whole int, share float64) {
		t.Helper()
		got := float64(part) / float64(whole)
		if spread := math.Sqrt(share * (1 - share) / float64(whole)); whole < 100 || math.Abs(got-share) > 4*spread {
			t.Errorf("%s: %.3f of %d, true %.3f", what, got, whole, share)
		}
	}
	reached := map[string]int{}
	for _, sc := range play.Scenes {
		reached[sc.Scene] = sc.Reached
	}
	counts := map[string]int{}
	for _, a := range play.Answers {
		counts[a.Key+"."+a.Choice] = a.Answers
	}
	for _, truth := range TrueAnswers {
		if truth.Piece == "glazematch" {
			near(truth.Key+" "+truth.Choice, counts[truth.Key+"."+truth.Choice], counts[truth.Key+"."], truth.Share)
		}
	}
	near("went on to the third question", reached["look"], reached["fire"], answersOn)
	near("left an address", reached["ash"]+reached["celadon"]+reached["tenmoku"], reached["gate"], 1-leavesAtGate)
}

// What was drawn is what the weights make likely, each code went once, and the
// conversation went where its truth says.
func prizesAndTalksAgreeWithTheirTruth(t *testing.T, ctx context.Context, s *store.Store) {
	near := func(what string, part, whole int, share float64) {
		t.Helper()
		got := float64(part) / float64(whole)
		if spread := math.Sqrt(share * (1 - share) / float64(whole)); whole < 50 || math.Abs(got-share) > 4*spread {
			t.Errorf("%s: %.3f of %d, true %.3f", what, got, whole, share)
		}
		t.Logf("%s: %.3f of %d, true %.3f", what, got, whole, share)
	}
	pooled := 0
	for _, p := range []*piece.Piece{spinForAGlaze(), springCard()} {
		id := map[string]string{"Spin for a glaze": "spinforaglaze", "Spring scratch card": "springcard"}[p.Name]
		play, err := s.Walks.Played(ctx, 1, id, time.Time{})
		if err != nil {
			t.Fatal(err)
		}
		drawn := map[string]int{}
		for _, a := range play.Answers {
			if a.Key == "prize" {
				drawn[a.Choice] = a.Answers
			}
		}
		p.Split.Variants[0].Design.EachBlock(func(_ string, _ piece.Scene, b piece.Block) {
			d, ok := b.(piece.PrizeDraw)
			if !ok {
				return
			}
			for i, odds := range flow.OddsOf(d) {
				near(id+" "+d.Parts[i].Label, drawn[d.Parts[i].ID], drawn[""], odds)
				if d.Parts[i].Pool != "" {
					pooled += drawn[d.Parts[i].ID]
				}
			}
		})
		goes, err := s.Walks.Goes(ctx, 1, id, walks.GoAt{}, 100_000)
		if err != nil || len(goes) != drawn[""] {
			t.Errorf("%s: %d goes of %d that are counted, %v", id, len(goes), drawn[""], err)
		}
	}
	pools, err := s.Codes.Pools(ctx, 1)
	if err != nil || pools[0].Given != pooled || pools[0].Left != wheelCodes-pooled || pooled == 0 {
		t.Errorf("%+v of %d that were drawn, %v", pools, pooled, err)
	}
	talk, err := s.Walks.Played(ctx, 1, "findyourclass", time.Time{})
	if err != nil {
		t.Fatal(err)
	}
	reached, counts := map[string]int{}, map[string]int{}
	for _, sc := range talk.Scenes {
		reached[sc.Scene] = sc.Reached
	}
	for _, a := range talk.Answers {
		counts[a.Key+"."+a.Choice] = a.Answers
	}
	for _, truth := range TrueAnswers {
		if truth.Piece == "findyourclass" {
			near(truth.Key+" "+truth.Choice, counts[truth.Key+"."+truth.Choice], counts[truth.Key+"."], truth.Share)
		}
	}
	near("left an address", reached["thanks"], reached["address"], leavesMail)
}

func TestTheDraftHasItsTwoNotes(t *testing.T) {
	var codes []string
	for _, n := range settle.Notes(wheelEvening(strings.Repeat("a", 32), 50), settle.Around{}) {
		codes = append(codes, n.Code)
	}
	if got := strings.Join(codes, " "); got != "no_thanks low_contrast" {
		t.Error(got)
	}
	for _, live := range []int{len(settle.Notes(beforeYouGo(), settle.Around{})), len(settle.Notes(glazeClub(strings.Repeat("a", 32), 50), settle.Around{})), len(settle.Notes(readBack(t, glazeMatch()), settle.Around{})), len(settle.Notes(readBack(t, kilnOrClasses()), settle.Around{})), len(settle.Notes(readBack(t, kilnCost()), settle.Around{})), len(settle.Notes(readBack(t, spinForAGlaze()), settle.Around{})), len(settle.Notes(readBack(t, springCard()), settle.Around{})), len(settle.Notes(readBack(t, findYourClass()), settle.Around{}))} {
		if live != 0 {
			t.Errorf("a live piece has %d notes", live)
		}
	}
}

func TestEveryPageOfTheShopAnswersWithTheLine(t *testing.T) {
	shop := Shop("http://127.0.0.1:8640", "http://127.0.0.1:8642", SiteKey)
	link := regexp.MustCompile(`href="(/[^"]*)"`)
	seen := map[string]bool{}
	todo := Paths()
	for len(todo) > 0 {
		path := todo[0]
		todo = todo[1:]
		if seen[path] {
			continue
		}
		seen[path] = true
		w := httptest.NewRecorder()
		shop.ServeHTTP(w, httptest.NewRequest("GET", path, nil))
		if w.Code != http.StatusOK {
			t.Errorf("%s: %d", path, w.Code)
		}
		if path == "/shop.css" {
			continue
		}
		if !strings.Contains(w.Body.String(), `<script async src="http://127.0.0.1:8640/v1/gobbet.js" data-site="quillfern"></script>`) {
			t.Errorf("%s lacks the line", path)
		}
		for _, m := range link.FindAllStringSubmatch(w.Body.String(), -1) {
			todo = append(todo, m[1])
		}
	}
}

// readBack is a piece as it is read from its document.
func readBack(t *testing.T, p *piece.Piece) *piece.Piece {
	t.Helper()
	raw, err := json.Marshal(p)
	if err != nil {
		t.Fatal(err)
	}
	read, err := piece.ParseWith(raw, saved)
	if err != nil {
		t.Fatal(err)
	}
	return read
}
