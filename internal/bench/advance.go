package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"slices"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"

	"gobbet/core/formula"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/core/walk"
	"gobbet/internal/limits"
	"gobbet/internal/server"
	"gobbet/internal/store"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/visitor"
	"gobbet/web"
)

var (
	advanceClients = 16
	advanceWalks   = size(250, 4) // a client, a round
	advanceRounds  = times(5)
)

// advanced holds going on with a walk, committed before it is answered, against
// a bare Gin handler that reads the same JSON and commits one row. The
// database commits as it would in earnest. The steps are a question that is
// scored and the sum of a calculator with twenty formulas.
func advanced(ctx context.Context) error {
	url, s, site, done, err := database(ctx, sites.Texts{origin})
	if err != nil {
		return err
	}
	defer done()
	p, hash, err := playedPiece(ctx, s, site)
	if err != nil {
		return err
	}
	prizes, wheel, err := launched(ctx, s, site, "wheel", wheelPiece())
	if err != nil {
		return err
	}
	snapshots, err := visitor.NewSnapshots(ctx, visitor.StoresOf(s))
	if err != nil {
		return err
	}
	gin.SetMode(gin.ReleaseMode)
	real, bare := gin.New(), gin.New()
	visitor.New(visitor.StoresOf(s), snapshots, visitor.Options{Page: web.Page(), Generous: generous}).Routes(real)
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return err
	}
	defer pool.Close()
	if _, err := pool.Exec(ctx, `create table bare (id uuid primary key, body text not null)`); err != nil {
		return err
	}
	bare.POST("/advance", limits.New(nil).Address("advance", generous, time.Minute), func(c *gin.Context) {
		var req visitor.AdvanceRequest
		given, _ := io.ReadAll(c.Request.Body)
		if json.Unmarshal(given, &req) != nil {
			c.Status(http.StatusBadRequest)
			return
		}
		if _, err := pool.Exec(c, `insert into bare (id, body) values ($1, $2)`, uuid.New(), string(given)); err != nil {
			c.Status(http.StatusInternalServerError)
			return
		}
		c.JSON(http.StatusOK, gin.H{"steps": 1, "scene": "two"})
	})
	realAt, stopReal := listen(server.Logged(real))
	defer stopReal()
	bareAt, stopBare := listen(server.Logged(bare))
	defer stopBare()
	fmt.Printf("advance, walk committed, against a bare handler that commits one row (median of %d rounds):\n", advanceRounds)
	walk := func(url string, clients int) (float64, time.Duration, error) { return walks(url, p, hash, clients) }
	if err := beside(bareAt, realAt, advanceClients, 1, walk); err != nil {
		return err
	}
	if err := beside(bareAt, realAt, 1, 0.6, walk); err != nil {
		return err
	}
	// The first round is not counted: after it the database knows how large the
	// table of goes is, as autovacuum has it know within a minute.
	turn := func(url string, clients int) (float64, time.Duration, error) {
		return goes(url, prizes, wheel, clients)
	}
	if _, _, err := turn(realAt+"/v1/sites/shop/advance", advanceClients); err != nil {
		return err
	}
	if _, err := pool.Exec(ctx, `analyze goes`); err != nil {
		return err
	}
	fmt.Printf("a go at a prize draw, drawn and committed, against the same:\n")
	return beside(bareAt, realAt, advanceClients, 1, turn)
}

// beside has clients ask one server and then the other, in rounds, and prints how
// many requests a second ours answers for each of theirs, and how the slowest compare.
func beside(bareAt, realAt string, clients int, hold float64, ask func(url string, clients int) (rate float64, p99 time.Duration, err error)) error {
	var rates, tails []float64
	for range advanceRounds {
		theirs, theirTail, err := ask(bareAt+"/advance", clients)
		if err != nil {
			return err
		}
		ours, ourTail, err := ask(realAt+"/v1/sites/shop/advance", clients)
		if err != nil {
			return err
		}
		if os.Getenv("BENCH_RATES") != "" {
			fmt.Printf("%.0f and %.0f a second\n", ours, theirs)
		}
		rates, tails = append(rates, ours/theirs), append(tails, ourTail.Seconds()/theirTail.Seconds())
	}
	fmt.Printf("  %2d at once: throughput          %5.2f ×        to hold: %.2f\n", clients, median(rates), hold)
	fmt.Printf("              p99                 %5.2f ×        to hold: 1.50 at most\n", median(tails))
	return nil
}

// wheelPiece is a draw of four parts, and what comes after it.
func wheelPiece() *piece.Piece {
	p := piece.New("Wheel", piece.Popup, "salt")
	p.Rule = reach.All{}
	p.Split.Variants[0].Design.Scenes = []piece.Scene{
		{ID: "spin", Name: "Spin", Kind: piece.FormScene, Edges: []piece.Edge{{When: []piece.Test{{Of: "prize", Op: piece.TestIs, Value: "none"}}, To: "lost"}, {To: "won"}}, Blocks: []piece.Block{
			piece.PrizeDraw{Kind: "draw", ID: "d", Key: "prize", Label: "Prize", Look: "wheel", Words: "Spin", Size: 300, Parts: []piece.DrawPart{
				{ID: "ten", Label: "10 % off", Weight: 3, Code: "TEN"}, {ID: "post", Label: "Free post", Weight: 2, Code: "POST"}, {ID: "tile", Label: "A tile", Weight: 1, Code: "TILE"}, {ID: "none", Label: "Nothing", Weight: 4, Nothing: true},
			}}}},
		{ID: "won", Name: "Won", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Code{Kind: "code", ID: "c", Draw: "prize", Words: "Copy", Copied: "Copied", Size: 20}}},
		{ID: "lost", Name: "Lost", Kind: piece.ThanksScene, Blocks: []piece.Block{piece.Heading{Kind: "heading", ID: "h", Text: piece.Plain("Not this time"), Size: 20, Align: "start"}}},
	}
	return p
}

// playedPiece is a scored question, a calculator of twenty formulas, and a result.
func playedPiece(ctx context.Context, s *store.Store, site int64) (id, hash string, err error) {
	p := piece.New("Played", piece.Popup, "salt")
	p.Rule = reach.All{}
	button := piece.Button{Kind: "button", ID: "on", Words: "On", Press: piece.Press{Do: piece.DoSend}}
	var choices []piece.Choice
	for i := range 5 {
		choices = append(choices, piece.Choice{ID: fmt.Sprint("c", i), Label: fmt.Sprint("Choice ", i), Score: float64(i), Weights: map[string]float64{"end": 1}})
	}
	d := &p.Split.Variants[0].Design
	d.Scenes = []piece.Scene{
		{ID: "one", Name: "One", Kind: piece.QuestionScene, Edges: []piece.Edge{{When: []piece.Test{{Of: "score", Op: piece.TestGte, Value: 2.0}}, To: "two"}, {To: "two"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskChoice, Key: "q1", Label: "One?", Required: true, Choices: choices}, button}},
		{ID: "two", Name: "Two", Kind: piece.FormScene, Edges: []piece.Edge{{When: []piece.Test{{Of: "f19", Op: piece.TestGte, Value: 0.0}}, To: "end"}, {To: "one"}}, Blocks: []piece.Block{
			piece.Field{Kind: "field", ID: "f", Ask: piece.AskSlider, Key: "bags", Label: "Bags", Required: true, Least: "0", Most: "20"}, button}},
		{ID: "end", Name: "End", Kind: piece.ResultScene, Blocks: []piece.Block{piece.Value{Kind: "value", ID: "v", Formula: "f19", Size: 20, Align: "start"}}},
	}
	for i := range 20 {
		text := "round(bags * 12.5 + q1 / 3, 2)"
		if i > 0 {
			text = fmt.Sprintf("f%d * 1.01 + if(bags > %d, 1, 0)", i-1, i)
		}
		parsed, err := formula.Parse(text)
		if err != nil {
			return "", "", err
		}
		d.Formulas = append(d.Formulas, piece.Formula{Name: fmt.Sprint("f", i), Formula: text, Parsed: parsed})
	}
	return launched(ctx, s, site, "played", p)
}

// launched puts a piece live, and gives the hash of its drawing.
func launched(ctx context.Context, s *store.Store, site int64, id string, p *piece.Piece) (_, hash string, err error) {
	raw, err := json.Marshal(p)
	if err != nil {
		return "", "", err
	}
	if err := s.Pieces.Add(ctx, site, id, raw); err != nil {
		return "", "", err
	}
	row, err := s.Sites.ByID(ctx, nil)
	if err != nil {
		return "", "", err
	}
	hashes := map[string]string{}
	p.Drawings(&row[0].Kit, hashes)
	return id, hashes["a"], s.Pieces.Launch(ctx, pieces.Act{Site: site}, id, 1, p.Drawings(nil, nil))
}

// walks has clients walk, two requests each, and gives requests a second and
// the slowest hundredth.
func walks(url, id, hash string, clients int) (rate float64, p99 time.Duration, err error) {
	return crowd(url, clients, 2, func(ask func(visitor.AdvanceRequest) string) {
		ref := visitor.WalkRef{ID: uuid.NewString(), Piece: id, Variant: "a", Design: hash, Visitor: "visitor-" + uuid.NewString()[:8]}
		token := ask(visitor.AdvanceRequest{Walk: ref, Steps: []walk.SentStep{{Scene: "one", Values: map[string]any{"q1": "c3"}}}, Page: "/shop"})
		ask(visitor.AdvanceRequest{Walk: ref, Token: token, From: 1, Steps: []walk.SentStep{{Scene: "two", Values: map[string]any{"bags": 7}}}, Page: "/shop"})
	})
}

// goes has clients take a go each time as another visitor.
func goes(url, id, hash string, clients int) (rate float64, p99 time.Duration, err error) {
	return crowd(url, clients, 1, func(ask func(visitor.AdvanceRequest) string) {
		ref := visitor.WalkRef{ID: uuid.NewString(), Piece: id, Variant: "a", Design: hash, Visitor: "visitor-" + uuid.NewString()[:8]}
		ask(visitor.AdvanceRequest{Walk: ref, Steps: []walk.SentStep{{Scene: "spin"}}, Page: "/shop"})
	})
}

// crowd has several clients do the same over and over, with so many requests
// each time.
func crowd(url string, clients, requests int, does func(ask func(visitor.AdvanceRequest) (token string))) (rate float64, p99 time.Duration, err error) {
	took := make([][]time.Duration, clients)
	var wg sync.WaitGroup
	var failed error
	start := time.Now()
	for i := range clients {
		wg.Go(func() {
			client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 1}}
			defer client.CloseIdleConnections()
			ask := func(req visitor.AdvanceRequest) string {
				body, _ := json.Marshal(req)
				asked := time.Now()
				said, err := post(client, url, body)
				took[i] = append(took[i], time.Since(asked))
				if err != nil {
					failed = err
					return ""
				}
				var loose struct{ Token string }
				_ = json.Unmarshal(said, &loose) // the bare handler gives none
				return loose.Token
			}
			for range advanceWalks {
				does(ask)
			}
		})
	}
	wg.Wait()
	rate = float64(clients*advanceWalks*requests) / time.Since(start).Seconds()
	all := slices.Concat(took...)
	slices.Sort(all)
	return rate, all[len(all)*99/100], failed
}
