package draw

import (
	"math"
	"strconv"
	"strings"
)

// Say writes odds as a person reads them: “1 in 12” where that is within half a
// percent of true, “37.5 %” or “0.0042 %” otherwise.
func Say(odds float64) string {
	if !(odds > 0) {
		return "0 %"
	}
	if say, ok := oneIn(odds); ok {
		return say
	}
	return Percent(odds)
}

func oneIn(odds float64) (say string, ok bool) {
	n := math.Round(1 / odds)
	if n < 2 || n >= 1e9 || math.Abs(1/n-odds) >= odds/200 {
		return "", false
	}
	return "1 in " + grouped(strconv.FormatFloat(n, 'f', 0, 64)), true
}

// Percent writes a share in percent: one decimal, or two digits that count
// where it is small.
func Percent(odds float64) string {
	percent := odds * 100
	if percent >= 1 || percent <= 0 {
		return strings.TrimSuffix(strconv.FormatFloat(percent, 'f', 1, 64), ".0") + " %"
	}
	places := 1 - int(math.Floor(math.Log10(percent)))
	return strings.TrimRight(strconv.FormatFloat(percent, 'f', places, 64), "0") + " %"
}

// grouped writes digits in threes.
func grouped(digits string) string {
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return digits
}

// Statement writes the odds of several parts in one line, in their order, those
// of one label together: all as “1 in n”, or all in percent. Parts that are
// never drawn are left out. limited says that some of them may run out.
func Statement(labels []string, odds []float64, limited bool) string {
	sums, order := map[string]float64{}, []string{}
	for i, label := range labels {
		if odds[i] == 0 {
			continue
		}
		if _, seen := sums[label]; !seen {
			order = append(order, label)
		}
		sums[label] += odds[i]
	}
	say := Say
	for _, sum := range sums {
		if _, ok := oneIn(sum); !ok {
			say = Percent
		}
	}
	said := make([]string, len(order))
	for i, label := range order {
		said[i] = label + " " + say(sums[label])
	}
	statement := "Odds: " + strings.Join(said, " · ")
	if limited {
		statement += ". While stocks last: what has run out leaves its odds to the rest."
	}
	return statement
}
