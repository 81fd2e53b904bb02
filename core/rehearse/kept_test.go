package rehearse

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"sync"
	"testing"
	"time"

	"gobbet/core/caps"
	"gobbet/core/reach"
)

// many repeats a small log under other visitors until it has enough rows for its
// parts to be kept.
func many(r *rand.Rand) (views []View) {
	some := drawn(r, 3000)
	for i := 0; len(views) < leastKept+1000; i++ {
		for _, v := range some {
			v.Visitor, v.Visit = v.Visitor+"-"+string(rune('a'+i)), v.Visit+"-"+string(rune('a'+i))
			views = append(views, v)
		}
	}
	return views
}

// What is kept changes no answer: not while a rule is edited, page views come in,
// stays go on, and others ask at once.
func TestWhatIsKeptChangesNoAnswer(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	views := many(r)
	l := logOf(views)
	more := drawn(r, 400)
	limits := caps.Caps{PerVisitor: []caps.Limit{{Times: 2, Per: "P7D"}}, Gap: "PT1H"}
	hits := 0
	rule := fixValues(drawnRule(r, 3, false))
	for round := range 28 {
		switch round % 4 {
		case 1:
			// One part beside the rest: all else is known already.
			rule = reach.All{rule, fixValues(drawnRule(r, 0, false))}
		case 2:
			for range 5 {
				v := more[r.IntN(len(more))]
				l.Add(v)
				views = append(views, v)
			}
			l.Sort()
		case 3:
			for range 5 {
				row := r.IntN(len(views))
				views[row].Seconds += 5
				l.SetStay(row, views[row])
			}
		default:
			rule = fixValues(drawnRule(r, 3, false))
		}
		q := Question{Draft: Draft{Program: compile(t, rule)}, Since: start.Add(time.Duration(r.IntN(400)) * time.Hour)}
		if round%3 == 0 {
			q.Caps = limits
		}
		pl := newPlan(l, q.Program, false)
		for _, s := range pl.steps {
			if s.kept != nil && s.kept.version[0] == l.version[0] {
				hits++
			}
		}
		pl.done()
		got, _ := l.Rehearse(q)
		fresh := logOf(views)
		fresh.kept = nil
		want, _ := fresh.Rehearse(q)
		if !reflect.DeepEqual(got, want) {
			text, _ := json.Marshal(rule)
			t.Fatalf("round %d: %s\n%+v, want\n%+v", round, text, got, want)
		}
	}
	if hits < 20 {
		t.Errorf("only %d parts were known already: the test tries too little", hits)
	}
}

func TestRehearsalsAtOnceShareWhatIsKept(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 1))
	l := logOf(many(r))
	program := compile(t, reach.All{clause("device.kind", reach.Is, "phone"), reach.Any{clause("moment.scroll_percent", reach.Gte, 50.0), clause("moment.seconds_on_page", reach.Gte, 20.0)}})
	want, _ := l.Rehearse(Question{Draft: Draft{Program: program}})
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			for range 5 {
				if got, _ := l.Rehearse(Question{Draft: Draft{Program: program}}); !reflect.DeepEqual(got, want) {
					t.Errorf("%+v, want %+v", got, want)
				}
			}
		})
	}
	wg.Wait()
}

// Whoever asks for one rule after another makes the log keep no more than its room.
func TestWhatIsKeptHasItsRoom(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	l := logOf(many(r))
	for range 200 {
		l.Rehearse(Question{Draft: Draft{Program: compile(t, reach.All{
			clause("visitor.visits", reach.Gte, float64(r.IntN(1000))), reach.Any{clause("moment.exit_intent", reach.Happened, nil), clause("moment.seconds_on_page", reach.Gte, float64(r.IntN(1000)))},
		})}})
	}
	sum := 0
	for _, part := range l.kept.parts {
		sum += part.room()
	}
	if most := l.rows * keptRoom; sum > most || sum < most/2 {
		t.Errorf("%d bytes are kept, of %d", sum, most)
	}
}
