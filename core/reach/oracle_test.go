package reach

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// A second judge, written from what the rules of rules say and nothing else:
// slow, plain, and by other means (texts are compared by regular expressions
// that ignore case). The compiled judge must agree with it on whatever is thrown.

type oracle map[string]any // the facts

func (o oracle) judge(r Rule) Verdict {
	switch r := r.(type) {
	case All:
		verdict := Yes
		for _, part := range r {
			if v := o.judge(part); v == No {
				return No
			} else if v == Waits {
				verdict = Waits
			}
		}
		return verdict
	case Any:
		verdict := No
		for _, part := range r {
			if v := o.judge(part); v == Yes {
				return Yes
			} else if v == Waits {
				verdict = Waits
			}
		}
		return verdict
	case Not:
		switch o.judge(r.Rule) {
		case Yes:
			return No
		case No:
			return Yes
		}
		return Waits
	case Clause:
		return o.clause(r)
	}
	panic("no rule")
}

func (o oracle) clause(c Clause) Verdict {
	is, known := o[c.Fact]
	if strings.HasPrefix(c.Fact, "moment.") {
		if !known {
			return Waits
		}
		switch is := is.(type) {
		case float64:
			return sure(is >= c.Value.(float64))
		case bool:
			return sure(is)
		case []any:
			if c.Value == nil {
				return sure(len(is) > 0)
			}
			return sure(slices.Contains(is, c.Value))
		}
		panic("no moment")
	}
	if c.Op == Present || c.Op == Absent {
		return sure(known == (c.Op == Present))
	}
	passes := c.Op == IsNot || c.Op == ContainsNot || c.Op == Ne || c.Op == NotIn
	switch is := is.(type) {
	case string:
		if asksText(c) {
			return sure(text(c, is))
		}
	case float64:
		if asksNumber(c) {
			return sure(compare(c, is))
		}
	case bool:
		if want, ok := c.Value.(bool); ok && c.Op == Is {
			return sure(is == want)
		}
	}
	// Absent, or of another kind than is asked for.
	return sure(passes)
}

func sure(yes bool) Verdict {
	if yes {
		return Yes
	}
	return No
}

func asksText(c Clause) bool {
	switch c.Op {
	case Is, IsNot:
		_, ok := c.Value.(string)
		return ok
	case Contains, ContainsNot, StartsWith, EndsWith, Like, Matches, In, NotIn:
		return true
	}
	return false
}

func asksNumber(c Clause) bool {
	switch c.Op {
	case Eq, Ne, Lt, Lte, Gt, Gte, Between:
		return true
	}
	return false
}

func text(c Clause, is string) bool {
	path := func(s string) string { return s }
	if c.Fact == "page.path" {
		path = func(s string) string {
			decoded, err := url.PathUnescape(s)
			if err != nil {
				panic(err)
			}
			if decoded != "/" {
				decoded = strings.TrimSuffix(decoded, "/")
			}
			return decoded
		}
		is = path(is)
	}
	fits := func(pattern string) bool { return regexp.MustCompile(`(?is)` + pattern).MatchString(is) }
	one := func(v any) bool { return fits(`\A` + regexp.QuoteMeta(path(v.(string))) + `\z`) }
	switch c.Op {
	case Is:
		return one(c.Value)
	case IsNot:
		return !one(c.Value)
	case In:
		return slices.ContainsFunc(c.Value.([]any), one)
	case NotIn:
		return !slices.ContainsFunc(c.Value.([]any), one)
	}
	v := c.Value.(string)
	plain := regexp.QuoteMeta(v)
	switch c.Op {
	case Contains:
		return fits(plain)
	case ContainsNot:
		return !fits(plain)
	case StartsWith:
		return fits(`\A` + plain)
	case EndsWith:
		return fits(plain + `\z`)
	case Like:
		return fits(`\A` + strings.ReplaceAll(plain, `\*`, `.*`) + `\z`)
	case Matches:
		return regexp.MustCompile(v).MatchString(is)
	}
	panic("no text")
}

func compare(c Clause, is float64) bool {
	if c.Op == Between {
		bounds := c.Value.([]any)
		return bounds[0].(float64) <= is && is <= bounds[1].(float64)
	}
	v := c.Value.(float64)
	return map[Op]bool{Eq: is == v, Ne: is != v, Lt: is < v, Lte: is <= v, Gt: is > v, Gte: is >= v}[c.Op]
}

var (
	wordOps  = []Op{Is, IsNot, Contains, ContainsNot, StartsWith, EndsWith, Like, Matches, In, NotIn, Present, Absent}
	countOps = []Op{Eq, Ne, Lt, Lte, Gt, Gte, Between, Present, Absent}
	paths    = []string{"/", "/shop", "/shop/", "/Shop/Celadon", "/a%20b", "/A b/", "/%C3%A9t%C3%A9", "/ÉTÉ"}
	// Letters that fold to one another, or seem to: long s, the kelvin sign, sharp s, Greek sigmas, a dotless i.
	letters = []rune("aAbBkK\u212AsS\u017FéÉßẞσςΣıİ i*.\n")
)

func someText(dice *rand.Rand, most int) string {
	var b strings.Builder
	for range dice.IntN(most) {
		b.WriteRune(letters[dice.IntN(len(letters))])
	}
	return b.String()
}

func someClause(dice *rand.Rand) Clause {
	values := func(op Op, one func() any) any {
		switch op {
		case Present, Absent:
			return nil
		case In, NotIn:
			return []any{one(), one()}
		}
		return one()
	}
	switch dice.IntN(6) {
	case 0:
		op := wordOps[dice.IntN(len(wordOps))]
		return Clause{"page.path", op, values(op, func() any {
			if op == Matches {
				return []string{`^/shop`, `(?i)é`, `b$`}[dice.IntN(3)]
			}
			return paths[dice.IntN(len(paths))]
		})}
	case 1:
		op := countOps[dice.IntN(len(countOps))]
		if op == Between {
			low := float64(dice.IntN(5))
			return Clause{"data.total", op, []any{low, low + float64(dice.IntN(3))}}
		}
		return Clause{[]string{"data.total", "data.word", "visitor.visits"}[dice.IntN(3)], op, values(op, func() any { return float64(dice.IntN(5)) })}
	case 2:
		return Clause{"data.member", Is, dice.IntN(2) == 0}
	case 3:
		if dice.IntN(2) == 0 {
			return Clause{"moment.seconds_on_page", Gte, float64(dice.IntN(60))}
		}
		return Clause{"moment.click", Happened, []any{nil, "#a", "#b"}[dice.IntN(3)]}
	}
	op := wordOps[dice.IntN(len(wordOps))]
	return Clause{[]string{"data.word", "data.total"}[dice.IntN(2)], op, values(op, func() any {
		if op == Matches {
			return regexp.QuoteMeta(someText(dice, 3))
		}
		return someText(dice, 4)
	})}
}

func someRule(dice *rand.Rand, deep int) Rule {
	if deep == 0 || dice.IntN(3) == 0 {
		return someClause(dice)
	}
	var parts []Rule
	for range dice.IntN(4) {
		parts = append(parts, someRule(dice, deep-1))
	}
	switch dice.IntN(3) {
	case 0:
		return All(parts)
	case 1:
		return Any(parts)
	}
	return Not{someRule(dice, deep-1)}
}

func someFacts(dice *rand.Rand) oracle {
	facts := oracle{}
	put := func(name string, is any) {
		if dice.IntN(4) > 0 {
			facts[name] = is
		}
	}
	put("page.path", paths[dice.IntN(len(paths))])
	put("data.word", any(someText(dice, 5)))
	put("visitor.visits", float64(dice.IntN(5)))
	put("data.member", dice.IntN(2) == 0)
	// The site may tell a text where a rule asks for a number, and the other way round.
	put("data.total", []any{float64(dice.IntN(6)), someText(dice, 3), true}[dice.IntN(3)])
	if dice.IntN(3) == 0 {
		put("moment.seconds_on_page", float64(dice.IntN(60)))
		put("moment.click", []any{"#a", "#c"}[:dice.IntN(3)])
	}
	return facts
}

func TestTheJudgeAgreesWithASecondOne(t *testing.T) {
	dice := rand.New(rand.NewPCG(26, 11))
	said := map[Verdict]int{}
	for range 60_000 {
		rule, facts := someRule(dice, 3), someFacts(dice)
		p, err := Compile(rule)
		if err != nil {
			t.Fatalf("%v: %v", rule, err)
		}
		v := &Visit{}
		for name, is := range facts {
			v.Set(name, is)
		}
		got, want := p.Judge(v), facts.judge(rule)
		said[want]++
		if got != want {
			written, _ := json.Marshal(rule)
			known, _ := json.Marshal(facts)
			t.Fatalf("%s on %s: %s, want %s", written, known, got, want)
		}
	}
	for _, verdict := range []Verdict{Yes, No, Waits} {
		if said[verdict] < 3000 {
			t.Errorf("the dice hardly ever give %s: %v", verdict, fmt.Sprint(said))
		}
	}
}
