package main

import (
	"fmt"
	"math/rand/v2"
	"runtime"
	"slices"
	"time"

	"gobbet/core/caps"
	"gobbet/core/reach"
	"gobbet/core/rehearse"
)

// rehearsals measures how many recorded page views a rule of ten clauses is
// replayed on in a second, on one core, and holds that against judging each
// page view by itself.
func rehearsals() error {
	program, err := reach.Compile(tenClauses)
	if err != nil {
		return err
	}
	limits := caps.Caps{PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 3, Per: "P30D"}}, Gap: "PT6H"}
	for i, n := range []int{size(1_000_000, 20_000), size(5_000_000, 50_000)} {
		before := heap()
		l := log(n)
		grown := heap() - before
		passed := 0
		rate := func(c caps.Caps) float64 {
			var took []float64
			for range times(5) {
				l.Forget() // what an earlier round found is not what is measured
				start := time.Now()
				r, _ := l.Rehearse(rehearse.Question{Draft: rehearse.Draft{Program: program, Caps: c}})
				took = append(took, time.Since(start).Seconds())
				passed = r.Passed
			}
			return float64(n) / median(took) / 1e6
		}
		free, capped := rate(caps.Caps{}), rate(limits)
		fmt.Printf("rehearsal of ten clauses on %d page views, one core (%d %% come true):\n", n, 100*passed/n)
		fmt.Printf("  without caps                    %5.1f million a second   to hold: 50.0\n", free)
		fmt.Printf("  with caps                       %5.1f million a second   to hold: 30.0\n", capped)
		edit := func(c caps.Caps) float64 {
			var took []float64
			for i := range times(9) {
				rule := slices.Clone(tenClauses)
				rule[4] = reach.Clause{Fact: "visitor.visits", Op: reach.Gte, Value: 2 + float64(i)/10}
				edited, err := reach.Compile(rule)
				if err != nil {
					panic(err)
				}
				start := time.Now()
				l.Rehearse(rehearse.Question{Draft: rehearse.Draft{Program: edited, Caps: c}})
				took = append(took, time.Since(start).Seconds())
			}
			return 1000 * median(took)
		}
		fmt.Printf("  one clause edited, no caps      %5.1f ms                 to hold: 16\n", edit(caps.Caps{}))
		fmt.Printf("  one clause edited, with caps    %5.1f ms                 to hold: 33\n", edit(limits))
		fmt.Printf("  memory                          %5.0f MB a million page views\n", float64(grown)/1e6/float64(n)*1e6)
		if i == 0 {
			fmt.Printf("  against judging one by one      %5.0f ×\n", free/oneByOne(l, program))
		}
		runtime.KeepAlive(l)
	}
	return nil
}

var tenClauses = reach.All{
	reach.Clause{Fact: "page.path", Op: reach.StartsWith, Value: "/shop"}, reach.Not{Rule: reach.Clause{Fact: "page.path", Op: reach.Matches, Value: "/[0-9]*7$"}},
	reach.Clause{Fact: "device.kind", Op: reach.IsNot, Value: "phone"}, reach.Clause{Fact: "source.channel", Op: reach.In, Value: []any{"search", "email"}},
	reach.Clause{Fact: "visitor.visits", Op: reach.Gte, Value: 2.0}, reach.Not{Rule: reach.Clause{Fact: "visitor.lead", Op: reach.Is, Value: true}},
	reach.Clause{Fact: "device.language", Op: reach.StartsWith, Value: "en"},
	reach.Any{
		reach.Clause{Fact: "moment.seconds_on_page", Op: reach.Gte, Value: 30.0}, reach.Clause{Fact: "moment.scroll_percent", Op: reach.Gte, Value: 50.0},
		reach.Clause{Fact: "moment.exit_intent", Op: reach.Happened},
	},
}

// log draws page views in the order in which they come: visits of two, of visitors
// who come back two or three times.
func log(n int) *rehearse.Log {
	r := rand.New(rand.NewPCG(1, 2))
	l := &rehearse.Log{HasMemory: true}
	start := time.Date(2026, 8, 1, 0, 0, 0, 0, time.UTC)
	paths := make([]string, 400)
	for i := range paths {
		paths[i] = fmt.Sprint("/shop/", i)
	}
	visitor := 0
	for i := range n {
		if i%2 == 0 {
			visitor = r.IntN(n / 5)
		}
		v := rehearse.View{
			Visitor: fmt.Sprint("v", visitor), Visit: fmt.Sprint("w", i/2), At: start.Add(time.Duration(float64(i) / float64(n) * 90 * 24 * float64(time.Hour))), Seconds: r.IntN(120), ExitAt: rehearse.Never,
			Facts: map[string]any{
				"page.path": paths[r.IntN(400)], "page.kind": "product", "device.kind": []string{"desktop", "phone", "tablet"}[r.IntN(3)], "device.os": []string{"a", "b", "c"}[r.IntN(3)],
				"source.channel": []string{"direct", "search", "email"}[r.IntN(3)], "visitor.visits": 1 + r.IntN(9), "visitor.pages": 1 + r.IntN(60), "place.country": []string{"IE", "GB", "US"}[r.IntN(3)],
				"device.language": []string{"en", "en-IE", "de"}[r.IntN(3)], "visitor.lead": r.IntN(9) == 0, "data.basket_total": r.IntN(200),
			},
		}
		for m, tenths := 0, r.IntN(11); len(v.Marks) < tenths; {
			m += 1 + r.IntN(12)
			v.Marks = append(v.Marks, m)
		}
		if r.IntN(2) == 0 {
			v.ExitAt = r.IntN(150)
		}
		if r.IntN(4) == 0 {
			v.Idles = []rehearse.Idle{{Start: r.IntN(60), Length: 5 + r.IntN(30)}}
		}
		l.Add(v)
	}
	l.Sort()
	return l
}

// oneByOne is how many million page views a second are judged by asking the
// rule of each.
func oneByOne(l *rehearse.Log, p *reach.Program) float64 {
	some := size(50_000, 100)
	start := time.Now()
	for row := range some {
		rehearse.FirstSecond(p, l.View(row))
	}
	return float64(some) / time.Since(start).Seconds() / 1e6
}

func heap() uint64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.HeapAlloc
}
