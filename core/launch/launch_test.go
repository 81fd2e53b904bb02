package launch

import (
	"errors"
	"fmt"
	"reflect"
	"testing"
	"time"

	"gobbet/core/fault"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func at(hours int) *time.Time {
	t := noon.Add(time.Duration(hours) * time.Hour)
	return &t
}

func doc(more string) []byte {
	return fmt.Appendf(nil, `{"name":"p","split":{"variants":[{"id":"a","share":50,"design":{"w":1}},{"id":"b","share":50,"design":{"w":1}}]}%s}`, more)
}

func in(state State) Piece {
	p := Piece{State: state, Draft: doc(""), DraftVersion: 3}
	if state != Draft {
		p.Live, p.LiveVersion, p.Revision, p.LiveSince = doc(""), 3, 1, at(-48)
		split, _ := SplitOf(p.Live)
		p.Split = &split
	}
	if state == Paused || state == Over {
		p.PausedAt = at(-2)
	}
	return p
}

func around() Around { return Around{Now: noon, Most: 500} }

// Everything that can be done, in every state: what comes of it, and what is noted.
func TestALifeAsATable(t *testing.T) {
	gone := func(p Piece) Piece { p.RemovedAt = at(-1); return p }
	swap := Replace{Live: true, Rewrite: func([]byte) ([]byte, error) { return doc(`,"x":1`), nil }}
	events := []struct {
		name  string
		event Event
	}{{"launch", Launch{Version: 3}}, {"pause", Pause{}}, {"plan", Pause{From: at(1)}}, {"resume", Resume{}}, {"pass", Pass{}}, {"remove", Remove{}}, {"restore", Restore{}}, {"replace", swap}}
	pieces := []struct {
		name  string
		piece Piece
	}{{"draft", in(Draft)}, {"live", in(Live)}, {"paused", in(Paused)}, {"over", in(Over)}, {"removed", gone(in(Paused))}}
	want := map[string][]string{
		//          launch          pause          plan        resume          pass    remove           restore              replace
		"draft":   {"live launched", "draft", "draft", "draft", "draft", "draft removed", "draft", "draft"},
		"live":    {"live launched", "paused paused", "live planned", "live", "live", "!the piece is live", "live", "live"},
		"paused":  {"live launched", "paused", "paused", "live resumed", "paused", "paused removed", "paused", "paused"},
		"over":    {"live launched", "over", "over", "!its schedule has ended", "over", "over removed", "over", "over"},
		"removed": {"!changed elsewhere", "paused", "paused", "paused", "paused", "paused", "paused restored", "!changed elsewhere"},
	}
	for _, p := range pieces {
		for i, e := range events {
			next, err := e.event.On(p.piece, around())
			got := string(next.State)
			if next.Move != nil {
				got += " " + string(next.Move.Did)
			}
			if err != nil {
				got = "!" + err.Error()
			}
			if got != want[p.name][i] {
				t.Errorf("%s, %s: %q, want %q", p.name, e.name, got, want[p.name][i])
			}
			if err == nil && next.Visible != (got == "live launched" || got == "paused paused" || got == "live resumed" || p.name == "live" && e.name == "replace") {
				t.Errorf("%s, %s: visible is %v", p.name, e.name, next.Visible)
			}
		}
	}
}

func TestAPauseThatIsPlannedOutlivesAChange(t *testing.T) {
	p := in(Live)
	p.PausesAt, p.PausedUntil = at(10), at(20)
	next, err := Launch{Version: 3}.On(p, around())
	if err != nil || next.PausesAt == nil || next.PausedUntil == nil || !next.LiveSince.Equal(*at(-48)) {
		t.Errorf("%+v %v", next.Piece, err)
	}
	p = in(Paused)
	p.PausedUntil = at(20)
	if next, err = (Launch{Version: 3}).On(p, around()); err != nil || next.PausedUntil != nil || next.PausedAt != nil || !next.LiveSince.Equal(noon) {
		t.Errorf("%+v %v", next.Piece, err)
	}
}

func TestWhatForbidsALaunch(t *testing.T) {
	p := in(Draft)
	if _, err := (Launch{Version: 2}).On(p, around()); !errors.Is(err, fault.ErrStale) {
		t.Error(err)
	}
	full := around()
	full.Live = full.Most
	if _, err := (Launch{Version: 3}).On(p, full); !errors.Is(err, fault.ErrTooMany) {
		t.Error(err)
	}
	p.Draft = doc(`,"page":{"address":"letter"}`)
	taken := around()
	taken.Taken = func(address string) bool { return address == "letter" }
	if _, err := (Launch{Version: 3}).On(p, taken); !errors.Is(err, ErrTaken) {
		t.Error(err)
	}
}

func TestARunBeginsWhereTheSplitChangesAndNowhereElse(t *testing.T) {
	split := func(p Piece, document []byte) *Split {
		t.Helper()
		p.Draft = document
		next, err := Launch{Version: 3}.On(p, around())
		if err != nil {
			t.Fatal(err)
		}
		return next.Run
	}
	p := in(Live)
	if run := split(p, doc(`,"name2":"other"`)); run != nil {
		t.Error("a launch without a change of the split begins a run")
	}
	if run := split(p, []byte(`{"split":{"held":10,"variants":[{"id":"a","share":50},{"id":"b","share":50}]}}`)); run == nil || run.Held != 10 {
		t.Error(run)
	}
	if run := split(in(Draft), doc("")); run == nil || len(run.Variants) != 2 {
		t.Error(run)
	}
	// Shares that follow the winner go on where they are.
	following := []byte(`{"split":{"follow":true,"variants":[{"id":"a","share":50},{"id":"b","share":50}]}}`)
	p.Live = []byte(`{"split":{"follow":true,"variants":[{"id":"a","share":80},{"id":"b","share":20}]}}`)
	now, _ := SplitOf(p.Live)
	p.Split, p.Draft = &now, following
	next, err := Launch{Version: 3}.On(p, around())
	if live, _ := SplitOf(next.Live); err != nil || next.Run != nil || live.Variants[0].Share != 80 {
		t.Errorf("%+v %v", next.Run, err)
	}
	if !Same(next.Live, next.Draft) {
		t.Error("shares that moved by themselves count as an edit")
	}
}

func TestPutBackIsTheSame(t *testing.T) {
	for _, c := range []struct {
		a, b string
		same bool
	}{
		{`{"a":1,"b":[1,2]}`, `{ "b": [1, 2], "a": 1.0 }`, true},
		{`{"a":1}`, `{"a":2}`, false},
		{`{"split":{"variants":[{"share":1}]}}`, `{"split":{"variants":[{"share":2}]}}`, false},
		{`{"split":{"follow":true,"variants":[{"share":1}]}}`, `{"split":{"follow":true,"variants":[{"share":2}]}}`, true},
		{``, `{}`, false},
	} {
		if Same([]byte(c.a), []byte(c.b)) != c.same {
			t.Errorf("%s and %s", c.a, c.b)
		}
	}
}

func TestTimePasses(t *testing.T) {
	pass := func(p Piece, a Around) (string, Next) {
		t.Helper()
		next, err := Pass{}.On(p, a)
		if err != nil {
			t.Fatal(err)
		}
		if next.Move == nil {
			return string(next.State), next
		}
		return string(next.State) + " " + string(next.Move.Did), next
	}
	live, paused := in(Live), in(Paused)
	live.PausesAt, live.PausedUntil = at(-1), at(5)
	if got, next := pass(live, around()); got != "paused paused" || !next.PausedUntil.Equal(*at(5)) || next.PausesAt != nil {
		t.Error(got, next)
	}
	live.PausedUntil = at(-1) // nobody was there
	if got, next := pass(live, around()); got != "live" || next.PausesAt != nil || next.Visible {
		t.Error(got, next)
	}
	paused.PausedUntil = at(0)
	if got, next := pass(paused, around()); got != "live resumed" || next.PausedUntil != nil {
		t.Error(got, next)
	}
	full := around()
	full.Live = full.Most
	if got, next := pass(paused, full); got != "paused stayed_paused" || next.PausedUntil != nil {
		t.Error("it would be tried again for ever:", got, next)
	}
	ending := in(Live)
	ending.Live = doc(`,"schedule":{"until":"2026-11-24T12:00"}`)
	if got, _ := pass(ending, around()); got != "over ended" {
		t.Error(got)
	}
	// On visitors' clocks it is over once it is everywhere on earth.
	ending.Live = doc(`,"schedule":{"until":"2026-11-24T12:00","zone":"visitor"}`)
	if got, _ := pass(ending, around()); got != "live" {
		t.Error(got)
	}
	late := around()
	late.Now = noon.Add(27 * time.Hour)
	if got, _ := pass(ending, late); got != "over ended" {
		t.Error(got)
	}
}

func TestReplacingKeepsWhatWasLaunchedMeanwhile(t *testing.T) {
	p := in(Live)
	p.Draft, p.DraftVersion = doc(`,"old":"pic"`), 4
	p.Live = doc(`,"old":"pic","launched":"since"`)
	next, err := Replace{Live: true, Rewrite: func(d []byte) ([]byte, error) { return []byte(string(d[:len(d)-1]) + `,"new":1}`), nil }}.On(p, around())
	if err != nil || next.DraftVersion != 5 || next.LiveVersion != 3 || !reflect.DeepEqual(string(next.Live), string(doc(`,"old":"pic","launched":"since","new":1`))) {
		t.Errorf("%+v %v", next.Piece, err)
	}
	nothing, err := Replace{Live: true, Rewrite: func(d []byte) ([]byte, error) { return d, nil }}.On(p, around())
	if err != nil || nothing.Visible || nothing.Move != nil || nothing.DraftVersion != 4 {
		t.Errorf("%+v %v", nothing, err)
	}
}

func TestSharesAreDrawnOncePerSpan(t *testing.T) {
	p := in(Live)
	e := Reshare{Since: *at(-24), Shares: map[string]int{"a": 90, "b": 10}, Seed: 7}
	next, err := e.On(p, around())
	if err != nil || next.Run == nil || next.Run.Seed != 7 || !next.Visible || next.SharesAt == nil {
		t.Fatalf("%+v %v", next, err)
	}
	if again, err := e.On(next.Piece, around()); err != nil || again.Run != nil || again.Visible {
		t.Errorf("%+v %v", again, err)
	}
	e.Shares = map[string]int{"a": 50, "b": 50}
	if same, err := e.On(p, around()); err != nil || same.Run != nil || same.Visible || same.SharesAt == nil {
		t.Errorf("shares that stay wake everyone up: %+v %v", same, err)
	}
}
