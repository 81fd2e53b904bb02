package rehearse

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/reach"
)

func BenchmarkRehearse(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	l := &Log{}
	const n = 1_000_000
	for i := range n {
		v := View{Visitor: fmt.Sprint("v", r.IntN(n/5)), Visit: fmt.Sprint("w", i/2), At: start.Add(time.Duration(r.IntN(90*86400)) * time.Second), Seconds: r.IntN(120), ExitAt: Never,
			Facts: map[string]any{"page.path": fmt.Sprint("/shop/", r.IntN(400)), "device.kind": []string{"desktop", "phone", "tablet"}[r.IntN(3)], "source.channel": []string{"direct", "search", "email"}[r.IntN(3)], "visitor.visits": r.IntN(9), "place.country": "IE", "device.language": "en", "visitor.lead": r.IntN(9) == 0}}
		for m := 0; len(v.Marks) < r.IntN(11); {
			m += r.IntN(12)
			v.Marks = append(v.Marks, m)
		}
		if r.IntN(2) == 0 {
			v.ExitAt = r.IntN(150)
		}
		l.Add(v)
	}
	l.Sort()
	p := compile(b, reach.All{
		clause("page.path", reach.StartsWith, "/shop/1"), clause("device.kind", reach.IsNot, "phone"), clause("source.channel", reach.In, []any{"search", "email"}),
		clause("visitor.visits", reach.Gte, 2.0), reach.Not{Rule: clause("visitor.lead", reach.Is, true)}, clause("place.country", reach.Is, "IE"), clause("device.language", reach.StartsWith, "en"),
		reach.Any{clause("moment.seconds_on_page", reach.Gte, 30.0), clause("moment.scroll_percent", reach.Gte, 50.0), clause("moment.exit_intent", reach.Happened, nil)},
	})
	for name, c := range map[string]caps.Caps{"without caps": {}, "with caps": {PerVisitor: []caps.Limit{{Times: 1, Per: caps.Visit}, {Times: 3, Per: "P30D"}}, Gap: "PT6H"}} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				l.Forget()
				l.Rehearse(Question{Draft: Draft{Program: p, Caps: c}})
			}
			b.ReportMetric(float64(b.N)*n/b.Elapsed().Seconds()/1e6, "Mviews/s")
		})
	}
}
