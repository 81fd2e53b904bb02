package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"
	"github.com/jackc/pgx/v5/pgxpool"

	"gobbet/core/formula"
	"gobbet/core/piece"
	"gobbet/core/reach"
	"gobbet/internal/server"
	"gobbet/internal/store"
	"gobbet/internal/visitor"
	"gobbet/web"
)

const (
	advanceClients = 8
	advanceWalks   = 250 // a client, a round
	advanceRounds  = 5
)

// advanced holds going on with a walk, committed before it is answered, against
// a bare Gin handler that reads the same JSON and commits one row. The
// database commits as it would in earnest. The steps are a question that is
// scored and the sum of a calculator with twenty formulas.
func advanced(ctx context.Context) error {
	url, s, site, done, err := database(ctx, store.Texts{origin})
	if err != nil {
		return err
	}
	defer done()
	p, hash, err := playedPiece(ctx, s, site)
	if err != nil {
		return err
	}
	snapshots, err := visitor.NewSnapshots(ctx, s)
	if err != nil {
		return err
	}
	gin.SetMode(gin.ReleaseMode)
	real, bare := gin.New(), gin.New()
	visitor.New(s, snapshots, visitor.Options{Page: web.Page(), Generous: generous}).Routes(real)
	pool, err := pgxpool.New(ctx, url)
	if err != nil {
		return err
	}
	defer pool.Close()
	if _, err := pool.Exec(ctx, `create table bare (id uuid primary key, body text not null)`); err != nil {
		return err
	}
	bare.POST("/advance", visitor.Limited("advance", generous, time.Minute), func(c *gin.Context) {
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
	var rates, tails []float64
	for range advanceRounds {
		theirs, theirTail, err := walks(bareAt+"/advance", p, hash)
		if err != nil {
			return err
		}
		ours, ourTail, err := walks(realAt+"/v1/sites/shop/advance", p, hash)
		if err != nil {
			return err
		}
		rates, tails = append(rates, ours/theirs), append(tails, ourTail.Seconds()/theirTail.Seconds())
	}
	fmt.Printf("advance, %d clients, walk committed, against a bare handler that commits one row (median of %d rounds):\n", advanceClients, advanceRounds)
	fmt.Printf("  throughput                      %5.2f ×        to hold: 0.60\n", median(rates))
	fmt.Printf("  p99                             %5.2f ×\n", median(tails))
	return nil
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
	raw, err := json.Marshal(p)
	if err != nil {
		return "", "", err
	}
	if err := s.AddPiece(ctx, site, "played", raw); err != nil {
		return "", "", err
	}
	hashes := map[string]string{}
	drawings := visitor.Drawings(p, nil, hashes)
	kit := map[string]string{}
	row, err := s.Sites(ctx)
	if err != nil {
		return "", "", err
	}
	visitor.Drawings(p, &row[0].Kit, kit)
	return "played", kit["a"], s.Launch(ctx, site, "played", 1, drawings)
}

// walks has clients walk, two requests each, and gives requests a second and
// the slowest hundredth.
func walks(url, id, hash string) (rate float64, p99 time.Duration, err error) {
	took := make([][]time.Duration, advanceClients)
	var wg sync.WaitGroup
	var failed error
	start := time.Now()
	for i := range advanceClients {
		wg.Go(func() {
			client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 1}}
			defer client.CloseIdleConnections()
			ask := func(req visitor.AdvanceRequest) (answer visitor.AdvanceAnswer) {
				body, _ := json.Marshal(req)
				asked := time.Now()
				said, err := post(client, url, body)
				took[i] = append(took[i], time.Since(asked))
				if err != nil {
					failed = err
					return answer
				}
				var loose struct{ Token string }
				_ = json.Unmarshal(said, &loose) // the bare handler gives none
				answer.Token = loose.Token
				return answer
			}
			for range advanceWalks {
				ref := visitor.WalkRef{ID: uuid.NewString(), Piece: id, Variant: "a", Design: hash, Visitor: "visitor-" + uuid.NewString()[:8]}
				a := ask(visitor.AdvanceRequest{Walk: ref, Steps: []visitor.StepIn{{Scene: "one", Values: map[string]any{"q1": "c3"}}}, Page: "/shop"})
				ask(visitor.AdvanceRequest{Walk: ref, Token: a.Token, From: 1, Steps: []visitor.StepIn{{Scene: "two", Values: map[string]any{"bags": 7}}}, Page: "/shop"})
			}
		})
	}
	wg.Wait()
	rate = float64(advanceClients*advanceWalks*2) / time.Since(start).Seconds()
	all := slices.Concat(took...)
	slices.Sort(all)
	return rate, all[len(all)*99/100], failed
}
