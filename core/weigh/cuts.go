package weigh

// Cut is a part of the visitors, such as those on phones, with what each variant
// did there; the first is the control.
type Cut struct {
	Value  string
	Counts []Count
}

// CutResult is a cut with its rates, and each variant's difference to the control.
type CutResult struct {
	Value       string      `json:"value"`
	Rates       []CutRate   `json:"rates"`
	Differences []CutSpread `json:"differences"`
}

// CutRate is what a variant did in a cut, with Wilson bounds at the confidence
// that was asked for.
type CutRate struct {
	Count    `tstype:",extends"`
	Rate     Maybe  `json:"rate"`
	Interval Bounds `json:"interval"`
}

// CutSpread is a variant's difference to the control in a cut.
type CutSpread struct {
	Difference Maybe `json:"difference"`
	// Interval is Newcombe's, at a confidence shared out over all differences of all
	// cuts (Bonferroni, 1936): who looks at many finds something by chance.
	Interval Bounds `json:"interval"`
	// Apart says that it excludes 0.
	Apart bool `json:"apart"`
}

// WeighCuts compares the variants in each cut.
func WeighCuts(cuts []Cut, confidence float64) []CutResult {
	looks := 0
	for _, c := range cuts {
		looks += max(0, len(c.Counts)-1)
	}
	shared := 1 - (1-confidence)/float64(max(1, looks))
	results := []CutResult{}
	for _, c := range cuts {
		r := CutResult{Value: c.Value, Rates: []CutRate{}, Differences: []CutSpread{}}
		for i, count := range c.Counts {
			r.Rates = append(r.Rates, CutRate{count, count.rate(), Wilson(count, confidence)})
			if i == 0 {
				continue
			}
			difference, bounds, _ := Newcombe(count, c.Counts[0], shared)
			r.Differences = append(r.Differences, CutSpread{Maybe(difference), bounds, bounds[0] > 0 || bounds[1] < 0})
		}
		results = append(results, r)
	}
	return results
}
