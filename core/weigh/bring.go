package weigh

import (
	"fmt"
	"math"
	"strings"
)

// Gain is what visitors who were shown pieces did beyond those who were held
// back, over all who were shown.
type Gain struct {
	Shown Count `json:"shown"`
	Held  Count `json:"held"`
	// Conversions are how many would not have come by themselves, with bounds.
	Conversions Maybe    `json:"conversions"`
	Bounds      [2]Maybe `json:"bounds" tstype:"MaybeBounds"`
	// Value is the same of what they brought, in the site's currency; it does not
	// exist where nothing was measured.
	Value       Maybe    `json:"value"`
	ValueBounds [2]Maybe `json:"value_bounds" tstype:"MaybeBounds"`
	// Sure says that the bounds exclude 0.
	Sure bool `json:"sure"`
}

// Gained compares the two. The bounds of the conversions are Newcombe's of the
// difference of the rates, those of the value Welch's of the means, both times the
// visitors who were shown. Nothing exists where nobody was held back.
func Gained(shown, held Count, ofShown, ofHeld Values, confidence float64) Gain {
	g := Gain{Shown: shown, Held: held, Conversions: None, Bounds: [2]Maybe{None, None}, Value: None, ValueBounds: [2]Maybe{None, None}}
	difference, bounds, ok := Newcombe(shown, held, confidence)
	if !ok {
		return g
	}
	n := Maybe(shown.Visitors)
	g.Conversions, g.Bounds = Maybe(difference)*n, [2]Maybe{Maybe(bounds[0]) * n, Maybe(bounds[1]) * n}
	g.Sure = bounds[0] > 0 || bounds[1] < 0
	if w := Welch(ofShown, ofHeld, shown.Visitors, held.Visitors, confidence); w != nil {
		g.Value = (w.Mean - w.MeanAgainst) * n
		g.ValueBounds = [2]Maybe{w.Interval[0] * n, w.Interval[1] * n}
	}
	return g
}

// Together adds gains that are of different visitors: their spreads add as those
// of independent numbers do.
func Together(gains []Gain) Gain {
	sum := Gain{Conversions: 0, Value: None, Bounds: [2]Maybe{None, None}, ValueBounds: [2]Maybe{None, None}}
	var below, above, valueBelow, valueAbove float64
	some := false
	for _, g := range gains {
		sum.Shown.Visitors += g.Shown.Visitors
		sum.Shown.Conversions += g.Shown.Conversions
		sum.Held.Visitors += g.Held.Visitors
		sum.Held.Conversions += g.Held.Conversions
		if !g.Conversions.Is() {
			continue
		}
		some = true
		sum.Conversions += g.Conversions
		below += math.Pow(float64(g.Conversions-g.Bounds[0]), 2)
		above += math.Pow(float64(g.Bounds[1]-g.Conversions), 2)
		if g.Value.Is() {
			if !sum.Value.Is() {
				sum.Value = 0
			}
			sum.Value += g.Value
			valueBelow += math.Pow(float64(g.Value-g.ValueBounds[0]), 2)
			valueAbove += math.Pow(float64(g.ValueBounds[1]-g.Value), 2)
		}
	}
	if !some {
		sum.Conversions = None
		return sum
	}
	sum.Bounds = [2]Maybe{sum.Conversions - Maybe(math.Sqrt(below)), sum.Conversions + Maybe(math.Sqrt(above))}
	sum.Sure = sum.Bounds[0] > 0 || sum.Bounds[1] < 0
	if sum.Value.Is() {
		sum.ValueBounds = [2]Maybe{sum.Value - Maybe(math.Sqrt(valueBelow)), sum.Value + Maybe(math.Sqrt(valueAbove))}
	}
	return sum
}

// Brought is what is said of a site's pieces.
type Brought struct {
	Days                  int
	Visitors, Conversions int
	Has                   bool // some were held back
	Gain                  Gain
	Goal                  string // its name
	Currency              string
}

// SayBrought puts what the pieces brought in a sentence, and what it rests on.
func SayBrought(b Brought) (head, why string) {
	over := fmt.Sprintf("In these %d days", b.Days)
	if b.Days == 1 {
		over = "On this day"
	}
	converted := fmt.Sprintf("%s of %s who saw a piece converted.", grouped(b.Conversions), counted(b.Visitors, "visitor"))
	g := b.Gain
	switch {
	case b.Visitors == 0:
		return over + " nobody saw a piece.", "Choose another time, or put a piece live."
	case !b.Has:
		return fmt.Sprintf("%s your pieces converted %s.", over, counted(b.Conversions, "visitor")),
			converted + " What would have come without them cannot be told: hold some visitors back in a piece’s Results, under Traffic split, and name a goal in Site."
	case !g.Conversions.Is() || g.Shown.Visitors == 0 || g.Held.Visitors == 0:
		return over + " too few visitors were held back to tell what your pieces brought.", converted
	}
	n := int(math.Round(float64(g.Conversions)))
	rates := fmt.Sprintf("%s of those shown a piece reached the goal “%s”, %s of those held back.", percent(float64(g.Shown.Conversions)/float64(g.Shown.Visitors)), b.Goal, percent(float64(g.Held.Conversions)/float64(g.Held.Visitors)))
	likely := fmt.Sprintf(" Likely %s to %s more.", signedWhole(g.Bounds[0]), signedWhole(g.Bounds[1]))
	if g.Value.Is() && b.Currency != "" {
		worth := func(n Maybe) string { return worthOf(n, b.Currency) }
		likely += fmt.Sprintf(" Worth about %s (%s to %s).", worth(g.Value), worth(g.ValueBounds[0]), worth(g.ValueBounds[1]))
	}
	switch {
	case g.Sure && n > 0:
		head = fmt.Sprintf("%s your pieces brought %s more of “%s” than would have come by themselves.", over, grouped(n), b.Goal)
	case g.Sure:
		head = fmt.Sprintf("%s your pieces cost you %s of “%s”.", over, grouped(-n), b.Goal)
	default:
		head = fmt.Sprintf("%s it is not sure that your pieces brought more of “%s”.", over, b.Goal)
	}
	return head, rates + likely
}

// signs are those of currencies (ISO 4217), where English has one; others go by their codes.
var signs = map[string]string{"EUR": "€", "GBP": "£", "USD": "US$", "JPY": "JP¥", "INR": "₹", "CAD": "CA$", "AUD": "A$", "NZD": "NZ$"}

func worthOf(n Maybe, currency string) string {
	sign, ok := signs[currency]
	if !ok {
		sign = currency + "\u00a0"
	}
	if whole, negative := strings.CutPrefix(signedWhole(n), "−"); negative {
		return "−" + sign + whole
	}
	return sign + signedWhole(n)
}

func signedWhole(n Maybe) string {
	whole := int(math.Round(float64(n)))
	if whole < 0 {
		return "−" + grouped(-whole)
	}
	return grouped(whole)
}
