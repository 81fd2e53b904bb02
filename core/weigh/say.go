package weigh

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

const (
	fullWeek    = 7  // days
	mostForward = 92 // days ahead that a forecast is worth saying
)

// say puts the verdict in words that claim no more than the bounds do.
func (r *Report) say(t Test, base Arm) {
	r.Head, r.Why = r.words(t, base)
	r.Say = r.Head
	if r.Why != "" {
		r.Say += " " + r.Why
	}
}

func (r *Report) words(t Test, base Arm) (head, why string) {
	seen := 0
	for _, v := range t.Variants {
		seen += v.Visitors
	}
	switch {
	case seen == 0:
		return "No visitors yet.", "Once it is live, what each variant does is shown here."
	case len(r.Comparisons) == 0:
		return fmt.Sprintf("%s of visitors converted.", percent(float64(r.Variants[0].Rate))),
			fmt.Sprintf("%s, so the true rate is likely %s. Add a second variant to learn what works better.", counted(seen, "visitor"), between(r.Variants[0].Interval))
	case r.Verdict == BrokenSplit:
		return "The split is not as asked, so the variants cannot be compared.", r.broken(t)
	}
	c := r.clearest(base)
	if c == nil {
		return "Not every variant has visitors yet.", "Keep it live until each has some."
	}
	bounds := fmt.Sprintf("%s converts %s, %s %s; the safe bounds of the difference are %s percentage points.",
		c.Variant, r.rateOf(c.Variant), c.Against, r.rateOf(c.Against), spread(c.SafeInterval))
	if len(t.Layers) > 0 {
		bounds += " Shares followed the winner, so that each run was compared within itself."
	}
	switch r.Verdict {
	case Better:
		head = fmt.Sprintf("%s converts better than %s%s.", c.Variant, c.Against, lifted(c.Lift))
		why = bounds + r.early(t)
	case Worse:
		if len(r.Comparisons) == 1 {
			head = fmt.Sprintf("%s converts worse than %s%s.", c.Variant, c.Against, lifted(c.Lift))
		} else {
			head = fmt.Sprintf("%s converts better than every other variant.", base.Name)
		}
		why = bounds + r.early(t)
	case NoDifference:
		head = fmt.Sprintf("%s and %s do the same.", c.Against, c.Variant)
		if len(r.Comparisons) > 1 {
			head = fmt.Sprintf("No variant does better than %s.", base.Name)
		}
		why = fmt.Sprintf("%s That is less than the lift of %s that is worth having.", bounds, share(t.SmallestLift))
	default:
		head = "Keep collecting. " + ahead(c)
		why = bounds + r.wait(c, t)
	}
	return head, why
}

// clearest is the comparison that the words are about: the variant that is better, or
// else the one that is furthest ahead; nil where none has visitors on both sides.
func (r *Report) clearest(base Arm) (best *Comparison) {
	for i := range r.Comparisons {
		c := &r.Comparisons[i]
		if c.Variant == r.Leader && r.Leader != base.Name {
			return c
		}
		if c.Difference.Is() && (best == nil || c.Difference > best.Difference) {
			best = c
		}
	}
	return best
}

func (r *Report) rateOf(name string) string {
	for _, v := range r.Variants {
		if v.Name == name && v.Rate.Is() {
			return percent(float64(v.Rate))
		}
	}
	return "–"
}

func ahead(c *Comparison) string {
	switch {
	case c.Difference > 0:
		return fmt.Sprintf("%s is ahead of %s, but that may still be chance.", c.Variant, c.Against)
	case c.Difference < 0:
		return fmt.Sprintf("%s is ahead of %s, but that may still be chance.", c.Against, c.Variant)
	}
	return fmt.Sprintf("%s and %s did the same so far.", c.Against, c.Variant)
}

// early warns of a find that has not seen every weekday yet.
func (r *Report) early(t Test) string {
	if t.Days > 0 && t.Days < fullWeek {
		return fmt.Sprintf(" It ran %s: let it run a full week, so that every weekday is in it.", counted(int(math.Max(1, math.Round(t.Days))), "day"))
	}
	return ""
}

// wait says for how long it will take, if that can be told.
func (r *Report) wait(c *Comparison, t Test) string {
	least := math.MaxInt
	for _, v := range t.Variants {
		least = min(least, v.Visitors)
	}
	switch {
	case t.Days > 0 && t.Days < 1, least < fewVisitors:
		return " Too few visitors yet to say when it will be known."
	case t.Days > 0 && c.MoreDays.Is() && c.MoreDays <= mostForward:
		return fmt.Sprintf(" If it goes on like this, it is known in about %s.", counted(int(math.Max(1, math.Ceil(float64(c.MoreDays)))), "day"))
	case t.Days > 0:
		return " If it goes on like this, it will not be known within three months: try a bolder change."
	case t.Size > least:
		return fmt.Sprintf(" The plan asks for %s more per variant.", counted(t.Size-least, "visitor"))
	}
	return ""
}

// fewVisitors in a variant are too few to foretell anything by.
const fewVisitors = 50

func (r *Report) broken(t Test) string {
	all, shares := 0, 0.0
	for _, v := range t.Variants {
		all += v.Visitors
		shares += v.Share
	}
	var got, asked []string
	for _, v := range t.Variants {
		got = append(got, fmt.Sprintf("%s got %s", v.Name, percent(float64(v.Visitors)/float64(all))))
		asked = append(asked, percent(v.Share/shares))
	}
	return fmt.Sprintf("%s of %s, where %s were asked. By chance that happens less than once in a thousand tests: something keeps visitors from one variant, such as an error on the page. Find it, then start again.",
		strings.Join(got, ", "), counted(all, "visitor"), strings.Join(asked, " and "))
}

// lifted is a lift in brackets; empty where there is none.
func lifted(lift Maybe) string {
	if !lift.Is() {
		return ""
	}
	if lift < 0 {
		return ", by " + share(-float64(lift))
	}
	return ", by " + share(float64(lift))
}

// percent is a share of one, to one place; smaller ones to two digits.
func percent(share float64) string {
	places := 1
	if of := math.Abs(share * 100); of > 0 && of < 0.95 {
		places = 2
	}
	return strconv.FormatFloat(share*100, 'f', places, 64) + " %"
}

// share is a share of one in whole percent.
func share(of float64) string {
	if of < 0.095 {
		return percent(of)
	}
	return grouped(int(math.Round(of*100))) + " %"
}

func between(b Bounds) string {
	low, _ := strings.CutSuffix(percent(b[0]), " %")
	return low + " to " + percent(b[1])
}

func spread(b Bounds) string { return points(b[0]) + " to " + points(b[1]) }

// points is a difference in percentage points, signed.
func points(difference float64) string {
	number, _ := strings.CutSuffix(percent(math.Abs(difference)), " %")
	if difference < 0 {
		return "−" + number
	}
	return "+" + number
}

func counted(n int, one string) string {
	if n == 1 {
		return "1 " + one
	}
	return grouped(n) + " " + one + "s"
}

// grouped writes a number with commas: 12,345.
func grouped(n int) string {
	text := strconv.Itoa(n)
	for i := len(text) - 3; i > 0; i -= 3 {
		text = text[:i] + "," + text[i:]
	}
	return text
}
