package reach

// Step is one clause of a rule judged on its own.
type Step struct {
	At      string  `json:"at"`
	Verdict Verdict `json:"verdict" tstype:"Verdict"`
	Actual  any     `json:"actual"`
	Phrase  string  `json:"phrase"`
}
