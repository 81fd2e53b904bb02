package weigh

import "math"

// Traffic is how a test is fed.
type Traffic struct {
	Baseline float64 // the control's rate
	PerDay   float64 // visitors a day who get the piece and are not held back
	Variants int     // the control among them, 2 or more
}

// PlanPoint is a lift, and what finding it takes.
type PlanPoint struct {
	Lift float64 `json:"lift"`
	Size `tstype:",extends"`
	// Days until so many have come by the safe bounds; none where nobody comes.
	Days Maybe `json:"days"`
}

// Planned is a plan and what else could be planned.
type Planned struct {
	PlanPoint `tstype:",extends"`
	Curve     []PlanPoint `json:"curve"`
	// InMonth is the smallest lift of the curve that is found in 28 days; it does
	// not exist where none is.
	InMonth Maybe  `json:"in_month"`
	Say     string `json:"say"`
}

var curveLifts = []float64{0.05, 0.075, 0.1, 0.15, 0.2, 0.25, 0.3, 0.4, 0.5, 0.75, 1, 1.5, 2}

const planMonth = 28 // days

// PlanFor plans for a lift, and for others to choose from. Its errors are Faults.
func PlanFor(traffic Traffic, lift, confidence, power float64) (Planned, error) {
	p := Planned{Curve: []PlanPoint{}, InMonth: None}
	point := func(lift float64) (PlanPoint, error) {
		size, err := Plan(Goal{Baseline: traffic.Baseline, Lift: lift, Confidence: confidence, Power: power, Comparisons: max(1, traffic.Variants-1)})
		days := None
		if traffic.PerDay > 0 {
			days = Maybe(math.Ceil(float64(size.SafePerVariant) * float64(max(2, traffic.Variants)) / traffic.PerDay))
		}
		return PlanPoint{lift, size, days}, err
	}
	var err error
	if p.PlanPoint, err = point(lift); err != nil {
		return p, err
	}
	for _, one := range curveLifts {
		at, err := point(one)
		if err != nil {
			break // more than everybody
		}
		p.Curve = append(p.Curve, at)
		if at.Days.Is() && at.Days <= planMonth && !p.InMonth.Is() {
			p.InMonth = Maybe(one)
		}
	}
	p.say()
	return p, nil
}

func (p *Planned) say() {
	p.Say = "A lift of " + share(p.Lift) + " takes " + counted(p.SafePerVariant, "visitor") + " per variant"
	switch {
	case !p.Days.Is():
		p.Say += ". Nobody has seen the piece yet, so it cannot be said how long that takes."
		return
	case p.Days > 365:
		p.Say += ", more than a year at this pace."
	default:
		p.Say += ", about " + counted(int(p.Days), "day") + " at this pace."
	}
	if p.InMonth.Is() {
		p.Say += " In a month this traffic cannot show a lift of less than about " + share(float64(p.InMonth)) + "."
	} else {
		p.Say += " In a month this traffic cannot show any lift, however large."
	}
}
