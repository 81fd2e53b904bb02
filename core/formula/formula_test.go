package formula

import (
	"errors"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
)

var shop = map[string]float64{"bags": 3, "price": 12.5, "zero": 0, "rate": 4, "months": 12, "principal": 900, "q1.ash": 1}

func valueOf(t *testing.T, text string) (float64, error) {
	t.Helper()
	f, err := Parse(text)
	if err != nil {
		return 0, err
	}
	return f.Value(func(name string) (float64, bool) { v, ok := shop[name]; return v, ok })
}

func TestFormulasHaveTheirValues(t *testing.T) {
	for text, want := range map[string]float64{
		"principal * (1 + rate / 100) / months": 78,
		"1 + 2 * 3":                             7,
		"(1 + 2) * 3":                           9,
		"10 - 3 - 2":                            5,
		"8 / 4 / 2":                             1,
		"-2 ^ 2":                                -4,
		"(-2) ^ 2":                              4,
		"2 ^ 3 ^ 2":                             512,
		"2 ^ -1":                                0.5,
		"2 * -3":                                -6,
		"--3":                                   3,
		"+3 - +2":                               1,
		"1e3 + .5 + 2.":                         1002.5,
		"bags × price":                          37.5,
		"price ÷ 5 − 1":                         1.5,
		"bags > 2 ? 1 : 0":                      1,
		"bags ≤ 2 ? 1 : bags ≥ 3 ? 2 : 3":       2,
		"if(bags = 3, 10, 20)":                  10,
		"if(bags != 3 or price > 12, 10, 20)":   10,
		"if(not bags = 3 and 1 < 2, 10, 20)":    20,
		"if(zero == 0, 0, 1 / zero)":            0,
		"min(3, 1, 2) + max(4)":                 5,
		"abs(-2.5)":                             2.5,
		"round(2.345, 2)":                       2.35,
		"round(-2.345, 2)":                      -2.35,
		"round(1.005, 2)":                       1.01,
		"round(2.5)":                            3,
		"round(1250, -2)":                       1300,
		"round(1e300, 2)":                       1e300,
		"floor(-1.5)":                           -2,
		"ceil(-1.5)":                            -1,
		"sqrt(2)":                               math.Sqrt2,
		"ln(exp(2))":                            2,
		"pow(2, 10)":                            1024,
		"pow(-2, 3)":                            -8,
		"payment(0, 12, 1200)":                  100,
		"payment(0.005, 360, 200000)":           1199.1010503055, // 200,000 at 6 % over 30 years, as annuity tables have it
		"1 / exp(1000)":                         0,
		"q1.ash * 2":                            2,
		strings.Repeat("(", 50) + "1" + strings.Repeat(")", 50): 1,
	} {
		got, err := valueOf(t, text)
		if err != nil || math.Abs(got-want) > 1e-9*max(1, math.Abs(want)) {
			t.Errorf("%s = %v, %v; want %v", text, got, err, want)
		}
	}
}

func TestFaultsAreAtTheVeryCharacter(t *testing.T) {
	for _, c := range []struct {
		text string
		at   int
		say  string
	}{
		{"", 0, "missing"},
		{"   ", 0, "missing"},
		{"1 +", 3, "missing at the end"},
		{"1 + * 2", 4, "not \"*\""},
		{"bags + bag", 7, "has no value"},
		{"1 / zero", 2, "divides by zero"},
		{"bags / (price - 12.5)", 5, "divides by zero"},
		{"0 ^ -1", 2, "divides by zero"},
		{"1 + sqrt(0 - 1)", 4, "no square root"},
		{"ln(zero)", 0, "logarithm"},
		{"pow(0 - 8, 1 / 3)", 0, "no such power"},
		{"payment(0.1, 0, 5)", 0, "one period"},
		{"exp(1000)", 0, "too large"},
		{"1e999", 0, "too large"},
		{"bags > 2", 5, "a number is needed"},
		{"1 + (bags > 2)", 10, "a number is needed"},
		{"bags ? 1 : 2", 0, "a condition"},
		{"if(bags, 1, 2)", 3, "a condition"},
		{"not bags", 4, "a condition"},
		{"1 < 2 < 3 ? 1 : 2", 6, "joined by and"},
		{"bags > 2 ? 1", 12, "\":\" is missing"},
		{"min()", 0, "one number or more"},
		{"abs(1, 2)", 0, "one number"},
		{"mean(1, 2)", 0, "not a function"},
		{"round(1, 0.5)", 0, "whole number"},
		{"2 bags", 2, "a sign such as"},
		{"bags 2", 5, "a sign such as"},
		{"(1 + 2", 6, "\")\" is missing"},
		{"1 + 2)", 5, "not expected"},
		{"1 € 2", 2, "means nothing"},
		{"a ? b", 0, "a condition"},
		{`system("x")`, 0, "not a function"},
		{"bags[0]", 4, "means nothing"},
		{strings.Repeat("(", 100) + "1" + strings.Repeat(")", 100), 60, "deep"},
		{strings.Repeat("-", 100) + "1", 59, "deep"},
		{"2" + strings.Repeat("^2", 100), 119, "deep"},
		{strings.Repeat("1+", 1100) + "1", MaxLength, "at most"},
	} {
		_, err := valueOf(t, c.text)
		var wrong *Error
		if !errors.As(err, &wrong) || wrong.At != c.at || !strings.Contains(wrong.Message, c.say) {
			t.Errorf("%.40q: %v; want %q at %d", c.text, err, c.say, c.at)
		}
	}
}

// Each was rounded by hand, on paper.
func TestRoundingIsThatOfThePersonWhoReadsTheNumber(t *testing.T) {
	for _, c := range []struct {
		x      float64
		places int
		want   float64
	}{
		{0.5, 0, 1}, {-0.5, 0, -1}, {1.5, 0, 2}, {2.5, 0, 3}, {0.285, 2, 0.29}, {1.255, 2, 1.26}, {8.345, 2, 8.35}, {0.1 + 0.2, 2, 0.3},
		{0.0049999, 2, 0}, {123456789.995, 2, 123457000.00 - 210}, {1e-20, 15, 0}, {4e15, 3, 4e15}, {55, -1, 60}, {54, -1, 50}, {49, -2, 0}, {50, -2, 100},
	} {
		if c.x == 123456789.995 {
			c.want = 123456790
		}
		if got := Round(c.x, c.places); got != c.want {
			t.Errorf("Round(%v, %d) = %v, want %v", c.x, c.places, got, c.want)
		}
	}
}

// To pay off a loan in equal parts leaves nothing: an independent way to the payment.
func TestAPaymentPaysALoanOff(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		rate, periods, principal := r.Float64()*0.03, 1+r.IntN(400), 100+r.Float64()*1e6
		part, _ := payment(rate, float64(periods), principal)
		left := principal
		for range periods {
			left += left*rate - part
		}
		if math.Abs(left) > 1e-6*principal {
			t.Fatalf("%v a period over %d periods leaves %v of %v", rate, periods, left, principal)
		}
	}
}

func TestASetComputesFormulasOverEachOther(t *testing.T) {
	set := func(inputs []string, named ...string) (*Set, error) {
		var names []string
		var formulas []*Formula
		for i := 0; i < len(named); i += 2 {
			f, err := Parse(named[i+1])
			if err != nil {
				t.Fatal(err)
			}
			names, formulas = append(names, named[i]), append(formulas, f)
		}
		return NewSet(names, formulas, inputs)
	}
	s, err := set([]string{"bags", "firings"}, "total", "clay + heat", "clay", "bags * 12.5", "heat", "firings * 18.2", "each", "total / bags")
	if err != nil {
		t.Fatal(err)
	}
	out := []float64{2, 3, 0, 0, 0, 0}
	if err := s.Values(out); err != nil || math.Abs(out[s.Of("total")]-79.6) > 1e-9 || math.Abs(out[s.Of("each")]-39.8) > 1e-9 {
		t.Errorf("%v, %v", out, err)
	}
	out[0] = 0
	var wrong *NamedError
	if err := s.Values(out); !errors.As(err, &wrong) || wrong.Index != 3 || wrong.Wrong.At != 6 || !math.IsNaN(out[s.Of("each")]) || math.Abs(out[s.Of("total")]-54.6) > 1e-9 {
		t.Errorf("a division by zero in one is not its alone: %v, %v", out, err)
	}
	if _, err := set([]string{"x"}, "a", "b + 1", "b", "c", "c", "x + a"); !errors.As(err, &wrong) || wrong.Index != 2 || wrong.Wrong.At != 4 || !strings.Contains(err.Error(), "never ends") {
		t.Errorf("a loop passes: %v", err)
	}
	if _, err := set(nil, "a", "a"); err == nil {
		t.Error("a formula of itself passes")
	}
	if _, err := set([]string{"x"}, "a", "x", "b", "1 + y"); !errors.As(err, &wrong) || wrong.Index != 1 || wrong.Wrong.At != 4 {
		t.Errorf("an unknown name passes: %v", err)
	}
}

// compute is a second reading of what Tree gives, as a page would have it.
func compute(t any, of map[string]float64) (value float64, holds, ok bool) {
	number := func(x float64) (float64, bool, bool) { return x, false, !math.IsNaN(x) }
	list, isList := t.([]any)
	if !isList {
		if s, isName := t.(string); isName {
			x, known := of[s]
			return x, false, known
		}
		return number(t.(float64))
	}
	does := list[0].(string)
	if does == "?" {
		_, yes, ok := compute(list[1], of)
		if !ok {
			return 0, false, false
		}
		if yes {
			return compute(list[2], of)
		}
		return compute(list[3], of)
	}
	var x []float64
	var was []bool
	for _, part := range list[1:] {
		if does == "and" && len(was) == 1 && !was[0] || does == "or" && len(was) == 1 && was[0] {
			break
		}
		v, h, ok := compute(part, of)
		if !ok {
			return 0, false, false
		}
		x, was = append(x, v), append(was, h)
	}
	switch does {
	case "+":
		return number(x[0] + x[1])
	case "-":
		return number(x[0] - x[1])
	case "*":
		return number(x[0] * x[1])
	case "/":
		if x[1] == 0 {
			return 0, false, false
		}
		return number(x[0] / x[1])
	case "^", "pow":
		if x[0] == 0 && x[1] < 0 {
			return 0, false, false
		}
		return number(math.Pow(x[0], x[1]))
	case "neg":
		return number(-x[0])
	case "min", "max":
		best := x[0]
		for _, one := range x {
			if (one < best) == (does == "min") && one != best {
				best = one
			}
		}
		return number(best)
	case "abs":
		return number(math.Abs(x[0]))
	case "floor":
		return number(math.Floor(x[0]))
	case "ceil":
		return number(math.Ceil(x[0]))
	case "sqrt":
		return number(math.Sqrt(x[0]))
	case "ln":
		return math.Log(x[0]), false, x[0] > 0
	case "exp":
		return number(math.Exp(x[0]))
	case "round":
		places := 0.0
		if len(x) == 2 {
			places = x[1]
		}
		return Round(x[0], int(places)), false, places == math.Trunc(places) && math.Abs(places) <= 15
	case "payment":
		v, wrong := payment(x[0], x[1], x[2])
		return v, false, wrong == "" && !math.IsNaN(v)
	case "<":
		return 0, x[0] < x[1], true
	case "<=":
		return 0, x[0] <= x[1], true
	case ">":
		return 0, x[0] > x[1], true
	case ">=":
		return 0, x[0] >= x[1], true
	case "=":
		return 0, x[0] == x[1], true
	case "!=":
		return 0, x[0] != x[1], true
	case "not":
		return 0, !was[0], true
	case "and", "or":
		return 0, was[len(was)-1], true
	}
	panic(does)
}

func FuzzFormula(f *testing.F) {
	for _, text := range []string{"1 + 2 * bags", "if(bags > 2 and not zero = 0, 1, ln(zero))", "payment(rate / 1200, months, principal)", "-2 ^ 2 ^ bags", "round(price, 1) ? 1 : 2", "min(1,2,3)÷0", "q1.ash × 2 − .5e-3", "bags >= 1 or zero < 0 ? max(1) : exp(9999)", "((((", "1..2", "a.b.c"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		formula, err := Parse(text)
		var wrong *Error
		if err != nil {
			if !errors.As(err, &wrong) || wrong.At < 0 || wrong.At > len([]rune(text)) || wrong.Length < 1 || wrong.Message == "" {
				t.Fatalf("%q: %#v", text, err)
			}
			return
		}
		of := func(name string) (float64, bool) { v, ok := shop[name]; return v, ok }
		got, err := formula.Value(of)
		for _, name := range formula.Names() {
			if _, ok := of(name); !ok {
				if err == nil {
					t.Fatalf("%q has a value without %s", text, name)
				}
				return
			}
		}
		want, _, ok := compute(formula.Tree(), shop)
		ok = ok && want-want == 0
		if ok != (err == nil) || ok && got != want && math.Abs(got-want) > 1e-9*math.Abs(want) {
			t.Fatalf("%q is %v, %v, and by its tree %v, %v", text, got, err, want, ok)
		}
	})
}

func BenchmarkSetOfTwenty(b *testing.B) {
	names, formulas := []string{}, []*Formula{}
	for i := range 20 {
		f, err := Parse("round(bags * 12.5 + firings * (18.2 - 0.1) ^ 2 / 3, 2) + " + string(rune('a'+i)))
		if err != nil {
			b.Fatal(err)
		}
		formulas, names = append(formulas, f), append(names, string(rune('b'+i)))
	}
	s, err := NewSet(names, formulas, []string{"bags", "firings", "a"})
	if err != nil {
		b.Fatal(err)
	}
	out := make([]float64, 23)
	for b.Loop() {
		out[0], out[1], out[2] = 3, 4, 1
		if err := s.Values(out); err != nil {
			b.Fatal(err)
		}
	}
}
