package answer

import (
	"math"
	"strconv"
	"testing"

	"gobbet/core/piece"
)

func numbers(ask piece.Ask, least, most, step string) piece.Field {
	return piece.Field{Ask: ask, Key: "n", Least: least, Most: most, Step: step}
}

func TestNumbersAreCountedInRangesOfWholeSteps(t *testing.T) {
	for _, c := range []struct {
		f    piece.Field
		want []string
	}{
		{numbers(piece.AskSlider, "0", "5", ""), []string{"0", "1", "2", "3", "4", "5"}},
		{numbers(piece.AskSlider, "0", "60", "1"), []string{"0 to 7", "8 to 15", "16 to 23", "24 to 31", "32 to 39", "40 to 47", "48 to 55", "56 to 60"}},
		{numbers(piece.AskSlider, "1000", "1280", "10"), []string{"1000 to 1030", "1040 to 1070", "1080 to 1110", "1120 to 1150", "1160 to 1190", "1200 to 1230", "1240 to 1270", "1280"}},
		{numbers(piece.AskSlider, "0", "1", "0.1"), []string{"0 to 0.1", "0.2 to 0.3", "0.4 to 0.5", "0.6 to 0.7", "0.8 to 0.9", "1"}},
		{numbers(piece.AskNumber, "3", "3", ""), []string{"3"}},
		{numbers(piece.AskNumber, "", "", ""), []string{"under 0", "0 to under 10", "10 to under 100", "100 to under 1,000", "1,000 to under 10,000", "10,000 and more"}},
		{numbers(piece.AskText, "0", "5", ""), nil},
	} {
		got := Ranges(c.f)
		if len(got) != len(c.want) {
			t.Errorf("%+v: %v", c.f, got)
			continue
		}
		for i := range got {
			if got[i].Label != c.want[i] {
				t.Errorf("%s to %s by %s: %q, want %q", c.f.Least, c.f.Most, c.f.Step, got[i].Label, c.want[i])
			}
		}
	}
}

// Every number that a field takes is in one range, and that one holds it.
func TestEveryNumberIsInOneRange(t *testing.T) {
	for _, f := range []piece.Field{
		numbers(piece.AskSlider, "0", "60", "1"), numbers(piece.AskSlider, "-1", "1", "0.05"), numbers(piece.AskSlider, "0", "7", "3"),
		numbers(piece.AskNumber, "0.5", "99.75", ""), numbers(piece.AskNumber, "", "", ""), numbers(piece.AskNumber, "5", "", ""),
	} {
		ranges := Ranges(f)
		seen := map[string]bool{}
		for _, r := range ranges {
			if seen[r.ID] {
				t.Errorf("%+v: %s twice", f, r.ID)
			}
			seen[r.ID] = true
		}
		least, most := -20_000.0, 20_000.0
		if f.Least != "" && f.Most != "" {
			least, _ = strconv.ParseFloat(f.Least, 64)
			most, _ = strconv.ParseFloat(f.Most, 64)
		}
		for i := range 2001 {
			n := least + (most-least)*float64(i)/2000
			r, ok := In(ranges, strconv.FormatFloat(n, 'f', -1, 64))
			if !ok || n < r.Low || n >= r.High && !(n == most) && !math.IsInf(r.High, 1) {
				t.Fatalf("%v of %s to %s is in %+v, %v", n, f.Least, f.Most, r, ok)
			}
		}
	}
	if _, ok := In(Ranges(numbers(piece.AskNumber, "", "", "")), "many"); ok {
		t.Error("what is no number is in a range")
	}
}
