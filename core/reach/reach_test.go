package reach

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"gobbet/core/fault"
)

func visit(t *testing.T, facts string) *Visit {
	t.Helper()
	var m map[string]any
	if err := json.Unmarshal([]byte(facts), &m); err != nil {
		t.Fatal(err)
	}
	v := &Visit{}
	for name, is := range m {
		v.Set(name, is)
	}
	return v
}

func read1(t *testing.T, rule string) *Program {
	t.Helper()
	p, err := Read([]byte(rule))
	if err != nil {
		t.Fatalf("%s: %v", rule, err)
	}
	return p
}

func TestClauseVerdicts(t *testing.T) {
	for _, c := range []struct{ facts, fact, op, value, want string }{
		// text compares by simple folding
		{`{"page.title":"Straße"}`, "page.title", "is", `"STRAßE"`, "yes"},
		{`{"page.title":"300 K"}`, "page.title", "is", `"300 K"`, "yes"},
		{`{"page.title":"Σίσυφος"}`, "page.title", "contains", `"ΣΊΣΥΦΟΣ"`, "yes"},
		{`{"page.title":"Ash glaze"}`, "page.title", "starts_with", `"ASH"`, "yes"},
		{`{"page.title":"Ash glaze"}`, "page.title", "ends_with", `"GLAZE"`, "yes"},
		{`{"page.title":"x"}`, "page.title", "ends_with", `"xx"`, "no"},
		{`{"page.title":"Ash"}`, "page.title", "matches", `"ash"`, "no"},
		{`{"page.title":"Ash"}`, "page.title", "matches", `"(?i)ash$"`, "yes"},
		{`{"page.title":"Ash glaze, tested"}`, "page.title", "like", `"ash*tested"`, "yes"},
		{`{"page.title":"aba"}`, "page.title", "like", `"ab*ba"`, "no"},
		{`{"page.title":"abcb"}`, "page.title", "like", `"*b"`, "yes"},
		{`{"page.title":"abc"}`, "page.title", "like", `"b"`, "no"},
		{`{"page.title":"Ash"}`, "page.title", "in", `["oak","ASH"]`, "yes"},
		{`{"page.title":"Ash"}`, "page.title", "not_in", `["oak","ASH"]`, "no"},
		{`{"page.title":"Ash"}`, "page.title", "in", `[]`, "no"},
		// paths
		{`{"page.path":"/caf%C3%A9/"}`, "page.path", "is", `"/CAFÉ"`, "yes"},
		{`{"page.path":"/shop"}`, "page.path", "is", `"/shop/"`, "yes"},
		{`{"page.path":"/shop/"}`, "page.path", "ends_with", `"/"`, "no"},
		{`{"page.path":"/"}`, "page.path", "is", `"/"`, "yes"},
		{`{"page.path":"/100%"}`, "page.path", "is", `"/100%"`, "yes"},
		{`{"page.path":"/a"}`, "page.path", "not_in", `["/a/","/b"]`, "no"},
		// absence
		{`{}`, "page.title", "is", `"x"`, "no"},
		{`{}`, "page.title", "is_not", `"x"`, "yes"},
		{`{}`, "page.title", "contains_not", `"x"`, "yes"},
		{`{}`, "page.title", "not_in", `["x"]`, "yes"},
		{`{}`, "visitor.visits", "ne", `1`, "yes"},
		{`{}`, "visitor.visits", "lt", `1`, "no"},
		{`{}`, "page.title", "absent", `null`, "yes"},
		{`{"page.title":null}`, "page.title", "present", `null`, "no"},
		{`{"page.title":5}`, "page.title", "present", `null`, "no"},
		{`{"page.title":""}`, "page.title", "present", `null`, "yes"},
		// numbers and flags
		{`{"visitor.visits":3}`, "visitor.visits", "between", `[3,5]`, "yes"},
		{`{"visitor.visits":5.5}`, "visitor.visits", "between", `[3,5]`, "no"},
		{`{"visitor.visits":3}`, "visitor.visits", "gt", `3`, "no"},
		{`{"visitor.visits":"3"}`, "visitor.visits", "gte", `1`, "no"},
		{`{"visitor.new":false}`, "visitor.new", "is", `false`, "yes"},
		{`{}`, "visitor.new", "is", `false`, "no"},
		// the site's own data takes whatever the clause asks for
		{`{"data.plan":"gold"}`, "data.plan", "gt", `1`, "no"},
		{`{"data.plan":"gold"}`, "data.plan", "ne", `1`, "yes"},
		{`{"data.total":80}`, "data.total", "gte", `75`, "yes"},
		{`{"data.member":true}`, "data.member", "is", `true`, "yes"},
		{`{"data.member":"true"}`, "data.member", "is", `true`, "no"},
		{`{"data.member":false}`, "data.member", "present", `null`, "yes"},
		// tags pass if any does
		{`{"visitor.tags":["vip","glaze"]}`, "visitor.tags", "is", `"GLAZE"`, "yes"},
		{`{"visitor.tags":[]}`, "visitor.tags", "absent", `null`, "yes"},
		// moments
		{`{}`, "moment.scroll_percent", "gte", `50`, "waits"},
		{`{"moment.scroll_percent":40}`, "moment.scroll_percent", "gte", `50`, "no"},
		{`{"moment.scroll_percent":50}`, "moment.scroll_percent", "gte", `50`, "yes"},
		{`{"moment.exit_intent":true}`, "moment.exit_intent", "happened", `null`, "yes"},
		{`{"moment.exit_intent":false}`, "moment.exit_intent", "happened", `null`, "no"},
		{`{"moment.click":["#buy"]}`, "moment.click", "happened", `"#buy"`, "yes"},
		{`{"moment.click":["#buy"]}`, "moment.click", "happened", `"#sell"`, "no"},
		{`{"moment.click":[]}`, "moment.click", "happened", `null`, "no"},
		{`{"moment.click":["#x"]}`, "moment.click", "happened", `null`, "yes"},
	} {
		rule := `{"fact":"` + c.fact + `","op":"` + c.op + `","value":` + c.value + `}`
		if got := read1(t, rule).Judge(visit(t, c.facts)).String(); got != c.want {
			t.Errorf("%s on %s: %s, want %s", rule, c.facts, got, c.want)
		}
	}
}

func TestFaultsNameTheirPlace(t *testing.T) {
	for _, c := range []struct{ rule, at, about string }{
		{`{"all":[{"fact":"page.path","op":"is","value":"/"},{"fact":"page.path","op":"matches","value":"("}]}`, "all[1].value", "RE2"},
		{`{"fact":"page.colour","op":"is","value":"red"}`, "fact", "not a fact"},
		{`{"fact":"page.query.","op":"is","value":"red"}`, "fact", "not a fact"},
		{`{"any":[{"not":{"fact":"visitor.visits","op":"contains","value":"1"}}]}`, "any[0].not.op", "does not go with"},
		{`{"fact":"device.kind","op":"in","value":["phone","watch"]}`, "value[1]", "watch"},
		{`{"fact":"place.country","op":"is","value":"XX"}`, "value", "XX"},
		{`{"fact":"visitor.visits","op":"between","value":[5,3]}`, "value", "low end"},
		{`{"fact":"visitor.visits","op":"gte","value":"5"}`, "value", "number"},
		{`{"fact":"visitor.new","op":"is","value":"yes"}`, "value", "true or false"},
		{`{"fact":"page.path","op":"is"}`, "value", "missing"},
		{`{"fact":"moment.scroll_percent","op":"lt","value":5}`, "op", "gte"},
		{`{"fact":"moment.exit_intent","op":"happened","value":"#x"}`, "value", "does not belong"},
		{`{"op":"is","value":"x"}`, "fact", "missing"},
		{`{"all":[],"any":[]}`, "any", "beside"},
		{`{"all":{}}`, "all", "list"},
		{`{"fact":"page.path","op":"is","value":"x","colour":1}`, "colour", "not a key"},
		{`[]`, "", "should be"},
		{`null`, "", "should be"},
		{strings.Repeat(`{"not":`, 150) + `{"all":[]}` + strings.Repeat("}", 150), strings.TrimSuffix(strings.Repeat("not.", 101), "."), "deep"},
	} {
		_, err := Read([]byte(c.rule))
		faults := fault.Of(err)
		if len(faults) != 1 || faults[0].At != c.at || !strings.Contains(faults[0].Message, c.about) {
			t.Errorf("%.80s: %v, want %q about %q", c.rule, faults, c.at, c.about)
		}
	}
}

func TestEveryFaultIsFound(t *testing.T) {
	_, err := Read([]byte(`{"all":[{"fact":"a","op":"is","value":1},{"fact":"page.path","op":"gt","value":1},{"fact":"page.path","op":"is","value":1}]}`))
	if got := fault.Of(err).Error(); !strings.Contains(got, "all[0].fact") || !strings.Contains(got, "all[1].op") || !strings.Contains(got, "all[2].value") {
		t.Error(got)
	}
}

func TestAFiftyDeepRuleOfTwoThousandClausesJudges(t *testing.T) {
	clause := `{"fact":"page.path","op":"is","value":"/"}`
	deep := strings.Repeat(`{"all":[`, 49) + strings.TrimSuffix(strings.Repeat(clause+",", 2000), ",") + strings.Repeat(`]}`, 49)
	if got := read1(t, deep).Judge(visit(t, `{"page.path":"/"}`)); got != Yes {
		t.Error(got)
	}
}

func TestWaitingIsLeastRule(t *testing.T) {
	moment := func(n string) string { return `{"fact":"moment.seconds_on_page","op":"gte","value":` + n + `}` }
	yes, no := `{"all":[]}`, `{"any":[]}`
	for _, c := range []struct{ rule, want string }{
		{`{"all":[` + yes + `,` + moment("3") + `]}`, moment("3")},
		{`{"any":[` + no + `,` + moment("3") + `]}`, moment("3")},
		{`{"all":[` + moment("1") + `,` + yes + `,` + moment("2") + `]}`, `{"all":[` + moment("1") + `,` + moment("2") + `]}`},
		{`{"not":{"all":[` + yes + `,{"not":` + moment("2") + `}]}}`, moment("2")},
		{`{"not":{"any":[` + no + `,` + moment("2") + `]}}`, `{"not":` + moment("2") + `}`},
		{`{"any":[` + yes + `,` + moment("2") + `]}`, `null`},
	} {
		got, _ := json.Marshal(read1(t, c.rule).Waiting(&Visit{}))
		if string(got) != c.want {
			t.Errorf("%s waits for %s, want %s", c.rule, got, c.want)
		}
	}
}

// randomRule makes rules over two facts and three moments.
func randomRule(r *rand.Rand, depth int) Rule {
	if depth == 0 || r.IntN(3) == 0 {
		switch r.IntN(5) {
		case 0:
			return Clause{"page.path", Is, [...]string{"/a", "/b"}[r.IntN(2)]}
		case 1:
			return Clause{"visitor.visits", Gte, float64(r.IntN(4))}
		case 2:
			return Clause{"moment.scroll_percent", Gte, float64(r.IntN(4) * 25)}
		case 3:
			return Clause{"moment.click", Happened, [...]string{"#a", "#b"}[r.IntN(2)]}
		default:
			return Clause{Fact: "moment.exit_intent", Op: Happened}
		}
	}
	parts := make([]Rule, r.IntN(4))
	for i := range parts {
		parts[i] = randomRule(r, depth-1)
	}
	switch r.IntN(3) {
	case 0:
		return All(parts)
	case 1:
		return Any(parts)
	}
	return Not{randomRule(r, depth-1)}
}

var moments = []string{"moment.scroll_percent", "moment.click", "moment.exit_intent"}

// The remainder of a rule, judged on the moments alone, must say what the whole
// rule says of facts and moments together; and it may hold nothing settled.
func TestRemainderAgreesWithTheWholeRule(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	waited := 0
	for range 20000 {
		rule := randomRule(r, 4)
		p, err := Compile(rule)
		if err != nil {
			t.Fatal(err)
		}
		arrival, later, onlyMoments := &Visit{}, &Visit{}, &Visit{}
		for _, v := range []*Visit{arrival, later} {
			v.Set("page.path", "/a")
			v.Set("visitor.visits", 2)
		}
		values := []any{float64(r.IntN(100)), []string{"#b"}, r.IntN(2) == 0}
		for i, name := range moments {
			later.Set(name, values[i])
			onlyMoments.Set(name, values[i])
		}
		rest := p.Waiting(arrival)
		some := &Visit{}
		some.Set("page.path", "/a")
		some.Set("visitor.visits", 2)
		some.Set(moments[r.IntN(len(moments))], 1.0)
		for _, v := range []*Visit{arrival, some} {
			if p.Judge(v) == Waits && !reflect.DeepEqual(p.Waiting(v), forgetful(p).Waiting(v)) {
				t.Fatalf("%s waits for something else once it is kept", p.Phrase())
			}
		}
		if (rest != nil) != (p.Judge(arrival) == Waits) {
			t.Fatal("a remainder without waiting, or waiting without one")
		}
		if rest == nil {
			if p.Judge(arrival) != p.Judge(later) {
				t.Fatalf("%s was settled on arrival as %s, then became %s", p.Phrase(), p.Judge(arrival), p.Judge(later))
			}
			continue
		}
		waited++
		checkLeast(t, rest)
		compiled, err := Compile(rest)
		if err != nil {
			t.Fatal(err)
		}
		if got, want := compiled.Judge(onlyMoments), p.Judge(later); got != want {
			t.Fatalf("remainder of %s says %s, the rule %s", p.Phrase(), got, want)
		}
	}
	if waited < 1000 {
		t.Fatalf("only %d random rules waited", waited)
	}
}

// forgetful is the program without the remainders that it keeps.
func forgetful(p *Program) *Program {
	var forget func(n Node) Node
	forget = func(n Node) Node {
		n.rest, n.Parts = nil, slices.Clone(n.Parts)
		for i := range n.Parts {
			n.Parts[i] = forget(n.Parts[i])
		}
		return n
	}
	return &Program{root: forget(p.root)}
}

func checkLeast(t *testing.T, r Rule) {
	t.Helper()
	var parts []Rule
	switch r := r.(type) {
	case All:
		parts = r
	case Any:
		parts = r
	case Not:
		if _, double := r.Rule.(Not); double {
			t.Fatal("a double not is left")
		}
		checkLeast(t, r.Rule)
		return
	case Clause:
		if f, _ := Find(r.Fact); !f.IsMoment() {
			t.Fatalf("%s is left though it is settled", r.Fact)
		}
		return
	}
	if len(parts) < 2 {
		t.Fatalf("a group of %d parts is left", len(parts))
	}
	for _, part := range parts {
		checkLeast(t, part)
	}
}

func TestRuleSurvivesWritingAndReading(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 2000 {
		rule := randomRule(r, 4)
		first, _ := json.Marshal(rule)
		back, err := Parse(first)
		if err != nil {
			t.Fatalf("%s: %v", first, err)
		}
		if second, _ := json.Marshal(back); string(first) != string(second) {
			t.Fatalf("%s became %s", first, second)
		}
	}
}

// What is written by hand must be what encoding/json would write.
func TestRulesAreWrittenAsJSON(t *testing.T) {
	for _, value := range []any{nil, "a", "", "a\"b\\c", "<b>&", "Straße", "\x00\n", 0.0, 3.0, -7.0, 0.5, 1e300, 1e15, true, []any{"a", 2.0}, math.Copysign(0, -1)} {
		c := Clause{Fact: `data."x"`, Op: Is, Value: value}
		type asItIs struct {
			Fact  string `json:"fact"`
			Op    Op     `json:"op"`
			Value any    `json:"value,omitempty"`
		}
		want, _ := json.Marshal(map[string]any{"not": asItIs(c)})
		if got, err := json.Marshal(Not{c}); err != nil || string(got) != string(want) {
			t.Errorf("%v: %s, want %s (%v)", value, got, want, err)
		}
	}
	if got, _ := json.Marshal(All{Any{}, All(nil)}); string(got) != `{"all":[{"any":[]},{"all":[]}]}` {
		t.Error(string(got))
	}
	if _, err := json.Marshal(Clause{Fact: "visitor.visits", Op: Eq, Value: math.NaN()}); err == nil {
		t.Error("a number that is none was written")
	}
}

func TestTraceJudgesEachClauseAlone(t *testing.T) {
	p := read1(t, `{"all":[{"fact":"page.path","op":"is","value":"/a"},{"any":[{"fact":"visitor.visits","op":"gte","value":2},{"not":{"fact":"moment.exit_intent","op":"happened"}}]}]}`)
	got, _ := json.Marshal(p.Trace(visit(t, `{"page.path":"/b/","visitor.visits":2}`)))
	want := `[{"at":"all[0]","verdict":"no","actual":"/b","phrase":"page is /a"},` +
		`{"at":"all[1].any[0]","verdict":"yes","actual":2,"phrase":"number of visits is at least 2"},` +
		`{"at":"all[1].any[1].not","verdict":"waits","actual":null,"phrase":"visitor shows exit intent"}]`
	if string(got) != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestPhrasesReadAsSentences(t *testing.T) {
	for rule, want := range map[string]string{
		`{"all":[]}`: "always",
		`{"any":[]}`: "never",
		`{"all":[{"fact":"page.path","op":"starts_with","value":"/journal"},{"any":[{"fact":"moment.seconds_on_page","op":"gte","value":30},{"fact":"moment.exit_intent","op":"happened"}]}]}`:                                                                                           "page starts with /journal and either time on page reaches 30 s or visitor shows exit intent",
		`{"any":[{"fact":"page.path","op":"is","value":"/a"},{"all":[{"fact":"page.path","op":"is","value":"/b"},{"any":[{"fact":"moment.exit_intent","op":"happened"},{"fact":"moment.scroll_percent","op":"gte","value":50},{"fact":"moment.idle_seconds","op":"gte","value":5}]}]}]}`: "page is /a or both page is /b and either visitor shows exit intent, scroll reaches 50 % or time idle reaches 5 s",
		`{"any":[{"fact":"page.path","op":"is","value":"/a"},{"all":[{"fact":"page.path","op":"is","value":"/b"},{"fact":"visitor.new","op":"is","value":true},{"fact":"moment.exit_intent","op":"happened"}]}]}`:                                                                        "page is /a or all of page is /b, visitor is new and visitor shows exit intent",
		`{"not":{"fact":"visitor.new","op":"is","value":true}}`:           "not (visitor is new)",
		`{"fact":"visitor.new","op":"is","value":false}`:                  "visitor is returning",
		`{"fact":"device.kind","op":"in","value":["phone","tablet"]}`:     "device is one of phone, tablet",
		`{"fact":"moment.click","op":"happened","value":"#buy"}`:          "#buy is clicked",
		`{"fact":"page.query.ref","op":"present"}`:                        "address parameter ref is known",
		`{"fact":"visitor.visits","op":"between","value":[2,4]}`:          "number of visits is between 2 and 4",
		`{"fact":"history.shown.glaze-club","op":"lt","value":1}`:         "times glaze-club was shown is below 1",
		`{"all":[{"any":[{"fact":"data.plan","op":"eq","value":1}]}]}`:    "plan is 1",
		`{"not":{"fact":"page.path","op":"starts_with","value":"/shop"}}`: "page does not start with /shop",
		`{"not":{"fact":"page.path","op":"ends_with","value":"/cups"}}`:   "page does not end with /cups",
		`{"not":{"fact":"page.path","op":"like","value":"/*/cups"}}`:      "page is not like /*/cups",
		`{"not":{"fact":"page.path","op":"matches","value":"cups?"}}`:     "page does not match cups?",
		`{"not":{"fact":"clock.time","op":"between","value":[540,1020]}}`: "time of day is not between 09:00 and 17:00",
		`{"fact":"clock.time","op":"between","value":[540,1439]}`:         "time of day is between 09:00 and 23:59",
		`{"fact":"clock.time","op":"gte","value":65}`:                     "time of day is at least 01:05",
		`{"fact":"clock.weekday","op":"in","value":["fri","mon","wed"]}`:  "weekday is one of Monday, Wednesday, Friday",
		`{"fact":"clock.weekday","op":"is_not","value":"sun"}`:            "weekday is not Sunday",
		`{"fact":"moment.scroll_pixels","op":"gte","value":600}`:          "scroll distance reaches 600 px",
	} {
		if got := read1(t, rule).Phrase(); got != want {
			t.Errorf("%s reads %q, want %q", rule, got, want)
		}
	}
}

func TestHistoryIsZeroForAVisitorWithMemory(t *testing.T) {
	p := read1(t, `{"fact":"history.shown.a","op":"lt","value":1}`)
	if got := p.Judge(&Visit{HasMemory: true}); got != Yes {
		t.Error("a visitor who has not seen the piece:", got)
	}
	if got := p.Judge(&Visit{}); got != No {
		t.Error("an unknown history is absent:", got)
	}
}

func TestJudgingAllocatesNothing(t *testing.T) {
	p := read1(t, `{"all":[
		{"fact":"page.path","op":"starts_with","value":"/journal"},
		{"fact":"page.title","op":"contains","value":"ÉMAIL"},
		{"fact":"page.path","op":"like","value":"*ash*"},
		{"fact":"page.path","op":"matches","value":"gl[aeiou]ze"},
		{"not":{"fact":"device.kind","op":"in","value":["phone","tablet"]}},
		{"fact":"data.total","op":"gte","value":10},
		{"fact":"history.shown.x","op":"lt","value":2},
		{"fact":"visitor.tags","op":"is","value":"vip"},
		{"any":[{"fact":"moment.scroll_percent","op":"gte","value":50},{"fact":"moment.exit_intent","op":"happened"}]}]}`)
	v := visit(t, `{"page.path":"/journal/ash-glaze","page.title":"Sur l'émail","device.kind":"desktop","data.total":20,"visitor.tags":["a","vip"]}`)
	v.HasMemory = true
	if p.Judge(v) != Waits {
		t.Fatal(p.Trace(v))
	}
	if n := testing.AllocsPerRun(100, func() { p.Judge(v) }); n != 0 {
		t.Errorf("%v allocations a visit", n)
	}
}

func TestEveryFactHasASlotAndWords(t *testing.T) {
	if len(Facts) > len(Visit{}.fixed) {
		t.Fatalf("%d facts in %d slots", len(Facts), len(Visit{}.fixed))
	}
	for _, f := range Facts {
		if f.Says == "" || f.Group == "" || Ops[f.Kind] == nil {
			t.Errorf("%s is not fully declared", f.Name)
		}
		if f.Kind == Flag && f.SaysNot == "" {
			t.Errorf("%s does not say what it is when false", f.Name)
		}
	}
	if len(countries) != 249 {
		t.Errorf("%d countries; ISO 3166-1 has 249", len(countries))
	}
}

func FuzzRule(f *testing.F) {
	for _, seed := range []string{
		`{"all":[{"fact":"page.path","op":"is","value":"/%zz/"},{"any":[{"fact":"moment.click","op":"happened","value":"#a"}]}]}`,
		`{"not":{"not":{"fact":"data.x","op":"between","value":[1,2]}}}`,
		`{"fact":"page.title","op":"like","value":"**a*"}`, `{"all":null}`, `{"fact":"page.title","op":"matches","value":"(a+)+$"}`, "{", "\xff",
	} {
		f.Add([]byte(seed), "/a")
	}
	f.Fuzz(func(t *testing.T, rule []byte, text string) {
		p, err := Read(rule)
		if err != nil {
			if len(fault.Of(err)) == 0 {
				t.Fatal("an error without faults")
			}
			return
		}
		v := &Visit{}
		v.Set("page.path", text)
		v.Set("page.title", text)
		v.Set("data.x", text)
		if rest := p.Waiting(v); (rest != nil) != (p.Judge(v) == Waits) {
			t.Fatal("a remainder that does not fit the verdict")
		} else if rest != nil {
			checkLeast(t, rest)
		}
		p.Trace(v)
		if p.Phrase() == "" {
			t.Fatal("a rule without words")
		}
	})
}

func TestSavedRulesStandForWhatTheySay(t *testing.T) {
	book := Book{"guests": Not{Clause{Fact: "data.member", Op: Is, Value: true}}, "wrong": Clause{Fact: "data.member", Op: "like", Value: 3.0}, "nested": All{Saved{"guests"}}}
	p, err := ReadWith([]byte(`{"all":[{"fact":"page.path","op":"is","value":"/a"},{"saved":"guests"}]}`), book)
	if err != nil {
		t.Fatal(err)
	}
	for facts, want := range map[string]Verdict{`{"page.path":"/a"}`: Yes, `{"page.path":"/a","data.member":true}`: No, `{"page.path":"/b"}`: No} {
		if got := p.Judge(visit(t, facts)); got != want {
			t.Errorf("%s: %v", facts, got)
		}
	}
	if got := p.Phrase(); got != "page is /a and not (member is true)" {
		t.Error(got)
	}
	if text, _ := json.Marshal(p.Rule()); string(text) != `{"all":[{"fact":"page.path","op":"is","value":"/a"},{"saved":"guests"}]}` {
		t.Errorf("it is kept as %s", text)
	}
	for rule, at := range map[string]string{
		`{"saved":"gone"}`: "saved", `{"any":[{"saved":"nested"}]}`: "any[0].saved.all[0].saved", `{"not":{"saved":"wrong"}}`: "not.saved.value", `{"saved":7}`: "saved", `{"saved":"guests","op":"is"}`: "op",
	} {
		if _, err := ReadWith([]byte(rule), book); len(fault.Of(err)) == 0 || fault.Of(err)[0].At != at {
			t.Errorf("%s: %v, want a fault at %s", rule, err, at)
		}
	}
	var ids []string
	EachSaved(Any{Saved{"a"}, Not{All{Saved{"b"}, Saved{"a"}}}}, func(id string) { ids = append(ids, id) })
	if strings.Join(ids, " ") != "a b a" {
		t.Error(ids)
	}
}

func TestLinesWriteTheRuleOut(t *testing.T) {
	p := read1(t, `{"all":[{"fact":"page.path","op":"is","value":"/a"},{"not":{"fact":"device.kind","op":"is","value":"phone"}},{"any":[{"fact":"moment.scroll_percent","op":"gte","value":50},{"all":[{"fact":"moment.exit_intent","op":"happened"}]}]},{"not":{"all":[{"fact":"moment.seconds_on_page","op":"gte","value":9},{"fact":"visitor.lead","op":"is","value":true}]}}]}`)
	var said []string
	for _, l := range p.Lines(visit(t, `{"page.path":"/a","device.kind":"phone","visitor.lead":true}`)) {
		waits, _ := json.Marshal(l.Waiting)
		said = append(said, fmt.Sprint(l.Depth, " ", l.At, " ", l.Verdict, " ", l.Phrase, " ", l.Group, " ", l.Waiting != nil && string(waits) != "null"))
	}
	want := []string{
		"0 all[0] yes page is /a false false",
		"0 all[1].not no not: device is phone false false",
		"0 all[2] waits any of true true",
		"1 all[2].any[0] waits scroll reaches 50 % false true",
		"1 all[2].any[1].all[0] waits visitor shows exit intent false true",
		"0 all[3].not waits not: all of true true",
		"1 all[3].not.all[0] waits time on page reaches 9 s false true",
		"1 all[3].not.all[1] yes visitor is a lead false false",
	}
	if got := strings.Join(said, "\n"); got != strings.Join(want, "\n") {
		t.Error(got)
	}
}

func TestRecordedLeavesOutWhatMayBePersonal(t *testing.T) {
	v := visit(t, `{"page.path":"/a/","page.url":"https://shop.test/a?mail=x","page.query.mail":"x","source.referrer":"https://mail.example.com/inbox","cookie.session":"x","data.member":true,"moment.exit_intent":true,"visitor.visits":2}`)
	got, _ := json.Marshal(v.Recorded())
	if string(got) != `{"data.member":true,"page.path":"/a","visitor.visits":2}` {
		t.Errorf("%s", got)
	}
}

// Whatever facts come, a rule says one of three things, denial turns it round,
// and what it waits for holds moments alone.
func FuzzFacts(f *testing.F) {
	for _, facts := range []string{
		`{"page.path":"/%zz/","data.x":[1,2],"moment.click":["#a",7],"visitor.tags":[]}`, `{"data.x":{"y":1},"moment.scroll_percent":"far","device.width":-1e308}`,
		`{"clock.time":null,"moment.exit_intent":false,"cookie.a":"\u0000"}`, `{"page.title":"ſ\u212a\ufffd"}`, `[]`, `{"":0}`,
	} {
		f.Add([]byte(facts))
	}
	rule := `{"any":[{"all":[{"fact":"page.path","op":"like","value":"/*a*"},{"fact":"moment.click","op":"happened","value":"#a"},{"not":{"fact":"moment.scroll_percent","op":"gte","value":5}}]},
		{"all":[{"fact":"data.x","op":"between","value":[-1,1]},{"fact":"page.title","op":"matches","value":"^(a|s+)+$"}]},{"fact":"visitor.tags","op":"is_not","value":"vip"},{"fact":"moment.exit_intent","op":"happened"}]}`
	p, err := Read([]byte(rule))
	if err != nil {
		f.Fatal(err)
	}
	denied, err := Compile(Not{p.Rule()})
	if err != nil {
		f.Fatal(err)
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		var facts map[string]any
		if json.Unmarshal(text, &facts) != nil {
			return
		}
		v := &Visit{}
		for name, is := range facts {
			v.Set(name, is)
		}
		says := p.Judge(v)
		if denied.Judge(v) != Yes-says {
			t.Fatal("a denial that is none")
		}
		if rest := p.Waiting(v); (rest != nil) != (says == Waits) {
			t.Fatal("a remainder that does not fit the verdict")
		} else if rest != nil {
			checkLeast(t, rest)
		}
		p.Lines(v)
		for name := range v.Recorded() {
			if f, ok := Find(name); !ok || !f.Recorded || f.IsMoment() {
				t.Fatalf("%s is recorded", name)
			}
		}
	})
}

// However many facts of families there are, each is found, and said again it is changed.
func TestNamedFactsAreFoundHoweverMany(t *testing.T) {
	v := &Visit{}
	const n = 3 * fewNames
	for i := range n {
		v.Set(fmt.Sprint("data.x", i), float64(i))
		for j := range i + 1 {
			p := read1(t, fmt.Sprintf(`{"fact":"data.x%d","op":"eq","value":%d}`, j, j))
			if p.Judge(v) != Yes {
				t.Fatalf("of %d facts, x%d is lost", i+1, j)
			}
		}
	}
	v.Set("data.x3", "three")
	v.Set(fmt.Sprint("data.x", n-1), true)
	if read1(t, `{"fact":"data.x3","op":"is","value":"Three"}`).Judge(v) != Yes || read1(t, fmt.Sprintf(`{"fact":"data.x%d","op":"is","value":true}`, n-1)).Judge(v) != Yes || len(v.named) != n {
		t.Error("a fact said again is not changed")
	}
	if read1(t, `{"fact":"data.y","op":"absent"}`).Judge(v) != Yes {
		t.Error("a fact that was not said is known")
	}
}

// A site's own data is said by what the site calls it, in the sentence and in its lines.
func TestASitesOwnDataIsSaidByItsName(t *testing.T) {
	p := read1(t, `{"all":[{"fact":"data.basket_total","op":"gte","value":40},{"fact":"data.plan","op":"is","value":"club"},{"fact":"cookie.plan","op":"is","value":"x"}]}`)
	called := Called{"basket_total": "the basket", "plan": ""}
	said := p.As(called)
	if got, want := said.Phrase(), "the basket is at least 40 and plan is club and cookie plan is x"; got != want {
		t.Errorf("%q, want %q", got, want)
	}
	if got := said.Lines(&Visit{})[0].Phrase; got != "the basket is at least 40" {
		t.Errorf("a line reads %q", got)
	}
	if got := p.Phrase(); got != "basket_total is at least 40 and plan is club and cookie plan is x" {
		t.Errorf("the program it was made of reads %q", got)
	}
}
