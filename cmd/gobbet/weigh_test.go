package main

import (
	"encoding/json"
	"errors"
	"math"
	"strings"
	"testing"
)

func TestWeigh(t *testing.T) {
	const test = `{"confidence": 0.95, "control": "A", "variants": [{"name": "A", "share": 1, "visitors": 1688, "conversions": 118, "value_sum": 0, "value_sum_squares": 0}, {"name": "B", "share": 1, "visitors": 1702, "conversions": 146}]}`
	lines, err := runCommand(t, "weigh", test)
	if err != nil {
		t.Fatal(err)
	}
	table, err := runCommand(t, "weigh", "name,share,visitors,conversions\nA,1,1688,118\nB,1,1702,146\n", "--csv")
	if err != nil {
		t.Fatal(err)
	}
	var fromJSON, fromCSV map[string]any
	if err := errors.Join(json.Unmarshal([]byte(lines[0]), &fromJSON), json.Unmarshal([]byte(table[0]), &fromCSV)); err != nil {
		t.Fatal(err)
	}
	if lines[0] != table[0] {
		t.Errorf("as JSON\n%s\nas a table\n%s", lines[0], table[0])
	}
	c := fromJSON["comparisons"].([]any)[0].(map[string]any)
	for key, want := range map[string]float64{
		"difference": 146.0/1702 - 118.0/1688, "lift": 146.0/1702/(118.0/1688) - 1, "z": 1.7247117235859915, "p_value": 0.08457943721232039, "p_adjusted": 0.08457943721232039,
	} {
		if got, _ := c[key].(float64); math.Abs(got-want) > 1e-9 {
			t.Errorf("%s is %v, want %v", key, c[key], want)
		}
	}
	for _, key := range []string{"variants", "split", "verdict", "say"} {
		if fromJSON[key] == nil {
			t.Errorf("no %s in %s", key, lines[0])
		}
	}
	for _, key := range []string{"variant", "against", "difference_interval", "lift_interval", "safe_interval", "safe_p", "chance_better", "expected_loss"} {
		if c[key] == nil {
			t.Errorf("no %s in %v", key, c)
		}
	}
	if value, is := c["value"]; !is || value != nil {
		t.Errorf("nothing was brought, and value is %v", value)
	}
}

func TestWeighSaysWhatIsWrong(t *testing.T) {
	lines, err := runCommand(t, "weigh", `{"variants":[{"name":"A","visitors":10,"conversions":11}]}
{"variants":[{"name":"A","conversions":1}]}
{"variants":[]}
{"variants":[{"name":"A","visitors":"ten","conversions":1}]}
{"variants":[{"name":"A","visitors":10,"conversions":1},{"name":"B","visitors":10,"conversions":1}]}`)
	if !errors.Is(err, errFaults) || len(lines) != 5 {
		t.Fatal(err, lines)
	}
	for i, want := range []string{`"at":"variants[0].conversions"`, `"at":"variants[0].visitors"`, `"at":"variants"`, `"at":"variants[0].visitors"`, `"verdict":"keep_collecting"`} {
		if !strings.Contains(lines[i], want) {
			t.Errorf("%s, want %s", lines[i], want)
		}
	}
	for table, want := range map[string]string{
		"": "is empty", "name,share\nA,1": "has no column visitors", "name,share,visitors,conversions\nA,1,ten,1": "visitors should be a whole number",
		"name,share,visitors,conversions\nA,1,10": "line 2", "name,share,visitors,conversions\n\"A,1,10,1": "line", "name,share,visitors,conversions": `"at":"variants"`,
	} {
		lines, err := runCommand(t, "weigh", table, "--csv")
		if !errors.Is(err, errFaults) || !strings.Contains(lines[0], want) {
			t.Errorf("%q: %v %v, want %s", table, lines, err, want)
		}
	}
}

func TestPlanCommand(t *testing.T) {
	lines, err := runCommand(t, "plan", `{"baseline": 0.07, "lift": 0.2, "confidence": 0.95, "power": 0.8, "comparisons": 1}
{"baseline": 0.07, "lift": 0}`)
	if !errors.Is(err, errFaults) || len(lines) != 2 || !strings.HasPrefix(lines[0], `{"visitors_per_variant":5691,`) || !strings.Contains(lines[1], `"at":"lift"`) {
		t.Error(lines, err)
	}
}
