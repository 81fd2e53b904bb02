package rehearse

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"testing"
)

// What came about is the same after it was kept and sent.
func TestMomentsComeBackTheSame(t *testing.T) {
	dice := rand.New(rand.NewPCG(11, 26))
	for range 500 {
		v := View{ExitAt: Never}
		for range dice.IntN(11) {
			at := dice.IntN(900)
			if dice.IntN(4) == 0 {
				at = Never
			}
			v.Marks = append(v.Marks, at)
		}
		if dice.IntN(2) == 0 {
			v.ExitAt = dice.IntN(900)
		}
		for range dice.IntN(3) {
			v.Idles = append(v.Idles, Idle{dice.IntN(900), 1 + dice.IntN(60)})
		}
		for range dice.IntN(3) {
			v.Happened = append(v.Happened, Happening{"click", "#buy", dice.IntN(900)})
		}
		kept, err := json.Marshal(v.Moments())
		if err != nil {
			t.Fatal(err)
		}
		var m Moments
		if err := json.Unmarshal(kept, &m); err != nil {
			t.Fatal(err)
		}
		for _, told := range []Moments{m, v.Moments()} {
			got := View{ExitAt: 7}
			if told.Tell(&got); !reflect.DeepEqual(got, v) {
				t.Fatalf("%+v came back as %+v by %s", v, got, kept)
			}
		}
	}
}

func TestMomentsThatCannotHaveHappenedAreLeftOut(t *testing.T) {
	var m Moments
	raw := `{"happened":[["click","#a",-1],["click","#a",1e300],["click","#a","soon"],[1,2,3],["event",null,4],["event","x",5.9]]}`
	if err := json.Unmarshal([]byte(raw), &m); err != nil {
		t.Fatal(err)
	}
	var v View
	m.Tell(&v)
	want := []Happening{{"", "", 3}, {"event", "", 4}, {"event", "x", 5}}
	if !reflect.DeepEqual(v.Happened, want) || v.ExitAt != Never || v.Marks != nil {
		t.Errorf("%+v, want %+v", v, want)
	}
}
