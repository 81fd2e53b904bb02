// Command engines judges one rule of ten clauses on one visit with Gobbet's
// own core, with expr and with CEL, side by side in one run. It is a module of
// its own, so that neither engine becomes a dependency.
package main

import (
	"flag"
	"fmt"
	"log"
	"os"
	"slices"
	"testing"

	"cel.dev/cel-go/cel"
	"github.com/expr-lang/expr"

	"gobbet/core/reach"
)

const rule = `{"all":[
	{"fact":"page.path","op":"starts_with","value":"/journal"},
	{"not":{"fact":"device.kind","op":"is","value":"phone"}},
	{"fact":"source.channel","op":"in","value":["search","email","social"]},
	{"fact":"visitor.visits","op":"gte","value":2},
	{"fact":"place.country","op":"is","value":"IE"},
	{"fact":"device.language","op":"starts_with","value":"en"},
	{"fact":"visitor.lead","op":"is","value":false},
	{"any":[
		{"fact":"page.title","op":"contains","value":"celadon"},
		{"fact":"data.basket_total","op":"between","value":[20,200]},
		{"fact":"page.path","op":"like","value":"*ash*"}]}]}`

// The engines compare texts as they are; Gobbet compares them without regard
// to case, which is more work. The visit makes every clause but one be asked.
const exprRule = `path startsWith "/journal" && !(device == "phone") && channel in ["search", "email", "social"] && visits >= 2 && country == "IE" &&
	language startsWith "en" && lead == false && (title contains "celadon" || (total >= 20 && total <= 200) || path contains "ash")`

const celRule = `path.startsWith("/journal") && !(device == "phone") && channel in ["search", "email", "social"] && visits >= 2.0 && country == "IE" &&
	language.startsWith("en") && lead == false && (title.contains("celadon") || (total >= 20.0 && total <= 200.0) || path.contains("ash"))`

type visit struct {
	Path     string  `expr:"path"`
	Device   string  `expr:"device"`
	Channel  string  `expr:"channel"`
	Visits   float64 `expr:"visits"`
	Country  string  `expr:"country"`
	Language string  `expr:"language"`
	Lead     bool    `expr:"lead"`
	Title    string  `expr:"title"`
	Total    float64 `expr:"total"`
}

var one = visit{"/journal/ash-glaze", "desktop", "email", 3, "IE", "en-IE", false, "What the ash knows", 42}

// BENCH_ONCE has one short round, to see that all of it runs.
var once = os.Getenv("BENCH_ONCE") != ""

var rounds = 7

func main() {
	testing.Init()
	if once {
		rounds = 1
		flag.Set("test.benchtime", "1x")
	}
	judges := []struct {
		name  string
		judge func() bool
	}{{"gobbet", gobbet()}, {"expr", withExpr()}, {"cel", withCEL()}}
	ns, allocs := make([][]float64, len(judges)), make([]int64, len(judges))
	for range rounds {
		for i, j := range judges {
			if !j.judge() {
				log.Fatalf("%s does not let the visit through", j.name)
			}
			r := testing.Benchmark(func(b *testing.B) {
				for b.Loop() {
					j.judge()
				}
				b.ReportAllocs()
			})
			ns[i] = append(ns[i], float64(r.T.Nanoseconds())/float64(r.N))
			allocs[i] = r.AllocsPerOp()
		}
	}
	fmt.Printf("a rule of ten clauses on one visit (median of %d rounds):\n", rounds)
	for i, j := range judges {
		slices.Sort(ns[i])
		fmt.Printf("  %-8s %8.0f ns %5d allocations\n", j.name, ns[i][rounds/2], allocs[i])
	}
	var against []float64
	for r := range rounds {
		against = append(against, min(ns[1][r], ns[2][r])/ns[0][r])
	}
	slices.Sort(against)
	fmt.Printf("  faster than the faster engine %6.1f ×        to hold: 8.0\n", against[rounds/2])
}

func gobbet() func() bool {
	p, err := reach.Read([]byte(rule))
	if err != nil {
		log.Fatal(err)
	}
	v := &reach.Visit{}
	for name, is := range map[string]any{
		"page.path": one.Path, "device.kind": one.Device, "source.channel": one.Channel, "visitor.visits": one.Visits, "place.country": one.Country,
		"device.language": one.Language, "visitor.lead": one.Lead, "page.title": one.Title, "data.basket_total": one.Total,
	} {
		v.Set(name, is)
	}
	return func() bool { return p.Judge(v) == reach.Yes }
}

func withExpr() func() bool {
	p, err := expr.Compile(exprRule, expr.Env(visit{}), expr.AsBool())
	if err != nil {
		log.Fatal(err)
	}
	return func() bool {
		is, err := expr.Run(p, one)
		return err == nil && is == true
	}
}

func withCEL() func() bool {
	env, err := cel.NewEnv(
		cel.Variable("path", cel.StringType), cel.Variable("device", cel.StringType), cel.Variable("channel", cel.StringType), cel.Variable("visits", cel.DoubleType),
		cel.Variable("country", cel.StringType), cel.Variable("language", cel.StringType), cel.Variable("lead", cel.BoolType), cel.Variable("title", cel.StringType), cel.Variable("total", cel.DoubleType))
	if err != nil {
		log.Fatal(err)
	}
	ast, issues := env.Compile(celRule)
	if issues.Err() != nil {
		log.Fatal(issues.Err())
	}
	p, err := env.Program(ast, cel.EvalOptions(cel.OptOptimize))
	if err != nil {
		log.Fatal(err)
	}
	facts := map[string]any{"path": one.Path, "device": one.Device, "channel": one.Channel, "visits": one.Visits, "country": one.Country, "language": one.Language, "lead": one.Lead, "title": one.Title, "total": one.Total}
	return func() bool {
		is, _, err := p.Eval(facts)
		return err == nil && is.Value() == true
	}
}
